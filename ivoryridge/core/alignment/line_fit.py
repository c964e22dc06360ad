"""A whole line through measured points: straights, arcs and transitions proposed from their curvature, refined by least squares.

The line is a chain of bends between straights. Bends follow from runs of smoothed curvature; then all lengths and curvatures
are refined at once so that the offsets at right angles become least. What the engineer holds stays, the rest follows.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from ..errors import InputError
from .bend_chain import Chain, laid_out, stand
from .first_chain import first_chains
from .fit_refine import BENT, LEAST_RADIUS, Problem, hold, refine
from .horizontal import PI, HorizontalAlignment, alignment_from_pis, curve_tangents, deflection_at, project_points
from .pieces import NO_SMALLER_SCATTER, without_jumps

Floats = NDArray[np.float64]

__all__ = ["HELD_WORDS", "FitDoubt", "FittedBend", "LineFit", "drawn_in", "fit_whole_line"]

MOST_LENGTH = 1.5  # times the points' own run
RADIUS_UNSURE = 0.02  # of the radius; what may be farther off is told
FAR_OFF = 16.0  # squared distance, in units of the scatter, beyond which a point counts no more
NO_LINE = 0.25  # of the points' spacing; what scatters more does not lie along a line
ALIKE = 1.3  # times the scatter of points against their neighbours; more about the line means that they do not follow it
IN_A_ROW = 3  # points far off one behind the other are no gross errors but a line of another shape
LEAST_WORTH = 6.0  # of a value; few points ask for few bends
MOST_CHANGES = 12
SHORT_STRAIGHT = 40.0  # m between bends of one sense that may be one
ENOUGH_POINTS = 350  # that tell how many bends there are; all of them tell their values
SMALL_TURN = np.radians(4.0)  # bends below this are asked whether they are there
LEAST_POINTS = 8
OUTLIER = 6.0  # times the scatter of the rest
HELD_WORDS = ("radius", "spiral_in", "spiral_out", "start", "end")
SURE = 2.5  # standard deviations by which a transition must show
DOUBTFUL = 25.0  # m; shorter ones are always asked whether they are there
WORTH = 4.0  # of twice the log-likelihood, that a transition must lower it by
NOT_FOLLOWED = 1.8  # times the scatter of the rest


@dataclass(frozen=True, slots=True)
class FittedBend:
    """A bend: turn (+1 right, -1 left), radius, transitions (m), its limits on the fitted line (m), and how points lie on it.

    ``held``: the words of ``HELD_WORDS`` that were given and kept
    """

    turn: float
    radius: float
    spiral_in: float
    spiral_out: float
    start: float
    end: float
    rms: float
    greatest: float
    held: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class FitDoubt:
    """What is not sure of a bend (its number from 0), or of a stretch (-1). ``radius``: it is known to within ``amount`` m only;
    ``follows``: the points scatter by so many m about it, more than elsewhere; ``points``: only so many lie on it; ``straight``: the
    points scatter so about a straight; ``away``: so many points in a row lie far off. Stations (m) on the fitted line where it is."""

    bend: int
    what: str
    amount: float
    start: float = 0.0
    end: float = 0.0


@dataclass(frozen=True, slots=True, eq=False)
class LineFit:
    """PIs of the fitted line, the line, its bends, and every point's station and offset (n,) m, + right of the line.

    ``left_out`` (n,): points that lie much farther off than the rest, which the fit does not follow; ``rms`` is of the others.
    """

    pis: tuple[PI, ...]
    line: HorizontalAlignment
    bends: tuple[FittedBend, ...]
    station: Floats
    offset: Floats
    left_out: NDArray[np.bool_]
    rms: float
    doubts: tuple[FitDoubt, ...] = ()


def fit_whole_line(points: Any, *, held: Mapping[int, Mapping[str, float]] | None = None, bends: int | None = None) -> LineFit:
    """The line of straights, arcs and clothoids through points measured along it.

    Parameters
    ----------
    points : (n, 2 or more) float, m    in the order in which they lie along the line
    held : bend number from 0 -> "radius", "spiral_in", "spiral_out" (m), "start", "end" (stations on the fitted line, m)
    bends : how many bends a fit before this one found; another number now makes ``held`` speak of other bends, and is refused

    Raises
    ------
    InputError    fewer than 8 different points, or points whose line cannot be told

    Notes
    -----
    Runs of curvature: local quadratics (Savitzky & Golay, Analytical Chemistry 36, 1964) over a window as long as the scatter
    asks for. Refinement: least squares with Huber's weights, so that single bad points pull little; a part of the points first, then all.
    Transitions of a bend are drawn towards equal lengths where the points leave it open. One that the points do not show is
    taken as none.
    """
    p = _different(np.asarray(points, float).reshape(-1, np.shape(points)[-1])[:, :2])
    if len(p) < LEAST_POINTS:
        raise InputError("fit-too-few", what="a line of straights and bends", count=len(p), least=LEAST_POINTS)
    try:
        return _fitted(p, np.asarray(points, float)[:, :2], dict(held or {}), bends)
    except np.linalg.LinAlgError as error:
        raise InputError("fit-ran-away", count=len(p)) from error


def _fitted(p: Floats, given: Floats, held: Mapping[int, Mapping[str, float]], bends: int | None) -> LineFit:
    origin = p.mean(axis=0)
    keep, scatter = without_jumps(p - origin)
    q = (p - origin)[keep]
    some = q[:: max(len(q) // ENOUGH_POINTS, 1)]
    if scatter > NO_LINE * float(np.median(np.hypot(*np.diff(q, axis=0).T))):
        raise InputError("fit-no-line", scatter=scatter, count=len(p))
    chain = _first(q, some, scatter)
    if held:
        chain = _chosen(chain, some, scatter)
        if bends is not None and chain.count != bends:
            raise InputError("fit-bends-changed", before=bends, now=chain.count)
        chain = hold(replace(chain, fixed=np.zeros_like(chain.fixed)), held)
    chain = (
        refine(refine(chain, some, scatter, held, 40, 1e-3), q, scatter, held)
        if held
        else refine(_chosen(chain, some, scatter), q, scatter, held)
    )
    problem = Problem(chain, q, 1.0, held)
    of_points = scatter
    scatter = max(1.4826 * float(np.median(np.abs(problem.offsets(problem.base[problem.free])[: len(q)]))), NO_SMALLER_SCATTER)
    chain = _without_doubtful_transitions(chain, q, scatter, held)
    near = np.abs(_offsets(chain, q, 1.0, held)) <= OUTLIER * scatter
    q = q[near] if near.sum() >= LEAST_POINTS else q
    chain = refine(chain, q, scatter, held)
    _sound(chain, q)
    return _result(chain, p, origin, given, held, _doubts_of(chain, q, min(scatter, ALIKE * of_points), held))


def _first(p: Floats, some: Floats, scatter: float) -> Chain:
    """Of the first chains the one that follows the points best once refined."""
    chains = first_chains(p, scatter)
    if len(chains) == 1:
        return chains[0]
    refined = [refine(c, some, scatter, {}, 15, 1e-3) for c in chains]
    return min(refined, key=lambda c: _score(c, some, scatter))


def _sound(chain: Chain, p: Floats) -> None:
    """A line much longer than the points' run, or one with numbers that are none, is no fit: refused."""
    legs, run = np.hypot(*np.diff(chain.pis, axis=0).T), np.hypot(*np.diff(p, axis=0).T).sum()
    whole = np.concatenate([chain.pis.ravel(), chain.radius, chain.squares.ravel()])
    if not np.isfinite(whole).all() or not np.isfinite(legs).all() or laid_out(chain)[0][0][-1] > MOST_LENGTH * run:
        raise InputError("fit-ran-away", count=len(p))


