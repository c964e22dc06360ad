"""Pieces that are built, over one another: which is the highest at a place, and its level there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..arrays import given_away
from ..terrain.surface import Surface, find_one, find_triangles, looked_up

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

__all__ = ["Pile"]

_BESIDE = 2e-5  # m from a piece that still has its level


@dataclass(frozen=True, slots=True, eq=False)
class Pile:
    """Pieces over one another, the highest first: ``surface`` of all their triangles, piece by piece; ``of`` (t,) the piece of each, and
    ``first`` (count + 1,) the first triangle of each piece and the end."""

    surface: Surface
    of: NDArray[np.int32]
    first: Ints

    @classmethod
    def of_surfaces(cls, surfaces: Sequence[Surface]) -> Pile:
        shift = np.cumsum([0, *(len(s.points) for s in surfaces)])
        faces = np.concatenate([s.triangles + np.int32(k) for s, k in zip(surfaces, shift, strict=False)])
        first = np.cumsum([0, *(len(s.triangles) for s in surfaces)])
        alone = np.full_like(faces, -1)
        surface = Surface(np.concatenate([s.points for s in surfaces]), given_away(faces), given_away(alone))
        return cls(surface, np.repeat(np.arange(len(surfaces), dtype=np.int32), np.diff(first)), first)

    @property
    def count(self) -> int:
        return len(self.first) - 1

    def highest(self, places: Floats, least: int = 0) -> NDArray[np.int32]:
        """The highest piece under each place (n, 2), numbered ``least`` or more; -1 where none."""
        hit, _ = find_triangles(self.surface, places, int(self.first[least]))
        return np.where(hit >= 0, self.of[hit], np.int32(-1))

    def levels(self, places: Floats, count: int) -> Floats:
        """Level of the highest of the first ``count`` pieces that covers each place, or has it on its edge; NaN where none."""
        return _levels_beside(np.ascontiguousarray(places[:, :2]), self.of, int(self.first[count]), *looked_up(self.surface))


@njit(cache=True)
def _levels_beside(places, of, limit, points, triangles, starts, members, e0, n0, size, columns, rows, slack):
    out = np.full(len(places), np.nan)
    for q in range(len(places)):
        best = len(of)  # no piece has this number
        for k in range(5):
            x = places[q, 0] + (_BESIDE if k == 1 else -_BESIDE if k == 2 else 0.0)
            y = places[q, 1] + (_BESIDE if k == 3 else -_BESIDE if k == 4 else 0.0)
            t, z = find_one(x, y, points, triangles, starts, members, e0, n0, size, columns, rows, slack, 0, limit)
            if t >= 0 and of[t] < best:
                best, out[q] = of[t], z
    return out
