"""What the corridor is in space: edge lines, and the finished and formation surfaces."""

from __future__ import annotations

import itertools
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..section.solve import SideColumns
from .corridor import Corridor

Floats = NDArray[np.float64]

__all__ = ["EdgePiece", "edge_lines", "strip_surface", "to_space"]


def to_space(corridor: Corridor, offset: Any, level: Any) -> Floats:
    """(..., n, 3) easting, northing, elevation of offsets (+ right) and levels (..., n) at the sections."""
    azimuth, place = corridor.places.azimuth, corridor.places.place
    offset, level = np.asarray(offset, float), np.asarray(level, float)
    e = place[:, 0] + offset * np.cos(azimuth)
    n = place[:, 1] - offset * np.sin(azimuth)
    return np.stack(np.broadcast_arrays(e, n, level), axis=-1)


class EdgePiece(NamedTuple):
    """A line of a role as far as it runs through: ``side`` ("" for the centre), points (k, 3), and the section it begins at."""

    side: str
    role: str
    points: Floats
    first: int


def edge_lines(corridor: Corridor) -> list[EdgePiece]:
    """Every node with a role as lines in space. A line ends where its node is not present, so a role may have several pieces."""
    out: list[EdgePiece] = []
    for side, sign, columns in corridor.sides():
        for i, role in enumerate(columns.roles):
            if not role or columns.guide[i] or (i == 0 and side == "right"):
                continue
            points = to_space(corridor, sign * columns.across[i], columns.level[i])
            for first, last in _runs(columns.present[i]):
                out.append(EdgePiece("" if i == 0 else side, role, points[first:last], first))
    return out


def _runs(present: Any) -> list[tuple[int, int]]:
    breaks = np.flatnonzero(np.diff(np.concatenate([[0], present.astype(int), [0]])))
    return [(int(a), int(b)) for a, b in zip(breaks[::2], breaks[1::2], strict=True) if b - a > 1]


def strip_surface(corridor: Corridor, role: str) -> tuple[Floats, NDArray[np.int64]]:
    """Points (p, 3) and triangles (t, 3), counter-clockwise seen from above, of ``finished`` or ``formation``.

    Strips join equal nodes of neighbouring sections; where neighbours have unlike nodes (a case changes), the
    strip fans from the nearest nodes both have.
    """
    points: list[Floats] = []
    faces: list[NDArray[np.int64]] = []
    base = 0
    for _, sign, columns in corridor.sides():
        own_points, own_faces = _side_strips(corridor, columns, sign, role)
        faces.append(own_faces + base)
        points.append(own_points)
        base += len(own_points)
    p, f = np.concatenate(points), np.concatenate(faces)
    a, b, c = (p[f[:, i], :2] - p[0, :2] for i in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    f = np.where(twice[:, None] < 0, f[:, ::-1], f)
    return p, f[np.abs(twice) > 1e-9]  # upright faces have no plan area


def _side_strips(corridor: Corridor, columns: SideColumns, sign: float, role: str) -> tuple[Floats, NDArray[np.int64]]:
    index = list(columns.outline(role))
    k, n = len(index), len(corridor.station)
    present = columns.present[index]
    across = np.where(present, columns.across[index], 0.0)
    points = to_space(corridor, sign * across, np.where(present, columns.level[index], 0.0)).reshape(-1, 3)
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
    return points, np.concatenate(faces) if faces else np.empty((0, 3), np.int64)


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
