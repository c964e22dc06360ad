"""Part a road in two, or make one of two that meet."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points, tangent_points
from ivoryridge.core.units import format_station
from ivoryridge.core.wording import quantity

from ..inputs.network import assemble_road
from ..ledger import Act
from ..models import Junction, Road, RoadPI, RoadPVI, SheetSet, Variation
from ..refusals import BadValue
from ..results.levels import Levels, levels_of
from ..results.line import line_of
from .edit_along import join_variations, split_variations
from .edit_course import hanging_on, set_free
from .edit_line import let_go_of, stations_of
from .standing import act, rehearsed

__all__ = ["join_roads", "split_road"]

MEETS = 0.05  # m between the end of one road and the start of the next
_IN_LINE = np.radians(0.02)  # a smaller turn needs no PI
LEAST_PART = 1.0  # m


@rehearsed
def split_road(road: Road, user: User, *, revision: int, station: float) -> tuple[Act, list[str], Road]:
    """The road ends at a station, and a new one goes on from there with the rest of its PIs, PVIs and speeds."""
    inputs = assemble_road(road)
    if road.course:
        raise BadValue("split-needs-pis", f"Only a line laid out by PIs can be split. Lay {road.name} out by PIs first.")
    line, levels = line_of(inputs), levels_of(inputs) if inputs.has_profile else None
    _may_be_split(line, len(inputs.pis), levels, station)
    east, north = (float(v) for v in line.evaluate(station)[0][0])
    with act(road.project, user, f"Split {road.name} at {format_station(station)}") as doing:
        doing.change(road, revision=revision)
        hanging = hanging_on(road)
        told = _parallels_set_free(doing, hanging, road)
        rows = list(RoadPI.present.filter(road=road))
        behind = _pis_behind(line, rows, station)
        other = _second_road(doing, road, station)
        theirs = _second_pis(doing, other, rows[len(rows) - len(behind) - 1], behind, (east, north))
        _part_profile(doing, road, other, levels, station)
        split_variations(doing, road, other, inputs, theirs, station)
        _first_part(doing, road, rows, behind, theirs, station, (east, north))
        told += _ties_handed_over(doing, hanging, road, other, station)
        _junctions_handed_over(doing, road, other, line, station)
    if road.equations:
        told.append(
            f"{other.name} counts its chainage anew from {format_station(station)}; the equations before it stay with {road.name}."
        )
    told.append(f"{road.name} ends at {format_station(station)} now; {other.name} goes on from there.")
    return doing, told, other


def _may_be_split(line: HorizontalAlignment, pis: int, levels: Levels | None, station: float) -> None:
    """Raises BadValue near an end, in a bend and in a vertical curve."""
    if not line.start_station + LEAST_PART <= station <= line.end_station - LEAST_PART:
        raise BadValue(
            "split-outside",
            f"Choose a chainage between {format_station(line.start_station)} and {format_station(line.end_station)}.",
            field="station",
        )
    for i in range(1, pis - 1):
        points = tangent_points(line, i)
        if points and points["TS"] + 1e-6 < station < points["ST"] - 1e-6:
            raise BadValue(
                "split-in-bend", f"{format_station(station)} lies in the bend at PI {i + 1}, from {format_station(points['TS'])} to "
                f"{format_station(points['ST'])}. Split on a straight.", field="station",
            )  # fmt: skip
    for number, p in enumerate(levels.pvis if levels else (), 1):
        if p.station - p.half_in + 1e-6 < station < p.station + p.half_out - 1e-6:
            raise BadValue(
                "split-in-curve", f"{format_station(station)} lies in the vertical curve at PVI {number}, from "
                f"{format_station(p.station - p.half_in)} "
                f"to {format_station(p.station + p.half_out)}. Split on a straight grade.", field="station",
            )  # fmt: skip


def _parallels_set_free(doing: Act, hanging: list[Road], road: Road) -> list[str]:
    told = []
    for third in hanging:
        if third.course.get("road") == road.pk:
            set_free(doing, third)
            told.append(f"{third.name} was parallel to {road.name} as a whole; it stays where it is, on its own.")
    return told


def _pis_behind(line: HorizontalAlignment, rows: list[RoadPI], station: float) -> list[RoadPI]:
    """PIs whose curve ends behind the station; one without a curve lies where its legs meet."""

    def ends(i: int) -> float:
        if i in (0, len(rows) - 1):
            return line.start_station if i == 0 else line.end_station
        points = tangent_points(line, i)
        at = int(np.argmin(np.hypot(*(line.start - [rows[i].easting, rows[i].northing]).T)))
        return points["ST"] if points else float(line.stations[at])

    return [row for i, row in enumerate(rows) if ends(i) > station]


def _second_road(doing: Act, road: Road, station: float) -> Road:
    speeds = sorted([float(s), float(v)] for s, v in road.speeds)
    before = [v for s, v in speeds if s <= station]
    other = Road(
        project=road.project, name=f"{road.name} from {format_station(station, decimals=0)}"[:120], template=road.template,
        surface=road.surface,
        interval=road.interval, fineness=road.fineness, start_station=station, mirrored=road.mirrored,
        crossfall={k: v for k, v in road.crossfall.items() if k != "bends"},
        speeds=([[station, before[-1]]] if before else []) + [[s, v] for s, v in speeds if s > station],
        ties={k: v for k, v in road.ties.items() if k == "end"}, equations=[e for e in road.equations if e[0] > station],
        fixed_points=[f for f in road.fixed_points if f["station"] > station],
    )  # fmt: skip
    doing.create(other)
    doing.create(SheetSet(project=road.project, road=other, name=f"{other.name} sheets"[:120]))
    return other


_OF_PI = ("easting", "northing", "radius", "spiral_in", "spiral_out", "held", "straight_held")


def _second_pis(doing: Act, other: Road, cut: RoadPI, behind: list[RoadPI], place: tuple[float, float]) -> dict[int, int]:
    """The PIs of the second road; id of a PI -> of the one that takes its place. The straight from ``cut`` is split, and both its
    parts stay held if it was."""
    doing.create(RoadPI(road=other, position=0.0, straight_held=cut.straight_held, easting=place[0], northing=place[1]))
    return {
        row.pk: doing.create(RoadPI(road=other, position=2.0 * n, **{f: getattr(row, f) for f in _OF_PI})).pk
        for n, row in enumerate(behind, 1)
    }


def _first_part(
    doing: Act, road: Road, rows: list[RoadPI], behind: list[RoadPI], theirs: dict[int, int], station: float, place: tuple[float, float]
) -> None:  # fmt: skip
    """What stays with the road: PIs before the place, an end there, its speeds, pins and the tie of its start."""
    stations = stations_of(road)
    for row in behind:
        let_go_of(doing, row, stations)
        doing.remove(row)
    doing.create(RoadPI(road=road, position=rows[-1].position + 2.0, easting=place[0], northing=place[1]))
    bends = road.crossfall.get("bends", {})
    moved = {str(theirs[int(pi)]): pin for pi, pin in bends.items() if int(pi) in theirs}
    if bends:
        doing.change(road, crossfall={**road.crossfall, "bends": {pi: pin for pi, pin in bends.items() if int(pi) not in theirs}})
    if moved:
        other = RoadPI.objects.get(pk=next(iter(theirs.values()))).road
        doing.change(other, crossfall={**other.crossfall, "bends": moved})
    speeds = sorted([float(s), float(v)] for s, v in road.speeds)
    doing.change(
        road, speeds=[[s, v] for s, v in speeds if s < station], ties={k: v for k, v in road.ties.items() if k == "start"},
        equations=[e for e in road.equations if e[0] < station],
        fixed_points=[f for f in road.fixed_points if f["station"] <= station],
    )  # fmt: skip


def _ties_handed_over(doing: Act, hanging: list[Road], road: Road, other: Road, station: float) -> list[str]:
    """Roads tied to the part behind the split are tied to the new road, at the same chainage."""
    told = []
    for third in hanging:
        ties = {
            e: {**t, "road": other.pk} if t["road"] == road.pk and t["station"] > station else t for e, t in third.ties.items()
        }
        if ties != third.ties:
            doing.change(third, ties=ties)
            told.append(f"{third.name} is tied to {other.name} now.")
        for row in Variation.present.filter(road=third, kind="follow", data__road=road.pk):  # as far as either reaches
            both = {f: getattr(row, f) for f in ("kind", "side", "start", "end")}
            doing.create(Variation(road=third, **both, data={**row.data, "road": other.pk}))
    return told


def _junctions_handed_over(doing: Act, road: Road, other: Road, line: HorizontalAlignment, station: float) -> None:
    """Junctions behind the split are the new road's."""
    for junction in Junction.present.filter(project=road.project_id):
        behind = float(project_points(line, [[junction.easting, junction.northing]]).station[0]) > station
        for which in ("main_id", "side_id"):
            if behind and getattr(junction, which) == road.pk:
                doing.change(junction, **{which: other.pk})


