"""Answers made of plain values."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager
from typing import Any

import orjson
from django.http import HttpResponse, StreamingHttpResponse

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.design.kept.precedence import PATIENCE, first, later
from ivoryridge.design.ledger import Act

__all__ = ["acted", "json_answer", "json_lines"]


def json_answer(value: Any, key: str | None = None, status: int = 200) -> HttpResponse:
    """Plain values and arrays as JSON; a NaN becomes null, as JSON has none."""
    response = HttpResponse(
        orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json", status=status
    )
    if key:
        response["ETag"] = f'"{key}"'
        response["Cache-Control"] = "private, no-cache"
    return response


def json_lines(
    parts: Iterator[Any], within: Callable[[], AbstractContextManager[Any]], waited_for: int = 1
) -> StreamingHttpResponse:
    """Each part as a line of JSON, sent when it is there; ``within`` surrounds the making of each.

    The first is made before the answer begins, so that what fails there is told like everywhere; what fails later ends the lines with
    one that says so. A hand waits for the first few: they go before all others.
    """
    patience = [PATIENCE]

    def made(when: AbstractContextManager[None]) -> bytes | None:
        with within(), when:
            part = next(parts, None)
        return None if part is None else _line(part)

    def more() -> Iterator[bytes]:
        try:
            for i in itertools.count(1):
                line = made(first() if i < waited_for else later(patience))
                if line is None:
                    return
                yield line
        except IvoryRidgeError as error:
            yield _line({"failed": {"code": error.code, "message": error.sentence, "where": error.where}})

    head = made(first())
    return StreamingHttpResponse(itertools.chain([head], more()), content_type="application/x-ndjson")


def _line(part: Any) -> bytes:
    return orjson.dumps(part, option=orjson.OPT_SERIALIZE_NUMPY) + b"\n"


def acted(doing: Act, told: list[str] | None = None, **more: Any) -> HttpResponse:
    """What an act did: its label, what moved with it, and what else the caller needs."""
    return json_answer({"label": doing.label, "told": told or [], **more})
