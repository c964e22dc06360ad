"""The foot of a point on a line is the nearest of all, and a point past an end is known as such; by brute force over a family of lines."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.optimize import minimize_scalar

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points
from tests.families.lines import random_line


def nearest_by_force(line: HorizontalAlignment, point: np.ndarray) -> float:
    """Least distance (m): every 0.5 m of the line, then a bounded search about each of the ten best."""
    s = np.linspace(line.start_station, line.end_station, int(line.length.sum() * 2) + 2)
    apart = np.hypot(*(line.evaluate(s)[0] - point).T)
    best = float(min(apart[0], apart[-1]))
    for i in np.argsort(apart)[:10]:
        low, high = s[max(i - 1, 0)], s[min(i + 1, len(s) - 1)]
        found = minimize_scalar(
            lambda t: float(np.hypot(*(line.evaluate(t)[0][0] - point))),
            bounds=(low, high),
            method="bounded",
            options={"xatol": 1e-7},
        )
        best = min(best, float(found.fun))
    return best


@pytest.mark.parametrize("seed", range(12))
def test_the_foot_is_the_nearest_and_ends_are_known(seed: int) -> None:
    rng = np.random.default_rng(seed)
    line = random_line(rng)[1]
    assert line.end_station == line.stations[-1]  # one sum, not two
    along = rng.uniform(line.start_station, line.end_station, 15)
    places = line.evaluate(along)[0] + rng.normal(0, 150, (15, 2))
    ends, azimuth, _ = line.evaluate(np.array([line.start_station, line.end_station]))
    out = np.array([-1, 1])[:, None] * np.column_stack([np.sin(azimuth), np.cos(azimuth)])
    told = project_points(line, np.concatenate([places, ends + 45 * out]))
    assert told.beyond[-2:].all() and told.station[-2:] == pytest.approx(
        [line.start_station - 45, line.end_station + 45], abs=1e-6
    )
    over = np.maximum(line.start_station - told.station, 0) + np.maximum(told.station - line.end_station, 0)
    distance = np.hypot(over, told.offset)
    assert (over[~told.beyond] == 0).all()
    for place, d in zip(places, distance, strict=False):
        assert d == pytest.approx(nearest_by_force(line, place), abs=1e-6)
