"""Horizontal alignment: from points of intersection to elements, and back from stations to places."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import InputError
from ..geometry.plane import azimuth_between, wrap_angle
from ..tolerances import COINCIDENT, FITS, FLAT_CURVATURE, SAME_STATION, SHORTEST_TRANSITION
from ..wording import quantity
from .element import element_kind, spiral_shift, travel
from .places import feet_within, stand_all

Floats = NDArray[np.float64]

__all__ = [
    "PI",
    "HorizontalAlignment",
    "Projection",
    "alignment_from_pis",
    "arc_between_spirals",
    "curve_tangents",
    "deflection_at",
    "grid_from_station_offset",
    "project_points",
    "tangent_points",
]

LONGEST = 1e6  # m; no road is longer, and every sampling of a line is bounded by it


@dataclass(frozen=True, slots=True)
class PI:
    """Point of intersection of two tangents: place (m), radius (m, 0 = angle point), transition lengths (m)."""

    easting: float
    northing: float
    radius: float = 0.0
    spiral_in: float = 0.0
    spiral_out: float = 0.0


@dataclass(frozen=True, slots=True, weakref_slot=True, eq=False)
class HorizontalAlignment:
    """A line in plan as arrays over its elements, in order.

    start : (m, 2) float, m        easting, northing where each element starts
    azimuth : (m,) float, rad      clockwise from north, at its start
    length : (m,) float, m         > 0
    k0, k1 : (m,) float, 1/m       curvature at start and end, + right
    pi_of : (m,) int               the PI an element belongs to; -1 for straights
    start_station : float, m
    """

    start: Floats
    azimuth: Floats
    length: Floats
    k0: Floats
    k1: Floats
    pi_of: NDArray[np.int64]
    start_station: float = 0.0

    def __post_init__(self) -> None:
        frozen_fields(self, ("start", "azimuth", "length", "k0", "k1"))
        frozen_fields(self, ("pi_of",), np.int64)

    @property
    def stations(self) -> Floats:
        """(m + 1,) stations of the element ends, m."""
        return self.start_station + np.concatenate([[0.0], np.cumsum(self.length)])

    @property
    def end_station(self) -> float:
        return float(self.stations[-1])  # summed as the stations are, so that both are one number

    def kind(self, i: int) -> Literal["Line", "Curve", "Spiral"]:
        return element_kind(self.k0[i], self.k1[i])

    def evaluate(self, station: Any) -> tuple[Floats, Floats, Floats]:
        """Place (n, 2), azimuth (n,) in rad and curvature (n,) in 1/m at stations (n,).

        Stations before the start or after the end lie on the prolonged end elements' tangents.
        """
        s = np.atleast_1d(np.asarray(station, float))
        ends = self.stations
        inside = np.clip(s, ends[0], ends[-1])
        found = stand_all(ends, self.start, self.azimuth, self.length, self.k0, self.k1, inside)
        place, azimuth = found[:, :2], found[:, 2] % (2 * np.pi)
        beyond = s - inside
        if not beyond.any():
            return place, azimuth, found[:, 3]
        place = place + beyond[:, None] * np.stack([np.sin(azimuth), np.cos(azimuth)], axis=-1)
        return place, azimuth, np.where(beyond == 0, found[:, 3], 0.0)

    def key_stations(self) -> Floats:
        """Stations of tangent points, start and end, m."""
        starts = [a for a, _ in self.whole_elements()]
        return self.stations[[*starts, len(self.length)]]

    def whole_elements(self) -> list[tuple[int, int]]:
        """First and last index of every straight, arc and transition; a transition's parallel stands as several pieces."""
        spiral = np.abs(self.k1 - self.k0) > FLAT_CURVATURE
        same = spiral[1:] & spiral[:-1] & (self.pi_of[1:] == self.pi_of[:-1]) & (np.abs(self.k1[:-1] - self.k0[1:]) < 1e-6)
        starts = np.flatnonzero(np.concatenate([[True], ~same]))
        return list(zip(starts.tolist(), [*(starts[1:] - 1).tolist(), len(self.length) - 1], strict=True))


