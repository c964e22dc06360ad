"""The shelves of a project: what stands on them, issuing sheets, and names."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from ninja import Router

from ivoryridge.design.actions.edit_sheets import rename
from ivoryridge.design.actions.issue_sheets import issue_sheets
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.project import ShelfRow
from ivoryridge.design.pictures.shelves import shelves_picture
from ivoryridge.design.refusals import NotThere

from .answers import acted, json_answer
from .downloads import as_file
from .rules import editor, viewer
from .schemas import IssueIn, NameChange

router = Router()


@router.get("/projects/{int:project_id}/shelves", auth=viewer, response=list[ShelfRow])
def shelves(request: Any, project_id: int) -> HttpResponse:
    """Everything in the project by shelf, with what it is made from and what is made from it."""
    return json_answer(shelves_picture(request.project))


@router.put("/templates/{int:template_id}/name", auth=editor, response=Acted)
def name_template(request: Any, template_id: int, given: NameChange) -> HttpResponse:
    return acted(rename(request.row, request.user, revision=given.revision, name=given.name))


@router.put("/sheet-sets/{int:sheet_set_id}/name", auth=editor, response=Acted)
def name_sheets(request: Any, sheet_set_id: int, given: NameChange) -> HttpResponse:
    return acted(rename(request.row, request.user, revision=given.revision, name=given.name))


@router.post("/sheet-sets/{int:sheet_set_id}/issue", auth=editor, response=Acted)
def give_out(request: Any, sheet_set_id: int, given: IssueIn) -> HttpResponse:
    doing, issue, told = issue_sheets(request.row, request.user, revision=given.revision, remark=given.remark)
    return acted(doing, told, issue_id=issue.pk)


@router.get("/issues/{int:issue_id}/files/{int:file_id}", auth=viewer)
def issued_file(request: Any, issue_id: int, file_id: int) -> HttpResponse:
    """A file as it was given out."""
    file = request.row.files.filter(pk=file_id).first()
    if file is None:
        raise NotThere("no-such-file", "There is no such file in this issue.")
    return as_file(bytes(file.content), file.content_type, file.name)
