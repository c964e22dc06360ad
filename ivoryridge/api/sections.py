"""Parts, templates and pavement structures: the bench, the acts on them, and the files they travel in."""

from __future__ import annotations

from typing import Annotated, Any

from django.http import HttpResponse
from ninja import Router
from pydantic import Field

from ivoryridge.core.section.portable import write_portable
from ivoryridge.core.wording import spoken
from ivoryridge.design.actions.edit_parts import (
    bring_in_parts,
    change_part,
    change_structure,
    create_part,
    create_structure,
    delete_part,
    delete_structure,
    own_copy,
)
from ivoryridge.design.actions.edit_template import change_template, create_template, delete_template, set_rows
from ivoryridge.design.edits.parts import steps_in_metres
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.sections import BenchAnswer, Crossings, Library
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.sections import Stock
from ivoryridge.design.pictures.bench import Wish, bench_picture, library_picture
from ivoryridge.design.pictures.crossings import crossings_picture
from ivoryridge.design.pictures.parts_file import parts_of

from .answers import acted, json_answer
from .downloads import as_file
from .rules import editor, signed_in, viewer
from .schemas import Id
from .section_schemas import (
    BenchWish,
    OwnCopy,
    PartIn,
    PartsFile,
    PartSteps,
    StructureChange,
    StructureIn,
    TemplateChange,
    TemplateIn,
    TemplateRows,
)

router = Router()


@router.get("/library", auth=signed_in, response=Library)
def library(request: Any) -> HttpResponse:
    """The parts that ship with the program, with pictures made by their own rules; the rules as sentences."""
    return json_answer(library_picture())


@router.post("/projects/{int:project_id}/bench", auth=viewer, response=BenchAnswer)
def bench(request: Any, project_id: int, given: BenchWish) -> HttpResponse:
    """A template over a trial ground, with steps that are not saved, and what a gesture comes to."""
    rows = {"left": [r.row() for r in given.left], "right": [r.row() for r in given.right]}
    steps = [dict(s) for s in given.steps]
    chosen = (given.side, given.part) if given.side and given.part else None
    if steps and chosen:
        row = next((r for r in rows[chosen[0]] if r["id"] == chosen[1]), None)
        if row is not None:
            steps = steps_in_metres(steps, Stock.of(project_id).data(row["part"]))
    gesture = given.gesture.dict() if given.gesture else None
    wish = Wish(
        rows["left"], rows["right"], chosen, steps, [(p[0], p[1]) for p in given.ground] if given.ground else None, given.preset,
        given.level, (given.rates[0], given.rates[1]) if given.rates else None, given.thumbs, gesture, given.surface,
    )  # fmt: skip
    return json_answer(bench_picture(request.project, wish))


@router.get("/roads/{int:road_id}/crossings", auth=viewer, response=Crossings)
def crossings(request: Any, road_id: int) -> HttpResponse:
    """Where along the road the first and the last crossing of its slopes with the ground differ."""
    return json_answer(crossings_picture(assemble_road(request.row)))


# --- parts -----------------------------------------------------------------------------------------------------
@router.post("/projects/{int:project_id}/parts", auth=editor, response=Acted)
def add_part(request: Any, project_id: int, given: PartIn) -> HttpResponse:
    doing, part = create_part(request.project, request.user, label=given.label, like=given.like)
    return acted(doing, part_id=part.pk)


@router.patch("/parts/{int:part_id}", auth=editor, response=Acted)
def set_part(request: Any, part_id: int, given: PartSteps) -> HttpResponse:
    steps = steps_in_metres([dict(s) for s in given.steps], request.row.data)
    return acted(change_part(request.row, request.user, revision=given.revision, steps=steps))


@router.delete("/parts/{int:part_id}", auth=editor, response=Acted)
def drop_part(request: Any, part_id: int, revision: int) -> HttpResponse:
    return acted(delete_part(request.row, request.user, revision=revision))


# --- templates -------------------------------------------------------------------------------------------------
@router.post("/projects/{int:project_id}/templates", auth=editor, response=Acted)
def add_template(request: Any, project_id: int, given: TemplateIn) -> HttpResponse:
    doing, template = create_template(request.project, request.user, name=given.name, like=given.like)
    return acted(doing, template_id=template.pk)


@router.patch("/templates/{int:template_id}", auth=editor, response=Acted)
def set_template(request: Any, template_id: int, given: TemplateChange) -> HttpResponse:
    return acted(
        change_template(
            request.row, request.user, revision=given.revision, side=given.side, part=given.part, values=given.values,
            targets={n: b.kept() for n, b in given.targets.items()} if given.targets is not None else None,
        )
    )  # fmt: skip


@router.put("/templates/{int:template_id}/rows", auth=editor, response=Acted)
def put_rows(request: Any, template_id: int, given: TemplateRows) -> HttpResponse:
    left, right = ([r.row() for r in side] for side in (given.left, given.right))
    return acted(set_rows(request.row, request.user, revision=given.revision, left=left, right=right, what=given.what))


@router.post("/templates/{int:template_id}/own", auth=editor, response=Acted)
def own_part(request: Any, template_id: int, given: OwnCopy) -> HttpResponse:
    doing, part = own_copy(request.row, request.user, revision=given.revision, side=given.side, part=given.part)
    return acted(doing, part_id=part.pk)


@router.delete("/templates/{int:template_id}", auth=editor, response=Acted)
def drop_template(request: Any, template_id: int, revision: int) -> HttpResponse:
    return acted(delete_template(request.row, request.user, revision=revision))


# --- pavement structures -----------------------------------------------------------------------------------------
@router.post("/projects/{int:project_id}/structures", auth=editor, response=Acted)
def add_structure(request: Any, project_id: int, given: StructureIn) -> HttpResponse:
    doing, row, told = create_structure(request.project, request.user, name=given.name, layers=[x.dict() for x in given.layers])
    return acted(doing, told, structure_id=row.pk)


@router.patch("/structures/{int:structure_id}", auth=editor, response=Acted)
def set_structure(request: Any, structure_id: int, given: StructureChange) -> HttpResponse:
    doing, told = change_structure(request.row, request.user, revision=given.revision, values=given.given())
    return acted(doing, told)


@router.delete("/structures/{int:structure_id}", auth=editor, response=Acted)
def drop_structure(request: Any, structure_id: int, revision: int) -> HttpResponse:
    return acted(delete_structure(request.row, request.user, revision=revision))


# --- files -------------------------------------------------------------------------------------------------------
@router.get("/projects/{int:project_id}/parts.json", auth=viewer)
def parts_file(
    request: Any, project_id: int, template: Annotated[Id | None, Field()] = None, part: Annotated[Id | None, Field()] = None
) -> HttpResponse:
    """All own parts, templates and structures, or one template or part with what it needs."""
    name, file = parts_of(request.project, template=template, part=part)
    return as_file(write_portable(file, spoken().name), "application/json", f"{name}.parts.json")


@router.post("/projects/{int:project_id}/parts.json", auth=editor, response=Acted)
def parts_in(request: Any, project_id: int, given: PartsFile) -> HttpResponse:
    doing, told = bring_in_parts(request.project, request.user, content=given.content.encode(), name=given.name)
    return acted(doing, told)
