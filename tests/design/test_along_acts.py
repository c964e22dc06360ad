"""What varies along a road, as persons change it: ends that hold to what they hang on, splits and joins, roads that are reversed, cut
and joined, refusals in words."""

from __future__ import annotations

from typing import Any

import numpy as np
import orjson
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import tangent_points
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import InputError
from ivoryridge.core.standards.widening import Vehicle, bend_widening
from ivoryridge.design.actions.edit_along import (
    add_variation,
    change_variation,
    delete_variation,
    join_variation,
    split_variation,
)
from ivoryridge.design.actions.edit_course import reverse_road
from ivoryridge.design.actions.edit_line import change_pi, delete_pi
from ivoryridge.design.actions.edit_parts import create_part, delete_part
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import change_road, delete_road
from ivoryridge.design.actions.edit_template import change_template, delete_template
from ivoryridge.design.actions.join_lines import join_roads, split_road
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPI, Template, Variation
from ivoryridge.design.pictures.reason import reason_picture
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import BadValue, Refused, Stale
from ivoryridge.design.results.corridor import corridor_at, corridor_of, corridor_over, sections, sections_over
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.road import design_road
from ivoryridge.design.results.varied import pieces, placed_in, quantity_along

WIDE = {"kind": "adjustment", "side": "right", "part": "verge", "parameter": "width"}

LANE = {"kind": "adjustment", "side": "both", "part": "carriageway", "parameter": "lane_width", "form": "bends"}


def again(row: Any) -> Any:
    return type(row).objects.get(pk=row.pk)


def add(to: Road, user: Any, **values: Any) -> Variation:
    return add_variation(to, user, values=values)[1]


def inputs_of(road: Road) -> Any:
    return assemble_road(again(road))


def ends(road: Road) -> dict[int, tuple[float, float]]:
    return {r["id"]: (r["station_from"], r["station_to"]) for r in road_picture(inputs_of(road))["along"]}


def width_at(road: Road, station: float, node: str = "verge.verge_edge", side: str = "right") -> float:
    (block,) = corridor_at(inputs_of(road), [station]).blocks
    columns = getattr(block, side)
    i = columns.index(node)
    return float(columns.across[i, 0] - columns.across[[k for k in columns.outline("finished") if k < i][-1], 0])


def test_a_range_is_built_and_a_trial_of_it_is_what_the_act_makes(road: Road, anna: Any, kerbed: Template) -> None:
    usual = width_at(road, 150.0)
    row = add(road, anna, **WIDE, form="linear", value=3.0, value_to=4.0, station_from=100.0, station_to=200.0)
    assert [width_at(road, s) for s in (99.0, 100.5, 150.0, 201.0)] == pytest.approx([usual, 3.005, 3.5, usual])
    tried = with_trial(inputs_of(road), {"variation": {"id": row.pk, "station_to": 300.0, "value_to": 5.0}})
    change_variation(road, anna, row.pk, revision=row.revision, values={"station_to": 300.0, "value_to": 5.0})
    a, b = corridor_of(tried), corridor_of(inputs_of(road))
    for one, two in zip(a.blocks, b.blocks, strict=True):
        assert_allclose(one.right.across, two.right.across, rtol=0, atol=0, equal_nan=True)
    assert width_at(road, 200.0) == pytest.approx(4.0)
    assert quantity_along(inputs_of(road), "right", "verge", "width")[2:4] == [(100.0, 3.0), (300.0, 5.0)]
    with pytest.raises(Stale):
        change_variation(road, anna, row.pk, revision=row.revision, values={"value": 1.0})


