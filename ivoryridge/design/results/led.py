"""Nodes of a road that lines lead: edges and centre lines of other roads, lines of surveys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, sample_stations
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.edges import edges_of
from ivoryridge.core.corridor.led import Led
from ivoryridge.core.section.roles import CENTRE
from ivoryridge.core.terrain.survey import Survey

from ..inputs.road import RoadInputs, VariedRow
from ..kept.kinds import IfPossible, Result, Stored, kind
from .levels import levels
from .line import line, line_of
from .surface import surface, survey_arrays
from .varied import range_of

__all__ = ["Lines", "led", "received_lines"]

Built = Callable[[RoadInputs], Result[Corridor] | None]
Lines = tuple[NDArray[np.float64], ...]
_LONGEST, _TURN = (
    25.0,
    0.002,
)  # m and rad of a straight piece of an edge: less than 2.5 mm beside the exact one in bends of 5000 m


@kind("edge in space", 2)
def _edge(corridor: Corridor, role: str, side: str) -> Lines:
    """The pieces of an edge of a road, as near to the exact one as sections need it."""
    out = []
    for piece in edges_of(corridor, role, side):
        s = sample_stations(piece.line, _LONGEST, _TURN)
        inside = s[(s > piece.station[0]) & (s < piece.station[-1])]
        out.append(piece.at(np.union1d(piece.station, inside)))
    return tuple(out)


@kind("centre in space", 1)
def _centre(line: HorizontalAlignment, levels: tuple[Any, Any, Any] | None) -> Lines:
    """A road's line with the levels of its profile, NaN where it has none."""
    s = sample_stations(line, _LONGEST, _TURN)
    z = np.full(len(s), np.nan)
    if levels is not None:
        first, last = levels[0].station[0], levels[0].station[-1]
        there = (s >= first - 1e-9) & (s <= last + 1e-9)
        z[there] = levels[0].evaluate(np.clip(s[there], first, last))[0]
    return (np.column_stack([line.evaluate(s)[0], z]),)


@kind("lines of a layer", 1)
def received_lines(survey: Survey, layer: str) -> Lines:
    """Lines of a layer of a survey; levels that are all nought are none."""
    out = []
    for vertices, code in zip(survey.lines, survey.line_codes, strict=True):
        if code == layer:
            points = np.array(vertices, float)
            if not np.any(points[:, 2]):
                points[:, 2] = np.nan
            out.append(points)
    return tuple(out)


@kind("led", 2)
def _led(lines: tuple[Lines, ...], surfaces: tuple[Any, ...], rows: tuple[tuple[Any, ...], ...]) -> tuple[Led, ...]:
    return tuple(
        replace(Led(side, node, found, *more), surface=None if ground is None else ground[0])
        for found, ground, (side, node, *more) in zip(lines, surfaces, rows, strict=True)
    )


def led(road: RoadInputs, corridor: Built) -> Result[tuple[Led, ...]] | None:
    """None for a road without led nodes. ``corridor``: of another road, None where that lacks something; it is built of this."""
    rows = [r for r in road.varied if r.kind == "led"]
    if not rows:
        return None
    own = line_of(road)
    told = tuple(
        (
            r.side, r.data["node"], *range_of(r, own), r.data.get("takes") != "level", r.data.get("takes") != "offset",
            float(r.data.get("reach", 5.0)), float(r.data.get("reach_level", 2.0)), float(r.data.get("ease", 0.0)),
            float(r.data.get("release", 0.0)),
        )
        for r in rows
    )  # fmt: skip
    surfaces = tuple(surface(road.led_on[r.data["surface"]]) if r.data.get("surface") in road.led_on else None for r in rows)
    return _led(lines=tuple(_lines(road, r, corridor) for r in rows), surfaces=surfaces, rows=told)


def _lines(road: RoadInputs, row: VariedRow, corridor: Built) -> Result[Lines] | Lines:
    if row.data.get("surface") is not None:
        return ()
    if row.data.get("survey") is not None:
        source = road.received[row.data["survey"]]
        return received_lines(survey=Stored(source.hash, partial(survey_arrays, source.id)), layer=row.data.get("layer", ""))
    other = road.followed[row.data["road"]]
    if row.data.get("edge", CENTRE) == CENTRE:
        return _centre(line=line(other), levels=IfPossible(levels(other)))
    built = corridor(other)
    if built is None:  # no line is reached then, which is told
        return ()
    return _edge(corridor=built, role=row.data["edge"], side=row.data.get("edge_side") or "right")
