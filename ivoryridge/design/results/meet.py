"""Ends of a road that meet the ground."""

from __future__ import annotations

from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points
from ivoryridge.core.corridor.meet import EdgePlane, EndFit, GroundPlane, fit_edge, fit_end
from ivoryridge.core.findings import Finding
from ivoryridge.core.junction.meeting import meeting_near

from ..inputs.road import ArmOf, RoadInputs, VariedRow
from ..kept.kinds import IfPossible, Result, kind
from .line import line, line_of
from .surface import surface
from .varied import range_of

__all__ = ["edge_plane", "end_met", "ground_plane", "met_findings", "met_over"]

UNEVEN = 0.030  # m; a reading farther from the fit is told


@kind("end met", 2)
def _end_met(line: HorizontalAlignment, surface: tuple[Any, Any] | None, end: str) -> EndFit | None:
    if surface is None:
        return None
    return fit_end(line, surface[0], line.start_station if end == "start" else line.end_station)


@kind("ground plane", 2)
def _ground_plane(surface: tuple[Any, Any] | None) -> GroundPlane | None:
    return None if surface is None else GroundPlane(surface[0])


@kind("edge plane", 2)
def _edge_plane(
    edge: HorizontalAlignment, own: HorizontalAlignment, surface: tuple[Any, Any] | None, place: tuple[float, float], fall: float | None,
) -> EdgePlane | None:  # fmt: skip
    if surface is None:
        return None
    meeting = meeting_near(edge, own, place, ("", ""))
    outward = 1.0 if meeting.arms[0] == "after" else -1.0
    away = own.evaluate(meeting.side + outward)[0]
    return fit_edge(edge, surface[0], meeting.main, -float(np.sign(project_points(edge, away).offset[0])), fall)


def edge_plane(arm: ArmOf, own: Result[HorizontalAlignment]) -> Result[EdgePlane | None]:
    """The plane of an existing road that a side road joins; None where the ground does not say it, or they do not meet."""
    main = arm.main
    return _edge_plane(edge=line(main), own=own, surface=_ground(main), place=arm.place, fall=arm.edge_fall)


def _ground(road: RoadInputs) -> IfPossible[Any] | None:
    return IfPossible(surface(road.surface)) if road.surface is not None and road.surface.sources else None


def end_met(road: RoadInputs, row: VariedRow) -> Result[EndFit | None]:
    """The ground that an end meets; None where none is known."""
    return _end_met(line=line(road), surface=_ground(road), end=row.data["end"])


def ground_plane(road: RoadInputs) -> Result[GroundPlane | None]:
    return _ground_plane(surface=_ground(road))


def met_over(road: RoadInputs) -> tuple[tuple[str, float], ...]:
    """Ends that meet the ground, and over which length, m."""
    rows = [r for r in road.varied if r.kind == "meet"]
    return tuple((r.data["end"], b - a) for r in rows for a, b in (range_of(r, line_of(road)),))


def met_findings(road: RoadInputs, stations: list[float]) -> list[Finding]:
    """Ends that are to meet ground which is not known, is uneven, or whose grade is not taken. ``stations``: of the PVIs, m."""
    out: list[Finding] = []
    for row in (r for r in road.varied if r.kind == "meet"):
        a, b = range_of(row, line_of(road))
        end, fit = row.data["end"], end_met(road, row).get()
        at = a if end == "start" else b

        def told(code: str, at: float = at, end: str = end, **params: Any) -> None:
            out.append(Finding("doubt", code, {"end": end, **params}, station_from=at, station_to=at))

        if fit is None:
            told("met-no-ground")
            continue
        if fit.worst > UNEVEN:
            told("met-uneven", value=fit.worst)
        if not any(a + 1e-6 < s < b + 1e-6 if end == "start" else a - 1e-6 < s < b - 1e-6 for s in stations):
            told("met-no-grade", length=b - a)
    return out
