"""Ground along straight lines in plan: every crossing with triangle edges, for thousands of lines at once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..arrays import frozen_fields
from .surface import Floats, Surface

__all__ = ["GroundSections", "cut_lines", "cut_polyline"]

_GAP = 1e-6  # m along the line; pieces farther apart than this have no ground between them


@dataclass(frozen=True, slots=True, eq=False)
class GroundSections:
    """Ground under n lines, padded to the same number of vertices.

    offset : (n, m) float, m       distance along each line, increasing; NaN after its last vertex
    elevation : (n, m) float, m    level there; NaN also at a break in the ground (hole, outside)
    """

    offset: Floats
    elevation: Floats

    def __post_init__(self) -> None:
        frozen_fields(self, ("offset", "elevation"))

    def section(self, i: int) -> Floats:
        """(k, 2) offset, elevation of one line, without the padding."""
        there = np.isfinite(self.offset[i])
        return np.stack([self.offset[i][there], self.elevation[i][there]], axis=-1)

    def insert(self, at: Any, others: GroundSections) -> GroundSections:
        """These sections with others among them: ``at`` (k,) are the places of the others in the result, increasing."""
        n, width = len(self.offset) + len(others.offset), max(self.offset.shape[1], others.offset.shape[1])
        own = np.delete(np.arange(n), at)
        arrays = []
        for mine, theirs in ((self.offset, others.offset), (self.elevation, others.elevation)):
            out = np.full((n, width), np.nan)
            out[own, : mine.shape[1]], out[at, : theirs.shape[1]] = mine, theirs
            arrays.append(out)
        return GroundSections(*arrays)

    def take(self, index: Any) -> GroundSections:
        """Some of these sections."""
        return GroundSections(self.offset[index], self.elevation[index])


@njit(cache=True)
def _clip(ax, ay, dx, dy, x0, y0, x1, y1, x2, y2):
    """Interval of the line parameter inside a counter-clockwise triangle; empty when from >= to."""
    lo, hi = 0.0, 1.0
    for i in range(3):
        if i == 0:
            px, py, qx, qy = x0, y0, x1, y1
        elif i == 1:
            px, py, qx, qy = x1, y1, x2, y2
        else:
            px, py, qx, qy = x2, y2, x0, y0
        ex, ey = qx - px, qy - py
        inside = ex * (ay - py) - ey * (ax - px)
        change = ex * dy - ey * dx
        if change == 0.0:
            if inside < 0.0:
                return 1.0, 0.0
        else:
            t = -inside / change
            if change > 0.0:
                lo = max(lo, t)
            else:
                hi = min(hi, t)
        if lo >= hi:
            return 1.0, 0.0
    return lo, hi


@njit(cache=True)
def _cut(starts_xy, ends_xy, points, triangles, starts, members, e0, n0, size, columns, rows):
    n = len(starts_xy)
    seen = np.full(len(triangles), -1, np.int32)
    counts = np.zeros(n + 1, np.int64)
    room = 1024
    ts, zs = np.empty(room), np.empty(room)
    used = 0
    lo_t, hi_t = np.empty(64), np.empty(64)
    lo_z, hi_z = np.empty(64), np.empty(64)
    for q in range(n):
        ax, ay = starts_xy[q, 0], starts_xy[q, 1]
        dx, dy = ends_xy[q, 0] - ax, ends_xy[q, 1] - ay
        length = np.hypot(dx, dy)
        found = 0
        if length > 0.0:
            j_from = min(max(int((min(ay, ay + dy) - n0) / size), 0), rows - 1)
            j_to = min(max(int((max(ay, ay + dy) - n0) / size), 0), rows - 1)
            for j in range(j_from, j_to + 1):
                # the stretch of the line within this row of cells
                y_low, y_high = n0 + j * size, n0 + (j + 1) * size
                t0, t1 = 0.0, 1.0
                if dy != 0.0:
                    ta, tb = (y_low - ay) / dy, (y_high - ay) / dy
                    if ta > tb:
                        ta, tb = tb, ta
                    if j > 0 or dy > 0:
                        t0 = max(t0, ta) if not (j == 0 and dy > 0) else t0
                    if j < rows - 1 or dy < 0:
                        t1 = min(t1, tb) if not (j == rows - 1 and dy > 0) else t1
                    if j == 0 and dy < 0:
                        t1 = 1.0
                    if j == rows - 1 and dy < 0:
                        t0 = 0.0
                if t0 > t1:
                    continue
                xa, xb = ax + dx * t0, ax + dx * t1
                if xa > xb:
                    xa, xb = xb, xa
                i_from = min(max(int((xa - e0) / size - 1e-9), 0), columns - 1)
                i_to = min(max(int((xb - e0) / size + 1e-9), 0), columns - 1)
                for i in range(i_from, i_to + 1):
                    c = j * columns + i
                    for m in range(starts[c], starts[c + 1]):
                        k = members[m]
                        if seen[k] == q:
                            continue
                        seen[k] = q
                        t = triangles[k]
                        lo, hi = _clip(
                            ax, ay, dx, dy, points[t[0], 0], points[t[0], 1], points[t[1], 0], points[t[1], 1],
                            points[t[2], 0], points[t[2], 1],
                        )  # fmt: skip
                        if (hi - lo) * length <= 1e-9:
                            continue
                        px, py, pz = points[t[0], 0], points[t[0], 1], points[t[0], 2]
                        bx, by, bz = points[t[1], 0] - px, points[t[1], 1] - py, points[t[1], 2] - pz
                        cx, cy, cz = points[t[2], 0] - px, points[t[2], 1] - py, points[t[2], 2] - pz
                        det = bx * cy - cx * by
                        gx, gy = (bz * cy - cz * by) / det, (bx * cz - cx * bz) / det
                        if found == len(lo_t):
                            grown = 2 * found
                            nlt, nht, nlz, nhz = np.empty(grown), np.empty(grown), np.empty(grown), np.empty(grown)
                            nlt[:found], nht[:found], nlz[:found], nhz[:found] = lo_t, hi_t, lo_z, hi_z
                            lo_t, hi_t, lo_z, hi_z = nlt, nht, nlz, nhz
                        lo_t[found], hi_t[found] = lo * length, hi * length
                        lo_z[found] = pz + gx * (ax + dx * lo - px) + gy * (ay + dy * lo - py)
                        hi_z[found] = pz + gx * (ax + dx * hi - px) + gy * (ay + dy * hi - py)
                        found += 1
        order = np.argsort(lo_t[:found])
        if used + 3 * found + 2 > room:
            room = 2 * (used + 3 * found + 2)
            nt, nz = np.empty(room), np.empty(room)
            nt[:used], nz[:used] = ts[:used], zs[:used]
            ts, zs = nt, nz
        first = used
        end_t, end_z = -np.inf, 0.0
        for o in order:
            if hi_t[o] <= end_t + 1e-9:  # the twin of a stretch along an edge
                continue
            if lo_t[o] > end_t + 1e-6:
                if used > first:
                    ts[used], zs[used] = end_t, end_z
                    ts[used + 1], zs[used + 1] = 0.5 * (end_t + lo_t[o]), np.nan
                    used += 2
            ts[used], zs[used] = max(lo_t[o], end_t), lo_z[o]
            used += 1
            end_t, end_z = hi_t[o], hi_z[o]
        if used > first:
            ts[used], zs[used] = end_t, end_z
            used += 1
        counts[q + 1] = used
    return counts, ts[:used], zs[:used]


def cut_lines(surface: Surface, start: Any, end: Any) -> GroundSections:
    """Ground along n straight lines.

    Parameters
    ----------
    start, end : (n, 2) float, m    easting, northing of both ends

    Returns
    -------
    GroundSections    offsets are distances from ``start``; a line wholly outside has only NaN

    Notes
    -----
    Each line is clipped against every triangle in the grid cells it passes; lines through a vertex, along an edge,
    over holes and from outside need no special care. Exact: the triangles are planes.
    """
    a = np.ascontiguousarray(np.atleast_2d(np.asarray(start, float))[:, :2])
    b = np.ascontiguousarray(np.atleast_2d(np.asarray(end, float))[:, :2])
    g = surface.grid
    # a local origin keeps the clipping exact at large grid coordinates
    origin = np.array([np.floor(g.origin[0]), np.floor(g.origin[1])])
    local = _local_points(surface, origin)
    counts, ts, zs = _cut(
        a - origin, b - origin, local, surface.triangles, g.starts, g.triangles,
        g.origin[0] - origin[0], g.origin[1] - origin[1], g.size, g.columns, g.rows,
    )  # fmt: skip
    return _padded(counts, ts, zs)


def _local_points(surface: Surface, origin: Floats) -> Floats:
    cached = surface.__dict__.get("_local_points")
    if cached is None:
        cached = surface.points - np.array([origin[0], origin[1], 0.0])
        surface.__dict__["_local_points"] = cached
    return cached


def _padded(counts: NDArray[np.int64], ts: Floats, zs: Floats) -> GroundSections:
    n = len(counts) - 1
    width = int(np.diff(counts).max(initial=0))
    offset, elevation = np.full((n, max(width, 1)), np.nan), np.full((n, max(width, 1)), np.nan)
    row = np.repeat(np.arange(n), np.diff(counts))
    column = np.arange(len(ts)) - counts[row]
    offset[row, column], elevation[row, column] = ts, zs
    return GroundSections(offset, elevation)


def cut_polyline(surface: Surface, vertices: Any) -> Floats:
    """(k, 2) distance along a plan polyline and elevation of the ground; NaN elevation where there is none."""
    v = np.asarray(vertices, float)[:, :2]
    sections = cut_lines(surface, v[:-1], v[1:])
    base = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(v, axis=0).T))])
    there = np.isfinite(sections.offset)
    count, lengths = there.sum(axis=1), np.diff(base)
    known = count > 0
    first = np.where(known, sections.offset[:, 0], np.inf)
    last = np.take_along_axis(sections.offset, np.maximum(count - 1, 0)[:, None], axis=1)[:, 0]
    leads, trails = np.flatnonzero(first > _GAP), np.flatnonzero(known & (last < lengths - _GAP))
    leg, place = np.nonzero(there)  # along each leg: a gap at its start, its own vertices, a gap at its end
    order = np.lexsort(
        (
            np.concatenate([np.full(len(leads), -1), place, np.full(len(trails), there.shape[1])]),
            np.concatenate([leads, leg, trails]),
        )
    )
    distance = np.concatenate([base[leads], base[leg] + sections.offset[there], base[trails + 1]])
    level = np.concatenate([np.full(len(leads), np.nan), sections.elevation[there], np.full(len(trails), np.nan)])
    out = np.stack([distance, level], axis=-1)[order]
    keep = np.ones(len(out), bool)  # a vertex of the line is the end of one cut and the start of the next
    keep[1:] = (np.diff(out[:, 0]) > 1e-9) | (np.isnan(out[1:, 1]) != np.isnan(out[:-1, 1]))
    return out[keep]
