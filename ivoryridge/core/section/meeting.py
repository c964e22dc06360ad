"""Where a slope meets the ground: rays against the ground sections of all stations at once."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = ["elevation_on_ground", "level_on_run", "meet_ground"]

_TOUCH = 1e-9  # m; rounding in the height of a ray over the ground


@njit(cache=True)
def _meet(u0, z0, slope, limit, last, side, gu, gz):
    n = len(u0)
    out_u, out_z = np.full(n, np.nan), np.full(n, np.nan)
    for i in range(n):
        if not (np.isfinite(u0[i]) and np.isfinite(z0[i]) and np.isfinite(slope[i])) or u0[i] > limit[i] + _TOUCH:
            continue
        sign = side if side != 0.0 else -1.0 if slope[i] > 0 else 1.0  # a falling ray comes from above, a rising one from below
        before = np.nan  # height of the ray over the ground at the vertex before, turned so that + is its own side
        u_before = 0.0
        for j in range(gu.shape[1] - 1):
            ua, ub = gu[i, j], gu[i, j + 1]
            za, zb = gz[i, j], gz[i, j + 1]
            if not (np.isfinite(za) and np.isfinite(zb)) or ub <= u0[i]:
                before = np.nan
                continue
            if ua >= limit[i]:
                break
            if ua < u0[i]:
                za = za + (zb - za) * (u0[i] - ua) / (ub - ua)
                ua = u0[i]
                before = np.nan
            da = sign * (z0[i] + slope[i] * (ua - u0[i]) - za)
            db = sign * (z0[i] + slope[i] * (ub - u0[i]) - zb)
            if not np.isfinite(before) and ua == u0[i] and abs(da) <= _TOUCH and not last:
                out_u[i], out_z[i] = ua, za  # it starts on the ground
                break
            if da > _TOUCH and db <= _TOUCH:
                u = ub if db > -_TOUCH else ua + (ub - ua) * da / (da - db)
                if u <= limit[i] + _TOUCH:
                    out_u[i] = u
                    out_z[i] = z0[i] + slope[i] * (u - u0[i])
                    if not last:
                        break
            before = db
            u_before = ub
        if last and not np.isfinite(out_u[i]) and u_before >= 0.0:
            # nothing farther out: a ray that starts on the ground meets it there
            for j in range(gu.shape[1] - 1):
                if gu[i, j] <= u0[i] <= gu[i, j + 1] and np.isfinite(gz[i, j]) and np.isfinite(gz[i, j + 1]):
                    width = gu[i, j + 1] - gu[i, j]
                    share = (u0[i] - gu[i, j]) / width if width > 0 else 0.0
                    z = gz[i, j] + share * (gz[i, j + 1] - gz[i, j])
                    if abs(z - z0[i]) <= _TOUCH:
                        out_u[i], out_z[i] = u0[i], z
                    break
    return out_u, out_z


def meet_ground(
    across: Any, level: Any, slope: Any, ground: tuple[Floats, Floats], *, limit: Any, last: bool, side: float = 0.0
) -> tuple[Floats, Floats]:
    """First or last place where rays from nodes meet the ground.

    Parameters
    ----------
    across, level : (n,) float, m    where the rays start; ``across`` grows outward
    slope : (n,) float, m/m          + rises outward, - falls
    ground : two (n, k) float, m     ground vertices, across increasing along each row, NaN where unknown
    limit : (n,) float, m            greatest ``across`` that is searched
    last : bool                      the last meeting within the limit instead of the first
    side : float                     + it must arrive from above, - from below; 0 from its own side

    Returns
    -------
    across, level : (n,) float, m    NaN where the ground is not met

    Notes
    -----
    A falling ray meets the ground where it arrives from above, a rising one where it arrives from below; touching
    counts. A ray that starts on the wrong side first has to come through the ground, which is no meeting. Breaks in
    the ground (NaN) are never bridged. A ray that starts on the ground meets it there if ``first`` is asked, or if
    it meets it nowhere else. Exact: crossings of straight lines.
    """
    u0, z0, s, lim = np.broadcast_arrays(*(np.asarray(v, float) for v in (across, level, slope, limit)))
    gu, gz = (np.ascontiguousarray(g) for g in ground)
    return _meet(np.array(u0), np.array(z0), np.array(s), np.array(lim), last, float(side), gu, gz)


@njit(cache=True)
def _level_at(u, gu, gz):
    out = np.full(len(u), np.nan)
    for i in range(len(u)):
        for j in range(gu.shape[1] - 1):
            a, b = gu[i, j], gu[i, j + 1]
            if a <= u[i] <= b:
                if np.isfinite(gz[i, j]) and np.isfinite(gz[i, j + 1]):
                    out[i] = gz[i, j] if b == a else gz[i, j] + (gz[i, j + 1] - gz[i, j]) * (u[i] - a) / (b - a)
                    break
    return out


def elevation_on_ground(across: Any, ground: tuple[Floats, Floats]) -> Floats:
    """Ground level (n,) m at one ``across`` (n,) m for each station; NaN where there is none."""
    return _level_at(np.ascontiguousarray(across, float), *ground)


@njit(cache=True)
def _on_run(u, across, level):
    out = np.full(len(u), np.nan)
    for i in range(len(u)):
        ua, za, ub, zb = np.nan, np.nan, np.nan, np.nan  # the edge in hand
        for j in range(across.shape[0]):
            if not (np.isfinite(across[j, i]) and np.isfinite(level[j, i])):
                continue
            if np.isnan(ub) or across[j, i] > ub + 1e-12:
                if np.isfinite(ua) and u[i] <= ub:
                    break
                ua, za, ub, zb = ub, zb, across[j, i], level[j, i]
        if np.isfinite(ua):
            out[i] = za + (zb - za) * (u[i] - ua) / (ub - ua)
    return out


def level_on_run(u: Floats, across: Floats, level: Floats) -> Floats:
    """Level (n,) m at offsets u (n,) of runs of nodes (k, n), outward; the end edges are carried on beyond them.

    Nodes that are NaN, or not farther out than the one before, are passed over; NaN where fewer than two are left.
    """
    return np.asarray(_on_run(np.ascontiguousarray(u, float), np.ascontiguousarray(across), np.ascontiguousarray(level)))