def test_lanes_are_wider_in_bends_as_the_formula_says_and_follow_the_line(road: Road, anna: Any, kerbed: Template) -> None:
    """AASHTO, section 3.3.10 (from memory)."""
    said = lambda: next(r["said"] for r in road_picture(inputs_of(road))["along"])  # noqa: E731
    row = add(road, anna, **LANE, vehicle="rigid lorry", inner=0.75)
    lanes = [
        p.value("lane_width")
        for t in [again(road).template]
        for p in placed_in(pieces(inputs_of(road)))["left"].values()
        if p.id == "carriageway"
    ]
    pi = RoadPI.present.filter(road=road)[1]
    for radius in (90.0, 60.0):
        change_pi(
            road, anna, pi.pk, revision=again(pi).revision, values={"radius": radius, "spiral_in": 20.0, "spiral_out": 20.0}
        )
        points = tangent_points(line_of(inputs_of(road)), 1)
        middle = 0.5 * (points["SC"] + points["CS"])
        width = 2 * lanes[0]
        truck = Vehicle(2.44, (6.1,), 1.22, float(np.interp(width, (6.0, 6.6, 7.2), (0.6, 0.75, 0.9))))
        more = bend_widening(truck, radius, assemble_road(again(road)).design_speed, 2, width).more
        right = float(np.sign(line_of(inputs_of(road)).evaluate(middle)[2][0])) > 0
        found = [dict(quantity_along(inputs_of(road), s, "carriageway", "lane_width")) for s in ("left", "right")]
        inner, outer = (found[1], found[0]) if right else (found[0], found[1])
        assert np.interp(middle, *zip(*inner.items(), strict=True)) == pytest.approx(lanes[0] + 0.75 * more, abs=1e-9)
        assert np.interp(middle, *zip(*outer.items(), strict=True)) == pytest.approx(lanes[0] + 0.25 * more, abs=1e-9)
        assert f"up to {0.75 * more:.2f} m wider in bends, for a rigid lorry" in said()
    change_variation(road, anna, row.pk, revision=row.revision, values={"station_to": 10.0})
    assert "wide enough in all bends" in said()
    change_variation(road, anna, row.pk, revision=again(row).revision, values={"station_to": None})
    with pytest.raises(InputError) as told:
        change_pi(road, anna, pi.pk, revision=again(pi).revision, values={"radius": 6.0, "spiral_in": 0.0, "spiral_out": 0.0})
    assert "cannot go round a bend of 6.00 m" in told.value.sentence and again(pi).radius == 60.0


def test_ends_keep_to_what_holds_them_when_the_line_moves(road: Road, anna: Any, kerbed: Template) -> None:
    line = line_of(inputs_of(road))
    points = tangent_points(line, 1)
    held = add(
        road, anna, kind="stretch", template_id=kerbed.pk, station_from=points["TS"] - 5, station_to=None, hold_from="tangent"
    )
    fixed = add(road, anna, **WIDE, form="constant", value=2.0, station_from=50.0, station_to=90.0)
    assert (held.start["tangent_point"], held.start["ahead"], held.end["anchor"]) == ("TS", pytest.approx(-5), "end")
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(road, anna, pi.pk, revision=pi.revision, values={"radius": 150.0})
    moved = line_of(inputs_of(road))
    assert ends(road)[held.pk] == pytest.approx((tangent_points(moved, 1)["TS"] - 5, moved.end_station), abs=1e-6)
    assert ends(road)[fixed.pk] == (50.0, 90.0)
    stood = ends(road)[held.pk][0]
    _, told = delete_pi(road, anna, pi.pk, revision=again(pi).revision)
    assert ends(road)[held.pk][0] == pytest.approx(stood, abs=1e-6) and any("range that began" in t for t in told)
    undo(road.project, anna)
    assert again(held).start["pi_id"] == pi.pk


def test_reversed_twice_everything_is_what_it_was_and_once_the_earth_is_the_same(road: Road, anna: Any, kerbed: Template) -> None:
    blends = {
        "blend_from": {"length": 30.0, "form": "smooth", "lies": "outside"},
        "blend_to": {"length": 20.0, "form": "linear", "lies": "inside"},
    }
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=300.0, station_to=400.0, **blends)
    add(road, anna, **WIDE, form="linear", value=1.0, value_to=4.0, station_from=20.0, station_to=120.0)
    add(
        road,
        anna,
        **{**WIDE, "side": "left"},
        form="table",
        rows=[[130.0, 2.0], [160.0, 5.0], [210.0, 1.0]],
        station_from=130.0,
        station_to=210.0,
    )
    add(road, anna, kind="change", side="left", part="verge", do="off", station_from=220.0, station_to=250.0)
    for t in (
        again(road).template,
        kerbed,
    ):  # where a ditch begins hangs on the road's own sections, which count from the other end then
        change_template(again(t), anna, revision=again(t).revision, side="both", part="slope", values={"run_out": 0.0})
    rows = list(Variation.present.values("kind", "side", "start", "end", "data"))
    end = line_of(inputs_of(road)).end_station
    at = np.arange(7.3, end, 13.1)
    before = compute_areas(corridor_at(inputs_of(road), at))
    reverse_road(again(road), anna, revision=again(road).revision)
    after = compute_areas(corridor_at(inputs_of(road), end - at[::-1]))
    assert_allclose([after.cut[::-1], after.fill[::-1]], [before.cut, before.fill], rtol=0, atol=1e-6)
    reverse_road(again(road), anna, revision=again(road).revision)
    assert list(Variation.present.values("kind", "side", "start", "end", "data")) == rows


