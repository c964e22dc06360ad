"""Lines as chains of elements: where one stands and what lies nearest against an integrator, and the first chain a fit starts from."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy.integrate import solve_ivp
from scipy.optimize import minimize_scalar

from ivoryridge.core.alignment.bend_chain import Chain, feet, laid_out, stand
from ivoryridge.core.alignment.first_chain import first_chains
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.pieces import pieces_of_line, scatter_of, without_jumps
from ivoryridge.core.alignment.places import stand_all
from tests.families.lines import measured, random_line


def random_elements(rng: np.random.Generator, count: int) -> tuple[Any, ...]:
    """Ends, places, headings, lengths and curvatures of elements that follow one another: straights, arcs, clothoids of any kind."""
    lengths = rng.uniform(5.0, 180.0, count)
    k0, k1 = np.where(rng.uniform(size=(2, count)) < 0.35, 0.0, rng.uniform(-1 / 40, 1 / 40, (2, count)))
    k1 = np.where(rng.uniform(size=count) < 0.4, k0, k1)
    place, heading = np.zeros((count, 2)), np.zeros(count)
    heading[0] = rng.uniform(-4, 4)
    for i in range(count - 1):
        end = integrated(place[i], heading[i], k0[i], k1[i], lengths[i], lengths[i])
        place[i + 1], heading[i + 1] = end[:2], end[2]
    return np.concatenate([[0.0], np.cumsum(lengths)]), place, heading, lengths, k0, k1


def integrated(place: Any, heading: float, k0: float, k1: float, length: float, s: float) -> Any:
    """Easting, northing and heading after s m by an integrator of general use (scipy's DOP853)."""

    def ahead(x: float, y: Any) -> list[float]:
        return [np.sin(y[2]), np.cos(y[2]), k0 + (k1 - k0) * x / length]

    return (
        solve_ivp(ahead, (0.0, s), [*place, heading], method="DOP853", rtol=1e-12, atol=1e-11).y[:, -1]
        if s > 0
        else [*place, heading]
    )


def test_random_elements_stand_where_an_integrator_stands() -> None:
    rng = np.random.default_rng(3)
    for _ in range(12):
        ends, place, heading, lengths, k0, k1 = random_elements(rng, int(rng.integers(2, 7)))
        s = rng.uniform(0, ends[-1], 9)
        found = stand_all(ends, place, heading, lengths, k0, k1, s)
        for at, x in zip(found, s, strict=True):
            i = int(np.searchsorted(ends, x, side="right")) - 1
            want = integrated(place[i], heading[i], k0[i], k1[i], lengths[i], x - ends[i])
            assert_allclose(at[:2], want[:2], rtol=0, atol=2e-7)
            assert_allclose(at[2], want[2], rtol=0, atol=1e-9)
            assert at[3] == pytest.approx(k0[i] + (k1[i] - k0[i]) * (x - ends[i]) / lengths[i], abs=1e-12)


def test_a_chain_is_laid_out_as_its_pis_are() -> None:
    """The chain of a fit and the line of its PIs are two ways to the same elements."""
    rng = np.random.default_rng(11)
    for _ in range(30):
        pis, line = random_line(rng)
        inner = pis[1:-1]
        chain = Chain(
            np.array([[p.easting, p.northing] for p in pis]), np.array([p.radius for p in inner]),
            np.array([[p.spiral_in**2, p.spiral_out**2] for p in inner]), np.zeros((len(inner), 3), bool),
        )  # fmt: skip
        (ends, *_), overlap = laid_out(chain)
        assert overlap < 1e-6 and ends[-1] == pytest.approx(line.end_station, abs=1e-6)
        s = np.linspace(0, ends[-1], 40)
        place, _, _ = line.evaluate(s)
        found = stand(laid_out(chain)[0], s)
        assert_allclose(found[0], place, rtol=0, atol=2e-5)


def test_bends_that_do_not_fit_say_by_how_much_they_overlap() -> None:
    """Two bends of R 300 m and 60° need 173 m of tangent each and have 200 m between them."""
    turn = np.radians(60)
    way = np.cumsum([0.0, turn, turn])
    legs = np.array([400.0, 200.0, 400.0])
    pis = np.concatenate([[[0.0, 0.0]], np.cumsum(legs[:, None] * np.column_stack([np.sin(way), np.cos(way)]), axis=0)])
    chain = Chain(pis, np.array([300.0, 300.0]), np.zeros((2, 2)), np.zeros((2, 3), bool))
    assert laid_out(chain)[1] == pytest.approx(2 * 300 * np.tan(turn / 2) - 200, abs=1e-9)


def test_feet_are_the_nearest_places() -> None:
    rng = np.random.default_rng(5)
    pis = [PI(0, 0), PI(250, 40, 120, 30, 50), PI(380, 300, 90), PI(700, 420)]
    line = alignment_from_pis(pis)
    chain = Chain(
        np.array([[p.easting, p.northing] for p in pis]), np.array([120.0, 90.0]), 
        np.array([[900.0, 2500.0], [0.0, 0.0]]), np.zeros((2, 3), bool),
    )  # fmt: skip
    elements = laid_out(chain)[0]
    s = rng.uniform(20, line.end_station - 20, 40)
    place, azimuth, _ = line.evaluate(s)
    off = rng.uniform(-25, 25, 40)
    points = place + off[:, None] * np.column_stack([np.cos(azimuth), -np.sin(azimuth)])
    foot, offset = feet(elements, points, s + rng.uniform(-4, 4, 40), 12)

    def away(x: float, p: Any) -> float:
        return float(np.hypot(*(line.evaluate(x)[0][0] - p)))

    for p, f, o in zip(points, foot, offset, strict=True):
        found = minimize_scalar(
            away, bounds=(max(f - 5, 0), min(f + 5, line.end_station)), args=(p,), method="bounded", options={"xatol": 1e-9}
        )
        assert abs(o) == pytest.approx(found.fun, abs=1e-6)
        assert f == pytest.approx(found.x, abs=1e-3)


def test_first_chains_of_exact_points_have_the_bends_that_are_there() -> None:
    """60 random roads, a point every 5 m, pieces told from scatter of 5 mm: bends are counted right in nine of
    ten and never two off, and the whole line turns by what its ends say in all. The refinement does the rest (test_line_fit)."""
    rng = np.random.default_rng(17)
    right = 0
    for _ in range(60):
        pis, line = random_line(rng)
        p = line.evaluate(np.arange(0.0, line.end_station, 5.0))[0]
        p = p - p.mean(axis=0)
        found = first_chains(p, 5e-3)
        counts = [c.count for c in found]
        off = min(abs(n - (len(pis) - 2)) for n in counts)
        right += off == 0
        assert off <= 1
        legs = np.diff(found[0].pis, axis=0)
        first, last = (np.arctan2(*legs[i]) for i in (0, -1))
        for a, b in ((first, line.evaluate(0.0)[1][0]), (last, line.evaluate(line.end_station)[1][0])):
            assert abs((a - b + np.pi) % (2 * np.pi) - np.pi) < np.radians(4)
    assert right >= 54


def test_scatter_is_told_and_jumps_are_left_out() -> None:
    """30 measured lines: the scatter that is found is the one that was put on, within a third; gross errors of metres are found, and
    hardly anything else is taken for one."""
    rng = np.random.default_rng(23)
    ratios, found, there, wrong, good = [], 0, 0, 0, 0
    for _ in range(30):
        m = measured(rng)
        kept, scatter = without_jumps(m.points)
        ratios.append(scatter / max(m.noise, 1e-6) if m.noise > 0.004 else 1.0)
        found, there = found + int((~kept & m.gross).sum()), there + int(m.gross.sum())
        wrong, good = wrong + int((~kept & ~m.gross).sum()), good + int((~m.gross).sum())
        assert scatter_of(m.points[kept]) >= 0
        pieces = pieces_of_line(m.points[kept] - m.points.mean(axis=0), max(scatter, 1e-3))
        assert pieces[0].first == 0 and pieces[-1].last == int(kept.sum()) - 1
        assert all(a.last == b.first or a.last + 1 == b.first for a, b in itertools.pairwise(pieces))
    assert 0.67 < float(np.median(ratios)) < 1.5
    assert there and found / there > 0.8 and wrong / good < 0.02
