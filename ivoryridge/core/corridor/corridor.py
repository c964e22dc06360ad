"""The corridor: a road's sections as a row of blocks, each with a template of its own over a range."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import VerticalAlignment
from ..findings import Finding
from ..section.template import Template
from ..terrain.surface import Surface
from ..tolerances import SAME_STATION
from .block import Block, block_alongs, changes_along, solve_block
from .findings import block_findings
from .places import SectionPlaces
from .turning import Crossfall

Floats = NDArray[np.float64]

__all__ = ["Corridor", "Stretch", "compute_corridor", "stations_once", "stations_within"]


@dataclass(frozen=True, slots=True)
class Stretch:
    """A template over a range of stations, m; without ends it goes as far as the road."""

    template: Template
    station_from: float = -np.inf
    station_to: float = np.inf


@dataclass(frozen=True, eq=False)
class Corridor:
    """A road's sections, n over all blocks in order. Where two blocks meet each has a section of its own at that station.

    line : the road's line
    blocks : at least one
    places, level, grade : of all sections
    joined : (n - 1,) bool      whether a section and the next are of one block; between blocks there is nothing
    """

    line: HorizontalAlignment
    blocks: tuple[Block, ...]
    places: SectionPlaces = field(init=False)
    level: Floats = field(init=False)
    grade: Floats = field(init=False)
    joined: NDArray[np.bool_] = field(init=False)

    def __post_init__(self) -> None:
        names = ("station", "place", "azimuth", "curvature")
        arrays = {name: np.concatenate([getattr(b.places, name) for b in self.blocks]) for name in names}
        count = [len(b.station) for b in self.blocks]
        joined = np.ones(sum(count) - 1, bool)
        joined[np.cumsum(count)[:-1] - 1] = False
        found = {
            "places": SectionPlaces(**arrays), "joined": joined,
            "level": np.concatenate([b.level for b in self.blocks]), "grade": np.concatenate([b.grade for b in self.blocks]),
        }  # fmt: skip
        for name, value in found.items():
            if isinstance(value, np.ndarray):
                value.setflags(write=False)
            object.__setattr__(self, name, value)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        return tuple(f for b in self.blocks for f in block_findings(b))

    @property
    def station(self) -> Floats:
        return self.places.station

    def firsts(self) -> list[tuple[Block, int]]:
        """Each block with the number of its first section."""
        at = np.cumsum([0, *(len(b.station) for b in self.blocks)])
        return [(b, int(i)) for b, i in zip(self.blocks, at[:-1], strict=True)]

    def section(self, i: int) -> tuple[Block, int]:
        """The block that holds section i, and its number there."""
        return next((b, i - first) for b, first in reversed(self.firsts()) if i >= first)

    def take(self, index: Any) -> Corridor:
        """Some of these sections, in order."""
        index = np.asarray(index)
        own = [(b, index[(index >= first) & (index < first + len(b.station))] - first) for b, first in self.firsts()]
        return Corridor(self.line, tuple(b.take(at) for b, at in own if len(at)))


def stations_within(station: Any, station_from: float, station_to: float) -> Floats:
    """Those of increasing stations (m) that lie within a range, and its ends as far as they reach; none where they do not."""
    s = np.asarray(station, float)
    first, last = max(station_from, float(s[0])), min(station_to, float(s[-1]))
    if last - first <= SAME_STATION:
        return np.empty(0)
    return np.concatenate([[first], s[(s > first + SAME_STATION) & (s < last - SAME_STATION)], [last]])


def stations_once(station: Any, stretches: Sequence[Stretch]) -> list[Floats]:
    """For each stretch those of increasing stations (m) that it holds; where two meet the one ahead does."""
    s = np.asarray(station, float)
    ahead = [*(st.station_from for st in stretches[1:]), np.inf]
    return [s[(s >= st.station_from) & (s <= st.station_to) & (s < a)] for st, a in zip(stretches, ahead, strict=True)]


def compute_corridor(
    line: HorizontalAlignment,
    profile: VerticalAlignment,
    stretches: Template | Sequence[Stretch],
    surface: Surface,
    station: Any,
    *,
    crossfall: Crossfall | None = None,
) -> Corridor:
    """Solve the templates of a road's stretches at stations (n,) m, increasing, from the first to the last of them.

    A template alone is one stretch over all. ``crossfall``: see ``solve_block``.

    Raises
    ------
    InputError    the surface is empty, or a rule of a template cannot be used
    """
    row = (Stretch(stretches),) if isinstance(stretches, Template) else stretches
    s = np.atleast_1d(np.asarray(station, float))
    own = [stations_within(s, st.station_from, st.station_to) for st in row] if len(s) > 1 else stations_once(s, row)
    blocks = []
    for st, at in zip(row, own, strict=True):
        if len(at):
            block = solve_block(line, profile, st.template, surface, at, crossfall=crossfall)
            if changes_along(st.template):
                block = solve_block(line, profile, st.template, surface, at, crossfall=crossfall, along=block_alongs(block))
            blocks.append(block)
    return Corridor(line, tuple(blocks))
