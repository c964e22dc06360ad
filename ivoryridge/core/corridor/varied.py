"""What varies along a road: stretches with templates of their own, blends between them, parameters that are adjusted over a range,
parts that are off, another or one more, and ranges without earthwork; all of it brought to a row of pieces that are built alike.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from ..findings import Finding
from ..section.template import PlacedPart, Template, value_said
from ..tolerances import SAME_STATION
from .blend import Blend, ValueLine, blended, looks_for_ground, on_top

Floats = NDArray[np.float64]
Side = Literal["left", "right"]
SIDES: tuple[Side, Side] = ("left", "right")

__all__ = [
    "SIDES",
    "Adjustment",
    "Bare",
    "Change",
    "Piece",
    "Stretch",
    "pieces_of",
]

SAME_VALUE = 1e-9  # values of a parameter nearer than this are one


@dataclass(frozen=True, slots=True)
class Stretch:
    """A template over a range of stations, m; without ends it goes as far as the road. ``row``: which of a person's it is."""

    template: Template
    station_from: float = -np.inf
    station_to: float = np.inf
    blend_from: Blend | None = None
    blend_to: Blend | None = None
    row: int | None = None


@dataclass(frozen=True, slots=True)
class Adjustment:
    """Another value of a part's parameter over a range. ``rows``: (station m, value), increasing, straight between and even beyond
    them; or a word for a choice. ``more``: the values come on top of what holds there otherwise."""

    side: Side
    part: str
    parameter: str
    station_from: float
    station_to: float
    rows: tuple[tuple[float, float], ...] | str
    row: int | None = None
    more: bool = False


@dataclass(frozen=True, slots=True)
class Change:
    """A part that is "off", has another in its place ("replace"), or comes after it ("add"; after "" it is the first)."""

    side: Side
    do: str
    part: str
    station_from: float
    station_to: float
    placed: PlacedPart | None = None
    row: int | None = None


@dataclass(frozen=True, slots=True)
class Bare:
    """A range without earthwork, e.g. a deck: the road is built, no slopes are, and nothing is cut or filled."""

    station_from: float
    station_to: float
    row: int | None = None


@dataclass(frozen=True, slots=True)
class Piece:
    """A range of a road that is built alike: one template, and values that vary along it; ``bare``: without earthwork."""

    template: Template
    station_from: float = -np.inf
    station_to: float = np.inf
    left: tuple[ValueLine, ...] = ()
    right: tuple[ValueLine, ...] = ()
    bare: bool = False

    def values(self) -> dict[str, tuple[ValueLine, ...]]:
        return {"left": self.left, "right": self.right}


# --- the row of pieces ----------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True)
class _Zone:
    """From one template to another between two stations; one that stays has no other."""

    start: float
    end: float
    template: Template | None
    other: Template | None = None
    form: str = "linear"


