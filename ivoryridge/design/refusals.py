"""Refusals of acts: what a person wanted cannot be done now, and why, in one sentence."""

from __future__ import annotations

from typing import Any


class Refused(Exception):
    """An act that is not done. ``status`` is the HTTP status, ``details`` is for the screen (e.g. both values)."""

    status = 409

    def __init__(self, code: str, sentence: str, **details: Any) -> None:
        self.code, self.sentence, self.details = code, sentence, details
        super().__init__(sentence)


class Stale(Refused):
    """Somebody else changed the row since it was read."""


class NotThere(Refused):
    status = 404


class NotAllowed(Refused):
    status = 403


class BadValue(Refused):
    status = 422


class TooOften(Refused):
    status = 429