@dataclass(frozen=True, slots=True)
class _Curve:
    """The curve at one PI: tangent lengths (m), transition lengths (m), arc length (m), turn (+1 right, -1 left)."""

    t_in: float
    t_out: float
    spiral_in: float
    spiral_out: float
    arc: float
    radius: float
    turn: float


def _curve_at(pi: PI, deflection: float, number: int) -> _Curve:
    for what, value in (
        ("The radius", pi.radius),
        ("The entry transition", pi.spiral_in),
        ("The exit transition", pi.spiral_out),
    ):
        if value < 0:
            raise InputError("negative-value", what=what, where_=f"PI {number}", value=value, where={"pi": number - 1})
    angle = abs(deflection)
    turn = 1.0 if deflection >= 0 else -1.0
    lengths = (v if v > SHORTEST_TRANSITION else 0.0 for v in (pi.radius, pi.spiral_in, pi.spiral_out))
    pi = PI(pi.easting, pi.northing, *lengths)
    if pi.radius == 0:
        if pi.spiral_in or pi.spiral_out:
            raise InputError("spiral-without-radius", pi=number, where={"pi": number - 1})
        return _Curve(0, 0, 0, 0, 0, 0, turn)
    if angle < 1e-9:  # rad; the PI lies on the straight between its neighbours: no curve
        return _Curve(0, 0, 0, 0, 0, 0, turn)
    if np.pi - angle < 1e-4:  # rad; tangent lengths grow beyond any road
        raise InputError("turns-back", pi=number, deflection=np.degrees(angle), where={"pi": number - 1})
    p1, k1, a1 = spiral_shift(pi.radius, pi.spiral_in)
    p2, k2, a2 = spiral_shift(pi.radius, pi.spiral_out)
    arc = arc_between_spirals(pi.radius, pi.spiral_in, pi.spiral_out, angle)
    if arc < -1e-12 * pi.radius:
        raise InputError(
            "spiral-too-long", pi=number, turned=np.degrees(a1 + a2), deflection=np.degrees(angle),
            limit=2 * pi.radius * angle, where={"pi": number - 1},
        )  # fmt: skip
    r = pi.radius
    t_in = (r + p2) / np.sin(angle) - (r + p1) / np.tan(angle) + k1
    t_out = (r + p1) / np.sin(angle) - (r + p2) / np.tan(angle) + k2
    return _Curve(t_in, t_out, pi.spiral_in, pi.spiral_out, max(arc, 0.0), r, turn)


def arc_between_spirals(radius: float, spiral_in: float, spiral_out: float, deflection: float) -> float:
    """Length (m) of the arc that two transitions leave of a deflection (rad, > 0); negative when they turn more.

    Lc = R (D - a1 - a2), a = L / (2 R). Source: docs/formulas.md#pi-method.
    """
    return radius * deflection - 0.5 * (spiral_in + spiral_out)


def deflection_at(pis: Sequence[PI], i: int) -> float:
    """Turn of the line at an inner PI, rad, + right."""
    a, b, c = ([p.easting, p.northing] for p in (pis[i - 1], pis[i], pis[i + 1]))
    return float(wrap_angle(azimuth_between(b, c) - azimuth_between(a, b)))


def curve_tangents(pi: PI, deflection: float, number: int = 1) -> tuple[float, float]:
    """Tangent lengths (m) of a PI's curve, transitions included, before and after it. Raises as ``alignment_from_pis`` does."""
    curve = _curve_at(pi, deflection, number)
    return curve.t_in, curve.t_out


