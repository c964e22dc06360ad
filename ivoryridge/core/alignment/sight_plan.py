"""Sight in plan: how far a driver sees along a bend before something beside the road is in the way."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .horizontal import HorizontalAlignment

Floats = NDArray[np.float64]

__all__ = ["sight_in_plan"]

STEP = 4.0  # m between the places that may be seen; the answer is between two of them


def sight_in_plan(
    line: HorizontalAlignment,
    station: Any,
    *,
    path: float,
    left: float | Callable[[Floats], Floats],
    right: float | Callable[[Floats], Floats],
    farthest: float = 600.0,
    backward: bool = False,
) -> Floats:
    """What is seen along the road, (n,) m of station, from stations (n,).

    ``path``: offset of eye and object from the line, m + right; ``left`` and ``right``: how far from the line the view is free on
    either side, m, or functions of stations. Up to ``farthest``, or to the end of the road. The line of sight is straight in plan and
    must not leave the free
    strip: a funnel between the bearings of all edge points passed so far. On an arc this is S = 2 R acos(1 - M / R), AASHTO,
    equation 3-36, with R of the path and M from the path to the obstruction.
    """
    s = np.atleast_1d(np.asarray(station, float))
    way = -1.0 if backward else 1.0
    grid = np.arange(line.start_station, line.end_station + STEP, STEP)
    grid[-1] = line.end_station
    place, azimuth, _ = line.evaluate(grid)
    across = np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    seen = place + path * across
    wide = [v(grid) if callable(v) else np.full(len(grid), v) for v in (left, right)]
    edges = (place - wide[0][:, None] * across, place + wide[1][:, None] * across)
    if backward:
        seen, edges, grid = seen[::-1], (edges[1][::-1], edges[0][::-1]), grid[::-1]
    at, heading, _ = line.evaluate(s)
    eyes = at + path * np.stack([np.cos(heading), -np.sin(heading)], axis=-1)
    headings = heading if not backward else heading + np.pi
    reach = _look(
        eyes, headings, way * s, np.ascontiguousarray(way * grid), np.ascontiguousarray(seen), np.ascontiguousarray(edges[0]),
        np.ascontiguousarray(edges[1]), farthest,
    )  # fmt: skip
    return np.asarray(reach)


@njit(cache=True)
def _look(eyes, headings, stations, grid, seen, left, right, farthest):
    """Bearings as tangents, sideways over ahead: what lies beside or behind the eye is not looked at."""
    out = np.empty(len(stations))
    for n in range(len(stations)):
        e, f = eyes[n]
        sin, cos = np.sin(headings[n]), np.cos(headings[n])
        low, high = -np.inf, np.inf  # the free funnel: edges on the left from below, on the right from above
        first = np.searchsorted(grid, stations[n] + 1e-9)
        reached = stations[n]
        stopped = False
        for k in range(first, len(grid)):
            if grid[k] - stations[n] > farthest:
                break
            de, dn = seen[k, 0] - e, seen[k, 1] - f
            ahead = de * sin + dn * cos
            aside = de * cos - dn * sin
            if ahead <= 0 or aside < low * ahead or aside > high * ahead:
                stopped = True
                break
            reached = grid[k]
            de, dn = left[k, 0] - e, left[k, 1] - f
            ahead = de * sin + dn * cos
            if ahead > 0:
                low = max(low, (de * cos - dn * sin) / ahead)
            de, dn = right[k, 0] - e, right[k, 1] - f
            ahead = de * sin + dn * cos
            if ahead > 0:
                high = min(high, (de * cos - dn * sin) / ahead)
        out[n] = reached - stations[n] if stopped else np.inf
    return out