def _different(p: Floats) -> Floats:
    """Without points that repeat their neighbour."""
    p = p[np.isfinite(p).all(axis=1)]
    return p[np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-6])] if len(p) else p


# --- how many bends -------------------------------------------------------------------------------------------
def _chosen(chain: Chain, p: Floats, scatter: float) -> Chain:
    """The chain with as many bends as the points show: bends are joined, left out or parted while that is worth it by Schwarz's
    criterion; bends beside the place are refined with it, the whole chain at the end."""
    chain = refine(chain, p, scatter, {}, 40, 1e-3)
    for _ in range(MOST_CHANGES):
        better = _best_change(chain, p, scatter)
        if better is None:
            break
        chain = better
    return refine(chain, p, scatter, {})


def _best_change(chain: Chain, p: Floats, scatter: float) -> Chain | None:
    """The first change that lowers the score, from the bend that is worst followed on; None when there is none."""
    off = _offsets(chain, p, scatter, {})
    ends = laid_out(chain)[0][0]
    feet_ = Problem(chain, p, scatter, {}).feet
    poor = [_poorness(off, feet_, ends, i) for i in range(chain.count)]
    for i in np.argsort(poor)[::-1].tolist():
        for part, a, b in _alternatives(chain, i, poor[i]):
            tried = _instead(chain, part, a, b, p, scatter, feet_, ends)
            if tried is not None:
                return tried
    return None


