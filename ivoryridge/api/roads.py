"""A road: its design, trials, sections, model, and the acts on its line, levels and template."""

from __future__ import annotations

import itertools
from typing import Annotated, Any, Literal

import numpy as np
from django.http import HttpResponse, StreamingHttpResponse
from ninja import Router
from pydantic import Field

from ivoryridge.design.actions.edit_crossfall import pin_bend, set_crossfall, unpin_bend
from ivoryridge.design.actions.edit_line import change_pi, curve_by, delete_pi, insert_pi, replace_line
from ivoryridge.design.actions.edit_profile import set_guides
from ivoryridge.design.actions.edit_road import accept_departure, change_road, delete_road, set_speeds
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.road import (
    LandPicture,
    Neighbour,
    NodeReason,
    RoadDesign,
    RoadShape,
    Section,
    SightLane,
    VolumesPicture,
)
from ivoryridge.design.inputs.lately import recall, remember
from ivoryridge.design.inputs.network import assemble_road, network_of
from ivoryridge.design.kept.kinds import trial as in_trial
from ivoryridge.design.pictures.beside import with_candidate
from ivoryridge.design.pictures.earthwork import VolumesAsked, volumes_picture
from ivoryridge.design.pictures.junction import affected_junctions
from ivoryridge.design.pictures.land import land_picture
from ivoryridge.design.pictures.lightly import dependents_lightly
from ivoryridge.design.pictures.model import model_arrays, model_key
from ivoryridge.design.pictures.reason import reason_picture
from ivoryridge.design.pictures.road import road_key, road_picture, trial_pictures
from ivoryridge.design.pictures.section import neighbours_picture, section_picture
from ivoryridge.design.results.against import sight_of
from ivoryridge.design.results.corridor import corridor as corridor_result

from .answers import acted, json_answer, json_lines
from .binary import pack_geometry, unchanged, with_key
from .rules import editor, viewer
from .schemas import (
    BendChange,
    CrossfallChange,
    CurveBy,
    Departure,
    Guides,
    LineIn,
    Number,
    PIChange,
    PIInsert,
    RoadChange,
    Speeds,
    Trial,
    Way,
)
from .units import in_these_units

router = Router()
NodeName = Annotated[str, Field(max_length=120)]
CandidateId = Annotated[str, Field(max_length=12)]


@router.get("/roads/{int:road_id}/design", auth=viewer, response=RoadDesign)
def design(request: Any, road_id: int) -> HttpResponse:
    network = network_of(request.project.pk)
    inputs = network.road(road_id)
    key = road_key(inputs)
    remember(road_id, key, network)
    if unchanged(request, key):
        return HttpResponse(status=304)
    return json_answer(road_picture(inputs), key)


@router.post("/roads/{int:road_id}/trial", auth=viewer, response=RoadShape)
def trial(request: Any, road_id: int, given: Trial) -> StreamingHttpResponse:
    """The design as it would be with unsaved values over what the person sees; stores nothing.

    Lines of JSON, each as soon as it is there: what the hand moves (``RoadLead``); the rest of the shape with section and volumes;
    findings and departures unless ``judged`` is false; each road that hangs on this one, as it would be, and that there are no more,
    unless ``followed`` is false; and each junction it is of unless ``joined`` is false: a page asks for these a few times a second only.
    """
    network = recall(road_id, given.key) or network_of(request.project.pk)
    inputs = with_trial(network.road(road_id), given.dict(exclude_unset=True))
    parts = trial_pictures(
        inputs,
        hand="line" if given.pi else "levels" if given.pvi else None,
        mark=given.mark,
        outline_only=given.outline_only,
        quantity=given.quantity.dict() if given.quantity else None,
    )
    if not given.judged:
        parts = itertools.islice(parts, 2)
    dependents = itertools.chain(dependents_lightly(network, inputs), [{"followed": road_id}]) if given.followed else ()
    junctions = affected_junctions(network.with_road(inputs), road_id) if given.joined else ()
    return json_lines(itertools.chain(parts, dependents, junctions), in_these_units(in_trial), waited_for=2)


@router.get("/roads/{int:road_id}/section", auth=viewer, response=Section)
def section(request: Any, road_id: int, station: Number, candidate: CandidateId | None = None) -> HttpResponse:
    """The cross section at a station, with the profile in use or another of the road's."""
    inputs = assemble_road(request.row) if candidate is None else with_candidate(request.row, candidate)
    return json_answer(section_picture(inputs, station))


@router.get("/roads/{int:road_id}/section/neighbours", auth=viewer, response=list[Neighbour])
def neighbours(request: Any, road_id: int, station: Number) -> HttpResponse:
    """Other roads where the section at a station crosses them."""
    return json_answer(neighbours_picture(network_of(request.project.pk), road_id, station))


@router.get("/roads/{int:road_id}/section/reason", auth=viewer, response=NodeReason)
def reason(request: Any, road_id: int, station: Number, side: Literal["left", "right"], node: NodeName) -> HttpResponse:
    """Why a node of a section lies where it does."""
    return json_answer(reason_picture(assemble_road(request.row), request.row.template_id, station, side, node))


@router.get("/roads/{int:road_id}/sight", auth=viewer, response=SightLane | None)
def sight(request: Any, road_id: int) -> HttpResponse:
    """Stopping sight ahead and back along the road, and what is asked for; a null where nothing on the road ends the sight."""
    lane = sight_of(assemble_road(request.row))
    if lane is None:
        return json_answer(None)

    def told(seen: Any) -> list[float | None]:
        return [round(float(v), 2) if np.isfinite(v) else None for v in seen]

    return json_answer({"station": lane.station, "ahead": told(lane.ahead), "back": told(lane.back), "required": lane.required})


