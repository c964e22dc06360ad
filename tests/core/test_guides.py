"""Guide lines and their crossings: numpy solves the same two equations; parents, circles and what is incomplete."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ivoryridge.core.alignment.guides import GuideLine, crossings_of, resolve_guides
from ivoryridge.core.errors import InputError

stations, levels, grades = st.floats(0, 10_000), st.floats(-50, 3000), st.floats(-0.3, 0.3)


@given(stations, levels, grades, stations, levels, grades)
def test_a_crossing_is_where_both_lines_have_one_level(s1: float, z1: float, g1: float, s2: float, z2: float, g2: float) -> None:
    lines = [GuideLine("A", s1, z1, g1), GuideLine("B", s2, z2, g2)]
    found = [c for c in crossings_of(lines, 0, 10_000) if c[1]]
    if abs(g1 - g2) < 1e-6:
        return  # nearly parallel: how far off they cross is a matter of rounding
    station, level = np.linalg.solve([[-g1, 1], [-g2, 1]], [z1 - g1 * s1, z2 - g2 * s2])
    if not 1e-3 < station < 10_000 - 1e-3:
        return
    ((_, _, s, z),) = found
    assert s == pytest.approx(station, abs=1e-5) and z == pytest.approx(level, abs=1e-5)
    assert lines[0].at(s) == pytest.approx(lines[1].at(s), abs=1e-7)


def test_parallels_follow_their_parent_and_the_designs_own_grades() -> None:
    rows: list[dict[str, Any]] = [
        {"id": "A", "kind": "points", "first": [100, 50], "second": [300, 54]},
        {"id": "B", "kind": "parallel", "of": "A", "rise": -1.5},
        {"id": "C", "kind": "parallel", "of": "B", "rise": 0.25},
        {"id": "D", "kind": "parallel", "of": "after-7", "rise": 1.0},
    ]
    lines = resolve_guides(rows, {"after-7": GuideLine("after-7", 0, 10, 0.03)})
    assert lines["A"].grade == pytest.approx(0.02) and lines["C"].at(100) == pytest.approx(48.75)
    assert lines["D"].at(100) == pytest.approx(14.0) and set(lines) == set("ABCD")
    assert not [c for c in crossings_of([lines["A"], lines["C"]], 0, 1000) if c[1]]  # parallels never cross


@pytest.mark.parametrize(
    ("rows", "told"),
    [
        ([{"id": "A", "kind": "points", "first": [100, 50], "second": [100, 54]}], "would be upright"),
        (
            [{"id": "A", "kind": "parallel", "of": "B", "rise": 1}, {"id": "B", "kind": "parallel", "of": "A", "rise": 1}],
            "parallel to itself",
        ),
        ([{"id": "A", "kind": "parallel", "of": "Z", "rise": 1}], "is not there"),
        ([{"id": "A", "kind": "grade", "station": 1, "level": 2}], "not complete"),
        ([{"id": "A", "kind": "grade", "station": 1, "level": 2, "grade": 0}] * 2, "same name"),
    ],
)
def test_guides_that_cannot_be_are_refused_in_words(rows: list[dict[str, Any]], told: str) -> None:
    with pytest.raises(InputError) as refused:
        resolve_guides(rows)
    assert told in refused.value.sentence


def test_guides_with_ends_cross_only_where_both_run_and_join_at_the_ends() -> None:
    """A profile of three grades laid 0.24 m lower: neighbours meet under its PVIs, and no other two cross."""
    pvis = [(0.0, 54.0), (400.0, 50.0), (700.0, 59.0), (1000.0, 53.0)]
    rows: list[dict[str, Any]] = [
        {"id": f"P{i}", "kind": "grade", "station": s, "level": z - 0.24, "grade": (t - z) / (u - s), "within": [s, u]}
        for i, ((s, z), (u, t)) in enumerate(itertools.pairwise(pvis))
    ]
    lines = list(resolve_guides(rows).values())
    inner = [c for c in crossings_of(lines, 0, 1000) if c[1]]
    assert [(a, b) for a, b, *_ in inner] == [("P0", "P1"), ("P1", "P2")]
    assert [c[2:] for c in inner] == [pytest.approx((s, z - 0.24)) for s, z in pvis[1:3]]
    through = resolve_guides([*rows, {"id": "A", "kind": "points", "first": [0, 40], "second": [1000, 70]}])
    met = [c[2] for c in crossings_of(list(through.values()), 0, 1000) if "A" in c[:2] and c[1]]
    level = np.interp(met, [s for s, _ in pvis], [z - 0.24 for _, z in pvis])
    assert met and np.allclose(level, [40 + 0.03 * s for s in met])
