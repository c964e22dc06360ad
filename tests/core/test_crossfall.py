"""The crossfall diagram of a road against printed examples of single bends, and what it does where bends meet."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from ivoryridge.core.alignment.crossfall_diagram import TurnedBend, crossfall_diagram
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.turning import Crossfall, lane_of
from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.standards.crossfall import BendPin, check_crossfall, turned_bends
from ivoryridge.core.standards.standard import SpeedZones, built_in_standards
from tests.core.test_corridor import E0, N0, plane

CASES = {c["id"]: c for c in json.loads((Path(__file__).parents[1] / "reference/check_cases.json").read_text())}
AMERICAN, BRITISH = (built_in_standards()[n] for n in ("american_metric", "british_metric"))


def zones(speed: float) -> SpeedZones:
    return SpeedZones((float("-inf"),), (speed,))


def bend(case: str) -> TurnedBend:
    """The right bend of a check case of topic D (sources stand there), with the places that the case expects."""
    e = CASES[case]["expected"]
    rate = CASES[case]["inputs"]["ed_pct"] / 100
    return TurnedBend(1, 1.0, rate, e["begin_runoff"], e["full_super"], e["end_full"], e["end_runoff"])


@pytest.mark.parametrize("case", ["D-SE-01", "D-SE-02", "D-SE-04", "D-SE-05"])
def test_one_bend_turns_as_in_the_printed_examples(case):
    normal = CASES[case]["inputs"]["eNC_pct"] / 100
    d = crossfall_diagram([bend(case)], normal, normal)
    for row in CASES[case]["expected"]["rates"]:
        left, right = d.rates(row["station"])  # of a right bend the left half lies outside
        assert 100 * left[0] == pytest.approx(row["outer_pct"], abs=1e-4)
        assert 100 * right[0] == pytest.approx(row["inner_pct"], abs=1e-4)


def test_a_reverse_curve_turns_straight_through_level():
    """D-REV-01: from +6 % to -3 % between 100 and 190, level at 160."""
    first = TurnedBend(1, 1.0, 0.06, 0.0, 40.0, 100.0, 160.0)
    second = TurnedBend(2, -1.0, 0.03, 160.0, 190.0, 300.0, 330.0)
    d = crossfall_diagram([first, second], 0.025, 0.025)
    assert d.joined == ((1, 2),)
    left, right = d.rates([100, 130, 160, 190])
    assert left == pytest.approx([0.06, 0.03, 0.0, -0.03]) and right == pytest.approx([-0.06, -0.03, 0.0, 0.03])


def test_bends_too_near_meet_half_way_and_that_is_told():
    first, second = TurnedBend(1, 1.0, 0.05, 0.0, 40.0, 130.0, 170.0), TurnedBend(2, -1.0, 0.05, 90.0, 120.0, 200.0, 240.0)
    d = crossfall_diagram([first, second], 0.025, 0.025)
    assert d.rates(125.0)[0][0] == pytest.approx(0.0)
    line = alignment_from_pis([PI(0, 0), PI(0, 300)])
    found = check_crossfall(d, line, None, AMERICAN, zones(80), width=3.65)
    assert [f.finding.code for f in found if f.finding.station_from < 125 < f.finding.station_to] == ["crossfall-fast"]
    assert max(f.value for f in found) == pytest.approx(100 * 3.65 * 0.10 / 1.0)  # the whole turn on one metre


def reverse_bends(straight: float) -> list[PI]:
    """Bends of R 400 m that turn by 30 degrees right and left without transitions, a straight of a length between them."""
    a, t = np.radians(30.0), 400 * np.tan(np.radians(15.0))
    leg = 2 * t + straight
    first = np.array([0.0, 500.0])
    second = first + leg * np.array([np.sin(a), np.cos(a)])
    return [PI(0, 0), PI(*first, 400), PI(*second, 400), PI(second[0], second[1] + 500)]


def test_the_straight_between_reverse_bends_has_room_to_turn():
    """Two thirds of either runoff w e / delta lie on it: 2 * 2/3 * 3.65 * 0.067 / 0.005 (AASHTO, section 3.3.8, from memory)."""
    need = 2 * 2 / 3 * 3.65 * 0.067 / 0.005
    for straight, told in ((40.0, True), (need - 0.5, True), (need + 0.5, False)):
        pis = reverse_bends(straight)
        line = alignment_from_pis(pis)
        d = crossfall_diagram(turned_bends(line, pis, AMERICAN, zones(80), width=3.65, normal=0.02), 0.02, 0.02)
        found = [
            f for f in check_crossfall(d, line, None, AMERICAN, zones(80), width=3.65) if f.finding.code == "reverse-straight"
        ]
        assert bool(found) == told
        assert [(f.value, f.limit) for f in found] == ([(pytest.approx(straight), pytest.approx(need))] if told else [])


def test_rates_and_places_by_standard():
    """British: V^2 / (2.828 R) = 6.39 % at 85 km/h and 400 m, above to the tenth; none from 1440 m on (CD 109, from memory).
    American: C-M5-01 of the check cases, 6.609 % at 80 km/h and 400 m; runoff w e / delta with delta 0.50 % at 80 km/h."""
    pis = [PI(0, 0), PI(0, 900, 400, 60, 60), PI(900, 900)]
    line = alignment_from_pis(pis)
    ts, sc = line.stations[1], line.stations[2]
    (b,) = turned_bends(line, pis, BRITISH, zones(85), width=3.65, normal=0.025)
    assert b.rate == pytest.approx(0.064) and (b.level_in, b.full_in) == (pytest.approx(ts), pytest.approx(sc)) and b.turn == 1
    assert turned_bends(line, [pis[0], PI(0, 900, 1440, 60, 60), pis[2]], BRITISH, zones(85), width=3.65, normal=0.025) == []
    plain = [PI(0, 0), PI(0, 900, 400), PI(900, 900)]
    line = alignment_from_pis(plain)
    (b,) = turned_bends(line, plain, AMERICAN, zones(80), width=3.65, normal=0.02)
    runoff = 3.65 * 0.067 / 0.005
    assert b.rate == pytest.approx(0.067) and b.level_in == pytest.approx(line.stations[1] - 2 / 3 * runoff)
    assert b.full_in - b.level_in == pytest.approx(runoff) and b.level_out - b.full_out == pytest.approx(runoff)


def test_a_pinned_bend_keeps_its_places_from_the_tangent_points_and_is_held_against_the_standard():
    pis = [PI(0, 0), PI(0, 900, 400, 60, 60), PI(900, 900)]
    line = alignment_from_pis(pis, start_station=1000)
    pins = {1: BendPin(rate=0.03, level_in=-20.0)}
    (b,) = turned_bends(line, pis, BRITISH, zones(85), width=3.65, normal=0.025, pins=pins)
    assert (
        b.pinned
        and b.rate == 0.03
        and b.level_in == pytest.approx(line.stations[1] - 20)
        and b.full_in == pytest.approx(line.stations[2])
    )
    d = crossfall_diagram([b], 0.025, 0.025)
    level = profile_from_pvis([PVI(1000, 50), PVI(line.end_station, 50.5)])
    found = {f.finding.code: f for f in check_crossfall(d, line, level, BRITISH, zones(85), width=3.65)}
    assert found["crossfall-low"].limit == pytest.approx(6.4) and found["crossfall-low"].value == pytest.approx(3.0)
    told = check_crossfall(d, line, level, BRITISH, zones(85), width=3.65)
    spots = [
        f.finding for f in told if f.finding.code == "crossfall-flat"
    ]  # next to no grade: water stays where it is level across
    assert [f.station_from < at < f.station_to for f, at in zip(spots, (b.level_in, b.level_out), strict=True)] == [True, True]
    steep = profile_from_pvis([PVI(1000, 50), PVI(line.end_station, 50 + 0.02 * line.length.sum())])
    assert "crossfall-flat" not in {f.finding.code for f in check_crossfall(d, line, steep, BRITISH, zones(85), width=3.65)}


@pytest.mark.parametrize(("axis", "held"), [("centre", 0.0), ("inner", 3.65 * (0.06 - 0.02)), ("outer", -3.65 * (0.06 + 0.02))])
def test_the_corridor_turns_lanes_and_holds_its_axis(axis, held):
    """D-SE-01 laid on a straight level road: edges lie where rates times width put them (AASHTO, section 3.3.8, profiles)."""
    parts = (PlacedPart("carriageway", library_part("carriageway"), {"crossfall": 0.02, "shoulder_crossfall": 0.04}),)
    template = Template("plain", parts, parts)
    assert lane_of(parts) == (3.65, 0.02)
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 1150)])
    profile = profile_from_pvis([PVI(0, 100), PVI(1150, 100)])
    d = crossfall_diagram([bend("D-SE-01")], 0.02, 0.02)
    turning = Crossfall(d, axis, (3.65, 3.65))
    c = compute_corridor(line, profile, template, plane(95.0), [900.0, 971.2, 1100.0], crossfall=turning).blocks[0]
    assert c.level[2] == pytest.approx(100 + held) and c.level[0] == pytest.approx(100)
    at = c.left.index("carriageway.lane_edge")
    outer, inner = c.left.level[at], c.right.level[at]
    assert outer - c.level == pytest.approx([-3.65 * 0.02, 0.0, 3.65 * 0.06])
    assert inner - c.level == pytest.approx([-3.65 * 0.02, -3.65 * 0.02, -3.65 * 0.06])
    if axis != "centre":  # the edge that is held lies where the normal fall has it
        assert (inner if axis == "inner" else outer) == pytest.approx(np.full(3, 100 - 3.65 * 0.02))
    edge = c.left.index("carriageway.pavement_edge")
    fall = (c.left.level[edge] - outer) / (c.left.across[edge] - c.left.across[at])
    assert fall == pytest.approx([-0.04, 0.0, 0.06])  # the shoulder keeps its own fall only while its lane falls normally
