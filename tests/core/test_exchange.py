"""Files in and out: round trips, a separate parse, and files that are broken or hostile."""

from __future__ import annotations

import xml.etree.ElementTree as ET

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.points_csv import CsvLayout, detect_layout, read_points
from ivoryridge.core.terrain.triangulate import triangulate
from tests.strategies import pi_rows

NS = {"x": "http://www.landxml.org/schema/LandXML-1.2"}


# --- CSV -----------------------------------------------------------------------------------------------------
@settings(max_examples=40)
@given(
    st.lists(st.tuples(st.floats(4e5, 6e5), st.floats(5e6, 7e6), st.floats(-50, 3000)), min_size=5, max_size=25),
    st.sampled_from([(";", False), (";", True), (",", False), ("\t", True), ("|", False), (" ", False)]),
    st.booleans(),
)
def test_points_come_back_from_any_layout(rows: list[tuple[float, float, float]], form: tuple[str, bool], header: bool) -> None:
    delimiter, comma = form
    lines = [delimiter.join(f"{v:.3f}".replace(".", "," if comma else ".") for v in row) for row in rows]
    if header:
        lines.insert(0, delimiter.join(("Easting", "Northing", "Level")))
    content = "\r\n".join(lines).encode()
    layout = detect_layout(content)
    found = read_points(content, layout)
    assert (layout.delimiter, layout.header) == (delimiter, header)
    assert_allclose(found.points, np.round(rows, 3), rtol=0, atol=1e-9)


@pytest.mark.parametrize("bad_line", ["", "12;oops;14;X;Y\n"])
def test_an_attribute_beside_the_code_becomes_part_of_the_layer(bad_line: str) -> None:
    """Both readers: the compiled one, and the one that tells the line of each fault."""
    content = b"E;N;Z;code;surface\n1;2;3;LANE;asphalt\n2;3;4;LANE;\n3;5;4;BANK;grass\n" + bad_line.encode()
    layout = CsvLayout(";", False, True, {"easting": 0, "northing": 1, "elevation": 2, "code": 3, "attribute": 4})
    assert read_points(content, layout).code == ("LANE / asphalt", "LANE", "BANK / grass")


def test_header_words_give_the_columns_in_any_order() -> None:
    content = b"no,level,north,east,code\n" + b"\n".join(b"%d,%.2f,6200000.5,500000.5,kerb" % (i, 50 + i) for i in range(9))
    found = read_points(content, detect_layout(content))
    assert found.points[0].tolist() == [500000.5, 6200000.5, 50.0]
    assert found.code[0] == "kerb" and found.name[3] == "3"


def test_lines_that_cannot_be_read_are_left_out_and_told() -> None:
    content = b"E;N;Z\n1;2;3\n4;x;6\n7;8\n9;8;nan\n10;11;12\n13;14;15\n16;17;18\n"
    found = read_points(content, detect_layout(content))
    assert found.line.tolist() == [2, 6, 7, 8]
    told = next(f for f in found.findings if f.code == "lines-unread")
    assert told.params["count"] == 3 and "line 3: 'x' is not a number (northing)" in told.sentence


@pytest.mark.parametrize(
    ("content", "code"),
    [
        (b"", "file-empty"),
        (b"   \n", "file-empty"),
        (b"\x00\x01\x02", "not-text"),
        (b"hello\nworld\n", "csv-no-columns"),
        (b"a;b;c\nd;e;f\ng;h;i\n", "csv-no-columns"),
    ],
)
def test_files_without_points_are_refused(content: bytes, code: str) -> None:
    with pytest.raises(FormatError) as told:
        detect_layout(content, "x.csv")
    assert told.value.code == code


def test_columns_must_be_chosen_once_each() -> None:
    content = b"1;2;3\n4;5;6\n"
    with pytest.raises(FormatError, match="column for level is not chosen"):
        read_points(content, CsvLayout(";", False, False, {"easting": 0, "northing": 1}))
    with pytest.raises(FormatError, match="Column 2 is chosen for both"):
        read_points(content, CsvLayout(";", False, False, {"easting": 0, "northing": 1, "elevation": 1}))


def test_swapped_axes_flat_files_and_wild_levels_are_told() -> None:
    rows = [f"{500000 + i};{6200000 + 2 * i};{50 + 0.1 * i}" for i in range(40)]
    swapped = "\n".join([*rows, "6200041;500020;52.0"]).encode()
    assert "axes-swapped" in {f.code for f in read_points(swapped, detect_layout(swapped)).findings}
    flat = "\n".join(r.rsplit(";", 1)[0] + ";7.5" for r in rows).encode()
    assert "flat-file" in {f.code for f in read_points(flat, detect_layout(flat)).findings}
    spike = "\n".join([*rows, "500010;6200011;8000"]).encode()
    assert "levels-spread" in {f.code for f in read_points(spike, detect_layout(spike)).findings}


@settings(max_examples=60)
@given(st.binary(max_size=400))
def test_no_bytes_break_the_readers_but_in_words(content: bytes) -> None:
    for read in (lambda: read_points(content, detect_layout(content)), lambda: read_landxml(content)):
        try:
            read()
        except FormatError as told:
            assert told.sentence


# --- LandXML -------------------------------------------------------------------------------------------------
def written(pis: list[PI]) -> bytes:
    rng = np.random.default_rng(1)
    points = np.column_stack([rng.uniform(5e5, 5.005e5, 60), rng.uniform(6.2e6, 6.2005e6, 60), rng.uniform(40, 60, 60)])
    surface, _ = triangulate(points, [points[:5] + [0.2, 0.1, 0]])
    pvis = (PVI(1000.0, 50.0), PVI(1100.0, 53.0, 30, 30), PVI(1200.0, 51.0, 20, 35), PVI(1300.0, 55.0))
    return write_landxml(
        project="P",
        surfaces=[("Ground", surface)],
        alignments=[("A", alignment_from_pis(pis, 1000.0), {"design": pvis})],
        date="2026-01-02",
    )


