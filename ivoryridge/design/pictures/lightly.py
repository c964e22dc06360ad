"""Roads as they are drawn beside the active one: their lines, and why one has none."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import sample_stations

from ..inputs.network import Network
from ..inputs.road import RoadInputs
from ..kept.kinds import tag
from ..results.line import line_of
from ..results.road import problems_of

__all__ = ["dependents_lightly", "lightly_key", "road_lightly", "roads_lightly"]


def road_lightly(road: RoadInputs) -> dict[str, Any]:
    """Name, line in plan (rows of E, N, m), and step -> sentence of what cannot be computed."""
    problems = problems_of(road, whole=False) if road.has_line else {}
    points: list[Any] = []
    if road.has_line and "line" not in problems:
        line = line_of(road)
        points = np.round(line.evaluate(sample_stations(line, 500.0, 0.05))[0], 2).tolist()
    return {
        "road_id": road.road_id,
        "name": road.name,
        "points": points,
        "problems": {k: e.sentence for k, e in problems.items()},
    }


def lightly_key(network: Network) -> str:
    return tag("roads lightly", 1, tuple(network.road(pk) for pk in sorted(network.own)))


def roads_lightly(network: Network) -> list[dict[str, Any]]:
    return [road_lightly(network.road(pk)) for pk in sorted(network.own)]


def dependents_lightly(network: Network, changed: RoadInputs) -> Iterator[dict[str, Any]]:
    """Roads that hang on a road of a trial, over others too, as they would be, each after what it hangs on."""
    tried = network.with_road(changed)
    for pk in tried.hanging_on(changed.road_id):
        yield {"dependent": pk, **road_lightly(tried.road(pk))}