def tangent_points(line: HorizontalAlignment, pi: int) -> dict[str, float]:
    """Stations of TS, SC, CS and ST of a PI's curve (m); without transitions TS = SC and CS = ST. Empty if none."""
    own = np.flatnonzero(line.pi_of == pi)
    if not len(own):
        return {}
    ends = line.stations
    first, last = float(ends[own[0]]), float(ends[own[-1] + 1])
    arcs = [int(i) for i in own if line.kind(int(i)) != "Spiral"]
    begin = float(ends[arcs[0]]) if arcs else float(ends[own[len(own) // 2]]) if len(own) > 1 else last
    finish = float(ends[arcs[-1] + 1]) if arcs else begin if len(own) > 1 else last
    return {"TS": first, "SC": begin, "CS": finish, "ST": last}


def alignment_from_pis(pis: list[PI] | tuple[PI, ...], start_station: float = 0.0) -> HorizontalAlignment:
    """Straights, arcs and clothoids from a row of PIs.

    Unequal transitions by T1 = (R + p2) / sin D - (R + p1) / tan D + k1 (Hickerson; Meyer & Gibson, Route
    Surveying and Design; from memory, derived in docs/formulas.md#pi-method).

    Raises
    ------
    InputError    fewer than 2 PIs, equal neighbours, a transition longer than its deflection allows, or curves
                  that overlap on a tangent: ``where["pi"]`` is the index of the PI, the sentence has the amount
    """
    if len(pis) < 2:
        raise InputError("too-few-pis", count=len(pis))
    xy = np.array([[p.easting, p.northing] for p in pis], float)
    if not np.isfinite(xy).all():
        bad = int(np.flatnonzero(~np.isfinite(xy).all(axis=1))[0])
        raise InputError("not-a-number", what="The place", where_=f"PI {bad + 1}", example="412 150.000", where={"pi": bad})
    legs = np.hypot(*np.diff(xy, axis=0).T)
    for i, leg in enumerate(legs):
        if leg < COINCIDENT:
            raise InputError("pis-coincide", first=i + 1, second=i + 2, distance=leg, where={"pi": i + 1})
    azimuths = np.asarray(azimuth_between(xy[:-1], xy[1:]))
    deflections = wrap_angle(np.diff(azimuths))
    none = _Curve(0, 0, 0, 0, 0, 0, 1)
    curves = [none] + [_curve_at(pis[i + 1], float(d), i + 2) for i, d in enumerate(deflections)] + [none]

    rows: list[tuple[float, float, float, float, int]] = []  # azimuth change is implied; length, k0, k1, pi
    for i, leg in enumerate(legs):
        a, b = curves[i], curves[i + 1]
        straight = leg - a.t_out - b.t_in
        if straight < -FITS:
            _raise_overlap(pis, curves, i, float(leg))
        if straight > COINCIDENT:
            rows.append((straight, 0.0, 0.0, 0.0, -1))
        k = b.turn / b.radius if b.radius else 0.0
        if b.spiral_in > 0:
            rows.append((b.spiral_in, 0.0, k, 0.0, i + 1))
        if b.arc > COINCIDENT:
            rows.append((b.arc, k, k, 0.0, i + 1))
        if b.spiral_out > 0:
            rows.append((b.spiral_out, k, 0.0, 0.0, i + 1))
        if not b.radius and i + 1 < len(legs):
            rows.append((0.0, 0.0, 0.0, float(deflections[i]), i + 1))  # angle point: turn on the spot
    return _chain(xy[0], float(azimuths[0]), rows, start_station)


def _raise_overlap(pis: Any, curves: list[_Curve], i: int, leg: float) -> None:
    a, b = curves[i], curves[i + 1]
    needed = a.t_out + b.t_in
    worse = i + 1 if b.t_in >= a.t_out else i
    other = needed - (b.t_in if worse == i + 1 else a.t_out)
    c = curves[worse]
    room = leg - other
    own = c.t_in if worse == i + 1 else c.t_out
    fixed = 0.5 * (c.spiral_in if worse == i + 1 else c.spiral_out)  # k of a clothoid is about half its length
    if room > fixed and own > fixed:
        limit = np.floor(c.radius * (room - fixed) / (own - fixed))
        advice = f"Use a radius below {quantity(limit, 'm', 0)} at PI {worse + 1}, or shorter transitions."
    else:
        advice = "Use smaller radii, or move the PIs apart."
    raise InputError(
        "tangents-overlap", first=i + 1, second=i + 2, overlap=needed - leg, needed=needed, there=leg, advice=advice,
        where={"pi": worse},
    )  # fmt: skip


def _chain(
    origin: Floats, azimuth: float, rows: list[tuple[float, float, float, float, int]], start_station: float
) -> HorizontalAlignment:
    """Lay elements (length, k0, k1, turn on the spot, PI) end to end."""
    start, heads, kept = [], [], []
    place = np.array(origin, float)
    for length, k0, k1, turn, pi in rows:
        if turn:
            azimuth += turn
            continue
        if length == 0:
            continue
        start.append(place.copy())
        heads.append(azimuth % (2 * np.pi))
        kept.append((length, k0, k1, pi))
        ahead, right, turned = (float(v[0]) for v in travel([length], length, k0, k1))
        sin, cos = np.sin(azimuth), np.cos(azimuth)
        place = place + np.array([ahead * sin + right * cos, ahead * cos - right * sin])
        azimuth += turned
    lengths, k0s, k1s, pi_of = zip(*kept, strict=True)
    if sum(lengths) > LONGEST:
        raise InputError("line-too-long", length=sum(lengths) / 1000, limit=LONGEST / 1000)
    return HorizontalAlignment(
        start=np.array(start), azimuth=np.array(heads), length=np.array(lengths), k0=np.array(k0s),
        k1=np.array(k1s), pi_of=np.array(pi_of), start_station=start_station,
    )  # fmt: skip


@dataclass(frozen=True, slots=True, eq=False)
class Projection:
    """Points set off from a line: station (n,) m, offset (n,) m (+ right), beyond (n,) bool past an end."""

    station: Floats
    offset: Floats
    beyond: NDArray[np.bool_]


def project_points(alignment: HorizontalAlignment, points: Any) -> Projection:
    """Nearest station and signed offset of points (n, 2).

    The nearest of all feet is taken. A point before the start or past the end is set off from the prolonged end
    tangent and flagged ``beyond``. Newton's method from the nearest of a row of sample points at most 5 m and
    about 2 degrees apart; the residual along the line is below 1e-9 m for points nearer than the curve's centre.
    """
    p = np.atleast_2d(np.asarray(points, float))[:, :2]
    samples, near, tree = _samples_of(alignment)
    ends = alignment.stations
    first, last = ends[0], ends[-1]
    beside = np.ascontiguousarray(p - near)  # places from near by round less
    s, along, right = feet_within(
        ends, alignment.start - near, alignment.azimuth, alignment.length, alignment.k0, alignment.k1, beside,
        samples[tree.query(beside)[1]],
    )  # fmt: skip
    before, after = (s <= first + COINCIDENT) & (along < -COINCIDENT), (s >= last - COINCIDENT) & (along > COINCIDENT)
    beyond = before | after
    corner = ~beyond & (np.abs(along) > SAME_STATION)  # foot at an angle point: true distance, side kept
    offset = np.where(corner, np.copysign(np.hypot(along, right), right), right)
    return Projection(np.where(beyond, s + along, s), offset, beyond)


_samples: WeakKeyDictionary[HorizontalAlignment, tuple[Floats, Floats, Any]] = WeakKeyDictionary()


def _samples_of(alignment: HorizontalAlignment) -> tuple[Floats, Floats, Any]:
    """Stations along a line, the first place, and a tree of their places set off from it; found once a line, since in a drag many ask."""
    from scipy.spatial import cKDTree

    found = _samples.get(alignment)
    if found is None:
        at = sample_stations(alignment, 5.0)
        places = alignment.evaluate(at)[0]
        found = _samples[alignment] = at, places[0].copy(), cKDTree(places - places[0])
    return found


def sample_stations(alignment: HorizontalAlignment, step: float, angle: float = 0.035) -> Floats:
    """Stations (k,) along a line, at most ``step`` m and ``angle`` rad of turning apart, with all element ends."""
    out = [np.array([alignment.start_station])]
    ends = alignment.stations
    for i, length in enumerate(alignment.length):
        turned = max(abs(alignment.k0[i]), abs(alignment.k1[i])) * length  # where it bends most
        n = max(int(np.ceil(length / step)), int(np.ceil(turned / angle)), 1)
        out.append(np.linspace(ends[i], ends[i + 1], n + 1)[1:])
    return np.concatenate(out)


def grid_from_station_offset(alignment: HorizontalAlignment, station: Any, offset: Any) -> tuple[Floats, Floats]:
    """Easting, northing (n, 2) and azimuth (n,) rad of places set off ``offset`` m (+ right) at stations."""
    place, azimuth, _ = alignment.evaluate(station)
    offset = np.broadcast_to(np.asarray(offset, float), azimuth.shape)
    return place + offset[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1), azimuth
