"""The ground from recipe to one surface: closed forms, shapely, and what each check must find and must leave alone."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from ivoryridge.core.errors import InputError
from ivoryridge.core.terrain.breakline import divide_line
from ivoryridge.core.terrain.checks import check_ground
from ivoryridge.core.terrain.merge import merge_surfaces
from ivoryridge.core.terrain.outline import fill_holes, outline_of, pieces_of
from ivoryridge.core.terrain.recipe import Recipe, Source, build_surface, gather, lay_on, line_at, swap_edge
from ivoryridge.core.terrain.surface import Surface, find_triangles, read_surface, surface_area
from ivoryridge.core.terrain.survey import Survey, layers_of
from ivoryridge.core.terrain.thin import thin_to_tolerance, weed_line
from ivoryridge.core.terrain.triangulate import neighbours_of, surface_from_faces, triangulate

E0, N0 = 412_000.0, 687_000.0


def field(step: float = 10.0, side: float = 100.0, level: Any = lambda e, n: 50 + 0.1 * e + 0.05 * n, noise: float = 0.3) -> Any:
    """Points on a grid moved a little, so that no four lie on one circle."""
    e, n = (v.ravel() for v in np.meshgrid(np.arange(0, side + 1, step), np.arange(0, side + 1, step)))
    rng = np.random.default_rng(7)
    inner = (e > 0) & (e < side) & (n > 0) & (n < side)
    e, n = e + inner * rng.uniform(-noise, noise, len(e)), n + inner * rng.uniform(-noise, noise, len(n))
    return np.column_stack([E0 + e, N0 + n, level(e, n)])


def at(*rows: tuple[float, ...]) -> Any:
    return np.array(rows, float) + [E0, N0, 0.0]


def recipe(points: Any, lines: tuple[Any, ...] = (), types: tuple[str, ...] = (), **settings: Any) -> Recipe:
    return Recipe((Source(1, Survey(points, lines=lines, line_types=types, line_codes=("",) * len(lines))),), **settings)


# --- breakline density ---------------------------------------------------------------------------------------
@given(st.lists(st.tuples(*[st.floats(-500, 500)] * 3), min_size=2, max_size=8), st.floats(0.5, 200))
def test_a_line_is_divided_in_equal_parts_as_few_as_keep_the_spacing(vertices: list[Any], spacing: float) -> None:
    p = np.array(vertices)
    out, own = divide_line(p, spacing)
    assert np.array_equal(out[own], p)
    length = np.hypot(*np.diff(out[:, :2], axis=0).T)
    assert length.max() <= spacing * (1 + 1e-6)
    for i, (a, b) in enumerate(np.column_stack([np.flatnonzero(own)[:-1], np.flatnonzero(own)[1:]])):
        whole = np.hypot(*(p[i + 1] - p[i])[:2])
        assert_allclose(length[a:b], whole / (b - a), rtol=0, atol=1e-9)
        assert b - a == 1 or whole / (b - a - 1) > spacing * (1 - 1e-6)


def test_fixed_and_live_vertices_agree_before_an_edit_and_differ_after_it() -> None:
    """The product's rule: fixed ones stay where they were put, live ones follow the line."""
    line = at((5.0, 52.0, 60.0), (95.0, 48.0, 40.0))
    fixed = recipe(field(), (line,), edits=({"do": "fixed_vertices", "survey": 1, "line": 0, "spacing": 7.0},))
    live = recipe(field(), (line,), edits=({"do": "live_spacing", "survey": 1, "line": 0, "spacing": 7.0},))
    a, b = build_surface(fixed)[0], build_surface(live)[0]
    assert np.array_equal(a.points, b.points) and np.array_equal(a.triangles, b.triangles)
    both = recipe(field(), (line,), edits=(*fixed.edits, {"do": "live_spacing", "survey": 1, "line": 0, "spacing": 20.0}))
    assert np.array_equal(build_surface(both)[0].triangles, a.triangles)  # live adds only where it is needed
    end = {"do": "move_vertex", "survey": 1, "vertex": 0, "line": 0, "to": [E0 + 5.0, N0 + 20.0, 55.0]}
    (moved_fixed,), (moved_live,) = (gather(Recipe(r.sources, edits=(*r.edits, end))).lines for r in (fixed, live))
    before = gather(fixed).lines[0].vertices
    assert np.array_equal(moved_fixed.vertices[1:], before[1:]) and len(moved_live.vertices) == 2
    again, own = line_at(moved_live, live)
    assert own.sum() == 2 and len(again) == len(divide_line(moved_live.vertices, 7.0)[0])
    assert_allclose(np.cross(again[5] - again[0], again[-1] - again[0]), 0, atol=1e-6)  # straight to the new end


