"""Areas between two lines of a section, and how far the one stands over the other."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import chain
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = ["areas_between", "closed_areas", "greatest_over"]


@njit(cache=True)
def _add(out, i, lo, hi, d0, d1, k):
    """Add a trapezoid between lo and hi, d0 and d1 high (cut where positive): area, moment, and area weighted by 1 - k offset
    as far as that is positive."""
    area, moment = 0.5 * (d0 + d1) * (hi - lo), (hi - lo) * (d0 * (2 * lo + hi) + d1 * (lo + 2 * hi)) / 6.0
    c = 0 if area >= 0 else 1
    out[i, c] += abs(area)
    out[i, 2 + c] += abs(moment) if (moment >= 0) == (area >= 0) else -abs(moment)
    if k != 0.0 and (1 - k * lo <= 0 or 1 - k * hi <= 0):
        centre = 1.0 / k
        if 1 - k * lo <= 0 and 1 - k * hi <= 0:
            return
        at = d0 + (d1 - d0) * (centre - lo) / (hi - lo)
        if k > 0:
            hi, d1 = centre, at
        else:
            lo, d0 = centre, at
        area, moment = 0.5 * (d0 + d1) * (hi - lo), (hi - lo) * (d0 * (2 * lo + hi) + d1 * (lo + 2 * hi)) / 6.0
    out[i, 5 + c] += abs(area - k * moment)


@njit(cache=True)
def _areas(du, dz, gu, gz, curvature, left, right):
    n = len(du)
    out = np.zeros((n, 7))  # cut, fill, moment of cut, moment of fill, width without ground, cut and fill weighted for the bend
    for i in range(n):
        k = curvature[i]
        ua, za = np.nan, np.nan
        for m in range(du.shape[1]):
            ub, zb = du[i, m], dz[i, m]
            if not (np.isfinite(ub) and np.isfinite(zb)):
                continue
            if np.isfinite(ua) and ub > ua and ub > left and ua < right:
                covered = 0.0
                for j in range(gu.shape[1] - 1):
                    p, q = gu[i, j], gu[i, j + 1]
                    if not (q > ua):
                        continue
                    if p >= ub:
                        break
                    if not (np.isfinite(gz[i, j]) and np.isfinite(gz[i, j + 1])):
                        continue
                    lo, hi = max(p, ua, left), min(q, ub, right)
                    if hi <= lo:
                        continue
                    covered += hi - lo
                    d0 = gz[i, j] + (gz[i, j + 1] - gz[i, j]) * (lo - p) / (q - p) - (za + (zb - za) * (lo - ua) / (ub - ua))
                    d1 = gz[i, j] + (gz[i, j + 1] - gz[i, j]) * (hi - p) / (q - p) - (za + (zb - za) * (hi - ua) / (ub - ua))
                    if d0 * d1 >= 0.0:
                        _add(out, i, lo, hi, d0, d1, k)
                    else:
                        mid = lo + (hi - lo) * d0 / (d0 - d1)
                        _add(out, i, lo, mid, d0, 0.0, k)
                        _add(out, i, mid, hi, 0.0, d1, k)
                out[i, 4] += min(ub, right) - max(ua, left) - covered
            ua, za = ub, zb
    return out


def areas_between(
    design: tuple[Any, Any], ground: tuple[Any, Any], curvature: Any = 0.0, offsets: tuple[float, float] = (-np.inf, np.inf)
) -> Floats:
    """Cut, fill, their first moments, the width without ground, and cut and fill weighted by 1 - k offset, (n, 7), between design
    and ground lines, and between two ``offsets`` (m); ``curvature`` k of the line in 1/m, + right.

    ``design`` and ``ground`` are offset (n, k) and level (n, k), increasing; NaN vertices of the design are passed
    over, NaN levels of the ground are breaks. Exact for straight pieces: trapezes, split where the lines cross.
    Source: docs/formulas.md#section-areas.
    """
    arrays = [np.ascontiguousarray(np.atleast_2d(np.asarray(a, float))) for a in (*design, *ground)]
    du, dz, gu, gz = arrays
    k = np.ascontiguousarray(np.broadcast_to(np.asarray(curvature, float), (len(du),)))
    return _areas(du, dz, gu, gz, k, float(offsets[0]), float(offsets[1]))


@njit(cache=True)
def _closed(u, z, nodes, ends, first, last):
    out = np.zeros((2, len(ends) - 1, u.shape[1]))
    for a in range(len(ends) - 1):
        begin, end = ends[a], ends[a + 1]
        for n in range(u.shape[1]):
            base = z[nodes[begin], n]
            area, moment = 0.0, 0.0
            for i in range(begin, end):
                p, q = nodes[i], nodes[i + 1] if i + 1 < end else nodes[begin]
                ua, ub, za, zb = u[p, n], u[q, n], z[p, n] - base, z[q, n] - base
                steep = (zb - za) / (ub - ua) if ub != ua else 0.0
                lo, hi = min(max(ua, first), last), min(max(ub, first), last)
                if lo != ua:
                    za += steep * (lo - ua)
                if hi != ub:
                    zb += steep * (hi - ub)
                area -= 0.5 * (hi - lo) * (za + zb)
                moment -= (hi - lo) * (2.0 * lo * za + lo * zb + hi * za + 2.0 * hi * zb) / 6.0
                if not (np.isfinite(ub) and np.isfinite(zb)):
                    area = np.nan
            out[0, a, n] = abs(area)
            out[1, a, n] = -moment if area < 0.0 else moment
    return out


def closed_areas(
    across: Floats, level: Floats, areas: Sequence[tuple[int, ...]], limits: tuple[float, float] = (-np.inf, np.inf)
) -> tuple[Floats, Floats]:
    """Areas (a, n) m2 and their moments about the line (a, n) m3, + outward, of what rows of nodes enclose, as far as it lies between
    two ``limits`` outward (m); NaN where a node is not placed.

    ``across`` (m, + outward) and ``level`` (m) are of k nodes, (k, n). By Green's theorem, the integrals of z du and u z du along the
    edges; the upright pieces at the limits add nothing. Source: docs/formulas.md#strips.
    """
    nodes = np.fromiter(chain.from_iterable(areas), np.int64)
    ends = np.concatenate([[0], np.cumsum([len(a) for a in areas])])
    found = _closed(np.ascontiguousarray(across), np.ascontiguousarray(level), nodes, ends, float(limits[0]), float(limits[1]))
    return found[0], found[1]


@njit(cache=True)
def _over(u, z, gu, gz):
    out = np.full(len(u), np.nan)
    for n in range(len(u)):
        a = -1
        for k in range(u.shape[1]):
            if not (np.isfinite(u[n, k]) and np.isfinite(z[n, k])):
                continue
            first = u[n, k] if a < 0 else u[n, a]
            rise = 0.0 if a < 0 or u[n, k] <= first else (z[n, k] - z[n, a]) / (u[n, k] - first)
            base = z[n, k] if a < 0 else z[n, a]
            for j in range(gu.shape[1] - 1):
                p, q = gu[n, j], gu[n, j + 1]
                if not (np.isfinite(gz[n, j]) and np.isfinite(gz[n, j + 1])) or q < first or p > u[n, k]:
                    continue
                for x in (max(p, first), min(q, u[n, k])):
                    g = gz[n, j] if q <= p else gz[n, j] + (gz[n, j + 1] - gz[n, j]) * (x - p) / (q - p)
                    d = g - (base + rise * (x - first))
                    if not out[n] >= d:
                        out[n] = d
            a = k
    return out


def greatest_over(path: tuple[Any, Any], ground: tuple[Any, Any]) -> Floats:
    """(n,) m by which the ground stands highest over a path, less than 0 where it lies below all of it; NaN where none is known there.

    ``path`` and ``ground`` are across (n, k), increasing, and level (n, k); NaN vertices of the path are passed over, NaN levels of the
    ground are breaks.
    """
    arrays = (np.ascontiguousarray(np.atleast_2d(np.asarray(x, float))) for x in (*path, *ground))
    return np.asarray(_over(*arrays))
