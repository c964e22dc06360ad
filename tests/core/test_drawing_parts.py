"""From the drawing to the data: loops that are clicked into, rules that follow from where a node is put, numbers of a dragged node."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.section.edit_part import changed, empty_part
from ivoryridge.core.section.library import library_part, library_parts
from ivoryridge.core.section.loops import crosses_itself, loop_at
from ivoryridge.core.section.part import START, part_from_dict
from ivoryridge.core.section.place_node import moved_node, rule_for
from ivoryridge.core.section.solve import solve_side
from ivoryridge.core.section.template import PlacedPart, place_part

Row = tuple[float, float]


def places_of(placed: PlacedPart) -> dict[str, Row]:
    """Where its nodes lie from (0, 0), over ground at -2 m."""
    ground = np.array([[-5.0, 400.0]]), np.array([[-2.0, -2.0]])
    side = solve_side((placed,), [0.0], ground)
    return {
        n.split(".")[-1]: (float(side.across[i, 0]), float(side.level[i, 0]))
        for i, n in enumerate(side.names)
        if side.present[i, 0]
    }


def inside(loop: list[Row]) -> Row:
    import shapely

    at = shapely.Polygon(loop).representative_point()
    return (at.x, at.y)


@pytest.mark.parametrize("name", [n for n in library_parts() if library_part(n).areas or library_part(n).layers])
def test_a_click_into_any_area_of_the_library_finds_a_loop_no_larger_than_it(name: str) -> None:
    """Every area of every part, its own left out: the loop that is found goes round the place, and is that area or lies within it."""
    import shapely

    part = library_part(name)
    placed = PlacedPart("p", place_part("p", part, {}, {}).part, {}, {t.name: -1.0 for t in part.targets})
    at = places_of(placed)
    looked = 0
    for area in placed.part.areas:
        loop = [at[n] for n in area.nodes if n in at]
        if len(loop) != len(area.nodes) or shapely.Polygon(loop).area < 1e-6:
            continue
        point = inside(loop)
        found = loop_at(placed.part, at, point)
        assert found is not None, area.name
        shape = shapely.Polygon([at[n] for n in found])
        assert shape.contains(shapely.Point(point)) and shape.area <= shapely.Polygon(loop).area + 1e-9, (area.name, found)
        looked += 1
    assert looked or name in ("wall_in_cut",)


def drawn(*nodes: tuple[str, str, Row], runs: list[list[str]]) -> tuple[Any, dict[str, Row]]:
    rows = [{"name": n, "rule": {"kind": "across_and_up", "from": s, "across": abs(x), "up": abs(y), "sense": "rise" if y > 0 else "fall"}}
            for n, s, (x, y) in nodes]  # fmt: skip
    data = {**empty_part("D"), "nodes": rows, "end": nodes[-1][0], "runs": [{"nodes": r, "roles": []} for r in runs]}
    part = part_from_dict(data)
    return part, places_of(PlacedPart("p", part))


def test_a_loop_of_edges_alone_goes_before_one_that_a_straight_line_would_close() -> None:
    part, at = drawn(("a", START, (2, 0)), ("b", "a", (0, -1)), ("c", START, (0, -1)), runs=[[START, "a", "b", "c"]])
    for point in ((0.2, -0.2), (1.8, -0.8), (1.0, -0.5)):  # on either side of both diagonals
        assert set(loop_at(part, at, point) or ()) == {START, "a", "b", "c"}
    assert loop_at(part, at, (5.0, 0.0)) is None


def test_an_open_row_of_nodes_is_closed_by_a_straight_line() -> None:
    part, at = drawn(("a", START, (1, -1)), ("b", "a", (1, 1)), runs=[[START, "a", "b"]])
    assert set(loop_at(part, at, (1.0, -0.4)) or ()) == {START, "a", "b"}


def test_the_smaller_of_two_loops_within_one_another_is_taken() -> None:
    part, at = drawn(
        ("a", START, (4, 0)), ("b", "a", (0, -3)), ("c", START, (0, -3)), ("m", START, (2, 0)), ("n", "m", (0, -3)),
        runs=[[START, "m", "a", "b", "n", "c", START], ["m", "n"]],
    )  # fmt: skip
    assert set(loop_at(part, at, (0.5, -1)) or ()) == {START, "m", "n", "c"}
    assert set(loop_at(part, at, (3.5, -1)) or ()) == {"m", "a", "b", "n"}


def test_a_loop_that_crosses_itself_is_seen_and_one_with_nodes_on_one_another_is_not() -> None:
    square = {"a": (0.0, 0.0), "b": (1.0, 0.0), "c": (1.0, 1.0), "d": (0.0, 1.0), "e": (1.0, 0.0)}
    assert crosses_itself(("a", "c", "b", "d"), square)
    assert not crosses_itself(("a", "b", "c", "d"), square) and not crosses_itself(("a", "b", "e", "c", "d"), square)
    assert not crosses_itself(("a", "c", "b", "gone"), square)


# --- a node put into the drawing ------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("across", "up", "kind", "slots"),
    [
        (3.23, -0.098, "across_at_slope", {"across": 3.25, "slope": "3 %", "sense": "fall", "way": "outward"}),
        (2.0, 0.0, "across_at_slope", {"across": 2.0, "slope": "0 %"}),
        (-1.02, -0.02, "across_at_slope", {"across": 1.0, "way": "inward", "slope": "2 %"}),
        (3.0, -1.52, "slope_until_level", {"slope": "1 in 2", "change": 1.5, "sense": "fall"}),
        (1.0, 1.98, "slope_until_level", {"slope": "1 in 0.5", "change": 2.0, "sense": "rise"}),
        (0.005, -0.284, "across_and_up", {"across": 0.0, "up": 0.28, "sense": "fall"}),
        (0.12, 0.43, "across_and_up", {"across": 0.12, "up": 0.43, "sense": "rise"}),
    ],
)  # fmt: skip
def test_the_rule_of_a_node_follows_from_where_it_is_put(across: float, up: float, kind: str, slots: dict[str, Any]) -> None:
    rule = rule_for(START, across, up, on_ground=False)
    assert rule["kind"] == kind and {k: rule[k] for k in slots} == slots


def test_a_node_put_on_the_ground_looks_for_it_and_equal_heights_are_taken_as_meant() -> None:
    rule = rule_for("a", 4.1, -2.0, on_ground=True)
    assert (rule["kind"], rule["slope"], rule["crossing"]) == ("slope_until_surface", "1 in 2", "first")
    beside = [{"rule": {"kind": "across_and_up", "from": START, "across": 0.0, "up": 0.28, "sense": "fall"}}]
    assert rule_for("a", 0.0, -0.25, on_ground=False, beside=beside)["up"] == 0.28
    assert rule_for("a", 0.0, -0.35, on_ground=False, beside=beside)["up"] == 0.35


@pytest.mark.parametrize("seed", range(8))
def test_a_node_put_anywhere_lies_there_to_within_what_a_person_would_type(seed: int) -> None:
    """40 random places each: the rule found, solved, lies within its rounding of the place."""
    rng = np.random.default_rng(seed)
    for _ in range(40):
        across, up = float(rng.uniform(-4, 8)), float(rng.uniform(-4, 4))
        data = changed(empty_part("P"), [{"do": "add node", "since": START, "by": [across, up]}])
        x, y = places_of(PlacedPart("p", part_from_dict(data)))["n1"]
        flat = abs(up) < 0.5 * abs(across)  # then its width is what is rounded, else its height; the slope to quarters of n
        assert abs(y - up) < 0.04 + 0.06 * abs(up) if not flat else abs(x - across) < 0.03 + 0.16 * abs(across), (
            across,
            up,
            data["nodes"],
        )


# --- a node dragged -------------------------------------------------------------------------------------------
def test_a_drag_moves_the_parameter_that_stands_alone_in_a_slot_and_leaves_formulas() -> None:
    part = library_part("verge")
    by, values = {p.name: p for p in part.parameters}, {p.name: p.value for p in part.parameters}
    moved = moved_node(part.nodes[0], 3.4, -0.1, 0.0, by, values, (0.0, 0.0))
    assert moved.values["width"] == pytest.approx(3.4) and not moved.slots
    channel = library_part("channel")
    names = {p.name: p for p in channel.parameters}
    low = next(n for n in channel.nodes if n.name == "channel_low")  # width/2 across: no number of its own
    moved = moved_node(low, 0.5, -0.09, 0.0, names, {p.name: p.value for p in channel.parameters}, (0.0, 0.0))
    assert moved.values == {"depth": pytest.approx(0.09)} and not moved.slots


def test_a_drag_stays_within_the_limits_of_a_parameter() -> None:
    part = library_part("verge")
    by, values = {p.name: p for p in part.parameters}, {p.name: p.value for p in part.parameters}
    assert moved_node(part.nodes[0], 90.0, -0.1, 0.0, by, values, (0.0, 0.0)).values["width"] == 20.0
