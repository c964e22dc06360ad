"""The projects of a person: the list with what tells them apart, a new one, one deleted and taken back."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from ivoryridge.design.actions.edit_project import create_project, restore_project
from ivoryridge.design.forms.common import ProjectLine, ProjectSketch, StandardLine
from ivoryridge.design.inputs.standards import all_standards
from ivoryridge.design.pictures.project_list import project_lines, project_sketch, sketch_key

from .answers import json_answer
from .binary import unchanged
from .rules import owner_of_deleted, signed_in, viewer
from .schemas import ProjectIn

router = Router()


@router.get("/projects", auth=signed_in, response=list[ProjectLine])
def projects(request: HttpRequest) -> HttpResponse:
    return json_answer(project_lines(request.user))


@router.get("/standards", auth=signed_in, response=list[StandardLine])
def standards(request: HttpRequest) -> HttpResponse:
    """What a new project may be designed by."""
    return json_answer(
        [
            {"id": s.id, "name": s.name, "status": s.status, "greatest_speed": s.rows[-1]["speed"]}
            for s in all_standards().values()
        ]
    )


@router.post("/projects", auth=signed_in, response=ProjectLine)
def create(request: HttpRequest, given: ProjectIn) -> HttpResponse:
    """A new project; who makes it is its owner."""
    project = create_project(request.user, **given.given())  # type: ignore[arg-type]
    return json_answer(next(p for p in project_lines(request.user) if p["id"] == project.pk), status=201)


@router.get("/projects/{int:project_id}/sketch", auth=viewer, response=ProjectSketch)
def sketch(request: Any, project_id: int) -> HttpResponse:
    """A small plan of its roads, and how long they are together."""
    key = sketch_key(project_id)
    return HttpResponse(status=304) if unchanged(request, key) else json_answer(project_sketch(project_id), key)


@router.post("/projects/{int:project_id}/restore", auth=owner_of_deleted, response=list[ProjectLine])
def restore(request: Any, project_id: int) -> HttpResponse:
    restore_project(request.project)
    return json_answer(project_lines(request.user))
