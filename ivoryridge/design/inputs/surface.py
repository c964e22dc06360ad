"""What a surface is made from: its row and the survey sets it names."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from ..kept.kinds import fields_hash
from ..models import Surface, SurveySet

__all__ = [
    "SURFACE_SETTINGS",
    "SourceRow",
    "SurfaceRecipe",
    "assemble_surface",
    "assemble_surfaces",
    "numbered_edits",
    "source_rows",
]

SURFACE_SETTINGS = ("greatest_edge", "live_spacing", "weed_plan", "weed_level", "fill_area")


@dataclass(frozen=True, slots=True)
class SourceRow:
    """A survey set in a recipe: its id, the hash of what it holds, and its layers' roles."""

    id: int
    hash: str
    roles: Mapping[str, str]


@dataclass(frozen=True)
class SurfaceRecipe:
    """What a surface is made from: survey sets in order of priority, settings (m, m2), and edits.

    In ``edits`` surveys stand by their number in ``sources``, from 1, so that the key does not hang on ids.
    """

    id: int = 0
    name: str = ""
    sources: tuple[SourceRow, ...] = ()
    greatest_edge: float | None = None
    live_spacing: float | None = None
    weed_plan: float | None = None
    weed_level: float | None = None
    fill_area: float | None = None
    edits: tuple[Mapping[str, Any], ...] = ()

    def content_key(self) -> str:
        kept = self.__dict__
        if "_content" not in kept:
            kept["_content"] = fields_hash(self)
        return str(kept["_content"])

    def settings(self) -> dict[str, float | None]:
        return {k: getattr(self, k) for k in SURFACE_SETTINGS}


def assemble_surface(row: Surface) -> SurfaceRecipe:
    return assemble_surfaces(row.project_id, [row])[row.pk]


def assemble_surfaces(project_id: int, rows: Iterable[Surface]) -> dict[int, SurfaceRecipe]:
    """Recipes of a project's surfaces by their id; the survey sets are looked up once for all."""
    sets = _sources(SurveySet.present.filter(project_id=project_id))
    return {row.pk: _recipe(row, tuple(sets[i] for i in row.sources if i in sets)) for row in rows}


def source_rows(project_id: int, ids: Collection[int]) -> dict[int, SourceRow]:
    """Some of a project's survey sets."""
    return _sources(SurveySet.present.filter(project_id=project_id, pk__in=ids)) if ids else {}


def _sources(rows: Any) -> dict[int, SourceRow]:
    return {pk: SourceRow(pk, content, roles) for pk, content, roles in rows.values_list("id", "hash", "roles")}


def _recipe(row: Surface, sources: tuple[SourceRow, ...]) -> SurfaceRecipe:
    settings = {k: getattr(row, k) for k in SURFACE_SETTINGS}
    return SurfaceRecipe(row.pk, row.name, sources, **settings, edits=numbered_edits(row.edits, [s.id for s in sources]))


def numbered_edits(edits: list[dict[str, Any]], ids: list[int]) -> tuple[dict[str, Any], ...]:
    """Edits with the numbers of survey sets for their ids; those of a set that is not among the sources are left out."""
    number = {pk: i for i, pk in enumerate(ids, 1)} | {0: 0}  # 0: what edits have added
    return tuple(
        {**e, "survey": number[e["survey"]]} if "survey" in e else e for e in edits if "survey" not in e or e["survey"] in number
    )
