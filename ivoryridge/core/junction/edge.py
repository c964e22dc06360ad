"""An edge of an arm as a return meets it: the road's exact line with an offset that varies along it, gone along one way."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment

Floats = NDArray[np.float64]

__all__ = ["ArmEdge"]


@dataclass(frozen=True, slots=True, eq=False)
class ArmEdge:
    """An edge of a road, as far as it runs through.

    line : the road's line
    station, offset : (k,) m    offsets (+ right) at increasing stations, straight between; never the polyline of its places
    against : the return goes along it against the road's stationing
    """

    line: HorizontalAlignment
    station: Floats
    offset: Floats
    against: bool = False

    @property
    def first(self) -> float:
        return float(self.station[0])

    @property
    def last(self) -> float:
        return float(self.station[-1])

    def offset_at(self, station: Any) -> Floats:
        return np.interp(station, self.station, self.offset)

    def _slope_at(self, s: Floats) -> Floats:
        """Change of the offset per metre of station; at a bend of it the piece behind counts."""
        if len(self.station) < 2:
            return np.zeros(len(s))
        i = np.clip(np.searchsorted(self.station, s, side="right") - 1, 0, len(self.station) - 2)
        return np.asarray(np.diff(self.offset)[i] / np.diff(self.station)[i])

    def at(self, station: Any) -> tuple[Floats, Floats]:
        """Places (n, 2) m and directions (n, 2), unit, in which the return goes along it."""
        s = np.atleast_1d(np.asarray(station, float))
        place, azimuth, curvature = self.line.evaluate(s)
        ahead = np.column_stack([np.sin(azimuth), np.cos(azimuth)])
        right = np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
        u = self.offset_at(s)
        along = (1 - curvature * u)[:, None] * ahead + self._slope_at(s)[:, None] * right
        along /= np.hypot(*along.T)[:, None]
        return place + u[:, None] * right, -along if self.against else along

    def pace(self, station: float) -> float:
        """Metres along the edge for a metre of station."""
        _, _, curvature = self.line.evaluate(station)
        u, slope = float(self.offset_at(station)), float(self._slope_at(np.array([station]))[0])
        return float(np.hypot(1 - float(curvature[0]) * u, slope))

    def within(self, station: float) -> bool:
        return self.first - 1e-9 <= station <= self.last + 1e-9

    def steps(self, near: float, reach: float, step: float) -> Floats:
        """Stations (n,) m at most ``step`` apart, within ``reach`` of one and on the edge, its tangent points and bends among them."""
        a, b = max(self.first, near - reach), min(self.last, near + reach)
        if b - a < 1e-6:
            return np.empty(0)
        even = np.linspace(a, b, max(int(np.ceil((b - a) / step)), 1) + 1)
        own = np.concatenate([self.line.stations, self.station])
        return np.union1d(even, own[(own > a) & (own < b)])
