"""Work on a ground surface: edits, findings and answers, merging, layers, reading it, and giving it out."""

from __future__ import annotations

import io
from typing import Any, Literal

import numpy as np
from django.http import HttpResponse
from ninja import Router

from ivoryridge.core.exchange.grid import grid_of_surface, write_esri_grid
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.surface_out import write_contours_geojson, write_surface_dxf, write_surface_glb
from ivoryridge.core.terrain.flow import watershed_of
from ivoryridge.core.terrain.label_path import label_places
from ivoryridge.core.terrain.section_cut import cut_polyline
from ivoryridge.core.wording import spoken
from ivoryridge.design.actions.edit_ground import (
    answer_findings,
    change_roles,
    delete_survey,
    edit_ground,
    merge_into,
    take_edit_back,
)
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.ground import ContourLabel, GroundCut, GroundFindings, GroundPick, Water
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.pictures.ground import findings_picture, lines_key, lines_picture, nearest_picture, outline_rings
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.shown import contours_of
from ivoryridge.design.results.surface import ponds_of_surface, surface_of

from .answers import acted, json_answer
from .binary import pack_geometry, unchanged, with_key
from .downloads import as_file
from .rules import editor, viewer
from .schemas import Answer, GroundEdits, Merge, Number, SurveySetChange

router = Router()


@router.post("/surfaces/{int:surface_id}/edits", auth=editor, response=Acted)
def add_edits(request: Any, surface_id: int, given: GroundEdits) -> HttpResponse:
    edits = [
        {k: v for k, v in e.dict().items() if v is not None or (k == "spacing" and e.do == "live_spacing")} for e in given.edits
    ]
    return acted(edit_ground(request.row, request.user, revision=given.revision, edits=edits))


@router.delete("/surfaces/{int:surface_id}/edits/{int:index}", auth=editor, response=Acted)
def drop_edit(request: Any, surface_id: int, index: int, revision: int) -> HttpResponse:
    return acted(take_edit_back(request.row, request.user, revision=revision, index=index))


@router.get("/surfaces/{int:surface_id}/findings", auth=viewer, response=GroundFindings)
def findings(request: Any, surface_id: int) -> HttpResponse:
    return json_answer(findings_picture(request.row))


@router.post("/surfaces/{int:surface_id}/answers", auth=editor, response=Acted)
def answer(request: Any, surface_id: int, given: Answer) -> HttpResponse:
    return acted(answer_findings(request.row, request.user, **given.dict()))


@router.post("/surfaces/{int:surface_id}/merge", auth=editor, response=Acted)
def merge(request: Any, surface_id: int, given: Merge) -> HttpResponse:
    return acted(*merge_into(request.row, request.user, **given.dict()))


@router.patch("/survey-sets/{int:survey_set_id}", auth=editor, response=Acted)
def change_survey(request: Any, survey_set_id: int, given: SurveySetChange) -> HttpResponse:
    return acted(change_roles(request.row, request.user, **given.dict()))


@router.delete("/survey-sets/{int:survey_set_id}", auth=editor, response=Acted)
def drop_survey(request: Any, survey_set_id: int, revision: int) -> HttpResponse:
    return acted(*delete_survey(request.row, request.user, revision=revision))


@router.get("/surfaces/{int:surface_id}/lines", auth=viewer)
def lines(request: Any, surface_id: int) -> HttpResponse:
    """Received lines by role with their own vertices, packed; background ones are laid on the ground where they have no level."""
    recipe = assemble_surface(request.row)
    key = lines_key(recipe)
    if unchanged(request, key):
        return HttpResponse(status=304)
    origin, arrays, layers = lines_picture(recipe)
    return with_key(pack_geometry(origin, arrays, layers=layers), key)


@router.get("/surfaces/{int:surface_id}/nearest", auth=viewer, response=GroundPick | None)
def nearest(request: Any, surface_id: int, e: Number, n: Number, within: Number) -> HttpResponse:
    """The point or line vertex nearest to a place, for editing; null when none is within so many metres."""
    return json_answer(nearest_picture(assemble_surface(request.row), e, n, within))


