"""Widening of the carriageway in a bend, by the tracks of the design vehicle.

AASHTO, A Policy on Geometric Design of Highways and Streets, 2011 and 2018, section 3.3.10 (from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["Vehicle", "Widening", "bend_widening", "share_along"]


@dataclass(frozen=True, slots=True)
class Vehicle:
    """Track width, wheelbases (axle to axle, coupling to axle), front overhang, clearance to either side, m."""

    track_width: float
    wheelbases: tuple[float, ...]
    front_overhang: float
    clearance: float


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
