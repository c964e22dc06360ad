"""Every part of the library against its handbook geometry, worked out here by hand; what is measured on it against shapely."""

from __future__ import annotations

from math import hypot, inf
from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose
from shapely.geometry import Polygon

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.columns import SideColumns
from ivoryridge.core.section.library import library_part, library_parts
from ivoryridge.core.section.solve import solve_side
from ivoryridge.core.section.structure import Layer, Structure
from ivoryridge.core.section.template import PlacedPart, Template, place_part

Row = tuple[float, float]
LEVEL = 100.0
FLAT = [(-5.0, LEVEL), (400.0, LEVEL)]


def lines(points: list[Row]) -> tuple[np.ndarray, np.ndarray]:
    a = np.array(points, float)
    return a[None, :, 0], a[None, :, 1]


def solved(name: str, values: dict[str, Any], up: float, **more: Any) -> tuple[dict[str, Row], dict[str, float], SideColumns]:
    """Places of its nodes from a start at the centre, ``up`` m over level ground at 100 m; areas by shapely."""
    structures = more.get("structures", {})
    placed = place_part("p", library_part(name), values, structures, more.get("targets"))
    surfaces = {k: lines(v) for k, v in more.get("surfaces", {}).items()}
    side = solve_side((placed,), [LEVEL + up], lines(more.get("ground", FLAT)), surfaces=surfaces)
    at = {n.split(".")[-1]: (float(side.across[i, 0]), float(side.level[i, 0]) - LEVEL) for i, n in enumerate(side.names)
          if side.present[i, 0]}  # fmt: skip
    areas: dict[str, float] = {}
    counted = {m for x in side.upon for m in (x.made_up, x.taken_off)}
    for x in side.upon:
        areas |= {x.made_up: float(x.areas[0, 0]), x.taken_off: float(x.areas[1, 0])}
    for area, material, nodes in side.areas:
        if material in counted:
            continue
        loop = [(side.across[i, 0], side.level[i, 0]) for i in nodes if side.present[i, 0]]
        if len(loop) > 2:
            shape = Polygon(loop)
            assert shape.is_valid, f"{name}: {area} crosses itself"
            areas[area] = areas.get(area, 0.0) + shape.area
    return at, areas, side


