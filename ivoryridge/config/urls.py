"""Addresses: the API, and the one page that everything else shows."""

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from ivoryridge.api.api import api
from ivoryridge.api.watched import health


@ensure_csrf_cookie
def page(_request: HttpRequest) -> HttpResponse:
    """The front end; its router takes the rest of the address."""
    index = settings.WEB_DIST / "index.html"
    if not index.is_file():
        return HttpResponse("The front end is not built yet. Run ./ivory demo.", status=503, content_type="text/plain")
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


urlpatterns = [path("health", health), path("api/", api.urls), re_path(r"^(?!api/|assets/|static/|health$).*$", page)]
