"""Sight in plan on a circle against AASHTO's equation 3-36, and what it does at ends, on straights and in both directions."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.sight_plan import STEP, sight_in_plan

# a long right arc of 300 m between straights
LINE = alignment_from_pis([PI(0, 0), PI(0, 900, 300.0), PI(800, 900)])
ARC = (float(LINE.stations[1]), float(LINE.stations[2]))


@pytest.mark.parametrize(("path", "clear"), [(0.0, 6.0), (1.8, 5.0), (-1.8, 9.0)])
def test_on_an_arc_it_is_the_printed_equation(path: float, clear: float) -> None:
    """S = 2 R acos(1 - M / R) along the path's own radius (AASHTO, 2018, equation 3-36: M = R (1 - cos(28.65 S / R)), degrees)."""
    r, m = 300.0 - path, clear - path
    want = 2 * r * np.arccos(1 - m / r) * 300.0 / r  # as station along the line
    middle = 0.5 * (ARC[0] + ARC[1]) - want / 2
    ahead = sight_in_plan(LINE, middle, path=path, left=50.0, right=clear)
    back = sight_in_plan(LINE, middle + want, path=path, left=50.0, right=clear, backward=True)
    assert ahead[0] == pytest.approx(want, abs=STEP + 0.5) and back[0] == pytest.approx(want, abs=STEP + 0.5)
    assert want - STEP - 0.5 <= ahead[0]  # never told more than is seen, but for the step


def test_on_a_straight_and_past_the_end_it_is_free_and_more_room_never_shows_less() -> None:
    assert np.isinf(sight_in_plan(LINE, [0.0, LINE.end_station - 50], path=0.0, left=5.0, right=5.0, farthest=200.0)).all()
    s = np.linspace(0, LINE.end_station, 60)
    before = np.zeros(len(s))
    for clear in (4.0, 7.0, 12.0, 30.0):
        now = sight_in_plan(LINE, s, path=0.0, left=clear, right=clear)
        assert (now >= before).all()
        before = now