LANE = {"lane_edge": (3.65, -0.09125), "pavement_edge": (4.65, -0.11625)}
TWO = Structure("Two", (Layer("surfacing", 0.05), Layer("base", 0.2, step_out=0.15)))
# part -> values, height of its start over the ground, what is expected of its nodes (across, up from the ground's level) and areas.
# Levels are worked out from the start's; 1 in n over a height h is n h wide (common practice, no source).
CASES: list[tuple[str, dict[str, Any], float, dict[str, Row], dict[str, float], dict[str, Any]]] = [
    ("carriageway", {}, 0, {**LANE, "c3": (0, -0.55), "e3": (4.65, -0.66625)}, {"surfacing": 0.465, "base": 0.93, "subbase": 1.1625}, {}),
    ("carriageway", {"falls": "inward", "shoulder_falls": "inward"}, 0, {"pavement_edge": (4.65, 0.11625)}, {}, {}),
    ("carriageway_layered", {"structure": "Two"}, 0, LANE,
     # the base stands out 0.15 m under the surfacing, in its plane: a parallelogram 4.65 + 0.15 wide
     {"surfacing": 0.05 * 4.65, "base": 0.2 * 4.80}, {"structures": {"Two": TWO}}),
    ("central_reserve", {"width": 3}, 0, {"reserve_edge": (3, 0.12)}, {}, {}),
    ("hard_strip", {}, 0, {"strip_edge": (1, -0.025), "under_out": (1, -0.575)}, {"strip": 0.55}, {}),
    ("channel", {}, 0, {"channel_low": (0.3, -0.06), "channel_edge": (0.6, 0)}, {"bed": 0.6 * 0.26 - 0.5 * 0.6 * 0.06}, {}),
    ("kerb", {}, 0, {"channel_low": (0.25, -0.0125), "kerb_top": (0.27, 0.1125), "kerb_back": (0.4, 0.1125)},
     {"kerb and bed": 0.25 * 0.15 + 0.15 * (0.15 + 0.125) - 0.5 * 0.02 * 0.125}, {}),
    ("footway", {}, 0, {"back": (2, 0.04), "b_out": (2, -0.17)}, {"surfacing": 0.12, "base": 0.3}, {}),
    ("cycle_track", {"falls": "outward"}, 0, {"back": (2.5, -0.05)}, {"surfacing": 0.15, "base": 0.375}, {}),
    ("verge", {"width": 1.5}, 0, {"verge_edge": (1.5, -0.06)}, {}, {}),
    ("barrier", {}, 0, {"barrier_verge": (2.5, -0.1), "foot": (0.6, -0.024), "top": (0.6, 0.726), "gives_way_to": (1.9, -0.076)}, {}, {}),
    ("v_ditch", {"inner": 3, "outer": 1.5}, 0, {"invert": (1.8, -0.6), "ditch_top": (2.7, 0)}, {}, {}),
    ("flat_ditch", {}, 0, {"invert": (1.6, -0.8), "invert_out": (2.1, -0.8), "ditch_top": (3.7, 0)}, {}, {}),
    ("swale", {}, 0, {"invert": (1.5, -0.4), "invert_out": (2.5, -0.4), "swale_top": (4, 0)}, {"topsoil": 4 * 0.15}, {}),
    ("filter_drain", {}, 0, {"drain_edge": (0.6, -0.024), "trench_out": (0.6, -1.2), "pipe": (0.3, -1.05)},
     {"stone": 0.6 * 1.2 - 0.5 * 0.6 * 0.024}, {}),
    # first 1 m at 1 in 4, last 0.5 m high at 1 in 3, the middle 1 in 2: 1 + 2 (3 - 0.25 - 0.5) + 1.5
    ("side_slopes", {}, 3, {"fill_upper": (1, 2.75), "fill_lower": (5.5, 0.5), "toe": (7, 0)}, {}, {}),
    ("side_slopes", {}, -2, {"ditch_in": (2.4, -2.8), "ditch_out": (3.0, -2.8), "toe": (3 + 2.8 * 1.75, 0)}, {}, {}),
    ("slope_by_height", {}, 1.9, {"toe": (1.9 * 4, 0)}, {}, {}),
    ("slope_by_height", {}, 4.9, {"toe": (4.9 * 2.5, 0)}, {}, {}),
    ("slope_by_height", {}, 5.1, {"toe": (5.1 * 2, 0)}, {}, {}),
    ("slope_by_height", {}, -1.4, {"ditch": (1, -1.9), "toe": (1 + 1.9 * 4, 0)}, {}, {}),
    ("slope_by_height", {}, -4.6, {"ditch": (1, -5.1), "toe": (1 + 5.1 * 2, 0)}, {}, {}),
    # two benches of 3 m falling 4 % to the road, every 5 m of rise: 12 - 10 - 0.24 are left
    ("benched_cut", {}, -12, {"inner_1": (7.5, -7), "outer_1": (10.5, -6.88), "inner_2": (18, -1.88), "outer_2": (21, -1.76),
                              "toe": (21 + 1.76 * 1.5, 0)}, {}, {}),
    ("benched_fill", {"benches": 1}, 12, {"inner_1": (7.5, 7), "outer_1": (10.5, 6.88), "toe": (10.5 + 6.88 * 1.5, 0)}, {}, {}),
    ("topsoiled_slope", {}, 4, {"toe": (8, 0)}, {"topsoil": 0.15 * hypot(8, 4)}, {}),
    ("topsoiled_slope", {"cut_slope": 1.5}, -4, {"toe": (6, 0)}, {"topsoil": 0.15 * hypot(6, 4)}, {}),
    # rock at 2 m above the start, steep to it; 2 m of ledge falling 4 %; soil 1 in 2
    ("rock_slope", {}, -5, {"rock_top": (1, -3), "ledge_end": (3, -3.08), "toe": (3 + 3.08 * 2, 0)}, {},
     {"targets": {"rock": "Rock"}, "surfaces": {"Rock": [(-5, LEVEL - 3), (400, LEVEL - 3)]}}),
    ("rock_slope", {}, -5, {"toe": (10, 0)}, {}, {"targets": {"rock": 200.0}}),
    ("wall_in_cut", {}, -3, {"foot": (0.3, -3), "top_back": (0.7, 0.15), "top_front": (0.3, 0.15), "toe": (0.7, 0)},
     {"stem": 0.4 * (3 + 0.15 + 0.3), "base": (0.5 + 0.4 + 1.2) * 0.4}, {}),
    ("wall_in_cut", {}, 2, {"toe": (4, 0)}, {}, {}),
    ("wall_in_fill", {}, 3, {"top_back": (0, 3.1), "top_front": (0.4, 3.1), "toe": (0.4, 0)},
     {"stem": 0.4 * (3.1 + 0.5), "base": (1.2 + 0.4 + 0.5) * 0.4}, {}),
    ("wall_in_fill", {}, -2, {"toe": (4, 0)}, {}, {}),
    # 3 m at 2.5 % over an old surface that is level 0.15 m down: 0.11 m of regulating at the centre, 0.035 m at the edge
    ("overlay", {}, 0, {"overlay_edge": (3, -0.075), "old_3": (3, -0.15)}, {"surfacing": 0.12, "regulating": 3 * (0.11 + 0.035) / 2},
     {"targets": {"existing": "Old"}, "surfaces": {"Old": [(-5, LEVEL - 0.15), (400, LEVEL - 0.15)]}}),
    # the surface rises 0.05 m over the underside at the centre, and lies 0.025 m under it at the edge
    ("overlay", {"planing": 0.05}, 0, {"old_1": (0, 0.01)}, {"regulating": 0.5 * 1 * 0.025, "planing": 0.5 * 2 * 0.05},
     {"targets": {"existing": "Old"}, "surfaces": {"Old": [(-5, LEVEL + 0.01 + 5 * 0.05), (400, LEVEL + 0.01 - 400 * 0.05)]}}),
    ("saw_cut", {}, 0, {"pavement_edge": (1, -0.025), "j4": (0.3, -0.3), "e3": (1, -0.575)},
     # the joint is level, the new pavement falls 0.025 m over 1 m: under it 0.15 m at 0.1 and 0.85 m falling from 0.1 to 0.125
     {"surfacing": 0.15 * 0.1 + 0.85 * 0.1125 - 0.0125, "base": 0.15 * 0.3 + 0.7 * 0.3125 - 0.85 * 0.1125, "subbase": 0.25 * 0.7}, {}),
    ("hard_standing", {"width": 4}, 0, {"standing_back": (4, -0.08)}, {"surfacing": 0.32, "base": 1.2}, {}),
    ("deck", {}, 8, {"deck_edge": (5, 7.875), "under_out": (5, 7.275), "parapet_top": (5, 8.875)}, {"slab": 3.0}, {}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "values", "up", "nodes", "areas", "more"), CASES, ids=lambda c: c if isinstance(c, str) else "")
