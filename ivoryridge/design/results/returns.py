"""The returns of a junction: their lines between the edges of two roads, the levels that both demand, and what stands outside of them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.vertical import PVI, VerticalAlignment, profile_from_pvis
from ivoryridge.core.corridor.blend import Blend
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.meet import fit_end
from ivoryridge.core.corridor.varied import Piece, Side, Stretch, pieces_of
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.junction.arm import EdgeRow, edge_nodes, edge_row, outer_parts
from ivoryridge.core.junction.corner import CornerReturn, CornerShape, edges_cross, return_at_corner
from ivoryridge.core.junction.edge import ArmEdge
from ivoryridge.core.junction.meeting import Meeting, meeting_near
from ivoryridge.core.junction.return_levels import return_findings, return_levels
from ivoryridge.core.section.template import PlacedPart, Template

from ..inputs.road import ReturnOf, RoadInputs
from ..kept.kinds import Content, Result, kind
from .corridor import corridor_of, sections
from .levels import levels_of
from .line import line, line_of
from .surface import surface
from .varied import pieces

Floats = NDArray[np.float64]

__all__ = [
    "EdgeEnd",
    "corner_of",
    "ends_of",
    "findings_of",
    "meeting_of",
    "outer_pieces",
    "return_line",
    "return_profile",
    "trial_corner",
]

_REACH = 250.0  # m either way of the meeting over which edges are looked at
_BESIDE = 0.05  # m either way of a tangent point between which an edge's grade is read
ROUGH_TOLD = 0.03  # m; common practice, no source
STEP_TOLD = 0.002  # m of a pinned return's step at its ends that are told


@dataclass(frozen=True, slots=True)
class EdgeEnd:
    """What the edge of a road demands of a return that ends on it: level m, grade along the return (ratio, + rises)."""

    level: float
    grade: float
    off: float = 0.0  # m that a reading of an existing edge lies off the straight line that fits it


@kind("meeting", 1)
def _meeting(main: HorizontalAlignment, side: HorizontalAlignment, place: tuple[float, float], names: tuple[str, str]) -> Meeting:
    return meeting_near(main, side, place, names)


def meeting_of(main: RoadInputs, side: RoadInputs, place: tuple[float, float]) -> Meeting:
    """Where a side road meets its main road now. Raises InputError where it does not."""
    return _meeting(main=line(main), side=line(side), place=place, names=(main.name, side.name)).get()


@dataclass(frozen=True, slots=True)
class _Way:
    """How a return goes: along which side of either road, and whether against its stationing."""

    main_side: Side
    main_against: bool
    side_side: Side
    side_against: bool
    turn: int


def _way_of(of: ReturnOf, meeting: Meeting) -> _Way:
    if of.arm not in meeting.arms:
        raise InputError("arm-missing", road=of.side.name, other=of.main.name, arm=of.arm)
    azimuth = float(line_of(of.main).evaluate(meeting.main)[1][0])
    away = float(line_of(of.side).evaluate(meeting.side)[1][0]) + (0.0 if of.arm == "after" else np.pi)
    on_right = np.sin(away - azimuth) > 0
    left = of.hand == "left"
    return _Way(
        main_side="right" if on_right else "left",
        main_against=bool(on_right == left),
        side_side="left" if left == (of.arm == "after") else "right",
        side_against=of.arm == "before",
        turn=-1 if left else 1,
    )


@kind("return", 2)
def _corner(
    main: HorizontalAlignment, side: HorizontalAlignment, first: EdgeRow, second: EdgeRow, way: _Way, near: tuple[float, float],
    shape: CornerShape, name: str,
) -> CornerReturn:  # fmt: skip
    one = ArmEdge(main, first.station, first.offset, way.main_against)
    two = ArmEdge(side, second.station, second.offset, way.side_against)
    corner = edges_cross(one, two, near, 6 * shape.radius + 40.0) or near
    return return_at_corner(one, two, way.turn, shape, corner, corner=name)


def _edges(of: ReturnOf, name: str) -> tuple[Result[CornerReturn], _Way]:
    meeting = meeting_of(of.main, of.side, of.place)
    way = _way_of(of, meeting)
    if of.main.existing:
        own = line_of(of.main)
        first = EdgeRow(np.array([own.start_station, own.end_station]), np.zeros(2), "existing edge")
    else:
        first = edge_row(corridor_of(of.main), way.main_side, meeting.main, _REACH, of.main.name)
    second = edge_row(corridor_of(of.side), way.side_side, _on_arm(of, meeting), _REACH, of.side.name)
    # the edges enter the key by what they are near the junction: what changes elsewhere, or in level, leaves the return where it lies
    found = _corner(
        main=line(of.main), side=line(of.side), first=Content(first), second=Content(second), way=way,
        near=(meeting.main, meeting.side), shape=of.shape, name=name,
    )  # fmt: skip
    return found, way


def _on_arm(of: ReturnOf, meeting: Meeting) -> float:
    """A station of the side road on the arm, clear of the meeting, where it surely has an edge."""
    return meeting.side + (5.0 if of.arm == "after" else -5.0)


def trial_corner(of: ReturnOf) -> tuple[float, float]:
    """Where a corner that is not made yet would lie: the middle of its return, (E, N) m. Raises why it does not fit."""
    found, _ = _edges(of, f"the {of.hand} of {of.side.name}")
    own = found.get().line
    place = own.evaluate(0.5 * (own.start_station + own.end_station))[0][0]
    return float(place[0]), float(place[1])


def corner_of(road: RoadInputs) -> tuple[Result[CornerReturn], _Way]:
    """The return in plan, and how it goes. Raises why there is none."""
    assert road.return_of is not None
    of = road.return_of
    found: tuple[Result[CornerReturn], _Way] = road.once("_corner", lambda: _edges(of, road.name))
    return found


@kind("return line", 1)
def _line(corner: CornerReturn, start_station: float) -> HorizontalAlignment:
    return replace(corner.line, start_station=start_station)


def return_line(road: RoadInputs) -> Result[HorizontalAlignment]:
    return _line(corner=corner_of(road)[0], start_station=road.start_station)


# --- levels ---------------------------------------------------------------------------------------------------
@kind("edge end", 1)
def _edge_end(sections: Corridor, row: EdgeRow, at: float, side: Side, against: bool, name: str) -> EdgeEnd:
    """From sections close to a tangent point: level there, and grade for each metre of the edge as the return goes."""
    s, z = [], []
    for block in sections.blocks:
        _, level, _ = edge_nodes(block, side)
        s.append(block.station)
        z.append(level)
    stations, levels = np.concatenate(s), np.concatenate(z)
    known = np.isfinite(levels)
    if known.sum() < 2:
        raise InputError("edge-missing", road=name, side=side, at=at, roles="an edge")
    stations, levels = stations[known], levels[known]
    edge = ArmEdge(sections.line, row.station, row.offset, against)
    rise = float(levels[-1] - levels[0]) / float(stations[-1] - stations[0]) / edge.pace(at)
    return EdgeEnd(float(np.interp(at, stations, levels)), -rise if against else rise)


@kind("ground end", 2)
def _ground_end(line: HorizontalAlignment, surface: tuple[Any, Any], at: float, against: bool, name: str) -> EdgeEnd:
    """Of an existing edge: the straight line through the ground's levels within 5 m either way, each half metre."""
    fit = fit_end(line, surface[0], at)
    if fit is None:
        raise InputError("edge-off-ground", road=name, at=at)
    return EdgeEnd(fit.level, -fit.grade if against else fit.grade, fit.worst)