@given(st.integers(3, 60), st.floats(0.01, 3.0), st.floats(0.01, 1.0), st.integers(0, 1000))
def test_no_weeded_vertex_lies_farther_than_the_limits_from_the_kept_line(n: int, plan: float, level: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    p = np.column_stack([np.sort(rng.uniform(0, 200, n)), rng.normal(0, 1.5, n).cumsum(), rng.normal(0, 0.3, n).cumsum()])
    keep = weed_line(p, plan=plan, level=level)
    assert keep[0] == 0 and keep[-1] == n - 1
    kept = shapely.LineString(p[keep][:, :2])
    assert max(kept.distance(shapely.Point(q)) for q in p[:, :2]) <= plan + 1e-9


# --- boundaries, holes, pieces -------------------------------------------------------------------------------
def test_a_surface_is_cut_to_its_boundary_and_around_holes_and_its_levels_stay() -> None:
    ring = at((13, 13, 0), (77, 13, 0), (77, 77, 0), (13, 77, 0), (13, 13, 0))
    hole = at((33, 33, 0), (41, 33, 0), (41, 41, 0), (33, 41, 0))
    ring[:, 2] = hole[:, 2] = np.nan
    surface, _ = build_surface(recipe(field(), (ring, hole), ("outer boundary", "hole boundary")))
    assert_allclose(surface_area(surface)[0], 64 * 64 - 64, rtol=0, atol=1e-6)
    q = np.column_stack([E0 + np.linspace(14, 76, 40), N0 + np.linspace(76, 15, 40)])
    read = read_surface(surface, q).elevation
    plane = 50 + 0.1 * (q[:, 0] - E0) + 0.05 * (q[:, 1] - N0)
    outside_hole = ~((np.abs(q[:, 0] - E0 - 37) < 4) & (np.abs(q[:, 1] - N0 - 37) < 4))
    assert_allclose(read[outside_hole], plane[outside_hole], rtol=0, atol=1e-9)
    assert np.isnan(read[~outside_hole]).all()
    with pytest.raises(InputError, match="Nothing of the surface lies inside"):
        build_surface(recipe(field(), (ring + [5000, 0, 0],), ("outer boundary",)))


def without(surface: Surface, *places: tuple[float, float]) -> Surface:
    found, _ = find_triangles(surface, np.array(places) + [E0, N0])
    triangles = np.delete(surface.triangles, found, axis=0)
    return Surface(surface.points, triangles, neighbours_of(triangles))


def test_holes_are_filled_up_to_the_stated_area_and_the_outline_is_shapelys() -> None:
    whole, _ = triangulate(field())
    torn = without(whole, (22, 27), (26, 23), (71, 72))
    missing = surface_area(whole)[0] - surface_area(torn)[0]
    assert_allclose(outline_of(torn).area, surface_area(torn)[0], rtol=0, atol=1e-6)
    assert_allclose(
        outline_of(torn).area, shapely.union_all(shapely.polygons(torn.points[torn.triangles][:, :, :2])).area, rtol=1e-12
    )
    _, filled = fill_holes(torn, 60.0)
    assert len(filled) >= 1 and all(a <= 60.0 for a in filled)
    mended, filled = fill_holes(torn, 500.0)
    assert_allclose(sum(filled), missing, rtol=0, atol=1e-6)
    assert_allclose(surface_area(mended)[0], surface_area(whole)[0], rtol=0, atol=1e-6)
    assert len(outline_of(mended).interiors) == 0 and len(pieces_of(mended)) == 1


def test_pieces_are_listed_with_their_plan_areas() -> None:
    far = field(side=50) + [400.0, 0, 0]
    surface, _ = triangulate(np.concatenate([field(), far]), greatest_edge=20.0)
    pieces = pieces_of(surface)
    assert [round(p.plan_area) for p in pieces] == [10_000, 2_500]
    assert E0 + 400 <= pieces[1].place[0] <= E0 + 450


# --- merge ---------------------------------------------------------------------------------------------------
def west_and_east(step: float) -> tuple[Surface, Surface]:
    west, _ = triangulate(field(step=7.3, side=73.0))
    east, _ = triangulate(field(step=6.1, side=73.2, level=lambda e, n: 50 + step + 0.1 * (e + 40) + 0.05 * n) + [40.0, 0.0, 0.0])
    return west, east


def test_a_merge_leaves_no_gap_no_overlap_and_shared_vertices_at_the_seam() -> None:
    west, east = west_and_east(0.25)
    merged, (seam,), findings = merge_surfaces([west, east])
    union = shapely.union_all([outline_of(west), outline_of(east)])
    assert_allclose(surface_area(merged)[0], union.area, rtol=0, atol=1e-6)  # neither gap nor overlap ...
    assert_allclose(outline_of(merged).symmetric_difference(union).area, 0, atol=1e-6)  # ... and in the right place
    assert len(pieces_of(merged)) == 1  # joined across sides, so the vertices at the seam are shared
    assert_allclose([seam.greatest, seam.mean], 0.25, rtol=0, atol=1e-6)
    assert "steps by at most 0.250 m" in findings[0].sentence
    q = np.column_stack([E0 + np.linspace(1, 72, 300), N0 + np.linspace(3, 70, 300)])  # priority; new rim vertices within 1e-7 m
    assert_allclose(read_surface(merged, q).elevation, read_surface(west, q).elevation, rtol=0, atol=5e-8)
    q = np.column_stack([E0 + np.linspace(82, 112, 300), N0 + np.linspace(3, 70, 300)])
    assert_allclose(read_surface(merged, q).elevation, read_surface(east, q).elevation, rtol=0, atol=1e-9)


def test_priority_decides_and_what_is_covered_or_apart_is_told() -> None:
    west, east = west_and_east(0.25)
    other, _, _ = merge_surfaces([east, west])
    q = np.array([[E0 + 60.0, N0 + 30.0]])
    assert_allclose(read_surface(other, q).elevation, read_surface(east, q).elevation, rtol=0, atol=1e-9)
    inner, _ = triangulate(field(side=20.0) + [20.0, 20.0, 1.0])
    same, seams, findings = merge_surfaces([west, inner])
    assert same is west and not seams and findings[0].code == "merge-covered"
    apart, _ = triangulate(field(side=20.0) + [900.0, 0.0, 0.0])
    two, _, _ = merge_surfaces([west, apart])
    assert len(pieces_of(two)) == 2


# --- edits ---------------------------------------------------------------------------------------------------
def test_edits_change_points_and_lines_in_order_and_leaving_one_out_takes_it_back() -> None:
    points = field()
    base = recipe(points)
    edits = (
        {"do": "set_level", "survey": 1, "point": 60, "level": 99.0},
        {"do": "move_point", "survey": 1, "point": 61, "to": [E0 + 66.0, N0 + 51.0, 70.0]},
        {"do": "leave_out", "survey": 1, "points": [0, 5]},
        {"do": "add_point", "to": [E0 + 33.3, N0 + 44.4, 77.0]},
        {"do": "add_line", "vertices": [[E0 + 3, N0 + 22, 60.0], [E0 + 90, N0 + 27, 61.0]]},
        {"do": "move_point", "survey": 0, "point": 0, "to": [E0 + 33.3, N0 + 44.4, 78.0]},
        {"do": "leave_out_line", "survey": 7, "line": 3},  # a survey that is not here any more
    )
    surface, _ = build_surface(Recipe(base.sources, edits=edits))
    read = read_surface(surface, [[*points[60, :2]], [E0 + 66, N0 + 51], [E0 + 33.3, N0 + 44.4]]).elevation
    assert_allclose(read, [99.0, 70.0, 78.0], rtol=0, atol=1e-9)
    assert len(surface.breakline_edges) and len(gather(Recipe(base.sources, edits=edits)).points) == len(points) - 2 + 1
    assert np.array_equal(build_surface(Recipe(base.sources))[0].points, points)
    with pytest.raises(InputError, match=r"Edit 1 \('smooth'\)"):
        build_surface(Recipe(base.sources, edits=({"do": "smooth"},)))
    with pytest.raises(InputError, match="names something that is not there"):
        build_surface(Recipe(base.sources, edits=({"do": "leave_out_line", "survey": 1, "line": 9},)))


def test_a_side_is_turned_and_turned_back_and_triangles_are_taken_away() -> None:
    square = at((0, 0, 0), (10, 0, 5), (11, 10, 0), (0, 10, 5))
    surface, _ = triangulate(square)
    swapped = swap_edge(surface, [E0 + 5.2, N0 + 5.0])
    z, back = (read_surface(s, [[E0 + 5.0, N0 + 4.9]]).elevation[0] for s in (swapped, swap_edge(swapped, [E0 + 5.2, N0 + 5.0])))
    assert abs(z - back) > 4 and back == read_surface(surface, [[E0 + 5.0, N0 + 4.9]]).elevation[0]
    held, _ = triangulate(square, [square[[0, 2]]])
    with pytest.raises(InputError, match="part of a breakline"):
        swap_edge(held, [E0 + 5.3, N0 + 5.0])
    with pytest.raises(InputError, match="no two triangles"):
        swap_edge(surface, [E0 + 5.0, N0 + 0.01])
    cut, _ = build_surface(recipe(field(), edits=({"do": "delete_triangles", "at": [[E0 + 41.0, N0 + 43.0]]},)))
    assert np.isnan(read_surface(cut, [[E0 + 41.0, N0 + 43.0]]).elevation[0])


# --- thinning ------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("tolerance", [0.05, 0.5])
def test_thinning_keeps_every_point_within_the_tolerance(tolerance: float) -> None:
    rng = np.random.default_rng(11)
    p = np.column_stack([rng.uniform(0, 300, (20_000, 2)), np.zeros(20_000)]) + [E0, N0, 0]
    p[:, 2] = 8 * np.sin((p[:, 0] - E0) / 40) * np.cos((p[:, 1] - N0) / 55)
    kept, greatest = thin_to_tolerance(p, tolerance)
    z = read_surface(triangulate(p[kept])[0], p[:, :2]).elevation
    off = np.nanmax(np.abs(z - p[:, 2]))
    assert off <= tolerance and greatest <= tolerance and np.isnan(z).sum() == 0
    assert len(kept) < (6_000 if tolerance == 0.05 else 700)


# --- checks --------------------------------------------------------------------------------------------------
def codes(r: Recipe, surface: bool = False) -> list[str]:
    return [f.finding.code for f in check_ground(r, gather(r), build_surface(r)[0] if surface else None)]


def test_sound_ground_gives_no_finding() -> None:
    assert codes(recipe(field(), (at((5, 52, 53.1), (95, 48, 61.9)),)), surface=True) == []


def test_each_planted_fault_is_found_once_at_its_place_with_its_answer() -> None:
    p = field(level=lambda e, n: 80 + 0.1 * e)
    p[40, 2] = 0.0  # never measured
    p[66, 2] += 30.0  # a pole, not ground
    p[70] = [N0 + 40, E0 + 40, 84.0]  # axes changed over
    p = np.concatenate([p, p[[20]] + [0, 0, 0.4], at((60.0, 520.0, 86.0))])  # measured twice; far out alone
    p[90, 2] = np.nan
    r = recipe(p)
    found = {f.finding.code: f for f in check_ground(r, gather(r))}
    assert set(found) == {"zero-level", "spike", "swapped", "duplicate-levels", "isolated", "no-level"}
    zero = found["zero-level"]
    assert zero.points == ((1, 40),) and zero.finding.place == (p[40, 0], p[40, 1])
    assert zero.level == pytest.approx(80 + 0.1 * (p[40, 0] - E0), abs=0.5)
    assert found["spike"].points == ((1, 66),) and found["spike"].finding.params["height"] > 25
    assert found["duplicate-levels"].points == ((1, 20), (1, 121))
    assert found["swapped"].points == ((1, 70),) and found["isolated"].points == ((1, 122),)
    # answered, they are gone
    gone = [i for f in found.values() for _, i in f.points[-1:]]
    assert codes(Recipe(r.sources, edits=({"do": "leave_out", "survey": 1, "points": gone},))) == []


def test_points_off_a_breakline_and_contour_ground_are_told() -> None:
    line = at((0.0, 50.0, 52.5), (100.0, 50.0, 62.5))
    beside = np.concatenate([field(), at((33.0, 50.05, 56.3))])
    (found,) = check_ground(r := recipe(beside, (line,)), gather(r))
    assert found.finding.code == "off-breakline" and found.level == pytest.approx(55.8)
    rings = tuple(
        at(*[(60 + r * np.cos(a), 60 + r * np.sin(a), 70 - r / 5) for a in np.linspace(0, 2 * np.pi, 25)])
        for r in (10, 25, 40, 55)
    )
    assert codes(recipe(np.empty((0, 3)), rings, ("contour",) * 4), surface=True) == ["contours-only"]


def test_overlapping_surfaces_that_disagree_are_told_with_the_greatest_difference() -> None:
    """A pyramid over a plane, both meeting at 0 except one wedge: the greatest difference is the pyramid's height."""
    plane, _ = triangulate(field(level=lambda e, n: 50 + 0 * e))
    tent = surface_from_faces(
        at((20, 20, 50), (60, 20, 50), (60, 60, 50), (20, 60, 50), (41, 39, 53.2)), [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]]
    )
    sources = tuple(Source(i, Survey(s.points, faces=s.triangles)) for i, s in enumerate((plane, tent), 1))
    (found,) = check_ground(r := Recipe(sources), gather(r))
    assert found.finding.params["greatest"] == pytest.approx(3.2, abs=1e-9)
    assert found.finding.place == pytest.approx((E0 + 41, N0 + 39)) and found.finding.params["area"] == pytest.approx(0.16)


