"""Acts on a project's own parts and pavement structures, and parts and templates that travel in a file."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.section.check import sound
from ivoryridge.core.section.edit_part import changed, empty_part, label_of
from ivoryridge.core.section.part import part_from_dict
from ivoryridge.core.section.portable import Portable, read_portable
from ivoryridge.core.section.structure import implausible
from ivoryridge.core.wording import quantity

from ..inputs.sections import Stock, structure_of, template_from_row
from ..ledger import Act
from ..models import Junction, Part, Project, Structure, Template, Variation
from ..objects import Ref, variation_refers
from ..refusals import BadValue, Refused
from .edit_road import free_name
from .edit_template import check_template
from .standing import act, rehearsed

__all__ = [
    "bring_in_parts",
    "change_part",
    "change_structure",
    "create_part",
    "create_structure",
    "delete_part",
    "delete_structure",
    "own_copy",
]


def _labels(project: Project) -> list[str]:
    return [p.name for p in Part.present.filter(project=project)]


@rehearsed
def create_part(project: Project, user: User, *, label: str, like: str | int | None = None) -> tuple[Act, Part]:
    """A part of no nodes yet, or a copy of one of the library or the project."""
    data = dict(Stock.of(project.pk).data(like)) if like is not None else empty_part(label)
    data["label"] = free_name(label or data["label"], _labels(project))[:80]
    with act(project, user, f"Add part {data['label']}") as doing:
        part = doing.create(Part(project=project, data={**empty_part(""), **data}))
    return doing, part


@rehearsed
def own_copy(template: Template, user: User, *, revision: int, side: str, part: str) -> tuple[Act, Part]:
    """A part of a template becomes one of the project's own, with all its values; on both sides where both have the same."""
    stock = Stock.of(template.project_id)
    row = next((r for r in getattr(template, side) if r["id"] == part), None)
    if row is None:
        raise BadValue("no-such-part", f"{template.name} has no such part on that side. Reload the page.", field="part")
    data = dict(stock.data(row["part"]))
    data["label"] = free_name(data["label"], [*_labels(template.project), data["label"]])[:80]
    with act(template.project, user, f"Make {data['label']} of {template.name} the project's own") as doing:
        own = doing.create(Part(project=template.project, data={**empty_part(""), **data}))
        sides: dict[str, Any] = {
            s: [{**r, "part": own.pk} if r["id"] == part and r["part"] == row["part"] else r for r in getattr(template, s)]
            for s in ("left", "right")
        }
        doing.change(template, revision=revision, **sides)
    return doing, own


@rehearsed
def change_part(part: Part, user: User, *, revision: int, steps: Sequence[dict[str, Any]]) -> Act:
    """Do some steps of ``core.section.edit_part``; every template that has the part follows, and every road of theirs."""
    if not steps:
        raise BadValue("no-steps", "Nothing was to be changed.")
    data = changed(part.data, steps)
    sound(part_from_dict(data))
    more = f" and {len(steps) - 1} more" if len(steps) > 1 else ""
    with act(part.project, user, label_of(steps[0], part.data)[:180] + more) as doing:
        doing.change(part, revision=revision, data=data)
        gone = {p["name"] for p in part.data.get("parameters", ())}
        for template in _templates_with(part):
            sides: dict[str, Any] = {
                s: [
                    {**r, "values": {k: v for k, v in r.get("values", {}).items() if k in gone}} if r["part"] == part.pk else r
                    for r in getattr(template, s)
                ]
                for s in ("left", "right")
            }
            doing.change(template, **sides)  # values of parameters that are gone go with them
            check_template(template)
    return doing


def _templates_with(part: Part) -> list[Template]:
    rows = Template.present.filter(project=part.project).order_by("pk")
    return [t for t in rows if any(r["part"] == part.pk for r in (*t.left, *t.right))]


def _roads_naming(project: Project, ref: Ref) -> list[str]:
    """Roads along which a part or a structure is put over a range."""
    rows = Variation.present.filter(road__project=project, road__removed=False).select_related("road")
    return list(dict.fromkeys(v.road.name for v in rows if ref in variation_refers(v)))


@rehearsed
def delete_part(part: Part, user: User, *, revision: int) -> Act:
    used = [*(t.name for t in _templates_with(part)), *_roads_naming(part.project, ("part", part.pk))]
    if used:
        raise Refused("in-use", f"{part.name} stands in {', '.join(used)}. Put another part in its place first.")
    with act(part.project, user, f"Delete part {part.name}") as doing:
        doing.remove(part, revision=revision)
    return doing


