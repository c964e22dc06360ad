"""The section solver: crossings, the flexing slope, hinges below ground, cases that change, and what cannot be."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.check import faults_of
from ivoryridge.core.section.formula import evaluate_formula
from ivoryridge.core.section.library import library_part, library_parts
from ivoryridge.core.section.meeting import meet_ground
from ivoryridge.core.section.part import part_from_dict
from ivoryridge.core.section.rules import RULES
from ivoryridge.core.section.solve import solve_side
from ivoryridge.core.section.template import PlacedPart


def ground(*points: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:
    a = np.array(points, float)
    return a[None, :, 0], a[None, :, 1]


KNOB = ground((0, 90), (8, 90), (10, 98), (12, 90), (60, 90))  # flat ground with a knob that a 1 : 2 slope runs through


@pytest.mark.parametrize(("last", "across"), [(False, 9.0), (True, 20.0)])
def test_first_and_last_crossing_at_a_knob(last: bool, across: float) -> None:
    """From (0, 100), 1 : 2 down. The knob's near side 90 + 4 (u - 8) is met at u = 92/9 - ...; flat ground at u = 20."""
    u, z = meet_ground([0], [100], [-0.5], KNOB, limit=40, last=last)
    expected = 20.0 if last else (100 - 90 + 32) / 4.5
    assert_allclose([u[0], z[0]], [expected, 100 - expected / 2], rtol=0, atol=1e-9)
    assert abs(expected - across) < 0.4


def test_nothing_is_met_beyond_the_limit_and_gaps_are_not_bridged() -> None:
    assert np.isnan(meet_ground([0], [100], [-0.5], KNOB, limit=9, last=False)[0][0])
    broken = ground((0, 90), (15, 90), (18, np.nan), (40, np.nan), (60, 90))
    assert np.isnan(meet_ground([0], [100], [-0.5], broken, limit=60, last=False)[0][0])


def test_a_falling_ray_from_below_the_ground_has_not_met_it() -> None:
    """It must first come out through the ground, which is no meeting; then it arrives from above."""
    step = ground((0, 105), (5, 105), (6, 90), (60, 90))
    u, z = meet_ground([0], [100], [-0.5], step, limit=60, last=False)
    assert_allclose([u[0], z[0]], [20, 90], rtol=0, atol=1e-9)


def slopes(fill: float, ground_level: float = 0.0, **values: Any) -> Any:
    """The library's side slopes from a hinge at u = 5 that stands ``fill`` m over level ground."""
    placed = PlacedPart("slope", library_part("side_slopes"), values)
    flat = ground((0, ground_level), (400, ground_level))
    return solve_side((placed,), [ground_level + fill], flat, start_across=5.0)


def places(side: Any) -> dict[str, tuple[float, float]]:
    return {
        n.split(".")[-1]: (float(side.across[i, 0]), float(side.level[i, 0]))
        for i, n in enumerate(side.names)
        if side.present[i, 0] and not side.guide[i]
    }


def test_high_fill_flexes_the_middle_and_keeps_first_and_last() -> None:
    """First 1 m at 1:4 (0.25 m), last 0.5 m high at 1:3 (1.5 m wide); the middle at 1:2 takes the rest."""
    at = places(slopes(4.0))
    assert_allclose(at["fill_upper"], (6.0, 3.75), rtol=0, atol=1e-9)
    assert_allclose(at["toe"], (6.0 + 3.25 * 2 + 1.5, 0.0), rtol=0, atol=1e-9)
    assert_allclose(at["fill_lower"], (6.0 + 6.5, 0.5), rtol=0, atol=1e-9)


def test_low_fill_first_loses_the_middle_then_shortens_the_last_then_the_first() -> None:
    at = places(slopes(0.6))  # 0.25 + 0.35: the last segment is shorter than its 0.5 m
    assert "fill_lower" not in at
    assert_allclose(at["toe"], (6.0 + 0.35 * 3, 0.0), rtol=0, atol=1e-9)
    at = places(slopes(0.15))  # the ground is met within the first segment
    assert "fill_lower" not in at
    assert_allclose(at["toe"], (5.0 + 0.15 * 4, 0.0), rtol=0, atol=1e-9)


def test_fill_grows_without_a_jump() -> None:
    """Continuity through the three regimes: 1 cm more fill never moves the toe by more than 4 cm."""
    toes = [places(slopes(f))["toe"][0] for f in np.arange(0.01, 2.0, 0.01)]
    steps = np.diff(toes)
    assert steps.min() > 0 and steps.max() < 0.0401


def test_cut_has_a_ditch_and_meets_from_below() -> None:
    at = places(slopes(-3.0))
    assert_allclose(at["ditch_in"], (5 + 0.8 * 3, -3.8), rtol=0, atol=1e-9)
    assert_allclose(at["toe"], (5 + 2.4 + 0.6 + 3.8 * 1.75, 0.0), rtol=0, atol=1e-9)


def test_what_is_not_met_is_a_mask_and_never_a_zero() -> None:
    side = slopes(30.0, search=10.0)
    toe = side.names.index("slope.toe")
    assert not side.present[toe, 0] and np.isnan(side.across[toe, 0])
    assert side.unmet["slope.toe"].tolist() == [True]


def test_cases_change_from_station_to_station() -> None:
    placed = PlacedPart("slope", library_part("side_slopes"), {})
    flat = (np.tile([0.0, 400.0], (3, 1)), np.zeros((3, 2)))
    side = solve_side((placed,), [3.0, -3.0, 0.1], flat)
    index, names = side.case_of["slope"]
    assert [names[i] for i in index] == ["full", "cut", "lowest"]
    ditch = side.names.index("slope.ditch_in")
    assert side.present[ditch].tolist() == [False, True, False]


