"""Points, directions, circles and polygons in the plane. Arrays of shape (n, 2) are easting, northing in m."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = ["azimuth_between", "circle_segment_areas", "fillet", "line_circle", "path_lengths", "polygon_area", "wrap_angle"]


def wrap_angle(angle: Any) -> Any:
    """Angle in radians brought into (-pi, pi]."""
    return -((-np.asarray(angle) + np.pi) % (2 * np.pi) - np.pi)


def azimuth_between(start: Any, end: Any) -> Any:
    """Azimuth in radians, clockwise from north in [0, 2 pi), from ``start`` to ``end`` ((..., 2) E, N)."""
    d = np.asarray(end, float)[..., :2] - np.asarray(start, float)[..., :2]
    return np.arctan2(d[..., 0], d[..., 1]) % (2 * np.pi)


def polygon_area(polygon: Any) -> float:
    """Signed area of a closed polygon ((n, 2), m), counter-clockwise positive.

    The cross products are taken from the first vertex, so that large grid coordinates lose nothing.
    Source: area by coordinates, derived in docs/formulas.md#area-by-coordinates.
    """
    p = np.asarray(polygon, float)
    if len(p) < 3:
        return 0.0
    q = p - p[0]
    x, y = q[:, 0], q[:, 1]
    return float(0.5 * np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))


def path_lengths(points: Any) -> Floats:
    """Cumulative plan length (n,) along the vertices (n, 2) of a path; starts with 0."""
    p = np.asarray(points, float)[:, :2]
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])


def line_circle(centre: Any, radius: float, p1: Any, p2: Any) -> Floats:
    """Crossings (k, 2), k = 0, 1 or 2, of the infinite line p1-p2 with a circle, in the order of the line."""
    c, a, b = (np.asarray(v, float) for v in (centre, p1, p2))
    d = (b - a) / np.hypot(*(b - a))
    along = float(d @ (c - a))
    foot = a + along * d
    h2 = radius**2 - float(np.sum((c - foot) ** 2))
    if h2 < 0:
        return np.empty((0, 2))
    h = np.sqrt(h2)
    return np.array([foot - h * d, foot + h * d]) if h > 0 else np.array([foot])


def fillet(corner: Any, azimuth1: float, azimuth2: float, radius: float) -> dict[str, Any]:
    """Arc of a radius tangent to two legs that leave a corner in the given azimuths (radians).

    Returns tangent length, both tangent points, centre, arc length and external distance, in m.
    Source: T = R / tan(leg angle / 2), derived in docs/formulas.md#circular-curve.
    """
    c = np.asarray(corner, float)
    u1 = np.array([np.sin(azimuth1), np.cos(azimuth1)])
    u2 = np.array([np.sin(azimuth2), np.cos(azimuth2)])
    leg = float(abs(wrap_angle(azimuth2 - azimuth1)))
    t = radius / np.tan(leg / 2)
    external = radius / np.sin(leg / 2) - radius
    bisector = (u1 + u2) / np.hypot(*(u1 + u2))
    return {
        "leg_angle": leg,
        "deflection": np.pi - leg,
        "tangent_length": t,
        "tangent1": c + t * u1,
        "tangent2": c + t * u2,
        "centre": c + (radius + external) * bisector,
        "arc_length": radius * (np.pi - leg),
        "external": external,
    }


def circle_segment_areas(radius: float, angle: Any) -> Any:
    """Area between an arc and its chord, m2, for a central angle in radians."""
    return 0.5 * radius**2 * (np.asarray(angle) - np.sin(angle))
