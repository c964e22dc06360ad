"""Sections closer together where neighbouring ones differ too much."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from ..section.roles import ZONES
from .block import Block
from .edges import to_space
from .places import MOST_SECTIONS
from .zones import zones_of

Floats = NDArray[np.float64]
Told = tuple[Floats, NDArray[np.int64]]

__all__ = ["LEAST_INTERVAL", "finer_stations"]

LEAST_INTERVAL = 0.5  # m between sections; nearer ones tell nothing more (common practice, no source)


def finer_stations(solve: Callable[[Floats], Block], station: Any, within: float) -> Floats:
    """Stations (n,) m, increasing, and more between them, until between any two sections

    - every edge of what is built, from the centre to where slopes begin, lies within ``within`` m of its straight from one to the
      other, in plan (chord to arc) and in level, tried at the section in the middle; and
    - the cases of all parts are the same at both,

    or they stand less than twice 0.5 m apart. A case taken only between two sections that share another is not seen. ``solve`` gives
    the sections at stations of one piece of a road. Halved again and again, so that only what still differs is solved.

    Raises
    ------
    InputError    more than 20 000 sections would be needed
    """
    kept = np.asarray(station, float)
    if len(kept) < 2:
        return kept
    edges, cases = _told(solve(kept))
    pairs = np.stack([kept[:-1], kept[1:]])
    ends = [(edges[:, :-1], cases[:, :-1]), (edges[:, 1:], cases[:, 1:])]
    while (wide := pairs[1] - pairs[0] >= 2 * LEAST_INTERVAL).any():
        pairs, ends = pairs[:, wide], _those(ends, wide)
        half = pairs.mean(axis=0)
        middle = _told(solve(half))
        (a, at_a), (b, at_b) = ends
        split = (at_a != at_b).any(axis=0) | (_farthest_off(a, middle[0], b) > within)
        kept = np.union1d(kept, half[split])
        if len(kept) > MOST_SECTIONS:
            raise InputError("sections-too-fine", within=within, limit=MOST_SECTIONS)
        (a, at_a), (b, at_b) = _those(ends, split)
        (m, at_m), half = _those([middle], split)[0], half[split]
        ends = [(np.hstack([a, m]), np.hstack([at_a, at_m])), (np.hstack([m, b]), np.hstack([at_m, at_b]))]
        pairs = np.hstack([[pairs[0][split], half], [half, pairs[1][split]]])
        order = np.argsort(pairs[0])  # what solves may ask for stations that increase
        pairs, ends = pairs[:, order], _those(ends, order)
    return kept


def _told(block: Block) -> Told:
    """Places (k, n, 3) m of the edges of what is built, NaN where one is not, and the cases (p, n) of all parts."""
    edges, cases = [], []
    for _, sign, columns, parts in block.sides():
        index = np.asarray(columns.outline("finished"), int)
        index = index[zones_of(columns, parts, list(index)) < ZONES.index("slope")] if len(index) else index
        present = columns.present[index]
        across, level = (np.where(present, values[index], np.nan) for values in (columns.across, columns.level))
        edges.append(to_space(block.places, sign * across, level))
        cases += [taken for taken, _ in columns.case_of.values()]
    return np.concatenate(edges), np.array(cases, int).reshape(-1, len(block.station))


def _those(ends: Sequence[Told], index: Any) -> list[Told]:
    return [(edges[:, index], cases[:, index]) for edges, cases in ends]


def _farthest_off(first: Floats, middle: Floats, last: Floats) -> Floats:
    """(n,) m by which an edge at the middle section lies off the straight between its places at the two others; in plan or in level,
    the larger. An edge that is not at all three counts for nothing."""
    way, to = last - first, middle - first
    square = way[..., 0] ** 2 + way[..., 1] ** 2
    length = np.sqrt(square)
    there = length > 0
    aside = np.abs(way[..., 0] * to[..., 1] - way[..., 1] * to[..., 0]) / np.where(there, length, 1.0)
    share = (way[..., 0] * to[..., 0] + way[..., 1] * to[..., 1]) / np.where(there, square, 1.0)
    off = np.where(there, np.fmax(aside, np.abs(to[..., 2] - share * way[..., 2])), 0.0)
    return np.asarray(off.max(axis=0, initial=0.0))
