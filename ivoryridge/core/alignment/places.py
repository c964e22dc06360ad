"""Compiled kernels: where one stands on a row of elements, and the feet of points on it; for many places at once.

An element is a start, a heading (rad, clockwise from north), a length (m) and curvatures at both ends (1/m, + right); beyond
the first and last element their curvature law goes on. The mathematics is that of ``element.travel``.
"""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["feet_all", "feet_within", "stand_all"]


def _gauss(count: int) -> tuple[np.ndarray, np.ndarray]:
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return 0.5 * (nodes + 1.0), 0.5 * weights


_FEW_X, _FEW_W = _gauss(8)  # exact to rounding while a clothoid turns by less than _FEW_TURN
_MANY_X, _MANY_W = _gauss(20)  # error below 1e-9 of the length while it turns by less than 6 rad
_FEW_TURN = 0.5  # rad


@njit(cache=True)
def _stand(ends, place, heading, sines, cosines, lengths, k0, k1, s, out):
    """One place: easting, northing, heading, curvature at a distance; as ``element.travel`` goes."""
    i = min(max(np.searchsorted(ends, s, side="right") - 1, 0), len(lengths) - 1)
    x = s - ends[i]
    rate = (k1[i] - k0[i]) / lengths[i]
    turned = x * (k0[i] + 0.5 * rate * x)
    if abs(k1[i] - k0[i]) > 1e-12:
        ahead, right = 0.0, 0.0
        most = max(abs(turned), abs(k0[i] * x), abs(rate * x * x))
        if most < _FEW_TURN:
            for q in range(8):
                u = x * _FEW_X[q]
                angle = u * (k0[i] + 0.5 * rate * u)
                ahead += _FEW_W[q] * np.cos(angle)
                right += _FEW_W[q] * np.sin(angle)
        else:
            for q in range(20):
                u = x * _MANY_X[q]
                angle = u * (k0[i] + 0.5 * rate * u)
                ahead += _MANY_W[q] * np.cos(angle)
                right += _MANY_W[q] * np.sin(angle)
        ahead, right = ahead * x, right * x
    elif turned == 0.0:
        ahead, right = x, 0.0
    else:
        sine = np.sin(0.5 * turned)
        chord = 2.0 * sine / k0[i] if abs(turned) > 1e-9 else x
        ahead, right = chord * np.cos(0.5 * turned), chord * sine
    out[0] = place[i, 0] + ahead * sines[i] + right * cosines[i]
    out[1] = place[i, 1] + ahead * cosines[i] - right * sines[i]
    out[2] = heading[i] + turned
    out[3] = k0[i] + rate * min(max(x, 0.0), lengths[i])


@njit(cache=True)
def stand_all(ends, place, heading, lengths, k0, k1, s):
    sines, cosines = np.sin(heading), np.cos(heading)
    out = np.empty((len(s), 4))
    for n in range(len(s)):
        _stand(ends, place, heading, sines, cosines, lengths, k0, k1, s[n], out[n])
    return out


@njit(cache=True)
def feet_all(ends, place, heading, lengths, k0, k1, p, s, steps):
    sines, cosines = np.sin(heading), np.cos(heading)
    foot, offset, at = s.copy(), np.empty(len(s)), np.empty(4)
    for n in range(len(s)):
        for step in range(steps + 1):
            _stand(ends, place, heading, sines, cosines, lengths, k0, k1, foot[n], at)
            de, dn = p[n, 0] - at[0], p[n, 1] - at[1]
            sin, cos = np.sin(at[2]), np.cos(at[2])
            along, right = de * sin + dn * cos, de * cos - dn * sin
            offset[n] = right
            if step == steps or abs(along) < 1e-7:
                break
            foot[n] += min(max(along / max(1 - at[3] * right, 0.3), -50.0), 50.0)
    return foot, offset


@njit(cache=True)
def feet_within(ends, place, heading, lengths, k0, k1, p, s):
    """Station (n,) of the foot of points (n, 2), kept between the first and the last end, and how far along and to the right of
    the tangent there they lie. Newton's method to 1e-10 m from guesses of the stations; at most 10 m a step. Places from a near origin:
    large ones round too
    much for that."""
    sines, cosines = np.sin(heading), np.cos(heading)
    n_points = len(s)
    foot, ahead, beside, at = s.copy(), np.empty(n_points), np.empty(n_points), np.empty(4)
    for n in range(n_points):
        for _ in range(30):
            _stand(ends, place, heading, sines, cosines, lengths, k0, k1, foot[n], at)
            de, dn = p[n, 0] - at[0], p[n, 1] - at[1]
            sin, cos = np.sin(at[2]), np.cos(at[2])
            along, right = de * sin + dn * cos, de * cos - dn * sin
            step = min(max(along / max(1.0 - at[3] * right, 0.2), -10.0), 10.0)
            new = min(max(foot[n] + step, ends[0]), ends[-1])
            moved = abs(new - foot[n])
            foot[n] = new
            if moved < 1e-10:
                break
        _stand(ends, place, heading, sines, cosines, lengths, k0, k1, foot[n], at)
        de, dn = p[n, 0] - at[0], p[n, 1] - at[1]
        sin, cos = np.sin(at[2]), np.cos(at[2])
        ahead[n], beside[n] = de * sin + dn * cos, de * cos - dn * sin
    return foot, ahead, beside
