"""The plane of an existing road at its edge: planes by hand, a typed fall, rough ground, ground that ends, and a side road that turns
from it."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.course import line_through
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.corridor.carried_plane import Following, followed
from ivoryridge.core.corridor.meet import BEHIND, fit_edge
from ivoryridge.core.terrain.surface import Surface, read_surface
from ivoryridge.core.terrain.triangulate import triangulate

E0, N0 = 412_000.0, 687_000.0


def ground(rise: np.ndarray, level: float = 50.0, rough: np.ndarray | None = None, size: float = 40.0) -> Surface:
    """A plane that rises by ``rise`` towards east and north, a point each metre; ``rough``: m on top of it."""
    e, n = (x.ravel() for x in np.meshgrid(np.arange(-size, size + 1), np.arange(-size, size + 1)))
    z = level + rise[0] * e + rise[1] * n + (0.0 if rough is None else rough[: e.size])
    return triangulate(np.column_stack([e + E0, n + N0, z]))[0]


def edge_at(azimuth: float) -> tuple[object, np.ndarray, np.ndarray]:
    """A straight edge through the middle of the site, its direction, and the way to its right."""
    way, right = np.array([np.sin(azimuth), np.cos(azimuth)]), np.array([np.cos(azimuth), -np.sin(azimuth)])
    return line_through([[E0, N0] - 20 * way, [E0, N0] + 20 * way]), way, right


@pytest.mark.parametrize("seed", range(12))
def test_on_a_plane_level_rise_and_fall_are_the_planes(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rise, azimuth, sign = rng.uniform(-0.06, 0.06, 2), rng.uniform(0, 2 * np.pi), float(rng.choice([-1.0, 1.0]))
    edge, way, right = edge_at(azimuth)
    found = fit_edge(edge, ground(rise), 20.0, sign)  # type: ignore[arg-type]
    assert found is not None and found.level == pytest.approx(50.0, abs=1e-9)
    assert found.rise == pytest.approx(tuple(rise), abs=1e-9)
    assert found.fall == pytest.approx(float(rise @ (sign * right)), abs=1e-9)  # what rises behind it falls to it
    assert found.worst < 1e-9
    # a fall that is typed counts square to the edge; along it the ground does
    typed = fit_edge(edge, ground(rise), 20.0, sign, 0.04)  # type: ignore[arg-type]
    assert typed is not None and np.array(typed.rise) @ way == pytest.approx(float(rise @ way), abs=1e-9)
    assert np.array(typed.rise) @ (sign * right) == pytest.approx(0.04, abs=1e-12) and typed.worst == 0.0
    # read as another road's plane is: level along a line, and both halves
    out = azimuth + rng.uniform(0.6, 2.4)
    side = alignment_from_pis([PI(E0, N0), PI(E0 + 15 * np.sin(out), N0 + 15 * np.cos(out))])
    z, (left_half, right_half) = found.beside(side, np.array([0.0, 8.0]), 3.0, 3.0)
    across = np.array([np.cos(out), -np.sin(out)]) @ rise
    assert z == pytest.approx([50.0, 50.0 + 8 * float(rise @ [np.sin(out), np.cos(out)])], abs=1e-9)
    assert (left_half[0], right_half[0]) == pytest.approx((-across, across), abs=1e-9)


def test_only_what_lies_behind_the_edge_counts() -> None:
    """Before it the ground falls away to a ditch; the square behind it is a plane of its own."""
    edge, _, right = edge_at(0.0)
    e = np.repeat(np.arange(-40.0, 40.5, 0.5)[None, :], 161, axis=0).ravel()
    n = np.repeat(np.arange(-40.0, 40.5, 0.5)[:, None], 161, axis=1).ravel()
    z = 50.0 + np.where(e >= 0, 0.025 * e, 0.5 * e)
    surface = triangulate(np.column_stack([e + E0, n + N0, z]))[0]
    found = fit_edge(edge, surface, 20.0, 1.0)  # type: ignore[arg-type]
    assert found is not None and found.fall == pytest.approx(0.025, abs=1e-9) and right[0] == pytest.approx(1.0)
    other = fit_edge(edge, surface, 20.0, -1.0)  # type: ignore[arg-type]
    assert other is not None and other.fall == pytest.approx(-0.5, abs=1e-9)


def test_rough_ground_says_how_rough_it_is_and_is_fitted_as_numpy_fits_it() -> None:
    rng = np.random.default_rng(3)
    rough = rng.normal(0, 0.04, 81 * 81)
    surface = ground(np.array([0.02, 0.0]), rough=rough)
    edge, _, _ = edge_at(0.0)
    found = fit_edge(edge, surface, 20.0, 1.0)  # type: ignore[arg-type]
    assert found is not None

    n, e = (x.ravel() for x in np.meshgrid(np.arange(-BEHIND / 2, BEHIND / 2 + 0.1, 0.5), np.arange(0, BEHIND + 0.1, 0.5)))
    z = read_surface(surface, np.column_stack([e + E0, n + N0])).elevation
    plane, *_ = np.linalg.lstsq(np.column_stack([np.ones(len(e)), n, e]), z, rcond=None)
    assert found.fall == pytest.approx(float(plane[2]), abs=1e-9)
    assert found.worst == pytest.approx(float(np.abs(np.column_stack([np.ones(len(e)), n, e]) @ plane - z).max()), abs=1e-9)
    assert 0.01 < found.worst < 0.2


def test_where_the_ground_ends_nothing_is_said() -> None:
    edge, way, _ = edge_at(0.0)
    surface = ground(np.zeros(2), size=2.0)
    assert fit_edge(edge, surface, 0.0, 1.0) is None  # type: ignore[arg-type]
    e, n = (x.ravel() for x in np.meshgrid(np.arange(-40.0, 1.0), np.arange(-40.0, 41.0)))
    half = triangulate(np.column_stack([e + E0, n + N0, 50 + 0 * e]))[0]  # nothing to the right of the edge
    assert fit_edge(edge, half, 20.0, 1.0) is None  # type: ignore[arg-type]
    assert fit_edge(edge, half, 20.0, -1.0) is not None  # type: ignore[arg-type]
    typed = fit_edge(edge, half, 20.0, 1.0, 0.025)  # type: ignore[arg-type]
    assert typed is not None and typed.fall == 0.025 and way[1] == 1.0


def test_halves_turn_on_a_straight_line_from_the_plane_to_their_own_fall() -> None:
    edge, _, _ = edge_at(0.0)
    plane = fit_edge(edge, ground(np.array([0.0, 0.03])), 20.0, -1.0)  # type: ignore[arg-type]
    assert plane is not None
    side = alignment_from_pis([PI(E0, N0), PI(E0 + 60.0, N0)])  # square to the edge, so that its halves rise and fall by 3 %

    def own(at: np.ndarray) -> tuple[np.ndarray, tuple[np.ndarray, np.ndarray]]:
        return 50 + 0.0 * at, (np.full(len(at), -0.025), np.full(len(at), -0.025))

    s = np.array([0.0, 5.0, 10.0, 20.0, 40.0])
    level, (left, right) = followed(side, s, own, lambda at: (3.0, 3.0), [Following(plane, 0.0, 0.0, False, 20.0, 20.0)])
    assert level == pytest.approx([50.0] * 5)  # the crossfall only
    assert left == pytest.approx([0.03, 0.01625, 0.0025, -0.025, -0.025], abs=1e-9)
    assert right == pytest.approx([-0.03, -0.02875, -0.0275, -0.025, -0.025], abs=1e-9)
