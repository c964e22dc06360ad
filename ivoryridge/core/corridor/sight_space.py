"""Sight in space: how far a driver sees along a road before its carriageway, a cut slope or the ground beside it is in the way."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import VerticalAlignment
from .block import Block
from .corridor import Corridor

Floats = NDArray[np.float64]

__all__ = ["sight_in_space", "surfaces_across"]

BETWEEN = 2.0  # m; in bends sections are looked at so far apart at most, interpolated where the road's own lie farther
BENT = 1e-4  # 1/m; flatter bends hide nothing between sections that these do not
STEP = 5.0  # m between the places that are looked for
TOLERANCE = 0.1  # m to which the place between the last one seen and the first one lost is halved
NEAR = 6.0  # m from the line; a line of sight over the highest place within is not held against the section's vertices
_CLEAR = 1e-9  # m; a line of sight that touches the road still passes


def surfaces_across(corridor: Corridor) -> tuple[Floats, Floats]:
    """Offset (n, w), + right and increasing, and level (n, w) m of each section from ground to ground: the finished road between
    its toes, the ground beyond them. NaN follows the last vertex of a section."""
    parts = [_block_across(b) for b in corridor.blocks]
    if len(parts) == 1:
        return parts[0]
    width = max(o.shape[1] for o, _ in parts)
    wide = [[np.pad(a, ((0, 0), (0, width - a.shape[1])), constant_values=np.nan) for a in pair] for pair in parts]
    return np.concatenate([o for o, _ in wide]), np.concatenate([z for _, z in wide])


def _block_across(block: Block) -> tuple[Floats, Floats]:
    offset, level = [], []
    reach = []
    for _, sign, columns, _ in block.sides():
        across, at = columns.placed("finished")
        offset.append(sign * across)
        level.append(at)
        reach.append(np.fmax.reduce(across, axis=0, initial=0.0))
    ground = block.ground.offset
    beyond = (ground < -reach[0][:, None]) | (ground > reach[1][:, None])
    offset.append(np.where(beyond, ground, np.nan).T)
    level.append(block.ground.elevation.T)
    o, z = np.concatenate(offset).T, np.concatenate(level).T
    o = np.where(np.isfinite(z), o, np.nan)
    order = np.argsort(o, axis=1, kind="stable")  # NaN last
    return np.take_along_axis(o, order, axis=1), np.take_along_axis(z, order, axis=1)


def sight_in_space(
    line: HorizontalAlignment,
    profile: VerticalAlignment,
    corridor: Corridor,
    station: Any,
    *,
    path: float,
    eye: float,
    target: float,
    clearance: float = float("inf"),
    farthest: float = 600.0,
) -> tuple[Floats, Floats]:
    """What is seen ahead and back along the road, (n,) m of station each, from stations (n,); infinity where the road or
    ``farthest`` ends it, NaN outside of the corridor.

    path          m, + right    offset of eye and object from the line, looking ahead; looking back they are on the other side
    eye, target   m             heights over the road there
    clearance     m             what stands farther from the line hides the view, however high the line of sight

    The line of sight is straight in space and is held against every section between eye and object: the road with its crossfall,
    its slopes and the ground behind them. In bends sections in between are made every 2 m, square to the line where they stand,
    with heights over the profile between those of their neighbours. On straights nothing is looked at between sections, so on a
    vertical curve of radius R with sections L apart the road is lower by up to L^2 / 8R. Source: geometry.
    """
    s = np.atleast_1d(np.asarray(station, float))
    first, last = float(corridor.station[0]), float(corridor.station[-1])
    grid = np.append(np.arange(first, last, STEP), last)
    across, level = surfaces_across(corridor)
    places, base = corridor.places, profile.evaluate(corridor.station)[0]
    at, lower, share = _closer(corridor)
    place, azimuth, _ = line.evaluate(at)
    own = share == 0.0
    place[own], azimuth[own] = places.place[lower[own]], places.azimuth[lower[own]]
    heading = np.stack([np.sin(azimuth), np.cos(azimuth)], axis=-1)
    shift = profile.evaluate(at)[0] - base[lower]  # of the profile against that at the section before
    upper = np.minimum(lower + 1, len(base) - 1)
    drop = base[lower] - base[upper]
    count = np.isfinite(across).sum(axis=1)
    with np.errstate(invalid="ignore"):
        inside = np.where(np.abs(across) < NEAR, level, -np.inf).max(axis=1, initial=-np.inf)
    top = np.fmax.reduce([inside, _level_at(across, level, -NEAR), _level_at(across, level, NEAR)])
    over_top = np.maximum(top[lower], np.where(own, -np.inf, top[upper] + drop)) + shift
    sections = [place, heading, over_top, lower, share, shift, drop]
    shapes = across, level, count
    middle = line.evaluate(np.clip(s, first, last)), line.evaluate(grid)
    over = profile.evaluate(np.clip(s, first, last))[0], profile.evaluate(grid)[0]

    def look(path: float, way: float) -> Floats:
        rise = _level_at(across, level, path) - base  # of the lane over the profile
        known = np.isfinite(rise)
        if not known.any():
            return np.full(len(s), np.nan)
        lanes = []
        for on, (there, turned, _), z, height in zip((s, grid), middle, over, (eye, target), strict=True):
            aside = there + path * np.stack([np.cos(turned), -np.sin(turned)], axis=-1)
            lanes.append(np.column_stack([aside, z + np.interp(on, corridor.station[known], rise[known]) + height]))
        turn = slice(None, None, int(way))
        aims = [np.ascontiguousarray(v[turn]) for v in (way * grid, lanes[1])]
        met = tuple(np.ascontiguousarray(v[turn]) for v in (way * at, *sections))
        return np.where(
            (s < first) | (s > last), np.nan, _look(way, lanes[0], way * s, aims[0], aims[1], met, shapes, clearance, farthest)
        )

    return look(path, 1.0), look(-path, -1.0)


def _closer(corridor: Corridor) -> tuple[Floats, NDArray[np.int64], Floats]:
    """Stations to look at: the corridor's, and in bends others between; of each the section at or before it, and its share of the
    way to the next."""
    s, k = corridor.station, np.abs(corridor.places.curvature)
    gap = np.diff(s)
    bent = (np.maximum(k[:-1], k[1:]) > BENT) & corridor.joined  # between blocks there is nothing to look at
    parts = np.where(bent, np.ceil(gap / BETWEEN - 1e-9), 1).astype(np.int64)
    lower = np.repeat(np.arange(len(gap)), parts)
    share = (np.arange(len(lower)) - np.repeat(np.cumsum(parts) - parts, parts)) / np.repeat(parts, parts)
    lower, share = np.append(lower, len(s) - 1), np.append(share, 0.0)
    return s[lower] + share * np.append(gap, 0.0)[lower], lower, share


@njit(cache=True)
def _level_at(across, level, offset):
    """Level (n,) of each section at one offset; NaN outside of it."""
    out = np.full(len(across), np.nan)
    for n in range(len(across)):
        for i in range(across.shape[1] - 1):
            if across[n, i] <= offset <= across[n, i + 1]:
                run = across[n, i + 1] - across[n, i]
                share = (offset - across[n, i]) / run if run > 0 else 0.0
                out[n] = level[n, i] + share * (level[n, i + 1] - level[n, i])
                break
    return out


@njit(cache=True)
def _over(across, level, count, offset):
    """Level of one section at an offset; minus infinity outside of it, where nothing is known that hides a view."""
    if count < 2 or offset < across[0] or offset > across[count - 1]:
        return -np.inf
    a, b = 0, count - 1
    while b - a > 1:
        m = (a + b) // 2
        if across[m] <= offset:
            a = m
        else:
            b = m
    run = across[b] - across[a]
    share = (offset - across[a]) / run if run > 0 else 0.0
    return level[a] + share * (level[b] - level[a])


@njit(cache=True)
def _hidden(way, eye, aim, low, high, ahead, aside, heading, top, lower, share, shift, drop, shapes, clearance):
    """Whether a section in [low, high) stands above the line of sight from eye to aim, or the line passes outside the clearance."""
    across, level, count = shapes
    de, dn, dz = aim[0] - eye[0], aim[1] - eye[1], aim[2] - eye[2]
    for k in range(low, high):
        along = way * (heading[k, 0] * de + heading[k, 1] * dn)
        if along <= 0.0:
            continue  # the section is not crossed the way the road goes; its neighbours tell of the same slope
        t = ahead[k] / along
        if t <= 0.0 or t >= 1.0:
            continue
        offset = aside[k] + t * (heading[k, 1] * de - heading[k, 0] * dn)
        if abs(offset) > clearance:
            return True
        z = eye[2] + t * dz
        if z >= top[k] and abs(offset) < NEAR:
            continue
        a = lower[k]
        here = _over(across[a], level[a], count[a], offset)
        if share[k] > 0.0:
            there = _over(across[a + 1], level[a + 1], count[a + 1], offset) + drop[k]
            here = max(here, there) if np.isinf(here) or np.isinf(there) else here + share[k] * (there - here)
        if z < here + shift[k] - _CLEAR:
            return True
    return False


@njit(cache=True)
def _look(way, eyes, from_station, grid, seen, sections, shapes, clearance, farthest):
    stations, place, heading, top, lower, share, shift, drop = sections
    out = np.full(len(eyes), np.inf)
    ahead, aside = np.empty(len(stations)), np.empty(len(stations))
    for n in range(len(eyes)):
        eye, at = eyes[n], from_station[n]
        first = np.searchsorted(grid, at + 1e-9)
        low = np.searchsorted(stations, at + 1e-9)
        high = low
        before, was = eye, at
        for j in range(first, len(grid)):
            if grid[j] - at > farthest:
                break
            while high < len(stations) and stations[high] < grid[j]:
                e, f = place[high, 0] - eye[0], place[high, 1] - eye[1]
                ahead[high] = way * (heading[high, 0] * e + heading[high, 1] * f)
                aside[high] = heading[high, 0] * f - heading[high, 1] * e
                high += 1
            if not _hidden(
                way, eye, seen[j], low, high, ahead, aside, heading, top, lower, share, shift, drop, shapes, clearance
            ):
                before, was = seen[j], grid[j]
                continue
            a, b = 0.0, 1.0  # halved between the last that was seen and the first that is not
            while (b - a) * (grid[j] - was) > TOLERANCE:
                m = 0.5 * (a + b)
                aim = before + m * (seen[j] - before)
                if _hidden(way, eye, aim, low, high, ahead, aside, heading, top, lower, share, shift, drop, shapes, clearance):
                    b = m
                else:
                    a = m
            out[n] = was + a * (grid[j] - was) - at
            break
    return out
