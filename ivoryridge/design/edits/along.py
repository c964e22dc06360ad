"""What giving other values to something that varies along a road changes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ivoryridge.core.alignment.horizontal import HorizontalAlignment

from ..inputs.anchors import HeldEnd, resolve_station
from ..inputs.road import RoadInputs, VariedRow
from ..results.line import line_of
from .levels import anchor_fields
from .reversal import mirrored_held

__all__ = ["DATA", "held", "mirrored_variation", "split_data", "variation_fields"]

_AT_END = 1e-6  # m
DATA: dict[str, tuple[str, ...]] = {
    "stretch": ("blend_from", "blend_to"),
    "adjustment": ("part", "parameter", "form", "value", "value_to", "rows", "vehicle", "inner", "over", "least"),
    "change": ("do", "part", "with", "values"),
    "bare": (),
    "follow": ("road", "level", "ease", "release"),
    "led": (
        "node",
        "takes",
        "road",
        "edge",
        "edge_side",
        "survey",
        "layer",
        "surface",
        "reach",
        "reach_level",
        "ease",
        "release",
    ),
    "meet": ("end",),
}


def variation_fields(road: RoadInputs, row: VariedRow | None, values: Mapping[str, Any]) -> dict[str, Any]:
    """Fields of a row after it is given ``values``: the stations of its ends (m; None: as far as the road goes) and what holds them,
    side, template, and what its kind keeps as data. An end that is moved stays held by what holds it, unless another is named; one at
    an end of the road is held by that.

    Raises what keeps the line from being computed, and what ``anchor_fields`` raises.
    """
    kind = row.kind if row is not None else values["kind"]
    fields: dict[str, Any] = {k: values[k] for k in ("side", "template_id") if k in values}
    data = {**(row.data if row is not None else {}), **{k: values[k] for k in DATA[kind] if k in values}}
    if row is None or data != row.data:
        fields["data"] = {k: v for k, v in data.items() if v is not None}
    for name, station, hold in (("start", "station_from", "hold_from"), ("end", "station_to", "hold_to")):
        if row is None or station in values or hold in values:
            was = getattr(row, name) if row is not None else None
            fields[name] = _moved_end(road, was, name, values.get(station, _SAME), values.get(hold))
    return fields


_SAME = object()


def _moved_end(road: RoadInputs, was: HeldEnd | None, name: str, given: Any, hold: str | None) -> dict[str, Any]:
    line = line_of(road)
    base = line.start_station if name == "start" else line.end_station
    now = resolve_station(was, line) if was is not None else base
    at = now if given is _SAME else base if given is None else float(given)
    if given is None or (given is not _SAME and not hold and abs(at - base) < _AT_END):
        return held(road, line, was, name, base)
    return held(road, line, was, hold or (was.anchor if was is not None else "station"), at)


def held(road: RoadInputs, line: HorizontalAlignment, was: HeldEnd | None, anchor: str, station: float) -> dict[str, Any]:
    """An end held by an anchor at a station, m, as a row keeps it."""
    fields = anchor_fields(road, line, was or HeldEnd(anchor="station", station=station), anchor, station)
    fields["pi_id"] = fields.pop("anchor_pi_id")
    return {k: v for k, v in fields.items() if v not in (None, "")}


def mirrored_variation(row: Any, mirror: Any) -> dict[str, Any]:
    """Fields of a row on its road run the other way."""
    data = dict(row.data)
    for a, b in (("blend_from", "blend_to"), ("value", "value_to"), ("ease", "release")):
        if a in data or b in data:
            if b == "value_to" and data.get("form") != "linear":
                continue
            swapped = {a: data.get(b), b: data.get(a)}
            data = {k: v for k, v in {**data, **swapped}.items() if v is not None}
    if "rows" in data:
        data["rows"] = [[mirror(s), v] for s, v in reversed(data["rows"])]
    if "end" in data:
        data["end"] = {"start": "end", "end": "start"}[data["end"]]
    return {
        "start": mirrored_held(row.end, mirror), "end": mirrored_held(row.start, mirror), "data": data,
        "side": {"left": "right", "right": "left"}.get(row.side, row.side),
    }  # fmt: skip


def split_data(data: Mapping[str, Any], start: float, end: float, at: float) -> tuple[dict[str, Any], dict[str, Any]]:
    """The data of both parts of a row that is cut at a station, m: what it says stays what it was."""
    first, second = dict(data), dict(data)
    first.pop("blend_to", None)
    second.pop("blend_from", None)
    if data.get("form") == "linear":
        share = (at - start) / (end - start)
        first["value_to"] = second["value"] = data["value"] + share * (data["value_to"] - data["value"])
    return first, second
