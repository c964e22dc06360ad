"""The triangulated surface: a frozen record, with a grid that finds triangles quickly."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import InputError

Floats = NDArray[np.float64]
Ints = NDArray[np.int32]

__all__ = ["Surface", "SurfaceReading", "TriangleGrid", "find_triangles", "read_surface", "robust_levels", "surface_area"]

INSIDE = 1e-9  # barycentric; rounding at an edge must not open a gap between neighbours


@dataclass(frozen=True, slots=True, eq=False)
class TriangleGrid:
    """Uniform grid over the triangles: cell c holds ``triangles[starts[c]:starts[c + 1]]``. Sizes in m."""

    origin: tuple[float, float]
    size: float
    columns: int
    rows: int
    starts: NDArray[np.int64]
    triangles: Ints


@dataclass(frozen=True, eq=False)
class Surface:
    """Triangles over points.

    points : (n, 3) float, m       easting, northing, elevation
    triangles : (m, 3) int32       indices into points, counter-clockwise
    neighbours : (m, 3) int32      triangle across the side from corner i to corner i + 1; -1 outside
    breakline_edges : (k, 2) int32 edges that were held as breaklines
    """

    points: Floats
    triangles: Ints
    neighbours: Ints
    breakline_edges: Ints = field(default_factory=lambda: np.empty((0, 2), np.int32))

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("triangles", "neighbours", "breakline_edges"), np.int32)

    @cached_property
    def extent(self) -> tuple[float, float, float, float]:
        """Least E, least N, greatest E, greatest N, m."""
        if not len(self.triangles):
            raise InputError("surface-empty")
        used = self.points[self.used, :2]
        low, high = used.min(axis=0), used.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    @cached_property
    def used(self) -> NDArray[np.bool_]:
        """(n,) the points that are a corner of a triangle; a trimmed surface keeps others too."""
        out = np.zeros(len(self.points), bool)
        out[self.triangles] = True
        return out

    @cached_property
    def elevation_range(self) -> tuple[float, float]:
        used = self.points[self.used, 2]
        return float(used.min()), float(used.max())

    @cached_property
    def grid(self) -> TriangleGrid:
        e0, n0, e1, n1 = self.extent
        count = max(len(self.triangles), 1)
        box = max((e1 - e0) * (n1 - n0), 1e-6)
        # as wide as two triangles are large: of a strip askew, which fills little of its box, not more than memory allows
        size = float(np.sqrt(max(2.0 * _plan_area(self.points, self.triangles) / count, box / (4 * count + 65_536))))
        columns, rows = int((e1 - e0) / size) + 1, int((n1 - n0) / size) + 1
        starts, members = _fill_grid(self.points, self.triangles, e0, n0, size, columns, rows)
        return TriangleGrid((e0, n0), size, columns, rows, starts, members)


@njit(cache=True)
def _plan_area(points, triangles):
    twice = 0.0
    for t in triangles:
        ax, ay = points[t[0], 0], points[t[0], 1]
        twice += abs((points[t[1], 0] - ax) * (points[t[2], 1] - ay) - (points[t[1], 1] - ay) * (points[t[2], 0] - ax))
    return 0.5 * twice


@njit(cache=True)
def _cells_of(points, t, e0, n0, size, columns, rows):
    xa, xb, xc = points[t[0], 0], points[t[1], 0], points[t[2], 0]
    ya, yb, yc = points[t[0], 1], points[t[1], 1], points[t[2], 1]
    i0 = min(max(int((min(xa, xb, xc) - e0) / size), 0), columns - 1)
    i1 = min(max(int((max(xa, xb, xc) - e0) / size), 0), columns - 1)
    j0 = min(max(int((min(ya, yb, yc) - n0) / size), 0), rows - 1)
    j1 = min(max(int((max(ya, yb, yc) - n0) / size), 0), rows - 1)
    return i0, i1, j0, j1


@njit(cache=True)
def _fill_grid(points, triangles, e0, n0, size, columns, rows):
    starts = np.zeros(columns * rows + 1, np.int64)
    for k in range(len(triangles)):
        i0, i1, j0, j1 = _cells_of(points, triangles[k], e0, n0, size, columns, rows)
        for j in range(j0, j1 + 1):
            for i in range(i0, i1 + 1):
                starts[j * columns + i + 1] += 1
    for c in range(columns * rows):
        starts[c + 1] += starts[c]
    members = np.empty(starts[-1], np.int32)
    at = starts[:-1].copy()
    for k in range(len(triangles)):
        i0, i1, j0, j1 = _cells_of(points, triangles[k], e0, n0, size, columns, rows)
        for j in range(j0, j1 + 1):
            for i in range(i0, i1 + 1):
                c = j * columns + i
                members[at[c]] = k
                at[c] += 1
    return starts, members


@njit(cache=True)
def find_one(x, y, points, triangles, starts, members, e0, n0, size, columns, rows, slack, least, limit):
    """The first triangle under a place of those numbered from ``least`` up to, without, ``limit``, -1 where none; and the level there."""
    fi, fj = (x - e0) / size, (y - n0) / size
    if not (fi >= -slack and fj >= -slack and fi <= columns + slack and fj <= rows + slack):  # neither is what is no number
        return -1, np.nan
    i, j = min(max(int(fi), 0), columns - 1), min(max(int(fj), 0), rows - 1)
    c = j * columns + i
    for m in range(starts[c], starts[c + 1]):
        if members[m] < least:
            continue
        if members[m] >= limit:
            break
        t = triangles[members[m]]
        ax, ay = points[t[0], 0], points[t[0], 1]
        bx, by = points[t[1], 0] - ax, points[t[1], 1] - ay
        cx, cy = points[t[2], 0] - ax, points[t[2], 1] - ay
        det = bx * cy - cx * by
        if det == 0.0:
            continue
        u = ((x - ax) * cy - cx * (y - ay)) / det
        v = (bx * (y - ay) - (x - ax) * by) / det
        if u >= -slack and v >= -slack and u + v <= 1.0 + slack:
            za = points[t[0], 2]
            return members[m], za + u * (points[t[1], 2] - za) + v * (points[t[2], 2] - za)
    return -1, np.nan


@njit(cache=True)
def _find(places, points, triangles, starts, members, e0, n0, size, columns, rows, slack, least, limit):
    found = np.full(len(places), -1, np.int32)
    z = np.full(len(places), np.nan)
    for q in range(len(places)):
        found[q], z[q] = find_one(
            places[q, 0], places[q, 1], points, triangles, starts, members, e0, n0, size, columns, rows, slack, least, limit
        )
    return found, z


@dataclass(frozen=True, slots=True, eq=False)
class SurfaceReading:
    """What the surface says at places: all (n,); NaN and -1 where there is no ground.

    elevation m · slope m/m (steepest, >= 0) · aspect rad (azimuth of steepest fall) · triangle index
    """

    elevation: Floats
    slope: Floats
    aspect: Floats
    triangle: Ints


def read_surface(surface: Surface, places: Any) -> SurfaceReading:
    """Elevation, slope and aspect at places (n, 2), by the plane of the triangle each one lies in."""
    p = np.ascontiguousarray(np.atleast_2d(np.asarray(places, float))[:, :2])
    found, z = _find(p, *looked_up(surface), 0, len(surface.triangles))
    slope, aspect = np.full(len(p), np.nan), np.full(len(p), np.nan)
    hit = found >= 0
    if hit.any():
        a, b, c = (surface.points[surface.triangles[found[hit], i]] for i in range(3))
        normal = np.cross(b - a, c - a)
        slope[hit] = np.hypot(normal[:, 0], normal[:, 1]) / normal[:, 2]
        aspect[hit] = np.arctan2(normal[:, 0], normal[:, 1]) % (2 * np.pi)
    return SurfaceReading(z, slope, aspect, found)


def find_triangles(surface: Surface, places: Any, least: int = 0) -> tuple[Ints, Floats]:
    """Triangle (n,) under each place (n, 2), -1 where none, and the elevation there in m, NaN where none. Where several lie over one
    another, the first one is found, numbered ``least`` or more."""
    p = np.ascontiguousarray(np.asarray(places, float)[:, :2])
    return _find(p, *looked_up(surface), least, len(surface.triangles))


def looked_up(surface: Surface) -> tuple[Floats, Ints, NDArray[np.int64], Ints, float, float, float, int, int, float]:
    """What ``find_one`` takes of a surface."""
    g = surface.grid
    return surface.points, surface.triangles, g.starts, g.triangles, *g.origin, g.size, g.columns, g.rows, INSIDE


def robust_levels(surface: Surface) -> tuple[float, float]:
    """Least and greatest level for colours: those of 98 % of the points, widened to the whole range unless that would more
    than double it, so that one bad point neither hides the terrain nor itself."""
    low, high = surface.elevation_range
    z = surface.points[surface.used, 2]
    a, b = (float(v) for v in np.quantile(z, [0.01, 0.99]))
    span = max(b - a, 0.01)
    return (low if low >= a - 0.5 * span else a), (high if high <= b + 0.5 * span else b)


def surface_area(surface: Surface) -> tuple[float, float]:
    """Plan area and area on the slope, m2."""
    a, b, c = (surface.points[surface.triangles[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    return float(0.5 * np.abs(normal[:, 2]).sum()), float(0.5 * np.linalg.norm(normal, axis=1).sum())