@router.get("/surfaces/{int:surface_id}/labels", auth=viewer, response=list[list[ContourLabel]])
def labels(request: Any, surface_id: int, interval: Number = 1.0, major: Number = 0.0, rounded: bool = False) -> HttpResponse:
    """Labels where the surface's label paths cross its contours; ``major``: only multiples of it."""
    if not interval > 0:
        raise BadValue("interval-small", "The contour interval must be above 0 m.", field="interval")
    lines = contours_of(assemble_surface(request.row), interval, rounded=rounded)
    out = [
        [
            {"e": la.easting, "n": la.northing, "level": la.level, "azimuth": la.azimuth}
            for la in label_places(p, lines, major=major or None)
        ]
        for p in request.row.label_paths
    ]
    return json_answer(out)


@router.get("/surfaces/{int:surface_id}/water", auth=viewer, response=Water)
def water(request: Any, surface_id: int, e: Number, n: Number) -> HttpResponse:
    """Ponds of the surface, and the ground that drains to a place."""
    recipe = assemble_surface(request.row)
    surface, _ = surface_of(recipe)
    ponds = ponds_of_surface(recipe)
    gathered, area = watershed_of(surface, [e, n])
    rings = outline_rings(surface, gathered)
    return json_answer({
        "ponds": [{"level": p.level, "depth": p.depth, "area": p.area, "volume": p.volume, "place": p.place} for p in ponds[:50]],
        "area": area, "rings": rings,
    })  # fmt: skip


@router.get("/surfaces/{int:surface_id}/ground-section", auth=viewer, response=GroundCut)
def ground_section(request: Any, surface_id: int, path: str) -> HttpResponse:
    """Ground along a drawn line: rows of distance and level. ``path`` is e,n;e,n;..."""
    places = places_of(path)
    surface, _ = surface_of(assemble_surface(request.row))
    return json_answer({"points": np.round(cut_polyline(surface, places), 3)})


def places_of(path: str) -> Any:
    """(n, 2) places of a path, m."""
    try:
        places = np.array([[float(v) for v in p.split(",")] for p in path.split(";")])
        if places.ndim != 2 or places.shape[1] != 2 or not 2 <= len(places) <= 500 or not np.isfinite(places).all():
            raise ValueError(path)
    except ValueError:
        raise BadValue("bad-path", "A section needs two to 500 places as easting,northing pairs.", field="path") from None
    return places


@router.get("/surfaces/{int:surface_id}/out/{kind}", auth=viewer)
def give_out(
    request: Any,
    surface_id: int,
    kind: Literal["landxml", "dxf", "grid", "geojson", "glb"],
    interval: Number = 1.0,
    cell: Number = 5.0,
    rounded: bool = False,
) -> HttpResponse:
    """The surface as a file in an open format."""
    if not (interval > 0 and cell > 0):
        raise BadValue("interval-small", "The contour interval and the cell size must be above 0 m.", field="interval")
    row, recipe = request.row, assemble_surface(request.row)
    surface, _ = surface_of(recipe)
    match kind:
        case "landxml":
            content = write_landxml(project=row.project.name, surfaces=[(row.name, surface)], alignments=[], units=spoken())
            return as_file(content, "application/xml", f"{row.name}.xml")
        case "dxf":
            content = write_surface_dxf(surface, contours_of(recipe, interval, rounded=rounded), units=spoken())
            return as_file(content, "application/dxf", f"{row.name}.dxf")
        case "geojson":
            content = write_contours_geojson(
                contours_of(recipe, interval, rounded=rounded), reference=row.project.coordinate_reference
            )
            return as_file(content, "application/geo+json", f"{row.name} contours.geojson")
        case "glb":
            return as_file(write_surface_glb(surface, name=row.name), "model/gltf-binary", f"{row.name}.glb")
    out = io.StringIO()
    write_esri_grid(grid_of_surface(surface, cell), out)
    return as_file(out.getvalue().encode(), "text/plain", f"{row.name}.asc")