def test_where_no_stretch_lies_nothing_is_built_and_that_is_said(road: Road, anna: Any) -> None:
    """Also by what takes sections only: a return's edge, or a junction's area."""
    set_profile(road, anna, [PVI(0, 101), PVI(400, 103)], label="Levels")
    add(road, anna, kind="stretch", template_id=road.template_id, station_from=60.0, station_to=None)
    change_road(again(road), anna, revision=again(road).revision, values={"template_id": None})
    inputs = inputs_of(road)
    assert sections(inputs, [70.0]).get().station.tolist() == [70.0]
    asked: list[Any] = [lambda: sections(inputs, [20.0]), lambda: sections_over(inputs, [20.0, 30.0])]
    for ask in (*asked, lambda: corridor_at(inputs, [20.0]), lambda: corridor_over(inputs, 20.0, 30.0)):
        with pytest.raises(InputError, match=r"Nothing is built at 0\+020\.00"):
            ask()


def test_a_road_cut_in_two_and_joined_again_builds_what_it_did(road: Road, anna: Any, kerbed: Template) -> None:
    add(road, anna, **WIDE, form="linear", value=1.0, value_to=4.0, station_from=20.0, station_to=120.0)
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=60.0, station_to=None)
    add(road, anna, kind="bare", station_from=30.0, station_to=50.0)
    at = np.array([25.0, 40.0, 70.0, 79.0, 81.0, 110.0, 300.0])

    def built(of: Road, s: Any) -> list[list[float]]:
        made = corridor_at(inputs_of(of), s)
        return [b.right.across[np.isfinite(b.right.across)].tolist() for b in (made.take([i]).blocks[0] for i in range(len(s)))]

    whole = built(road, at)
    _, _, other = split_road(again(road), anna, revision=again(road).revision, station=80.0)
    assert built(road, at[:4]) == [pytest.approx(x, abs=1e-6) for x in whole[:4]]
    assert built(other, at[4:]) == [pytest.approx(x, abs=1e-6) for x in whole[4:]]
    assert {v.kind for v in Variation.present.filter(road=other)} == {"stretch", "adjustment"}
    join_roads(again(road), anna, revision=again(road).revision, other=again(other))
    assert built(road, at) == [pytest.approx(x, abs=1e-6) for x in whole]
    for _ in range(2):
        undo(road.project, anna)
    assert built(road, at) == whole and Variation.present.count() == 3
    for _ in range(2):
        redo(road.project, anna)
    assert built(road, at) == [pytest.approx(x, abs=1e-6) for x in whole]


def test_a_road_joined_with_another_template_keeps_it_over_its_own_part(road: Road, anna: Any, kerbed: Template) -> None:
    _, _, other = split_road(again(road), anna, revision=again(road).revision, station=80.0)
    Road.objects.filter(pk=other.pk).update(template=kerbed)
    undone = width_at(again(other), 100.0, "footway.back")
    join_roads(again(road), anna, revision=again(road).revision, other=again(other))
    assert width_at(road, 100.0, "footway.back") == pytest.approx(undone)
    assert [p.template.name for p in pieces(inputs_of(road))] == [again(road).template.name, "Kerbed"]


