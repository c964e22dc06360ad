"""A whole line through measured points: straights, arcs and transitions proposed from their curvature, refined by least squares.

The line is a chain of bends between straights. Bends follow from runs of smoothed curvature; then all lengths and curvatures
are refined at once so that the offsets at right angles become least. What the engineer holds stays, the rest follows.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from .bend_chain import Chain, feet, laid_out, stand
from .first_chain import NO_SMALLER_SCATTER, OUTLIER, first_chain
from .horizontal import PI, HorizontalAlignment, alignment_from_pis, curve_tangents, deflection_at, project_points

Floats = NDArray[np.float64]

__all__ = ["HELD_WORDS", "FittedBend", "LineFit", "drawn_in", "fit_whole_line"]

SMALL_TURN = np.radians(4.0)  # bends below this are asked whether they are there
LEAST_POINTS = 8
HELD_WORDS = ("radius", "spiral_in", "spiral_out", "start", "end")
SURE = 2.5  # standard deviations by which a transition must show
DOUBTFUL = 25.0  # m; shorter ones are always asked whether they are there
WORTH = 8.0  # of twice the log-likelihood
EVEN = 15.0  # m by which the two transitions of a bend may differ unless the points show more (common practice: equal ones)
NOT_FOLLOWED = 1.8  # times the scatter of the rest
MOST_SPLITS = 3
OVERLAP = 0.02  # m of overlapping bends that weigh as much as one scatter of a point
_STIFF = 1e3  # weight of a held limit against a metre of offset


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
    origin = p.mean(axis=0)
    chain, scatter = first_chain(p - origin)
    held = dict(held or {})
    if held and bends is not None and chain.count != bends:
        raise InputError("fit-bends-changed", before=bends, now=chain.count)
    chain = _hold(chain, held)
    some = p[:: max(len(p) // 400, 1)] - origin
    chain = _refine(chain, some, scatter, held, 40, 1e-3)
    chain = _refine(chain, p - origin, scatter, held)
    if not held:
        chain = _without_doubtful_bends(_split_compounds(chain, p - origin, scatter, held), p - origin, scatter, held)
    problem = _Problem(chain, p - origin, 1.0, held)
    scatter = max(1.4826 * float(np.median(np.abs(problem.offsets(problem.base[problem.free])[: len(p)]))), NO_SMALLER_SCATTER)
    chain = _without_doubtful_transitions(chain, p - origin, scatter, held)
    chain = _refine(chain, p - origin, scatter, held)
    return _result(chain, p, origin, np.asarray(points, float)[:, :2], held)


def _different(p: Floats) -> Floats:
    """Without points that repeat their neighbour."""
    p = p[np.isfinite(p).all(axis=1)]
    return p[np.concatenate([[True], np.hypot(*np.diff(p, axis=0).T) > 1e-6])] if len(p) else p


# --- refinement ----------------------------------------------------------------------------------------------
def _hold(chain: Chain, held: Mapping[int, Mapping[str, float]]) -> Chain:
    squares, radius, fixed = chain.squares.copy(), chain.radius.copy(), chain.fixed.copy()
    for i, values in held.items():
        if not 0 <= i < chain.count:
            raise InputError("fit-bends-changed", before=i + 1, now=chain.count)
        for word, value in values.items():
            if not np.isfinite(value) or value < 0 or (word == "radius" and value <= 0):
                raise InputError("negative-value", what=f"The {word.replace('_', ' ')}", where_=f"bend {i + 1}", value=value)
        if "radius" in values:
            radius[i], fixed[i, 2] = values["radius"], True
        for k, word in enumerate(("spiral_in", "spiral_out")):
            if word in values:
                squares[i, k], fixed[i, k] = values[word] ** 2, True
    return replace(chain, squares=squares, radius=radius, fixed=fixed)


class _Problem:
    """Offsets of points from a chain, and how they change with what is free in it: the end PIs sideways, the others both ways,
    radii, and squares of transitions."""

    def __init__(self, chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> None:
        self.chain, self.p, self.scatter, b = chain, p, scatter, chain.count
        self.limits = [(i, w, v) for i, words in held.items() for w, v in words.items() if w in ("start", "end")]
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
        self.feet = feet(laid_out(chain)[0], p, s, 12)[0]
        directions = np.diff(chain.pis, axis=0)[[0, -1]]
        self.sides = np.stack([directions[:, 1], -directions[:, 0]], axis=-1) / np.hypot(*directions.T)[:, None]
        self.even = np.flatnonzero(~chain.fixed[:, :2].any(axis=1))
        self.base = np.concatenate([[0.0, 0.0], chain.pis[1:-1].ravel(), chain.radius, chain.squares.ravel()])
        self.free = np.flatnonzero(np.concatenate([np.ones(2 + 2 * b, bool), ~chain.fixed[:, 2], ~chain.fixed[:, :2].ravel()]))
        low = np.concatenate([np.full(2 + 2 * b, -np.inf), np.full(b, 5.0), np.zeros(2 * b)])
        self.low = low[self.free]
        self.step = np.concatenate([np.full(2 + 3 * b, 1e-3), np.full(2 * b, 1e-2)])  # m, m, m2

    def at(self, x: Floats) -> Chain:
        v, b = self.base.copy(), self.chain.count
        v[self.free] = x
        ends = self.chain.pis[[0, -1]] + v[:2, None] * self.sides
        pis = np.concatenate([ends[:1], v[2 : 2 + 2 * b].reshape(b, 2), ends[1:]])
        return replace(self.chain, pis=pis, radius=v[2 + 2 * b : 2 + 3 * b], squares=v[2 + 3 * b :].reshape(b, 2))

    def _more(self, now: Chain, laid: tuple[Floats, ...], overlap: float) -> Floats:
        """What else is asked for: held limits, even transitions, bends that do not overlap."""
        tied = [(laid[0][4 * i + (1 if word == "start" else 4)] - value) * _STIFF for i, word, value in self.limits]
        lengths = np.sqrt(now.squares[self.even])
        return np.concatenate([tied, (lengths[:, 0] - lengths[:, 1]) / EVEN, [overlap / OVERLAP]])

    def offsets(self, x: Floats) -> Floats:
        """(n + more,) in units of the scatter."""
        now = self.at(x)
        laid, overlap = laid_out(now)
        self.feet, off = feet(laid, self.p, self.feet)
        return np.concatenate([off / self.scatter, self._more(now, laid, overlap)])

    def slopes(self, x: Floats) -> Floats:
        """Change of the offsets with each free value: how the line moves sideways at the feet."""
        now = self.at(x)
        laid, overlap = laid_out(now)
        at, heading, _ = stand(laid, self.feet)
        normal = np.stack([np.cos(heading), -np.sin(heading)], axis=-1)
        more, n = self._more(now, laid, overlap), len(self.p)
        out = np.empty((n + len(more), len(self.free)))
        for column, j in enumerate(self.free):
            moved = x.copy()
            moved[column] += self.step[j]
            then = self.at(moved)
            laid_then, overlap_then = laid_out(then)
            # the same place along the line, wherever lengths before it have changed
            away = stand(laid_then, _along(laid[0], laid_then[0], self.feet))[0] - at
            out[:n, column] = -np.einsum("ij,ij->i", away, normal) / self.step[j] / self.scatter
            out[n:, column] = (self._more(then, laid_then, overlap_then) - more) / self.step[j]
        return out


def _along(before: Floats, after: Floats, s: Floats) -> Floats:
    """Distances on a line that changed a little, at the same share of the same element."""
    shift = after - before
    return s + np.interp(s, before, shift)


def _refine(
    chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]], rounds: int = 12, enough: float = 1e-5
) -> Chain:
    """Levenberg's and Marquardt's steps with lengths and radii kept from going below their least; points far off the rest weigh little (Huber)."""
    problem = _Problem(chain, p, scatter, held)
    x = np.maximum(problem.base[problem.free], problem.low)
    r = problem.offsets(x)
    damping, weights = 1e-3, np.ones(len(r))
    for _ in range(rounds):
        n = len(p)
        usual = max(1.5 * float(np.median(np.abs(r[:n]))), 0.1)
        weights[:n] = 1.0 / np.maximum(np.abs(r[:n]) / (3.0 * usual), 1.0)
        j = problem.slopes(x)
        normal, down = (j.T * weights) @ j, (j.T * weights) @ r
        moves = ~((x <= problem.low) & (down > 0))
        size = np.maximum(np.diag(normal), 1e-12)
        before = float(weights @ r**2)
        for _ in range(8):
            change = np.zeros(len(x))
            change[moves] = -np.linalg.solve((normal + damping * np.diag(size))[np.ix_(moves, moves)], down[moves])
            tried = np.maximum(x + change, problem.low)
            r_tried = problem.offsets(tried)
            after = float(weights @ r_tried**2)
            if after < before:
                damping = max(damping / 8, 1e-9)
                break
            damping *= 6
        else:
            break
        x, r = tried, r_tried
        if before - after < enough * before:
            break
    return problem.at(x)


def _without_doubtful_bends(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> Chain:
    """Bends that turn little and that the points do not show are left out."""
    best = _cost(chain, p, scatter, held)
    for i in range(chain.count - 1, -1, -1):
        a, b = np.diff(chain.pis[i : i + 3], axis=0)
        if abs(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b)) > SMALL_TURN:
            continue
        bare = Chain(
            np.delete(chain.pis, i + 1, 0),
            np.delete(chain.radius, i, 0),
            np.delete(chain.squares, i, 0),
            np.delete(chain.fixed, i, 0),
        )
        fewer = _refine(bare, p, scatter, held, 8)
        cost = _cost(fewer, p, scatter, held)
        if cost - best < 3 * WORTH:
            chain, best = fewer, cost
    return chain


def _split_compounds(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> Chain:
    """A bend that the points do not follow may be two of one sense with different radii: tried, and kept where it fits better."""
    for _ in range(MOST_SPLITS):
        problem = _Problem(chain, p, scatter, held)
        r = problem.offsets(problem.base[problem.free])[: len(p)]
        ends = laid_out(chain)[0][0]
        off = []
        for i in range(chain.count):
            own = np.abs(r[(problem.feet >= ends[4 * i + 1]) & (problem.feet <= ends[4 * i + 4])])
            off.append(float(np.sqrt(np.mean(np.minimum(own, 10) ** 2))) if len(own) > LEAST_POINTS else 0.0)
        worst = int(np.argmax(off)) if off else -1
        if worst < 0 or off[worst] < NOT_FOLLOWED:
            return chain
        best = _cost(chain, p, scatter, held)
        tried = [_refine(_two(chain, worst, f, q), p, scatter, held, 10) for f in (0.35, 0.65) for q in (0.7, 1.4)]
        cost, two = min(((_cost(t, p, scatter, held), t) for t in tried), key=lambda t: t[0])
        if best - cost < 4 * WORTH:
            return chain
        chain = two
    return chain


def _two(chain: Chain, i: int, share: float, ratio: float) -> Chain:
    """The chain with a bend parted at a share of its length, without transitions; radii apart by a ratio each way."""
    laid = laid_out(chain)[0]
    begin, end = laid[0][4 * i + 1], laid[0][4 * i + 4]
    at, heading, _ = (v[0] for v in stand(laid, np.array([begin + share * (end - begin)])))
    turned = abs(laid[2][4 * i + 4] - laid[2][4 * i])
    usual = (end - begin) / turned
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


def _without_doubtful_transitions(chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> Chain:
    """Transitions that the points do not show become none, and stay so: all that may well be none are left out together;
    where the fit loses more than ``WORTH`` for each, halves of them are tried on their own."""
    problem = _Problem(chain, p, scatter, held)
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
        tried = _refine(_bare(chain, some), p, scatter, held)
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
    problem = _Problem(chain, p, scatter, held)
    r = np.abs(problem.offsets(problem.base[problem.free])[: len(p)])
    return float(np.where(r < 3, r**2, 6 * r - 9).sum())


# --- the result ----------------------------------------------------------------------------------------------
def _result(chain: Chain, p: Floats, origin: Floats, given: Floats, held: Mapping[int, Mapping[str, float]]) -> LineFit:
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
    return LineFit(tuple(pis), line, tuple(bends), found.station, found.offset, left_out, rms)


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
