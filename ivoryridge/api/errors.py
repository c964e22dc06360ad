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
        field = ".".join(str(p) for p in first.get("loc", ())[2:]) or "the request"
        message = f"{field.replace('_', ' ').capitalize()}: {first.get('msg', 'not valid')}."
        return answer(request, 422, "not-valid", message, where={"field": field})

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
