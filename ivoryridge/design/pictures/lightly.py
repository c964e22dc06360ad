"""Roads as they are drawn beside the active one: their lines, and why one has none."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import sample_stations
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.wording import spoken

from ..forms.road import LightRoad
from ..inputs.network import Network
from ..inputs.road import RoadInputs
from ..kept.kinds import tag
from ..results.followed import levels_followed
from ..results.levels import profile_of
from ..results.line import ground_under, line_of
from ..results.road import problems_of
from .numbers import level_stations

__all__ = ["dependents_lightly", "lightly_key", "road_lightly", "roads_lightly"]


def road_lightly(road: RoadInputs) -> LightRoad:
    """Name, line (rows of E, N and level, m; on the ground where it has no profile, None where
    there is none), and step -> sentence of what cannot be computed."""
    problems = problems_of(road, whole=False) if road.has_line else {}
    points: list[tuple[float, float, float | None]] = []
    if road.has_line and "line" not in problems:
        line = line_of(road)
        s = sample_stations(line, 500.0, 0.05)
        profile = profile_of(road) if road.has_profile and "levels" not in problems else None
        if profile is not None:
            s = np.union1d(s, np.clip(level_stations(profile), s[0], s[-1]))
            inside = (s >= profile.station[0]) & (s <= profile.station[-1])
            levels = np.where(inside, profile.evaluate(np.clip(s, profile.station[0], profile.station[-1]))[0], np.nan)
            try:
                levels = levels_followed(road, s, levels)
            except IvoryRidgeError as error:  # its own would be drawn where it has others
                problems["levels"], levels = error, np.full(len(s), np.nan)
        else:
            s, levels = _on_ground(road, s)
        places = np.round(line.evaluate(s)[0], 2).tolist()
        points = [(e, n, None if np.isnan(z) else round(float(z), 2)) for (e, n), z in zip(places, levels, strict=True)]
    return {
        "road_id": road.road_id,
        "name": road.name,
        "points": points,
        "problems": {k: e.sentence for k, e in problems.items()},
    }


def _on_ground(road: RoadInputs, s: Any) -> tuple[Any, Any]:
    """Stations of a road without a profile and the ground's levels there, as far as it is known."""
    if road.surface is None or not road.surface.sources:
        return s, np.full(len(s), np.nan)
    try:
        ground = ground_under(road)
    except IvoryRidgeError:  # why there is no ground is told where it is looked at
        return s, np.full(len(s), np.nan)
    s = np.union1d(s, ground[:: max(len(ground) // 200, 1), 0]) if len(ground) else s
    return s, np.interp(s, ground[:, 0], ground[:, 1], left=np.nan, right=np.nan) if len(ground) else np.full(len(s), np.nan)


def lightly_key(network: Network) -> str:
    return tag("roads lightly", 3, spoken().name, spoken().group, tuple(network.road(pk) for pk in sorted(network.own)))


def roads_lightly(network: Network) -> list[LightRoad]:
    return [road_lightly(network.road(pk)) for pk in sorted(network.own)]


def dependents_lightly(network: Network, changed: RoadInputs) -> Iterator[dict[str, Any]]:
    """Roads that hang on a road of a trial, over others too, as they would be, each after what it hangs on; returns are told with their
    junctions."""
    tried = network.with_road(changed)
    for pk in tried.hanging_on(changed.road_id):
        if tried.road(pk).return_of is None:
            yield {"dependent": pk, **road_lightly(tried.road(pk))}
