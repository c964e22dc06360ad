"""How a road's crossfall turns what a template's parts say: falls of lanes and paved shoulders over the sections."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.crossfall_diagram import CrossfallDiagram
from ..section.rules import ALIASES
from ..section.template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["Crossfall", "lane_of", "lane_width", "shoulder_fall", "turned_falls"]


@dataclass(frozen=True, slots=True, eq=False)
class Crossfall:
    """How a road's crossfall turns: its diagram, the axis ("centre", "inner" or "outer" edge), and the lanes' widths (left, right) m."""

    diagram: CrossfallDiagram
    axis: str
    half_width: tuple[float, float]

    def rise_of_centre(self, station: Any, half_width: tuple[Any, Any] | None = None) -> Floats:
        """(n,) m; ``half_width``: of the lanes left and right at the stations, where it varies."""
        return self.diagram.rise_of_centre(station, self.axis, half_width or self.half_width)


def _signed(placed: PlacedPart, fall: str, way: str, given: Mapping[str, Any]) -> Any:
    """A part's own outward fall (ratio): less than 0 where its choice of way says that it falls inward."""
    by = _turning(placed)
    inward = way in by and ALIASES.get(placed.value(by[way]), placed.value(by[way])) == "rise"
    own = given.get(by[fall], placed.value(by[fall]))
    return -own if inward else own


def _turning(placed: PlacedPart) -> dict[str, str]:
    return {p.turns: p.name for p in placed.part.parameters if p.turns}


def lane_of(parts: tuple[PlacedPart, ...]) -> tuple[float, float]:
    """Width (m) and outward fall (ratio) of what turns with the crossfall at the centre of one side; zeros if nothing does."""
    for placed in parts:
        by = _turning(placed)
        if "lane" in by:
            return float(placed.value(by["width"])) if "width" in by else 0.0, float(_signed(placed, "lane", "lane way", {}))
    return 0.0, 0.0


def lane_width(parts: tuple[PlacedPart, ...], given: Mapping[str, Mapping[str, Any]]) -> Any:
    """Width (m) of what turns on one side, a number or (n,) where it varies."""
    for placed in parts:
        by = _turning(placed)
        if "lane" in by:
            return given.get(placed.id, {}).get(by["width"], float(placed.value(by["width"]))) if "width" in by else 0.0
    return 0.0


def turned_falls(
    parts: tuple[PlacedPart, ...], rate: Floats, given: Mapping[str, Mapping[str, Any]] | None = None
) -> dict[str, dict[str, Any]]:
    """Falls of lanes and paved shoulders over the stations; ``given``: values that vary along the road."""
    _, normal = lane_of(parts)
    out: dict[str, dict[str, Any]] = {}
    for placed in parts:
        by = _turning(placed)
        turned: dict[str, Any] = {by[way]: "outward" for way in ("lane way", "shoulder way") if way in by}
        if "lane" in by:
            turned[by["lane"]] = -rate
        if "shoulder" in by:
            kept = "high side" in by and placed.value(by["high side"]) == "own fall kept"
            limit = float(placed.value(by["rollover"])) if kept and "rollover" in by else None
            own = _signed(placed, "shoulder", "shoulder way", (given or {}).get(placed.id, {}))
            turned[by["shoulder"]] = shoulder_fall(-rate, normal, own, limit)
        out[placed.id] = turned
    return out


def shoulder_fall(lane: Any, normal: float, own: Any, rollover: float | None = None) -> Floats:
    """Outward fall (ratio) of a paved shoulder beside a lane that falls outward by ``lane`` (n,), ``normal`` where it is not turned;
    its own is a number or (n,).

    On the low side the steeper of its own fall and the lane's. On the high side it lies in the lane's plane from level on, its own
    extra fall running out evenly while the lane turns level; or, with ``rollover``, it keeps its own fall while the break against the
    lane is at most that, and is turned so that the break equals it beyond. Continuous in the lane's fall everywhere. Beside a lane that
    is level or falls inward on the straight the extra fall runs out over as much turning as the lane's own fall, 1 % at least.
    """
    f = np.asarray(lane, float)
    if rollover is not None:
        return np.asarray(np.minimum(np.maximum(own, f), f + rollover))
    extra = own - normal
    over = normal if normal > 0 else max(-normal, 0.01)
    eased = f + extra * np.clip(1.0 + (f - normal) / over, 0.0, 1.0)
    low = np.where(np.asarray(extra) >= 0, np.maximum(own, f), f + extra)
    return np.asarray(np.where(f >= normal, low, eased))
