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
