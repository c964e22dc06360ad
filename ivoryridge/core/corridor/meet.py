"""The ground at an end of a road that meets what is there: level, grade, and how far its edges rise or fall."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment, grid_from_station_offset
from ..terrain.surface import Surface, read_surface

Floats = NDArray[np.float64]

__all__ = ["EdgePlane", "EndFit", "GroundPlane", "fit_edge", "fit_end"]

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
    level, grade, worst = (float(v[0]) for v in _fit_ends(line, surface, np.array([station]), np.array([offset])))
    return EndFit(level, grade, worst) if np.isfinite(level) else None


def _fit_ends(line: HorizontalAlignment, surface: Surface, station: Floats, offset: Floats) -> tuple[Floats, Floats, Floats]:
    """As ``fit_end``, at stations and offsets (n,) m: level, grade and worst reading (n,); NaN for none."""
    at = np.arange(-REACH, REACH + STEP / 2, STEP)
    row = (station[:, None] + at).ravel()
    place = grid_from_station_offset(line, row, np.repeat(offset, len(at)))[0]
    level = read_surface(surface, place).elevation.reshape(len(station), len(at))
    known = np.isfinite(level)
    count = known.sum(axis=1)
    fits = (count >= LEAST_READINGS) & known[:, at <= 0].any(axis=1) & known[:, at >= 0].any(axis=1)
    known = known & fits[:, None]
    count = np.where(fits, count, np.nan)
    base = np.where(known, level, 0.0).sum(axis=1) / count
    middle = np.where(known, at, 0.0).sum(axis=1) / count
    above = np.where(known, level - base[:, None], 0.0)
    away = np.where(known, at - middle[:, None], 0.0)
    grade = (away * above).sum(axis=1) / np.where(fits, (away**2).sum(axis=1), np.nan)
    worst = np.abs(above - grade[:, None] * away).max(axis=1)
    return base - grade * middle, grade, worst


BEHIND = 3.0  # m of a square behind an existing edge over which the road's own fall is read


@dataclass(frozen=True, slots=True)
class EdgePlane:
    """The existing road behind its edge as a plane: level (m) at a place (E, N) on the edge, and how it rises towards the east and north
    (ratios); ``worst``: the reading that lies farthest from it, m; ``fall``: towards the edge (ratio)."""

    place: tuple[float, float]
    level: float
    rise: tuple[float, float]
    worst: float = 0.0
    fall: float = 0.0

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, tuple[Floats, Floats]]:
        """As another road's plane is read; see ``carried_plane``."""
        place, azimuth, _ = line.evaluate(np.atleast_1d(np.asarray(station, float)))
        z = self.level + (place - self.place) @ np.array(self.rise)
        across = np.column_stack([np.cos(azimuth), -np.sin(azimuth)]) @ np.array(self.rise)
        return z, (-across, across)


def fit_edge(
    edge: HorizontalAlignment, surface: Surface, station: float, sign: float, fall: float | None = None
) -> EdgePlane | None:
    """The plane of an existing road at its edge: level and grade along it as ``fit_end``; its fall from the ground over a square of 3 m
    behind the edge, by least squares, or as given.

    sign : +1 where the road lies right of the edge, -1 left
    fall : ratio, + falls towards the edge

    None where the ground is not known there.
    """
    along = fit_end(edge, surface, station)
    place, azimuth, _ = edge.evaluate(station)
    ahead, right = np.array([np.sin(azimuth[0]), np.cos(azimuth[0])]), np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])])
    if along is None:
        return None
    worst = 0.0
    if fall is None:
        s, u = (
            x.ravel() for x in np.meshgrid(np.arange(-BEHIND / 2, BEHIND / 2 + 0.1, STEP), np.arange(0.0, BEHIND + 0.1, STEP))
        )
        level = read_surface(surface, place[0] + s[:, None] * ahead + sign * u[:, None] * right).elevation
        known = np.isfinite(level)
        if known.sum() < 0.5 * len(s):
            return None
        rows = np.column_stack([np.ones(known.sum()), s[known], u[known]])
        base = float(level[known].mean())
        fit, *_ = np.linalg.lstsq(rows, level[known] - base, rcond=None)
        fall, worst = float(fit[2]), float(np.abs(rows @ fit - (level[known] - base)).max())
    rise = along.grade * ahead + sign * fall * right
    return EdgePlane((float(place[0, 0]), float(place[0, 1])), along.level, (float(rise[0]), float(rise[1])), worst, fall)


@dataclass(frozen=True, slots=True, eq=False)
class GroundPlane:
    """The ground beside a road's end, read as another road's plane is; see ``carried_plane``."""

    surface: Surface

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, tuple[Floats, Floats]]:
        """Level (n,) m of the ground along a line at its stations, and how the ground rises outward (ratio) to the edges that lie
        left and right of it, m; NaN where it is not known."""
        s = np.atleast_1d(np.asarray(station, float))
        offsets = [np.broadcast_to(np.asarray(u, float), s.shape) for u in (0.0, -np.asarray(left), right)]
        z, z_left, z_right = _fit_ends(line, self.surface, np.tile(s, 3), np.concatenate(offsets))[0].reshape(3, -1)
        return z, ((z_left - z) / left, (z_right - z) / right)