def _poorness(off: Floats, feet_: Floats, ends: Floats, i: int) -> float:
    own = off[(feet_ >= ends[4 * i + 1] - 1) & (feet_ <= ends[4 * i + 4] + 1)]
    return _usual(own) if len(own) >= 3 else 0.5


def _alternatives(chain: Chain, i: int, poor: float) -> Iterator[tuple[Chain, int, int]]:
    """Chains to stand for bends ``a`` to ``b`` (exclusive) of this one, cut out with one straight on either side."""
    for k in (i, i - 1):
        if 0 <= k < chain.count - 1 and _may_be_one(chain, k) and (joined := _two_as_one(chain, k)) is not None:
            yield joined, k, k + 2
    if _angle(chain, i) < SMALL_TURN or chain.radius[i] < 2 * LEAST_RADIUS or poor > NOT_FOLLOWED:
        yield Chain(chain.pis[[i, i + 2]], np.empty(0), np.empty((0, 2)), np.empty((0, 3), bool)), i, i + 1
    if poor > NOT_FOLLOWED:
        alone = Chain(chain.pis[i : i + 3], chain.radius[i : i + 1], chain.squares[i : i + 1], chain.fixed[i : i + 1])
        if laid_out(alone)[1] < 1.0:
            for share in (0.35, 0.65):
                for ratio in (0.7, 1.4):
                    yield _two(alone, 0, share, ratio), i, i + 1
            yield replace(alone, squares=np.full((1, 2), (0.3 * alone.radius[0] * _angle(alone, 0)) ** 2)), i, i + 1


def _may_be_one(chain: Chain, i: int) -> bool:
    """Whether bends i and i + 1 could be one: of one sense with a short straight between them, or one of them next to nothing."""
    a, b, c = np.diff(chain.pis[i : i + 4], axis=0)
    one_way = (a[0] * b[1] - a[1] * b[0]) * (b[0] * c[1] - b[1] * c[0]) > 0
    if not one_way:
        return min(_angle(chain, i), _angle(chain, i + 1)) < SMALL_TURN
    tangents = [chain.radius[k] * np.tan(_angle(chain, k) / 2) + 0.5 * float(np.sqrt(chain.squares[k].max())) for k in (i, i + 1)]
    return float(np.hypot(*b)) - sum(tangents) < SHORT_STRAIGHT


def _angle(chain: Chain, i: int) -> float:
    a, b = np.diff(chain.pis[i : i + 3], axis=0)
    return abs(float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b)))


def _two_as_one(chain: Chain, i: int) -> Chain | None:
    """Bends i and i + 1 as one between the straights beside them; None where these do not meet ahead."""
    a, d1 = chain.pis[i], chain.pis[i + 1] - chain.pis[i]
    c, d2 = chain.pis[i + 2], chain.pis[i + 3] - chain.pis[i + 2]
    cross = d1[0] * d2[1] - d1[1] * d2[0]
    if abs(cross) < 1e-3 * np.hypot(*d1) * np.hypot(*d2):
        return None
    t = ((c - a)[0] * d2[1] - (c - a)[1] * d2[0]) / cross
    at = a + t * d1
    if t <= 0 or (chain.pis[i + 3] - at) @ d2 <= 0:
        return None
    angles = np.array([_angle(chain, i), _angle(chain, i + 1)])
    radius = float((angles @ chain.radius[i : i + 2]) / angles.sum())
    squares = np.array([[chain.squares[i, 0], chain.squares[i + 1, 1]]])
    return Chain(np.array([chain.pis[i], at, chain.pis[i + 3]]), np.array([radius]), squares, np.zeros((1, 3), bool))