def test_a_part_of_the_library_lies_where_its_geometry_says(
    name: str, values: Any, up: float, nodes: Any, areas: Any, more: Any
) -> None:
    at, measured, _ = solved(name, values, up, **more)
    for node, place in nodes.items():
        assert_allclose(at[node], place, rtol=0, atol=1e-9, err_msg=node)
    for area, size in areas.items():
        assert measured[area] == pytest.approx(size, abs=1e-9), area


def test_no_part_of_the_library_is_left_out() -> None:
    assert {c[0] for c in CASES} == set(library_parts()) and len(library_parts()) >= 20
    for name in library_parts():
        part = library_part(name)
        assert part.remark and all(p.label for p in part.parameters), name
        limits = [p for p in part.parameters if p.kind not in ("choice", "structure")]
        assert all(-inf < p.least < p.greatest < inf for p in limits), name


def test_handbook_sections_through_real_parts() -> None:
    """Two-level, three-level and side-hill sections of the surveying handbooks, formation half width b and slope 1 in s: two-level
    A = (2 b + s h) h (level ground; c. 1900, from memory: 'level section'), three-level A = h (w1 + w2) / 2 + b (h1 + h2) / 2."""
    b, s, h = 5.0, 2.0, 3.0
    road = PlacedPart("r", library_part("central_reserve"), {"width": b, "crossfall": 0})
    slope = PlacedPart("s", library_part("topsoiled_slope"), {"fill_slope": s, "cut_slope": s, "topsoil": 0})

    def area(ground: list[Row], level: float) -> float:
        """Between ground and finished line by shapely."""
        ends, design, sides = [], [], {}
        for sign in (-1, 1):
            here = sorted((sign * u, z) for u, z in ground)
            side = solve_side((road, slope), [level], lines(here))
            u, z = side.placed("finished")
            row = [(sign * a, b) for a, b in zip(u[:, 0], z[:, 0], strict=True) if np.isfinite(a)]
            sides[sign] = row
            ends.append(row[-1])
        design = [*reversed(sides[-1]), *sides[1][1:]]
        top = [p for p in ground if ends[0][0] < p[0] < ends[1][0]]
        return float(Polygon([*design, *reversed(top)]).area)

    assert area([(-100, 0), (0, 0), (100, 0)], -h) == pytest.approx((2 * b + s * h) * h)
    left, right = 0.1, -0.05  # ground at the centre, falling and rising from it
    w = [(b + s * h) / (1 - s * g) for g in (left, right)]
    heights = [h + g * x for g, x in zip((left, right), w, strict=True)]
    three = h * (w[0] + w[1]) / 2 + b * (heights[0] + heights[1]) / 2
    assert area([(-100, 100 * left), (0, 0), (100, 100 * right)], -h) == pytest.approx(three)


