"""The ledger as people read it: page by page, and an act value by value."""

from __future__ import annotations

from typing import Any, cast

from ivoryridge.core.wording import chainage, spoken

from ..forms.common import LedgerChange, LedgerPage
from ..models import LedgerEntry
from ..objects import kind_of
from ..refusals import NotThere

__all__ = ["ledger_changes", "ledger_page"]

PAGE = 100
MOST_CHANGES = 200
_LENGTHS = frozenset({
    "easting", "northing", "elevation", "radius", "spiral_in", "spiral_out", "half_in", "half_out", "interval", "fineness",
    "sight_clearance", "band_interval", "section_interval",
})  # fmt: skip


def ledger_page(project: int, before: int | None) -> LedgerPage:
    rows = LedgerEntry.objects.filter(project_id=project)
    page = rows if before is None else rows.filter(pk__lt=before)
    lines = [
        {"id": e.pk, "label": e.label, "by": e.user.get_username(), "at": e.at.isoformat(), "state": e.state}
        for e in page.select_related("user").defer("changes")[:PAGE]
    ]
    return cast(LedgerPage, {"lines": lines, "count": rows.count()})


def ledger_changes(project: int, entry: int) -> list[LedgerChange]:
    """Old and new values of an act, at most ``MOST_CHANGES``; a list or a table is told by its size."""
    found = LedgerEntry.objects.filter(project_id=project, pk=entry).first()
    if found is None:
        raise NotThere("no-such-entry", "There is no such entry in this ledger.")
    out: list[LedgerChange] = []
    for change in found.changes:
        of = _named(change["model"], change["id"])
        for name, (old, new) in change["fields"].items():
            if name == "removed":
                out.append({"of": of, "value": "", "before": "" if old else "there", "after": "deleted" if new else "made"})
            else:
                word = name.removesuffix("_id").replace("_", " ")
                out.append({"of": of, "value": word, "before": _told(name, old), "after": _told(name, new)})
    return out[:MOST_CHANGES]


def _named(model: str, pk: int) -> str:
    """What an object is called; its kind's word alone where it has no name."""
    kind = kind_of(model)
    row = kind.model.objects.filter(pk=pk).first()
    name = getattr(row, "name", "") if row is not None else ""
    whole = getattr(row, "road", None) if row is not None and not name else None
    word = kind.word[:1].upper() + kind.word[1:]
    return f"{word} {name}".strip() if name or whole is None else f"{word} of {whole.name}"


def _told(name: str, value: Any) -> str:
    if value is None or value == "":
        return "none"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float) and name.endswith("station"):
        return chainage(float(value), 3)
    if isinstance(value, int | float) and name in _LENGTHS:
        return f"{_short(value / spoken().metre)} {spoken().length}"
    if isinstance(value, int | float):
        return _short(value)
    if isinstance(value, list | dict):
        return f"{len(value)} entries" if len(value) != 1 else "1 entry"
    return str(value)[:80]


def _short(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)
