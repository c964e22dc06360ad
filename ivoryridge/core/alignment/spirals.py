"""Transitions whose curvature does not grow evenly, as short pieces of clothoids whose ends lie on the true curve."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .element import travel

Floats = NDArray[np.float64]

__all__ = ["SPIRAL_SHAPES", "SpiralPieces", "spiral_pieces"]

_LEAST_PIECES = 32
_PIECE_TURN = 0.002  # rad that a piece turns at most
_X, _W = np.polynomial.legendre.leggauss(12)
_X, _W = 0.5 * (_X + 1.0), 0.5 * _W

# share of the whole change of curvature at a share u of the length, and its integral from 0.
# Bloss, cosine, sinusoid and biquadratic (Schramm) as defined in ISO 16739-1:2024 (IFC 4.3), alignment segment types, from memory
SPIRAL_SHAPES: dict[str, tuple[Callable[[Any], Any], Callable[[Any], Any]]] = {
    "clothoid": (lambda u: u, lambda u: u**2 / 2),
    "bloss": (lambda u: 3 * u**2 - 2 * u**3, lambda u: u**3 - u**4 / 2),
    "cosine": (lambda u: (1 - np.cos(np.pi * u)) / 2, lambda u: (u - np.sin(np.pi * u) / np.pi) / 2),
    "sinusoid": (
        lambda u: u - np.sin(2 * np.pi * u) / (2 * np.pi),
        lambda u: u**2 / 2 + (np.cos(2 * np.pi * u) - 1) / (4 * np.pi**2),
    ),
    "biquadratic": (
        lambda u: np.where(u < 0.5, 2 * u**2, 1 - 2 * (1 - u) ** 2),
        lambda u: np.where(u < 0.5, 2 * u**3 / 3, u - 0.5 + 2 * (1 - u) ** 3 / 3),
    ),
}


@dataclass(frozen=True, slots=True, eq=False)
class SpiralPieces:
    """Pieces in the frame of the entry tangent: ahead and right (n + 1,) m and turned (n + 1,) rad at their ends; length (m) of
    each, curvature (1/m, + right) at its start and end (n,)."""

    ahead: Floats
    right: Floats
    turned: Floats
    length: float
    k0: Floats
    k1: Floats

    def rows(self, start: Any, azimuth: float) -> list[tuple[Floats, float, float, float, float]]:
        """Start (E, N), azimuth, length, k0 and k1 of each piece, from a place and azimuth."""
        sin, cos = np.sin(azimuth), np.cos(azimuth)
        at = np.asarray(start) + np.stack([self.ahead * sin + self.right * cos, self.ahead * cos - self.right * sin], axis=-1)
        return [
            (at[i], float((azimuth + self.turned[i]) % (2 * np.pi)), self.length, float(self.k0[i]), float(self.k1[i]))
            for i in range(len(self.k0))
        ]


def spiral_pieces(kind: str, length: float, k0: float, k1: float) -> SpiralPieces:
    """A transition of a kind of ``SPIRAL_SHAPES`` between two curvatures (1/m) over a length (m).

    A clothoid is one piece. The others are cut so that no piece turns by more than 0.002 rad; the pieces' ends and
    headings are those of the true curve (12-point Gauss quadrature of its heading), and between them it is followed to
    1e-6 m.
    """
    if kind == "clothoid":
        ahead, right, turned = travel([0.0, length], length, k0, k1)
        return SpiralPieces(ahead, right, turned, length, np.array([k0]), np.array([k1]))
    shape, integral = SPIRAL_SHAPES[kind]
    change = k1 - k0
    most = length * max(abs(k0), abs(k1))
    n = max(int(np.ceil(most / _PIECE_TURN)), _LEAST_PIECES)
    u = np.linspace(0.0, 1.0, n + 1)
    at = u[:-1, None] + _X / n

    def heading(share: Any) -> Floats:
        return np.asarray(length * (k0 * share + change * integral(share)))

    angle = heading(at)
    step = length / n
    ahead = np.concatenate([[0.0], np.cumsum(step * (np.cos(angle) @ _W))])
    right = np.concatenate([[0.0], np.cumsum(step * (np.sin(angle) @ _W))])
    turned = heading(u)
    k = k0 + change * shape(u)
    told, true = 0.5 * (k[:-1] + k[1:]) * step, np.diff(turned)
    exact = np.where(np.abs(told) > 1e-15, true / np.where(told == 0, 1.0, told), 1.0)
    return SpiralPieces(ahead, right, turned, step, k[:-1] * exact, k[1:] * exact)
