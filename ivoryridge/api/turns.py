"""Requests take turns: see ``design.kept.turns``."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

from ivoryridge.design.kept.turns import turn

__all__ = ["in_turn"]


def in_turn(respond: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: a request is answered when its turn has come. What is made as its answer is sent takes turns of its own."""

    def answer(request: HttpRequest) -> HttpResponse:
        with turn():
            return respond(request)

    return answer
