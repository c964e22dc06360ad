"""How far a road that is laid upon another one must come up to keep its thickness."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor

Floats = NDArray[np.float64]

__all__ = ["lays_upon", "least_lifts"]


def lays_upon(corridor: Corridor) -> bool:
    """Whether anything of a road is laid upon what is there."""
    return any(c.upon for b in corridor.blocks for _, _, c, _ in b.sides())


def least_lifts(corridor: Corridor) -> Floats:
    """(n,) m by which the profile must at least come up at each section, or may go down (< 0), so that everything that is laid upon
    what is there keeps its thickness; 0 where nothing is, or where what is there is not known."""
    out = []
    for b in corridor.blocks:
        lifts = [laid.over - laid.allowed for _, _, c, _ in b.sides() for laid in c.upon]
        lift = np.fmax.reduce(lifts) if lifts else np.full(len(b.station), np.nan)
        out.append(np.where(np.isfinite(lift), lift, 0.0))
    return np.asarray(np.concatenate(out))