def test_split_and_joined_a_row_says_what_it_said(road: Road, anna: Any, kerbed: Template) -> None:
    row = add(road, anna, **WIDE, form="linear", value=1.0, value_to=4.0, station_from=20.0, station_to=120.0)
    line = quantity_along(inputs_of(road), "right", "verge", "width")
    split_variation(road, anna, row.pk, revision=row.revision, station=60.0)
    halves = [v.data for v in Variation.present.filter(road=road)]
    assert [(d["value"], d["value_to"]) for d in halves] == [(1.0, pytest.approx(2.2)), (pytest.approx(2.2), 4.0)]
    join_variation(road, anna, row.pk, revision=again(row).revision)
    assert quantity_along(inputs_of(road), "right", "verge", "width") == line and Variation.present.count() == 1
    delete_variation(road, anna, row.pk, revision=again(row).revision)
    assert not Variation.present.exists()
    undo(road.project, anna)
    assert quantity_along(inputs_of(road), "right", "verge", "width") == line


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({**WIDE, "form": "constant", "value": 2.0, "station_from": 100.0, "station_to": 900.0}, "lies outside A"),
        ({**WIDE, "form": "constant", "value": 2.0, "station_from": 200.0, "station_to": 100.0}, "not behind its start"),
        ({**WIDE, "form": "constant", "value": 99.0, "station_from": 100.0, "station_to": 200.0}, "99"),
        ({**WIDE, "form": "constant", "value": "wide", "station_from": 100.0, "station_to": 200.0}, "is a number"),
        ({**WIDE, "part": "moat", "form": "constant", "value": 2.0, "station_from": 100.0, "station_to": 200.0}, "'moat'"),
        ({**WIDE, "parameter": "depth", "form": "constant", "value": 2.0, "station_from": 100.0, "station_to": 200.0}, "'depth'"),
        ({**WIDE, "form": "table", "rows": [[150, 1], [120, 2]], "station_from": 100.0, "station_to": 200.0}, "grow from row to row"),
        ({"kind": "stretch", "station_from": 100.0, "station_to": 200.0}, "needs a template"),
        ({"kind": "change", "side": "left", "part": "verge", "do": "replace"}, "Choose the part"),
        ({"kind": "bare", "station_from": 100.0, "station_to": 200.0, "hold_from": "moon"}, "not an anchor"),
        ({**LANE, "vehicle": "tank"}, "Choose the vehicle that goes round"),
        ({**LANE, "vehicle": "bus", "inner": 1.5}, "150 % is not"),
        ({**LANE, "vehicle": "bus", "over": -1.0}, "-1 m is not"),
        ({**LANE, "parameter": "crossfall", "vehicle": "bus"}, "only a width grows in bends"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_in_words_and_leaves_nothing(
    road: Road, anna: Any, kerbed: Template, values: dict[str, Any], words: str
) -> None:
    with pytest.raises((BadValue, InputError)) as said:
        add_variation(road, anna, values=values)
    assert words in str(getattr(said.value, "sentence", said.value)) and not Variation.present.exists()


def test_overlapping_stretches_are_refused_with_the_amount(road: Road, anna: Any, kerbed: Template) -> None:
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=100.0, station_to=200.0)
    with pytest.raises(InputError, match=r"overlap from 0\+188\.00 to 0\+200\.00 \(12\.00 m\)"):
        add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=188.0, station_to=300.0)
    assert Variation.present.count() == 1


def test_what_a_range_is_made_of_cannot_go_and_its_change_is_felt(road: Road, anna: Any, kerbed: Template, project: Any) -> None:
    _, part = create_part(project, anna, label="Mine", like="footway")
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=100.0, station_to=200.0)
    replaced = {"kind": "change", "side": "right", "part": "verge", "do": "replace", "with": part.pk}
    add(road, anna, **replaced, station_from=300.0, station_to=350.0)
    with pytest.raises(Refused, match="template of A"):
        delete_template(again(kerbed), anna, revision=again(kerbed).revision)
    with pytest.raises(Refused, match="stands in A"):
        delete_part(again(part), anna, revision=again(part).revision)
    change_template(again(kerbed), anna, revision=again(kerbed).revision, side="both", part="footway", values={"width": 2.75})
    assert width_at(road, 150.0, "footway.back") == pytest.approx(2.75)
    with pytest.raises(InputError):  # it would break the road that has it over a range only
        change_template(again(kerbed), anna, revision=again(kerbed).revision, side="both", part="footway", values={"width": -1.0})


