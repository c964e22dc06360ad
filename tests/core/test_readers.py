"""Readers of ground data: what general libraries write is read back; any bytes give a clear error or a model."""

from __future__ import annotations

import io
from typing import Any

import ezdxf
import laspy
import numpy as np
import pytest
import rasterio
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.dxf_survey import level_of_text, read_dxf_survey
from ivoryridge.core.exchange.geojson_in import read_geojson
from ivoryridge.core.exchange.grid import read_grid, survey_of_grid
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.las import read_las
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.core.terrain.survey import layers_of
from ivoryridge.core.terrain.triangulate import triangulate

E0, N0 = 412_000.0, 687_000.0


def drawing(units: int = 6, version: str = "R2013") -> bytes:
    d = ezdxf.new(version, units=units)
    m = d.modelspace()
    m.add_point((E0, N0, 50.5), dxfattribs={"layer": "GRD"})
    m.add_polyline3d([(E0, N0, 50), (E0 + 10, N0, 51), (E0 + 10, N0 + 10, 52)], close=True, dxfattribs={"layer": "BANK TOP"})
    m.add_lwpolyline([(E0, N0), (E0 + 5, N0 + 5)], dxfattribs={"layer": "FENCE", "elevation": 49.0})
    m.add_line((E0, N0, 1), (E0 + 1, N0, 2), dxfattribs={"layer": "WALL"})
    m.add_3dface([(E0, N0, 0), (E0 + 9, N0, 1), (E0 + 9, N0 + 9, 2), (E0, N0 + 9, 3)], dxfattribs={"layer": "TIN"})
    block = d.blocks.new("SPOT")
    block.add_attdef("LEVEL", (0, 0))
    spot = m.add_blockref("SPOT", (E0 + 3, N0 + 4), dxfattribs={"layer": "SPOTS"})
    spot.add_attrib("LEVEL", "53,75 m")
    m.add_text("Old barn", dxfattribs={"layer": "TEXT"})
    mesh = m.add_mesh(dxfattribs={"layer": "MESH"})
    with mesh.edit_data() as data:
        data.vertices = [(E0, N0, 5), (E0 + 1, N0, 5), (E0, N0 + 1, 6)]
        data.faces = [(0, 1, 2)]
    out = io.StringIO()
    d.write(out)
    return out.getvalue().encode()


@pytest.mark.parametrize("version", ["R2000", "R2013"])
def test_a_drawing_gives_points_lines_and_faces_by_layer(version: str) -> None:
    sets, unit, findings = read_dxf_survey(drawing(version=version), "lines.dxf")
    survey = sets[0][1]
    assert unit == "meter" and [f.sentence for f in findings] == [
        "1 × TEXT were left out: this program does not bring them in here."
    ]
    layers = {la.key: la for la in layers_of(survey)}
    assert layers["CAD point/SPOTS"].levels == (53.75, 53.75)  # from its attribute
    assert layers["CAD line/FENCE"].levels == (49.0, 49.0)
    ring = survey.lines[survey.line_codes.index("BANK TOP")]
    assert len(ring) == 4 and np.array_equal(ring[0], ring[-1])
    faces = dict(sets[1:])
    assert [len(s.faces) for s in faces.values()] == [2, 1] and len(faces["faces of TIN"].points) == 4


def test_a_drawing_in_feet_becomes_metres() -> None:
    ((_, survey), *_), unit, findings = read_dxf_survey(drawing(units=2))
    assert unit == "foot" and any(f.code == "units-converted" for f in findings)
    assert_allclose(survey.points[0], np.array([E0, N0, 50.5]) * 0.3048, rtol=0, atol=1e-6)
    assert survey.points[-1, 2] == pytest.approx(53.75 * 0.3048)  # a level in an attribute is in the drawing's unit too


def tiff(values: Any, *, turned: bool = False) -> bytes:
    transform = rasterio.Affine(2.0, 0.3 if turned else 0.0, E0, 0.0, -2.0, N0 + 2.0 * len(values))
    with rasterio.MemoryFile() as memory:
        with memory.open(
            driver="GTiff",
            width=values.shape[1],
            height=len(values),
            count=1,
            dtype="float32",
            transform=transform,
            nodata=-99,
            crs="EPSG:27700",
        ) as t:
            t.write(values.astype("float32"), 1)
        return bytes(memory.read())


