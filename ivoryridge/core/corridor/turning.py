"""How a road's crossfall turns what a template's parts say: falls of lanes and paved shoulders over the sections."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.crossfall_diagram import CrossfallDiagram
from ..section.rules import ALIASES
from ..section.template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["Crossfall", "has_own_axis", "lane_count", "lane_of", "lane_width", "shoulder_fall", "turned_falls"]

_AXIS_AT = {"inner edge": 0.0, "middle": 0.5, "outer edge": 1.0}  # share of the lanes' width from their inner edge


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


def _lanes(parts: Sequence[PlacedPart]) -> list[tuple[PlacedPart, dict[str, str]]]:
    """The parts of one side whose lanes turn, with what turns of them."""
    return [(p, by) for p in parts for by in (_turning(p),) if "lane" in by]


def lane_of(parts: Sequence[PlacedPart]) -> tuple[float, float]:
    """Width (m) of all that turns with the crossfall on one side, and the outward fall (ratio) of what turns at the centre; zeros if
    nothing does. Lanes of several parts turn together."""
    lanes = _lanes(parts)
    if not lanes:
        return 0.0, 0.0
    width = sum(float(p.value(by["width"])) for p, by in lanes if "width" in by)
    return width, float(_signed(lanes[0][0], "lane", "lane way", {}))


def lane_count(parts: Sequence[PlacedPart]) -> int:
    """How many parts of one side have lanes that turn."""
    return len(_lanes(parts))


def lane_width(parts: Sequence[PlacedPart], given: Mapping[str, Mapping[str, Any]]) -> Any:
    """Width (m) of all that turns on one side, a number or (n,) where it varies."""
    return sum(
        (given.get(p.id, {}).get(by["width"], float(p.value(by["width"]))) for p, by in _lanes(parts) if "width" in by), 0.0
    )


def has_own_axis(parts: Sequence[PlacedPart]) -> bool:
    """Whether the half on one side turns about an axis of its own, beside a reserve."""
    return any("axis" in _turning(p) for p in parts)


def _lifted(placed: PlacedPart, by: Mapping[str, str], turned: Any, normal: float, width: Any) -> dict[str, Any]:
    """How far the inner edge of a half comes up beside its reserve so that its axis stays where it is on the straight: by the axis'
    distance from it times what the half falls outward more."""
    share = _AXIS_AT[str(placed.value(by["axis"]))]
    return {by["lift"]: share * width * (turned - normal)}


def turned_falls(
    parts: Sequence[PlacedPart], rate: Floats, given: Mapping[str, Mapping[str, Any]] | None = None
) -> dict[str, dict[str, Any]]:
    """Falls of lanes and paved shoulders over the stations, and how far inner edges beside a reserve come up; ``given``: values that
    vary along the road."""
    _, normal = lane_of(parts)
    width = lane_width(parts, given or {})
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
        if "axis" in by and "lift" in by:
            turned |= _lifted(placed, by, -rate, normal, width)
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
