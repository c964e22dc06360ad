"""Widening of the carriageway in a bend, by the tracks of the design vehicle.

AASHTO, A Policy on Geometric Design of Highways and Streets, 2011 and 2018, section 3.3.10 (from memory).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from types import MappingProxyType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..errors import InputError
from ..tolerances import FLAT_CURVATURE, SAME_STATION
from .standard import SpeedZones

Floats = NDArray[np.float64]

__all__ = ["VEHICLES", "Vehicle", "Widening", "bend_widening", "clearance_on", "share_along", "taper_length", "widened_along"]

Rows = tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Vehicle:
    """Track width, wheelbases (axle to axle, coupling to axle), front overhang, clearance to either side, m."""

    track_width: float
    wheelbases: tuple[float, ...]
    front_overhang: float
    clearance: float


# AASHTO, section 2.8.1 and table 2-4, SU-9, WB-12 and CITY-BUS (from memory); clearance by the carriageway's width
VEHICLES: Mapping[str, Vehicle] = MappingProxyType({
    "rigid lorry": Vehicle(2.44, (6.10,), 1.22, 0.60),
    "articulated lorry": Vehicle(2.44, (3.81, 7.77), 0.91, 0.60),
    "bus": Vehicle(2.59, (7.62,), 2.13, 0.60),
})  # fmt: skip
_CLEARANCE = ((6.0, 6.6, 7.2), (0.60, 0.75, 0.90))  # of two lanes so wide, m; AASHTO, table 3-26a
_FAST = 70.0  # km/h
_ON_TANGENT = 2 / 3  # of the length without a transition over which the carriageway grows; AASHTO, section 3.3.10


@dataclass(frozen=True, slots=True)
class Widening:
    """Track width U of the vehicle in the bend, width F of its front overhang, allowance Z, width that is needed, and how much more
    that is than on the straight (never less than 0), all m."""

    track: float
    overhang: float
    allowance: float
    needed: float
    more: float


def bend_widening(vehicle: Vehicle, radius: float, speed: float, lanes: int, width: float) -> Widening:
    """W = N (U + C) + (N - 1) F + Z of a carriageway of ``lanes`` that is ``width`` m wide on the straight; radius m, speed km/h.

    Raises InputError where the vehicle cannot go round so tight a bend.
    """
    squares = sum(w * w for w in vehicle.wheelbases)
    if radius * radius <= squares:
        raise InputError("bend-too-tight", radius=radius, least=squares**0.5)
    track = vehicle.track_width + radius - (radius * radius - squares) ** 0.5
    a = vehicle.front_overhang
    overhang = (radius * radius + a * (2 * vehicle.wheelbases[0] + a)) ** 0.5 - radius
    allowance = 0.1 * speed / radius**0.5
    needed = lanes * (track + vehicle.clearance) + (lanes - 1) * overhang + allowance
    return Widening(track, overhang, allowance, needed, max(needed - width, 0.0))


def share_along(station: Any, points: Sequence[float]) -> Floats:
    """(n,) share of a bend's widening at stations, m: it grows in a straight line from TS to SC and goes from CS to ST."""
    ts, sc, cs, st = points
    s = np.asarray(station, float)
    with np.errstate(divide="ignore", invalid="ignore"):
        grows = np.where(s < sc, (s - ts) / (sc - ts), 1.0)
        goes = np.where(s > cs, (st - s) / (st - cs), 1.0)
    return np.clip(np.nan_to_num(np.minimum(grows, goes), nan=0.0), 0.0, 1.0)


def clearance_on(width: float) -> float:
    """Clearance C (m) to either side of a vehicle on a two-lane carriageway ``width`` m wide."""
    return float(np.interp(width, *_CLEARANCE))


def taper_length(width: float, speed: float) -> float:
    """Length (m) over which a lane of ``width`` m is gained or dropped at a speed, km/h: W V / 1.6 from 70 km/h on, W V^2 / 155 below.

    AASHTO, section 9.7.3, and MUTCD, table 6C-4, in metres (from memory).
    """
    return width * speed / 1.6 if speed >= _FAST else width * speed**2 / 155.0


def widened_along(
    line: HorizontalAlignment,
    vehicle: Vehicle,
    zones: SpeedZones,
    *,
    lanes: int,
    width: float,
    inner: float,
    over: float,
) -> tuple[Rows, Rows]:
    """How much wider the left and the right half is along a line: (station m, m), straight between.

    ``width``: of both halves on the straight, m; ``inner``: share of a bend's widening on its inside. It grows over the transitions;
    where an arc has none, over ``over`` m, two thirds of them before the arc, as far as the neighbours are long.

    Raises InputError where the vehicle cannot go round a bend.
    """
    whole = line.whole_elements()
    ends = line.stations
    at = [float(ends[a]) for a, _ in whole] + [float(ends[-1])]
    k = [(float(line.k0[a]), float(line.k1[b])) for a, b in whole]

    def more(curvature: float, i: int) -> tuple[float, float]:
        if abs(curvature) < FLAT_CURVATURE:
            return 0.0, 0.0
        full = bend_widening(vehicle, 1 / abs(curvature), zones.over(at[i], at[i + 1]), lanes, width).more
        inside, outside = full * inner, full * (1 - inner)
        return (outside, inside) if curvature > 0 else (inside, outside)

    arcs = [abs(a) > FLAT_CURVATURE and abs(b - a) <= FLAT_CURVATURE for a, b in k]
    ends_of: list[tuple[tuple[float, float], tuple[float, float]]] = []  # widening where an element starts and ends
    for i, (a, b) in enumerate(k):
        if arcs[i]:
            ends_of.append((more(a, i), more(a, i)))
            continue
        before = more(k[i - 1][1], i - 1) if i and arcs[i - 1] and abs(a) > FLAT_CURVATURE else more(a, i)
        after = more(k[i + 1][0], i + 1) if i + 1 < len(k) and arcs[i + 1] and abs(b) > FLAT_CURVATURE else more(b, i)
        ends_of.append((before, after))
    rows: list[tuple[float, tuple[float, float]]] = [(at[0], ends_of[0][0])]
    for i, (one, two) in enumerate(pairwise(ends_of)):
        here = at[i + 1]
        if one[1] == two[0]:
            rows.append((here, two[0]))
            continue
        share = _ON_TANGENT if not any(one[1]) else 1 - _ON_TANGENT if not any(two[0]) else 0.5
        rows.append((here - min(share * over, (at[i + 1] - at[i]) / 2), one[1]))
        rows.append((here + min((1 - share) * over, (at[i + 2] - at[i + 1]) / 2), two[0]))
    rows.append((at[-1], ends_of[-1][1]))
    return tuple((_once([(s, v[k]) for s, v in rows])) for k in (0, 1))  # type: ignore[return-value]


def _once(rows: Sequence[tuple[float, float]]) -> Rows:
    """Rows in order, no two at one station."""
    out = [rows[0]]
    out += [b for a, b in pairwise(rows) if b[0] - a[0] > SAME_STATION]
    return tuple(out)
