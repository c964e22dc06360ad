"""Water along a road: beds of ditches and channels, their low points and outfalls, and beds kept at a least grade."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from .corridor import Corridor
from .edges import edge_lines

Floats = NDArray[np.float64]

__all__ = ["BEDS", "Bed", "bed_runs", "beds_of", "kept_falling"]

BEDS = ("ditch invert", "channel invert", "channel line")  # roles of nodes along which water runs
SHALLOW = 0.02  # m; a hollow that is no deeper is a rounding of the sections (common practice, no source)
_SAME = 1e-6  # m between pieces of a bed that go on in the next block


@dataclass(frozen=True, slots=True, eq=False)
class Bed:
    """A bed as far as it runs through: stations and levels (n,) m.

    lows : (k, 2) station and level of hollows from which water does not run off
    outfalls : (k, 2) station and level of ends to which it falls, where it must be led off
    flattest : the least grade (ratio, >= 0) between two sections, and flattest_at its station
    """

    side: str
    role: str
    station: Floats
    level: Floats
    lows: Floats
    outfalls: Floats
    flattest: float
    flattest_at: float


def beds_of(corridor: Corridor) -> list[Bed]:
    """All beds of a road, by side and from its start on; pieces that go on in the next block are one."""
    pieces: dict[tuple[str, str], list[tuple[Floats, Floats]]] = {}
    for e in edge_lines(corridor):
        if e.role in BEDS:
            _append(pieces.setdefault((e.side, e.role), []), e.station, e.level)
    return [_bed(side, role, s, z) for (side, role), rows in sorted(pieces.items()) for s, z in rows if len(s) > 1]


def bed_runs(corridor: Corridor, side: str, part: str, start: float, end: float) -> list[tuple[Floats, Floats]]:
    """Stations and levels (n,) m of a part's bed between two stations, as far as it runs through, over blocks too; increasing."""
    rows: list[tuple[Floats, Floats]] = []
    for block in corridor.blocks:
        columns = block.left if side == "left" else block.right
        node = next((i for i, n in enumerate(columns.names) if n.partition(".")[0] == part and columns.roles[i] in BEDS), None)
        if node is None:
            continue
        for a, b in runs_of(columns.present[node] & (block.station >= start - _SAME) & (block.station <= end + _SAME)):
            _append(rows, block.station[a : b + 1], columns.level[node, a : b + 1])
    return rows


def _append(rows: list[tuple[Floats, Floats]], s: Floats, z: Floats) -> None:
    """A piece of a bed, to the one before it where that ends where this begins."""
    if rows and abs(rows[-1][0][-1] - s[0]) < _SAME:
        if abs(rows[-1][1][-1] - z[0]) < SHALLOW:
            rows[-1] = np.concatenate([rows[-1][0], s[1:]]), np.concatenate([rows[-1][1], z[1:]])
            return
        s, z = s[1:], z[1:]  # a step: the bed ahead begins behind it
    if len(s):
        rows.append((s, z))


def _bed(side: str, role: str, s: Floats, z: Floats) -> Bed:
    lows = np.array([[s[i], z[i]] for i in _hollows(z, SHALLOW)]).reshape(-1, 2)
    ends = [(0, 1), (len(s) - 1, len(s) - 2)]
    outfalls = np.array([[s[i], z[i]] for i, beside in ends if z[i] < z[beside]]).reshape(-1, 2)
    grade = np.abs(np.diff(z) / np.diff(s))
    k = int(np.argmin(grade))
    return Bed(side, role, s, z, lows, outfalls, float(grade[k]), float(0.5 * (s[k] + s[k + 1])))


def _hollows(z: Floats, deep: float) -> list[int]:
    """Lowest places between two rims that both stand at least ``deep`` m over them."""
    from scipy.signal import find_peaks

    return [int(i) for i in find_peaks(-z, prominence=deep, plateau_size=1)[0]]


def kept_falling(station: Any, level: Any, least: float, *, through: float = 0.15) -> Floats:
    """(n,) m: a bed lowered, nowhere raised, so that it falls by ``least`` (ratio) or more to where it runs out: to its ends, and to
    hollows more than ``through`` m deep, which stay. From each crest between them it is lowered on either way down, as little as can be.
    """
    s, z = np.asarray(station, float), np.asarray(level, float)
    if len(s) < 2:
        return z.copy()
    deep = _hollows(z, through)
    out = z.copy()
    for low, high in pairwise([0, *deep, len(s) - 1]):
        top = low + int(np.argmax(z[low : high + 1]))
        for way in (range(top + 1, high + 1), range(top - 1, low - 1, -1)):
            before = top
            for i in way:
                out[i] = min(out[i], out[before] - least * abs(s[i] - s[before]))
                before = i
    return out
