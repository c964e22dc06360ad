"""Files that leave, read back by libraries that know nothing of this program, against what the page is told; in metres and in feet."""

from __future__ import annotations

import csv
import io
import json
import re
from typing import Any

import docx
import ezdxf
import ifcopenshell
import numpy as np
import pypdfium2 as pdfium
import pytest
import rasterio
import shapely
from numpy.testing import assert_allclose

from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.units import FOOT
from ivoryridge.design.models import Project, Road, SheetSet, Surface

from .test_api import send


@pytest.fixture
def built(project: Any, road: Road, client_of: Any) -> tuple[Any, Project, Road]:
    """The small project with a profile fitted to its plane."""
    ben = client_of("ben")
    assert send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []}).status_code == 200
    return ben, project, Road.objects.get(pk=road.pk)


def in_feet(project: Project) -> None:
    Project.objects.filter(pk=project.pk).update(length_unit="ft", chainage_group=100)


def rows_of(content: bytes) -> list[list[str]]:
    return list(csv.reader(io.StringIO(content.decode("utf-8-sig"))))


def text_of(pdf: bytes) -> str:
    document = pdfium.PdfDocument(pdf)
    return "\n".join(document[i].get_textpage().get_text_bounded() for i in range(len(document)))


def test_volumes_as_csv_are_those_of_the_table_and_in_feet_the_same_earth(built: Any) -> None:
    ben, project, road = built
    told = ben.get(f"/api/roads/{road.pk}/volumes").json()["rows"]
    head, *rows = rows_of(ben.get(f"/api/roads/{road.pk}/volumes.csv").content)
    assert head[1:4] == ["Station m", "Cut m2", "Fill m2"] and len(rows) == len(told)
    keys = ("station", "cut_area", "fill_area", "cut", "fill", "cumulative_cut", "cumulative_fill", "balance")
    metric = np.array([[float(v) for v in r[1:9]] for r in rows])
    assert_allclose(metric, [[r[k] for k in keys] for r in told], rtol=0, atol=5.1e-4)
    in_feet(project)
    head, *rows = rows_of(ben.get(f"/api/roads/{road.pk}/volumes.csv").content)
    assert head[1:5] == ["Station ft", "Cut ft2", "Fill ft2", "Cut yd3"]
    imperial = np.array([[float(v) for v in r[1:9]] for r in rows])
    yard = 27 * FOOT**3
    assert_allclose(imperial * [FOOT, FOOT**2, FOOT**2, *[yard] * 5], metric, rtol=0, atol=2e-3)
    assert rows[0][0] == "0+00.000" and float(rows[-1][1]) * FOOT == pytest.approx(metric[-1, 0], abs=1e-3)


@pytest.mark.parametrize("kind", ["elements", "tangent-points", "coordinates"])
def test_a_report_says_the_same_in_every_form(built: Any, kind: str) -> None:
    """CSV, a text document and a PDF hold every number of the table on the page."""
    ben, _, road = built
    address = f"/api/roads/{road.pk}/reports/{kind}?interval=50"
    (table,) = ben.get(address).json()["tables"]
    head, *rows = rows_of(ben.get(f"{address}&form=csv").content)
    assert len(rows) == len(table["rows"])
    document = docx.Document(io.BytesIO(ben.get(f"{address}&form=docx").content))
    cells = [[c.text for c in r.cells] for r in document.tables[0].rows]
    pdf = re.sub(r"\s+", " ", text_of(ben.get(f"{address}&form=pdf").content))
    assert len(cells) == len(rows) + 1
    for i, row in enumerate(table["rows"]):
        at = 0  # a station takes two columns in the CSV
        for k, (column, value) in enumerate(zip(table["columns"], row, strict=True)):
            if column["kind"] == "number" and value is not None:
                written = f"{abs(value):.{column['decimals']}f}"
                assert rows[i][at].lstrip("-+") == written
                assert written in cells[i + 1][k].replace("\u2212", "").replace("\u2009", "")
                assert written in pdf
            at += 2 if column["kind"] == "station" else 1
    assert head[0] in cells[0][0] or cells[0][0] in head[0]


def test_landxml_and_ifc_hold_the_lines_that_are_there(built: Any) -> None:
    ben, project, road = built
    design = ben.get(f"/api/roads/{road.pk}/design").json()
    model = read_landxml(ben.get(f"/api/projects/{project.pk}/landxml").content)
    (line,) = model.alignments
    assert line.name == road.name and line.alignment is not None
    at = np.array(design["line"]["points"])
    assert_allclose(line.alignment.evaluate(at[:, 0])[0], at[:, 1:3], rtol=0, atol=2e-3)
    (pvis,) = line.profiles.values()
    assert_allclose([p.elevation for p in pvis], [p["elevation"] for p in design["pvis"]], rtol=0, atol=1e-9)
    assert len(model.surfaces) == 1
    ifc = ifcopenshell.file.from_string(ben.get(f"/api/projects/{project.pk}/ifc").content.decode())
    (alignment,) = ifc.by_type("IfcAlignment")
    assert alignment.Name == road.name
    segments = ifc.by_type("IfcAlignmentHorizontalSegment")
    whole = sum(abs(s.SegmentLength) for s in segments)
    assert whole == pytest.approx(design["line"]["end"] - design["line"]["start"], abs=1e-6)


