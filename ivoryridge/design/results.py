"""Derived results of a road and its ground, each a pure function of its inputs, kept by key.

survey sets -> surface -> ground under the line
PIs -> line -> levels -> corridor -> areas and volumes
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, replace
from types import MappingProxyType
from typing import Any, TypeVar

import numpy as np
import orjson
from numpy.typing import NDArray

from ivoryridge.core.alignment.course import convert_to_pis, line_from_elements, parallel_line, run_against
from ivoryridge.core.alignment.crossfall_diagram import crossfall_diagram
from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis, project_points, sample_stations
from ivoryridge.core.alignment.vertical import PVI, VerticalAlignment, curve_limits, profile_from_pvis
from ivoryridge.core.corridor.corridor import (
    Corridor,
    Crossfall,
    compute_corridor,
    cut_ground,
    lane_of,
    line_stations,
    places_at,
    search_reach,
    section_stations,
    take_sections,
)
from ivoryridge.core.earthwork.end_area import SectionAreas, Volumes, compute_areas, compute_volumes
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.findings import Finding
from ivoryridge.core.standards.crossfall import USUAL_SHARE, BendPin, turned_bends
from ivoryridge.core.terrain.checks import GroundFinding, check_ground
from ivoryridge.core.terrain.recipe import Recipe, Source, build_surface, gather
from ivoryridge.core.terrain.section_cut import GroundSections, cut_polyline
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.survey import Survey
from ivoryridge.core.tolerances import SAME_STATION

from .anchors import AnchoredPVI, resolve_stations
from .assemble import RoadInputs, SurfaceRecipe
from .derive import CODECS, derived, finding_from, key_of
from .models import SurveySet
from .standards import fingerprint, standard_at_hand, standard_of, zones_of
from .survey_blob import unpack_survey

Floats = NDArray[np.float64]

__all__ = [
    "Levels",
    "RoadResults",
    "checks_of",
    "core_recipe",
    "corridor_at",
    "design_road",
    "ground_under",
    "line_of",
    "make_surface",
    "pis_of",
    "surface_key",
    "surface_of",
    "survey_arrays",
]


Inputs = TypeVar("Inputs", RoadInputs, SurfaceRecipe)


def own_key(kind: Callable[[Inputs], str]) -> Callable[[Inputs], str]:
    """A key of frozen inputs, found once and kept with them."""

    def key(inputs: Inputs) -> str:
        kept = inputs.__dict__
        name = kind.__name__
        if name not in kept:
            kept[name] = kind(inputs)
        return str(kept[name])

    return key


# --- ground --------------------------------------------------------------------------------------------------
@own_key
def surface_key(recipe: SurfaceRecipe) -> str:
    return key_of("surface", [[s.hash, s.roles] for s in recipe.sources], recipe.settings(), recipe.edits)


def surface_of(recipe: SurfaceRecipe) -> tuple[Surface, list[Finding]]:
    """The surface of a recipe, and what was found while it was made."""
    return derived(surface_key(recipe), lambda: make_surface(recipe))


def make_surface(recipe: SurfaceRecipe, unsaved: Mapping[str, Survey] = MappingProxyType({})) -> tuple[Surface, list[Finding]]:
    """``unsaved``: surveys that are not rows yet, by their hash."""
    if not recipe.sources:
        raise InputError("surface-empty")
    return build_surface(core_recipe(recipe, unsaved))


def core_recipe(recipe: SurfaceRecipe, unsaved: Mapping[str, Survey] = MappingProxyType({})) -> Recipe:
    sources = tuple(
        Source(i, unsaved[s.hash] if s.hash in unsaved else survey_arrays(s.id), s.roles) for i, s in enumerate(recipe.sources, 1)
    )
    return Recipe(sources, **recipe.settings(), edits=recipe.edits)


def checks_of(recipe: SurfaceRecipe) -> list[GroundFinding]:
    """What the checks find in the data of a recipe, and in its surface if one can be made."""

    def compute() -> list[GroundFinding]:
        core = core_recipe(recipe)
        try:
            surface = surface_of(recipe)[0]
        except IvoryRidgeError:
            surface = None  # why there is none is told where the surface is asked for; its data are checked all the same
        return check_ground(core, gather(core), surface)

    return derived(key_of("checks", surface_key(recipe)), compute)


def _pack_checks(found: list[GroundFinding]) -> bytes:
    return orjson.dumps([asdict(f) for f in found], option=orjson.OPT_SERIALIZE_NUMPY)


def _unpack_checks(blob: bytes) -> list[GroundFinding]:
    return [
        GroundFinding(finding_from(f["finding"]), f["key"], tuple((int(s), int(n)) for s, n in f["points"]), f["level"])
        for f in orjson.loads(blob)
    ]


CODECS["checks"] = (_pack_checks, _unpack_checks)


def survey_arrays(pk: int) -> Survey:
    return unpack_survey(bytes(SurveySet.objects.only("arrays").get(pk=pk).arrays))


# --- line and levels -----------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True, eq=False)
class Levels:
    """A profile and the PVIs it came from, in order of station: rows as they are in the inputs, core PVIs."""

    profile: VerticalAlignment
    rows: tuple[AnchoredPVI, ...]
    pvis: tuple[PVI, ...]


@own_key
def line_key(inputs: RoadInputs) -> str:
    if inputs.parallel is not None:
        return key_of("line", "parallel", line_key(inputs.parallel[0]), inputs.parallel[1:], inputs.start_station)
    if inputs.elements:
        return key_of("line", "elements", inputs.elements, inputs.start_station)
    ties = [[end, line_key(other), station] for end, (other, station, _) in sorted(inputs.ties.items())]
    return key_of("line", inputs.pis, inputs.start_station, ties)


def line_of(inputs: RoadInputs) -> HorizontalAlignment:
    """The line: by its PIs, tied ends on the other roads' lines; or kept by elements; or parallel to another road's."""

    def compute() -> HorizontalAlignment:
        if inputs.parallel is not None:
            other, offset, against = inputs.parallel
            base = run_against(line_of(other)) if against else line_of(other)
            return parallel_line(base, offset, inputs.start_station)
        if inputs.elements:
            return line_from_elements(inputs.elements, inputs.start_station)
        return alignment_from_pis(tied_pis(inputs), start_station=inputs.start_station)

    return derived(line_key(inputs), compute)


def tied_pis(inputs: RoadInputs) -> list[PI]:
    """The road's own PIs, its tied ends where they lie on the other roads now."""
    pis = list(inputs.pis)
    for end, (other, station, _) in inputs.ties.items():
        if len(pis) >= 2:
            place = line_of(other).evaluate(station)[0][0]
            i = 0 if end == "start" else -1
            pis[i] = replace(pis[i], easting=float(place[0]), northing=float(place[1]))
    return pis


