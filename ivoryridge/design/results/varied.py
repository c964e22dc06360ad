"""The pieces of a road that are built alike, from what varies along it; and one quantity along the road."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.blend import Blend
from ivoryridge.core.corridor.drainage import bed_runs, kept_falling
from ivoryridge.core.corridor.turning import lane_of
from ivoryridge.core.corridor.varied import SIDES, Adjustment, Bare, Change, Piece, Side, Stretch, pieces_of
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.standards.standard import SpeedZones
from ivoryridge.core.standards.widening import VEHICLES, clearance_on, widened_along
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.anchors import resolve_station
from ..inputs.road import RoadInputs, VariedRow
from ..inputs.standards import zones_of
from ..kept.kinds import Content, Result, kind
from .crossfall import lanes_of
from .line import line, line_of

Floats = NDArray[np.float64]
Pieces = tuple[tuple[Piece, ...], tuple[Finding, ...]]
USUAL_OVER = 30.0  # m over which a lane widens where an arc has no transition

__all__ = [
    "adjusted_rows",
    "falls_that_differ",
    "most_widened",
    "pieces",
    "pieces_result",
    "placed_in",
    "quantity_along",
    "range_of",
]


def range_of(row: VariedRow, line: HorizontalAlignment) -> tuple[float, float]:
    """Stations between which a row holds, on the line as it is now, m."""
    return resolve_station(row.start, line), resolve_station(row.end, line)


def _sides(side: str) -> tuple[Side, ...]:
    return SIDES if side == "both" else ("left",) if side == "left" else ("right",)


def _blend(data: dict[str, Any] | None) -> Blend | None:
    return Blend(float(data["length"]), data.get("form", "linear"), data.get("lies", "outside")) if data else None


def adjusted_rows(data: Any, start: float, end: float) -> tuple[tuple[float, float], ...] | str:
    """What an adjustment says of its parameter from ``start`` to ``end`` m: (station, value), or a word."""
    if isinstance(data.get("value"), str):
        return str(data["value"])
    match data["form"]:
        case "linear":
            return (start, float(data["value"])), (end, float(data["value_to"]))
        case "table":
            return tuple((float(s), float(v)) for s, v in data["rows"])
    return ((start, float(data["value"])),)


@kind("widened", 1)
def _widened(line: HorizontalAlignment, zones: SpeedZones, width: float, vehicle: str, inner: float, over: float) -> Any:
    """How much wider the left and right half is along a line, for two lanes."""
    own = replace(VEHICLES[vehicle], clearance=clearance_on(width))
    return widened_along(line, own, zones, lanes=2, width=width, inner=inner, over=over)


@kind("deepened", 1)
def _deepened(corridor: Any, side: str, part: str, start: float, end: float, least: float) -> tuple[tuple[float, float], ...]:
    """How much deeper (station m, m) the bed of a part lies than its parameters say, so that it falls by ``least``; straight between."""
    out: list[tuple[float, float]] = []
    for s, z in bed_runs(corridor, side, part, start, end):
        out += zip(s.tolist(), (z - kept_falling(s, z, least)).tolist(), strict=True)
    return tuple(out) or ((start, 0.0),)


@kind("pieces", 3)
def _pieces(
    line: HorizontalAlignment,
    base: Template | None,
    rows: tuple[VariedRow, ...],
    widened: tuple[Any, ...],
    deepened: tuple[Any, ...],
) -> Pieces:
    """``widened``: for each row that is wider in bends, in order, how much wider left and right; ``deepened``: for each row that keeps
    a least grade, and each of its sides, how much deeper."""
    stretches, adjustments, changes, bare = [], [], [], []
    wider, deeper = iter(widened), iter(deepened)
    for r in rows:
        a, b = range_of(r, line)
        match r.kind:
            case "stretch" if r.template is not None:
                blends = _blend(r.data.get("blend_from")), _blend(r.data.get("blend_to"))
                stretches.append(Stretch(r.template, a, b, *blends, row=r.id))
            case "adjustment" if r.data.get("form") == "bends":
                by_side = dict(zip(SIDES, next(wider), strict=True))
                adjustments += [
                    Adjustment(s, r.data["part"], r.data["parameter"], a, b, by_side[s], r.id, more=True) for s in _sides(r.side)
                ]
            case "adjustment" if r.data.get("form") == "graded":
                adjustments += [
                    Adjustment(s, r.data["part"], r.data["parameter"], a, b, next(deeper), r.id, more=True)
                    for s in _sides(r.side)
                ]
            case "adjustment":
                values = adjusted_rows(r.data, a, b)
                adjustments += [Adjustment(s, r.data["part"], r.data["parameter"], a, b, values, r.id) for s in _sides(r.side)]
            case "change":
                changes += [Change(s, r.data["do"], r.data["part"], a, b, r.placed, r.id) for s in _sides(r.side)]
            case "bare":
                bare.append(Bare(a, b, r.id))
            case "follow" if b - a <= SAME_STATION:
                raise InputError("range-backwards", start=a, end=b, where={"variation_id": r.id})
    return pieces_of(base, line.start_station, line.end_station, stretches, adjustments, changes, bare)


def pieces_result(road: RoadInputs) -> Result[Pieces]:
    """Raises InputError where a template of the road cannot be used."""
    if road.template_fault is not None:
        raise road.template_fault
    if road.return_of is not None and road.first_template is None:
        from .returns import outer_pieces  # of the pieces of both roads

        return outer_pieces(road)
    base = Content(road.template) if road.template is not None else None
    return road.once(
        "_pieces",
        lambda: _pieces(line=line(road), base=base, rows=road.varied, widened=_all_widened(road), deepened=_all_deepened(road)),
    )


def _all_deepened(road: RoadInputs) -> tuple[Result[Any], ...]:
    """From the road as it is without rows that keep a least grade: what they do hangs on where beds lie without them."""
    rows = [r for r in road.varied if r.kind == "adjustment" and r.data.get("form") == "graded"]
    if not rows:
        return ()
    from .corridor import corridor  # it is built of pieces

    plain = replace(road, varied=tuple(r for r in road.varied if r not in rows))
    own = line_of(road)
    return tuple(
        _deepened(corridor=corridor(plain), side=s, part=r.data["part"], start=a, end=b, least=float(r.data["least"]))
        for r in rows for a, b in (range_of(r, own),) for s in _sides(r.side)
    )  # fmt: skip


def _widened_of(road: RoadInputs, row: VariedRow) -> Result[Any]:
    (left, _), (right, _) = lanes_of(road)
    return _widened(
        line=line(road), zones=zones_of(road), width=left + right, vehicle=row.data["vehicle"],
        inner=float(row.data.get("inner", 1.0)), over=float(row.data.get("over", USUAL_OVER)),
    )  # fmt: skip


def _all_widened(road: RoadInputs) -> tuple[Result[Any], ...]:
    return tuple(_widened_of(road, r) for r in road.varied if r.kind == "adjustment" and r.data.get("form") == "bends")


def most_widened(road: RoadInputs, row: VariedRow, start: float, end: float) -> float:
    """The most by which a row widens its side anywhere between two stations, m."""
    by_side = dict(zip(SIDES, _widened_of(road, row).get(), strict=True))
    out = [0.0]
    for side in _sides(row.side):
        s, v = np.array(by_side[side]).T
        inside = np.concatenate([[start], s[(s > start) & (s < end)], [end]])
        out.append(float(np.interp(inside, s, v).max()))
    return max(out)


def pieces(road: RoadInputs) -> tuple[Piece, ...]:
    return pieces_result(road).get()[0]


def falls_that_differ(row: tuple[Piece, ...], normal: tuple[float, float]) -> list[Finding]:
    """Where the lanes of a template have another fall on the straight than that from which the road's bends turn (left, right)."""
    out: list[Finding] = []
    for p in row:
        for side, usual in zip(SIDES, normal, strict=True):
            width, own = lane_of(p.template.left if side == "left" else p.template.right)
            if width > 0 and abs(own - usual) > 1e-6:
                told = {"start": p.station_from, "end": p.station_to, "value": 100 * own, "limit": 100 * usual, "side": side}
                out.append(Finding("doubt", "falls-differ", told, station_from=p.station_from, station_to=p.station_to))
    return out


