"""Names of corners by the compass."""

from __future__ import annotations

from typing import Any

import numpy as np

__all__ = ["compass_point"]

_POINTS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")


def compass_point(centre: Any, place: Any) -> str:
    """The eighth of the compass in which a place (E, N) lies as seen from a centre."""
    d = np.asarray(place, float) - np.asarray(centre, float)
    return _POINTS[int(np.round(np.arctan2(d[0], d[1]) / (np.pi / 4))) % 8]
