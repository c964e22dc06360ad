"""Levels that two planar roads demand where one meets the other's edge, and of the returns between them.

Common practice, no source: the main carriageway is a plane; each half of the side road turns along a run-out from the slope of that plane
to its own crossfall. docs/formulas.md#returns.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .return_levels import ReturnLevels, return_levels
from .return_plan import side_road_area

Floats = NDArray[np.float64]

__all__ = ["Corner", "MainPlane", "SideRoad", "corners_at"]


@dataclass(frozen=True, slots=True)
class MainPlane:
    """The main carriageway by its edge: ``origin`` (E, N) m where the side road's centre meets it, level there, azimuth (rad), and its
    slopes (ratios): along it, and square to it towards the side road; ``side`` on which that lies, "left" or "right"."""

    origin: tuple[float, float]
    level: float
    azimuth: float
    side: str
    grade: float
    crossfall: float

    @property
    def along(self) -> Floats:
        return np.array([np.sin(self.azimuth), np.cos(self.azimuth)])

    @property
    def towards(self) -> Floats:
        """(2,) unit, square to the edge towards the side road."""
        turn = 1.0 if self.side == "right" else -1.0
        return turn * np.array([np.cos(self.azimuth), -np.sin(self.azimuth)])

    def slope(self, direction: Floats) -> float:
        """Slope of the plane, a ratio, in a direction (2,), + rises."""
        return float(self.grade * (direction @ self.along) + self.crossfall * (direction @ self.towards))

    def edge(self, at: Any) -> Floats:
        """(n,) levels, m, of the edge at distances from the origin, m, + in the edge's direction."""
        return self.level + self.grade * np.asarray(at, float)


@dataclass(frozen=True, slots=True)
class SideRoad:
    """A straight side road that starts on the main edge. ``angle`` (rad) from the main direction to its own, away from the main road;
    left and right as one looks that way: half-widths and radii of the returns, m, full crossfalls (+ rises outward); ``grade`` of its
    centre (ratios, + rises away); ``run_out``, m from the origin over which its halves turn to those crossfalls."""

    angle: float
    grade: float
    crossfall: dict[str, float]
    half_width: dict[str, float]
    radius: dict[str, float]
    run_out: float

    def half(self, main: MainPlane, name: str, distance: float) -> tuple[float, float]:
        """Slope of a half (ratio, + rises outward) at a distance along the centre, m, and what it changes per metre."""
        start, full = main.slope(self.outward(main, name)), self.crossfall[name]
        if distance >= self.run_out:
            return full, 0.0
        if distance <= 0:
            return start, 0.0
        return start + (full - start) * distance / self.run_out, (full - start) / self.run_out

    def centre(self, main: MainPlane, at: Any) -> Floats:
        """(n,) levels, m, of the centre at distances from the origin, m."""
        return main.level + self.grade * np.asarray(at, float)

    def away(self, main: MainPlane) -> Floats:
        """(2,) unit, along the side road away from the main one."""
        azimuth = main.azimuth + (self.angle if main.side == "right" else -self.angle)
        return np.array([np.sin(azimuth), np.cos(azimuth)])

    def outward(self, main: MainPlane, name: str) -> Floats:
        """(2,) unit, square to the side road, out from its centre on one of its sides."""
        u = self.away(main)
        return np.array([u[1], -u[0]]) * (1.0 if name == "right" else -1.0)


@dataclass(frozen=True, slots=True, eq=False)
class Corner:
    """A return's ends (E, N, level) m on the main edge and on the side road's, the grades of the edges there (ratios, round the return
    from the main road), the length of its arc, m, and its levels; these None at a sharp corner, which has no length."""

    main: Floats
    side: Floats
    grade_main: float
    grade_side: float
    arc_length: float
    levels: ReturnLevels | None


def corners_at(main: MainPlane, road: SideRoad) -> dict[str, Corner]:
    """The returns "left" and "right" of a side road at the plane of a main one, as the levels of both demand them."""
    plan = side_road_area(main.origin, main.azimuth, main.side, road.angle, road.half_width, road.radius)
    origin, u, out = np.asarray(main.origin), road.away(main), {}
    for name in ("left", "right"):
        first, second = plan.main[name], plan.side[name]
        along, distance = float((first - origin) @ main.along), float((second - origin) @ u)
        slope, turning = road.half(main, name, distance)
        z1 = float(main.edge(along))
        z2 = float(road.centre(main, distance)) + road.half_width[name] * slope
        ahead = float(np.sign(road.outward(main, name) @ main.along))  # on which side along the main edge this corner lies
        g1 = -main.grade * ahead
        g2 = road.grade + road.half_width[name] * turning
        length = plan.arc_length[name]
        levels = return_levels(z1, g1, z2, g2, length) if length > 0 else None
        out[name] = Corner(np.append(first, z1), np.append(second, z2), g1, g2, length, levels)
    return out
