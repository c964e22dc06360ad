"""What the ground stage asks for: findings with their answers, received lines, what lies nearest. Reads only."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.terrain.recipe import CODED, ROLES, GroundLine, lay_on, line_at
from ivoryridge.core.terrain.surface import Surface

from ..inputs.surface import SurfaceRecipe, assemble_surface
from ..kept.kinds import tag
from ..models import Surface as SurfaceRow
from ..results.surface import core_recipe, ground_findings_of, ground_of, surface, surface_of

__all__ = ["findings_picture", "lines_key", "lines_picture", "nearest_picture", "outline_rings"]


def findings_picture(row: SurfaceRow) -> dict[str, Any]:
    """Open findings, those that are kept with their remark, and why there is no surface if there is none."""
    recipe = assemble_surface(row)
    if not recipe.sources:
        return {"open": [], "kept": [], "problem": None}
    problem = None
    made: list[Any] = []
    try:
        made = surface_of(recipe)[1]
    except IvoryRidgeError as error:
        problem = error.sentence
    found = ground_findings_of(recipe)
    told = [f.as_dict() for f in found] + [
        {**f.as_dict(), "key": f"{f.code}@{f.place}", "points": [], "level": None}
        for f in made if f.code not in ("points-duplicate", "points-duplicate-levels")
    ]  # fmt: skip
    for f in told:
        f["ways"] = _ways(f)
    answers = row.answers
    return {
        "open": [f for f in told if f["key"] not in answers],
        "kept": [{**f, **answers[f["key"]]} for f in told if f["key"] in answers],
        "problem": problem,
    }


def _ways(f: dict[str, Any]) -> list[str]:
    """What may be answered to a finding."""
    ways = []
    if f["points"]:
        if f["code"] == "swapped":
            ways.append("change_over")
        if f["code"] in ("zero-level", "spike", "off-breakline", "no-level"):
            ways.append("set_level")
        ways.append("leave_out")
    return ways if f["severity"] == "note" and not f["points"] else [*ways, "keep"]


def lines_key(recipe: SurfaceRecipe) -> str:
    """Tag of ``lines_picture``: it tells ids of surveys beside what is drawn."""
    return tag("lines", 2, surface(recipe), tuple(s.id for s in recipe.sources))


def lines_picture(recipe: SurfaceRecipe) -> tuple[tuple[float, float], dict[str, Any], list[str]]:
    """Origin; arrays: vertices (n, 3), level 0 where there is none, starts, heads (role, survey, number, layer, 1 if a circle, of each
    line),
    heights (m above the ground), own (n,) 0 or 1; and the names of the layers."""
    core, ground = core_recipe(recipe), ground_of(recipe)
    try:
        surface: Surface | None = surface_of(recipe)[0]
    except IvoryRidgeError:
        surface = None
    shapes, own, heads, heights = [], [], [], []
    layers: dict[str, int] = {}
    for line in ground.lines:
        if line.role == "ignore":
            continue
        vertices, mine = line_at(line, core) if line.role == "breakline" else (line.vertices, np.ones(len(line.vertices), bool))
        pieces = [vertices]
        if (
            line.role in ("background", "outer", "hole") and surface is not None
        ):  # mapping is drawn flat; here it lies on the ground
            pieces = lay_on(surface, line.vertices) or [vertices]
        for piece in pieces:
            if len(piece) < 2:
                continue
            shapes.append(piece)
            own.append(mine if piece is vertices else np.ones(len(piece), bool))
            survey = 0 if line.survey == 0 else recipe.sources[line.survey - 1].id
            layer = layers.setdefault(line.layer[1] or line.layer[0] or "added", len(layers))
            heads.append([ROLES.index(line.role), survey, line.number, layer, int(line.layer[0] == "CAD circle")])
            heights.append(line.height)
    stacked = np.concatenate(shapes) if shapes else np.empty((0, 3))
    origin = (
        (float(np.floor(np.nanmean(stacked[:, 0]))), float(np.floor(np.nanmean(stacked[:, 1])))) if len(stacked) else (0.0, 0.0)
    )
    return (
        origin,
        {
            "vertices": np.nan_to_num(stacked - [*origin, 0.0]),
            "starts": np.cumsum([0, *(len(s) for s in shapes)]),
            "heads": np.array(heads, np.int64).reshape(-1, 5),
            "heights": np.array(heights, float),
            "own": np.concatenate(own).astype(np.int64) if own else np.empty(0, np.int64),
        },
        list(layers),
    )


def nearest_picture(recipe: SurfaceRecipe, e: float, n: float, within: float) -> dict[str, Any] | None:
    """The nearest point, or vertex of a breakline, as an edit names it; of a breakline how many vertices it has of each sort."""
    ground = ground_of(recipe)
    chosen: GroundLine | None = None
    at = np.array([e, n])
    best: tuple[float, dict[str, Any]] | None = None

    def named(survey: int) -> int:
        return 0 if survey == 0 else recipe.sources[survey - 1].id

    if len(ground.points):
        d = np.hypot(*(ground.points[:, :2] - at).T)
        i = int(np.argmin(d))
        place = [None if np.isnan(v) else float(v) for v in ground.points[i]]
        best = (
            float(d[i]),
            {"kind": "point", "survey": named(int(ground.of[i, 0])), "point": int(ground.of[i, 1]), "place": place},
        )
    for line in ground.role("breakline"):
        if line.number >= CODED:  # strung through points, which are what an edit names
            continue
        d = np.hypot(*(line.vertices[:, :2] - at).T)
        i = int(np.argmin(d))
        if best is None or float(d[i]) <= best[0]:
            told = {
                "kind": "vertex",
                "survey": named(line.survey),
                "line": line.number,
                "vertex": i,
                "place": line.vertices[i].tolist(),
            }
            best, chosen = (float(d[i]), {**told, "vertices": len(line.vertices), "spacing": line.spacing}), line
    if best is None or best[0] > within:
        return None
    return best[1] | (_vertices_of(recipe, chosen) if chosen is not None else {})


def _vertices_of(recipe: SurfaceRecipe, line: GroundLine) -> dict[str, int]:
    """Vertices of a breakline: its own, fixed ones put in between, and those generated whenever it is triangulated."""
    core = core_recipe(recipe)
    edits = [e for e in recipe.edits if e.get("line") == line.number and e.get("survey") == line.survey]
    if line.survey:
        came = len(core.sources[line.survey - 1].survey.lines[line.number])
    else:
        came = len([e for e in recipe.edits if e["do"] == "add_line"][line.number]["vertices"])
    own = came - sum(e["do"] == "delete_vertex" for e in edits)
    _, mine = line_at(line, core)
    return {"own": min(own, len(line.vertices)), "fixed": max(len(line.vertices) - own, 0), "generated": int((~mine).sum())}


def outline_rings(surface: Surface, mask: Any) -> list[list[list[float]]]:
    """Rings of [E, N] around some triangles, for drawing."""
    if not mask.any():
        return []
    area = shapely.union_all(shapely.polygons(surface.points[surface.triangles[mask]][:, :, :2]), grid_size=0.001)
    parts = [p for p in shapely.get_parts(area) if p.geom_type == "Polygon"]
    return [np.round(shapely.get_coordinates(r), 2).tolist() for p in parts for r in (p.exterior, *p.interiors)]
