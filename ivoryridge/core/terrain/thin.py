"""Thin points and lines while nothing given strays farther from what is kept than a stated tolerance."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull

from ..errors import InputError
from .surface import find_triangles
from .triangulate import merge_places, triangulate

Floats = NDArray[np.float64]
Index = NDArray[np.int64]

__all__ = ["thin_to_tolerance", "weed_line"]

_START_CELLS = (4, 40)  # a side, for few and for many points: the first guess is one low and one high point a cell


def thin_to_tolerance(points: Any, tolerance: float) -> tuple[Index, float]:
    """Indices of points to keep, and the greatest vertical distance (m) of any given point from their surface.

    That distance is at most ``tolerance`` (m). Of points at one place (1 mm) the first stands for all.

    Notes
    -----
    Greedy insertion: the hull and a coarse sample are triangulated; in every triangle the point that lies farthest off
    is added, until none lies farther than the tolerance. Garland and Heckbert, 'Fast Polygonal Approximation of
    Terrains and Height Fields', CMU-CS-95-181, 1995, with one round of insertions a triangulation (from memory).

    Raises
    ------
    InputError    the tolerance is not positive, or fewer than 3 places not in line
    """
    if not tolerance > 0:
        raise InputError("negative-value", what="The tolerance", where_="thinning", value=tolerance)
    p = np.asarray(points, float).reshape(-1, 3)
    places, index, _ = merge_places(p)
    original = np.empty(len(places), np.int64)
    original[index[::-1]] = np.arange(len(p))[::-1]
    if len(places) < 4:
        return np.sort(original), 0.0
    local = places - [*np.floor(places[:, :2].min(axis=0)), 0.0]
    keep = np.zeros(len(places), bool)
    keep[ConvexHull(local[:, :2]).vertices] = True
    keep[_low_and_high(local)] = True
    while True:
        chosen = np.flatnonzero(keep)
        surface, _ = triangulate(local[chosen])
        triangle, z = find_triangles(surface, local[:, :2])
        off = np.abs(local[:, 2] - z)
        off[keep] = 0.0
        off[triangle < 0] = 0.0  # on the hull within rounding
        far = np.flatnonzero(off > tolerance)
        if not len(far):
            return np.sort(original[chosen]), float(off.max(initial=0.0))
        order = far[np.lexsort((-off[far], triangle[far]))]
        first = np.concatenate([[True], np.diff(triangle[order]) != 0])
        keep[order[first]] = True


def _low_and_high(p: Floats) -> Index:
    cells = int(np.clip(np.sqrt(len(p)) / 50, *_START_CELLS))
    span = np.maximum(p[:, :2].max(axis=0) - p[:, :2].min(axis=0), 1e-9)
    cell = np.minimum((p[:, :2] - p[:, :2].min(axis=0)) / span * cells, cells - 1).astype(np.int64)
    number = cell[:, 0] * cells + cell[:, 1]
    order = np.lexsort((p[:, 2], number))
    edge = np.flatnonzero(np.diff(number[order])) + 1
    return np.unique(np.concatenate([order[np.concatenate([[0], edge])], order[np.concatenate([edge - 1, [len(p) - 1]])]]))


def weed_line(line: Any, *, plan: float, level: float) -> Index:
    """Indices of the vertices to keep, so that no dropped one lies farther from the kept line than ``plan`` (m, in plan)
    and ``level`` (m, in level at its nearest place). Ends are kept.

    Notes
    -----
    Douglas and Peucker, 'Algorithms for the reduction of the number of points required to represent a digitized line or
    its caricature', Cartographica 10 (1973): the farthest vertex splits the line; here either measure may split it.
    """
    p = np.asarray(line, float).reshape(-1, 3)
    keep = np.zeros(len(p), bool)
    keep[[0, -1]] = True
    todo = [(0, len(p) - 1)]
    while todo:
        a, b = todo.pop()
        if b - a < 2:
            continue
        inner = p[a + 1 : b]
        d = p[b, :2] - p[a, :2]
        long = float(d @ d)
        share = np.clip((inner[:, :2] - p[a, :2]) @ d / long, 0.0, 1.0) if long > 0 else np.zeros(len(inner))
        foot = p[a] + share[:, None] * (p[b] - p[a])
        away = np.hypot(*(inner - foot)[:, :2].T) / max(plan, 1e-12)
        up = np.abs((inner - foot)[:, 2]) / max(level, 1e-12)
        worst = np.fmax(away, up)
        at = int(np.argmax(worst))
        if worst[at] > 1.0:
            keep[a + 1 + at] = True
            todo += [(a, a + 1 + at), (a + 1 + at, b)]
    return np.flatnonzero(keep)
