"""What moving a PVI, or holding it by something else, changes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, tangent_points
from ivoryridge.core.wording import quantity

from ..inputs.anchors import AnchoredPVI, Held, resolve_station, resolve_stations
from ..inputs.road import RoadInputs
from ..refusals import BadValue
from ..results.levels import levels_met
from ..results.line import line_of
from ..results.meet import end_met

__all__ = ["anchor_fields", "pvi_fields"]

_SAME_LEVEL = 5e-4  # m; what a page rounds away
_NONE: dict[str, Any] = {
    "station": None, "easting": None, "northing": None, "anchor_pi_id": None, "tangent_point": "", "ahead": 0.0,
}  # fmt: skip


def pvi_fields(road: RoadInputs, pvi: AnchoredPVI, values: Mapping[str, Any]) -> dict[str, Any]:
    """Fields of a PVI after it is given ``values``: elevation, halves of its curve (m), circular; a new station (m) keeps the kind
    of anchor unless one is named, a new anchor the station.

    Raises what keeps the line from being computed, and what ``anchor_fields`` raises.
    """
    _not_led(road, pvi, values)
    fields = {k: v for k, v in values.items() if k in ("elevation", "half_in", "half_out", "circular")}
    if "station" in values or "anchor" in values:
        line = line_of(road)
        station = float(values["station"]) if "station" in values else resolve_station(pvi, line)
        fields |= anchor_fields(road, line, pvi, values.get("anchor", pvi.anchor), station)
    return fields


def _not_led(road: RoadInputs, pvi: AnchoredPVI, values: Mapping[str, Any]) -> None:
    """A level that the ground leads is not typed or dragged: it would not stay."""
    if "elevation" not in values or not any(r.kind == "meet" for r in road.varied):
        return
    line = line_of(road)
    stations = resolve_stations(list(road.pvis), line)
    i = next((k for k, p in enumerate(road.pvis) if p.id == pvi.id), None)
    for row in (r for r in road.varied if r.kind == "meet"):
        start, end = resolve_station(row.start, line), resolve_station(row.end, line)
        led = levels_met(line, road.pvis, stations, row.data["end"], end - start, end_met(road, row).get())
        if i in led and abs(led[i] - float(values["elevation"])) > _SAME_LEVEL:
            raise BadValue(
                "level-led", f"This level is the ground's, {quantity(led[i], 'm', 3)}, because the {row.data['end']} of the road meets it. "
                "Delete 'Ends that meet the ground' from what varies along the road to set it by hand.", field="elevation",
            )  # fmt: skip


def anchor_fields(road: RoadInputs, line: HorizontalAlignment, pvi: Held, anchor: str, station: float) -> dict[str, Any]:
    """What a PVI, or an end of a range, keeps so that its anchor gives this station (m) now, and the anchored one later. One that
    hangs on a tangent point stays with it; else the nearest one holds it.

    Raises BadValue without a tangent point to hang on, and for an anchor that is none.
    """
    match anchor:
        case "station":
            return _NONE | {"anchor": anchor, "station": station}
        case "start" | "end":
            base = line.start_station if anchor == "start" else line.end_station
            return _NONE | {"anchor": anchor, "ahead": round(station - base, 9)}
        case "place":
            place, _, _ = line.evaluate(station)
            return _NONE | {"anchor": anchor, "easting": float(place[0, 0]), "northing": float(place[0, 1])}
        case "tangent":
            keep = (pvi.pi_id, pvi.tangent_point) if pvi.anchor == "tangent" else None
            best: tuple[float, int | None, str] | None = None
            for i, (pk, _) in enumerate(road.pi_rows):
                for point, s in tangent_points(line, i).items():
                    if keep and keep != (pk, point):
                        continue
                    if best is None or abs(station - s) < abs(best[0]):
                        best = (station - s, pk, point)
            if best is None:
                raise BadValue(
                    "no-tangent-point",
                    "The line has no curve, so there is no tangent point to hold this by. Give a PI a radius first.",
                )
            return _NONE | {"anchor": anchor, "anchor_pi_id": best[1], "tangent_point": best[2], "ahead": round(best[0], 9)}
    raise BadValue("unknown-anchor", f"'{anchor}' is not an anchor. Choose chainage, place, tangent point, start or end.")
