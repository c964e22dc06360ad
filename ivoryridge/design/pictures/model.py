"""A road in space for the eye: its surfaces with their materials, edge lines, and the centre line that a drive follows."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.edges import edge_lines
from ivoryridge.core.corridor.solids import strip_surface
from ivoryridge.core.corridor.zones import zone_meshes
from ivoryridge.core.section.roles import CENTRE, PAVEMENT_EDGE, TOE, ZONES

from ..kept.kinds import Result, tag

__all__ = ["model_arrays", "model_key"]


def model_key(made: Result[Corridor]) -> str:
    return tag("model", 4, made)


def model_arrays(corridor: Corridor) -> tuple[tuple[float, float], dict[str, NDArray[Any]], dict[str, Any]]:
    """Origin; arrays from it; and words: roles of the edge lines with their first sections, and which roles are which.

    finished, finished_faces, finished_material : points (p, 3), triangles (t, 3), and of each 1 carriageway, 2 beside it, 3 slope
    formation, formation_faces : likewise
    edges, edge_starts : vertices of all edge lines, and where each begins
    centre : (n, 5) station, E, N, level, azimuth
    """
    place = corridor.places.place
    origin = (float(np.floor(place[:, 0].mean())), float(np.floor(place[:, 1].mean())))
    shift = np.array([*origin, 0.0])
    finished, faces, material = _by_zone(corridor)
    formation, formation_faces = strip_surface(corridor, "formation")
    lines = edge_lines(corridor)
    vertices = np.concatenate([e.points for e in lines]) if lines else np.empty((0, 3))
    arrays = {
        "finished": finished - shift, "finished_faces": faces, "finished_material": material, "formation": formation - shift,
        "formation_faces": formation_faces, "edges": vertices - shift, "edge_starts": np.cumsum([0, *(len(e.points) for e in lines)]),
        "centre": np.column_stack([corridor.station, place - np.array(origin), corridor.level, corridor.places.azimuth]),
    }  # fmt: skip
    words = {
        "roles": [[e.side, e.role, e.first] for e in lines],
        "named": {"centre": CENTRE, "paved": PAVEMENT_EDGE, "toe": TOE},
    }
    return origin, arrays, words


def _by_zone(corridor: Corridor) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.int64]]:
    points, faces, material, base = [np.empty((0, 3))], [np.empty((0, 3), np.int64)], [np.empty(0, np.int64)], 0
    for zone in zone_meshes(corridor, "finished"):
        points.append(zone.points)
        faces.append(zone.faces + base)
        material.append(np.full(len(zone.faces), ZONES.index(zone.zone) + 1))
        base += len(zone.points)
    return np.concatenate(points), np.concatenate(faces), np.concatenate(material)
