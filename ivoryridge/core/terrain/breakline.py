"""Breaklines: extra vertices so that no segment is longer than a spacing."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["divide_line"]

_MOST_PARTS = 100_000  # of one segment


def divide_line(line: Any, spacing: float) -> tuple[Floats, NDArray[np.bool_]]:
    """A line whose longer segments are cut in equal parts, as few as keep each part at most ``spacing`` m long in plan.

    Returns
    -------
    (m, 3) vertices, and (m,) which of them are the line's own

    Raises
    ------
    InputError    the spacing is not positive, or so small that a segment would get more than 100 000 parts
    """
    p = np.asarray(line, float).reshape(-1, 3)
    if not spacing > 0:
        raise InputError("negative-value", what="The spacing", where_="a breakline", value=spacing)
    if len(p) < 2:
        return p.copy(), np.ones(len(p), bool)
    length = np.hypot(*np.diff(p[:, :2], axis=0).T)
    parts = np.maximum(np.ceil(length / spacing - 1e-9), 1).astype(np.int64)
    if parts.max() > _MOST_PARTS:
        raise InputError("breakline-spacing", spacing=spacing, count=int(parts.max()), limit=_MOST_PARTS)
    leg = np.repeat(np.arange(len(parts)), parts)
    within = np.arange(len(leg)) - np.repeat(np.cumsum(parts) - parts, parts)
    share = (within / parts[leg])[:, None]
    out = np.concatenate([p[leg] + share * (p[leg + 1] - p[leg]), p[-1:]])
    own = np.concatenate([within == 0, [True]])
    out[own] = p
    return out, own
