"""Acts on a template: values of its parts."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.part import Part

from ..inputs.road import template_from_row
from ..ledger import Act
from ..models import Template
from ..refusals import BadValue
from .standing import act, rehearsed

__all__ = ["change_template"]


@rehearsed
def change_template(template: Template, user: User, *, revision: int, side: str, part: str, values: dict[str, Any]) -> Act:
    """Set parameter values of one part on one side, or on both."""
    sides = ("left", "right") if side == "both" else (side,)
    new: dict[str, Any] = {}
    label = ""
    for s in sides:
        rows = [dict(r) for r in getattr(template, s)]
        for r in rows:
            if r["id"] == part:
                _known(library_part(r["part"]), values)
                r["values"] = {**r.get("values", {}), **values}
                label = library_part(r["part"]).label
        new[s] = rows
    if not label:
        raise BadValue("no-such-part", f"{template.name} has no such part on that side. Reload the page.", field="part")
    with act(template.project, user, f"Change {label.lower()} of {template.name}") as doing:
        doing.change(template, revision=revision, **new)
        template_from_row(template)
    return doing


def _known(part: Part, values: dict[str, Any]) -> None:
    """Refuse values that a part does not have, and words where a number belongs."""
    by_name = {p.name: p for p in part.parameters}
    for name, value in values.items():
        p = by_name.get(name)
        if p is None:
            raise BadValue("no-such-parameter", f"{part.label} has no value called {name.replace('_', ' ')}.", field=name)
        if p.choices and value not in p.choices:
            raise BadValue("no-such-choice", f"{p.label} must be one of {', '.join(map(str, p.choices))}.", field=name)
        if not p.choices and isinstance(value, str):
            raise BadValue("not-a-number", f"{p.label} of {part.label} must be a number, not '{value[:20]}'.", field=name)
