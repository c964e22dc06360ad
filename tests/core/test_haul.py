"""The plan of haul by scipy's assignment of single cubic metres, another algorithm for the same question."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.optimize import linear_sum_assignment

from ivoryridge.core.earthwork.haul_plan import Place, Stretch, haul_plan
from ivoryridge.core.errors import InputError

_NEVER = 1e7


def by_cubic_metres(
    stretches: list[Stretch], pits: list[Place], tips: list[Place], free: float, rate: float
) -> tuple[float | None, float, float]:
    """Cost, borrowed and tipped with every m3 a piece of its own (limits given, factor 1); None where one stays without a way."""
    rows = [(s.middle, 0.0, "cut") for s in stretches for _ in range(int(s.cut))]
    rows += [(p.station, p.cost, "pit") for p in pits for _ in range(int(p.limit or 0))]
    columns = [(s.middle, 0.0, "fill") for s in stretches for _ in range(int(s.fill))]
    columns += [(t.station, t.cost, "tip") for t in tips for _ in range(int(t.limit or 0))]
    spare = [(0.0, 0.0, "none")]
    rows, columns = rows + spare * len(columns), columns + spare * len(rows)
    cost = np.empty((len(rows), len(columns)))
    for i, (s, dig, what) in enumerate(rows):
        for j, (t, tip, where) in enumerate(columns):
            if what == "none" or where == "none":
                cost[i, j] = 0.0 if {what, where} <= {"none", "pit", "tip"} else _NEVER
            else:
                cost[i, j] = _NEVER if (what, where) == ("pit", "tip") else dig + tip + rate * max(abs(s - t) - free, 0.0)
    pairs = list(zip(*linear_sum_assignment(cost), strict=True))
    total = float(sum(cost[i, j] for i, j in pairs))
    borrowed = sum(rows[i][2] == "pit" and columns[j][2] == "fill" for i, j in pairs)
    tipped = sum(rows[i][2] == "cut" and columns[j][2] == "tip" for i, j in pairs)
    return (None if total >= _NEVER else total), borrowed, tipped


def test_random_plans_cost_what_the_assignment_of_cubic_metres_costs_and_are_refused_where_it_finds_no_way() -> None:
    rng = np.random.default_rng(1701)
    outcomes = {True: 0, False: 0}
    for _ in range(60):
        edges = np.cumsum([0, *rng.integers(40, 200, rng.integers(1, 6))])
        stretches = [
            Stretch(float(a), float(b), float(rng.integers(0, 12)), float(rng.integers(0, 12))) for a, b in pairwise(edges)
        ]
        pits, tips = (
            [
                Place(
                    f"{word} {i}", float(rng.uniform(-300, edges[-1] + 300)), float(rng.uniform(0, 5)), float(rng.integers(0, 15))
                )
                for i in range(rng.integers(0, 3))
            ]
            for word in ("pit", "tip")
        )
        free, rate = float(rng.uniform(0, 150)), float(rng.uniform(0.001, 0.02))
        found = haul_plan(stretches, pits, tips, compacted_per_bank=1.0, free_haul=free, haul_cost=rate)
        cost, borrowed, tipped = by_cubic_metres(stretches, pits, tips, free, rate)
        outcomes[cost is not None] += 1
        assert (found is None) == (cost is None)
        if found is None or cost is None:
            continue
        assert found.cost == pytest.approx(cost, abs=1e-6)
        assert sum(found.borrowed.values()) - sum(found.tipped.values()) == pytest.approx(borrowed - tipped, abs=1e-6)
        assert found.moved.sum() == pytest.approx(sum(s.cut for s in stretches) + sum(found.borrowed.values()), abs=1e-6)
        assert (found.moved >= -1e-9).all()
        # a factor asks for so much more bank volume: as if the fill were larger
        swelled = [Stretch(s.start, s.end, s.cut, s.fill * 0.8) for s in stretches]
        same = haul_plan(swelled, pits, tips, compacted_per_bank=0.8, free_haul=free, haul_cost=rate)
        assert same is not None and same.cost == pytest.approx(found.cost, abs=1e-6)
    assert min(outcomes.values()) > 10


def test_nothing_to_move_costs_nothing_and_what_cannot_be_is_told() -> None:
    rest = {"compacted_per_bank": 1.0, "free_haul": 0.0, "haul_cost": 0.01}
    idle = haul_plan([Stretch(0, 100, 0, 0)], [Place("field", 0, 1)], [], **rest)
    assert idle is not None and idle.cost == 0 and idle.borrowed == {"field": 0.0}
    assert haul_plan([Stretch(0, 100, 5, 0)], [Place("field", 0, 1)], [], **rest) is None  # nowhere to bring it
    with pytest.raises(InputError, match=r"fill at 50 is -3\.000"):
        haul_plan([Stretch(0, 100, 0, -3.0)], [], [], **rest)
    with pytest.raises(InputError, match="cut at 50 is nan"):
        haul_plan([Stretch(0, 100, float("nan"), 0)], [], [], **rest)
    with pytest.raises(InputError, match="called field"):
        haul_plan([Stretch(0, 100, 0, 3.0)], [Place("field", 0, 1), Place("field", 9, 1)], [], **rest)
    with pytest.raises(InputError, match="1 m³ bank is 0"):
        haul_plan([Stretch(0, 100, 1, 1)], [], [], **{**rest, "compacted_per_bank": 0.0})
