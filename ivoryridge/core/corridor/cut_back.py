"""A road cut back: what junctions take over of it is neither built nor counted with it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from ..arrays import runs_of
from ..section.roles import Zone
from ..tolerances import SAME_STATION
from .block import Block
from .corridor import Corridor
from .varied import Side

__all__ = ["Cut", "cut_back", "in_a_row", "outside_of"]


@dataclass(frozen=True, slots=True)
class Cut:
    """Between two stations (m) a side of a road gives up its ``zones``."""

    side: Side
    station_from: float
    station_to: float
    zones: tuple[Zone, ...]


def cut_back(corridor: Corridor, cuts: Sequence[Cut]) -> Corridor:
    """The corridor with its blocks parted where cuts begin and end, which are to be among its stations; at each both blocks have a
    section. What the cuts give up the blocks name."""
    return Corridor(corridor.line, tuple(b for block in corridor.blocks for b in _parted(block, cuts)), corridor.told)


def _parted(block: Block, cuts: Sequence[Cut]) -> Iterable[Block]:
    s = block.station
    ends = {x for c in cuts for x in (c.station_from, c.station_to)}
    inside = sorted(x for x in ends if s[0] + SAME_STATION < x < s[-1] - SAME_STATION)
    for a, b in pairwise([float(s[0]), *inside, float(s[-1])]):
        own = np.flatnonzero((s >= a - SAME_STATION) & (s <= b + SAME_STATION))
        middle = 0.5 * (a + b)
        gone = frozenset((c.side, z) for c in cuts if c.station_from < middle < c.station_to for z in c.zones)
        if len(own):
            yield replace(block if len(own) == len(s) else block.take(own), given_up=gone)


def outside_of(corridor: Corridor, ranges: Sequence[tuple[float, float]]) -> Corridor | None:
    """What does not lie inside of some ranges (m) whose ends are among the stations. None if nothing is left."""
    blocks = []
    for block in corridor.blocks:
        s = block.station
        middle = 0.5 * (s[1:] + s[:-1])
        gone = (
            np.any([(middle > low) & (middle < high) for low, high in ranges], axis=0) if ranges else np.zeros(len(middle), bool)
        )
        blocks += [block if b - a == len(s) - 2 else block.take(np.arange(a, b + 2)) for a, b in runs_of(~gone)]
    return Corridor(corridor.line, tuple(blocks), corridor.told) if blocks else None


def in_a_row(corridors: Sequence[Corridor]) -> Corridor:
    """Blocks of several corridors of one line, in the order of their stations."""
    blocks = sorted((b for c in corridors for b in c.blocks), key=lambda b: float(b.station[0] + b.station[-1]))
    return Corridor(corridors[0].line, tuple(blocks), corridors[0].told)