def pis_of(inputs: RoadInputs) -> tuple[PI, ...]:
    """PIs for checks and crossfall: the road's own, or such as follow a line that is kept by elements or parallel to another."""
    if not inputs.elements and inputs.parallel is None:
        return tuple(tied_pis(inputs))
    return derived(key_of("line", "pis", line_key(inputs)), lambda: convert_to_pis(line_of(inputs)).pis)


@own_key
def levels_key(inputs: RoadInputs) -> str:
    ties = [[end, *_level_told(*tie)] for end, tie in sorted(inputs.ties.items()) if tie[2]]
    return key_of("levels", line_key(inputs), [_told(p) for p in inputs.pvis], ties)


def _level_told(other: RoadInputs, station: float, what: str) -> list[Any]:
    turning = crossfall_key(other) if what == "edge" and crossfall_of(other) is not None else ""
    return [levels_key(other), station, what, turning, _template_told(other) if other.template else None]


def tied_level(inputs: RoadInputs, end: str) -> float | None:
    """Level (m) at a tied end: the other road's centre there, or the edge of its lanes on the side where this road comes from;
    None where it does not follow in level."""
    if end not in inputs.ties or not inputs.ties[end][2]:
        return None
    other, station, what = inputs.ties[end]
    level = float(levels_of(other).profile.evaluate(station)[0][0])
    turning = crossfall_of(other)
    if turning is not None:
        level += float(turning.rise_of_centre(station)[0])
    if what == "centre" or other.template is None:
        return level
    own = tied_pis(inputs)
    beside = own[1 if end == "start" else -2]
    side = 1 if project_points(line_of(other), [[beside.easting, beside.northing]]).offset[0] > 0 else 0
    width, normal = lane_of((other.template.left, other.template.right)[side])
    rate = float(turning.diagram.rates(station)[side][0]) if turning is not None else -normal
    return level + width * rate


