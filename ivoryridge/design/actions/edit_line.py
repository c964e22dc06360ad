"""Acts on a road's line: insert, change and delete PIs, and set the start chainage. What hangs on the line keeps its anchor, and is
told."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.curves import radius_of_degree
from ivoryridge.core.alignment.radius import largest_radius, radius_by_external, radius_by_tangent, radius_through
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.units import FOOT, format_station
from ivoryridge.core.wording import quantity

from ..edits.line import pi_fields, slides
from ..inputs.anchors import Held, resolve_station
from ..inputs.network import assemble_road
from ..inputs.road import pvi_from_row
from ..ledger import Act
from ..models import Road, RoadPI, RoadPVI, Variation
from ..refusals import BadValue, NotThere, Stale
from ..results.levels import levels_of
from ..results.line import line_of
from .standing import act, rehearsed

__all__ = ["change_pi", "curve_by", "delete_pi", "hold", "insert_pi", "let_go_of", "replace_line", "stations_of"]

PI_FIELDS = ("easting", "northing", "radius", "spiral_in", "spiral_out")
_MOVED = 0.005  # m; less is not told: stations are shown in millimetres and moved ones in centimetres


Stations = dict[Any, float]  # by id of a PVI, or by id of a range and which of its ends


@rehearsed
def insert_pi(
    road: Road, user: User, *, between: tuple[int | None, int | None], values: dict[str, float]
) -> tuple[Act, list[str]]:
    """A new PI between two that its editor sees beside each other, by their ids; None stands for beyond an end of the line.

    Raises Stale where they are not beside each other any more.
    """
    with act(road.project, user, "") as doing:
        rows = list(RoadPI.present.filter(road=road))
        index = _place_between(road, rows, between)
        if 0 < index < len(rows) and rows[index - 1].straight_held:
            raise _straight_is_held(index)
        before = rows[index - 1].position if index > 0 else (rows[0].position - 2 if rows else 0.0)
        after = rows[index].position if index < len(rows) else before + 2
        doing.label = f"Add PI {index + 1} to {road.name}"
        stations = stations_of(road)
        doing.create(RoadPI(road=road, position=(before + after) / 2, **values))
        told = _moved(road, stations)
    return doing, told


def _place_between(road: Road, rows: list[RoadPI], between: tuple[int | None, int | None]) -> int:
    """Where a new PI stands among the rows: before the one of that index."""
    beside = [None, *(r.pk for r in rows), None]
    for i, pair in enumerate(itertools.pairwise(beside)):
        if pair == between:
            return i
    raise Stale(
        "line-changed", f"Somebody has changed {road.name} here since you looked: the two PIs are not beside each other any more. "
        "Look at the line as it is now, and add the PI again.",
    )  # fmt: skip


@rehearsed
def change_pi(road: Road, user: User, pi_id: int, *, revision: int, values: dict[str, float]) -> tuple[Act, list[str]]:
    row, number = _pi(road, pi_id)
    _not_held(row, number)
    moved = {"easting", "northing"} & set(values)
    inputs = assemble_road(road)
    slid = [f"PI {number} keeps to its held straight."] if moved and slides(inputs, number - 1) else []
    label = f"{'Move' if moved else 'Change'} PI {number} of {road.name}"
    with act(road.project, user, label) as doing:
        stations = stations_of(road)
        doing.change(row, revision=revision, **pi_fields(inputs, number - 1, values))
        told = _moved(road, stations)
    return doing, slid + told


@rehearsed
def curve_by(
    road: Road,
    user: User,
    pi_id: int,
    *,
    revision: int,
    by: str,
    value: float | None = None,
    place: tuple[float, float] | None = None,
) -> tuple[Act, list[str]]:
    """Set the radius of a PI by something else: "tangent" or "external" (m), "degree" (degrees on an arc of 100 ft), "through" a
    place, or the "largest" that fits between its neighbours, whole metres down."""
    _, number = _pi(road, pi_id)
    pis, i = assemble_road(road).pis, number - 1
    if not 0 < i < len(pis) - 1:
        raise InputError("curve-at-an-end", pi=number)
    if by == "largest":
        radius = float(np.floor(largest_radius(pis, i))) or largest_radius(pis, i)
    elif by == "through":
        if place is None:
            raise BadValue("place-missing", "Click the place that the curve should pass through.", field="place")
        radius = radius_through(pis, i, *place)
    else:
        if value is None or not value > 0:
            raise BadValue("value-missing", "Type a value above 0.", field="value")
        ways = {"tangent": radius_by_tangent, "external": radius_by_external}
        radius = ways[by](pis, i, value) if by in ways else FOOT * radius_of_degree(value)
    doing, told = change_pi(road, user, pi_id, revision=revision, values={"radius": radius})
    return doing, [f"PI {number} has a radius of {quantity(radius, 'm', 3)} now.", *told]


@rehearsed
def delete_pi(road: Road, user: User, pi_id: int, *, revision: int) -> tuple[Act, list[str]]:
    """PVIs that hang on the PI's curve are kept where they are, and told."""
    row, number = _pi(road, pi_id)
    _not_held(row, number)
    rows = list(RoadPI.present.filter(road=road))
    for i in (number - 2, number - 1):
        if 0 <= i < len(rows) - 1 and rows[i].straight_held:
            raise _straight_is_held(i + 1)
    with act(road.project, user, f"Delete PI {number} of {road.name}") as doing:
        stations = stations_of(road)
        kept = let_go_of(doing, row, stations)
        doing.remove(row, revision=revision)
        told = _moved(road, stations)
    return doing, kept + told


