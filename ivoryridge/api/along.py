"""What varies along a road: its stretches, adjustments, changed parts, ranges without earthwork."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.http import HttpResponse
from ninja import Router
from pydantic import Field

from ivoryridge.design.actions.edit_along import (
    add_variation,
    change_variation,
    delete_variation,
    join_variation,
    split_variation,
)
from ivoryridge.design.forms.along import Quantity
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.pictures.along import quantity_picture

from .answers import acted, json_answer
from .rules import editor, viewer
from .schemas import In, Number, Revised
from .section_schemas import PartRef, Text

router = Router()
Hold = Literal["station", "place", "tangent", "start", "end"]
Name = Annotated[str, Field(max_length=60)]


class BlendIn(In):
    length: Annotated[float, Field(gt=0, le=5000, allow_inf_nan=False)]
    form: Literal["linear", "smooth"] = "linear"
    lies: Literal["outside", "about", "inside"] = "outside"


class VariationValues(In):
    """Ends as stations in m (null: as far as the road goes) and what holds them; the rest by its kind."""

    station_from: Number | None = None
    station_to: Number | None = None
    hold_from: Hold | None = None
    hold_to: Hold | None = None
    side: Literal["left", "right", "both"] | None = None
    template_id: int | None = None
    blend_from: BlendIn | None = None
    blend_to: BlendIn | None = None
    part: Name | None = None
    parameter: Name | None = None
    form: Literal["constant", "linear", "table", "bends", "graded"] | None = None
    vehicle: Name | None = None
    inner: Number | None = None
    over: Number | None = None
    least: Number | None = None
    value: Number | Text | None = None
    value_to: Number | None = None
    rows: Annotated[list[tuple[Number, Number]], Field(max_length=2000)] | None = None
    do: Literal["off", "replace", "add"] | None = None
    with_part: PartRef | None = None
    values: dict[Annotated[str, Field(max_length=40)], Number | Text] | None = None
    road: int | None = None
    level: bool | None = None
    ease: Number | None = None
    release: Number | None = None
    node: Annotated[str, Field(max_length=120)] | None = None
    takes: Literal["offset", "level", "both"] | None = None
    edge: Name | None = None
    edge_side: Literal["left", "right"] | None = None
    survey: int | None = None
    surface: int | None = None
    layer: Annotated[str, Field(max_length=200)] | None = None
    reach: Number | None = None
    reach_level: Number | None = None
    end: Literal["start", "end"] | None = None

    def given(self) -> dict[str, Any]:
        """What was sent; an empty end or blend is one that was taken away."""
        out = self.dict(exclude_unset=True, exclude={"revision", "kind"})
        if "with_part" in out:
            out["with"] = out.pop("with_part")
        for name in ("side", "template_id", "hold_from", "hold_to"):
            if out.get(name, ...) is None:
                del out[name]
        return out


class VariationIn(VariationValues):
    kind: Literal["stretch", "adjustment", "change", "bare", "follow", "led", "meet"]


class VariationChange(VariationValues):
    revision: int


class SplitAt(In):
    revision: int
    station: Number


@router.post("/roads/{int:road_id}/variations", auth=editor, response=Acted)
def add(request: Any, road_id: int, given: VariationIn) -> HttpResponse:
    doing, row = add_variation(request.row, request.user, values={"kind": given.kind, **given.given()})
    return acted(doing, variation_id=row.pk)


@router.patch("/roads/{int:road_id}/variations/{int:variation_id}", auth=editor, response=Acted)
def change(request: Any, road_id: int, variation_id: int, given: VariationChange) -> HttpResponse:
    return acted(change_variation(request.row, request.user, variation_id, revision=given.revision, values=given.given()))


@router.delete("/roads/{int:road_id}/variations/{int:variation_id}", auth=editor, response=Acted)
def delete(request: Any, road_id: int, variation_id: int, revision: int) -> HttpResponse:
    return acted(delete_variation(request.row, request.user, variation_id, revision=revision))


@router.post("/roads/{int:road_id}/variations/{int:variation_id}/split", auth=editor, response=Acted)
def split(request: Any, road_id: int, variation_id: int, given: SplitAt) -> HttpResponse:
    doing, row = split_variation(request.row, request.user, variation_id, revision=given.revision, station=given.station)
    return acted(doing, variation_id=row.pk)


@router.post("/roads/{int:road_id}/variations/{int:variation_id}/join", auth=editor, response=Acted)
def join(request: Any, road_id: int, variation_id: int, given: Revised) -> HttpResponse:
    """This row goes on over the next of its kind."""
    return acted(join_variation(request.row, request.user, variation_id, revision=given.revision))


@router.get("/roads/{int:road_id}/quantity", auth=viewer, response=Quantity)
def quantity(request: Any, road_id: int, side: Literal["left", "right"], part: Name, parameter: Name) -> HttpResponse:
    """One parameter of a part along the road."""
    asked = {"side": side, "part": part, "parameter": parameter}
    return json_answer(quantity_picture(assemble_road(request.row), asked))
