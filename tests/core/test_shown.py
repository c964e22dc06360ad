"""Contours and what is shown of large surfaces: a general-purpose contour library, level lines that may not cross, closed forms."""

from __future__ import annotations

from typing import Any

import contourpy
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from matplotlib import cbook
from numpy.testing import assert_allclose

from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.terrain.rounding import round_surface
from ivoryridge.core.terrain.shown import lattice_of, triangles_within
from ivoryridge.core.terrain.surface import Surface, read_surface, surface_area
from ivoryridge.core.terrain.triangulate import surface_from_faces, triangulate

E0, N0 = 412_000.0, 687_000.0


def hills(count: int, seed: int = 1) -> Surface:
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, 400, (count, 2))
    return triangulate(np.column_stack([xy + [E0, N0], level(xy)]))[0]


def level(xy: Any) -> Any:
    return 10 * np.sin(xy[:, 0] / 40) + 8 * np.cos(xy[:, 1] / 50)


def lines_of(surface: Surface, interval: float) -> list[tuple[float, Any]]:
    levels = levels_between(*surface.elevation_range, interval)
    xy, starts, at = compute_contours(surface, levels)
    return [(float(levels[at[i]]), shapely.LineString(xy[starts[i] : starts[i + 1]])) for i in range(len(at))]


def test_contours_are_those_of_contourpy_on_open_elevation_data() -> None:
    """Data: jacksboro_fault_dem.npz, shipped with matplotlib. contourpy cuts each cell into four triangles at its mean; so do we."""
    with cbook.get_sample_data("jacksboro_fault_dem.npz") as sample:
        z = sample["elevation"][:60, :80].astype(float) + 0.1  # no corner and no mean of four lies on a level
    rows, columns = z.shape
    y, x = np.mgrid[:rows, :columns].astype(float)
    corner = np.arange(rows * columns).reshape(rows, columns)
    ring = [c.ravel() for c in (corner[:-1, :-1], corner[:-1, 1:], corner[1:, 1:], corner[1:, :-1])]
    middle = rows * columns + np.arange(len(ring[0]))
    points = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    points = np.concatenate([points, np.mean([points[r] for r in ring], axis=0)])
    faces = np.concatenate([np.column_stack([ring[i], ring[(i + 1) % 4], middle]) for i in range(4)])
    ours = lines_of(surface_from_faces(points, faces), 20.0)
    generator = contourpy.contour_generator(x, y, z, name="serial", quad_as_tri=True)
    levels = sorted({lv for lv, _ in ours})
    assert len(levels) > 15
    for lv in levels:
        theirs = [shapely.LineString(xy) for xy in generator.lines(lv)]
        mine = [line for own, line in ours if own == lv]
        assert len(mine) == len(theirs)
        assert_allclose(sum(m.length for m in mine), sum(t.length for t in theirs), rtol=0, atol=1e-6)
        apart = shapely.hausdorff_distance(shapely.MultiLineString(mine), shapely.MultiLineString(theirs))
        assert apart < 1e-6


@settings(deadline=None, max_examples=15)
@given(seed=st.integers(0, 10_000), count=st.integers(5, 90), rough=st.floats(0, 12))
def test_rounded_contours_never_cross_each_other(seed: int, count: int, rough: float) -> None:
    rng = np.random.default_rng(seed)
    xy = rng.uniform(0, 200, (count, 2))
    rim = np.array([(60.0, 60, 5.3), (140, 70, 9.1), (130, 140, 2.2)])
    surface, _ = triangulate(np.concatenate([np.column_stack([xy, level(xy) + rough * rng.normal(size=count)]), rim]), [rim])
    lines = [line for _, line in lines_of(round_surface(surface), 1.0)]
    a, b = shapely.STRtree(lines).query(lines, predicate="intersects")
    assert (a == b).all() and len(a) == len(lines) > 5


def test_rounding_keeps_levels_given_bounds_and_planes_and_comes_nearer_to_a_smooth_hill() -> None:
    plain = hills(1500)
    smooth = round_surface(plain)
    assert len(smooth.triangles) == 16 * len(plain.triangles)
    assert_allclose(smooth.points[: len(plain.points)], plain.points, rtol=0, atol=0)
    assert_allclose(surface_area(smooth)[0], surface_area(plain)[0], rtol=1e-12)
    places = np.random.default_rng(3).uniform(30, 370, (5000, 2))
    off = [np.sqrt(np.nanmean((read_surface(s, places + [E0, N0]).elevation - level(places)) ** 2)) for s in (plain, smooth)]
    assert off[1] < 0.75 * off[0]
    tilted = plain.points.copy()
    tilted[:, 2] = 50 + 0.1 * (tilted[:, 0] - E0) - 0.2 * (tilted[:, 1] - N0)
    still = round_surface(Surface(tilted, plain.triangles, plain.neighbours))
    assert_allclose(still.points[:, 2], 50 + 0.1 * (still.points[:, 0] - E0) - 0.2 * (still.points[:, 1] - N0), rtol=0, atol=1e-8)


def test_rounding_leaves_breaklines_and_the_boundary_straight() -> None:
    roof = np.array([(0.0, 0, 0), (100, 0, 0), (100, 50, 10), (100, 100, 0), (0, 100, 0), (0, 50, 10), (30, 20, 6), (70, 80, 1)])
    surface, _ = triangulate(roof, [roof[[5, 2]]])
    smooth = round_surface(surface)
    ridge = read_surface(smooth, np.column_stack([np.linspace(1, 99, 40), np.full(40, 50.0)])).elevation
    assert_allclose(ridge, 10.0, rtol=0, atol=1e-9)
    eaves = read_surface(smooth, np.column_stack([np.linspace(1, 99, 40), np.zeros(40)])).elevation
    assert_allclose(eaves, 0.0, rtol=0, atol=1e-9)


def test_a_lattice_reads_the_surface_and_has_as_few_triangles_as_asked() -> None:
    surface = hills(4000)
    seen, spacing = lattice_of(surface, surface.extent, 3000)
    assert 2000 < len(seen.triangles) <= 3000 and spacing == pytest.approx(np.sqrt(2 * 400 * 400 / 3000), rel=0.05)
    assert_allclose(seen.points[:, 2], read_surface(surface, seen.points[:, :2]).elevation, rtol=0, atol=1e-9)
    apart, _ = lattice_of(surface, (E0 - 900, N0, E0 - 800, N0 + 100), 500)
    assert not len(apart.triangles)


def test_triangles_in_a_window_are_the_surfaces_own() -> None:
    surface = hills(2000)
    window = (E0 + 100, N0 + 150, E0 + 180, N0 + 210)
    near = triangles_within(surface, window)
    assert 50 < len(near.triangles) < len(surface.triangles) / 4
    places = np.random.default_rng(5).uniform(window[:2], window[2:], (500, 2))
    assert_allclose(read_surface(near, places).elevation, read_surface(surface, places).elevation, rtol=0, atol=1e-12)
    whole = triangles_within(surface, surface.extent)
    assert len(whole.triangles) == len(surface.triangles) and (whole.neighbours == surface.neighbours).all()
