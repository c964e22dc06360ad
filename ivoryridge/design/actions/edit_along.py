"""Acts on what varies along a road: stretches, adjustments, changed parts, ranges without earthwork."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.drainage import BEDS
from ivoryridge.core.section.lead import LEADABLE
from ivoryridge.core.section.roles import CENTRE
from ivoryridge.core.standards.widening import VEHICLES
from ivoryridge.core.units import format_station
from ivoryridge.core.wording import quantity

from ..edits.along import DATA, held, split_data, variation_fields
from ..inputs.anchors import resolve_station
from ..inputs.network import assemble_road
from ..inputs.road import RoadInputs, VariedRow, held_end
from ..inputs.sections import Stock
from ..ledger import Act
from ..models import Road, Surface, SurveySet, Template, Variation
from ..refusals import BadValue, NotThere
from ..results.line import line_of
from ..results.surface import survey_arrays
from ..results.varied import pieces, placed_in, range_of
from .edit_surface import own_row
from .meet_existing import check_meet, lay_out_meet, let_go_of_meet, range_of_meet
from .standing import act, rehearsed

__all__ = [
    "add_variation",
    "change_variation",
    "delete_variation",
    "join_variation",
    "join_variations",
    "split_variation",
    "split_variations",
]

WORDS = {
    "stretch": "stretch", "adjustment": "adjustment", "change": "changed part", "bare": "range without earthwork",
    "follow": "followed plane", "led": "led node", "meet": "meeting with the ground",
}  # fmt: skip
A = {"stretch": "a", "adjustment": "an", "change": "a", "bare": "a", "follow": "a", "led": "a", "meet": "a"}
LEAST_PART = 0.5  # m of a range that is cut in two
_TEMPLATE_NEEDED = BadValue("template-needed", "A stretch needs a template. Choose one.", field="template_id")


@rehearsed
def add_variation(road: Road, user: User, *, values: dict[str, Any]) -> tuple[Act, Variation]:
    """Something that varies over a range of a road; ``values`` as ``variation_fields`` reads them, and the kind."""
    kind = values["kind"]
    inputs = assemble_road(road)
    values = range_of_meet(inputs, values) if kind == "meet" else values
    fields = variation_fields(inputs, None, values)
    row = Variation(road=road, kind=kind, **fields)
    _check(road, inputs, row, values)
    with act(road.project, user, f"Add {A[kind]} {WORDS[kind]} to {road.name}") as doing:
        doing.create(row)
        if kind == "meet":
            varied = next(r for r in assemble_road(road).varied if r.id == row.pk)
            start, end = range_of(varied, line_of(inputs))
            lay_out_meet(doing, road, inputs, row, varied, end - start)
    return doing, row


@rehearsed
def change_variation(road: Road, user: User, variation_id: int, *, revision: int, values: dict[str, Any]) -> Act:
    """Other ends, side, template or values; an end that is moved stays held by what holds it."""
    row, varied, inputs = _row(road, variation_id)
    fields = variation_fields(inputs, varied, values)
    with act(road.project, user, f"Change {A[row.kind]} {WORDS[row.kind]} of {road.name}") as doing:
        doing.change(row, revision=revision, **fields)
        _check(road, inputs, row, values)
    return doing


@rehearsed
def delete_variation(road: Road, user: User, variation_id: int, *, revision: int) -> Act:
    row, _, inputs = _row(road, variation_id)
    with act(road.project, user, f"Delete {A[row.kind]} {WORDS[row.kind]} of {road.name}") as doing:
        if row.kind == "meet":
            let_go_of_meet(doing, inputs)
        doing.remove(row, revision=revision)
    return doing


@rehearsed
def split_variation(road: Road, user: User, variation_id: int, *, revision: int, station: float) -> tuple[Act, Variation]:
    """Two of the same, from the start to a station (m) and on from there."""
    row, varied, inputs = _row(road, variation_id)
    line = line_of(inputs)
    start, end = range_of(varied, line)
    if row.kind == "meet":
        raise BadValue("meet-is-one", "An end meets the ground over one range; it cannot be split.")
    if not start + LEAST_PART <= station <= end - LEAST_PART:
        raise BadValue(
            "split-outside", f"Choose a chainage between {format_station(start + LEAST_PART)} and {format_station(end - LEAST_PART)}.",
            field="station",
        )  # fmt: skip
    there = held(inputs, line, None, "station", station)
    first, second = split_data(row.data, start, end, station)
    with act(road.project, user, f"Split {A[row.kind]} {WORDS[row.kind]} of {road.name} at {format_station(station)}") as doing:
        other = Variation(
            road=road, kind=row.kind, side=row.side, template_id=row.template_id, data=second, start=there, end=row.end
        )
        doing.change(row, revision=revision, end=there, data=first)
        doing.create(other)
    return doing, other


@rehearsed
def join_variation(road: Road, user: User, variation_id: int, *, revision: int) -> Act:
    """A row goes on over the next one of its kind, which goes; the first one's values stay."""
    row, varied, inputs = _row(road, variation_id)
    line = line_of(inputs)
    end = range_of(varied, line)[1]
    alike = [
        r
        for r in inputs.varied
        if r.kind == row.kind and r.id != row.pk and _speaks_of(r.data, r.side) == _speaks_of(row.data, row.side)
    ]
    ahead = sorted((range_of(r, line)[0], r.id) for r in alike if range_of(r, line)[0] >= end - LEAST_PART)
    if not ahead:
        raise BadValue("nothing-to-join", f"No other {WORDS[row.kind]} of the same follows on this one.")
    other = Variation.objects.get(pk=ahead[0][1])
    blend = {"blend_to": other.data["blend_to"]} if "blend_to" in other.data else {}
    value = {k: other.data[k] for k in ("value_to",) if k in other.data and row.data.get("form") == "linear"}
    kept = {k: v for k, v in row.data.items() if k != "blend_to"}
    with act(road.project, user, f"Join {A[row.kind]} {WORDS[row.kind]} of {road.name} with the next") as doing:
        doing.change(row, revision=revision, end=other.end, data={**kept, **blend, **value})
        doing.remove(other)
    return doing


