"""Acts on a surface as a whole: its name, settings, sources and label paths."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ..ledger import Act
from ..models import Project, Road, Surface, SurveySet
from ..objects import kind_of
from ..refusals import BadValue
from .standing import act, rehearsed

__all__ = ["change_surface", "delete_surface", "own_row"]


@rehearsed
def change_surface(surface: Surface, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if "sources" in values:
        for pk in values["sources"]:
            own_row(SurveySet, surface.project, pk)
    if values.get("greatest_edge") is not None and not values["greatest_edge"] > 0:
        raise BadValue(
            "edge-small",
            "The greatest outer edge must be above 0 m. Leave it empty to keep the whole hull.",
            field="greatest_edge",
        )
    words = {"label_paths": "Change label paths of", "sources": "Change the sources of"}
    label = words.get(next(iter(values)), "Change surface") if len(values) == 1 else "Change surface"
    if set(values) == {"name"}:
        label = f"Rename surface to {values['name']}, before"
    with act(surface.project, user, f"{label} {surface.name}") as doing:
        doing.change(surface, revision=revision, **values)
    return doing


@rehearsed
def delete_surface(surface: Surface, user: User, *, revision: int) -> tuple[Act, list[str]]:
    roads = list(Road.present.filter(surface=surface).values_list("name", flat=True))
    with act(surface.project, user, f"Delete surface {surface.name}") as doing:
        doing.remove(surface, revision=revision)
    told = f"{surface.name} is deleted." + (
        f" {', '.join(roads)} had it as ground and {'has' if len(roads) == 1 else 'have'} none now." if roads else ""
    )
    return doing, [told + " Undo brings it back."]


def own_row(model: Any, project: Project, pk: int) -> None:
    if not model.present.filter(project=project, pk=pk).exists():
        raise BadValue("not-of-project", f"There is no such {kind_of(model.__name__).word.split(' ', 1)[1]} in this project.")
