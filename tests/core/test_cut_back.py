"""A road cut back where junctions take over: volumes and layers by hand, and layers along lines that cross it askew."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import Corridor, compute_corridor
from ivoryridge.core.corridor.cut_back import Cut, cut_back, in_a_row, outside_of, sections_cut_back
from ivoryridge.core.corridor.layer_cut import cut_layers, layers_below, under_surface
from ivoryridge.core.corridor.zones import zone_meshes
from ivoryridge.core.earthwork.between import volume_between
from ivoryridge.core.earthwork.end_area import compute_areas, compute_volumes
from ivoryridge.core.junction.patch import PatchLines, compute_patch, formation_of
from ivoryridge.core.section.roles import ZONES
from ivoryridge.core.section.structure import Layer
from ivoryridge.core.terrain.surface import surface_area
from ivoryridge.core.terrain.triangulate import surface_from_faces

from .test_corridor import E0, N0, plane, rural

LINE = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400)])  # due north, so that offsets are eastings
GROUND = plane()
STATIONS = np.arange(0.0, 401.0, 20.0)
EAST, SOUTH = ("beside", "slope"), ("carriageway", "beside", "slope")


def road(stations: np.ndarray = STATIONS) -> Corridor:
    profile = profile_from_pvis([PVI(0, 103), PVI(400, 103)])
    return compute_corridor(LINE, profile, rural(), GROUND, stations)


def volumes(corridor: Corridor) -> tuple[float, dict[str, float]]:
    found = compute_volumes(corridor, compute_areas(corridor))
    return float(found.fill.sum()), {m: float(v.sum()) for m, v in found.layers.items()}


def test_what_is_given_up_is_missing_to_the_cubic_metre_and_nothing_else() -> None:
    whole = road(np.union1d(STATIONS, [93.0, 121.5]))
    fill, layers = volumes(whole)
    block = whole.blocks[0]
    u, z = (x[:, 0] for x in block.right.placed("formation"))
    outside = np.isfinite(u) & (u >= 3.65 + 1.0 - 1e-9)  # of lane and shoulder
    u, z = u[outside], z[outside] - 100.0  # over the ground
    beside = float(np.sum(np.diff(u) * 0.5 * (z[1:] + z[:-1])))
    assert beside > 5.0
    cut = cut_back(whole, [Cut("right", 93.0, 121.5, ("beside", "slope"))])
    left, left_layers = volumes(cut)
    assert fill - left == pytest.approx(28.5 * beside, rel=1e-9)
    assert left_layers == pytest.approx(layers)  # the lane stands
    # the whole width of a side: half of the fill and of the layers of a section that is alike to both sides
    half, half_layers = volumes(cut_back(whole, [Cut("left", 93.0, 121.5, ZONES)]))
    assert fill - half == pytest.approx(fill * 28.5 / 400 / 2, rel=1e-9)
    assert half_layers["base"] == pytest.approx(layers["base"] * (1 - 28.5 / 400 / 2))
    # nothing but the lane given up leaves what stands beside it, and no bridge over the gap
    lane, lane_layers = volumes(cut_back(whole, [Cut(s, 93.0, 121.5, ("carriageway",)) for s in ("left", "right")]))
    assert fill - lane == pytest.approx(fill * 28.5 / 400 - 2 * 28.5 * beside, rel=1e-9)
    assert lane_layers["surfacing"] == pytest.approx(layers["surfacing"] * (1 - 28.5 / 400))


def test_a_cut_back_road_is_as_long_in_its_surface_as_in_its_volumes() -> None:
    whole = road(np.union1d(STATIONS, [93.0, 121.5]))
    cut = cut_back(whole, [Cut("right", 93.0, 121.5, ("beside", "slope"))])
    areas = [{m.zone: m for m in zone_meshes(c, "finished")} for c in (whole, cut)]
    for zone in ("beside", "slope"):
        full, less = (surface_area(surface_from_faces(a[zone].points, a[zone].faces))[0] for a in areas)
        assert less == pytest.approx(full * (1 - 28.5 / 400 / 2), rel=1e-9)
    assert len(areas[1]["carriageway"].faces) == len(areas[0]["carriageway"].faces)


def test_rows_taken_apart_and_put_together_count_as_the_whole() -> None:
    whole = road()
    outside = outside_of(whole, [(80.0, 140.0), (300.0, 400.0)])
    assert [b.station[[0, -1]].tolist() for b in outside.blocks] == [[0.0, 80.0], [140.0, 300.0]]
    between = [road(np.array(s)) for s in ([80.0, 93.0, 140.0], [300.0, 350.0, 400.0])]
    again = in_a_row([outside, *between])
    assert (np.diff(again.station) >= 0).all() and volumes(again)[0] == pytest.approx(volumes(whole)[0], rel=1e-9)


def test_a_cut_whose_ends_are_no_sections_loses_nothing_between_them() -> None:
    """The parts of a lane that is given up are those between sections whose middle lies in the cut; no interval is dropped."""
    whole = road()
    cut = cut_back(whole, [Cut("right", 93.0, 121.5, ("slope",)), Cut("left", 105.0, 118.0, ("slope",))])
    ends = [(float(b.station[0]), float(b.station[-1])) for b in cut.blocks]
    assert ends == [(0.0, 100.0), (100.0, 120.0), (120.0, 400.0)]
    assert [sorted(b.given_up) for b in cut.blocks] == [[], [("left", "slope"), ("right", "slope")], []]
    middles = whole.take(np.arange(3, 8))  # sections that stand for themselves go by their own station
    alone = [b for block in middles.blocks for b in sections_cut_back(block, [Cut("right", 93.0, 121.5, ("slope",))])]
    assert [(b.station.tolist(), len(b.given_up)) for b in alone] == [([60.0, 80.0], 0), ([100.0, 120.0], 1), ([140.0], 0)]


@pytest.mark.parametrize("degrees", [90, 60, 35])
def test_layers_along_a_line_askew_have_the_areas_of_the_section_over_the_sine(degrees: int) -> None:
    corridor = road()
    areas = compute_areas(corridor)
    way = np.array([np.sin(np.radians(degrees)), np.cos(np.radians(degrees))])
    path = np.array([E0, N0 + 203.0]) + np.outer([-30.0, 4.0, 30.0], way)  # with a vertex in the lane
    found = cut_layers(corridor, path)
    assert {m for m, _ in found} == set(areas.layers)
    for material, area in areas.layers.items():
        own = sum(shapely.Polygon(ring).area for m, ring in found if m == material)
        assert own == pytest.approx(area[0] / np.sin(np.radians(degrees)), rel=1e-6)
    along = cut_layers(corridor, np.array([[E0 + 1.5, N0 + 50.0], [E0 + 1.5, N0 + 150.0]]))  # ends inside of the road
    assert sum(shapely.Polygon(ring).area for m, ring in along if m == "base") == pytest.approx(100 * 0.20, rel=1e-6)


def test_layers_below_a_place_come_from_the_top() -> None:
    block = road().blocks[0]
    assert [(x.material, round(x.thickness, 6)) for x in layers_below(block, "right", 1.7)] == [
        ("surfacing", 0.10), ("base", 0.20), ("subbase", 0.25),
    ]  # fmt: skip
    assert layers_below(block, "right", 9.0) == ()
    rows = under_surface(np.array([[0.0, 5.0], [4.0, 6.0], [5.0, np.nan], [6.0, 7.0], [8.0, 7.0]]), [Layer("base", 0.2)])
    assert [shapely.Polygon(r).area for _, r in rows] == pytest.approx([0.8, 0.4])


def test_the_formation_of_an_area_lies_its_depth_below_it_and_comes_up_along_the_returns() -> None:
    turn = np.radians(np.linspace(0, 90, 16))
    bow = np.column_stack([10 * np.cos(turn) - 13, 10 - 10 * np.sin(turn), np.zeros(16)])[::-1]  # from (-13, 0) to (-3, 10)
    left = bow + [E0, N0, 50.0]
    right = left.copy()
    right[:, 0] = 2 * E0 - left[:, 0]
    x = np.linspace(-13, 13, 27)
    main = np.column_stack([x + E0, np.full(27, N0), np.full(27, 50.0)])
    y = np.linspace(0, 10, 11)
    crown = np.column_stack([np.full(11, E0), y + N0, 50.0 + 0.02 * y])
    patch = compute_patch(PatchLines(main, left, right, crown, np.zeros(11)))
    points, faces = formation_of(patch, 0.55)
    below = surface_from_faces(points, faces)
    assert surface_area(below)[0] == pytest.approx(patch.area, abs=1e-9)
    v = volume_between(patch.surface, below)
    length = 2 * np.hypot(*np.diff(left[:, :2], axis=0).T).sum()
    assert v.fill < 1e-9 and v.cut == pytest.approx(0.55 * patch.area, abs=0.55 * 0.002 * length)
    assert v.cut < 0.55 * patch.area - 0.2 * 0.002 * length
    rim = {(round(e, 4), round(n, 4)): z for e, n, z in points}
    assert all(rim[round(e, 4), round(n, 4)] == z for e, n, z in patch.ring[np.isin(patch.shares, ("left", "right"))][2:10])
    assert all(rim[round(e, 4), round(n, 4)] == pytest.approx(z - 0.55) for e, n, z in main[5:20])