def test_lines_as_dxf_lie_where_they_are_in_either_unit(built: Any) -> None:
    ben, project, road = built
    at = np.array(ben.get(f"/api/roads/{road.pk}/design").json()["line"]["points"])
    course = shapely.LineString(at[:, 1:3])
    for metre, code in ((1.0, 6), (FOOT, 2)):
        drawing = ezdxf.read(io.StringIO(ben.get(f"/api/projects/{project.pk}/lines.dxf").content.decode()))
        assert drawing.header["$INSUNITS"] == code
        lines = drawing.modelspace().query("LWPOLYLINE")
        places = np.concatenate([np.array(p.get_points("xy")) for p in lines]) * metre  # type: ignore[attr-defined]
        assert max(course.distance(shapely.Point(*p)) for p in places) < 0.02
        assert shapely.Point(*places[0]).distance(shapely.Point(*at[0, 1:3])) < 1e-3
        in_feet(project)


def test_the_surface_leaves_as_every_format_says(built: Any, tmp_path: Any) -> None:
    """The ground is the plane z = 100 + 0.02 (E - 500 000): every format has to lie on it, read by its own library."""
    ben, project, _ = built
    surface = Surface.present.get(project=project)

    def out(kind: str, more: str = "") -> bytes:
        answer = ben.get(f"/api/surfaces/{surface.pk}/out/{kind}?{more}")
        assert answer.status_code == 200, answer.content[:200]
        return bytes(answer.content)

    def level(e: Any) -> Any:
        return 100 + 0.02 * (np.asarray(e) - 500_000)

    (read,) = read_landxml(out("landxml")).surfaces
    assert len(read.faces) == 2 * 32 * 24
    told = json.loads(out("geojson", "interval=2"))
    for feature in told["features"]:
        coordinates = np.array(feature["geometry"]["coordinates"]).reshape(
            -1, np.array(feature["geometry"]["coordinates"]).shape[-1]
        )
        assert_allclose(level(coordinates[:, 0]), feature["properties"]["level"], rtol=0, atol=2e-3)
    (tmp_path / "g.asc").write_bytes(out("grid", "cell=20"))
    with rasterio.open(tmp_path / "g.asc") as grid:
        values, where = grid.read(1), grid.transform
        row, column = np.nonzero(values != grid.nodata)
        e, _ = where * (column + 0.5, row + 0.5)
        assert len(row) > 1000 and np.abs(values[row, column] - level(e)).max() < 2e-3
    drawing = ezdxf.read(io.StringIO(out("dxf", "interval=5").decode()))
    corners = np.array([list(f.dxf.get(k)) for f in drawing.modelspace().query("3DFACE") for k in ("vtx0", "vtx1", "vtx2")])
    if len(corners):
        assert_allclose(corners[:, 2], level(corners[:, 0]), rtol=0, atol=1e-6)
    else:
        (mesh,) = drawing.modelspace().query("MESH")
        points = np.array([list(v) for v in mesh.vertices])  # type: ignore[attr-defined]
        assert len(points) == 33 * 25
        assert_allclose(points[:, 2], level(points[:, 0]), rtol=0, atol=1e-6)
    in_feet(project)
    assert b'linearUnit="foot"' in out("landxml")
    (again,) = read_landxml(out("landxml")).surfaces
    assert_allclose(again.points, read.points, rtol=0, atol=1e-6)


def test_sheets_leave_as_pdf_dxf_and_svg_with_the_same_words(built: Any) -> None:
    ben, _, road = built
    sheets = SheetSet.present.get(road=road)
    pdf = text_of(ben.get(f"/api/sheet-sets/{sheets.pk}/plan.pdf").content)
    svg = ben.get(f"/api/sheet-sets/{sheets.pk}/plan.svg?number=1").content.decode()
    drawing = ezdxf.read(io.StringIO(ben.get(f"/api/sheet-sets/{sheets.pk}/plan.dxf?number=1").content.decode()))
    words = {t.dxf.text for t in drawing.modelspace().query("TEXT")}
    assert {"Datum 95 m", "Ground", "Design"} <= words or any(w.startswith("Datum") for w in words)
    for w in words:
        plain = w.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        assert plain in svg, w
    squeezed = re.sub(r"\s+", "", pdf)
    missing = [w for w in words if re.sub(r"\s+", "", w) not in squeezed]
    assert len(missing) <= 0.05 * len(words), missing[:8]  # a PDF's text is told piece by piece; turned ones may be parted
