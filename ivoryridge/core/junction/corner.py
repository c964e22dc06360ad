"""The return of a corner: from the edge of one arm round to the edge of another, tangent to both, whatever these are.

A return is one radius, a straight taper and a radius, three centres, or none: both edges go on to where they cross. The centre of an arc
that touches an edge lies at its radius from it, so it is where two parallels cross: looked for over pairs of their pieces, then by
Newton's method on the two stations. docs/formulas.md#returns.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.optimize import brentq

from ..alignment.course import line_from_elements, line_through
from ..alignment.horizontal import HorizontalAlignment
from ..errors import InputError
from .edge import ArmEdge

Floats = NDArray[np.float64]
Form = Literal["radius", "taper", "three centres", "none"]

__all__ = ["CornerReturn", "CornerShape", "edges_cross", "return_at_corner"]

_EXACT = 1e-10  # m that a centre may differ as seen from both edges
_LEAST_RADIUS = 0.5  # m; no smaller one is offered where one does not fit
STUB = 1.0  # m of either edge that a corner without a return runs along
_SHORTEST = 1e-3  # m; a run between two tangent points that is shorter is none


@dataclass(frozen=True, slots=True)
class CornerShape:
    """What is asked of a return.

    radius : m                         of its arc, of the middle one with three centres
    taper, taper_length : 1 in n, m    a straight run leaves the first edge at that rate, over a length along the edge
    outer_radius, shift : m            with three centres: of the first and last arc; how far the middle one stands off the edges
    """

    form: Form = "radius"
    radius: float = 10.0
    taper: float = 10.0
    taper_length: float = 20.0
    outer_radius: float = 30.0
    shift: float = 1.0


@dataclass(frozen=True, slots=True, eq=False)
class CornerReturn:
    """A return as a line from the first edge to the second, the stations of its tangent points on their roads, m, and centres (n, 2);
    ``crossing``: of a corner without a return, the first road's station where both edges cross."""

    line: HorizontalAlignment
    first: float
    second: float
    centres: Floats
    crossing: float | None = None

    @property
    def leaves(self) -> float:
        """Station on the first road where the return parts from its edge, m."""
        return self.first if self.crossing is None else self.crossing


@dataclass(frozen=True, slots=True)
class _Start:
    """A way along which an arc may begin: place and direction at stations of an edge, after a taper if there is one."""

    edge: ArmEdge
    turn: float
    taper: float = 0.0
    length: float = 0.0

    def at(self, station: Floats) -> tuple[Floats, Floats]:
        place, along = self.edge.at(station)
        if not self.length:
            return place, along
        angle = np.arctan(1 / self.taper) * self.turn
        away = _turned(along, angle)
        return place + self.length * np.hypot(1, 1 / self.taper) * away, away

    def centres(self, station: Floats, radius: float) -> Floats:
        place, along = self.at(station)
        return place + self.turn * radius * np.column_stack([along[:, 1], -along[:, 0]])


def _turned(d: Floats, angle: float) -> Floats:
    """Directions (n, 2) turned clockwise by an angle, rad."""
    c, s = np.cos(angle), np.sin(angle)
    return np.column_stack([c * d[:, 0] + s * d[:, 1], c * d[:, 1] - s * d[:, 0]])


def edges_cross(first: ArmEdge, second: ArmEdge, near: tuple[float, float], reach: float) -> tuple[float, float] | None:
    """Stations where two edges cross, of several crossings the one nearest to two stations; None where they do not within ``reach`` m."""
    found = _crossings(_Start(first, 1.0), _Start(second, 1.0), 0.0, near, reach)
    return min(found, key=lambda s: abs(s[0] - near[0]) + abs(s[1] - near[1])) if found else None


def return_at_corner(
    first: ArmEdge, second: ArmEdge, turn: int, shape: CornerShape, near: tuple[float, float], *, corner: str = ""
) -> CornerReturn:
    """The return from one edge to another, which are gone along as it goes.

    turn : +1 where it turns right, -1 left
    near : stations of the two edges, m, where they cross or would

    Raises
    ------
    InputError    it does not fit: the greatest radius that does is told; or there is none
    """
    found = _fitting(first, second, turn, shape, near)
    if found is not None:
        return found
    fits = _greatest_fit(first, second, turn, shape, near) if shape.form != "none" else None
    if fits is None:
        raise InputError("return-none", corner=corner, where={"corner": corner})
    raise InputError(
        "return-too-large", corner=corner, radius=shape.radius, fits=fits, over=shape.radius - fits, where={"corner": corner}
    )