@rehearsed
def hold(road: Road, user: User, pi_id: int, *, revision: int, what: str, held: bool) -> Act:
    """Hold a PI, the straight from it to the next, or its curve: with it the PI and both straights; or let go of them.

    A held PI is neither moved, changed nor deleted. PIs on a held straight slide along it.
    """
    rows = list(RoadPI.present.filter(road=road))
    i = next((k for k, r in enumerate(rows) if r.pk == pi_id), None)
    if i is None:
        raise BadValue("no-such-pi", "This PI is no longer there.")
    straights = {"pi": [], "straight": [i], "curve": [i - 1, i]}[what]
    if any(not 0 <= k < len(rows) - 1 for k in straights):
        raise BadValue("no-straight-there", f"PI {i + 1} is an end of the line; there is no {what} to hold.")
    tied = [end for end, k in (("start", 0), ("end", len(rows) - 2)) if end in road.ties and k in straights]
    if held and tied:
        raise BadValue(
            "tied-straight", f"The {tied[0]} of {road.name} follows another road, so its straight cannot be held. Untie it first."
        )
    changes: dict[int, dict[str, Any]] = {k: {"straight_held": held} for k in straights}
    if what != "straight":
        changes[i] = {**changes.get(i, {}), "held": held}
    name = {"pi": f"PI {i + 1}", "straight": f"the straight from PI {i + 1}", "curve": f"the curve at PI {i + 1}"}[what]
    with act(road.project, user, f"{'Hold' if held else 'Let go of'} {name} of {road.name}") as doing:
        doing.change(rows[i], revision=revision, **changes.pop(i, {}))
        for k, values in changes.items():
            doing.change(rows[k], **values)
    return doing


@rehearsed
def replace_line(road: Road, user: User, *, revision: int, pis: list[dict[str, float]], label: str = "") -> tuple[Act, list[str]]:
    """Other PIs for the whole line. PVIs that hung on a tangent point are kept where they are, and told."""
    with act(road.project, user, label or f"Replace the line of {road.name}") as doing:
        doing.change(road, revision=revision)
        stations = stations_of(road)
        kept = []
        for row in RoadPI.present.filter(road=road):
            kept += let_go_of(doing, row, stations)
            doing.remove(row)
        for i, values in enumerate(pis):
            doing.create(RoadPI(road=road, position=2.0 * i, **values))
        told = _moved(road, stations)
    return doing, kept + told


