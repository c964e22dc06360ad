"""Edges of a road: lines of a role along it, each the exact line of the road and an offset that varies along it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..arrays import runs_of
from .corridor import Corridor
from .places import SectionPlaces
from .trim import inner_limit

Floats = NDArray[np.float64]

SAME_PLACE = 1e-6  # m

__all__ = ["EdgePiece", "edge_lines", "edges_of", "to_space"]


def to_space(places: SectionPlaces, offset: Any, level: Any) -> Floats:
    """(..., n, 3) easting, northing, elevation of offsets (+ right) and levels (..., n) at n sections."""
    offset, level = np.asarray(offset, float), np.asarray(level, float)
    e = places.place[:, 0] + offset * np.cos(places.azimuth)
    n = places.place[:, 1] - offset * np.sin(places.azimuth)
    return np.stack(np.broadcast_arrays(e, n, level), axis=-1)


@dataclass(frozen=True, slots=True, eq=False)
class EdgePiece:
    """A line of a role as far as it runs through.

    side : "left", "right" or "" for the centre
    line : the road's line, from which the piece is offset
    station, offset, level : (k,) m    at the sections, offset + right; both run straight from section to section
    points : (k, 3) m                  there in space
    first : number of the section it begins at
    """

    side: str
    role: str
    line: HorizontalAlignment
    station: Floats
    offset: Floats
    level: Floats
    points: Floats
    first: int

    def offset_at(self, station: Any) -> Floats:
        """Offset (m,) m, + right; NaN where the piece is not."""
        return np.interp(station, self.station, self.offset, left=np.nan, right=np.nan)

    def at(self, station: Any) -> Floats:
        """(m, 3) easting, northing, elevation on the exact edge, between sections too; NaN where the piece is not."""
        s = np.atleast_1d(np.asarray(station, float))
        place, azimuth, _ = self.line.evaluate(np.clip(s, self.station[0], self.station[-1]))
        u = self.offset_at(s)
        z = np.interp(s, self.station, self.level, left=np.nan, right=np.nan)
        return np.column_stack([place[:, 0] + u * np.cos(azimuth), place[:, 1] - u * np.sin(azimuth), z])


def edge_lines(corridor: Corridor) -> list[EdgePiece]:
    """Every node with a role as lines in space. A line ends where its node is not present, where it comes to the line on which sections
    meet their neighbours inside of a bend, and where its block ends, so a role may have several pieces."""
    out: list[EdgePiece] = []
    for block, start in corridor.firsts():
        for side, sign, columns, _ in block.sides():
            limit = inner_limit(block.places, sign)
            offsets = sign * columns.across
            places = to_space(block.places, offsets, columns.level)
            for i, role in enumerate(columns.roles):
                if not role or columns.guide[i] or (i == 0 and side == "right"):
                    continue
                offset, level, points = offsets[i], columns.level[i], places[i]
                with np.errstate(invalid="ignore"):
                    there = columns.present[i] & ~(columns.across[i] > limit + SAME_PLACE)
                for a, b in runs_of(there):
                    if b > a:
                        own = slice(a, b + 1)
                        out.append(
                            EdgePiece(
                                "" if i == 0 else side, role, corridor.line, block.station[own], offset[own], level[own],
                                points[own], start + a,
                            )
                        )  # fmt: skip
    return out


def edges_of(corridor: Corridor, role: str, side: str = "") -> list[EdgePiece]:
    """The pieces of one role, of either side or one, along the road."""
    return [e for e in edge_lines(corridor) if e.role == role and side in ("", e.side)]
