"""The finished ground over a surface: figures, what is drawn, sections, files."""

from __future__ import annotations

import io
from typing import Any, Literal

import numpy as np
from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.exchange.grid import grid_of_surface, write_esri_grid
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.surface_out import write_surface_dxf, write_surface_glb
from ivoryridge.core.junction.finished import FinishedGround
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.wording import spoken
from ivoryridge.design.edits.junction import with_corners
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.forms.finished import ExactVolumes, Finished, FinishedCut
from ivoryridge.design.inputs.lately import recall
from ivoryridge.design.inputs.network import Network, network_of
from ivoryridge.design.inputs.surface import SurfaceRecipe
from ivoryridge.design.kept.kinds import tag
from ivoryridge.design.kept.kinds import trial as in_trial
from ivoryridge.design.kept.precedence import later
from ivoryridge.design.kept.turns import aside
from ivoryridge.design.pictures.finished import (
    MATERIALS,
    borders_of,
    contours_of_built,
    exact_picture,
    finished_picture,
    section_picture,
    shown_triangles,
)
from ivoryridge.design.pictures.junction import junctions_moved
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.finished import finished_near_junctions, finished_of

from .answers import json_answer
from .binary import pack_geometry, unchanged, with_key
from .downloads import as_file
from .ground import places_of
from .junction_schemas import CornersTrial
from .rules import viewer
from .schemas import Number, Trial

router = Router()


def _asked(request: Any) -> tuple[Network, SurfaceRecipe]:
    network = network_of(request.project.pk)
    return network, network.surfaces[request.row.pk]


@router.get("/surfaces/{int:surface_id}/finished", auth=viewer, response=Finished)
def finished(request: Any, surface_id: int) -> HttpResponse:
    """What the finished ground is made of, and what is doubtful about it."""
    network, recipe = _asked(request)
    result, left_out = finished_of(network, recipe)
    key = tag("finished", 2, result, tuple(left_out))
    if unchanged(request, key):
        return HttpResponse(status=304)
    with later(), aside():
        return json_answer(finished_picture(network, recipe), key)


@router.get("/surfaces/{int:surface_id}/finished/volumes", auth=viewer, response=ExactVolumes)
def volumes(request: Any, surface_id: int) -> HttpResponse:
    """Exact volumes from the existing ground to the finished one and to its formation."""
    network, recipe = _asked(request)
    key = tag("exact volumes", 1, *(finished_of(network, recipe, role)[0] for role in ("finished", "formation")))
    if unchanged(request, key):
        return HttpResponse(status=304)
    with later(), aside():
        return json_answer(exact_picture(network, recipe), key)


@router.get("/surfaces/{int:surface_id}/finished/geometry", auth=viewer)
def geometry(request: Any, surface_id: int) -> HttpResponse:
    """Its triangles with their materials, packed."""
    result, _ = finished_of(*_asked(request))
    key = tag("finished geometry", 1, result)
    if unchanged(request, key):
        return HttpResponse(status=304)
    with later(), aside():
        found = result.get()
    triangles, material = shown_triangles(found)
    used, renumbered = np.unique(triangles, return_inverse=True)
    points = found.surface.points[used]
    origin = (float(np.floor(points[:, 0].mean())), float(np.floor(points[:, 1].mean()))) if len(points) else (0.0, 0.0)
    body = pack_geometry(
        origin,
        {"points": points - [*origin, 0.0], "triangles": renumbered.reshape(-1, 3), "material": material},
        materials=MATERIALS, whole=len(triangles) == len(found.surface.triangles),
    )  # fmt: skip
    return with_key(body, key)


@router.get("/surfaces/{int:surface_id}/finished/lines", auth=viewer)
def lines(request: Any, surface_id: int, interval: Number = 0.25) -> HttpResponse:
    """Borders between materials, and contours of what is built, packed."""
    if not interval >= 0.01:
        raise BadValue("interval-small", "The contour interval must be at least 0.01 m.", field="interval")
    result, _ = finished_of(*_asked(request))
    key = tag("finished lines", 1, result, interval)
    if unchanged(request, key):
        return HttpResponse(status=304)
    with later(), aside():
        found = result.get()
    borders = borders_of(found)
    xy, starts, levels = contours_of_built(found, interval)
    origin = (float(np.floor(borders[..., 0].mean())), float(np.floor(borders[..., 1].mean()))) if len(borders) else (0.0, 0.0)
    body = pack_geometry(
        origin,
        {"borders": borders - np.array(origin), "xy": xy - np.array(origin), "starts": starts, "levels": levels},
        interval=interval,
    )
    return with_key(body, key)


