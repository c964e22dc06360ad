"""Profiles: parabolas against differences and closed form; the first profile keeps its limits."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.first_profile import fit_first_profile
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import InputError, NoSolutionError

PVIS = [PVI(0, 50), PVI(200, 58, 60, 60), PVI(420, 51.4, 50, 90), PVI(700, 60)]


def test_grade_is_the_slope_of_the_levels() -> None:
    profile = profile_from_pvis(PVIS)
    s = np.linspace(5, 695, 200)
    s = s[np.abs(s[:, None] - profile.station).min(axis=1) > 0.01]
    ahead, _ = profile.evaluate(s + 1e-3)
    back, _ = profile.evaluate(s - 1e-3)
    assert_allclose((ahead - back) / 2e-3, profile.evaluate(s)[1], rtol=0, atol=1e-6)


def test_levels_and_grades_have_no_step_at_piece_ends() -> None:
    profile = profile_from_pvis(PVIS)
    inner = profile.station[1:-1]
    before, after = profile.evaluate(inner - 1e-9), profile.evaluate(inner + 1e-9)
    assert_allclose(before[0], after[0], rtol=0, atol=1e-7)
    assert_allclose(before[1], after[1], rtol=0, atol=1e-7)


def test_crest_is_where_the_grade_is_zero() -> None:
    """x = g1 L / (g1 - g2) from the curve's start: textbook parabola."""
    profile = profile_from_pvis([PVI(0, 50), PVI.symmetric(200, 58, 120), PVI(420, 51.4)])
    g1, g2 = 0.04, -0.03
    x = g1 * 120 / (g1 - g2)
    assert_allclose(profile.turning_points(), [[140 + x, 58 - 60 * g1 + g1 * x / 2]], rtol=0, atol=1e-9)


def test_outside_the_profile_there_is_no_level() -> None:
    z, g = profile_from_pvis(PVIS).evaluate([-1, 350, 701])
    assert np.isnan(z).tolist() == [True, False, True] == np.isnan(g).tolist()


@pytest.mark.parametrize(
    ("pvis", "code", "told"),
    [
        ([PVI(0, 5)], "too-few-pvis", "1 are there"),
        ([PVI(0, 5), PVI(80, 6), PVI(60, 5)], "pvis-out-of-order", "above 80.00 m"),
        ([PVI(0, 5), PVI(100, 6, 40, 70), PVI(200, 5, 60, 20), PVI(300, 5)], "vertical-curves-overlap", "overlap by 30.00 m"),
        ([PVI(0, 5, 0, 20), PVI(100, 6)], "curve-at-end", "PVI 1"),
        ([PVI(0, 5), PVI(50, float("inf")), PVI(100, 6)], "not-a-number", "PVI 2"),
    ],
)
def test_profiles_that_cannot_be_are_refused(pvis: list[PVI], code: str, told: str) -> None:
    with pytest.raises(InputError) as error:
        profile_from_pvis(pvis)
    assert error.value.code == code and told in error.value.sentence


def _hills() -> tuple[np.ndarray, np.ndarray]:
    s = np.linspace(0, 2000, 801)
    return s, 50 + 12 * np.sin(s / 220) + 2 * np.sin(s / 61)


def test_first_profile_keeps_its_limits_and_follows_the_ground() -> None:
    s, z = _hills()
    pvis = fit_first_profile(s, z, greatest_grade=0.05, least_k=30)
    grades = np.diff([p.elevation for p in pvis]) / np.diff([p.station for p in pvis])
    assert np.abs(grades).max() <= 0.05 + 1e-6
    for p, change in zip(pvis[1:-1], np.abs(np.diff(grades)), strict=True):
        assert change * 100 * 30 <= p.half_in + p.half_out + 1e-3
    fitted = profile_from_pvis(pvis).evaluate(s)[0]
    assert np.sqrt(np.mean((fitted - z) ** 2)) < 0.5 * z.std()


def test_first_profile_over_a_straight_slope_is_that_slope() -> None:
    s = np.linspace(0, 900, 200)
    pvis = fit_first_profile(s, 20 + 0.03 * s)
    assert_allclose(profile_from_pvis(pvis).evaluate(s)[0], 20 + 0.03 * s, rtol=0, atol=1e-3)


def test_first_profile_says_when_the_limits_cannot_be_met_or_there_is_no_ground() -> None:
    with pytest.raises(InputError, match="no ground under the line"):
        fit_first_profile([0, 100], [np.nan, np.nan])
    flat = fit_first_profile(*_hills(), greatest_grade=1e-9)
    assert np.ptp([p.elevation for p in flat]) < 1e-4
    with pytest.raises(NoSolutionError, match="No profile keeps"):
        fit_first_profile(*_hills(), greatest_grade=-0.01)
