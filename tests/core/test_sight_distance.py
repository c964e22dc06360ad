"""Sight over a profile: the closed form on one crest, a plain sampling of the line of sight, and both directions."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ivoryridge.core.alignment.sight import sight_along_profile, sight_on_crest
from ivoryridge.core.alignment.vertical import PVI, VerticalAlignment, profile_from_pvis
from ivoryridge.core.standards.sight import check_sight, sight_lane
from ivoryridge.core.standards.standard import SpeedZones, built_in_standards

EYE, TARGET = 1.08, 0.60


def sampled(profile: VerticalAlignment, x: float, most: float, step: float = 0.05) -> float:
    """The same by stepping along the road: the object is lost where its top falls under the steepest line so far."""
    t = np.arange(step, most, step)
    z, _ = profile.evaluate(np.append(x, x + t))
    eye = z[0] + EYE
    to_road, to_top = (z[1:] - eye) / t, (z[1:] + TARGET - eye) / t
    steepest = np.maximum.accumulate(to_road)
    lost = np.flatnonzero(to_top < steepest - 1e-12)
    return float(t[lost[0]]) if len(lost) else most


grades = st.floats(-0.08, 0.08)


@settings(deadline=None, max_examples=40)
@given(st.lists(st.tuples(st.floats(80, 400), grades, st.floats(0, 0.45)), min_size=3, max_size=6), st.floats(0.02, 0.8))
def test_sight_is_that_of_a_sampled_line(legs: list[tuple[float, float, float]], share: float) -> None:
    stations, levels = [0.0], [100.0]
    for length, grade, _ in legs:
        stations.append(stations[-1] + length)
        levels.append(levels[-1] + length * grade)
    last = len(stations) - 1
    pvis = [
        PVI.symmetric(s, z, 2 * legs[i - 1][2] * min(legs[i - 1][0], legs[i][0]) if 0 < i < last else 0.0)
        for i, (s, z) in enumerate(zip(stations, levels, strict=True))
    ]
    profile = profile_from_pvis(pvis)
    x = share * stations[-1]
    most = min(600.0, stations[-1] - x)
    found, _ = sight_along_profile(profile, [x], eye=EYE, target=TARGET, farthest=600.0)
    plain = sampled(profile, x, most)
    # a grazing line may be decided either way by the step; then a hair more or less of target lets both agree
    either = {
        plain,
        *(float(sight_along_profile(profile, [x], eye=EYE, target=TARGET + d, farthest=600.0)[0][0]) for d in (-1e-4, 1e-4)),
    }
    assert min(abs(float(found[0]) - v) for v in either) <= 0.06


def crest(k: float = 30.0, change: float = 0.08) -> VerticalAlignment:
    length = 100 * change * k
    return profile_from_pvis([PVI(0, 100), PVI.symmetric(1000, 100 + 1000 * change / 2, length), PVI(2000, 100)])


def test_sight_on_a_long_crest_is_the_closed_form_in_both_directions() -> None:
    """S = sqrt(200 K) (sqrt h1 + sqrt h2) wherever both ends stand on the curve."""
    s = np.array([900.0, 960.0, 975.0])
    expected = sight_on_crest(30, EYE, TARGET)
    ahead, grazing = sight_along_profile(crest(), s, eye=EYE, target=TARGET)
    assert ahead == pytest.approx([expected] * 3, abs=1e-8)
    assert grazing - s == pytest.approx([np.sqrt(200 * 30 * EYE)] * 3, abs=1e-8)
    back, _ = sight_along_profile(crest(), 2000 - s, eye=EYE, target=TARGET, backward=True)
    assert back == pytest.approx(ahead, abs=1e-8)


def test_sags_grades_and_the_end_of_the_road_hide_nothing() -> None:
    sag = profile_from_pvis([PVI(0, 100), PVI.symmetric(500, 80, 200), PVI(1000, 100)])
    assert sight_along_profile(sag, [0.0, 700.0], eye=EYE, target=TARGET, farthest=2000)[0] == pytest.approx([1000, 300])
    assert np.isnan(sight_along_profile(sag, [-1.0, 1001.0], eye=EYE, target=TARGET)[0]).all()


def test_too_short_a_sight_is_found_with_its_stretch_and_worst_place() -> None:
    standard: Any = built_in_standards()["american_metric"]
    zones = SpeedZones((float("-inf"),), (80.0,))
    sharp, gentle = crest(k=25.5), crest(k=26.5)  # Table 3-34: K 26 at 80 km/h, for 130 m
    lane = sight_lane(sharp, standard, zones)
    assert lane is not None
    found = {f.finding.params["name"]: f for f in check_sight(lane, standard, zones)}
    assert set(found) == {"ahead", "back"} and found["ahead"].finding.severity == "fault"
    assert found["ahead"].value == pytest.approx(sight_on_crest(25.5, EYE, TARGET), abs=1e-6) and found["ahead"].limit == 130
    assert 850 < found["ahead"].finding.station_from < found["ahead"].finding.station_to < 1000  # type: ignore[operator]
    enough = sight_lane(gentle, standard, zones)
    assert enough is not None and check_sight(enough, standard, zones) == []
    german = sight_lane(sharp, built_in_standards()["german_rural"], zones)
    v = 90 / 3.6  # the next class; stopping on the level in 2 s and at 3.7 m/s2, to the next 5 m
    assert german is not None and set(german.required) == {5 * round((v * 2 + v * v / 7.4) / 5)}
