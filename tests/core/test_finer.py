"""Sections closer together where edges bow or cases change: against closed forms of chord, arc and parabola, and sections between."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.block import solve_block
from ivoryridge.core.corridor.finer import LEAST_INTERVAL, finer_stations
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.errors import InputError
from ivoryridge.core.terrain.triangulate import triangulate
from tests.core.test_corridor import plane, rural

E0, N0 = 500_000.0, 6_200_000.0
VERGE = 3.65 + 1.0 + 2.5  # m to the outermost edge of the template before its slopes


def refined(line: Any, profile: Any, ground: Any, within: float, interval: float = 20.0) -> tuple[Any, Any]:
    coarse = section_stations(line, profile, interval)
    return coarse, finer_stations(lambda s: solve_block(line, profile, rural(), ground, s), coarse, within)


@pytest.mark.parametrize("within", [0.1, 0.02])
def test_in_an_arc_as_the_rise_of_the_outermost_edge_asks_and_nowhere_else(within: float) -> None:
    """An arc of radius r over a chord's angle a rises r (1 - cos a / 2) (circle; common geometry)."""
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400, 120), PI(E0 + 400, N0 + 400)])
    profile = profile_from_pvis([PVI(0, 120), PVI(line.end_station, 120)])
    coarse, fine = refined(line, profile, plane(100.0), within)
    first, last = line.stations[1], line.stations[2]
    bend = (fine > first - 1e-6) & (fine < last + 1e-6)
    assert np.isin(fine[~bend], coarse).all() and len(fine) > len(coarse)
    most = 2 * 120 * np.arccos(1 - within / (120 + VERGE))
    steps = np.diff(fine[bend])
    assert steps.max() <= most * (1 + 1e-9)
    added = ~np.isin(fine, coarse)[bend]
    assert steps[added[1:] | added[:-1]].min() > most / 2  # none is halved without need


def test_over_a_vertical_curve_as_the_parabola_asks() -> None:
    """Over a curve of constant change r of grade a chord of length L lies r L2 / 8 off in its middle (parabola)."""
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 600)])
    profile = profile_from_pvis([PVI(0, 120), PVI.symmetric(300, 132, 200), PVI(600, 120)])
    _, fine = refined(line, profile, plane(100.0), 0.006)
    steps = np.diff(fine)
    curved = (fine[:-1] >= 200 - 1e-6) & (fine[1:] <= 400 + 1e-6)
    most = np.sqrt(8 * 0.006 / (0.08 / 200))
    assert np.allclose(steps[~curved], 20) and steps[curved].max() <= most and np.allclose(steps[curved], 10)


def test_where_a_slope_takes_another_case_down_to_the_least_interval() -> None:
    """The line leaves a plane that it lies under; second way: sections every 0.1 m."""
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400)])
    profile = profile_from_pvis([PVI(0, 97), PVI(400, 103)])
    ground = plane(100.0)
    coarse, fine = refined(line, profile, ground, 1.0)
    every = np.arange(0.05, 400, 0.1)
    taken = solve_block(line, profile, rural(), ground, every).left.case_of["slope"][0]
    turns = every[1:][np.diff(taken) != 0]
    behind = np.searchsorted(fine, turns)
    assert len(turns) == 3 and (fine[behind] - fine[behind - 1] < 2 * LEAST_INTERVAL).all()
    assert len(fine) - len(coarse) <= 10 * len(turns)


def test_between_the_sections_of_random_roads_edges_lie_within_what_was_asked() -> None:
    """At three places between any two sections, measured in space from their straight; 20 roads in bends, transitions and crests."""
    rng = np.random.default_rng(14)
    ground, _ = triangulate(rng.uniform([E0 - 300, N0 - 300, 92], [E0 + 1100, N0 + 900, 108], (900, 3)))
    tried = missed = 0
    for _ in range(20):
        radius, within = rng.uniform(60, 400), rng.choice([0.05, 0.02, 0.01])
        line = alignment_from_pis([PI(E0, N0), PI(E0 + rng.uniform(250, 400), N0 + 30, radius, 40, 30), PI(E0 + 600, N0 + 400)])
        profile = profile_from_pvis([PVI(0, 100), PVI.symmetric(line.end_station / 2, 104, 120), PVI(line.end_station, 101)])
        _, fine = refined(line, profile, ground, within, interval=25.0)
        at = solve_block(line, profile, rural(), ground, fine)
        edges = [i for i, name in enumerate(at.left.names) if name.split(".")[0] != "slope"]
        for share in (0.25, 0.5, 0.75):
            s = fine[:-1] + share * np.diff(fine)
            between = solve_block(line, profile, rural(), ground, s)
            for sign, side, other in ((-1, at.left, between.left), (1, at.right, between.right)):
                here, there = (
                    _space(b.places, sign * c.across[edges], c.level[edges]) for b, c in ((at, side), (between, other))
                )
                a, b = here[:, :-1], here[:, 1:]
                way = (b - a) / np.linalg.norm(b - a, axis=-1, keepdims=True)
                off = np.linalg.norm(np.cross(way, there - a), axis=-1)
                wide = np.diff(fine) >= 2 * LEAST_INTERVAL
                tried += off[:, wide].size
                missed += int((off[:, wide] > 1.05 * np.sqrt(2) * within).sum())
    assert tried > 10_000 and missed == 0


def _space(places: Any, offset: Any, level: Any) -> Any:
    e = places.place[:, 0] + offset * np.cos(places.azimuth)
    return np.stack([e, places.place[:, 1] - offset * np.sin(places.azimuth), level], axis=-1)


def test_more_sections_than_can_be_had_are_refused() -> None:
    line = alignment_from_pis([PI(0, 0), PI(0, 9000, 8500), PI(9000, 9000)])
    profile = profile_from_pvis([PVI(0, 120), PVI(line.end_station, 120)])
    e, n = np.meshgrid(np.arange(-500, 9501, 500.0), np.arange(-500, 9501, 500.0))
    ground, _ = triangulate(np.column_stack([e.ravel(), n.ravel(), np.full(e.size, 110.0)]))
    with pytest.raises(InputError, match="more than 20000 sections"):
        refined(line, profile, ground, 1e-6)
