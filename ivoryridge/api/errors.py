"""Every failure becomes one JSON body: code, message, where, hint."""

from __future__ import annotations

import logging
import secrets
from typing import Any

from django.db import OperationalError
from django.http import HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError

from ivoryridge.core.errors import ConvergenceError, IvoryRidgeError
from ivoryridge.design.refusals import Refused

__all__ = ["add_handlers"]

log = logging.getLogger("ivoryridge.api")


# fields as the page calls them, where that is not their name with blanks
_WORDS = {
    "spiral_in": "transition in", "spiral_out": "transition out", "elevation": "level", "half_in": "curve length before the PVI",
    "half_out": "curve length behind the PVI", "least_k": "least K", "start_station": "start chainage", "station": "chainage",
}  # fmt: skip
_PERCENT = ("greatest_grade", "rate", "share")  # kept as ratios, read in percent


def _sentence(field: str, fault: dict[str, Any]) -> str:
    """A refused field in the page's words and units: what it must be."""
    word = _WORDS.get(field, field.replace("_", " "))
    limits = fault.get("ctx") or {}
    signs = (("ge", "at least"), ("gt", "above"), ("le", "at most"), ("lt", "below"))
    bounds = [f"{name} {_limit(field, limits[sign])}" for sign, name in signs if sign in limits]
    if bounds:
        return f"The {word} must be {' and '.join(bounds)}."
    kind = str(fault.get("type", ""))
    if kind.startswith(("float", "int", "finite", "decimal")):
        return f"The {word} must be a number."
    if kind.startswith("string"):
        least, most = limits.get("min_length"), limits.get("max_length")
        return (
            f"The {word} must have {f'at least {least}' if least else f'at most {most}'} letters."
            if least or most
            else f"The {word} must be a text."
        )
    if kind == "missing":
        return f"The {word} is missing."
    if kind == "literal_error":
        return f"The {word} must be one of {limits.get('expected', 'those offered')}."
    if kind == "extra_forbidden":
        return f"There is no value called {word} here."
    if kind == "value_error":
        return f"The {word} cannot be taken: {limits.get('error', 'it is not valid')}."
    return f"The {word} is not valid here."


def _limit(field: str, value: float) -> str:
    return f"{100 * value:g} %" if field in _PERCENT else f"{value:g}"


def add_handlers(api: NinjaAPI) -> None:
    def answer(request: HttpRequest, status: int, code: str, message: str, **more: Any) -> HttpResponse:
        return api.create_response(request, {"code": code, "message": message, "where": {}, "details": {}, **more}, status=status)

    @api.exception_handler(IvoryRidgeError)
    def ours(request: HttpRequest, error: IvoryRidgeError) -> HttpResponse:
        if isinstance(error, ConvergenceError):
            log.error("did not converge: %s", error.sentence, exc_info=error)
        return answer(request, 500 if isinstance(error, ConvergenceError) else 422, error.code, error.sentence, where=error.where)

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused) -> HttpResponse:
        return answer(request, error.status, error.code, error.sentence, details=error.details)

    @api.exception_handler(AuthenticationError)
    def not_signed_in(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return answer(
            request,
            401,
            "not-signed-in",
            "You are not signed in, or your session has ended. Sign in and try again; nothing was lost.",
        )

    @api.exception_handler(ValidationError)
    def not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        first = error.errors[0]
        field = next(
            (str(p) for p in reversed(first.get("loc", ())) if isinstance(p, str) and "-" not in p and "[" not in p), "request"
        )
        return answer(request, 422, "not-valid", _sentence(field, first), where={"field": field})

    @api.exception_handler(OverflowError)
    def too_large(request: HttpRequest, error: OverflowError) -> HttpResponse:
        return answer(request, 422, "number-too-large", "A number in the request is too large to be one of this project's.")

    @api.exception_handler(OperationalError)
    def database(request: HttpRequest, error: OperationalError) -> HttpResponse:
        full = "full" in str(error)
        log.error("data base: %s", error, exc_info=error)
        sentence = (
            "The disk of the server is full, so nothing was saved; what was there before is untouched. Free some space, then try again."
            if full else "The data base is busy, so nothing was saved. Try again in a moment."
        )  # fmt: skip
        return answer(request, 507 if full else 503, "disk-full" if full else "database-busy", sentence)

    @api.exception_handler(Exception)
    def other(request: HttpRequest, error: Exception) -> HttpResponse:
        reference = secrets.token_hex(2).upper()
        log.error("ref %s", reference, exc_info=error)
        return answer(
            request,
            500,
            "our-fault",
            f"Something went wrong on our side (ref {reference}). Nothing was saved; try again, and report the reference if it stays.",
        )
