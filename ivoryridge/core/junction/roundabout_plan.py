"""A roundabout in plan: entry and exit arcs tangent to an arm's edges and to the inscribed circle, and the islands between them.

An edge's arc has its centre at its radius outside the edge and outside the inscribed circle; an island's sides are parallels of both
edges. Derived; docs/formulas.md#roundabouts.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

Floats = NDArray[np.float64]

__all__ = ["Arm", "ArmPlan", "EdgeArc", "Island", "Lane", "arm_plan"]


@dataclass(frozen=True, slots=True)
class Lane:
    """Entry or exit of an arm, m: distance of its edge from the arm's centre line, radius of its arc, and the width between its edge and
    the island beside it."""

    half_width: float
    radius: float
    width: float


@dataclass(frozen=True, slots=True)
class Arm:
    """An arm whose centre line runs through the centre, in ``azimuth`` (rad) towards it."""

    azimuth: float
    entry: Lane
    exit: Lane


@dataclass(frozen=True, slots=True, eq=False)
class EdgeArc:
    """Centre and tangent points (2,) m on the edge and on the inscribed circle, and length, m."""

    centre: Floats
    tangent_edge: Floats
    tangent_circle: Floats
    arc_length: float


@dataclass(frozen=True, slots=True, eq=False)
class Island:
    """Distances along the arm from the roundabout's centre, m: where the sides beside entry and exit cross the arm's centre line and where
    they meet each other (``nose``, and its place (2,)); None where they never do."""

    entry_crosses: float | None
    exit_crosses: float | None
    nose: float | None
    nose_at: Floats | None


@dataclass(frozen=True, slots=True, eq=False)
class ArmPlan:
    """Arcs of entry and exit, None where an edge passes beside the inscribed circle, and the island, None unless both are there."""

    entry: EdgeArc | None
    exit: EdgeArc | None
    island: Island | None


def arm_plan(centre: Any, inscribed_radius: float, arm: Arm, traffic: str) -> ArmPlan:
    """An arm at an inscribed circle of radius m round ``centre`` (E, N); ``traffic`` "right" or "left" is the side driven on."""
    c = np.asarray(centre, float)
    outward = -np.array([np.sin(arm.azimuth), np.cos(arm.azimuth)])
    right = np.array([np.cos(arm.azimuth), -np.sin(arm.azimuth)])  # as one looks towards the circle
    beside = right if traffic == "right" else -right

    def place(along: float, across: float) -> Floats:
        return c + along * outward + across * beside

    def arc(lane: Lane, sign: float) -> EdgeArc | None:
        if inscribed_radius < lane.half_width:
            return None
        far, high = _centre(lane, inscribed_radius), lane.half_width + lane.radius
        share = inscribed_radius / (inscribed_radius + lane.radius)
        turned = float(np.arctan2(far, high))  # from the edge's tangent point to the circle's, seen from the arc's centre
        return EdgeArc(
            place(far, sign * high),
            place(far, sign * lane.half_width),
            place(share * far, sign * share * high),
            lane.radius * turned,
        )

    entry, leaving = arc(arm.entry, 1.0), arc(arm.exit, -1.0)
    if entry is None or leaving is None:
        return ArmPlan(entry, leaving, None)
    nose = _nose(arm, inscribed_radius)
    at = place(nose, _side(arm.entry, inscribed_radius, nose)) if nose is not None else None
    return ArmPlan(entry, leaving, Island(_crosses(arm.entry, inscribed_radius), _crosses(arm.exit, inscribed_radius), nose, at))


def _centre(lane: Lane, inscribed: float) -> float:
    """Distance of an arc's centre from the roundabout's along the arm, m."""
    return float(np.sqrt((inscribed + lane.radius) ** 2 - (lane.half_width + lane.radius) ** 2))


def _side(lane: Lane, inscribed: float, along: float) -> float:
    """How far towards its own edge, m across the arm's centre line, a lane's island side lies at a distance along the arm."""
    short = max(_centre(lane, inscribed) - along, 0.0)
    return lane.half_width + lane.radius - float(np.sqrt(max((lane.radius + lane.width) ** 2 - short**2, 0.0)))


def _crosses(lane: Lane, inscribed: float) -> float | None:
    if lane.width <= lane.half_width:
        return None
    back = (lane.radius + lane.width) ** 2 - (lane.half_width + lane.radius) ** 2
    return _centre(lane, inscribed) - float(np.sqrt(back))


def _nose(arm: Arm, inscribed: float) -> float | None:
    """Both sides' distances from the centre line add to nothing where they meet; the sum only falls with the distance along the arm."""
    lanes = arm.entry, arm.exit
    far = max(_centre(lane, inscribed) for lane in lanes)
    near = max(_centre(lane, inscribed) - lane.radius - lane.width for lane in lanes)

    def apart(along: float) -> float:
        return sum(_side(lane, inscribed, along) for lane in lanes)

    if apart(far) >= 0 or apart(near) < 0:
        return None
    return float(brentq(apart, near, far, xtol=1e-10))