@router.post("/junctions/{int:junction_id}/trial/finished", auth=viewer)
def around_junction(request: Any, junction_id: int, given: CornersTrial, interval: Number = 0.25) -> HttpResponse:
    """The finished ground around a junction as it would be with other values of some corners, packed; stores nothing."""
    before = network_of(request.project.pk)
    network = with_corners(before, junction_id, given.roads, given.shape.given())
    return _near(network, network.junction(junction_id).main.surface, [junction_id], before, interval)


@router.post("/roads/{int:road_id}/trial/finished", auth=viewer)
def around_road(request: Any, road_id: int, given: Trial, interval: Number = 0.25) -> HttpResponse:
    """The finished ground around the junctions that a drag of a road changes, as it would be, packed; stores nothing."""
    before = recall(road_id, given.key) or network_of(request.project.pk)
    network = before.with_road(with_trial(before.road(road_id), given.dict(exclude_unset=True)))
    return _near(network, network.road(road_id).surface, list(junctions_moved(network, road_id)), before, interval)


def _near(network: Network, recipe: SurfaceRecipe | None, junctions: list[int], before: Network, interval: float) -> HttpResponse:
    if recipe is None:
        raise BadValue("corridor-needs", "There is no ground under this road.")
    with in_trial(), later(), aside():
        found, boxes = finished_near_junctions(network, recipe, junctions, before)
        body = _packed(found, max(interval, 0.01), boxes=boxes)
    return HttpResponse(body, content_type="application/octet-stream")


def _packed(found: FinishedGround, interval: float, **told: Any) -> bytes:
    """Triangles with their materials, borders and contours."""
    triangles, material = shown_triangles(found)
    used, renumbered = np.unique(triangles, return_inverse=True)
    points, borders = found.surface.points[used], borders_of(found)
    xy, starts, levels = contours_of_built(found, interval)
    origin = (float(np.floor(points[:, 0].mean())), float(np.floor(points[:, 1].mean()))) if len(points) else (0.0, 0.0)
    sections = {
        "points": points - [*origin, 0.0], "triangles": renumbered.reshape(-1, 3), "material": material,
        "borders": borders - np.array(origin), "xy": xy - np.array(origin), "starts": starts, "levels": levels,
    }  # fmt: skip
    return pack_geometry(origin, sections, interval=interval, materials=MATERIALS, **told)


@router.get("/surfaces/{int:surface_id}/finished/section", auth=viewer, response=FinishedCut)
def section(request: Any, surface_id: int, path: str) -> HttpResponse:
    """The finished and the existing ground along a drawn line, and what is built between, through all pieces. ``path`` is e,n;e,n;..."""
    return json_answer(section_picture(*_asked(request), places_of(path)))


@router.get("/surfaces/{int:surface_id}/finished/out/{kind}", auth=viewer)
def give_out(
    request: Any, surface_id: int, kind: Literal["landxml", "dxf", "grid", "glb"], interval: Number = 0.5, cell: Number = 2.0
) -> HttpResponse:
    """The finished ground as a file in an open format."""
    if not (interval > 0 and cell > 0):
        raise BadValue("interval-small", "The contour interval and the cell size must be above 0 m.", field="interval")
    row = request.row
    surface, name = finished_of(*_asked(request))[0].get().surface, f"{row.name} finished"
    match kind:
        case "landxml":
            content = write_landxml(project=row.project.name, surfaces=[(name, surface)], alignments=[], units=spoken())
            return as_file(content, "application/xml", f"{name}.xml")
        case "dxf":
            levels = levels_between(*surface.elevation_range, interval)
            xy, starts, which = compute_contours(surface, levels)
            contours = (xy, starts, np.asarray(levels)[which])
            return as_file(write_surface_dxf(surface, contours, units=spoken()), "application/dxf", f"{name}.dxf")
        case "glb":
            return as_file(write_surface_glb(surface, name=name), "model/gltf-binary", f"{name}.glb")
    out = io.StringIO()
    write_esri_grid(grid_of_surface(surface, cell), out)
    return as_file(out.getvalue().encode(), "text/plain", f"{name}.asc")
