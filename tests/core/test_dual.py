"""Roads with two halves: a reserve of fixed or varied width, an axis of rotation for each half, several lanes a side."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.crossfall_diagram import CrossfallDiagram
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.turning import Crossfall, lane_count, lane_of
from ivoryridge.core.corridor.varied import Adjustment, pieces_of
from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.template import PlacedPart, Template

from .test_corridor import E0, N0, plane

LANE, NORMAL = 7.3, 0.025
AXES = {"inner edge": 0.0, "middle": 0.5, "outer edge": 1.0}


def half(axis: str, lanes: int = 1) -> tuple[PlacedPart, ...]:
    reserve = PlacedPart("reserve", library_part("central_reserve"), {"width": 3.0, "crossfall": 0.0, "axis": axis})
    wide = {"lane_width": LANE / lanes, "crossfall": NORMAL, "shoulder_width": 0.0}
    return (reserve, *(PlacedPart(f"lane{i}", library_part("carriageway"), wide) for i in range(lanes)))


def diagram(left: float, right: float) -> CrossfallDiagram:
    """Normal to 100 m, full from 200 m on; outward rise."""
    s = np.array([0.0, 100.0, 200.0, 400.0])
    return CrossfallDiagram(
        s, np.array([-NORMAL, -NORMAL, left, left]), np.array([-NORMAL, -NORMAL, right, right]), (NORMAL, NORMAL), (), ()
    )


@pytest.mark.parametrize("lanes", [1, 2])
@pytest.mark.parametrize("axis", list(AXES))
def test_each_half_turns_about_its_own_axis_and_the_reserve_takes_up_the_rest(axis: str, lanes: int) -> None:
    """Closed forms: the axis stays on the plane that the half has on the straight; the middle of the road stays on the profile."""
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400)])
    profile = profile_from_pvis([PVI(0, 103), PVI(400, 107)])
    turning = Crossfall(diagram(0.05, -0.06), "centre", (LANE, LANE))
    template = Template("dual", half(axis, lanes), half(axis, lanes))
    made = compute_corridor(line, profile, template, plane(), np.arange(0.0, 401.0, 10.0), crossfall=turning)
    (block,) = made.blocks
    assert block.level == pytest.approx(103 + 0.01 * block.station, abs=1e-12)
    share = AXES[axis]
    for columns, rates in (
        (block.left, turning.diagram.rates(block.station)[0]),
        (block.right, turning.diagram.rates(block.station)[1]),
    ):
        inner, outer = columns.index("reserve.reserve_edge"), columns.index(f"lane{lanes - 1}.lane_edge")
        straight = block.level - NORMAL * share * LANE  # of the axis where nothing is turned
        found = columns.level[inner] + share * (columns.level[outer] - columns.level[inner])
        assert found == pytest.approx(straight, abs=1e-12)
        assert (columns.level[outer] - columns.level[inner]) / LANE == pytest.approx(rates, abs=1e-12)
        assert columns.across[outer] == pytest.approx(3.0 + LANE, abs=1e-12)


def test_a_reserve_that_grows_wider_carries_its_half_with_it() -> None:
    line = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 400)])
    profile = profile_from_pvis([PVI(0, 103), PVI(400, 107)])
    rows = ((100.0, 3.0), (300.0, 9.0))
    wide = [Adjustment(side, "reserve", "width", 100.0, 300.0, rows, 1) for side in ("left", "right")]
    template = Template("dual", half("middle"), half("middle"))
    row, told = pieces_of(template, 0.0, 400.0, adjustments=wide)
    made = compute_corridor(
        line,
        profile,
        row,
        plane(),
        np.arange(0.0, 401.0, 20.0),
        crossfall=Crossfall(diagram(0.05, -0.05), "centre", (LANE, LANE)),
    )
    assert not told
    for block in made.blocks:
        for columns in (block.left, block.right):
            edge = columns.across[columns.index("lane0.lane_edge")]
            inside = (block.station >= 100) & (block.station <= 300) & (len(block.station) > 2)
            wanted = np.where(inside, np.interp(block.station, [100, 300], [3.0, 9.0]), 3.0) + LANE
            if block.station[0] >= 100 and block.station[-1] <= 300:
                assert edge == pytest.approx(wanted, abs=1e-9)
    assert lane_of(half("middle", 2)) == (LANE, NORMAL) and lane_count(half("middle", 2)) == 2
