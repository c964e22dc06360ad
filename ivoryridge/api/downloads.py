"""Files given out: CSV of areas and volumes, LandXML."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.http import HttpResponse
from django.utils import timezone
from django.utils.http import content_disposition_header
from ninja import Router

from ivoryridge.core.exchange.landxml import write_landxml
from ivoryridge.core.units import format_station
from ivoryridge.design.assemble import assemble_road, assemble_surface
from ivoryridge.design.models import Road, Surface
from ivoryridge.design.queries import volume_rows
from ivoryridge.design.results import design_road, levels_of, line_of, surface_of

from .rules import viewer

router = Router()


def as_file(content: bytes, content_type: str, name: str | None) -> HttpResponse:
    """A download under a name; without a name the browser shows it."""
    response = HttpResponse(content, content_type=content_type)
    if name:
        response["Content-Disposition"] = content_disposition_header(True, name)
    response["Cache-Control"] = "private, no-cache"
    return response


@router.get("/roads/{int:road_id}/volumes.csv", auth=viewer)
def volumes_csv(request: Any, road_id: int, station_from: float | None = None, station_to: float | None = None) -> HttpResponse:
    road = request.row
    rows = volume_rows(design_road(assemble_road(road)), station_from, station_to)
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(
        [
            road.project.chainage_word,
            "Station m",
            "Cut m2",
            "Fill m2",
            "Cut m3",
            "Fill m3",
            "Sum of cut m3",
            "Sum of fill m3",
            "Balance m3",
        ]
    )
    for r in rows:
        station = format_station(r["station"], group=road.project.chainage_group)
        values = [
            r[k] for k in ("station", "cut_area", "fill_area", "cut", "fill", "cumulative_cut", "cumulative_fill", "balance")
        ]
        table.writerow([station, *(f"{v:.3f}" for v in values)])
    return as_file(out.getvalue().encode("utf-8-sig"), "text/csv", f"{road.name} areas and volumes.csv")


@router.get("/projects/{int:project_id}/landxml", auth=viewer)
def landxml(request: Any, project_id: int) -> HttpResponse:
    """All surfaces, lines and profiles of the project."""
    surfaces = [(s.name, surface_of(assemble_surface(s))[0]) for s in Surface.present.filter(project_id=project_id) if s.sources]
    alignments = []
    for road in Road.present.filter(project_id=project_id).select_related("project", "surface", "template"):
        inputs = assemble_road(road)
        if inputs.has_line:
            profiles = {f"{road.name} profile": levels_of(inputs).pvis} if len(inputs.pvis) >= 2 else {}
            alignments.append((road.name, line_of(inputs), profiles))
    now = timezone.now()
    content = write_landxml(
        project=request.project.name, surfaces=surfaces, alignments=alignments, date=f"{now:%Y-%m-%d}", time=f"{now:%H:%M:%S}"
    )
    return as_file(content, "application/xml", f"{request.project.name}.xml")