def part(*nodes: dict[str, Any]) -> PlacedPart:
    return PlacedPart("p", part_from_dict({"name": "p", "label": "P", "end": nodes[-1]["name"], "nodes": list(nodes)}))


def node(name: str, kind: str, **slots: Any) -> dict[str, Any]:
    return {"name": name, "rule": {"kind": kind, **slots}}


def test_every_rule_places_its_node() -> None:
    rows = [
        (node("a", "across_at_slope", **{"from": "start"}, across=4, slope=0.025, sense="fall"), (4, 9.9)),
        (node("a", "across_and_up", **{"from": "start"}, across=2, up=0.15, sense="rise"), (2, 10.15)),
        (node("a", "slope_until_level", **{"from": "start"}, slope=0.5, change=2, sense="fall"), (4, 8)),
        (node("a", "angle_and_length", **{"from": "start"}, angle_deg=60, length=2), (1, 10 + np.sqrt(3))),
        (node("a", "slope_until_surface", **{"from": "start"}, slope=0.5, sense="fall", crossing="first"), (20, 0)),
        (node("a", "on_surface", **{"from": "start"}, gap=0.5, sense="rise"), (0, 0.5)),
    ]
    flat = ground((0, 0), (100, 0))
    for rule, expected in rows:
        side = solve_side((part(rule),), [10.0], flat)
        assert_allclose([side.across[1, 0], side.level[1, 0]], expected, rtol=0, atol=1e-9, err_msg=rule["rule"]["kind"])
    far = node("far", "across_and_up", **{"from": "start"}, across=10, up=0, sense="rise")
    halfway = solve_side((part(far, node("b", "part_way", **{"from": "start"}, to="far", share=0.3)),), [10.0], flat)
    assert halfway.across[2, 0] == pytest.approx(3.0)
    crossing = node(
        "b", "crossing", **{"from": "start"}, other="far", slope=0.5, sense="fall", other_slope=0.5, other_sense="rise"
    )
    met = solve_side((part(far, crossing),), [10.0], flat)
    assert_allclose([met.across[2, 0], met.level[2, 0]], [5.0, 7.5], rtol=0, atol=1e-9)
    followed = solve_side(
        (part(node("a", "on_line", **{"from": "start"}, line="kerb")),),
        [10.0, 11.0],
        (np.tile([0.0, 9.0], (2, 1)), np.zeros((2, 2))),
        followed={"kerb": (np.array([3.0, 4.0]), np.array([9.5, np.nan]))},
    )
    assert_allclose(followed.level[1], [9.5, 11.0], rtol=0, atol=0)
    assert set(RULES) == {r["rule"]["kind"] for r, _ in rows} | {"part_way", "crossing", "on_line", "parallel"}


def test_a_node_parallel_to_a_run_lies_under_it_and_under_its_end_carried_on() -> None:
    rows = [node("a", "across_at_slope", **{"from": "start"}, across=4, slope="2.5 %", sense="fall"),
            node("out", "across_and_up", **{"from": "a"}, across=1, up=9, sense="fall"),
            node("under", "parallel", **{"from": "out"}, gap=0.3, sense="fall", run="top")]  # fmt: skip
    data = {"name": "p", "label": "P", "end": "a", "nodes": rows, "runs": [{"name": "top", "nodes": ["start", "a"], "roles": []}]}
    side = solve_side((PlacedPart("p", part_from_dict(data)),), [10.0], ground((0, 0), (9, 0)))
    assert_allclose(side.level[side.index("p.under"), 0], 10 - 5 * 0.025 - 0.3, rtol=0, atol=1e-12)


def test_circles_unknown_nodes_and_wild_expressions_are_refused_in_words() -> None:
    a, b = (
        node("a", "across_and_up", **{"from": "b"}, across=1, up=0, sense="rise"),
        node("b", "across_and_up", **{"from": "a"}, across=1, up=0, sense="rise"),
    )
    with pytest.raises(InputError, match=r"p\.(a, p\.b|b, p\.a).* circle"):
        solve_side((part(a, b),), [0.0], ground((0, 0), (9, 0)))
    with pytest.raises(InputError, match="refers to node nowhere"):
        solve_side(
            (part(node("a", "across_and_up", **{"from": "nowhere"}, across=1, up=0, sense="rise")),),
            [0.0],
            ground((0, 0), (9, 0)),
        )
    for wild in ("__import__('os')", "w.real", "w**9", "(w", "[1]", "w if w else 1"):
        with pytest.raises(InputError):
            evaluate_formula(wild, {"w": 2.0})
    assert evaluate_formula("1/greatest(w, 4) + least(w, 1)", {"w": 2.0}) == pytest.approx(1.25)


def test_library_parts_load_and_their_defaults_lie_within_their_limits() -> None:
    assert {"carriageway", "verge", "side_slopes"} <= set(library_parts())
    for name in library_parts():
        for p in library_part(name).parameters:
            if p.kind == "choice":
                assert p.value in p.choices
            elif p.kind != "structure":
                assert p.least <= p.value <= p.greatest  # type: ignore[operator]
        assert not faults_of(library_part(name)), name
    with pytest.raises(InputError, match="must lie between 2 m and 20 m"):
        PlacedPart("c", library_part("carriageway"), {"lane_width": 1.0})


def test_every_role_of_the_library_is_known_and_a_made_up_one_is_drawn() -> None:
    from ivoryridge.core.section.library import library_part, library_parts
    from ivoryridge.core.section.roles import ROLES, role_named

    used = {node.role for name in library_parts() for node in library_part(name).nodes if node.role}
    assert used <= {r.name for r in ROLES} and len({r.name for r in ROLES}) == len(ROLES)
    assert all(r.screen is None for r in ROLES if r.below) and role_named("a made-up one").screen is not None
