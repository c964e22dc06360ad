"""A road's sections, block by block: at its interval, and at any station."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.vertical import VerticalAlignment
from ivoryridge.core.corridor.block import Block, block_alongs, changes_along, cut_ground, search_reach, solve_blocks
from ivoryridge.core.corridor.corridor import Corridor, spans_of, stations_once, stations_within
from ivoryridge.core.corridor.finer import finer_stations
from ivoryridge.core.corridor.places import line_stations, places_at, section_stations
from ivoryridge.core.corridor.turning import Crossfall, has_own_axis
from ivoryridge.core.corridor.varied import Piece
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.section.along import Alongs
from ivoryridge.core.section.template import Template
from ivoryridge.core.terrain.section_cut import GroundSections
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import RoadInputs
from ..kept.kinds import Content, Result, kind
from .crossfall import crossfall, crossfall_of
from .followed import following, not_reached
from .led import led
from .levels import levels, profile_of
from .line import line, line_of
from .meet import met_findings
from .surface import surface
from .varied import falls_that_differ, pieces, pieces_result

Floats = NDArray[np.float64]
Equations = tuple[tuple[float, float], ...]

__all__ = [
    "corridor",
    "corridor_and_section",
    "corridor_at",
    "corridor_of",
    "corridor_over",
    "missing_for_corridor",
    "section_stations_of",
    "sections",
    "sections_over",
    "turning_stations",
]


def missing_for_corridor(road: RoadInputs) -> str:
    lacks = [word for word, there in (
        ("a line with at least 2 PIs", road.has_line), ("a profile", road.has_profile),
        ("a template", road.has_template), ("a ground surface", bool(road.surface and road.surface.sources)),
    ) if not there]  # fmt: skip
    return " and ".join(lacks)


# --- cuts of the ground --------------------------------------------------------------------------------------
@kind("cuts", 4)
def _cuts(
    line: HorizontalAlignment,
    surface: tuple[Any, Any],
    turning: Crossfall | None,
    reach: float,
    interval: float,
    equations: Equations,
) -> tuple[Floats, GroundSections]:
    """Ground across the line wherever a section hangs on the line alone; with its stations."""
    usual = line_stations(line, interval, extra=turning_stations(turning), equations=equations)
    return usual, cut_ground(surface[0], places_at(line, usual), reach)


def turning_stations(turning: Crossfall | None) -> Floats:
    """Where the crossfall begins or ceases to turn."""
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
@kind("stations", 2)
def _stations(
    line: HorizontalAlignment,
    levels: tuple[Any, Any, Any],
    turning: Crossfall | None,
    interval: float,
    equations: Equations,
) -> Floats:
    return section_stations(line, levels[0], interval, extra=turning_stations(turning), equations=equations)


def _blocks_together(wanted: Sequence[Mapping[str, Any]]) -> list[Block]:
    """Blocks of several pieces; those with one template and all else alike are solved in one go."""
    alike: dict[Any, list[int]] = {}
    for k, needs in enumerate(wanted):
        shared = tuple(id(needs[name]) for name in ("line", "template", "surface", "turning", "cuts"))
        also = (
            needs["varied"][2],
            bool(needs["follow"]),
            needs["reach"],
            needs["names"],
            tuple(map(id, needs["beside"])),
            needs["led"],
        )
        alike.setdefault((shared, also), []).append(k)
    found: dict[int, Block] = {}
    for same in alike.values():
        found.update(zip(same, _solved([wanted[k] for k in same]), strict=True))
    return [found[k] for k in range(len(wanted))]


def _solved(wanted: Sequence[Mapping[str, Any]]) -> tuple[Block, ...]:
    """Blocks of alike pieces."""
    one = wanted[0]
    cut = None
    if one["cuts"] is not None:
        stations = np.concatenate([w["stations"] for w in wanted])
        cut = (_cuts_at(stations, one["line"], one["surface"], one["reach"], one["cuts"]), one["reach"])
    return solve_blocks(
        one["line"], [w["profile"] for w in wanted],
        [Piece(w["template"], left=w["varied"][0], right=w["varied"][1], bare=w["varied"][2]) for w in wanted],
        one["surface"][0], [w["stations"] for w in wanted],
        alongs=[w["along"] for w in wanted], follow=[w["follow"] for w in wanted],
        crossfall=one["turning"], cut=cut, led=one["led"], beside={name: s[0] for name, s in zip(one["names"], one["beside"], strict=True)},
    )  # fmt: skip


@kind("block", 9, together=_blocks_together)
def _block(**needs: Any) -> Block:
    return _solved([needs])[0]


@kind("stations-finer", 1)
def _finer(within: float, **needs: Any) -> Floats:
    """Those of a piece, and more where sections differ too much."""
    return finer_stations(lambda s: _solved([needs | {"stations": s, "cuts": None}])[0], needs["stations"], within)


@kind("alongs", 2)
def _alongs(plain: tuple[Block, ...]) -> Alongs:
    """What changes along a row of pieces, from their own sections as they are without it."""
    return block_alongs(*plain)


@kind("corridor", 8)
def _corridor(line: HorizontalAlignment, blocks: tuple[Block, ...], told: tuple[Finding, ...]) -> Corridor:
    return Corridor(line, blocks, told)


@kind("reach", 1)
def _reach(template: Template) -> float:
    """How far the ground is needed under a template, m; found once for all roads that have it."""
    return float(search_reach(template)[0])


@dataclass(frozen=True, slots=True, eq=False)
class _Ranges:
    """What holds over ranges, and these: stations, m, in order, from and to between where it is taken and where it is let go."""

    found: Any
    ranges: tuple[tuple[float, float, float, float], ...]

    @staticmethod
    def of(found: Result[Any] | None) -> _Ranges:
        rows = found.get() if found is not None else ()
        return _Ranges(
            found, tuple((x.station_from - x.ease, x.station_from, x.station_to, x.station_to + x.release) for x in rows)
        )

    def on(self, piece: Piece) -> Any:
        """All of it where one of its ranges lies on a piece, else nothing."""
        return self.found if any(r[0] < piece.station_to and r[-1] > piece.station_from for r in self.ranges) else ()


@dataclass(frozen=True, slots=True, eq=False)
class _RoadNeeds:
    """What the blocks of a road need, found once for all that is asked of it. What a block needs of what varies is what lies on its own
    range, so a change elsewhere leaves it."""

    row: tuple[Piece, ...]
    same: Mapping[str, Any]  # what all need
    cuts: Result[tuple[Floats, GroundSections]]
    every: Floats  # stations of the road's own sections
    profile: VerticalAlignment
    planes: _Ranges  # of other roads, followed
    leads: _Ranges  # of lines that lead nodes

    def within(self, k: int) -> bool:
        """Whether a piece lies where both line and profile are."""
        p, s = self.row[k], self.every
        return bool(min(p.station_to, s[-1]) - max(p.station_from, s[0]) > SAME_STATION)

    def own(self, k: int) -> Floats:
        """Stations of a piece, with its ends and where its values bend."""
        p, every = self.row[k], self.every
        knots = {s for v in (*p.left, *p.right) for s in v.station} | {
            s for x in (self.planes, self.leads) for r in x.ranges for s in r
        }
        inside = np.array(sorted(s for s in knots if p.station_from < s < p.station_to and every[0] < s < every[-1]))
        near = np.abs(inside[:, None] - every[None, :]).min(axis=1) if len(inside) else np.empty(0)
        return stations_within(np.union1d(every, inside[near > SAME_STATION]), p.station_from, p.station_to)

    def of(self, k: int, stations: Floats) -> dict[str, Any]:
        """All that a block needs but its cuts and what changes along it. Levels enter by their values there: what moves elsewhere leaves
        the block. Another road's plane is taken and let go beyond the piece."""
        p = self.row[k]
        follow, led = self.planes.on(p), self.leads.on(p)
        profile = self.profile if follow else self.profile.within(float(stations[0]), float(stations[-1]))
        return {
            **self.same, "template": Content(p.template), "varied": (p.left, p.right, p.bare), "follow": follow, "led": led,
            "stations": stations, "profile": profile,
        }  # fmt: skip


