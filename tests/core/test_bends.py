"""Volumes in bends: every place counted once, against Pappus, polar quadrature and brute force."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.corridor.solids import strip_surface
from ivoryridge.core.corridor.turning import shoulder_fall
from ivoryridge.core.earthwork.end_area import areas_between, compute_areas, compute_volumes
from ivoryridge.core.section.template import Template
from ivoryridge.core.terrain.triangulate import triangulate
from tests.core.test_corridor import rural

E0, N0 = 500_000.0, 6_200_000.0


@pytest.mark.parametrize("k", [1 / 60, -1 / 60, 1 / 8, -1 / 8])
def test_weighted_areas_are_the_polar_integral_and_stop_at_the_centre(k: float) -> None:
    """Design level with a wedge of ground over it, u from -12 to 10; second way: a fine sum of (1 - k u)+ d du."""
    du, dz = np.array([[-12.0, 10.0]]), np.zeros((1, 2))
    gu, gz = np.array([[-20.0, -3.0, 20.0]]), np.array([[4.0, -1.0, 3.0]])
    out = areas_between((du, dz), (gu, gz), k)[0]
    u = np.linspace(-12, 10, 2_200_001)
    d = np.interp(u, gu[0], gz[0]) * np.maximum(1 - k * u, 0)
    step = u[1] - u[0]
    assert out[5] == pytest.approx(np.maximum(d, 0).sum() * step, abs=1e-4)
    assert out[6] == pytest.approx(np.maximum(-d, 0).sum() * step, abs=1e-4)


def road(pis: list[PI], height: float, interval: float = 2.0, template: Template | None = None) -> Any:
    line = alignment_from_pis(pis)
    e, n = np.meshgrid(np.arange(-400, 801, 50.0), np.arange(-400, 801, 50.0))
    ground, _ = triangulate(np.column_stack([E0 + e.ravel(), N0 + n.ravel(), np.full(e.size, 100.0)]))
    profile = profile_from_pvis([PVI(0, 100 + height), PVI(line.end_station, 100 + height)])
    made = compute_corridor(line, profile, template or rural(), ground, section_stations(line, profile, interval))
    areas = compute_areas(made)
    return line, made, areas, compute_volumes(made, areas)


def test_a_bend_in_fill_is_pappus_volume() -> None:
    """Fill of one section all along: by Pappus its area times the way of its centroid; on the symmetric template that is the line's."""
    line, _, areas, v = road([PI(E0, N0), PI(E0 + 200, N0, 80), PI(E0 + 200, N0 + 200)], 3.0)
    assert v.cumulative_fill[-1] == pytest.approx(areas.fill[0] * line.end_station, rel=1e-3)
    assert v.cumulative_fill[-1] == pytest.approx(v.plain_fill.sum(), rel=2e-3)


@pytest.mark.parametrize("interval", [20.0, 7.0])
@pytest.mark.parametrize("turn", [1.0, -1.0])
def test_a_one_sided_section_on_arcs_without_transitions_is_pappus_volume_at_any_interval(interval: float, turn: float) -> None:
    """Area times the way of its centroid, each layer and the fill: exact, since the section is the same all along; and no tangent point
    is told to be a corner."""
    one_sided = Template("right", (), rural().right)
    line, made, areas, v = road([PI(E0, N0), PI(E0 + 150, N0, 70), PI(E0 + 150, N0 + turn * 150)], 2.0, interval, one_sided)
    turned = float(np.sum(0.5 * (line.k0 + line.k1) * line.length))
    for m, rows in v.layers.items():
        at = areas.layers_moment[m][0]
        assert rows.sum() == pytest.approx(areas.layers[m][0] * line.end_station - at * turned, rel=1e-9), m
    fill = areas.fill[0] * (line.end_station - areas.fill_offset[0] * turned)
    assert v.cumulative_fill[-1] == pytest.approx(fill, rel=1e-9)
    assert not [f for f in made.findings if f.code == "sections-cross"]


def covered_volume(line: Any, height: float) -> float:
    """Brute force: the embankment as an upper envelope over a fine lattice, its height by the distance from the line."""
    step = 0.5
    e, n = np.meshgrid(np.arange(-60, 300, step) + step / 2, np.arange(-60, 300, step) + step / 2)
    p = np.column_stack([E0 + e.ravel(), N0 + n.ravel()])
    fine = line.evaluate(np.linspace(0, line.end_station, 6001))[0]
    from scipy.spatial import cKDTree

    distance, i = cKDTree(fine).query(p)
    ends = (i == 0) | (i == 6000)
    profile_of = section_height(height)
    return float(profile_of(distance[~ends]).sum() * step**2)


