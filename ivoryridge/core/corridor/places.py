"""Where sections stand along a line: their stations, places and directions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.stationing import round_stations
from ..alignment.vertical import VerticalAlignment
from ..arrays import frozen_fields
from ..errors import InputError
from ..tolerances import SAME_STATION

Floats = NDArray[np.float64]

__all__ = ["SectionPlaces", "corners", "line_stations", "places_at", "section_stations", "turned_beyond"]

MOST_SECTIONS = 20_000  # of a road
LEAST_CORNER = np.radians(0.5)  # rad by which a line turns between two sections beyond what either curvature there explains


@dataclass(frozen=True, slots=True, eq=False)
class SectionPlaces:
    """Where the sections stand: station (n,), place (n, 2), azimuth (n,) rad, curvature (n,) 1/m, + right."""

    station: Floats
    place: Floats
    azimuth: Floats
    curvature: Floats

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "place", "azimuth", "curvature"))

    def take(self, index: Any) -> SectionPlaces:
        """Some of these places."""
        return SectionPlaces(self.station[index], self.place[index], self.azimuth[index], self.curvature[index])


def section_stations(
    alignment: HorizontalAlignment,
    profile: VerticalAlignment,
    interval: float,
    *,
    extra: Any = (),
    station_from: float | None = None,
    station_to: float | None = None,
    equations: Sequence[tuple[float, float]] = (),
    keys: bool = True,
) -> Floats:
    """Stations of the sections: multiples of the interval as chainages are read, ends, and with ``keys`` tangent points, grade changes
    and ``extra`` ones, (n,) m.

    Only where both line and profile exist. Raises InputError when the interval makes more than 20 000 sections, or
    when nothing is left of the range.
    """
    start = max(alignment.start_station, float(profile.station[0]))
    end = min(alignment.end_station, float(profile.station[-1]))
    first = start if station_from is None else max(start, station_from)
    last = end if station_to is None else min(end, station_to)
    if not last - first > SAME_STATION:
        raise InputError("range-empty", start=first, end=last, road_start=start, road_end=end)
    count = (last - first) / interval if interval > 0 else np.inf
    if count > MOST_SECTIONS:
        raise InputError(
            "spacing-too-small",
            spacing=interval,
            count=int(min(count, 1e9)),
            limit=MOST_SECTIONS,
            least=(last - first) / MOST_SECTIONS,
        )
    regular = round_stations(first, last, interval, equations)
    more = [alignment.key_stations(), profile.key_stations(), np.asarray(extra, float)] if keys else []
    key = np.concatenate([*more, [first, last]])
    key = np.unique(key[(key >= first) & (key <= last)])
    key = key[np.concatenate([[True], np.diff(key) > SAME_STATION])]
    near = np.searchsorted(key, regular)
    gap = np.minimum(
        np.abs(regular - key[np.minimum(near, len(key) - 1)]), np.abs(regular - key[np.maximum(near - 1, 0)])
    )  # a key station wins over a regular one that falls on it
    return np.sort(np.concatenate([key, regular[gap > SAME_STATION]]))


def line_stations(
    alignment: HorizontalAlignment, interval: float, extra: Any = (), equations: Sequence[tuple[float, float]] = ()
) -> Floats:
    """Stations of sections that hang on the line alone, whatever its profile: round chainages at the interval, tangent points, and
    ``extra`` ones, e.g. where the crossfall turns, that lie on the line."""
    more = np.asarray(extra, float)
    more = more[(more > alignment.start_station) & (more < alignment.end_station)]
    regular = round_stations(alignment.start_station, alignment.end_station, interval, equations)
    return np.union1d(np.union1d(regular, alignment.key_stations()), more)


def places_at(alignment: HorizontalAlignment, station: Any) -> SectionPlaces:
    """Places, azimuths and curvatures of sections square to the line."""
    place, azimuth, curvature = alignment.evaluate(station)
    return SectionPlaces(np.atleast_1d(station), place, azimuth, curvature)


def turned_beyond(places: SectionPlaces) -> Floats:
    """(n - 1,) rad, + right, by which the line turns between two sections beyond the mean of their curvatures: all of a corner, and at
    a tangent point what the curvature ahead of it, which its section has, says wrong of the way to it."""
    steady = 0.5 * (places.curvature[:-1] + places.curvature[1:]) * np.diff(places.station)
    return _turned(places) - steady


def _turned(places: SectionPlaces) -> Floats:
    return np.asarray((np.diff(places.azimuth) + np.pi) % (2 * np.pi) - np.pi)


def corners(places: SectionPlaces) -> list[tuple[int, float]]:
    """Sections that stand at a corner of the line, where it turns without a curve, and by how much (rad, + right)."""
    turned, length = _turned(places), np.diff(places.station)
    one, two = places.curvature[:-1] * length, places.curvature[1:] * length
    left = turned - np.clip(turned, np.minimum(one, two), np.maximum(one, two))
    return [(int(i) + 1, float(left[i])) for i in np.flatnonzero(np.abs(left) > LEAST_CORNER)]
