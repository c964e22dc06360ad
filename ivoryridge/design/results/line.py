"""A road's line: by its PIs, kept by elements, or parallel to another road's; and the ground under it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.course import convert_to_pis, line_from_elements, line_through, parallel_line, run_against
from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis, project_points, sample_stations
from ivoryridge.core.errors import InputError
from ivoryridge.core.terrain.section_cut import cut_polyline
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import RoadInputs, Tie
from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import Result, kind
from .surface import surface

Floats = NDArray[np.float64]

__all__ = ["ground_beside", "ground_under", "ground_under_result", "line", "line_of", "pis_of", "pis_result", "tied_pis"]


# --- PIs and line --------------------------------------------------------------------------------------------
@kind("tied PIs", 1)
def _tied(pis: tuple[PI, ...], ends: Mapping[str, Mapping[str, Any]]) -> tuple[PI, ...]:
    out = list(pis)
    for end, tie in ends.items():
        there: HorizontalAlignment = tie["line"]
        if not there.start_station - SAME_STATION <= tie["station"] <= there.end_station + SAME_STATION:
            raise InputError("tied-beyond", end=end, station=tie["station"], start=there.start_station, last=there.end_station)
        place = there.evaluate(tie["station"])[0][0]
        i = 0 if end == "start" else -1
        out[i] = replace(out[i], easting=float(place[0]), northing=float(place[1]))
    return tuple(out)


def _tie_needs(tie: Tie) -> dict[str, Any]:
    return {"line": line(tie.road), "station": tie.station}


def _own_pis(road: RoadInputs) -> Any:
    """The road's own PIs as a need, its tied ends where they lie on the other roads now."""
    if not road.ties or len(road.pis) < 2:
        return road.pis
    return _tied(pis=road.pis, ends={end: _tie_needs(tie) for end, tie in road.ties.items()})


def tied_pis(road: RoadInputs) -> tuple[PI, ...]:
    own = _own_pis(road)
    return own.get() if isinstance(own, Result) else own


@kind("line", 2)
def _by_pis(pis: tuple[PI, ...], start_station: float) -> HorizontalAlignment:
    return alignment_from_pis(list(pis), start_station=start_station)


@kind("line by elements", 1)
def _by_elements(elements: tuple[tuple[float, ...], ...], start_station: float) -> HorizontalAlignment:
    return line_from_elements(elements, start_station)


@kind("line through points", 1)
def _through(points: tuple[tuple[float, float], ...], start_station: float) -> HorizontalAlignment:
    return line_through(points, start_station)


@kind("parallel line", 1)
def _parallel(base: HorizontalAlignment, offset: float, against: bool, start_station: float) -> HorizontalAlignment:
    return parallel_line(run_against(base) if against else base, offset, start_station)


def line(road: RoadInputs) -> Result[HorizontalAlignment]:
    """Raises what makes the road broken: a circle, or a road that is gone."""
    return road.once("_line", lambda: _line(road))


def _line(road: RoadInputs) -> Result[HorizontalAlignment]:
    if road.broken is not None:
        raise road.broken
    if (p := road.parallel) is not None:
        return _parallel(base=line(p.road), offset=p.offset, against=p.against, start_station=road.start_station)
    if road.return_of is not None:
        from .returns import return_line  # it needs the sections of both roads, which need their lines

        return return_line(road)
    if road.existing:
        return _through(points=road.existing, start_station=road.start_station)
    if road.elements:
        return _by_elements(elements=road.elements, start_station=road.start_station)
    return _by_pis(pis=_own_pis(road), start_station=road.start_station)


def line_of(road: RoadInputs) -> HorizontalAlignment:
    return line(road).get()


@kind("PIs of a line", 1)
def _converted(line: HorizontalAlignment) -> tuple[PI, ...]:
    return tuple(convert_to_pis(line).pis)


def pis_result(road: RoadInputs) -> Any:
    """PIs as a need, for checks and crossfall: the road's own, or such as follow a line that has none."""
    return _converted(line=line(road)) if not road.has_own_pis else _own_pis(road)


def pis_of(road: RoadInputs) -> tuple[PI, ...]:
    found = pis_result(road)
    return found.get() if isinstance(found, Result) else found


# --- the ground under it -------------------------------------------------------------------------------------
@kind("ground", 3)
def _ground(line: HorizontalAlignment, surface: tuple[Any, Any]) -> Floats:
    stations = sample_stations(line, 500.0, 0.01)  # straights are cut whole; on bends chords leave the arc by R / 80 000
    places, _, _ = line.evaluate(stations)
    cut = cut_polyline(surface[0], places)
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places, axis=0).T))])
    return np.stack([np.interp(cut[:, 0], chord, stations), cut[:, 1]], axis=-1)


def ground_under_result(road: RoadInputs) -> Result[Floats] | None:
    if road.surface is None or not road.surface.sources:
        return None
    return _ground(line=line(road), surface=surface(road.surface))


def ground_under(road: RoadInputs) -> Floats:
    """(k, 2) station and level of the ground under the line; NaN where there is none."""
    result = ground_under_result(road)
    return np.empty((0, 2)) if result is None else result.get()


@kind("ground beside", 1)
def _beside(line: HorizontalAlignment, surface: tuple[Any, Any], offset: float) -> Floats:
    course = parallel_line(line, offset) if offset else line
    s = sample_stations(course, 500.0, 0.02)
    places = course.evaluate(s)[0]
    cut = cut_polyline(surface[0], places)
    chord = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places, axis=0).T))])
    along = project_points(line, places).station if offset else s
    return np.column_stack([np.interp(cut[:, 0], chord, along), cut[:, 1]])


def ground_beside(road: RoadInputs, recipe: SurfaceRecipe, offset: float) -> Floats:
    """Station and level of a ground under the line or ``offset`` m beside it (+ right); the station is that of the line square to
    the place."""
    return _beside(line=line(road), surface=surface(recipe), offset=offset).get()
