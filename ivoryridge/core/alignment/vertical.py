"""Vertical alignment: PVIs, parabolas, levels and grades over stations."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import InputError
from ..tolerances import COINCIDENT, FITS, SAME_STATION

Floats = NDArray[np.float64]

__all__ = ["PVI", "VerticalAlignment", "length_through_point", "profile_from_pvis"]


@dataclass(frozen=True, slots=True)
class PVI:
    """Point of vertical intersection: station, elevation (m) and lengths (m) of the two curve halves.

    A symmetric parabola has ``half_in == half_out``; unequal halves make two parabolas with one common tangent.
    """

    station: float
    elevation: float
    half_in: float = 0.0
    half_out: float = 0.0

    @classmethod
    def symmetric(cls, station: float, elevation: float, length: float = 0.0) -> PVI:
        return cls(station, elevation, length / 2, length / 2)


@dataclass(frozen=True, slots=True, eq=False)
class VerticalAlignment:
    """Levels over stations as pieces z = z0 + g0 x + rate x^2 / 2, x from the piece's start.

    station : (m + 1,) float, m    piece ends, increasing
    z0 : (m,) float, m             elevation at each piece's start
    g0 : (m,) float, m/m           grade there, + rises ahead
    rate : (m,) float, 1/m         change of grade per metre, + sag
    pvi_of : (m,) int              PVI a curve piece belongs to; -1 for straight grades
    """

    station: Floats
    z0: Floats
    g0: Floats
    rate: Floats
    pvi_of: NDArray[np.int64]

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "z0", "g0", "rate"))
        frozen_fields(self, ("pvi_of",), np.int64)

    def evaluate(self, station: Any) -> tuple[Floats, Floats]:
        """Elevation (n,) m and grade (n,) m/m at stations (n,); NaN outside the profile.

        Source: change of grade is linear in plan length; docs/formulas.md#parabola.
        """
        s = np.atleast_1d(np.asarray(station, float))
        i = np.clip(np.searchsorted(self.station, s, side="right") - 1, 0, len(self.z0) - 1)
        x = s - self.station[i]
        grade = self.g0[i] + self.rate[i] * x
        z = self.z0[i] + x * (self.g0[i] + 0.5 * self.rate[i] * x)
        outside = (s < self.station[0] - SAME_STATION) | (s > self.station[-1] + SAME_STATION)
        return np.where(outside, np.nan, z), np.where(outside, np.nan, grade)

    def turning_points(self) -> Floats:
        """(k, 2) station and elevation of every high and low point inside a curve."""
        with np.errstate(divide="ignore", invalid="ignore"):
            x = np.where(self.rate != 0, -self.g0 / self.rate, np.nan)
        inside = (x >= 0) & (x <= np.diff(self.station))
        s = self.station[:-1][inside] + x[inside]
        return np.stack([s, self.evaluate(s)[0]], axis=-1) if s.size else np.empty((0, 2))

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
        gap = b.station - a.station
        if gap <= SAME_STATION:
            raise InputError(
                "pvis-out-of-order", first=i + 1, second=i + 2, first_station=a.station, second_station=b.station,
                where={"pvi": i + 1},
            )  # fmt: skip
        needed = a.half_out + b.half_in
        if needed > gap + FITS:
            raise InputError(
                "vertical-curves-overlap", first=i + 1, second=i + 2, overlap=needed - gap, needed=needed, there=gap,
                where={"pvi": i + 1 if b.half_in >= a.half_out else i},
            )  # fmt: skip
    return _pieces(pvis)


def _pieces(pvis: list[PVI] | tuple[PVI, ...]) -> VerticalAlignment:
    s = np.array([p.station for p in pvis])
    z = np.array([p.elevation for p in pvis])
    g = np.diff(z) / np.diff(s)
    rows: list[tuple[float, float, float, float, int]] = []  # start station, z0, g0, rate, pvi
    at, level = float(s[0]), float(z[0])
    for i in range(1, len(pvis)):
        p, g_in = pvis[i], float(g[i - 1])
        begin = p.station - p.half_in
        if begin - at > COINCIDENT:
            rows.append((at, level, g_in, 0.0, -1))
        at, level = begin, p.elevation - g_in * p.half_in
        if i < len(g) and p.half_in + p.half_out > 0:
            g_out = float(g[i])
            middle = (g_in * p.half_in + g_out * p.half_out) / (p.half_in + p.half_out)
            even = abs(p.half_in - p.half_out) < COINCIDENT
            parts = [(p.half_in + p.half_out, g_in, g_out)] if even else [(p.half_in, g_in, middle), (p.half_out, middle, g_out)]
            for length, ga, gb in parts:
                if length > 0:
                    rows.append((at, level, ga, (gb - ga) / length, i))
                    at, level = at + length, level + 0.5 * (ga + gb) * length
            at, level = p.station + p.half_out, p.elevation + g_out * p.half_out
    start, z0, g0, rate, pvi_of = (list(c) for c in zip(*rows, strict=True))
    return VerticalAlignment(
        station=np.array([*start, s[-1]]), z0=np.array(z0), g0=np.array(g0), rate=np.array(rate), pvi_of=np.array(pvi_of)
    )


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
