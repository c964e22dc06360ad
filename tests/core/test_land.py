"""Land that a road takes: closed forms on the straight and in a bend, boundaries against distances by hand."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import Corridor, compute_corridor
from ivoryridge.core.corridor.land import boundary_from, land_findings, land_take, outermost
from ivoryridge.core.corridor.places import section_stations

from .test_corridor import E0, N0, plane
from .test_varied import rural


def straight(level: float = 103.0) -> Corridor:
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 200)])
    profile = profile_from_pvis([PVI(0, level), PVI(200, level)])
    return compute_corridor(line, profile, rural(), plane(100.0), section_stations(line, profile, 10.0))


def square(west: float, east: float, south: float = -50.0, north: float = 250.0) -> Any:
    return np.array([(E0 + e, N0 + n) for e, n in ((west, south), (east, south), (east, north), (west, north), (west, south))])


def test_a_constant_section_takes_its_width_times_its_length_and_the_margin_all_round() -> None:
    road = straight()
    reach = float(outermost(road)["right"][0][0])
    assert land_take(road, 0.0).area == pytest.approx(2 * reach * 200)
    wider = land_take(road, 1.5)
    assert wider.area == pytest.approx((2 * reach + 3.0) * 203.0)
    (ring,) = wider.rings
    assert ring[:, 0].max() - E0 == pytest.approx(reach + 1.5) and np.array_equal(ring[0], ring[-1])


def test_in_a_bend_the_area_is_that_of_the_ring() -> None:
    """Half-width w on an arc: (left + right) w x length, the outside's gain is the inside's loss (Pappus)."""
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 200, 150), PI(E0 + 200, N0 + 200)])
    profile = profile_from_pvis([PVI(0, 103), PVI(line.end_station, 103)])
    road = compute_corridor(line, profile, rural(), plane(100.0), section_stations(line, profile, 1.0))
    reach = float(outermost(road)["right"][0][0])
    assert land_take(road, 0.0).area == pytest.approx(2 * reach * line.end_station, rel=2e-5)


def test_a_toe_beyond_the_boundary_is_found_with_the_amount_and_the_side() -> None:
    road = straight()
    reach = float(outermost(road)["right"][0][0])
    inside = boundary_from([square(-reach - 5, reach + 5)])
    assert land_findings(road, inside, 2.0) == []
    (near,) = land_findings(road, boundary_from([square(-reach - 5, reach + 1.2)]), 2.0)
    assert (near.code, near.params["side"]) == ("land-margin", "right") and near.params["value"] == pytest.approx(0.8)
    (far,) = land_findings(road, boundary_from([square(-reach + 0.75, reach + 5)]), 2.0)
    assert (far.code, far.params["side"], far.station_from, far.station_to) == ("land-passed", "left", 0.0, 200.0)
    assert far.params["value"] == pytest.approx(0.75)
    # a notch over 45 m only, cut in on the right
    notched = square(-reach - 5, reach + 5).tolist()
    notched[2:2] = [[E0 + reach + 5, N0 + 95], [E0 + reach - 2, N0 + 95], [E0 + reach - 2, N0 + 140], [E0 + reach + 5, N0 + 140]]
    (notch,) = land_findings(road, boundary_from([np.array(notched)]), 0.0)
    assert (notch.station_from, notch.station_to) == (100.0, 140.0) or (notch.station_from, notch.station_to) == (100.0, 130.0)
    assert notch.params["value"] == pytest.approx(2.0)


def test_boundaries_of_several_lines_open_ones_and_none() -> None:
    ring = square(-40, 40)
    halves = boundary_from([ring[:3], ring[2:]])
    assert halves.area.area == pytest.approx(80 * 300) and halves.open_by is None
    nearly = ring + np.array([[0, 0]] * 4 + [[0.004, 0.003]])
    assert boundary_from([nearly]).area.area == pytest.approx(80 * 300, rel=1e-3)
    open_ = boundary_from([ring[:4]])
    assert open_.area.is_empty and open_.open_by == pytest.approx(300.0)
    (told,) = land_findings(straight(), open_, 1.0)
    assert told.code == "land-open" and "300.00 m" in told.sentence
    assert [f.code for f in land_findings(straight(), boundary_from([]), 1.0)] == ["land-nowhere"]


def signed_room(place: Any, ring: Any) -> float:
    """Distance to a ring, negative outside, in plain Python: the nearest side, and how often a ray to the east crosses it."""
    x, y = place
    nearest, inside = np.inf, False
    for (ax, ay), (bx, by) in zip(ring[:-1].tolist(), ring[1:].tolist(), strict=True):
        length = (bx - ax) ** 2 + (by - ay) ** 2
        t = min(max(((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length, 0.0), 1.0)
        nearest = min(nearest, float(np.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay))))
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            inside = not inside
    return nearest if inside else -nearest


def test_random_boundaries_are_passed_where_a_second_way_says_so() -> None:
    """30 ragged boundaries beside a road with a bend: every section, both sides, and the greatest amount of each finding."""
    rng = np.random.default_rng(19)
    line = alignment_from_pis([PI(E0, N0), PI(E0 + 40, N0 + 260, 180, 30, 30), PI(E0 + 240, N0 + 420)])
    profile = profile_from_pvis([PVI(0, 102), PVI.symmetric(200, 106, 120), PVI(line.end_station, 101)])
    road = compute_corridor(line, profile, rural(), plane(100.0, rise_e=0.02), section_stations(line, profile, 10.0))
    toes, s = outermost(road), road.station
    passed = near = 0
    for _ in range(30):
        at = np.linspace(-30, line.end_station + 30, 14)
        place, azimuth, _ = line.evaluate(np.clip(at, 0, line.end_station))
        along = at - np.clip(at, 0, line.end_station)
        place = place + along[:, None] * np.stack([np.sin(azimuth), np.cos(azimuth)], axis=-1)
        right = np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
        sides = [place + sign * rng.uniform(10, 32, 14)[:, None] * right for sign in (-1.0, 1.0)]
        ring = np.concatenate([sides[0], sides[1][::-1], sides[0][:1]])
        margin = float(rng.uniform(0, 4))
        told = land_findings(road, boundary_from([ring]), margin)
        for side, (_, toe) in toes.items():
            room = np.array([signed_room(p, ring) for p in toe])
            for code, wanted in (("land-passed", room < 0), ("land-margin", (room > 0) & (room < margin))):
                found = [f for f in told if f.code == code and f.params["side"] == side]
                here = (
                    np.any([(s >= f.station_from) & (s <= f.station_to) for f in found], axis=0)
                    if found
                    else np.zeros(len(s), bool)
                )
                sure = (np.abs(room) > 0.006) & (np.abs(room - margin) > 0.006)
                assert np.array_equal(here[sure], wanted[sure])
                for f in found:
                    i = int(np.argmin(np.abs(s - f.params["at"])))
                    amount = -room[i] if code == "land-passed" else margin - room[i]
                    assert f.params["value"] == pytest.approx(amount, abs=1e-6)
                passed, near = passed + (code == "land-passed") * len(found), near + (code == "land-margin") * len(found)
    assert passed > 20 and near > 20
