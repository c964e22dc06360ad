"""What varies along a road: pieces from stretches, blends, adjustments and changed parts, against plain Python and closed forms."""

from __future__ import annotations

import itertools
from dataclasses import asdict, replace
from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.crossfall_diagram import TurnedBend, crossfall_diagram
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.blend import Blend, ValueLine, blended
from ivoryridge.core.corridor.block import block_alongs, solve_block, solve_blocks
from ivoryridge.core.corridor.carried_plane import CarriedPlane, Following
from ivoryridge.core.corridor.corridor import compute_corridor, stations_once
from ivoryridge.core.corridor.turning import Crossfall
from ivoryridge.core.corridor.varied import Adjustment, Bare, Change, Piece, Stretch, pieces_of
from ivoryridge.core.earthwork.end_area import compute_areas, compute_volumes
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.library import library_part, library_parts
from ivoryridge.core.section.template import PlacedPart, Template, place_part
from tests.families.sections import Rural, outward, random_rural, side_of, template_of

from .test_corridor import E0, N0, plane

LINE = alignment_from_pis([PI(E0, N0), PI(E0 + 100, N0 + 400, 300, 50, 50), PI(E0 + 420, N0 + 700)])
PROFILE = profile_from_pvis([PVI(0, 101), PVI.symmetric(400, 106, 160), PVI(LINE.end_station, 99)])
GROUND = plane(rise_e=0.03, rise_n=0.005)
END = LINE.end_station
# name of a value of a rural side -> (part, parameter) that holds it
PARAMETERS = {
    "lane": ("carriageway", "lane_width"), "fall": ("carriageway", "crossfall"), "shoulder": ("carriageway", "shoulder_width"),
    "verge": ("verge", "width"), "verge_fall": ("verge", "crossfall"), "fill_slope": ("slope", "fill_slope"),
    "cut_slope": ("slope", "cut_slope"), "ditch_depth": ("slope", "ditch_depth"), "ditch_width": ("slope", "ditch_width"),
}  # fmt: skip


def pieces(base: Template | None, *rows: Any, end: float = END) -> Any:
    by = {kind: [r for r in rows if isinstance(r, kind)] for kind in (Stretch, Adjustment, Change, Bare)}
    return pieces_of(base, 0.0, end, by[Stretch], by[Adjustment], by[Change], by[Bare])


def told(found: Any) -> list[str]:
    return [f.code for f in found]


def straight(rows: list[tuple[float, float]], s: float) -> float:
    """A table read by hand."""
    if s <= rows[0][0]:
        return rows[0][1]
    for (a, p), (b, q) in itertools.pairwise(rows):
        if a <= s <= b:
            return p + (q - p) * (s - a) / (b - a)
    return rows[-1][1]


