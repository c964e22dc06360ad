"""Line and levels at once: each hint just inside and just outside its threshold. Thresholds are common practice, no source."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, tangent_points
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.standards.standard import SpeedZones, built_in_standards
from ivoryridge.core.standards.together import check_together

STANDARD = built_in_standards()["british_metric"]  # stopping sight 160 m at 85 km/h, CD 109, Table 2.10 (from memory)
ZONES = SpeedZones((float("-inf"),), (85.0,))


def bend(at: float, radius: float = 600.0, turn: float = 20.0) -> list[PI]:
    a = np.radians(turn)
    return [PI(0, 0), PI(0, at, radius), PI(1500 * np.sin(a), at + 1500 * np.cos(a))]


def codes(pis: list[PI], pvis: list[PVI]) -> dict[str, float]:
    line = alignment_from_pis(pis)
    return {f.finding.code: f.value for f in check_together(line, pis, profile_from_pvis(pvis), pvis, STANDARD, ZONES)}


def crest(top: float) -> list[PVI]:
    """Grades of +3 and -3 % with the top at a station."""
    return [PVI(0, 100), PVI.symmetric(top, 100 + 0.03 * top, 330), PVI(2300, 100 + 0.03 * top - 0.03 * (2300 - top))]


@pytest.mark.parametrize(("behind", "hidden"), [(159.0, True), (161.0, False), (-20.0, False)])
def test_a_bend_that_starts_hidden_behind_a_crest(behind: float, hidden: bool) -> None:
    pis = bend(1200)
    start = tangent_points(alignment_from_pis(pis), 1)["TS"]
    found = codes(pis, crest(start - behind))
    assert ("bend-behind-crest" in found) is hidden
    if hidden:
        assert found["bend-behind-crest"] == pytest.approx(159.0, abs=0.02)


def test_the_other_direction_counts_too() -> None:
    pis = bend(700)
    end = tangent_points(alignment_from_pis(pis), 1)["ST"]
    assert codes(pis, crest(end + 100))["bend-behind-crest"] == pytest.approx(100, abs=0.02)
    sag = [PVI(0, 100), PVI.symmetric(end + 100, 80, 330), PVI(2300, 100)]
    assert "bend-behind-crest" not in codes(pis, sag)  # a sag hides nothing


def test_two_crests_joined_by_a_short_grade() -> None:
    """4 s at 85 km/h are 94.4 m."""
    straight = bend(1800, 3000, 1.0)
    for gap, broken in ((94.0, True), (95.0, False)):
        second = 600 + 150 + gap + 150
        pvis = [
            PVI(0, 100),
            PVI.symmetric(600, 118, 300),
            PVI.symmetric(second, 118 + 0.005 * (second - 600), 300),
            PVI(2200, 100),
        ]
        assert ("broken-grade" in codes(straight, pvis)) is broken
    alternating = [PVI(0, 100), PVI.symmetric(600, 118, 300), PVI.symmetric(920, 112, 300), PVI(2200, 140)]
    assert "broken-grade" not in codes(straight, alternating)


def test_a_bend_much_shorter_than_the_vertical_curve_it_lies_on() -> None:
    pis = bend(1000, 600, 10)
    places = tangent_points(alignment_from_pis(pis), 1)
    length = places["ST"] - places["TS"]
    middle = (places["TS"] + places["ST"]) / 2
    for curve, short in ((2.02 * length, True), (1.98 * length, False)):
        sag = [PVI(0, 100), PVI.symmetric(middle, 90, curve), PVI(2300, 100)]
        assert ("bend-on-long-curve" in codes(pis, sag)) is short
    apart = [PVI(0, 100), PVI.symmetric(1700, 90, 900), PVI(2300, 100)]
    assert "bend-on-long-curve" not in codes(pis, apart)
