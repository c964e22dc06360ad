"""Lines and reports given out, read back by the libraries that read such files: ezdxf, python-docx, pypdfium2, lxml."""

from __future__ import annotations

import io
from typing import Any

import docx
import ezdxf
import numpy as np
import pypdfium2
import pytest
from lxml import etree

from ivoryridge.core.alignment.crossfall_diagram import TurnedBend, crossfall_diagram
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, project_points
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.exchange.landxml import NAMESPACE, read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.line_dxf import LineDrawn, write_lines_dxf
from ivoryridge.core.report.documents import write_docx, write_pdf
from ivoryridge.core.report.line import crossing_report, element_report
from ivoryridge.core.units import format_station

E0, N0 = 412_000.0, 687_000.0
LINE = alignment_from_pis(
    [PI(E0, N0), PI(E0 + 300, N0 + 40, 220, 50, 40), PI(E0 + 520, N0 + 300, 150), PI(E0 + 900, N0 + 330)], 100.0
)
PROFILE = profile_from_pvis([PVI(100, 50), PVI(500, 58, 60, 60), PVI(LINE.end_station, 49)])


def words(s: float) -> str:
    return format_station(s)


def test_dxf_reopens_with_arcs_that_lie_on_the_line_and_a_course_in_space() -> None:
    document = ezdxf.read(io.StringIO(write_lines_dxf([LineDrawn("Main <1>", LINE, PROFILE, words)], scale=500)))
    assert not document.audit().errors and document.units == 6
    space = document.modelspace()
    elements = list(space.query('LWPOLYLINE[layer=="MAIN _1_"]'))
    assert len(elements) == len(LINE.length)
    for poly in elements:  # what a reader makes of it, bulges and all, lies on our line
        places = np.array(
            [
                [p.x, p.y]
                for e in poly.virtual_entities()
                for p in (e.flattening(0.001) if e.dxftype() == "ARC" else (e.dxf.start, e.dxf.end))
            ]
        )
        assert np.abs(project_points(LINE, places).offset).max() < 0.002
    course = np.array([v.dxf.location for p in space.query("POLYLINE") for v in p.vertices])
    found = project_points(LINE, course[:, :2])
    assert np.abs(found.offset).max() < 1e-6 and course[:, 2] == pytest.approx(PROFILE.evaluate(found.station)[0], abs=1e-6)
    texts = {t.dxf.text: t.dxf.height for t in space.query("TEXT")}
    assert "0+200.000" in texts and set(texts.values()) == {2.5 * 500 / 1000}


def test_marks_stand_at_round_chainages_behind_an_equation() -> None:
    """Between 0+400 and the end the count is 30 m ahead: the ticks stand at stations 470, 570, ... and say 0+500, 0+600, ..."""
    equations = ((400.0, 30.0),)
    drawn = LineDrawn("Main", LINE, PROFILE, lambda s: format_station(float(counted_at(s, equations)[0]), decimals=0), equations)
    space = ezdxf.read(io.StringIO(write_lines_dxf([drawn]))).modelspace()
    texts = [t.dxf.text for t in space.query("TEXT")]
    assert texts[:5] == ["0+100", "0+200", "0+300", "0+400", "0+500"]
    marks = np.array([line.dxf.start for line in space.query("LINE")]), np.array([line.dxf.end for line in space.query("LINE")])
    stations = project_points(LINE, (marks[0] + marks[1])[:, :2] / 2).station
    assert stations[:6] == pytest.approx([100, 200, 300, 400, 470, 570], abs=1e-6)


def test_landxml_carries_station_equations_and_superelevation() -> None:
    bend = TurnedBend(1, -1.0, 0.05, 240.0, 290.0, 400.0, 440.0)
    content = write_landxml(
        project="Test", alignments=[("Main", LINE, {})], equations={"Main": ((500.0, 20.0), (900.0, -40.0))},
        crossfalls={"Main": crossfall_diagram([bend], 0.025, 0.025)},
    )  # fmt: skip
    assert read_landxml(content).alignments[0].equations == ((500.0, 20.0), (900.0, -40.0))
    root = etree.fromstring(content)
    told = [
        {k: float(e.get(k)) for k in ("staInternal", "staBack", "staAhead")} for e in root.iter(f"{{{NAMESPACE}}}StaEquation")
    ]
    assert told == [
        {"staInternal": 500.0, "staBack": 500.0, "staAhead": 520.0}, {"staInternal": 900.0, "staBack": 920.0, "staAhead": 880.0},
    ]  # fmt: skip
    turned = root.find(f".//{{{NAMESPACE}}}Superelevation")
    assert turned is not None
    values = {e.tag.split("}")[1]: e.text for e in turned}
    assert float(values["FullSuperelev"]) == 5.0 and float(values["BeginRunoffSta"]) == 240.0
    assert float(values["BeginRunoutSta"]) == pytest.approx(240 - 0.025 / 0.05 * 50)
    model = read_landxml(content)
    assert not model.findings
    (turning,) = model.alignments[0].turnings
    assert turning.rate == 0.05 and turning.begin_runoff == 240.0 and turning.begin_runout == pytest.approx(215.0)
    assert counted_at([500.0, 501.0, 950.0], [(500.0, 20.0), (900.0, -40.0)]).tolist() == [500.0, 521.0, 930.0]


def test_reports_as_docx_and_pdf_hold_the_same_rows() -> None:
    table = element_report(LINE)
    document = docx.Document(io.BytesIO(write_docx("Job: Main", [table], words)))
    grid = document.tables[0]
    assert len(grid.rows) == len(table.rows) + 1 and document.paragraphs[0].text == "Job: Main"
    assert grid.rows[2].cells[0].text == "transition" and grid.rows[1].cells[2].text == words(LINE.stations[0])
    pdf = pypdfium2.PdfDocument(write_pdf("Job <A> & B", [table], words))
    text = "".join(pdf[i].get_textpage().get_text_range() for i in range(len(pdf)))
    assert "Job <A> & B" in text
    for row in table.rows:
        assert f"{row[4]:.3f}" in text  # every length


def test_crossings_lie_on_both_lines_and_one_that_does_not_cross_comes_nearest() -> None:
    across = alignment_from_pis([PI(E0 + 100, N0 + 200), PI(E0 + 160, N0 - 150)])
    away = alignment_from_pis([PI(E0 + 100, N0 + 400), PI(E0 + 200, N0 + 420)])
    rows: Any = crossing_report(LINE, [("Across", across), ("Away", away)]).rows
    crossing = next(r for r in rows if r[0] == "Across")
    mine, theirs = LINE.evaluate(crossing[2])[0][0], across.evaluate(crossing[3])[0][0]
    assert (
        crossing[1] == "crosses"
        and np.hypot(*(mine - theirs)) < 1e-6
        and (crossing[6], crossing[7]) == pytest.approx(tuple(mine))
    )
    angle = abs(float(np.degrees(LINE.evaluate(crossing[2])[1][0] - across.evaluate(crossing[3])[1][0])))
    assert crossing[5] == pytest.approx(min(angle % 180, 180 - angle % 180), abs=1e-6)
    near = next(r for r in rows if r[0] == "Away")
    assert near[1] == "comes nearest" and abs(near[4]) == pytest.approx(
        np.abs(project_points(LINE, away.evaluate(np.linspace(0, away.end_station, 400))[0]).offset).min(), abs=0.5
    )