def test_random_roads_of_stretches_blends_and_adjustments_are_those_of_a_second_solver() -> None:
    """25 random roads, 50 sections each, both sides: the values at a section by a reading of the rows in plain Python, the section by
    the second solver (tests/families/sections.py)."""
    rng = np.random.default_rng(7)
    right = all_ = blends = adjusted = 0
    for _ in range(25):
        sides = [(random_rural(rng), random_rural(rng)) for _ in range(3)]
        sides = [tuple(replace(r, crossing="first", search=200.0, search_from="hinge") for r in pair) for pair in sides]
        a, b = np.sort(rng.uniform(0.2, 0.8, 2) * END)
        length, form = float(rng.uniform(5, 80)), str(rng.choice(["linear", "smooth"]))
        lies = str(rng.choice(["outside", "about", "inside"]))
        if b - a < 2 * length or a < length or END - b < length:
            continue
        first, last = Blend(length, form, lies), Blend(length, "linear", "outside")
        rows: list[Any] = [Stretch(template_of(*sides[1]), a, b, first, last)]
        own: dict[tuple[str, str], list[tuple[float, float, list[tuple[float, float]]]]] = {}
        for name in rng.choice(list(PARAMETERS), 4, replace=False):
            u, v = np.sort(rng.uniform(0, END, 2))
            side = str(rng.choice(["left", "right"]))
            low, high = (0.0, 0.05) if "fall" in name else (2.8, 6.0) if name == "lane" else (1.0, 3.0)
            if (side, name) in own or v - u < 1.0:
                continue
            knots = np.sort(rng.uniform(u, v, int(rng.integers(1, 5))))
            table = [(float(s), float(rng.uniform(low, high))) for s in knots]
            part, parameter = PARAMETERS[name]
            rows.append(Adjustment(side, part, parameter, u, v, tuple(table)))  # type: ignore[arg-type]
            own.setdefault((side, name), []).append((u, v, table))
        row, found = pieces(template_of(*sides[0]), *rows)
        assert not found
        start = a - {"outside": 1.0, "about": 0.5, "inside": 0.0}[lies] * length

        def share(s: float, start: float = start, b: float = float(b), length: float = length, form: str = form) -> float:
            t = min(max((s - start) / length, 0.0), 1.0)
            t = t if form == "linear" else 3 * t * t - 2 * t**3
            return t if s < b else 1.0 - min((s - b) / length, 1.0)

        at = np.sort(rng.uniform(0, 0.85 * END, 50))  # beyond that the ground ends
        made = compute_corridor(LINE, PROFILE, row, GROUND, at)
        singles = [
            solve_block(LINE, PROFILE, p, GROUND, own_at)
            for p, own_at in zip(row, stations_once(at, row), strict=True)
            if len(own_at)
        ]
        assert len(made.blocks) >= len(singles)
        for block in singles:
            for i, s in enumerate(block.station):
                t = share(float(s))
                blends += 0 < t < 1
                for k, (name, sign, columns, _) in enumerate(block.sides()):
                    one, two = asdict(sides[0][k]), asdict(sides[1][k])
                    values = {x: one[x] + (two[x] - one[x]) * t if isinstance(one[x], float) else one[x] for x in one}
                    for (side, x), given in own.items():
                        for u, v, table in given:
                            if side == name and u < s < v:
                                values[x] = straight(table, float(s))
                                adjusted += 1
                    ground = outward(block.ground.section(i), sign)
                    want, _, _ = side_of(Rural(**values), float(block.level[i]), ground)
                    outline = [j for j in columns.outline("finished") if columns.present[j, i]]
                    got = [(float(columns.across[j, i]), float(columns.level[j, i])) for j in outline]
                    all_ += 1
                    right += len(got) == len(want) and np.allclose(got, want, rtol=0, atol=1e-6)
    assert all_ > 1000 and blends > 50 and adjusted > 100
    assert right == all_, (right, all_)


def rural(**values: Any) -> Template:
    side = (PlacedPart("carriageway", library_part("carriageway")), PlacedPart("verge", library_part("verge"), values),
            PlacedPart("slope", library_part("side_slopes")))  # fmt: skip
    return Template("rural", side, side)


def kerbed() -> Template:
    side = (PlacedPart("carriageway", library_part("carriageway")), PlacedPart("kerb", library_part("kerb")),
            PlacedPart("footway", library_part("footway")), PlacedPart("slope", library_part("side_slopes")))  # fmt: skip
    return Template("kerbed", side, side)


def test_without_rows_a_road_is_one_piece_and_rows_that_say_what_is_there_change_no_number() -> None:
    base = rural()
    (one,), found = pieces(base)
    assert (one.template, one.station_from, one.station_to, found) == (base, 0.0, END, ())
    usual = float(base.left[1].value("width"))
    row, _ = pieces(base, Stretch(base, 100, 200), Adjustment("left", "verge", "width", 150, 260, ((150.0, usual),)))
    s = np.linspace(0, END, 60)
    va, vb = (compute_volumes(c, compute_areas(c)) for c in (
        compute_corridor(LINE, PROFILE, p, GROUND, np.union1d(s, [100, 150, 200, 260])) for p in (base, row)))  # fmt: skip
    assert vb.cumulative_cut[-1] == pytest.approx(va.cumulative_cut[-1], rel=1e-12)


