"""Parts, pavement structures and templates of a project as core records."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.library import library_data, library_part, library_parts
from ivoryridge.core.section.part import Part, part_from_json
from ivoryridge.core.section.structure import Layer, Structure
from ivoryridge.core.section.template import PlacedPart, Template, place_part

from ..models import Part as PartRow
from ..models import Structure as StructureRow
from ..models import Template as TemplateRow
from .surface import SurfaceRecipe

__all__ = ["Stock", "placed_parts", "structure_of", "surfaces_named", "template_from_row", "template_of"]


@dataclass(frozen=True, slots=True)
class Stock:
    """What templates of a project may name. ``parts``: id -> a part's data as text, so that the same content is the same part;
    ``structures``: id as text -> structure."""

    parts: Mapping[int, str] = field(default_factory=dict)
    structures: Mapping[str, Structure] = field(default_factory=dict)

    @classmethod
    def of(cls, project_id: int) -> Stock:
        return cls(
            {p.pk: _text(p.data) for p in PartRow.present.filter(project_id=project_id)},
            {str(s.pk): structure_of(s) for s in StructureRow.present.filter(project_id=project_id)},
        )

    def with_part(self, pk: int, data: Mapping[str, Any]) -> Stock:
        """As it would be with one part changed."""
        return Stock({**self.parts, pk: _text(data)}, self.structures)

    def part(self, ref: str | int, template: str = "this template") -> Part:
        """Raises InputError for what is not there."""
        if isinstance(ref, str):
            if ref not in library_parts():
                raise InputError("part-gone", template=template)
            return library_part(ref)
        if ref not in self.parts:
            raise InputError("part-gone", template=template)
        return part_from_json(self.parts[ref])

    def data(self, ref: str | int) -> dict[str, Any]:
        """A part in its data form; not to be changed."""
        if isinstance(ref, str) and ref in library_parts():
            return library_data(ref)
        if isinstance(ref, int) and ref in self.parts:
            return dict(json.loads(self.parts[ref]))
        raise InputError("part-gone", template="this template")


def _text(data: Mapping[str, Any]) -> str:
    return json.dumps(data, sort_keys=True)


def structure_of(row: StructureRow) -> Structure:
    return Structure(row.name, tuple(Layer(**layer) for layer in row.layers))


def template_from_row(row: TemplateRow, stock: Stock, *, mirrored: bool = False) -> Template:
    return template_of(row.name, row.left, row.right, stock, mirrored=mirrored)


def template_of(name: str, left: Any, right: Any, stock: Stock, *, mirrored: bool = False) -> Template:
    """Raises InputError for a part or a structure that is not there, and for values outside their limits."""
    sides = placed_parts(left, stock, name), placed_parts(right, stock, name)
    return Template(name, *(sides[::-1] if mirrored else sides))


def placed_parts(rows: Any, stock: Stock, template: str) -> tuple[PlacedPart, ...]:
    return tuple(
        place_part(r["id"], stock.part(r["part"], template), r.get("values", {}), stock.structures, _bound(r.get("targets", {})))
        for r in rows
    )


def _bound(targets: Mapping[str, Mapping[str, Any]]) -> dict[str, str | float]:
    return {name: float(b["level"]) if "level" in b else f"surface {b['surface']}" for name, b in targets.items()}


def surfaces_named(placed: Iterable[PlacedPart], surfaces: Mapping[int, SurfaceRecipe]) -> dict[str, SurfaceRecipe]:
    """The surfaces that targets of parts are bound to, by the names they have there."""
    names = {b for p in placed for b in p.targets.values() if isinstance(b, str)}
    return {f"surface {pk}": s for pk, s in sorted(surfaces.items()) if f"surface {pk}" in names and s.sources}