@router.get("/roads/{int:road_id}/land", auth=viewer, response=LandPicture)
def land(request: Any, road_id: int) -> HttpResponse:
    """The land that the road takes."""
    return json_answer(land_picture(assemble_road(request.row)))


@router.get("/roads/{int:road_id}/volumes", auth=viewer, response=VolumesPicture)
def volumes(
    request: Any, road_id: int, station_from: Number | None = None, station_to: Number | None = None, way: Way = "bends"
) -> HttpResponse:
    """Areas and volumes section by section, and the totals by every way."""
    return json_answer(volumes_picture(assemble_road(request.row), VolumesAsked(station_from, station_to, way)))


@router.get("/roads/{int:road_id}/model", auth=viewer)
def model(request: Any, road_id: int) -> HttpResponse:
    """Finished and formation surface, and edge lines in space, packed."""
    made = corridor_result(assemble_road(request.row))
    key = model_key(made)
    if unchanged(request, key):
        return HttpResponse(status=304)
    origin, arrays, words = model_arrays(made.get())
    return with_key(pack_geometry(origin, arrays, **words), key)


@router.patch("/roads/{int:road_id}", auth=editor, response=Acted)
def change(request: Any, road_id: int, given: RoadChange) -> HttpResponse:
    return acted(change_road(request.row, request.user, revision=given.revision, values=given.given()))


@router.put("/roads/{int:road_id}/speeds", auth=editor, response=Acted)
def put_speeds(request: Any, road_id: int, given: Speeds) -> HttpResponse:
    return acted(set_speeds(request.row, request.user, revision=given.revision, speeds=given.speeds))


@router.patch("/roads/{int:road_id}/crossfall", auth=editor, response=Acted)
def change_crossfall(request: Any, road_id: int, given: CrossfallChange) -> HttpResponse:
    return acted(set_crossfall(request.row, request.user, revision=given.revision, values=given.given()))


@router.patch("/roads/{int:road_id}/crossfall/{int:pi_id}", auth=editor, response=Acted)
def change_bend(request: Any, road_id: int, pi_id: int, given: BendChange) -> HttpResponse:
    """Pin crossfall and turning places of a bend; ``revision`` is the road's."""
    return acted(pin_bend(request.row, request.user, pi_id, revision=given.revision, values=given.given()))


@router.delete("/roads/{int:road_id}/crossfall/{int:pi_id}", auth=editor, response=Acted)
def release_bend(request: Any, road_id: int, pi_id: int, revision: int) -> HttpResponse:
    return acted(unpin_bend(request.row, request.user, pi_id, revision=revision))


@router.put("/roads/{int:road_id}/guides", auth=editor, response=Acted)
def put_guides(request: Any, road_id: int, given: Guides) -> HttpResponse:
    """All guide lines of the road's long section."""
    guides = [{k: v for k, v in g.dict().items() if v is not None} for g in given.guides]
    return acted(set_guides(request.row, request.user, revision=given.revision, guides=guides))


@router.post("/roads/{int:road_id}/departures", auth=editor, response=Acted)
def depart(request: Any, road_id: int, given: Departure) -> HttpResponse:
    """Accept a finding against the standard with a remark; an empty one takes the acceptance back."""
    return acted(accept_departure(request.row, request.user, **given.dict()))


@router.delete("/roads/{int:road_id}", auth=editor, response=Acted)
def delete(request: Any, road_id: int, revision: int) -> HttpResponse:
    return acted(*delete_road(request.row, request.user, revision=revision))


@router.post("/roads/{int:road_id}/pis", auth=editor, response=Acted)
def add_pi(request: Any, road_id: int, given: PIInsert) -> HttpResponse:
    return acted(*insert_pi(request.row, request.user, between=given.between, values=given.dict(exclude={"between"})))


@router.put("/roads/{int:road_id}/pis", auth=editor, response=Acted)
def put_line(request: Any, road_id: int, given: LineIn) -> HttpResponse:
    """Other PIs for the whole line; ``revision`` is the road's."""
    pis = [p.dict() for p in given.pis]
    return acted(*replace_line(request.row, request.user, revision=given.revision, pis=pis))


@router.patch("/roads/{int:road_id}/pis/{int:pi_id}", auth=editor, response=Acted)
def set_pi(request: Any, road_id: int, pi_id: int, given: PIChange) -> HttpResponse:
    return acted(*change_pi(request.row, request.user, pi_id, revision=given.revision, values=given.given()))


@router.post("/roads/{int:road_id}/pis/{int:pi_id}/curve", auth=editor, response=Acted)
def set_curve(request: Any, road_id: int, pi_id: int, given: CurveBy) -> HttpResponse:
    """The radius of a PI by tangent length, external distance, degree of curve, a place, or the largest that fits."""
    place = (given.place[0], given.place[1]) if given.place else None
    return acted(
        *curve_by(request.row, request.user, pi_id, revision=given.revision, by=given.by, value=given.value, place=place)
    )


@router.delete("/roads/{int:road_id}/pis/{int:pi_id}", auth=editor, response=Acted)
def drop_pi(request: Any, road_id: int, pi_id: int, revision: int) -> HttpResponse:
    return acted(*delete_pi(request.row, request.user, pi_id, revision=revision))