def _told(p: AnchoredPVI) -> list[Any]:
    rest = [p.station, p.easting, p.northing, p.pi, p.tangent_point, p.ahead]
    return [p.id, p.anchor, p.elevation, p.half_in, p.half_out, p.circular, *rest]


def levels_of(inputs: RoadInputs) -> Levels:
    """Only numbers are kept by key: ids and revisions of rows are not in it, so those are the inputs' own."""
    profile, order, pvis = derived(levels_key(inputs), lambda: _make_levels(inputs))
    return Levels(profile, tuple(inputs.pvis[i] for i in order), pvis)


def _make_levels(inputs: RoadInputs) -> tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]:
    stations = resolve_stations(list(inputs.pvis), line_of(inputs))
    order = tuple(sorted(range(len(stations)), key=lambda i: (_end_rank(inputs.pvis[i]), stations[i])))
    given = [PVI(stations[i], _elevation(inputs, p), p.half_in, p.half_out, p.circular) for i in order for p in (inputs.pvis[i],)]
    profile = profile_from_pvis(given)
    return profile, order, curve_limits(given)


def _elevation(inputs: RoadInputs, p: AnchoredPVI) -> float:
    tied = tied_level(inputs, p.anchor) if p.anchor in inputs.ties and not p.ahead else None
    return p.elevation if tied is None else tied


def _end_rank(p: AnchoredPVI) -> int:
    """PVIs that hang on an end stay first or last, so that one dragged past them is out of order, and told so."""
    return {"start": -1, "end": 1}.get(p.anchor, 0)


def ground_under(inputs: RoadInputs) -> Floats:
    """(k, 2) station and level of the ground under the line; NaN where there is none."""
    if inputs.surface is None or not inputs.surface.sources:
        return np.empty((0, 2))
    key = key_of("ground", line_key(inputs), surface_key(inputs.surface))
    return derived(key, lambda: _make_ground(inputs))


def _make_ground(inputs: RoadInputs) -> Floats:
    assert inputs.surface is not None
    line = line_of(inputs)
    stations = sample_stations(line, 500.0, 0.01)  # straights are cut whole; on bends chords leave the arc by R / 80 000
    places, _, _ = line.evaluate(stations)
    cut = cut_polyline(surface_of(inputs.surface)[0], places)
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places, axis=0).T))])
    return np.stack([np.interp(cut[:, 0], chord, stations), cut[:, 1]], axis=-1)


# --- crossfall -----------------------------------------------------------------------------------------------
@own_key
def crossfall_key(inputs: RoadInputs) -> str:
    """Of a road whose crossfall turns; a standard that is not here any more has a key of its own."""
    pins = {i: inputs.crossfall.get("bends", {}).get(str(pk), {}) for i, (pk, _) in enumerate(inputs.pi_rows)}
    settings = {k: v for k, v in inputs.crossfall.items() if k != "bends"}
    told = [
        fingerprint(standard_of(inputs)),
        inputs.design_speed,
        inputs.speeds,
        settings,
        {str(i): p for i, p in pins.items() if p},
    ]
    return key_of("crossfall", line_key(inputs), _template_told(inputs) if inputs.template else None, told)


def crossfall_of(inputs: RoadInputs) -> Crossfall | None:
    """How the carriageway turns in the bends; None without a template that can turn, without a standard, or when it is off."""
    if "_crossfall" not in inputs.__dict__:  # asked for many times over in a trial; inputs are frozen
        inputs.__dict__["_crossfall"] = _crossfall_of(inputs)
    return inputs.__dict__["_crossfall"]


