"""Answers made of plain values."""

from __future__ import annotations

from typing import Any

import orjson
from django.http import HttpResponse

from ivoryridge.design.ledger import Act

__all__ = ["acted", "json_answer"]


def json_answer(value: Any, key: str | None = None, status: int = 200) -> HttpResponse:
    """Plain values and arrays as JSON; a NaN becomes null, as JSON has none."""
    response = HttpResponse(
        orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY), content_type="application/json", status=status
    )
    if key:
        response["ETag"] = f'"{key}"'
        response["Cache-Control"] = "private, no-cache"
    return response


def acted(doing: Act, told: list[str] | None = None, **more: Any) -> HttpResponse:
    """What an act did: its label, what moved with it, and what else the caller needs."""
    return json_answer({"label": doing.label, "told": told or [], **more})