def _instead(chain: Chain, part: Chain, a: int, b: int, p: Floats, scatter: float, feet_: Floats, ends: Floats) -> Chain | None:
    """The chain with ``part`` for its bends a to b, refined with the bends beside it, where that lowers the score of the points
    there; else None."""
    lo, hi = max(a - 1, 0), min(b + 1, chain.count)
    near = (feet_ >= (ends[4 * lo] if lo else -np.inf)) & (feet_ <= (ends[4 * hi + 1] if hi < chain.count else np.inf))
    own = p[near]
    if len(own) < 5:
        return None
    before = _cut(chain, lo, hi)
    tried = Chain(
        np.concatenate([chain.pis[lo : a + 1], part.pis[1:-1], chain.pis[b + 1 : hi + 2]]),
        np.concatenate([chain.radius[lo:a], part.radius, chain.radius[b:hi]]),
        np.concatenate([chain.squares[lo:a], part.squares, chain.squares[b:hi]]),
        np.concatenate([chain.fixed[lo:a], part.fixed, chain.fixed[b:hi]]),
    )
    try:
        tried = refine(tried, own, scatter, {}, 12, 1e-3)
    except (np.linalg.LinAlgError, ValueError, FloatingPointError):
        return None
    if not np.isfinite(tried.pis).all() or _score(tried, own, scatter) > _score(before, own, scatter) - 1.0:
        return None
    return Chain(
        np.concatenate(
            [
                chain.pis[: lo + (lo > 0)],
                tried.pis[(lo > 0) : len(tried.pis) - (hi < chain.count)],
                chain.pis[hi + 1 + (hi == chain.count) :],
            ]
        ),
        np.concatenate([chain.radius[:lo], tried.radius, chain.radius[hi:]]),
        np.concatenate([chain.squares[:lo], tried.squares, chain.squares[hi:]]),
        np.concatenate([chain.fixed[:lo], tried.fixed, chain.fixed[hi:]]),
    )


def _cut(chain: Chain, lo: int, hi: int) -> Chain:
    return Chain(chain.pis[lo : hi + 2], chain.radius[lo:hi], chain.squares[lo:hi], chain.fixed[lo:hi])


