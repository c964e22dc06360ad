"""Junctions: where roads meet, corners and their levels."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from ninja import Router

from ivoryridge.design.actions.edit_junction import (
    change_corners,
    change_junction,
    copy_corners,
    delete_junction,
    join_edge,
    let_follow,
    make_junction,
    pin,
)
from ivoryridge.design.edits.junction import with_corners
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.junction import JunctionRow, Junctions, JunctionSight
from ivoryridge.design.inputs.network import network_of
from ivoryridge.design.kept.kinds import trial as in_trial
from ivoryridge.design.kept.precedence import first
from ivoryridge.design.models import Junction
from ivoryridge.design.pictures.junction import junction_picture, junctions_key, junctions_picture, sight_picture
from ivoryridge.design.refusals import BadValue

from .answers import acted, json_answer
from .binary import unchanged
from .junction_schemas import CopyCorners, CornersChange, CornersTrial, EdgeIn, JunctionChange, JunctionIn
from .rules import editor, road_of, viewer

router = Router()


@router.get("/projects/{int:project_id}/junctions", auth=viewer, response=Junctions)
def junctions(request: Any, project_id: int) -> HttpResponse:
    """The project's junctions, and where its roads meet without one."""
    network = network_of(project_id)
    key = junctions_key(network)
    return HttpResponse(status=304) if unchanged(request, key) else json_answer(junctions_picture(network), key)


@router.post("/projects/{int:project_id}/junctions", auth=editor, response=Acted)
def add(request: Any, project_id: int, given: JunctionIn) -> HttpResponse:
    main, side = (road_of(request.project, pk) for pk in (given.main, given.side))
    place = (given.place[0], given.place[1]) if given.place else None
    doing, junction, told = make_junction(request.project, request.user, main=main, side=side, place=place, radii=given.radii)
    return acted(doing, told, junction_id=junction.pk)


@router.post("/projects/{int:project_id}/existing-edges", auth=editor, response=Acted)
def add_edge(request: Any, project_id: int, given: EdgeIn) -> HttpResponse:
    """A junction with the edge of a road that is there and is not rebuilt."""
    place = (given.place[0], given.place[1]) if given.place else None
    points = [(e, n) for e, n in given.points]
    side = road_of(request.project, given.side)
    doing, junction, told = join_edge(request.project, request.user, side=side, place=place, points=points)
    return acted(doing, told, junction_id=junction.pk)


@router.patch("/junctions/{int:junction_id}", auth=editor, response=Acted)
def change(request: Any, junction_id: int, given: JunctionChange) -> HttpResponse:
    return acted(change_junction(request.row, request.user, revision=given.revision, values=given.given()))


@router.patch("/junctions/{int:junction_id}/corners", auth=editor, response=Acted)
def corners(request: Any, junction_id: int, given: CornersChange) -> HttpResponse:
    """Other values for one corner, or several at once."""
    return acted(change_corners(request.row, request.user, roads=given.roads, values=given.shape.given()))


@router.post("/junctions/{int:junction_id}/trial", auth=viewer, response=JunctionRow)
def trial(request: Any, junction_id: int, given: CornersTrial) -> HttpResponse:
    """The junction as it would be with other values of some corners, without its findings; stores nothing."""
    network = with_corners(network_of(request.project.pk), junction_id, given.roads, given.shape.given())
    with in_trial(), first():
        return json_answer(junction_picture(network.junction(junction_id), judged=False))


@router.get("/junctions/{int:junction_id}/sight", auth=viewer, response=JunctionSight)
def sight(request: Any, junction_id: int) -> HttpResponse:
    """What is seen from the side road, over the finished ground and past what is mapped."""
    network = network_of(request.project.pk)
    return json_answer(sight_picture(network, network.junction(junction_id)))


@router.post("/junctions/{int:junction_id}/copy", auth=editor, response=Acted)
def copy(request: Any, junction_id: int, given: CopyCorners) -> HttpResponse:
    """The corners take the values of another junction's."""
    other = Junction.present.filter(project=request.project, pk=given.other).first()
    if other is None:
        raise BadValue("no-such-junction", "There is no such junction in this project.", field="other")
    return acted(copy_corners(request.row, request.user, revision=given.revision, other=other))


@router.delete("/junctions/{int:junction_id}", auth=editor, response=Acted)
def delete(request: Any, junction_id: int, revision: int) -> HttpResponse:
    return acted(*delete_junction(request.row, request.user, revision=revision))


@router.post("/roads/{int:road_id}/pin", auth=editor, response=Acted)
def pin_levels(request: Any, road_id: int) -> HttpResponse:
    """The levels of a return stay as they are now."""
    return acted(pin(request.row, request.user))


@router.delete("/roads/{int:road_id}/pin", auth=editor, response=Acted)
def unpin_levels(request: Any, road_id: int) -> HttpResponse:
    """The levels of a return follow from its roads again."""
    return acted(let_follow(request.row, request.user))
