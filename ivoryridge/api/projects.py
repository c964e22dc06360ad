"""A project: its picture, settings, members, files, ledger."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router

from ivoryridge.design.actions.document_exchange import difference_to_taken, exchange_picture
from ivoryridge.design.actions.edit_ground import set_rules
from ivoryridge.design.actions.edit_members import remove_member as take_out
from ivoryridge.design.actions.edit_members import set_member as set_role
from ivoryridge.design.actions.edit_project import change_project, delete_project, set_annotations
from ivoryridge.design.actions.edit_road import draw_road
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.forms.common import Acted, Head, JobPicture, LedgerChange, LedgerPage, Member, ProjectLine
from ivoryridge.design.forms.ground import ExchangeDifference, ExchangeDocument, LineFit, MeasuredLine, Vertices
from ivoryridge.design.forms.project import Project
from ivoryridge.design.forms.road import LightRoad
from ivoryridge.design.inputs.network import network_of
from ivoryridge.design.jobs import cancel_job, job_picture, reap_dead_jobs
from ivoryridge.design.models import Job, Membership
from ivoryridge.design.pictures.ledger import ledger_changes, ledger_page
from ivoryridge.design.pictures.lightly import lightly_key, roads_lightly
from ivoryridge.design.pictures.project import project_picture
from ivoryridge.design.pictures.project_list import project_lines
from ivoryridge.design.received.measured import fit_picture, line_vertices, lines_measured
from ivoryridge.design.refusals import NotThere

from .answers import acted, json_answer
from .binary import unchanged
from .presence import look
from .rules import editor, owner, viewer
from .schemas import Annotations, FitIn, MemberIn, ProjectChange, RoadIn, SortingRules, VerticesIn

router = Router()


@router.get("/projects/{int:project_id}", auth=viewer, response=Project)
def show(request: Any, project_id: int) -> HttpResponse:
    return json_answer(project_picture(request.project, request.role, request.user))


@router.get("/projects/{int:project_id}/roads-lightly", auth=viewer, response=list[LightRoad])
def roads(request: Any, project_id: int) -> HttpResponse:
    """The lines of all roads, for drawing them beside the active one."""
    network = network_of(project_id)
    key = lightly_key(network)
    return HttpResponse(status=304) if unchanged(request, key) else json_answer(roads_lightly(network), key)


@router.get("/projects/{int:project_id}/head", auth=viewer, response=Head)
def head(request: Any, project_id: int) -> HttpResponse:
    """Which state of the design this is, and who else looks at it; asked for every second or so."""
    return json_answer({"head": str(request.project.head), "here": look(project_id, request.user.get_username())})


@router.patch("/projects/{int:project_id}", auth=editor, response=Acted)
def change(request: Any, project_id: int, given: ProjectChange) -> HttpResponse:
    return acted(change_project(request.project, request.user, revision=given.revision, values=given.given()))


@router.delete("/projects/{int:project_id}", auth=owner, response=list[ProjectLine])
def delete(request: Any, project_id: int) -> HttpResponse:
    """Nobody sees it any more; an owner may take it back."""
    delete_project(request.project)
    return json_answer(project_lines(request.user))


@router.put("/projects/{int:project_id}/sorting-rules", auth=editor, response=Acted)
def put_rules(request: Any, project_id: int, given: SortingRules) -> HttpResponse:
    rules = [r.dict() for r in given.rules]
    doing, told = set_rules(request.project, request.user, revision=given.revision, rules=rules, again=given.again)
    return acted(doing, told)


@router.put("/projects/{int:project_id}/annotations", auth=editor, response=Acted)
def put_annotations(request: Any, project_id: int, given: Annotations) -> HttpResponse:
    return acted(set_annotations(request.project, request.user, revision=given.revision, styles=[s.dict() for s in given.styles]))


@router.get("/projects/{int:project_id}/members", auth=viewer, response=list[Member])
def members(request: Any, project_id: int) -> HttpResponse:
    rows = Membership.present.filter(project_id=project_id).select_related("user").order_by("user__username")
    return json_answer([{"username": m.user.get_username(), "role": m.role} for m in rows])


@router.post("/projects/{int:project_id}/members", auth=owner)
def set_member(request: Any, project_id: int, given: MemberIn) -> HttpResponse:
    """Add a member, or change a member's role; the last owner stays one."""
    set_role(request.project, request.user, username=given.username, role=given.role)
    return members(request, project_id)