def _greatest_fit(first: ArmEdge, second: ArmEdge, turn: int, shape: CornerShape, near: tuple[float, float]) -> float | None:
    """The greatest radius below the wanted one that fits, m, to a centimetre below."""

    def fits(radius: float) -> bool:
        return _fitting(first, second, turn, _with_radius(shape, radius), near) is not None

    tried = shape.radius * 0.8 ** np.arange(1, 24)
    low = next((float(r) for r in tried if r >= _LEAST_RADIUS and fits(float(r))), None)
    if low is None:
        return None
    high = low / 0.8
    while high - low > 0.01:
        middle = 0.5 * (low + high)
        low, high = (middle, high) if fits(middle) else (low, middle)
    return float(np.floor(low * 100) / 100) if fits(float(np.floor(low * 100) / 100)) else low


def _with_radius(shape: CornerShape, radius: float) -> CornerShape:
    share = radius / shape.radius
    return CornerShape(
        shape.form, radius, shape.taper, shape.taper_length * share, shape.outer_radius * share, shape.shift * share
    )


def _fitting(first: ArmEdge, second: ArmEdge, turn: int, shape: CornerShape, near: tuple[float, float]) -> CornerReturn | None:
    """The return nearest to the corner, or none whose tangent points lie on both edges."""
    if shape.form == "none":
        return _kinked(first, second, turn, near)
    if shape.form == "three centres":
        return _three_centred(first, second, turn, shape, near)
    tapered = shape.form == "taper"
    start = _Start(first, float(turn), shape.taper, shape.taper_length) if tapered else _Start(first, float(turn))
    end = _Start(second, float(turn))
    reach = 6 * shape.radius + 2 * (shape.taper_length if tapered else 0.0) + 40.0
    out: list[tuple[float, CornerReturn]] = []
    for s1, s2 in _crossings(start, end, shape.radius, near, reach):
        rows: list[list[float]] = []
        (p,), (d,) = start.at(np.array([s1]))
        if tapered:
            (q,), _ = first.at(s1)
            rows.append([*q, _azimuth(d), float(np.hypot(*(p - q))), 0.0, 0.0])
        (e,), (f,) = end.at(np.array([s2]))
        arc = _arc(p, d, f, turn, shape.radius)
        if arc is None or not (_onward(first, s1, near[0], -1) and _onward(second, s2, near[1], 1)):
            continue
        centre = p + turn * shape.radius * np.array([d[1], -d[0]])
        away = float(np.hypot(*(e - first.at(near[0])[0][0])))
        out.append((away, CornerReturn(line_from_elements([*rows, arc]), s1, s2, centre[None, :])))
    return min(out, key=lambda x: x[0])[1] if out else None


def _kinked(first: ArmEdge, second: ArmEdge, turn: int, near: tuple[float, float]) -> CornerReturn | None:
    """Along the first edge to where both cross, and on along the second."""
    crossing = edges_cross(first, second, near, 40.0)
    if crossing is None:
        return None
    ends = [
        s + way * (-1 if e.against else 1) * STUB / e.pace(s)
        for e, s, way in zip((first, second), crossing, (-1, 1), strict=True)
    ]
    if not (first.within(ends[0]) and second.within(ends[1])):
        return None
    (before,), (tip,), (behind,) = first.at(ends[0])[0], first.at(crossing[0])[0], second.at(ends[1])[0]
    one, two = tip - before, behind - tip
    if turn * (one[1] * two[0] - one[0] * two[1]) <= 0:
        return None
    return CornerReturn(line_through([before, tip, behind]), float(ends[0]), float(ends[1]), tip[None, :], float(crossing[0]))


def _onward(edge: ArmEdge, station: float, corner: float, way: int) -> bool:
    """Whether a tangent point lies before the corner (way -1) or behind it (1), as the edge is gone along."""
    return (station - corner) * (-1 if edge.against else 1) * way > -1e-6


def _azimuth(direction: Floats) -> float:
    return float(np.arctan2(direction[0], direction[1]) % (2 * np.pi))


