"""The units of a request: metres until its rule knows the project, whose units then hold for all that is said."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, ExitStack, contextmanager

from django.http import HttpRequest, HttpResponse

from ivoryridge.core.wording import METRES, speaking, spoken

__all__ = ["in_these_units", "units_of_request"]


def units_of_request(respond: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: what a request has spoken ends with it."""

    def within(request: HttpRequest) -> HttpResponse:
        with speaking(METRES):
            return respond(request)

    return within


def in_these_units(within: Callable[[], AbstractContextManager[None]]) -> Callable[[], AbstractContextManager[None]]:
    """The same surroundings, in the units spoken now; for what is made after the request's own time."""
    units = spoken()

    @contextmanager
    def both() -> Iterator[None]:
        with ExitStack() as stack:
            stack.enter_context(speaking(units))
            stack.enter_context(within())
            yield

    return both
