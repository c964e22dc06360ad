"""What a junction needs of a road's built sections: the edge that a return touches, and the parts that stand outside of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from ..corridor.block import Block
from ..corridor.corridor import Corridor
from ..corridor.varied import Side
from ..errors import InputError
from ..section.roles import CENTRE, EDGE_ROLES
from ..section.template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["EdgeRow", "edge_nodes", "edge_row", "outer_parts"]

_SAME_EDGE = 1e-4  # m between the edges of two blocks that are one


@dataclass(frozen=True, slots=True, eq=False)
class EdgeRow:
    """An edge of a road around a place: stations and offsets (k,) m, + right; ``role`` of the line it is."""

    station: Floats
    offset: Floats
    role: str


def edge_nodes(block: Block, side: Side) -> tuple[Floats, Floats, str]:
    """Across and level (n,) m of the edge on one side of a block's sections, NaN where it has none, and its role."""
    columns = block.left if side == "left" else block.right
    for role in EDGE_ROLES:
        own = [i for i, r in enumerate(columns.roles) if r == role and not columns.guide[i]]
        if not own:
            continue
        present = columns.present[own]
        across = np.where(present, columns.across[own], -np.inf)
        outer = np.argmax(across, axis=0)
        pick = np.arange(across.shape[1])
        there = present[outer, pick]
        if there.any():
            level = columns.level[own][outer, pick]
            return np.where(there, across[outer, pick], np.nan), np.where(there, level, np.nan), role
    nothing = np.full(len(block.station), np.nan)
    return nothing, nothing, ""


def edge_row(corridor: Corridor, side: Side, station: float, reach: float, road: str) -> EdgeRow:
    """The edge on one side around a station, as far as it runs through and at most ``reach`` m either way.

    Raises
    ------
    InputError    the road is not built there, or has no pavement on that side
    """
    sign = 1.0 if side == "right" else -1.0
    rows: list[tuple[Floats, Floats, str]] = []
    for block in corridor.blocks:
        if block.station[-1] < station - reach or block.station[0] > station + reach:
            continue
        across, _, role = edge_nodes(block, side)
        for a, b in runs_of(np.isfinite(across)):
            if b > a:
                rows.append((block.station[a : b + 1], sign * across[a : b + 1], role))
    joined = _joined(rows)
    own = next((r for r in joined if r[0][0] - 0.5 <= station <= r[0][-1] + 0.5), None)
    if own is None:
        raise InputError("edge-missing", road=road, side=side, at=station, roles=" or ".join(EDGE_ROLES))
    s, u, role = own
    inside = (s >= station - reach) & (s <= station + reach)
    inside[max(int(np.argmax(inside)) - 1, 0)] = True
    last = len(s) - 1 - int(np.argmax(inside[::-1]))
    inside[min(last + 1, len(s) - 1)] = True
    return EdgeRow(s[inside], u[inside], role)


def _joined(rows: Sequence[tuple[Floats, Floats, str]]) -> list[tuple[Floats, Floats, str]]:
    """Rows that go on where the one before ends, as one; its role that of the longest."""
    out: list[tuple[Floats, Floats, str]] = []
    for s, u, role in rows:
        if out and abs(out[-1][0][-1] - s[0]) < _SAME_EDGE and abs(out[-1][1][-1] - u[0]) < _SAME_EDGE:
            before = out[-1]
            kept = before[2] if before[0][-1] - before[0][0] >= s[-1] - s[0] else role
            out[-1] = np.concatenate([before[0], s[1:]]), np.concatenate([before[1], u[1:]]), kept
        else:
            out.append((s, u, role))
    return out


def outer_parts(parts: Sequence[PlacedPart]) -> tuple[PlacedPart, ...]:
    """Parts that stand outside of the edge of one side: a kerb without its channel, which the edge is, and all behind it."""
    edge = -1
    for role in EDGE_ROLES:
        edge = max((i for i, p in enumerate(parts) if any(n.role == role for n in p.part.nodes)), default=-1)
        if edge >= 0:
            break
    if edge < 0:
        return tuple(p for p in parts if not any(n.role == CENTRE for n in p.part.nodes))
    first = parts[edge]
    if role == EDGE_ROLES[0] and any(p.name == "channel" for p in first.part.parameters):
        return (replace(first, values={**first.values, "channel": 0.0}), *parts[edge + 1 :])
    return tuple(parts[edge + 1 :])
