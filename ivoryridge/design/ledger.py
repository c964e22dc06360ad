"""Acts and their ledger: one act is one transaction, one readable entry, one step of undo.

Every change of a row goes through an ``Act``. It keeps, per row, what each field was and became; undoing swaps the
two. Undo is per person, and refused in words where somebody else changed the same fields since.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F

from .models import LedgerEntry, Project, Row
from .objects import Ref, kind_of
from .refusals import BadValue, Refused, Stale

__all__ = ["Act", "Swap", "ending_with", "next_redo", "next_undo", "record", "swap_back", "swap_forth"]

_at_end: ContextVar[Callable[[Act], None] | None] = ContextVar("at_end", default=None)

_UNKEPT = {"id", "revision", "arrays"}


class Act:
    """Collects the changes of one act. Use through ``record``, or through ``actions.standing.act``, which looks whether all
    still stands."""

    def __init__(self, project: Project, user: User, label: str) -> None:
        self.project, self.user, self.label = project, user, label
        self._fields: dict[tuple[str, int], dict[str, list[Any]]] = {}
        self._rows: dict[tuple[str, int], Row] = {}
        self.entry: LedgerEntry | None = None

    def change(self, row: Row, *, revision: int | None = None, **fields: Any) -> None:
        """Set fields of a row. ``revision`` is the one its editor saw; another one is refused with both values.

        The row is read again first: only inside the transaction can nobody else change it between look and write.
        """
        key = (_model(row), row.pk)
        if key not in self._fields:
            row.refresh_from_db()
        if revision is not None and revision != row.revision:
            raise self._stale(row, revision, fields)
        kept = self._fields.setdefault(key, {})
        self._rows[key] = row
        changed = False
        for name, value in fields.items():
            before = getattr(row, name)
            if before == value:
                continue
            if value is None and not row._meta.get_field(name.removesuffix("_id")).null:
                raise BadValue("value-missing", f"The {name.replace('_', ' ')} of {kind_of(row).word} needs a value.", field=name)
            changed = True
            setattr(row, name, value)
            kept.setdefault(name, [before, value])[1] = value
        if changed:
            row.revision += 1
            row.save()

    def create(self, row: Row) -> Any:
        """Save a new row; undoing marks it removed, so its id and links stay."""
        row.save()
        key = (_model(row), row.pk)
        self._fields[key], self._rows[key] = {"removed": [True, False]}, row
        return row

    def remove(self, row: Row, *, revision: int | None = None) -> None:
        self.change(row, revision=revision, removed=True)

    def touched(self) -> set[Ref]:
        """The objects whose rows this act has changed."""
        changed = {key for key, fields in self._fields.items() if any(a != b for a, b in fields.values())}
        return {kind_of(row).whole(row) for key, row in self._rows.items() if key in changed}

    def forget(self) -> None:
        """After a rollback: rows in hand say again what the data base says."""
        for (_, pk), row in self._rows.items():
            if row._meta.model.objects.filter(pk=pk).exists():  # type: ignore[attr-defined]
                row.refresh_from_db()

    def _stale(self, row: Row, revision: int, wanted: dict[str, Any]) -> Stale:
        """What somebody has changed since, field by field; what both set alike is not spoken of."""
        since = row.revision - revision
        entries: list[tuple[LedgerEntry, dict[str, Any]]] = []
        for e in LedgerEntry.objects.filter(project=self.project).select_related("user").order_by("-id")[:200]:
            own = [c for c in e.changes if c["model"] == _model(row) and c["id"] == row.pk]
            if own and len(entries) < since:
                entries.append((e, own[0]["fields"]))
        who = entries[0][0].user.get_username() if entries else "Somebody"
        changed = {name for _, fields in entries for name in fields} or set(wanted)
        theirs = {k: getattr(row, k) for k in sorted(changed) if hasattr(row, k) and wanted.get(k, ...) != getattr(row, k)}
        told = "; ".join(
            f"{k.removesuffix('_id').replace('_', ' ')}: theirs {_short(v)}"
            + (f", yours {_short(wanted[k])}" if k in wanted else "")
            for k, v in theirs.items()
        )
        return Stale(
            "changed-since",
            f"{who} changed {kind_of(row).word} while you were editing it ({told or 'the same values'}). "
            "Your value was not saved; look at theirs and set it again if it should be yours.",
            row={"model": _model(row), "id": row.pk, "revision": row.revision}, theirs={k: getattr(row, k) for k in wanted}, yours=wanted,
        )  # fmt: skip

    def changes(self) -> list[dict[str, Any]]:
        rows = []
        for (model, pk), fields in self._fields.items():
            kept = {k: v for k, v in fields.items() if v[0] != v[1] and k not in _UNKEPT}
            if kept:
                rows.append({"model": model, "id": pk, "fields": kept})
        return rows


def _model(row: Row) -> str:
    """The model's name; asked of the row, since a row may come wrapped and read when first looked at."""
    return str(row._meta.object_name)


