"""The finished and formation surfaces of a corridor."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..section.columns import SideColumns
from .block import Block
from .corridor import Corridor
from .edges import to_space
from .trim import inner_limit, trimmed

Floats = NDArray[np.float64]

__all__ = ["side_faces", "strip_surface"]


def strip_surface(corridor: Corridor, role: str) -> tuple[Floats, NDArray[np.int64]]:
    """Points (p, 3) and triangles (t, 3), counter-clockwise seen from above, of ``finished`` or ``formation``.

    Strips join equal nodes of neighbouring sections of a block; where neighbours have unlike nodes (a case changes), the
    strip fans from the nearest nodes both have. On the inside of bends and corners they end where neighbouring sections meet.
    """
    points: list[Floats] = []
    faces: list[NDArray[np.int64]] = []
    base = 0
    for block in corridor.blocks:
        for _, sign, columns, _ in block.sides():
            own_points, own_faces = _side_strips(block, columns, sign, role)
            faces.append(own_faces + base)
            points.append(own_points)
            base += len(own_points)
    p, f = np.concatenate(points), np.concatenate(faces)
    a, b, c = (p[f[:, i], :2] - p[0, :2] for i in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    f = np.where(twice[:, None] < 0, f[:, ::-1], f)
    return p, f[np.abs(twice) > 1e-9]  # upright faces have no plan area


def _side_strips(block: Block, columns: SideColumns, sign: float, role: str) -> tuple[Floats, NDArray[np.int64]]:
    index = list(columns.outline(role))
    n = len(block.station)
    limit = inner_limit(block.places, sign)
    across, level, present = trimmed(limit, columns.across[index], columns.level[index], columns.present[index])
    across, level = np.where(present, across, 0.0), np.where(present, level, 0.0)
    points = to_space(block.places, sign * across, level).reshape(-1, 3)
    return points, side_faces(present, n)


def side_faces(present: NDArray[np.bool_], n: int) -> NDArray[np.int64]:
    """Triangles (t, 3) of the strips of one side: node j at section i is number j * n + i; ``present`` (k, n)."""
    k = len(present)
    pattern = np.unique(present.T, axis=0, return_inverse=True)[1].ravel()
    faces: list[NDArray[np.int64]] = []
    same = pattern[:-1] == pattern[1:]
    for kind in np.unique(pattern[:-1][same]):  # a few patterns, all their sections at once
        at = np.flatnonzero(same & (pattern[:-1] == kind))
        nodes = np.flatnonzero(present[:, at[0]])
        for a, b in itertools.pairwise(nodes):
            ia, ib = a * n + at, b * n + at
            faces.append(np.stack([ia, ib, ib + 1], axis=-1))
            faces.append(np.stack([ia, ib + 1, ia + 1], axis=-1))
    for i in np.flatnonzero(~same):
        faces.append(_fan(np.flatnonzero(present[:, i]), np.flatnonzero(present[:, i + 1]), int(i), n, k))
    faces = [f for f in faces if len(f)]
    return np.concatenate(faces) if faces else np.empty((0, 3), np.int64)


def _fan(here: Any, there: Any, i: int, n: int, k: int) -> NDArray[np.int64]:
    """Triangles between section i with nodes ``here`` and section i + 1 with nodes ``there``."""
    common = [x for x in here if x in set(there.tolist())]
    out: list[tuple[int, int, int]] = []
    bounds = [*itertools.pairwise(common)]
    if common:
        bounds.append((common[-1], k))  # what lies outside the last common node
    for lo, hi in bounds:
        a = [x * n + i for x in here if lo <= x <= hi]
        b = [x * n + i + 1 for x in there if lo <= x <= hi]
        p = q = 0
        while p + 1 < len(a) or q + 1 < len(b):
            ahead = (p + 1) / max(len(a) - 1, 1) <= (q + 1) / max(len(b) - 1, 1)
            if p + 1 < len(a) and (q + 1 >= len(b) or ahead):
                out.append((a[p], a[p + 1], b[q]))
                p += 1
            else:
                out.append((a[p], b[q + 1], b[q]))
                q += 1
    return np.array(out, np.int64).reshape(-1, 3)