def _road_needs(road: RoadInputs) -> _RoadNeeds:
    if road.template_fault is not None:
        raise road.template_fault
    if lacks := missing_for_corridor(road):
        raise InputError("corridor-needs", missing=lacks)
    assert road.surface is not None
    row = pieces(road)
    on_line = {"line": line(road), "turning": crossfall(road)}
    every = {"interval": road.interval, "equations": road.equations}
    templates = {id(p.template): p.template for p in row}
    reach = max(_reach(template=Content(t)).get() for t in templates.values())
    on_ground = {"surface": surface(road.surface), "reach": reach}
    beside = {"names": tuple(road.beside), "beside": tuple(surface(r) for r in road.beside.values())}
    return _RoadNeeds(
        row, on_line | on_ground | beside, cuts=_cuts(**on_line, **every, **on_ground), every=section_stations_of(road).get(),
        profile=profile_of(road), planes=_Ranges.of(following(road)), leads=_Ranges.of(led(road, _corridor_if_whole)),
    )  # fmt: skip


def _blocks(road: RoadInputs, at: Sequence[Floats] | None) -> tuple[Result[Block], ...]:
    return tuple(_blocks_by_piece(road, at).values())


def _blocks_by_piece(road: RoadInputs, at: Sequence[Floats] | None) -> dict[int, Result[Block]]:
    """A block a piece, by the piece's number and in order, with sections at its stations (m, increasing; none: no block), else at the
    road's interval as far as line and profile go, closer where its fineness asks for it."""
    needs: _RoadNeeds = road.once("_needs", lambda: _road_needs(road))
    found: dict[int, Result[Block]] = {}
    for span in spans_of(needs.row):
        wanted = [k for k in span if (needs.within(k) if at is None else len(at[k]))]
        if not wanted:
            continue
        along = None
        if changes_along(needs.row[span[0]].template):
            whole = [k for k in span if needs.within(k)]
            along = _alongs(plain=tuple(_block(**needs.of(k, needs.own(k)), cuts=needs.cuts, along=None) for k in whole)).get()
        for k in wanted:
            piece = needs.row[k]
            here = along.within(piece.station_from, piece.station_to) if along is not None else None
            asked = needs.of(k, needs.own(k) if at is None else at[k]) | {"along": here}
            if at is None and road.fineness is not None:
                asked["stations"] = _finer(**asked, cuts=needs.cuts, within=road.fineness).get()
            found[k] = _block(**asked, cuts=needs.cuts if at is None or len(at[k]) > 1 else None)
    return found