def test_a_part_without_a_partner_grows_from_nothing_with_its_slopes_kept() -> None:
    before, after = rural().right, kerbed().right
    first, second, lines = blended(before, after, 100.0, 160.0)
    assert [p.id for p in first] == ["carriageway", "kerb", "footway", "verge", "slope"] == [p.id for p in second]
    by = {(v.part, v.parameter): v for v in lines}
    assert by["verge", "width"].at([100, 130, 160]) == pytest.approx([before[1].value("width") * x for x in (1, 0.5, 0)])
    assert by["footway", "width"].at([100, 130, 160]) == pytest.approx([after[2].value("width") * x for x in (0, 0.5, 1)])
    kinds = {p.name: p.kind for part in (*before, *after) for p in part.part.parameters}
    assert {kinds[v.parameter] for v in lines} <= {"length", "height"}  # falls and slopes are as they were
    wide = blended(before, rural(width=4.0).right, 0.0, 10.0, form="smooth")[2]
    assert [v.parameter for v in wide] == ["width"] and wide[0].at(2.5) == pytest.approx(
        before[1].value("width") + (4.0 - before[1].value("width")) * (3 * 0.25**2 - 2 * 0.25**3)
    )


def test_slopes_of_another_kind_change_in_the_middle() -> None:
    benched = replace(rural(), right=(*rural().right[:2], place_part("slope", library_part("benched_cut"), {}, {})))
    row, _ = pieces(rural(), Stretch(benched, 300, END, Blend(60)))
    halves = [(p.station_from, p.station_to, p.template.right[-1].part.name) for p in row]
    assert halves == [
        (0.0, 240.0, "side_slopes"),
        (240.0, 270.0, "side_slopes"),
        (270.0, 300.0, "benched_cut"),
        (300.0, END, "benched_cut"),
    ]


@pytest.mark.parametrize(("lies", "at"), [("outside", (240.0, 300.0)), ("about", (270.0, 330.0)), ("inside", (300.0, 360.0))])
def test_a_blend_lies_where_its_row_says(lies: str, at: tuple[float, float]) -> None:
    row, _ = pieces(rural(), Stretch(rural(width=5.0), 300, END, Blend(60, "linear", lies)))
    ends = {v.station for p in row for v in p.left}
    assert ends == {at}


def test_parts_are_off_another_or_one_more_over_a_range_on_one_side() -> None:
    base, wall = rural(), PlacedPart("w", library_part("footway"))
    row, found = pieces(
        base, Change("left", "off", "verge", 50, 100), Change("right", "replace", "verge", 80, 120, wall),
        Change("right", "add", "", 200, 220, wall), Change("left", "add", "verge", 200, 220, wall), 
        Change("left", "off", "gone", 10, 20, row=9),
    )  # fmt: skip
    built = [(p.station_from, [x.part.name for x in p.template.left], [x.part.name for x in p.template.right]) for p in row]
    plain = ["carriageway", "verge", "side_slopes"]
    assert built == [
        (0.0, plain, plain), (50.0, ["carriageway", "side_slopes"], plain),
        (80.0, ["carriageway", "side_slopes"], ["carriageway", "footway", "side_slopes"]),
        (100.0, plain, ["carriageway", "footway", "side_slopes"]), (120.0, plain, plain),
        (200.0, ["carriageway", "verge", "footway", "side_slopes"], ["footway", *plain]), (220.0, plain, plain),
    ]  # fmt: skip
    assert told(found) == ["row-sleeps"] and "gone" in found[0].sentence


def test_a_range_without_earthwork_moves_none_and_keeps_the_pavement() -> None:
    base = rural()
    s = np.arange(0.0, 500.1, 10.0)
    row, _ = pieces(base, Bare(200, 300), end=END)
    whole, bare = (compute_corridor(LINE, PROFILE, p, GROUND, s) for p in (base, row))
    a, b = compute_areas(whole), compute_areas(bare)
    inside = (
        (bare.station >= 200)
        & (bare.station <= 300)
        & np.repeat([k.bare for k in bare.blocks], [len(k.station) for k in bare.blocks])
    )
    assert not b.cut[inside].any() and not b.fill[inside].any() and b.cut[~inside].sum() + b.fill[~inside].sum() > 0
    va, vb = compute_volumes(whole, a), compute_volumes(bare, b)
    out = (whole.station[:-1] < 200) | (whole.station[:-1] >= 300)
    assert vb.cut.sum() + vb.fill.sum() == pytest.approx(va.cut[out].sum() + va.fill[out].sum(), rel=1e-9)
    assert {m: x.sum() for m, x in vb.layers.items()} == pytest.approx({m: x.sum() for m, x in va.layers.items()})


