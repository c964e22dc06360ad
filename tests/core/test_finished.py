"""One ground of pieces that overlap: one level a place, no gap, no place twice; against shapely, trimesh and the pieces themselves."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from shapely.geometry.base import BaseGeometry

from ivoryridge.core.earthwork.between import volume_between
from ivoryridge.core.junction.finished import FinishedGround, GroundPiece, finished_ground, finished_near, lay
from ivoryridge.core.terrain.surface import Surface, find_triangles, surface_area
from ivoryridge.core.terrain.triangulate import neighbours_of, select_triangles, triangulate

E0, N0 = 412_000.0, 687_000.0


def rough_ground(rng: np.random.Generator, count: int = 1500) -> Surface:
    xy = rng.uniform(0, 200, (count, 2))
    corners = np.array([[0, 0], [200, 0], [200, 200], [0, 200]], float)
    xy = np.concatenate([corners, xy])
    z = 50 + 3 * np.sin(xy[:, 0] / 25) + 2 * np.cos(xy[:, 1] / 18) + rng.normal(0, 0.2, len(xy))
    return triangulate(np.column_stack([xy + [E0, N0], z]))[0]


def strip(rng: np.random.Generator, name: str) -> tuple[GroundPiece, shapely.Polygon]:
    """A road-like strip of quads along a bent line, in a plane of its own."""
    n, width = 12, rng.uniform(4, 18)
    along = np.cumsum(np.concatenate([[0.0], np.full(n - 1, rng.uniform(6, 12))]))
    azimuth = rng.uniform(0, 2 * np.pi) + rng.uniform(-0.008, 0.008) * along
    step = np.diff(along)
    place = np.concatenate(
        [np.zeros((1, 2)), np.cumsum(step[:, None] * np.column_stack([np.sin(azimuth[:-1]), np.cos(azimuth[:-1])]), axis=0)]
    )
    place += np.array([100.0, 100.0]) - place.mean(axis=0) + rng.uniform(-25, 25, 2)
    right = np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
    grade, fall, level = rng.uniform(-0.05, 0.05), rng.uniform(-0.04, 0.04), rng.uniform(47, 55)
    rows = [
        np.column_stack([place + u * right + [E0, N0], level + grade * along + fall * u])
        for u in (-width, -width / 3, width / 2, width)
    ]
    points = np.concatenate(rows)
    faces = []
    for j in range(3):
        for i in range(n - 1):
            a, b = j * n + i, (j + 1) * n + i
            faces += [[a, b, b + 1], [a, b + 1, a + 1]]
    f = np.array(faces)
    p = points[f]
    twice = np.cross((p[:, 1] - p[:, 0])[:, :2], (p[:, 2] - p[:, 0])[:, :2])
    f = np.where(twice[:, None] < 0, f[:, ::-1], f)
    area = shapely.union_all(shapely.polygons(points[f][:, :, :2]))
    return GroundPiece(name, "pavement", points, f), area


def check_whole(found: FinishedGround, ground: Surface) -> None:
    surface = found.surface
    sides = np.sort(np.concatenate([surface.triangles[:, [i, (i + 1) % 3]] for i in range(3)]), axis=1)
    kinds, counts = np.unique(sides, axis=0, return_counts=True)
    assert counts.max() == 2
    mesh = trimesh.Trimesh(surface.points - [E0, N0, 0], surface.triangles, process=False)
    assert mesh.body_count == 1
    outline = surface.points[np.unique(kinds[counts == 1])][:, :2] - [E0, N0]
    assert (np.abs(outline - np.clip(outline, 0.0, 200.0)) < 1e-6).all()
    rim = (outline < 1e-6) | (outline > 200 - 1e-6)
    assert rim.any(axis=1).all()  # an edge of one triangle lies on the rim of the site: no gap inside
    p = surface.points[surface.triangles]
    twice = np.cross((p[:, 1] - p[:, 0])[:, :2], (p[:, 2] - p[:, 0])[:, :2])
    assert (surface.neighbours == neighbours_of(surface.triangles)).all()  # joined from what both sides knew, as if found anew
    assert (twice > 0).all() and 0.5 * twice.sum() == pytest.approx(surface_area(ground)[0], rel=1e-9)


@pytest.mark.parametrize("seed", range(12))
def test_random_strips_over_rough_ground(seed: int) -> None:
    rng = np.random.default_rng(1600 + seed)
    ground = rough_ground(rng)
    made = [strip(rng, f"R{k}") for k in range(int(rng.integers(2, 5)))]
    found = finished_ground([lay(p) for p, _ in made], ground)
    check_whole(found, ground)
    # levels: at a random place those of the highest piece there, else of the ground, wherever a triangle is not cut by what is higher
    places = rng.uniform(2, 198, (3000, 2)) + [E0, N0]
    _, read = find_triangles(found.surface, places)
    higher: shapely.Geometry = shapely.Polygon()
    checked = []
    for own, area in [*((lay(p).surface, area) for p, area in made), (ground, None)]:
        hit, z = find_triangles(own, places)
        corners = shapely.polygons(own.points[own.triangles[np.maximum(hit, 0)]][:, :, :2])
        whole = (hit >= 0) & ~shapely.contains_xy(higher, *places.T) & ~shapely.dwithin(corners, higher, 1e-4)
        assert np.abs(read[whole] - z[whole]).max(initial=0.0) < 1e-6
        checked.append(int(whole.sum()))
        higher = higher.union(area) if area is not None else higher
    assert checked[0] > 20 and checked[-1] > 500


@pytest.mark.parametrize("seed", range(8))
def test_a_part_of_it_has_the_levels_of_the_whole(seed: int) -> None:
    rng = np.random.default_rng(1700 + seed)
    ground = rough_ground(rng)
    laid = [lay(strip(rng, f"R{k}")[0]) for k in range(3)]
    whole = finished_ground(laid, ground)
    corners = rng.uniform(40, 110, (2, 2)) + [E0, N0]
    boxes = [(*map(float, c), *(float(x) for x in c + rng.uniform(20, 60, 2))) for c in corners]
    near = finished_near(laid, ground, boxes)  # type: ignore[arg-type]
    places = np.concatenate([rng.uniform(b[:2], b[2:], (2000, 2)) for b in boxes])
    (own, z), (there, level) = find_triangles(near.surface, places), find_triangles(whole.surface, places)
    assert (own >= 0).all() and np.abs(z - level).max() < 1e-9
    names = [[("ground" if k < 0 else f.pieces[k][0]) for k in f.piece[hit]] for f, hit in ((near, own), (whole, there))]
    assert names[0] == names[1]
    assert len(near.surface.triangles) < 0.6 * len(whole.surface.triangles)
    nothing = finished_near(laid, ground, [])
    assert len(nothing.surface.triangles) == 0


def test_volumes_of_pieces_add_up_to_the_whole_and_to_a_closed_solid() -> None:
    rng = np.random.default_rng(5)
    ground = triangulate(np.array([[E0, N0, 50], [E0 + 200, N0, 50], [E0 + 200, N0 + 200, 50], [E0, N0 + 200, 50.0]]))[0]
    made = [strip(rng, f"R{k}")[0] for k in range(3)]
    found = finished_ground([lay(p) for p in made], ground)
    built = found.piece >= 0
    whole = volume_between(ground, part(found, built))
    by_piece = [volume_between(ground, part(found, found.piece == k)) for k in range(3) if (found.piece == k).any()]
    assert sum(v.net for v in by_piece) == pytest.approx(whole.net, rel=5e-4)
    # the same by prisms under each triangle, down to a level: closed solids of another library
    p = found.surface.points[found.surface.triangles[built]]
    solid = 0.0
    for tri in p[:: max(len(p) // 60, 1)]:
        low = tri.copy()
        low[:, 2] = 40.0
        prism = trimesh.convex.convex_hull(np.concatenate([tri, low]) - [E0, N0, 0])
        area = 0.5 * np.cross((tri[1] - tri[0])[:2], (tri[2] - tri[0])[:2])
        solid += abs(prism.volume) - area * (tri[:, 2].mean() - 40.0)
    assert abs(solid) < 1e-6


def part(found: FinishedGround, keep: Any) -> Surface:
    triangles, neighbours = select_triangles(found.surface.triangles, found.surface.neighbours, keep)
    return Surface(found.surface.points, triangles, neighbours)


def test_a_step_where_a_piece_meets_a_higher_one_is_told() -> None:
    ground = triangulate(np.array([[E0, N0, 50], [E0 + 200, N0, 50], [E0 + 200, N0 + 200, 50], [E0, N0 + 200, 50.0]]))[0]

    def plate(e: float, level: float, joins: bool) -> GroundPiece:
        xy = np.array([[e, 40], [e + 60, 40], [e + 60, 80], [e, 80]]) + [E0, N0]
        return GroundPiece("Plate", "pavement", np.column_stack([xy, np.full(4, level)]), np.array([[0, 1, 2], [0, 2, 3]]), joins)

    found = finished_ground([lay(plate(40, 52.0, False)), lay(plate(80, 52.03, True))], ground)
    (told,) = found.findings
    assert told.params["step"] == pytest.approx(30.0, abs=1e-6) and "30 mm" in told.sentence
    assert not finished_ground([lay(plate(40, 52.0, False)), lay(plate(80, 52.0015, True))], ground).findings
    check_whole(found, ground)


def slope_plate(e: float, towards: float, level: float, n: float) -> GroundPiece:
    """A slope 40 m square that falls (towards 1: to the east) by n from a level at its upper end."""
    xy = np.array([[e, 40], [e + 40, 40], [e + 40, 80], [e, 80]]) + [E0, N0]
    away = (xy[:, 0] - E0 - e) if towards > 0 else (e + 40 - xy[:, 0] + E0)
    return GroundPiece(f"S{e:g}", "slope", np.column_stack([xy, level - n * away]), np.array([[0, 1, 2], [0, 2, 3]]))


@pytest.mark.parametrize("fill", [True, False])
def test_of_two_slopes_the_upper_counts_over_fills_and_the_lower_in_cuts(fill: bool) -> None:
    """One falls to the east, the other to the west: they meet where both have one level, whichever comes first."""
    ground = triangulate(np.array([[E0, N0, 50], [E0 + 200, N0, 50], [E0 + 200, N0 + 200, 50], [E0, N0 + 200, 50.0]]))[0]
    sign = 1.0 if fill else -1.0
    pieces = [slope_plate(40, 1, 50 + sign * 14, sign * 0.25), slope_plate(60, -1, 50 + sign * 12, sign * 0.2)]
    volumes = []
    for order in (pieces, pieces[::-1]):
        found = finished_ground([lay(p) for p in order], ground)
        check_whole(found, ground)
        e = np.linspace(61.0, 79.0, 400)
        _, read = find_triangles(found.surface, np.column_stack([e + E0, np.full(400, N0 + 60.0)]))
        first, second = 50 + sign * (14 - 0.25 * (e - 40)), 50 + sign * (12 - 0.2 * (100 - e))
        expected = np.maximum(first, second) if fill else np.minimum(first, second)
        assert np.abs(read - expected).max() < 1e-4  # m, as closely as levels on shared edges are to agree
        assert not found.findings
        volumes.append(volume_between(ground, part(found, found.piece >= 0)))
    assert volumes[0].fill == pytest.approx(volumes[1].fill, rel=1e-6) and volumes[0].cut == pytest.approx(
        volumes[1].cut, rel=1e-6
    )


def test_lines_that_areas_meet_in_do_not_hide_the_rim_that_edges_are_cut_at(monkeypatch: pytest.MonkeyPatch) -> None:
    """A union of areas whose sides lie within a hair of each other may come back with lines in it."""
    ground = rough_ground(np.random.default_rng(3))

    def plate(e: float, level: float) -> GroundPiece:
        xy = np.array([[e, 80.0], [e + 30, 80.0], [e + 30, 120.0], [e, 120.0]]) + [E0, N0]
        return GroundPiece("plate", "pavement", np.column_stack([xy, np.full(4, level)]), np.array([[0, 1, 2], [0, 2, 3]]))

    pieces = [lay(plate(e, z)) for e, z in ((80.0, 60.0), (100.0, 55.0), (90.0, 50.0))]
    want = finished_ground(pieces, ground)
    hair, union = shapely.LineString([[E0 + 85, N0 + 90], [E0 + 85, N0 + 91]]), BaseGeometry.union
    monkeypatch.setattr(BaseGeometry, "union", lambda a, b: shapely.GeometryCollection([union(a, b), hair]))
    found = finished_ground(pieces, ground)
    check_whole(found, ground)
    assert found.surface.triangles.tolist() == want.surface.triangles.tolist()


def test_without_anything_built_the_ground_stays_as_it_is() -> None:
    ground = rough_ground(np.random.default_rng(1))
    found = finished_ground([], ground)
    assert found.surface is ground and (found.piece == -1).all()
