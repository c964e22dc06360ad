"""Surfaces and contours given out: DXF, GeoJSON, GLB."""

from __future__ import annotations

import io
import itertools
import json
import struct
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..terrain.surface import Floats, Surface
from ..wording import METRES, Units
from .line_dxf import INSUNITS

__all__ = ["write_contours_geojson", "write_surface_dxf", "write_surface_glb"]

Contours = tuple[Floats, NDArray[np.int64], Floats]


def write_surface_dxf(surface: Surface, contours: Contours | None = None, *, major: float = 5.0, units: Units = METRES) -> bytes:
    """A DXF drawing in metres or another unit: faces on layer GROUND FACES, breaklines, and contours as polylines at their level."""
    import ezdxf
    from ezdxf.transform import scale_uniform

    drawing = ezdxf.new("R2013", setup=False, units=INSUNITS[units.name])
    space = drawing.modelspace()
    for name, colour in (("GROUND FACES", 8), ("BREAKLINES", 30), ("CONTOURS MINOR", 9), ("CONTOURS MAJOR", 7)):
        drawing.layers.add(name, color=colour)
    for corners in surface.points[surface.triangles].tolist():
        space.add_3dface([*corners, corners[2]], dxfattribs={"layer": "GROUND FACES"})
    for a, b in surface.points[surface.breakline_edges].tolist():
        space.add_line(a, b, dxfattribs={"layer": "BREAKLINES"})
    if contours is not None:
        xy, starts, levels = contours
        for (a, b), level in zip(itertools.pairwise(starts), levels, strict=True):
            layer = "CONTOURS MAJOR" if abs(level / major - round(level / major)) < 1e-6 else "CONTOURS MINOR"
            space.add_lwpolyline(xy[a:b].tolist(), dxfattribs={"layer": layer, "elevation": float(level)})
    if units.metre != 1.0:
        scale_uniform(space, 1.0 / units.metre)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8")


def write_contours_geojson(contours: Contours, *, reference: str = "", decimals: int = 3) -> bytes:
    """A FeatureCollection of LineStrings with their level (m).

    Coordinates are the project's, easting first. RFC 7946 wants longitude and latitude; where a project has a grid of
    its own that cannot be had, so the member ``coordinates_in`` names the grid.
    """
    xy, starts, levels = contours
    features = [
        {
            "type": "Feature",
            "properties": {"level": round(float(level), decimals)},
            "geometry": {"type": "LineString", "coordinates": np.round(xy[a:b], decimals).tolist()},
        }
        for (a, b), level in zip(itertools.pairwise(starts), levels, strict=True)
    ]
    return json.dumps({"type": "FeatureCollection", "coordinates_in": reference, "features": features}).encode()


def write_surface_glb(surface: Surface, *, name: str, origin: Sequence[float] | None = None) -> bytes:
    """A binary glTF 2.0 file: one mesh with normals, metres, up is +y, north is -z, about a whole-metre origin.

    The origin (easting, northing, 0) stands in the node's ``extras``, since glTF holds 32-bit numbers only.
    Source: Khronos glTF 2.0 specification, chapters 3.4 and 4.4 (from memory).
    """
    e0, n0, e1, n1 = surface.extent
    at = np.array([*(origin or (np.floor((e0 + e1) / 2), np.floor((n0 + n1) / 2))), 0.0])
    p = surface.points - at
    places = np.column_stack([p[:, 0], p[:, 2], -p[:, 1]]).astype("<f4")
    a, b, c = (p[surface.triangles[:, i]] for i in range(3))
    face = np.cross(b - a, c - a)
    normals = np.zeros_like(p)
    for i in range(3):
        np.add.at(normals, surface.triangles[:, i], face)
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
    normals = np.column_stack([normals[:, 0], normals[:, 2], -normals[:, 1]]).astype("<f4")
    index = surface.triangles.astype("<u4")
    parts = [places.tobytes(), normals.tobytes(), index.tobytes()]
    starts = np.cumsum([0, *(len(q) for q in parts)])
    told: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Ivory Ridge"}, "scene": 0, "scenes": [{"nodes": [0]}],
        "nodes": [{"name": name, "mesh": 0, "extras": {"origin": at.tolist()}}],
        "meshes": [{"name": name, "primitives": [{"attributes": {"POSITION": 0, "NORMAL": 1}, "indices": 2}]}],
        "buffers": [{"byteLength": int(starts[-1])}],
        "bufferViews": [
            {"buffer": 0, "byteOffset": int(starts[i]), "byteLength": len(q), "target": 34963 if i == 2 else 34962}
            for i, q in enumerate(parts)
        ],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": len(places), "type": "VEC3", "min": places.min(axis=0).tolist(),
            "max": places.max(axis=0).tolist()},
            {"bufferView": 1, "componentType": 5126, "count": len(normals), "type": "VEC3"},
            {"bufferView": 2, "componentType": 5125, "count": int(index.size), "type": "SCALAR"},
        ],
    }  # fmt: skip
    words = json.dumps(told).encode()
    words += b" " * (-len(words) % 4)
    body = b"".join(parts)
    head = struct.pack("<4sII", b"glTF", 2, 12 + 8 + len(words) + 8 + len(body))
    return head + struct.pack("<I4s", len(words), b"JSON") + words + struct.pack("<I4s", len(body), b"BIN\0") + body
