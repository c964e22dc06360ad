"""Along a road: where a slope's first and last crossing with the ground differ."""

from __future__ import annotations

from typing import Any

from ivoryridge.core.corridor.block import side_ground
from ivoryridge.core.section.trial_ground import passed_by

from ..forms.sections import Crossings
from ..inputs.road import RoadInputs
from ..results.corridor import corridor_of

__all__ = ["crossings_picture"]

MOST_ROWS = 500


def crossings_picture(road: RoadInputs) -> Crossings:
    """Raises InputError where the road cannot be built."""
    rows: list[Any] = []
    corridor = corridor_of(road)
    for block in corridor.blocks:
        for name, sign, columns, _ in block.sides():
            ground = side_ground(block.ground, sign)
            for i in range(len(block.station)):
                rows += [
                    {
                        "station": float(block.station[i]),
                        "side": name,
                        "node": p.node,
                        "first": sign * p.first[0],
                        "last": sign * p.last[0],
                    }
                    for p in passed_by(columns, ground, i)
                ]
    rows.sort(key=lambda r: (r["station"], r["side"]))
    return {
        "rows": rows[:MOST_ROWS],
        "left_out": max(len(rows) - MOST_ROWS, 0),
        "sections": len(corridor.station),
    }