def _offsets(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> Floats:
    problem = Problem(chain, p, scatter, held)
    return problem.offsets(problem.base[problem.free])[: len(p)]


def _score(chain: Chain, p: Floats, scatter: float) -> float:
    """Schwarz's criterion: squared distances in units of the scatter (one far off counts no more than ``FAR_OFF``), and the
    logarithm of the number of points for every value; bends that overlap count much."""
    off = _offsets(chain, p, scatter, {})
    values = 3 * chain.count + int((~chain.fixed[:, :2] & (chain.squares > 1.0)).sum())
    (ends, *_), overlap = laid_out(chain)
    s = Problem(chain, p, scatter, {}).feet if chain.count else np.empty(0)
    empty = [int(((s >= ends[4 * i + 1]) & (s <= ends[4 * i + 4])).sum()) < 2 for i in range(chain.count)]
    wild = int((chain.radius <= 1.01 * LEAST_RADIUS).sum()) + sum(empty)
    return (
        float(np.minimum(off**2, FAR_OFF).sum())
        + values * max(float(np.log(len(p))), LEAST_WORTH)
        + 20.0 * min(overlap, 50.0)
        + 1e3 * wild
    )


def _two(chain: Chain, i: int, share: float, ratio: float) -> Chain:
    """The chain with a bend parted at a share of its length, without transitions; radii apart by a ratio each way."""
    laid = laid_out(chain)[0]
    begin, end = laid[0][4 * i + 1], laid[0][4 * i + 4]
    at, heading, _ = (v[0] for v in stand(laid, np.array([begin + share * (end - begin)])))
    turned = abs(laid[2][4 * i + 4] - laid[2][4 * i])
    usual = (end - begin) / max(turned, 1e-3)
    onward = np.array([np.sin(heading), np.cos(heading)])
    new = []
    for k in (i, i + 1):  # where the tangent at the parting meets the one before and the one behind
        a, leg = chain.pis[k], chain.pis[k + 1] - chain.pis[k]
        t = ((at - a)[0] * onward[1] - (at - a)[1] * onward[0]) / (leg[0] * onward[1] - leg[1] * onward[0])
        new.append(a + t * leg)
    return Chain(
        np.concatenate([chain.pis[: i + 1], new, chain.pis[i + 2 :]]),
        np.concatenate([chain.radius[:i], [usual * ratio, usual / ratio], chain.radius[i + 1 :]]),
        np.concatenate([chain.squares[:i], np.zeros((2, 2)), chain.squares[i + 1 :]]),
        np.concatenate([chain.fixed[:i], [[False, True, False], [True, False, False]], chain.fixed[i + 1 :]]),
    )


# --- what is doubtful ------------------------------------------------------------------------------------------
def _doubts_of(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> tuple[FitDoubt, ...]:
    """Bends whose radius the points tell poorly (``SURE`` standard deviations by the curvature of the sum of squares), and bends they
    do not follow."""
    words = ("spiral_in", "spiral_out", "radius")
    of_person = np.array([[w in held.get(i, {}) for w in words] for i in range(chain.count)], bool)
    problem = Problem(
        replace(chain, fixed=of_person.reshape(-1, 3)), p, scatter, held
    )  # none that was not shown is known to be none
    x = problem.base[problem.free]
    off = problem.offsets(x)[: len(p)]
    slopes = problem.slopes(x)
    deviation = np.zeros(len(problem.base))
    deviation[problem.free] = np.sqrt(np.maximum(np.diag(np.linalg.pinv(slopes.T @ slopes)), 0))
    b, ends = chain.count, laid_out(chain)[0][0]
    out = []
    for i in range(b + 1):
        own = off[(problem.feet >= ends[4 * i]) & (problem.feet <= ends[4 * i + 1])]
        if len(own) >= 4 and (rms := _usual(own)) > NOT_FOLLOWED:
            out.append(FitDoubt(-1, "straight", rms * scatter, float(ends[4 * i]), float(ends[4 * i + 1])))
    for i in range(b):
        own = off[(problem.feet >= ends[4 * i + 1]) & (problem.feet <= ends[4 * i + 4])]
        limits = float(ends[4 * i + 1]), float(ends[4 * i + 4])
        unsure = SURE * float(deviation[2 + 2 * b + i]) * chain.radius[i] ** 2 / BENT
        if unsure > RADIUS_UNSURE * chain.radius[i]:
            out.append(FitDoubt(i, "radius", float(unsure), *limits))
        elif len(own) >= 3 and (rms := _usual(own)) > NOT_FOLLOWED:
            out.append(FitDoubt(i, "follows", rms * scatter, *limits))
        elif len(own) < 3:
            out.append(FitDoubt(i, "points", float(len(own)), *limits))
    return tuple(out)


def _usual(off: Floats) -> float:
    return float(np.sqrt(np.mean(np.minimum(off**2, 25.0))))


def _without_doubtful_transitions(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> Chain:
    """Transitions that the points do not show become none, and stay so: all that may well be none are left out together;
    where the fit loses more than ``WORTH`` for each, halves of them are tried on their own."""
    problem = Problem(chain, p, scatter, held)
    slopes = problem.slopes(problem.base[problem.free])
    deviation = np.zeros(len(problem.base))
    deviation[problem.free] = np.sqrt(np.maximum(np.diag(np.linalg.pinv(slopes.T @ slopes)), 0))
    own = deviation[2 + 3 * chain.count :].reshape(-1, 2)
    doubt = [
        (float(chain.squares[i, k] / max(own[i, k], 1e-9)), int(i), int(k))
        for i, k in np.argwhere(~chain.fixed[:, :2])
        if chain.squares[i, k] < max(SURE * own[i, k], DOUBTFUL**2)
    ]
    doubtful = [(i, k) for _, i, k in sorted(doubt)]
    best = _cost(chain, p, scatter, held)

    def without(chain: Chain, best: float, some: list[tuple[int, int]]) -> tuple[Chain, float]:
        tried = refine(_bare(chain, some), p, scatter, held)
        cost = _cost(tried, p, scatter, held)
        if cost - best <= WORTH * len(some):
            return tried, cost
        if len(some) == 1:
            return chain, best
        half = len(some) // 2
        chain, best = without(chain, best, some[:half])
        return without(chain, best, some[half:])

    return without(chain, best, doubtful)[0] if doubtful else chain


def _bare(chain: Chain, transitions: Sequence[tuple[int, int]]) -> Chain:
    squares, fixed = chain.squares.copy(), chain.fixed.copy()
    for i, k in transitions:
        squares[i, k], fixed[i, k] = 0.0, True
    return replace(chain, squares=squares, fixed=fixed)


def _cost(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> float:
    """Twice the negative logarithm of the likelihood, Huber's way, in units of the scatter."""
    problem = Problem(chain, p, scatter, held)
    r = np.abs(problem.offsets(problem.base[problem.free])[: len(p)])
    return float(np.where(r < 3, r**2, 6 * r - 9).sum())


# --- the result ----------------------------------------------------------------------------------------------
def _result(
    chain: Chain, p: Floats, origin: Floats, given: Floats, held: Mapping[int, Mapping[str, float]], doubts: tuple[FitDoubt, ...]
) -> LineFit:
    pis = _pis_of(chain, origin, p)
    line = alignment_from_pis(pis)
    found = project_points(line, given)
    spread = max(1.5 * float(np.median(np.abs(found.offset))), NO_SMALLER_SCATTER)
    left_out = np.abs(found.offset) > OUTLIER * spread
    bends = []
    for i in range(chain.count):
        turn = np.sign(deflection_at(pis, i + 1))
        own = np.flatnonzero(line.pi_of == i + 1)
        start, end = (float(line.stations[own[0]]), float(line.stations[own[-1] + 1])) if len(own) else (0.0, 0.0)
        near = found.offset[(found.station >= start) & (found.station <= end) & ~left_out]
        bends.append(
            FittedBend(
                float(turn), pis[i + 1].radius, pis[i + 1].spiral_in, pis[i + 1].spiral_out, start, end,
                float(np.sqrt(np.mean(near**2))) if len(near) else 0.0, float(np.abs(near).max(initial=0.0)), tuple(held.get(i, {})),
            )
        )  # fmt: skip
    rms = float(np.sqrt(np.mean(found.offset[~left_out] ** 2)))
    away = [
        FitDoubt(-1, "away", float(b - a + 1), float(found.station[a : b + 1].min()), float(found.station[a : b + 1].max()))
        for a, b in runs_of(left_out) if b - a + 1 >= IN_A_ROW
    ]  # fmt: skip
    doubts = (*doubts, *away)
    return LineFit(tuple(pis), line, tuple(bends), found.station, found.offset, left_out, rms, doubts)


def _pis_of(chain: Chain, origin: Floats, p: Floats) -> list[PI]:
    """The chain as PIs, from the first point's foot to the last one's; bends that overlap by a rounding are drawn in."""
    at = chain.pis + origin
    legs = np.diff(chain.pis, axis=0)
    for end, point, leg in ((0, p[0], legs[0]), (-1, p[-1], legs[-1])):  # as far as there are points
        at[end] += ((point - at[end]) @ leg) / (leg @ leg) * leg
    azimuth = np.arctan2(legs[:, 0], legs[:, 1])
    angle = np.abs((np.diff(azimuth) + np.pi) % (2 * np.pi) - np.pi)
    lengths = np.sqrt(chain.squares)
    most = 2 * chain.radius * angle * (1 - 1e-9)
    lengths = lengths * np.minimum(1.0, most / np.maximum(lengths.sum(axis=1), 1e-9))[:, None]
    radius, spirals = [0.0, *chain.radius, 0.0], [(0.0, 0.0), *lengths, (0.0, 0.0)]
    pis = [PI(float(e), float(n), float(r), float(a), float(b)) for (e, n), r, (a, b) in zip(at, radius, spirals, strict=True)]
    return drawn_in(pis)


def drawn_in(pis: list[PI]) -> list[PI]:
    """PIs whose neighbouring bends overlap by a rounding, with these bends made shorter by as much."""
    pis = list(pis)
    for _ in range(20):
        room, needed = [], []
        tangents = [
            (0.0, 0.0),
            *(curve_tangents(pis[i], deflection_at(pis, i), i + 1) for i in range(1, len(pis) - 1)),
            (0.0, 0.0),
        ]
        for a, b, (_, out), (into, _) in zip(pis, pis[1:], tangents, tangents[1:], strict=False):
            room.append(float(np.hypot(b.easting - a.easting, b.northing - a.northing)))
            needed.append(out + into)
        short = [i for i in range(len(room)) if needed[i] > room[i]]
        if not short:
            break
        i = short[0]
        share = (1 - 1e-9) * room[i] / needed[i]
        for k in (i, i + 1):
            if 0 < k < len(pis) - 1:
                q = pis[k]
                pis[k] = replace(q, radius=q.radius * share, spiral_in=q.spiral_in * share, spiral_out=q.spiral_out * share)
    return pis
