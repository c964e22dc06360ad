"""Surfaces: triangles, contours and readings."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.terrain.shown import Window
from ivoryridge.core.terrain.surface import Surface, read_surface
from ivoryridge.design.actions.edit_surface import change_surface, delete_surface, own_row
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.ground import GroundReading, VolumeBetween
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.kept.kinds import tag
from ivoryridge.design.models import Surface as SurfaceRow
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.between import volume_from_to
from ivoryridge.design.results.shown import check_interval, contours_shown, shown, shown_of
from ivoryridge.design.results.surface import surface, surface_of

from .answers import acted, json_answer
from .binary import pack_geometry, unchanged, with_key
from .rules import editor, viewer
from .schemas import Number, SurfaceChange

router = Router()


@router.patch("/surfaces/{int:surface_id}", auth=editor, response=Acted)
def change(request: Any, surface_id: int, given: SurfaceChange) -> HttpResponse:
    return acted(change_surface(request.row, request.user, revision=given.revision, values=given.given()))


@router.delete("/surfaces/{int:surface_id}", auth=editor, response=Acted)
def delete(request: Any, surface_id: int, revision: int) -> HttpResponse:
    return acted(*delete_surface(request.row, request.user, revision=revision))


@router.get("/surfaces/{int:surface_id}/volume", auth=viewer, response=VolumeBetween)
def volume(request: Any, surface_id: int, to: int) -> HttpResponse:
    """The exact volume from a surface to another one of the project."""
    own_row(SurfaceRow, request.project, to)
    other = SurfaceRow.objects.get(pk=to)
    recipes = assemble_surface(request.row), assemble_surface(other)
    key = tag("volume between", 1, *(surface(r) for r in recipes))
    if unchanged(request, key):
        return HttpResponse(status=304)
    v = volume_from_to(*recipes)
    return json_answer({"cut": v.cut, "fill": v.fill, "net": v.net, "area": v.common_area}, key)


def _window(text: str) -> Window | None:
    """A window as least E, least N, greatest E, greatest N in m, comma separated; empty for the whole."""
    if not text:
        return None
    try:
        e0, n0, e1, n1 = (float(v) for v in text.split(","))
        if not (np.isfinite([e0, n0, e1, n1]).all() and e0 < e1 and n0 < n1):
            raise ValueError(text)
    except ValueError:
        raise BadValue("bad-window", "A window is least E, least N, greatest E and greatest N in m.", field="window") from None
    return e0, n0, e1, n1


def _origin(surface: Surface) -> tuple[float, float]:
    if not len(surface.triangles):
        return 0.0, 0.0
    e0, n0, e1, n1 = surface.extent
    return float(np.floor((e0 + e1) / 2)), float(np.floor((n0 + n1) / 2))


@router.get("/surfaces/{int:surface_id}/geometry", auth=viewer)
def geometry(request: Any, surface_id: int, window: str = "") -> HttpResponse:
    """Triangles of the whole surface, or of what lies in a window; of a lattice where they would be too many."""
    recipe, asked = assemble_surface(request.row), _window(window)
    key = tag("geometry", 1, shown(recipe, asked), surface(recipe))
    if unchanged(request, key):
        return HttpResponse(status=304)
    seen = shown_of(recipe, asked)
    drawn, origin = seen.surface, _origin(seen.surface)
    body = pack_geometry(
        origin,
        {"points": drawn.points - [*origin, 0.0], "triangles": drawn.triangles, "breaklines": drawn.breakline_edges},
        spacing=seen.spacing, window=asked, **seen.told, findings=[f.as_dict() for f in seen.findings],
    )  # fmt: skip
    return with_key(body, key)


@router.get("/surfaces/{int:surface_id}/contours", auth=viewer)
def contours(request: Any, surface_id: int, interval: Number = 1.0, rounded: bool = False, window: str = "") -> HttpResponse:
    """Contours of what ``geometry`` gives for the same window; ``rounded``: of that surface with rounded triangles."""
    recipe, asked = assemble_surface(request.row), _window(window)
    check_interval(recipe, interval)
    lines = contours_shown(recipe, interval, rounded=rounded, window=asked)
    key = tag("contours", 1, lines, interval)
    if unchanged(request, key):
        return HttpResponse(status=304)
    xy, starts, levels = lines.get()
    origin = _origin(shown_of(recipe, asked).surface)
    return with_key(
        pack_geometry(origin, {"xy": xy - np.array(origin), "starts": starts, "levels": levels}, interval=interval, window=asked),
        key,
    )


@router.get("/surfaces/{int:surface_id}/reading", auth=viewer, response=GroundReading)
def reading(request: Any, surface_id: int, e: Number, n: Number) -> HttpResponse:
    """Level, slope and direction of fall at a place; nulls where there is no ground."""
    made, _ = surface_of(assemble_surface(request.row))
    r = read_surface(made, [[e, n]])
    if not np.isfinite(r.elevation[0]):
        return json_answer({"elevation": None, "slope": None, "aspect_deg": None})
    return json_answer(
        {"elevation": float(r.elevation[0]), "slope": float(r.slope[0]), "aspect_deg": float(np.degrees(r.aspect[0]))}
    )
