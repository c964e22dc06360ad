"""Levels along a return from both edges' levels and grades: straight, one curve, or a reverse pair. docs/formulas.md#returns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.vertical import PVI, VerticalAlignment, profile_from_pvis
from ..arrays import runs_of
from ..findings import Finding

Floats = NDArray[np.float64]

__all__ = ["ReturnLevels", "return_findings", "return_levels"]

_NO_CROSSING = 1e-11  # ratio by which two grades must differ to cross
_SAME_LEVEL = 1e-9  # m


@dataclass(frozen=True, slots=True, eq=False)
class ReturnLevels:
    """Levels along a return: ``form`` "straight", "single" or "reverse", and its PVIs by the length from its start, m."""

    form: str
    pvis: tuple[PVI, ...]

    def profile(self) -> VerticalAlignment:
        return profile_from_pvis(list(self.pvis))

    def at(self, distance: Any) -> tuple[Floats, Floats]:
        """Levels (n,) m and grades (n,) at lengths from the start, m."""
        level, grade = self.profile().evaluate(np.asarray(distance, float))[:2]
        return level, grade


def return_levels(z1: float, g1: float, z2: float, g2: float, length: float) -> ReturnLevels:
    """Levels z1, z2 (m) and grades g1, g2 (ratios, along the return, + rises) at its start and end, ``length`` m apart in plan.

    Where the grade lines cross between the ends: one symmetric parabola, as long as fits. Where they are one line: straight. Else two
    parabolas of half the length each, with one grade where they meet in the middle.
    """
    x = (z2 - z1 - g2 * length) / (g1 - g2) if abs(g1 - g2) > _NO_CROSSING else None
    if x is None and abs(z2 - z1 - g1 * length) <= _SAME_LEVEL:
        return ReturnLevels("straight", (PVI(0.0, z1), PVI(length, z2)))
    if x is not None and 1e-9 < x < length - 1e-9:
        half = min(x, length - x)
        return ReturnLevels("single", (PVI(0.0, z1), PVI.symmetric(x, z1 + g1 * x, 2 * half), PVI(length, z2)))
    quarter = length / 4
    first, second = z1 + g1 * quarter, z2 - g2 * quarter
    pvis = PVI.symmetric(quarter, first, 2 * quarter), PVI.symmetric(3 * quarter, second, 2 * quarter)
    return ReturnLevels("reverse", (PVI(0.0, z1), *pvis, PVI(length, z2)))


STEEPEST = 0.05  # of a return (from memory)
FLATTEST = 0.005  # ratio along which a channel still drains (common practice, no source)
FLAT_OVER = 5.0  # m over which a return may be flatter (common practice, no source)
LEAST_K = 1.0  # m for each per cent of change, of a return's curves (from memory)
_LOOK = 0.25  # m between places looked at


def return_findings(profile: VerticalAlignment, pvis: Sequence[PVI]) -> list[Finding]:
    """Where a return is too steep, too flat for its channel, or bent too sharply in level."""
    out: list[Finding] = []
    first, last = float(profile.station[0]), float(profile.station[-1])
    s = np.linspace(first, last, max(int((last - first) / _LOOK), 8) + 1)
    grade = profile.evaluate(s)[1]
    for a, b in runs_of(np.abs(grade) > STEEPEST + 1e-9):
        most = 100 * float(np.abs(grade[a : b + 1]).max())
        told = {"start": float(s[a]), "end": float(s[b]), "grade": most, "limit": 100 * STEEPEST}
        out.append(Finding("doubt", "return-steep", told, station_from=float(s[a]), station_to=float(s[b])))
    for a, b in runs_of(np.abs(grade) < FLATTEST - 1e-9):
        if s[b] - s[a] > FLAT_OVER:
            told = {"start": float(s[a]), "end": float(s[b]), "limit": 100 * FLATTEST, "over": FLAT_OVER}
            out.append(Finding("doubt", "return-flat", told, station_from=float(s[a]), station_to=float(s[b])))
    for p, q, r in zip(pvis, pvis[1:], pvis[2:], strict=False):
        before, after = ((b.elevation - a.elevation) / (b.station - a.station) for a, b in ((p, q), (q, r)))
        change, length = 100 * abs(after - before), q.half_in + q.half_out
        if change > 0.1 and length / change < LEAST_K - 1e-9:
            told = {"at": q.station, "k": length / change, "limit": LEAST_K}
            out.append(Finding("doubt", "return-sharp", told, station_from=q.station, station_to=q.station))
    return out
