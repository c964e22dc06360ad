"""The nodes of one side of a template at many sections, column by column, as the solver has placed them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

__all__ = ["LaidUpon", "SideColumns", "Sight"]


@dataclass(frozen=True, slots=True)
class Sight:
    """A slope that looked for something: from where, at which slope (+ rises outward), as far as ``limit`` m outward; all (n,), NaN
    where it is not placed. ``last``: it took the last crossing."""

    across: Floats
    level: Floats
    slope: Floats
    limit: Floats
    target: str
    last: bool

    def take(self, index: Any) -> Sight:
        return replace(self, across=self.across[index], level=self.level[index], slope=self.slope[index], limit=self.limit[index])


@dataclass(frozen=True, slots=True, eq=False)
class LaidUpon:
    """What a part lays on a surface, at n sections: areas (n,) m2 made up under it and taken off above it, their first moments about
    the line (n,) m3, + outward; how far the surface stands highest over the part's underside (n,) m, less than 0 below it, NaN where
    it is not known; and how far it may, m."""

    part: str
    made_up: str
    taken_off: str
    areas: Floats  # (2, n): made up, taken off
    moments: Floats  # (2, n)
    over: Floats
    allowed: Floats

    def take(self, index: Any) -> LaidUpon:
        cut = {name: getattr(self, name)[..., index] for name in ("areas", "moments", "over", "allowed")}
        return replace(self, **cut)


@dataclass(frozen=True, slots=True, eq=False)
class SideColumns:
    """The nodes of one side at n stations, in order from the centre outward.

    names : node names, ``part.node``; the first is the start on the centre line
    across : (k, n) float, m     outward from the line, NaN where the node is not present
    level : (k, n) float, m
    present : (k, n) bool        the node is built here: its case is taken, and what it had to meet was met
    roles, guide : per node
    runs : (indices, roles)      rows of edges, outward
    areas : (name, material, indices)
    case_of : part id -> (n,) int index of the case taken, and its case names
    unmet : node -> (n,) bool    a slope that had to meet something here and did not
    reach : node -> (n,) float   where its search ended, m outward
    unknown : part id -> (n,) bool    no case could be chosen, because the ground is not known there
    sights : node -> Sight       for drawings
    unled : node -> (n,) bool    a node that a line is to lead, where none is in reach
    upon : what parts lay on surfaces that are there
    """

    names: tuple[str, ...]
    across: Floats
    level: Floats
    present: Mask
    roles: tuple[str, ...]
    guide: tuple[bool, ...]
    runs: tuple[tuple[tuple[int, ...], tuple[str, ...]], ...]
    areas: tuple[tuple[str, str, tuple[int, ...]], ...]
    case_of: Mapping[str, tuple[NDArray[np.int64], tuple[str, ...]]]
    unmet: Mapping[str, Mask]
    reach: Mapping[str, Floats]
    unknown: Mapping[str, Mask] = field(default_factory=dict)
    sights: Mapping[str, Sight] = field(default_factory=dict)
    unled: Mapping[str, Mask] = field(default_factory=dict)
    upon: tuple[LaidUpon, ...] = ()

    def index(self, name: str) -> int:
        return self.names.index(name)

    def outline(self, role: str) -> tuple[int, ...]:
        """The nodes along the finished surface or the formation, outward; at a station those present are joined."""
        return tuple(dict.fromkeys(i for nodes, roles in self.runs if role in roles for i in nodes))

    def placed(self, role: str) -> tuple[Floats, Floats]:
        """Across and level (k, n) of the nodes along one outline, outward; NaN where a node is not present."""
        index = list(self.outline(role))
        present = self.present[index]
        across, level = np.where(present, self.across[index], np.nan), np.where(present, self.level[index], np.nan)
        return _envelope(across, level) if role == "formation" else (across, level)

    def farthest(self) -> Floats:
        """(n,) m outward: the farthest node, and as far as slopes look."""
        return np.fmax.reduce([np.where(self.present, self.across, -np.inf).max(axis=0), *self.reach.values()])

    def take(self, index: Any) -> SideColumns:
        """Some of these stations."""
        return replace(
            self, across=self.across[:, index], level=self.level[:, index], present=self.present[:, index],
            case_of={k: (taken[index], names) for k, (taken, names) in self.case_of.items()},
            unmet={k: m[index] for k, m in self.unmet.items()}, reach={k: r[index] for k, r in self.reach.items()},
            unknown={k: m[index] for k, m in self.unknown.items()},
            sights={k: s.take(index) for k, s in self.sights.items()}, unled={k: m[index] for k, m in self.unled.items()},
            upon=tuple(x.take(index) for x in self.upon),
        )  # fmt: skip


def _envelope(across: Floats, level: Floats) -> tuple[Floats, Floats]:
    """Outward only: what lies inward of a node before it (a verge that begins over a layer that stands out under it) is moved out along
    the edge that leaves it, to where it is no longer above."""
    farthest = np.fmax.accumulate(across, axis=0)
    back = across < farthest - 1e-12
    if not back.any():
        return across, level
    across, level = across.copy(), level.copy()
    for j, i in zip(*np.nonzero(back), strict=True):
        reach = farthest[j, i]
        ahead = [k for k in range(j + 1, len(across)) if across[k, i] > reach]
        if not ahead:
            across[j, i] = level[j, i] = np.nan
            continue
        k = ahead[0]
        before = max((m for m in range(k) if np.isfinite(across[m, i]) and m >= j), default=j)
        share = (reach - across[before, i]) / (across[k, i] - across[before, i])
        across[j, i], level[j, i] = reach, level[before, i] + share * (level[k, i] - level[before, i])
    return across, level
