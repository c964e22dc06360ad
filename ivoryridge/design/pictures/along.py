"""What varies along a road, as the page lists and draws it; and one quantity along the road."""

from __future__ import annotations

from typing import Any, cast

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.section.lead import LEADABLE
from ivoryridge.core.section.roles import CENTRE
from ivoryridge.core.section.template import PlacedPart, value_said
from ivoryridge.core.standards.widening import taper_length
from ivoryridge.core.wording import say

from ..forms.along import AlongRow, BuiltPart, Quantity
from ..inputs.road import RoadInputs, VariedRow
from ..inputs.standards import zones_of
from ..results.varied import adjusted_rows, most_widened, pieces, placed_in, quantity_along, range_of

__all__ = ["along_rows", "built_parts", "quantity_picture"]


def along_rows(inputs: RoadInputs, line: HorizontalAlignment) -> list[AlongRow]:
    """Rows by kind, then in the order of the road. One whose end has lost what held it says so."""
    there = _placed(inputs)
    rows = [_row(r, line, there, inputs) for r in inputs.varied]
    order = {k: i for i, k in enumerate(("stretch", "adjustment", "change", "bare", "follow", "led", "meet"))}
    return sorted(rows, key=lambda r: (order[r["kind"]], r["station_from"], r["id"]))


def _placed(inputs: RoadInputs) -> dict[str, dict[str, PlacedPart]]:
    try:
        return placed_in(pieces(inputs)) if inputs.first_template is not None else {}
    except IvoryRidgeError:  # why is told with the road
        return {}


def _row(r: VariedRow, line: HorizontalAlignment, there: dict[str, dict[str, PlacedPart]], inputs: RoadInputs) -> AlongRow:
    problem = ""
    try:
        start, end = range_of(r, line)
    except IvoryRidgeError as error:
        start, end, problem = line.start_station, line.end_station, error.sentence
    return cast(AlongRow, {
        "id": r.id, "revision": r.revision, "kind": r.kind, "side": r.side, "station_from": round(start, 6), "station_to": round(end, 6),
        "hold_from": r.start.anchor, "hold_to": r.end.anchor, "template_id": r.template_id, "data": dict(r.data),
        "said": _said(r, start, end, there, inputs), "problem": problem, "taper": _taper(r, start, end, there, inputs),
    })  # fmt: skip


def _taper(r: VariedRow, start: float, end: float, there: dict[str, dict[str, PlacedPart]], inputs: RoadInputs) -> float | None:
    if r.kind != "adjustment" or r.data.get("form") != "linear":
        return None
    sides = ("left", "right") if r.side == "both" else (r.side,)
    placed = next((there[s][r.data["part"]] for s in sides if r.data["part"] in there.get(s, {})), None)
    parameter = next((p for p in placed.part.parameters if p.name == r.data["parameter"]), None) if placed else None
    if parameter is None or parameter.kind != "length":
        return None
    return round(taper_length(abs(r.data["value_to"] - r.data["value"]), zones_of(inputs).over(start, end)), 3)


def _said(r: VariedRow, start: float, end: float, there: dict[str, dict[str, PlacedPart]], inputs: RoadInputs) -> str:
    if r.kind == "stretch":
        return r.template.name if r.template else "a template that is not there any more"
    if r.kind == "bare":
        return "built without earthwork"
    if r.kind == "follow":
        other = inputs.followed.get(r.data["road"])
        return f"{'plane and level' if r.data.get('level') else 'crossfall'} of {other.name if other else 'a road that is gone'}"
    if r.kind == "meet":
        return f"its {r.data['end']} meets the ground in level, grade and edges"
    if r.kind == "led":
        return _led_said(r, there, inputs)
    sides = ("left", "right") if r.side == "both" else (r.side,)
    placed = next((there[s][r.data["part"]] for s in sides if r.data.get("part") in there.get(s, {})), None)
    name = placed.part.label.lower() if placed else r.data.get("part", "")
    if r.kind == "change":
        with_ = r.placed.part.label.lower() if r.placed else ""
        return {"off": f"no {name}", "replace": f"{with_} in place of {name}", "add": f"{with_} after {name or 'the centre'}"}[
            r.data["do"]
        ]
    parameter = next((p for p in placed.part.parameters if p.name == r.data["parameter"]), None) if placed else None
    if parameter is None:
        return f"{name}: {r.data['parameter']}"
    if r.data["form"] == "graded":
        return f"{name}: bed kept at {100 * r.data['least']:g} % or more by its {parameter.label.lower()}"
    if r.data["form"] == "bends":
        return f"{name}: {_widened_said(r, start, end, inputs)}"
    rows = adjusted_rows(r.data, start, end)
    words = [rows] if isinstance(rows, str) else [say("{v}", {"v": value_said(parameter.kind, v)}) for _, v in rows]
    shown = words if len(words) < 4 else [words[0], "…", words[-1]]
    label = parameter.label.lower()
    return f"{label if label.startswith(name) else f'{name}: {label}'} {' → '.join(dict.fromkeys(shown))}"


