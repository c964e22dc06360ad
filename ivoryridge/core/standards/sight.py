"""What a driver sees along a road, held against the stopping sight that a standard asks for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..alignment.sight import sight_along_profile
from ..alignment.vertical import VerticalAlignment
from ..findings import Severity
from ..wording import words
from .checks import SLACK, DesignFinding, Place
from .standard import SpeedZones, Standard

__all__ = ["SightLane", "check_sight", "farthest_of", "in_space", "sight_lane", "with_plan"]

SIGHT_STEP = 10.0  # m between the places a driver looks from


@dataclass(frozen=True, slots=True, eq=False)
class SightLane:
    """Stopping sight along the road: stations (n,), what is seen ahead and back (n,), what is asked for (n,), all m.

    Where the road ends before the sight does, or it reaches twice what is ever asked for, infinity stands. ``least`` is what
    one step below the required sight is, where the standard has one.
    """

    station: Any
    ahead: Any
    back: Any
    required: Any
    least: Any


def sight_lane(profile: VerticalAlignment, standard: Standard, zones: SpeedZones) -> SightLane | None:
    """What a driver sees over crests, from the standard's eye to its object; None for a standard without sight distances."""
    if "sight" not in standard.rows[0] or "eye_height" not in standard.rules:
        return None
    first, last = float(profile.station[0]), float(profile.station[-1])
    s = np.append(np.arange(first, last, SIGHT_STEP), last)
    eye, target = standard.rules["eye_height"], standard.rules["object_height"]
    farthest = farthest_of(standard)
    ahead, _ = sight_along_profile(profile, s, eye=eye, target=target, farthest=farthest)
    back, _ = sight_along_profile(profile, s, eye=eye, target=target, farthest=farthest, backward=True)
    rows = [standard.at(v) for v in zones.speeds]
    zone = np.searchsorted(zones.stations[1:], s, side="right")
    required = np.array([r["sight"] for r in rows])[zone]
    least = np.array([r.get("sight_least", r["sight"]) for r in rows])[zone]
    to_end, to_start = (
        np.where(seen >= np.minimum(left, farthest) - 1e-6, np.inf, seen) for seen, left in ((ahead, last - s), (back, s - first))
    )
    return SightLane(s, to_end, to_start, required, least)


def farthest_of(standard: Standard) -> float:
    """Twice the sight that is ever asked for, m; beyond it nothing is looked for."""
    return 2.0 * max(row["sight"] for row in standard.rows)


def with_plan(lane: SightLane, ahead: Any, back: Any) -> SightLane:
    """The lane with what bends leave of the view; the smaller governs."""
    return replace(lane, ahead=np.minimum(lane.ahead, ahead), back=np.minimum(lane.back, back))


def in_space(lane: SightLane, ahead: Any, back: Any) -> SightLane:
    """The lane with what is seen in space, to the whole metre, as sections stand apart and between them nothing is looked at;
    where it is not known (NaN), what crests leave of the view stays."""
    return replace(
        lane,
        ahead=np.where(np.isnan(ahead), lane.ahead, np.round(ahead)),
        back=np.where(np.isnan(back), lane.back, np.round(back)),
    )


def check_sight(lane: SightLane, standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    """Stretches on which less is seen, ahead or back, than is asked for; each with its worst place."""
    out = []
    for word, seen in (("ahead", lane.ahead), ("back", lane.back)):
        short = seen < lane.required * (1 - SLACK)
        edges = np.flatnonzero(np.diff(np.concatenate([[False], short, [False]]).astype(np.int8)))
        for a, b in zip(edges[::2], edges[1::2], strict=True):
            worst = a + int(np.argmin(seen[a:b] - lane.required[a:b]))
            speed = zones.at(float(lane.station[worst]))
            here = Place(standard, speed, standard.at(speed), float(lane.station[a]), float(lane.station[b - 1]), ("", -1))
            fault = seen[worst] < lane.least[worst] * (1 - SLACK)
            limit = float(lane.least[worst] if fault else lane.required[worst])
            why = words(
                "Eye {eye:m.2} and object {object:m.2} over the road; worst at {at:m.0}.",
                eye=standard.rules["eye_height"], object=standard.rules["object_height"], at=float(lane.station[worst]),
            )  # fmt: skip
            severity: Severity = "fault" if fault else "doubt"
            out.append(
                here.found(
                    severity, "sight-short", word, "sight", float(seen[worst]), limit, "m", why, start=here.start, end=here.end
                )
            )
    return out