def section_height(height: float) -> Any:
    """Formation of the rural template in fill over level ground, by distance from the line; as in test_corridor.fill_area."""
    lane, shoulder, verge = 3.65, 1.0, 2.5
    edge = height - 0.025 * (lane + shoulder)
    hinge = edge - 0.04 * verge
    slope = (hinge - 0.75) * 2.0
    u = np.array([0, 4.65, 4.650001, 7.15, 8.15, 8.15 + slope, 8.15 + slope + 1.5])
    z = np.array([height - 0.55, edge - 0.55, edge, hinge, hinge - 0.25, 0.5, 0.0])
    return lambda d: np.interp(d, u, z, right=0.0)


def test_a_tight_bend_counts_no_place_twice() -> None:
    """R 15 m with an embankment 8 m high whose toes cross the centre: brute force agrees."""
    line, made, _, v = road([PI(E0, N0), PI(E0 + 120, N0, 15), PI(E0 + 120, N0 + 120)], 8.0, 0.5)
    true = covered_volume(line, 8.0)
    assert v.cumulative_fill[-1] == pytest.approx(true, rel=2e-3)
    assert "sections-cross" in {f.code for f in made.findings}


@pytest.mark.parametrize("radius", [14.0, 9.0, 0.0])
@pytest.mark.parametrize("turn", [1.0, -1.0])
def test_surfaces_end_where_sections_meet_and_cover_every_place_once(radius: float, turn: float) -> None:
    """By shapely: the triangles of the finished surface do not overlap in plan beyond the chords of a coarse interval; what the
    finding says is left out is what the untrimmed strips cover again."""
    leg = (
        radius or 120.0
    )  # an arc has no straights: those of a tight bend cross each other beyond its centre, which is not looked for
    _, made, _, _ = road([PI(E0, N0), PI(E0 + leg, N0, radius), PI(E0 + leg, N0 + turn * leg)], 6.0, 1.0)
    points, faces = strip_surface(made, "finished")
    triangles = shapely.polygons(points[faces][:, :, :2])
    covered, summed = shapely.unary_union(triangles).area, shapely.area(triangles).sum()
    assert summed == pytest.approx(covered, rel=2e-3)
    (block,) = made.blocks
    side = "right" if turn < 0 else "left"
    columns = getattr(block, side)
    reach = np.nanmax(columns.placed("finished")[0], axis=0)
    told = sum(f.params["area"] for f in made.findings if f.code == "sections-cross" and f.params["side"] == side)
    assert told > 1.0
    if radius == 0:
        limit = np.abs(block.station - 120.0) / np.tan(np.pi / 4)
        assert told == pytest.approx(np.trapezoid(np.fmax(reach - limit, 0), block.station), rel=0.02)
    else:
        arc = np.abs(block.places.curvature) > 0
        assert told == pytest.approx(
            np.trapezoid(np.where(arc, (reach - radius) ** 2 / (2 * radius), 0), block.station), rel=0.05
        )


def test_a_corner_of_the_line_is_counted_once_and_told() -> None:
    _, made, _, _ = road([PI(E0, N0), PI(E0 + 120, N0), PI(E0 + 180, N0 + 104)], 3.0, 1.0)  # turns by 60 degrees to the left
    (corner,) = [f for f in made.findings if f.code == "sections-cross"]
    assert corner.params["side"] == "left" and corner.params["start"] < 120 < corner.params["end"]


def test_a_shoulder_beside_a_turning_lane_moves_without_a_step() -> None:
    """Own fall 4 %, lane 2.5 %; the lane turns from 6 % one way to 6 % the other."""
    lane = np.linspace(0.06, -0.06, 1201)
    for limit in (None, 0.07):
        fall = shoulder_fall(lane, 0.025, 0.04, limit)
        assert np.abs(np.diff(fall)).max() < 3 * (lane[0] - lane[1])
        assert fall[0] == 0.06 and shoulder_fall([0.03], 0.025, 0.04, limit)[0] == 0.04  # low side: the steeper
    high = shoulder_fall([-0.05, -0.02], 0.025, 0.04)
    assert high.tolist() == [-0.05, -0.02]  # in the lane's plane
    kept = shoulder_fall([-0.05, -0.02], 0.025, 0.04, 0.07)
    assert kept.tolist() == [pytest.approx(0.02), pytest.approx(0.04)]  # a break of 7 % at most
