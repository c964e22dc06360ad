"""The finished ground as the page is told it: figures, what is drawn in the model, and lines for the plan."""

from __future__ import annotations

from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.junction.finished import FinishedGround
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.triangulate import select_triangles

from ..forms.finished import Finished
from ..inputs.network import Network
from ..inputs.surface import SurfaceRecipe
from ..results.finished import finished_of, finished_volumes
from ..results.surface import surface_of

__all__ = ["MATERIALS", "borders_of", "contours_of_built", "finished_picture", "shown_triangles", "surfaces_along"]

MATERIALS = ("ground", "pavement", "verge", "slope")
MOST_DRAWN = 200_000  # triangles; of a larger one only what is built, and the ground beside it, is sent
_NEAR = 60.0  # m beside what is built


def finished_picture(network: Network, recipe: SurfaceRecipe) -> Finished:
    result, left_out = finished_of(network, recipe)
    found = result.get()
    volumes = finished_volumes(network, recipe).get()
    rows = [
        {"name": name, "material": material, "area": area, "cut": v.cut, "fill": v.fill}
        for name, material, v, area in volumes.by_piece
    ]
    return cast(Finished, {
        "key": result.key, "triangles": len(found.surface.triangles), "cut": volumes.whole.cut, "fill": volumes.whole.fill, "pieces": rows,
        "left_out": left_out, "findings": [f.as_dict() for f in found.findings],
    })  # fmt: skip


def surfaces_along(network: Network, recipe: SurfaceRecipe) -> tuple[FinishedGround, Surface]:
    """The finished and the existing ground, for sections through both."""
    return finished_of(network, recipe)[0].get(), surface_of(recipe)[0]


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
    keep = found.piece >= 0
    if not keep.any():
        return np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0)
    triangles, neighbours = select_triangles(found.surface.triangles, found.surface.neighbours, keep)
    built = Surface(found.surface.points, triangles, neighbours)
    levels = levels_between(*built.elevation_range, interval)
    xy, starts, which = compute_contours(built, levels)
    return xy, starts, np.asarray(levels)[which]
