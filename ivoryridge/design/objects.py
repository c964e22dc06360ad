"""The kinds of objects of a project, one row each. Ledger, rules of access, shelves, words of refusals and what hangs on what
read this table; a new kind is a row here, beside its own model."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from .models import (
    Issue,
    Junction,
    Membership,
    Part,
    Project,
    ReceivedFile,
    Road,
    RoadPI,
    RoadPVI,
    Row,
    SheetSet,
    Structure,
    Surface,
    SurveySet,
    Template,
    Variation,
)

__all__ = ["KINDS", "ObjectKind", "Ref", "kind_named", "kind_of", "refs_of", "template_refers", "variation_refers"]

Ref = tuple[str, int]  # name of a kind, id


def _none(row: Any) -> Iterable[Ref]:
    return ()


@dataclass(frozen=True, slots=True)
class ObjectKind:
    """A kind of object.

    name : how code and addresses speak of it; word : how a person does
    part_of : (kind, field) of the object it belongs to and goes with; what changes in it changes that one
    refers : the other objects that a row names; none of them may go while it is there
    shelf : where it stands among the project's files; address : the part of an address that names it
    """

    name: str
    model: type[Any]
    word: str
    address: str = ""
    shelf: str = ""
    part_of: tuple[str, str] | None = None
    refers: Callable[[Any], Iterable[Ref]] = _none

    def whole(self, row: Row) -> Ref:
        """The object that a row is, or is a part of."""
        return (self.part_of[0], getattr(row, self.part_of[1])) if self.part_of else (self.name, row.pk)


def _project_refers(project: Project) -> Iterable[Ref]:
    if project.land.get("survey"):
        yield "survey", project.land["survey"]


def _road_refers(road: Road) -> Iterable[Ref]:
    if road.surface_id:
        yield "surface", road.surface_id
    if road.template_id:
        yield "template", road.template_id
    if road.course.get("kind") == "offset":
        yield "road", road.course["road"]
    if road.course.get("kind") == "return":
        yield "junction", road.course["junction"]
    for tie in road.ties.values():
        yield "road", tie["road"]


def template_refers(template: Template) -> Iterable[Ref]:
    """Own parts, pavement structures and surfaces that a template names."""
    for row in (*template.left, *template.right):
        if isinstance(row["part"], int):
            yield "part", row["part"]
        for value in row.get("values", {}).values():
            if isinstance(value, str) and value.isdecimal():
                yield "structure", int(value)
        for bound in row.get("targets", {}).values():
            if "surface" in bound:
                yield "surface", bound["surface"]


def variation_refers(row: Variation) -> Iterable[Ref]:
    """The template of a stretch, own part and pavement structures of a changed part, roads and surveys that are followed, PIs that hold
    its ends."""
    if row.template_id:
        yield "template", row.template_id
    if isinstance(row.data.get("with"), int):
        yield "part", row.data["with"]
    if row.data.get("road"):
        yield "road", row.data["road"]
    if row.data.get("survey"):
        yield "survey", row.data["survey"]
    if row.data.get("surface"):
        yield "surface", row.data["surface"]
    for value in row.data.get("values", {}).values():
        if isinstance(value, str) and value.isdecimal():
            yield "structure", int(value)
    for end in (row.start, row.end):
        if end.get("pi_id"):
            yield "pi", end["pi_id"]


def _junction_refers(junction: Junction) -> Iterable[Ref]:
    yield "road", junction.main_id
    yield "road", junction.side_id
    if junction.structure.isdecimal():
        yield "structure", int(junction.structure)


KINDS: tuple[ObjectKind, ...] = (
    ObjectKind("project", Project, "the project", "project_id", refers=_project_refers),
    ObjectKind("member", Membership, "the membership"),
    ObjectKind("file", ReceivedFile, "the file", shelf="Received"),
    ObjectKind("survey", SurveySet, "a survey set", "survey_set_id", "Worked"),
    ObjectKind("surface", Surface, "the surface", "surface_id", "Worked", refers=lambda s: (("survey", i) for i in s.sources)),
    ObjectKind("part", Part, "the part", "part_id", "Worked"),
    ObjectKind("structure", Structure, "the pavement structure", "structure_id", "Worked"),
    ObjectKind("template", Template, "the template", "template_id", "Worked", refers=template_refers),
    ObjectKind("road", Road, "the road", "road_id", "Worked", refers=_road_refers),
    ObjectKind("junction", Junction, "the junction", "junction_id", "Worked", refers=_junction_refers),
    ObjectKind("pi", RoadPI, "a PI", part_of=("road", "road_id")),
    ObjectKind(
        "pvi", RoadPVI, "a PVI", part_of=("road", "road_id"),
        refers=lambda p: (("pi", p.anchor_pi_id),) if p.anchor_pi_id else (),
    ),
    ObjectKind("variation", Variation, "what varies along a road", part_of=("road", "road_id"), refers=variation_refers),
    ObjectKind("sheets", SheetSet, "the sheet set", "sheet_set_id", "Worked", part_of=("road", "road_id")),
    ObjectKind("issue", Issue, "the issue", "issue_id", "Issued", refers=lambda i: (("sheets", i.sheet_set_id),)),
)  # fmt: skip

_BY_MODEL = {k.model._meta.object_name: k for k in KINDS}
_BY_NAME = {k.name: k for k in KINDS}


def kind_of(row: Row | str) -> ObjectKind:
    """The kind of a row, or of a model's name. A row may come wrapped and read when first looked at, so it is asked itself."""
    return _BY_MODEL[row if isinstance(row, str) else str(row._meta.object_name)]


def kind_named(name: str) -> ObjectKind:
    return _BY_NAME[name]


def refs_of(project_id: int, wanted: set[Ref]) -> list[tuple[ObjectKind, Row, Ref]]:
    """Present rows of a project that name one of some objects."""
    out: list[tuple[ObjectKind, Row, Ref]] = []
    for kind in KINDS:
        if kind.refers is _none:
            continue
        by = "pk" if kind.name == "project" else "road__project_id" if kind.name in ("pi", "pvi", "variation") else "project_id"
        for row in kind.model.present.filter(**{by: project_id}):
            out += [(kind, row, ref) for ref in kind.refers(row) if ref in wanted]
    return out
