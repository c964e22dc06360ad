"""The cheapest way to bring cut and borrow to fill and tips: a transport problem as a linear programme, solved by scipy's HiGHS.

Derived; docs/formulas.md#haul-plans.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linprog

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["HaulPlan", "Place", "Stretch", "haul_plan"]


@dataclass(frozen=True, slots=True)
class Stretch:
    """A piece of road from a station to another, m, with its cut (m3 bank) and fill (m3 compacted), both taken at its middle."""

    start: float
    end: float
    cut: float
    fill: float

    @property
    def middle(self) -> float:
        return (self.start + self.end) / 2


@dataclass(frozen=True, slots=True)
class Place:
    """A borrow pit or a tip beside the road: station m, cost of digging or tipping per m3 bank, and most it gives or takes, m3 bank;
    None for no limit."""

    name: str
    station: float
    cost: float
    limit: float | None = None


@dataclass(frozen=True, slots=True, eq=False)
class HaulPlan:
    """``cost`` in all; ``moved`` m3 bank, rows the stretches with cut and then the pits, columns those with fill and then the tips;
    what each pit gives and each tip takes, m3 bank."""

    cost: float
    moved: Floats
    borrowed: dict[str, float]
    tipped: dict[str, float]


def haul_plan(
    stretches: Sequence[Stretch],
    pits: Sequence[Place],
    tips: Sequence[Place],
    *,
    compacted_per_bank: float,
    free_haul: float,
    haul_cost: float,
) -> HaulPlan | None:
    """All cut goes to fill or to a tip, all fill is met, nothing goes from a pit to a tip. ``haul_cost`` per m3 bank and metre beyond
    ``free_haul``, m along the road. None where limits leave no way. Raises ``haul-input`` for volumes, costs, limits or a free haul
    under 0, and a factor that is not over 0; ``haul-name`` for two pits or two tips of one name."""
    _check(stretches, pits, tips, compacted_per_bank, free_haul, haul_cost)
    cuts, fills = [s for s in stretches if s.cut > 0], [s for s in stretches if s.fill > 0]
    sources = np.array([*(s.middle for s in cuts), *(p.station for p in pits)], float)
    goals = np.array([*(s.middle for s in fills), *(t.station for t in tips)], float)
    names = (tuple(p.name for p in pits), tuple(t.name for t in tips))
    rows, columns = len(sources), len(goals)
    if not cuts and not fills:
        return _plan(0.0, np.zeros((rows, columns)), names)
    if not rows or not columns:
        return None
    each = haul_cost * np.maximum(np.abs(sources[:, None] - goals) - free_haul, 0.0)
    each[len(cuts) :] += np.array([p.cost for p in pits])[:, None]
    each[:, len(fills) :] += np.array([t.cost for t in tips])
    open_ways = np.ones((rows, columns), bool)
    open_ways[len(cuts) :, len(fills) :] = False
    from_each, to_each = np.kron(np.eye(rows), np.ones(columns)), np.kron(np.ones(rows), np.eye(columns))
    given = np.array([s.cut for s in cuts])
    wanted = np.array([s.fill / compacted_per_bank for s in fills])
    limits = np.array([np.inf if p.limit is None else p.limit for p in (*pits, *tips)])
    at_most = np.vstack([from_each[len(cuts) :], to_each[len(fills) :]])
    bounded = np.isfinite(limits)
    found = linprog(
        each.ravel(),
        A_ub=at_most[bounded] if bounded.any() else None,
        b_ub=limits[bounded] if bounded.any() else None,
        A_eq=np.vstack([from_each[: len(cuts)], to_each[: len(fills)]]),
        b_eq=np.concatenate([given, wanted]),
        bounds=[(0, None) if way else (0, 0) for way in open_ways.ravel()],
        method="highs",
    )
    if found.status == 2:
        return None
    if found.status != 0:  # pragma: no cover - neither unbounded nor without an end: costs are not under 0
        raise RuntimeError(found.message)
    return _plan(float(found.fun), found.x.reshape(rows, columns), names)


def _plan(cost: float, moved: Floats, names: tuple[tuple[str, ...], tuple[str, ...]]) -> HaulPlan:
    pits, tips = names
    given, taken = moved[len(moved) - len(pits) :].sum(axis=1), moved[:, moved.shape[1] - len(tips) :].sum(axis=0)
    return HaulPlan(
        cost,
        moved,
        {n: float(v) for n, v in zip(pits, given, strict=True)},
        {n: float(v) for n, v in zip(tips, taken, strict=True)},
    )


def _check(
    stretches: Sequence[Stretch], pits: Sequence[Place], tips: Sequence[Place], factor: float, free_haul: float, haul_cost: float
) -> None:
    places = (*pits, *tips)
    for what, value in (
        *((f"cut at {s.middle:.0f}", s.cut) for s in stretches),
        *((f"fill at {s.middle:.0f}", s.fill) for s in stretches),
        *((f"cost of {p.name}", p.cost) for p in places),
        *((f"limit of {p.name}", p.limit or 0.0) for p in places),
        ("free haul", free_haul),
        ("cost of hauling", haul_cost),
    ):
        if not value >= 0:
            raise InputError("haul-input", what=what, value=value)
    for names in ([p.name for p in pits], [t.name for t in tips]):
        twice = next((n for n in names if names.count(n) > 1), None)
        if twice is not None:
            raise InputError("haul-name", name=twice)
    if not factor > 0:
        raise InputError("haul-input", what="compacted volume of 1 m³ bank", value=factor)
