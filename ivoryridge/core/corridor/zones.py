"""The finished surface or the formation of a road as triangles by zone: carriageway, what stands beside it, and slopes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..section.columns import SideColumns
from ..section.roles import EDGE_ROLES, ZONES, Zone
from ..section.template import PlacedPart
from .blend import looks_for_ground
from .block import Block
from .corridor import Corridor
from .edges import to_space
from .solids import side_faces
from .trim import inner_limit, trimmed
from .varied import Side

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

__all__ = ["ZoneMesh", "given_up_parts", "zone_meshes", "zones_of"]

UPRIGHT = 0.002  # m in plan over which an upright face is laid back, so that a surface has one level a place


@dataclass(frozen=True, slots=True, eq=False)
class ZoneMesh:
    """Triangles (t, 3) over points (p, 3) m of one zone, counter-clockwise as seen from above."""

    zone: Zone
    points: Floats
    faces: Ints


def zone_meshes(corridor: Corridor, role: str, edges: Sequence[str] = EDGE_ROLES) -> list[ZoneMesh]:
    """A road's surface of a role, ``finished`` or ``formation``, by zone, without what is given up.

    ``edges``: roles of lines that may bound the carriageway, in order of preference; the outermost node of the first that a side has is
    its edge.
    """
    found: dict[Zone, list[tuple[Floats, Ints]]] = {z: [] for z in ZONES}
    for block in corridor.blocks:
        for side, sign, columns, parts in block.sides():
            points, faces, zone = _side(block, columns, parts, sign, role, tuple(edges))
            for i, z in enumerate(ZONES):
                own = faces[zone == i]
                if len(own) and (side, z) not in block.given_up:
                    found[z].append((points, own))
    return [_joined(z, rows) for z, rows in found.items() if rows]


def _side(
    block: Block, columns: SideColumns, parts: Sequence[PlacedPart], sign: float, role: str, edges: tuple[str, ...]
) -> tuple[Floats, Ints, Ints]:
    """Points, faces, and for each face its zone."""
    index = list(columns.outline(role))
    n = len(block.station)
    limit = inner_limit(block.places, sign)
    across, level, present = trimmed(limit, columns.across[index], columns.level[index], columns.present[index])
    across = _laid_back(np.where(present, across, np.nan), limit)
    across, level = np.where(present, across, 0.0), np.where(present, level, 0.0)
    points = to_space(block.places, sign * across, level).reshape(-1, 3)
    faces = side_faces(present, n)
    node = faces // n
    outermost = node.max(axis=1) if len(faces) else np.empty(0, np.int64)
    zone_of = zones_of(columns, parts, index, edges)
    return points, faces, zone_of[outermost]


def _laid_back(across: Floats, limit: Floats) -> Floats:
    """Upright faces lean out by a hair, except where the inside of a bend leaves no room."""
    out = across.copy()
    reached = np.full(across.shape[1], -np.inf)
    for row in out:
        there = np.isfinite(row)
        room = there & (row < reached + UPRIGHT) & (row > reached - UPRIGHT) & (reached + UPRIGHT < limit)
        row[room] = reached[room] + UPRIGHT
        reached = np.where(there, row, reached)
    return out


def zones_of(
    columns: SideColumns, parts: Sequence[PlacedPart], index: Sequence[int], edges: tuple[str, ...] = EDGE_ROLES
) -> Ints:
    """Number among ``ZONES`` of what lies between each node of an outline and the one before it. ``edges``: as for ``zone_meshes``."""
    sloping = {p.id for p in parts if looks_for_ground(p)}
    roles = [columns.roles[i] for i in index]
    edge = -1
    for role in edges:
        edge = max((k for k, r in enumerate(roles) if r == role), default=-1)
        if edge >= 0:
            break
    if edge < 0:  # the formation has no such line: what belongs to the parts that carry it
        owners = [columns.names[i].partition(".")[0] for i, r in enumerate(columns.roles) if r in edges]
        last = owners[-1] if owners else ""
        edge = max((k for k, i in enumerate(index) if columns.names[i].partition(".")[0] == last), default=-1)
    out = np.zeros(len(index), np.int64)
    for k, i in enumerate(index):
        own = columns.names[i].partition(".")[0]
        out[k] = 0 if k <= edge else 2 if own in sloping else 1
    return out


def given_up_parts(block: Block, side: Side, columns: SideColumns, parts: Sequence[PlacedPart]) -> set[str]:
    """Parts of a side whose layers are neither built nor counted: those whose finished surface, by its outermost node, is given up."""
    if not any(s == side for s, _ in block.given_up):
        return set()
    index = columns.outline("finished")
    outermost = {columns.names[i].partition(".")[0]: int(z) for i, z in zip(index, zones_of(columns, parts, index), strict=True)}
    inner = 0
    gone = set()
    for p in parts:  # what has no finished surface of its own lies with what stands before it
        inner = outermost.get(p.id, inner)
        if (side, ZONES[inner]) in block.given_up:
            gone.add(p.id)
    return gone


def _joined(zone: Zone, rows: list[tuple[Floats, Ints]]) -> ZoneMesh:
    points, faces, base = [], [], 0
    for p, f in rows:
        used, renumbered = np.unique(f, return_inverse=True)
        points.append(p[used])
        faces.append(renumbered.reshape(-1, 3) + base)
        base += len(used)
    p, f = np.concatenate(points), np.concatenate(faces)
    a, b, c = (p[f[:, i], :2] - p[0, :2] for i in range(3))
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    f = np.where(twice[:, None] < 0, f[:, ::-1], f)
    return ZoneMesh(zone, p, f[np.abs(twice) > 1e-9])
