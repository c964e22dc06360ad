"""Requests are computed one after another while they are short, and nobody waits for a long one."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable
from typing import Any

import pytest
from django.test import Client

from ivoryridge.design.kept import turns
from ivoryridge.design.kept.precedence import first, give_way, later
from ivoryridge.design.kept.turns import MOMENT, aside, turn


@pytest.fixture
def a_long_moment(monkeypatch: pytest.MonkeyPatch) -> None:
    """So that a slow machine passes no turn on by itself."""
    monkeypatch.setattr(turns, "MOMENT", 1000.0)


def started(work: Callable[[], None]) -> threading.Thread:
    thread = threading.Thread(target=work)
    thread.start()
    return thread


class Row(deque[object]):
    """Tells when somebody comes."""

    def append(self, ticket: object) -> None:
        super().append(ticket)
        turns._changed.notify_all()  # whoever comes holds it


@pytest.fixture(autouse=True)
def told_row(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turns, "_row", Row())


def waiting(count: int) -> None:
    """Wait until so many stand in the row."""
    with turns._changed:
        assert turns._changed.wait_for(lambda: len(turns._row) >= count, 20)


def test_short_ones_come_one_after_another_in_their_order(a_long_moment: None) -> None:
    order: list[int] = []
    inside: list[int] = []

    def work(i: int) -> None:
        with turn():
            inside.append(i)
            with turn():  # within one there is nothing to wait for
                order.append(i)
            assert inside == [i]
            inside.remove(i)

    threads = []
    with turn():
        for i in range(5):
            threads.append(started(lambda i=i: work(i)))  # type: ignore[misc]
            waiting(i + 1)
    for t in threads:
        t.join(20)
    assert order == [0, 1, 2, 3, 4]


def test_a_long_one_loses_its_turn_and_goes_on() -> None:
    done = threading.Event()
    with turn():
        began = time.monotonic()
        other = started(lambda: _in_turn(done.set))
        assert done.wait(20)  # while this one is still at work
        assert time.monotonic() - began >= 0.9 * MOMENT
    other.join(20)
    assert turns._holder is None and not turns._row


def _in_turn(work: Callable[[], object]) -> None:
    with turn():
        work()


def test_who_waits_for_another_leaves_it_the_turn(a_long_moment: None) -> None:
    asks, has = threading.Event(), threading.Event()
    said: list[str] = []
    with turn():
        other = started(lambda: _in_turn(lambda: (said.append("other"), has.set())))
        waiting(1)
        asks.set()
        with aside():
            with aside():  # nothing is left to leave, and nothing taken again
                assert has.wait(20)
            other.join(20)
            assert turns._holder is None
        said.append("again")
        assert turns._holder is not None
    assert said == ["other", "again"]
    with aside():  # without a turn there is nothing to leave
        assert turns._holder is None


@pytest.mark.parametrize("ahead_of_it", [first, turn])
def test_what_comes_later_leaves_its_turn_to_any_other(a_long_moment: None, ahead_of_it: Callable[[], Any]) -> None:
    order: list[str] = []
    began, asked = threading.Event(), threading.Event()

    def behind() -> None:
        with later([1000.0]):
            began.set()
            assert asked.wait(20)
            give_way()
            order.append("later")

    def ahead() -> None:
        with ahead_of_it():
            order.append("first")

    one = started(behind)
    assert began.wait(20)
    two = started(ahead)
    waiting(1)  # it asks for the turn that the later one has
    asked.set()
    two.join(20)
    one.join(20)
    assert order == ["first", "later"]


def test_a_request_waits_for_its_turn(a_long_moment: None) -> None:
    answered: list[int] = []
    with turn():
        other = started(lambda: answered.append(Client().get("/api/nowhere").status_code))
        waiting(1)
        assert not answered
    other.join(20)
    assert answered == [404]