@pytest.mark.parametrize("name", [n for n in library_parts() if library_part(n).targets])
def test_a_target_that_is_not_bound_is_said(name: str) -> None:
    with pytest.raises(InputError, match=library_part(name).targets[0].label):
        solved(name, {}, -1.0)


def test_checks_that_are_not_kept_and_layers_that_nobody_builds_are_findings_of_the_road() -> None:
    from .test_corridor import plane, straight_road

    thick = Structure("Thick", (Layer("surfacing", 0.1), Layer("base", 0.9, 0.1, 0.4)))
    lane = place_part("c", library_part("carriageway_layered"), {"structure": "Thick"}, {"Thick": thick})
    barrier = PlacedPart("b", library_part("barrier"), {"width": 1.5})
    template = Template("t", (lane,), (lane, barrier, PlacedPart("s", library_part("topsoiled_slope"))))
    found = [
        f for f in straight_road(plane(), 101, 101, template=template).findings if f.code in ("part-check", "layer-implausible")
    ]
    assert [f.sentence for f in found] == [
        "Carriageway on a structure, left and right: base is 0.900 m thick; plausible is 0.100 m to 0.400 m.",
        "Safety barrier, right: Room behind the face of the barrier is 0.90 m; at least 1.30 m is wanted.",
    ]


def test_a_case_that_hangs_on_unknown_ground_is_told_and_nothing_is_guessed() -> None:
    """Ground to 6 m right of the line only: the hinge of the slope lies beyond it."""
    from .test_corridor import E0, N0, straight_road
    from .test_terrain import triangulate

    e, n = np.meshgrid(np.arange(-60, 7, 3.0), np.arange(-60, 500, 20.0))
    surface = triangulate(np.column_stack([E0 + e.ravel(), N0 + n.ravel(), np.full(e.size, 100.0)]))[0]
    road = straight_road(surface, 101, 101)
    (found,) = [f for f in road.findings if f.code == "case-unknown"]
    assert found.params["side"] == "right" and found.severity == "fault"
    taken, _ = road.blocks[0].right.case_of["slope"]
    assert (taken == -1).all() and not road.blocks[0].right.present[road.blocks[0].right.index("slope.toe")].any()
