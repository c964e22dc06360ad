"""The crossfall diagram of a road: left and right crossfall over stations, from its bends one after the other.

Rates are ratios of either half of the carriageway, outward from the line, + rises.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from .crossfall import runout_length

Floats = NDArray[np.float64]

__all__ = ["AXES", "CrossfallDiagram", "TurnedBend", "crossfall_diagram"]

AXES = ("centre", "inner", "outer")
_NO_ROOM = 1.0  # m left for turning between two bends whose full crossfalls would run into each other


@dataclass(frozen=True, slots=True)
class TurnedBend:
    """A bend with its full crossfall, and the stations (m) where the outer half is level, full, still full, level again.

    turn : +1 right, -1 left        rate : ratio > 0, both halves lie in one plane then
    asked : what the standard asks for, None without a rule        pinned : set by a person
    """

    pi: int
    turn: float
    rate: float
    level_in: float
    full_in: float
    full_out: float
    level_out: float
    asked: float | None = None
    pinned: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class CrossfallDiagram:
    """Rates of the left and right half at stations (k,), increasing, linear between them and level beyond them.

    ``joined``: pairs of PIs between which the carriageway turns straight from one full crossfall to the next.
    """

    station: Floats
    left: Floats
    right: Floats
    normal: tuple[float, float]
    bends: tuple[TurnedBend, ...]
    joined: tuple[tuple[int, int], ...]

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "left", "right"))

    def rates(self, station: Any) -> tuple[Floats, Floats]:
        """Left and right rate (n,) at stations (n,) m."""
        s = np.atleast_1d(np.asarray(station, float))
        return np.interp(s, self.station, self.left), np.interp(s, self.station, self.right)

    def rise_of_centre(self, station: Any, axis: str, half_width: tuple[float, float]) -> Floats:
        """How far the centre (n,) rises, m, while the inner or outer edge is held where the normal fall would have it.

        AASHTO, section 3.3.8, diagrammatic profiles of superelevation (from memory); 0 for the centre as axis.
        """
        left, right = self.rates(station)
        if axis == "centre":
            return np.zeros_like(left)
        held_left = left < right if axis == "inner" else left > right
        rate = np.where(held_left, left, right)
        width = np.where(held_left, *half_width)
        return np.asarray(-width * (np.where(held_left, *self.normal) + rate))


def crossfall_diagram(bends: Sequence[TurnedBend], normal_left: float, normal_right: float) -> CrossfallDiagram:
    """Both halves turn bend by bend: out of the normal fall, to the full crossfall, and back.

    The outer half begins to turn where its fall of ``normal`` runs out at the rate of the turning; the inner half waits until
    the outer one rises as much as it falls. Where two bends are so near that the second would begin before the first has
    ended, both halves turn straight from one full crossfall to the next (AASHTO, section 3.3.8, reverse curves).
    """
    normal = (normal_left, normal_right)
    bends = _kept_apart(bends)
    lanes: tuple[list[tuple[float, float]], ...] = ([], [])
    joined: list[tuple[int, int]] = []
    for k, b in enumerate(bends):
        outer = 0 if b.turn > 0 else 1
        meets_last = k > 0 and _ends(bends[k - 1], normal)[1] > _ends(b, normal)[0]
        meets_next = k + 1 < len(bends) and _ends(b, normal)[1] > _ends(bends[k + 1], normal)[0]
        if meets_next:
            joined.append((b.pi, bends[k + 1].pi))
        for lane in (0, 1):
            n, full = normal[lane], b.rate if lane == outer else -max(b.rate, normal[lane])
            way = -1.0 if lane == outer else 1.0  # the outer half starts before it is level, the inner one after
            share = way * n / b.rate
            if not meets_last:
                lanes[lane].append((b.level_in + share * (b.full_in - b.level_in), -n))
            lanes[lane].extend([(b.full_in, full), (b.full_out, full)])
            if not meets_next:
                lanes[lane].append((b.level_out - share * (b.level_out - b.full_out), -n))
    stations = np.unique([s for lane in lanes for s, _ in lane]) if bends else np.zeros(1)
    rates = [
        np.interp(stations, [s for s, _ in lane], [r for _, r in lane]) if bends else np.full(1, -normal[i])
        for i, lane in enumerate(lanes)
    ]
    return CrossfallDiagram(stations, rates[0], rates[1], normal, tuple(bends), tuple(joined))


def _ends(b: TurnedBend, normal: tuple[float, float]) -> tuple[float, float]:
    """Where the outer half leaves its normal fall and has it again."""
    n = normal[0 if b.turn > 0 else 1]
    return (
        b.level_in - runout_length(n, b.rate, b.full_in - b.level_in),
        b.level_out + runout_length(n, b.rate, b.level_out - b.full_out),
    )


def _kept_apart(bends: Sequence[TurnedBend]) -> list[TurnedBend]:
    """Full crossfalls that would overlap end half way between the two, a metre apart; a finding tells how fast they turn then."""
    out = sorted(bends, key=lambda b: b.full_in + b.full_out)
    for k, (a, b) in enumerate(itertools.pairwise(out)):
        if b.full_in - a.full_out < _NO_ROOM:
            middle = 0.5 * (a.full_out + b.full_in)
            out[k] = replace(a, full_out=middle - 0.5 * _NO_ROOM, level_out=middle)
            out[k + 1] = replace(b, full_in=middle + 0.5 * _NO_ROOM, level_in=middle)
            if out[k].full_in > out[k].full_out:
                out[k] = replace(out[k], full_in=out[k].full_out, level_in=min(a.level_in, out[k].full_out))
    return out
