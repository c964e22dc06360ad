"""Sight in space against the crest formula, the bend equation, and a point-by-point walk along the line of sight."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy.interpolate import RegularGridInterpolator

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, project_points
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.corridor.sight_space import STEP, sight_in_space, surfaces_across

from .test_corridor import E0, N0, plane, rural

EYE, OBJECT = 1.08, 0.60  # AASHTO, 2018, section 3.2.6


def road(pis: list[PI], pvis: list[PVI], ground: float, interval: float = 5.0, **slope: Any) -> Any:
    line = alignment_from_pis(pis)
    profile = profile_from_pvis([PVI(min(p.station, line.end_station), p.elevation, p.half_in, p.half_out) for p in pvis])
    return (
        line,
        profile,
        compute_corridor(line, profile, rural(**slope), plane(ground), section_stations(line, profile, interval)),
    )


def test_over_a_crest_it_is_the_crest_formula_both_ways() -> None:
    """S = sqrt(200 K) (sqrt h1 + sqrt h2) (AASHTO, 2018, equation 3-43), on the straight and on a bank."""
    k, length = 25.0, 200.0  # 8 % of change over 200 m
    made = road(
        [PI(E0, N0), PI(E0, N0 + 600)], [PVI(0, 120), PVI(300, 132, length / 2, length / 2), PVI(600, 120)], 100.0, interval=2.0
    )
    want = np.sqrt(200 * k) * (np.sqrt(EYE) + np.sqrt(OBJECT))
    assert want < length  # both ends on the curve
    looking: dict[str, Any] = {"path": 1.8, "eye": EYE, "target": OBJECT}
    assert sight_in_space(*made, 300 - want / 2, **looking)[0][0] == pytest.approx(want, abs=0.6)
    assert sight_in_space(*made, 300 + want / 2, **looking)[1][0] == pytest.approx(want, abs=0.6)


def test_past_a_wall_on_a_level_bend_it_is_the_bend_equation() -> None:
    """S = 2 R acos(1 - M / R) (AASHTO, 2018, equation 3-36), with a clearance of 9 m on level ground."""
    made = road([PI(E0, N0), PI(E0, N0 + 500, 250.0), PI(E0 + 400, N0 + 500)], [PVI(0, 101), PVI(900, 101)], 100.0)
    line = made[0]
    middle = 0.5 * float(line.stations[1] + line.stations[2])
    want = 2 * 250 * np.arccos(1 - 9 / 250)
    got = sight_in_space(*made, middle - want / 2, path=0.0, eye=EYE, target=OBJECT, clearance=9.0)[0][0]
    assert got == pytest.approx(want, abs=1.0)
    free = sight_in_space(*made, middle - want / 2, path=0.0, eye=EYE, target=OBJECT, farthest=250.0)[0][0]
    assert np.isinf(free)


def test_in_a_cut_on_a_bend_over_a_crest_it_is_what_a_walk_along_the_line_of_sight_finds() -> None:
    """Every 0.25 m of the line of sight against the level of the road's surface there, by projection and scipy's interpolation."""
    pis = [PI(E0, N0), PI(E0 + 30, N0 + 400, 220.0), PI(E0 + 350, N0 + 520)]
    pvis = [PVI(0, 92), PVI(330, 102, 140, 140), PVI(900, 90)]
    line, _, corridor = made = road(pis, pvis, 101.5)
    offsets = np.linspace(-45, 45, 361)
    across, level = surfaces_across(corridor)
    sampled = np.array([np.interp(offsets, a[np.isfinite(a)], z[np.isfinite(a)]) for a, z in zip(across, level, strict=True)])
    ground = RegularGridInterpolator((corridor.station, offsets), sampled, bounds_error=False, fill_value=-np.inf)
    path, own = 1.8, np.arange(0.0, line.end_station, 0.5)

    def lane(s: Any, height: float) -> Any:
        place, azimuth, _ = line.evaluate(s)
        at = place + path * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
        return np.column_stack([at, ground(np.column_stack([s, np.full(len(s), path)])) + height])

    def walked(s: float) -> float:
        eye = lane(np.array([s]), EYE)[0]
        for aim_station, aim in zip(own[own > s], lane(own[own > s], OBJECT), strict=True):
            ray = np.linspace(eye, aim, max(int(np.hypot(*(aim - eye)[:2]) / 0.25), 2))[1:-1]
            where = project_points(line, ray[:, :2])
            if (ray[:, 2] < ground(np.column_stack([where.station, where.offset])) - 0.005).any():
                return float(aim_station - s)
        return np.inf

    at = np.array([120.0, 180.0, 230.0, 260.0, 300.0, 340.0])
    got = sight_in_space(*made, at, path=path, eye=EYE, target=OBJECT)[0]
    want = np.array([walked(float(s)) for s in at])
    assert np.isfinite(want).sum() >= 4
    assert got == pytest.approx(want, abs=STEP)
    # and it is neither of the two: the level bend sees other distances than the straight crest
    level_bend = road(pis, [PVI(0, 98), PVI(900, 98)], 101.5)
    straight = road([PI(E0, N0), PI(E0, N0 + 800)], pvis, 101.5)
    for other in (level_bend, straight):
        seen = sight_in_space(*other, at, path=path, eye=EYE, target=OBJECT)[0]
        assert (np.abs(np.where(np.isinf(seen), 900, seen) - got) > STEP).any()


def test_sections_ten_metres_apart_tell_no_more_than_close_ones() -> None:
    """A bend in cut: with sections every 10 m up to 23 m too much were told when nothing was looked at between them."""
    pis = [PI(E0, N0), PI(E0, N0 + 400, 120.0), PI(E0 + 400, N0 + 400)]
    pvis = [PVI(0, 96), PVI(800, 96)]
    told = []
    for interval in (10.0, 1.0):
        line, profile, corridor = road(pis, pvis, 101.5, interval=interval)
        s = np.arange(150.0, 560.0, 7.0)
        told.append(sight_in_space(line, profile, corridor, s, path=1.8, eye=1.05, target=0.26)[0])
    both = np.isfinite(told[0]) & np.isfinite(told[1])
    assert both.sum() > 20 and np.isinf(told[0]).sum() <= np.isinf(told[1]).sum()
    assert np.max(told[0][both] - told[1][both]) < 1.5
