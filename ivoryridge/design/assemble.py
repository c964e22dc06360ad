"""Rows to core records: the only place that knows both. A trial lays unsaved values over what the rows say."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from ivoryridge.core.alignment.held import slide
from ivoryridge.core.alignment.horizontal import PI
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.template import PlacedPart, Template, library_part
from ivoryridge.core.units import format_station

from .anchors import AnchoredPVI
from .models import Project, Road, RoadPI, RoadPVI, Surface, SurveySet
from .models import Template as TemplateRow

__all__ = [
    "SURFACE_SETTINGS",
    "RoadInputs",
    "SourceRow",
    "SurfaceRecipe",
    "assemble_road",
    "assemble_surface",
    "chainage_words",
    "numbered_edits",
    "pvi_from_row",
    "template_from_row",
    "with_trial",
]


@dataclass(frozen=True, slots=True)
class SourceRow:
    """A survey set in a recipe: its id, the hash of what it holds, and its layers' roles."""

    id: int
    hash: str
    roles: Mapping[str, str]


@dataclass(frozen=True)
class SurfaceRecipe:
    """What a surface is made from: survey sets in order of priority, settings (m, m2), and edits.

    In ``edits`` surveys stand by their number in ``sources``, from 1, so that the key does not hang on ids.
    """

    id: int = 0
    name: str = ""
    sources: tuple[SourceRow, ...] = ()
    greatest_edge: float | None = None
    live_spacing: float | None = None
    weed_plan: float | None = None
    weed_level: float | None = None
    fill_area: float | None = None
    edits: tuple[Mapping[str, Any], ...] = ()

    def settings(self) -> dict[str, float | None]:
        return {k: getattr(self, k) for k in SURFACE_SETTINGS}


SURFACE_SETTINGS = ("greatest_edge", "live_spacing", "weed_plan", "weed_level", "fill_area")


@dataclass(frozen=True)
class RoadInputs:
    """All that a road's results depend on. ``pi_rows`` are (id, revision) of the PIs; None for one not yet saved.

    Frozen, so the keys of its results are found once and kept with it (``results.own_key``).
    """

    road_id: int
    name: str
    start_station: float
    interval: float
    pis: tuple[PI, ...]
    pi_rows: tuple[tuple[int | None, int], ...]
    pvis: tuple[AnchoredPVI, ...]
    template: Template | None
    surface: SurfaceRecipe | None
    design_speed: float
    greatest_grade: float
    least_k: float
    standard: str = ""
    speeds: tuple[tuple[float, float], ...] = ()
    departures: Mapping[str, Any] = field(default_factory=dict)
    guides: tuple[Mapping[str, Any], ...] = ()
    crossfall: Mapping[str, Any] = field(default_factory=dict)
    held_pis: frozenset[int] = frozenset()  # ids
    held_straights: frozenset[int] = frozenset()  # ids of the PIs they begin at
    elements: tuple[tuple[float, ...], ...] = ()
    parallel: tuple[RoadInputs, float, bool] | None = None  # the other road, m + right, run against it
    ties: Mapping[str, tuple[RoadInputs, float, str]] = field(default_factory=dict)  # other road, station, what its level follows
    sight_clearance: float | None = None
    traffic_side: str = "left"
    equations: tuple[tuple[float, float], ...] = ()
    fixed_points: tuple[Mapping[str, Any], ...] = ()

    @property
    def has_line(self) -> bool:
        return len(self.pis) >= 2 or bool(self.elements) or self.parallel is not None


def chainage_words(inputs: RoadInputs, group: int, decimals: int = 3) -> Callable[[float], str]:
    """How stations of a road are read, with its chainage equations."""
    return lambda s: format_station(float(counted_at(s, inputs.equations)[0]), group=group, decimals=decimals)


def template_from_row(row: TemplateRow) -> Template:
    return Template(row.name, _parts(row.left), _parts(row.right))


def _parts(rows: list[dict[str, Any]]) -> tuple[PlacedPart, ...]:
    return tuple(PlacedPart(r["id"], library_part(r["part"]), r.get("values", {})) for r in rows)


def assemble_surface(row: Surface) -> SurfaceRecipe:
    sets = {
        pk: SourceRow(pk, h, roles)
        for pk, h, roles in SurveySet.present.filter(project_id=row.project_id, id__in=row.sources).values_list(
            "id", "hash", "roles"
        )
    }
    sources = tuple(sets[i] for i in row.sources if i in sets)
    settings = {k: getattr(row, k) for k in SURFACE_SETTINGS}
    return SurfaceRecipe(row.pk, row.name, sources, **settings, edits=numbered_edits(row.edits, [s.id for s in sources]))


def numbered_edits(edits: list[dict[str, Any]], ids: list[int]) -> tuple[dict[str, Any], ...]:
    """Edits with the numbers of survey sets for their ids; those of a set that is not among the sources are left out."""
    number = {pk: i for i, pk in enumerate(ids, 1)} | {0: 0}  # 0: what edits have added
    return tuple(
        {**e, "survey": number[e["survey"]]} if "survey" in e else e for e in edits if "survey" not in e or e["survey"] in number
    )


def pvi_from_row(r: RoadPVI, pi_index: Mapping[int, int]) -> AnchoredPVI:
    return AnchoredPVI(
        id=r.pk, revision=r.revision, anchor=r.anchor, elevation=r.elevation, half_in=r.half_in, half_out=r.half_out,
        station=r.station, easting=r.easting, northing=r.northing, ahead=r.ahead, pi_id=r.anchor_pi_id,
        pi=pi_index.get(r.anchor_pi_id) if r.anchor_pi_id else None, tangent_point=r.tangent_point, circular=r.circular,
    )  # fmt: skip


