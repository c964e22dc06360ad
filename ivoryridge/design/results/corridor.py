"""A road's sections, block by block: at its interval, and at any station."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.block import Block, block_alongs, changes_along, cut_ground, search_reach, solve_block
from ivoryridge.core.corridor.corridor import Corridor, stations_once, stations_within
from ivoryridge.core.corridor.places import line_stations, places_at, section_stations
from ivoryridge.core.corridor.turning import Crossfall
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.along import Alongs
from ivoryridge.core.section.template import Template
from ivoryridge.core.terrain.section_cut import GroundSections
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import RoadInputs
from ..kept.kinds import Content, Result, kind
from .crossfall import crossfall
from .levels import levels
from .line import line, line_of
from .surface import surface

Floats = NDArray[np.float64]
Equations = tuple[tuple[float, float], ...]

__all__ = ["corridor", "corridor_and_section", "corridor_at", "corridor_of", "corridor_over", "missing_for_corridor", "sections"]


def missing_for_corridor(road: RoadInputs) -> str:
    lacks = [word for word, there in (
        ("a line with at least 2 PIs", road.has_line), ("a profile", len(road.pvis) >= 2),
        ("a template", bool(road.stretches)), ("a ground surface", bool(road.surface and road.surface.sources)),
    ) if not there]  # fmt: skip
    return " and ".join(lacks)


# --- cuts of the ground --------------------------------------------------------------------------------------
@kind("cuts", 3)
def _cuts(
    line: HorizontalAlignment,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    reach: float,
    interval: float,
    equations: Equations,
    first: float,
    last: float,
) -> tuple[Floats, GroundSections]:
    """Ground across the line wherever a section of a stretch hangs on the line alone; with its stations."""
    usual = line_stations(line, interval, extra=_turning_stations(turning), equations=equations)
    usual = usual[(usual >= first) & (usual <= last)]
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
    if not len(usual):
        return cut(stations)
    place = np.minimum(np.searchsorted(usual, stations), len(usual) - 1)
    other = np.flatnonzero(usual[place] != stations)
    if len(other) > len(stations) / 2:
        return cut(stations)
    taken = kept.take(np.delete(place, other))
    return taken.insert(other, cut(stations[other])) if len(other) else taken


# --- blocks and the corridor ---------------------------------------------------------------------------------
@kind("stations", 1)
def _stations(
    line: HorizontalAlignment,
    levels: tuple[Any, Any, Any],
    turning: Crossfall | None,
    interval: float,
    equations: Equations,
    first: float,
    last: float,
) -> Floats:
    whole = section_stations(line, levels[0], interval, extra=_turning_stations(turning), equations=equations)
    return stations_within(whole, first, last)


@kind("block", 3)
def _block(
    line: HorizontalAlignment,
    levels: tuple[Any, Any, Any],
    template: Template,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    reach: float,
    cuts: tuple[Floats, GroundSections] | None,
    stations: Floats,
    beside: tuple[tuple[Any, Any], ...],
    names: tuple[str, ...],
    along: Alongs | None,
) -> Block:
    cut = None if cuts is None else (_cuts_at(stations, line, surface, reach, cuts), reach)
    others = {name: s[0] for name, s in zip(names, beside, strict=True)}
    return solve_block(line, levels[0], template, surface[0], stations, crossfall=turning, cut=cut, beside=others, along=along)


@kind("alongs", 1)
def _alongs(plain: Block) -> Alongs:
    """What changes along a stretch, from its own sections as they are without it."""
    return block_alongs(plain)


@kind("corridor", 5)
def _corridor(line: HorizontalAlignment, blocks: tuple[Block, ...]) -> Corridor:
    return Corridor(line, blocks)


@kind("reach", 1)
def _reach(template: Template) -> float:
    """How far the ground is needed under a template, m; found once for all roads that have it."""
    return float(search_reach(template)[0])


def _blocks(road: RoadInputs, at: Sequence[Floats] | None) -> tuple[Result[Block], ...]:
    """A block a stretch, with sections at its stations (m, increasing), else at the road's interval."""
    if road.template_fault is not None:
        raise road.template_fault
    if lacks := missing_for_corridor(road):
        raise InputError("corridor-needs", missing=lacks)
    assert road.surface is not None
    found = []
    for k, stretch in enumerate(road.stretches):
        if at is not None and not len(at[k]):
            continue
        on_line = {"line": line(road), "turning": crossfall(road)}
        every = {
            "interval": road.interval,
            "equations": road.equations,
            "first": stretch.station_from,
            "last": stretch.station_to,
        }
        reach = _reach(template=Content(stretch.template)).get()
        on_ground = {"surface": surface(road.surface), "reach": reach}
        same = on_line | on_ground | {
            "levels": levels(road), "template": Content(stretch.template), "names": tuple(road.beside),
            "beside": tuple(surface(r) for r in road.beside.values()),
        }  # fmt: skip

        def own(on_line: Any = on_line, every: Any = every, on_ground: Any = on_ground) -> dict[str, Any]:
            return {
                "stations": _stations(**on_line, **every, levels=levels(road)),
                "cuts": _cuts(**on_line, **every, **on_ground),
            }

        along = _alongs(plain=_block(**same, **own(), along=None)) if changes_along(stretch.template) else None
        asked = own()
        if at is not None:
            asked = {"stations": at[k], "cuts": asked["cuts"] if len(at[k]) > 1 else None}
        found.append(_block(**same, **asked, along=along))
    return tuple(found)