def _crossfall_of(inputs: RoadInputs) -> Crossfall | None:
    if inputs.template is None or inputs.crossfall.get("off") or not inputs.has_line:
        return None
    lanes = lane_of(inputs.template.left), lane_of(inputs.template.right)
    if not any(width for width, _ in lanes) or not standard_at_hand(inputs):
        return None
    return derived(crossfall_key(inputs), lambda: _make_crossfall(inputs, lanes))


def _make_crossfall(inputs: RoadInputs, lanes: tuple[tuple[float, float], tuple[float, float]]) -> Crossfall:
    (left, normal_left), (right, normal_right) = lanes
    settings = inputs.crossfall
    pins = {
        i: BendPin(**settings.get("bends", {})[str(pk)])
        for i, (pk, _) in enumerate(inputs.pi_rows)
        if str(pk) in settings.get("bends", {})
    }
    bends = turned_bends(
        line_of(inputs), pis_of(inputs), standard_of(inputs), zones_of(inputs), width=max(left, right), normal=max(normal_left, normal_right),
        share=settings.get("share", USUAL_SHARE), pins=pins,
    )  # fmt: skip
    return Crossfall(crossfall_diagram(bends, normal_left, normal_right), settings.get("axis", "centre"), (left, right))


# --- corridor ------------------------------------------------------------------------------------------------
def missing_for_corridor(inputs: RoadInputs) -> str:
    lacks = [word for word, there in (
        ("a line with at least 2 PIs", inputs.has_line), ("a profile", len(inputs.pvis) >= 2),
        ("a template", inputs.template is not None), ("a ground surface", bool(inputs.surface and inputs.surface.sources)),
    ) if not there]  # fmt: skip
    return " and ".join(lacks)


@own_key
def corridor_key(inputs: RoadInputs) -> str:
    assert inputs.surface is not None and inputs.template is not None
    turning = crossfall_key(inputs) if crossfall_of(inputs) is not None else ""
    return key_of(
        "corridor",
        levels_key(inputs),
        surface_key(inputs.surface),
        _template_told(inputs),
        inputs.interval,
        inputs.equations,
        turning,
    )


def _template_told(inputs: RoadInputs) -> list[Any]:
    assert inputs.template is not None
    return [[[p.id, p.part.name, dict(p.values)] for p in side] for side in (inputs.template.left, inputs.template.right)]


def corridor_of(inputs: RoadInputs) -> Corridor:
    if lacks := missing_for_corridor(inputs):
        raise InputError("corridor-needs", missing=lacks)
    return derived(corridor_key(inputs), lambda: _make_corridor(inputs, None))


def corridor_at(inputs: RoadInputs, stations: Any) -> Corridor:
    """Sections at given stations only, e.g. at the reading mark; not kept."""
    if lacks := missing_for_corridor(inputs):
        raise InputError("corridor-needs", missing=lacks)
    return _make_corridor(inputs, stations)


def _make_corridor(inputs: RoadInputs, stations: Any, *, checked: bool = True) -> Corridor:
    assert inputs.surface is not None and inputs.template is not None
    line, levels = line_of(inputs), levels_of(inputs)
    surface, _ = surface_of(inputs.surface)
    if stations is None:
        stations = _section_stations(inputs)
    stations = np.asarray(stations, float)
    ground = _cuts_at(inputs, stations) if len(stations) > 1 else None
    return compute_corridor(
        line, levels.profile, inputs.template, surface, stations, crossfall=crossfall_of(inputs), ground=ground, checked=checked
    )


def _section_stations(inputs: RoadInputs) -> Floats:
    """Where the corridor has sections: at the interval, and wherever line, levels or crossfall change."""
    return section_stations(
        line_of(inputs), levels_of(inputs).profile, inputs.interval, extra=_turning_stations(inputs), equations=inputs.equations
    )