def quantity_along(road: RoadInputs, side: str, part: str, parameter: str) -> list[tuple[float, float | None]]:
    """(station m, value) of a parameter along a road, straight between; None where no such part is built. Two rows at one station
    are a step."""
    out: list[tuple[float, float | None]] = []
    for p in pieces(road):
        parts = p.template.left if side == "left" else p.template.right
        placed = next((x for x in parts if x.id == part), None)
        own = next(
            (v for v in reversed(p.left if side == "left" else p.right) if (v.part, v.parameter) == (part, parameter)), None
        )
        at = _stations_of(p, own)
        if placed is None or parameter not in placed.all_values() or isinstance(placed.value(parameter), str):
            out += [(at[0], None), (at[-1], None)]
        elif own is not None:
            out += zip(at, own.at(at).tolist(), strict=True)
        else:
            out += [(at[0], float(placed.value(parameter))), (at[-1], float(placed.value(parameter)))]
    return out


def _stations_of(p: Piece, own: Any) -> list[float]:
    inside: list[float] = []
    if own is not None:
        more = np.linspace(own.station[0], own.station[-1], 17) if own.smooth else own.station
        inside = [s for s in map(float, more) if p.station_from + SAME_STATION < s < p.station_to - SAME_STATION]
    return [p.station_from, *inside, p.station_to]


def placed_in(row: tuple[Piece, ...]) -> dict[str, dict[str, PlacedPart]]:
    """Side -> id -> a part that is built somewhere along the road, in the order from the centre outward."""
    out: dict[str, dict[str, PlacedPart]] = {}
    for side in SIDES:
        for p in row:
            for placed in p.template.left if side == "left" else p.template.right:
                out.setdefault(side, {}).setdefault(placed.id, placed)
    return out
