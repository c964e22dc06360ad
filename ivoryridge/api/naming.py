"""The name of the request that is being answered, for every line of log. Read by the settings, so it needs nothing of the program."""

from __future__ import annotations

import logging
from contextvars import ContextVar

__all__ = ["RequestNamed", "request_name"]

request_name: ContextVar[str] = ContextVar("request", default="")


class RequestNamed(logging.Filter):
    """Gives every line of log the name of the request that it was written in."""

    def filter(self, record: logging.LogRecord) -> bool:
        record.request = request_name.get()
        return True
