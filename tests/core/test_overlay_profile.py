"""Profiles laid over a road that is there: never under the least level, within the limits, and with no more on top than need be."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import ConvexHull

from ivoryridge.core.alignment.first_profile import fit_first_profile
from ivoryridge.core.alignment.overlay_profile import fit_over_least
from ivoryridge.core.alignment.profile_limits import FixedLevel, ProfileLimits
from ivoryridge.core.alignment.vertical import profile_from_pvis
from ivoryridge.core.errors import InputError, NoSolutionError
from ivoryridge.core.geometry.areas import areas_between, greatest_over


def wavy(rng: np.random.Generator) -> tuple[np.ndarray, np.ndarray]:
    """Levels of an old road every 10 m: grades, long waves and dips."""
    s = np.arange(0.0, rng.uniform(300, 1500), 10.0) + 1000.0
    z = 80 + rng.uniform(-0.03, 0.03) * (s - 1000)
    for length, high in ((400, 2.0), (120, 0.12), (40, 0.04)):
        z = z + rng.uniform(0.3, 1) * high * np.sin(2 * np.pi * (s / (length * rng.uniform(0.7, 1.4)) + rng.uniform()))
    return s, z + rng.normal(0, 0.005, len(s))


def test_random_old_roads_are_kept_over_within_the_limits_and_with_less_than_a_fit_above_them() -> None:
    rng = np.random.default_rng(1432)
    saved = []
    for _ in range(25):
        s, least = wavy(rng)
        limits = ProfileLimits(0.08, 8.0, 8.0)
        pvis = fit_over_least(s, least, limits)
        profile = profile_from_pvis(pvis)
        over = profile.evaluate(s)[0] - least
        assert over.min() > -1e-6 and over.min() < 1e-6  # it lies on the old road somewhere
        grades = np.diff([p.elevation for p in pvis]) / np.diff([p.station for p in pvis])
        assert np.abs(grades).max() <= 0.08 + 1e-9
        for p, a, b in zip(pvis[1:-1], grades, grades[1:], strict=False):
            if abs(b - a) > 1e-6:
                assert (p.half_in + p.half_out) / (100 * abs(b - a)) >= 8.0 - 1e-6
        squares = fit_first_profile(
            s,
            least,
            ProfileLimits(0.08, 8.0, 8.0, tuple(FixedLevel(a, b, "above") for a, b in zip(s, least, strict=True))),
            spacing=60.0,
        )
        other = profile_from_pvis(squares).evaluate(s)[0] - least
        saved.append(np.trapezoid(over, s) / np.trapezoid(other, s))
    assert max(saved) < 1.1 and np.median(saved) <= 1.0


def test_over_a_hump_with_one_straight_grade_the_least_volume_is_an_edge_of_the_hull() -> None:
    """With no room to curve (K without end) the profile is a straight line over all points: of least area over them, so along an edge of
    their convex hull (common practice, no source)."""
    rng = np.random.default_rng(77)
    for _ in range(20):
        s, least = wavy(rng)
        pvis = fit_over_least(s, least, ProfileLimits(0.5, 1e9, 1e9))
        line = np.interp(s, [p.station for p in pvis], [p.elevation for p in pvis])
        hull = ConvexHull(np.column_stack([s, least]))
        best = np.inf
        for i, j in hull.simplices:
            if abs(s[j] - s[i]) > 1e-9:
                edge = least[i] + (least[j] - least[i]) * (s - s[i]) / (s[j] - s[i])
                if (edge - least).min() > -1e-9:
                    best = min(best, float(np.trapezoid(edge - least, s)))
        assert float(np.trapezoid(line - least, s)) == pytest.approx(best, rel=1e-4)


def test_what_cannot_be_is_said() -> None:
    s = np.arange(0.0, 201.0, 10.0)
    with pytest.raises(NoSolutionError, match="greatest grade"):
        fit_over_least(s, 0.2 * s, ProfileLimits(0.05, 10, 10, start=(0.0, None)))
    with pytest.raises(InputError):
        fit_over_least(s, np.full(len(s), np.nan))


def test_the_height_over_a_path_is_that_of_many_readings() -> None:
    rng = np.random.default_rng(5)
    for _ in range(200):
        u = np.sort(rng.uniform(0, 10, 4))
        g = np.sort(rng.uniform(-3, 13, 9))
        z, gz = rng.normal(0, 1, 4), rng.normal(0, 1, 9)
        if rng.uniform() < 0.4:
            gz[rng.integers(0, 9)] = np.nan
        x = np.linspace(u[0], u[-1], 20001)
        known = np.interp(x, g, gz, left=np.nan, right=np.nan)
        found = float(greatest_over((u, z), (g, gz))[0])
        if np.isnan(known).all():
            assert np.isnan(found) or found < np.inf
            continue
        assert found == pytest.approx(np.nanmax(known - np.interp(x, u, z)), abs=0.02)
        cut, fill = areas_between((u, z), (g, gz))[0, :2]
        apart = np.nan_to_num(known - np.interp(x, u, z))
        if np.isfinite(gz).all():
            assert (cut, fill) == pytest.approx(
                (np.trapezoid(np.maximum(apart, 0), x), np.trapezoid(np.maximum(-apart, 0), x)), abs=0.01
            )
