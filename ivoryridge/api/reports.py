"""Reports on a road's line: on screen as tables, and as CSV."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any, Literal

import numpy as np
from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.report.documents import write_docx, write_pdf
from ivoryridge.core.report.layouts import laid_out, layouts_of
from ivoryridge.core.report.line import (
    coordinate_report,
    crossing_report,
    deviation_report,
    element_report,
    interval_deviation_report,
    tangent_point_report,
)
from ivoryridge.core.report.table import Table, in_spoken_units, write_csv
from ivoryridge.core.sheets.fonts import font_name
from ivoryridge.design.forms.road import Report, VolumeWay
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.road import RoadInputs, chainage_words
from ivoryridge.design.models import Road
from ivoryridge.design.pictures.beside import other_lines
from ivoryridge.design.pictures.earthwork import VolumesAsked, earthwork_tables
from ivoryridge.design.received.measured import measured_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of

from .answers import json_answer
from .downloads import as_file
from .rules import viewer
from .schemas import Number

router = Router()
Kind = Literal["elements", "tangent-points", "coordinates", "deviation", "crossings"]
Form = Literal["json", "csv", "docx", "pdf"]
_DOCX = "application/vnd.openxmlformats-officedocument.wordprocessingml.document"


@router.get("/roads/{int:road_id}/reports/earthwork", auth=viewer, response=Report)
def volumes_report(
    request: Any, road_id: int, station_from: Number | None = None, station_to: Number | None = None, way: VolumeWay = "bends",
    interval: Number | None = None, key_chainages: bool = True, left: Number | None = None, right: Number | None = None,
    layout: int | None = None, form: Form = "json",
) -> HttpResponse:  # fmt: skip
    """Volumes by sections at an ``interval`` (m), or at the road's own without one; ``key_chainages``: at tangent points and the like, too.
    ``left`` and ``right``: offsets (m, + right) between which is counted."""
    inputs = assemble_road(request.row)
    offsets = None if left is None and right is None else (-np.inf if left is None else left, np.inf if right is None else right)
    asked = VolumesAsked(station_from, station_to, way, interval, key_chainages, offsets)
    return _answer(request.row, inputs, "earthwork", earthwork_tables(inputs, asked), layout, form)


@router.get("/roads/{int:road_id}/reports/{kind}", auth=viewer, response=Report)
def report(
    request: Any, road_id: int, kind: Kind, start: Number | None = None, end: Number | None = None, interval: Number = 20.0,
    offset: Number = 0.0, survey: int = 0, layer: str = "", measured_line: int | None = None,
    each: Literal["interval", "point"] = "interval", limit: Number | None = None,
    layout: int | None = None, form: Form = "json",
) -> HttpResponse:  # fmt: skip
    """``start`` and ``end`` are stations in m; the deviation report is of a survey, of one of its layers or of one line of that
    (counted from 0), at an interval or at ``each`` measured point. ``layout``: which way to lay it out, as the answer lists them;
    without one a document holds every table."""
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
            points, lines = measured_of(road.project, survey, layer, measured_line)
            if each == "interval":
                tables = interval_deviation_report(
                    line, lines, points, interval=interval, start=start, end=end, limit=limit, equations=inputs.equations
                )
            else:
                measured = np.concatenate([points[:, :2], *(v[:, :2] for v in lines)])
                tables = deviation_report(line, measured, start=start, end=end, limit=limit)
        case "crossings":
            tables = (crossing_report(line, other_lines(road), start, end),)
    return _answer(road, inputs, kind, tables, layout, form)


def _answer(road: Road, inputs: RoadInputs, kind: str, tables: Sequence[Table], layout: int | None, form: Form) -> HttpResponse:
    """A report as its tables and layouts, or as a file of all of it or of one layout."""
    tables = tuple(in_spoken_units(t) for t in tables)
    layouts = layouts_of(kind, tables)
    if form == "json":
        return json_answer({"tables": [_told(t) for t in tables], "layouts": [asdict(la) for la in layouts]})
    if layout is not None and 0 <= layout < len(layouts):
        tables = (laid_out(tables, layouts[layout]),)
    words = chainage_words(inputs, road.project.chainage_group)
    name = f"{road.name} {tables[0].title.lower()}"
    if form == "csv":
        return as_file(write_csv(tables[0], words).encode("utf-8-sig"), "text/csv", f"{name}.csv")
    title = f"{road.project.name}: {road.name}"
    if form == "docx":
        return as_file(write_docx(title, tables, words), _DOCX, f"{name}.docx")
    return as_file(write_pdf(title, tables, words, (font_name(False), font_name(True))), "application/pdf", f"{name}.pdf")


def _told(table: Table) -> dict[str, Any]:
    return {"title": table.title, "columns": [asdict(c) for c in table.columns], "rows": table.rows, "told": table.told}