def _speaks_of(data: Any, side: str) -> tuple[Any, ...]:
    return side, *(
        data.get(k) for k in ("part", "parameter", "do", "road", "node", "survey", "layer", "surface", "edge", "edge_side")
    )


def _row(road: Road, variation_id: int) -> tuple[Variation, VariedRow, RoadInputs]:
    row = Variation.present.filter(road=road, pk=variation_id).first()
    inputs = assemble_road(road)
    varied = next((r for r in inputs.varied if r.id == variation_id), None)
    if row is None or varied is None:
        raise NotThere("no-such-range", "This range is no longer there; somebody deleted it. Undo brings it back if it was you.")
    return row, varied, inputs


# --- what a row may say ---------------------------------------------------------------------------------------
def _check(road: Road, inputs: RoadInputs, row: Variation, values: dict[str, Any]) -> None:
    for name in ("station_from", "station_to"):
        line = line_of(inputs)
        s = values.get(name)
        if s is not None and not line.start_station - 1e-6 <= s <= line.end_station + 1e-6:
            raise BadValue(
                "range-outside", f"{format_station(s)} lies outside {road.name}, which runs from "
                f"{format_station(line.start_station)} to {format_station(line.end_station)}.", field=name,
            )  # fmt: skip
    if row.kind == "stretch":
        if row.template_id is None:
            raise _TEMPLATE_NEEDED
        own_row(Template, road.project, row.template_id)
        for end in ("blend_from", "blend_to"):
            if end in row.data and not 0 < row.data[end]["length"] <= 5000:
                raise BadValue(
                    "blend-length", f"A blend is more than 0 and at most {quantity(5000, 'm', 0)} long; "
                    f"{quantity(row.data[end]['length'], 'm')} is not.", field=end,
                )  # fmt: skip
    if row.kind == "meet":
        a, b = (resolve_station(held_end(e, _index(inputs), row.pk), line_of(inputs)) for e in (row.start, row.end))
        check_meet(road, inputs, row, a, b)
    if row.kind == "follow":
        _check_follow(road, row)
    if row.kind == "led":
        _check_led(road, inputs, row)
    if row.kind == "adjustment":
        _check_adjustment(inputs, row)
    if row.kind == "change":
        _check_change(inputs, row)


def _index(inputs: RoadInputs) -> dict[int, int]:
    return {pk: i for i, (pk, _) in enumerate(inputs.pi_rows) if pk}


