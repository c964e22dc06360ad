"""Measured points cut into straight and round pieces, as few as follow them: dynamic programming over all ways to cut."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = ["NO_SMALLER_SCATTER", "LinePiece", "bulges", "pieces_of_line", "scatter_of", "without_jumps"]

NO_SMALLER_SCATTER = 0.002  # m; total stations resolve no less
JUMP = 7.0  # times its own scatter that a point stands off the circles through its neighbours
_SCALE = 100.0  # m; coordinates are counted in it, so that fourth powers keep their figures
_END_SCATTER = float(np.sqrt(1 + 9 + 9 + 1))  # of a point against the circle through the next three
_BULGE_SCATTER = float(np.sqrt(1 + 2 * (4 / 9) + 2 / 36))  # of a bulge, for points of unit scatter


@dataclass(frozen=True, slots=True)
class LinePiece:
    """Points ``first`` to ``last`` on one straight or arc: curvature (1/m, + right, 0 for a straight), headings (rad, clockwise
    from north) where it begins and ends, and its length (m)."""

    first: int
    last: int
    curvature: float
    heading_in: float
    heading_out: float
    length: float

    @property
    def count(self) -> int:
        return self.last - self.first + 1


def bulges(p: Floats) -> Floats:
    """(n,) how far each point stands off the circles through two neighbours on one side and one on the other, m, the mean of both.

    Nothing on straights and arcs, and the even growth of curvature in a transition cancels; what is left is scatter. NaN for the
    two points at either end. Source: the determinant of four points on a circle, divided by the sides of the triangle of three.
    """
    out = np.full(len(p), np.nan)
    if len(p) < 5:
        return out
    q = p[2:-2]
    out[2:-2] = 0.5 * (_off_circle(q, p[1:-3], p[3:-1], p[4:]) + _off_circle(q, p[:-4], p[1:-3], p[3:-1]))
    return out


def _off_circle(q: Floats, a: Floats, b: Floats, c: Floats) -> Floats:
    """Distance (m, signed) of points q from the circles through a, b, c; right to first order, also for circles without end."""
    a, b, c = a - q, b - q, c - q
    aa, bb, cc = ((v**2).sum(axis=1) for v in (a, b, c))
    determinant = (
        a[:, 0] * (b[:, 1] * cc - bb * c[:, 1])
        - a[:, 1] * (b[:, 0] * cc - bb * c[:, 0])
        + aa * (b[:, 0] * c[:, 1] - b[:, 1] * c[:, 0])
    )
    sides = np.hypot(*(a - b).T) * np.hypot(*(b - c).T) * np.hypot(*(c - a).T)
    return np.asarray(determinant / np.maximum(sides, 1e-12))


def scatter_of(p: Floats) -> float:
    """Standard deviation of the points across their line, m."""
    off = bulges(p)
    off = off[np.isfinite(off)]
    return max(1.4826 * float(np.median(np.abs(off))) / _BULGE_SCATTER, NO_SMALLER_SCATTER) if len(off) else NO_SMALLER_SCATTER


def without_jumps(p: Floats) -> tuple[NDArray[np.bool_], float]:
    """(n,) the points that do not jump off their neighbours, and the scatter (m) of these.

    One that jumps stands out to one side while both its neighbours seem to stand out to the other; where the line itself
    changes, neighbours go the same way. The farthest goes first, and those beside it are looked at anew.
    """
    keep = np.arange(len(p))
    for _ in range(max(len(p) // 8, 3)):
        off = np.nan_to_num(bulges(p[keep]))
        scatter = max(1.4826 * float(np.median(np.abs(off[2:-2]))) / _BULGE_SCATTER, NO_SMALLER_SCATTER) if len(keep) > 8 else 0.0
        if not scatter:
            break
        size = np.abs(off)
        beside = np.stack([np.roll(off, 1), np.roll(off, -1)])
        jumps = (
            (size > JUMP * _BULGE_SCATTER * scatter)
            & (np.sign(beside) == -np.sign(off)).all(axis=0)
            & (size > np.abs(beside).max(axis=0))
        )
        jumps[:2] = jumps[-2:] = False
        if not jumps.any():
            break
        rows = np.flatnonzero(jumps)
        first = rows[np.argsort(-size[rows])]
        gone: list[int] = []
        for r in first.tolist():
            if all(abs(r - g) > 4 for g in gone):
                gone.append(r)
        keep = np.delete(keep, gone)
    kept = np.zeros(len(p), bool)
    kept[keep] = True
    scatter = scatter_of(p[keep])
    for end in (keep, keep[::-1]):  # the last two have neighbours on one side only
        for i in (1, 0):
            if len(end) > i + 4:
                away = abs(float(_off_circle(*(p[end[[k]]] for k in (i, i + 1, i + 2, i + 3)))[0]))
                kept[end[i]] = away <= JUMP * _END_SCATTER * scatter
    return kept, scatter


def pieces_of_line(p: Floats, scatter: float) -> list[LinePiece]:
    """The cheapest way to cut points (n, 2) into straights and arcs: squared distances in units of the scatter (m), and for every
    piece as much as its values are worth (Schwarz's criterion, Annals of Statistics 6, 1978).

    Arcs by Kasa's algebraic fit (1976), whose sums grow point by point, so that every cut costs the same.
    """
    worth = float(np.log(len(p)))
    ends, curvature = _partition(np.ascontiguousarray(p / _SCALE), scatter / _SCALE, 3.0 * worth, 4.0 * worth)
    out = []
    for a, b, k in zip([0, *ends[:-1].tolist()], ends.tolist(), curvature.tolist(), strict=True):
        out.append(_piece(p, a, b - 1, k / _SCALE))
    return out


def _piece(p: Floats, first: int, last: int, curvature: float) -> LinePiece:
    part = p[first : last + 1]
    chord = part[-1] - part[0]
    if len(part) > 2 and curvature == 0.0:
        middle = part.mean(axis=0)
        direction = np.linalg.svd(part - middle, full_matrices=False)[2][0]
        chord = direction * np.sign(direction @ chord) * np.hypot(*chord)
    heading = float(np.arctan2(chord[0], chord[1]))
    size = float(np.hypot(*chord))
    half = float(np.arcsin(np.clip(0.5 * size * curvature, -0.999, 0.999)))
    return LinePiece(first, last, curvature, heading - half, heading + half, 2 * half / curvature if curvature else size)


@njit(cache=True)
def _partition(p, sigma, line_worth, arc_worth):
    """Ends (exclusive) of the pieces and their curvatures; 0 for straights."""
    n = len(p)
    best = np.full(n + 1, np.inf)
    best[0] = 0.0
    came = np.zeros(n + 1, np.int64)
    bent = np.zeros(n + 1)
    for i in range(n):
        x0, y0 = p[i, 0], p[i, 1]
        sx = sy = sxx = sxy = syy = sz = szx = szy = szz = 0.0
        for j in range(i, n):
            x, y = p[j, 0] - x0, p[j, 1] - y0
            z = x * x + y * y
            sx += x
            sy += y
            sxx += x * x
            sxy += x * y
            syy += y * y
            sz += z
            szx += z * x
            szy += z * y
            szz += z * z
            m = j - i + 1
            cxx, cxy, cyy = sxx - sx * sx / m, sxy - sx * sy / m, syy - sy * sy / m
            # smaller axis of the points' ellipse: their squared distances from the best straight
            mean, spread = 0.5 * (cxx + cyy), np.sqrt(0.25 * (cxx - cyy) ** 2 + cxy * cxy)
            straight = max(mean - spread, 0.0) / (sigma * sigma)
            if best[i] + straight + line_worth < best[j + 1]:
                best[j + 1], came[j + 1], bent[j + 1] = best[i] + straight + line_worth, i, 0.0
            round_ = np.inf
            if m >= 4:
                czx, czy, czz = szx - sz * sx / m, szy - sz * sy / m, szz - sz * sz / m
                det = cxx * cyy - cxy * cxy
                if det > 1e-18 * max(cxx, cyy) ** 2:
                    d, e = (czx * cyy - czy * cxy) / det, (czy * cxx - czx * cxy) / det
                    left = czz - d * czx - e * czy
                    f = (sz - d * sx - e * sy) / m
                    square = 0.25 * (d * d + e * e) + f
                    if square > 0:
                        round_ = max(left, 0.0) / (4.0 * square) / (sigma * sigma)
                        side = x * (0.5 * e) - y * (0.5 * d)  # of the centre, left of the way from the first point to the last
                        k = -np.sign(side) / np.sqrt(square)
                        if best[i] + round_ + arc_worth < best[j + 1]:
                            best[j + 1], came[j + 1], bent[j + 1] = best[i] + round_ + arc_worth, i, k
            if m >= 5 and min(straight, round_) > 80.0 + 4.0 * m:
                break
    count, at = 0, n
    while at > 0:
        count, at = count + 1, came[at]
    ends, curvature = np.empty(count, np.int64), np.empty(count)
    at = n
    for c in range(count - 1, -1, -1):
        ends[c], curvature[c] = at, bent[at]
        at = came[at]
    return ends, curvature
