"""The level of a side road's end at a junction: that of the main road's outermost edge where the side road crosses it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.leaving import leaving_from
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.varied import SIDES, Side
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.junction.arm import edge_nodes, edge_row

from ..inputs.road import RoadInputs, Tie
from ..kept.kinds import Result, kind
from .corridor import corridor_of, missing_for_corridor, sections
from .levels import TiedLevel, levels
from .line import line

__all__ = ["tied_to_edge"]

_REACH = 60.0  # m either way of the end over which the edge is looked at


@kind("leaving", 1)
def _leaving(
    own: HorizontalAlignment, other: HorizontalAlignment, widths: tuple[float, float], end: str, name: str
) -> tuple[float, float, Side]:
    start, sign = (own.start_station, 1.0) if end == "start" else (own.end_station, -1.0)
    at, there, side = leaving_from(own, other, widths, start, sign, name=name)
    return at, there, SIDES[side]


@kind("tied to edge", 1)
def _level(leaves: tuple[float, float, Side], edge: Corridor, levels: tuple[Any, Any, Any], station: float) -> TiedLevel:
    """``edge``: the section where the edge is left; ``station``: where the end lies on the other road's centre."""
    at, _, side = leaves
    _, level, _ = edge_nodes(edge.blocks[0], side)
    return TiedLevel(at, float(level[0]), float(levels[0].evaluate(station)[0][0]))


def tied_to_edge(road: RoadInputs, end: str, tie: Tie) -> Result[TiedLevel] | None:
    """None where the main road is not built, or has no edge there: its lanes count then."""
    main = tie.road
    if missing_for_corridor(main):
        return None
    try:
        corridor = corridor_of(main)
        rows = [edge_row(corridor, side, tie.station, _REACH, main.name) for side in SIDES]
        widths = tuple(abs(float(np.interp(tie.station, r.station, r.offset))) for r in rows)
        for _ in range(2):  # the edge may come nearer between the end and where it is crossed
            leaves = _leaving(own=line(road), other=line(main), widths=widths, end=end, name=main.name)
            there = leaves.get()[1]
            widths = tuple(abs(float(np.interp(there, r.station, r.offset))) for r in rows)
        edge = sections(main, [there])
        if not edge.get().blocks:
            return None
    except IvoryRidgeError:  # why it is not built is told with it
        return None
    return _level(leaves=leaves, edge=edge, levels=levels(main), station=tie.station)
