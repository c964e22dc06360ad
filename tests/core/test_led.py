"""Nodes that lines lead: against crossings by shapely, and closed forms of where they come to lie."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
import shapely
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.block import solve_block, solve_blocks
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.led import Led, crossings
from ivoryridge.core.corridor.places import places_at
from ivoryridge.core.corridor.varied import Piece

from .test_corridor import E0, N0, plane
from .test_varied import GROUND, LINE, PROFILE, rural

NORTH = alignment_from_pis([PI(E0, N0), PI(E0, N0 + 300)])  # offsets are eastings, stations northings
LEVEL = profile_from_pvis([PVI(0, 100), PVI(300, 100)])
EDGE = "carriageway.pavement_edge"


def line(*vertices: tuple[float, float, float]) -> Any:
    return np.array([(E0 + e, N0 + n, z) for e, n, z in vertices], float)


def node(station: Any, *led: Led, name: str = EDGE, side: str = "right") -> tuple[Any, Any, Any]:
    block = solve_block(NORTH, LEVEL, rural(), plane(90.0), station, led=led)
    columns = getattr(block, side)
    i = columns.index(name)
    return columns.across[i], columns.level[i], columns


def test_crossings_with_random_lines_are_those_of_shapely() -> None:
    """300 sections of a bent line, 12 random lines of 2 to 40 vertices: every crossing, its offset and its level."""
    rng = np.random.default_rng(11)
    at = places_at(LINE, np.sort(rng.uniform(0, LINE.end_station, 300)))
    lines = []
    for _ in range(12):
        start = LINE.evaluate([rng.uniform(0, LINE.end_station)])[0][0] + rng.normal(0, 30, 2)
        steps = rng.normal(0, 14, (int(rng.integers(2, 41)), 2))
        xy = start + np.cumsum(steps, axis=0)
        lines.append(np.column_stack([xy, rng.uniform(90, 110, len(xy))]))
    rows = Led("right", EDGE, tuple(lines), 0, 1).segments
    offset, level = crossings(at, rows)
    right = np.stack([np.cos(at.azimuth), -np.sin(at.azimuth)], axis=-1)
    met = 0
    for i in range(300):
        section = shapely.LineString([at.place[i] - 300 * right[i], at.place[i] + 300 * right[i]])
        want = []
        for vertices in lines:
            for a, b in itertools.pairwise(vertices):
                found = shapely.intersection(section, shapely.LineString([a[:2], b[:2]]))
                if not found.is_empty:
                    place = np.array(found.coords[0])
                    share = np.hypot(*(place - a[:2])) / np.hypot(*(b[:2] - a[:2]))
                    want.append(((place - at.place[i]) @ right[i], a[2] + share * (b[2] - a[2])))
        there = np.isfinite(offset[i])
        got = sorted(zip(offset[i][there].tolist(), level[i][there].tolist(), strict=True))
        assert_allclose(np.array(got).reshape(-1, 2), np.array(sorted(want)).reshape(-1, 2), rtol=0, atol=1e-6)
        met += len(want)
    assert met > 300


def test_an_edge_takes_offset_or_level_or_both_and_what_is_beyond_moves_along() -> None:
    """A kerb line that runs from 5 to 8 m beside the centre and rises from 100.2 to 100.5 over 100 m."""
    kerb = line((5, 100, 100.2), (8, 200, 100.5))
    own_u, own_z, plain = node([150.0])
    fall = (own_z - plain.level[plain.index("carriageway.lane_edge")]) / (
        own_u - plain.across[plain.index("carriageway.lane_edge")]
    )
    verge = plain.index("verge.verge_edge")
    for offset, level in ((True, False), (False, True), (True, True)):
        u, z, columns = node([150.0], Led("right", EDGE, (kerb,), 100, 200, offset, level))
        lane = columns.level[columns.index("carriageway.lane_edge")], columns.across[columns.index("carriageway.lane_edge")]
        assert u == pytest.approx(6.5 if offset else own_u)
        assert z == pytest.approx(100.35 if level else lane[0] + fall * (u - lane[1]))
        beyond = columns.across[verge] - u, columns.level[verge] - z
        assert beyond == (pytest.approx(plain.across[verge] - own_u), pytest.approx(plain.level[verge] - own_z))
        assert not columns.unled[EDGE].any() and np.array_equal(columns.across[0], plain.across[0])
    assert node([150.0], Led("left", EDGE, (kerb,), 100, 200))[0] == own_u  # the other side is not led


def test_the_nearest_line_in_reach_counts_and_what_is_not_reached_is_told() -> None:
    own = float(node([150.0])[0][0])
    lines = (line((own + 2.0, 0, 100), (own + 2.0, 300, 100)), line((own - 1.5, 0, 100), (own - 1.5, 140, 100)))
    stations = np.array([20.0, 120.0, 160.0, 250.0])
    u, _, _ = node(stations, Led("right", EDGE, lines, 0, 200))
    assert_allclose(u, [own - 1.5, own - 1.5, own + 2.0, own], atol=1e-9)
    u, _, columns = node(stations, Led("right", EDGE, lines, 0, 200, reach=1.6))
    assert_allclose(u, [own - 1.5, own - 1.5, own, own], atol=1e-9)
    assert columns.unled[EDGE].tolist() == [False, False, True, False]
    block = solve_block(NORTH, LEVEL, rural(), plane(90.0), stations, led=[Led("right", EDGE, lines, 0, 200, reach=1.6)])
    (told,) = [f for f in Corridor(NORTH, (block,)).findings if f.code == "line-not-reached"]
    assert told.station_from == told.station_to == 160.0 and "pavement edge" in told.sentence
    high = (line((own, 0, 103.0), (own, 300, 103.0)),)
    for reach_level, missed in ((2.0, True), (4.0, False)):
        _, z, columns = node([150.0], Led("right", EDGE, high, 0, 300, level=True, reach_level=reach_level))
        assert columns.unled[EDGE].tolist() == [missed] and (z[0] == pytest.approx(103.0)) == (not missed)
    unknown = (line((own, 0, np.nan), (own, 300, np.nan)),)
    assert node([150.0], Led("right", EDGE, unknown, 0, 300, level=True))[2].unled[EDGE].all()


def test_a_led_node_comes_to_the_line_and_is_let_go_on_a_straight_line() -> None:
    """Held to the line's place at the ends of the range: half of the way is gone half-way, though the line ends there."""
    own = float(node([150.0])[0][0])
    kerb = line((own + 1, 100, 101), (own + 3, 200, 101))
    led = Led("right", EDGE, (kerb,), 100, 200, ease=40, release=20)
    u, _, columns = node(np.array([59.0, 70.0, 80.0, 100.0, 150.0, 200.0, 205.0, 210.0, 220.0]), led)
    assert_allclose(u - own, [0, 0.25, 0.5, 1, 2, 3, 2.25, 1.5, 0], atol=1e-9)
    assert not columns.unled[EDGE].any()