def assemble_road(road: Road, *, behind: tuple[int, ...] = ()) -> RoadInputs:
    """A road with all that it hangs on. ``behind``: the roads that hang on this one, so that a circle is found and named."""
    if road.pk in behind:
        names = [Road.objects.get(pk=i).name for i in (*behind[behind.index(road.pk) :], road.pk)]
        raise InputError("roads-in-a-circle", roads=" on ".join(names))

    def other(pk: int) -> RoadInputs:
        there = Road.objects.select_related("project", "surface", "template").get(pk=pk)
        return assemble_road(there, behind=(*behind, road.pk))

    course = road.course
    rows = list(RoadPI.present.filter(road=road))
    index = {r.pk: i for i, r in enumerate(rows)}
    project: Project = road.project
    surface = road.surface if road.surface and not road.surface.removed else None
    return RoadInputs(
        road_id=road.pk,
        name=road.name,
        start_station=road.start_station,
        interval=road.interval,
        pis=tuple(PI(r.easting, r.northing, r.radius, r.spiral_in, r.spiral_out) for r in rows),
        pi_rows=tuple((r.pk, r.revision) for r in rows),
        pvis=tuple(pvi_from_row(r, index) for r in RoadPVI.present.filter(road=road, candidate=road.candidate)),
        template=_sided(template_from_row(road.template), road.mirrored) if road.template and not road.template.removed else None,
        surface=assemble_surface(surface) if surface else None,
        design_speed=project.design_speed,
        greatest_grade=project.greatest_grade,
        least_k=project.least_k,
        standard=project.standard,
        speeds=tuple((float(s), float(v)) for s, v in road.speeds),
        departures=road.departures,
        guides=tuple(road.guides),
        crossfall=road.crossfall,
        held_pis=frozenset(r.pk for r in rows if r.held),
        held_straights=frozenset(r.pk for r in rows if r.straight_held),
        elements=tuple(tuple(e) for e in course["elements"]) if course.get("kind") == "elements" else (),
        parallel=(other(course["road"]), float(course["offset"]), bool(course.get("against")))
        if course.get("kind") == "offset"
        else None,
        ties={end: (other(t["road"]), float(t["station"]), t.get("level", "")) for end, t in road.ties.items()},
        sight_clearance=road.sight_clearance,
        traffic_side=project.traffic_side,
        equations=tuple((float(s), float(j)) for s, j in road.equations),
        fixed_points=tuple(road.fixed_points),
    )


def _sided(template: Template, mirrored: bool) -> Template:
    return Template(template.name, template.right, template.left) if mirrored else template


def with_trial(inputs: RoadInputs, trial: Mapping[str, Any]) -> RoadInputs:
    """Unsaved values over saved ones.

    ``bend``: {"pi_id", fields of a pinned bend}.
    ``pi``: {"index": int, PI fields}, or {"index", "insert": true, ...} for one more; ``pvi``: {"id": int, fields}.
    """
    if pi := trial.get("pi"):
        inputs = _with_pi(inputs, dict(pi))
    if bend := trial.get("bend"):
        given = dict(bend)
        pins = dict(inputs.crossfall.get("bends", {}))
        key = str(given.pop("pi_id"))
        inputs = replace(inputs, crossfall={**inputs.crossfall, "bends": {**pins, key: {**pins.get(key, {}), **given}}})
    if pvi := trial.get("pvi"):
        inputs = _with_pvi(inputs, dict(pvi))
    return inputs


def _with_pi(inputs: RoadInputs, given: dict[str, Any]) -> RoadInputs:
    i = int(given.pop("index"))
    insert = bool(given.pop("insert", False))
    pis, rows = list(inputs.pis), list(inputs.pi_rows)
    if insert:
        if not 0 <= i <= len(pis):
            raise InputError("not-a-number", what="The position", where_=f"PI {i + 1}", example="2")
        if not {"easting", "northing"} <= set(given):
            raise InputError("not-a-number", what="The place", where_="the new PI", example="412000.00, 687000.00")
        pis.insert(i, PI(**given))
        rows.insert(i, (None, 0))
        moved = tuple(replace(p, pi=p.pi + 1) if p.pi is not None and p.pi >= i else p for p in inputs.pvis)
        return replace(inputs, pis=tuple(pis), pi_rows=tuple(rows), pvis=moved)
    if not 0 <= i < len(pis):
        raise InputError("not-a-number", what="The position", where_=f"PI {i + 1}", example="2")
    if {"easting", "northing"} & set(given):
        held = [pk in inputs.held_straights for pk, _ in inputs.pi_rows]
        given["easting"], given["northing"] = slide(pis, held, i, given.get("easting"), given.get("northing"))
    pis[i] = replace(pis[i], **given)
    return replace(inputs, pis=tuple(pis))


def _with_pvi(inputs: RoadInputs, given: dict[str, Any]) -> RoadInputs:
    pvi_id = given.pop("id")
    if "station" in given:  # where it is dragged to is where it is, whatever will hold it there
        given = {"anchor": "station", **given}
    return replace(inputs, pvis=tuple(replace(p, **given) if p.id == pvi_id else p for p in inputs.pvis))