def _moved_over(doing: Act, third: Road, other: Road, road: Road, shift: float) -> None:
    """What hung on a road that is joined to another stays where it is: ties are ties to the other one now, a parallel is free."""
    if third.course.get("road") == other.pk:
        set_free(doing, third)
    for row in Variation.present.filter(road=third, kind="follow", data__road=other.pk):
        if (
            third.pk == road.pk
            or Variation.present.filter(road=third, kind="follow", data__road=road.pk, start=row.start).exists()
        ):
            doing.remove(row)
        else:
            doing.change(row, data={**row.data, "road": road.pk})
    ties = {
        e: {**t, "road": road.pk, "station": round(t["station"] + shift, 9)} if t["road"] == other.pk else t
        for e, t in third.ties.items()
    }
    doing.change(third, ties={e: t for e, t in ties.items() if third.pk != road.pk or t["road"] != road.pk})


def _part_profile(doing: Act, road: Road, other: Road, levels: Any, station: float) -> None:
    """PVIs behind the station go with the new road; both have an end at the profile's level there."""
    if levels is None:
        return
    level = float(levels.profile.evaluate(station)[0][0])
    doing.create(RoadPVI(road=other, anchor="start", elevation=level))
    count = len(levels.rows)
    for i, (row, p) in enumerate(zip(levels.rows, levels.pvis, strict=True)):
        pvi = RoadPVI.objects.get(pk=row.id)
        if p.station > station:
            end = i == count - 1
            held: dict[str, Any] = {"anchor": "end"} if end else {"anchor": "station", "station": p.station}
            doing.create(
                RoadPVI(road=other, elevation=p.elevation, half_in=p.half_in, half_out=p.half_out, circular=p.circular, **held)
            )
            doing.remove(pvi)
        elif row.anchor in ("tangent", "place"):
            doing.change(pvi, anchor="station", station=p.station, anchor_pi_id=None, tangent_point="", ahead=0.0)
    doing.create(RoadPVI(road=road, candidate=road.candidate, anchor="end", elevation=level))


