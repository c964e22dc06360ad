"""How a road's crossfall turns what a template's parts say: falls of lanes and paved shoulders over the sections."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.crossfall_diagram import CrossfallDiagram
from ..section.template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["Crossfall", "lane_of", "shoulder_fall", "turned_falls"]


@dataclass(frozen=True, slots=True, eq=False)
class Crossfall:
    """How a road's crossfall turns: its diagram, the axis ("centre", "inner" or "outer" edge), and the lanes' widths (left, right) m."""

    diagram: CrossfallDiagram
    axis: str
    half_width: tuple[float, float]

    def rise_of_centre(self, station: Any) -> Floats:
        return self.diagram.rise_of_centre(station, self.axis, self.half_width)


def lane_of(parts: tuple[PlacedPart, ...]) -> tuple[float, float]:
    """Width (m) and fall (ratio) of what turns with the crossfall at the centre of one side; zeros if nothing does."""
    for placed in parts:
        names = {p.turns: placed.value(p.name) for p in placed.part.parameters if p.turns in ("lane", "width")}
        if "lane" in names:
            return float(names.get("width", 0.0)), float(names["lane"])
    return 0.0, 0.0


def turned_falls(parts: tuple[PlacedPart, ...], rate: Floats) -> dict[str, dict[str, Floats]]:
    """Falls of lanes and paved shoulders over the stations."""
    _, normal = lane_of(parts)
    out: dict[str, dict[str, Floats]] = {}
    for placed in parts:
        by = {p.turns: p.name for p in placed.part.parameters if p.turns}
        turned: dict[str, Floats] = {}
        if "lane" in by:
            turned[by["lane"]] = -rate
        if "shoulder" in by:
            kept = "high side" in by and placed.value(by["high side"]) == "own fall kept"
            limit = float(placed.value(by["rollover"])) if kept and "rollover" in by else None
            turned[by["shoulder"]] = shoulder_fall(-rate, normal, float(placed.value(by["shoulder"])), limit)
        out[placed.id] = turned
    return out


def shoulder_fall(lane: Any, normal: float, own: float, rollover: float | None = None) -> Floats:
    """Outward fall (ratio) of a paved shoulder beside a lane that falls outward by ``lane`` (n,), ``normal`` where it is not turned.

    On the low side the steeper of its own fall and the lane's. On the high side it lies in the lane's plane from level on, its own
    extra fall running out evenly while the lane turns level; or, with ``rollover``, it keeps its own fall while the break against the
    lane is at most that, and is turned so that the break equals it beyond. Continuous in the lane's fall everywhere.
    """
    f = np.asarray(lane, float)
    if rollover is not None:
        return np.asarray(np.minimum(np.maximum(own, f), f + rollover))
    extra = own - normal
    eased = f + extra * (np.clip(f / normal, 0.0, 1.0) if normal > 0 else (f >= 0))
    low = np.maximum(own, f) if extra >= 0 else f + extra
    return np.asarray(np.where(f >= normal, low, eased))
