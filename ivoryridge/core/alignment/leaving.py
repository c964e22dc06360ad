"""Where a line that ends on another one leaves its lanes."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from ..errors import InputError
from .horizontal import HorizontalAlignment, project_points

__all__ = ["leaving_from", "leaving_station"]

STEP = 0.25  # of the width
FEW = 16  # steps looked at first


def leaving_station(
    line: HorizontalAlignment, other: HorizontalAlignment, widths: tuple[float, float], *, at_start: bool, name: str = ""
) -> tuple[float, float, int]:
    """``leaving_from`` the end of a line that lies on the other's centre."""
    start, sign = (line.start_station, 1.0) if at_start else (line.end_station, -1.0)
    return leaving_from(line, other, widths, start, sign, name=name)


def leaving_from(
    line: HorizontalAlignment,
    other: HorizontalAlignment,
    widths: tuple[float, float],
    start: float,
    sign: float,
    *,
    name: str = "",
) -> tuple[float, float, int]:
    """Station (m) on ``line``, the station of the same place on ``other``, and the side there, 0 left and 1 right, where the line,
    followed from ``start`` (m) on the other's centre, with its stationing (``sign`` 1) or against it (-1), first crosses the edge of the
    other's lanes.

    widths : width of the lanes left and right of the other line, m; a side without lanes is left at once

    Raises
    ------
    InputError    no edge is crossed on the whole line
    """
    widest = max(widths)
    reach = line.end_station - start if sign > 0 else start - line.start_station  # a slip road runs with the lanes for long

    def beyond(along: NDArray[np.float64]) -> NDArray[np.float64]:
        """How far places lie outside the edge on their side, m."""
        offset = project_points(other, line.evaluate(start + sign * along)[0]).offset
        return np.abs(offset) - np.where(offset > 0, widths[1], widths[0])

    steps = np.linspace(0.0, reach, max(int(np.ceil(reach / (STEP * widest))), 1) + 1) if widest > 0 else np.zeros(1)
    i = _first_beyond(beyond, steps)
    if i is None:
        if widest > 0:
            raise InputError("edge-not-crossed", other=name, end="start" if sign > 0 else "end", limit=reach)
        i = 0
    along = (
        float(steps[i]) if i == 0 else float(brentq(lambda a: float(beyond(np.array([a]))[0]), steps[i - 1], steps[i], xtol=1e-9))
    )
    station = start + sign * along
    foot = project_points(other, line.evaluate(station)[0])
    return station, float(foot.station[0]), int(foot.offset[0] > 0)


def _first_beyond(beyond: Callable[[NDArray[np.float64]], NDArray[np.float64]], steps: NDArray[np.float64]) -> int | None:
    """The first step that lies outside: most do within few, so they are looked at in rows, each twice as long as the one before."""
    begin, count = 0, FEW
    while begin < len(steps):
        found = np.flatnonzero(beyond(steps[begin : begin + count]) >= 0)
        if len(found):
            return begin + int(found[0])
        begin, count = begin + count, 2 * count
    return None
