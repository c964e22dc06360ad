"""Guide lines of a road: rows to lines, with the design's own grades as lines one may lie parallel to."""

from __future__ import annotations

import itertools
from typing import Any

from ivoryridge.core.alignment.guides import GuideLine, crossings_of, resolve_guides
from ivoryridge.core.errors import IvoryRidgeError

from ..inputs.road import RoadInputs
from .levels import Levels
from .line import line_of

__all__ = ["grades_of", "guides_picture"]


def grades_of(levels: Levels | None) -> dict[str, GuideLine]:
    """The straight grades between PVIs, by ``after-`` and the id of the PVI they leave."""
    if levels is None:
        return {}
    return {
        f"after-{row.id}": GuideLine(
            f"after-{row.id}", p.station, p.elevation, (q.elevation - p.elevation) / (q.station - p.station)
        )
        for row, (p, q) in zip(levels.rows, itertools.pairwise(levels.pvis), strict=False)
    }


def guides_picture(inputs: RoadInputs, levels: Levels | None) -> dict[str, Any]:
    """Guides as lines, where those that are shown cross, and why they cannot be drawn if so."""
    if not inputs.guides:
        return {"guides": [], "crossings": []}
    try:
        lines = resolve_guides(inputs.guides, grades_of(levels))
        road = line_of(inputs)
    except IvoryRidgeError as error:
        return {"guides": [], "crossings": [], "guides_problem": error.sentence}
    shown = [lines[r["id"]] for r in inputs.guides if not r.get("hidden")]
    return {
        "guides": [{**r, "line": [lines[r["id"]].station, lines[r["id"]].level, lines[r["id"]].grade]} for r in inputs.guides],
        "crossings": [list(c) for c in crossings_of(shown, road.start_station, road.end_station)],
    }
