"""Nodes that are led by lines: received ones, edges of other roads, drawn lines; or in level by a surface."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..section.lead import Lead
from ..section.reach import FARTHEST
from ..terrain.section_cut import cut_lines
from ..terrain.surface import Surface
from .places import SectionPlaces, places_at
from .varied import Side

Floats = NDArray[np.float64]

__all__ = ["Led", "crossings", "leads_at"]


_SURFACE_REACH = 80.0  # m beside the line


@dataclass(frozen=True, slots=True, eq=False)
class Led:
    """A node of one side that takes its offset or its level, or both, from lines over a range of stations, m.

    node : ``part.node``
    lines : (k, 3) m each    easting, northing, elevation, NaN where it is not known
    reach, reach_level : m   how far a line may lie from where the node's own rule puts it, across and in level
    surface : the surface that gives the level instead of lines
    ease, release : m        over which the node comes to the line's place at the start of the range, and is let go from that at its end
    """

    side: Side
    node: str
    lines: tuple[Floats, ...]
    station_from: float
    station_to: float
    offset: bool = True
    level: bool = False
    reach: float = 5.0
    reach_level: float = 2.0
    ease: float = 0.0
    release: float = 0.0
    surface: Surface | None = None
    segments: Floats = field(init=False)  # (m, 6): both ends of every piece between two vertices

    def __post_init__(self) -> None:
        pieces = [np.hstack([p[:-1], p[1:]]) for p in self.lines if len(p) > 1]
        object.__setattr__(self, "segments", np.ascontiguousarray(np.concatenate(pieces)) if pieces else np.empty((0, 6)))

    def share(self, station: Any) -> Floats:
        """(n,) how much of it counts at stations, m: 1 in the range, 0 where it is let go."""
        s = np.asarray(station, float)
        before, behind = self.station_from - s, s - self.station_to
        away = [
            np.where(d > 0, d / over if over > 0 else np.inf, 0.0) for d, over in ((before, self.ease), (behind, self.release))
        ]
        return np.clip(1.0 - np.maximum(*away), 0.0, 1.0)


@njit(cache=True)
def _cross(place, azimuth, segments, farthest):
    n, m = len(place), len(segments)
    counts = np.zeros(n, np.int64)
    found = np.empty((64, 2))
    rows = np.empty(64, np.int64)
    used = 0
    for i in range(n):
        te, tn = np.sin(azimuth[i]), np.cos(azimuth[i])
        for j in range(m):
            ae, an = segments[j, 0] - place[i, 0], segments[j, 1] - place[i, 1]
            be, bn = segments[j, 3] - place[i, 0], segments[j, 4] - place[i, 1]
            a, b = ae * te + an * tn, be * te + bn * tn
            if min(a, b) > 1e-6 or max(a, b) < -1e-6 or abs(a - b) < 1e-12:
                continue
            t = min(max(a / (a - b), 0.0), 1.0)
            u = (ae + t * (be - ae)) * tn - (an + t * (bn - an)) * te
            if abs(u) > farthest:
                continue
            if used == len(found):
                more, ids = np.empty((2 * used, 2)), np.empty(2 * used, np.int64)
                more[:used], ids[:used] = found, rows
                found, rows = more, ids
            found[used, 0], found[used, 1] = u, segments[j, 2] + t * (segments[j, 5] - segments[j, 2])
            rows[used] = i
            used += 1
            counts[i] += 1
    width = 1
    for i in range(n):
        width = max(width, counts[i])
    out = np.full((2, n, width), np.nan)
    at = np.zeros(n, np.int64)
    for k in range(used):
        i = rows[k]
        out[0, i, at[i]], out[1, i, at[i]] = found[k, 0], found[k, 1]
        at[i] += 1
    return out


def crossings(places: SectionPlaces, segments: Floats) -> tuple[Floats, Floats]:
    """Where pieces of lines (m, 6) cross the sections at n places: offsets (n, k) m, + right, and levels; NaN beyond the last. A line
    that ends on a section crosses it; one that runs along it does so with its neighbours."""
    out = _cross(places.place, places.azimuth, segments, FARTHEST)
    return out[0], out[1]


def _surface_beside(surface: Surface, places: SectionPlaces, sign: float) -> tuple[Floats, Floats]:
    """Across (n, k), increasing outward, and level of a surface on one side of n sections, as far as parts may reach."""
    outward = sign * np.stack([np.cos(places.azimuth), -np.sin(places.azimuth)], axis=-1)
    cut = cut_lines(surface, places.place, places.place + _SURFACE_REACH * outward)
    return np.ascontiguousarray(cut.offset), np.ascontiguousarray(cut.elevation)


def leads_at(
    line: HorizontalAlignment, station: Floats, rows: Sequence[Led], side: Side, sign: float
) -> Mapping[str, Sequence[Lead]]:
    """Node -> what leads it at stations (n,) m. Before and behind a range that is what leads it at its ends."""
    out: dict[str, list[Lead]] = {}
    for row in rows:
        share = row.share(station)
        here = np.flatnonzero(share > 0)
        if row.side != side or not len(here):
            continue
        places = places_at(line, np.clip(station[here], row.station_from, row.station_to))
        if row.surface is not None:
            across, levels = _surface_beside(row.surface, places, sign)
            whole = np.full((2, len(station), across.shape[1]), np.nan)
            whole[0, here], whole[1, here] = across, levels
            out.setdefault(row.node, []).append(
                Lead(whole[0], whole[1], share, False, True, row.reach, row.reach_level, surface=True)
            )
            continue
        offset, level = crossings(places, row.segments)
        across, levels = (np.full((len(station), offset.shape[1]), np.nan) for _ in range(2))
        across[here], levels[here] = sign * offset, level
        out.setdefault(row.node, []).append(Lead(across, levels, share, row.offset, row.level, row.reach, row.reach_level))
    return out
