"""Where a surface ends: its boundary loops, pieces and holes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

from .surface import Floats, Surface
from .triangulate import neighbours_of, triangulate

__all__ = ["Piece", "boundary_loops", "fill_holes", "outline_of", "pieces_of"]


@dataclass(frozen=True, slots=True)
class Piece:
    """A connected part of a surface: triangles, plan area in m2, and a place on it."""

    triangles: int
    plan_area: float
    place: tuple[float, float]


def piece_numbers(surface: Surface) -> tuple[int, NDArray[np.int32]]:
    """How many pieces, and the piece of each triangle. Triangles are joined across sides, not at a single corner."""
    n = len(surface.triangles)
    rows, side = np.nonzero(surface.neighbours >= 0)
    graph = coo_matrix((np.ones(len(rows), np.int8), (rows, surface.neighbours[rows, side])), shape=(n, n))
    count, number = connected_components(graph, directed=False)
    return int(count), number


def pieces_of(surface: Surface) -> list[Piece]:
    """The pieces, greatest first."""
    count, number = piece_numbers(surface)
    a, b, c = (surface.points[surface.triangles[:, i], :2] for i in range(3))
    area = 0.5 * ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    areas, sizes = np.bincount(number, area, count), np.bincount(number, minlength=count)
    biggest = np.lexsort((-area, number))
    at = ((a + b + c) / 3)[biggest[np.searchsorted(number[biggest], np.arange(count))]]
    order = np.argsort(-areas)
    return [Piece(int(sizes[i]), float(areas[i]), (float(at[i, 0]), float(at[i, 1]))) for i in order]


def boundary_loops(surface: Surface) -> list[NDArray[np.int64]]:
    """Closed rows of point indices along the boundary; ground lies to the left, so outer loops turn counter-clockwise."""
    rows, side = np.nonzero(surface.neighbours < 0)
    tail = surface.triangles[rows, side]
    head = surface.triangles[rows, (side + 1) % 3]
    leaving: dict[int, list[int]] = {}
    for edge, start in enumerate(tail.tolist()):
        leaving.setdefault(start, []).append(edge)
    xy = surface.points[:, :2]
    used = np.zeros(len(tail), bool)
    loops: list[NDArray[np.int64]] = []
    for first in range(len(tail)):
        if used[first]:
            continue
        row, edge = [], first
        while not used[edge]:
            used[edge] = True
            row.append(int(tail[edge]))
            onward = [e for e in leaving[int(head[edge])] if not used[e]]
            if not onward:
                break
            edge = onward[0] if len(onward) == 1 else _sharpest_left(xy, int(tail[edge]), int(head[edge]), onward, head)
        loops.append(np.array(row))
    return loops


def _sharpest_left(xy: Floats, before: int, at: int, onward: list[int], head: NDArray[np.int32]) -> int:
    """Where loops touch at a corner, turn as far right as possible, so that each stays simple (ground on the left)."""
    back = xy[before] - xy[at]

    def turn(e: int) -> float:
        d = xy[head[e]] - xy[at]
        return float(np.arctan2(back[0] * d[1] - back[1] * d[0], back @ d) % (2 * np.pi))

    return min(onward, key=turn)


def _area(xy: Floats) -> float:
    x, y = (xy - xy[0]).T
    return float(0.5 * np.sum(x * (np.roll(y, -1) - np.roll(y, 1))))


def outline_of(surface: Surface) -> shapely.Geometry:
    """The ground the surface covers, as polygons with holes."""
    shells: list[shapely.Geometry] = []
    holes: list[shapely.Geometry] = []
    for loop in boundary_loops(surface):
        xy = surface.points[loop, :2]
        if len(xy) >= 3:
            (shells if _area(xy) > 0 else holes).append(shapely.Polygon(xy))
    whole = shapely.union_all(shapely.make_valid(np.array(shells)))
    return whole.difference(shapely.union_all(shapely.make_valid(np.array(holes)))) if holes else whole


def fill_holes(surface: Surface, greatest_area: float) -> tuple[Surface, list[float]]:
    """Close holes of at most ``greatest_area`` m2 by triangles between the points of their rim; the areas filled."""
    xy = surface.points[:, :2]
    new, areas = [], []
    for loop in boundary_loops(surface):
        area = -_area(xy[loop]) if len(loop) >= 3 else 0.0
        if not 0 < area <= greatest_area:
            continue
        rim = surface.points[loop]
        patch, _ = triangulate(rim, [np.concatenate([rim, rim[:1]])])
        if len(patch.points) != len(rim):  # a rim that touches itself cannot be closed so
            continue
        centre = patch.points[patch.triangles, :2].mean(axis=1)
        inside = shapely.contains_xy(shapely.Polygon(rim[:, :2]), centre[:, 0], centre[:, 1])
        # the patch keeps the given order of places: breaklines first, which is the rim's own order
        new.append(loop[patch.triangles[inside]])
        areas.append(area)
    if not new:
        return surface, []
    triangles = np.concatenate([surface.triangles, *new]).astype(np.int32)
    return Surface(surface.points, triangles, neighbours_of(triangles), surface.breakline_edges), areas
