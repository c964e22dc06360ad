"""The way of a vehicle's axles when the middle of its front axle follows a line: each axle behind always moves towards what draws it.

The tractrix and, with a trailer, its equation once more for the coupling; solved by scipy's Runge-Kutta of order 8.
Derived; docs/formulas.md#swept-paths.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import solve_ivp

from ..errors import InputError

Floats = NDArray[np.float64]

__all__ = ["Axles", "BendPath", "Trailer", "Vehicle", "greatest_cut_in", "steady_off_tracking", "swept_axles"]

_STEP = 0.05  # m between the places at which the greatest cut in is looked for first
_EXACT = 1e-11


@dataclass(frozen=True, slots=True)
class Trailer:
    """``coupling_ahead``: m from the drawing vehicle's rear axle to the coupling, + towards its front; ``length``: coupling to axle."""

    coupling_ahead: float
    length: float


@dataclass(frozen=True, slots=True)
class Vehicle:
    """Wheelbase, m, and the trailer it draws."""

    wheelbase: float
    trailer: Trailer | None = None


@dataclass(frozen=True, slots=True)
class BendPath:
    """Straight, arc, straight: start (E, N) m and azimuth (rad), lengths m, radius m, ``turn`` "left" or "right" through an angle, rad."""

    start: tuple[float, float]
    azimuth: float
    before: float
    radius: float
    turn: str
    angle: float
    after: float

    @property
    def sign(self) -> float:
        return 1.0 if self.turn == "right" else -1.0

    @property
    def length(self) -> float:
        return self.before + self.radius * self.angle + self.after

    def azimuth_at(self, s: Any) -> Floats:
        """(n,) rad, at lengths along the path, m; the straights go on beyond both ends."""
        turned = np.clip((np.asarray(s, float) - self.before) / self.radius, 0.0, self.angle)
        return np.asarray(self.azimuth + self.sign * turned)

    def at(self, s: Any) -> Floats:
        """(n, 2) E, N at lengths along the path, m."""
        s = np.asarray(s, float)
        on_arc = np.clip(s - self.before, 0.0, self.radius * self.angle)
        first, second = np.minimum(s, self.before), np.maximum(s - self.before - self.radius * self.angle, 0.0)
        middle, end = self.azimuth + self.sign * on_arc / self.radius, self.azimuth + self.sign * self.angle
        e = (
            first * np.sin(self.azimuth)
            + self.sign * self.radius * (np.cos(self.azimuth) - np.cos(middle))
            + second * np.sin(end)
        )
        n = (
            first * np.cos(self.azimuth)
            - self.sign * self.radius * (np.sin(self.azimuth) - np.sin(middle))
            + second * np.cos(end)
        )
        return np.stack([self.start[0] + e, self.start[1] + n], axis=-1)

    def inside(self, places: Floats) -> Floats:
        """(n,) distances of places (n, 2) from the nearest place of the path, m, + to the inside of its turn; its first straight is taken
        to go on backwards."""
        into = np.array([np.cos(self.azimuth), -np.sin(self.azimuth)]) * self.sign
        begin = self.at(self.before)
        centre = begin + self.radius * into
        d = places - begin
        along, across = d @ np.array([np.sin(self.azimuth), np.cos(self.azimuth)]), d @ into
        rows = [(np.hypot(np.maximum(along, 0.0), across), across)]
        end, out = self.at(self.before + self.radius * self.angle), self.azimuth + self.sign * self.angle
        u, v = np.array([np.sin(out), np.cos(out)]), np.array([np.cos(out), -np.sin(out)]) * self.sign
        d = places - end
        past = d @ u
        rows.append((np.hypot(past - np.clip(past, 0.0, self.after), d @ v), d @ v))
        d = places - centre
        from_centre = np.hypot(d[:, 0], d[:, 1])
        turned = np.mod(self.sign * (np.arctan2(d[:, 0], d[:, 1]) - np.arctan2(*(begin - centre))), 2 * np.pi)
        rows.append((np.where(turned <= self.angle, np.abs(self.radius - from_centre), np.inf), self.radius - from_centre))
        distance, signed = (np.stack(r) for r in zip(*rows, strict=True))
        nearest = np.argmin(distance, axis=0)
        pick = np.arange(len(places))
        return np.asarray(np.sign(signed[nearest, pick]) * distance[nearest, pick])


