"""Several surfaces to one: the first in priority keeps its ground, the next fills what is left, with shared vertices."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..errors import InputError
from ..findings import Finding
from .outline import outline_of
from .surface import Floats, Surface, find_triangles
from .triangulate import neighbours_of, select_triangles, sides_of, triangulate

__all__ = ["Seam", "merge_surfaces"]


@dataclass(frozen=True, slots=True)
class Seam:
    """Where a lower surface meets what lies above it in priority: step in level at the rim, m; place of the greatest."""

    greatest: float
    mean: float
    place: tuple[float, float]


def merge_surfaces(surfaces: Sequence[Surface]) -> tuple[Surface, list[Seam], list[Finding]]:
    """One surface of several, highest priority first.

    Returns
    -------
    surface    one record; its pieces may be more than one, see ``pieces_of``
    seams      one for each surface after the first that overlaps what is there
    findings   steps at the seams, and surfaces that are covered wholly

    Notes
    -----
    The outline of what is there is cut out of the next surface. Both sides are triangulated together with their own
    edges held, so the triangles of either stay, and where an edge of the lower one meets the rim both sides share the
    new vertex, which lies on the rim in level. Checked: areas against shapely, no gap and no overlap.
    """
    if not surfaces:
        raise InputError("surface-empty")
    whole, seams, findings = surfaces[0], [], []
    for number, lower in enumerate(surfaces[1:], 2):
        rim, under = outline_of(whole), outline_of(lower)
        if not rim.intersects(under):
            whole = _beside(whole, lower)
            continue
        rest = under.difference(rim)
        if rest.area <= 1e-9 * under.area:
            findings.append(Finding("note", "merge-covered", {"number": number}))
            continue
        if seam := _seam(whole, lower, rim):
            seams.append(seam)
            findings.append(
                Finding("note", "merge-step", {"number": number, "greatest": seam.greatest, "mean": seam.mean}, place=seam.place)
            )
        whole = _join(whole, lower, rim, rest)
    return whole, seams, findings


def _beside(a: Surface, b: Surface) -> Surface:
    shift = len(a.points)
    triangles = np.concatenate([a.triangles, b.triangles + shift])
    return Surface(
        np.concatenate([a.points, b.points]), triangles, neighbours_of(triangles),
        np.concatenate([a.breakline_edges, b.breakline_edges + shift]),
    )  # fmt: skip


def _seam(whole: Surface, lower: Surface, rim: shapely.Geometry) -> Seam | None:
    """Step along the rim, read at its vertices and at every metre."""
    places = shapely.get_coordinates(shapely.segmentize(rim.boundary, 1.0))
    _, above = find_triangles(whole, _inward(places, rim))
    _, below = find_triangles(lower, places)
    step = np.abs(above - below)
    known = np.isfinite(step)
    if not known.any():
        return None
    at = int(np.nanargmax(np.where(known, step, np.nan)))
    return Seam(float(step[at]), float(step[known].mean()), (float(places[at, 0]), float(places[at, 1])))


def _inward(places: Floats, rim: shapely.Geometry) -> Floats:
    """Places a hair inside, so that rounding does not push them off the surface whose rim they are on."""
    centre = shapely.get_coordinates(rim.representative_point())[0]
    d = centre - places
    return places + 1e-7 * d / np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-12)[:, None]


def _join(whole: Surface, lower: Surface, rim: shapely.Geometry, rest: shapely.Geometry) -> Surface:
    shapely.prepare(rim)
    upper_edges, own = sides_of(whole.triangles), sides_of(lower.triangles)
    segments = shapely.linestrings(lower.points[own][:, :, :2])
    cut = shapely.difference(segments, rim)
    parts, of = shapely.get_parts(cut, return_index=True)
    lines: list[Floats] = [whole.points[e] for e in upper_edges]
    lines += [_with_levels(shapely.get_coordinates(part), lower.points[own[i]]) for part, i in zip(parts, of, strict=True)]
    # the rim's own level wins: where a cut edge ends on the rim, its end is put on the rim's line
    shapely.prepare(rest)
    free = ~shapely.intersects_xy(rim, *lower.points[:, :2].T)
    lines = _ends_on_rim(lines, len(upper_edges), whole, rim)
    joined, _ = triangulate(np.concatenate([whole.points, lower.points[free]]), lines)
    centre = joined.points[joined.triangles, :2].mean(axis=1)
    shapely.prepare(joined_area := rim.union(rest))
    keep = shapely.contains_xy(joined_area, centre[:, 0], centre[:, 1])
    triangles, neighbours = select_triangles(joined.triangles, joined.neighbours, keep)
    return Surface(joined.points, triangles, neighbours, _held(joined, whole, lower))


def _with_levels(xy: Floats, edge: Floats) -> Floats:
    d = edge[1, :2] - edge[0, :2]
    share = (xy - edge[0, :2]) @ d / (d @ d)
    return np.column_stack([xy, edge[0, 2] + share * (edge[1, 2] - edge[0, 2])])


def _ends_on_rim(lines: list[Floats], n_upper: int, whole: Surface, rim: shapely.Geometry) -> list[Floats]:
    lower = lines[n_upper:]
    if not lower:
        return lines
    stacked = np.concatenate(lower)
    on = shapely.distance(rim.boundary, shapely.points(stacked[:, :2])) < 1e-6
    _, z = find_triangles(whole, _inward(stacked[on, :2], rim))
    level = stacked[:, 2].copy()
    level[on] = np.where(np.isfinite(z), z, level[on])
    stacked = np.column_stack([stacked[:, :2], level])
    ends = np.cumsum([len(x) for x in lower])[:-1]
    return lines[:n_upper] + [np.asarray(x) for x in np.split(stacked, ends)]


def _held(joined: Surface, whole: Surface, lower: Surface) -> NDArray[np.int32]:
    """Breakline edges of the parts that are still edges here; the edges held for the seam alone are none."""
    from scipy.spatial import cKDTree

    tree = cKDTree(joined.points[:, :2])
    out = []
    for s in (whole, lower):
        if len(s.breakline_edges):
            distance, index = tree.query(s.points[:, :2])
            good = distance[s.breakline_edges].max(axis=1) < 2e-3
            out.append(index[s.breakline_edges[good]])
    return np.concatenate(out).astype(np.int32) if out else np.empty((0, 2), np.int32)
