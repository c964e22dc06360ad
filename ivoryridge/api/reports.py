"""Reports on a road's line: on screen as tables, and as CSV."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, Literal

from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.report.documents import write_docx, write_pdf
from ivoryridge.core.report.line import coordinate_report, crossing_report, deviation_report, element_report, tangent_point_report
from ivoryridge.core.report.table import Table, in_spoken_units, write_csv
from ivoryridge.core.sheets.fonts import font_name
from ivoryridge.design.forms.road import ReportTable
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.road import chainage_words
from ivoryridge.design.pictures.beside import other_lines
from ivoryridge.design.received.measured import measured_along
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of

from .answers import json_answer
from .downloads import as_file
from .rules import viewer
from .schemas import Number

router = Router()
Kind = Literal["elements", "tangent-points", "coordinates", "deviation", "crossings"]
_DOCX = "application/vnd.openxmlformats-officedocument.wordprocessingml.document"


@router.get("/roads/{int:road_id}/reports/{kind}", auth=viewer, response=list[ReportTable])
def report(
    request: Any, road_id: int, kind: Kind, start: Number | None = None, end: Number | None = None, interval: Number = 20.0,
    offset: Number = 0.0, survey: int = 0, layer: str = "", limit: Number | None = None, form: Literal["json", "csv", "docx",
    "pdf"] = "json",
) -> HttpResponse:  # fmt: skip
    """``start`` and ``end`` are stations in m; the deviation report is of a survey's points, or of one of its layers."""
    road = request.row
    inputs = assemble_road(road)
    line = line_of(inputs)
    tables: tuple[Table, ...]
    match kind:
        case "elements":
            tables = (element_report(line, start, end),)
        case "tangent-points":
            tables = (tangent_point_report(line, start, end),)
        case "coordinates":
            profile = levels_of(inputs).profile if inputs.has_profile else None
            tables = (
                coordinate_report(
                    line, profile, interval=interval, start=start, end=end, offset=offset, equations=inputs.equations
                ),
            )
        case "deviation":
            measured = measured_along(road.project, survey, layer)
            tables = deviation_report(line, measured, start=start, end=end, limit=limit)
        case "crossings":
            tables = (crossing_report(line, other_lines(road), start, end),)
    tables = tuple(in_spoken_units(t) for t in tables)
    words = chainage_words(inputs, road.project.chainage_group)
    name = f"{road.name} {tables[0].title.lower()}"
    if form == "csv":
        return as_file(write_csv(tables[0], words).encode("utf-8-sig"), "text/csv", f"{name}.csv")
    title = f"{road.project.name}: {road.name}"
    if form == "docx":
        return as_file(write_docx(title, tables, words), _DOCX, f"{name}.docx")
    if form == "pdf":
        return as_file(write_pdf(title, tables, words, (font_name(False), font_name(True))), "application/pdf", f"{name}.pdf")
    return json_answer([_told(t) for t in tables])


def _told(table: Table) -> dict[str, Any]:
    return {"title": table.title, "columns": [asdict(c) for c in table.columns], "rows": table.rows, "told": table.told}
