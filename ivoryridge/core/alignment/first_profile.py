"""A first profile: the smooth line of grades and parabolas nearest to the ground, under the limits of grade and K."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError, NoSolutionError
from .vertical import PVI

Floats = NDArray[np.float64]

__all__ = ["fit_first_profile"]

_CURVE_SHARE = 0.9  # of the tangent there is between neighbours; leaves a short straight to hold on to


def fit_first_profile(
    station: Any,
    ground: Any,
    *,
    greatest_grade: float = 0.06,
    least_k: float = 30.0,
    spacing: float = 150.0,
    worth: float = 0.03,
) -> list[PVI]:
    """PVIs of the profile that minimises the squared cut and fill on the centre line.

    Parameters
    ----------
    station, ground : (n,) float, m    ground under the line; NaN levels are left out
    greatest_grade : m/m               no grade is steeper
    least_k : m per percent            no curve is sharper
    spacing : m                        PVIs are first set about this far apart
    worth : ratio                      a PVI is taken out again when the squared difference grows by less

    Raises
    ------
    InputError         no ground under the line
    NoSolutionError    the limits cannot be met together

    Notes
    -----
    With stations and curve lengths held, levels on the line are linear in the PVI levels, and so are grades and
    changes of grade: a least-squares problem with linear limits, solved by scipy's SLSQP. Then PVIs that add
    little are taken out one by one.
    """
    s, z = np.asarray(station, float), np.asarray(ground, float)
    there = np.isfinite(z)
    if there.sum() < 2:
        raise InputError("no-ground-for-fit", start=float(s.min(initial=0.0)), end=float(s.max(initial=0.0)))
    even = np.linspace(s[0], s[-1], min(max(int((s[-1] - s[0]) / 5.0), 20), 1500))
    level = np.interp(even, s[there], z[there])
    n = max(round((s[-1] - s[0]) / spacing), 1)
    knots = np.linspace(s[0], s[-1], n + 1)
    levels, cost = _solve(knots, even, level, greatest_grade, least_k)
    while len(knots) > 3:
        trials = []
        change = np.abs(np.diff(np.diff(levels) / np.diff(knots)))
        for i in np.argsort(change)[:3] + 1:  # the three PVIs that turn the grade least
            fewer = np.delete(knots, i)
            try:
                trials.append((_solve(fewer, even, level, greatest_grade, least_k), fewer))
            except NoSolutionError:
                continue
        if not trials:
            break
        (new_levels, new_cost), fewer = min(trials, key=lambda t: t[0][1])
        if new_cost > cost * (1 + worth) + 1e-4:
            break
        knots, levels, cost = fewer, new_levels, new_cost
    halves = _halves(knots)
    grades = np.diff(levels) / np.diff(knots)
    out = [PVI(float(knots[0]), float(levels[0]))]
    for i in range(1, len(knots) - 1):
        half = float(halves[i]) if abs(grades[i] - grades[i - 1]) > 1e-6 else 0.0
        out.append(PVI(float(knots[i]), float(levels[i]), half, half))
    return [*out, PVI(float(knots[-1]), float(levels[-1]))]


def _halves(knots: Floats) -> Floats:
    gaps = np.diff(knots)
    halves = np.zeros(len(knots))
    halves[1:-1] = _CURVE_SHARE * 0.5 * np.minimum(gaps[:-1], gaps[1:])
    return halves


def _solve(knots: Floats, even: Floats, level: Floats, greatest_grade: float, least_k: float) -> tuple[Floats, float]:
    """Levels of the knots, and the mean squared difference to the ground."""
    from scipy.optimize import minimize

    m = len(knots)
    basis = np.stack([np.interp(even, knots, row) for row in np.eye(m)], axis=-1)
    to_grade = np.zeros((m - 1, m))
    rows = np.arange(m - 1)
    to_grade[rows, rows], to_grade[rows, rows + 1] = -1 / np.diff(knots), 1 / np.diff(knots)
    to_change = np.diff(to_grade, axis=0)
    halves = _halves(knots)
    for i in range(1, m - 1):  # a parabola leaves its tangents by A (h - |x|)^2 / (4 h)
        x = np.abs(even - knots[i])
        inside = x < halves[i]
        basis[inside] += ((halves[i] - x[inside]) ** 2 / (4 * halves[i]))[:, None] * to_change[i - 1]
    limit_change = 2 * halves[1:-1] / (100.0 * least_k)  # K is metres per percent
    a = np.concatenate([to_grade, to_change])
    b = np.concatenate([np.full(m - 1, greatest_grade), limit_change])
    datum = float(level.mean())
    q, c = basis.T @ basis / len(even), basis.T @ (level - datum) / len(even)
    constant = float(np.mean((level - datum) ** 2))
    result = minimize(
        lambda v: float(v @ q @ v - 2 * c @ v) + constant,
        np.full(m, 0.0),
        jac=lambda v: 2 * (q @ v - c),
        constraints=[
            {"type": "ineq", "fun": lambda v: b - a @ v, "jac": lambda v: -a},
            {"type": "ineq", "fun": lambda v: b + a @ v, "jac": lambda v: a},
        ],
        method="SLSQP",
        options={"maxiter": 300, "ftol": 1e-10},
    )
    if not result.success or np.any(np.abs(a @ result.x) > b + 1e-6):
        raise NoSolutionError("no-fit-under-limits", greatest_grade_percent=100 * greatest_grade, least_k=least_k)
    return result.x + datum, float(result.fun)