def test_gaps_rows_beyond_the_road_and_words_are_told_or_taken() -> None:
    stretch = Stretch(rural(), 100, 200)
    row, found = pieces(None, stretch, Stretch(rural(), END + 5, END + 50))
    assert [(p.station_from, p.station_to) for p in row] == [(100, 200)]
    assert told(found) == ["nothing-built", "nothing-built", "row-beyond"] and "From 0+000.00 to 0+100.00" in found[0].sentence
    row, _ = pieces(rural(), Adjustment("left", "carriageway", "falls", 50, 90, "inward"))
    assert [p.template.left[0].value("falls") for p in row] == ["outward", "inward", "outward"]


@pytest.mark.parametrize(
    ("rows", "code", "words"),
    [
        ([Stretch(rural(), 100, 200), Stretch(rural(), 188, 300)], "stretches-overlap", "12.00 m"),
        ([Stretch(rural(), 200, 150)], "range-backwards", "0+150.00"),
        ([Adjustment("left", "verge", "width", 0, 50, ((0, 2.0),)), Adjustment("left", "verge", "width", 40, 90, ((0, 3.0),))],
         "adjustments-overlap", "10.00 m"),
        ([Adjustment("left", "verge", "width", 0, 50, ((0, 200.0),))], "parameter-out-of-range", "200"),
        ([Stretch(rural(), 20, 200, Blend(60))], "blend-too-long", "20.00 m"),
        ([Stretch(rural(), 100, 200, None, Blend(60)), Stretch(kerbed(), 230, 400, Blend(60))], "blend-too-long", "60.00 m"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_said_with_its_amount(rows: list[Any], code: str, words: str) -> None:
    with pytest.raises(InputError) as said:
        pieces(rural(), *rows)
    assert said.value.code == code and words in said.value.sentence
    with pytest.raises(InputError, match="no template"):
        pieces(None)


def test_any_two_parts_of_the_library_blend_without_a_fault() -> None:
    """Every pair of parts of the library as the one's and the other's template: sections at both ends are those of the templates alone."""
    names = library_parts()
    rng = np.random.default_rng(3)
    for _ in range(60):
        one, two = (
            Template(str(n), (), tuple(place_part(f"p{k}", library_part(x), {}, {}) for k, x in enumerate(n)))
            for n in (rng.choice(names, 3, replace=False), rng.choice(names, 3, replace=False))
        )
        if any(t.kind != "surface" for tpl in (one, two) for p in tpl.right for t in p.part.targets):
            continue
        one, two = (
            replace(t, right=tuple(replace(p, targets={x.name: -1.0 for x in p.part.targets}) for p in t.right))
            for t in (one, two)
        )
        row, _ = pieces(one, Stretch(two, 300, END, Blend(100)))
        middle = [p for p in row if 200 <= p.station_from < 300]
        assert [(p.station_from, p.station_to) for p in middle] in ([(200.0, 250.0), (250.0, 300.0)], [(200.0, 300.0)])
        for p, alone, s in ((middle[0], one, 200.0), (middle[-1], two, 300.0)):
            got, want = (solve_block(LINE, PROFILE, x, GROUND, [s]).right for x in (p, Piece(alone)))
            ends = [(c.across[k, 0], c.level[k, 0]) for c in (got, want) for k in [c.outline("finished")[-1]] if c.present[k, 0]]
            if len(ends) == 2:
                assert ends[0] == pytest.approx(ends[1], abs=1e-6), (one.name, two.name, s)


def test_an_edge_that_steps_is_told_with_its_amount_and_one_that_is_blended_is_not() -> None:
    wide = Template(
        "wide", *((PlacedPart("carriageway", library_part("carriageway"), {"lane_width": 4.25}), *rural().left[1:]),) * 2
    )
    for blend, steps in ((None, ["left", "right"] * 2), (Blend(30), [])):
        row, _ = pieces(rural(), Stretch(wide, 200, 400, blend, blend))
        found = [
            f
            for f in compute_corridor(LINE, PROFILE, row, GROUND, np.arange(0.0, 600.1, 10.0)).findings
            if f.code == "pavement-steps"
        ]
        assert [f.params["side"] for f in found] == steps
        assert all(f.params["value"] == pytest.approx(0.6) and f.params["rise"] == pytest.approx(0.6 * 0.025) for f in found)
        assert all("steps by 0.60 m in plan and 0.015 m in level" in f.sentence for f in found)


def test_values_that_run_on_are_one_piece_and_build_what_three_would() -> None:
    usual = float(rural().right[1].value("width"))
    knots = [(100.0, usual), (150.0, 4.0), (300.0, 4.0), (340.0, usual)]
    rows = [Adjustment("right", "verge", "width", a[0], b[0], (a, b), k) for k, (a, b) in enumerate(itertools.pairwise(knots))]
    (one,), found = pieces(rural(), *rows)
    assert not found and one.right[0].at([90, 125, 200, 320, 400]) == pytest.approx(
        [usual, (usual + 4) / 2, 4, (usual + 4) / 2, usual]
    )
    stepped, _ = pieces(rural(), rows[0], rows[2])  # from 4.0 back to its usual width at once, and again
    assert [p.station_from for p in stepped] == [0.0, 150.0, 300.0]
    for s, width in ((149.0, 3.97), (151.0, usual), (301.0, 3.96)):
        (block,) = (solve_block(LINE, PROFILE, p, GROUND, [s]) for p in stepped if p.station_from <= s <= p.station_to)
        i = block.right.index("verge.verge_edge")
        assert block.right.across[i, 0] - block.right.across[block.right.index("carriageway.pavement_edge"), 0] == pytest.approx(
            width, abs=0.02
        )


def test_pieces_solved_in_one_go_are_what_each_gives_alone() -> None:
    """Turned lanes, values that vary in some pieces only, ditches that run out, a plane that is followed: the same to the last bit."""
    template = rural()
    run_out = [*template.right[:2], replace(template.right[2], values={"run_out": 25.0})]
    template = replace(template, right=tuple(run_out))
    turning = Crossfall(crossfall_diagram([TurnedBend(1, 1.0, 0.05, 40, 90, 300, 350)], 0.025, 0.025), "inner", (3.65, 3.65))
    wide = ValueLine("carriageway", "lane_width", (0.0, 80.0), (3.0, 4.6))
    ditch = ValueLine("slope", "ditch_depth", (150.0, 220.0), (0.4, 1.6))
    row = [Piece(template, 0, 80, left=(wide,)), Piece(template, 80, 150), Piece(template, 150, 220, right=(ditch,)),
           Piece(template, 220, 400, left=(wide,), right=(ditch,))]  # fmt: skip
    stations = [np.array([p.station_from, *np.arange(p.station_from + 3, p.station_to, 11), p.station_to]) for p in row]
    carried = CarriedPlane(LINE, PROFILE, turning)
    for follow in ((), (Following(carried, 100.0, 180.0, level=True, ease=40.0, release=120.0),)):
        around: dict[str, Any] = {"crossfall": turning}
        alone = [solve_block(LINE, PROFILE, p, GROUND, s, follow=follow, **around) for p, s in zip(row, stations, strict=True)]
        along = block_alongs(*alone)
        assert along.right[0].rows.size  # cut and fill are both there
        apart = [
            solve_block(LINE, PROFILE, p, GROUND, s, follow=follow, along=along, **around)
            for p, s in zip(row, stations, strict=True)
        ]
        made = solve_blocks(LINE, PROFILE, row, GROUND, stations, alongs=[along] * 4, follow=[follow] * 4, **around)
        for one, two in zip(apart, made, strict=True):
            for side in ("left", "right"):
                a, b = getattr(one, side), getattr(two, side)
                assert a.names == b.names and np.array_equal(a.across, b.across, True) and np.array_equal(a.level, b.level, True)
                assert all(np.array_equal(a.case_of[k][0], b.case_of[k][0]) for k in a.case_of)
            assert np.array_equal(one.level, two.level)
