"""Visibility from the side roads of a junction, over the finished ground."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.junction.finished import FinishedGround
from ivoryridge.core.junction.meeting import Arm
from ivoryridge.core.junction.visibility import EYE, OBJECT, Look, Obstacle, look_along
from ivoryridge.core.terrain.recipe import Ground
from ivoryridge.core.terrain.surface import read_surface

from ..inputs.network import Joined, Network
from ..inputs.standards import standard_at_hand, standard_of, zones_of
from ..kept.kinds import kind
from .finished import finished_of
from .line import line
from .patch import arm_places
from .returns import corner_of, meeting_of
from .surface import gathered

Floats = NDArray[np.float64]

__all__ = ["ArmSight", "sight_findings", "sights_of"]

SET_BACK = 4.5  # m from the main road's edge at which a driver waits (from memory)
USUAL_SIGHT = 90.0  # m asked for without a standard that says (from memory)
_EVERY = 5.0  # m between places along the edge that are looked at


@dataclass(frozen=True, slots=True, eq=False)
class ArmSight:
    """From one arm: the eye (E, N, level) m, and to each hand what is seen and the places (k, 2) m along the edge."""

    arm: Arm
    eye: Floats
    left: Look
    right: Look
    left_edge: Floats
    right_edge: Floats


@kind("arm sight", 2)
def _sight(
    finished: FinishedGround, ground: Ground, main: HorizontalAlignment, side: HorizontalAlignment, crossing: float,
    outward: float, offset: tuple[Floats, Floats], needed: float, left_sign: float, arm: Arm,
) -> ArmSight:  # fmt: skip
    """``crossing``: station of the side road where it crosses the main road's edge; ``left_sign``: which way the main road's stations go
    to the driver's left."""
    at = float(project_points(main, side.evaluate(crossing)[0]).station[0])
    eye_at = side.evaluate(crossing + outward * SET_BACK)[0][0]
    eye_level = float(read_surface(finished.surface, eye_at).elevation[0]) + EYE
    if not np.isfinite(eye_level):
        raise InputError("eye-off-ground")
    obstacles = [
        Obstacle((g.layer[1] or "a mapped line").lower(), g.vertices[:, :2], g.height)
        for g in ground.lines
        if g.height > 0 and len(g.vertices) > 1
    ]
    looks, edges = [], []
    for sign in (left_sign, -left_sign):
        distance = np.append(np.arange(_EVERY, needed, _EVERY), needed)
        s = at + sign * distance
        inside = (s >= main.start_station) & (s <= main.end_station)
        s, distance = s[inside], distance[inside]
        place, azimuth, _ = main.evaluate(s)
        u = np.interp(s, *offset)
        places = place + u[:, None] * np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
        level = read_surface(finished.surface, places).elevation
        along = np.column_stack([places, level + OBJECT])
        looks.append(look_along(np.array([*eye_at, eye_level]), along, distance, needed, finished.surface, obstacles))
        edges.append(places)
    return ArmSight(arm, np.array([*eye_at, eye_level]), looks[0], looks[1], edges[0], edges[1])


def sights_of(network: Network, junction: Joined) -> list[ArmSight]:
    """What is seen from each arm that has both corners. Raises why it cannot be told."""
    main, side = junction.main, junction.side
    if main.surface is None:
        raise InputError("corridor-needs", missing="a ground surface")
    meeting = meeting_of(main, side, junction.row.place)
    finished, ground = finished_of(network, main.surface)[0], gathered(main.surface)
    needed = _needed(main, meeting.main)
    out = []
    arms: tuple[Arm, ...] = ("before", "after")
    for arm in arms:
        if (arm, "left") not in junction.returns or (arm, "right") not in junction.returns:
            continue
        places = arm_places(junction, arm)
        found, way = corner_of(junction.returns[arm, "left"])
        row = found.needs["first"].get()
        crossing = float(places.side_at[0] if arm == "after" else places.side_at[-1])
        out.append(
            _sight(
                finished=finished, ground=ground, main=line(main), side=line(side), crossing=crossing,
                outward=1.0 if arm == "after" else -1.0, offset=(row.station, row.offset),
                needed=needed, left_sign=-1.0 if way.main_against else 1.0, arm=arm,
            ).get()
        )  # fmt: skip
    return out


def _needed(main: Any, station: float) -> float:
    if main.existing or not standard_at_hand(main):
        return USUAL_SIGHT
    zones = zones_of(main)
    speed = zones.speeds[int(np.searchsorted(zones.stations[1:], station, side="right"))]
    row = standard_of(main).at(speed)
    return float(row.get("sight", USUAL_SIGHT))


def sight_findings(junction: Joined, sight: ArmSight) -> list[Finding]:
    """To which hand less is seen than is asked for, by what, and by how much."""
    out = []
    for hand, look in (("left", sight.left), ("right", sight.right)):
        if not look.enough:
            told = {
                "side": junction.side.name, "hand": hand, "seen": look.seen, "needed": look.needed, "by": look.by, "amount": look.amount,
            }  # fmt: skip
            out.append(Finding("doubt", "junction-sight", told, place=look.place))
    return out