@router.delete("/projects/{int:project_id}/members/{username}", auth=owner)
def remove_member(request: Any, project_id: int, username: str) -> HttpResponse:
    take_out(request.project, request.user, username=username)
    return members(request, project_id)


@router.get("/projects/{int:project_id}/exchange", auth=viewer, response=list[ExchangeDocument])
def exchange(request: Any, project_id: int) -> HttpResponse:
    """The simulated document exchange: latest versions, and which are newer than what was brought in."""
    return json_answer(exchange_picture(request.project))


@router.get("/projects/{int:project_id}/exchange/{int:document_id}/difference", auth=viewer, response=ExchangeDifference)
def exchange_difference(request: Any, project_id: int, document_id: int) -> HttpResponse:
    return json_answer(difference_to_taken(request.project, document_id))


def _job(project_id: int, job_id: int) -> Job:
    job = Job.objects.filter(project_id=project_id, pk=job_id).defer("upload").select_related("user").first()
    if job is None:
        raise NotThere("no-such-job", "There is no such job in this project.")
    return job


@router.get("/projects/{int:project_id}/jobs/{int:job_id}", auth=viewer, response=JobPicture)
def job_state(request: Any, project_id: int, job_id: int) -> HttpResponse:
    reap_dead_jobs()
    return json_answer(job_picture(_job(project_id, job_id)))


@router.post("/projects/{int:project_id}/jobs/{int:job_id}/cancel", auth=editor, response=JobPicture)
def job_cancel(request: Any, project_id: int, job_id: int) -> HttpResponse:
    cancel_job(_job(project_id, job_id))
    return json_answer(job_picture(_job(project_id, job_id)))


@router.post("/projects/{int:project_id}/roads", auth=editor, response=Acted)
def add_road(request: Any, project_id: int, given: RoadIn) -> HttpResponse:
    doing, road, told = draw_road(request.project, request.user, name=given.name, pis=[p.dict() for p in given.pis])
    return acted(doing, told, road_id=road.pk)


@router.post("/projects/{int:project_id}/line-fit", auth=editor, response=LineFit)
def line_fit(request: Any, project_id: int, given: FitIn) -> HttpResponse:
    """Straights, arcs and transitions through measured points; stores nothing."""
    held = {k: v.dict() for k, v in given.held.items()}
    return json_answer(fit_picture(request.project, given.survey, given.layer, given.line, held, given.bends))


@router.post("/projects/{int:project_id}/line-vertices", auth=editor, response=Vertices)
def vertices_of(request: Any, project_id: int, given: VerticesIn) -> HttpResponse:
    """A received line with every vertex as a PI; stores nothing."""
    return json_answer({"pis": line_vertices(request.project, given.survey, given.layer, given.line)})


@router.get("/projects/{int:project_id}/measured-lines", auth=viewer, response=list[MeasuredLine])
def measured_lines(request: Any, project_id: int, survey: int, layer: str = "") -> HttpResponse:
    """The lines of a received layer, in the order of its file."""
    return json_answer(lines_measured(request.project, survey, layer))


@router.get("/projects/{int:project_id}/ledger", auth=viewer, response=LedgerPage)
def ledger(request: Any, project_id: int, before: int | None = None) -> HttpResponse:
    """A page of it, the newest first; ``before``: of entries older than that one."""
    return json_answer(ledger_page(project_id, before))


@router.get("/projects/{int:project_id}/ledger/{int:entry_id}", auth=viewer, response=list[LedgerChange])
def ledger_entry(request: Any, project_id: int, entry_id: int) -> HttpResponse:
    """What an act changed, value by value."""
    return json_answer(ledger_changes(project_id, entry_id))


@router.post("/projects/{int:project_id}/undo", auth=editor, response=Acted)
def undo_act(request: HttpRequest, project_id: int) -> HttpResponse:
    entry = undo(request.project, request.user)  # type: ignore[attr-defined, arg-type]
    return json_answer({"label": entry.label, "told": [f"Undone: {entry.label}."]})


@router.post("/projects/{int:project_id}/redo", auth=editor, response=Acted)
def redo_act(request: HttpRequest, project_id: int) -> HttpResponse:
    entry = redo(request.project, request.user)  # type: ignore[attr-defined, arg-type]
    return json_answer({"label": entry.label, "told": [f"Redone: {entry.label}."]})
