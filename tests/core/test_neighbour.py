"""Another road in a section: what a cut through its lines says, by closed forms and by a cut through its triangles."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import Corridor, compute_corridor
from ivoryridge.core.corridor.neighbour import passages_of
from ivoryridge.core.corridor.places import section_stations

from .test_corridor import E0, N0, plane, rural


def road(pis: list[PI], levels: tuple[float, float] = (103.0, 106.0), interval: float = 10.0) -> Corridor:
    line = alignment_from_pis(pis)
    profile = profile_from_pvis([PVI(0, levels[0]), PVI(line.end_station, levels[1])])
    return compute_corridor(line, profile, rural(), plane(), section_stations(line, profile, interval))


@pytest.mark.parametrize("skew", [90.0, 60.0, 125.0])
def test_a_straight_road_crossed_at_an_angle_is_its_own_section_drawn_out_by_the_sine(skew: float) -> None:
    other = road([PI(E0 - 150, N0 + 100), PI(E0 + 150, N0 + 100)])  # runs east; the section's own road has another direction
    azimuth = -np.radians(skew)  # its right then points so far off the other road's direction
    (found,) = passages_of(other, np.array([E0, N0 + 100.0]), azimuth, 80.0)
    right = np.array([np.cos(azimuth), -np.sin(azimuth)])
    sine = abs(right[1])  # of the angle between the section and the other road
    edge = 4.65 / sine
    for sign in (-1.0, 1.0):
        station = 150.0 + sign * edge * right[0]
        level = 103.0 + 3.0 * station / 300.0 - 0.025 * 4.65
        assert np.interp(sign * edge, found.offset, found.level) == pytest.approx(level, abs=1e-6)
    assert np.interp(0.0, found.offset, found.level) == pytest.approx(104.5, abs=1e-9)
    assert (np.diff(found.offset) >= 0).all()


def test_random_sections_find_the_levels_that_a_lattice_of_the_same_road_has() -> None:
    """Second way: the finished surface as a grid of quadrilaterals, read along the section by brute force."""
    rng = np.random.default_rng(1443)
    other = road([PI(E0 - 180, N0 + 40), PI(E0, N0 + 160, 120), PI(E0 + 190, N0 + 60)], interval=5.0)
    (block,) = other.blocks
    checked = 0
    for _ in range(120):
        s = rng.uniform(60, 250)
        place, azimuth, _ = other.line.evaluate(s)
        turned = float(azimuth[0]) + np.pi / 2 + rng.uniform(-0.7, 0.7)
        for p in passages_of(other, place[0], turned, 12.0):
            along, right = np.array([np.sin(turned), np.cos(turned)]), np.array([np.cos(turned), -np.sin(turned)])
            for columns, sign in ((block.left, -1.0), (block.right, 1.0)):
                i = columns.index("carriageway.lane_edge")
                u = sign * columns.across[i]
                e = block.places.place[:, 0] + u * np.cos(block.places.azimuth)
                n = block.places.place[:, 1] - u * np.sin(block.places.azimuth)
                t = np.linspace(0, len(e) - 1, 40_001)
                at = np.column_stack([np.interp(t, np.arange(len(e)), e), np.interp(t, np.arange(len(e)), n)]) - place[0]
                z = np.interp(t, np.arange(len(e)), columns.level[i])
                k = int(np.argmin(np.abs(at @ along) + 1e-3 * np.abs(at @ right)))
                if abs(at[k] @ along) < 0.01 and abs(at[k] @ right) < 10 and p.offset[0] <= at[k] @ right <= p.offset[-1]:
                    assert np.interp(at[k] @ right, p.offset, p.level) == pytest.approx(z[k], abs=2e-3)
                    checked += 1
    assert checked > 80


def test_a_section_that_passes_a_road_twice_has_it_twice_and_far_off_or_before_its_start_not_at_all() -> None:
    hairpin = road([PI(E0 - 200, N0), PI(E0 + 40, N0, 25), PI(E0 + 40, N0 + 100, 25), PI(E0 - 200, N0 + 100)])
    found = passages_of(hairpin, np.array([E0 - 100.0, N0 + 50.0]), np.pi / 2, 80.0)
    assert [round(float(np.abs(p.offset).mean())) for p in found] == [50, 50] and found[0].offset[0] * found[1].offset[0] < 0
    assert passages_of(hairpin, np.array([E0 - 100.0, N0 + 50.0]), np.pi / 2, 20.0) == []
    assert passages_of(hairpin, np.array([E0 - 260.0, N0 + 50.0]), np.pi / 2, 80.0) == []
