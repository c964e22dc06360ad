"""What those who run the program see of it: a name for every request, a line of log for each, and an address that tells its health."""

from __future__ import annotations

import logging
import re
import time
import uuid
from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import DatabaseError, connections
from django.http import HttpRequest, HttpResponse

from ivoryridge.design.jobs import worker_silent

from .answers import json_answer
from .naming import request_name

__all__ = ["health", "named_requests"]

log = logging.getLogger("ivoryridge.requests")
_FIT = re.compile(r"[A-Za-z0-9-]{8,64}")
SILENT = 60.0  # s without a sign of a worker before it counts as missing


def named_requests(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware: a name for each request, in its answer and in every line of log; one line when it is answered.

    Behind a proxy the name that the proxy gave is kept, so that both logs speak of the same request.
    """

    def answer(request: HttpRequest) -> HttpResponse:
        given = request.headers.get("X-Request-Id", "") if settings.BEHIND_PROXY else ""
        name = given if _FIT.fullmatch(given) else uuid.uuid4().hex[:16]
        token = request_name.set(name)
        began = time.perf_counter()
        try:
            response = get_response(request)
            response["X-Request-Id"] = name
            if request.path.startswith("/api/"):
                _tell(request, response, 1000 * (time.perf_counter() - began))
            return response
        finally:
            request_name.reset(token)

    return answer


def _tell(request: HttpRequest, response: HttpResponse, milliseconds: float) -> None:
    user = getattr(request, "user", None)
    told: dict[str, Any] = {
        "method": request.method, "path": request.path, "status": response.status_code, "ms": round(milliseconds, 1),
        "user": user.pk if user is not None and user.is_authenticated else None,
        "bytes": None if response.streaming else len(response.content),
    }  # fmt: skip
    level = logging.ERROR if response.status_code >= 500 else logging.INFO
    log.log(level, "%s %s %d", told["method"], told["path"], told["status"], extra=told)


def health(_request: HttpRequest) -> HttpResponse:
    """Whether the program can answer: 200 where both data bases can, else 503; and when a worker was last seen. Needs no account, and
    says nothing of what is kept."""
    bases = {}
    for name in ("default", "derived"):
        try:
            with connections[name].cursor() as cursor:
                cursor.execute("SELECT 1")
            bases[name] = True
        except DatabaseError:
            bases[name] = False
    silent = worker_silent()
    told = {
        "ok": all(bases.values()), "data": bases["default"], "derived": bases["derived"],
        "worker": silent is not None and silent < SILENT, "worker_seen_s": None if silent is None else round(silent, 1),
    }  # fmt: skip
    return json_answer(told, status=200 if told["ok"] else 503)
