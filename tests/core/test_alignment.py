"""Lines in plan: against the Fresnel integrals, by properties, and at their edges."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy.special import fresnel

from ivoryridge.core.alignment.element import clothoid_local, travel
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, grid_from_station_offset, project_points, tangent_points
from ivoryridge.core.errors import InputError
from tests.strategies import pi_rows

MICRON = 1e-6  # m; far below anything that is set out


@given(st.floats(20, 2000), st.floats(0.01, 1.6))
def test_clothoid_agrees_with_the_fresnel_integrals(parameter: float, share: float) -> None:
    """Abramowitz & Stegun, ch. 7: x = A sqrt(pi) C(l / (A sqrt(pi))), y with S; scipy.special.fresnel."""
    length = share * parameter
    x, y, _ = clothoid_local(parameter, [length])
    s, c = fresnel(length / (parameter * np.sqrt(np.pi)))
    assert_allclose([x[0], y[0]], parameter * np.sqrt(np.pi) * np.array([c, s]), rtol=0, atol=MICRON)


def test_quarter_circle_ends_where_geometry_says() -> None:
    ahead, right, turned = travel([50 * np.pi], 50 * np.pi, 0.01, 0.01)
    assert_allclose([ahead[0], right[0], turned[0]], [100, 100, np.pi / 2], rtol=0, atol=1e-9)


@settings(max_examples=40)
@given(pi_rows())
def test_elements_join_and_end_at_the_last_pi(pis: list[PI]) -> None:
    line = alignment_from_pis(pis)
    ends = line.stations[1:-1]
    before, azimuth_before, _ = line.evaluate(ends - 1e-7)
    after, azimuth_after, _ = line.evaluate(ends + 1e-7)
    assert_allclose(before, after, rtol=0, atol=MICRON)
    assert_allclose(np.sin(azimuth_before - azimuth_after), 0, rtol=0, atol=1e-8)
    assert_allclose(line.evaluate(line.end_station)[0][0], [pis[-1].easting, pis[-1].northing], rtol=0, atol=1e-5)


@settings(max_examples=25)
@given(pi_rows(), st.floats(0.02, 0.98), st.floats(-25, 25))
def test_station_and_offset_come_back(pis: list[PI], share: float, offset: float) -> None:
    line = alignment_from_pis(pis, 1000.0)
    station = line.start_station + share * line.length.sum()
    place, _ = grid_from_station_offset(line, [station], [offset])
    found = project_points(line, place)
    assert_allclose([found.station[0], found.offset[0]], [station, offset], rtol=0, atol=1e-5)


@settings(max_examples=20)
@given(pi_rows(), st.floats(-1e5, 1e5), st.floats(-1e5, 1e5))
def test_moving_the_world_changes_no_length(pis: list[PI], e: float, n: float) -> None:
    moved = [PI(p.easting + e, p.northing + n, p.radius, p.spiral_in, p.spiral_out) for p in pis]
    assert_allclose(alignment_from_pis(moved).length, alignment_from_pis(pis).length, rtol=0, atol=1e-6)


def test_mirrored_line_turns_the_other_way() -> None:
    right = alignment_from_pis([PI(0, 0), PI(0, 300, 100, 30, 20), PI(200, 500)])
    left = alignment_from_pis([PI(0, 0), PI(0, 300, 100, 30, 20), PI(-200, 500)])
    assert_allclose(left.k0, -right.k0, rtol=0, atol=0)
    assert right.k0.max() > 0


def test_unequal_transitions_keep_their_lengths_and_places() -> None:
    line = alignment_from_pis([PI(0, 0), PI(0, 400, 120, 50, 20), PI(300, 700)])
    at = tangent_points(line, 1)
    assert_allclose([at["SC"] - at["TS"], at["ST"] - at["CS"]], [50, 20], rtol=0, atol=1e-9)


def test_overlapping_curves_are_told_at_their_pi_with_the_amount() -> None:
    """A leg of 250 m between two right angles (tangents equal the radius): 200 + 90 overlap it by 40."""
    pis = [PI(0, 0), PI(0, 400, 200), PI(250, 400, 90), PI(250, 0)]
    with pytest.raises(InputError) as told:
        alignment_from_pis(pis)
    assert told.value.where == {"pi": 1}
    assert told.value.params["overlap"] == pytest.approx(40, abs=1e-6)
    assert "overlap by 40.00 m" in told.value.sentence and "below 160 m at PI 2" in told.value.sentence


@pytest.mark.parametrize(
    ("pis", "code"),
    [
        ([PI(0, 0)], "too-few-pis"),
        ([PI(0, 0), PI(0, 0), PI(5, 5)], "pis-coincide"),
        ([PI(0, 0), PI(0, float("nan")), PI(5, 5)], "not-a-number"),
        ([PI(0, 0), PI(0, 100, -5), PI(100, 100)], "negative-value"),
        ([PI(0, 0), PI(0, 100, 0, 20), PI(100, 100)], "spiral-without-radius"),
        ([PI(0, 0), PI(0, 100, 50, 90, 90), PI(100, 100)], "spiral-too-long"),
        ([PI(0, 0), PI(0, 100, 50), PI(0, 10)], "turns-back"),
    ],
)
def test_lines_that_cannot_be_are_refused(pis: list[PI], code: str) -> None:
    with pytest.raises(InputError) as told:
        alignment_from_pis(pis)
    assert told.value.code == code


def test_a_point_beyond_an_end_is_flagged_and_set_off_from_the_tangent() -> None:
    line = alignment_from_pis([PI(0, 0), PI(0, 100)])
    found = project_points(line, [[3, -20], [-2, 130], [4, 50]])
    assert found.beyond.tolist() == [True, True, False]
    assert_allclose(np.column_stack([found.station, found.offset]), [[-20, 3], [130, -2], [50, 4]], rtol=0, atol=1e-9)
