"""The finished ground as the page is told it: figures, what is drawn in the model, and lines for the plan."""

from __future__ import annotations

from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.junction.finished import FinishedGround
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.terrain.section_cut import cut_polyline
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.triangulate import select_triangles

from ..forms.finished import ExactPiece, ExactVolumes, Finished, FinishedCut
from ..inputs.network import Network
from ..inputs.surface import SurfaceRecipe
from ..results.finished import finished_of, finished_volumes, layers_along
from ..results.surface import surface_of

__all__ = [
    "MATERIALS",
    "borders_of",
    "contours_of_built",
    "exact_picture",
    "finished_picture",
    "section_picture",
    "shown_triangles",
]

MATERIALS = ("ground", "pavement", "verge", "slope")
MOST_DRAWN = 200_000  # triangles; of a larger one only what is built, and the ground beside it, is sent
_NEAR = 60.0  # m beside what is built


def finished_picture(network: Network, recipe: SurfaceRecipe) -> Finished:
    result, left_out = finished_of(network, recipe)
    found = result.get()
    return {
        "key": result.key, "triangles": len(found.surface.triangles), "left_out": left_out,
        "findings": cast(Any, [f.as_dict() for f in found.findings]),
    }  # fmt: skip


def exact_picture(network: Network, recipe: SurfaceRecipe) -> ExactVolumes:
    """Volumes from the existing ground to the finished one and to its formation, by piece."""
    to_finished, to_formation = (finished_volumes(network, recipe, role).get() for role in ("finished", "formation"))
    by: dict[str, ExactPiece] = {}
    for name, _, v, area in to_formation.by_piece:
        row = by.setdefault(name, {"name": name, "area": 0.0, "cut": 0.0, "fill": 0.0})
        row["area"] += area
        row["cut"] += v.cut
        row["fill"] += v.fill
    return {
        "formation": {"cut": to_formation.whole.cut, "fill": to_formation.whole.fill},
        "finished": {"cut": to_finished.whole.cut, "fill": to_finished.whole.fill}, "pieces": list(by.values()),
    }  # fmt: skip


def section_picture(network: Network, recipe: SurfaceRecipe, path: Any) -> FinishedCut:
    """Along a plan polyline (k, 2) m: existing and finished ground, formation of what is built, layers between."""
    found, ground = finished_of(network, recipe)[0].get(), surface_of(recipe)[0]
    under = finished_of(network, recipe, "formation")[0].get()
    rows = {"points": ground, "finished": found.surface, "formation": _built_part(under)}
    cuts = {name: np.round(cut_polyline(s, path), 3).tolist() if s is not None else [] for name, s in rows.items()}
    layers = [{"material": m, "points": np.round(ring, 3).tolist()} for m, ring in layers_along(network, recipe, path)]
    return cast(FinishedCut, {**cuts, "layers": layers})


def _built_part(found: FinishedGround) -> Surface | None:
    keep = found.piece >= 0
    if not keep.any():
        return None
    triangles, neighbours = select_triangles(found.surface.triangles, found.surface.neighbours, keep)
    return Surface(found.surface.points, triangles, neighbours)


def materials_of(found: FinishedGround) -> NDArray[np.uint32]:
    """(t,) number of each triangle's material among ``MATERIALS``."""
    of = np.array([MATERIALS.index(m) for _, m in found.pieces] + [0], np.uint32)
    return np.asarray(of[found.piece])


def shown_triangles(found: FinishedGround) -> tuple[NDArray[np.int32], NDArray[np.uint32]]:
    """Triangles that are drawn, with their materials."""
    triangles, material = found.surface.triangles, materials_of(found)
    if len(triangles) <= MOST_DRAWN:
        return triangles, material
    centre = found.surface.points[triangles].mean(axis=1)
    built = centre[material > 0]
    low, high = built.min(axis=0) - _NEAR, built.max(axis=0) + _NEAR
    near = ((centre > low) & (centre < high))[:, :2].all(axis=1)
    return triangles[near], material[near]


def borders_of(found: FinishedGround) -> NDArray[np.float64]:
    """(k, 2, 2) sides between triangles of unlike material: edges of pavement, verge and slope, and toes."""
    surface, material = found.surface, materials_of(found)
    rows = []
    for i in range(3):
        beside = surface.neighbours[:, i]
        other = np.where(beside >= 0, material[np.maximum(beside, 0)], 0)
        own = np.flatnonzero((material > other) & (beside >= 0))
        rows.append(np.stack([surface.triangles[own, i], surface.triangles[own, (i + 1) % 3]], axis=-1))
    sides = np.concatenate(rows)
    return np.asarray(surface.points[sides][:, :, :2])


def contours_of_built(found: FinishedGround, interval: float) -> tuple[Any, Any, Any]:
    """Contours of what is built, as ``compute_contours`` gives them, with their levels, m."""
    built = _built_part(found)
    if built is None:
        return np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0)
    levels = levels_between(*built.elevation_range, interval)
    xy, starts, which = compute_contours(built, levels)
    return xy, starts, np.asarray(levels)[which]
