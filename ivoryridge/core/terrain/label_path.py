"""Labels along a path: one at each crossing with a contour, turned along the contour."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from .surface import Floats, Surface, read_surface

__all__ = ["ContourLabel", "label_places", "spot_levels"]


@dataclass(frozen=True, slots=True)
class ContourLabel:
    """A label on a contour: place, level (m), and azimuth (rad) of the contour there, within half a turn of north."""

    easting: float
    northing: float
    level: float
    azimuth: float


def label_places(
    path: Any, contours: tuple[Floats, NDArray[np.int64], Floats], *, major: float | None = None
) -> list[ContourLabel]:
    """Where a path (k, 2) crosses contours, in order along it.

    ``contours`` are vertices (n, 2), starts of the lines and level of each, as ``compute_contours`` gives them;
    ``major`` (m): only levels that are multiples of it.
    """
    xy, starts, levels = contours
    p = np.asarray(path, float).reshape(-1, 2)
    if len(p) < 2 or len(levels) == 0:
        return []
    wanted = np.flatnonzero(np.abs(levels / major - np.round(levels / major)) < 1e-6) if major else np.arange(len(levels))
    segments, of = _segments(xy, starts, wanted)
    if not len(segments):
        return []
    tree = shapely.STRtree(shapely.linestrings(segments))
    origin = p[0]
    out: list[ContourLabel] = []
    for a, b in itertools.pairwise(p):
        hits = tree.query(shapely.LineString([a, b]), predicate="intersects")
        found: list[tuple[float, ContourLabel]] = []
        for k in hits:
            c, d = segments[k] - origin
            at = _crossing(a - origin, b - origin, c, d)
            if at is not None:
                way = d - c
                azimuth = float(np.arctan2(way[0], way[1]))
                azimuth = (azimuth + np.pi / 2) % np.pi - np.pi / 2
                e, n = a + at * (b - a)
                found.append((at, ContourLabel(float(e), float(n), float(levels[of[k]]), azimuth)))
        last = None
        for _, label in sorted(found, key=lambda item: item[0]):
            if last is None or (label.easting, label.northing, label.level) != (last.easting, last.northing, last.level):
                out.append(label)
            last = label
    return out


def _segments(xy: Floats, starts: NDArray[np.int64], wanted: NDArray[np.int64]) -> tuple[Floats, NDArray[np.int64]]:
    pieces = [np.stack([xy[starts[i] : starts[i + 1] - 1], xy[starts[i] + 1 : starts[i + 1]]], axis=1) for i in wanted]
    of = np.repeat(wanted, [len(q) for q in pieces]) if pieces else np.empty(0, np.int64)
    return (np.concatenate(pieces) if pieces else np.empty((0, 2, 2))), of


def _crossing(a: Floats, b: Floats, c: Floats, d: Floats) -> float | None:
    """Share of the way from a to b where it crosses c to d; half open on both, so that a shared end counts once."""
    p, q = b - a, d - c
    det = p[0] * q[1] - p[1] * q[0]
    if det == 0.0:
        return None
    s = ((c - a)[0] * q[1] - (c - a)[1] * q[0]) / det
    t = ((c - a)[0] * p[1] - (c - a)[1] * p[0]) / det
    return float(s) if 0.0 <= s < 1.0 and 0.0 <= t < 1.0 else None


def spot_levels(surface: Surface, spacing: float, extent: Sequence[float] | None = None) -> Floats:
    """(k, 3) easting, northing, level on whole multiples of ``spacing`` m where there is ground."""
    e0, n0, e1, n1 = extent or surface.extent
    e = np.arange(np.ceil(e0 / spacing), np.floor(e1 / spacing) + 1) * spacing
    n = np.arange(np.ceil(n0 / spacing), np.floor(n1 / spacing) + 1) * spacing
    places = np.stack(np.meshgrid(e, n), axis=-1).reshape(-1, 2)
    z = read_surface(surface, places).elevation
    return np.column_stack([places, z])[np.isfinite(z)]
