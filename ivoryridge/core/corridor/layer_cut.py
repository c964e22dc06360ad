"""Pavement layers along a line drawn in plan: what an upright plane cuts out of the solids that layers are between sections."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray

from ..arrays import runs_of
from ..section.structure import Layer
from .block import Block
from .corridor import Corridor
from .edges import to_space
from .varied import Side
from .zones import given_up_parts

Floats = NDArray[np.float64]

__all__ = ["LayerCut", "cut_layers", "layers_below", "under_surface"]

LayerCut = tuple[str, Floats]  # material, and a ring (k, 2) of distance along the line and level, m, not closed
_ROUND = 7  # decimals of m at which ends of pieces are one place


def cut_layers(corridor: Corridor, path: Floats) -> list[LayerCut]:
    """Rings of all layers that a plan polyline (k, 2) m crosses; between two sections a layer is straight from node to node."""
    out: list[LayerCut] = []
    base = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    for block in corridor.blocks:
        for material, triangles in _solids(block):
            for k, (p, q) in enumerate(pairwise(path)):
                length = float(base[k + 1] - base[k])
                if length > 0:
                    out += [(material, ring + [base[k], 0.0]) for ring in _cut(triangles, p, (q - p) / length, length)]
    return out


def _solids(block: Block) -> Iterator[tuple[str, Floats]]:
    """Each layer of a side as the faces (t, 3, 3) m that bound it."""
    for side, sign, columns, parts in block.sides():
        gone = given_up_parts(block, side, columns, parts)
        for _, material, nodes in columns.areas:
            if columns.names[nodes[-1]].partition(".")[0] in gone:
                continue
            own = list(nodes)
            there = np.asarray(columns.present[own].all(axis=0))
            places = to_space(block.places, sign * columns.across[own], columns.level[own])
            yield material, np.concatenate([*_faces(places, there), np.empty((0, 3, 3))])


def _faces(places: Floats, there: NDArray[np.bool_]) -> Iterator[Floats]:
    """Of a loop of nodes (m, n, 3) at n sections: the faces along it, and those across where it begins and ends."""
    a, b = places, np.roll(places, -1, axis=0)
    goes_on = there[:-1] & there[1:]
    a0, a1, b0, b1 = a[:, :-1][:, goes_on], a[:, 1:][:, goes_on], b[:, :-1][:, goes_on], b[:, 1:][:, goes_on]
    yield np.stack([a0, b0, b1], axis=2).reshape(-1, 3, 3)
    yield np.stack([a0, b1, a1], axis=2).reshape(-1, 3, 3)
    beside = np.concatenate([[False], goes_on, [False]])
    for i in np.flatnonzero(beside[:-1] != beside[1:]):
        loop = places[:, i]
        yield np.stack([np.broadcast_to(loop[0], loop[1:-1].shape), loop[1:-1], loop[2:]], axis=1)


def _cut(triangles: Floats, start: Floats, along: Floats, length: float) -> list[Floats]:
    """Rings in the upright plane from a place (2,) over ``length`` m in the direction ``along``."""
    d = triangles[:, :, :2] - start
    off = d[:, :, 0] * along[1] - d[:, :, 1] * along[0]
    far = d @ along
    hit = (off.min(axis=1) < 0) & (off.max(axis=1) >= 0)  # also beyond the ends, or an outline would stay open
    if not hit.any() or far[hit].max() < 0 or far[hit].min() > length:
        return []
    off, far, level = off[hit], far[hit], triangles[hit][:, :, 2]
    ends = []
    for i, j in ((0, 1), (1, 2), (2, 0)):  # ordered alike whichever face asks, so that both find one place
        swap = (far[:, i] > far[:, j]) | ((far[:, i] == far[:, j]) & (level[:, i] > level[:, j]))
        f = [np.where(swap, x[:, j], x[:, i]) for x in (off, far, level)]
        t = [np.where(swap, x[:, i], x[:, j]) for x in (off, far, level)]
        crossed = (f[0] < 0) != (t[0] < 0)
        share = np.divide(f[0], f[0] - t[0], out=np.zeros_like(f[0]), where=crossed)
        at = np.stack([f[1] + share * (t[1] - f[1]), f[2] + share * (t[2] - f[2])], axis=-1)
        ends.append(np.where(crossed[:, None], at, np.nan))
    three = np.stack(ends, axis=1)  # (t, 3, 2), two of the three known
    order = np.argsort(np.isnan(three[:, :, 0]), axis=1, kind="stable")[:, :2]
    pieces = np.round(np.take_along_axis(three, order[:, :, None], axis=1), _ROUND)
    pieces = pieces[(pieces[:, 0] != pieces[:, 1]).any(axis=1)]
    return list(_rings(pieces, length))


def _rings(pieces: Floats, length: float) -> Iterator[Floats]:
    """What pieces (k, 2, 2) of an outline enclose between 0 and ``length``."""
    whole = shapely.polygonize(shapely.get_parts(shapely.union_all(shapely.linestrings(pieces))).tolist())
    low, high = pieces[:, :, 1].min() - 1.0, pieces[:, :, 1].max() + 1.0
    window = shapely.box(0.0, low, length, high)
    for area in shapely.get_parts(shapely.intersection(shapely.union_all(shapely.get_parts(whole)), window)):
        if area.geom_type == "Polygon" and area.area > 1e-9:
            yield shapely.get_coordinates(area.exterior)[:-1]


def layers_below(block: Block, side: Side, across: float) -> tuple[Layer, ...]:
    """Layers under a place of a block's first section, ``across`` m outward of the line, from the top."""
    columns = block.left if side == "left" else block.right
    found = []
    for _, material, nodes in columns.areas:
        own = list(nodes)
        if not columns.present[own, 0].all():
            continue
        u, z = columns.across[own, 0], columns.level[own, 0]
        v, w = np.roll(u, -1), np.roll(z, -1)
        met = (u <= across) != (v <= across)
        if met.any():
            levels = z[met] + (w[met] - z[met]) * (across - u[met]) / (v[met] - u[met])
            found.append((float(levels.max()), material, float(np.ptp(levels))))
    return tuple(Layer(material, thickness) for _, material, thickness in sorted(found, reverse=True) if thickness > 0)


def under_surface(cut: Floats, layers: Sequence[Layer]) -> list[LayerCut]:
    """Layers of even thickness under a surface that is cut along a line: rows (k, 2) of distance and level, NaN where there
    is none."""
    out: list[LayerCut] = []
    for a, b in runs_of(np.isfinite(cut[:, 1])):
        top = cut[a : b + 1]
        if a == b:
            continue
        for layer in layers:
            below = top - [0.0, layer.thickness]
            out.append((layer.material, np.concatenate([top, below[::-1]])))
            top = below
    return out
