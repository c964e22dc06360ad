"""The corridor: a road's sections as a row of blocks, each with a template of its own over a range."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import VerticalAlignment
from ..findings import Finding
from ..section.along import Alongs
from ..section.template import Template
from ..terrain.surface import Surface
from ..tolerances import SAME_STATION
from .block import Block, are_alike, block_alongs, changes_along, solve_blocks
from .findings import block_findings, folds_joined, step_findings
from .places import SectionPlaces
from .turning import Crossfall
from .varied import Piece

Floats = NDArray[np.float64]

__all__ = ["Corridor", "compute_corridor", "spans_of", "stations_once", "stations_within"]


@dataclass(frozen=True, eq=False)
class Corridor:
    """A road's sections, n over all blocks in order. Where two blocks meet each has a section of its own at that station.

    line : the road's line
    blocks : at least one
    told : what is doubtful about what varies along it
    places, level, grade : of all sections
    joined : (n - 1,) bool      whether a section and the next are of one block; between blocks there is nothing
    """

    line: HorizontalAlignment
    blocks: tuple[Block, ...]
    told: tuple[Finding, ...] = ()
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
        found = (f for b in self.blocks for f in block_findings(b))
        return (*self.told, *step_findings(self.blocks), *folds_joined(found))

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
        return Corridor(self.line, tuple(b.take(at) for b, at in own if len(at)), self.told)


def stations_within(station: Any, station_from: float, station_to: float) -> Floats:
    """Those of increasing stations (m) that lie within a range, and its ends as far as they reach; none where they do not."""
    s = np.asarray(station, float)
    first, last = max(station_from, float(s[0])), min(station_to, float(s[-1]))
    if last - first <= SAME_STATION:
        return np.empty(0)
    return np.concatenate([[first], s[(s > first + SAME_STATION) & (s < last - SAME_STATION)], [last]])


def stations_once(station: Any, pieces: Sequence[Piece]) -> list[Floats]:
    """For each piece those of increasing stations (m) that it holds; where two meet the one ahead does."""
    s = np.asarray(station, float)
    ahead = [*(p.station_from for p in pieces[1:]), np.inf]
    return [s[(s >= p.station_from) & (s <= p.station_to) & (s < a)] for p, a in zip(pieces, ahead, strict=True)]


def spans_of(pieces: Sequence[Piece]) -> list[list[int]]:
    """Numbers of pieces that follow on each other with one template: what changes with the case of a part does so along all of them."""
    out: list[list[int]] = []
    for i, p in enumerate(pieces):
        q = pieces[i - 1] if i else None
        if q is not None and p.template is q.template and p.station_from == q.station_to:
            out[-1].append(i)
        else:
            out.append([i])
    return out


def compute_corridor(
    line: HorizontalAlignment,
    profile: VerticalAlignment,
    built: Template | Sequence[Piece],
    surface: Surface,
    station: Any,
    *,
    crossfall: Crossfall | None = None,
) -> Corridor:
    """Solve a road's pieces at stations (n,) m, increasing, from the first to the last of them.

    A template alone is one piece over all. ``crossfall``: see ``solve_blocks``.

    Raises
    ------
    InputError    the surface is empty, or a rule of a template cannot be used
    """
    row = (Piece(built),) if isinstance(built, Template) else built
    s = np.atleast_1d(np.asarray(station, float))
    own = [stations_within(s, p.station_from, p.station_to) for p in row] if len(s) > 1 else stations_once(s, row)
    there = [i for i, at in enumerate(own) if len(at)]
    blocks: dict[int, Block] = {}

    def solve(alike: list[int], alongs: Mapping[int, Alongs]) -> None:
        solved = solve_blocks(
            line, profile, [row[i] for i in alike], surface, [own[i] for i in alike], crossfall=crossfall,
            alongs=[alongs.get(i) for i in alike],
        )  # fmt: skip
        blocks.update(zip(alike, solved, strict=True))

    for first in there:
        if first in blocks:
            continue
        alike = [i for i in there if are_alike(row[first], (), row[i], ())]
        solve(alike, {})
        if changes_along(row[first].template):
            spans = [[i for i in span if i in alike] for span in spans_of(row)]
            found = [(span, block_alongs(*(blocks[i] for i in span))) for span in spans if span]
            solve(alike, {i: along for span, along in found for i in span})
    return Corridor(line, tuple(blocks[i] for i in there))
