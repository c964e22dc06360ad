"""What a profile keeps to, as linear limits on the levels of its PVIs while their stations and curves are held."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError, NoSolutionError
from ..wording import quantity
from .vertical import PVI

Floats = NDArray[np.float64]

__all__ = [
    "FixedLevel", "ProfileLimits", "Rules", "basis_of", "first_knots", "halves_of", "knots_to_pvis", "rules_of", "to_change_of",
    "within_limits",
]  # fmt: skip

_CURVE_SHARE = 0.9  # of the tangent there is between neighbours; leaves a short straight to hold on to


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


def first_knots(start: float, end: float, spacing: float, limits: ProfileLimits) -> Floats:
    n = max(round((end - start) / spacing), 1)
    knots = np.linspace(start, end, n + 1)
    if limits.fixed and n > 2:  # a fixed level is easier to reach with a PVI on either side of it than with one on it
        for f in limits.fixed:
            i = int(np.argmin(np.abs(knots[1:-1] - f.station))) + 1
            step = (end - start) / n
            if abs(knots[i] - f.station) < 0.15 * step:
                knots[i] += 0.35 * step
    return np.unique(knots)


def knots_to_pvis(knots: Floats, levels: Floats) -> list[PVI]:
    """PVIs of a profile whose curves are as long as ``halves_of`` says; none where the grade does not change."""
    halves = halves_of(knots)
    grades = np.diff(levels) / np.diff(knots)
    out = [PVI(float(knots[0]), float(levels[0]))]
    for i in range(1, len(knots) - 1):
        half = float(halves[i]) if abs(grades[i] - grades[i - 1]) > 1e-6 else 0.0
        out.append(PVI(float(knots[i]), float(levels[i]), half, half))
    return [*out, PVI(float(knots[-1]), float(levels[-1]))]


def to_change_of(knots: Floats) -> Floats:
    """(m - 2, m): changes of grade as sums of PVI levels."""
    return np.diff(np.diff(np.eye(len(knots)), axis=0) / np.diff(knots)[:, None], axis=0)


def halves_of(knots: Floats) -> Floats:
    gaps = np.diff(knots)
    halves = np.zeros(len(knots))
    halves[1:-1] = _CURVE_SHARE * 0.5 * np.minimum(gaps[:-1], gaps[1:])
    return halves


def basis_of(knots: Floats, at: Floats, to_change: Floats) -> Floats:
    """(n, m): levels on the profile at stations as sums of PVI levels. A parabola leaves its tangents by A (h - |x|)^2 / (4 h)."""
    basis = np.stack([np.interp(at, knots, row) for row in np.eye(len(knots))], axis=-1)
    halves = halves_of(knots)
    for i in range(1, len(knots) - 1):
        x = np.abs(at - knots[i])
        inside = x < halves[i]
        basis[inside] += ((halves[i] - x[inside]) ** 2 / (4 * halves[i]))[:, None] * to_change[i - 1]
    return basis


@dataclass(slots=True)
class Rules:
    """Linear limits a x <= b and a x = b, each with the words that name it."""

    less: list[tuple[Floats, float, str]] = field(default_factory=list)
    equal: list[tuple[Floats, float, str]] = field(default_factory=list)


def rules_of(knots: Floats, even: Floats, level: Floats, limits: ProfileLimits, datum: float) -> Rules:
    m = len(knots)
    to_grade = np.zeros((m - 1, m))
    rows = np.arange(m - 1)
    to_grade[rows, rows], to_grade[rows, rows + 1] = -1 / np.diff(knots), 1 / np.diff(knots)
    to_change = np.diff(to_grade, axis=0)
    halves = halves_of(knots)
    out = Rules()
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
        row = basis_of(knots, np.array([f.station]), to_change)[0]
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
        mean = basis_of(knots, even, to_change).mean(axis=0)
        out.equal.append(
            (
                mean,
                float(level.mean()) - datum + limits.mean_height,
                f"the mean height of {quantity(limits.mean_height, 'm', 2)} over ground",
            )
        )
    return out


def within_limits(rules: Rules, m: int) -> Floats:
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