# --- pavement structures ---------------------------------------------------------------------------------------
def _layers(layers: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    if not layers:
        raise BadValue("no-layers", "A pavement structure needs a layer.", field="layers")
    for i, x in enumerate(layers):
        if not x["thickness"] > 0 or x["least"] > x["greatest"]:
            raise BadValue(
                "bad-layer", f"Layer {i + 1} ({x['material']}) must be thicker than nothing, and its range must not end before it begins.",
                field="layers",
            )  # fmt: skip
    return [dict(x) for x in layers]


def _told(row: Structure) -> list[str]:
    return [
        f"{material} is {quantity(t, 'm', 3)} thick; plausible is {quantity(a, 'm', 3)} to {quantity(b, 'm', 3)}."
        for material, t, a, b in implausible(structure_of(row))
    ]


@rehearsed
def create_structure(
    project: Project, user: User, *, name: str, layers: Sequence[dict[str, Any]]
) -> tuple[Act, Structure, list[str]]:
    name = free_name(name, Structure.present.filter(project=project).values_list("name", flat=True))
    with act(project, user, f"Add pavement structure {name}") as doing:
        row = doing.create(Structure(project=project, name=name, layers=_layers(layers)))
    return doing, row, _told(row)


@rehearsed
def change_structure(row: Structure, user: User, *, revision: int, values: dict[str, Any]) -> tuple[Act, list[str]]:
    if "layers" in values:
        values["layers"] = _layers(values["layers"])
    with act(row.project, user, f"Change pavement structure {row.name}") as doing:
        doing.change(row, revision=revision, **values)
    return doing, _told(row)


@rehearsed
def delete_structure(row: Structure, user: User, *, revision: int) -> Act:
    users = [
        t.name for t in Template.present.filter(project=row.project)
        if any(v == str(row.pk) for r in (*t.left, *t.right) for v in r.get("values", {}).values())
    ]  # fmt: skip
    users += _roads_naming(row.project, ("structure", row.pk))
    users += [j.name for j in Junction.present.filter(project=row.project, structure=str(row.pk))]
    if users:
        raise Refused("in-use", f"{row.name} is what {', '.join(users)} stands on. Choose another structure there first.")
    with act(row.project, user, f"Delete pavement structure {row.name}") as doing:
        doing.remove(row, revision=revision)
    return doing


# --- files -----------------------------------------------------------------------------------------------------
@rehearsed
def bring_in_parts(project: Project, user: User, *, content: bytes, name: str) -> tuple[Act, list[str]]:
    """Parts, structures and templates of a file, under free names."""
    file: Portable = read_portable(content, name)
    with act(project, user, f"Bring in parts of {name}") as doing:
        structures = {
            key: str(doing.create(Structure(
                project=project, layers=s["layers"],
                name=free_name(s["name"], Structure.present.filter(project=project).values_list("name", flat=True)),
            )).pk)
            for key, s in file.structures.items()
        }  # fmt: skip
        parts: dict[str, int] = {}
        unbound: list[str] = []
        for key, data in file.parts.items():
            data = {**data, "label": free_name(data["label"], _labels(project))}
            for p in data["parameters"]:
                if p["kind"] == "structure":
                    p["value"] = structures.get(p["value"], "")
            parts[key] = doing.create(Part(project=project, data=data)).pk
        for t in file.templates:
            sides = {side: [_row(r, parts, structures) for r in t[side]] for side in ("left", "right")}
            free = free_name(t["name"], Template.present.filter(project=project).values_list("name", flat=True))
            row = doing.create(Template(project=project, name=free, **sides))
            built = template_from_row(row, Stock.of(project.pk))
            unbound += [f"{t.label} of {p.part.label} in {free}" for p in (*built.left, *built.right) for t in p.part.targets
                        if t.kind != "line" and t.name not in p.targets]  # fmt: skip
    told = [f"{len(parts)} parts, {len(file.templates)} templates and {len(structures)} pavement structures were brought in."]
    if unbound:
        told.append(f"Say what this is here, since surfaces do not travel: {'; '.join(dict.fromkeys(unbound))}.")
    return doing, told


def _row(row: dict[str, Any], parts: dict[str, int], structures: dict[str, str]) -> dict[str, Any]:
    values = {k: structures.get(v, v) if isinstance(v, str) else v for k, v in row["values"].items()}
    placed = {"id": row["id"], "part": parts.get(row["part"], row["part"]), "values": values}
    return placed | ({"targets": row["targets"]} if row.get("targets") else {})
