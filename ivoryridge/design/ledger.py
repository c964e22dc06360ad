"""Acts and their ledger: one act is one transaction, one readable entry, one step of undo.

Every change of a row goes through an ``Act``. It keeps, per row, what each field was and became; undoing swaps the
two. Undo is per person, and refused in words where somebody else changed the same row since.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from .models import Issue, LedgerEntry, Project, Road, RoadPI, RoadPVI, Row, SheetSet, Surface, SurveySet, Template
from .refusals import BadValue, Refused, Stale

__all__ = ["Act", "act", "next_redo", "next_undo", "redo", "undo"]

ROWS: dict[str, type[Row]] = {
    m.__name__: m for m in (Issue, Project, Road, RoadPI, RoadPVI, SheetSet, Surface, SurveySet, Template)
}
_WORDS = {"Issue": "the issue", "Project": "the project", "Road": "the road", "RoadPI": "a PI", "RoadPVI": "a PVI", "SheetSet": "the sheet set",
          "Surface": "the surface", "SurveySet": "a survey set", "Template": "the template"}  # fmt: skip
_UNKEPT = {"id", "revision", "arrays"}


class Act:
    """Collects the changes of one act. Use through ``act``."""

    def __init__(self, project: Project, user: User, label: str) -> None:
        self.project, self.user, self.label = project, user, label
        self._fields: dict[tuple[str, int], dict[str, list[Any]]] = {}
        self.entry: LedgerEntry | None = None

    def change(self, row: Row, *, revision: int | None = None, **fields: Any) -> None:
        """Set fields of a row. ``revision`` is the one its editor saw; another one is refused with both values.

        The row is read again first: only inside the transaction can nobody else change it between look and write.
        """
        if (_model(row), row.pk) not in self._fields:
            row.refresh_from_db()
        if revision is not None and revision != row.revision:
            raise self._stale(row, fields)
        kept = self._fields.setdefault((_model(row), row.pk), {})
        changed = False
        for name, value in fields.items():
            before = getattr(row, name)
            if before == value:
                continue
            if value is None and not row._meta.get_field(name.removesuffix("_id")).null:
                raise BadValue(
                    "value-missing", f"The {name.replace('_', ' ')} of {_WORDS[_model(row)]} needs a value.", field=name
                )
            changed = True
            setattr(row, name, value)
            kept.setdefault(name, [before, value])[1] = value
        if changed:
            row.revision += 1
            row.save()

    def create(self, row: Row) -> Any:
        """Save a new row; undoing marks it removed, so its id and links stay."""
        row.save()
        self._fields[(_model(row), row.pk)] = {"removed": [True, False]}
        return row

    def remove(self, row: Row, *, revision: int | None = None) -> None:
        self.change(row, revision=revision, removed=True)

    def _stale(self, row: Row, wanted: dict[str, Any]) -> Stale:
        name = _model(row)
        last = next((e for e in LedgerEntry.objects.filter(project=self.project).select_related("user")[:200]
                     if any(c["model"] == name and c["id"] == row.pk for c in e.changes)), None)  # fmt: skip
        who = last.user.get_username() if last else "Somebody"
        theirs = {k: getattr(row, k) for k in wanted}
        shown = "; ".join(
            f"{k.replace('_', ' ')}: theirs {_short(theirs[k])}, yours {_short(v)}" for k, v in wanted.items() if theirs[k] != v
        )
        return Stale(
            "changed-since",
            f"{who} changed {_WORDS[name]} while you were editing it ({shown or 'the same values'}). "
            "Your value was not saved; look at theirs and set it again if it should be yours.",
            row={"model": name, "id": row.pk, "revision": row.revision}, theirs=theirs, yours=wanted,
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
    return f"{value:.3f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)[:40]


@contextmanager
def act(project: Project, user: User, label: str) -> Iterator[Act]:
    """One act in one transaction; anything raised inside leaves no trace of it."""
    with transaction.atomic():
        doing = Act(project, user, label)
        yield doing
        changes = doing.changes()
        if changes:
            LedgerEntry.objects.filter(project=project, user=user, state="undone").update(state="dropped")
            doing.entry = LedgerEntry.objects.create(project=project, user=user, label=doing.label[:200], changes=changes)


def next_undo(project: Project, user: User) -> LedgerEntry | None:
    return LedgerEntry.objects.filter(project=project, user=user, state="done").order_by("-id").first()


def next_redo(project: Project, user: User) -> LedgerEntry | None:
    return LedgerEntry.objects.filter(project=project, user=user, state="undone").order_by("id").first()


def undo(project: Project, user: User) -> LedgerEntry:
    """Take back the person's latest act."""
    return _swap(
        project, user, next_undo, before=1, after=0, state="undone", nothing="There is nothing of yours to undo in this project."
    )


def redo(project: Project, user: User) -> LedgerEntry:
    """Do again the act that was undone last."""
    return _swap(project, user, next_redo, before=0, after=1, state="done", nothing="There is nothing to do again.")


def _swap(project: Project, user: User, find: Any, *, before: int, after: int, state: str, nothing: str) -> LedgerEntry:
    with transaction.atomic():
        entry = find(project, user)
        if entry is None:
            raise BadValue("nothing-to-undo", nothing)
        for change in entry.changes:
            _refuse_if_others_touched(project, user, entry, change)
            row = ROWS[change["model"]].objects.get(pk=change["id"])
            for name, values in change["fields"].items():
                setattr(row, name, values[after])
            row.revision += 1
            row.save()
        entry.state = state
        entry.save(update_fields=["state"])
        return entry


def _refuse_if_others_touched(project: Project, user: User, entry: LedgerEntry, change: dict[str, Any]) -> None:
    later = LedgerEntry.objects.filter(project=project, id__gt=entry.id, state="done").exclude(user=user).select_related("user")
    for other in later:
        if any(c["model"] == change["model"] and c["id"] == change["id"] for c in other.changes):
            raise Refused(
                "touched-since",
                f"'{entry.label}' cannot be taken back: {other.user.get_username()} has since changed {_WORDS[change['model']]} "
                f"('{other.label}'). Change the value by hand, or ask {other.user.get_username()} to undo first.",
            )
