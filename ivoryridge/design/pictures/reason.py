"""Why a node of a section lies where it does: its rule, and where each value of it comes from."""

from __future__ import annotations

from typing import Any, Literal, cast

import numpy as np

from ivoryridge.core.corridor.blend import values_at
from ivoryridge.core.section.columns import SideColumns
from ivoryridge.core.section.formula import names_in
from ivoryridge.core.section.part import START, Node, Parameter
from ivoryridge.core.section.reason import called, parameters_of, rule_said
from ivoryridge.core.section.template import PlacedPart

from ..forms.road import NodeReason, ReasonValue
from ..inputs.road import RoadInputs, VariedRow
from ..refusals import BadValue
from ..results.corridor import corridor_at
from ..results.crossfall import crossfall_of
from ..results.line import line_of
from ..results.varied import pieces, range_of

__all__ = ["reason_picture"]

Side = Literal["left", "right"]


def reason_picture(road: RoadInputs, template_id: int | None, station: float, side: Side, name: str) -> NodeReason:
    """``template_id``: the road's own template.

    Raises BadValue where there is no such node in the section, and what keeps it from being computed.
    """
    line = line_of(road)
    station = float(np.clip(station, line.start_station, line.end_station))
    (block,) = corridor_at(road, np.array([station])).blocks
    columns = getattr(block, side)
    part_id, _, node_name = name.partition(".")
    placed = next((p for p in getattr(block.template, side) if p.id == part_id), None)
    if placed is None or name not in columns.names or not columns.present[columns.index(name), 0]:
        raise BadValue("no-such-node", "This node is not built in this section.")
    i = columns.index(name)
    taken, cases = columns.case_of.get(part_id, (np.array([-1]), ()))
    case = cases[int(taken[0])] if len(cases) and taken[0] >= 0 else ""
    node = next(n for n in placed.part.nodes if n.name == node_name and (not n.cases or case in n.cases))
    here = [r for r in road.varied if r.side in ("both", side) and _holds(road, r, station)]
    varied = _varied(road, side, part_id, station)
    begin, begins = _start_of(getattr(block.template, side), placed)
    values = placed.all_values() | varied | _turned(road, placed, node, columns, begin, i)
    named = [p for p in placed.part.parameters if p.name in parameters_of(node) and p.kind != "structure"]
    return {
        "station": station, "side": side, "node": name, "label": called(placed.part, node_name), "part": part_id,
        "part_label": placed.part.label, "case": case, "rule": rule_said(placed.part, node, values, begins).said(),
        "offset": float(columns.across[i, 0]) * (-1 if side == "left" else 1), "level": float(columns.level[i, 0]),
        "led": any(r.kind == "led" and r.data["node"] == name for r in here),
        "template_id": _template_at(template_id, here, placed), "values": [_value(road, placed, p, here, values, varied) for p in named],
    }  # fmt: skip


def _start_of(parts: tuple[PlacedPart, ...], placed: PlacedPart) -> tuple[str, str]:
    """The node that a part begins at, by its whole name, and what it is called."""
    name, label = START, "the centre line"
    for p in parts:
        if p.id == placed.id:
            break
        if p.part.end != START:
            name, label = f"{p.id}.{p.part.end}", f"the {called(p.part, p.part.end)}"
    return name, label


def _turned(road: RoadInputs, placed: PlacedPart, node: Node, columns: SideColumns, begin: str, i: int) -> dict[str, Any]:
    """What the road's crossfall has made of the falls that a node's rule reads, from where it lies; + falls outward."""
    if crossfall_of(road) is None and not any(r.kind == "follow" for r in road.varied):
        return {}
    turning = {p.name: p.turns for p in placed.part.parameters if p.turns}
    out: dict[str, Any] = {name: "outward" for name, turns in turning.items() if turns in ("lane way", "shoulder way")}
    named = [n for n in names_in(node.slots.get("slope", "0")) if turning.get(n) in ("lane", "shoulder")]
    base = node.slots.get("from", START)
    start = columns.names.index(begin if base == START else f"{placed.id}.{base}")
    width = float(columns.across[i, 0] - columns.across[start, 0])
    if named and abs(width) > 1e-9:
        out[named[0]] = -float(columns.level[i, 0] - columns.level[start, 0]) / width
    return out


def _holds(road: RoadInputs, row: VariedRow, station: float) -> bool:
    start, end = range_of(row, line_of(road))
    return start <= station <= end


def _varied(road: RoadInputs, side: Side, part: str, station: float) -> dict[str, float]:
    """Values that vary along the road, there."""
    row = pieces(road)
    piece = next((p for p in reversed(row) if p.station_from <= station <= p.station_to), row[-1])
    found = values_at(piece.values()[side], np.array([station])).get(part, {})
    return {name: float(v[0]) for name, v in found.items()}


def _template_at(own: int | None, here: list[VariedRow], placed: PlacedPart) -> int | None:
    """The template whose part it is; None for one that a local change has put there."""
    if any(r.kind == "change" and r.data["do"] != "off" and placed.id in (r.data.get("part"), r.data.get("id")) for r in here):
        return None
    return next((r.template_id for r in here if r.kind == "stretch"), own)


def _value(
    road: RoadInputs, placed: PlacedPart, p: Parameter, here: list[VariedRow], values: dict[str, Any], varied: dict[str, float]
) -> ReasonValue:
    rows = (r for r in here if r.kind == "adjustment" and (r.data["part"], r.data["parameter"]) == (placed.id, p.name))
    row = min(
        rows, key=lambda r: r.data["form"] in ("bends", "graded"), default=None
    )  # what comes on top is not the value itself
    if p.turns in ("lane", "shoulder") and crossfall_of(road) is not None:
        origin = "turned"
    elif row is not None:
        origin = "adjusted"
    elif p.name in varied:
        origin = "blended"
    else:
        origin = "template" if p.name in placed.values else "usual"
    return cast(ReasonValue, {
        "name": p.name, "label": p.label, "kind": p.kind, "value": values[p.name], "origin": origin,
        "choices": list(p.choices), "row": row.id if row is not None and row.data["form"] == "constant" else None,
        "row_range": range_of(row, line_of(road)) if row is not None else None,
    })  # fmt: skip
