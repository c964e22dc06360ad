"""An end of a road that meets the ground: what its PVIs become when it begins to, and when it no longer does."""

from __future__ import annotations

from typing import Any

from ivoryridge.core.units import format_station
from ivoryridge.core.wording import quantity

from ..edits.levels import anchor_fields
from ..inputs.road import RoadInputs
from ..ledger import Act
from ..models import Road, RoadPVI, Variation
from ..refusals import BadValue
from ..results.levels import levels_of
from ..results.line import line_of
from ..results.meet import end_met

__all__ = ["check_meet", "lay_out_meet", "let_go_of_meet", "range_of_meet"]

LEAST, USUAL, MOST = 5.0, 40.0, 1000.0  # m over which a road goes over into its own
_SLACK = 1e-6


def range_of_meet(inputs: RoadInputs, values: dict[str, Any]) -> dict[str, Any]:
    """The values of a new row, its range held by the end that it is of."""
    line = line_of(inputs)
    if values.get("end") not in ("start", "end"):
        raise BadValue("end-needed", "Choose which end of the road meets the ground.", field="end")
    length = float(values.get("over", min(USUAL, (line.end_station - line.start_station) / 2)))
    at_start = values["end"] == "start"
    away = line.start_station + length if at_start else line.end_station - length
    ends = {"station_from": None, "station_to": away, "hold_to": "start"} if at_start else {
        "station_from": away, "station_to": None, "hold_from": "end",
    }  # fmt: skip
    return {k: v for k, v in values.items() if k not in ("over", "station_from", "station_to")} | ends


def check_meet(road: Road, inputs: RoadInputs, row: Variation, start: float, end: float) -> None:
    line = line_of(inputs)
    which = row.data["end"]
    base, own, word = (line.start_station, start, "From") if which == "start" else (line.end_station, end, "To")
    if abs(own - base) > _SLACK:
        raise BadValue(
            "meet-at-the-end", f"{word}: the {which} of the road is at {format_station(base)}, and that is where it meets the ground.",
            field="station_from" if which == "start" else "station_to",
        )  # fmt: skip
    if not LEAST <= end - start <= MOST:
        raise BadValue(
            "meet-length", f"A road goes over from the ground into its own within {quantity(LEAST, 'm', 0)} to {quantity(MOST, 'm', 0)}; "
            f"{quantity(end - start, 'm', 2)} is not.", field="station_to" if which == "start" else "station_from",
        )  # fmt: skip
    if any(r.kind == "meet" and r.data["end"] == which and r.id != row.pk for r in inputs.varied):
        raise BadValue("meets-already", f"The {which} of {road.name} meets the ground already.", field="end")
    tie = road.ties.get(which, {})
    if tie.get("level"):
        raise BadValue(
            "tied-in-level", f"The {which} of {road.name} takes its level from another road. Untie it first.", field="end"
        )
    if not inputs.has_profile:
        raise BadValue(
            "no-profile", f"{road.name} has no profile yet. Give it one first: Levels, Fit to the ground.", field="end"
        )
    if not _reaches(inputs, which):
        raise BadValue("profile-too-short", f"The profile of {road.name} does not reach the {which} of its line.", field="end")


def _reaches(inputs: RoadInputs, end: str) -> bool:
    """Whether a PVI stands at an end."""
    line, levels = line_of(inputs), levels_of(inputs)
    base, i = (line.start_station, 0) if end == "start" else (line.end_station, -1)
    return abs(levels.pvis[i].station - base) < _SLACK


def lay_out_meet(doing: Act, road: Road, inputs: RoadInputs, row: Variation, varied: Any, length: float) -> None:
    """The end's PVI is held by the end, and the next one within the length by it, where there is none a new one halfway with a curve
    as long as there is room. ``inputs``: as they were before; ``varied``: the row as inputs have it."""
    line, levels = line_of(inputs), levels_of(inputs)
    end = row.data["end"]
    base, sign = (line.start_station, 1.0) if end == "start" else (line.end_station, -1.0)
    held = levels.rows[0 if end == "start" else -1]
    own = RoadPVI.objects.get(pk=held.id)
    if own.anchor != end:
        doing.change(own, **anchor_fields(inputs, line, held, end, base))
    others = sorted((sign * (p.station - base), p) for p in levels.pvis if sign * (p.station - base) > _SLACK)
    if others and others[0][0] <= length + _SLACK:
        return
    fit = end_met(inputs, varied).get()
    if fit is None:
        return
    at = base + sign * length / 2
    room = length / 2
    if others:
        room = min(room, others[0][0] - (others[0][1].half_in if sign > 0 else others[0][1].half_out) - length / 2)
    half = max(float(f"{room:.3f}") - 0.001, 0.0)
    doing.create(
        RoadPVI(
            road=road, candidate=road.candidate, **anchor_fields(inputs, line, held, end, at),
            elevation=round(fit.level + fit.grade * (at - base), 4), half_in=half, half_out=half,
        )
    )  # fmt: skip


def let_go_of_meet(doing: Act, inputs: RoadInputs) -> None:
    """PVIs keep the levels that the ground gave them. ``inputs``: with the row still there."""
    levels = levels_of(inputs)
    for own, now in zip(levels.rows, levels.pvis, strict=True):
        row = RoadPVI.objects.get(pk=own.id)
        if abs(row.elevation - now.elevation) > _SLACK:
            doing.change(row, elevation=round(now.elevation, 4))
