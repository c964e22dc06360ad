"""The rim of what is covered, and what edges leave outside of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

__all__ = ["ON_CUT", "Rim", "outside"]

ON_CUT = 1e-5  # m from the cut that a cut edge's end lies on it
_CELLS = 2000  # of a grid at most, along its longer side
_MARGIN = 1e-3  # m around rim and edges that may meet


@dataclass(frozen=True, slots=True, eq=False)
class Rim:
    """The straight sides of an area's rim, (k, 2) from and to, and a tree of them."""

    start: Floats
    end: Floats
    tree: shapely.STRtree

    @classmethod
    def of(cls, area: shapely.Geometry) -> Rim:
        places, ring = shapely.get_coordinates(shapely.get_parts(area.boundary), return_index=True)
        goes_on = ring[1:] == ring[:-1]
        a, b = places[:-1][goes_on], places[1:][goes_on]
        return cls(a, b, shapely.STRtree(shapely.linestrings(np.stack([a, b], axis=1))))

    def near(self, points: Floats, edges: Ints) -> NDArray[np.bool_]:
        """Edges that may meet the rim: those that reach into a cell of a grid that it passes."""
        low, high = self.start.min(axis=0), self.start.max(axis=0)  # of closed rings the starts are all corners
        usual = float(np.median(np.hypot(*(points[edges[:, 1], :2] - points[edges[:, 0], :2]).T)))
        size = max(usual, float(np.max(high - low)) / _CELLS)
        columns, rows = (int(v) + 1 for v in (high - low) / size)
        return _reach_rim(self.start, self.end, points, edges, low[0], low[1], size, columns, rows)


@njit(cache=True)
def _reach_rim(start, end, points, edges, e0, n0, size, columns, rows):
    passed = np.zeros(columns * rows, np.bool_)
    for k in range(len(start)):
        de, dn = end[k, 0] - start[k, 0], end[k, 1] - start[k, 1]
        parts = int(max(abs(de), abs(dn)) / size) + 1
        for p in range(parts):
            ea, na = start[k, 0] + de * p / parts, start[k, 1] + dn * p / parts
            eb, nb = start[k, 0] + de * (p + 1) / parts, start[k, 1] + dn * (p + 1) / parts
            i0, i1 = int((min(ea, eb) - _MARGIN - e0) / size), int((max(ea, eb) + _MARGIN - e0) / size)
            j0, j1 = int((min(na, nb) - _MARGIN - n0) / size), int((max(na, nb) + _MARGIN - n0) / size)
            for j in range(max(j0, 0), min(j1, rows - 1) + 1):
                for i in range(max(i0, 0), min(i1, columns - 1) + 1):
                    passed[j * columns + i] = True
    near = np.zeros(len(edges), np.bool_)
    for k in range(len(edges)):
        a, b = edges[k, 0], edges[k, 1]
        i0, i1 = (min(points[a, 0], points[b, 0]) - _MARGIN - e0) / size, (max(points[a, 0], points[b, 0]) + _MARGIN - e0) / size
        j0, j1 = (min(points[a, 1], points[b, 1]) - _MARGIN - n0) / size, (max(points[a, 1], points[b, 1]) + _MARGIN - n0) / size
        if i1 < 0 or j1 < 0 or i0 > columns or j0 > rows:
            continue
        for j in range(max(int(j0), 0), min(int(j1), rows - 1) + 1):
            for i in range(max(int(i0), 0), min(int(i1), columns - 1) + 1):
                if passed[j * columns + i]:
                    near[k] = True
                    break
            if near[k]:
                break
    return near


def outside(
    ends: Floats, segments: NDArray[np.object_], covered: shapely.Geometry, rim: Rim
) -> tuple[Ints, Floats, NDArray[np.bool_]]:
    """Parts of straight lines (n, 2, 2) outside of an area: the line each is of, shares (k, 2) along it where the part begins and ends,
    and whether that lies on the rim of the area."""
    i, j = rim.tree.query(segments)
    p, d = ends[i, 0], ends[i, 1] - ends[i, 0]
    q, e = rim.start[j], rim.end[j] - rim.start[j]
    cross = d[:, 0] * e[:, 1] - d[:, 1] * e[:, 0]
    w = q - p
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (w[:, 0] * e[:, 1] - w[:, 1] * e[:, 0]) / cross
        u = (w[:, 0] * d[:, 1] - w[:, 1] * d[:, 0]) / cross
    slack, other = ON_CUT / np.hypot(*d.T), ON_CUT / np.hypot(*e.T)
    hit = np.isfinite(t) & (t > -slack) & (t < 1 + slack) & (u > -other) & (u < 1 + other)
    length = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    n = np.arange(len(ends))
    line = np.concatenate([i[hit], n, n])
    share = np.concatenate([np.clip(t[hit], 0.0, 1.0), np.zeros(len(n)), np.ones(len(n))])
    cut = np.concatenate([np.ones(int(hit.sum()), bool), np.zeros(2 * len(n), bool)])
    order = np.lexsort((share, line))
    line, share, cut = line[order], share[order], cut[order]
    fresh = np.ones(len(line), bool)  # cuts at one place are one
    fresh[1:] = (line[1:] != line[:-1]) | ((share[1:] - share[:-1]) * length[line[1:]] > ON_CUT)
    group = np.cumsum(fresh) - 1
    on = np.zeros(int(group[-1]) + 1 if len(group) else 0, bool)
    np.logical_or.at(on, group, cut)
    line, share = line[fresh], share[fresh]
    share[share * length[line] < ON_CUT] = 0.0
    share[(1 - share) * length[line] < ON_CUT] = 1.0
    same = np.flatnonzero(line[1:] == line[:-1])
    middle = ends[line[same], 0] + (0.5 * (share[same] + share[same + 1]))[:, None] * (ends[line[same], 1] - ends[line[same], 0])
    out = same[~shapely.contains_xy(covered, middle[:, 0], middle[:, 1])]
    return line[out], np.column_stack([share[out], share[out + 1]]), np.column_stack([on[out], on[out + 1]])