def _widened_said(r: VariedRow, start: float, end: float, inputs: RoadInputs) -> str:
    try:
        most = most_widened(inputs, r, start, end)
    except IvoryRidgeError:  # why is told with the road
        return f"wider in bends, for a {r.data['vehicle']}"
    if most < 0.0005:
        return f"wide enough in all bends for a {r.data['vehicle']}"
    return say("up to {v:m.2} wider in bends, for a {vehicle}", {"v": most, "vehicle": r.data["vehicle"]})


def _led_said(r: VariedRow, there: dict[str, dict[str, PlacedPart]], inputs: RoadInputs) -> str:
    part, _, name = r.data["node"].partition(".")
    placed = there.get(r.side, {}).get(part)
    node = next((n.role for n in placed.part.nodes if n.name == name and n.role), "") if placed else ""
    takes = {"offset": "lies at", "level": "has the level of", "both": "lies at and has the level of"}[r.data["takes"]]
    if r.data.get("surface") is not None:
        own = inputs.led_on.get(r.data["surface"])
        line = own.name if own else "a surface that is gone"
    elif r.data.get("survey") is not None:
        line = f"'{r.data['layer']}'"
    else:
        other = inputs.followed.get(r.data["road"])
        edge = r.data.get("edge", CENTRE)
        line = (
            f"the {'' if edge == CENTRE else r.data['edge_side'] + ' '}{edge} of {other.name if other else 'a road that is gone'}"
        )
    return f"{node or name.replace('_', ' ')} {takes} {line}"


def _leadable(placed: PlacedPart) -> list[dict[str, str]]:
    kinds: dict[str, list[str]] = {}
    for n in placed.part.nodes:
        kinds.setdefault(n.name, []).append(n.kind)
    roles = {n.name: n.role for n in placed.part.nodes if n.role}
    return [
        {"name": f"{placed.id}.{name}", "label": roles.get(name, name.replace("_", " "))}
        for name, own in kinds.items()
        if all(k in LEADABLE for k in own)
    ]


def built_parts(inputs: RoadInputs) -> dict[str, list[BuiltPart]]:
    """The parts that are built somewhere along a road, by side, with what can be adjusted."""
    return {
        side: [
            cast(BuiltPart, {
                "id": placed.id, "label": placed.part.label, "parameters": [
                    {"name": p.name, "label": p.label, "kind": p.kind, "value": placed.value(p.name), "least": p.least,
                     "greatest": p.greatest, "choices": list(p.choices)}
                    for p in placed.part.parameters if p.kind != "structure"
                ], "nodes": _leadable(placed), "upon": bool(placed.part.upon),
            })
            for placed in parts.values()
        ]
        for side, parts in _placed(inputs).items()
    }  # fmt: skip


def quantity_picture(inputs: RoadInputs, asked: dict[str, Any]) -> Quantity:
    """One parameter of a part along the road: (station, value), straight between, none where it is not built."""
    rows = quantity_along(inputs, asked["side"], asked["part"], asked["parameter"])
    return cast(Quantity, {**asked, "rows": [[round(s, 4), None if v is None else round(v, 6)] for s, v in rows]})