def test_led_pieces_in_one_go_are_what_each_gives_alone() -> None:
    """Over a bend, the edge of one piece led by a wavy line: the same to the last bit."""
    s = np.linspace(20, 380, 60)
    place, azimuth, _ = LINE.evaluate(s)
    u = 5.5 + 0.8 * np.sin(s / 17)
    wavy = np.column_stack([place[:, 0] + u * np.cos(azimuth), place[:, 1] - u * np.sin(azimuth), 100 + s / 50])
    template = rural()
    row = [Piece(template, 0, 120), Piece(template, 120, 300), Piece(template, 300, 400)]
    stations = [np.linspace(p.station_from, p.station_to, 30) for p in row]
    led = [Led("right", EDGE, (wavy,), 60, 340, level=True, ease=30, release=30)]
    made = solve_blocks(LINE, PROFILE, row, GROUND, stations, led=led)
    moved = 0
    for p, at, block in zip(row, stations, made, strict=True):
        alone = solve_block(LINE, PROFILE, p, GROUND, at, led=led)
        plain = solve_block(LINE, PROFILE, p, GROUND, at)
        assert np.array_equal(alone.right.across, block.right.across, True) and np.array_equal(
            alone.left.level, block.left.level, True
        )
        i = block.right.index(EDGE)
        moved += int((np.abs(block.right.across[i] - plain.right.across[i]) > 0.01).sum())
        assert np.array_equal(block.left.across, plain.left.across, True)
    assert moved > 40
