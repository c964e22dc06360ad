"""What a hand waits for goes before what may come later, and nobody waits for ever."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator

import pytest

from ivoryridge.design.kept.kinds import kind
from ivoryridge.design.kept.precedence import PATIENCE, first, give_way, later

ORDER: list[str] = []
STARTED, GO, ASKS = threading.Event(), threading.Event(), threading.Event()


@kind("bench of precedence", 1)
def _slow(name: str) -> str:
    STARTED.set()
    assert GO.wait(20)
    give_way()
    ORDER.append(name)
    return name


@pytest.fixture(autouse=True)
def fresh() -> Iterator[None]:
    ORDER.clear()
    STARTED.clear()
    GO.clear()
    ASKS.clear()
    yield
    GO.set()


def test_what_comes_later_waits_for_what_goes_first_and_not_for_ever() -> None:
    def behind() -> None:
        with later():
            give_way()
            ORDER.append("later")

    with first():
        other = threading.Thread(target=behind)
        other.start()
        ORDER.append("first")
    other.join(20)
    assert ORDER == ["first", "later"]
    began = time.monotonic()
    with first(), later():
        give_way()
        give_way()  # nothing is left of its patience
    assert PATIENCE <= time.monotonic() - began < 10 * PATIENCE


def test_whoever_works_on_what_goes_first_does_not_give_way_to_it() -> None:
    """The later one holds the computation that the first one comes to need: without stepping back it would wait out its patience."""
    patience = [1000.0]

    def behind() -> None:
        with later(patience):
            _slow(name="shared").get()

    other = threading.Thread(target=behind)
    other.start()
    assert STARTED.wait(20)

    def ahead() -> None:
        with first():
            ASKS.set()
            _slow(name="shared").get()
            ORDER.append("has it")

    foremost = threading.Thread(target=ahead)
    foremost.start()
    assert ASKS.wait(20)
    GO.set()
    foremost.join(20)
    other.join(20)
    assert not foremost.is_alive() and not other.is_alive()
    assert ORDER == ["shared", "has it"]
