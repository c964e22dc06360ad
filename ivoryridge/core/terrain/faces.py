"""Faces as files give them, made clean: none twice, none without area, none over another."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray

from ..findings import Finding
from ..tolerances import COINCIDENT, SAME_LEVEL, SAME_SURVEY_POINT

Floats = NDArray[np.float64]
Index = NDArray[np.int64]

__all__ = ["clean_faces", "covered_twice"]

NO_WIDTH = 1e-9  # m; a thinner face is the rounding of national coordinates, not ground
MOST_RIM = 400_000  # sides on the outside; more than that are no surface but single triangles, and are told unchecked
MOST_STEPS = 5_000_000_000  # places times sides; a few seconds
FARTHEST = 2e6  # m from the middle of the points; a face beyond is no ground


def clean_faces(points: Any, faces: Any, name: str) -> tuple[Index, list[Finding]]:
    """The faces (m, 3) of a surface that can be taken, in their order, and what was left out.

    A face that stands for the same three places as an earlier one, or has no area in plan, is dropped. Where faces lie over
    each other the earlier one is kept.
    """
    p, f = np.asarray(points, float).reshape(-1, 3), np.asarray(faces, np.int64).reshape(-1, 3)
    findings: list[Finding] = []
    if not len(f):
        return f, findings
    sound = p[np.isfinite(p[:, :2]).all(axis=1), :2]
    origin = np.floor(np.median(sound, axis=0)) if len(sound) else np.zeros(2)  # no single wild point moves it
    local = p - np.append(origin, 0.0)
    near = (np.abs(local[:, :2]) < FARTHEST).all(axis=1)  # false where it is no number
    if not (whole := near[f].all(axis=1)).all():
        findings.append(Finding("doubt", "faces-far", {"count": int((~whole).sum()), "surface": name, "limit": FARTHEST / 1000}))
        f = f[whole]
    if not near.all():
        local = np.where(near[:, None], local, 0.0)
    place = _places(local)
    f = _with_area(local, place, f, name, findings)
    f = _once(local, place, f, name, findings)
    if len(f):
        f = _apart(local, place, f, name, findings, origin)
    return f, findings


def _places(local: Floats) -> Index:
    """The number of the place (1 mm) each point stands at."""
    cell = np.round(local[:, :2] / SAME_SURVEY_POINT).astype(np.int64)
    key = cell[:, 0] * np.int64(4_294_967_291) + cell[:, 1]
    ordered = np.sort(key)
    if not (ordered[1:] == ordered[:-1]).any():
        return np.arange(len(key))
    _, first, inverse = np.unique(key, return_index=True, return_inverse=True)
    return np.asarray(first[inverse])


def _with_area(local: Floats, place: Index, f: Index, name: str, findings: list[Finding]) -> Index:
    a, b, c = (local[place[f[:, i]], :2] for i in range(3))
    twice = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0])
    longest = np.maximum.reduce([np.hypot(*(q - r).T) for q, r in ((a, b), (b, c), (c, a))])
    flat = twice <= NO_WIDTH * longest
    if flat.any():
        findings.append(Finding("note", "faces-without-area", {"count": int(flat.sum()), "surface": name}))
    return f[~flat]


def _once(local: Floats, place: Index, f: Index, name: str, findings: list[Finding]) -> Index:
    corners = place[f]
    sides = _sides(corners, _turned_one_way(local[:, :2], corners), len(local))
    ordered = np.sort(sides)
    twice = ordered[1:][ordered[1:] == ordered[:-1]]
    if not len(twice):
        return f  # a face given twice has its sides twice, in the same sense
    some = np.flatnonzero(np.isin(sides.reshape(-1, 3), twice).all(axis=1))
    shown = np.sort(corners[some], axis=1)
    order = np.lexsort((some, *shown.T[::-1]))
    same = (shown[order][1:] == shown[order][:-1]).all(axis=1)
    if not same.any():
        return f
    again, before = some[order[1:][same]], some[order[:-1][same]]
    levels = local[:, 2]
    other = np.abs(np.sort(levels[f[again]], axis=1) - np.sort(levels[f[before]], axis=1)).max(axis=1) > SAME_LEVEL
    findings.append(Finding("doubt", "faces-doubled", {"count": len(again), "surface": name}))
    if other.any():
        findings.append(Finding("fault", "faces-doubled-levels", {"count": int(other.sum()), "surface": name}))
    keep = np.ones(len(f), bool)
    keep[again] = False
    return f[keep]


def _turned_one_way(xy: Floats, triangles: Index) -> NDArray[np.bool_]:
    """(m,) the triangles that turn clockwise as they are given."""
    a, b, c = (xy[triangles[:, i]] for i in range(3))
    return np.asarray((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0] < 0)


def _sides(triangles: Index, clockwise: NDArray[np.bool_], n: int) -> Index:
    """(3 m,) a number for every side of every triangle, in its sense once all turn counter-clockwise."""
    t = np.where(clockwise[:, None], triangles[:, ::-1], triangles)
    return np.asarray(t.ravel() * np.int64(n) + np.roll(t, -1, axis=1).ravel())


def _apart(local: Floats, place: Index, f: Index, name: str, findings: list[Finding], origin: Floats) -> Index:
    corners = place[f]
    try:
        cells, counts = covered_twice(local[:, :2], corners)
    except OverflowError:
        findings.append(Finding("doubt", "faces-unchecked", {"surface": name}))
        return f
    if not len(cells):
        return f
    area = shapely.area(cells)
    at = shapely.get_coordinates(shapely.point_on_surface(cells[int(np.argmax(area))]))[0] + origin
    drop = _over_earlier(local[:, :2], corners, cells)
    findings.append(
        Finding(
            "fault", "faces-overlap",
            {"surface": name, "area": float((area * (counts - 1)).sum()), "count": int(drop.sum()), "easting": at[0], "northing": at[1]},
            place=(float(at[0]), float(at[1])),
        )
    )  # fmt: skip
    return f[~drop]


def covered_twice(xy: Floats, triangles: Index) -> tuple[NDArray[np.object_], Index]:
    """The parts of the plane that more than one triangle covers, as polygons, and how many cover each.

    Exact: turned one way, triangles cancel on every side that two of them share, and how many lie over a place can only
    change across a side that is left. So these sides alone are cut with each other, and one place of every cell between
    them is counted, as often as they go round it. Parts thinner than 1 mm are rounding. Raises OverflowError when there is too much to
    look at.
    """
    clockwise = _turned_one_way(xy, triangles)
    tail, head = np.divmod(_sides(triangles, clockwise, len(xy)), len(xy))
    low, high = np.minimum(tail, head), np.maximum(tail, head)
    code = np.sort((low * np.int64(len(xy)) + high) * 2 + (tail < head))
    starts = np.flatnonzero(np.append(True, code[1:] // 2 != code[:-1] // 2))
    net = np.add.reduceat(np.where(code % 2 == 1, 1, -1), starts)
    rim, net = np.stack(np.divmod(code[starts] // 2, len(xy)), axis=-1)[net != 0], net[net != 0]
    if len(rim) > MOST_RIM:
        raise OverflowError(len(rim))
    none = np.empty(0, object), np.empty(0, np.int64)
    if not len(rim):
        return none
    lines = shapely.union_all(shapely.linestrings(xy[rim]))
    cells = np.array(shapely.get_parts(shapely.polygonize(list(shapely.get_parts(lines)))), object)
    wide = 2 * shapely.area(cells) > SAME_SURVEY_POINT * shapely.length(cells)
    cells = cells[wide]
    if not len(cells):
        return none
    if len(cells) * len(rim) > MOST_STEPS:
        raise OverflowError(len(cells))
    counts = _windings(shapely.get_coordinates(shapely.point_on_surface(cells)), xy, rim, net)
    return cells[counts > 1], counts[counts > 1]


@njit(cache=True)
def _windings(places, xy, rim, weight):
    """How often the weighted sides go round each place, counter-clockwise."""
    out = np.zeros(len(places), np.int64)
    for q in range(len(places)):
        x, y = places[q, 0], places[q, 1]
        for k in range(len(rim)):
            a, b = rim[k, 0], rim[k, 1]
            ya, yb = xy[a, 1], xy[b, 1]
            if (ya <= y) == (yb <= y):
                continue
            left = (xy[b, 0] - xy[a, 0]) * (y - ya) - (yb - ya) * (x - xy[a, 0])
            if ya <= y and left > 0:
                out[q] += weight[k]
            elif yb <= y and left < 0:
                out[q] -= weight[k]
    return out


def _over_earlier(xy: Floats, triangles: Index, cells: NDArray[np.object_]) -> NDArray[np.bool_]:
    """(m,) the triangles that lie over an earlier one that stays."""
    tree = shapely.STRtree(cells)
    boxes = xy[triangles]
    low, high = boxes.min(axis=1), boxes.max(axis=1)
    e0, n0, e1, n1 = shapely.total_bounds(cells)
    some = np.flatnonzero((low[:, 0] <= e1) & (high[:, 0] >= e0) & (low[:, 1] <= n1) & (high[:, 1] >= n0))
    near = some[np.unique(tree.query(shapely.box(*low[some].T, *high[some].T))[0])]
    polygons = shapely.polygons(boxes[near])
    i, j = shapely.STRtree(polygons).query(polygons, predicate="intersects")
    i, j = i[i < j], j[i < j]
    both = shapely.intersection(polygons[i], polygons[j])
    deep = 2 * shapely.area(both) > SAME_SURVEY_POINT * np.maximum(shapely.length(both), COINCIDENT)
    drop = np.zeros(len(triangles), bool)
    order = np.lexsort((i[deep], j[deep]))
    for first, second in zip(near[i[deep][order]], near[j[deep][order]], strict=True):
        if not drop[first]:
            drop[second] = True
    return drop