@dataclass(frozen=True, slots=True, eq=False)
class Axles:
    """At lengths the front axle has gone (n,): middles of front, rear and trailer's axle (n, 2) m, headings (n,) rad; the trailer's None
    without one."""

    front: Floats
    rear: Floats
    heading: Floats
    trailer: Floats | None
    trailer_heading: Floats | None

    @property
    def last(self) -> Floats:
        return self.rear if self.trailer is None else self.trailer


def swept_axles(path: BendPath, vehicle: Vehicle, at: Any) -> Axles:
    """Axles at lengths of the front axle along its path, m, 0 to the path's length; at 0 all stand straight on the first straight."""
    at = np.asarray(at, float)
    b, trailer = vehicle.wheelbase, vehicle.trailer

    def turning(s: float, y: Floats) -> list[float]:
        ahead = float(path.azimuth_at(s)) - y[0]
        turn = float(np.sin(ahead)) / b
        if trailer is None:
            return [turn]
        bent = y[0] - y[1]
        drawn = float(np.cos(ahead) * np.sin(bent) + trailer.coupling_ahead * turn * np.cos(bent))
        return [turn, drawn / trailer.length]

    # one stretch each for straight, arc, straight: the path's curvature jumps between them
    seams = [0.0, path.before, path.before + path.radius * path.angle, path.length]
    headings = np.full((len(at), 1 if trailer is None else 2), path.azimuth)
    y = np.full(headings.shape[1], path.azimuth)
    for a, z in pairwise(seams):
        if z <= a:
            continue
        solved = solve_ivp(turning, (a, z), y, method="DOP853", rtol=_EXACT, atol=_EXACT, dense_output=True)
        here = (at >= a) & (at <= z)
        if here.any():
            headings[here] = solved.sol(at[here]).T
        y = solved.y[:, -1]
    front = path.at(at)
    rear = front - b * _towards(headings[:, 0])
    if trailer is None:
        return Axles(front, rear, headings[:, 0], None, None)
    coupling = rear + trailer.coupling_ahead * _towards(headings[:, 0])
    return Axles(front, rear, headings[:, 0], coupling - trailer.length * _towards(headings[:, 1]), headings[:, 1])


def greatest_cut_in(path: BendPath, vehicle: Vehicle) -> float:
    """Greatest distance, m, of the last axle's middle from the path of the front axle, to the inside of the turn."""
    places = np.linspace(0.0, path.length, max(int(np.ceil(path.length / _STEP)), 2) + 1)
    for _ in range(2):  # the second time between the neighbours of the greatest
        inside = path.inside(swept_axles(path, vehicle, places).last)
        best = int(np.argmax(inside))
        greatest = float(inside[best])
        places = np.linspace(places[max(best - 1, 0)], places[min(best + 1, len(places) - 1)], 41)
    return greatest


def _towards(azimuth: Floats) -> Floats:
    return np.stack([np.sin(azimuth), np.cos(azimuth)], axis=-1)


def steady_off_tracking(radius: float, lengths: Sequence[float]) -> float:
    """How far the last axle runs inside of the front axle's circle of a radius, m, once the turn is steady: R - sqrt(R^2 - sum L^2), with
    lengths of the vehicle and what it draws, couplings over axles. Derived; docs/formulas.md#swept-paths."""
    rest = radius**2 - float(np.sum(np.square(lengths)))
    if rest < 0:
        raise InputError("turn-too-tight", radius=radius, least=float(np.sqrt(np.sum(np.square(lengths)))))
    return radius - float(np.sqrt(rest))
