"""A surface from a recipe: surveys in order of priority, the role of each layer, settings, and a list of edits.

The sources are never changed. Edits name what they change by survey and number, so the same recipe always gives the
same surface, and taking an edit back is leaving it out.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..errors import InputError
from ..findings import Finding
from .breakline import divide_line
from .coded_lines import strung, words_of
from .merge import merge_surfaces
from .outline import fill_holes
from .section_cut import cut_polyline
from .surface import Floats, Surface, find_triangles
from .survey import Survey
from .thin import weed_line
from .triangulate import neighbours_of, select_triangles, sides_of, surface_from_faces, triangulate

__all__ = [
    "EDITS",
    "ROLES",
    "Ground",
    "GroundLine",
    "Recipe",
    "Source",
    "build_surface",
    "gather",
    "lay_on",
    "line_at",
    "usual_role",
]

ROLES = ("spot", "breakline", "outer", "hole", "background", "ignore", "unsorted")
# what an edit does -> the words it needs
EDITS: dict[str, tuple[str, ...]] = {
    "leave_out": ("survey", "points"),
    "set_level": ("survey", "point", "level"),
    "move_point": ("survey", "point", "to"),
    "add_point": ("to",),
    "leave_out_line": ("survey", "line"),
    "add_line": ("vertices",),
    "move_vertex": ("survey", "line", "vertex", "to"),
    "delete_vertex": ("survey", "line", "vertex"),
    "fixed_vertices": ("survey", "line", "spacing"),
    "live_spacing": ("survey", "line", "spacing"),
    "swap_edge": ("at",),
    "delete_triangles": ("at",),
}
STRUNG = ("breakline", "outer", "hole")  # roles by which points are strung into lines, beside being points of the surface
CODED = 1_000_000_000  # number of a strung line is that of its first point and this more, so it stays while the codes do
ADDED = 0  # the survey number of points and lines that edits have added
_USUAL = {
    "point": "spot", "grid": "spot", "ground return": "spot", "surface point": "spot", "breakline": "breakline",
    "contour": "breakline", "outer boundary": "outer", "hole boundary": "hole",
}  # fmt: skip


def usual_role(kind: str) -> str:
    """The role of a layer that no rule has sorted: some types of object say it themselves."""
    return _USUAL.get(kind, "unsorted")


@dataclass(frozen=True, slots=True, eq=False)
class Source:
    """A survey under its number (1 and up), and layer key (``type/code``) -> role for the layers sorted by a rule."""

    number: int
    survey: Survey
    roles: Mapping[str, str] = field(default_factory=dict)

    def role(self, kind: str, code: str) -> str:
        return self.roles.get(f"{kind}/{code}", usual_role(kind))


@dataclass(frozen=True, slots=True, eq=False)
class Recipe:
    """How sources become a surface.

    greatest_edge : m     triangles go from the outside while an outer side is longer; None keeps the hull
    live_spacing : m      greatest length of a breakline segment when triangulated, for lines without one of their own
    weed_plan, weed_level : m    breakline vertices nearer than both to the weeded line are left out; None keeps all
    fill_area : m2        holes up to this area are closed
    edits                 in order; see ``EDITS``
    """

    sources: tuple[Source, ...]
    greatest_edge: float | None = None
    live_spacing: float | None = None
    weed_plan: float | None = None
    weed_level: float | None = None
    fill_area: float | None = None
    edits: tuple[Mapping[str, Any], ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class GroundLine:
    """A line as edited: its survey and number there, role, own vertices (k, 3), and a live spacing of its own (m); the layer it
    came on (type and code), and how far what it outlines stands above the ground (m)."""

    survey: int
    number: int
    role: str
    vertices: Floats
    spacing: float | None = None
    layer: tuple[str, str] = ("", "")
    height: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class Ground:
    """What goes into the triangulation. points (n, 3) m · of (n, 2): survey and number of each · lines."""

    points: Floats
    of: NDArray[np.int64]
    lines: tuple[GroundLine, ...]

    def role(self, *names: str) -> list[GroundLine]:
        return [line for line in self.lines if line.role in names]


# --- edits ---------------------------------------------------------------------------------------------------
def gather(recipe: Recipe) -> Ground:
    """Points and lines of all sources by role, with the edits applied in order.

    Raises InputError for an edit that is not known or names what is not there.
    """
    points, of, lines = [], [], []
    for s in recipe.sources:
        there = _spots(s)
        points.append(s.survey.points[there])
        of.append(np.column_stack([np.full(len(there), s.number), there]))
        own = zip(s.survey.lines, s.survey.line_codes, s.survey.line_types, s.survey.line_heights.tolist(), strict=True)
        for i, (line, code, kind, height) in enumerate(own):
            lines.append(GroundLine(s.number, i, s.role(kind, code), line, None, (kind, code), height))
    work = _Work(
        np.concatenate(points) if points else np.empty((0, 3)),
        np.concatenate(of).astype(np.int64) if of else np.empty((0, 2), np.int64),
        {(line.survey, line.number): line for line in lines},
        {s.number for s in recipe.sources},
    )
    for number, edit in enumerate(recipe.edits, 1):
        work.apply(edit, number)
    keep = slice(None) if work.keep.all() else work.keep
    made = [line for s in recipe.sources for line in _strung_lines(s, work)]
    return Ground(work.points[keep], work.of[keep], (*work.lines.values(), *made))


def _strung_lines(s: Source, work: _Work) -> list[GroundLine]:
    """Lines through points whose code says so, where the edits have left them; a point left out is left out of its line."""
    out: list[GroundLine] = []
    kind = s.survey.point_type
    for role in STRUNG:
        numbers = _of_roles(s, (role,))
        if not len(numbers):
            continue
        rows = np.flatnonzero((work.of[:, 0] == s.number) & work.keep)
        row_of = np.full(len(s.survey.points), -1, np.int64)
        row_of[work.of[rows, 1]] = rows
        for line in strung(s.survey.codes, numbers[row_of[numbers] >= 0], words_of(s.roles)):
            vertices = work.points[row_of[line.points]]
            out.append(GroundLine(s.number, CODED + int(line.points[0]), role, vertices, None, (kind, line.code)))
    return out


def _spots(s: Source) -> NDArray[np.int64]:
    """Numbers of the points that are part of the surface: spots, and those that are strung into lines."""
    return _of_roles(s, ("spot", *STRUNG))


def _of_roles(s: Source, roles: tuple[str, ...]) -> NDArray[np.int64]:
    """Numbers of the points whose layer has one of the roles; a file has few codes and may have a million points."""
    words = set(s.survey.codes) or {""}
    wanted = {w for w in words if s.role(s.survey.point_type, w) in roles}
    if wanted == words:
        return np.arange(len(s.survey.points))
    return np.flatnonzero([c in wanted for c in s.survey.codes]) if wanted else np.empty(0, np.int64)


class _Work:
    def __init__(
        self, points: Floats, of: NDArray[np.int64], lines: dict[tuple[int, int], GroundLine], surveys: set[int]
    ) -> None:
        self.points, self.of, self.lines = points.copy(), of, lines
        self.keep = np.ones(len(points), bool)
        self.surveys = surveys
        self.added_lines = 0

    def apply(self, edit: Mapping[str, Any], number: int) -> None:
        do = str(edit.get("do"))
        if do not in EDITS or not set(EDITS[do]) <= set(edit):
            raise InputError("unknown-edit", number=number, what=do)
        if do in ("swap_edge", "delete_triangles"):
            return  # these change triangles; see build_surface
        if edit.get("survey", ADDED) != ADDED and edit["survey"] not in self.surveys:
            return  # its survey is not part of this surface any more
        try:
            getattr(self, f"_{do}")(edit)
        except (KeyError, IndexError) as error:
            raise InputError("edit-lost", number=number, what=do.replace("_", " ")) from error

    def _rows(self, survey: int, numbers: Iterable[int]) -> NDArray[np.int64]:
        rows = np.flatnonzero(self.of[:, 0] == survey)
        return rows[np.isin(self.of[rows, 1], list(numbers))]  # a point whose layer is no spot any more is not here

    def _leave_out(self, edit: Mapping[str, Any]) -> None:
        self.keep[self._rows(edit["survey"], edit["points"])] = False

    def _set_level(self, edit: Mapping[str, Any]) -> None:
        self.points[self._rows(edit["survey"], [edit["point"]]), 2] = edit["level"]

    def _move_point(self, edit: Mapping[str, Any]) -> None:
        self.points[self._rows(edit["survey"], [edit["point"]])] = _place(edit["to"])

    def _add_point(self, edit: Mapping[str, Any]) -> None:
        number = int((self.of[:, 0] == ADDED).sum())
        self.points = np.concatenate([self.points, [_place(edit["to"])]])
        self.of = np.concatenate([self.of, [[ADDED, number]]])
        self.keep = np.append(self.keep, True)

    def _line(self, edit: Mapping[str, Any]) -> tuple[tuple[int, int], GroundLine]:
        key = (int(edit["survey"]), int(edit["line"]))
        if key[1] >= CODED:
            raise InputError("edit-strung")
        return key, self.lines[key]

    def _leave_out_line(self, edit: Mapping[str, Any]) -> None:
        key, _ = self._line(edit)
        del self.lines[key]

    def _add_line(self, edit: Mapping[str, Any]) -> None:
        number = self.added_lines  # never given twice, so that edits may name a line by it
        self.added_lines += 1
        vertices = np.array([_place(v) for v in edit["vertices"]])
        self.lines[(ADDED, number)] = GroundLine(ADDED, number, str(edit.get("role", "breakline")), vertices)

    def _vertices(self, edit: Mapping[str, Any]) -> tuple[tuple[int, int], GroundLine, Floats, int]:
        key, line = self._line(edit)
        at = int(edit["vertex"])
        if not 0 <= at < len(line.vertices):
            raise IndexError(at)
        return key, line, line.vertices.copy(), at

    def _move_vertex(self, edit: Mapping[str, Any]) -> None:
        key, line, vertices, at = self._vertices(edit)
        vertices[at] = _place(edit["to"])
        self.lines[key] = replace(line, vertices=vertices)

    def _delete_vertex(self, edit: Mapping[str, Any]) -> None:
        key, line, vertices, at = self._vertices(edit)
        if len(vertices) <= 2:
            del self.lines[key]
        else:
            self.lines[key] = replace(line, vertices=np.delete(vertices, at, axis=0))

    def _fixed_vertices(self, edit: Mapping[str, Any]) -> None:
        key, line = self._line(edit)
        self.lines[key] = replace(line, vertices=divide_line(line.vertices, float(edit["spacing"]))[0])

    def _live_spacing(self, edit: Mapping[str, Any]) -> None:
        key, line = self._line(edit)
        self.lines[key] = replace(line, spacing=None if edit["spacing"] is None else float(edit["spacing"]))


def _place(to: Any) -> Floats:
    place = np.asarray(to, float).ravel()
    if place.shape != (3,) or not np.isfinite(place).all():
        raise InputError("not-a-number", what="The place", where_="an edit", example="412000.00, 687000.00, 55.25")
    return place


# --- the surface ---------------------------------------------------------------------------------------------
def line_at(line: GroundLine, recipe: Recipe) -> tuple[Floats, NDArray[np.bool_]]:
    """A line as it is triangulated: weeded, and with the vertices of its live spacing; which vertices are its own."""
    vertices = line.vertices[np.isfinite(line.vertices[:, 2])]
    if recipe.weed_plan is not None and recipe.weed_level is not None and len(vertices) > 2:
        vertices = vertices[weed_line(vertices, plan=recipe.weed_plan, level=recipe.weed_level)]
    spacing = line.spacing if line.spacing is not None else recipe.live_spacing
    if spacing is None or len(vertices) < 2:
        return vertices, np.ones(len(vertices), bool)
    return divide_line(vertices, spacing)


def build_surface(recipe: Recipe) -> tuple[Surface, list[Finding]]:
    """The surface of a recipe.

    Sources with faces of their own stay as they came and are merged by priority, with the points and lines of the other
    sources under them. Then boundaries, greatest edge, holes to fill, and the edits of triangles.

    Raises
    ------
    InputError    nothing to triangulate, or an edit that cannot be applied
    """
    ground = gather(recipe)
    findings: list[Finding] = []
    loose = replace(recipe, sources=tuple(s for s in recipe.sources if not len(s.survey.faces)))
    faced = [s for s in recipe.sources if len(s.survey.faces)]
    touched = {int(e["survey"]) for e in recipe.edits if "survey" in e}
    layers: list[tuple[int, Surface]] = []
    kept = [s for s in faced if s.number not in touched]
    for s in kept:
        layers.append((recipe.sources.index(s), surface_from_faces(s.survey.points, s.survey.faces)))
    rest = {s.number for s in recipe.sources} - {s.number for s in kept} | {ADDED}
    points = ground.points[np.isin(ground.of[:, 0], list(rest)) & np.isfinite(ground.points[:, 2])]
    lines = [line_at(g, recipe)[0] for g in ground.role("breakline") if g.survey in rest]
    lines = [v for v in lines if len(v) >= 2]
    if len(points) + sum(map(len, lines)) >= 3 or not layers:
        made, found = triangulate(points, lines, greatest_edge=recipe.greatest_edge)
        findings += found
        order = min((i for i, s in enumerate(recipe.sources) if s.number in rest), default=len(recipe.sources))
        layers.append((order, made))
    layers.sort(key=lambda item: item[0])
    if len(layers) == 1 and (len(loose.sources) or not faced or touched):
        surface = layers[0][1]
    else:
        surface, _, found = merge_surfaces([s for _, s in layers])
        findings += found
    if recipe.fill_area:
        surface, filled = fill_holes(surface, recipe.fill_area)
        if filled:
            findings.append(Finding("note", "holes-filled", {"count": len(filled), "greatest": max(filled)}))
    surface = _bounded(surface, ground, hold_all=bool(faced))
    return _edit_triangles(surface, recipe.edits), findings


def _polygon(lines: list[GroundLine]) -> shapely.Geometry:
    rings = [np.asarray(g.vertices)[:, :2] for g in lines]
    return shapely.union_all([shapely.make_valid(shapely.Polygon(r)) for r in rings if len(np.unique(r, axis=0)) >= 3])


def _bounded(surface: Surface, ground: Ground, *, hold_all: bool) -> Surface:
    """Cut to the outer boundaries and around the holes: the boundary is laid on the surface and held as an edge.

    ``hold_all`` keeps every side of every triangle, for surfaces that came with triangles of their own.
    """
    outer, holes = ground.role("outer"), ground.role("hole")
    if not outer and not holes:
        return surface
    edges = surface.points[sides_of(surface.triangles) if hold_all else surface.breakline_edges]
    rims = [piece for g in (*outer, *holes) for piece in lay_on(surface, g.vertices, closed=True)]
    again, _ = triangulate(surface.points, [*edges, *rims])
    centre = again.points[again.triangles, :2].mean(axis=1)
    on, _ = find_triangles(surface, centre)
    keep = on >= 0
    for lines_of_role, inside in ((outer, True), (holes, False)):
        if lines_of_role:
            shapely.prepare(polygon := _polygon(lines_of_role))
            keep &= shapely.contains_xy(polygon, centre[:, 0], centre[:, 1]) == inside
    if not keep.any():
        raise InputError("boundary-outside")
    triangles, neighbours = select_triangles(again.triangles, again.neighbours, keep)
    return Surface(again.points, triangles, neighbours, again.breakline_edges)


def lay_on(surface: Surface, line: Any, *, closed: bool = False) -> list[Floats]:
    """A plan line (k, 2 or 3) laid on a surface: its own vertices and one wherever it crosses a side, each with the level of
    the ground, so that it lies on the triangles all along. In pieces where it leaves the surface.
    """
    xy = np.asarray(line, float)[:, :2]
    if closed and not np.array_equal(xy[0], xy[-1]):
        xy = np.concatenate([xy, xy[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(xy, axis=0).T))])
    cut = cut_polyline(surface, xy)
    place = np.column_stack([np.interp(cut[:, 0], along, xy[:, i]) for i in (0, 1)] + [cut[:, 1]])
    known = np.isfinite(place[:, 2])
    pieces = np.split(place, np.flatnonzero(~known))
    return [p for piece in pieces if len(p := piece[np.isfinite(piece[:, 2])]) >= 2]


def _edit_triangles(surface: Surface, edits: tuple[Mapping[str, Any], ...]) -> Surface:
    for edit in edits:
        if edit["do"] == "delete_triangles":
            found, _ = find_triangles(surface, np.asarray(edit["at"], float).reshape(-1, 2))
            keep = np.ones(len(surface.triangles), bool)
            keep[found[found >= 0]] = False
            if not keep.any():
                raise InputError("surface-empty")
            triangles, neighbours = select_triangles(surface.triangles, surface.neighbours, keep)
            surface = Surface(surface.points, triangles, neighbours, surface.breakline_edges)
        elif edit["do"] == "swap_edge":
            surface = swap_edge(surface, np.asarray(edit["at"], float).ravel()[:2])
    return surface


def swap_edge(surface: Surface, place: Any) -> Surface:
    """The surface with the side nearest to a place (2,) turned to the other diagonal of its two triangles.

    Raises InputError when that side is on the outside, is a breakline, or its two triangles make no convex four-corner.
    """
    found, _ = find_triangles(surface, [place])
    t = int(found[0])
    if t < 0:
        raise InputError("swap-outside")
    p = surface.points[:, :2]
    corners = surface.triangles[t]
    distances = [_distance(np.asarray(place, float), p[corners[i]], p[corners[(i + 1) % 3]]) for i in range(3)]
    side = int(np.argmin(distances))
    a, b = int(corners[side]), int(corners[(side + 1) % 3])
    other = int(surface.neighbours[t, side])
    if other < 0:
        raise InputError("swap-outside")
    held = np.sort(surface.breakline_edges, axis=1)
    if len(held) and (held == sorted((a, b))).all(axis=1).any():
        raise InputError("swap-breakline")
    c = int(corners[(side + 2) % 3])
    d = int(next(v for v in surface.triangles[other] if v not in (a, b)))
    if _turn(p[c], p[a], p[d]) <= 0 or _turn(p[d], p[b], p[c]) <= 0:
        raise InputError("swap-not-convex")
    triangles = surface.triangles.copy()
    triangles[t], triangles[other] = (c, a, d), (d, b, c)
    return Surface(surface.points, triangles, neighbours_of(triangles), surface.breakline_edges)


def _turn(a: Floats, b: Floats, c: Floats) -> float:
    return float((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))


def _distance(q: Floats, a: Floats, b: Floats) -> float:
    d = b - a
    share = float(np.clip((q - a) @ d / (d @ d), 0, 1))
    return float(np.hypot(*(q - a - share * d)))
