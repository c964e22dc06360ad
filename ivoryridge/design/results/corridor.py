"""A road's sections: at its interval, and at any station."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.corridor import (
    Corridor,
    Crossfall,
    compute_corridor,
    cut_ground,
    line_stations,
    places_at,
    search_reach,
    section_stations,
    take_sections,
)
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.template import Template
from ivoryridge.core.terrain.section_cut import GroundSections
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import RoadInputs
from ..kept.kinds import Content, Result, kind
from .crossfall import crossfall, crossfall_of
from .levels import levels, profile_of
from .line import line, line_of
from .surface import surface

Floats = NDArray[np.float64]
Equations = tuple[tuple[float, float], ...]

__all__ = ["corridor", "corridor_and_section", "corridor_at", "corridor_of", "missing_for_corridor", "sections"]


def missing_for_corridor(road: RoadInputs) -> str:
    lacks = [word for word, there in (
        ("a line with at least 2 PIs", road.has_line), ("a profile", len(road.pvis) >= 2),
        ("a template", road.template is not None), ("a ground surface", bool(road.surface and road.surface.sources)),
    ) if not there]  # fmt: skip
    return " and ".join(lacks)


# --- cuts of the ground --------------------------------------------------------------------------------------
@kind("cuts", 2)
def _cuts(
    line: HorizontalAlignment,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    reach: float,
    interval: float,
    equations: Equations,
) -> tuple[Floats, GroundSections]:
    """Ground across the line wherever a section hangs on the line alone; with its stations."""
    usual = line_stations(line, interval, extra=_turning_stations(turning), equations=equations)
    return usual, cut_ground(surface[0], places_at(line, usual), reach)


def _turning_stations(turning: Crossfall | None) -> Floats:
    return turning.diagram.station if turning is not None and turning.diagram.bends else np.empty(0)


def _cuts_at(
    stations: Floats, line: HorizontalAlignment, surface: tuple[Any, Any], reach: float, cuts: tuple[Floats, GroundSections]
) -> GroundSections:
    """Ground across the line at stations, increasing; where a section hangs on the line alone its cut is there already, so a
    change of levels cuts only what moved with it."""

    def cut(at: Floats) -> GroundSections:
        return cut_ground(surface[0], places_at(line, at), reach)

    usual, kept = cuts
    place = np.minimum(np.searchsorted(usual, stations), len(usual) - 1)
    other = np.flatnonzero(usual[place] != stations)
    if len(other) > len(stations) / 2:
        return cut(stations)
    taken = kept.take(np.delete(place, other))
    return taken.insert(other, cut(stations[other])) if len(other) else taken


# --- the corridor --------------------------------------------------------------------------------------------
@kind("corridor", 4)
def _corridor(
    line: HorizontalAlignment,
    levels: tuple[Any, Any, Any],
    template: Template,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    interval: float,
    equations: Equations,
    cuts: tuple[Floats, GroundSections],
) -> Corridor:
    stations = section_stations(line, levels[0], interval, extra=_turning_stations(turning), equations=equations)
    ground = _cuts_at(stations, line, surface, search_reach(template), cuts)
    return compute_corridor(line, levels[0], template, surface[0], stations, crossfall=turning, ground=ground)


@kind("sections", 1)
def _sections(
    line: HorizontalAlignment,
    levels: tuple[Any, Any, Any],
    template: Template,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    cuts: tuple[Floats, GroundSections] | None,
    stations: Floats,
    checked: bool,
) -> Corridor:
    ground = None if cuts is None else _cuts_at(stations, line, surface, search_reach(template), cuts)
    return compute_corridor(line, levels[0], template, surface[0], stations, crossfall=turning, ground=ground, checked=checked)


def _shared(road: RoadInputs) -> dict[str, Any]:
    """What all sections of a road need. Raises InputError where the road lacks something."""
    if lacks := missing_for_corridor(road):
        raise InputError("corridor-needs", missing=lacks)
    assert road.surface is not None and road.template is not None
    return {
        "line": line(road), "levels": levels(road), "template": Content(road.template), "surface": surface(road.surface),
        "turning": crossfall(road),
    }  # fmt: skip


def _kept_cuts(road: RoadInputs, shared: dict[str, Any]) -> Result[tuple[Floats, GroundSections]]:
    assert road.template is not None
    return _cuts(
        line=shared["line"], surface=shared["surface"], turning=shared["turning"], reach=search_reach(road.template),
        interval=road.interval, equations=road.equations,
    )  # fmt: skip


def corridor(road: RoadInputs) -> Result[Corridor]:
    """Raises InputError where the road lacks something."""

    def found() -> Result[Corridor]:
        shared = _shared(road)
        return _corridor(**shared, interval=road.interval, equations=road.equations, cuts=_kept_cuts(road, shared))

    return road.once("_corridor", found)


def corridor_of(road: RoadInputs) -> Corridor:
    return corridor(road).get()


def sections(road: RoadInputs, stations: Floats, *, checked: bool = True) -> Result[Corridor]:
    """Sections at given stations (m, increasing). Raises InputError where the road lacks something."""
    shared = _shared(road)
    return _sections(**shared, cuts=_kept_cuts(road, shared) if len(stations) > 1 else None, stations=stations, checked=checked)


def corridor_at(road: RoadInputs, stations: Any, *, checked: bool = True) -> Corridor:
    """Sections at given stations only, e.g. at the reading mark; not kept."""
    return sections(road, np.asarray(stations, float), checked=checked).found_anew()


def corridor_and_section(road: RoadInputs, station: float) -> tuple[Corridor, Corridor]:
    """The corridor, and the one section at a station on it; solved together, since a trial wants both at once."""
    template = road.template
    assert template is not None
    turning = _turning_stations(crossfall_of(road))
    stations = section_stations(line_of(road), profile_of(road), road.interval, extra=turning, equations=road.equations)
    station = float(np.clip(station, stations[0], stations[-1]))
    at = int(np.searchsorted(stations, station - SAME_STATION))
    if abs(stations[at] - station) <= SAME_STATION:
        whole = corridor_of(road)
        return whole, take_sections(whole, [at], template)
    both = corridor_at(road, np.insert(stations, at, station), checked=False)
    others = np.delete(np.arange(len(stations) + 1), at)
    return corridor(road).keep(lambda: take_sections(both, others, template)), take_sections(both, [at], template)
