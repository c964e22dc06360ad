"""One template going over into another, and values of parameters over stations."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..section.library import library_parts
from ..section.part import LENGTHS
from ..section.template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["Blend", "ValueLine", "blended", "looks_for_ground", "on_top", "values_at"]


@dataclass(frozen=True, slots=True)
class Blend:
    """How one template goes over into the next over ``length`` m: in a straight line, or by 3t² - 2t³ ("smooth").

    ``lies``: outside the range of the stretch that it belongs to, about its end, or inside.
    """

    length: float
    form: str = "linear"
    lies: str = "outside"


@dataclass(frozen=True, slots=True)
class ValueLine:
    """The value of a part's parameter over stations (m): straight between its rows, even beyond them; ``smooth``: from the first to
    the last by 3t² - 2t³."""

    part: str
    parameter: str
    station: tuple[float, ...]
    value: tuple[float, ...]
    smooth: bool = False

    def at(self, station: Any) -> Floats:
        s = np.asarray(station, float)
        if not self.smooth:
            return np.interp(s, self.station, self.value)
        t = np.clip((s - self.station[0]) / (self.station[-1] - self.station[0]), 0.0, 1.0)
        return np.asarray(self.value[0] + (self.value[-1] - self.value[0]) * t * t * (3 - 2 * t))


def values_at(lines: Iterable[ValueLine], station: Any) -> dict[str, dict[str, Any]]:
    """Part -> parameter -> its values (n,) at stations (n,) m; of several the last counts."""
    out: dict[str, dict[str, Any]] = {}
    for line in lines:
        out.setdefault(line.part, {})[line.parameter] = line.at(station)
    return out


_SMOOTH_PIECES = 32  # straight pieces that stand for a smooth blend where something comes on top of it: within 0.001 of its rise


def on_top(line: ValueLine, others: Sequence[ValueLine], usual: float) -> ValueLine:
    """A line whose values come on top of what ``others`` say of the same parameter, else of ``usual``."""
    below = next((v for v in reversed(others) if (v.part, v.parameter) == (line.part, line.parameter)), None)
    if below is None:
        return replace(line, value=tuple(usual + v for v in line.value))
    own = np.linspace(below.station[0], below.station[-1], _SMOOTH_PIECES + 1) if below.smooth else np.array(below.station)
    s = np.union1d(own, line.station)
    return replace(line, station=tuple(s.tolist()), value=tuple((below.at(s) + line.at(s)).tolist()))


def blended(
    before: Sequence[PlacedPart], after: Sequence[PlacedPart], start: float, end: float, *, form: str = "linear"
) -> tuple[tuple[PlacedPart, ...], tuple[PlacedPart, ...], tuple[ValueLine, ...]]:
    """One side of a template going over into another between two stations, m: the parts of the first half, of the second, and the
    values along both.

    Partners are parts of the same id, else the same part in order from the centre; quantities that both have go from the one's to the
    other's. A part without a partner grows from nothing, or shrinks to it: its lengths and heights, its slopes stay. Words, a partner
    that is another part, and slopes without a partner that look for the ground change in the middle. docs/formulas.md#blends.
    """
    pairs = _partners(before, after)
    first: list[PlacedPart] = []
    second: list[PlacedPart] = []
    lines: list[ValueLine] = []
    smooth = form == "smooth"

    def line(placed: PlacedPart, name: str, a: float, b: float) -> None:
        lines.append(ValueLine(placed.id, name, (start, end), (a, b), smooth))

    for a, b in _in_order(before, after, pairs):
        if a is not None and b is not None:
            b = replace(b, id=a.id)
            first.append(a)
            second.append(b)
            theirs = {p.name: p.kind for p in b.part.parameters}
            for p in a.part.parameters:
                if theirs.get(p.name) != p.kind or p.kind in ("choice", "structure") or a.value(p.name) == b.value(p.name):
                    continue
                line(a, p.name, float(a.value(p.name)), float(b.value(p.name)))
            continue
        alone = a or b
        assert alone is not None
        if looks_for_ground(alone):
            (first if a is not None else second).append(alone)
            continue
        if b is not None and any(x.id == b.id for x in (*before, *first)):
            alone = replace(alone, id=f"{alone.id}'")
        first.append(alone)
        second.append(alone)
        for p in alone.part.parameters:
            if p.kind in LENGTHS:
                full = float(alone.value(p.name))
                line(alone, p.name, full if a is not None else 0.0, 0.0 if a is not None else full)
    return tuple(first), tuple(second), tuple(lines)


def looks_for_ground(placed: PlacedPart) -> bool:
    return any(n.kind == "slope_until_surface" for n in placed.part.nodes)


def _same(a: PlacedPart, b: PlacedPart) -> bool:
    return a.part.name == b.part.name and [p.name for p in a.part.parameters] == [p.name for p in b.part.parameters]


def _partners(before: Sequence[PlacedPart], after: Sequence[PlacedPart]) -> dict[int, int]:
    """Index in the one -> index in the other; never crossing each other."""
    by_id = {i: j for i, a in enumerate(before) for j, b in enumerate(after) if a.id == b.id}
    pairs: dict[int, int] = {}
    for i in sorted(by_id):
        if by_id[i] > max(pairs.values(), default=-1):
            pairs[i] = by_id[i]
    for i, a in enumerate(before):
        if i in pairs:
            continue
        low = max((j for k, j in pairs.items() if k < i), default=-1)
        high = min((j for k, j in pairs.items() if k > i), default=len(after))
        found = next((j for j in range(low + 1, high) if _same(a, after[j])), None)
        if found is not None:
            pairs[i] = found
    return pairs


def _in_order(
    before: Sequence[PlacedPart], after: Sequence[PlacedPart], pairs: Mapping[int, int]
) -> Iterator[tuple[PlacedPart | None, PlacedPart | None]]:
    """All parts of both from the centre outward. Between two pairs those of both keep their own order, and the one that stands nearer
    to the road in the library comes first, so that a blend is the same from either end."""
    usual = {name: k for k, name in enumerate(library_parts())}

    def rank(placed: PlacedPart) -> tuple[int, str, str]:
        return usual.get(placed.part.name, len(usual)), placed.part.name, placed.id

    i = j = 0
    for p, q in [*sorted(pairs.items()), (len(before), len(after))]:
        while i < p or j < q:
            if j >= q or (i < p and rank(before[i]) <= rank(after[j])):
                yield before[i], None
                i += 1
            else:
                yield None, after[j]
                j += 1
        if p < len(before):
            yield before[p], after[q]
        i, j = p + 1, q + 1