def _arc(start: Floats, along: Floats, leaving: Floats, turn: int, radius: float) -> list[float] | None:
    """A row of an arc from a place and direction to another direction, None where it would go round more than half a circle."""
    turned = turn * (_azimuth(leaving) - _azimuth(along)) % (2 * np.pi)
    if not _SHORTEST / radius < turned < np.pi:
        return None
    return [float(start[0]), float(start[1]), _azimuth(along), radius * turned, turn / radius, turn / radius]


def _three_centred(
    first: ArmEdge, second: ArmEdge, turn: int, shape: CornerShape, near: tuple[float, float]
) -> CornerReturn | None:
    """R1, R2, R1: the middle arc's centre stands at R2 + shift from both edges; an outer arc touches its edge and goes
    over into the middle one, so that their centres are R1 - R2 apart."""
    r1, r2 = shape.outer_radius, shape.radius
    starts = _Start(first, float(turn)), _Start(second, float(turn))
    for a, b in sorted(
        _crossings(*starts, r2 + shape.shift, near, 6 * r1 + 40.0), key=lambda s: abs(s[0] - near[0]) + abs(s[1] - near[1])
    ):
        (c,) = starts[0].centres(np.array([a]), r2 + shape.shift)
        tangents = []
        for start, foot, way in ((starts[0], a, -1.0), (starts[1], b, 1.0)):
            back = way * (-1.0 if start.edge.against else 1.0)
            tangents.append(_outer_tangent(start, foot, back, c, r1, r1 - r2))
        if tangents[0] is None or tangents[1] is None:
            continue
        s1, s2 = float(tangents[0]), float(tangents[1])
        if not (_onward(first, s1, near[0], -1) and _onward(second, s2, near[1], 1)):
            continue
        (p,), (d,) = starts[0].at(np.array([s1]))
        _, (f,) = starts[1].at(np.array([s2]))
        o1, o3 = starts[0].centres(np.array([s1]), r1)[0], starts[1].centres(np.array([s2]), r1)[0]
        radial = (c - o1) / np.hypot(*(c - o1)), (c - o3) / np.hypot(*(c - o3))
        ways = [turn * np.array([v[1], -v[0]]) for v in radial]  # directions where the arcs meet: square to the centres' line
        one = _arc(p, d, ways[0], turn, r1)
        q = c + r2 * radial[0]
        two = _arc(q, ways[0], ways[1], turn, r2)
        three = _arc(c + r2 * radial[1], ways[1], f, turn, r1)
        if one and two and three:
            return CornerReturn(line_from_elements([one, two, three]), s1, s2, np.array([o1, c, o3]))
    return None


def _outer_tangent(start: _Start, foot: float, way: float, centre: Floats, radius: float, apart: float) -> float | None:
    """Station, going from a foot one way, where an arc that touches the edge has its centre ``apart`` m from another."""

    def miss(s: float) -> float:
        return float(np.hypot(*(start.centres(np.array([s]), radius)[0] - centre))) - apart

    end = foot + way * 3 * radius
    end = min(max(end, start.edge.first), start.edge.last)
    places = np.linspace(foot, end, 60)
    far = np.hypot(*(start.centres(places, radius) - centre).T) - apart
    i = np.flatnonzero((far[:-1] < 0) & (far[1:] >= 0))
    return float(brentq(miss, places[i[0]], places[i[0] + 1], xtol=1e-12)) if len(i) else None


# --- where two parallels cross --------------------------------------------------------------------------------
def _crossings(one: _Start, two: _Start, radius: float, near: tuple[float, float], reach: float) -> list[tuple[float, float]]:
    """All pairs of stations at which centres ``radius`` m from both ways are one place."""
    step = max(min(1.0, radius / 8), 0.25)
    a, b = (w.edge.steps(s, reach, step) for w, s in ((one, near[0]), (two, near[1])))
    if len(a) < 2 or len(b) < 2:
        return []
    p, q = one.centres(a, radius), two.centres(b, radius)
    out: list[tuple[float, float]] = []
    pieces, shares = _crossing_pieces(p, q)
    for (i, j), (t, u) in zip(pieces.tolist(), shares.tolist(), strict=True):
        start = a[i] + t * (a[i + 1] - a[i]), b[j] + u * (b[j + 1] - b[j])
        exact = _refined(one, two, radius, start)
        if exact is None or not (one.edge.within(exact[0]) and two.edge.within(exact[1])):
            continue
        if all(abs(exact[0] - x[0]) + abs(exact[1] - x[1]) > 1e-6 for x in out):
            out.append(exact)
    return out


