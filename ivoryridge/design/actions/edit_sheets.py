"""Acts on a sheet set, and names of what is on the shelves."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ..ledger import Act
from ..models import Road, SheetSet, Template
from ..refusals import BadValue
from .standing import act, rehearsed

__all__ = ["change_sheet_set", "create_sheet_set", "delete_sheet_set", "rename"]


@rehearsed
def rename(row: Template | SheetSet, user: User, *, revision: int, name: str) -> Act:
    if not name.strip():
        raise BadValue("name-empty", "Type a name.", field="name")
    with act(row.project, user, f"Rename {row.name} to {name.strip()}") as doing:
        doing.change(row, revision=revision, name=name.strip()[:120])
    return doing


@rehearsed
def change_sheet_set(sheets: SheetSet, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    with act(sheets.project, user, f"Change {sheets.name}") as doing:
        doing.change(sheets, revision=revision, **values)
    return doing


@rehearsed
def create_sheet_set(road: Road, user: User) -> Act:
    """Sheets for a road that has none any more."""
    if SheetSet.present.filter(road=road).exists():
        raise BadValue("sheets-there", f"{road.name} has its sheets already.")
    with act(road.project, user, f"Make sheets of {road.name}") as doing:
        doing.create(SheetSet(project=road.project, road=road, name=f"{road.name} sheets"))
    return doing


@rehearsed
def delete_sheet_set(sheets: SheetSet, user: User, *, revision: int) -> Act:
    """What was issued of them stays as it was."""
    with act(sheets.project, user, f"Delete {sheets.name}") as doing:
        doing.remove(sheets, revision=revision)
    return doing