def _short(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:.3f}".rstrip("0").rstrip(".")
    return f"{len(value)} entries" if isinstance(value, list | dict) else str(value)[:40]


def _move_head(project: Project) -> None:
    Project.objects.filter(pk=project.pk).update(head=F("head") + 1)


@contextmanager
def record(project: Project, user: User, label: str) -> Iterator[Act]:
    """One act in one transaction; anything raised inside leaves no trace of it."""
    with transaction.atomic():
        doing = Act(project, user, label)
        yield doing
        changes = doing.changes()
        if changes:
            LedgerEntry.objects.filter(project=project, user=user, state="undone").update(state="dropped")
            doing.entry = LedgerEntry.objects.create(project=project, user=user, label=doing.label[:200], changes=changes)
            _move_head(project)
        if (finish := _at_end.get()) is not None:
            finish(doing)


@contextmanager
def ending_with(finish: Callable[[Act], None]) -> Iterator[None]:
    """The act in here ends with ``finish``, inside its transaction: both are kept or neither is. What it raises undoes the act."""
    token = _at_end.set(finish)
    try:
        yield
    finally:
        _at_end.reset(token)


# --- undo and redo -------------------------------------------------------------------------------------------
def next_undo(project: Project, user: User) -> LedgerEntry | None:
    return LedgerEntry.objects.filter(project=project, user=user, state="done").order_by("-id").first()


def next_redo(project: Project, user: User) -> LedgerEntry | None:
    return LedgerEntry.objects.filter(project=project, user=user, state="undone").order_by("id").first()


class Swap:
    """An entry taken back or done again: what it touched, and what went with it (``gone``)."""

    def __init__(self, entry: LedgerEntry) -> None:
        self.entry = entry
        self.touched: set[Ref] = set()
        self.gone: set[Ref] = set()


def swap_back(project: Project, user: User) -> Swap:
    """Take back the person's latest act; inside a transaction."""
    entry = next_undo(project, user)
    if entry is None:
        raise BadValue("nothing-to-undo", "There is nothing of yours to undo in this project.")
    return _swap(project, user, entry, after=0, state="undone")


def swap_forth(project: Project, user: User) -> Swap:
    """Do again the act that was undone last; inside a transaction."""
    entry = next_redo(project, user)
    if entry is None:
        raise BadValue("nothing-to-undo", "There is nothing to redo.")
    return _swap(project, user, entry, after=1, state="done")


def _swap(project: Project, user: User, entry: LedgerEntry, *, after: int, state: str) -> Swap:
    done = Swap(entry)
    for change in entry.changes:
        _refuse_if_others_touched(project, user, entry, change)
        kind = kind_of(change["model"])
        row = kind.model.objects.get(pk=change["id"])
        for name, values in change["fields"].items():
            setattr(row, name, values[after])
        row.revision += 1
        row.save()
        done.touched.add(kind.whole(row))
        if row.removed:
            done.gone.add((kind.name, row.pk))
    entry.state = state
    entry.save(update_fields=["state"])
    _move_head(project)
    return done


def _refuse_if_others_touched(project: Project, user: User, entry: LedgerEntry, change: dict[str, Any]) -> None:
    later = LedgerEntry.objects.filter(project=project, id__gt=entry.id, state="done").exclude(user=user).select_related("user")
    for other in later:
        theirs = next((c for c in other.changes if c["model"] == change["model"] and c["id"] == change["id"]), None)
        if theirs is not None and (set(theirs["fields"]) & set(change["fields"]) or "removed" in change["fields"]):
            raise Refused(
                "touched-since",
                f"'{entry.label}' cannot be taken back: {other.user.get_username()} has since changed {kind_of(change['model']).word} "
                f"('{other.label}'). Change the value by hand, or ask {other.user.get_username()} to undo first.",
            )
