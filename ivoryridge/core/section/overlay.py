"""An overlay on an existing carriageway: the level, and where it is free the crossfall, that just keep the least thickness.

Formulas: docs/formulas.md#overlays.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linprog

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["Overlay", "overlay_section"]


@dataclass(frozen=True, slots=True)
class Overlay:
    """Crossfall (ratio, + rises outward, or to the right where it is one-way), centre level m, areas m2 and greatest heights m:
    regulating under the surfacing's underside, planing above it, the surfacing itself, of design over existing, of existing over that
    underside."""

    crossfall: float
    centre_level: float
    regulating: float
    planing: float
    surfacing: float
    greatest_thickness: float
    greatest_planing: float


def overlay_section(
    existing: Sequence[tuple[float, float]],
    left: float,
    right: float,
    *,
    crossfall: tuple[float, float],
    least: float,
    one_way: bool = False,
    plane_depth: float = 0.0,
    centre_level: float | None = None,
) -> Overlay:
    """An overlay between two offsets of the road as it is, (offset, level) rows, m; + right.

    Without a ``centre_level`` the lowest is taken at which nowhere more than ``plane_depth`` of the existing road stands above the
    underside, which lies ``least`` under the design; of a range of crossfalls that one for which the regulating area is least.

    Raises InputError where the existing road does not reach from left to right.
    """
    u, z = np.asarray(existing, float).T
    if u[0] > left + 1e-9 or u[-1] < right - 1e-9:
        raise InputError("existing-too-narrow", left=left, right=right, start=float(u[0]), end=float(u[-1]))
    inside = u[(u > left + 1e-12) & (u < right - 1e-12)]
    extra = [0.0] if left < 0.0 < right else []
    o = np.unique(np.concatenate([[left], inside, extra, [right]]))
    old = np.interp(o, u, z)
    arm = o if one_way else np.abs(o)
    low, high = min(crossfall), max(crossfall)
    if centre_level is not None:
        e, c = low, centre_level
    elif high - low < 1e-12:
        e, c = low, float(np.max(old - plane_depth + least - low * arm))
    else:
        e, c = _least_regulating(o, old, arm, low, high, least, plane_depth)
    over = c + e * arm - least - old  # of the underside over the existing road
    regulating, planing = _areas(o, over)
    thickness = float(np.max(over) + least)
    return Overlay(e, c, regulating, planing, least * (right - left), thickness, max(float(np.max(-over)), 0.0))


def _least_regulating(
    o: Floats, old: Floats, arm: Floats, low: float, high: float, least: float, plane_depth: float
) -> tuple[float, float]:
    """Crossfall and level of least area between underside and existing road, a linear programme in both: nothing of the existing
    road stands higher above the underside than may be planed off."""
    weight = np.zeros(len(o))
    weight[:-1] += np.diff(o) / 2
    weight[1:] += np.diff(o) / 2
    base = float(old.mean())
    found = linprog(
        [weight @ arm, weight.sum()], A_ub=np.column_stack([-arm, -np.ones(len(o))]), b_ub=-(old - base - plane_depth + least),
        bounds=[(low, high), (None, None)],
    )  # fmt: skip
    return float(found.x[0]), float(found.x[1]) + base


def _areas(o: Floats, over: Floats) -> tuple[float, float]:
    """Area above 0 and below it of a line through (o, over)."""
    above = below = 0.0
    for a, b, p, q in zip(o[:-1], o[1:], over[:-1], over[1:], strict=True):
        if p * q >= 0:
            area = float((b - a) * (p + q) / 2)
            above, below = above + max(area, 0.0), below + max(-area, 0.0)
        else:
            m = float((b - a) * p / (p - q))
            first, second = float(m * p / 2), float((b - a - m) * q / 2)
            above, below = above + max(first, second), below - min(first, second)
    return above, below
