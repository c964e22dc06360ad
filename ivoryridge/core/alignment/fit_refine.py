"""A chain of bends refined: all lengths, curvatures and PIs at once, so that the offsets of points at right angles become least."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from .bend_chain import Chain, feet, laid_out, stand

Floats = NDArray[np.float64]

__all__ = ["BENT", "LEAST_RADIUS", "Problem", "hold", "refine"]

BENT = 1000.0  # m; bends are counted in their curvature per km, in which a line moves evenly
FLATTEST_RADIUS = 30_000.0  # m
LEAST_RADIUS = 12.0  # m; no road turns more sharply
EVEN = 15.0  # m by which the two transitions of a bend may differ unless the points show more (common practice: equal ones)
OVERLAP = 0.02  # m of overlapping bends that weigh as much as one scatter of a point
_STIFF = 1e3  # weight of a held limit against a metre of offset


def hold(chain: Chain, held: Mapping[int, Mapping[str, float]]) -> Chain:
    """The chain with what is held of its bends: radius, spiral_in, spiral_out (m). Raises InputError on a bend that is not there."""
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


class Problem:
    """Offsets of points from a chain, and how they change with what is free in it: the end PIs sideways, the others both ways,
    curvatures, and squares of transitions."""

    def __init__(self, chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]]) -> None:
        self.chain, self.p, self.scatter, b = chain, p, scatter, chain.count
        self.limits = [(i, w, v) for i, words in held.items() for w, v in words.items() if w in ("start", "end")]
        s = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(p, axis=0).T))])
        self.feet = feet(laid_out(chain)[0], p, s, 12)[0]
        directions = np.diff(chain.pis, axis=0)[[0, -1]]
        self.sides = np.stack([directions[:, 1], -directions[:, 0]], axis=-1) / np.hypot(*directions.T)[:, None]
        self.even = np.flatnonzero(~chain.fixed[:, :2].any(axis=1))
        self.base = np.concatenate([[0.0, 0.0], chain.pis[1:-1].ravel(), BENT / chain.radius, chain.squares.ravel()])
        self.free = np.flatnonzero(np.concatenate([np.ones(2 + 2 * b, bool), ~chain.fixed[:, 2], ~chain.fixed[:, :2].ravel()]))
        low = np.concatenate([np.full(2 + 2 * b, -np.inf), np.full(b, BENT / FLATTEST_RADIUS), np.zeros(2 * b)])
        high = np.concatenate([np.full(2 + 2 * b, np.inf), np.full(b, BENT / LEAST_RADIUS), np.full(2 * b, np.inf)])
        self.low, self.high = low[self.free], high[self.free]
        self.step = np.concatenate(
            [np.full(2 + 2 * b, 1e-3), 1e-5 * self.base[2 + 2 * b : 2 + 3 * b], np.full(2 * b, 1e-2)]
        )  # m, 1/km, m2
        self.step = self.step[self.free]

    def at(self, x: Floats) -> Chain:
        v, b = self.base.copy(), self.chain.count
        v[self.free] = x
        ends = self.chain.pis[[0, -1]] + v[:2, None] * self.sides
        pis = np.concatenate([ends[:1], v[2 : 2 + 2 * b].reshape(b, 2), ends[1:]])
        return replace(self.chain, pis=pis, radius=BENT / v[2 + 2 * b : 2 + 3 * b], squares=v[2 + 3 * b :].reshape(b, 2))

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
        for column in range(len(self.free)):
            moved = x.copy()
            moved[column] += self.step[column]
            then = self.at(moved)
            laid_then, overlap_then = laid_out(then)
            # the same place along the line, wherever lengths before it have changed
            away = stand(laid_then, _along(laid[0], laid_then[0], self.feet))[0] - at
            out[:n, column] = -np.einsum("ij,ij->i", away, normal) / self.step[column] / self.scatter
            out[n:, column] = (self._more(then, laid_then, overlap_then) - more) / self.step[column]
        return out


def _along(before: Floats, after: Floats, s: Floats) -> Floats:
    """Distances on a line that changed a little, at the same share of the same element."""
    shift = after - before
    return s + np.interp(s, before, shift)


def refine(
    chain: Chain, p: Floats, scatter: float, held: Mapping[int, Mapping[str, float]], rounds: int = 12, enough: float = 1e-5
) -> Chain:
    """Levenberg's and Marquardt's steps with lengths and radii kept from going below their least; points far off the rest weigh little
    (Huber)."""
    problem = Problem(chain, p, scatter, held)
    x = np.clip(problem.base[problem.free], problem.low, problem.high)
    r = problem.offsets(x)
    damping, weights = 1e-3, np.ones(len(r))
    for _ in range(rounds):
        n = len(p)
        usual = max(1.5 * float(np.median(np.abs(r[:n]))), 0.1)
        weights[:n] = 1.0 / np.maximum(np.abs(r[:n]) / (3.0 * usual), 1.0)
        j = problem.slopes(x)
        normal, down = (j.T * weights) @ j, (j.T * weights) @ r
        moves = ~((x <= problem.low) & (down > 0)) & ~((x >= problem.high) & (down < 0))
        size = np.maximum(np.diag(normal), 1e-12)
        before = float(weights @ r**2)
        for _ in range(8):
            change = np.zeros(len(x))
            change[moves] = -np.linalg.solve((normal + damping * np.diag(size))[np.ix_(moves, moves)], down[moves])
            tried = np.clip(x + change, problem.low, problem.high)
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
