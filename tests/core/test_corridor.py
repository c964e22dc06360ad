"""Corridor, areas and volumes: closed forms, shapely as the second way, and the order of the error."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.edges import edge_lines
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.corridor.solids import strip_surface
from ivoryridge.core.earthwork.end_area import areas_between, average_end_area, compute_areas, compute_volumes, curved_volume
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.terrain.triangulate import triangulate

E0, N0 = 500_000.0, 6_200_000.0


def rural(**slope: Any) -> Template:
    row = (
        PlacedPart("carriageway", library_part("carriageway"), {}),
        PlacedPart("verge", library_part("verge"), {}),
        PlacedPart("slope", library_part("side_slopes"), slope),
    )
    return Template("rural", row, row)


def plane(level: float = 100.0, rise_e: float = 0.0, rise_n: float = 0.0) -> Any:
    e, n = np.meshgrid(np.arange(-400, 401, 40.0), np.arange(-200, 1201, 40.0))
    z = level + rise_e * e + rise_n * n
    return triangulate(np.column_stack([E0 + e.ravel(), N0 + n.ravel(), z.ravel()]))[0]


def straight_road(
    surface: Any, start: float, end: float, *, length: float = 400.0, interval: float = 20.0, template: Template | None = None
) -> Any:
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + length)])
    profile = profile_from_pvis([PVI(0, start), PVI(length, end)])
    return compute_corridor(line, profile, template or rural(), surface, section_stations(line, profile, interval))


def fill_area(height: float) -> float:
    """Closed form of the rural template in fill on level ground, crown ``height`` over it; both sides, m2.

    Formation: crown - 0.55 m of layers over the paved width, then the verge and the three-segment slope.
    """
    lane, shoulder, verge = 3.65, 1.0, 2.5
    edge = height - 0.025 * (lane + shoulder)
    hinge = edge - 0.04 * verge
    paved = (height - 0.55 + edge - 0.55) / 2 * (lane + shoulder)
    verge_area = (edge + hinge) / 2 * verge
    upper = (hinge + hinge - 0.25) / 2 * 1.0
    middle = (hinge - 0.25 + 0.5) / 2 * (hinge - 0.75) * 2.0
    last = 0.5 * 0.5 * 1.5
    return 2 * (paved + verge_area + upper + middle + last)


def test_fill_area_is_the_closed_form() -> None:
    areas = compute_areas(straight_road(plane(), 104.0, 104.0))
    assert_allclose(areas.fill, fill_area(4.0), rtol=0, atol=1e-6)
    assert_allclose(areas.cut, 0.0, rtol=0, atol=1e-9)
    assert_allclose(areas.layers["surfacing"], 2 * 4.65 * 0.10, rtol=0, atol=1e-9)


def test_volume_error_falls_with_the_square_of_the_interval() -> None:
    """The area grows with the square of the height, so halving the interval quarters the end-area error."""

    def volume(interval: float) -> float:
        corridor = straight_road(plane(), 102.0, 110.0, interval=interval)
        return float(compute_volumes(corridor, compute_areas(corridor)).cumulative_fill[-1])

    h = np.linspace(2, 10, 20_001)
    exact = float(np.mean([fill_area(x) for x in h])) * 400
    coarse, fine = volume(80) - exact, volume(40) - exact
    assert coarse > 0 and coarse / fine == pytest.approx(4.0, rel=0.02)
    assert volume(5) == pytest.approx(exact, rel=1e-4)


def test_areas_are_those_of_shapely_on_rough_ground() -> None:
    rng = np.random.default_rng(5)
    xy = rng.uniform([-150, -50], [150, 450], (3000, 2))
    z = 100 + 3 * np.sin(xy[:, 0] / 9) + 2 * np.cos(xy[:, 1] / 13)
    surface, _ = triangulate(np.column_stack([xy + [E0, N0], z]))
    corridor = straight_road(surface, 101, 99)
    areas = compute_areas(corridor)
    for i in range(0, len(corridor.station), 4):
        outline = []
        for _, sign, columns, _ in corridor.blocks[0].sides():
            u, v = columns.placed("formation")
            outline.append([(sign * a, b) for a, b in zip(u[:, i], v[:, i], strict=True) if np.isfinite(a)])
        design = [*outline[0][::-1], *outline[1]]
        ground = corridor.blocks[0].ground.section(i)
        low, high = design[0][0], design[-1][0]
        inner = ground[(ground[:, 0] > low) & (ground[:, 0] < high)]
        ends = np.interp([low, high], ground[:, 0], ground[:, 1])
        floor = -1000.0
        top = shapely.Polygon([(low, floor), (low, ends[0]), *map(tuple, inner), (high, ends[1]), (high, floor)])
        below = shapely.Polygon([(low, floor), *design, (high, floor)])
        assert areas.cut[i] == pytest.approx(top.difference(below).area, abs=1e-6)
        assert areas.fill[i] == pytest.approx(below.difference(top).area, abs=1e-6)


def test_cut_and_fill_swap_when_design_and_ground_swap() -> None:
    a = (np.array([[0, 3, 7, 10.0]]), np.array([[0, 2, -1, 0.5]]))
    b = (np.array([[0, 4, 10.0]]), np.array([[1, 0, 0.2]]))
    one, other = areas_between(a, b)[0], areas_between(b, a)[0]
    assert_allclose(one[[0, 1]], other[[1, 0]], rtol=0, atol=1e-12)


def test_bend_correction_is_pappus() -> None:
    """A square of side 2 whose centre runs on a circle of 103 m against a line of 100 m: V = A 2 pi 103 (Pappus)."""
    along_line = float(average_end_area([0, 2 * np.pi * 100], [4, 4])[0])
    assert curved_volume(along_line, 0.01, -3.0) == pytest.approx(4 * 2 * np.pi * 103, abs=1e-9)


def test_sections_stand_at_the_interval_and_at_every_key_station_once() -> None:
    line = alignment_from_pis([PI(0, 0), PI(0, 300, 150, 40, 30), PI(300, 500)])
    profile = profile_from_pvis([PVI(0, 10), PVI.symmetric(200, 14, 100), PVI(line.end_station, 9)])
    stations = section_stations(line, profile, 20)
    for key in (*line.stations, 150.0, 250.0, *np.arange(0, line.end_station, 20)):
        assert np.abs(stations - key).min() < 1e-4
    assert np.diff(stations).min() > 1e-4
    with pytest.raises(InputError, match="Use a spacing of at least"):
        section_stations(line, profile, 0.001)
    with pytest.raises(InputError, match="holds no part of the road"):
        section_stations(line, profile, 20, station_from=5000, station_to=6000)


def test_finished_surface_has_no_gap_and_no_overlap() -> None:
    """Its plan area is that between the toes; every inner edge has two triangles. Ground tilted so that cases change."""
    corridor = straight_road(plane(rise_n=0.02), 103, 104)
    points, faces = strip_surface(corridor, "finished")
    a, b, c = (points[faces[:, i], :2] for i in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    assert (twice > 0).all()
    toes = {e.side: e.points for e in edge_lines(corridor) if e.role == "toe"}
    between = shapely.Polygon(np.concatenate([toes["left"][:, :2] - [E0, N0], toes["right"][::-1, :2] - [E0, N0]])).area
    assert twice.sum() / 2 == pytest.approx(between, rel=1e-9)
    cases = {tuple(corridor.blocks[0].left.case_of["slope"][0])}
    assert len(set(next(iter(cases)))) > 1
    key = np.round(points * 1e4).astype(np.int64)
    _, same = np.unique(key, axis=0, return_inverse=True)
    edges = np.sort(np.concatenate([same.ravel()[faces[:, [i, (i + 1) % 3]]] for i in range(3)]), axis=1)
    counts = np.unique(edges, axis=0, return_counts=True)[1]
    assert counts.max() == 2


def test_toes_lie_on_the_ground_and_edges_at_their_widths() -> None:
    surface = plane(rise_e=0.05)
    corridor = straight_road(surface, 103, 98)
    lines = {(e.side, e.role): e.points for e in edge_lines(corridor)}
    from ivoryridge.core.terrain.surface import read_surface

    toe = lines[("right", "toe")]
    assert_allclose(read_surface(surface, toe).elevation, toe[:, 2], rtol=0, atol=1e-6)
    assert_allclose(lines[("left", "lane edge")][:, 0], E0 - 3.65, rtol=0, atol=1e-6)


def test_road_off_the_ground_and_slopes_that_miss_are_found() -> None:
    off = straight_road(plane(), 104, 104, length=1500)
    assert "off-ground" in {f.code for f in off.findings}
    missed = straight_road(plane(), 140, 140, template=rural(search=10.0))
    found = [f for f in missed.findings if f.code == "not-met"]
    assert {f.params["side"] for f in found} == {"left", "right"} and found[0].severity == "fault"
    assert "side slopes on the left does not meet the ground" in found[0].sentence


def test_sections_and_coordinates_stand_at_round_chainages_behind_an_equation() -> None:
    from ivoryridge.core.report.line import coordinate_report

    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400)])
    profile = profile_from_pvis([PVI(0, 100), PVI(400, 104)])
    equations = ((150.0, 7.5),)  # 0+150 counts on from 0+157.5
    want = [0.0, 50.0, 100.0, 150.0, 192.5, 242.5, 292.5, 342.5, 392.5, 400.0]
    assert section_stations(line, profile, 50, equations=equations).tolist() == want
    assert [r[0] for r in coordinate_report(line, None, interval=50, equations=equations).rows] == want


def test_an_embankment_that_runs_through_a_hump_to_its_last_crossing_is_told_with_its_depth() -> None:
    """Ground level but for a ridge 2 m high beside the road; the slope leaves it again and ends behind it."""
    e, n = np.meshgrid(np.arange(-60, 61, 2.0), np.arange(-20, 421, 20.0))
    ridge, _ = triangulate(np.column_stack([E0 + e.ravel(), N0 + n.ravel(), 100 + np.where(e.ravel() == 14, 2.4, 0.0)]))
    (told,) = [f for f in straight_road(ridge, 105, 105).findings if f.code == "slope-under-ground"]
    made = straight_road(ridge, 105, 105)
    path = np.interp(
        14.0,
        made.blocks[0].right.across[-5:, 3][np.isfinite(made.blocks[0].right.across[-5:, 3])],
        made.blocks[0].right.level[-5:, 3][np.isfinite(made.blocks[0].right.level[-5:, 3])],
    )
    assert told.params["side"] == "right" and told.params["depth"] == pytest.approx(102.4 - path, abs=1e-6)
    assert not [f for f in straight_road(plane(), 105, 105).findings if f.code == "slope-under-ground"]
