"""Acts on a sheet set, and names of what is on the shelves."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ..ledger import Act
from ..models import SheetSet, Template
from ..refusals import BadValue
from .standing import act, rehearsed

__all__ = ["change_sheet_set", "rename"]


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
