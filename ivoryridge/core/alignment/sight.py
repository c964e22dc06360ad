"""Sight distance along a profile and past obstacles beside a bend. Lengths in m (or any one unit), grades m/m."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .vertical import VerticalAlignment

Floats = NDArray[np.float64]

__all__ = [
    "offset_for_sight",
    "offset_for_sight_beyond",
    "sight_along_profile",
    "sight_on_crest",
    "sight_on_sag",
    "sight_past_offset",
]

_CLEAR = 1e-12  # m; a line of sight that touches the road still passes


def sight_along_profile(
    profile: VerticalAlignment, stations: Any, *, eye: float, target: float, farthest: float = 1000.0, backward: bool = False
) -> tuple[Floats, Floats]:
    """How far a driver sees along the road at each station (n,), and where the line of sight grazes it (NaN if nowhere).

    eye, target : m     heights above the road
    farthest            sight is not followed beyond; the end of the profile ends it too
    backward            looking towards decreasing stations

    Notes
    -----
    The road is followed piece by piece; in a parabola the steepest line of sight touches at t = sqrt((ze - z0) / -c), and the
    object is lost where z + target falls under that line: both are closed, so the result is exact to rounding.
    Distances are horizontal. Source: geometry; checked by the cases of topic J.
    """
    way = -1.0 if backward else 1.0
    pieces = _pieces(profile.as_parabolas(), backward)
    first, last = pieces[0, 0], pieces[-1, 1]
    s = np.atleast_1d(np.asarray(stations, float))
    levels, _ = profile.evaluate(s)  # NaN outside
    distance, touch = _look_from(pieces, way * s, levels + eye, target, farthest, last)
    outside = (way * s < first) | (way * s > last)
    return np.where(outside, np.nan, distance), np.where(outside, np.nan, way * touch)


def _pieces(profile: VerticalAlignment, backward: bool) -> Floats:
    """(m, 5): from, to, level, grade and half the rate of each piece in the direction of looking."""
    a, b = profile.station[:-1], profile.station[1:]
    if not backward:
        return np.ascontiguousarray(np.column_stack([a, b, profile.z0, profile.g0, 0.5 * profile.rate]))
    length = b - a
    level = profile.z0 + length * (profile.g0 + 0.5 * profile.rate * length)
    return np.ascontiguousarray(np.column_stack([-b, -a, level, -(profile.g0 + profile.rate * length), 0.5 * profile.rate])[::-1])


@njit(cache=True)
def _look_from(pieces, places, eyes, target, farthest, last):
    distance, grazing = np.zeros(len(places)), np.full(len(places), np.nan)
    ends = np.empty(3)
    for q in range(len(places)):
        x, eye = places[q], eyes[q]
        most = min(farthest, last - x)
        steepest, touch, found = -np.inf, np.nan, most
        for k in range(len(pieces)):
            a, b, level, grade, half = pieces[k]
            if b <= x or a >= x + most:
                continue
            shift = x - a  # the piece as alpha + beta t + half t^2 over t from the eye
            beta, alpha = grade + 2 * half * shift, level + grade * shift + half * shift * shift
            ends[0], count = max(a - x, 0.0), 2
            final = min(b - x, most)
            if half < 0 and alpha < eye:
                t = np.sqrt((eye - alpha) / -half)
                if ends[0] < t < final:
                    ends[1], count = t, 3
            ends[count - 1] = final
            lost = -1.0
            for i in range(count - 1):
                t0, t1 = ends[i], ends[i + 1]
                if steepest > -np.inf:
                    lost = _lost(alpha + target - eye, beta - steepest, half, t0, t1)
                    if lost >= 0.0:
                        break
                for t in (t0, t1):
                    if t > 0:
                        slope = (alpha - eye) / t + beta + half * t
                        if slope > steepest:
                            steepest, touch = slope, x + t
            if lost >= 0.0:
                found = lost
                break
        distance[q], grazing[q] = found, touch
    return distance, grazing


@njit(cache=True)
def _lost(c, b, a, t0, t1):
    """First t in [t0, t1] where c + b t + a t^2, the object over the line of sight, becomes negative; -1 if nowhere."""
    if c + b * t0 + a * t0 * t0 < -_CLEAR:
        return t0
    if a == 0.0:
        if b < 0.0:
            t = -c / b
            if t0 < t <= t1:
                return t
        return -1.0
    square = b * b - 4 * a * c
    if square < 0.0:
        return -1.0
    root = np.sqrt(square)
    for t in (min((-b - root) / (2 * a), (-b + root) / (2 * a)), max((-b - root) / (2 * a), (-b + root) / (2 * a))):
        if t0 < t <= t1 and b + 2 * a * t < 0.0:
            return t
    return -1.0


def sight_on_crest(k: float, eye: float, target: float) -> float:
    """Sight on a crest of constant K (m per percent), both ends on it: sqrt(200 K) (sqrt h1 + sqrt h2)."""
    return float(np.sqrt(200 * k) * (np.sqrt(eye) + np.sqrt(target)))


def sight_on_sag(k: float, height: float = 0.6, beam: float = 1.0) -> float:
    """Reach of headlights of a height (m) with an upward beam (degrees) on a sag of constant K: S^2 / (200 K) = h + S tan b."""
    rise = np.tan(np.radians(beam))
    return float(100 * k * (rise + np.sqrt(rise**2 + 4 * height / (200 * k))))


def offset_for_sight(radius: float, sight: float, *, printed: bool = False) -> float:
    """Clear offset inside a bend so that a sight distance along it, not longer than the bend, is free: R (1 - cos(S / 2R)).

    ``radius`` is that of the inside lane's centre; ``printed`` uses the book's rounded 28.65 degrees for half a radian.
    Source: AASHTO, section 3.3.12.
    """
    half = np.radians(28.65 * sight / radius) if printed else sight / (2 * radius)
    return radius * (1 - float(np.cos(half)))


def offset_for_sight_beyond(radius: float, length: float, sight: float) -> float:
    """The same at the middle of a bend of a length that is shorter than the sight distance; eye and object on the tangents."""
    half = length / (2 * radius)
    return radius * (1 - float(np.cos(half))) + (sight - length) / 2 * float(np.sin(half))


def sight_past_offset(radius: float, offset: float) -> float:
    """Sight distance along a bend past an obstacle at a clear offset inside it: 2 R acos((R - m) / R)."""
    return 2 * radius * float(np.arccos((radius - offset) / radius))
