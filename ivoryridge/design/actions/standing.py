"""One rule for every act, for undo and for redo: what computed before must compute after.

An act is first rehearsed: done in a transaction that is rolled back, which gives the network as it would be. What is affected is
computed from that, outside any transaction, so that nobody waits for it. Then the act is done; its own look at what stands finds
everything by key, and computes only where somebody else has changed something in between.

The object itself failing refuses the act with its own reason; one that hangs on it, however far, refuses it by its name.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import ParamSpec, TypeVar

from django.contrib.auth.models import User
from django.db import transaction

from ivoryridge.core.errors import InputError, IvoryRidgeError

from ..inputs.network import Network, inside_act, leave, network_of
from ..ledger import Act, Swap, record, swap_back, swap_forth
from ..models import LedgerEntry, Project
from ..objects import Ref, kind_named, refs_of
from ..refusals import Refused
from ..results.road import problems_of
from ..results.surface import surface
from .edit_members import keep_an_owner

__all__ = ["act", "redo", "rehearsed", "undo"]

P = ParamSpec("P")
R = TypeVar("R")

_part: ContextVar[str] = ContextVar("part", default="")  # of an act: "", "rehearsal" or "performance"


class _Rehearsed(BaseException):
    """Ends a rehearsal; what it would have led to."""

    def __init__(self, before: Network, after: Network, touched: set[Ref]) -> None:
        super().__init__()
        self.before, self.after, self.touched = before, after, touched


@contextmanager
def act(project: Project, user: User, label: str) -> Iterator[Act]:
    """One act in one transaction, after which all must still stand; anything raised inside leaves no trace of it."""
    before = network_of(project.pk)
    doing: Act | None = None
    try:
        with record(project, user, label) as doing, inside_act():
            yield doing
            _look(before, project, doing.touched())
    except _Rehearsed:
        assert doing is not None
        doing.forget()
        raise


def _look(before: Network, project: Project, touched: set[Ref]) -> None:
    after = network_of(project.pk)
    if _part.get() == "rehearsal":
        raise _Rehearsed(before, after, touched)
    _must_stand(before, after, touched)
    leave(project.pk, after)


def rehearsed(function: Callable[P, R]) -> Callable[P, R]:
    """For a function that does one act by ``act``: rehearse it first. One that is called by another is part of that one's."""

    @wraps(function)
    def run(*args: P.args, **given: P.kwargs) -> R:
        if _part.get():
            return function(*args, **given)
        token = _part.set("rehearsal")
        try:
            return function(*args, **given)  # it came to no act
        except _Rehearsed as done:
            plan = done
        finally:
            _part.reset(token)
        _must_stand(plan.before, plan.after, plan.touched)
        token = _part.set("performance")
        try:
            return function(*args, **given)
        finally:
            _part.reset(token)

    return run


# --- what must stand -----------------------------------------------------------------------------------------
def _must_stand(before: Network, after: Network, touched: set[Ref]) -> None:
    """Raises the reason of what was touched itself, or Refused for what hangs on it."""
    for pk in _surfaces(after, touched):
        if after.surfaces[pk].sources:
            surface(after.surfaces[pk]).get()
    own, hanging = _roads(after, touched)
    for pk in own:
        for step, error in _problems(after, pk, before, whole=True).items():
            if not _failed_before(before, pk, step, whole=True):
                raise error
    for pk in hanging:
        for step, error in _problems(after, pk, before, whole=False).items():
            if not _failed_before(before, pk, step, whole=False):
                raise _would_break(after, pk, error)


def _problems(after: Network, pk: int, before: Network, *, whole: bool) -> dict[str, IvoryRidgeError]:
    road = after.road(pk)
    if road.has_line:
        return problems_of(road, whole=whole)
    if road.pvis or after.hanging_on(pk) or (pk in before.own and before.road(pk).has_line and _part.get() != "swap"):
        return {"line": InputError("too-few-pis", count=len(road.pis))}
    return {}


def _failed_before(before: Network, pk: int, step: str, *, whole: bool) -> bool:
    """What failed before may go on failing: it is mended step by step."""
    return pk in before.own and before.road(pk).has_line and step in problems_of(before.road(pk), whole=whole)


def _would_break(network: Network, pk: int, error: IvoryRidgeError) -> Refused:
    name = network.own[pk].name
    return Refused(
        "would-break",
        f"{name} hangs on this and would not compute any more: {error.sentence} Untie {name}, set it free, or change it first.",
        road_id=pk, road=name,
    )  # fmt: skip


def _surfaces(after: Network, touched: set[Ref]) -> list[int]:
    surveys = {pk for kind, pk in touched if kind == "survey"}
    return sorted(
        pk for pk, recipe in after.surfaces.items() if ("surface", pk) in touched or surveys & {s.id for s in recipe.sources}
    )


def _roads(after: Network, touched: set[Ref]) -> tuple[list[int], list[int]]:
    """Roads that are touched themselves or by what they are built with, and those that hang on them, each after what it hangs on."""
    built_of = touched | {("template", pk) for pk, named in after.named.items() if named & touched}
    own = [pk for pk in after.own if ("road", pk) in touched or after.built_with.get(pk, frozenset()) & built_of]
    gone = {pk for kind, pk in touched if kind == "road" and pk not in after.own}
    everywhere = any(kind == "project" for kind, _ in touched)
    hanging = [pk for base in [*own, *gone] for pk in after.hanging_on(base)]
    more = list(after.own) if everywhere else []
    return own, [pk for pk in dict.fromkeys([*hanging, *more]) if pk not in own and pk in after.own]


# --- undo and redo -------------------------------------------------------------------------------------------
def undo(project: Project, user: User) -> LedgerEntry:
    """Take back the person's latest act. What it touches and what hangs on it must still compute, else it is refused."""
    return _swapped(project, user, swap_back)


def redo(project: Project, user: User) -> LedgerEntry:
    """Do again the act that was undone last, by the same rule."""
    return _swapped(project, user, swap_forth)


def _swapped(project: Project, user: User, swap: Callable[[Project, User], Swap]) -> LedgerEntry:
    before = network_of(project.pk)
    token = _part.set("swap")
    try:
        try:
            with transaction.atomic(), inside_act():
                done = swap(project, user)
                _nothing_dangles(project, done)
                raise _Rehearsed(before, network_of(project.pk), done.touched)
        except _Rehearsed as plan:
            _must_stand(plan.before, plan.after, plan.touched)
        with transaction.atomic(), inside_act():
            done = swap(project, user)
            _nothing_dangles(project, done)
            _must_stand(before, network_of(project.pk), done.touched)
        return done.entry
    finally:
        _part.reset(token)


def _nothing_dangles(project: Project, done: Swap) -> None:
    """What goes with an undo must not be named by anything that stays; and a project keeps an owner."""
    if any(kind == "member" for kind, _ in done.touched):
        keep_an_owner(project)
    named = refs_of(project.pk, done.gone) if done.gone else []
    for kind, row, (what, pk) in named:
        if (kind.name, row.pk) in done.gone or kind.whole(row) in done.gone:
            continue
        if what in ("surface", "template", "part", "structure"):
            thing = kind_named(what).model.objects.get(pk=pk).name
        else:
            thing = {"pi": "a PI", "survey": "a survey", "sheets": "a sheet set"}.get(what, f"a {what}")
        holder = getattr(row, "name", None) or kind.word
        raise Refused(
            "still-needed",
            f"'{done.entry.label}' cannot be taken back: {holder} needs {thing} that would go with it. Change {holder} first, then undo.",
        )