def _end(road: RoadInputs, row: EdgeRow, at: float, side: Side, against: bool) -> Result[EdgeEnd]:
    if road.existing:
        assert road.surface is not None
        return _ground_end(line=line(road), surface=surface(road.surface), at=at, against=against, name=road.name)
    own = line_of(road)
    s = np.unique(np.clip([at - _BESIDE, at, at + _BESIDE], own.start_station, own.end_station))
    return _edge_end(sections=sections(road, s), row=Content(row), at=at, side=side, against=against, name=road.name)


def ends_of(road: RoadInputs) -> tuple[Result[EdgeEnd], Result[EdgeEnd]]:
    """What both edges demand at the return's start and end."""
    assert road.return_of is not None
    of = road.return_of
    found, way = corner_of(road)
    corner = found.get()
    return (
        _end(of.main, found.needs["first"].get(), corner.first, way.main_side, way.main_against),
        _end(of.side, found.needs["second"].get(), corner.second, way.side_side, way.side_against),
    )


@kind("return levels", 1)
def _profile(
    line: HorizontalAlignment, start: EdgeEnd, end: EdgeEnd
) -> tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]:
    found = return_levels(start.level, start.grade, end.level, end.grade, line.end_station - line.start_station)
    pvis = tuple(PVI(line.start_station + p.station, p.elevation, p.half_in, p.half_out, p.circular) for p in found.pvis)
    return profile_from_pvis(list(pvis)), tuple(range(len(pvis))), pvis


