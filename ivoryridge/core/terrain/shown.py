"""What an eye can use of a large surface: a lattice of it from afar, its own triangles from near."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .surface import Floats, Ints, Surface, find_triangles
from .triangulate import neighbours_of, select_triangles

__all__ = ["Window", "lattice_of", "triangles_within"]

Window = tuple[float, float, float, float]  # least E, least N, greatest E, greatest N, m


def lattice_of(surface: Surface, window: Window, most: int) -> tuple[Surface, float]:
    """The surface read on a square lattice over a window, as a surface of at most ``most`` triangles, and its spacing, m.

    Cells with a corner beside the surface are left out, so the edge is drawn up to one spacing short; inside, a level is
    the surface's own at every lattice point and linear between. The result may be empty.
    """
    e0, n0, e1, n1 = window
    spacing = max(float(np.sqrt(2.0 * max(e1 - e0, 1e-3) * max(n1 - n0, 1e-3) / most)), 1e-3)
    columns, rows = int((e1 - e0) / spacing) + 1, int((n1 - n0) / spacing) + 1
    e = e0 + (e1 - e0 - (columns - 1) * spacing) / 2 + spacing * np.arange(columns)
    n = n0 + (n1 - n0 - (rows - 1) * spacing) / 2 + spacing * np.arange(rows)
    places = np.stack(np.meshgrid(e, n), axis=-1).reshape(-1, 2)
    _, z = find_triangles(surface, places)
    corner = np.arange(columns * rows).reshape(rows, columns)
    a, b, c, d = (corner[i : rows - 1 + i, j : columns - 1 + j].ravel() for i, j in ((0, 0), (0, 1), (1, 1), (1, 0)))
    there = np.isfinite(z[a] + z[b] + z[c] + z[d])
    a, b, c, d = a[there], b[there], c[there], d[there]
    # of the two diagonals the one with less step, so that a ridge or a valley is not sawn to teeth
    first = (np.abs(z[a] - z[c]) <= np.abs(z[b] - z[d]))[:, None]
    lower = np.where(first, np.column_stack([a, b, c]), np.column_stack([a, b, d]))
    upper = np.where(first, np.column_stack([a, c, d]), np.column_stack([b, c, d]))
    points = np.column_stack([places, z])
    used, triangles, _ = _compact(points, np.concatenate([lower, upper]).astype(np.int32))
    return Surface(points[used], triangles, neighbours_of(triangles)), spacing


def triangles_within(surface: Surface, window: Window) -> Surface:
    """The triangles whose bounding box touches a window, with the breakline edges between their corners."""
    e0, n0, e1, n1 = window
    corners = surface.points[surface.triangles, :2]
    low, high = corners.min(axis=1), corners.max(axis=1)
    inside = (low[:, 0] <= e1) & (high[:, 0] >= e0) & (low[:, 1] <= n1) & (high[:, 1] >= n0)
    triangles, neighbours = select_triangles(surface.triangles, surface.neighbours, inside)
    used, own, number = _compact(surface.points, triangles)
    edges = surface.breakline_edges
    return Surface(surface.points[used], own, neighbours, number[edges[used[edges].all(axis=1)]].reshape(-1, 2))


def _compact(points: Floats, triangles: Ints) -> tuple[NDArray[np.bool_], Ints, Ints]:
    """Which points are used, the triangles by their new numbers, and the new number of each used point."""
    used = np.zeros(len(points), bool)
    used[triangles] = True
    number = np.cumsum(used, dtype=np.int32) - 1
    return used, number[triangles], number
