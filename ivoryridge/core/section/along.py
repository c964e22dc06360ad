"""What changes along a road where a part's case changes: values that run out towards the change, and steps that are evened.

Both follow from the cases that the road's own sections take, so that a section anywhere between them gives the same.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .part import Along
from .template import PlacedPart

Floats = NDArray[np.float64]
Overrides = dict[str, dict[str, Any]]

__all__ = ["Alongs", "SideAlong", "alongs_of_side", "has_alongs"]


@dataclass(frozen=True, slots=True, eq=False)
class SideAlong:
    """One change of a part along the road. ``over``: length, m.

    run out : ``rows`` (m, 2) are the stations between which the cases hold, infinite where no other case bounds them
    even : ``rows`` (m, 2) are the station from which a value counts (the first -inf) and that value
    """

    part: str
    what: Along
    over: float
    rows: Floats

    def at(self, station: Floats, placed: PlacedPart, given: Mapping[str, Any]) -> dict[str, Any]:
        """Values (n,) of the parameters at stations (n,) m. ``given``: those that vary otherwise; they run out too, and are not evened."""
        s = np.asarray(station, float)
        if self.what.kind == "even":
            return {} if set(self.what.values) & set(given) else dict.fromkeys(self.what.values, self._evened(s))
        share = np.zeros(s.shape)
        for first, last in self.rows:
            share = np.maximum(share, np.clip(np.minimum(s - first, last - s) / self.over, 0.0, 1.0))
        return {name: given.get(name, float(placed.value(name))) * share for name in self.what.values}

    def within(self, first: float, last: float) -> SideAlong:
        """The same between two stations, m, without the rows that count nowhere there."""
        a, b = first - self.over, last + self.over
        if self.what.kind == "even":
            before = max(int(np.searchsorted(self.rows[:, 0], a, side="right")) - 1, 0)
            rows = self.rows[before : max(int(np.searchsorted(self.rows[:, 0], b)), before + 1)].copy()
            rows[0, 0] = -np.inf
            return replace(self, rows=rows)
        rows = self.rows[(self.rows[:, 1] > first) & (self.rows[:, 0] < last)]
        ends = np.where(rows < a, -np.inf, np.where(rows > b, np.inf, rows))
        return replace(self, rows=ends)

    def _evened(self, s: Floats) -> Floats:
        """The mean over the length round each station: from one value to the next on a straight line."""
        breaks, values = self.rows[1:, 0], self.rows[:, 1]
        if not len(breaks):
            return np.full(s.shape, values[0])
        anchors = np.concatenate([[breaks[0] - 1.0], breaks, [breaks[-1] + 1.0]])
        total = np.concatenate([[0.0], np.cumsum(np.diff(anchors) * values)])

        def integral(x: Floats) -> Floats:
            inside = np.interp(x, anchors, total)
            return inside + np.minimum(x - anchors[0], 0.0) * values[0] + np.maximum(x - anchors[-1], 0.0) * values[-1]

        half = self.over / 2
        return (integral(s + half) - integral(s - half)) / self.over


@dataclass(frozen=True, slots=True, eq=False)
class Alongs:
    """What changes along a stretch on its left and right."""

    left: tuple[SideAlong, ...] = field(default=())
    right: tuple[SideAlong, ...] = field(default=())

    def overrides(
        self, side: str, station: Any, parts: Sequence[PlacedPart], given: Mapping[str, Mapping[str, Any]]
    ) -> Overrides:
        """Part -> parameter -> values (n,) at stations (n,) m; ``given``: those that vary otherwise."""
        by = {p.id: p for p in parts}
        out: Overrides = {}
        for change in self.left if side == "left" else self.right:
            found = change.at(np.asarray(station, float), by[change.part], given.get(change.part, {}))
            out.setdefault(change.part, {}).update(found)
        return out

    def within(self, first: float, last: float) -> Alongs:
        """What counts between two stations, m: changes that lie elsewhere are left out."""
        return Alongs(*(tuple(c.within(first, last) for c in side) for side in (self.left, self.right)))


def has_alongs(parts: Sequence[PlacedPart]) -> bool:
    """Whether anything of these parts changes along the road."""
    return any(float(p.value(a.over)) > 0 for p in parts for a in p.part.along)


def alongs_of_side(
    parts: Sequence[PlacedPart], case_of: Mapping[str, tuple[NDArray[np.int64], tuple[str, ...]]], station: Any
) -> tuple[SideAlong, ...]:
    """From the cases that the road's own sections take at stations (n,) m, increasing; a change lies midway between two sections.
    ``case_of`` as in ``SideColumns``."""
    s = np.asarray(station, float)
    out = []
    for placed in parts:
        if placed.id not in case_of:
            continue
        taken, names = case_of[placed.id]
        for what in placed.part.along:
            over = float(placed.value(what.over))
            if over > 0:
                rows = _stretches(what, taken, names, s) if what.kind == "run out" else _steps(what, taken, names, s, placed)
                out.append(SideAlong(placed.id, what, over, rows))
    return tuple(out)


def _runs(key: NDArray[Any], s: Floats) -> list[tuple[float, float, Any]]:
    """Runs of equal keys: from and to, midway between sections, infinite at the ends; and the key."""
    cut = np.flatnonzero(key[1:] != key[:-1])
    middle = (s[cut] + s[cut + 1]) / 2
    ends = [-np.inf, *middle, np.inf]
    return [(a, b, key[0 if i == 0 else cut[i - 1] + 1]) for i, (a, b) in enumerate(pairwise(ends))]


def _stretches(what: Along, taken: NDArray[np.int64], names: Sequence[str], s: Floats) -> Floats:
    wanted = [names.index(c) for c in what.cases]
    known = taken >= 0  # where no case could be chosen nothing is known of a change
    rows = [(a, b) for a, b, inside in _runs(np.isin(taken[known], wanted), s[known]) if inside] if known.any() else []
    return np.array(rows, float).reshape(-1, 2)


def _steps(what: Along, taken: NDArray[np.int64], names: Sequence[str], s: Floats, placed: PlacedPart) -> Floats:
    by = {names.index(c): float(placed.value(v)) for c, v in zip(what.cases, what.values, strict=True)}
    known = np.isin(taken, list(by))
    if not known.any():
        return np.array([[-np.inf, next(iter(by.values()))]])
    values = np.array([by[int(k)] for k in taken[known]])
    return np.array([(a, v) for a, _, v in _runs(values, s[known])], float)