def return_profile(road: RoadInputs) -> Result[tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]]:
    """Levels of a return that nobody has pinned: one curve or a reverse pair, as both edges demand."""
    start, end = ends_of(road)
    return _profile(line=line(road), start=start, end=end)


def findings_of(road: RoadInputs, profile: VerticalAlignment) -> list[Finding]:
    """What is doubtful about a return's levels; and where a pinned one does not end on the roads' edges any more, with the step."""
    if road.return_of is None:
        return []
    kinked = corner_of(road)[0].get().crossing is not None  # two metres of edges, which no radius would ease
    out = [] if kinked else return_findings(profile, levels_of(road).pvis)
    if road.return_of.main.existing:
        start = ends_of(road)[0].get()
        if start.off > ROUGH_TOLD:
            told = {"road": road.return_of.main.name, "off": 1000 * start.off, "limit": 1000 * ROUGH_TOLD}
            at = line_of(road).start_station
            out.append(Finding("doubt", "edge-rough", told, station_from=at, station_to=at))
    if road.levels_follow:
        return out
    own = line_of(road)
    names = road.return_of.main.name, road.return_of.side.name
    for end, name, at in zip(ends_of(road), names, (own.start_station, own.end_station), strict=True):
        step = float(profile.evaluate(at)[0][0]) - end.get().level
        if abs(step) > STEP_TOLD:
            told = {"at": at, "road": name, "step": 1000 * abs(step), "way": "above" if step > 0 else "below"}
            out.append(Finding("fault", "return-step", told, station_from=at, station_to=at))
    return out


# --- what stands outside ----------------------------------------------------------------------------------------
def _parts_at(road: RoadInputs, station: float, side: Side) -> tuple[PlacedPart, ...]:
    row = pieces(road)
    piece = next((p for p in row if p.station_from <= station <= p.station_to), row[-1])
    return outer_parts(piece.template.left if side == "left" else piece.template.right)


@kind("outer pieces", 1)
def _outer(line: HorizontalAlignment, first: Template, second: Template) -> tuple[tuple[Piece, ...], tuple[Finding, ...]]:
    start, end = line.start_station, line.end_station
    if (first.left, first.right) == (second.left, second.right):
        return pieces_of(first, start, end)
    middle, half = 0.5 * (start + end), 0.5 * (end - start)
    blend = Blend(half, "smooth", "about")
    rows = [Stretch(first, start, middle), Stretch(second, middle, end, blend_from=blend)]
    return pieces_of(None, start, end, rows)


def outer_pieces(road: RoadInputs) -> Result[tuple[tuple[Piece, ...], tuple[Finding, ...]]]:
    """What stands outside of a return: what the main road has beside its edge at the start, the side road at the end, and between them
    the one goes over into the other."""
    assert road.return_of is not None
    of = road.return_of
    found, way = corner_of(road)
    corner = found.get()
    templates = []
    own = _parts_at(of.side, corner.second, way.side_side)
    for parts in (own if of.main.existing else _parts_at(of.main, corner.first, way.main_side), own):
        left, right = (parts, ()) if way.turn < 0 else ((), parts)
        templates.append(Content(Template(f"Outside of {road.name}", left, right)))
    return _outer(line=line(road), first=templates[0], second=templates[1])