def _check_follow(road: Road, row: Variation) -> None:
    other = Road.present.filter(project=road.project, pk=row.data.get("road")).first()
    if other is None:
        raise BadValue("road-needed", "Choose the road whose plane is followed.", field="road")
    if other.pk == road.pk:
        raise BadValue("tied-to-itself", "A road cannot follow itself. Choose another road.", field="road")
    if not assemble_road(other).has_profile:
        raise BadValue("no-level-there", f"{other.name} has no profile yet, so it has no plane to follow.", field="road")
    for name, word in (("ease", "come to"), ("release", "let go of")):
        if not 0 <= row.data.get(name, 0.0) <= 5000:
            raise BadValue("length-outside", f"The length to {word} a plane is 0 to {quantity(5000, 'm', 0)}.", field=name)


def _check_led(road: Road, inputs: RoadInputs, row: Variation) -> None:
    data = row.data
    if row.side == "both":
        raise BadValue("side-needed", "A line leads a node of one side. Choose left or right.", field="side")
    there = placed_in(pieces(inputs)) if inputs.first_template is not None else {}
    part, _, node = str(data.get("node", "")).partition(".")
    placed = there.get(row.side, {}).get(part)
    variants = [n for n in placed.part.nodes if n.name == node] if placed else []
    if not variants:
        raise BadValue(
            "no-such-node", f"No template of this road has a node '{data.get('node', '')}' on that side.", field="node"
        )
    if not all(n.kind in LEADABLE for n in variants):
        raise BadValue(
            "node-not-led", f"'{node}' lies where it meets something else, so no line can lead it. Lead the node it starts from.",
            field="node",
        )  # fmt: skip
    if data.get("takes") not in ("offset", "level", "both"):
        raise BadValue("bad-lead", "A node takes its offset, its level, or both.", field="takes")
    if sum(data.get(k) is not None for k in ("survey", "road", "surface")) != 1:
        raise BadValue("source-needed", "Choose what leads: a line of another road or of a survey, or a surface.", field="source")
    if data.get("surface") is not None:
        own_row(Surface, road.project, data["surface"])
        if data["takes"] != "level":
            raise BadValue("surface-leads-level", "A surface has no edge: it leads a node in level only.", field="takes")
        _check_reach(data)
        return
    if data.get("survey") is not None:
        own_row(SurveySet, road.project, data["survey"])
        survey = SurveySet.objects.only("name").get(pk=data["survey"])
        arrays, layer = survey_arrays(survey.pk), data.get("layer", "")
        if layer not in arrays.line_codes:
            raise BadValue("no-such-layer", f"{survey.name} has no line on the layer '{layer}'.", field="source")
        lines = [v for v, code in zip(arrays.lines, arrays.line_codes, strict=True) if code == layer]
        if data["takes"] != "offset" and not any(np.isfinite(v[:, 2]).all() and v[:, 2].any() for v in lines):
            raise BadValue(
                "line-without-level",
                f"The lines of '{layer}' are drawn flat: they have no levels. Take the offset only.",
                field="takes",
            )
    else:
        own_row(Road, road.project, data["road"])
        if data["road"] == road.pk:
            raise BadValue("tied-to-itself", "A road cannot follow itself. Choose another road.", field="source")
        if data.get("edge", CENTRE) != CENTRE and data.get("edge_side") not in ("left", "right"):
            raise BadValue("side-needed", "Choose the left or the right edge of that road.", field="source")
        if data["takes"] != "offset" and not assemble_road(Road.objects.get(pk=data["road"])).has_profile:
            raise BadValue("no-level-there", "That road has no profile yet, so its lines have no levels.", field="takes")
    _check_reach(data)


def _check_reach(data: Any) -> None:
    for name, least, most in (
        ("reach", 0.01, 100.0),
        ("reach_level", 0.01, 100.0),
        ("ease", 0.0, 5000.0),
        ("release", 0.0, 5000.0),
    ):
        if name in data and not least <= data[name] <= most:
            raise BadValue(
                "length-outside",
                f"{quantity(data[name], 'm')} is outside {quantity(least, 'm')} to {quantity(most, 'm', 0)}.",
                field=name,
            )


