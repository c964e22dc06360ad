"""Named checks of ground data. Each finding says where, with which points, so that it can be answered in place."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..errors import InputError
from ..findings import Finding, Severity
from ..tolerances import SAME_LEVEL, SAME_SURVEY_POINT
from .outline import outline_of, pieces_of
from .recipe import Ground, Recipe
from .surface import Floats, Surface, find_triangles
from .triangulate import sides_of, surface_from_faces, triangulate

__all__ = ["GroundFinding", "check_ground"]

# thresholds: common practice, no source
ZERO = 0.0005  # m; a level this near to zero was most likely not measured
SPIKE_HEIGHT = 1.0  # m over (or under) every neighbour
SPIKE_SLOPE = 1.0  # m/m towards every neighbour
ISOLATED = 8.0  # times the spacing that nine of ten points keep
FAR = 5_000.0  # m from the middle of the rest
OFF_BREAKLINE_PLAN = 0.10  # m beside a breakline
OFF_BREAKLINE_LEVEL = 0.10  # m above or below it
FLAT_SHARE = 0.10  # of the triangles, all three corners on one level
DISAGREE = 0.05  # m between overlapping surfaces
MOST_EACH = 200  # findings of one kind; the rest are counted


@dataclass(frozen=True, slots=True)
class GroundFinding:
    """A finding and what it is about: ``points`` (survey, number) that an answer may leave out or set; ``level`` a proposal.

    ``key`` stays the same while the data do, so that an answer is remembered.
    """

    finding: Finding
    key: str
    points: tuple[tuple[int, int], ...] = ()
    level: float | None = None

    def as_dict(self) -> dict[str, Any]:
        return {**self.finding.as_dict(), "key": self.key, "points": [list(p) for p in self.points], "level": self.level}


def check_ground(recipe: Recipe, ground: Ground, surface: Surface | None = None) -> list[GroundFinding]:
    """All checks, in the order in which an engineer would clear them up.

    ``ground`` is what ``gather`` gives for the recipe; ``surface``, if it could be made, is looked at for its pieces.
    """
    out: list[GroundFinding] = []
    named = _Named(recipe, ground)
    known: NDArray[np.bool_] = np.asarray(np.isfinite(ground.points).all(axis=1))
    for check in (_no_levels, _zero_levels, _far_points, _duplicates, _spikes, _isolated, _off_breaklines):
        out += _limited(check(named, known))
    out += _contours_only(surface)
    out += _overlaps(recipe)
    if surface is not None and len(pieces := pieces_of(surface)) > 1:
        told = ", ".join(f"{p.plan_area / 10_000:.2f} ha" for p in pieces[:6]) + (" and more" if len(pieces) > 6 else "")
        out.append(_about("doubt", "surface-pieces", {"count": len(pieces), "told": told}, place=pieces[1].place))
    return out


def _limited(found: list[GroundFinding]) -> list[GroundFinding]:
    return found[:MOST_EACH]


def _about(
    severity: Severity,
    code: str,
    params: dict[str, Any],
    *,
    place: Any = None,
    points: Sequence[Any] = (),
    level: float | None = None,
) -> GroundFinding:
    where = None if place is None else (float(place[0]), float(place[1]))
    refs = tuple((int(a), int(b)) for a, b in points)
    key = code + "".join(f":{a}-{b}" for a, b in refs) if refs else f"{code}@{where}"
    return GroundFinding(Finding(severity, code, params, place=where), key, refs, level)


class _Named:
    """Ground, and what its points are called in their files."""

    def __init__(self, recipe: Recipe, ground: Ground) -> None:
        self.surveys = {s.number: s.survey for s in recipe.sources}
        self.points, self.of, self.role = ground.points, ground.of, ground.role

    def name(self, i: int) -> str:
        survey, number = (int(v) for v in self.of[i])
        return self.surveys[survey].name_of(number) if survey else f"added {number + 1}"


def _no_levels(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    bare = np.flatnonzero(np.isnan(ground.points[:, 2]))
    out = []
    if len(bare):
        e, n = ground.points[bare[0], :2]
        params = {"count": len(bare), "what": "points", "easting": e, "northing": n}
        out.append(_about("doubt", "no-level", params, place=(e, n), points=list(ground.of[bare[:50]])))
    for line in ground.role("breakline"):
        missing = np.flatnonzero(np.isnan(line.vertices[:, 2]))
        if len(missing):
            e, n = line.vertices[missing[0], :2]
            params = {"count": len(missing), "what": "vertices of a breakline", "easting": e, "northing": n}
            out.append(_about("doubt", "no-level", params, place=(e, n)))
    return out


def _zero_levels(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    z = ground.points[:, 2]
    if not known.any():
        return []
    low, high = np.quantile(z[known], [0.02, 0.98])
    if low - (high - low) <= 0.0 <= high + (high - low):
        return []  # ground near zero level: a zero says nothing
    tree, real = _neighbourhood(ground, known & (np.abs(z) > ZERO))
    out = []
    for i in np.flatnonzero(known & (np.abs(z) <= ZERO)).tolist():
        near = _near_level(ground, tree, real, int(i))
        params = {"point": ground.name(i), "elevation": float(z[i]), "near": near}
        out.append(_about("fault", "zero-level", params, place=ground.points[i], points=[ground.of[i]], level=near))
    return out


def _neighbourhood(ground: _Named, mask: NDArray[np.bool_]) -> tuple[Any, NDArray[np.int64]]:
    rows = np.flatnonzero(mask)
    return cKDTree(ground.points[rows, :2]) if len(rows) else None, rows


def _near_level(ground: _Named, tree: Any, rows: NDArray[np.int64], i: int) -> float:
    """Level at a point: the middle of its six nearest others, so that another fault beside it does not count."""
    _, index = tree.query(ground.points[i, :2], k=min(7, len(rows)))
    near = rows[np.atleast_1d(index)]
    return float(np.median(ground.points[near[near != i][:6], 2]))


def _far_points(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    p = ground.points[:, :2]
    if known.sum() < 5:
        return []
    low, high = np.quantile(p[known], [0.02, 0.98], axis=0)
    middle, reach = (low + high) / 2, np.maximum(high - low, 1.0)
    away = np.hypot(*(p - middle).T)
    far = known & (away > np.maximum(FAR, 3 * np.hypot(*reach)))
    out = []
    for i in np.flatnonzero(far).tolist():
        turned = p[i, ::-1]
        swapped = bool((np.abs(turned - middle) < 1.5 * reach).all())
        params = {"point": ground.name(i), "distance": float(away[i]) / 1000}
        out.append(_about("fault", "swapped" if swapped else "far-point", params, place=p[i], points=[ground.of[i]]))
    return out


def _duplicates(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    """Points at the place (1 mm) of an earlier one with another level. Of many at one place each is held against the first only,
    so the work grows with the points."""
    rows = np.flatnonzero(known)
    if len(rows) < 2:
        return []
    p = ground.points[rows]
    pairs: set[tuple[int, int]] = set()
    for shift in itertools.product(
        (0.0, SAME_SURVEY_POINT), repeat=2
    ):  # cells of 2 mm, so laid that no near pair is parted in all
        cell = np.round((p[:, :2] - p[:, :2].min(axis=0) + shift) / (2 * SAME_SURVEY_POINT))
        order = np.lexsort((rows, cell[:, 1], cell[:, 0]))
        same = (cell[order][1:] == cell[order][:-1]).all(axis=1)
        first = order[np.maximum.accumulate(np.where(np.append(False, same), -1, np.arange(len(order))))][1:][same]
        again = order[1:][same]
        apart = np.abs(p[first, 2] - p[again, 2]) > SAME_LEVEL
        near = np.hypot(*(p[first, :2] - p[again, :2]).T) <= SAME_SURVEY_POINT
        pairs |= {(int(a), int(b)) for a, b in zip(first[apart & near], again[apart & near], strict=True)}
        if len(pairs) > 2 * MOST_EACH:
            break
    out = []
    for a, b in sorted(pairs)[:MOST_EACH]:
        i, j = int(rows[a]), int(rows[b])
        params = {"first": ground.name(i), "second": ground.name(j), "difference": abs(float(p[a, 2] - p[b, 2]))}
        out.append(_about("doubt", "duplicate-levels", params, place=p[a], points=[ground.of[i], ground.of[j]]))
    return out


def _spikes(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    """A point that is far above, or far below, every point it shares a triangle with."""
    rows = np.flatnonzero(known)
    if len(rows) < 4:
        return []
    lines = [g.vertices[np.isfinite(g.vertices).all(axis=1)] for g in ground.role("breakline")]
    stacked = np.concatenate([ground.points[rows], *lines])
    try:
        surface, _ = triangulate(stacked)
    except InputError:  # all in one line: no neighbours to stand out from
        return []
    a, b = sides_of(surface.triangles).T
    rise = surface.points[b, 2] - surface.points[a, 2]
    slope = rise / np.maximum(np.hypot(*(surface.points[b, :2] - surface.points[a, :2]).T), 1e-6)
    ends, others = np.concatenate([a, b]), np.concatenate([b, a])
    up, steep = np.concatenate([-rise, rise]), np.concatenate([-slope, slope])  # how far each end stands over the other
    out = []
    tree = cKDTree(ground.points[rows, :2])
    for sign, way in ((1.0, "above"), (-1.0, "below")):
        least, flattest = np.full(len(surface.points), np.inf), np.full(len(surface.points), np.inf)
        np.minimum.at(least, ends, sign * up)
        np.minimum.at(flattest, ends, sign * steep)
        for v in np.flatnonzero((least > SPIKE_HEIGHT) & (flattest > SPIKE_SLOPE) & np.isfinite(least)):
            distance, k = tree.query(surface.points[v, :2])
            if distance > SAME_SURVEY_POINT:
                continue  # a vertex of a line
            i = rows[k]
            level = float(np.median(surface.points[others[ends == v], 2]))
            params = {"point": ground.name(i), "height": float(least[v]), "way": way, "slope": 100 * float(flattest[v])}
            if abs(ground.points[i, 2]) > ZERO:  # a zero level is told as such
                out.append(_about("fault", "spike", params, place=ground.points[i], points=[ground.of[i]], level=level))
    return out


def _isolated(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    rows = np.flatnonzero(known)
    if len(rows) < 20:
        return []
    distance = cKDTree(ground.points[rows, :2]).query(ground.points[rows, :2], k=2, workers=-1)[0][:, 1]
    usual = float(np.quantile(distance, 0.9))
    middle = np.median(ground.points[rows, :2], axis=0)
    out = []
    for k in np.flatnonzero(distance > ISOLATED * max(usual, 0.1)):
        i = rows[k]
        if np.hypot(*(ground.points[i, :2] - middle)) > FAR:
            continue  # told as a far point
        params = {"point": ground.name(i), "distance": float(distance[k]), "usual": usual}
        out.append(_about("note", "isolated", params, place=ground.points[i], points=[ground.of[i]]))
    return out


def _off_breaklines(ground: _Named, known: NDArray[np.bool_]) -> list[GroundFinding]:
    lines = [g.vertices for g in ground.role("breakline") if np.isfinite(g.vertices).all() and len(g.vertices) > 1]
    if not lines or not known.any():
        return []
    a = np.concatenate([v[:-1] for v in lines])
    b = np.concatenate([v[1:] for v in lines])
    tree = shapely.STRtree(shapely.linestrings(np.stack([a[:, :2], b[:, :2]], axis=1)))
    rows = np.flatnonzero(known)
    k, segment = tree.query(shapely.points(ground.points[rows, :2]), predicate="dwithin", distance=OFF_BREAKLINE_PLAN)
    p, d = ground.points[rows[k]], b[segment] - a[segment]
    share = np.clip(((p - a[segment])[:, :2] * d[:, :2]).sum(axis=1) / np.maximum((d[:, :2] ** 2).sum(axis=1), 1e-12), 0, 1)
    foot = a[segment] + share[:, None] * d
    up = p[:, 2] - foot[:, 2]
    out: dict[int, GroundFinding] = {}
    for j in np.flatnonzero(np.abs(up) > OFF_BREAKLINE_LEVEL):
        i = int(rows[k[j]])
        params = {
            "point": ground.name(i), "plan": float(np.hypot(*(p[j] - foot[j])[:2])), "difference": abs(float(up[j])),
            "way": "above" if up[j] > 0 else "below", "limit": OFF_BREAKLINE_LEVEL,
        }  # fmt: skip
        out[i] = _about("doubt", "off-breakline", params, place=p[j], points=[ground.of[i]], level=float(foot[j, 2]))
    return list(out.values())


def _contours_only(surface: Surface | None) -> list[GroundFinding]:
    if surface is None:
        return []
    z = surface.points[surface.triangles, 2]
    flat = np.ptp(z, axis=1) < SAME_LEVEL
    if flat.all() or flat.mean() <= FLAT_SHARE:
        return []
    at = surface.points[surface.triangles[np.flatnonzero(flat)[flat.sum() // 2]], :2].mean(axis=0)
    return [_about("doubt", "contours-only", {"share": 100 * float(flat.mean())}, place=at)]


def _overlaps(recipe: Recipe) -> list[GroundFinding]:
    """Surfaces among the sources that lie over each other with different levels.

    The greatest difference is exact: the difference of two triangulated surfaces is plane between the corners of both and
    the crossings of their sides, so it is greatest at one of these.
    """
    faced = [(s.number, surface_from_faces(s.survey.points, s.survey.faces)) for s in recipe.sources if len(s.survey.faces)]
    out = []
    for k, (first, a) in enumerate(faced):
        for second, b in faced[k + 1 :]:
            both = outline_of(a).intersection(outline_of(b))
            if both.area < 1.0:
                continue
            places = np.concatenate([a.points[:, :2], b.points[:, :2], _crossings(a, b, both), shapely.get_coordinates(both)])
            difference = np.abs(find_triangles(a, places)[1] - find_triangles(b, places)[1])
            there = np.isfinite(difference)
            if there.any() and (greatest := float(difference[there].max())) > DISAGREE:
                at = places[int(np.nanargmax(np.where(there, difference, -1.0)))]
                params = {
                    "first": f"Survey {first}", "second": f"survey {second}", "area": both.area / 10_000, "greatest": greatest,
                    "mean": float(difference[there].mean()),
                }  # fmt: skip
                out.append(_about("doubt", "surfaces-disagree", params, place=at))
    return out


def _crossings(a: Surface, b: Surface, within: shapely.Geometry) -> Floats:
    """Where sides of one surface cross sides of the other, (k, 2)."""
    shapely.prepare(within)
    sides = [shapely.linestrings(s.points[sides_of(s.triangles)][:, :, :2]) for s in (a, b)]
    first, second = (lines[shapely.intersects(within, lines)] for lines in sides)
    i, j = shapely.STRtree(first).query(second, predicate="intersects")
    return np.asarray(shapely.get_coordinates(shapely.intersection(first[j], second[i])))
