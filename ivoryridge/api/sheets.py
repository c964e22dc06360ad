"""Sheets: their list, and each as SVG, PDF or DXF."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.sheets.render_dxf import render_dxf
from ivoryridge.core.sheets.render_pdf import render_pdf
from ivoryridge.core.sheets.render_svg import render_svg
from ivoryridge.design.actions.edit_sheets import change_sheet_set, create_sheet_set, delete_sheet_set
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.road import SheetList
from ivoryridge.design.models import SheetSet
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.sheets import plan_sheets, section_sheets, sheet_list

from .answers import acted, json_answer
from .downloads import as_file
from .rules import editor, viewer
from .schemas import SheetSetChange

router = Router()
Kind = Literal["plan", "sections"]


def _drawings(sheets: SheetSet, kind: str) -> list[Any]:
    return plan_sheets(sheets) if kind == "plan" else section_sheets(sheets)


def _one(sheets: SheetSet, kind: str, number: int) -> Any:
    drawings = _drawings(sheets, kind)
    if not 1 <= number <= len(drawings):
        raise BadValue("no-such-sheet", f"There is no sheet {number}; there are {len(drawings)}.")
    return drawings[number - 1]


@router.patch("/sheet-sets/{int:sheet_set_id}", auth=editor, response=Acted)
def change(request: Any, sheet_set_id: int, given: SheetSetChange) -> HttpResponse:
    return acted(change_sheet_set(request.row, request.user, revision=given.revision, values=given.given()))


@router.delete("/sheet-sets/{int:sheet_set_id}", auth=editor, response=Acted)
def delete(request: Any, sheet_set_id: int, revision: int) -> HttpResponse:
    return acted(delete_sheet_set(request.row, request.user, revision=revision))


@router.post("/roads/{int:road_id}/sheet-set", auth=editor, response=Acted)
def create(request: Any, road_id: int) -> HttpResponse:
    return acted(create_sheet_set(request.row, request.user))


@router.get("/sheet-sets/{int:sheet_set_id}/sheets", auth=viewer, response=SheetList)
def listed(request: Any, sheet_set_id: int) -> HttpResponse:
    return json_answer(sheet_list(request.row))


@router.get("/sheet-sets/{int:sheet_set_id}/{kind}.svg", auth=viewer)
def svg(request: Any, sheet_set_id: int, kind: Kind, number: int = 1, download: bool = False) -> HttpResponse:
    drawing = _one(request.row, kind, number)
    return as_file(render_svg(drawing).encode(), "image/svg+xml", f"{drawing.title}.svg" if download else None)


@router.get("/sheet-sets/{int:sheet_set_id}/{kind}.dxf", auth=viewer)
def dxf(request: Any, sheet_set_id: int, kind: Kind, number: int = 1) -> HttpResponse:
    drawing = _one(request.row, kind, number)
    return as_file(render_dxf(drawing).encode(), "image/vnd.dxf", f"{drawing.title}.dxf")


@router.get("/sheet-sets/{int:sheet_set_id}/{kind}.pdf", auth=viewer)
def pdf(request: Any, sheet_set_id: int, kind: Literal["plan", "sections", "all"]) -> HttpResponse:
    """A page a sheet; ``all``: the plans, then the cross sections."""
    sheets = request.row
    words = {"plan": "plan and profile", "sections": "cross sections", "all": "all sheets"}
    title = f"{sheets.road.name}, {words[kind]}"
    drawings = [d for k in (("plan", "sections") if kind == "all" else (kind,)) for d in _drawings(sheets, k)]
    return as_file(render_pdf(drawings, title=title), "application/pdf", f"{title}.pdf")