def test_a_geotiff_gives_its_levels_at_cell_centres_and_names_its_reference() -> None:
    values = np.arange(12.0).reshape(3, 4)
    values[0, 3] = -99
    grid = read_grid(tiff(values), "dem.tif")
    survey, (finding,) = survey_of_grid(grid)
    assert grid.reference == "EPSG:27700" and finding.params["count"] == 1 and len(survey.points) == 11
    assert_allclose(survey.points[0], [E0 + 1, N0 + 5, 0.0], rtol=0, atol=1e-9)
    assert_allclose(survey.points[-1], [E0 + 7, N0 + 1, 11.0], rtol=0, atol=1e-9)
    with pytest.raises(FormatError, match="turned or mirrored"):
        read_grid(tiff(values, turned=True), "dem.tif")
    with pytest.raises(FormatError, match="no cell with a level"):
        read_grid(tiff(np.full((3, 3), -99.0)), "dem.tif")


def test_matplotlibs_open_elevation_sample_goes_through_an_esri_grid() -> None:
    """Data: jacksboro_fault_dem.npz, shipped with matplotlib; levels in m at 3 arc seconds."""
    from matplotlib import cbook

    with cbook.get_sample_data("jacksboro_fault_dem.npz") as sample:
        z = np.asarray(sample["elevation"], float)[:120, :120]
    text = "ncols 120\nnrows 120\nxllcorner 0\nyllcorner 0\ncellsize 90\nNODATA_value -9999\n" + "\n".join(
        " ".join(f"{v:.1f}" for v in row) for row in z
    )
    survey, _ = survey_of_grid(read_grid(text.encode(), "fault.asc"))
    surface, _ = triangulate(survey.points)
    assert_allclose(read_surface(surface, survey.points[:, :2]).elevation, z.ravel(), rtol=0, atol=1e-6)


def cloud(n: int = 20_000, ground: bool = True, suffix: str = ".laz") -> tuple[bytes, Any]:
    rng = np.random.default_rng(2)
    header = laspy.LasHeader(point_format=6, version="1.4")
    header.offsets, header.scales = [E0, N0, 0], [0.001, 0.001, 0.001]
    las = laspy.LasData(header)
    e, m = rng.uniform(0, 200, n), rng.uniform(0, 200, n)
    z = 50 + 5 * np.sin(e / 30) + 0.02 * m
    canopy = rng.uniform(size=n) < 0.3
    las.x, las.y, las.z = E0 + e, N0 + m, z + canopy * 12
    las.classification = np.where(canopy, 5, 2 if ground else 1).astype(np.uint8)
    out = io.BytesIO()
    las.write(out, do_compress=suffix == ".laz")
    return out.getvalue(), np.column_stack([np.array(las.x), np.array(las.y), np.array(las.z)])[~canopy]


@pytest.mark.parametrize("suffix", [".las", ".laz"])
def test_laser_points_are_thinned_within_the_tolerance_of_every_ground_point(suffix: str) -> None:
    content, ground = cloud(suffix=suffix)
    survey, (told,) = read_las(content, "cloud" + suffix, tolerance=0.05)
    z = read_surface(triangulate(survey.points)[0], ground[:, :2]).elevation
    assert np.nanmax(np.abs(z - ground[:, 2])) <= 0.05 and np.isnan(z).mean() < 1e-3
    assert told.params["count"] == len(ground) and told.params["kept"] < len(ground) / 4 and told.params["greatest"] <= 0.05
    whole, _ = read_las(content, "cloud" + suffix, tolerance=None)  # to be looked at only
    assert len(whole.points) > len(survey.points)
    _, findings = read_las(cloud(500, ground=False)[0])
    assert findings[0].code == "las-no-ground"


def test_landxml_points_contours_and_boundaries() -> None:
    text = f"""<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units><Metric linearUnit="meter"/></Units>
    <CoordinateSystem epsgCode="27700"/>
    <CgPoints><CgPoint name="1" code="GRD">{N0} {E0} 50.5</CgPoint><CgPoint name="2">{N0 + 1} {E0 + 2}</CgPoint></CgPoints>
    <Surfaces><Surface name="a"><SourceData><DataPoints><PntList3D>{N0} {E0} 1 {N0 + 9} {E0} 2 {N0} {E0 + 9} 3</PntList3D></DataPoints>
    <Contours><Contour elev="51"><PntList2D>{N0} {E0} {N0 + 5} {E0 + 1}</PntList2D></Contour></Contours>
    <Boundaries><Boundary bndType="outer"><PntList2D>{N0} {E0} {N0} {E0 + 5} {N0 + 5} {E0}</PntList2D></Boundary>
    <Boundary bndType="void"><PntList3D>{N0} {E0} 1 {N0} {E0 + 1} 1 {N0 + 1} {E0} 1</PntList3D></Boundary>
    </Boundaries></SourceData></Surface></Surfaces></LandXML>"""
    model = read_landxml(text.encode())
    assert model.reference == "EPSG:27700" and model.point_codes == ("GRD", "")
    assert_allclose(model.points[0], [E0, N0, 50.5]) and np.isnan(model.points[1, 2])
    (s,) = model.surfaces
    assert_allclose(s.contours[0], [[E0, N0, 51], [E0 + 1, N0 + 5, 51]])
    assert [k for k, _ in s.boundaries] == ["outer", "hole"] and np.isnan(s.boundaries[0][1][0, 2])


