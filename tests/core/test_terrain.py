"""Terrain: against scipy's Delaunay, closed forms and a second way of reading."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.spatial import Delaunay

from ivoryridge.core.errors import InputError
from ivoryridge.core.terrain.contour import compute_contours
from ivoryridge.core.terrain.section_cut import cut_lines, cut_polyline
from ivoryridge.core.terrain.surface import read_surface, surface_area
from ivoryridge.core.terrain.triangulate import surface_from_faces, triangulate
from ivoryridge.core.terrain.volume import volume_to_level

FAR = np.array([500_000.0, 6_200_000.0, 0.0])  # a national grid: large coordinates must cost nothing


def scattered(n: int = 400, seed: int = 3, size: float = 1000.0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, size, (n, 2))
    return np.column_stack([xy, 50 + 8 * np.sin(xy[:, 0] / 130) + 5 * np.cos(xy[:, 1] / 90)])


def triangle_set(triangles: np.ndarray) -> set[tuple[int, ...]]:
    return {tuple(sorted(int(i) for i in t)) for t in triangles}


@settings(max_examples=20)
@given(st.integers(0, 10_000))
def test_triangles_are_those_of_scipy(seed: int) -> None:
    points = scattered(60, seed)
    surface, _ = triangulate(points + FAR)
    assert triangle_set(surface.triangles) == triangle_set(Delaunay(points[:, :2]).simplices)


def test_breaklines_are_edges_and_read_as_themselves() -> None:
    line = np.array([[100, 100, 80.0], [480, 520, 82.0], [900, 610, 70.0]]) + FAR
    surface, findings = triangulate(scattered() + FAR, [line])
    share = np.linspace(0, 1, 33)[:, None]
    on_line = np.concatenate([a + share * (b - a) for a, b in itertools.pairwise(line)])
    assert_allclose(read_surface(surface, on_line).elevation, on_line[:, 2], rtol=0, atol=1e-6)
    assert not findings


def test_crossing_breaklines_take_the_level_of_the_first_and_are_told() -> None:
    first, second = np.array([[0, 500, 60.0], [1000, 500, 60.0]]), np.array([[500, 0, 63.0], [500, 1000, 63.0]])
    surface, findings = triangulate(scattered() + FAR, [first + FAR, second + FAR])
    assert_allclose(read_surface(surface, [FAR[:2] + 500]).elevation, [60.0], rtol=0, atol=1e-6)
    assert [f.code for f in findings] == ["breaklines-cross-levels"]
    assert findings[0].params["difference"] == pytest.approx(3.0, abs=1e-6)


def test_duplicates_are_taken_once_and_told_when_their_levels_differ() -> None:
    points = scattered(50)
    doubled = np.concatenate([points, points[:3] + [0, 0, 0.5]])
    surface, findings = triangulate(doubled)
    assert len(surface.points) == 50
    assert findings[0].code == "points-duplicate-levels" and findings[0].params["count"] == 3
    assert_allclose(read_surface(surface, points[:3]).elevation, points[:3, 2], rtol=0, atol=1e-9)


@pytest.mark.parametrize(
    ("points", "code"),
    [
        (np.empty((0, 3)), "too-few-points"),
        ([[0, 0, 1], [5, 5, 1], [0, 0, 2]], "too-few-points"),
        ([[0, 0, 1], [5, 5, 1], [9, 9, 2], [11, 11, 3]], "points-in-line"),
        ([[0, 0, 1], [5, 5, float("nan")], [9, 0, 2]], "points-not-finite"),
    ],
)
def test_points_that_make_no_surface_are_refused(points: object, code: str) -> None:
    with pytest.raises(InputError) as told:
        triangulate(points)
    assert told.value.code == code


def test_plane_gives_its_level_slope_aspect_and_area() -> None:
    xy = scattered(200)[:, :2]
    surface, _ = triangulate(np.column_stack([xy, 10 + 0.3 * xy[:, 0] - 0.4 * xy[:, 1]]) + FAR)
    r = read_surface(surface, [FAR[:2] + [431.5, 512.25], FAR[:2] - 50_000])
    assert_allclose(
        [r.elevation[0], r.slope[0], np.degrees(r.aspect[0])], [10 + 0.3 * 431.5 - 0.4 * 512.25, 0.5, 323.1301], rtol=0, atol=1e-4
    )
    assert np.isnan(r.elevation[1]) and r.triangle[1] == -1
    plan, slope = surface_area(surface)
    assert slope / plan == pytest.approx(np.sqrt(1 + 0.25), abs=1e-9)


@settings(max_examples=15)
@given(st.integers(0, 1000), st.floats(0, 2 * np.pi))
def test_section_cut_is_the_surface_read_along_the_line(seed: int, angle: float) -> None:
    surface, _ = triangulate(scattered(300, seed) + FAR)
    middle, way = FAR[:2] + 500, np.array([np.sin(angle), np.cos(angle)])
    cut = cut_lines(surface, [middle - 450 * way], [middle + 450 * way]).section(0)
    inside = np.linspace(20, 880, 77)
    expected = read_surface(surface, middle + (inside - 450)[:, None] * way).elevation
    known = np.isfinite(expected)
    assert known.sum() > 60
    assert_allclose(np.interp(inside, cut[:, 0], cut[:, 1])[known], expected[known], rtol=0, atol=1e-5)


def test_section_cut_does_not_bridge_a_hole() -> None:
    points = np.array([[0, 0, 1], [10, 0, 1], [0, 10, 1], [20, 0, 1], [30, 0, 1], [30, 10, 1]], float)
    surface = surface_from_faces(points, [[0, 1, 2], [3, 4, 5]])
    cut = cut_polyline(surface, [[-5, 1], [35, 1]])
    assert np.isnan(cut[:, 1]).any()
    known = cut[np.isfinite(cut[:, 1])]
    gap = np.diff(known[:, 0]).max()
    assert gap == pytest.approx(21 - 9, abs=1e-6)  # from x = 9 on the first triangle to x = 21 on the second


def test_contours_lie_on_the_surface_and_none_is_lost() -> None:
    surface, _ = triangulate(scattered(800))
    levels = np.arange(40, 64, 1.0)
    xy, starts, level = compute_contours(surface, levels)
    on = np.repeat(levels[level], np.diff(starts))
    assert_allclose(read_surface(surface, xy).elevation, on, rtol=0, atol=1e-6)
    z = surface.points[surface.triangles][:, :, 2]
    crossings = sum(int(((z.min(axis=1) < v) & (z.max(axis=1) >= v)).sum()) for v in levels)
    assert sum(len(xy[a:b]) - 1 for a, b in itertools.pairwise(starts)) == crossings


def test_contour_through_vertices_is_one_closed_line() -> None:
    """A pyramid over a square: the contour at half height is the square of half the side (closed form)."""
    points = np.array([[0, 0, 0], [8, 0, 0], [8, 8, 0], [0, 8, 0], [4, 4, 4]], float)
    surface = surface_from_faces(points, [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]])
    xy, starts, _ = compute_contours(surface, [2.0])
    assert len(starts) == 2 and xy[0].tolist() == xy[-1].tolist()
    assert np.hypot(*np.diff(xy, axis=0).T).sum() == pytest.approx(16, abs=1e-9)
    assert volume_to_level(surface, 0.0) == pytest.approx((8 * 8 * 4 / 3, 0.0), abs=1e-9)
    above, below = volume_to_level(surface, 2.0)
    assert above == pytest.approx(4 * 4 * 2 / 3, abs=1e-9)
    assert below == pytest.approx(128 - 256 / 3 + 32 / 3, abs=1e-9)


def test_long_outer_edges_are_peeled_off() -> None:
    ring = scattered(300)
    lonely = np.concatenate([ring, [[5000.0, 500.0, 50.0]]])
    kept, _ = triangulate(lonely, greatest_edge=400)
    assert kept.points[np.unique(kept.triangles), 0].max() < 1001
    inside = read_surface(kept, ring[:, :2]).elevation
    assert np.isfinite(inside).mean() > 0.95
