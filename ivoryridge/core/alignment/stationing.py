"""Chainage equations: places where the count of chainage jumps, so that a chainage is not a distance."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError

__all__ = ["ChainageEquation", "chainages_at", "counted_at", "distances_of", "length_between"]


@dataclass(frozen=True, slots=True)
class ChainageEquation:
    """Where chainage ``back`` (m) is reached, ``ahead`` (m) is counted from there on; ahead below back repeats chainages."""

    back: float
    ahead: float


def _starts(start: float, equations: Sequence[ChainageEquation]) -> tuple[list[float], list[float]]:
    """Distance from the start, and chainage, at which each count begins."""
    at, count = [0.0], [start]
    for i, e in enumerate(equations):
        if e.back <= count[-1]:
            raise InputError("chainage-equation-back", number=i + 1, back=e.back, least=count[-1])
        at.append(at[-1] + e.back - count[-1])
        count.append(e.ahead)
    return at, count


def chainages_at(distances: Any, start: float, equations: Sequence[ChainageEquation] = ()) -> NDArray[np.float64]:
    """Chainage (n,) at distances along the line from its start; at an equation itself the one that is left."""
    at, count = _starts(start, equations)
    d = np.atleast_1d(np.asarray(distances, float))
    i = np.clip(np.searchsorted(at, d, side="left") - 1, 0, len(at) - 1)
    return np.asarray(count)[i] + d - np.asarray(at)[i]


def counted_at(station: Any, equations: Sequence[tuple[float, float]]) -> NDArray[np.float64]:
    """Chainage (n,) at stations, which go on without jumps; equations are (station, jump). At an equation the count that is left."""
    s = np.atleast_1d(np.asarray(station, float))
    out = s.copy()
    for at, jump in equations:
        out = np.where(at < s - 1e-9, out + jump, out)
    return out


def round_stations(start: float, end: float, step: float, equations: Sequence[tuple[float, float]] = ()) -> NDArray[np.float64]:
    """Stations (n,) from start to end whose chainages are multiples of a step (m), as they are read with the equations."""
    edges = [start, *(at for at, _ in equations if start < at < end), end]
    out = []
    for a, b in itertools.pairwise(edges):
        ahead = sum(jump for at, jump in equations if at <= a + 1e-9)
        first, last = np.ceil((a + ahead) / step - 1e-9), np.floor((b + ahead) / step + 1e-9)
        out.append(np.arange(first, last + 1) * step - ahead)
    found = np.concatenate(out)
    return found[np.concatenate([[True], np.diff(found) > 1e-6])] if len(found) else found


def distances_of(chainage: float, start: float, equations: Sequence[ChainageEquation], length: float) -> list[float]:
    """Every distance along a line of a length at which a chainage is counted: none in a gap, two where counts overlap."""
    at, count = _starts(start, equations)
    ends = [*at[1:], length]
    return [d for a, c, e in zip(at, count, ends, strict=True) if a - 1e-9 <= (d := a + chainage - c) <= e + 1e-9]


def length_between(start: float, end: float, equations: Sequence[ChainageEquation] = ()) -> float:
    """Length of a line that is counted from ``start`` to ``end``; never their mere difference."""
    at, count = _starts(start, equations)
    return at[-1] + end - count[-1]
