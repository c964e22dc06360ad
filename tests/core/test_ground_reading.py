"""Ponds, watersheds, labels on contours, and surfaces given out: closed forms, and general libraries read what is written."""

from __future__ import annotations

import io
import json
import struct
from typing import Any

import ezdxf
import numpy as np
import pytest
import shapely
from numpy.testing import assert_allclose

from ivoryridge.core.exchange.grid import grid_of_surface, read_grid, write_esri_grid
from ivoryridge.core.exchange.surface_out import write_contours_geojson, write_surface_dxf, write_surface_glb
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.terrain.flow import ponds_of, watershed_of
from ivoryridge.core.terrain.label_path import label_places, spot_levels
from ivoryridge.core.terrain.surface import Surface, read_surface, surface_area
from ivoryridge.core.terrain.triangulate import triangulate

E0, N0 = 412_000.0, 687_000.0


def at(*rows: tuple[float, ...]) -> Any:
    return np.array(rows, float) + [E0, N0, 0.0]


def pit(depth: float = 4.0, lip: float = 0.0) -> Surface:
    """A square pit of 40 m, an upturned pyramid, in a plate that falls to the outside beyond a rim at ``lip``."""
    rim = at((-20, -20, lip), (20, -20, lip), (20, 20, lip), (-20, 20, lip))
    outer = at((-60, -60, -3), (60, -60, -3), (60, 60, -3), (-60, 60, -3))
    return triangulate(np.concatenate([rim, outer, at((0.0, 0.0, lip - depth))]), [np.concatenate([rim, rim[:1]])])[0]


def contours(surface: Surface, interval: float) -> Any:
    levels = levels_between(*surface.elevation_range, interval)
    xy, starts, level = compute_contours(surface, levels)
    return xy, starts, levels[level]


def test_a_pond_is_as_deep_wide_and_full_as_its_pyramid() -> None:
    (pond,) = ponds_of(pit())
    assert_allclose([pond.level, pond.depth, pond.area, pond.volume], [0, 4, 1600, 1600 * 4 / 3], rtol=0, atol=1e-6)
    assert pond.place == (E0, N0)


def test_water_spills_over_the_lowest_place_of_the_rim() -> None:
    """One corner of the rim is 1 m lower: the pond's level is that corner, its area that of the pyramid's cut there."""
    s = pit()
    z = s.points[:, 2].copy()
    z[np.argmin(np.hypot(*(s.points[:, :2] - [E0 + 20, N0 + 20]).T))] = -1.0
    lowered = Surface(np.column_stack([s.points[:, :2], z]), s.triangles, s.neighbours)
    (pond,) = ponds_of(lowered)
    assert pond.level == -1.0 and pond.depth == 3.0
    assert pond.area < 1600 and pond.volume < 1600 * 4 / 3
    # second way: depths on a fine grid
    g = np.stack(np.meshgrid(np.arange(-20, 20, 0.2) + 0.1, np.arange(-20, 20, 0.2) + 0.1), axis=-1).reshape(-1, 2) + [E0, N0]
    depth = np.maximum(-1.0 - read_surface(lowered, g).elevation, 0.0)
    assert_allclose(pond.volume, depth.sum() * 0.04, rtol=2e-3)
    assert_allclose(pond.area, (depth > 0).sum() * 0.04, rtol=1e-2)


def test_a_plane_and_a_roof_hold_no_water() -> None:
    e, n = (v.ravel() for v in np.meshgrid(np.arange(0, 101, 10.0), np.arange(0, 101, 10.0)))
    assert ponds_of(triangulate(np.column_stack([E0 + e, N0 + n, 0.1 * e]))[0]) == []
    assert ponds_of(triangulate(np.column_stack([E0 + e, N0 + n, -np.abs(e - 50)]))[0]) == []


def test_a_valley_gathers_the_water_of_its_sides_and_a_pond_stands_for_all_that_fills_it() -> None:
    e, n = (v.ravel() for v in np.meshgrid(np.arange(-50, 51, 5.0), np.arange(0, 101, 5.0)))
    valley, _ = triangulate(np.column_stack([E0 + e, N0 + n, 0.3 * np.abs(e) + 0.05 * n]), [at((0, 0, 0), (0, 100, 5))])
    whole = surface_area(valley)[0]
    _, outlet = watershed_of(valley, [E0 + 0.1, N0 + 0.1])
    _, half = watershed_of(valley, [E0 + 0.1, N0 + 50.1])
    assert outlet > 0.9 * whole and 0.4 * whole < half < 0.6 * whole
    comes, area = watershed_of(pit(), [E0 + 3.0, N0 - 2.0])
    assert comes.sum() == 4  # the plate outside falls away
    assert_allclose(area, 1600.0, rtol=0, atol=1e-6)
    assert watershed_of(valley, [E0 + 900, N0])[1] == 0.0


