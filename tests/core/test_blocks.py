"""A corridor as a row of blocks: parted it is the same road, with other templates each block is its own, and edges are exact."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.block import cut_ground, search_reach, solve_block
from ivoryridge.core.corridor.corridor import Corridor, compute_corridor
from ivoryridge.core.corridor.edges import edge_lines, edges_of
from ivoryridge.core.corridor.places import places_at, section_stations
from ivoryridge.core.corridor.sight_space import sight_in_space
from ivoryridge.core.corridor.solids import strip_surface
from ivoryridge.core.corridor.varied import Piece
from ivoryridge.core.earthwork.end_area import compute_areas, compute_volumes
from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.part import part_from_dict
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.sheets.cross_sections import draw_cross_sections

from .test_corridor import E0, N0, plane, rural
from .test_sheets import settings

LINE = alignment_from_pis([PI(E0, N0), PI(E0 + 20, N0 + 300, 180, 60, 60), PI(E0 + 250, N0 + 600)])
PROFILE = profile_from_pvis([PVI(0, 101), PVI.symmetric(300, 106, 160), PVI(LINE.end_station, 99)])
GROUND = plane(rise_e=0.03, rise_n=0.005)
STATIONS = section_stations(LINE, PROFILE, 20)
SEAMS = (133.7, 300.0, 410.05)


def corridor(*templates: Template, seams: tuple[float, ...] = SEAMS) -> Corridor:
    """Templates in a row, parted at the seams."""
    ends = [-np.inf, *seams, np.inf]
    row = [Piece(t, a, b) for t, a, b in zip(templates, ends[:-1], ends[1:], strict=True)]
    return compute_corridor(LINE, PROFILE, row, GROUND, STATIONS)


def area_in_plan(points: Any, faces: Any) -> float:
    a, b, c = (points[faces[:, i], :2] - [E0, N0] for i in range(3))
    return float(0.5 * np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]).sum())


def test_a_road_parted_into_blocks_of_one_template_is_the_same_road() -> None:
    whole = compute_corridor(LINE, PROFILE, rural(), GROUND, np.union1d(STATIONS, SEAMS))
    parted = corridor(*[rural()] * 4)
    own = np.append(np.flatnonzero(parted.joined), len(parted.station) - 1)  # each seam once
    assert len(parted.blocks) == 4 and len(parted.station) == len(whole.station) + 3
    assert_allclose(parted.station[own], whole.station, rtol=0, atol=1e-12)
    a, b = compute_areas(whole), compute_areas(parted)
    assert_allclose(b.bent[:, own], a.bent, rtol=0, atol=1e-9)
    va, vb = compute_volumes(whole, a), compute_volumes(parted, b)
    assert vb.cumulative_cut[-1] == pytest.approx(va.cumulative_cut[-1], rel=1e-12)
    assert vb.cumulative_fill[-1] == pytest.approx(va.cumulative_fill[-1], rel=1e-12)
    assert {m: x.sum() for m, x in vb.layers.items()} == pytest.approx({m: x.sum() for m, x in va.layers.items()})
    for role in ("finished", "formation"):
        assert area_in_plan(*strip_surface(parted, role)) == pytest.approx(area_in_plan(*strip_surface(whole, role)), rel=1e-12)
    eyes = {"path": 1.8, "eye": 1.0, "target": 0.5}
    for got, want in zip(*(sight_in_space(LINE, PROFILE, c, whole.station, **eyes) for c in (parted, whole)), strict=True):
        assert_allclose(got, want, rtol=0, atol=0.11)
    assert {(f.code, f.params.get("side")) for f in parted.findings} == {(f.code, f.params.get("side")) for f in whole.findings}


def test_blocks_of_other_templates_are_each_their_own_and_nothing_lies_between_them() -> None:
    wide = replace(rural(fill_slope=3.0), left=(replace(rural().left[0], values={"lane_width": 5.0}), *rural().left[1:]))
    bare = Template("bare", rural().left[1:], rural().right[1:])  # no carriageway, so no layers
    made = corridor(rural(), wide, bare, seams=(200.0, 400.0))
    areas = compute_areas(made)
    volumes = compute_volumes(made, areas)
    total = 0.0
    for template, a, b in ((rural(), 0, 200), (wide, 200, 400), (bare, 400, LINE.end_station)):
        at = np.unique(np.concatenate([[a, b], STATIONS[(a < STATIONS) & (b > STATIONS)]]))
        alone = compute_corridor(LINE, PROFILE, template, GROUND, at)
        total += float(compute_volumes(alone, compute_areas(alone)).cumulative_fill[-1])
    assert volumes.cumulative_fill[-1] == pytest.approx(total, rel=1e-12)
    assert areas.layers["surfacing"][made.station > 400.0].max() == 0.0
    lanes = edges_of(made, "lane edge", "left")
    assert [round(-float(e.offset[0]), 2) for e in lanes] == [3.65, 5.0]  # two pieces, none where there are no lanes
    assert [float(e.station[-1]) for e in lanes] == [200.0, 400.0]
    for e in edge_lines(made):
        assert_allclose(made.station[e.first : e.first + len(e.points)], e.station, rtol=0, atol=0)
    text = " ".join(t.text for d in draw_cross_sections(made, areas, settings()) for t in d.texts)
    assert text.count("0+200") >= 2 and "-5.00" in text  # both sections of the seam are on paper


def test_nothing_is_built_over_a_range_without_a_stretch() -> None:
    row = [Piece(rural(), 0, 200), Piece(rural(), 400, np.inf)]
    made = compute_corridor(LINE, PROFILE, row, GROUND, STATIONS)
    alone = [compute_corridor(LINE, PROFILE, [st], GROUND, STATIONS) for st in row]
    fills = [float(compute_volumes(c, compute_areas(c)).cumulative_fill[-1]) for c in (made, *alone)]
    assert fills[0] == pytest.approx(sum(fills[1:]), rel=1e-12)
    areas = [area_in_plan(*strip_surface(c, "finished")) for c in (made, *alone)]
    assert areas[0] == pytest.approx(sum(areas[1:]), rel=1e-12)


def test_an_edge_between_two_sections_lies_on_the_curve_and_not_on_its_chord() -> None:
    r = 180.0
    (edge,) = edges_of(corridor(rural(), seams=()), "lane edge", "right")
    at = 0.5 * (edge.station[:-1] + edge.station[1:])
    place, azimuth, curvature = LINE.evaluate(at)
    on_circle = np.isclose(curvature, 1 / r)
    centre = place + r * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    found = edge.at(at)
    assert on_circle.sum() > 3
    assert_allclose(np.hypot(*(found[on_circle, :2] - centre[on_circle]).T), r - 3.65, rtol=0, atol=1e-9)
    chord = 0.5 * (edge.points[:-1] + edge.points[1:])[on_circle, :2]
    assert np.hypot(*(chord - centre[on_circle]).T).min() < r - 3.65 - 0.1
    assert np.isnan(edge.at([-5.0, LINE.end_station + 5.0])).all()


# --- how far the ground is needed -----------------------------------------------------------------------------
def slopes(**values: Any) -> Template:
    row = (*rural().left[:2], PlacedPart("slope", library_part("side_slopes"), values))
    return Template("slopes", row, row)


def test_ground_is_cut_as_far_as_the_template_looks_and_no_farther() -> None:
    """Search within 25 m from the hinge at 3.65 + 1.0 + 2.5 m, and 10 m beyond; from the centre the hinge does not count."""
    assert search_reach(slopes(search=25.0)) == pytest.approx([7.15 + 25 + 10])
    assert search_reach(slopes(search=25.0, search_from="centre"))[0] == pytest.approx(25 + 10)
    assert search_reach(slopes(search=25.0, ditch_depth=5.0, ditch_width=15.0))[0] == pytest.approx(7.15 + 15 + 15 + 10)
    over = {"carriageway": {"lane_width": np.array([3.65, 5.65, 7.65])}}
    assert_allclose(search_reach(slopes(search=25.0), 3, left=over), [42.15, 44.15, 46.15], rtol=0, atol=1e-9)
    assert search_reach(slopes(search=300.0)) == pytest.approx([300.0])


def test_random_templates_never_look_farther_than_their_ground_is_cut() -> None:
    """200 templates of random values: with ground cut over the whole terrain instead, every node lies at the same place."""
    rng = np.random.default_rng(8)
    at = STATIONS[::6]
    everywhere = cut_ground(GROUND, places_at(LINE, at), 300.0)
    right = 0
    for _ in range(200):
        values = {
            "search": float(rng.uniform(1, 60)), "search_from": str(rng.choice(["hinge", "centre"])),
            "crossing": str(rng.choice(["first", "last"])), "ditch_depth": float(rng.uniform(0, 3)),
            "ditch_width": float(rng.uniform(0, 12)), "first_width": float(rng.uniform(0, 12)), "fill_slope": float(rng.uniform(1, 6)),
        }  # fmt: skip
        template = slopes(**values)
        own, wide = (solve_block(LINE, PROFILE, template, GROUND, at, cut=c) for c in (None, (everywhere, 300.0)))
        right += np.allclose(own.left.across, wide.left.across, rtol=0, atol=1e-8, equal_nan=True)
    assert right == 200


def test_slopes_that_cross_far_out_get_the_ground_they_need() -> None:
    """1 in 4 falling from the verge crosses 1 in 5 falling from 4 m higher at 80 m out: no rule alone says so. From there to ground."""
    rule = {
        "kind": "crossing",
        "from": "start",
        "slope": 0.25,
        "sense": "rise",
        "other": "high",
        "other_slope": 0.2,
        "other_sense": "rise",
    }
    far = part_from_dict({
        "name": "far", "label": "Far", "end": "meet", "runs": [{"nodes": ["start", "meet"], "roles": ["finished", "formation"]}],
        "nodes": [
            {"name": "high", "guide": True, "rule": {"kind": "across_and_up", "from": "start", "across": 0, "up": 4, "way": "outward",
            "sense": "rise"}},
            {"name": "meet", "rule": rule},
        ],
    })  # fmt: skip
    down = {"kind": "slope_until_surface", "from": "start", "slope": 0.5, "sense": "fall", "crossing": "first", "within": 50}
    last = part_from_dict({
        "name": "last", "label": "Last", "end": "toe", "runs": [{"nodes": ["start", "toe"], "roles": ["finished", "formation"]}],
        "nodes": [{"name": "toe", "rule": down}],
    })  # fmt: skip
    row = (PlacedPart("far", far, {}), PlacedPart("last", last, {}))
    template = Template("far", row, row)
    level = plane(60.0)
    made = solve_block(LINE, profile_from_pvis([PVI(0, 61), PVI(LINE.end_station, 61)]), template, level, [10.0, 30.0])
    assert_allclose(made.right.across[2], 80.0, rtol=0, atol=1e-9)
    assert_allclose(made.right.across[3], 80 + 2 * 21.0, rtol=0, atol=1e-6)  # 20 m up over 61 - 60
    assert not any(m.any() for m in made.right.unmet.values())
    assert made.ground.section(0)[-1, 0] > 122.0


# --- which stations belong to which stretch -------------------------------------------------------------------
def test_a_seam_belongs_to_both_blocks_of_a_range_and_to_the_one_ahead_of_single_stations() -> None:
    from ivoryridge.core.corridor.corridor import stations_once, stations_within

    s = np.array([0.0, 50.0, 100.0, 150.0, 200.0])
    assert stations_within(s, -np.inf, 100.0).tolist() == [0.0, 50.0, 100.0]
    assert stations_within(s, 100.0, 130.0).tolist() == [100.0, 130.0]
    assert stations_within(s, 100.00001, 200.0).tolist() == [100.00001, 150.0, 200.0]  # a station on an end stands once
    assert stations_within(s, 200.0, np.inf).tolist() == [] and stations_within(s, 300.0, 400.0).tolist() == []
    row = [Piece(rural(), -np.inf, 100.0), Piece(rural(), 100.0, 160.0), Piece(rural(), 180.0, np.inf)]
    assert [list(x) for x in stations_once([40.0, 100.0, 155.0, 170.0, 180.0], row)] == [[40.0], [100.0, 155.0], [180.0]]


def test_a_section_is_found_in_its_block_and_some_are_taken_across_blocks() -> None:
    made = corridor(*[rural()] * 4)
    at = [0, len(made.blocks[0].station) - 1, len(made.blocks[0].station), len(made.station) - 1]
    assert [made.section(i)[0] for i in at] == [made.blocks[0], made.blocks[0], made.blocks[1], made.blocks[3]]
    some = made.take(at)
    assert len(some.blocks) == 3 and some.station.tolist() == [made.station[i] for i in at]
    assert some.joined.tolist() == [True, False, False]
    for i, k in enumerate(at):
        (a, x), (b, y) = some.section(i), made.section(k)
        assert np.array_equal(a.left.across[:, x], b.left.across[:, y], equal_nan=True)
