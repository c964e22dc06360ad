"""From points and breaklines to a surface: constrained Delaunay triangulation.

The predicates and the triangulation are the library's; ours is what surrounds them: one point a place, a local
origin, levels at crossings, and the trimming of the outside.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import pythoncdt as cdt
from numba import njit
from numpy.typing import NDArray

from ..arrays import given_away
from ..errors import InputError
from ..findings import Finding
from ..tolerances import COINCIDENT, CROSSING_LEVELS, SAME_LEVEL, SAME_SURVEY_POINT
from .surface import Floats, Ints, Surface

__all__ = ["merge_places", "surface_from_faces", "triangulate"]


def triangulate(
    points: Any, breaklines: Sequence[Any] = (), *, greatest_edge: float | None = None, edges: Any = None, tell_edges: bool = True
) -> tuple[Surface, list[Finding]]:
    """A surface over points (n, 3) that keeps breaklines (each (k, 3)) as edges.

    Parameters
    ----------
    edges : (k, 2)       more edges to be held, as numbers of ``points``; of crossing ones the earlier gives the level
    tell_edges           the surface knows which of its edges were held; of many that takes as long as the rest
    greatest_edge : m    triangles are taken away from the outside while their outer edge is longer; None keeps the hull

    Raises
    ------
    InputError    a coordinate is not finite, fewer than 3 places, or all places on one line

    Notes
    -----
    Points nearer than 1 mm in plan become one; breakline vertices win over spot points, earlier over later. Where
    breaklines cross, both are cut at the crossing, and the level is that of the earlier line.
    """
    spots = np.asarray(points, float).reshape(-1, 3)
    lines = [np.asarray(b, float).reshape(-1, 3) for b in breaklines]
    stacked = np.concatenate([*lines, spots]) if lines else spots
    if not np.isfinite(stacked.sum()) and not np.isfinite(stacked).all():  # the sum says it first, and quicker
        bad = ~np.isfinite(stacked).all(axis=1)
        raise InputError("points-not-finite", count=int(bad.sum()), total=len(stacked), first=int(np.argmax(bad)) + 1)
    merged, index, findings = merge_places(stacked)
    if len(merged) < 3:
        raise InputError("too-few-points", count=len(merged))
    held_edges, line_of = _breakline_edges(lines, index, findings)
    if edges is not None and len(edges):
        held_edges, line_of = _with_edges(
            held_edges, line_of, index[np.asarray(edges, np.int64) + (len(stacked) - len(spots))], len(lines)
        )
    origin = np.array([np.floor(merged[:, k].mean()) for k in (0, 1)])  # by column: quicker than along rows of two
    local = np.ascontiguousarray(merged[:, :2] - origin)
    some = local[:: max(len(local) // 5000, 1)]
    if np.linalg.svd(some - some.mean(axis=0), compute_uv=False)[-1] < COINCIDENT and _in_line(local - local.mean(axis=0)):
        raise InputError("points-in-line", count=len(merged))

    # neighbours in plan are inserted together: the same triangulation in two thirds of the time
    order = _along_a_curve(local)
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    t = cdt.Triangulation(cdt.VertexInsertionOrder.AUTO, cdt.IntersectingConstraintEdges.TRY_RESOLVE, 1e-6)
    # an array is a buffer; numpy's types do not say so
    t.insert_vertices(np.ascontiguousarray(local[order]))  # type: ignore[call-overload]
    crossings: dict[int, list[int]] = {}
    if len(held_edges):
        inserted = rank[held_edges].astype(np.int32)
        t.insert_edges(inserted.astype(np.uint32))  # type: ignore[call-overload]
        if len(t.vertices_array()) - 3 > len(merged):
            crossings = _crossing_parents(t, inserted, line_of, len(merged))
    fixed = t.fixed_edges if tell_edges else ()
    held = np.array([(e.v1 - 3, e.v2 - 3) for e in fixed], np.int64).reshape(-1, 2)  # 3: the frame's
    vertices = t.vertices_array()[3:]  # without the frame's three
    given = np.concatenate([order, np.arange(len(order), len(vertices))])  # new vertices at crossings keep their places
    raw = t.triangles_array()
    triangles, neighbours = _without_frame(raw["vertices"], raw["neighbors"], given)
    breaks = given[held].astype(np.int32)
    if not len(triangles):
        raise InputError("points-in-line", count=len(merged))
    places = merged
    if len(vertices) > len(merged):
        places = _with_crossings(merged, vertices, origin, crossings, held_edges, findings)
    if greatest_edge is not None:
        triangles, neighbours = _trim_outside(places, triangles, neighbours, greatest_edge)
    return Surface(places, triangles, neighbours, breaks), findings


def _along_a_curve(local: Floats) -> NDArray[np.int64]:
    """Order of points along a curve that fills the plane in 256 x 256 cells (Morton's; G. M. Morton 1966, from memory)."""
    low = np.array([local[:, k].min() for k in (0, 1)])
    span = max(*(float(local[:, k].max() - low[k]) for k in (0, 1)), COINCIDENT)
    cell = np.minimum((local - low) / span * 256, 255).astype(np.uint16)
    for shift, mask in ((4, 0x0F0F), (2, 0x3333), (1, 0x5555)):
        cell = (cell | (cell << np.uint16(shift))) & np.uint16(mask)
    return np.argsort(cell[:, 0] | (cell[:, 1] << np.uint16(1)), kind="stable")


@njit(cache=True)
def _without_frame(corners, across, given):
    """Triangles by given point numbers, and neighbours, without those at the frame of three far points that the library
    starts from; its numbers are 3 higher, and its greatest number stands for no neighbour."""
    m = len(corners)
    number = np.full(m, -1, np.int32)
    kept = 0
    for k in range(m):
        if corners[k, 0] >= 3 and corners[k, 1] >= 3 and corners[k, 2] >= 3:
            number[k] = kept
            kept += 1
    triangles, neighbours = np.empty((kept, 3), np.int32), np.empty((kept, 3), np.int32)
    for k in range(m):
        i = number[k]
        if i >= 0:
            for c in range(3):
                triangles[i, c] = given[np.int64(corners[k, c]) - 3]
                other = np.int64(across[k, c])
                neighbours[i, c] = number[other] if other < m else -1
    return triangles, neighbours


def merge_places(points: Floats) -> tuple[Floats, Ints, list[Finding]]:
    """One point a place: the kept points, the index of each given point among them, and findings on levels."""
    origin = np.array([np.floor(points[:, k].min()) for k in (0, 1)]) if len(points) else np.zeros(2)
    cells = np.round((points[:, :2] - origin) / SAME_SURVEY_POINT).astype(np.int64)
    key = cells[:, 0] * np.int64(4_294_967_291) + cells[:, 1]
    ordered = np.sort(key)
    if not (ordered[1:] == ordered[:-1]).any():
        return points, np.arange(len(points), dtype=np.int32), []
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    order = np.argsort(first, kind="stable")  # keep the given order
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    index = rank[inverse]
    kept = points[first[order]]
    findings: list[Finding] = []
    doubled = len(points) - len(kept)
    if doubled:
        difference = np.abs(points[:, 2] - kept[index, 2])
        worse = difference > SAME_LEVEL
        if worse.any():
            at = int(np.argmax(difference))
            findings.append(
                Finding(
                    "doubt", "points-duplicate-levels",
                    {"count": int(worse.sum()), "greatest": float(difference.max())},
                    place=(float(points[at, 0]), float(points[at, 1])),
                )
            )  # fmt: skip
    return kept, index.astype(np.int32), findings


def _breakline_edges(lines: list[Floats], index: Ints, findings: list[Finding]) -> tuple[Ints, Ints]:
    """(k, 2) point indices of all breakline edges, and the line each came from."""
    edges, owners, at = [], [], 0
    for number, line in enumerate(lines):
        own = index[at : at + len(line)]
        at += len(line)
        pair = np.stack([own[:-1], own[1:]], axis=-1)
        pair = pair[pair[:, 0] != pair[:, 1]]
        if not len(pair):
            findings.append(Finding("note", "breakline-short", {"name": str(number + 1)}))
            continue
        edges.append(pair)
        owners.append(np.full(len(pair), number))
    if not edges:
        return np.empty((0, 2), np.int32), np.empty(0, np.int32)
    stacked, owner = np.concatenate(edges), np.concatenate(owners)
    _, first = np.unique(np.sort(stacked, axis=1), axis=0, return_index=True)
    first.sort()
    return stacked[first].astype(np.int32), owner[first].astype(np.int32)


def _with_edges(held: Ints, line_of: Ints, more: Ints, first: int) -> tuple[Ints, Ints]:
    """Edges of breaklines and further ones, each once and the earlier one kept; the further ones count as lines from ``first`` on."""
    more = more[more[:, 0] != more[:, 1]]
    stacked = np.concatenate([held.reshape(-1, 2), more])
    owner = np.concatenate([line_of, first + np.arange(len(more))])
    low, high = stacked.min(axis=1).astype(np.int64), stacked.max(axis=1).astype(np.int64)
    _, once = np.unique(low * (np.int64(stacked.max(initial=0)) + 1) + high, return_index=True)
    once.sort()
    return stacked[once].astype(np.int32), owner[once].astype(np.int32)


def _crossing_parents(t: Any, edges: Ints, line_of: Ints, n_points: int) -> dict[int, list[int]]:
    """For each vertex the library added at a crossing: the indices of the breakline edges through it."""
    found = [
        (v, min(o.v1, o.v2) - 3, max(o.v1, o.v2) - 3)
        for piece, originals in t.piece_to_originals.items() for v in (piece.v1 - 3, piece.v2 - 3) if v >= n_points
        for o in originals
    ]  # fmt: skip
    through = np.array(found, np.int64).reshape(-1, 3)
    low, high = np.sort(edges.astype(np.int64), axis=1).T
    base = np.int64(max(n_points, through[:, 2].max(initial=0) + 1))
    keys, asked = low * base + high, through[:, 1] * base + through[:, 2]
    order = np.argsort(keys, kind="stable")
    at = order[np.minimum(np.searchsorted(keys[order], asked), len(order) - 1)]
    parents: dict[int, set[int]] = {}
    for v, edge in zip(through[:, 0].tolist(), np.where(keys[at] == asked, at, -1).tolist(), strict=True):
        if edge >= 0:
            parents.setdefault(v, set()).add(edge)
    return {v: sorted(those, key=lambda e: (line_of[e], e)) for v, those in parents.items()}


def _with_crossings(
    merged: Floats, vertices: Any, origin: Floats, parents: dict[int, list[int]], edges: Ints, findings: list[Finding]
) -> Floats:
    extra = np.stack([vertices["x"][len(merged) :], vertices["y"][len(merged) :]], axis=-1) + origin
    levels = np.empty(len(extra))
    for k, place in enumerate(extra):
        found = [_level_on(merged[edges[e]], place) for e in parents[len(merged) + k]]
        levels[k] = found[0]
        difference = max(found) - min(found)
        if difference > CROSSING_LEVELS:
            findings.append(
                Finding(
                    "doubt", "breaklines-cross-levels",
                    {"easting": place[0], "northing": place[1], "difference": difference, "limit": CROSSING_LEVELS},
                    place=(float(place[0]), float(place[1])),
                )
            )  # fmt: skip
    return np.concatenate([merged, np.column_stack([extra, levels])])


def _level_on(edge: Floats, place: Floats) -> float:
    a, b = edge
    d = b[:2] - a[:2]
    share = float((place - a[:2]) @ d / (d @ d))
    return float(a[2] + share * (b[2] - a[2]))


def _in_line(centred: Floats) -> bool:
    far = centred[np.argmax(np.abs(centred).sum(axis=1))]
    across = np.abs(centred[:, 0] * far[1] - centred[:, 1] * far[0]) / max(np.hypot(*far), COINCIDENT)
    return bool(across.max() < COINCIDENT)


def _trim_outside(points: Floats, triangles: Ints, neighbours: Ints, limit: float) -> tuple[Ints, Ints]:
    """Peel triangles off the outside while one of their outer sides is longer than ``limit`` m."""
    a, b = points[triangles, :2], points[np.roll(triangles, -1, axis=1), :2]
    long = np.hypot(*(b - a).transpose(2, 0, 1)) > limit
    keep = np.ones(len(triangles), bool)
    while True:
        outside = (neighbours < 0) | ~keep[neighbours]
        drop = keep & (outside & long).any(axis=1)
        if not drop.any():
            break
        keep &= ~drop
    if not keep.any():
        raise InputError("surface-empty")
    return select_triangles(triangles, neighbours, keep)


def select_triangles(triangles: Ints, neighbours: Ints, keep: Any) -> tuple[Ints, Ints]:
    """Triangles and neighbours that remain, renumbered."""
    kept, beside = _selected(np.asarray(triangles, np.int32), np.asarray(neighbours, np.int32), np.asarray(keep, bool))
    return given_away(kept), given_away(beside)


@njit(cache=True)
def _selected(triangles, neighbours, keep):
    number = np.full(len(keep), -1, np.int32)
    n = 0
    for k in range(len(keep)):
        if keep[k]:
            number[k] = n
            n += 1
    kept, beside = np.empty((n, 3), np.int32), np.empty((n, 3), np.int32)
    for k in range(len(keep)):
        at = number[k]
        if at >= 0:
            for i in range(3):
                kept[at, i] = triangles[k, i]
                other = neighbours[k, i]
                beside[at, i] = number[other] if other >= 0 else -1
    return kept, beside


def surface_from_faces(points: Any, faces: Any) -> Surface:
    """A surface from triangles as they are given, e.g. by a file; turned counter-clockwise, slivers left out."""
    p = np.asarray(points, float).reshape(-1, 3)
    f = np.asarray(faces, np.int64).reshape(-1, 3)
    if not len(f):
        raise InputError("surface-empty")
    q = p[:, :2] - p[f[0, 0], :2]
    a, b, c = (q[f[:, i]] for i in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    f = np.where(twice[:, None] < 0, f[:, ::-1], f)[np.abs(twice) > COINCIDENT**2]
    if not len(f):
        raise InputError("surface-empty")
    return Surface(p, f, neighbours_of(f))


def sides_of(triangles: Any) -> Ints:
    """(k, 2) every side of the triangles once, lower point index first."""
    t = np.asarray(triangles, np.int64)
    a, b = t.ravel(), np.roll(t, -1, axis=1).ravel()
    many = int(t.max(initial=0)) + 1
    code = np.sort(np.minimum(a, b) * many + np.maximum(a, b))  # quicker than np.unique, which hashes first
    low, high = np.divmod(code[np.append(True, code[1:] != code[:-1])[: len(code)]], many)
    return np.stack([low, high], axis=-1).astype(np.int32)


def neighbours_of(triangles: Any) -> Ints:
    """(m, 3) neighbour across the side from corner i to i + 1, -1 where none (or more than two) share it."""
    f = np.asarray(triangles, np.int64)
    a, b = f.ravel(), np.roll(f, -1, axis=1).ravel()
    low, high = np.minimum(a, b), np.maximum(a, b)
    order = np.lexsort((high, low))
    same = (low[order][1:] == low[order][:-1]) & (high[order][1:] == high[order][:-1])
    out = np.full(len(a), -1, np.int64)
    i, j = order[:-1][same], order[1:][same]
    out[i], out[j] = j // 3, i // 3
    return out.reshape(-1, 3).astype(np.int32)
