"""The API: routers put together."""

from __future__ import annotations

from ninja import NinjaAPI

from . import (
    along,
    courses,
    downloads,
    files,
    finished,
    ground,
    junctions,
    levels,
    project_list,
    projects,
    reports,
    roads,
    sections,
    session,
    sheets,
    shelves,
    surfaces,
)
from .errors import add_handlers

api = NinjaAPI(title="Ivory Ridge", version="1", docs_url=None, openapi_url=None)
add_handlers(api)
for part in (
    session,
    project_list,
    projects,
    files,
    surfaces,
    roads,
    along,
    sections,
    courses,
    junctions,
    finished,
    levels,
    sheets,
    downloads,
    ground,
    shelves,
    reports,
):
    api.add_router("", part.router)