def test_a_change_far_off_builds_only_its_own_blocks(road: Road, anna: Any, kerbed: Template) -> None:
    from ivoryridge.design.kept.kinds import computed_counts

    far = add(road, anna, **WIDE, form="constant", value=2.0, station_from=300.0, station_to=320.0)
    for a in (20.0, 60.0, 100.0, 140.0):
        add(road, anna, **WIDE, form="constant", value=2.0, station_from=a, station_to=a + 20.0)
    corridor_of(inputs_of(road))
    before = computed_counts["block"]
    change_variation(road, anna, far.pk, revision=far.revision, values={"value": 2.5})
    corridor_of(inputs_of(road))
    assert computed_counts["block"] - before == 1
    set_profile(again(road), anna, [PVI(0, 104), PVI(200, 105), PVI(300, 105), PVI(350, 105), PVI(480, 106)], label="Levels")
    corridor_of(inputs_of(road))
    before = computed_counts["block"]
    whole = len(corridor_of(inputs_of(road)).blocks)
    set_profile(again(road), anna, [PVI(0, 104), PVI(200, 105), PVI(300, 105), PVI(350, 106), PVI(480, 106)], label="Levels")
    corridor_of(inputs_of(road))
    assert computed_counts["block"] - before == 1 < whole == 9  # a PVI moves what lies between its neighbours


def test_the_page_is_told_of_rows_with_their_words(road: Road, anna: Any, kerbed: Template) -> None:
    add(road, anna, **WIDE, form="linear", value=1.0, value_to=4.0, station_from=20.0, station_to=120.0)
    add(road, anna, kind="change", side="left", part="verge", do="off", station_from=20.0, station_to=40.0)
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=200.0, station_to=None)
    picture = road_picture(inputs_of(road))
    assert [r["said"] for r in picture["along"]] == ["Kerbed", "verge width 1 m → 4 m", "no verge"]
    assert {p["id"] for p in picture["built"]["right"]} == {"carriageway", "verge", "kerb", "footway", "slope"}
    assert orjson.dumps(picture, option=orjson.OPT_SERIALIZE_NUMPY)


# --- a slip road that takes the main road's plane ------------------------------------------------------------
def lanes(road: Road, s: float) -> tuple[float, float, float, float]:
    """Level of the centre, falls of the left and right lanes (+ rises outward), easting."""
    (block,) = corridor_at(inputs_of(road), [s]).blocks
    falls = []
    for columns in (block.left, block.right):
        i = (
            columns.names.index("carriageway.lane_edge")
            if "carriageway.lane_edge" in columns.names
            else columns.index(columns.names[1])
        )
        falls.append(float((columns.level[i, 0] - columns.level[0, 0]) / columns.across[i, 0]))
    return float(block.level[0]), falls[0], falls[1], float(block.places.place[0, 0])


def plane_of_a(road: Road, easting: float, northing: float) -> float:
    """Road A in plain words: its profile on the straight, 3 m up from end to end, and 2.5 % down to either side."""
    z = 103 + 3 * (easting - 500_000.0) / line_of(inputs_of(road)).end_station
    return z - 0.025 * abs(northing - 6_200_000.0)


def test_a_slip_road_lies_in_the_main_roads_plane_and_is_let_go(road: Road, slip: Road, anna: Any) -> None:
    own = lanes(slip, 200.0)
    add(slip, anna, kind="follow", road=road.pk, level=True, release=40.0, station_from=20.0, station_to=100.0)
    line = line_of(inputs_of(slip))
    for s in (20.0, 60.0, 100.0):
        (e, n), azimuth, _ = (x[0] for x in line.evaluate([s]))
        z, left, right, _ = lanes(slip, s)
        assert z == pytest.approx(plane_of_a(road, e, n), abs=1e-6)
        for fall, sign in ((left, -1.0), (right, 1.0)):
            de, dn = sign * np.cos(azimuth), -sign * np.sin(azimuth)
            edge = plane_of_a(road, e + 3.65 * de, n + 3.65 * dn)
            assert fall == pytest.approx((edge - z) / 3.65, abs=1e-6)
    assert lanes(slip, 200.0) == own
    profile = levels_of(inputs_of(slip)).profile
    off = [lanes(slip, s)[0] - float(profile.evaluate([s])[0][0]) for s in (100.0, 120.0, 140.0)]
    assert off[1:] == pytest.approx([0.5 * off[0], 0.0], abs=1e-9)  # half way back, and back
    follows = lanes(slip, 60.0)[0]
    set_profile(again(road), anna, [PVI(0, 104), PVI(480, 107)], label="Raise A by 1 m")
    assert lanes(slip, 60.0)[0] == pytest.approx(follows + 1.0, abs=1e-9)
    assert [r["said"] for r in road_picture(inputs_of(slip))["along"]] == ["plane and level of A"]