def test_labels_stand_where_the_path_crosses_contours_and_follow_it() -> None:
    """On a plane rising 1 in 10 to the east contours run north every 10 m: places in closed form."""
    e, n = (v.ravel() for v in np.meshgrid(np.arange(0, 101, 10.0), np.arange(0, 101, 10.0)))
    plane, _ = triangulate(np.column_stack([E0 + e + 0.001 * n, N0 + n, 50 + 0.1 * e]))
    lines = contours(plane, 1.0)
    labels = label_places([[E0 + 2, N0 + 7], [E0 + 55, N0 + 60]], lines)
    assert [la.level for la in labels] == [51, 52, 53, 54, 55]
    assert_allclose([la.easting - E0 for la in labels], [10 * (k + 1) for k in range(5)], rtol=0, atol=0.1)
    assert_allclose([la.azimuth for la in labels], 0.0, rtol=0, atol=2e-3)
    assert [la.level for la in label_places([[E0 + 2, N0 + 7], [E0 + 55, N0 + 60]], lines, major=5.0)] == [55]
    moved = label_places([[E0 + 22, N0 + 7], [E0 + 55, N0 + 60]], lines)
    assert [la.level for la in moved] == [53, 54, 55]
    assert label_places([[E0 + 2, N0 + 7], [E0 + 9, N0 + 60]], lines) == [] == label_places([[E0, N0]], lines)
    spots = spot_levels(plane, 25.0)
    assert_allclose(spots[:, 2], 50 + 0.1 * (spots[:, 0] - E0 - 0.001 * (spots[:, 1] - N0)), rtol=0, atol=1e-9)


def hill() -> Surface:
    rng = np.random.default_rng(5)
    p = rng.uniform(0, 200, (400, 2))
    z = 60 + 10 * np.exp(-((p[:, 0] - 90) ** 2 + (p[:, 1] - 110) ** 2) / 3000)
    return triangulate(np.column_stack([p + [E0, N0], z]), [at((20.5, 30.5, 61.0), (150.5, 40.5, 62.0))])[0]


def test_a_drawing_reads_back_with_its_faces_and_contours_at_their_levels() -> None:
    s = hill()
    drawing = ezdxf.read(io.StringIO(write_surface_dxf(s, contours(s, 1.0)).decode()))
    assert not drawing.audit().errors
    faces = drawing.modelspace().query("3DFACE")
    assert len(faces) == len(s.triangles)
    corners = np.array([[f.dxf.vtx0, f.dxf.vtx1, f.dxf.vtx2] for f in faces])
    assert_allclose(corners, s.points[s.triangles], rtol=0, atol=1e-9)
    for line in drawing.modelspace().query("LWPOLYLINE"):
        xy = np.array([p[:2] for p in line.get_points("xy")])
        inner = xy[1:-1] if len(xy) > 2 else xy[:0]
        read = read_surface(s, inner).elevation
        assert_allclose(read[np.isfinite(read)], line.dxf.elevation, rtol=0, atol=1e-6)
        assert (line.dxf.layer == "CONTOURS MAJOR") == (line.dxf.elevation % 5 == 0)


def test_geojson_and_glb_hold_the_surface() -> None:
    s = hill()
    lines = contours(s, 2.0)
    told = json.loads(write_contours_geojson(lines, reference="local"))
    shapes = [shapely.geometry.shape(f["geometry"]) for f in told["features"]]
    assert len(shapes) == len(lines[2]) and told["coordinates_in"] == "local"
    assert_allclose(
        sum(g.length for g in shapes),
        sum(np.hypot(*np.diff(lines[0][a:b], axis=0).T).sum() for a, b in zip(lines[1][:-1], lines[1][1:], strict=True)),
        rtol=1e-4,
    )
    glb = write_surface_glb(s, name="hill")
    magic, version, length, words = struct.unpack("<4sIII", glb[:16])
    assert (magic, version, length) == (b"glTF", 2, len(glb))
    head = json.loads(glb[20 : 20 + words])
    body = glb[28 + words :]
    count = head["accessors"][0]["count"]
    xyz = np.frombuffer(body[: 12 * count], "<f4").reshape(-1, 3)
    back = np.column_stack([xyz[:, 0], -xyz[:, 2], xyz[:, 1]]) + head["nodes"][0]["extras"]["origin"]
    assert_allclose(back, s.points, rtol=0, atol=2e-5)
    view = head["bufferViews"][2]
    index = np.frombuffer(body[view["byteOffset"] : view["byteOffset"] + view["byteLength"]], "<u4").reshape(-1, 3)
    assert np.array_equal(index, s.triangles)
    normals = np.frombuffer(body[head["bufferViews"][1]["byteOffset"] :][: 12 * count], "<f4").reshape(-1, 3)
    assert (normals[:, 1] > 0).all() and np.allclose(np.linalg.norm(normals, axis=1), 1, atol=1e-5)


@pytest.mark.parametrize("size", [5.0, 12.5])
def test_an_esri_grid_reads_back_and_its_levels_are_those_at_the_cell_centres(size: float) -> None:
    grid = grid_of_surface(hill(), size)
    out = io.StringIO()
    write_esri_grid(grid, out)
    back = read_grid(out.getvalue().encode(), "hill.asc")
    assert back.corner == grid.corner and back.size == grid.size
    assert_allclose(back.elevation, grid.elevation, rtol=0, atol=5.1e-4)  # written to the millimetre
    centres = grid.centres()
    assert_allclose(read_surface(hill(), centres[:, :2]).elevation, centres[:, 2], rtol=0, atol=1e-9)
    assert centres[0, 1] > centres[-1, 1] and np.isnan(grid.elevation[0, 0])