def let_go_of(doing: Act, row: RoadPI, stations: Stations) -> list[str]:
    """PVIs and ranges that hang on a PI's curve are held by their chainage from now on."""
    told = []
    for v in Variation.present.filter(road=row.road):
        for name in ("start", "end"):
            if getattr(v, name).get("pi_id") != row.pk:
                continue
            station = stations.get(
                (v.pk, name), row.road.start_station
            )  # of one that had lost its curve already nothing is known
            held: dict[str, Any] = {name: {"anchor": "station", "station": station}}
            doing.change(v, **held)
            word = "began" if name == "start" else "ended"
            told.append(f"A range that {word} at a tangent point is now held by its chainage {format_station(station)}.")
    for pvi in RoadPVI.present.filter(anchor_pi=row):
        if pvi.pk not in stations:  # it had lost its curve already, in a profile that is not in use
            doing.remove(pvi)
            told.append("A PVI of a profile not in use, whose curve was gone before, is deleted.")
            continue
        doing.change(pvi, anchor="station", station=stations[pvi.pk], anchor_pi_id=None, tangent_point="", ahead=0.0)
        told.append(f"A PVI that hung on a tangent point is now held by its chainage {format_station(stations[pvi.pk])}.")
    return told


def _pi(road: Road, pi_id: int) -> tuple[RoadPI, int]:
    for number, row in enumerate(RoadPI.present.filter(road=road), 1):
        if row.pk == pi_id:
            return row, number
    raise NotThere("no-such-pi", "This PI is no longer there; somebody deleted it. Undo brings it back if it was you.")


def _not_held(row: RoadPI, number: int) -> None:
    if row.held:
        raise BadValue("pi-held", f"PI {number} is held. Let it go before you change it.")


def _straight_is_held(number: int) -> BadValue:
    return BadValue(
        "straight-held",
        f"The straight from PI {number} to PI {number + 1} is held. Let it go before you change what it lies between.",
    )


def stations_of(road: Road) -> Stations:
    """Station of every PVI now, by id, those of profiles not in use too, and of the ends of ranges, by id and "start" or "end"; without
    those that cannot be placed."""
    inputs = assemble_road(road)
    try:
        line = line_of(inputs)
    except IvoryRidgeError:
        return {}
    index = {pk: i for i, (pk, _) in enumerate(inputs.pi_rows) if pk}
    ends: list[tuple[Any, Held]] = [(r.pk, pvi_from_row(r, index)) for r in RoadPVI.present.filter(road=road)]
    ends += [((v.id, name), getattr(v, name)) for v in inputs.varied for name in ("start", "end")]
    out: Stations = {}
    for key, held in ends:
        try:
            out[key] = resolve_station(held, line)
        except InputError:
            continue
    return out


def _moved(road: Road, before: Stations) -> list[str]:
    """Which PVIs changed their station with the line. Raises what keeps line or levels from being computed."""
    inputs = assemble_road(road)
    if len(inputs.pis) < 2:
        return []
    line_of(inputs)
    if not inputs.pvis:
        return []
    levels = levels_of(inputs)
    told = []
    for number, (row, pvi) in enumerate(zip(levels.rows, levels.pvis, strict=True), 1):
        was = before.get(row.id)
        if was is not None and abs(was - pvi.station) > _MOVED:
            held = {"start": "the start", "end": "the end", "place": "its place", "tangent": f"its {row.tangent_point}"}.get(
                row.anchor, ""
            )
            told.append(
                f"PVI {number} kept {held}: {format_station(was, decimals=2)} → {format_station(pvi.station, decimals=2)}."
            )
    return told
