"""Volumes between a surface and a level."""

from __future__ import annotations

from typing import Any

import numpy as np

from .surface import Surface

__all__ = ["prism_volumes", "volume_to_level"]


def prism_volumes(area: Any, heights: Any) -> tuple[Any, Any]:
    """Volumes (n,) m3 above and below zero of prisms with plan area (n,) m2 and corner heights (n, 3) m, both >= 0.

    Where the heights change sign, the corner that stands alone cuts a pyramid off: with h its height and p, q the
    magnitudes of the other two, its volume is A h^3 / (3 (h + p) (h + q)), and the rest follows from the whole,
    A (h1 + h2 + h3) / 3. Exact. Source: derived in docs/formulas.md#prism.
    """
    h = np.atleast_2d(np.asarray(heights, float))
    a = np.broadcast_to(np.asarray(area, float), (len(h),))
    net = a * h.sum(axis=1) / 3.0
    above = np.where((h >= 0).all(axis=1), net, 0.0)
    n_positive = (h > 0).sum(axis=1)
    mixed = (h > 0).any(axis=1) & (h < 0).any(axis=1)
    alone_positive = n_positive == 1
    with np.errstate(divide="ignore", invalid="ignore"):
        lone = np.where(alone_positive[:, None], np.where(h > 0, h, 0.0), np.where(h < 0, h, 0.0)).sum(axis=1)
        others = np.where(alone_positive[:, None], np.where(h > 0, np.nan, h), np.where(h < 0, np.nan, h))
        product = np.nanprod(np.abs(lone)[:, None] + np.abs(others), axis=1)
        cap = np.where(product > 0, a * np.abs(lone) ** 3 / (3.0 * product), 0.0)  # 0: heights below any number
    above = np.where(mixed, np.where(alone_positive, cap, net + cap), above)
    return above, above - net


def volume_to_level(surface: Surface, level: float) -> tuple[float, float]:
    """Volume (m3) of what lies above a level under the surface, and of what is missing below it; both >= 0."""
    corners = surface.points[surface.triangles]
    b, c = corners[:, 1, :2] - corners[:, 0, :2], corners[:, 2, :2] - corners[:, 0, :2]
    area = 0.5 * np.abs(b[:, 0] * c[:, 1] - b[:, 1] * c[:, 0])
    above, below = prism_volumes(area, corners[:, :, 2] - level)
    return float(above.sum()), float(below.sum())