_SLACK = 0.02  # of a piece beyond its ends, so that a crossing at one is not missed
_ROW = 16  # pieces that are passed over at once where they lie elsewhere


@njit(cache=True)
def _box(p, i, end):
    """Lowest and highest of pieces i to end of a polyline (n, 2), with their slack."""
    low0 = low1 = np.inf
    high0 = high1 = -np.inf
    for k in range(i, end):
        room0 = _SLACK * abs(p[k + 1, 0] - p[k, 0]) + 1e-9
        room1 = _SLACK * abs(p[k + 1, 1] - p[k, 1]) + 1e-9
        low0, high0 = min(low0, min(p[k, 0], p[k + 1, 0]) - room0), max(high0, max(p[k, 0], p[k + 1, 0]) + room0)
        low1, high1 = min(low1, min(p[k, 1], p[k + 1, 1]) - room1), max(high1, max(p[k, 1], p[k + 1, 1]) + room1)
    return low0, low1, high0, high1


@njit(cache=True)
def _crossing_pieces(p, q):
    """Pairs of pieces of two polylines (n, 2) and (m, 2) that cross, with the shares of each where they do; a hair more."""
    n, m = len(p) - 1, len(q) - 1
    rows = (m + _ROW - 1) // _ROW
    boxes = np.empty((rows, 4))
    for r in range(rows):
        boxes[r] = _box(q, r * _ROW, min((r + 1) * _ROW, m))
    pairs, shares = np.empty((64, 2), np.int64), np.empty((64, 2))
    count = 0
    for i in range(n):
        low0, low1, high0, high1 = _box(p, i, i + 1)
        d0, d1 = p[i + 1, 0] - p[i, 0], p[i + 1, 1] - p[i, 1]
        for r in range(rows):
            if boxes[r, 0] > high0 or boxes[r, 2] < low0 or boxes[r, 1] > high1 or boxes[r, 3] < low1:
                continue
            for j in range(r * _ROW, min((r + 1) * _ROW, m)):
                e0, e1 = q[j + 1, 0] - q[j, 0], q[j + 1, 1] - q[j, 1]
                cross = d0 * e1 - d1 * e0
                if cross == 0.0:
                    continue
                w0, w1 = q[j, 0] - p[i, 0], q[j, 1] - p[i, 1]
                t, u = (w0 * e1 - w1 * e0) / cross, (w0 * d1 - w1 * d0) / cross
                if t >= -_SLACK and t <= 1 + _SLACK and u >= -_SLACK and u <= 1 + _SLACK:
                    if count == len(pairs):
                        pairs, shares = np.concatenate((pairs, pairs)), np.concatenate((shares, shares))
                    pairs[count, 0], pairs[count, 1] = i, j
                    shares[count, 0], shares[count, 1] = t, u
                    count += 1
    return pairs[:count], shares[:count]


def _refined(one: _Start, two: _Start, radius: float, start: tuple[float, float]) -> tuple[float, float] | None:
    """Newton's method on two stations; None where it does not come to a place, as at a kink of an edge."""
    s, h = np.array(start), 1e-4
    beside = np.array([0.0, h, -h])
    for _ in range(40):
        a, b = one.centres(s[0] + beside, radius), two.centres(s[1] + beside, radius)
        miss = a[0] - b[0]
        if np.hypot(*miss) < _EXACT:
            return float(s[0]), float(s[1])
        slope = np.column_stack([(a[1] - a[2]) / (2 * h), -(b[1] - b[2]) / (2 * h)])
        if abs(np.linalg.det(slope)) < 1e-12:
            return None
        move = np.linalg.solve(slope, miss)
        s = s - move * min(1.0, 2.0 / max(float(np.abs(move).max()), 1e-12))
    a, b = one.centres(s[:1], radius), two.centres(s[1:], radius)
    return (float(s[0]), float(s[1])) if np.hypot(*(a[0] - b[0])) < 1e-7 else None
