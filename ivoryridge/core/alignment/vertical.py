"""Vertical alignment: PVIs, parabolas and circular curves, levels and grades over stations."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import InputError
from ..tolerances import COINCIDENT, FITS, SAME_STATION

Floats = NDArray[np.float64]

__all__ = ["PVI", "VerticalAlignment", "circle_differs", "curve_limits", "length_through_point", "profile_from_pvis"]

_CIRCLE_STEP = 0.05  # m: a piece of an arc is the root of radius times this long; a parabola follows it to 1e-6 m


@dataclass(frozen=True, slots=True)
class PVI:
    """Point of vertical intersection: station, elevation (m) and lengths (m) of the two curve halves.

    A symmetric parabola has ``half_in == half_out``; unequal halves make two parabolas with one common tangent.
    A ``circular`` curve is an arc of a circle as long in plan as both halves together; its tangents are equally long on the slope,
    so where it begins and ends follows from the grades (see ``curve_limits``).
    """

    station: float
    elevation: float
    half_in: float = 0.0
    half_out: float = 0.0
    circular: bool = False

    @classmethod
    def symmetric(cls, station: float, elevation: float, length: float = 0.0) -> PVI:
        return cls(station, elevation, length / 2, length / 2)

    @classmethod
    def circle(cls, station: float, elevation: float, length: float, slope_in: float, slope_out: float) -> PVI:
        """A circular curve of a length in plan (m) between two slopes (rad)."""
        whole = np.cos(slope_in) + np.cos(slope_out)
        return cls(station, elevation, length * float(np.cos(slope_in) / whole), length * float(np.cos(slope_out) / whole), True)


@dataclass(frozen=True, slots=True, eq=False)
class VerticalAlignment:
    """Levels over stations as pieces z = z0 + g0 x + rate x^2 / 2, x from the piece's start, or arcs of circles.

    station : (m + 1,) float, m    piece ends, increasing
    z0 : (m,) float, m             elevation at each piece's start
    g0 : (m,) float, m/m           grade there, + rises ahead
    rate : (m,) float, 1/m         change of grade per metre, + sag; on a circle its mean
    pvi_of : (m,) int              PVI a curve piece belongs to; -1 for straight grades
    radius : (m,) float, m         of pieces that are arcs, + sag; 0 for all others
    """

    station: Floats
    z0: Floats
    g0: Floats
    rate: Floats
    pvi_of: NDArray[np.int64]
    radius: Floats = field(default_factory=lambda: np.empty(0))

    def __post_init__(self) -> None:
        if not len(self.radius):
            object.__setattr__(self, "radius", np.zeros(len(self.z0)))
        frozen_fields(self, ("station", "z0", "g0", "rate", "radius"))
        frozen_fields(self, ("pvi_of",), np.int64)

    def evaluate(self, station: Any) -> tuple[Floats, Floats]:
        """Elevation (n,) m and grade (n,) m/m at stations (n,); NaN outside the profile.

        Source: change of grade is linear in plan length; on a circle the sine of the slope is; docs/formulas.md#parabola.
        """
        s = np.atleast_1d(np.asarray(station, float))
        i = np.clip(np.searchsorted(self.station, s, side="right") - 1, 0, len(self.z0) - 1)
        x = s - self.station[i]
        grade = self.g0[i] + self.rate[i] * x
        z = self.z0[i] + x * (self.g0[i] + 0.5 * self.rate[i] * x)
        round_ = self.radius[i] != 0
        if round_.any():
            r, x0 = self.radius[i][round_], x[round_]
            sine = np.sin(np.arctan(self.g0[i][round_]))
            now = np.clip(sine + x0 / r, -1 + 1e-12, 1 - 1e-12)
            cosine, cosine_now = np.sqrt(1 - sine**2), np.sqrt(1 - now**2)
            grade[round_] = now / cosine_now
            # r (cos a0 - cos a) without the difference of two like numbers
            z[round_] = self.z0[i][round_] + x0 * (sine + now) / (cosine + cosine_now)
        outside = (s < self.station[0] - SAME_STATION) | (s > self.station[-1] + SAME_STATION)
        return np.where(outside, np.nan, z), np.where(outside, np.nan, grade)

    def within(self, first: float, last: float) -> VerticalAlignment:
        """The pieces from one station (m) to another, each whole: there the levels are the very same, and what lies beyond counts for
        nothing any more."""
        a = int(np.clip(np.searchsorted(self.station, first, side="right") - 1, 0, len(self.z0) - 1))
        b = int(np.clip(np.searchsorted(self.station, last, side="right") - 1, a, len(self.z0) - 1))
        own = slice(a, b + 1)
        return VerticalAlignment(
            self.station[a : b + 2], self.z0[own], self.g0[own], self.rate[own], np.full(b + 1 - a, -1), self.radius[own]
        )

    def turning_points(self) -> Floats:
        """(k, 2) station and elevation of every high and low point inside a curve."""
        with np.errstate(divide="ignore", invalid="ignore"):
            x = np.where(self.rate != 0, -self.g0 / self.rate, np.nan)
            x = np.where(self.radius != 0, -self.radius * np.sin(np.arctan(self.g0)), x)
        inside = (x >= 0) & (x <= np.diff(self.station))
        s = self.station[:-1][inside] + x[inside]
        return np.stack([s, self.evaluate(s)[0]], axis=-1) if s.size else np.empty((0, 2))

    def as_parabolas(self) -> VerticalAlignment:
        """The same levels without circles: every arc as parabolas between its own places and grades, right to 1e-6 m."""
        if not self.radius.any():
            return self
        ends = [self.station[:1]]
        of: list[int] = []
        for i, (a, b, r) in enumerate(zip(self.station, self.station[1:], self.radius, strict=False)):
            n = max(int(np.ceil((b - a) / np.sqrt(abs(r) * _CIRCLE_STEP))), 8) if r else 1
            ends.append(np.linspace(a, b, n + 1)[1:])
            of += [i] * n
        s, own = np.concatenate(ends), np.array(of)
        x = s[:-1] - self.station[own]
        z, g = self.evaluate(s)
        arc = self.radius[own] != 0
        g0 = np.where(arc, g[:-1], self.g0[own] + self.rate[own] * x)
        rate = np.where(arc, 2 * (np.diff(z) / np.diff(s) - g0) / np.diff(s), self.rate[own])
        z0 = np.where(arc, z[:-1], self.z0[own] + x * (self.g0[own] + 0.5 * self.rate[own] * x))
        return VerticalAlignment(s, z0, g0, rate, self.pvi_of[own])

    def key_stations(self) -> Floats:
        """Stations where the grade starts or stops changing, and the ends, m."""
        return self.station


def profile_from_pvis(pvis: list[PVI] | tuple[PVI, ...]) -> VerticalAlignment:
    """Grades and parabolas from a row of PVIs.

    Asymmetric halves L1, L2: the common tangent under or over the PVI has the grade
    (g1 L1 + g2 L2) / (L1 + L2), so the curve passes the PVI at L1 L2 A / (2 (L1 + L2)).
    Source: unsymmetrical vertical curves, Hickerson (from memory); docs/formulas.md#parabola.

    Raises
    ------
    InputError    fewer than 2 PVIs, PVIs out of order, a curve at an end, or curves that overlap; ``where["pvi"]``
    """
    if len(pvis) < 2:
        raise InputError("too-few-pvis", count=len(pvis))
    for i, p in enumerate(pvis):
        if not np.isfinite([p.station, p.elevation, p.half_in, p.half_out]).all():
            raise InputError("not-a-number", what="A value", where_=f"PVI {i + 1}", example="58.500", where={"pvi": i})
        if min(p.half_in, p.half_out) < 0:
            raise InputError(
                "negative-value", what="The curve length", where_=f"PVI {i + 1}", value=p.half_in + p.half_out, where={"pvi": i}
            )
    for end in (0, len(pvis) - 1):
        if pvis[end].half_in or pvis[end].half_out:
            raise InputError("curve-at-end", pvi=end + 1, where={"pvi": end})
    for i, (a, b) in enumerate(itertools.pairwise(pvis)):
        if b.station - a.station <= SAME_STATION:
            raise InputError(
                "pvis-out-of-order", first=i + 1, second=i + 2, first_station=a.station, second_station=b.station,
                where={"pvi": i + 1},
            )  # fmt: skip
    pvis = curve_limits(pvis)
    for i, (a, b) in enumerate(itertools.pairwise(pvis)):
        gap = b.station - a.station
        needed = a.half_out + b.half_in
        if needed > gap + FITS:
            raise InputError(
                "vertical-curves-overlap", first=i + 1, second=i + 2, overlap=needed - gap, needed=needed, there=gap,
                where={"pvi": i + 1 if b.half_in >= a.half_out else i},
            )  # fmt: skip
    return _pieces(pvis)


def curve_limits(pvis: list[PVI] | tuple[PVI, ...]) -> tuple[PVI, ...]:
    """The PVIs with the halves of circular curves as the grades beside them make them: T cos a on either side, T the tangent.

    Source: tangents to a circle from one point are equally long, R tan of half the angle between them.
    """
    out = list(pvis)
    for i in range(1, len(pvis) - 1):
        if (p := pvis[i]).circular and p.half_in + p.half_out > 0:
            before, after = pvis[i - 1], pvis[i + 1]
            a = np.arctan((p.elevation - before.elevation) / (p.station - before.station))
            b = np.arctan((after.elevation - p.elevation) / (after.station - p.station))
            out[i] = PVI.circle(p.station, p.elevation, p.half_in + p.half_out, float(a), float(b))
    return tuple(out)


def circle_differs(g1: float, g2: float, length: float) -> float:
    """How far, at most, a circular curve and a parabola of the same length (m in plan) and grades lie apart, m."""
    flat = (PVI(-length, -g1 * length), PVI(0.0, 0.0, length / 2, length / 2), PVI(length, g2 * length))
    s = np.linspace(-length / 2, length / 2, 201)
    arc = profile_from_pvis([flat[0], replace(flat[1], circular=True), flat[2]])
    return float(np.abs(arc.evaluate(s)[0] - profile_from_pvis(flat).evaluate(s)[0]).max())


def _pieces(pvis: list[PVI] | tuple[PVI, ...]) -> VerticalAlignment:
    s = np.array([p.station for p in pvis])
    z = np.array([p.elevation for p in pvis])
    g = np.diff(z) / np.diff(s)
    rows: list[tuple[float, float, float, float, int, float]] = []  # start station, z0, g0, rate, pvi, radius
    at, level = float(s[0]), float(z[0])
    for i in range(1, len(pvis)):
        p, g_in = pvis[i], float(g[i - 1])
        begin = p.station - p.half_in
        if begin - at > COINCIDENT:
            rows.append((at, level, g_in, 0.0, -1, 0.0))
        at, level = begin, p.elevation - g_in * p.half_in
        if i < len(g) and p.half_in + p.half_out > 0:
            g_out = float(g[i])
            middle = (g_in * p.half_in + g_out * p.half_out) / (p.half_in + p.half_out)
            turned = np.sin(np.arctan(g_out)) - np.sin(np.arctan(g_in))
            radius = float((p.half_in + p.half_out) / turned) if p.circular and abs(turned) > 1e-9 else 0.0
            even = radius != 0 or abs(p.half_in - p.half_out) < COINCIDENT
            parts = [(p.half_in + p.half_out, g_in, g_out)] if even else [(p.half_in, g_in, middle), (p.half_out, middle, g_out)]
            for length, ga, gb in parts:
                if length > 0:
                    rows.append((at, level, ga, (gb - ga) / length, i, radius))
                    at, level = at + length, level + 0.5 * (ga + gb) * length
            at, level = p.station + p.half_out, p.elevation + g_out * p.half_out
    start, z0, g0, rate, pvi_of, radii = (list(c) for c in zip(*rows, strict=True))
    return VerticalAlignment(
        station=np.array([*start, s[-1]]), z0=np.array(z0), g0=np.array(g0), rate=np.array(rate), pvi_of=np.array(pvi_of),
        radius=np.array(radii),
    )  # fmt: skip


def length_through_point(g1: float, g2: float, pvi: tuple[float, float], point: tuple[float, float]) -> float:
    """Length (m) of the symmetric parabola at a PVI (station, elevation) that passes through a point.

    With x the distance from the PVI and d the height of the point over the entry tangent:
    d = (g2 - g1) (x + L/2)^2 / (2 L). The root is taken for which the point lies on the curve.
    Source: Ghilani & Wolf, Elementary Surveying, sec. 25.9 (from memory); docs/formulas.md#parabola.
    """
    x = point[0] - pvi[0]
    d = point[1] - (pvi[1] + g1 * x)
    a = g2 - g1
    coefficients = [a / 8, a * x / 2 - d, a * x * x / 2]
    for root in sorted(np.roots(coefficients), key=lambda r: -abs(r)):
        if abs(root.imag) < 1e-9 and root.real > 0 and abs(x) <= root.real / 2 + COINCIDENT:
            return float(root.real)
    raise InputError("point-off-curve", station=point[0], elevation=point[1])
