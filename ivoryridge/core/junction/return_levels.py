"""Levels along a return from both edges' levels and grades: straight, one curve, or a reverse pair. docs/formulas.md#returns."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.vertical import PVI, VerticalAlignment, profile_from_pvis

Floats = NDArray[np.float64]

__all__ = ["ReturnLevels", "return_levels"]

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
