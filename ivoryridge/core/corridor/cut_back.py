"""A road cut back: what junctions take over of it is neither built nor counted with it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from ..section.roles import Zone
from .block import Block
from .corridor import Corridor
from .varied import Side

Floats = NDArray[np.float64]

__all__ = ["Cut", "cut_back", "in_a_row", "outside_of", "sections_cut_back", "within"]


@dataclass(frozen=True, slots=True)
class Cut:
    """Between two stations (m) a side of a road gives up its ``zones``."""

    side: Side
    station_from: float
    station_to: float
    zones: tuple[Zone, ...]


def cut_back(corridor: Corridor, cuts: Sequence[Cut]) -> Corridor:
    """The corridor with its blocks parted where cuts begin and end, which are to be among its stations; at each both blocks have a
    section. What the cuts give up the blocks name. Nothing between two sections is lost: what lies there goes by its middle."""
    return Corridor(corridor.line, tuple(b for block in corridor.blocks for b in _parted(block, cuts)), corridor.told)


def _parted(block: Block, cuts: Sequence[Cut]) -> Iterable[Block]:
    s = block.station
    if len(s) < 2:
        yield from sections_cut_back(block, cuts)
        return
    gone = [_gone(x, cuts) for x in 0.5 * (s[1:] + s[:-1])]
    for a, b in _runs_alike(gone):
        yield replace(_part(block, a, b + 1), given_up=gone[a])


def sections_cut_back(block: Block, cuts: Sequence[Cut]) -> Iterable[Block]:
    """Sections that stand for themselves, with nothing between: each goes by its own station."""
    gone = [_gone(x, cuts) for x in block.station]
    for a, b in _runs_alike(gone):
        yield replace(_part(block, a, b), given_up=gone[a])


def _gone(station: float, cuts: Sequence[Cut]) -> frozenset[tuple[Side, Zone]]:
    return frozenset((c.side, z) for c in cuts if c.station_from < station < c.station_to for z in c.zones)


def _runs_alike(values: Sequence[object]) -> Iterable[tuple[int, int]]:
    """First and last number of each run of equal values."""
    ends = [i for i in range(1, len(values)) if values[i] != values[i - 1]]
    yield from zip([0, *ends], [*(e - 1 for e in ends), len(values) - 1], strict=True)


def _part(block: Block, first: int, last: int) -> Block:
    return block if last - first == len(block.station) - 1 else block.take(np.arange(first, last + 1))


def outside_of(corridor: Corridor, ranges: Sequence[tuple[float, float]]) -> Corridor:
    """What does not lie inside of some ranges (m) whose ends are among the stations; something has to be left."""
    blocks = []
    for block in corridor.blocks:
        middle = 0.5 * (block.station[1:] + block.station[:-1])
        blocks += [_part(block, a, b + 1) for a, b in runs_of(~within(middle, ranges))]
    return Corridor(corridor.line, tuple(blocks), corridor.told)


def within(station: Floats, ranges: Sequence[tuple[float, float]]) -> NDArray[np.bool_]:
    """Whether each of some stations lies inside of one of some ranges, m."""
    return (
        np.any([(station > low) & (station < high) for low, high in ranges], axis=0) if ranges else np.zeros(len(station), bool)
    )


def in_a_row(corridors: Sequence[Corridor]) -> Corridor:
    """Blocks of several corridors of one line, in the order of their stations."""
    blocks = sorted((b for c in corridors for b in c.blocks), key=lambda b: float(b.station[0] + b.station[-1]))
    return Corridor(corridors[0].line, tuple(blocks), corridors[0].told)
