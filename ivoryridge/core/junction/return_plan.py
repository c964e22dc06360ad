"""A return in plan: the circle of a radius that is tangent to two edges, and the area of a side road at a straight edge.

The centre lies at the radius from both edges, that is where their parallels cross. Derived; docs/formulas.md#returns.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..geometry.plane import line_circle, polygon_area

Floats = NDArray[np.float64]

__all__ = ["CircleEdge", "LineEdge", "Return", "return_between", "side_road_area"]

_SAME = 1e-12


@dataclass(frozen=True, slots=True)
class LineEdge:
    """An edge along an endless straight through a point (E, N) m in a direction (azimuth, rad)."""

    point: tuple[float, float]
    azimuth: float

    def foot(self, place: Floats) -> Floats:
        """(2,) the place on the edge nearest to another."""
        u = np.array([np.sin(self.azimuth), np.cos(self.azimuth)])
        return np.asarray(self.point) + ((place - np.asarray(self.point)) @ u) * u


@dataclass(frozen=True, slots=True)
class CircleEdge:
    """An edge round a whole circle: centre (E, N) and radius, m; clockwise as seen on the map, or counter-clockwise."""

    centre: tuple[float, float]
    radius: float
    clockwise: bool

    def foot(self, place: Floats) -> Floats:
        """(2,) the place on the edge nearest to another."""
        d = place - np.asarray(self.centre)
        return np.asarray(self.centre) + self.radius * d / np.hypot(*d)


Edge = LineEdge | CircleEdge


@dataclass(frozen=True, slots=True, eq=False)
class Return:
    """A return: centre and tangent points on the first and second edge (2,) m, radius and length of its arc, m."""

    centre: Floats
    first: Floats
    second: Floats
    radius: float
    arc_length: float


def return_between(first: Edge, second: Edge, sides: tuple[str, str], radius: float, near: Any) -> Return | None:
    """The circle of a radius, m, tangent to two edges, its centre on the named sides ("left", "right") of them as one looks along
    each; of several the one nearest to ``near`` (E, N). None where there is none."""
    one, two = (_parallel(e, s, radius) for e, s in zip((first, second), sides, strict=True))
    if one is None or two is None:
        return None
    places = _crossings(one, two)
    if not len(places):
        return None
    centre = places[int(np.argmin(np.hypot(*(places - np.asarray(near, float)).T)))]
    a, b = first.foot(centre), second.foot(centre)
    u, v = (a - centre) / radius, (b - centre) / radius
    turned = float(np.arctan2(abs(u[0] * v[1] - u[1] * v[0]), u @ v))
    return Return(centre, a, b, radius, radius * turned)


def _parallel(edge: Edge, side: str, by: float) -> Edge | None:
    """The line on which centres lie that are ``by`` m to one side of an edge; None inside of a circle that is too small."""
    right = 1.0 if side == "right" else -1.0
    if isinstance(edge, LineEdge):
        away = right * by * np.array([np.cos(edge.azimuth), -np.sin(edge.azimuth)])
        return LineEdge((edge.point[0] + float(away[0]), edge.point[1] + float(away[1])), edge.azimuth)
    inside = (side == "right") == edge.clockwise
    radius = edge.radius - by if inside else edge.radius + by
    return CircleEdge(edge.centre, radius, edge.clockwise) if radius > 0 else None


def _crossings(one: Edge, two: Edge) -> Floats:
    if isinstance(one, LineEdge) and isinstance(two, LineEdge):
        u, v = (np.array([np.sin(e.azimuth), np.cos(e.azimuth)]) for e in (one, two))
        cross = u[0] * v[1] - u[1] * v[0]
        if abs(cross) < _SAME:
            return np.empty((0, 2))
        d = np.subtract(two.point, one.point)
        return np.array([np.asarray(one.point) + ((d[0] * v[1] - d[1] * v[0]) / cross) * u])
    if isinstance(one, LineEdge) and isinstance(two, CircleEdge):
        ahead = np.asarray(one.point) + np.array([np.sin(one.azimuth), np.cos(one.azimuth)])
        return line_circle(two.centre, two.radius, one.point, ahead)
    if isinstance(one, CircleEdge) and isinstance(two, LineEdge):
        return _crossings(two, one)
    assert isinstance(one, CircleEdge) and isinstance(two, CircleEdge)
    d = np.subtract(two.centre, one.centre)
    apart = float(np.hypot(*d))
    if apart < _SAME:
        return np.empty((0, 2))
    along = (one.radius**2 - two.radius**2 + apart**2) / (2 * apart)
    high = one.radius**2 - along**2
    if high < 0:
        return np.empty((0, 2))
    u = d / apart
    foot, across = np.asarray(one.centre) + along * u, np.sqrt(high) * np.array([-u[1], u[0]])
    return np.array([foot - across, foot + across])


@dataclass(frozen=True, slots=True, eq=False)
class SideRoadArea:
    """What a straight side road paves at a straight main edge. Left and right looking along it away from the main road: tangent points
    (2,) m on the main edge and on its own, lengths of the returns' arcs, m; ``cross_line``: m from the origin along its centre to the
    line that closes it; area m2."""

    main: dict[str, Floats]
    side: dict[str, Floats]
    arc_length: dict[str, float]
    cross_line: float
    area: float


def side_road_area(
    origin: Any, azimuth: float, side: str, angle: float, half_width: dict[str, float], radius: dict[str, float]
) -> SideRoadArea:
    """``origin``: where the side road's centre meets the main edge, which runs in ``azimuth`` (rad) through it; ``angle`` (rad) between
    that direction and the side road's away from it; ``half_width`` and ``radius`` of its left and right, m."""
    o = np.asarray(origin, float)
    turn = 1.0 if side == "right" else -1.0
    away = azimuth + turn * angle
    u, w = np.array([np.sin(away), np.cos(away)]), np.array([np.sin(azimuth), np.cos(azimuth)])
    right = np.array([np.cos(away), -np.sin(away)])
    main, own, arcs, corners = {}, {}, {}, 0.0
    for name, sign in (("left", -1.0), ("right", 1.0)):
        edge = o + sign * half_width[name] * right
        corner = _crossings(LineEdge((float(o[0]), float(o[1])), azimuth), LineEdge((float(edge[0]), float(edge[1])), away))[0]
        along = w if (w @ right) * sign > 0 else -w  # of the main edge, away from the side road on this side
        wedge = float(np.arccos(np.clip(along @ u, -1.0, 1.0)))
        r = radius[name]
        tangent = r / np.tan(wedge / 2)
        main[name], own[name] = corner + tangent * along, corner + tangent * u
        arcs[name] = r * (np.pi - wedge)
        corners += r * r * (1.0 / np.tan(wedge / 2) - (np.pi - wedge) / 2)
    far = max(float((own[name] - o) @ u) for name in own)
    foot = {name: o + sign * half_width[name] * right for name, sign in (("left", -1.0), ("right", 1.0))}
    starts = {name: own[name] - float((own[name] - foot[name]) @ u) * u for name in own}
    base = {
        name: _crossings(
            LineEdge((float(o[0]), float(o[1])), azimuth), LineEdge((float(starts[name][0]), float(starts[name][1])), away)
        )[0]
        for name in own
    }
    ring = [base["left"], foot["left"] + far * u, foot["right"] + far * u, base["right"]]
    return SideRoadArea(main, own, arcs, far, abs(polygon_area(ring)) + corners)
