"""Elements of a horizontal alignment: straight, arc and clothoid as one family, curvature linear in length.

Curvature is in 1/m, positive to the right (clockwise, the sense in which azimuths grow).
"""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..tolerances import FLAT_CURVATURE

Floats = NDArray[np.float64]

__all__ = ["clothoid_local", "element_kind", "spiral_length", "spiral_shift", "spiral_tangents", "travel"]

_GAUSS_X, _GAUSS_W = np.polynomial.legendre.leggauss(20)
_GAUSS_X, _GAUSS_W = 0.5 * (_GAUSS_X + 1.0), 0.5 * _GAUSS_W


def travel(distance: Any, length: Any, k0: Any, k1: Any) -> tuple[Floats, Floats, Floats]:
    """Where one stands after a distance along an element, in the element's own frame.

    Parameters
    ----------
    distance : (n,) float, m      from the element's start, along it
    length : (n,) or scalar, m    whole length of the element, > 0
    k0, k1 : (n,) or scalar, 1/m  curvature at its start and end, + right

    Returns
    -------
    ahead, right : (n,) float, m  along and to the right of the entry tangent
    turned : (n,) float, rad      change of azimuth, + clockwise

    Notes
    -----
    turned = k0 s + (k1 - k0) s^2 / (2 L). Straights and arcs in closed form (chord and half angle); clothoids by
    20-point Gauss-Legendre quadrature of cos and sin of the turned angle. Error below 1e-9 of the length while
    the element turns by less than 6 rad. Source: derived in docs/formulas.md#clothoid; checked against the
    Fresnel integrals (Abramowitz & Stegun, ch. 7).
    """
    s, length, k0, k1 = np.broadcast_arrays(
        np.asarray(distance, float), np.asarray(length, float), np.asarray(k0, float), np.asarray(k1, float)
    )
    rate = (k1 - k0) / length
    turned = s * (k0 + 0.5 * rate * s)
    half = 0.5 * turned
    chord = s * np.sinc(half / np.pi)
    ahead, right = chord * np.cos(half), chord * np.sin(half)
    bends = np.abs(rate * length) > FLAT_CURVATURE
    if np.any(bends):
        sb, kb, rb = s[bends], k0[bends], rate[bends]
        u = sb[:, None] * _GAUSS_X
        angle = u * (kb[:, None] + 0.5 * rb[:, None] * u)
        ahead[bends] = sb * (np.cos(angle) @ _GAUSS_W)
        right[bends] = sb * (np.sin(angle) @ _GAUSS_W)
    return ahead, right, turned


def clothoid_local(parameter: float, lengths: Any) -> tuple[Floats, Floats, Floats]:
    """x, y (m) and angle (rad) on a clothoid of parameter A (m) at lengths (n,) from its inflection."""
    lengths = np.atleast_1d(np.asarray(lengths, float))
    return travel(lengths, np.where(lengths > 0, lengths, 1.0), 0.0, lengths / parameter**2)


def spiral_shift(radius: float, length: float) -> tuple[float, float, float]:
    """Shift p (m), abscissa k (m) of the shifted arc and whole angle (rad) of a clothoid from a straight.

    p = y - R (1 - cos a), k = x - R sin a. Source: Hickerson, Route Location and Design, spiral elements
    (from memory); derived in docs/formulas.md#clothoid.
    """
    if length == 0:
        return 0.0, 0.0, 0.0
    x, y, angle = (float(v[0]) for v in travel([length], length, 0.0, 1.0 / radius))
    return y - radius * (1 - np.cos(angle)), x - radius * np.sin(angle), angle


def spiral_length(parameter: float, k0: float, k1: float) -> float:
    """Length (m) of a clothoid of parameter A (m) between two curvatures (1/m): L = A^2 |k1 - k0|.

    Source: A^2 = R L; docs/formulas.md#clothoid.
    """
    return parameter**2 * abs(k1 - k0)


def spiral_tangents(radius: float, length: float) -> tuple[float, float]:
    """Long and short tangent (m) of a clothoid from a straight: from its ends to where its end tangents cross.

    LT = x - y / tan a, ST = y / sin a. Source: Hickerson (from memory); docs/formulas.md#clothoid.
    """
    x, y, angle = (float(v[0]) for v in travel([length], length, 0.0, 1.0 / radius))
    return x - y / np.tan(angle), y / np.sin(angle)


def element_kind(k0: float, k1: float) -> Literal["Line", "Curve", "Spiral"]:
    """LandXML's word for an element: Line, Curve or Spiral."""
    if abs(k1 - k0) > FLAT_CURVATURE:
        return "Spiral"
    return "Curve" if abs(k0) > FLAT_CURVATURE else "Line"