def test_rate_only_keeps_the_slip_roads_own_level(road: Road, slip: Road, anna: Any) -> None:
    before = lanes(slip, 60.0)
    add(slip, anna, kind="follow", road=road.pk, station_from=20.0, station_to=100.0)
    after = lanes(slip, 60.0)
    assert after[0] == before[0] and after[1] > 0.02 > -0.02 > after[2]  # A falls to its right through both halves


def test_followed_roads_in_a_circle_are_refused_by_name_and_a_road_that_goes_lets_go(road: Road, slip: Road, anna: Any) -> None:
    add(slip, anna, kind="follow", road=road.pk, level=True, station_from=20.0, station_to=100.0)
    with pytest.raises((BadValue, InputError, Refused), match=r"A on Slip on A|Slip on A on Slip"):
        add(road, anna, kind="follow", road=slip.pk, station_from=20.0, station_to=100.0)
    with pytest.raises(BadValue, match="cannot follow itself"):
        add(slip, anna, kind="follow", road=slip.pk, station_from=20.0, station_to=100.0)
    own = inputs_of(slip).pvis
    delete_road(again(road), anna, revision=again(road).revision)
    assert not Variation.present.exists() and inputs_of(slip).pvis == own and design_road(inputs_of(slip)).problems == {}
    undo(road.project, anna)
    assert inputs_of(slip).followed[road.pk].name == "A"


def test_beyond_the_main_road_its_own_plane_holds_and_that_is_told(road: Road, slip: Road, anna: Any) -> None:
    pi = RoadPI.present.filter(road=slip)[0]
    change_pi(slip, anna, pi.pk, revision=pi.revision, values={"easting": 499_960.0})
    add(slip, anna, kind="follow", road=road.pk, level=True, station_from=0.0, station_to=100.0)
    found = [f for f in corridor_of(inputs_of(slip)).findings if f.code == "plane-ends"]
    assert len(found) == 1 and found[0].station_from == 0.0 and 30 < (found[0].station_to or 0) < 45
    assert lanes(slip, 10.0)[0] == pytest.approx(float(levels_of(inputs_of(slip)).profile.evaluate([10.0])[0][0]))


# --- why a node lies where it does ---------------------------------------------------------------------------
def test_a_node_says_its_rule_and_where_its_values_come_from(road: Road, anna: Any, kerbed: Template) -> None:
    def why(s: float, node: str) -> Any:
        return reason_picture(inputs_of(road), again(road).template_id, s, "right", node)

    told = why(50.0, "verge.verge_edge")
    width = told["values"][0]
    assert (told["label"], told["part_label"], told["template_id"]) == ("verge edge", "Verge", again(road).template_id)
    assert told["rule"].startswith(f"from the pavement edge, {width['value']:.3f} m (verge width) outward, falling at")
    assert (width["name"], width["origin"], width["row"]) == ("width", "usual", None)
    row = add(road, anna, **WIDE, form="constant", value=1.75, station_from=20.0, station_to=120.0)
    ramp = add(road, anna, **WIDE, form="linear", value=1.75, value_to=3.0, station_from=120.0, station_to=160.0)
    width = why(50.0, "verge.verge_edge")["values"][0]
    assert (width["value"], width["origin"], width["row"], width["row_range"]) == (1.75, "adjusted", row.pk, (20.0, 120.0))
    width = why(140.0, "verge.verge_edge")["values"][0]  # a value that changes along the range cannot be typed over in its place
    assert (width["value"], width["origin"], width["row"]) == (pytest.approx(2.375), "adjusted", None) and ramp.pk
    add(road, anna, kind="stretch", template_id=kerbed.pk, station_from=250.0, station_to=400.0)
    assert why(300.0, "footway.back")["template_id"] == kerbed.pk
    replaced = {"kind": "change", "side": "right", "part": "verge", "do": "replace", "with": "footway"}
    add(road, anna, **replaced, station_from=200.0, station_to=220.0)
    assert why(210.0, "verge.back")["template_id"] is None
    with pytest.raises(BadValue, match="not built in this section"):
        why(50.0, "footway.back")
    z = corridor_at(inputs_of(road), [50.0]).blocks[0].right
    lane = why(50.0, "carriageway.lane_edge")
    fall = next(v for v in lane["values"] if v["name"] == "crossfall")
    i = z.index("carriageway.lane_edge")
    assert fall["value"] == pytest.approx(-(z.level[i, 0] - z.level[0, 0]) / z.across[i, 0])
