"""The plane of a road's carriageway, carried on beyond its edges: what a slip road beside it follows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.crossfall_diagram import CrossfallDiagram
from ..alignment.horizontal import HorizontalAlignment, project_points
from ..alignment.vertical import VerticalAlignment

Floats = NDArray[np.float64]

__all__ = ["CarriedPlane"]


@dataclass(frozen=True, slots=True, eq=False)
class CarriedPlane:
    """A main road's line, profile and crossfall, read at any place: profile level at the foot of the perpendicular, and the crossfall
    of that side there times the distance."""

    line: HorizontalAlignment
    profile: VerticalAlignment
    diagram: CrossfallDiagram

    def at(self, places: Any) -> tuple[Floats, Floats, Floats]:
        """Station, offset (+ right) and level (n,) m at places (n, 2); NaN levels beyond the ends of line and profile."""
        foot = project_points(self.line, np.asarray(places, float))
        s, u = np.asarray(foot.station, float), np.asarray(foot.offset, float)
        left, right = self.diagram.rates(s)
        first, last = float(self.profile.station[0]), float(self.profile.station[-1])
        inside = (s >= first - 1e-9) & (s <= last + 1e-9)
        level, _ = self.profile.evaluate(np.clip(s, first, last))
        z = level + np.abs(u) * np.where(u < 0, left, right)
        return s, u, np.where(inside, z, np.nan)

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, Floats, Floats]:
        """Level (n,) m of another line at its stations, and crossfall of its left and right half (ratio, + rises outward), whose
        edges lie square to it at the half-widths, m."""
        place, azimuth, _ = line.evaluate(station)
        across = np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
        left, right = (np.broadcast_to(np.asarray(w, float), (len(place),)) for w in (left, right))
        z = self.at(place)[2]
        z_left = self.at(place - left[:, None] * across)[2]
        z_right = self.at(place + right[:, None] * across)[2]
        return z, (z_left - z) / left, (z_right - z) / right
