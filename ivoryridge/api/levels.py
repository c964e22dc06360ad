"""Levels of a road: its PVIs, fixed points, the first profile, candidates, and what stands beside them on the long section."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from ninja import Router

from ivoryridge.design.actions.edit_levels import (
    add_candidate,
    choose_candidate,
    curve_through,
    delete_candidate,
    raise_pvis,
    set_fixed_points,
)
from ivoryridge.design.actions.edit_profile import change_pvi, delete_pvi, insert_pvi
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.road import BedRow, Beside, CandidateLine
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.pictures.beside import beds_picture, beside_picture, candidates_picture
from ivoryridge.design.refusals import BadValue

from .answers import acted, json_answer
from .rules import editor, viewer
from .schemas import CandidateChoice, CandidateIn, CurvePVI, FitProfile, FixedPoints, PVIChange, PVIInsert, RaisePVIs

router = Router()


@router.post("/roads/{int:road_id}/profile/fit", auth=editor, response=Acted)
def fit_profile(request: Any, road_id: int, given: FitProfile) -> HttpResponse:
    return acted(*propose_profile(request.row, request.user, balance=given.balance, overlay=given.overlay, seen=given.seen))


@router.post("/roads/{int:road_id}/profile/raise", auth=editor, response=Acted)
def raise_profile(request: Any, road_id: int, given: RaisePVIs) -> HttpResponse:
    """Raise (or lower) all PVIs, or those of a range, by one amount."""
    return acted(raise_pvis(request.row, request.user, **given.dict()))


@router.put("/roads/{int:road_id}/fixed-points", auth=editor, response=Acted)
def put_fixed(request: Any, road_id: int, given: FixedPoints) -> HttpResponse:
    return acted(set_fixed_points(request.row, request.user, revision=given.revision, points=[p.dict() for p in given.points]))


@router.post("/roads/{int:road_id}/pvis/{int:pvi_id}/curve", auth=editor, response=Acted)
def curve_pvi(request: Any, road_id: int, pvi_id: int, given: CurvePVI) -> HttpResponse:
    """The length of a vertical curve that passes a point."""
    return acted(*curve_through(request.row, request.user, pvi_id, revision=given.revision, point=(given.station, given.level)))


@router.post("/roads/{int:road_id}/candidates", auth=editor, response=Acted)
def new_candidate(request: Any, road_id: int, given: CandidateIn) -> HttpResponse:
    """Another profile for the line: a copy of the one in use, and the one in use from now on."""
    return acted(add_candidate(request.row, request.user, revision=given.revision, name=given.name))


@router.put("/roads/{int:road_id}/candidate", auth=editor, response=Acted)
def use_candidate(request: Any, road_id: int, given: CandidateChoice) -> HttpResponse:
    return acted(choose_candidate(request.row, request.user, revision=given.revision, candidate=given.id))


@router.delete("/roads/{int:road_id}/candidates/{candidate}", auth=editor, response=Acted)
def drop_candidate(request: Any, road_id: int, candidate: str, revision: int) -> HttpResponse:
    return acted(delete_candidate(request.row, request.user, revision=revision, candidate=candidate))


@router.get("/roads/{int:road_id}/candidates", auth=viewer, response=list[CandidateLine])
def candidates(request: Any, road_id: int) -> HttpResponse:
    """Every profile of the line, with its volumes."""
    return json_answer(candidates_picture(request.row))


@router.get("/roads/{int:road_id}/beside", auth=viewer, response=Beside)
def beside(request: Any, road_id: int, offsets: str = "", surfaces: str = "", beds: bool = False) -> HttpResponse:
    """Ground beside the line and of other surfaces, beds of ditches and channels, and what crosses the line: roads and received lines
    with levels."""
    return json_answer(beside_picture(request.row, _numbers(offsets), [int(v) for v in _numbers(surfaces)], beds=beds))


@router.get("/roads/{int:road_id}/beds", auth=viewer, response=list[BedRow])
def beds(request: Any, road_id: int) -> HttpResponse:
    """Ditches and channels: where they have hollows, and where they run out."""
    return json_answer(beds_picture(assemble_road(request.row)))


def _numbers(text: str) -> list[float]:
    try:
        found = [float(v) for v in text.split(",") if v]
    except ValueError:
        found = [float("nan")]
    if not all(abs(v) <= 1e9 for v in found) or len(found) > 12:
        raise BadValue("bad-numbers", "Give up to 12 numbers with commas between them.")
    return found


@router.post("/roads/{int:road_id}/pvis", auth=editor, response=Acted)
def add_pvi(request: Any, road_id: int, given: PVIInsert) -> HttpResponse:
    return acted(insert_pvi(request.row, request.user, **given.dict()))


@router.patch("/roads/{int:road_id}/pvis/{pvi_id}", auth=editor, response=Acted)
def set_pvi(request: Any, road_id: int, pvi_id: int, given: PVIChange) -> HttpResponse:
    return acted(change_pvi(request.row, request.user, pvi_id, revision=given.revision, values=given.given()))


@router.delete("/roads/{int:road_id}/pvis/{pvi_id}", auth=editor, response=Acted)
def drop_pvi(request: Any, road_id: int, pvi_id: int, revision: int) -> HttpResponse:
    return acted(delete_pvi(request.row, request.user, pvi_id, revision=revision))
