"""The plane of a road's carriageway, carried on beyond its edges, and a slip road beside it that takes it over ranges."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment, project_points
from ..alignment.vertical import VerticalAlignment
from .turning import Crossfall

Floats = NDArray[np.float64]
Pair = tuple[Floats, Floats]

__all__ = ["CarriedPlane", "Following", "Plane", "followed"]

_LEAST_WIDTH = 1.0  # m over which the crossfall of a side without lanes is read


class Plane(Protocol):
    """What a road can take level and crossfall from."""

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, Pair]:
        """Level (n,) m of a line at its stations, and how left and right of it rise outward (ratio) to edges so far off, m."""
        ...


@dataclass(frozen=True, slots=True, eq=False)
class CarriedPlane:
    """A main road's line, profile and crossfall, read at any place: level of its centre at the foot of the perpendicular, and the
    crossfall of that side there times the distance."""

    line: HorizontalAlignment
    profile: VerticalAlignment
    turning: Crossfall

    def at(self, places: Any) -> tuple[Floats, Floats, Floats]:
        """Station, offset (+ right) and level (n,) m at places (n, 2); NaN levels beyond the ends of line and profile."""
        foot = project_points(self.line, np.asarray(places, float))
        s, u = np.asarray(foot.station, float), np.asarray(foot.offset, float)
        left, right = self.turning.diagram.rates(s)
        first, last = float(self.profile.station[0]), float(self.profile.station[-1])
        inside = (s >= first - 1e-9) & (s <= last + 1e-9) & ~np.asarray(foot.beyond, bool)
        level, _ = self.profile.evaluate(np.clip(s, first, last))
        z = level + self.turning.rise_of_centre(s) + np.abs(u) * np.where(u < 0, left, right)
        return s, u, np.where(inside, z, np.nan)

    def beside(self, line: HorizontalAlignment, station: Any, left: Any, right: Any) -> tuple[Floats, Pair]:
        """Level (n,) m of another line at its stations, and crossfall of its left and right half (ratio, + rises outward), whose
        edges lie square to it at the half-widths, m."""
        place, azimuth, _ = line.evaluate(station)
        across = np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
        left, right = (np.broadcast_to(np.asarray(w, float), (len(place),)) for w in (left, right))
        places = np.concatenate([place, place - left[:, None] * across, place + right[:, None] * across])
        z, z_left, z_right = self.at(places)[2].reshape(3, -1)
        return z, ((z_left - z) / left, (z_right - z) / right)


@dataclass(frozen=True, slots=True, eq=False)
class Following:
    """A range of stations, m, over which a road takes the crossfall of a plane, and with ``level`` its level too; it comes
    to it over ``ease`` m before and is let go over ``release`` m behind, on a straight line from the value that was followed."""

    plane: Plane
    station_from: float
    station_to: float
    level: bool = False
    ease: float = 0.0
    release: float = 0.0


def followed(
    line: HorizontalAlignment,
    station: Floats,
    own: Callable[[Floats], tuple[Floats, Pair]],
    widths: Callable[[Floats], tuple[Any, Any]],
    rows: Sequence[Following],
) -> tuple[Floats, Pair]:
    """Level (n,) m of the centre and outward crossfall of both halves at stations (n,) m, where some of them follow.

    ``own``: level and crossfall without following, at any stations; ``widths``: of the lanes left and right there, m.
    Where the plane is not known the road's own hold; of two rows in one place the later one counts.
    """
    s = np.asarray(station, float)
    level, (left, right) = own(s)
    values = [level.copy(), left.copy(), right.copy()]

    def read(row: Following, at: Floats) -> list[Floats]:
        z, rates = row.plane.beside(line, at, *(np.maximum(w, _LEAST_WIDTH) for w in widths(at)))
        return [z if row.level else np.full(len(z), np.nan), *rates]

    for row in rows:  # what is let go of, before what is followed there
        for end, over, way in ((row.station_from, row.ease, -1.0), (row.station_to, row.release, 1.0)):
            away = way * (s - end)
            here = (away > 0) & (away < over)
            if not here.any():
                continue
            at = np.array([end])
            own_level, own_rates = own(at)
            for k, (v, o) in enumerate(zip(read(row, at), (own_level, *own_rates), strict=True)):
                if np.isfinite(v[0]):
                    values[k][here] += (v[0] - o[0]) * (1.0 - away[here] / over)
    for row in rows:
        here = (s >= row.station_from) & (s <= row.station_to)
        if here.any():
            for k, v in enumerate(read(row, s[here])):
                values[k][here] = np.where(np.isfinite(v), v, values[k][here])
    return values[0], (values[1], values[2])
