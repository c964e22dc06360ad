"""Another road where the line of a section crosses it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .block import Block
from .corridor import Corridor
from .edges import to_space

Floats = NDArray[np.float64]

__all__ = ["Passage", "passages_of"]

_STEP = 60.0  # m between neighbouring lines of one passage along a section; farther off it is another passage


@dataclass(frozen=True, slots=True, eq=False)
class Passage:
    """The finished surface of another road along a section: offset (k,) m, increasing, and level (k,) m."""

    offset: Floats
    level: Floats


def passages_of(corridor: Corridor, place: Floats, azimuth: float, reach: float) -> list[Passage]:
    """Where a section at ``place`` (2,) m, square to ``azimuth`` (rad) and ``reach`` m to either side, crosses a road: every line of its
    finished surface is straight from section to section, and is met there. One passage each time the section passes over the road."""
    along, right = np.array([np.sin(azimuth), np.cos(azimuth)]), np.array([np.cos(azimuth), -np.sin(azimuth)])
    out: list[Passage] = []
    for block in corridor.blocks:
        lines = _lines(block)
        if not len(lines) or len(block.station) < 2:
            continue
        away = lines[..., :2] - place
        ahead, across = away @ along, away @ right
        with np.errstate(invalid="ignore"):
            met = (ahead[:, :-1] <= 0) != (ahead[:, 1:] <= 0)
            met &= np.isfinite(ahead[:, :-1]) & np.isfinite(ahead[:, 1:])
        found: list[list[tuple[float, float]]] = []
        for m in range(len(lines)):
            here = np.flatnonzero(met[m])
            t = ahead[m, here] / (ahead[m, here] - ahead[m, here + 1])
            u = across[m, here] + t * (across[m, here + 1] - across[m, here])
            z = lines[m, here, 2] + t * (lines[m, here + 1, 2] - lines[m, here, 2])
            found.append([(float(a), float(b)) for a, b in zip(u, z, strict=True) if abs(a) <= reach])
        out += _passages(found)
    return out


def _lines(block: Block) -> Floats:
    """(m, n, 3) m: the lines of the finished surface from the left toe to the right one, NaN where one is not present."""
    left, right = block.left.placed("finished"), block.right.placed("finished")
    offset = np.concatenate([-left[0][::-1], right[0][1:] if len(left[0]) else right[0]])
    level = np.concatenate([left[1][::-1], right[1][1:] if len(left[1]) else right[1]])
    return to_space(block.places, offset, level)


def _passages(found: list[list[tuple[float, float]]]) -> list[Passage]:
    """Rows of meetings, line after line: each line's meeting nearest to that of the line before."""
    left = [list(row) for row in found]
    out = []
    for m in range(len(left)):
        while left[m]:
            row = [left[m].pop(0)]
            for k in range(m + 1, len(left)):
                near = min(left[k], key=lambda p: abs(p[0] - row[-1][0]), default=None)
                if near is None:
                    continue
                if abs(near[0] - row[-1][0]) <= _STEP:
                    left[k].remove(near)
                    row.append(near)
            row.sort()
            if len(row) > 1:
                out.append(Passage(*np.array(row).T.copy()))
    return out
