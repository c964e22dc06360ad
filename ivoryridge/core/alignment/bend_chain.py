"""A row of tangents with their bends, laid out as elements: what a line fit works on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .element import travel
from .places import feet_all, stand_all

Floats = NDArray[np.float64]

__all__ = ["Chain", "feet", "laid_out", "stand"]


@dataclass(frozen=True, slots=True, eq=False)
class Chain:
    """PIs (b + 2, 2); radius (b,); squares of the transitions' lengths (b, 2), since they shift the arc by L^2 / (24 R); what of
    entry, exit and radius is held (b, 3). The straights hang on the PIs alone, so a bend moves nothing but itself."""

    pis: Floats
    radius: Floats
    squares: Floats
    fixed: NDArray[np.bool_]

    @property
    def count(self) -> int:
        return len(self.radius)


def laid_out(chain: Chain) -> tuple[tuple[Floats, ...], float]:
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


def stand(laid: tuple[Floats, ...], s: Floats) -> tuple[Floats, Floats, Floats]:
    """Place, heading, curvature at distances (n,); straight on before the start and after the end."""
    ends, place, heading, lengths, k0, k1 = laid
    out = stand_all(ends, place, heading, lengths, k0, k1, s)
    return out[:, :2], out[:, 2], out[:, 3]


def feet(laid: tuple[Floats, ...], p: Floats, s: Floats, steps: int = 4) -> tuple[Floats, Floats]:
    """Distance along and offset (+ right) of points, from guesses of the distances."""
    ends, place, heading, lengths, k0, k1 = laid
    foot, offset = feet_all(ends, place, heading, lengths, k0, k1, p, s, steps)
    return foot, offset
