"""Contours: marching over triangles, linked to polylines."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .surface import Floats, Surface

__all__ = ["compute_contours", "levels_between"]


def levels_between(low: float, high: float, interval: float) -> Floats:
    """Multiples of ``interval`` strictly above ``low`` and up to ``high``, m."""
    first = int(np.floor(low / interval)) + 1
    return np.arange(first, int(np.floor(high / interval)) + 1, dtype=np.float64) * interval


@njit(cache=True)
def _march(points, triangles, neighbours, levels):
    """Segments as (edge key a, edge key b, level) with the place on each edge. A vertex on the level is above."""
    total = 0
    for k in range(len(triangles)):
        t = triangles[k]
        za, zb, zc = points[t[0], 2], points[t[1], 2], points[t[2], 2]
        low, high = min(za, zb, zc), max(za, zb, zc)
        total += np.searchsorted(levels, high, side="right") - np.searchsorted(levels, low, side="right")
    key = np.empty((total, 2), np.int64)
    place = np.empty((total, 4))
    level_of = np.empty(total, np.int32)
    n = 0
    for k in range(len(triangles)):
        t = triangles[k]
        za, zb, zc = points[t[0], 2], points[t[1], 2], points[t[2], 2]
        low, high = min(za, zb, zc), max(za, zb, zc)
        for m in range(np.searchsorted(levels, low, side="right"), np.searchsorted(levels, high, side="right")):
            z = levels[m]
            side = 0
            for i in range(3):
                a, b = t[i], t[(i + 1) % 3]
                pa, pb = points[a, 2], points[b, 2]
                if (pa >= z) == (pb >= z):
                    continue
                if a > b:  # the same arithmetic from both triangles of an edge
                    a, b = b, a
                    pa, pb = pb, pa
                share = (z - pa) / (pb - pa)
                other = neighbours[k, i]
                if other >= 0 and other < k:
                    e = 0
                    for j in range(3):
                        if neighbours[other, j] == k:
                            e = 3 * other + j
                else:
                    e = 3 * k + i
                key[n, side] = e
                place[n, 2 * side] = points[a, 0] + share * (points[b, 0] - points[a, 0])
                place[n, 2 * side + 1] = points[a, 1] + share * (points[b, 1] - points[a, 1])
                side += 1
            level_of[n] = m
            n += 1
    return key[:n], place[:n], level_of[:n]


@njit(cache=True)
def _link(mate, place, level_of):
    """Walk segments end to end. ``mate[2 s + e]`` is the end (2 s' + e') that shares an edge, or -1."""
    n = len(level_of)
    used = np.zeros(n, np.bool_)
    xy = np.empty((2 * n + 1, 2))
    starts = np.empty(n + 1, np.int64)
    levels = np.empty(n, np.int32)
    at, lines = 0, 0
    for round_ in range(2):  # first the open lines from their ends, then the closed ones
        for s in range(n):
            if used[s]:
                continue
            e = 0
            if round_ == 0:
                if mate[2 * s] < 0:
                    e = 0
                elif mate[2 * s + 1] < 0:
                    e = 1
                else:
                    continue
            starts[lines], levels[lines] = at, level_of[s]
            lines += 1
            xy[at, 0], xy[at, 1] = place[s, 2 * e], place[s, 2 * e + 1]
            at += 1
            while True:
                used[s] = True
                out = 1 - e
                xy[at, 0], xy[at, 1] = place[s, 2 * out], place[s, 2 * out + 1]
                at += 1
                m = mate[2 * s + out]
                if m < 0 or used[m // 2]:
                    break
                s, e = m // 2, m % 2
    starts[lines] = at
    return xy[:at], starts[: lines + 1], levels[:lines]


def compute_contours(surface: Surface, levels: Any) -> tuple[Floats, NDArray[np.int64], NDArray[np.int32]]:
    """Contour polylines at increasing levels (k,), m.

    Returns
    -------
    xy : (n, 2) float, m      vertices of all lines, one after the other; a closed line repeats its first vertex
    starts : (lines + 1,) int line i is ``xy[starts[i]:starts[i + 1]]``
    level : (lines,) int      index into ``levels``

    Notes
    -----
    A vertex exactly on a level counts as above it, so every contour is simple and none is lost or doubled.
    """
    levels = np.ascontiguousarray(levels, float)
    if not len(levels) or not len(surface.triangles):
        return np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0, np.int32)
    key, place, level_of = _march(surface.points, surface.triangles, surface.neighbours, levels)
    full = (key * len(levels) + level_of[:, None]).ravel()
    order = np.argsort(full, kind="stable")
    same = full[order][1:] == full[order][:-1]
    mate = np.full(len(full), -1, np.int64)
    a, b = order[:-1][same], order[1:][same]
    mate[a], mate[b] = b, a
    return _link(mate, place, level_of)
