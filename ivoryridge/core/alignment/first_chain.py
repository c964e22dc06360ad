"""A first chain of bends through measured points, from their smoothed curvature."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from .bend_chain import Chain

Floats = NDArray[np.float64]

__all__ = ["NO_SMALLER_SCATTER", "OUTLIER", "first_chain", "scatter_of"]

LEAST_TURN = np.radians(2.0)  # of a bend that is worth a curve
OUTLIER = 6.0  # times the scatter of the rest
NO_SMALLER_SCATTER = 0.002  # m; total stations resolve no less


def first_chain(p: Floats) -> tuple[Chain, float]:
    from scipy.signal import savgol_filter

    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    step = max(s[-1] / 6000, float(np.median(np.diff(s))) / 2)
    even = np.arange(0.0, s[-1], step)

    def resampled(keep: NDArray[np.bool_]) -> Floats:
        return np.stack([np.interp(even, s[keep], p[keep, i]) for i in (0, 1)], axis=-1)

    keep, scatter = np.ones(len(p), bool), scatter_of(p)
    apart = float(np.median(np.diff(s)))
    short = _odd(5 * apart / step, len(even))
    for _ in range(3):  # leave out what jumps off its neighbours
        smooth = savgol_filter(resampled(keep), short, 2, axis=0)
        off = np.hypot(*(p - np.stack([np.interp(s, even, smooth[:, i]) for i in (0, 1)], axis=-1)).T)
        keep = off < OUTLIER * 2 * scatter
    grid = resampled(keep)
    found: list[tuple[int, int, float]] = []
    free = np.ones(len(even), bool)
    for window in _windows(scatter, apart, s[-1]):
        w = _odd(window / step, len(even))
        k = _curvature(grid, w, step)
        sure = 4.0 * scatter * np.sqrt(720 * apart / window) / window**2  # standard deviation of a quadratic's second derivative
        for turn in (1.0, -1.0):
            bends = (turn * k > sure) & free
            for a, b in runs_of(bends):
                turned = float(np.sum(turn * k[a : b + 1]) * step)
                if turned > LEAST_TURN * 0.7:
                    found.append((a, b, turn))
        for a, b, _ in found:
            free[max(a - w // 2, 0) : b + 1 + w // 2] = False
    found.sort()
    return _chain_of(grid, found, step, _odd(_windows(scatter, apart, s[-1])[0] / step, len(even))), scatter


def scatter_of(p: Floats) -> float:
    """Standard deviation of the points across their line, m: from third differences, which no arc bends."""
    third = np.diff(p, 3, axis=0)
    along = p[3:] - p[:-3]
    across = (third[:, 0] * along[:, 1] - third[:, 1] * along[:, 0]) / np.maximum(np.hypot(*along.T), 1e-9)
    return max(1.4826 * float(np.median(np.abs(across))) / float(np.sqrt(20.0)), NO_SMALLER_SCATTER)


def _windows(scatter: float, apart: float, whole: float) -> tuple[float, float]:
    """Lengths (m) over which curvature is told: short for sharp bends, then longer for the gentle ones between."""
    first = (4 * scatter * 2500 * np.sqrt(720 * apart)) ** 0.4  # tells R 2500 m from straight
    first = float(np.clip(first, 6 * apart, whole / 3))
    return first, float(np.clip(3 * first, first, whole / 2))


def _odd(count: float, most: int) -> int:
    n = int(np.clip(count, 5, most if most % 2 else most - 1))
    return n if n % 2 else n + 1


def _curvature(grid: Floats, window: int, step: float) -> Floats:
    from scipy.signal import savgol_filter

    e1, n1 = savgol_filter(grid, window, 2, deriv=1, delta=step, axis=0).T
    e2, n2 = savgol_filter(grid, window, 2, deriv=2, delta=step, axis=0).T
    return np.asarray((n1 * e2 - e1 * n2) / (e1**2 + n1**2) ** 1.5)  # + right: clockwise from north


def _chain_of(grid: Floats, found: Sequence[tuple[int, int, float]], step: float, window: int) -> Chain:
    """Tangents fitted between the runs, PIs where they cross; full curvature from the upper part of a run, transitions from
    what its length leaves."""
    k = _curvature(grid, window, step)
    edges = [0, *(i for a, b, _ in found for i in (a, b)), len(grid) - 1]
    tangents = [_tangent(grid, a, b, window) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    pis, radius, squares = [], [], []
    at, direction = tangents[0]
    first = at
    for (a, b, turn), (there, onward) in zip(found, tangents[1:], strict=True):
        run = turn * k[a : b + 1]
        full = max(float(np.quantile(run, 0.8)), 1e-6)
        cross = direction[0] * onward[1] - direction[1] * onward[0]
        if abs(cross) < 1e-3:  # hardly a bend after all
            continue
        d = there - at
        ahead = float((d[0] * onward[1] - d[1] * onward[0]) / cross)
        pis.append(at + ahead * direction)
        arc = abs(float(np.arcsin(np.clip(cross, -1, 1)))) / full
        ramp = float(np.clip((b - a + 1) * step - arc, 0.0, 0.5 * arc))
        radius.append(1 / full)
        squares.append([ramp**2, ramp**2])
        at, direction = there, onward
    n = len(radius)
    ends = [first + ((grid[0] - first) @ tangents[0][1]) * tangents[0][1], at + ((grid[-1] - at) @ direction) * direction]
    return Chain(
        np.array([ends[0], *pis, ends[1]], float), np.array(radius, float), np.array(squares, float).reshape(n, 2), np.zeros((n, 3), bool)
    )  # fmt: skip


def _tangent(grid: Floats, a: int, b: int, window: int) -> tuple[Floats, Floats]:
    """A place on the straight between two runs, and its direction."""
    margin = min(window // 4, (b - a) // 4)
    a, b = a + margin, b - margin
    if b - a < 6:  # hardly a straight: the direction in the middle between the bends
        middle = (a + b) // 2
        a, b = max(middle - 3, 0), min(middle + 4, len(grid))
    part = grid[a : b + 1]
    middle = part.mean(axis=0)
    direction = np.linalg.svd(part - middle, full_matrices=False)[2][0]
    return middle, direction if direction @ (part[-1] - part[0]) > 0 else -direction
