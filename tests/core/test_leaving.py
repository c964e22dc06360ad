"""Where a side road leaves the lanes of the road it ends on."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, project_points
from ivoryridge.core.alignment.leaving import leaving_station
from ivoryridge.core.errors import InputError

MAIN = alignment_from_pis([PI(0, 0), PI(400, 0)])


@pytest.mark.parametrize("skew", [60.0, 90.0, 120.0])
@pytest.mark.parametrize("at_start", [True, False])
def test_on_straights_by_the_right_triangle(skew: float, at_start: bool) -> None:
    """Across a lane of width w at an angle a the way is w / sin a, and along the other road w / tan a (plane geometry)."""
    away = np.array([np.cos(np.radians(skew)), np.sin(np.radians(skew))])  # the main road runs east, so this goes to its left
    ends = [PI(200, 0), PI(*(np.array([200, 0]) + 100 * away))]
    line = alignment_from_pis(ends if at_start else ends[::-1])
    at, there, side = leaving_station(line, MAIN, (3.65, 9.0), at_start=at_start)
    way = 3.65 / np.sin(np.radians(skew))
    assert at == pytest.approx(way if at_start else 100 - way, abs=1e-8)
    assert there == pytest.approx(200 + 3.65 / np.tan(np.radians(skew)), abs=1e-8) and side == 0


def test_on_random_curves_no_place_before_lies_outside() -> None:
    rng = np.random.default_rng(5)
    for _ in range(60):
        main = alignment_from_pis(
            [PI(0, 0), PI(300, rng.uniform(-60, 60), rng.uniform(150, 400)), PI(600, rng.uniform(-200, 200))]
        )
        tie = rng.uniform(main.start_station + 20, main.end_station - 20)
        place, azimuth, _ = main.evaluate(tie)
        heading = azimuth[0] + rng.choice([-1, 1]) * np.radians(rng.uniform(40, 140))
        step = np.array([np.sin(heading), np.cos(heading)])
        line = alignment_from_pis(
            [
                PI(*place[0]),
                PI(*(place[0] + 40 * step), rng.uniform(15, 40)),
                PI(*(place[0] + 90 * step + rng.uniform(-30, 30, 2))),
            ]
        )
        widths = tuple(rng.uniform(3, 6, 2))
        at, _, side = leaving_station(line, main, widths, at_start=True)
        seen = project_points(main, line.evaluate(np.linspace(0, at, 400))[0])
        assert np.abs(seen.offset[-1]) == pytest.approx(widths[side], abs=1e-6)
        assert (np.abs(seen.offset) <= np.where(seen.offset > 0, widths[1], widths[0]) + 1e-6).all()


def test_a_slip_road_leaves_late() -> None:
    """A taper of 1 in 40 leaves a lane of 3.65 m after 146 m (right triangle)."""
    slip = alignment_from_pis([PI(100, 0), PI(300, 5)])
    at, there, side = leaving_station(slip, MAIN, (3.65, 3.65), at_start=True)
    assert (
        at == pytest.approx(3.65 * np.hypot(40, 1), abs=1e-6) and there == pytest.approx(100 + 40 * 3.65, abs=1e-6) and side == 0
    )


def test_a_line_that_stays_on_the_lanes_is_told() -> None:
    with pytest.raises(InputError, match="crosses no edge of its lanes on all its 100 m"):
        leaving_station(alignment_from_pis([PI(200, 0), PI(300, 1)]), MAIN, (3.65, 3.65), at_start=True, name="Link")
