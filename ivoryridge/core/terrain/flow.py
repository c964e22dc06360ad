"""Where water goes: ponds that a surface would hold, and the ground that drains to a place."""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from .surface import Floats, Surface, find_triangles
from .triangulate import sides_of
from .volume import volume_to_level

__all__ = ["Pond", "ponds_of", "watershed_of"]

LEAST_DEPTH = 0.02  # m; a shallower hollow is roughness (common practice, no source)


@dataclass(frozen=True, slots=True)
class Pond:
    """Standing water: its level where it spills over, greatest depth (m), area (m2), volume (m3), deepest place."""

    level: float
    depth: float
    area: float
    volume: float
    place: tuple[float, float]


def _graph(surface: Surface) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Neighbouring points of each point: ``others[starts[i]:starts[i + 1]]``."""
    a, b = sides_of(surface.triangles).T.astype(np.int64)
    ends, others = np.concatenate([a, b]), np.concatenate([b, a])
    order = np.argsort(ends, kind="stable")
    return np.searchsorted(ends[order], np.arange(len(surface.points) + 1)), others[order]


def spill_levels(surface: Surface) -> tuple[Floats, NDArray[np.int64]]:
    """Level (n,) to which water over each point rises before it finds a way out over the boundary, and the point (n,)
    over which it then leaves; a point of the boundary leaves over itself.

    Notes
    -----
    Priority flood from the boundary inwards: Barnes, Lehman and Mulla, 'Priority-flood', Computers & Geosciences 62
    (2014). On triangles the lowest way out leads over points and sides, so the points alone decide. Exact.
    """
    z = surface.points[:, 2]
    starts, others = _graph(surface)
    level, way = np.full(len(z), np.inf), np.arange(len(z))
    rows, side = np.nonzero(surface.neighbours < 0)
    rim = np.unique(np.concatenate([surface.triangles[rows, side], surface.triangles[rows, (side + 1) % 3]]))
    level[rim] = z[rim]
    queue = [(float(z[i]), int(i)) for i in rim]
    heapq.heapify(queue)
    while queue:
        at, i = heapq.heappop(queue)
        if at > level[i]:
            continue
        for j in others[starts[i] : starts[i + 1]]:
            through = max(at, float(z[j]))
            if through < level[j]:
                level[j], way[j] = through, i
                heapq.heappush(queue, (through, int(j)))
    return level, way


def ponds_of(surface: Surface) -> list[Pond]:
    """All ponds deeper than 2 cm, deepest first. Area and volume are exact for the triangles."""
    z, (spill, _) = surface.points[:, 2], spill_levels(surface)
    wet, number = _pond_numbers(surface, spill)
    out = []
    for k in np.unique(number[wet]):
        points = np.flatnonzero((number == k) & wet)
        level, deepest = float(spill[points[0]]), points[int(np.argmin(z[points]))]
        if level - z[deepest] < LEAST_DEPTH:
            continue
        mask = np.zeros(len(z), bool)
        mask[points] = True
        area, volume = _below(surface, mask[surface.triangles].any(axis=1), level)
        place = (float(surface.points[deepest, 0]), float(surface.points[deepest, 1]))
        out.append(Pond(level, level - float(z[deepest]), area, volume, place))
    return sorted(out, key=lambda p: -p.depth)


def _below(surface: Surface, of: Any, level: float) -> tuple[float, float]:
    """Plan area and volume of what lies under a level in some triangles."""
    triangles = surface.triangles[of]
    part = Surface(surface.points, triangles, np.full((len(triangles), 3), -1, np.int32))
    _, volume = volume_to_level(part, level)
    p = surface.points[triangles]
    d = level - np.take_along_axis(p[:, :, 2], np.argsort(p[:, :, 2], axis=1), axis=1)  # deepest corner first
    a = p[:, 1, :2] - p[:, 0, :2]
    b = p[:, 2, :2] - p[:, 0, :2]
    whole = 0.5 * np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
    with np.errstate(divide="ignore", invalid="ignore"):
        one = d[:, 0] ** 2 / ((d[:, 0] - d[:, 1]) * (d[:, 0] - d[:, 2]))  # only the lowest corner is wet
        two = 1.0 - d[:, 2] ** 2 / ((d[:, 0] - d[:, 2]) * (d[:, 1] - d[:, 2]))  # only the highest is dry
    share = np.select([d[:, 0] <= 0, d[:, 2] >= 0, d[:, 1] <= 0], [0.0, 1.0, one], two)
    return float((share * whole).sum()), float(volume)


def watershed_of(surface: Surface, place: Any) -> tuple[NDArray[np.bool_], float]:
    """The triangles (m,) whose water comes to a place (2,), and their plan area in m2.

    Water leaves a triangle at its lowest corner, goes from there along the steepest falling side, and out of a pond over
    its spill; a place in a pond stands for the whole pond. Without ground at the place no triangle and 0.
    """
    found, _ = find_triangles(surface, [place])
    n = len(surface.points)
    if found[0] < 0:
        return np.zeros(len(surface.triangles), bool), 0.0
    z = surface.points[:, 2]
    spill, way = spill_levels(surface)
    starts, others = _graph(surface)
    i = np.repeat(np.arange(n), np.diff(starts))
    run = np.maximum(np.hypot(*(surface.points[others, :2] - surface.points[i, :2]).T), 1e-9)
    fall = (spill[i] - spill[others]) / run  # over a pond its water level counts, so the way out is never uphill
    best = np.lexsort((-fall, i))[starts[:-1][np.diff(starts) > 0]]
    down = way.copy()
    down[i[best]] = np.where(fall[best] > 0, others[best], way[i[best]])
    corners = surface.triangles[found[0]]
    target = np.zeros(n, bool)
    target[corners] = True
    if (wet := spill[corners] > z[corners] + 1e-9).any():
        standing, number = _pond_numbers(surface, spill)
        target |= standing & (number == number[corners[np.argmax(wet)]])
    comes = target.copy()
    down[target] = np.flatnonzero(target)
    for _ in range(int(np.ceil(np.log2(max(n, 2)))) + 1):  # each round doubles the way that is looked along
        down = down[down]
    comes |= target[down]
    lowest = np.take_along_axis(surface.triangles, np.argmin(z[surface.triangles], axis=1)[:, None], axis=1)[:, 0]
    gathered = comes[lowest]
    a, b, c = (surface.points[surface.triangles[gathered, k], :2] for k in range(3))
    area = 0.5 * ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    return gathered, float(area.sum())


def _pond_numbers(surface: Surface, spill: Floats) -> tuple[NDArray[np.bool_], NDArray[np.int32]]:
    """Which points (n,) stand under water, and a number (n,) that points of one pond share."""
    z, n = surface.points[:, 2], len(surface.points)
    wet = np.isfinite(spill) & (spill > z + 1e-9)
    a, b = sides_of(surface.triangles).T
    joined = wet[a] & wet[b] & (np.abs(spill[a] - spill[b]) < 1e-9)
    graph = coo_matrix((np.ones(joined.sum(), np.int8), (a[joined], b[joined])), shape=(n, n))
    return wet, connected_components(graph, directed=False)[1]
