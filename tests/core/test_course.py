"""Lines kept by elements and parallels: against the line itself set off square, and PIs there and back."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.course import convert_to_pis, line_from_elements, parallel_line, run_against, told_elements
from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis, project_points
from ivoryridge.core.errors import InputError

E0, N0 = 412_000.0, 687_000.0
PIS = [PI(E0, N0), PI(E0 + 300, N0 + 40, 220, 50, 40), PI(E0 + 520, N0 + 300, 150, 0, 0), PI(E0 + 900, N0 + 330)]


def line() -> HorizontalAlignment:
    return alignment_from_pis(PIS, 100.0)


@pytest.mark.parametrize("offset", [-40.0, -3.5, 3.5, 25.0, 100.0])
def test_a_parallel_lies_at_its_offset_everywhere(offset: float) -> None:
    """Second way: points of the parallel projected on the line, 1e-6 m (parallels of clothoids are evaluated, not guessed)."""
    road = line()
    beside = parallel_line(road, offset)
    assert beside.evaluate(beside.end_station)[0][0] == pytest.approx(
        road.evaluate(road.end_station)[0][0] + offset * np.array([np.cos(road.evaluate(road.end_station)[1][0]),
        -np.sin(road.evaluate(road.end_station)[1][0])]),
        abs=1e-6,
    )  # fmt: skip
    s = np.linspace(beside.start_station, beside.end_station, 1501)
    found = project_points(road, beside.evaluate(s)[0])
    assert np.abs(found.offset - offset).max() < 1e-6
    ends = beside.evaluate(beside.stations[1:-1] - 1e-9)[0]
    assert np.hypot(*(ends - beside.start[1:]).T).max() < 1e-6  # its pieces join


def test_a_parallel_through_the_centre_of_a_bend_is_refused_with_the_radius() -> None:
    with pytest.raises(InputError, match=r"R 150\.0 m at .* smaller offset"):
        parallel_line(line(), 160.0)


def test_elements_are_kept_to_the_last_bit_and_convert_to_the_pis_they_came_from() -> None:
    road = line()
    kept = line_from_elements(told_elements(road), 100.0)
    for name in ("start", "azimuth", "length", "k0", "k1"):
        assert np.array_equal(getattr(kept, name), getattr(road, name))
    assert kept.pi_of.max() == 2
    back = convert_to_pis(kept)
    assert back.difference < 1e-6
    for got, want in zip(back.pis, PIS, strict=True):
        assert (got.easting, got.northing, got.radius, got.spiral_in, got.spiral_out) == pytest.approx(
            (want.easting, want.northing, want.radius, want.spiral_in, want.spiral_out), abs=1e-5
        )


def test_what_pis_cannot_follow_is_told_in_metres() -> None:
    """An egg: two arcs with a clothoid between them; its middle is where the two bends of the PIs meet."""
    rows, place, azimuth = [], np.array([E0, N0]), 0.3
    for length, k0, k1 in ((80, 0, 0), (90, 1 / 200, 1 / 200), (40, 1 / 200, 1 / 400), (90, 1 / 400, 1 / 400), (80, 0, 0)):
        rows.append([*place, azimuth, length, k0, k1])
        one = line_from_elements([rows[-1]])
        at, heading, _ = one.evaluate(one.end_station)
        place, azimuth = at[0], float(heading[0])
    back = convert_to_pis(line_from_elements(rows))
    assert len(back.pis) == 4 and 0.001 < back.difference < 1.0


def test_a_line_run_against_goes_the_same_way_back() -> None:
    road = line()
    back = run_against(road)
    s = np.linspace(0, road.length.sum(), 200)
    there, azimuth, k = road.evaluate(100 + s)
    again, turned, bent = back.evaluate(100 + s[::-1])
    assert again == pytest.approx(there, abs=1e-8) and bent[1:-1] == pytest.approx(-k[1:-1], abs=1e-9)
    assert np.cos(turned - azimuth) == pytest.approx(np.full(200, -1.0))
    twice = run_against(back)
    assert twice.start == pytest.approx(road.start, abs=1e-8) and twice.pi_of.tolist() == road.pi_of.tolist()


def test_elements_that_do_not_meet_are_refused() -> None:
    rows = told_elements(line())
    rows[2][0] += 0.5
    with pytest.raises(InputError, match=r"Element 3 begins 0\.500 m away"):
        line_from_elements(rows)
