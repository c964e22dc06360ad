"""How a road's carriageway turns in its bends."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ivoryridge.core.alignment.crossfall_diagram import crossfall_diagram
from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment
from ivoryridge.core.corridor.turning import Crossfall, lane_count, lane_of
from ivoryridge.core.standards.crossfall import USUAL_SHARE, BendPin, turned_bends
from ivoryridge.core.standards.standard import SpeedZones, Standard

from ..inputs.road import RoadInputs
from ..inputs.standards import standard_at_hand, standard_of, zones_of
from ..kept.kinds import Content, Result, kind
from .line import line, pis_result

__all__ = ["bend_keys", "crossfall", "crossfall_of", "lanes_of"]

Lanes = tuple[tuple[float, float], tuple[float, float]]


def lanes_of(road: RoadInputs) -> Lanes:
    """Width (m) and normal fall (ratio) of the lanes that turn, left and right; zeros without a template. Where several templates
    follow on each other the road's own says from which fall the bends turn."""
    template = road.first_template
    if template is None:
        return (0.0, 0.0), (0.0, 0.0)
    return lane_of(template.left), lane_of(template.right)


def _count_of(road: RoadInputs) -> int:
    """How many lanes turn on the side that has more; one at least."""
    template = road.first_template
    return max(1, *(lane_count(parts) for parts in (template.left, template.right))) if template is not None else 1


@kind("crossfall", 3)
def _crossfall(
    line: HorizontalAlignment,
    pis: tuple[PI, ...],
    standard: Standard,
    zones: SpeedZones,
    lanes: Lanes,
    count: int,
    share: float,
    axis: str,
    pins: tuple[tuple[int, Mapping[str, Any]], ...],
) -> Crossfall:
    (left, normal_left), (right, normal_right) = lanes
    bends = turned_bends(
        line, pis, standard, zones, width=max(left, right), normal=max(normal_left, normal_right), share=share,
        lanes=float(count),
        pins={i: BendPin(**pin) for i, pin in pins},
    )  # fmt: skip
    return Crossfall(crossfall_diagram(bends, normal_left, normal_right), axis, (left, right))


def crossfall(road: RoadInputs) -> Result[Crossfall] | None:
    """None without a template that can turn, without a standard at hand, or when it is off."""
    return road.once("_crossfall", lambda: _crossfall_result(road))


def _crossfall_result(road: RoadInputs) -> Result[Crossfall] | None:
    lanes, settings = lanes_of(road), road.crossfall
    if settings.get("off") or not road.has_line or not any(width for width, _ in lanes) or not standard_at_hand(road):
        return None
    bends = settings.get("bends", {})
    return _crossfall(
        line=line(road), pis=pis_result(road), standard=Content(standard_of(road)), zones=zones_of(road), lanes=lanes,
        count=_count_of(road),
        share=settings.get("share", USUAL_SHARE), axis=settings.get("axis", "centre"),
        pins=tuple((i, bends[key]) for i, key in bend_keys(road) if bends.get(key)),
    )  # fmt: skip


def bend_keys(road: RoadInputs) -> list[tuple[int, str]]:
    """Bends that may be pinned, each with what its pin is kept by: the PI of its curve, in a line without PIs its own number."""
    if not road.has_own_pis:
        return [(int(k), k) for k in road.crossfall.get("bends", {})]
    return [(i, str(pk)) for i, (pk, _) in enumerate(road.pi_rows)]


def crossfall_of(road: RoadInputs) -> Crossfall | None:
    result = crossfall(road)
    return None if result is None else result.get()