def test_layers_name_what_rules_are_tried_on() -> None:
    s = Survey(
        field(side=20.0), ("TR", "GRD", "GRD") * 3, (at((0, 0, 1), (1, 1, 2)),), line_codes=("WALL",), line_types=("CAD line",)
    )
    assert [(la.key, la.count) for la in layers_of(s)] == [("point/GRD", 6), ("point/TR", 3), ("CAD line/WALL", 1)]
    assert gather(Recipe((Source(1, s, {"point/TR": "ignore", "CAD line/WALL": "breakline"}),))).points.shape == (6, 3)
    assert gather(Recipe((Source(1, s),))).lines[0].role == "unsorted"


def test_a_line_laid_on_the_ground_lies_on_it_all_along() -> None:
    surface, _ = triangulate(field(level=lambda e, n: 50 + 3 * np.sin(e / 9) + 2 * np.cos(n / 7)))
    (laid,) = lay_on(surface, np.array([[E0 + 3, N0 + 4], [E0 + 88, N0 + 51], [E0 + 20, N0 + 96]]))
    share = np.linspace(0, 1, 7)[None, :, None]
    between = laid[:-1, None] + share * (laid[1:, None] - laid[:-1, None])
    z = read_surface(surface, between.reshape(-1, 3)[:, :2]).elevation
    assert_allclose(z, between.reshape(-1, 3)[:, 2], rtol=0, atol=1e-9)
    assert len(laid) > 25
    out = lay_on(
        surface, np.array([[E0 - 20, N0 + 50], [E0 + 50, N0 + 120], [E0 + 120, N0 + 50]])
    )  # off, a corner cut, off again
    assert len(out) == 2 and all(np.isfinite(p).all() for p in out)
