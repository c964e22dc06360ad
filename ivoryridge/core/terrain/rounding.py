"""A surface with rounded triangles, whose contours are smooth and still never cross."""

from __future__ import annotations

import numpy as np

from .surface import Floats, Surface
from .triangulate import neighbours_of

__all__ = ["MOST_PARTS", "round_surface"]

MOST_PARTS = 4  # a side; more cannot be seen on a sheet
_MOST_TRIANGLES = 1_000_000


def round_surface(surface: Surface, parts: int = MOST_PARTS) -> Surface:
    """The surface with every triangle bent to a cubic patch and cut into ``parts`` squared triangles.

    Levels at the given points stay; along every side the level stays between those of its ends; breaklines and the
    boundary stay straight and sharp; a plane stays itself. Contours of the result are level lines of one continuous
    surface, so no two of them can cross. Fewer parts are taken when the result would pass a million triangles.

    Notes
    -----
    Cubic Bezier triangles with end slopes from the area-weighted mean normal at each point: G. Farin, 'Triangular
    Bernstein-Bezier patches', Computer Aided Geometric Design 3 (1986), the nine-parameter patch (from memory); end slopes are
    limited to between 0 and 3 chord slopes: F. N. Fritsch, R. E. Carlson, 'Monotone piecewise cubic interpolation', SIAM J.
    Numer. Anal. 17 (1980) (from memory).
    """
    p, t = surface.points, surface.triangles
    n = min(parts, int(np.sqrt(_MOST_TRIANGLES / max(len(t), 1))))
    if n < 2 or not len(t):
        return surface
    ends, side_of, flipped = _sides(t, len(p))
    tangents = _end_slopes(surface, ends)
    za, zb = p[ends[:, 0], 2], p[ends[:, 1], 2]
    near, far = za + tangents[0] / 3, zb - tangents[1] / 3  # the inner two control levels of each side, from its lower index

    first = np.where(flipped, far[side_of], near[side_of])  # (m, 3) of side i: next to corner i
    second = np.where(flipped, near[side_of], far[side_of])  # next to corner i + 1
    z = p[t, 2]
    middle = (first + second).sum(axis=1) / 4 - z.sum(axis=1) / 6

    i, j = (a.ravel() for a in np.meshgrid(np.arange(n + 1), np.arange(n + 1), indexing="ij"))
    i, j = i[i + j <= n], j[i + j <= n]
    place = np.full((n + 1, n + 1), -1)
    place[i, j] = np.arange(len(i))
    w = np.stack([n - i - j, i, j]) / n  # weight of each corner at each node
    levels = 6 * np.outer(middle, w[0] * w[1] * w[2])
    for c in range(3):
        d = (c + 1) % 3
        levels += (
            np.outer(z[:, c], w[c] ** 3)
            + 3 * np.outer(first[:, c], w[c] ** 2 * w[d])
            + 3 * np.outer(second[:, c], w[c] * w[d] ** 2)
        )

    number = _numbers(t, side_of, flipped, len(p), len(ends), n, i, j)
    points = np.empty((int(number.max()) + 1, 3))
    points[: len(p)] = p
    xy = np.einsum("mck,cn->mnk", p[t, :2], w)
    points[number.ravel(), :2], points[number.ravel(), 2] = xy.reshape(-1, 2), levels.ravel()
    points[: len(p)] = p  # not even rounding changes what was given
    cells = [(place[a, b], place[a + 1, b], place[a, b + 1]) for a in range(n) for b in range(n - a)]
    cells += [(place[a + 1, b], place[a + 1, b + 1], place[a, b + 1]) for a in range(n - 1) for b in range(n - 1 - a)]
    triangles = number[:, np.array(cells)].reshape(-1, 3).astype(np.int32)
    return Surface(points, triangles, neighbours_of(triangles))


def _sides(t: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Ends (k, 2) of every side, lower index first; the side of each corner of each triangle; whether it runs from high to low."""
    a, b = t.astype(np.int64), np.roll(t, -1, axis=1).astype(np.int64)
    code, inverse = np.unique(np.minimum(a, b) * count + np.maximum(a, b), return_inverse=True)
    return np.stack(np.divmod(code, count), axis=-1), inverse.reshape(t.shape), a > b


def _end_slopes(surface: Surface, ends: np.ndarray) -> tuple[Floats, Floats]:
    """Rise over the whole side (m) by the slope at its lower and at its higher index."""
    p, t = surface.points, surface.triangles
    q = p - p[t[0, 0]]
    normal = np.cross(q[t[:, 1]] - q[t[:, 0]], q[t[:, 2]] - q[t[:, 0]])
    mean = np.stack([np.bincount(t.ravel(), np.repeat(normal[:, k], 3), len(p)) for k in range(3)], axis=-1)
    up = np.where(mean[:, 2] > 0, mean[:, 2], 1.0)
    slope = -mean[:, :2] / up[:, None]
    rows, side = np.nonzero(surface.neighbours < 0)
    held = np.concatenate([surface.breakline_edges, np.stack([t[rows, side], t[rows, (side + 1) % 3]], axis=-1)]).astype(np.int64)
    sharp = np.zeros(len(p), bool)
    sharp[held] = True
    straight = np.isin(ends[:, 0] * len(p) + ends[:, 1], held.min(axis=1) * len(p) + held.max(axis=1)) if len(held) else False
    step = p[ends[:, 1]] - p[ends[:, 0]]
    rise = step[:, 2]
    bounded = np.where(rise == 0, 1.0, rise)

    def at(corner: np.ndarray) -> Floats:
        wanted = (slope[corner] * step[:, :2]).sum(axis=1)
        limited = np.where(rise == 0, 0.0, np.clip(wanted / bounded, 0.0, 3.0) * rise)
        return np.where(straight | sharp[corner], rise, limited)

    return at(ends[:, 0]), at(ends[:, 1])


def _numbers(t, side_of, flipped, points: int, sides: int, n: int, i, j) -> np.ndarray:
    """(m, nodes) number of each node: given points first, then those inside sides, then those inside triangles."""
    out = np.empty((len(t), len(i)), np.int64)
    inner = 0
    for node, (a, b) in enumerate(zip(i.tolist(), j.tolist(), strict=True)):
        c = n - a - b
        corner = 0 if c == n else 1 if a == n else 2 if b == n else -1
        if corner >= 0:
            out[:, node] = t[:, corner]
            continue
        side, along = (0, a) if b == 0 else (1, b) if c == 0 else (2, c) if a == 0 else (-1, 0)
        if side >= 0:
            step = np.where(flipped[:, side], n - along, along)
            out[:, node] = points + side_of[:, side] * (n - 1) + step - 1
        else:
            out[:, node] = points + sides * (n - 1) + np.arange(len(t)) * ((n - 1) * (n - 2) // 2) + inner
            inner += 1
    return out
