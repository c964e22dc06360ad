"""The same thing a second way: rays against shapely, geometry against definitions, roads against their mirror and reverse."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, sample_stations
from ivoryridge.core.alignment.vertical import PVI, length_through_point, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.earthwork.end_area import compute_areas, compute_volumes, prismoidal_volume
from ivoryridge.core.geometry.plane import azimuth_between, fillet, line_circle, path_lengths, polygon_area, wrap_angle
from ivoryridge.core.section.meeting import elevation_on_ground, meet_ground
from ivoryridge.core.terrain.contour import levels_between
from ivoryridge.core.terrain.triangulate import triangulate
from ivoryridge.core.terrain.volume import prism_volumes
from ivoryridge.core.units import quadrant_bearing
from tests.core.test_corridor import E0, N0, rural


@st.composite
def rough_ground(draw: st.DrawFn) -> np.ndarray:
    steps = draw(st.lists(st.floats(0.5, 8), min_size=6, max_size=20))
    levels = draw(st.lists(st.floats(85, 110), min_size=len(steps) + 1, max_size=len(steps) + 1))
    return np.column_stack([np.concatenate([[0.0], np.cumsum(steps)]), levels])


@settings(max_examples=150)
@given(rough_ground(), st.floats(0.1, 1.5), st.booleans())
def test_meeting_is_the_first_or_last_crossing_that_shapely_finds(ground: np.ndarray, slope: float, last: bool) -> None:
    """From 100 m at the centre, falling. A meeting arrives from above: of all crossings those with the ray above before."""
    hinge = 100.0
    if abs(ground[0, 1] - hinge) < 0.01:
        return
    far = ground[-1, 0]
    ray = shapely.LineString([(0, hinge), (far, hinge - slope * far)])
    crossings = sorted(
        p.x for p in shapely.get_parts(shapely.intersection(ray, shapely.LineString(ground))) if p.geom_type == "Point"
    )
    height = lambda u: hinge - slope * u - np.interp(u, ground[:, 0], ground[:, 1])  # noqa: E731
    arriving = [u for u in crossings if u > 1e-6 and height(u - 1e-5) > 0 and height(min(u + 1e-5, far)) <= 1e-9]
    u, z = meet_ground([0.0], [hinge], [-slope], (ground[None, :, 0].copy(), ground[None, :, 1].copy()), limit=far, last=last)
    if not arriving:
        assert np.isnan(u[0]) or height(u[0]) == pytest.approx(0, abs=1e-6)
        return
    assert u[0] == pytest.approx(arriving[-1 if last else 0], abs=1e-4)
    assert z[0] == pytest.approx(
        float(elevation_on_ground(u, (ground[None, :, 0].copy(), ground[None, :, 1].copy()))[0]), abs=1e-6
    )


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=3, max_size=12, unique=True))
def test_polygon_area_is_shapelys_and_loses_nothing_far_from_the_origin(points: list[tuple[float, float]]) -> None:
    ring = shapely.LinearRing(points) if len(set(points)) > 2 else None
    if ring is None:
        return
    p = np.array(points)
    expected = 0.5 * sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], points[0]], strict=True))
    assert polygon_area(p) == pytest.approx(expected, abs=1e-6)
    assert polygon_area(p + [512_345, 6_512_345]) == pytest.approx(expected, abs=1e-4)


@given(st.floats(0, 360), st.floats(12, 168), st.floats(5, 400))
def test_a_fillet_touches_both_legs_square_to_its_radius(azimuth: float, between: float, radius: float) -> None:
    corner = np.array([500.0, 700.0])
    a, b = np.radians(azimuth), np.radians(azimuth + between)
    f = fillet(corner, a, b, radius)
    for tangent, leg in ((f["tangent1"], a), (f["tangent2"], b)):
        assert np.hypot(*(tangent - f["centre"])) == pytest.approx(radius, rel=1e-9)
        assert abs(np.dot(tangent - f["centre"], [np.sin(leg), np.cos(leg)])) < 1e-6
        assert (
            float(azimuth_between(corner, tangent)) == pytest.approx(leg % (2 * np.pi), abs=1e-6)
            or abs(float(wrap_angle(azimuth_between(corner, tangent) - leg))) < 1e-6
        )
    assert f["arc_length"] == pytest.approx(radius * (np.pi - np.radians(between)), rel=1e-9)


def test_lines_miss_touch_and_cross_circles() -> None:
    assert len(line_circle([0, 0], 5, [-10, 6], [10, 6])) == 0
    assert_allclose(line_circle([0, 0], 5, [-10, 5], [10, 5]), [[0, 5]], rtol=0, atol=1e-6)
    assert_allclose(line_circle([0, 0], 5, [-10, 3], [10, 3]), [[-4, 3], [4, 3]], rtol=0, atol=1e-12)
    assert path_lengths([[0, 0], [3, 4], [3, 4], [3, 10]]).tolist() == [0, 5, 5, 11]


@pytest.mark.parametrize(
    ("azimuth", "bearing"),
    [(0, ("N", 0, "E")), (135, ("S", 45, "E")), (225, ("S", 45, "W")), (315, ("N", 45, "W")), (360 + 90, ("N", 90, "E"))],
)
def test_bearings_in_all_quadrants(azimuth: float, bearing: tuple[str, float, str]) -> None:
    assert quadrant_bearing(azimuth) == bearing


@given(st.lists(st.tuples(*[st.floats(-5, 5)] * 3), min_size=1, max_size=6))
def test_prisms_cut_along_zero_agree_with_fine_slices(heights: list[tuple[float, float, float]]) -> None:
    above, below = prism_volumes(1.0, heights)
    assert_allclose(above - below, np.mean(heights, axis=1), rtol=0, atol=1e-9)
    k = 120
    i, j = np.meshgrid(np.arange(k), np.arange(k))
    u, v = (i + 1 / 3) / k, (j + 1 / 3) / k
    inside = u + v < 1
    for h, got in zip(heights, above, strict=True):
        z = h[0] + u * (h[1] - h[0]) + v * (h[2] - h[0])
        assert got == pytest.approx(float(np.clip(z[inside], 0, None).mean()), abs=0.06)


def hills(n: int = 4000) -> Any:
    rng = np.random.default_rng(4)
    xy = rng.uniform([-250, -250], [650, 900], (n, 2))
    return triangulate(np.column_stack([xy + [E0, N0], 100 + 5 * np.sin(xy[:, 0] / 60) + 3 * np.cos(xy[:, 1] / 80)]))[0]


def bend(reverse: bool = False) -> tuple[Any, Any]:
    pis = [PI(E0, N0), PI(E0 + 30, N0 + 300, 180, 40, 40), PI(E0 + 330, N0 + 520)]
    line = alignment_from_pis(pis[::-1] if reverse else pis)
    length = line.end_station
    pvis = [PVI(0, 101), PVI.symmetric(250, 106, 120), PVI(length, 99)]
    if reverse:
        pvis = [PVI(length - p.station, p.elevation, p.half_out, p.half_in) for p in pvis[::-1]]
    return line, profile_from_pvis(pvis)


def test_a_road_and_its_reverse_move_the_same_earth_with_sides_swapped() -> None:
    surface = hills()
    volumes, toes = [], []
    for reverse in (False, True):
        line, profile = bend(reverse)
        s = np.linspace(0, line.end_station, 120)
        corridor = compute_corridor(line, profile, rural(), surface, s)
        v = compute_volumes(corridor, compute_areas(corridor))
        volumes.append((v.cumulative_cut[-1], v.cumulative_fill[-1]))
        toe = corridor.blocks[0].left.index("slope.toe")
        toes.append((corridor.blocks[0].left.across[toe], corridor.blocks[0].right.across[toe]))
    assert_allclose(volumes[0], volumes[1], rtol=1e-6)
    assert_allclose(toes[0][0], toes[1][1][::-1], rtol=0, atol=1e-4)


def test_sections_taken_out_are_those_computed_alone() -> None:
    surface = hills()
    line, profile = bend()
    s = section_stations(line, profile, 25)
    whole = compute_corridor(line, profile, rural(), surface, s)
    some = whole.take([2, 5, 9])
    alone = compute_corridor(line, profile, rural(), surface, s[[2, 5, 9]])
    assert_allclose(some.blocks[0].left.across, alone.blocks[0].left.across, rtol=0, atol=1e-9)
    assert_allclose(compute_areas(some).cut, compute_areas(alone).cut, rtol=0, atol=1e-9)
    assert [f.code for f in some.findings] == [f.code for f in alone.findings]


def test_prismoidal_is_exact_where_end_areas_are_not() -> None:
    """A cone frustum's half sections: V by integration of a square law; end areas are too large (handbook remark, derived)."""
    exact = sum((2 + 3 * (k + 0.5) / 1000) ** 2 for k in range(1000)) * 40 / 1000
    assert prismoidal_volume(40, 4, 3.5**2, 25) == pytest.approx(exact, rel=1e-6)


