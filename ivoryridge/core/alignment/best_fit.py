"""Straight lines and circles through measured points, by least squares of the distances at right angles."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["FittedCircle", "FittedLine", "fit_circle", "fit_line", "slews_to_circle"]


@dataclass(frozen=True, slots=True, eq=False)
class FittedLine:
    """A line through the centroid (E, N m) with an azimuth (rad) towards increasing easting; offsets (n,) of the points, + right."""

    centroid: Floats
    azimuth: float
    offsets: Floats

    @property
    def rms(self) -> float:
        return float(np.sqrt(np.mean(self.offsets**2)))


def fit_line(points: Any) -> FittedLine:
    """The line with the least sum of squared distances at right angles (total least squares, by singular values).

    Raises InputError for fewer than 2 different points.
    """
    p = np.asarray(points, float).reshape(-1, np.shape(points)[-1])[:, :2]
    middle = p.mean(axis=0) if len(p) else np.zeros(2)
    if len(p) < 2 or np.ptp(p, axis=0).max() == 0:
        raise InputError("fit-too-few", what="a line", count=len(p), least=2)
    direction = np.linalg.svd(p - middle, full_matrices=False)[2][0]
    if direction[0] < 0 or (direction[0] == 0 and direction[1] < 0):
        direction = -direction
    right = np.array([direction[1], -direction[0]])
    return FittedLine(middle, float(np.arctan2(direction[0], direction[1])), (p - middle) @ right)


@dataclass(frozen=True, slots=True, eq=False)
class FittedCircle:
    """Centre (E, N m), radius (m), residuals (n,) in m, + outside; ``start_radius`` is the algebraic fit it began from."""

    centre: Floats
    radius: float
    residuals: Floats
    start_radius: float


def fit_circle(points: Any) -> FittedCircle:
    """The circle with the least sum of squared radial distances, from Kasa's algebraic fit (I. Kasa, 1976, from memory).

    Raises InputError for fewer than 3 points, or points in line.
    """
    p = np.asarray(points, float).reshape(-1, np.shape(points)[-1])[:, :2]
    if len(p) < 3:
        raise InputError("fit-too-few", what="a circle", count=len(p), least=3)
    middle = p.mean(axis=0)
    q = p - middle
    size = float(np.abs(q).max()) or 1.0
    q = q / size
    a = np.column_stack([2 * q, np.ones(len(q))])
    if np.linalg.svd(a, compute_uv=False)[-1] < 1e-10:
        raise InputError("fit-in-line", count=len(p))
    (x, y, c), *_ = np.linalg.lstsq(a, (q**2).sum(axis=1), rcond=None)
    first = float(np.sqrt(c + x * x + y * y))

    def off(v: Floats) -> Floats:
        return np.asarray(np.hypot(q[:, 0] - v[0], q[:, 1] - v[1]) - v[2])

    found = least_squares(off, [x, y, first], method="lm", xtol=1e-15, ftol=1e-15, gtol=1e-15)
    centre = middle + size * found.x[:2]
    return FittedCircle(centre, float(size * found.x[2]), size * off(found.x), size * first)


def slews_to_circle(points: Any, centre: Any, radius: float) -> Floats:
    """How far each point lies outside (+) or inside a circle, m."""
    p = np.asarray(points, float)[:, :2]
    return np.asarray(np.hypot(*(p - np.asarray(centre, float)).T) - radius)
