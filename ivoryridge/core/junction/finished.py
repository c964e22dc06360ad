"""One ground of all that is built and the ground that is there.

Pieces come in order of priority. In plan each loses what an earlier one covers; on the cut it takes the earlier one's level, so that there
is one level a place. Of two slopes that overlap the upper one counts where both fill, the lower one where both cut. What is left of all of
them is triangulated once, with every edge held; the existing ground is triangulated anew only in the band of its triangles that touch what
is built, and stays as it is elsewhere. docs/formulas.md#finished-ground.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np
import shapely
from numba import njit
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..arrays import given_away
from ..findings import Finding
from ..terrain.surface import Surface, find_triangles
from ..terrain.triangulate import neighbours_of, select_triangles, sides_of, surface_from_faces, triangulate
from .pile import Pile
from .rim import ON_CUT, Rim, outside

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

__all__ = ["Box", "FinishedGround", "GroundPiece", "LaidPiece", "finished_ground", "finished_near", "lay"]

_SAME = 1e-3  # m; corners of one piece's triangles nearer than this are one
_OVERLAP = 1e-3  # m2 of two pieces that are not built twice
_HAIR = 3e-5  # m; less than what makes two places one
STEP_TOLD = 0.002  # m of a step where one piece meets a higher one


@dataclass(frozen=True, slots=True, eq=False)
class GroundPiece:
    """Something built: triangles (t, 3) over points (p, 3) m; ``name`` of what it belongs to, and its ``material``, a word for what is
    seen there. ``joins``: its edges are meant to meet higher pieces, so a step there is told."""

    name: str
    material: str
    points: Floats
    faces: Ints
    joins: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class FinishedGround:
    """The one surface; ``piece`` (t,) the number of the piece each triangle is of, -1 the existing ground; and what is doubtful."""

    surface: Surface
    piece: NDArray[np.int32]
    pieces: tuple[tuple[str, str], ...]
    findings: tuple[Finding, ...] = ()


@dataclass(slots=True)
class _Lines:
    """Points and edges to be triangulated, earlier ones with more say."""

    points: list[Floats]
    edges: list[Ints]
    count: int = 0

    def add(self, points: Floats, edges: Ints) -> None:
        self.points.append(points)
        self.edges.append(edges + self.count)
        self.count += len(points)


@dataclass(frozen=True, slots=True, weakref_slot=True, eq=False)
class LaidPiece:
    """A piece as a surface, and the area it covers."""

    piece: GroundPiece
    surface: Surface
    area: shapely.Geometry


def lay(piece: GroundPiece) -> LaidPiece:
    """A piece made ready; found once, however often the ground around it is made anew."""
    own = _closed(piece)
    return LaidPiece(piece, own, _area_of(own) if len(own.triangles) else shapely.Polygon())


def finished_ground(pieces: Sequence[LaidPiece], ground: Surface) -> FinishedGround:
    """All pieces, highest first, laid into the existing ground; without any the ground itself."""
    pieces = [p for p in pieces if len(p.surface.triangles)]
    lines = _Lines([], [])
    covered: shapely.Geometry = shapely.Polygon()
    findings: list[Finding] = []
    if not pieces:
        return FinishedGround(ground, np.full(len(ground.triangles), -1, np.int32), ())
    lost = _lost_to_others(pieces, ground)
    pile = Pile.of_surfaces([p.surface for p in pieces])
    for number, made in enumerate(pieces):
        own, area = made.surface, made.area
        gone = lost.get(number)
        taken = covered if gone is None else _with(covered, gone.buffer(_HAIR, join_style="mitre"))  # its own edges there go, too
        if taken.is_empty or area.intersection(taken).area < _OVERLAP:
            lines.add(own.points, sides_of(own.triangles).astype(np.int64))
        else:
            _add_clipped(lines, own, taken, pile, number, findings, made.piece)
        if gone is not None:
            _add_rim(
                lines, own, _without(gone, covered), [p.surface for p in pieces[number + 1 :] if p.piece.material == "slope"]
            )
        left = area if gone is None else _without(area, gone)
        covered = left if covered.is_empty else _with(covered, left)
    band = _touched(ground, pile.surface)
    _add_ground(lines, ground, band, covered, pile)
    points, edges = np.concatenate(lines.points), np.concatenate(lines.edges)
    joined, _ = triangulate(points, edges=edges, tell_edges=False)
    centre = joined.points[joined.triangles].mean(axis=1)
    of = pile.highest(centre)
    for number in sorted(lost):
        mine = np.flatnonzero(of == number)
        gone = mine[shapely.contains_xy(lost[number], centre[mine, 0], centre[mine, 1])]
        of[gone] = pile.highest(centre[gone], number + 1)
    free = np.flatnonzero(of < 0)
    hit, _ = find_triangles(ground, centre[free])
    of[free[(hit < 0) | ~band[np.maximum(hit, 0)]]] = -2
    keep = of > -2
    return _whole(joined, keep, of, ground, band, tuple((p.piece.name, p.piece.material) for p in pieces), findings)


Box = tuple[float, float, float, float]  # easting and northing from, and to, m


def finished_near(pieces: Sequence[LaidPiece], ground: Surface, boxes: Sequence[Box]) -> FinishedGround:
    """The finished ground of some boxes only, by what lies there of pieces and ground: inside of them it has the levels that the whole
    has. Triangles that reach out of a box are told, too."""
    pieces = [p for p in pieces if len(p.surface.triangles)]
    wide = [_extent_of([*(p.surface for p in pieces), ground], b) for b in boxes]  # all that cuts what reaches into a box
    near = [_part_of(p, wide) for p in pieces]
    triangles, neighbours = select_triangles(ground.triangles, ground.neighbours, _overlaps(ground, wide))
    used, renumbered = np.unique(triangles, return_inverse=True)
    around = Surface(ground.points[used], renumbered.reshape(-1, 3).astype(np.int32), neighbours)
    found = finished_ground(near, around)
    keep = _overlaps(found.surface, boxes)
    triangles, neighbours = select_triangles(found.surface.triangles, found.surface.neighbours, keep)
    return FinishedGround(Surface(found.surface.points, triangles, neighbours), found.piece[keep], found.pieces, found.findings)


def _extent_of(surfaces: Sequence[Surface], box: Box) -> Box:
    """A box that holds all triangles that reach into another."""
    low, high = np.array(box[:2]), np.array(box[2:])
    for surface in surfaces:
        corners = surface.points[surface.triangles[_overlaps(surface, [box])]][:, :, :2].reshape(-1, 2)
        if len(corners):
            low, high = np.minimum(low, corners.min(axis=0)), np.maximum(high, corners.max(axis=0))
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _overlaps(surface: Surface, boxes: Sequence[Box]) -> NDArray[np.bool_]:
    """Triangles of a surface that reach into one of some boxes, by their own."""
    corners = surface.points[surface.triangles][:, :, :2]
    low, high = corners.min(axis=1), corners.max(axis=1)
    out = np.zeros(len(low), bool)
    for e0, n0, e1, n1 in boxes:
        out |= (low[:, 0] <= e1) & (high[:, 0] >= e0) & (low[:, 1] <= n1) & (high[:, 1] >= n0)
    return out


def _part_of(piece: LaidPiece, boxes: Sequence[Box]) -> LaidPiece:
    own = piece.surface
    there = _overlaps(own, boxes)
    if there.all():
        return piece
    triangles, neighbours = select_triangles(own.triangles, own.neighbours, there)
    surface = Surface(own.points, triangles, neighbours)
    return LaidPiece(piece.piece, surface, _area_of(surface) if len(triangles) else shapely.Polygon())


def _closed(piece: GroundPiece) -> Surface:
    """A piece whose corners at one place are one point."""
    cells = np.round(piece.points[:, :2] / _SAME).astype(np.int64)
    _, first, inverse = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    faces = inverse.ravel()[piece.faces]
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])
    if not whole.any():
        return Surface(piece.points[first], np.empty((0, 3), np.int32), np.empty((0, 3), np.int32))
    return surface_from_faces(piece.points[first], faces[whole])


# --- slopes that overlap ------------------------------------------------------------------------------------------
_FAR = 1e4  # m; a half-plane as a square
_LEAST_WON = 0.05  # m2 that a lower piece may win over a higher one before it is looked at


def _lost_to_others(pieces: Sequence[LaidPiece], ground: Surface) -> dict[int, shapely.Geometry]:
    """Of slopes, by number: where one that comes after it counts, since it lies higher over a fill or lower in a cut."""
    slopes = [k for k, p in enumerate(pieces) if p.piece.material == "slope"]
    out: dict[int, shapely.Geometry] = {}
    for k, higher in enumerate(slopes):
        regions = [_won(pieces[lower], pieces[higher], ground) for lower in slopes[k + 1 :]]
        whole = _all_of([r for r in regions if not r.is_empty])
        if whole.area > _LEAST_WON:
            out[higher] = whole
    return out


_Pairs = WeakKeyDictionary[LaidPiece, shapely.Geometry]
_known: WeakKeyDictionary[Surface, WeakKeyDictionary[LaidPiece, _Pairs]] = (
    WeakKeyDictionary()
)  # as long as the very pieces are held


def _won(lower: LaidPiece, higher: LaidPiece, ground: Surface) -> shapely.Geometry:
    """Where a lower piece counts before a higher one. Of two that stayed while others changed it is there already."""
    pairs = _known.setdefault(ground, WeakKeyDictionary()).setdefault(higher, WeakKeyDictionary())
    found = pairs.get(lower)
    if found is None:
        found = pairs[lower] = _won_anew(lower, higher, ground)
    return found


def _won_anew(one: LaidPiece, other: LaidPiece, ground: Surface) -> shapely.Geometry:
    """Piece by piece of what two triangles share: on one side of the straight on which both have one level."""
    both = other.area.intersection(one.area)
    if both.area <= _LEAST_WON:
        return shapely.Polygon()
    lower, higher = one.surface, other.surface
    shapely.prepare(both)
    near = [np.flatnonzero(shapely.intersects(both, shapely.polygons(s.points[s.triangles][:, :, :2]))) for s in (lower, higher)]
    mine, theirs = (s.points[s.triangles[i]] for s, i in zip((lower, higher), near, strict=True))
    if not len(mine) or not len(theirs):
        return shapely.Polygon()
    a, b = shapely.polygons(mine[:, :, :2]), shapely.polygons(theirs[:, :, :2])
    i, j = shapely.STRtree(b).query(a, predicate="intersects")
    shared = shapely.intersection(a[i], b[j])
    keep = shapely.area(shared) > 1e-6
    i, j, shared = i[keep], j[keep], shared[keep]
    if not len(i):
        return shapely.Polygon()
    centre = shapely.get_coordinates(shapely.centroid(shared))
    (z1, g1), (z2, g2) = _plane(mine[i], centre), _plane(theirs[j], centre)
    base = find_triangles(ground, centre)[1]
    fills, cuts = (z1 > base) & (z2 > base), (z1 < base) & (z2 < base)
    sense = np.where(fills, 1.0, np.where(cuts, -1.0, 0.0))
    over, slope = sense * (z1 - z2), sense[:, None] * (g1 - g2)
    steep = np.hypot(*slope.T)
    whole = (over > 0) & (steep * 100.0 < over)
    parted = (sense != 0) & (steep > 1e-9) & ~whole
    n = np.where(parted[:, None], slope / np.maximum(steep, 1e-12)[:, None], 0.0)
    at = centre - n * (over / np.maximum(steep, 1e-12))[:, None]
    t = np.column_stack([-n[:, 1], n[:, 0]])
    corners = np.stack([at - _FAR * t, at + _FAR * t, at + _FAR * t + _FAR * n, at - _FAR * t + _FAR * n], axis=1)
    halves = shapely.intersection(shared[parted], shapely.polygons(corners[parted])) if parted.any() else np.empty(0, object)
    return _all_of(np.concatenate([shared[whole], halves]))


def _plane(corners: Floats, at: Floats) -> tuple[Floats, Floats]:
    """Level (n,) of triangles (n, 3, 3) at places (n, 2), and their slopes (n, 2)."""
    u, v = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    det = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    ge = (u[:, 2] * v[:, 1] - v[:, 2] * u[:, 1]) / det
    gn = (u[:, 0] * v[:, 2] - v[:, 0] * u[:, 2]) / det
    d = at - corners[:, 0, :2]
    return corners[:, 0, 2] + ge * d[:, 0] + gn * d[:, 1], np.column_stack([ge, gn])


def _add_rim(lines: _Lines, own: Surface, gone: shapely.Geometry, others: Sequence[Surface]) -> None:
    """The line on which a slope and those that it loses to have one level, as an edge."""
    mine, theirs = Pile.of_surfaces([own]), [Pile.of_surfaces([s]) for s in others]
    for ring in shapely.get_parts(gone.boundary):
        xy = shapely.get_coordinates(ring)
        level = mine.levels(xy, 1)
        one = np.any([np.abs(other.levels(xy, 1) - level) < _SAME for other in theirs], axis=0)
        known = one[:-1] & one[1:]
        pairs = np.stack([np.arange(len(xy) - 1), np.arange(1, len(xy))], axis=-1)[known]
        if len(pairs):
            used, renumbered = np.unique(pairs, return_inverse=True)
            lines.add(np.column_stack([xy[used], level[used]]), renumbered.reshape(-1, 2))


def _area_of(own: Surface) -> shapely.Geometry:
    """What a piece covers. Strips that fold over themselves, as at the inside of a tight corner, have no plain outline."""
    triangles = shapely.polygons(own.points[own.triangles][:, :, :2])
    try:
        joined = shapely.coverage_union_all(triangles)  # a tenth of the time, where none lies over another
    except shapely.errors.GEOSException:
        return _all_of(triangles)
    plain = joined.is_valid and abs(joined.area - shapely.area(triangles).sum()) < _SAME * _SAME
    return joined if plain else _all_of(triangles)


# Areas whose sides lie within a hair of each other may come out with the lines in which they meet; a collection with some in it has no rim
# to cut at. So whatever is made of areas here is made by these.
def _areas(found: shapely.Geometry) -> shapely.Geometry:
    if found.geom_type != "GeometryCollection":
        return found
    parts = shapely.get_parts(shapely.get_parts(found))
    return shapely.multipolygons(parts[shapely.area(parts) > 0])


def _with(area: shapely.Geometry, other: shapely.Geometry) -> shapely.Geometry:
    return _areas(area.union(other))


def _without(area: shapely.Geometry, other: shapely.Geometry) -> shapely.Geometry:
    return _areas(area.difference(other))


def _all_of(areas: Sequence[shapely.Geometry] | NDArray[np.object_]) -> shapely.Geometry:
    return _areas(shapely.union_all(areas))


def _add_clipped(
    lines: _Lines, own: Surface, covered: shapely.Geometry, pile: Pile, higher: int, findings: list[Finding], piece: GroundPiece
) -> None:
    """The edges of a piece outside of what is covered; where one is cut, it takes the level of what covers it, of the first ``higher``
    of the pile."""
    edges = sides_of(own.triangles).astype(np.int64)
    shapely.prepare(covered)
    rim = Rim.of(covered)
    near = rim.near(own.points, edges)  # all others lie on one side of it
    touched = near.copy()
    touched[~near] = shapely.contains_xy(covered, own.points[edges[~near, 0], :2])
    segments = shapely.linestrings(own.points[edges[near]][:, :, :2])
    cut = shapely.intersects(covered, segments)
    touched[near] = cut
    free, renumbered = np.unique(edges[~touched], return_inverse=True)  # a corner that is covered is gone, too
    lines.add(own.points[free], renumbered.reshape(-1, 2))
    cut[cut] = ~shapely.contains_properly(covered, segments[cut])  # what is wholly covered is gone
    ends = own.points[edges[near][cut]]
    of, t, on = outside(ends[:, :, :2], segments[cut], covered, rim)
    if not len(of):
        return
    places = (ends[of, 0][:, None] + t[:, :, None] * (ends[of, 1] - ends[of, 0])[:, None]).reshape(-1, 3)
    cut = on.ravel()
    free = np.flatnonzero(~cut)
    on_rim, _ = rim.tree.query(shapely.points(places[free, :2]), predicate="dwithin", distance=ON_CUT)
    cut[free[on_rim]] = True  # also what only touches it, or runs along it
    above = pile.levels(places[cut, :2], higher)
    step = np.where(np.isfinite(above), np.abs(above - places[cut, 2]), 0.0)
    if piece.joins and len(step) and step.max() > STEP_TOLD:
        at = int(np.argmax(step))
        e, n = (float(v) for v in places[cut][at, :2])
        findings.append(Finding("doubt", "piece-step", {"piece": piece.name, "step": 1000 * float(step[at])}, place=(e, n)))
    places[cut, 2] = np.where(np.isfinite(above), above, places[cut, 2])
    lines.add(places, np.arange(len(places), dtype=np.int64).reshape(-1, 2))


@njit(cache=True)
def _mark(points, triangles, e0, n0, size, columns, rows, marked):
    for t in triangles:
        low_e = min(points[t[0], 0], points[t[1], 0], points[t[2], 0])
        high_e = max(points[t[0], 0], points[t[1], 0], points[t[2], 0])
        low_n = min(points[t[0], 1], points[t[1], 1], points[t[2], 1])
        high_n = max(points[t[0], 1], points[t[1], 1], points[t[2], 1])
        for j in range(max(int((low_n - n0) / size), 0), min(int((high_n - n0) / size), rows - 1) + 1):
            for i in range(max(int((low_e - e0) / size), 0), min(int((high_e - e0) / size), columns - 1) + 1):
                marked[j * columns + i] = True


def _touched(ground: Surface, laid: Surface) -> NDArray[np.bool_]:
    """Triangles of the ground that may touch what is built."""
    g = ground.grid
    marked = np.zeros(g.columns * g.rows, np.bool_)
    _mark(laid.points, laid.triangles, *g.origin, g.size, g.columns, g.rows, marked)
    band = np.zeros(len(ground.triangles), bool)
    cells = np.flatnonzero(marked)
    if len(cells):
        band[np.concatenate([g.triangles[g.starts[c] : g.starts[c + 1]] for c in cells])] = True
    return band


def _add_ground(lines: _Lines, ground: Surface, band: NDArray[np.bool_], covered: shapely.Geometry, pile: Pile) -> None:
    if not band.any():
        return
    triangles = ground.triangles[band]
    used, renumbered = np.unique(triangles, return_inverse=True)
    own = surface_from_faces(ground.points[used], renumbered.reshape(-1, 3))
    _add_clipped(lines, own, covered, pile, pile.count, [], GroundPiece("", "", own.points, own.triangles.astype(np.int64)))


@njit(cache=True)
def _open(neighbours):
    """Triangles with a side that nothing lies beside."""
    found = np.empty(len(neighbours), np.int64)
    n = 0
    for k in range(len(neighbours)):
        if neighbours[k, 0] < 0 or neighbours[k, 1] < 0 or neighbours[k, 2] < 0:
            found[n] = k
            n += 1
    return found[:n].copy()


@njit(cache=True)
def _put_together(new, new_beside, rest, rest_beside, at, count):
    """Corners and neighbours of both one after the other, and the points they use, by their old numbers; ``at`` numbers the points of
    the rest among all ``count``."""
    n, m = len(new), len(rest)
    faces, beside = np.empty((n + m, 3), np.int32), np.empty((n + m, 3), np.int32)
    number = np.full(count, -1, np.int32)
    for k in range(n + m):
        for i in range(3):
            if k < n:
                faces[k, i] = new[k, i]
                beside[k, i] = new_beside[k, i]
            else:
                faces[k, i] = at[rest[k - n, i]]
                other = rest_beside[k - n, i]
                beside[k, i] = other + n if other >= 0 else -1
            number[faces[k, i]] = 0
    used = np.flatnonzero(number == 0)
    for k in range(len(used)):
        number[used[k]] = k
    for k in range(n + m):
        for i in range(3):
            faces[k, i] = number[faces[k, i]]
    return faces, beside, used


def _whole(
    joined: Surface, keep: NDArray[np.bool_], of: NDArray[np.int32], ground: Surface, band: NDArray[np.bool_],
    pieces: tuple[tuple[str, str], ...], findings: list[Finding],
) -> FinishedGround:  # fmt: skip
    """The new triangles and those of the ground that were not touched, over points that both share. Both know what lies beside them; only
    sides that are open are matched."""
    new, beside = select_triangles(joined.triangles, joined.neighbours, keep)
    rest, rest_beside = select_triangles(ground.triangles, ground.neighbours, ~band)
    count = len(joined.points)
    at = count + np.arange(len(ground.points), dtype=np.int32)
    rim = np.intersect1d(rest[_open(rest_beside)], ground.triangles[band])
    if len(rim):
        distance, index = cKDTree(joined.points[:, :2]).query(ground.points[rim, :2])
        same = distance < _SAME
        at[rim[same]] = index[same]
    faces, beside, used = _put_together(new, beside, rest, rest_beside, at, count + len(ground.points))
    lone = _open(beside)
    met = neighbours_of(faces[lone])
    beside[lone] = np.where((beside[lone] < 0) & (met >= 0), lone[met], beside[lone])
    points = np.concatenate([joined.points[used[used < count]], ground.points[used[used >= count] - count]])
    surface = Surface(given_away(points), given_away(faces), given_away(beside))
    piece = np.concatenate([of[keep], np.full(len(rest), -1, np.int32)])
    return FinishedGround(surface, piece, pieces, tuple(findings))
