"""What may come in at all: bodies of a size and kind that are wanted, before they are read; and from where somebody signs in."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user
from django.contrib.sessions.middleware import SessionMiddleware
from django.core.handlers.wsgi import WSGIRequest
from django.db import connections
from django.http import HttpRequest, HttpResponse

from .answers import json_answer

__all__ = ["address_of", "bodies_that_may_come_in", "may_come_in"]

_MOST_ANONYMOUS = 20_000  # bytes; a name and a password


def bodies_that_may_come_in(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: refuses what is too large, of another kind, or sent by nobody, without reading it."""

    def answer(request: HttpRequest) -> HttpResponse:
        refused = _refused(request) if request.method not in ("GET", "HEAD", "OPTIONS") else None
        return refused or get_response(request)

    return answer


def _refused(request: HttpRequest) -> HttpResponse | None:
    said = request.META.get("CONTENT_LENGTH") or ""
    if request.META.get("HTTP_TRANSFER_ENCODING") or (said and not said.isdecimal()):
        return _no(411, "length-needed", "Say how long the body is (Content-Length); pieces of unknown number are not taken.")
    length = int(said or 0)
    if not length:
        return None
    kind = request.content_type or "nothing"
    if kind not in ("application/json", "multipart/form-data"):
        return _no(415, "kind-unknown", f"Bodies come as JSON or as files, not as '{kind[:60]}'.")
    if not request.user.is_authenticated and (kind != "application/json" or length > _MOST_ANONYMOUS):
        return _no(401, "not-signed-in", "Sign in first; what was sent was not read.")
    most = settings.LARGEST_JSON if kind == "application/json" else settings.LARGEST_UPLOAD
    if length > most:
        return _no(413, "too-large", f"What was sent has {length / 1e6:.1f} MB; at most {most / 1e6:.0f} MB are taken here.")
    return None


def may_come_in(environ: dict[str, Any]) -> bool:
    """Whether the application would take the body of a request, by its head and who sends it; why not it says itself."""
    request = WSGIRequest(environ)
    SessionMiddleware(_nothing).process_request(request)
    request.user = get_user(request)
    try:
        return _refused(request) is None
    finally:
        connections.close_all()  # this thread may answer nobody again for long


def _nothing(request: HttpRequest) -> HttpResponse:
    return HttpResponse()


def _no(status: int, code: str, message: str) -> HttpResponse:
    return json_answer({"code": code, "message": message, "where": {}, "details": {}}, status=status)


def address_of(request: Any) -> str:
    """The address of whoever asks: behind a proxy the one that the proxy saw, else the one of the connection."""
    if settings.BEHIND_PROXY:
        seen = str(request.META.get("HTTP_X_FORWARDED_FOR", "")).split(",")[-1].strip()
        if seen:
            return seen
    return str(request.META.get("REMOTE_ADDR", ""))