def test_a_curve_through_a_point_passes_it() -> None:
    length = length_through_point(-0.04, 0.03, (1000, 50), (1010, 51.4))
    profile = profile_from_pvis([PVI(800, 58), PVI.symmetric(1000, 50, length), PVI(1200, 56)])
    assert profile.evaluate(1010)[0][0] == pytest.approx(51.4, abs=1e-9)


def test_samples_hold_all_element_ends_and_bend_no_more_than_asked() -> None:
    line, _ = bend()
    s = sample_stations(line, 30.0, 0.02)
    assert all(np.abs(s - e).min() < 1e-9 for e in line.stations)
    _, azimuth, _ = line.evaluate(s)
    assert np.abs(wrap_angle(np.diff(azimuth))).max() <= 0.0201 and np.diff(s).max() <= 30.0001


@pytest.mark.parametrize(
    ("low", "high", "interval", "expected"),
    [(9.9, 12.0, 1.0, [10, 11, 12]), (10.0, 10.9, 1.0, []), (-1.2, 0.7, 0.5, [-1, -0.5, 0, 0.5])],
)
def test_levels_are_multiples_above_the_lowest_and_up_to_the_highest(
    low: float, high: float, interval: float, expected: list[float]
) -> None:
    assert levels_between(low, high, interval).tolist() == expected
