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

from ..arrays import runs_of
from ..errors import InputError
from .element import travel
from .horizontal import PI, HorizontalAlignment, alignment_from_pis, curve_tangents, deflection_at, project_points
from .places import feet_all, stand_all

Floats = NDArray[np.float64]

__all__ = ["HELD_WORDS", "FittedBend", "LineFit", "drawn_in", "fit_whole_line"]

LEAST_TURN = np.radians(2.0)  # of a bend that is worth a curve
SMALL_TURN = np.radians(4.0)  # bends below this are asked whether they are there
LEAST_POINTS = 8
OUTLIER = 6.0  # times the scatter of the rest
NO_SMALLER_SCATTER = 0.002  # m; total stations resolve no less
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
    chain, scatter = _first_chain(p - origin)
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


# --- a row of tangents with their bends ----------------------------------------------------------------------
@dataclass(frozen=True, slots=True, eq=False)
class _Chain:
    """PIs (b + 2, 2); radius (b,); squares of the transitions' lengths (b, 2), since they shift the arc by L^2 / (24 R); what of
    entry, exit and radius is held (b, 3). The straights hang on the PIs alone, so a bend moves nothing but itself."""

    pis: Floats
    radius: Floats
    squares: Floats
    fixed: NDArray[np.bool_]

    @property
    def count(self) -> int:
        return len(self.radius)


def _laid(chain: _Chain) -> tuple[tuple[Floats, ...], float]:
    """Ends along the line, places and headings of all element starts, lengths, k0, k1; and how far bends overlap, m in all."""
    legs = np.diff(chain.pis, axis=0)
    leg = np.hypot(*legs.T)
    azimuth = np.arctan2(legs[:, 0], legs[:, 1])
    deflection = (np.diff(azimuth) + np.pi) % (2 * np.pi) - np.pi
    turn, angle = np.where(deflection < 0, -1.0, 1.0), np.maximum(np.abs(deflection), 1e-5)
    r, spirals = chain.radius, np.sqrt(chain.squares)
    too_long = np.minimum(1.0, 1.999 * r * angle / np.maximum(spirals.sum(axis=1), 1e-12))
    overlap = float(np.sum((1 - too_long) * spirals.sum(axis=1)))
    spirals = spirals * too_long[:, None]
    safe = np.maximum(spirals, 1e-9)
    x, y, a = travel(spirals, safe, 0.0, np.broadcast_to(1 / r[:, None], spirals.shape))
    shift, along = y - r[:, None] * (1 - np.cos(a)), x - r[:, None] * np.sin(a)
    sin, tan = np.sin(angle), np.tan(angle)
    t_in = (r + shift[:, 1]) / sin - (r + shift[:, 0]) / tan + along[:, 0]
    t_out = (r + shift[:, 0]) / sin - (r + shift[:, 1]) / tan + along[:, 1]
    straight = leg - np.append(0.0, t_out) - np.append(t_in, 0.0)
    overlap += float(-np.minimum(straight, 0).sum())
    arc = np.maximum(r * angle - 0.5 * spirals.sum(axis=1), 0.0)
    k, zero = turn / r, np.zeros(len(r))
    lengths = np.append(np.column_stack([straight[:-1], spirals[:, 0], arc, spirals[:, 1]]).ravel(), straight[-1])
    k0, k1 = (np.append(np.column_stack(c).ravel(), 0.0) for c in ((zero, zero, k, k), (zero, k, k, zero)))
    lengths = np.maximum(lengths, 1e-9)
    ahead, right, turned = (v.reshape(-1, 4)[:, 1:] for v in travel(lengths[:-1], lengths[:-1], k0[:-1], k1[:-1]))
    heading = azimuth[:-1, None] + np.column_stack([zero, np.cumsum(turned, axis=1)])
    steps = _across(ahead, right, heading[:, :3])
    direction = legs / leg[:, None]
    bend = chain.pis[1:-1] - t_in[:, None] * direction[:-1]
    starts = bend[:, None] + np.concatenate([np.zeros((len(r), 1, 2)), np.cumsum(steps, axis=1)], axis=1)
    before = np.concatenate([chain.pis[:1], starts[:, 3]])  # where straights start
    place = np.concatenate([np.concatenate([before[:-1, None], starts[:, :3]], axis=1).reshape(-1, 2), before[-1:]])
    headings = np.append(np.column_stack([azimuth[:-1], heading[:, :3]]).ravel(), azimuth[-1])
    return (np.concatenate([[0.0], np.cumsum(lengths)]), place, headings, lengths, k0, k1), overlap