READERS = [(read_dxf_survey, "dxf"), (read_landxml, "xml"), (read_geojson, "geojson")]
APART = [(read_grid, "asc"), (read_las, "las")]
SEEDS = {
    "dxf": drawing(),
    "asc": tiff(np.arange(12.0).reshape(3, 4)),
    "las": cloud(300)[0],
    "xml": b"<LandXML><Surfaces/></LandXML>",
    "geojson": b'{"type": "Feature", "properties": {"code": "GRD"}, "geometry": {"type": "Point", "coordinates": [412000, 687000, 5]}}',
}


@pytest.mark.parametrize(("read", "kind"), [*READERS, *APART])
def test_nothing_and_nonsense_are_told_in_a_sentence(read: Any, kind: str) -> None:
    for content in (b"", b"\0" * 300, b"hello, this is a letter", SEEDS[kind][: len(SEEDS[kind]) // 3]):
        try:
            read(content, f"file.{kind}")
        except FormatError as error:
            assert error.sentence.endswith((".", "!")) or "file" in error.sentence
        else:
            assert content == SEEDS[kind][: len(SEEDS[kind]) // 3]  # a cut file may still hold something whole


def told_or_read(read: Any, content: bytes, kind: str) -> None:
    try:
        read(content, f"file.{kind}")
    except FormatError as error:
        assert error.sentence


@pytest.mark.long
@pytest.mark.parametrize(("read", "kind"), [*READERS, *APART])
@settings(max_examples=1500, deadline=None)
@given(content=st.binary(max_size=4000), keep=st.integers(0, 400))
def test_any_bytes_after_a_true_start_give_a_model_or_a_clear_error(read: Any, kind: str, content: bytes, keep: int) -> None:
    told_or_read(read, SEEDS[kind][:keep] + content, kind)


def test_a_picture_without_a_place_is_refused_in_words() -> None:
    with rasterio.MemoryFile() as memory:
        with memory.open(driver="GTiff", width=4, height=3, count=1, dtype="float32") as t:
            t.write(np.ones((1, 3, 4), "float32"))
        content = bytes(memory.read())
    with pytest.raises(FormatError, match="does not say where it lies"):
        read_grid(content, "photo.tif")


def test_a_header_that_promises_more_than_the_file_holds_is_refused_at_once() -> None:
    """Found by the long run: 4 000 000 000 records of nothing kept the reader busy until the memory was full."""
    content = bytearray(cloud(300)[0])
    content[100:104] = b"\xff\xff\xff\xff"
    with pytest.raises(FormatError, match="promises more than the file holds"):
        read_las(bytes(content))


def odd_drawing() -> bytes:
    """Blocks, bulges, another extrusion, hidden layers, levels as text: what drawings of honest people hold."""
    d = ezdxf.new("R2013", units=6)
    m = d.modelspace()
    for name in ("OFF", "FROZEN"):
        d.layers.add(name)
    d.layers.get("OFF").off()
    d.layers.get("FROZEN").freeze()
    m.add_point((1, 1, 1), dxfattribs={"layer": "OFF"})
    m.add_line((0, 0, 0), (1, 1, 1), dxfattribs={"layer": "FROZEN"})
    m.add_lwpolyline([(0, 0, 0, 0, 1.0), (10, 0)], dxfattribs={"layer": "BULGE", "elevation": 7.0})
    flat = m.add_polyline2d([(0, 0), (5, 0)], dxfattribs={"layer": "FLAT"})
    flat.dxf.elevation = (0, 0, 12.5)
    m.add_lwpolyline([(1, 2), (3, 4)], dxfattribs={"layer": "MIRRORED", "extrusion": (0, 0, -1), "elevation": 2.0})
    m.add_arc((0, 0, 3), 50, 0, 90, dxfattribs={"layer": "ARC"})
    m.add_spline([(0, 0, 1), (5, 5, 2), (10, 0, 3)], dxfattribs={"layer": "SPLINE"})
    block = d.blocks.new("WALL")
    block.add_line((0, 0, 0), (2, 0, 1))
    m.add_blockref("WALL", (100, 100, 50), dxfattribs={"layer": "WALLS", "rotation": 90, "xscale": 2.0})
    level = d.blocks.new("SPOT")
    level.add_attdef("LEVEL", (0, 0))
    for text in ("BM 3 = 12.50", "1,234.56", "no level"):
        m.add_blockref("SPOT", (5, 5, 4), dxfattribs={"layer": "SPOTS"}).add_attrib("LEVEL", text)
    m.add_text("61.25", dxfattribs={"layer": "LEVELS", "insert": (8, 9)})
    out = io.StringIO()
    d.write(out)
    return out.getvalue().encode()


def test_a_drawing_is_read_as_it_is_drawn() -> None:
    """Second reader: ezdxf's own explosion, world coordinates and flattening."""
    from ezdxf import path

    sets, _, findings = read_dxf_survey(odd_drawing())
    survey, told = sets[0][1], {f.code: f for f in findings}
    lines = dict(zip(survey.line_codes, survey.lines, strict=True))
    assert told["layers-hidden"].params["count"] == 2 and not {"OFF", "FROZEN"} & {*survey.codes, *survey.line_codes}
    assert_allclose(np.hypot(lines["BULGE"][:, 0] - 5, lines["BULGE"][:, 1]), 5, rtol=0, atol=1e-9)
    assert (lines["BULGE"][:, 2] == 7.0).all() and lines["BULGE"][:, 1].min() == pytest.approx(-5, abs=0.011)
    assert (lines["FLAT"][:, 2] == 12.5).all()
    assert_allclose(lines["MIRRORED"], [[-1, 2, -2], [-3, 4, -2]], rtol=0, atol=1e-9)
    assert_allclose(lines["WALLS"], [[100, 100, 50], [100, 104, 51]], rtol=0, atol=1e-9)
    assert "block WALL" in survey.codes
    assert_allclose(np.hypot(*lines["ARC"][:, :2].T), 50, rtol=0, atol=1e-9)
    d = ezdxf.read(io.StringIO(odd_drawing().decode()))
    (spline,) = d.modelspace().query("SPLINE")
    fine = np.array([tuple(v) for v in path.make_path(spline).flattening(1e-5)])
    from shapely import LineString

    assert LineString(lines["SPLINE"][:, :2]).hausdorff_distance(LineString(fine[:, :2])) < 0.011
    spots = survey.points[[c == "SPOTS" for c in survey.codes], 2].tolist()
    assert spots == [12.5, 1234.56] and told["levels-unread"].params["count"] == 1
    texts = dict(sets)["levels written as text"]
    assert texts.points.tolist() == [[8.0, 9.0, 61.25]] and texts.point_type == "CAD text"


@pytest.mark.parametrize(
    ("text", "level"),
    [("53,75 m", 53.75), ("BM 3 = 12.50", 12.5), ("1,234.56", 1234.56), ("H: 7", 7.0), ("3 12.5", 12.5), ("12 13", None), ("none", None),
    ("-0.35", -0.35)],
)  # fmt: skip
def test_levels_in_words(text: str, level: float | None) -> None:
    assert level_of_text(text) == level


def test_a_drawing_all_at_level_zero_is_told_as_no_ground() -> None:
    d = ezdxf.new("R2000", units=0)
    d.modelspace().add_line((0, 0), (5, 5))
    out = io.StringIO()
    d.write(out)
    codes = {f.code for f in read_dxf_survey(out.getvalue().encode())[2]}
    assert codes == {"level-zero-throughout", "units-unsaid"}


def test_a_laz_with_a_false_chunk_table_is_refused_and_this_process_lives() -> None:
    """Two bytes made the library ask for 2^32 entries, which aborts a process beyond what Python can catch."""
    content = bytearray(cloud(300)[0])
    points_at = int.from_bytes(content[96:100], "little")
    table = int.from_bytes(content[points_at : points_at + 8], "little")
    content[table + 4 : table + 8] = b"\xff\xff\xff\xff"
    with pytest.raises(FormatError, match=r"cannot be (read|unpacked)"):
        read_las(bytes(content), "false.laz")


def test_a_las_cut_between_records_and_withheld_points_are_told() -> None:
    content, _ = cloud(973, suffix=".las")
    points_at, size = int.from_bytes(content[96:100], "little"), int.from_bytes(content[105:107], "little")
    with pytest.raises(FormatError, match="promises 973 points and holds 480"):
        read_las(content[: points_at + 480 * size], "cut.las")
    las = laspy.read(io.BytesIO(content))
    flags = np.zeros(973, np.uint8)
    flags[:100] = 1
    las.withheld = flags
    out = io.BytesIO()
    las.write(out)
    survey, findings = read_las(out.getvalue(), tolerance=None)
    assert len(survey.points) == int((np.asarray(las.classification)[100:] == 2).sum())
    assert {f.code: f.params["count"] for f in findings} == {"las-withheld": 100}