def _turning_stations(inputs: RoadInputs) -> Floats:
    turning = crossfall_of(inputs)
    return turning.diagram.station if turning is not None and turning.diagram.bends else np.empty(0)


def _cuts_at(inputs: RoadInputs, stations: Floats) -> GroundSections:
    """Ground across the line at stations, increasing. Where a section hangs on the line alone its cut is kept by key, so a
    change of levels cuts only what moved with it."""
    assert inputs.surface is not None and inputs.template is not None
    line, (surface, _), reach = line_of(inputs), surface_of(inputs.surface), search_reach(inputs.template)

    def cut(at: Floats) -> GroundSections:
        return cut_ground(surface, places_at(line, at), reach)

    usual = line_stations(line, inputs.interval, extra=_turning_stations(inputs), equations=inputs.equations)
    place = np.minimum(np.searchsorted(usual, stations), len(usual) - 1)
    other = np.flatnonzero(usual[place] != stations)
    if len(other) > len(stations) / 2:
        return cut(stations)
    key = key_of("cuts", line_key(inputs), surface_key(inputs.surface), reach, inputs.interval, usual)
    kept = derived(key, lambda: cut(usual)).take(np.delete(place, other))
    return kept.insert(other, cut(stations[other])) if len(other) else kept


def corridor_and_section(inputs: RoadInputs, station: float) -> tuple[Corridor, Corridor]:
    """The corridor, and the one section at a station on it; solved together, since a trial wants both at once."""
    template = inputs.template
    assert template is not None
    stations = _section_stations(inputs)
    station = float(np.clip(station, stations[0], stations[-1]))
    at = int(np.searchsorted(stations, station - SAME_STATION))
    if abs(stations[at] - station) <= SAME_STATION:
        corridor = corridor_of(inputs)
        return corridor, take_sections(corridor, [at], template)
    both = _make_corridor(inputs, np.insert(stations, at, station), checked=False)
    others = np.delete(np.arange(len(stations) + 1), at)
    corridor = derived(corridor_key(inputs), lambda: take_sections(both, others, template))
    return corridor, take_sections(both, [at], template)


def areas_of(inputs: RoadInputs) -> tuple[SectionAreas, Volumes]:
    corridor = corridor_of(inputs)
    key = key_of("areas", corridor_key(inputs))

    def compute() -> tuple[SectionAreas, Volumes]:
        areas = compute_areas(corridor)
        return areas, compute_volumes(corridor, areas)

    return derived(key, compute)


@dataclass(frozen=True, slots=True, eq=False)
class RoadResults:
    """What could be computed of a road, and in ``problems`` why the rest could not: step -> error."""

    inputs: RoadInputs
    line: HorizontalAlignment | None
    ground: Floats
    levels: Levels | None
    corridor: Corridor | None
    areas: SectionAreas | None
    volumes: Volumes | None
    section: Corridor | None
    problems: dict[str, IvoryRidgeError]


def design_road(inputs: RoadInputs, mark: float | None = None) -> RoadResults:
    """Every step that has its inputs, and the section at ``mark`` if one is given.

    A step that fails is told, and those that need it are left out.
    """
    problems: dict[str, IvoryRidgeError] = {}

    def attempt(step: str, compute: Any) -> Any:
        try:
            return compute()
        except IvoryRidgeError as error:
            problems[step] = error
            return None

    line = attempt("line", lambda: line_of(inputs)) if inputs.pis or inputs.has_line else None
    ground = attempt("ground", lambda: ground_under(inputs)) if line else None
    levels = attempt("levels", lambda: levels_of(inputs)) if line and inputs.pvis else None
    ready = line and levels and not missing_for_corridor(inputs)
    section = None
    if ready and mark is not None:
        corridor, section = attempt("road", lambda: corridor_and_section(inputs, mark)) or (None, None)
    else:
        corridor = attempt("road", lambda: corridor_of(inputs)) if ready else None
    areas, volumes = areas_of(inputs) if corridor is not None else (None, None)
    return RoadResults(
        inputs, line, np.empty((0, 2)) if ground is None else ground, levels, corridor, areas, volumes, section, problems
    )
