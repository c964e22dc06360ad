"""Parts as people draw them: random ones against a second way of placing, odd ones against sentences, files from elsewhere."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from ivoryridge.core.errors import FormatError, InputError
from ivoryridge.core.section.check import faults_of
from ivoryridge.core.section.edit_part import changed, empty_part
from ivoryridge.core.section.formula import evaluate_formula, in_other_length
from ivoryridge.core.section.library import library_data, library_part, library_parts
from ivoryridge.core.section.missing import missing_nodes
from ivoryridge.core.section.part import part_from_dict
from ivoryridge.core.section.portable import Portable, in_unit, read_portable, write_portable
from ivoryridge.core.section.rules import RULES
from ivoryridge.core.section.solve import solve_side
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.section.trial_ground import passed_by, preset_grounds, try_out
from tests.families.damage import damaged
from tests.families.parts import places_of, random_ground, random_part


def lines(points: Any) -> Any:
    a = np.array(points, float)
    return a[None, :, 0], a[None, :, 1]


def test_random_parts_lie_where_a_second_way_puts_them() -> None:
    """600 parts of 2 to 8 nodes over random ground; every node, and every node that is not placed, against shapely."""
    rng = np.random.default_rng(13)
    nodes = missed = parts = 0
    for _ in range(600):
        data, ground, start = random_part(rng), random_ground(rng), (float(rng.uniform(0, 5)), float(rng.uniform(-3, 6)))
        expected = places_of(data, start, ground)
        if expected is None:
            continue
        placed = PlacedPart("p", part_from_dict(data))
        side = solve_side((placed,), [start[1]], lines(ground), start_across=start[0])
        parts += 1
        for node in data["nodes"]:
            i = side.index(f"p.{node['name']}")
            place = expected[node["name"]]
            assert side.present[i, 0] == (place is not None), (node, data, ground, start)
            if place is not None:
                assert_allclose((side.across[i, 0], side.level[i, 0]), place, rtol=0, atol=1e-6, err_msg=str(node))
            nodes, missed = nodes + 1, missed + (place is None)
    assert parts > 400 and missed > 200 and nodes - missed > 1200


_name = st.sampled_from(["start", "n0", "n1", "n2", "n3", "nowhere"])
_formula = st.one_of(
    st.floats(-3, 9).map(lambda x: round(x, 3)),
    st.sampled_from(["w", "1 in w", "w - w", "1/(w - w)", "30°", "unknown", "if w < 2 then 1 else w", "(w", "root(0 - w)", "1e400", "",
                     "least(w, 3 m)"]),
)  # fmt: skip


@st.composite
def odd_parts(draw: st.DrawFn) -> dict[str, Any]:
    nodes = []
    for i in range(draw(st.integers(1, 4))):
        rule: dict[str, Any] = {"kind": draw(st.sampled_from(sorted(RULES)))}
        for slot in RULES[rule["kind"]].slots:
            words = st.sampled_from([*slot.words, "w"]) if slot.words else st.just("w")
            of = {"node": _name, "word": words, "target": st.sampled_from(["ground", "x"]), "line": st.just("kerb"),
                  "run": st.sampled_from(["finished", "none"])}  # fmt: skip
            rule[slot.name] = draw(of.get(slot.takes, _formula))
        nodes.append({"name": f"n{i}", "rule": rule, "cases": draw(st.sampled_from([[], [], ["cut"], ["fill"]]))})
    case = st.sampled_from(["in_cut", "in_fill", "met", "not_met", "otherwise"])
    cases = [{"name": n, "kind": draw(case), "at": draw(_name)} for n in ("cut", "fill")]
    loop = st.lists(_name, min_size=2, max_size=5)
    return {"name": "o", "label": "Odd", "end": draw(_name), "nodes": nodes, "cases": cases,
            "parameters": [{"name": "w", "label": "W", "kind": "length", "value": 2.0, "least": 0, "greatest": 9}],
            "runs": [{"nodes": draw(loop), "roles": ["finished", "formation"]}],
            "areas": [{"name": "a", "material": "base", "nodes": draw(loop)}]}  # fmt: skip


@settings(max_examples=400, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(data=odd_parts(), up=st.floats(-6, 6))
def test_an_odd_part_is_either_built_or_says_why_not(data: dict[str, Any], up: float) -> None:
    """Circles, unknown names, slopes that never meet, division by nothing, loops that cross: a sentence each, never NaN in silence."""
    try:
        part = part_from_dict(data)
    except InputError as error:
        assert error.sentence
        return
    faults = faults_of(part)
    assert all(len(f.error.sentence) > 15 for f in faults)
    if faults:
        return
    placed = PlacedPart("p", part)
    side = solve_side((placed,), [up], lines([(-5, 0), (8, 0), (10, 2), (12, 0), (90, 1)]))
    why = missing_nodes(placed, side, 0, "start")
    taken, names = side.case_of["p"]
    case = names[taken[0]] if taken[0] >= 0 else ""
    for node in part.nodes:
        i = side.index(f"p.{node.name}")
        if (not node.cases or case in node.cases) and not side.present[i, 0]:
            assert why and all(w.said() for w in why.values())
        if side.present[i, 0]:
            assert np.isfinite(side.across[i, 0]) and np.isfinite(side.level[i, 0])


@pytest.mark.parametrize("name", ["side_slopes", "benched_cut", "kerb", "slope_by_height", "wall_in_fill"])
def test_the_other_side_of_a_mirrored_ground_is_the_same_and_twice_is_as_it_was(name: str) -> None:
    placed = (PlacedPart("p", library_part(name)),)
    for ground in preset_grounds(5.0, 100.0).values():
        there = try_out(Template("t", placed, placed), 100.0, [ground])
        mirrored = [(-u, z) for u, z in reversed(ground)]
        back = try_out(Template("t", placed, placed), 100.0, [mirrored])
        again = try_out(Template("t", placed, placed), 100.0, [[(-u, z) for u, z in reversed(mirrored)]])
        assert_allclose(back.left.across, there.right.across, rtol=0, atol=1e-12)
        assert_allclose(back.right.level, there.left.level, rtol=0, atol=1e-12)
        assert_allclose(again.right.across, there.right.across, rtol=0, atol=0)


def test_first_and_last_crossings_that_differ_are_told_with_how_far() -> None:
    """A falling 1 in 2 from (0, 10) over a knob 8 m high at 10 m: met first at 92/9 m on its near side, last at 20 m."""
    data = {**empty_part("S"), "nodes": [{"name": "toe", "rule": {"kind": "slope_until_surface", "from": "start", "slope": "1 in 2",
            "sense": "fall", "crossing": "last", "within": 40}}], "runs": []}  # fmt: skip
    side = solve_side((PlacedPart("s", part_from_dict(data)),), [10.0], lines(KNOB))
    (found,) = passed_by(side, lines(KNOB), 0)
    assert_allclose([found.first[0], found.last[0]], [(100 - 90 + 32) / 4.5, 20.0], rtol=0, atol=1e-9)
    assert found.takes_last


KNOB = [(0, 0), (8, 0), (10, 8), (12, 0), (60, 0)]


# --- formulas ------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("text", "value"),
    [("1 in 4", 0.25), ("1:4", 0.25), ("2.5 %", 0.025), ("45°", 1.0), ("least(2, 3) + greatest(2, 3)", 5), ("abs(2 - 5)", 3),
     ("if w > 3 then 0.2 else if w = 2 then 7 else 0", 7), ("30 cm", 0.3), ("1 ft", 0.3048), ("root(1 + 1/(w*w))", 1.25**0.5),
     ("-w + 3", 1), ("2*-w", -4), ("1e1", 10)],
)  # fmt: skip
def test_formulas_give_what_they_say(text: str, value: float) -> None:
    assert evaluate_formula(text, {"w": 2.0}) == pytest.approx(value, abs=1e-12)


@pytest.mark.parametrize(
    "text",
    ["", "1,5", "w w", "(w", "w)", "if w then 1 else 2", "if w < 1 then 2", "least(w)", "abs(1, 2)", "__import__('os')", "w.real", "9**9",
     "(" * 30 + "w" + ")" * 30, "1+" * 200 + "1", "unknown", "lambda: 1", "w; w", "2 x w", "½"],
)  # fmt: skip
def test_what_is_no_formula_is_said_in_a_sentence(text: str) -> None:
    with pytest.raises(InputError) as told:
        evaluate_formula(text, {"w": 2.0})
    assert len(told.value.sentence) > 20


def test_numbers_over_stations_and_over_one_give_the_same() -> None:
    text = "if w < s then least(w, 3) else greatest(w/2, 1 in 4) + root(w)"
    w = np.linspace(0.1, 9, 40)
    assert_allclose(evaluate_formula(text, {"w": w, "s": 4.0}), [evaluate_formula(text, {"w": x, "s": 4.0}) for x in w], atol=0)


# --- another unit, another project --------------------------------------------------------------------------
@pytest.mark.parametrize("name", library_parts())
def test_a_part_in_feet_is_the_same_part(name: str) -> None:
    """Its lengths in another unit, solved over the ground in that unit, times the unit again: the same places."""
    k = 1 / 0.3048
    metres, feet = library_data(name), in_unit(library_data(name), k)
    ground = np.array([(-9.0, 0.5), (6, 0.0), (200, 4.0)])
    for level in (4.0, 0.6, -3.0):
        sides = []
        for data, factor in ((metres, 1.0), (feet, k)):
            part = part_from_dict(data)
            placed = PlacedPart("p", part, {}, {t.name: -1.5 * factor for t in part.targets})
            sides.append(solve_side((placed,), [level * factor], lines(ground * factor)))
        assert_allclose(sides[1].across / k, sides[0].across, rtol=0, atol=1e-9)
        assert_allclose(sides[1].level / k, sides[0].level, rtol=0, atol=1e-9)


@given(st.recursive(st.sampled_from(["w", "2", "0.5", "3 m"]), lambda inner: st.one_of(
    st.tuples(inner, st.sampled_from(["+", "-"]), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
    inner.map(lambda t: f"abs({t})"), inner.map(lambda t: f"({t}) * n"), inner.map(lambda t: f"({t}) / n"),
    st.tuples(inner, inner).map(lambda t: f"(if {t[0]} < {t[1]} then {t[0]} else {t[1]})"),
    st.tuples(inner, inner).map(lambda t: f"least({t[0]}, {t[1]})")), max_leaves=5))  # fmt: skip
def test_a_length_formula_in_feet_gives_the_same_length(text: str) -> None:
    if len(text) > 150:
        return
    k = 1 / 0.3048
    feet = in_other_length(text, k, {"w"}, is_length=True)
    here = evaluate_formula(text, {"w": 3.65, "n": 3.0})
    assert evaluate_formula(str(feet).replace("3 m", f"{3 * k} "), {"w": 3.65 * k, "n": 3.0}) == pytest.approx(k * here, rel=1e-6)


def a_file() -> dict[str, Any]:
    own = {**library_data("kerb"), "label": "My kerb"}
    row = {"id": "k", "part": "1", "values": {"upstand": 0.1}}
    template = {"name": "Kerbed", "left": [row], "right": [{"id": "v", "part": "verge", "values": {}}]}
    told = {"1": {"name": "Two", "layers": [{"material": "base", "thickness": 0.2}]}}
    file = Portable({"1": own}, told, [template])
    return json.loads(write_portable(file))


@pytest.mark.parametrize("unit", ["m", "ft", "us-ft"])
def test_parts_travel_in_a_file_and_are_the_same_there(unit: str) -> None:
    there = read_portable(json.dumps(a_file()).encode(), "a.json")
    again = read_portable(write_portable(there, unit), "b.json")
    one, two = (part_from_dict(f.parts["1"]) for f in (there, again))
    for a, b in zip(one.parameters, two.parameters, strict=True):
        assert a.name == b.name and b.value == (pytest.approx(a.value) if not isinstance(a.value, str) else a.value)
    assert again.templates[0]["left"][0]["values"]["upstand"] == pytest.approx(0.1)
    assert again.structures["1"]["layers"][0]["thickness"] == pytest.approx(0.2)


def _part(change: dict[str, Any]) -> Any:
    return lambda f: f["parts"]["1"].update(change)


def _rule(change: dict[str, Any]) -> Any:
    return lambda f: f["parts"]["1"]["nodes"][0]["rule"].update(change)


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda f: f.update(schema=99), "newer"),
        (lambda f: f.pop("schema"), "which schema"),
        (lambda f: f.pop("unit"), "unit"),
        (lambda f: f.update(kind="Something else"), "does not begin"),
        (lambda f: f.update(parts=[1, 2]), "another kind"),
        (_part({"nodes": "none"}), "kind|missing"),
        (_rule({"kind": "run_script"}), "run_script"),
        (_rule({"across": "__import__('os').system('x')"}), "no meaning|does not belong"),
        (_rule({"across": 1e300}), "million"),
        (_rule({"across": -4}), "must not be"),
        (_rule({"from": "kerb_top"}), "circle"),
        (_part({"end": "nowhere"}), "nowhere"),
        (lambda f: f["parts"]["1"]["parameters"][0].update(kind="choice", value="1", choices=["1", "2"]), "begins with a figure"),
        (lambda f: f["parts"]["1"]["parameters"][0].update(value=float("inf")), "no number|Infinity"),
        (lambda f: f["templates"][0]["left"][0].update(part="gone"), "neither in the file nor in the library"),
        (lambda f: f["structures"]["1"]["layers"][0].update(thickness="thick"), "no number below"),
    ],
)  # fmt: skip
def test_a_broken_file_is_refused_in_words(spoil: Any, said: str) -> None:
    file = a_file()
    spoil(file)
    with pytest.raises((FormatError, InputError), match=said):
        read_portable(json.dumps(file).encode(), "parts.json")


def test_no_damage_to_a_file_comes_through_as_anything_but_a_sentence() -> None:
    rng = np.random.default_rng(4)
    good = json.dumps(a_file()).encode()
    refused = 0
    for _ in range(300):
        try:
            read_portable(damaged(good, rng), "parts.json")
        except (FormatError, InputError) as error:
            assert len(error.sentence) > 20
            refused += 1
    assert refused > 200
    with pytest.raises(FormatError):
        read_portable(b'{"a":' * 100_000, "deep.json")


# --- changes of a part ---------------------------------------------------------------------------------------
def test_a_part_grows_step_by_step_and_names_are_kept_in_step() -> None:
    lane = changed(empty_part("Lane"), [
        {"do": "add node", "since": "start", "by": [3.4, -0.102]},
        {"do": "set slot", "node": 0, "slot": "across", "value": "3.40"},
        {"do": "promote", "node": 0, "slot": "across", "name": "width"},
        {"do": "set node", "node": 0, "name": "edge"},
        {"do": "add node", "since": "start", "by": [0, -0.28]},
        {"do": "add node", "since": "edge", "by": [0, -0.28]},
        {"do": "add area", "nodes": ["start", "edge", "n3", "n2"]},
    ])  # fmt: skip
    assert lane["end"] == "edge" and lane["parameters"][0]["value"] == 3.4 and lane["nodes"][0]["rule"]["across"] == "width"
    assert [r["roles"] for r in lane["runs"]] == [["finished"], ["formation"]] and lane["runs"][1]["nodes"] == [
        "n2",
        "n3",
        "edge",
    ]
    side = solve_side((PlacedPart("p", part_from_dict(lane), {"width": 5.0}),), [10.0], lines([(0, 0), (9, 0)]))
    assert side.across[side.index("p.n3"), 0] == 5.0 and not faults_of(part_from_dict(lane))


@pytest.mark.parametrize(
    ("step", "said"),
    [
        ({"do": "remove node", "node": "channel_low"}, "kerb_top"),
        ({"do": "set node", "node": 0, "name": "if"}, "cannot|taken|means|is used"),
        ({"do": "set node", "node": 0, "name": "kerb_top"}, "kerb_top"),
        ({"do": "add area", "nodes": ["start", "kerb_top"]}, "three|closed|nodes"),
        ({"do": "promote", "node": 0, "slot": "across", "name": "channel"}, "only a number"),
        ({"do": "set rule", "node": 0, "kind": "fly"}, "no rule"),
        ({"do": "set slot", "node": 77, "slot": "across", "value": 1}, "not name something"),
        ({"do": "explode"}, "no change called"),
        ({"do": "set slot", "node": 0, "slot": "across", "value": "3,40"}, "point"),
    ],
)  # fmt: skip
def test_a_step_that_does_not_fit_is_said_and_changes_nothing(step: dict[str, Any], said: str) -> None:
    before = json.dumps(library_data("kerb"))
    with pytest.raises(InputError, match=said):
        changed(library_data("kerb"), [step])
    assert json.dumps(library_data("kerb")) == before