def pieces_of(
    base: Template | None,
    start: float,
    end: float,
    stretches: Sequence[Stretch] = (),
    adjustments: Sequence[Adjustment] = (),
    changes: Sequence[Change] = (),
    bare: Sequence[Bare] = (),
) -> tuple[tuple[Piece, ...], tuple[Finding, ...]]:
    """The pieces of a road from ``start`` to ``end`` m, and what is doubtful about what varies.

    ``base`` holds where no stretch does; where neither does nothing is built, which is a finding.

    Raises
    ------
    InputError    ranges that run backward, stretches, blends or adjustments of the same value that overlap, a value outside its limits
    """
    _ranges_run_on([*stretches, *adjustments, *changes, *bare])
    _apart(stretches, "stretches-overlap")
    for same in _groups(adjustments):
        _apart(same, "adjustments-overlap", part=same[0].part, parameter=same[0].parameter)
    zones = _zones(base, start, end, sorted(stretches, key=lambda s: s.station_from))
    breaks = {start, end, *(x for z in zones for x in (z.start, z.end))}
    breaks |= {0.5 * (z.start + z.end) for z in zones if z.other is not None}
    ranges: list[Any] = [*changes, *bare, *adjustments]
    breaks |= {x for r in ranges for x in (r.station_from, r.station_to)}
    inside = sorted(x for x in breaks if start - SAME_STATION <= x <= end + SAME_STATION)
    at = [inside[0], *(b for a, b in itertools.pairwise(inside) if b - a > SAME_STATION)]
    pieces: list[Piece] = []
    awake: set[int | None] = set()
    found: list[Finding] = []
    known: dict[Any, Any] = {}
    for a, b in itertools.pairwise(at):
        middle = 0.5 * (a + b)
        zone = next((z for z in zones if z.start <= middle <= z.end), None)
        if zone is None or zone.template is None:
            found.append(Finding("doubt", "nothing-built", {"start": a, "end": b}, station_from=a, station_to=b))
            continue
        here = [c for c in changes if c.station_from < middle < c.station_to]
        template, values = _template_at(zone, middle, here, awake, known)
        is_bare = any(r.station_from < middle < r.station_to for r in bare)
        if is_bare:
            key = ("bare", id(template))
            template = known.setdefault(key, (template, _without_slopes(template)))[1]
        for x in sorted(adjustments, key=lambda x: x.more):
            if x.station_from < middle < x.station_to:
                template = _adjusted(template, x, values, awake, known)
        pieces.append(Piece(template, a, b, tuple(values["left"]), tuple(values["right"]), is_bare))
    if not pieces:
        raise InputError("nothing-to-build", start=start, end=end)
    return _joined(pieces), (*found, *_asleep([*adjustments, *changes], awake), *_beyond([*stretches, *bare], start, end))


def _ranges_run_on(rows: Sequence[Any]) -> None:
    for r in rows:
        if r.station_to - r.station_from <= SAME_STATION:
            raise InputError("range-backwards", start=r.station_from, end=r.station_to, where={"variation_id": r.row})


def _groups(adjustments: Sequence[Adjustment]) -> Iterator[list[Adjustment]]:
    """Those of the same value; what comes on top of it is apart."""

    def key(a: Adjustment) -> tuple[str, str, str, bool]:
        return a.side, a.part, a.parameter, a.more

    for _, same in itertools.groupby(sorted(adjustments, key=key), key):
        yield list(same)


def _apart(rows: Sequence[Any], code: str, **more: Any) -> None:
    for one, two in itertools.pairwise(sorted(rows, key=lambda r: (r.station_from, r.station_to))):
        overlap = min(one.station_to, two.station_to) - two.station_from
        if overlap > SAME_STATION:
            end = min(one.station_to, two.station_to)
            where = {"variation_id": two.row}
            raise InputError(code, start=two.station_from, end=end, overlap=overlap, where=where, **more)


def _zones(base: Template | None, start: float, end: float, stretches: Sequence[Stretch]) -> list[_Zone]:
    row: list[Stretch | None] = []  # as they follow on each other; None: the road's own template
    ends = [start]
    for s in stretches:
        a, b = max(s.station_from, start), min(s.station_to, end)
        if b - a <= SAME_STATION:
            continue
        if a - ends[-1] > SAME_STATION:
            row.append(None)
            ends.append(a)
        row.append(s)
        ends.append(b)
    if end - ends[-1] > SAME_STATION or not row:
        row.append(None)
        ends.append(end)
    templates = [base if s is None else s.template for s in row]
    zones: list[_Zone] = []
    since = start
    for k, at in enumerate(ends[1:-1]):
        one, two = templates[k], templates[k + 1]
        blend, first, row_id = _blend_between(row[k], row[k + 1], at)
        if blend is None or one is None or two is None or blend.length <= SAME_STATION:
            zones.append(_Zone(since, at, one))
            since = at
            continue
        last, beyond = first + blend.length, ends[k + 2]
        if first < since - SAME_STATION or last > beyond + SAME_STATION:
            there = min(at - since, beyond - at)
            raise InputError("blend-too-long", length=blend.length, at=at, there=there, where={"variation_id": row_id})
        if first - since > SAME_STATION:
            zones.append(_Zone(since, first, one))
        zones.append(_Zone(first, last, one, two, blend.form))
        since = last
    if end - since > SAME_STATION:
        zones.append(_Zone(since, end, templates[-1]))
    return zones


