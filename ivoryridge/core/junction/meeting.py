"""Where one road meets another: it crosses its line, or ends at it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from ..alignment.horizontal import HorizontalAlignment, project_points
from ..errors import InputError

Floats = NDArray[np.float64]
Arm = Literal["before", "after"]

__all__ = ["Arm", "Meeting", "meeting_near", "meetings_of"]

ENDS_AT = 12.0  # m from the other's line within which an end meets it
LEAST_ARM = 15.0  # m of a road that make an arm
_STEP = 2.0  # m between places at which it is asked on which side of the other line a road is
_ON = 1e-6  # m from a line that is on it


@dataclass(frozen=True, slots=True)
class Meeting:
    """Stations of the meeting on the main and on the side road, m; the arms of the side road; the angle (rad, 0 to pi/2) between both
    lines; the place (E, N) m."""

    main: float
    side: float
    arms: tuple[Arm, ...]
    angle: float
    place: tuple[float, float]


def meetings_of(main: HorizontalAlignment, side: HorizontalAlignment) -> list[Meeting]:
    """All meetings of a side road with a main one, along the side road."""
    length = side.end_station - side.start_station
    s = np.linspace(side.start_station, side.end_station, max(int(np.ceil(length / _STEP)), 2) + 1)
    foot = project_points(main, side.evaluate(s)[0])
    offset, beyond = np.asarray(foot.offset), np.asarray(foot.beyond, bool)

    def off(at: float) -> float:
        return float(project_points(main, side.evaluate(at)[0]).offset[0])

    stations: list[float] = []
    for i in np.flatnonzero(((offset[:-1] < 0) != (offset[1:] < 0)) & ~(beyond[:-1] & beyond[1:])):
        at = float(brentq(off, s[i], s[i + 1], xtol=1e-10))
        if abs(off(at)) < _ON:  # elsewhere the nearest place of a bent line jumps
            stations.append(at)
    for k, inward in ((0, 1), (-1, -1)):
        near = abs(offset[k]) <= ENDS_AT and not beyond[k] and abs(offset[k]) <= abs(offset[k + inward]) + _ON
        if near and all(abs(s[k] - at) > LEAST_ARM for at in stations):
            stations.append(float(s[k]))
    found = [_meeting(main, side, at) for at in sorted(stations)]
    return [m for m in found if m.arms]


def _meeting(main: HorizontalAlignment, side: HorizontalAlignment, at: float) -> Meeting:
    arms: list[Arm] = []
    if at - side.start_station >= LEAST_ARM:
        arms.append("before")
    if side.end_station - at >= LEAST_ARM:
        arms.append("after")
    place, azimuth, _ = side.evaluate(at)
    foot = float(project_points(main, place).station[0])
    _, other, _ = main.evaluate(foot)
    turned = abs((float(azimuth[0] - other[0]) + np.pi / 2) % np.pi - np.pi / 2)
    return Meeting(foot, at, tuple(arms), float(turned), (float(place[0, 0]), float(place[0, 1])))


def meeting_near(
    main: HorizontalAlignment, side: HorizontalAlignment, near: tuple[float, float], names: tuple[str, str]
) -> Meeting:
    """The meeting nearest to a place (E, N) m. Raises InputError where the roads do not meet any more, with how far apart they are."""
    found = meetings_of(main, side)
    if not found:
        ends = side.evaluate(np.array([side.start_station, side.end_station]))[0]
        apart = float(np.abs(project_points(main, ends).offset).min())
        raise InputError("roads-apart", main=names[0], side=names[1], apart=apart, limit=ENDS_AT)
    return min(found, key=lambda m: float(np.hypot(m.place[0] - near[0], m.place[1] - near[1])))
