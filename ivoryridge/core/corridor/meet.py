"""The ground at an end of a road that meets what is there: level, grade, and how far its edges rise or fall."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment, grid_from_station_offset
from ..terrain.surface import Surface, read_surface

Floats = NDArray[np.float64]

__all__ = ["EndFit", "GroundPlane", "fit_end"]

REACH, STEP = 5.0, 0.5  # m along the road to either side of its end, and between readings
LEAST_READINGS = 6  # of the 21; fewer lie at the very edge of the ground


@dataclass(frozen=True, slots=True)
class EndFit:
    """The straight line that fits the ground best along a road at a station: level (m), grade (ratio along the road), and the reading
    that lies farthest from it, m."""

    level: float
    grade: float
    worst: float


def fit_end(line: HorizontalAlignment, surface: Surface, station: float, offset: float = 0.0) -> EndFit | None:
    """Least squares over readings within 5 m along the road at ``offset`` m (+ right); beyond the road's end on its prolonged tangent.

    None where fewer than 6 of them lie on the ground, or all on one side of the station.
    """
    at = np.arange(-REACH, REACH + STEP / 2, STEP)
    level = read_surface(surface, grid_from_station_offset(line, station + at, offset)[0]).elevation
    known = np.isfinite(level)
    if known.sum() < LEAST_READINGS or not (at[known].min() <= 0 <= at[known].max()):
        return None
    base = float(level[known].mean())
    grade, rise = np.polyfit(at[known], level[known] - base, 1)
    worst = float(np.abs(rise + grade * at[known] - (level[known] - base)).max())
    return EndFit(base + float(rise), float(grade), worst)


@dataclass(frozen=True, slots=True, eq=False)
class GroundPlane:
    """The ground beside a road's end, read as another road's plane is; see ``carried_plane``."""

    surface: Surface

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, tuple[Floats, Floats]]:
        """Level (n,) m of the ground along a line at its stations, and how the ground rises outward (ratio) to the edges that lie
        left and right of it, m; NaN where it is not known."""
        s = np.atleast_1d(np.asarray(station, float))
        z, z_left, z_right = (
            np.array([f.level if (f := fit_end(line, self.surface, float(x), float(u))) is not None else np.nan
                      for x, u in zip(s, np.broadcast_to(offset, s.shape), strict=True)])
            for offset in (0.0, -np.asarray(left, float), np.asarray(right, float))
        )  # fmt: skip
        return z, ((z_left - z) / left, (z_right - z) / right)