def _blend_between(before: Stretch | None, after: Stretch | None, at: float) -> tuple[Blend | None, float, int | None]:
    """The blend where one stretch ends and the next begins, where it starts, and whose it is."""
    share = {"outside": 1.0, "about": 0.5, "inside": 0.0}  # of it that lies before a beginning, or behind an end
    if after is not None and after.blend_from is not None:
        return after.blend_from, at - share[after.blend_from.lies] * after.blend_from.length, after.row
    if before is not None and before.blend_to is not None:
        return before.blend_to, at - (1.0 - share[before.blend_to.lies]) * before.blend_to.length, before.row
    return None, at, None


def _template_at(
    zone: _Zone, middle: float, changes: Sequence[Change], awake: set[int | None], known: dict[Any, Any]
) -> tuple[Template, dict[str, list[ValueLine]]]:
    def changed(template: Template) -> Template:
        for c in changes:
            key = ("change", id(template), id(c))
            if key not in known:
                known[key] = (template, _with_change(template, c))
            now = known[key][1]
            if now is not template:
                awake.add(c.row)
            template = now
        return template

    assert zone.template is not None
    one = changed(zone.template)
    if zone.other is None:
        return one, {"left": [], "right": []}
    two = changed(zone.other)
    key = ("blend", id(one), id(two), zone.start)
    if key not in known:
        left = blended(one.left, two.left, zone.start, zone.end, form=zone.form)
        right = blended(one.right, two.right, zone.start, zone.end, form=zone.form)
        made = [Template(one.name, left[0], right[0]), Template(two.name, left[1], right[1])]
        halves = known.setdefault(("halves", id(one), id(two)), (one, two, made))[2]  # the same in all blends of these two
        known[key] = (one, two, halves, {"left": list(left[2]), "right": list(right[2])})
    halves, values = known[key][2], known[key][3]
    return halves[0 if middle < 0.5 * (zone.start + zone.end) else 1], {s: list(v) for s, v in values.items()}


def _with_side(template: Template, side: Side, parts: Sequence[PlacedPart]) -> Template:
    if side == "left":
        return replace(template, left=tuple(parts))
    return replace(template, right=tuple(parts))


def _with_change(template: Template, c: Change) -> Template:
    parts = list(template.left if c.side == "left" else template.right)
    at = next((i for i, p in enumerate(parts) if p.id == c.part), -1)
    if at < 0 and not (c.do == "add" and c.part == ""):
        return template
    if c.do == "off":
        del parts[at]
    elif c.placed is not None and c.do == "replace":
        parts[at] = replace(c.placed, id=c.part)
    elif c.placed is not None:
        taken = {p.id for p in parts}
        names = itertools.chain([c.placed.id], (f"{c.placed.id}-{k}" for k in itertools.count(2)))
        own = next(name for name in names if name not in taken)
        parts.insert(at + 1, replace(c.placed, id=own))
    return _with_side(template, c.side, parts)


def _without_slopes(template: Template) -> Template:
    def kept(parts: tuple[PlacedPart, ...]) -> tuple[PlacedPart, ...]:
        return tuple(itertools.takewhile(lambda p: not looks_for_ground(p), parts))

    return replace(template, left=kept(template.left), right=kept(template.right))