@settings(max_examples=20)
@given(pi_rows())
def test_landxml_reads_back_to_the_same_line(pis: list[PI]) -> None:
    line = alignment_from_pis(pis, 1000.0)
    back = read_landxml(written(pis)).alignments[0]
    for name in ("start", "length"):
        assert_allclose(getattr(back.alignment, name), getattr(line, name), rtol=0, atol=1e-6)
    assert_allclose(back.alignment.k0, line.k0, rtol=0, atol=1e-9)
    assert_allclose(np.cos(back.alignment.azimuth - line.azimuth), 1, rtol=0, atol=1e-12)
    assert [(p.station, p.half_in, p.half_out) for p in back.profiles["design"]] == [
        (1000, 0, 0),
        (1100, 30, 30),
        (1200, 20, 35),
        (1300, 0, 0),
    ]


def test_landxml_by_a_separate_parse() -> None:
    """Axis order north east, rotation cw for right, units metre, spirals from INF: LandXML 1.2 schema documentation."""
    line = alignment_from_pis([PI(500_000, 6_200_000), PI(500_000, 6_200_400, 120, 50, 30), PI(500_300, 6_200_600)])
    root = ET.fromstring(write_landxml(project="P", alignments=[("A", line, {})]))
    assert root.find("x:Units/x:Metric", NS).get("linearUnit") == "meter"  # type: ignore[union-attr]
    geometry = root.find(".//x:CoordGeom", NS)
    assert geometry is not None
    assert [g.tag.split("}")[1] for g in geometry] == ["Line", "Spiral", "Curve", "Spiral", "Line"]
    north, east = (float(v) for v in geometry[0].find("x:Start", NS).text.split())  # type: ignore[union-attr]
    assert (north, east) == (6_200_000, 500_000)
    spiral, curve = geometry[1], geometry[2]
    assert (
        spiral.get("radiusStart") == "INF" and float(spiral.get("radiusEnd")) == pytest.approx(120) and spiral.get("rot") == "cw"
    )
    centre = [float(v) for v in curve.find("x:Center", NS).text.split()]  # type: ignore[union-attr]
    start = [float(v) for v in curve.find("x:Start", NS).text.split()]  # type: ignore[union-attr]
    assert np.hypot(*np.subtract(centre, start)) == pytest.approx(120, abs=1e-6)
    assert centre[1] > start[1]  # a right bend going north has its centre in the east
    left = ET.fromstring(
        write_landxml(project="P", alignments=[("A", alignment_from_pis([PI(0, 0), PI(0, 400, 120), PI(-300, 600)]), {})])
    )
    assert left.find(".//x:Curve", NS).get("rot") == "ccw"  # type: ignore[union-attr]


def test_landxml_surface_comes_back_with_faces_and_breaklines() -> None:
    back = read_landxml(written([PI(0, 0), PI(0, 100)])).surfaces[0]
    again = read_landxml(written([PI(0, 0), PI(0, 100)])).surfaces[0]
    assert back.points.tobytes() == again.points.tobytes()
    assert len(back.faces) > 90 and len(back.breaklines) >= 4
    assert back.points[:, 0].min() >= 5e5 and back.points[:, 1].min() >= 6.2e6


def surface_xml(body: str, units: str = '<Units><Metric linearUnit="meter"/></Units>') -> bytes:
    return f'<LandXML xmlns="{NS["x"]}" version="1.2">{units}<Surfaces><Surface name="S">{body}</Surface></Surfaces></LandXML>'.encode()


PNTS = '<Pnts><P id="1">10 20 1</P><P id="2">10 30 2</P><P id="3">20 20 3</P></Pnts>'


@pytest.mark.parametrize(
    ("content", "code", "told"),
    [
        (surface_xml(f"<Definition>{PNTS}<Faces><F>1 2 9</F></Faces></Definition>"), "landxml-point-missing", "names point 9"),
        (surface_xml(PNTS)[:-40], "xml-broken", "cut off"),
        (surface_xml("<Definition><Pnts><P id='1'>a b c</P></Pnts></Definition>"), "landxml-number", "'a'"),
        (surface_xml("<Definition><Pnts><P id='1'>1 2</P></Pnts></Definition>"), "landxml-number", "northing, easting and level"),
        (surface_xml(PNTS, '<Units><Imperial linearUnit="cubit"/></Units>'), "landxml-units", "'cubit'"),
        (b"<?xml version='1.0'?><kml/>", "not-landxml", "<kml>"),
        (
            b'<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]><LandXML>&b;</LandXML>',
            "xml-entities",
            "entities",
        ),
    ],
)
def test_broken_and_hostile_landxml_is_refused_in_words(content: bytes, code: str, told: str) -> None:
    with pytest.raises(FormatError) as error:
        read_landxml(content, "f.xml")
    assert error.value.code == code and told in error.value.sentence


def test_feet_become_metres_and_it_is_told() -> None:
    model = read_landxml(
        surface_xml(f"<Definition>{PNTS}<Faces><F>1 2 3</F></Faces></Definition>", '<Units><Imperial linearUnit="foot"/></Units>')
    )
    assert_allclose(model.surfaces[0].points[0], np.array([20, 10, 1]) * 0.3048, rtol=0, atol=1e-12)
    assert "units-converted" in {f.code for f in model.findings}