def corridor(road: RoadInputs) -> Result[Corridor]:
    """Raises InputError where the road lacks something."""
    return road.once("_corridor", lambda: _corridor(line=line(road), blocks=_blocks(road, None)))


def corridor_of(road: RoadInputs) -> Corridor:
    return corridor(road).get()


def sections(road: RoadInputs, stations: Any) -> Result[Corridor]:
    """Sections at given stations (m, increasing). Raises InputError where the road lacks something."""
    return _corridor(line=line(road), blocks=_blocks(road, stations_once(stations, road.stretches)))


def corridor_at(road: RoadInputs, stations: Any) -> Corridor:
    """Sections at given stations only, e.g. at the reading mark; not kept."""
    return Corridor(line_of(road), tuple(b.found_anew() for b in _blocks(road, stations_once(stations, road.stretches))))


def corridor_over(road: RoadInputs, first: float, last: float) -> Corridor:
    """The road's own sections within a range, and sections at its ends; not kept."""
    own = [b.get().station for b in _blocks(road, None)]
    at = [stations_within(s, first, last) for s in own]
    return Corridor(line_of(road), tuple(b.found_anew() for b in _blocks(road, at)))


def corridor_and_section(road: RoadInputs, station: float) -> tuple[Corridor, Corridor]:
    """The corridor, and the one section at a station on it; solved together, since a trial wants both at once."""
    blocks = _blocks(road, None)
    own = [b.needs["stations"].get() for b in blocks]
    station = float(np.clip(station, own[0][0], own[-1][-1]))
    k = max(i for i, s in enumerate(own) if i == 0 or s[0] <= station)
    at = int(np.searchsorted(own[k], station - SAME_STATION))
    there = at < len(own[k]) and abs(own[k][at] - station) <= SAME_STATION
    if there or station > own[k][-1]:
        block = blocks[k].get().take([min(at, len(own[k]) - 1)])
    else:
        stretches = [np.insert(s, at, station) if i == k else np.empty(0) for i, s in enumerate(own)]
        both = _blocks(road, stretches)[0].found_anew()
        blocks[k].keep(lambda: both.take(np.delete(np.arange(len(own[k]) + 1), at)))
        block = both.take([at])
    return corridor_of(road), Corridor(line_of(road), (block,))
