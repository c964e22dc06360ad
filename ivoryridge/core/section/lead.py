"""A node that is led by lines: where they cross its sections, and where it comes to lie."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .meeting import elevation_on_ground

Floats = NDArray[np.float64]

__all__ = ["LEADABLE", "Lead", "led_to"]

LEADABLE = (
    "across_at_slope",
    "across_and_up",
    "slope_until_level",
    "angle_and_length",
    "part_way",
)  # rules whose nodes can be led


@dataclass(frozen=True, slots=True, eq=False)
class Lead:
    """What leads a node at n sections.

    across, level : (n, k) float, m    where lines cross each section, outward; NaN beyond the last, and where a level is not known;
                                       with ``surface`` the surface along it, outward
    share : (n,) float                 how much it counts, 0 to 1
    offset, levels : bool              whether the node takes its offset, its level
    reach, reach_level : float, m      from where its own rule puts it
    """

    across: Floats
    level: Floats
    share: Floats
    offset: bool
    levels: bool
    reach: float
    reach_level: float
    surface: bool = False


def led_to(lead: Lead, u: Floats, z: Floats, u0: Any, z0: Any, *, upright: bool) -> tuple[Floats, Floats, NDArray[np.bool_]]:
    """A node that its rule puts at ``u``, ``z`` (n,) m from ``u0``, ``z0``: where it comes to lie, and where nothing is in reach.

    Of several crossings the one nearest to its own offset counts. Where only the offset is taken the slope from where it starts is
    kept (``upright``: its rise); where only the level is taken its offset is kept.
    """
    if lead.surface:
        to_z = elevation_on_ground(u, (lead.across, lead.level))
        with np.errstate(invalid="ignore"):
            there = np.abs(to_z - z) <= lead.reach_level
        share = np.where(there, lead.share, 0.0)
        return u, np.where(share > 0, z + share * (to_z - z), z), (lead.share >= 1.0) & np.isfinite(u) & ~there
    gap = np.abs(lead.across - u[:, None])
    gap[np.isnan(gap)] = np.inf
    nearest = np.argmin(gap, axis=1)[:, None]
    there = np.take_along_axis(gap, nearest, axis=1)[:, 0] <= lead.reach
    to_u, to_z = (np.take_along_axis(a, nearest, axis=1)[:, 0] for a in (lead.across, lead.level))
    with np.errstate(divide="ignore", invalid="ignore"):
        if lead.levels:
            there &= np.abs(to_z - z) <= lead.reach_level
        share = np.where(there, lead.share, 0.0)
        moved = np.where(share > 0, u + share * (to_u - u), u) if lead.offset else u
        slope = 0.0 if upright else np.where(np.abs(u - u0) > 1e-9, (z - z0) / (u - u0), 0.0)
        own = z + slope * (moved - u)
        level = np.where(share > 0, own + share * (to_z - own), own) if lead.levels else own
    return moved, level, (lead.share >= 1.0) & np.isfinite(u) & ~there
