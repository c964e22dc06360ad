"""Surfaces: triangles, contours and readings."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.terrain.outline import pieces_of
from ivoryridge.core.terrain.surface import read_surface, robust_levels, surface_area
from ivoryridge.design.actions.edit_road import change_surface, delete_surface
from ivoryridge.design.assemble import assemble_surface
from ivoryridge.design.derive import key_of
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results import contours_of, surface_key, surface_of

from .answers import acted, json_answer
from .binary import pack_geometry, unchanged, with_key
from .rules import editor, viewer
from .schemas import SurfaceChange

router = Router()
MOST_CONTOURS = 400  # levels on one plan; more cannot be told apart


@router.patch("/surfaces/{int:surface_id}", auth=editor)
def change(request: Any, surface_id: int, given: SurfaceChange) -> HttpResponse:
    return acted(change_surface(request.row, request.user, revision=given.revision, values=given.given()))


@router.delete("/surfaces/{int:surface_id}", auth=editor)
def delete(request: Any, surface_id: int, revision: int) -> HttpResponse:
    return acted(*delete_surface(request.row, request.user, revision=revision))


@router.get("/surfaces/{int:surface_id}/geometry", auth=viewer)
def geometry(request: Any, surface_id: int) -> HttpResponse:
    recipe = assemble_surface(request.row)
    key = surface_key(recipe)
    if unchanged(request, key):
        return HttpResponse(status=304)
    surface, findings = surface_of(recipe)
    e0, n0, e1, n1 = surface.extent
    origin = (float(np.floor((e0 + e1) / 2)), float(np.floor((n0 + n1) / 2)))
    plan, slope = surface_area(surface)
    body = pack_geometry(
        origin,
        {"points": surface.points - [*origin, 0.0], "triangles": surface.triangles, "breaklines": surface.breakline_edges},
        extent=[e0, n0, e1, n1], levels=list(surface.elevation_range), robust_levels=list(robust_levels(surface)), plan_area=plan, slope_area=slope, pieces=len(pieces_of(surface)),
        findings=[f.as_dict() for f in findings],
    )  # fmt: skip
    return with_key(body, key)


@router.get("/surfaces/{int:surface_id}/contours", auth=viewer)
def contours(request: Any, surface_id: int, interval: float = 1.0) -> HttpResponse:
    recipe = assemble_surface(request.row)
    surface, _ = surface_of(recipe)
    low, high = surface.elevation_range
    if not interval > 0 or (high - low) / interval > MOST_CONTOURS:
        raise BadValue(
            "interval-small",
            f"Contours every {interval:g} m over {high - low:.0f} m of height are too many; use at least {(high - low) / MOST_CONTOURS:.2f} m.",
            field="interval",
        )
    key = key_of("contours", surface_key(recipe), interval)
    if unchanged(request, key):
        return HttpResponse(status=304)
    xy, starts, levels = contours_of(recipe, interval)
    e0, n0, e1, n1 = surface.extent
    origin = (float(np.floor((e0 + e1) / 2)), float(np.floor((n0 + n1) / 2)))
    return with_key(
        pack_geometry(origin, {"xy": xy - np.array(origin), "starts": starts, "levels": levels}, interval=interval), key
    )


@router.get("/surfaces/{int:surface_id}/reading", auth=viewer)
def reading(request: Any, surface_id: int, e: float, n: float) -> HttpResponse:
    """Level, slope and direction of fall at a place; nulls where there is no ground."""
    surface, _ = surface_of(assemble_surface(request.row))
    r = read_surface(surface, [[e, n]])
    if not np.isfinite(r.elevation[0]):
        return json_answer({"elevation": None, "slope": None, "aspect_deg": None})
    return json_answer(
        {"elevation": float(r.elevation[0]), "slope": float(r.slope[0]), "aspect_deg": float(np.degrees(r.aspect[0]))}
    )
