"""A first profile: the smooth line of grades and parabolas nearest to the ground, under limits of grade and K and fixed levels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError, NoSolutionError
from .profile_limits import ProfileLimits, basis_of, first_knots, knots_to_pvis, rules_of, to_change_of, within_limits
from .vertical import PVI, profile_from_pvis

Floats = NDArray[np.float64]

__all__ = ["fit_first_profile", "height_measure"]

SAME_SENSE = 0.35  # what a PVI between curves of one sense must be worth: two sags with a short grade between look broken
SPACINGS = (1.0, 0.6, 1.6, 0.4)  # of the usual one, tried in turn
MOST_KNOTS = 60
_EXACT = 1e-6  # m


def fit_first_profile(
    station: Any, ground: Any, limits: ProfileLimits | None = None, *, spacing: float = 150.0, worth: float = 0.03
) -> list[PVI]:
    """PVIs of the profile that minimises the squared cut and fill on the centre line.

    Parameters
    ----------
    station, ground : (n,) float, m    ground under the line; NaN levels are left out
    spacing : m                        PVIs are first set about this far apart
    worth : ratio                      a PVI is taken out again when the squared difference grows by less

    Raises
    ------
    InputError         no ground under the line
    NoSolutionError    limits that cannot be met together, whatever the spacing of PVIs; the sentence names them

    Notes
    -----
    With stations and curve lengths held, levels on the line are linear in the PVI levels, and so are grades, changes of grade
    and every limit: a least-squares problem with linear limits, solved by scipy's SLSQP from a start that scipy's linear
    programme (HiGHS) finds within the limits. Then PVIs that add little are taken out one by one, sooner where two curves of one
    sense would follow each other, and those that are left move to where the ground asks for them. Ends that nothing holds
    lie on the ground where the limits let them.
    """
    limits = limits or ProfileLimits()
    s, z = np.asarray(station, float), np.asarray(ground, float)
    there = np.isfinite(z)
    if there.sum() < 2:
        raise InputError("no-ground-for-fit", start=float(s.min(initial=0.0)), end=float(s.max(initial=0.0)))
    even = np.linspace(s[0], s[-1], min(max(int((s[-1] - s[0]) / 5.0), 20), 1500))
    level = np.interp(even, s[there], z[there])
    knots, levels, cost, limits = _first_solution(s[0], s[-1], spacing, even, level, limits)
    while len(knots) > 3:
        trials = []
        turns = np.diff(np.diff(levels) / np.diff(knots))
        for i in np.argsort(np.abs(turns))[:4] + 1:  # the PVIs that turn the grade least
            fewer = np.delete(knots, i)
            try:
                found, new_cost = _solve(fewer, even, level, limits)
            except NoSolutionError:
                continue
            beside = [turns[k] for k in (i - 2, i) if 0 <= k < len(turns)]
            most = SAME_SENSE if any(t * turns[i - 1] > 0 for t in beside) else worth
            trials.append(((new_cost - 1e-4) / max(cost * (1 + most), 1e-12), found, new_cost, fewer))
        if not trials:
            break
        grown, new_levels, new_cost, fewer = min(trials, key=lambda t: t[0])
        if grown > 1.0:
            break
        knots, levels, cost = fewer, new_levels, new_cost
    knots, levels = _moved(knots, levels, cost, even, level, limits)
    return knots_to_pvis(knots, levels)


def _first_solution(
    start: float, end: float, spacing: float, even: Floats, level: Floats, limits: ProfileLimits
) -> tuple[Floats, Floats, float, ProfileLimits]:
    """Knots, levels, cost and the limits that were kept to: with ends on the ground where that can be, and with other spacings
    before it is said that there is nothing."""
    on_ground = replace(
        limits, start=(level[0] if limits.start[0] is None else limits.start[0], limits.start[1]),
        end=(level[-1] if limits.end[0] is None else limits.end[0], limits.end[1]),
    )  # fmt: skip
    for wanted in (on_ground, limits):
        refused: NoSolutionError | None = None
        for share in SPACINGS:
            knots = first_knots(start, end, spacing * share, limits)
            if len(knots) > MOST_KNOTS:
                continue
            try:
                return knots, *_solve(knots, even, level, wanted), wanted
            except NoSolutionError as error:
                refused = refused or error
    assert refused is not None
    raise refused


def _moved(
    knots: Floats, levels: Floats, cost: float, even: Floats, level: Floats, limits: ProfileLimits
) -> tuple[Floats, Floats]:
    """The inner knots moved along, one at a time, while that brings the profile nearer to the ground."""
    for step in (0.25, 0.1):
        for i in range(1, len(knots) - 1):
            for way in (-1.0, 1.0):
                tried = knots.copy()
                tried[i] += way * step * (knots[i] - knots[i - 1] if way < 0 else knots[i + 1] - knots[i])
                try:
                    found, new_cost = _solve(tried, even, level, limits)
                except NoSolutionError:
                    continue
                if new_cost < cost * (1 - 1e-3):
                    knots, levels, cost = tried, found, new_cost
                    break
    return knots, levels


def height_measure(pvis: Sequence[PVI], station: Any, ground: Any) -> float:
    """The fit's own measure of a profile: mean squared height over or under the ground, m2, at places 5 m apart."""
    s, z = np.asarray(station, float), np.asarray(ground, float)
    there = np.isfinite(z)
    even = np.linspace(s[0], s[-1], min(max(int((s[-1] - s[0]) / 5.0), 20), 1500))
    return float(np.mean((profile_from_pvis(list(pvis)).evaluate(even)[0] - np.interp(even, s[there], z[there])) ** 2))


def _solve(knots: Floats, even: Floats, level: Floats, limits: ProfileLimits) -> tuple[Floats, float]:
    """Levels of the knots, and the mean squared difference to the ground."""
    from scipy.optimize import minimize

    m = len(knots)
    datum = float(level.mean())
    rules = rules_of(knots, even, level, limits, datum)
    to_change = to_change_of(knots)
    basis = basis_of(knots, even, to_change)
    q, c = basis.T @ basis / len(even), basis.T @ (level - datum) / len(even)
    constant = float(np.mean((level - datum) ** 2))
    a, b = np.array([r for r, _, _ in rules.less]), np.array([v for _, v, _ in rules.less])
    limits_told: list[dict[str, Any]] = [{"type": "ineq", "fun": lambda v: b - a @ v, "jac": lambda v: -a}]
    if rules.equal:
        e, d = np.array([r for r, _, _ in rules.equal]), np.array([v for _, v, _ in rules.equal])
        limits_told.append({"type": "eq", "fun": lambda v: e @ v - d, "jac": lambda v: e})
    start = within_limits(rules, m)
    result = minimize(
        lambda v: float(v @ q @ v - 2 * c @ v) + constant, start, jac=lambda v: 2 * (q @ v - c), constraints=limits_told,
        method="SLSQP", options={"maxiter": 300, "ftol": 1e-10},
    )  # fmt: skip
    broken = np.any(a @ result.x > b + 1e-6) or (rules.equal and np.any(np.abs(e @ result.x - d) > _EXACT * 10))
    if not result.success or broken:
        raise NoSolutionError("no-fit-under-limits", named="; ".join(dict.fromkeys(w for *_, w in (*rules.equal, *rules.less))))
    return result.x + datum, float(result.fun)