def _told(road: RoadInputs) -> tuple[Finding, ...]:
    """What is doubtful about what varies along a road."""
    row, told = pieces_result(road).get()
    turning = crossfall_of(road)
    differ = falls_that_differ(row, turning.diagram.normal) if turning is not None else []
    if (
        turning is not None
        and turning.axis != "centre"
        and any(has_own_axis(s) for p in row for s in (p.template.left, p.template.right))
    ):
        differ.append(Finding("doubt", "axis-of-halves", {"axis": turning.axis}))
    met = met_findings(road, [p.station for p in levels(road).get()[2]])
    stepped: tuple[Finding, ...] = ()
    if road.return_of is not None:
        from .returns import findings_of

        stepped = tuple(findings_of(road, levels(road).get()[0]))
    return (*told, *differ, *not_reached(road), *met, *stepped)


def corridor(road: RoadInputs) -> Result[Corridor]:
    """Raises InputError where the road lacks something."""
    return road.once("_corridor", lambda: _corridor(line=line(road), blocks=_blocks(road, None), told=_told(road)))


def section_stations_of(road: RoadInputs) -> Result[Floats]:
    """Stations of a road's own sections, as far as line and profile go."""
    return _stations(
        line=line(road), turning=crossfall(road), interval=road.interval, equations=road.equations, levels=levels(road)
    )


def _corridor_if_whole(road: RoadInputs) -> Result[Corridor] | None:
    return None if missing_for_corridor(road) else corridor(road)


def corridor_of(road: RoadInputs) -> Corridor:
    return corridor(road).get()


def _some(blocks: tuple[Result[Block], ...], stations: Any) -> tuple[Result[Block], ...]:
    if not blocks:
        raise InputError("nothing-built-at", at=float(np.atleast_1d(stations)[0]))
    return blocks


def sections(road: RoadInputs, stations: Any) -> Result[Corridor]:
    """Sections at given stations (m, increasing). Raises InputError where the road lacks something, or nothing is built at any of them."""
    return _corridor(line=line(road), blocks=_some(_blocks(road, stations_once(stations, pieces(road))), stations), told=())


def sections_over(road: RoadInputs, stations: Any) -> Result[Corridor]:
    """Sections from the first to the last of given stations (m, increasing), at these and on both sides of where pieces meet. Raises
    InputError where nothing is built there."""
    at = [stations_within(stations, p.station_from, p.station_to) for p in pieces(road)]
    return _corridor(line=line(road), blocks=_some(_blocks(road, at), stations), told=())


def corridor_at(road: RoadInputs, stations: Any) -> Corridor:
    """Sections at given stations only, e.g. at the reading mark; not kept. Raises InputError where nothing is built at any of them."""
    blocks = _some(_blocks(road, stations_once(stations, pieces(road))), stations)
    return Corridor(line_of(road), tuple(b.found_anew() for b in blocks))


def corridor_over(road: RoadInputs, first: float, last: float) -> Corridor:
    """The road's own sections within a range, and sections at its ends; not kept. Raises InputError where nothing is built there."""
    own = _blocks_by_piece(road, None)
    at = [np.empty(0)] * len(pieces(road))
    for k, b in own.items():
        at[k] = stations_within(b.needs["stations"], first, last)
    blocks = _some(_blocks(road, at), first)
    return Corridor(line_of(road), tuple(b.found_anew() for b in blocks))


def corridor_and_section(road: RoadInputs, station: float) -> tuple[Corridor, Corridor]:
    """The corridor, and the one section at a station on it, or nearest before it where nothing is built; solved together, since a trial
    wants both at once."""
    blocks = _blocks_by_piece(road, None)
    own = {k: b.needs["stations"] for k, b in blocks.items()}
    first, last = min(own), max(own)
    station = float(np.clip(station, own[first][0], own[last][-1]))
    k = max(i for i, s in own.items() if i == first or s[0] <= station)
    at = int(np.searchsorted(own[k], station - SAME_STATION))
    stands = at < len(own[k]) and abs(own[k][at] - station) <= SAME_STATION
    if stands or station > own[k][-1]:
        block = blocks[k].get().take([min(at, len(own[k]) - 1)])
    else:
        wanted = [np.insert(own[k], at, station) if i == k else np.empty(0) for i in range(len(pieces(road)))]
        both = _blocks(road, wanted)[0].found_anew()
        blocks[k].keep(lambda: both.take(np.delete(np.arange(len(own[k]) + 1), at)))
        block = both.take([at])
    return corridor_of(road), Corridor(line_of(road), (block,))
