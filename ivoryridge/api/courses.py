"""Whole lines: parallels, lines of a LandXML file, ties of ends, reversal, and the way back to PIs."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpResponse
from ninja import File, Form, Router, UploadedFile

from ivoryridge.core.wording import quantity
from ivoryridge.design.actions.edit_course import (
    change_offset,
    convert_line,
    create_course,
    free_line,
    reverse_road,
    set_equations,
    tie_end,
    untie_end,
)
from ivoryridge.design.actions.edit_line import hold
from ivoryridge.design.actions.join_lines import join_roads, split_road
from ivoryridge.design.actions.lines_in import bring_in_lines, offered_lines
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.ground import OfferedLines
from ivoryridge.design.models import Upload

from .answers import acted, json_answer
from .files import given_file
from .rules import editor, road_of
from .schemas import EquationsIn, Hold, JoinIn, OffsetChange, ParallelIn, Revised, SplitIn, Tie

router = Router()
End = Literal["start", "end"]


@router.post("/projects/{int:project_id}/parallels", auth=editor, response=Acted)
def add_parallel(request: Any, project_id: int, given: ParallelIn) -> HttpResponse:
    """A road parallel to another one, ``offset`` m to its right (+), that follows it."""
    base = road_of(request.project, given.road)
    course = {"kind": "offset", "road": base.pk, "offset": given.offset}
    name = given.name or f"{base.name}, {quantity(abs(given.offset), 'm')} {'right' if given.offset > 0 else 'left'}"
    doing, road = create_course(
        request.project, request.user, name=name, course=course, start_station=base.start_station, like=base
    )
    return acted(doing, road_id=road.pk)


@router.post("/projects/{int:project_id}/lines/offered", auth=editor, response=OfferedLines)
def lines_offered(
    request: Any, project_id: int, file: File[UploadedFile | None] = None, upload: Form[int] = 0, received: Form[int] = 0
) -> HttpResponse:
    """The lines of a LandXML file or a drawing, to choose among."""
    content, name, _ = given_file(request, file, upload, received)
    lines, told = offered_lines(content, name)
    return json_answer({"lines": lines, "told": told})


@router.post("/projects/{int:project_id}/lines", auth=editor, response=Acted)
def lines_in(
    request: Any, project_id: int, file: File[UploadedFile | None] = None, upload: Form[int] = 0, received: Form[int] = 0,
    chosen: Form[list[int] | None] = None,
) -> HttpResponse:  # fmt: skip
    """Alignments of a LandXML file, or ``chosen`` lines of it or of a drawing, as roads, element by element, with their first
    profile."""
    content, name, kept = given_file(request, file, upload, received)
    doing, roads, told = bring_in_lines(request.project, request.user, content=content, name=name, chosen=chosen, received=kept)
    Upload.objects.filter(user=request.user, pk=upload).delete()
    return acted(doing, told, road_id=roads[0].pk)


@router.post("/roads/{int:road_id}/reverse", auth=editor, response=Acted)
def reverse(request: Any, road_id: int, given: Revised) -> HttpResponse:
    return acted(*reverse_road(request.row, request.user, revision=given.revision))


@router.post("/roads/{int:road_id}/split", auth=editor, response=Acted)
def split(request: Any, road_id: int, given: SplitIn) -> HttpResponse:
    doing, told, other = split_road(request.row, request.user, revision=given.revision, station=given.station)
    return acted(doing, told, road_id=other.pk)


@router.post("/roads/{int:road_id}/join", auth=editor, response=Acted)
def join(request: Any, road_id: int, given: JoinIn) -> HttpResponse:
    other = road_of(request.row.project, given.road)
    return acted(*join_roads(request.row, request.user, revision=given.revision, other=other))


@router.patch("/roads/{int:road_id}/offset", auth=editor, response=Acted)
def offset(request: Any, road_id: int, given: OffsetChange) -> HttpResponse:
    return acted(change_offset(request.row, request.user, revision=given.revision, offset=given.offset))


@router.post("/roads/{int:road_id}/free", auth=editor, response=Acted)
def free(request: Any, road_id: int, given: Revised) -> HttpResponse:
    """A parallel stays where it is, on its own."""
    return acted(free_line(request.row, request.user, revision=given.revision))


@router.post("/roads/{int:road_id}/convert", auth=editor, response=Acted)
def convert(request: Any, road_id: int, given: Revised) -> HttpResponse:
    """A line of elements or a parallel becomes one by PIs; the difference is told."""
    return acted(*convert_line(request.row, request.user, revision=given.revision))


@router.put("/roads/{int:road_id}/equations", auth=editor, response=Acted)
def equations(request: Any, road_id: int, given: EquationsIn) -> HttpResponse:
    """Chainage equations as [station m, jump m]."""
    return acted(*set_equations(request.row, request.user, revision=given.revision, equations=given.equations))


@router.put("/roads/{int:road_id}/ties/{end}", auth=editor, response=Acted)
def tie(request: Any, road_id: int, end: End, given: Tie) -> HttpResponse:
    other = road_of(request.row.project, given.road)
    return acted(
        *tie_end(
            request.row, request.user, revision=given.revision, end=end, other=other, station=given.station, level=given.level
        )
    )


@router.delete("/roads/{int:road_id}/ties/{end}", auth=editor, response=Acted)
def untie(request: Any, road_id: int, end: End, revision: int) -> HttpResponse:
    return acted(untie_end(request.row, request.user, revision=revision, end=end))


@router.put("/roads/{int:road_id}/pis/{int:pi_id}/held", auth=editor, response=Acted)
def hold_pi(request: Any, road_id: int, pi_id: int, given: Hold) -> HttpResponse:
    return acted(hold(request.row, request.user, pi_id, revision=given.revision, what=given.what, held=given.held))