def _across(ahead: Floats, right: Floats, heading: Floats) -> Floats:
    sin, cos = np.sin(heading), np.cos(heading)
    return np.stack([ahead * sin + right * cos, ahead * cos - right * sin], axis=-1)


def _at(laid: tuple[Floats, ...], s: Floats) -> tuple[Floats, Floats, Floats]:
    """Place, heading, curvature at distances (n,); straight on before the start and after the end."""
    ends, place, heading, lengths, k0, k1 = laid
    out = stand_all(ends, place, heading, lengths, k0, k1, s)
    return out[:, :2], out[:, 2], out[:, 3]


def _feet(laid: tuple[Floats, ...], p: Floats, s: Floats, steps: int = 4) -> tuple[Floats, Floats]:
    """Distance along and offset (+ right) of points, from guesses of the distances."""
    ends, place, heading, lengths, k0, k1 = laid
    foot, offset = feet_all(ends, place, heading, lengths, k0, k1, p, s, steps)
    return foot, offset


# --- a first chain from smoothed curvature -------------------------------------------------------------------
def _first_chain(p: Floats) -> tuple[_Chain, float]:
    from scipy.signal import savgol_filter

    s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
    step = max(s[-1] / 6000, float(np.median(np.diff(s))) / 2)
    even = np.arange(0.0, s[-1], step)

    def resampled(keep: NDArray[np.bool_]) -> Floats:
        return np.stack([np.interp(even, s[keep], p[keep, i]) for i in (0, 1)], axis=-1)

    keep, scatter = np.ones(len(p), bool), _scatter(p)
    apart = float(np.median(np.diff(s)))
    short = _odd(5 * apart / step, len(even))
    for _ in range(3):  # leave out what jumps off its neighbours
        smooth = savgol_filter(resampled(keep), short, 2, axis=0)
        off = np.hypot(*(p - np.stack([np.interp(s, even, smooth[:, i]) for i in (0, 1)], axis=-1)).T)
        keep = off < OUTLIER * 2 * scatter
    grid = resampled(keep)
    found: list[tuple[int, int, float]] = []
    free = np.ones(len(even), bool)
    for window in _windows(scatter, apart, s[-1]):
        w = _odd(window / step, len(even))
        k = _curvature(grid, w, step)
        sure = 4.0 * scatter * np.sqrt(720 * apart / window) / window**2  # standard deviation of a quadratic's second derivative
        for turn in (1.0, -1.0):
            bends = (turn * k > sure) & free
            for a, b in runs_of(bends):
                turned = float(np.sum(turn * k[a : b + 1]) * step)
                if turned > LEAST_TURN * 0.7:
                    found.append((a, b, turn))
        for a, b, _ in found:
            free[max(a - w // 2, 0) : b + 1 + w // 2] = False
    found.sort()
    return _chain_of(grid, found, step, _odd(_windows(scatter, apart, s[-1])[0] / step, len(even))), scatter


def _scatter(p: Floats) -> float:
    """Standard deviation of the points across their line, m: from third differences, which no arc bends."""
    third = np.diff(p, 3, axis=0)
    along = p[3:] - p[:-3]
    across = (third[:, 0] * along[:, 1] - third[:, 1] * along[:, 0]) / np.maximum(np.hypot(*along.T), 1e-9)
    return max(1.4826 * float(np.median(np.abs(across))) / float(np.sqrt(20.0)), NO_SMALLER_SCATTER)


def _windows(scatter: float, apart: float, whole: float) -> tuple[float, float]:
    """Lengths (m) over which curvature is told: short for sharp bends, then longer for the gentle ones between."""
    first = (4 * scatter * 2500 * np.sqrt(720 * apart)) ** 0.4  # tells R 2500 m from straight
    first = float(np.clip(first, 6 * apart, whole / 3))
    return first, float(np.clip(3 * first, first, whole / 2))


def _odd(count: float, most: int) -> int:
    n = int(np.clip(count, 5, most if most % 2 else most - 1))
    return n if n % 2 else n + 1


def _curvature(grid: Floats, window: int, step: float) -> Floats:
    from scipy.signal import savgol_filter

    e1, n1 = savgol_filter(grid, window, 2, deriv=1, delta=step, axis=0).T
    e2, n2 = savgol_filter(grid, window, 2, deriv=2, delta=step, axis=0).T
    return np.asarray((n1 * e2 - e1 * n2) / (e1**2 + n1**2) ** 1.5)  # + right: clockwise from north


def _chain_of(grid: Floats, found: Sequence[tuple[int, int, float]], step: float, window: int) -> _Chain:
    """Tangents fitted between the runs, PIs where they cross; full curvature from the upper part of a run, transitions from
    what its length leaves."""
    k = _curvature(grid, window, step)
    edges = [0, *(i for a, b, _ in found for i in (a, b)), len(grid) - 1]
    tangents = [_tangent(grid, a, b, window) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    pis, radius, squares = [], [], []
    at, direction = tangents[0]
    first = at
    for (a, b, turn), (there, onward) in zip(found, tangents[1:], strict=True):
        run = turn * k[a : b + 1]
        full = max(float(np.quantile(run, 0.8)), 1e-6)
        cross = direction[0] * onward[1] - direction[1] * onward[0]
        if abs(cross) < 1e-3:  # hardly a bend after all
            continue
        d = there - at
        ahead = float((d[0] * onward[1] - d[1] * onward[0]) / cross)
        pis.append(at + ahead * direction)
        arc = abs(float(np.arcsin(np.clip(cross, -1, 1)))) / full
        ramp = float(np.clip((b - a + 1) * step - arc, 0.0, 0.5 * arc))
        radius.append(1 / full)
        squares.append([ramp**2, ramp**2])
        at, direction = there, onward
    n = len(radius)
    ends = [first + ((grid[0] - first) @ tangents[0][1]) * tangents[0][1], at + ((grid[-1] - at) @ direction) * direction]
    return _Chain(
        np.array([ends[0], *pis, ends[1]], float), np.array(radius, float), np.array(squares, float).reshape(n, 2), np.zeros((n, 3), bool)
    )  # fmt: skip


def _tangent(grid: Floats, a: int, b: int, window: int) -> tuple[Floats, Floats]:
    """A place on the straight between two runs, and its direction."""
    margin = min(window // 4, (b - a) // 4)
    a, b = a + margin, b - margin
    if b - a < 6:  # hardly a straight: the direction in the middle between the bends
        middle = (a + b) // 2
        a, b = max(middle - 3, 0), min(middle + 4, len(grid))
    part = grid[a : b + 1]
    middle = part.mean(axis=0)
    direction = np.linalg.svd(part - middle, full_matrices=False)[2][0]
    return middle, direction if direction @ (part[-1] - part[0]) > 0 else -direction


# --- refinement ----------------------------------------------------------------------------------------------
def _hold(chain: _Chain, held: Mapping[int, Mapping[str, float]]) -> _Chain:
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

    def __init__(self, chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> None:
        self.chain, self.p, self.scatter, b = chain, p, scatter, chain.count
        self.limits = [(i, w, v) for i, words in held.items() for w, v in words.items() if w in ("start", "end")]
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
        self.feet = _feet(_laid(chain)[0], p, s, 12)[0]
        directions = np.diff(chain.pis, axis=0)[[0, -1]]
        self.sides = np.stack([directions[:, 1], -directions[:, 0]], axis=-1) / np.hypot(*directions.T)[:, None]
        self.even = np.flatnonzero(~chain.fixed[:, :2].any(axis=1))
        self.base = np.concatenate([[0.0, 0.0], chain.pis[1:-1].ravel(), chain.radius, chain.squares.ravel()])
        self.free = np.flatnonzero(np.concatenate([np.ones(2 + 2 * b, bool), ~chain.fixed[:, 2], ~chain.fixed[:, :2].ravel()]))
        low = np.concatenate([np.full(2 + 2 * b, -np.inf), np.full(b, 5.0), np.zeros(2 * b)])
        self.low = low[self.free]
        self.step = np.concatenate([np.full(2 + 3 * b, 1e-3), np.full(2 * b, 1e-2)])  # m, m, m2

    def at(self, x: Floats) -> _Chain:
        v, b = self.base.copy(), self.chain.count
        v[self.free] = x
        ends = self.chain.pis[[0, -1]] + v[:2, None] * self.sides
        pis = np.concatenate([ends[:1], v[2 : 2 + 2 * b].reshape(b, 2), ends[1:]])
        return replace(self.chain, pis=pis, radius=v[2 + 2 * b : 2 + 3 * b], squares=v[2 + 3 * b :].reshape(b, 2))

    def _more(self, now: _Chain, laid: tuple[Floats, ...], overlap: float) -> Floats:
        """What else is asked for: held limits, even transitions, bends that do not overlap."""
        tied = [(laid[0][4 * i + (1 if word == "start" else 4)] - value) * _STIFF for i, word, value in self.limits]
        lengths = np.sqrt(now.squares[self.even])
        return np.concatenate([tied, (lengths[:, 0] - lengths[:, 1]) / EVEN, [overlap / OVERLAP]])

    def offsets(self, x: Floats) -> Floats:
        """(n + more,) in units of the scatter."""
        now = self.at(x)
        laid, overlap = _laid(now)
        self.feet, off = _feet(laid, self.p, self.feet)
        return np.concatenate([off / self.scatter, self._more(now, laid, overlap)])

    def slopes(self, x: Floats) -> Floats:
        """Change of the offsets with each free value: how the line moves sideways at the feet."""
        now = self.at(x)
        laid, overlap = _laid(now)
        at, heading, _ = _at(laid, self.feet)
        normal = np.stack([np.cos(heading), -np.sin(heading)], axis=-1)
        more, n = self._more(now, laid, overlap), len(self.p)
        out = np.empty((n + len(more), len(self.free)))
        for column, j in enumerate(self.free):
            moved = x.copy()
            moved[column] += self.step[j]
            then = self.at(moved)
            laid_then, overlap_then = _laid(then)
            # the same place along the line, wherever lengths before it have changed
            away = _at(laid_then, _along(laid[0], laid_then[0], self.feet))[0] - at
            out[:n, column] = -np.einsum("ij,ij->i", away, normal) / self.step[j] / self.scatter
            out[n:, column] = (self._more(then, laid_then, overlap_then) - more) / self.step[j]
        return out


def _along(before: Floats, after: Floats, s: Floats) -> Floats:
    """Distances on a line that changed a little, at the same share of the same element."""
    shift = after - before
    return s + np.interp(s, before, shift)


def _refine(
    chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]], rounds: int = 12, enough: float = 1e-5
) -> _Chain:
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


def _without_doubtful_bends(chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> _Chain:
    """Bends that turn little and that the points do not show are left out."""
    best = _cost(chain, p, scatter, held)
    for i in range(chain.count - 1, -1, -1):
        a, b = np.diff(chain.pis[i : i + 3], axis=0)
        if abs(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b)) > SMALL_TURN:
            continue
        bare = _Chain(
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


def _split_compounds(chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> _Chain:
    """A bend that the points do not follow may be two of one sense with different radii: tried, and kept where it fits better."""
    for _ in range(MOST_SPLITS):
        problem = _Problem(chain, p, scatter, held)
        r = problem.offsets(problem.base[problem.free])[: len(p)]
        ends = _laid(chain)[0][0]
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


def _two(chain: _Chain, i: int, share: float, ratio: float) -> _Chain:
    """The chain with a bend parted at a share of its length, without transitions; radii apart by a ratio each way."""
    laid = _laid(chain)[0]
    begin, end = laid[0][4 * i + 1], laid[0][4 * i + 4]
    at, heading, _ = (v[0] for v in _at(laid, np.array([begin + share * (end - begin)])))
    turned = abs(laid[2][4 * i + 4] - laid[2][4 * i])
    usual = (end - begin) / turned
    onward = np.array([np.sin(heading), np.cos(heading)])
    new = []
    for k in (i, i + 1):  # where the tangent at the parting meets the one before and the one behind
        a, leg = chain.pis[k], chain.pis[k + 1] - chain.pis[k]
        t = ((at - a)[0] * onward[1] - (at - a)[1] * onward[0]) / (leg[0] * onward[1] - leg[1] * onward[0])
        new.append(a + t * leg)
    return _Chain(
        np.concatenate([chain.pis[: i + 1], new, chain.pis[i + 2 :]]),
        np.concatenate([chain.radius[:i], [usual * ratio, usual / ratio], chain.radius[i + 1 :]]),
        np.concatenate([chain.squares[:i], np.zeros((2, 2)), chain.squares[i + 1 :]]),
        np.concatenate([chain.fixed[:i], [[False, True, False], [True, False, False]], chain.fixed[i + 1 :]]),
    )


def _without_doubtful_transitions(chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> _Chain:
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

    def without(chain: _Chain, best: float, some: list[tuple[int, int]]) -> tuple[_Chain, float]:
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


def _bare(chain: _Chain, transitions: Sequence[tuple[int, int]]) -> _Chain:
    squares, fixed = chain.squares.copy(), chain.fixed.copy()
    for i, k in transitions:
        squares[i, k], fixed[i, k] = 0.0, True
    return replace(chain, squares=squares, fixed=fixed)


def _cost(chain: _Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> float:
    """Twice the negative logarithm of the likelihood, Huber's way, in units of the scatter."""
    problem = _Problem(chain, p, scatter, held)
    r = np.abs(problem.offsets(problem.base[problem.free])[: len(p)])
    return float(np.where(r < 3, r**2, 6 * r - 9).sum())


# --- the result ----------------------------------------------------------------------------------------------
def _result(chain: _Chain, p: Floats, origin: Floats, given: Floats, held: Mapping[int, Mapping[str, float]]) -> LineFit:
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


def _pis_of(chain: _Chain, origin: Floats, p: Floats) -> list[PI]:
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
