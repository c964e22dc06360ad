"""A first profile: the smooth line of grades and parabolas nearest to the ground, under limits of grade and K and fixed levels."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError, NoSolutionError
from ..wording import quantity
from .vertical import PVI, profile_from_pvis

Floats = NDArray[np.float64]

__all__ = ["FixedLevel", "ProfileLimits", "fit_first_profile", "height_measure"]

_CURVE_SHARE = 0.9  # of the tangent there is between neighbours; leaves a short straight to hold on to
SAME_SENSE = 0.35  # what a PVI between curves of one sense must be worth: two sags with a short grade between look broken
SPACINGS = (1.0, 0.6, 1.6, 0.4)  # of the usual one, tried in turn
MOST_KNOTS = 60
_EXACT = 1e-6  # m


@dataclass(frozen=True, slots=True)
class FixedLevel:
    """A level (m) at a station (m) that the profile hits exactly, or stays "above" or "below"."""

    station: float
    level: float
    kind: str = "exact"
    name: str = ""


@dataclass(frozen=True, slots=True)
class ProfileLimits:
    """What a profile keeps to.

    greatest_grade : m/m
    crest_k, sag_k : m per percent; a number, or a function of stations (n,) for limits that change along the road
    fixed : levels to hit, or to stay above or below
    start, end : level (m) or None, grade (m/m) or None, at either end
    mean_height : m, mean of design over ground on the centre line; None leaves it open. A way to balance cut and fill.
    """

    greatest_grade: float = 0.06
    crest_k: float | Callable[[Floats], Floats] = 30.0
    sag_k: float | Callable[[Floats], Floats] = 30.0
    fixed: tuple[FixedLevel, ...] = field(default=())
    start: tuple[float | None, float | None] = (None, None)
    end: tuple[float | None, float | None] = (None, None)
    mean_height: float | None = None


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
    halves = _halves(knots)
    grades = np.diff(levels) / np.diff(knots)
    out = [PVI(float(knots[0]), float(levels[0]))]
    for i in range(1, len(knots) - 1):
        half = float(halves[i]) if abs(grades[i] - grades[i - 1]) > 1e-6 else 0.0
        out.append(PVI(float(knots[i]), float(levels[i]), half, half))
    return [*out, PVI(float(knots[-1]), float(levels[-1]))]


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
            knots = _first_knots(start, end, spacing * share, limits)
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


def _first_knots(start: float, end: float, spacing: float, limits: ProfileLimits) -> Floats:
    n = max(round((end - start) / spacing), 1)
    knots = np.linspace(start, end, n + 1)
    if limits.fixed and n > 2:  # a fixed level is easier to reach with a PVI on either side of it than with one on it
        for f in limits.fixed:
            i = int(np.argmin(np.abs(knots[1:-1] - f.station))) + 1
            step = (end - start) / n
            if abs(knots[i] - f.station) < 0.15 * step:
                knots[i] += 0.35 * step
    return np.unique(knots)


def _halves(knots: Floats) -> Floats:
    gaps = np.diff(knots)
    halves = np.zeros(len(knots))
    halves[1:-1] = _CURVE_SHARE * 0.5 * np.minimum(gaps[:-1], gaps[1:])
    return halves


def _basis(knots: Floats, at: Floats, to_change: Floats) -> Floats:
    """(n, m): levels on the profile at stations as sums of PVI levels. A parabola leaves its tangents by A (h - |x|)^2 / (4 h)."""
    basis = np.stack([np.interp(at, knots, row) for row in np.eye(len(knots))], axis=-1)
    halves = _halves(knots)
    for i in range(1, len(knots) - 1):
        x = np.abs(at - knots[i])
        inside = x < halves[i]
        basis[inside] += ((halves[i] - x[inside]) ** 2 / (4 * halves[i]))[:, None] * to_change[i - 1]
    return basis


@dataclass(slots=True)
class _Rules:
    """Linear limits a x <= b and a x = b, each with the words that name it."""

    less: list[tuple[Floats, float, str]] = field(default_factory=list)
    equal: list[tuple[Floats, float, str]] = field(default_factory=list)


def _rules(knots: Floats, even: Floats, level: Floats, limits: ProfileLimits, datum: float) -> _Rules:
    m = len(knots)
    to_grade = np.zeros((m - 1, m))
    rows = np.arange(m - 1)
    to_grade[rows, rows], to_grade[rows, rows + 1] = -1 / np.diff(knots), 1 / np.diff(knots)
    to_change = np.diff(to_grade, axis=0)
    halves = _halves(knots)
    out = _Rules()
    grade = f"the greatest grade of {100 * limits.greatest_grade:.2f} %"
    for row in to_grade:
        out.less += [(row, limits.greatest_grade, grade), (-row, limits.greatest_grade, grade)]
    crest, sag = (
        np.asarray(k(knots) if callable(k) else np.full(m, k), float) for k in (limits.crest_k, limits.sag_k)
    )  # fmt: skip
    for i, row in enumerate(to_change):
        out.less.append((row, 2 * halves[i + 1] / (100 * max(sag[i + 1], 1e-9)), f"the least K of sags of {sag[i + 1]:g}"))
        out.less.append((-row, 2 * halves[i + 1] / (100 * max(crest[i + 1], 1e-9)), f"the least K of crests of {crest[i + 1]:g}"))
    for f in limits.fixed:
        if not knots[0] - 1e-6 <= f.station <= knots[-1] + 1e-6:
            raise InputError("station-outside", station=f.station, start=float(knots[0]), end=float(knots[-1]))
        row = _basis(knots, np.array([f.station]), to_change)[0]
        words = f"{f.name or 'the fixed level'} {quantity(f.level, 'm', 3)} at {quantity(f.station, 'm', 2)}"
        if f.kind == "exact":
            out.equal.append((row, f.level - datum, words))
        else:
            way = -1.0 if f.kind == "above" else 1.0
            out.less.append((way * row, way * (f.level - datum), words))
    for end, (at_level, at_grade) in (("start", limits.start), ("end", limits.end)):
        i = 0 if end == "start" else m - 1
        if at_level is not None:
            out.equal.append((np.eye(m)[i], at_level - datum, f"the level {quantity(at_level, 'm', 3)} at the {end}"))
        if at_grade is not None:
            out.equal.append((to_grade[0 if end == "start" else -1], at_grade, f"the grade {100 * at_grade:.2f} % at the {end}"))
    if limits.mean_height is not None:
        mean = _basis(knots, even, to_change).mean(axis=0)
        out.equal.append(
            (
                mean,
                float(level.mean()) - datum + limits.mean_height,
                f"the mean height of {quantity(limits.mean_height, 'm', 2)} over ground",
            )
        )
    return out


def _solve(knots: Floats, even: Floats, level: Floats, limits: ProfileLimits) -> tuple[Floats, float]:
    """Levels of the knots, and the mean squared difference to the ground."""
    from scipy.optimize import minimize

    m = len(knots)
    datum = float(level.mean())
    rules = _rules(knots, even, level, limits, datum)
    to_change = np.diff(np.diff(np.eye(m), axis=0) / np.diff(knots)[:, None], axis=0)
    basis = _basis(knots, even, to_change)
    q, c = basis.T @ basis / len(even), basis.T @ (level - datum) / len(even)
    constant = float(np.mean((level - datum) ** 2))
    a, b = np.array([r for r, _, _ in rules.less]), np.array([v for _, v, _ in rules.less])
    limits_told: list[dict[str, Any]] = [{"type": "ineq", "fun": lambda v: b - a @ v, "jac": lambda v: -a}]
    if rules.equal:
        e, d = np.array([r for r, _, _ in rules.equal]), np.array([v for _, v, _ in rules.equal])
        limits_told.append({"type": "eq", "fun": lambda v: e @ v - d, "jac": lambda v: e})
    start = _within_limits(rules, m)
    result = minimize(
        lambda v: float(v @ q @ v - 2 * c @ v) + constant, start, jac=lambda v: 2 * (q @ v - c), constraints=limits_told,
        method="SLSQP", options={"maxiter": 300, "ftol": 1e-10},
    )  # fmt: skip
    broken = np.any(a @ result.x > b + 1e-6) or (rules.equal and np.any(np.abs(e @ result.x - d) > _EXACT * 10))
    if not result.success or broken:
        raise NoSolutionError("no-fit-under-limits", named="; ".join(dict.fromkeys(w for *_, w in (*rules.equal, *rules.less))))
    return result.x + datum, float(result.fun)


def _within_limits(rules: _Rules, m: int) -> Floats:
    """Levels that keep every limit; where there are none, the limits that would have to give way are named.

    The linear programme with the least sum of violations; a grade counts as the level it makes on 100 m.
    """
    from scipy.optimize import linprog

    weight = [1.0 if abs(r).sum() > 0.5 else 100.0 for r, _, _ in (*rules.less, *rules.equal)]
    n_less, n_equal = len(rules.less), len(rules.equal)
    a_less = np.zeros((n_less, m + n_less + 2 * n_equal))
    for k, (row, _, _) in enumerate(rules.less):
        a_less[k, :m], a_less[k, m + k] = row, -1.0
    a_equal = np.zeros((n_equal, a_less.shape[1]))
    for k, (row, _, _) in enumerate(rules.equal):
        at = m + n_less + 2 * k
        a_equal[k, :m], a_equal[k, at], a_equal[k, at + 1] = row, 1.0, -1.0
    cost = np.concatenate([np.zeros(m), weight[:n_less], np.repeat(weight[n_less:], 2)])
    found = linprog(
        cost, A_ub=a_less, b_ub=[v for _, v, _ in rules.less], A_eq=a_equal if n_equal else None,
        b_eq=[v for _, v, _ in rules.equal] if n_equal else None, bounds=[(None, None)] * m + [(0, None)] * (len(cost) - m),
    )  # fmt: skip
    slack = found.x[m:]
    if slack.max(initial=0.0) > 1e-7:
        # limits with a price in the dual are those that stand against one another (Farkas)
        price = np.abs(np.concatenate([found.ineqlin.marginals, found.eqlin.marginals if n_equal else []]))
        words = [w for *_, w in (*rules.less, *rules.equal)]
        given = dict.fromkeys(w for w, c in zip(words, price, strict=True) if c > 1e-9)
        raise NoSolutionError("no-fit-under-limits", named="; ".join(given))
    return np.asarray(found.x[:m])
