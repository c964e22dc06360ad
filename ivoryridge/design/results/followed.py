"""Other roads' planes that a road takes over ranges."""

from __future__ import annotations

from typing import Any

import numpy as np

from ivoryridge.core.alignment.crossfall_diagram import CrossfallDiagram
from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.leaving import leaving_from
from ivoryridge.core.corridor.carried_plane import CarriedPlane, Following, Plane, followed
from ivoryridge.core.corridor.turning import Crossfall
from ivoryridge.core.findings import Finding
from ivoryridge.core.junction.meeting import meeting_near

from ..inputs.road import ArmOf, RoadInputs, VariedRow
from ..kept.kinds import IfPossible, Result, kind
from .crossfall import Lanes, crossfall, lanes_of
from .levels import levels
from .line import line, line_of
from .meet import edge_plane, ground_plane
from .varied import range_of

__all__ = ["following", "following_rows", "levels_followed", "not_reached"]

_LOOK = 10.0  # m between places at which it is asked whether the other road reaches


@kind("carried plane", 1)
def _plane(
    line: HorizontalAlignment, levels: tuple[Any, Any, Any] | None, turning: Crossfall | None, lanes: Lanes
) -> CarriedPlane | None:
    if levels is None:
        return None
    if turning is None:  # its lanes fall as its template says, all along
        (_, left), (_, right) = lanes
        turning = Crossfall(
            CrossfallDiagram(np.zeros(1), np.array([-left]), np.array([-right]), (left, right), (), ()), "centre", (0.0, 0.0)
        )
    return CarriedPlane(line, levels[0], turning)


@kind("following", 2)
def _following(
    planes: tuple[Plane | None, ...], rows: tuple[tuple[float, float, bool, float, float], ...]
) -> tuple[Following, ...]:
    return tuple(Following(p, *row) for p, row in zip(planes, rows, strict=True) if p is not None)


def following(road: RoadInputs) -> Result[tuple[Following, ...]] | None:
    """None for a road that follows no other, and meets no ground at its ends."""
    rows = _followed_rows(road)
    ends = [r for r in road.varied if r.kind == "meet"]
    if not rows and not ends and not road.arms:
        return None
    own = line_of(road)
    planes: list[Result[Any] | IfPossible[Any]] = []
    for r in rows:
        other = road.followed[r.data["road"]]
        planes.append(_plane(line=line(other), levels=IfPossible(levels(other)), turning=crossfall(other), lanes=lanes_of(other)))
    told = tuple(
        (*range_of(r, own), bool(r.data.get("level")), float(r.data.get("ease", 0.0)), float(r.data.get("release", 0.0)))
        for r in rows
    )
    for arm in road.arms:
        if arm.main.existing:
            planes.append(IfPossible(edge_plane(arm, line(road))))
            at = edge_station(arm, own)
            told = (*told, (at, at, False, arm.run_out, arm.run_out))
            continue
        run, level = run_out_of(arm, own)
        if run is not None:
            main = arm.main
            planes.append(_plane(line=line(main), levels=IfPossible(levels(main)), turning=crossfall(main), lanes=lanes_of(main)))
            told = (*told, (*run, level, arm.run_out, arm.run_out))
    for r in ends:  # the plane holds at the very end; from there the road goes over into its own
        a, b = range_of(r, own)
        at_start = r.data["end"] == "start"
        planes.append(ground_plane(road))
        told = (*told, (a, a, False, 0.0, b - a) if at_start else (b, b, False, b - a, 0.0))
    return _following(planes=tuple(planes), rows=told)


def run_out_of(arm: ArmOf, own: HorizontalAlignment) -> tuple[tuple[float, float] | None, bool]:
    """Stations of a side road between which it lies between the edges of its main road's lanes, m, None where the roads do not meet
    or have no lanes; and whether it runs through, so that its level is the main road's there, too."""
    left, right = lanes_of(arm.main)
    found = IfPossible(_run(own=own, main=line(arm.main), widths=(left[0], right[0]), place=arm.place, name=arm.main.name)).get()
    return found if found is not None else (None, False)


def edge_station(arm: ArmOf, own: HorizontalAlignment) -> float:
    """Station of a side road where it meets an existing edge, m; its start where it does not, which the junction tells."""
    found = IfPossible(_meets(own=own, edge=line(arm.main), place=arm.place)).get()
    return own.start_station if found is None else float(found)


@kind("edge met at", 1)
def _meets(own: HorizontalAlignment, edge: HorizontalAlignment, place: tuple[float, float]) -> float:
    return meeting_near(edge, own, place, ("", "")).side


@kind("run-out", 1)
def _run(
    own: HorizontalAlignment, main: HorizontalAlignment, widths: tuple[float, float], place: tuple[float, float], name: str
) -> tuple[tuple[float, float] | None, bool]:
    if max(widths) <= 0:
        return None, False
    meeting = meeting_near(main, own, place, (name, name))
    first = leaving_from(own, main, widths, meeting.side, -1.0)[0] if "before" in meeting.arms else own.start_station
    last = leaving_from(own, main, widths, meeting.side, 1.0)[0] if "after" in meeting.arms else own.end_station
    return (first, last), len(meeting.arms) == 2


def _followed_rows(road: RoadInputs) -> list[VariedRow]:
    return [r for r in road.varied if r.kind == "follow" and r.data["road"] in road.followed]


def following_rows(road: RoadInputs) -> tuple[Following, ...]:
    found = following(road)
    return () if found is None else found.get()


def levels_followed(road: RoadInputs, station: Any, own: Any) -> Any:
    """Levels (n,) m of a road's centre at stations, where it takes those of another; its own elsewhere."""
    rows = [r for r in following_rows(road) if r.level]
    if not rows:
        return own

    def profile(at: Any) -> Any:
        nothing = np.zeros(np.shape(at))
        return np.interp(at, station, own), (nothing, nothing)

    return followed(line_of(road), np.asarray(station, float), profile, lambda at: (np.ones(len(at)), np.ones(len(at))), rows)[0]


def not_reached(road: RoadInputs) -> list[Finding]:
    """Where a road is to follow another that does not reach so far."""
    out: list[Finding] = []
    own = line_of(road)
    names = [road.followed[r.data["road"]].name for r in _followed_rows(road) if _has_levels(road.followed[r.data["road"]])]
    carried = [(row, row.plane) for row in following_rows(road) if isinstance(row.plane, CarriedPlane)]
    for (row, plane), name in zip(carried, names, strict=False):  # arms of junctions come behind
        s = np.linspace(row.station_from, row.station_to, max(int((row.station_to - row.station_from) / _LOOK), 2))
        missing = np.flatnonzero(np.isnan(plane.at(own.evaluate(np.clip(s, own.start_station, own.end_station))[0])[2]))
        if len(missing):
            a, b = float(s[missing[0]]), float(s[missing[-1]])
            out.append(Finding("doubt", "plane-ends", {"start": a, "end": b, "road": name}, station_from=a, station_to=b))
    return out


def _has_levels(road: RoadInputs) -> bool:
    return IfPossible(levels(road)).get() is not None
