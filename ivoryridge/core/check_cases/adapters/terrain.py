"""Triangles and what is read from them."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...terrain.contour import compute_contours
from ...terrain.surface import read_surface, surface_area
from ...terrain.triangulate import surface_from_faces, triangulate
from ...terrain.volume import prism_volumes, volume_to_level
from .registry import Inputs, adapter, plain


def _triangle(points: Any) -> Any:
    return surface_from_faces(points, [[0, 1, 2]])


@adapter("delaunay")
def _delaunay(c: Inputs) -> Any:
    surface, _ = triangulate([[*p, 0.0] for p in c["points"]])
    return {"triangles": sorted(sorted(int(i) for i in t) for t in surface.triangles)}


@adapter("triangle_interp")
def _triangle_interp(c: Inputs) -> Any:
    return plain(read_surface(_triangle(c["triangle"]), c["query"]).elevation)


@adapter("tin_plane")
def _tin_plane(c: Inputs) -> Any:
    surface, _ = triangulate(c["points"])
    r = read_surface(surface, c["query"])
    return {
        "z": plain(r.elevation),
        "slope_pct": float(100 * r.slope[0]),
        "slope_deg": float(np.degrees(np.arctan(r.slope[0]))),
        "aspect_downslope_azimuth_deg": float(np.degrees(r.aspect[0])),
    }


@adapter("triangle_contour")
def _triangle_contour(c: Inputs) -> Any:
    xy, starts, level = compute_contours(_triangle(c["triangle"]), np.array(c["levels"], float))
    return {f"{c['levels'][k]:g}": sorted(plain(xy[a:b])) for a, b, k in zip(starts[:-1], starts[1:], level, strict=True)}


@adapter("triangle_cut_fill")
def _triangle_cut_fill(c: Inputs) -> Any:
    positive, negative = (float(v[0]) for v in prism_volumes(c["area"], [c["dz"]]))
    return {"positive": positive, "negative": negative, "net": positive - negative}


@adapter("cone_tin")
def _cone_tin(c: Inputs) -> Any:
    def volume(n: int) -> float:
        angle = np.arange(n) * 2 * np.pi / n
        rim = np.column_stack([c["R"] * np.cos(angle), c["R"] * np.sin(angle), np.zeros(n)])
        faces = np.column_stack([np.full(n, n), np.arange(n), (np.arange(n) + 1) % n])
        return volume_to_level(surface_from_faces(np.vstack([rim, [0.0, 0.0, c["h"]]]), faces), 0.0)[0]

    return {"polygonal_volume": volume(c["n"]), "true_cone": volume(20_000)}  # the cone as the limit of ever finer rims


@adapter("saddle_diagonal")
def _saddle_diagonal(c: Inputs) -> Any:
    a, b, d, e = (np.array(p, float) for p in c["corners"])
    first, _ = triangulate([a, b, d, e], [np.array([a, d])])
    second, _ = triangulate([a, b, d, e], [np.array([b, e])])
    return {
        "diagonal_00_1010": float(read_surface(first, [c["query"]]).elevation[0]),
        "diagonal_100_010": float(read_surface(second, [c["query"]]).elevation[0]),
    }


@adapter("surface_area")
def _surface_area(c: Inputs) -> Any:
    side = np.sqrt(c["plan_area"])
    corners = np.array([[0.0, 0.0], [side, 0.0], [side, side], [0.0, side]])
    surface, _ = triangulate(np.column_stack([corners, corners @ [c["b"], c["c"]]]))
    return {"surface_area": surface_area(surface)[1]}