def _check_adjustment(inputs: RoadInputs, row: Variation) -> None:
    data = row.data
    there = placed_in(pieces(inputs)) if inputs.first_template is not None else {}
    sides = ("left", "right") if row.side == "both" else (row.side,)
    placed = next((there.get(s, {}).get(data["part"]) for s in sides if data["part"] in there.get(s, {})), None)
    if placed is None:
        raise BadValue("no-such-part", f"No template of this road has a part '{data['part']}' on that side.", field="part")
    parameter = next((p for p in placed.part.parameters if p.name == data["parameter"]), None)
    if parameter is None:
        raise BadValue("no-such-parameter", f"{placed.part.label} has no parameter '{data['parameter']}'.", field="parameter")
    if parameter.kind == "structure":
        raise BadValue(
            "structure-not-adjusted", "A pavement structure changes with the part: put the same part in its place, with the other "
            "structure.", field="parameter",
        )  # fmt: skip
    if data.get("form") == "bends":
        _check_bends(data, parameter, placed.part.label)
        return
    if data.get("form") == "graded":
        _check_graded(inputs, data, parameter, placed)
        return
    is_word = isinstance(data.get("value"), str)
    if is_word != (parameter.kind == "choice") or (is_word and data["value"] not in parameter.choices):
        wanted = f"one of {', '.join(parameter.choices)}" if parameter.kind == "choice" else "a number"
        raise BadValue("bad-adjustment", f"{parameter.label} of {placed.part.label} is {wanted}.", field="value")
    form = data.get("form")
    complete = {"constant": "value" in data, "linear": "value" in data and "value_to" in data, "table": bool(data.get("rows"))}
    if not complete.get(str(form)) or (is_word and form != "constant"):
        raise BadValue("bad-adjustment", "An adjustment needs a value, two values, or a table of them.", field="value")
    stations = [s for s, _ in data.get("rows", ())] if form == "table" else []
    if any(b <= a for a, b in itertools.pairwise(stations)):
        raise BadValue("rows-out-of-order", "The chainages of the table must grow from row to row.", field="rows")


def _check_bends(data: Any, parameter: Any, part: str) -> None:
    if parameter.kind != "length":
        raise BadValue(
            "bad-adjustment", f"{parameter.label} of {part} is no width; only a width grows in bends.", field="parameter"
        )
    if data.get("vehicle") not in VEHICLES:
        raise BadValue("vehicle-needed", f"Choose the vehicle that goes round the bends: {', '.join(VEHICLES)}.", field="vehicle")
    if not 0 <= data.get("inner", 1.0) <= 1:
        raise BadValue(
            "share-outside", f"The share on the inside is 0 to 100 %; {100 * data['inner']:g} % is not.", field="inner"
        )
    if not 0 <= data.get("over", 0.0) <= 500:
        raise BadValue(
            "length-outside",
            f"A lane widens over 0 to {quantity(500, 'm', 0)}; {quantity(data['over'], 'm')} is not.",
            field="over",
        )


def _check_graded(inputs: RoadInputs, data: Any, parameter: Any, placed: Any) -> None:
    if not any(n.role in BEDS for n in placed.part.nodes):
        raise BadValue("no-bed", f"{placed.part.label} has no ditch or channel whose bed could keep a grade.", field="part")
    if parameter.kind != "height":
        raise BadValue("bad-adjustment", f"{parameter.label} of {placed.part.label} is no depth; a bed is lowered by its depth.",
                       field="parameter")  # fmt: skip
    if not 0 < data.get("least", 0.0) <= 0.2:
        raise BadValue(
            "grade-outside",
            f"A least grade is above 0 and at most 20 %; {100 * data.get('least', 0.0):g} % is not.",
            field="least",
        )
    if not inputs.has_profile:
        raise BadValue("no-profile", f"{inputs.name} has no profile yet. Give it one first.", field="part")


def _check_change(inputs: RoadInputs, row: Variation) -> None:
    data = row.data
    if data.get("do") not in ("off", "replace", "add"):
        raise BadValue("bad-change", "A part is off, has another in its place, or has one more after it.", field="do")
    if data["do"] != "off":
        if data.get("with") is None:
            raise BadValue("part-needed", "Choose the part that comes there.", field="with")
        Stock.of(row.road.project_id).part(data["with"])
    there = placed_in(pieces(inputs)) if inputs.first_template is not None else {}
    sides = ("left", "right") if row.side == "both" else (row.side,)
    if data.get("part") and not any(data["part"] in there.get(s, {}) for s in sides):
        raise BadValue("no-such-part", f"No template of this road has a part '{data['part']}' on that side.", field="part")


