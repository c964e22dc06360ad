"""The radius of a curve at a PI from something else that is known of it. Lengths m, angles rad."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from scipy.optimize import brentq

from ..errors import InputError
from .element import spiral_shift
from .horizontal import PI, alignment_from_pis, curve_tangents, deflection_at, project_points

__all__ = ["external_distance", "largest_radius", "radius_by_external", "radius_by_tangent", "radius_through"]

GREATEST = 1e5  # m; a flatter curve is a straight
_EXACT = 1e-11  # m


def external_distance(pi: PI, deflection: float) -> float:
    """Least distance from the PI to the arc, along the line to its centre: |centre - PI| - R."""
    t_in, _ = curve_tangents(pi, deflection)
    shift, abscissa, _ = spiral_shift(pi.radius, pi.spiral_in)
    return float(np.hypot(t_in - abscissa, pi.radius + shift) - pi.radius)


def _least_radius(pi: PI, deflection: float) -> float:
    """Transitions may turn no more than the whole deflection: (L1 + L2) / (2 R) <= D."""
    return max((pi.spiral_in + pi.spiral_out) / (2 * abs(deflection)) * (1 + 1e-9), 1e-3)


def _solve(off: Callable[[float], float], least: float, what: str, number: int) -> float:
    if off(least) * off(GREATEST) > 0:
        low = abs(off(least)) < abs(off(GREATEST))
        raise InputError("no-such-radius", pi=number, what=what, way="greater" if low else "smaller")
    return float(brentq(off, least, GREATEST, xtol=_EXACT, rtol=1e-14))


def radius_by_tangent(pis: Sequence[PI], i: int, length: float) -> float:
    """Radius whose longer tangent, PI to tangent point, has a length (m), with the PI's own transitions."""
    turn = deflection_at(pis, i)
    return _solve(
        lambda r: max(curve_tangents(replace(pis[i], radius=r), turn)) - length,
        _least_radius(pis[i], turn),
        "tangent length",
        i + 1,
    )


def radius_by_external(pis: Sequence[PI], i: int, distance: float) -> float:
    """Radius whose arc passes at a distance (m) from the PI."""
    turn = deflection_at(pis, i)
    return _solve(
        lambda r: external_distance(replace(pis[i], radius=r), turn) - distance,
        _least_radius(pis[i], turn),
        "distance from the PI",
        i + 1,
    )


def radius_through(pis: Sequence[PI], i: int, easting: float, northing: float) -> float:
    """Radius whose curve, transitions included, passes through a point between the tangents (m, m)."""
    turn, point = deflection_at(pis, i), np.array([[easting, northing]])
    middle = np.array([pis[i].easting, pis[i].northing])

    def off(r: float) -> float:
        own = replace(pis[i], radius=r)
        tangents = curve_tangents(own, turn)
        ends = []  # legs as long as this curve needs, so that neighbours do not matter
        for j, t in ((i - 1, tangents[0]), (i + 1, tangents[1])):
            along = np.array([pis[j].easting, pis[j].northing]) - middle
            ends.append(middle + along / np.hypot(*along) * (t + 1000.0))
        line = alignment_from_pis([PI(*ends[0]), own, PI(*ends[1])])
        return float(project_points(line, point).offset[0])

    return _solve(off, _least_radius(pis[i], turn), "point", i + 1)


def largest_radius(pis: Sequence[PI], i: int) -> float:
    """The greatest radius whose tangents fit between those of the neighbouring curves, with the PI's own transitions."""
    turn = deflection_at(pis, i)
    here = np.array([pis[i].easting, pis[i].northing])
    room = []
    for j, far in ((i - 1, 1), (i + 1, 0)):
        leg = float(np.hypot(*(np.array([pis[j].easting, pis[j].northing]) - here)))
        taken = curve_tangents(pis[j], deflection_at(pis, j))[far] if 0 < j < len(pis) - 1 else 0.0
        room.append(leg - taken)

    def over(r: float) -> float:
        return max(t - free for t, free in zip(curve_tangents(replace(pis[i], radius=r), turn), room, strict=True))

    least = _least_radius(pis[i], turn)
    if over(least) > 0:
        raise InputError("no-room-for-curve", pi=i + 1, there=min(room))
    return GREATEST if over(GREATEST) < 0 else float(brentq(over, least, GREATEST, xtol=_EXACT, rtol=1e-14))