@rehearsed
def join_roads(road: Road, user: User, *, revision: int, other: Road) -> tuple[Act, list[str]]:
    """A road that begins where this one ends goes on as part of it, with its PIs, PVIs and pinned crossfall."""
    if road.course or other.course:
        raise BadValue("join-needs-pis", "Only lines laid out by PIs can be joined. Lay both out by PIs first.")
    mine, theirs = line_of(assemble_road(road)), line_of(assemble_road(other))
    end, heading, _ = mine.evaluate(mine.end_station)
    gap = float(np.hypot(*(theirs.start[0] - end[0])))
    if gap > MEETS:
        raise BadValue(
            "join-apart", f"The start of {other.name} lies {quantity(gap, 'm', 3)} from the end of {road.name}; at most "
            f"{quantity(MEETS, 'm')} is allowed. Reverse one of them, or move its end.",
            field="road",
        )  # fmt: skip
    turn = abs((float(theirs.azimuth[0]) - float(heading[0]) + np.pi) % (2 * np.pi) - np.pi)
    shift = round(mine.end_station - theirs.start_station, 9)  # a split undone gives back the stations that were typed
    rows, more = list(RoadPI.present.filter(road=road)), list(RoadPI.present.filter(road=other))
    my_levels = (
        levels_of(assemble_road(road)) if RoadPVI.present.filter(road=road, candidate=road.candidate).count() >= 2 else None
    )
    their_levels = (
        levels_of(assemble_road(other)) if RoadPVI.present.filter(road=other, candidate=other.candidate).count() >= 2 else None
    )
    told: list[str] = []
    with act(road.project, user, f"Join {other.name} to {road.name}") as doing:
        doing.change(road, revision=revision)
        join_variations(doing, road, other, assemble_road(road), assemble_road(other), shift)
        if turn < _IN_LINE:
            doing.remove(rows[-1])
        else:
            doing.change(rows[-1], straight_held=more[0].straight_held)
        bends, pins = dict(road.crossfall.get("bends", {})), other.crossfall.get("bends", {})
        for n, row in enumerate(more[1:], 1):
            values = {f: getattr(row, f) for f in _OF_PI}
            new = doing.create(RoadPI(road=road, position=rows[-1].position + 2.0 * n, **values))
            if str(row.pk) in pins:
                bends[str(new.pk)] = pins[str(row.pk)]
        if my_levels and their_levels:
            _join_profiles(doing, road, my_levels, their_levels, shift, told)
        elif my_levels or their_levels:
            told.append("Only one of them had a profile; fit a new one, or draw the rest.")
        speeds = (
            [*road.speeds, [mine.end_station, float(other.speeds[0][1])]]
            if other.speeds and other.speeds[0][0] <= theirs.start_station
            else list(road.speeds)
        )
        speeds += [[s + shift, v] for s, v in other.speeds if s > theirs.start_station]
        doing.change(road, crossfall={**road.crossfall, "bends": bends} if bends else road.crossfall, speeds=sorted(speeds),
                     equations=[*road.equations, *([s + shift, j] for s, j in other.equations)],
                     fixed_points=[*road.fixed_points, *({**f, "station": f["station"] + shift} for f in other.fixed_points)], ties={
            **{k: v for k, v in road.ties.items() if k == "start"}, **{k: v for k, v in other.ties.items() if k == "end"}})  # fmt: skip
        for junction in Junction.present.filter(project=road.project):  # a meeting is where both lie, whatever the road is called
            for which in ("main", "side"):
                if getattr(junction, f"{which}_id") == other.pk:
                    doing.change(junction, **{f"{which}_id": road.pk})
        for hanging in hanging_on(other):
            _moved_over(doing, hanging, other, road, shift)
        doing.remove(other)
    return doing, [f"{other.name} is part of {road.name} now.", *told]


def _join_profiles(doing: Act, road: Road, mine: Any, theirs: Any, shift: float, told: list[str]) -> None:
    last = RoadPVI.objects.get(pk=mine.rows[-1].id)
    step = theirs.pvis[0].elevation - mine.pvis[-1].elevation
    if abs(step) > 0.001:
        told.append(
            f"The profiles were {quantity(abs(step), 'm', 3)} apart in level where they meet; the first one's level is kept."
        )
    doing.change(last, anchor="station", station=mine.pvis[-1].station, ahead=0.0)
    count = len(theirs.pvis)
    for i, p in enumerate(theirs.pvis[1:], 1):
        held: dict[str, Any] = {"anchor": "end"} if i == count - 1 else {"anchor": "station", "station": p.station + shift}
        doing.create(
            RoadPVI(
                road=road,
                candidate=road.candidate,
                elevation=p.elevation,
                half_in=p.half_in,
                half_out=p.half_out,
                circular=p.circular,
                **held,
            )
        )
