"""Reports on a road's line: on screen as tables, and as CSV."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any, Literal

from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.report.line import coordinate_report, deviation_report, element_report, tangent_point_report
from ivoryridge.core.report.table import Table, write_csv
from ivoryridge.core.units import format_station
from ivoryridge.design.assemble import assemble_road
from ivoryridge.design.measured import measured_along
from ivoryridge.design.results import levels_of, line_of

from .answers import json_answer
from .downloads import as_file
from .rules import viewer

router = Router()
Kind = Literal["elements", "tangent-points", "coordinates", "deviation"]


@router.get("/roads/{int:road_id}/reports/{kind}", auth=viewer)
def report(
    request: Any, road_id: int, kind: Kind, start: float | None = None, end: float | None = None, interval: float = 20.0,
    offset: float = 0.0, survey: int = 0, layer: str = "", limit: float | None = None, form: Literal["json", "csv"] = "json",
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
            profile = levels_of(inputs).profile if len(inputs.pvis) >= 2 else None
            tables = (coordinate_report(line, profile, interval=interval, start=start, end=end, offset=offset),)
        case "deviation":
            measured = measured_along(road.project, survey, layer)
            tables = deviation_report(line, measured, start=start, end=end, limit=limit)
    if form == "csv":
        group = road.project.chainage_group
        text = write_csv(tables[0], lambda s: format_station(s, group=group))
        return as_file(text.encode("utf-8-sig"), "text/csv", f"{road.name} {tables[0].title.lower()}.csv")
    return json_answer([_told(t) for t in tables])


def _told(table: Table) -> dict[str, Any]:
    return {"title": table.title, "columns": [asdict(c) for c in table.columns], "rows": table.rows, "told": table.told}