def _adjusted(
    template: Template, x: Adjustment, values: dict[str, list[ValueLine]], awake: set[int | None], known: dict[Any, Any]
) -> Template:
    placed = next((p for p in getattr(template, x.side) if p.id == x.part), None)
    parameter = next((p for p in placed.part.parameters if p.name == x.parameter), None) if placed else None
    if placed is None or parameter is None:
        return template
    awake.add(x.row)
    if isinstance(x.rows, str):
        key = ("word", id(template), id(x))
        if key not in known:
            with_word = replace(placed, values={**placed.values, x.parameter: x.rows})
            parts = (with_word if p.id == x.part else p for p in getattr(template, x.side))
            known[key] = (template, _with_side(template, x.side, tuple(parts)))
        return cast(Template, known[key][1])
    line = ValueLine(x.part, x.parameter, tuple(s for s, _ in x.rows), tuple(v for _, v in x.rows))
    if x.more:
        line = on_top(line, values[x.side], float(placed.value(x.parameter)))
    for value in line.value:
        if not parameter.least <= value <= parameter.greatest:
            raise InputError(
                "parameter-out-of-range", label=parameter.label, part=placed.part.label, where={"variation_id": x.row},
                value=value_said(parameter.kind, value), least=value_said(parameter.kind, parameter.least),
                greatest=value_said(parameter.kind, parameter.greatest),
            )  # fmt: skip
    values[x.side].append(line)
    return template


def _joined(pieces: Sequence[Piece]) -> tuple[Piece, ...]:
    """Neighbours with one template whose values run on without a step are one piece: fewer pieces are solved sooner."""
    out = [pieces[0]]
    for p in pieces[1:]:
        q = out[-1]
        if p.template is q.template and p.bare == q.bare and p.station_from == q.station_to:
            left, right = _run_on(q, p, "left"), _run_on(q, p, "right")
            if left is not None and right is not None:
                out[-1] = replace(q, station_to=p.station_to, left=left, right=right)
                continue
        out.append(p)
    return tuple(out)


def _run_on(one: Piece, two: Piece, side: Side) -> tuple[ValueLine, ...] | None:
    """The values of two pieces that meet as one row of lines; None where one of them steps, or is curved in one of them only."""
    first, second = ({(v.part, v.parameter): v for v in p.values()[side]} for p in (one, two))
    parts = {p.id: p for p in (one.template.left if side == "left" else one.template.right)}
    out = []
    for key in {**first, **second}:
        a, b = first.get(key), second.get(key)
        if a == b and a is not None:
            out.append(a)
            continue
        if any(v is not None and v.smooth for v in (a, b)):
            return None
        usual = float(parts[key[0]].value(key[1]))
        rows: list[tuple[float, float]] = []
        for piece, line in ((one, a), (two, b)):
            ends = (piece.station_from, piece.station_to)
            inside = [s for s in (line.station if line else ()) if ends[0] < s < ends[1]]
            own = [(s, float(line.at(s)) if line else usual) for s in (ends[0], *inside, ends[1])]
            if rows and abs(rows[-1][1] - own[0][1]) > SAME_VALUE:
                return None
            rows += own[1:] if rows else own
        out.append(ValueLine(*key, tuple(s for s, _ in rows), tuple(v for _, v in rows)))
    return tuple(out)


def _asleep(rows: Sequence[Any], awake: set[int | None]) -> Iterator[Finding]:
    """Rows that name a part which is nowhere in their range."""
    for row, same in itertools.groupby(sorted(rows, key=lambda r: r.row or 0), lambda r: r.row):
        one = next(same)
        if row not in awake:
            yield Finding(
                "doubt", "row-sleeps", {"start": one.station_from, "end": one.station_to, "part": one.part},
                station_from=one.station_from, station_to=one.station_to,
            )  # fmt: skip


def _beyond(rows: Sequence[Any], start: float, end: float) -> Iterator[Finding]:
    for r in rows:
        if r.station_to <= start + SAME_STATION or r.station_from >= end - SAME_STATION:
            yield Finding(
                "doubt", "row-beyond", {"start": r.station_from, "end": r.station_to, "road_start": start, "road_end": end},
            )  # fmt: skip
