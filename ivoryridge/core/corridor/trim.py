"""On the inside of bends and corners: how far sections reach before they cross their neighbours, and surfaces that end there.

In a bend neighbouring sections meet in its centre, at a corner of the line on the bisector. What lies beyond counts in no volume (see
``earthwork``), and is drawn in no surface. docs/formulas.md#bends.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from .places import SectionPlaces, corners

Floats = NDArray[np.float64]

__all__ = ["folded_area", "inner_limit", "trimmed"]


def inner_limit(places: SectionPlaces, sign: float) -> Floats:
    """(n,) m outward on one side (``sign``: -1 left, +1 right) to where a section meets its neighbours; infinite on the outside."""
    k = sign * places.curvature
    limit = np.divide(1.0, k, out=np.full(len(k), np.inf), where=k > 0)
    for corner, angle in corners(places):
        if sign * angle > 0:
            limit = np.minimum(limit, np.abs(places.station - places.station[corner]) / np.tan(0.5 * abs(angle)))
    return limit


def folded_area(places: SectionPlaces, sign: float, outer: Floats) -> Floats:
    """(n,) m: plan area per metre of the line that lies beyond the limit and would be covered again, of sections that reach ``outer``
    (n,) m. In a bend of radius R (u - R)^2 / (2 R), beside a corner u less the limit."""
    k = sign * places.curvature
    with np.errstate(invalid="ignore"):
        beyond = np.fmax(outer - inner_limit(places, sign), 0.0)
        return np.where(
            k > 0, 0.5 * k * np.fmax(outer - np.divide(1.0, k, out=np.full(len(k), np.inf), where=k > 0), 0.0) ** 2, beyond
        )


def trimmed(limit: Floats, across: Floats, level: Floats, present: Any) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """The nodes of an outline (k, n), outward, that ends at the limit (n,) m: the first node beyond it is moved there along the edge
    that leads to it, the others are not present."""
    with np.errstate(invalid="ignore"):
        beyond = present & (across > limit)
    at = np.flatnonzero(beyond.any(axis=0))
    if not len(at):
        return across, level, present
    across, level, present = across.copy(), level.copy(), present.copy()
    for i in at:
        there = np.flatnonzero(present[:, i])
        first = int(there[np.argmax(across[there, i] > limit[i])])
        before = there[there < first]
        if len(before):
            a = int(before[-1])
            wide = across[first, i] - across[a, i]
            share = (limit[i] - across[a, i]) / wide if wide > 0 else 0.0
            across[first, i], level[first, i] = limit[i], level[a, i] + share * (level[first, i] - level[a, i])
        present[first + 1 :, i] = False
        present[first, i] = bool(len(before))
    return across, level, present
