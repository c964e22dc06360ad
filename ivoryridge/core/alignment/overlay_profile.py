"""The profile of an overlay: over the least level that each section of the road needs, with the least volume on top of it."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError, NoSolutionError
from .profile_limits import ProfileLimits, basis_of, first_knots, knots_to_pvis, rules_of, to_change_of, within_limits
from .vertical import PVI

Floats = NDArray[np.float64]

__all__ = ["fit_over_least", "steepest_over"]

SPACINGS = (120.0, 80.0, 50.0, 30.0)  # m between PVIs, tried in turn
MOST_KNOTS = 120
WORTH = 0.05  # a PVI is taken out again when the volume grows by less, and closer PVIs are taken when it shrinks by more
NOTHING = 0.0005  # m; a mean height over the least level that is not worth a PVI


def fit_over_least(station: Any, least: Any, limits: ProfileLimits | None = None) -> list[PVI]:
    """PVIs of a profile that nowhere lies under ``least`` (n,) m at stations (n,) m, keeps the limits, and whose mean height over it
    is the least that PVIs so far apart can have.

    Raises
    ------
    InputError         fewer than two stations with a level
    NoSolutionError    limits that cannot be met together; the sentence names them

    Notes
    -----
    A linear programme in the levels of the PVIs (scipy's HiGHS): levels, grades, changes of grade and the height over the least level
    are all linear in them. PVIs are set 120 m apart, then closer as long as that saves 5 % of the volume, and taken out again one by one.
    """
    limits = limits or ProfileLimits()
    s, z = np.asarray(station, float), np.asarray(least, float)
    there = np.isfinite(z)
    if there.sum() < 2:
        raise InputError("no-ground-for-fit", start=float(s.min(initial=0.0)), end=float(s.max(initial=0.0)))
    s, z = s[there], z[there]
    weight = np.zeros(len(s))
    weight[:-1] += np.diff(s) / 2
    weight[1:] += np.diff(s) / 2
    best: tuple[Floats, Floats, float] | None = None
    refused: NoSolutionError | None = None
    for spacing in SPACINGS:
        knots = first_knots(float(s[0]), float(s[-1]), spacing, limits)
        if len(knots) > MOST_KNOTS:
            break
        try:
            levels, height = _least(knots, s, z, weight, limits)
        except NoSolutionError as error:
            refused = refused or error
            continue
        if best is None or height < best[2] * (1 - WORTH) - NOTHING:
            best = knots, levels, height
    if best is None:
        assert refused is not None
        raise refused
    knots, levels, height = best
    while len(knots) > 2:
        tried = []
        for i in np.argsort(np.abs(np.diff(np.diff(levels) / np.diff(knots))))[:3] + 1:  # those that turn the grade least
            fewer = np.delete(knots, i)
            try:
                tried.append((*_least(fewer, s, z, weight, limits), fewer))
            except NoSolutionError:
                continue
        found = min(tried, key=lambda t: t[1], default=None)
        if found is None or found[1] > best[2] * (1 + WORTH) + NOTHING:
            break
        levels, height, knots = found
    return knots_to_pvis(knots, levels)


def steepest_over(station: Any, level: Any, length: float) -> float:
    """The greatest grade (ratio) of a row of levels (n,) m at stations (n,) m over ``length`` m, or over all of it where that is less."""
    s, z = np.asarray(station, float), np.asarray(level, float)
    s, z = s[np.isfinite(z)], z[np.isfinite(z)]
    length = min(length, float(s[-1] - s[0]))
    first = s[s <= s[-1] - length + 1e-9]
    return float(np.abs((np.interp(first + length, s, z) - np.interp(first, s, z)) / length).max())


def _least(knots: Floats, s: Floats, z: Floats, weight: Floats, limits: ProfileLimits) -> tuple[Floats, float]:
    """Levels of the knots, and the mean height over the least level, m."""
    from scipy.optimize import linprog

    datum = float(z.mean())
    rules = rules_of(knots, s, z, limits, datum)
    basis = basis_of(knots, s, to_change_of(knots))
    a = np.vstack([*[r for r, _, _ in rules.less], -basis])
    b = np.concatenate([[v for _, v, _ in rules.less], datum - z])
    found = linprog(
        weight @ basis / weight.sum(), A_ub=a, b_ub=b, A_eq=np.array([r for r, _, _ in rules.equal]) if rules.equal else None,
        b_eq=[v for _, v, _ in rules.equal] if rules.equal else None, bounds=[(None, None)] * len(knots),
    )  # fmt: skip
    if not found.success:
        within_limits(rules, len(knots))  # names what stands against one another without the least levels
        raise NoSolutionError("no-overlay-profile", spacing=float(np.diff(knots).min()))
    levels = found.x + datum
    return levels, float(weight @ (basis @ found.x - (z - datum)) / weight.sum())
