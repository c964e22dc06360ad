"""Acts on templates: made, copied, deleted; their rows of parts; values and bindings of one part."""

from __future__ import annotations

import copy
from collections.abc import Sequence
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Q

from ivoryridge.core.section.check import sound
from ivoryridge.core.section.part import Part

from ..inputs.sections import Stock, template_from_row
from ..ledger import Act
from ..models import Project, Road, Surface, Template, Variation
from ..refusals import BadValue, Refused
from .edit_surface import own_row
from .standing import act, rehearsed

__all__ = ["change_template", "check_template", "create_template", "delete_template", "set_rows", "used_by"]

MOST_PARTS = 40  # a side
SIDES = ("left", "right")


def used_by(template: Template) -> list[str]:
    """Names of the roads that have a template, all along or over a stretch."""
    stretches = Variation.present.filter(template=template, road__removed=False).values("road")
    roads = Road.present.filter(Q(template=template) | Q(pk__in=stretches))
    return list(roads.order_by("pk").values_list("name", flat=True))


@rehearsed
def create_template(project: Project, user: User, *, name: str, like: int | None = None) -> tuple[Act, Template]:
    """An empty template, or a copy of another one."""
    from .edit_road import free_name

    name = free_name(name, Template.present.filter(project=project).values_list("name", flat=True))
    sides: dict[str, Any] = {"left": [], "right": []}
    if like is not None:
        own_row(Template, project, like)
        other = Template.present.get(pk=like)
        sides = {side: copy.deepcopy(getattr(other, side)) for side in SIDES}
    with act(project, user, f"Add template {name}") as doing:
        template = doing.create(Template(project=project, name=name, **sides))
    return doing, template


@rehearsed
def delete_template(template: Template, user: User, *, revision: int) -> Act:
    roads = used_by(template)
    if roads:
        raise Refused("in-use", f"{template.name} is the template of {', '.join(roads)}. Give them another one first.")
    with act(template.project, user, f"Delete template {template.name}") as doing:
        doing.remove(template, revision=revision)
    return doing


@rehearsed
def set_rows(
    template: Template,
    user: User,
    *,
    revision: int,
    left: Sequence[dict[str, Any]],
    right: Sequence[dict[str, Any]],
    what: str = "",
) -> Act:
    """The rows of parts on both sides, from the centre outward: parts added, moved, swapped or taken out."""
    stock = Stock.of(template.project_id)
    new: dict[str, Any] = {}
    for side, rows in (("left", left), ("right", right)):
        if len(rows) > MOST_PARTS:
            raise BadValue("too-many-parts", f"A side takes at most {MOST_PARTS} parts; {len(rows)} were sent.", field=side)
        taken: set[str] = set()
        new[side] = []
        for row in rows:
            pid = _free_id(str(row.get("id") or row["part"]), taken)
            taken.add(pid)
            part = stock.part(row["part"], template.name)
            kept = {"id": pid, "part": row["part"], "values": _fitting(part, dict(row.get("values") or {}))}
            new[side].append(kept | ({"targets": row["targets"]} if row.get("targets") else {}))
    with act(template.project, user, f"{what or 'Change the parts'} of {template.name}") as doing:
        doing.change(template, revision=revision, **new)
        check_template(template)
    return doing


def _fitting(part: Part, values: dict[str, Any]) -> dict[str, Any]:
    """The values that a part swapped in can take: of the same name, of its kind, inside its limits."""
    by = {p.name: p for p in part.parameters}
    out = {}
    for name, value in values.items():
        p = by.get(name)
        if p is None:
            continue
        fits = value in p.choices if p.choices else isinstance(value, str) == (p.kind == "structure")
        if fits and (isinstance(value, str) or p.least <= value <= p.greatest):
            out[name] = value
    return out


def _free_id(wanted: str, taken: set[str]) -> str:
    """An id within its side: letters, digits and _; nodes are named by it."""
    stem = "".join(c if c.isalnum() or c == "_" else "_" for c in wanted)[:40] or "part"
    stem = stem if not stem[0].isdigit() else f"part_{stem}"
    return next(n for n in (stem, *(f"{stem}_{i}" for i in range(2, 1000))) if n not in taken)


@rehearsed
def change_template(
    template: Template, user: User, *, revision: int, side: str, part: str, values: dict[str, Any],
    targets: dict[str, Any] | None = None,
) -> Act:  # fmt: skip
    """Set parameter values and bindings of one part on one side, or on both; a value of None goes back to the usual one."""
    stock = Stock.of(template.project_id)
    new: dict[str, Any] = {}
    label = ""
    for s in SIDES if side == "both" else (side,):
        rows = [dict(r) for r in getattr(template, s)]
        for r in rows:
            if r["id"] == part:
                found = stock.part(r["part"], template.name)
                _known(found, values, stock)
                r["values"] = {k: v for k, v in {**r.get("values", {}), **values}.items() if v is not None}
                if targets is not None:
                    r["targets"] = {**r.get("targets", {}), **targets}
                label = found.label
        new[s] = rows
    if not label:
        raise BadValue("no-such-part", f"{template.name} has no such part on that side. Reload the page.", field="part")
    with act(template.project, user, f"Change {label.lower()} of {template.name}") as doing:
        doing.change(template, revision=revision, **new)
        check_template(template)
    return doing


def check_template(template: Template, stock: Stock | None = None) -> None:
    """Raises what keeps a template from being built: a part that is gone, values outside their limits, formulas without a number."""
    stock = stock or Stock.of(template.project_id)
    built = template_from_row(template, stock)
    for placed in (*built.left, *built.right):
        sound(placed.part, placed.all_values())
        for bound in placed.targets.values():
            if isinstance(bound, str):
                own_row(Surface, template.project, int(bound.split()[-1]))


def _known(part: Part, values: dict[str, Any], stock: Stock) -> None:
    """Refuse values that a part does not have, and words where a number belongs."""
    by_name = {p.name: p for p in part.parameters}
    for name, value in values.items():
        p = by_name.get(name)
        if p is None:
            raise BadValue("no-such-parameter", f"{part.label} has no value called {name.replace('_', ' ')}.", field=name)
        if value is None:
            continue
        if p.choices and value not in p.choices:
            raise BadValue("no-such-choice", f"{p.label} must be one of {', '.join(map(str, p.choices))}.", field=name)
        if p.kind == "structure":
            if value != "" and value not in stock.structures:
                raise BadValue(
                    "no-such-structure", f"{p.label} of {part.label}: there is no such pavement structure.", field=name
                )
        elif not p.choices and isinstance(value, str):
            raise BadValue("not-a-number", f"{p.label} of {part.label} must be a number, not '{value[:20]}'.", field=name)
