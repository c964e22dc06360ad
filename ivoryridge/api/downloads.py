"""Files given out: CSV of areas and volumes, LandXML."""

from __future__ import annotations

import csv
import io
from typing import Annotated, Any

from django.http import HttpResponse
from django.utils import timezone
from django.utils.http import content_disposition_header
from ninja import Router
from pydantic import Field

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.exchange.ifc_alignment import write_ifc
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.line_dxf import LineDrawn, write_lines_dxf
from ivoryridge.core.text import file_name
from ivoryridge.core.wording import spoken
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.road import RoadInputs, chainage_words
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Road, Surface
from ivoryridge.design.pictures.earthwork import VolumesAsked, volumes_picture
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.crossfall import crossfall_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.surface import surface_of

from .rules import viewer
from .schemas import Number, Way

router = Router()
Scale = Annotated[float, Field(ge=50, le=20000)]


def as_file(content: bytes, content_type: str, name: str | None) -> HttpResponse:
    """A download under a name; without a name the browser shows it."""
    response = HttpResponse(content, content_type=content_type)
    if name:
        response["Content-Disposition"] = content_disposition_header(True, file_name(name))
    response["Cache-Control"] = "private, no-cache"
    return response


@router.get("/roads/{int:road_id}/volumes.csv", auth=viewer)
def volumes_csv(
    request: Any, road_id: int, station_from: Number | None = None, station_to: Number | None = None, way: Way = "bends"
) -> HttpResponse:
    road = request.row
    inputs = assemble_road(road)
    words = chainage_words(inputs, road.project.chainage_group)
    rows = volumes_picture(inputs, VolumesAsked(station_from, station_to, way))["rows"]
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    unit, solid = spoken().length, spoken().volume.replace("³", "3")
    table.writerow(
        [
            road.project.chainage_word,
            f"Station {unit}",
            f"Cut {unit}2",
            f"Fill {unit}2",
            f"Cut {solid}",
            f"Fill {solid}",
            f"Sum of cut {solid}",
            f"Sum of fill {solid}",
            f"Balance {solid}",
            "Remark",
        ]
    )
    for r in rows:
        station = words(r["station"])
        values = [
            r[k] for k in ("station", "cut_area", "fill_area", "cut", "fill", "cumulative_cut", "cumulative_fill", "balance")
        ]
        remark = "a slope does not meet the ground; its area ends at the search limit" if r["unmet"] else ""
        kinds = ("bare", "m2", "m2", *("m3",) * 5)
        told = (f"{v / spoken().per(kind)[0]:.3f}" for v, kind in zip(values, kinds, strict=True))
        table.writerow([station, *told, remark])
    return as_file(out.getvalue().encode("utf-8-sig"), "text/csv", f"{road.name} areas and volumes.csv")


def _lines(project: Any) -> list[tuple[Road, RoadInputs, HorizontalAlignment]]:
    """Roads of a project that have a line."""
    roads = Road.present.filter(project=project).select_related("project", "surface", "template")
    found = [(road, assemble_road(road)) for road in roads]
    return [(road, inputs, line_of(inputs)) for road, inputs in found if inputs.has_line]


@router.get("/projects/{int:project_id}/landxml", auth=viewer)
def landxml(request: Any, project_id: int) -> HttpResponse:
    """All surfaces, lines, profiles, chainage equations and crossfalls of the project."""
    surfaces = [(s.name, surface_of(assemble_surface(s))[0]) for s in Surface.present.filter(project_id=project_id) if s.sources]
    alignments, equations, crossfalls = [], {}, {}
    for road, inputs, line in _lines(request.project):
        profiles = {f"{road.name} profile": levels_of(inputs).pvis} if inputs.has_profile else {}
        alignments.append((road.name, line, profiles))
        equations[road.name] = inputs.equations
        turning = crossfall_of(inputs)
        if turning is not None:
            crossfalls[road.name] = turning.diagram
    now = timezone.now()
    content = write_landxml(
        project=request.project.name, surfaces=surfaces, alignments=alignments, equations=equations, crossfalls=crossfalls,
        date=f"{now:%Y-%m-%d}", time=f"{now:%H:%M:%S}", units=spoken(),
    )  # fmt: skip
    return as_file(content, "application/xml", f"{request.project.name}.xml")


@router.get("/projects/{int:project_id}/ifc", auth=viewer)
def ifc(request: Any, project_id: int) -> HttpResponse:
    """Lines and profiles of the project as IFC 4.3 alignments."""
    lines = [
        (road.name, line, levels_of(inputs).profile if inputs.has_profile else None)
        for road, inputs, line in _lines(request.project)
    ]
    if not lines:
        raise BadValue("no-line", "The project has no line yet.")
    equations = {road.name: inputs.equations for road, inputs, _ in _lines(request.project)}
    return as_file(
        write_ifc(project=request.project.name, lines=lines, equations=equations),
        "application/x-step",
        f"{request.project.name}.ifc",
    )


@router.get("/projects/{int:project_id}/lines.dxf", auth=viewer)
def lines_dxf(request: Any, project_id: int, scale: Scale = 1000.0) -> HttpResponse:
    """Lines, profiles in space and chainages as DXF; texts fit a plan at 1:``scale``."""
    group = request.project.chainage_group
    lines = [
        LineDrawn(
            road.name,
            line,
            levels_of(inputs).profile if inputs.has_profile else None,
            chainage_words(inputs, group, 0),
            inputs.equations,
        )
        for road, inputs, line in _lines(request.project)
    ]
    return as_file(
        write_lines_dxf(
            lines, scale=scale, interval=100.0 * spoken().metre if spoken().metre != 1.0 else 100.0, units=spoken()
        ).encode(),
        "image/vnd.dxf",
        f"{request.project.name} lines.dxf",
    )