# --- a road that is split, and two that are joined -------------------------------------------------------------
def split_variations(doing: Act, road: Road, other: Road, inputs: RoadInputs, theirs: dict[int, int], at: float) -> None:
    """What varies behind the station ``at`` (m) goes with the second road; what lies on it is cut in two. ``theirs``: id of a PI of
    the first road -> of the one of the second that takes its place. To be called while the rows of the first are as they were."""
    line = line_of(inputs)
    own = {r.id: r for r in inputs.varied}
    for row in Variation.present.filter(road=road):
        start, end = range_of(own[row.pk], line)
        first, second = split_data(row.data, start, end, at) if start < at < end else (row.data, row.data)
        meets = row.data["end"] if row.kind == "meet" else ""  # at the cut no road meets the ground
        if end > at and meets != "start":
            doing.create(
                Variation(
                    road=other, kind=row.kind, side=row.side, template_id=row.template_id, data=second,
                    start={"anchor": "start"} if start <= at else _handed(row.start, theirs, start),
                    end=_handed(row.end, theirs, end),
                )
            )  # fmt: skip
        if start >= at or (meets == "end" and end > at):
            doing.remove(row)
        else:
            kept: dict[str, Any] = {"start": _kept(row.start, theirs, start), "data": first}
            doing.change(row, **kept, end={"anchor": "end"} if end >= at else _kept(row.end, theirs, end))


def _kept(end: dict[str, Any], theirs: dict[int, int], station: float) -> dict[str, Any]:
    return {"anchor": "station", "station": station} if end.get("pi_id") in theirs else end


def _handed(end: dict[str, Any], theirs: dict[int, int], station: float) -> dict[str, Any]:
    if end.get("pi_id") in theirs:
        return {**end, "pi_id": theirs[end["pi_id"]]}
    return end if end["anchor"] in ("end", "place") else {"anchor": "station", "station": station}


def join_variations(doing: Act, road: Road, other: Road, mine: RoadInputs, theirs: RoadInputs, shift: float) -> None:
    """What varies along a road that becomes part of another goes along, held by chainage; its template, where it is another one, is a
    stretch of the whole. To be called while both are as they were."""
    my_line, their_line = line_of(mine), line_of(theirs)
    for row in Variation.present.filter(road=road):
        if row.kind == "meet" and row.data["end"] == "end":
            doing.remove(row)
        elif "end" in (row.start.get("anchor"), row.end.get("anchor")):
            start, end = range_of(next(r for r in mine.varied if r.id == row.pk), my_line)
            doing.change(row, start=_by_station(row.start, "end", start), end=_by_station(row.end, "end", end))
    turned = {"turned": True} if road.mirrored != other.mirrored else {}
    for row in Variation.present.filter(road=other):
        if row.kind == "meet" and row.data["end"] == "start":
            continue
        start, end = range_of(next(r for r in theirs.varied if r.id == row.pk), their_line)
        table = {"rows": [[s + shift, v] for s, v in row.data["rows"]]} if "rows" in row.data else {}
        doing.create(
            Variation(
                road=road, kind=row.kind, side=row.side, template_id=row.template_id,
                data={**row.data, **table, **(turned if row.kind == "stretch" else {})},
                start={"anchor": "end", "ahead": round(start - end, 9)} if row.kind == "meet" else {
                    "anchor": "station", "station": round(start + shift, 9),
                }, end={"anchor": "end"} if row.end["anchor"] == "end" else {"anchor": "station", "station": round(end + shift, 9)},
            )
        )  # fmt: skip
    if other.template_id is None or (other.template_id == road.template_id and not turned):
        return
    for start, end in _gaps(theirs, their_line):
        doing.create(
            Variation(
                road=road, kind="stretch", template_id=other.template_id, data=dict(turned),
                start={"anchor": "station", "station": round(start + shift, 9)},
                end={"anchor": "station", "station": round(end + shift, 9)},
            )
        )  # fmt: skip


def _by_station(end: dict[str, Any], anchor: str, station: float) -> dict[str, Any]:
    return {"anchor": "station", "station": station} if end["anchor"] == anchor else end


def _gaps(inputs: RoadInputs, line: HorizontalAlignment) -> list[tuple[float, float]]:
    """Where a road's own template holds, m."""
    taken = sorted(range_of(r, line) for r in inputs.varied if r.kind == "stretch")
    ends = [line.start_station, *(x for pair in taken for x in pair), line.end_station]
    return [(a, b) for a, b in zip(ends[::2], ends[1::2], strict=True) if b - a > 1e-3]


assert set(DATA) == set(WORDS) == set(Variation.KINDS)
