"""What is seen from a side road: against similar triangles by hand over flat ground, a ridge and walls."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.junction.visibility import EYE, OBJECT, Obstacle, look_along
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.triangulate import triangulate


def ground(ridge: float = 0.0) -> Surface:
    """Flat at 50 m, 240 m each way, with a ridge of some height along n = -2 from e = 40 to e = 60."""
    rows = [[e, n, 50.0] for e in (-120, 0, 120) for n in (-120, -4, 0, 120)]
    rows += [[e, n, 50.0 + z] for e, z in ((38, 0), (40, ridge), (60, ridge), (62, 0)) for n in (-2.2, -1.8)]
    rows += [[e, n, 50.0] for e in (38, 62) for n in (-4, 0)]
    return triangulate(np.array(rows, float))[0]


EYE_AT = np.array([0.0, -4.5, 50 + EYE])
DISTANCE = np.arange(5.0, 91.0, 5.0)


def edge() -> np.ndarray:
    return np.column_stack([DISTANCE, np.zeros(len(DISTANCE)), np.full(len(DISTANCE), 50 + OBJECT)])


def test_over_flat_ground_all_is_seen() -> None:
    look = look_along(EYE_AT, edge(), DISTANCE, 90.0, ground())
    assert look.enough and look.seen == 90.0 and look.place is None


@pytest.mark.parametrize("height", [0.4, 0.8, 1.5, 3.0])
def test_a_wall_hides_what_lies_behind_it_by_similar_triangles(height: float) -> None:
    at = 20.0  # e of a wall square to the main road
    wall = Obstacle("hedge", np.array([[at, -10.0], [at, -0.5]]), height)
    look = look_along(EYE_AT, edge(), DISTANCE, 90.0, ground(), [wall])
    expected, amount = 90.0, 0.0
    for i, d in enumerate(DISTANCE):
        share = at / d
        n = -4.5 + share * 4.5
        line = EYE + share * (OBJECT - EYE)
        if d > at and -10 < n < -0.5 and height > line:
            expected, amount = (DISTANCE[i - 1] if i else 0.0), height - line
            break
    assert look.seen == expected and look.amount == pytest.approx(amount, abs=1e-9)
    assert (look.by == "hedge") == (amount > 0)


def test_a_ridge_hides_by_how_much_it_stands_in_the_view() -> None:
    look = look_along(EYE_AT, edge(), DISTANCE, 90.0, ground(1.4))
    assert not look.enough and look.by == "the ground" and look.place is not None
    e, n = look.place
    share = np.hypot(e, n + 4.5) / np.hypot(DISTANCE[list(DISTANCE).index(look.seen) + 1], 4.5)
    assert 38 < e < 62 and look.amount <= 1.4 - (EYE + share * (OBJECT - EYE)) + 1e-6
    assert look_along(EYE_AT, edge()[:7], DISTANCE[:7], 35.0, ground(1.4)).enough


def test_past_the_end_of_what_is_known_nothing_is_judged_and_it_says_so() -> None:
    short = look_along(EYE_AT, edge()[:7], DISTANCE[:7], 90.0, ground())
    assert (short.seen, short.needed, short.reach) == (35.0, 90.0, 35.0) and short.enough and not short.known_to_the_end
    holed = edge()
    holed[9, 2] = np.nan  # no ground at 50 m: what is known ends at 45 m, though there is ground again behind
    look = look_along(EYE_AT, holed, DISTANCE, 90.0, ground())
    assert (look.seen, look.reach) == (45.0, 45.0) and not look.known_to_the_end
    hidden = look_along(
        EYE_AT, holed, DISTANCE, 90.0, ground(), [Obstacle("hedge", np.array([[20.0, -10.0], [20.0, -0.5]]), 3.0)]
    )
    assert not hidden.enough and hidden.seen < hidden.reach < hidden.needed
    nothing = look_along(EYE_AT, edge()[:0], DISTANCE[:0], 90.0, ground())
    assert (nothing.seen, nothing.reach) == (0.0, 0.0) and not nothing.known_to_the_end
