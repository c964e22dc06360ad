"""Profiles: parabolas against differences and closed form; the first profile keeps its limits."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.first_profile import fit_first_profile, height_measure
from ivoryridge.core.alignment.profile_limits import FixedLevel, ProfileLimits
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
    pvis = fit_first_profile(s, z, ProfileLimits(0.05, 30, 30))
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
    flat = fit_first_profile(*_hills(), ProfileLimits(1e-9))
    assert np.ptp([p.elevation for p in flat]) < 1e-4
    with pytest.raises(NoSolutionError, match="No profile keeps"):
        fit_first_profile(*_hills(), ProfileLimits(-0.01))


START = 0.03  # grade at the start


def test_first_profile_hits_fixed_levels_and_ends_and_keeps_k_along_the_road() -> None:
    s, z = _hills()
    middle = float(0.5 * (s[0] + s[-1]))
    fixed = (
        FixedLevel(400.0, float(np.interp(400, s, z)) + 1.0),
        FixedLevel(middle, float(np.interp(middle, s, z)) - 2.0, "below"),
    )
    limits = ProfileLimits(
        0.06, lambda at: np.where(at < middle, 30.0, 55.0), 20.0, fixed, (float(z[0]), START), (float(z[-1]) + 0.5, None)
    )
    pvis = fit_first_profile(s, z, limits)
    profile = profile_from_pvis(pvis)
    assert profile.evaluate(400.0)[0][0] == pytest.approx(fixed[0].level, abs=1e-5)
    assert profile.evaluate(middle)[0][0] <= fixed[1].level + 1e-5
    assert (pvis[0].elevation, pvis[-1].elevation) == (pytest.approx(z[0], abs=1e-5), pytest.approx(z[-1] + 0.5, abs=1e-5))
    grades = np.diff([p.elevation for p in pvis]) / np.diff([p.station for p in pvis])
    assert grades[0] == pytest.approx(START, abs=1e-7)
    for p, change in zip(pvis[1:-1], np.diff(grades), strict=True):
        k = 20.0 if change > 0 else 30.0 if p.station < middle else 55.0
        assert abs(change) * 100 * k <= p.half_in + p.half_out + 1e-3


def test_limits_that_cannot_be_met_together_are_named() -> None:
    s, z = _hills()
    too_high = FixedLevel(float(s[0]) + 100.0, float(z[0]) + 20.0, name="the bridge deck")
    with pytest.raises(NoSolutionError, match="the bridge deck") as told:
        fit_first_profile(s, z, ProfileLimits(0.05, fixed=(too_high,), start=(float(z[0]), None)))
    assert "greatest grade of 5.00 %" in str(told.value) or "at the start" in str(told.value)


def test_the_mean_height_moves_the_profile_as_a_balance_asks() -> None:
    s, z = _hills()
    even = np.linspace(s[0], s[-1], 900)
    for mean in (-0.4, 0.0, 0.7):
        fitted = profile_from_pvis(fit_first_profile(s, z, ProfileLimits(0.06, mean_height=mean))).evaluate(even)[0]
        assert float(np.mean(fitted - np.interp(even, s, z))) == pytest.approx(mean, abs=0.01)


def test_the_first_profile_is_no_worse_than_the_one_the_demo_was_made_with() -> None:
    """In its own measure, over the demo's ground along the demo's line, under limits that the demo's profile keeps."""
    from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
    from ivoryridge.design.demo.landscape import LINK_PIS, LINK_PVIS, ground_level

    line = alignment_from_pis([PI(*p) for p in LINK_PIS])
    s = np.linspace(0, line.end_station, 600)
    z = ground_level(line.evaluate(s)[0])
    theirs = [PVI.symmetric(*p) for p in LINK_PVIS[:-1]] + [PVI(line.end_station, LINK_PVIS[-1][1])]
    ours = fit_first_profile(s, z, ProfileLimits(0.06, 32.0, 32.0))
    assert height_measure(ours, s, z) <= height_measure(theirs, s, z)


def test_a_first_profile_lies_on_the_ground_at_its_ends_and_refuses_only_what_cannot_be() -> None:
    """A family of rough grounds; second way for refusals: scipy's linear programme over PVIs 20 m apart with the same limits."""
    from scipy.optimize import linprog

    rng = np.random.default_rng(11)
    wrong = 0
    for _ in range(6):
        s = np.arange(0.0, 1201.0, 10.0)
        ground = 50 + np.cumsum(rng.normal(0, 0.35, len(s))) + rng.uniform(-12, 12) * np.sin(s / rng.uniform(120, 400))
        grade = float(rng.uniform(0.02, 0.07))
        limits = ProfileLimits(greatest_grade=grade, crest_k=20.0, sag_k=15.0)
        try:
            pvis = fit_first_profile(s, ground, limits)
        except NoSolutionError:
            n = 61  # grades between knots within the limit, their changes within K: a fine row of free levels
            d = np.diff(np.eye(n), axis=0) / 20.0
            c = np.diff(d, axis=0)
            a = np.concatenate([d, -d, c, -c])
            b = np.concatenate(
                [np.full(2 * (n - 1), 0.95 * grade), np.full(n - 2, 0.95 * 20 / 1500), np.full(n - 2, 0.95 * 20 / 2000)]
            )
            free = linprog(np.zeros(n), A_ub=a, b_ub=b, bounds=[(None, None)] * n)
            wrong += free.status == 0
            continue
        made = profile_from_pvis(pvis)
        z = made.evaluate([0.0, 1200.0])[0]
        steep = abs(ground[-1] - ground[0]) / 1200 > 0.95 * grade
        assert steep or np.abs(z - ground[[0, -1]]).max() < 1e-3
    assert wrong == 0
