"""Returns and corners by distances, polygons of shapely and conditions at their ends; the exact volume between surfaces by shapely's
intersections and against itself."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from ivoryridge.core.earthwork.between import volume_between
from ivoryridge.core.junction.return_levels import return_levels
from ivoryridge.core.junction.return_plan import CircleEdge, Edge, LineEdge, return_between, side_road_area
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.triangulate import triangulate

SIDES = ("left", "right")


def random_edge(rng: np.random.Generator) -> Edge:
    place = (float(rng.uniform(-60, 60)), float(rng.uniform(-60, 60)))
    if rng.uniform() < 0.5:
        return LineEdge(place, float(rng.uniform(0, 2 * np.pi)))
    return CircleEdge(place, float(rng.uniform(15, 200)), bool(rng.integers(2)))


def beside(edge: Edge, place: np.ndarray) -> float:
    """Distance of a place from an edge, + right of it as one looks along."""
    if isinstance(edge, LineEdge):
        d = place - np.array(edge.point)
        return float(d[0] * np.cos(edge.azimuth) - d[1] * np.sin(edge.azimuth))
    out = float(np.hypot(*(place - np.array(edge.centre)))) - edge.radius
    return -out if edge.clockwise else out


def test_random_returns_touch_both_edges_from_the_named_sides_and_a_refusal_is_confirmed_by_a_lattice() -> None:
    rng = np.random.default_rng(1501)
    made, lattice = 0, np.stack(np.meshgrid(np.arange(-700, 701, 4.0), np.arange(-700, 701, 4.0)), axis=-1).reshape(-1, 2)
    for _ in range(400):
        edges = random_edge(rng), random_edge(rng)
        sides = (str(rng.choice(SIDES)), str(rng.choice(SIDES)))
        radius, near = float(rng.uniform(3, 40)), rng.uniform(-80, 80, 2)
        found = return_between(*edges, sides, radius, near)
        if found is None:  # no place lies at the radius from both: the two distances are never both near it
            off = np.zeros(len(lattice))
            for e, s in zip(edges, sides, strict=True):
                if isinstance(e, LineEdge):
                    d = (lattice[:, 0] - e.point[0]) * np.cos(e.azimuth) - (lattice[:, 1] - e.point[1]) * np.sin(e.azimuth)
                else:
                    d = (np.hypot(lattice[:, 0] - e.centre[0], lattice[:, 1] - e.centre[1]) - e.radius) * (
                        -1 if e.clockwise else 1
                    )
                off = np.maximum(off, np.abs(d - (radius if s == "right" else -radius)))
            far = all(isinstance(e, LineEdge) for e in edges)
            assert far or off.min() > 0.05 * radius or off.min() > 0.3
            continue
        made += 1
        for e, s, at in zip(edges, sides, (found.first, found.second), strict=True):
            assert beside(e, found.centre) == pytest.approx(radius if s == "right" else -radius, abs=1e-7)
            assert beside(e, at) == pytest.approx(0, abs=1e-7) and np.hypot(*(at - found.centre)) == pytest.approx(
                radius, abs=1e-7
            )
        chord = float(np.hypot(*(found.first - found.second)))
        assert chord == pytest.approx(2 * radius * np.sin(found.arc_length / (2 * radius)), abs=1e-6)
    assert made > 150


def test_levels_of_a_return_meet_both_edges_and_are_one_curve_just_where_the_grades_cross() -> None:
    rng = np.random.default_rng(1502)
    forms = set()
    for _ in range(500):
        length = float(rng.uniform(5, 60))
        z1, g1, g2 = float(rng.uniform(40, 60)), float(rng.uniform(-0.08, 0.08)), float(rng.uniform(-0.08, 0.08))
        if rng.uniform() < 0.1:
            g2, z2 = g1, z1 + g1 * length
        else:
            z2 = z1 + float(rng.uniform(-0.06, 0.06)) * length
        found = return_levels(z1, g1, z2, g2, length)
        forms.add(found.form)
        level, grade = found.at([0.0, length])
        assert level == pytest.approx([z1, z2], abs=1e-9) and grade == pytest.approx([g1, g2], abs=1e-9)
        ends = [p.station + h for p in found.pvis for h in (-p.half_in, p.half_out)]
        s = np.union1d(np.linspace(0, length, 401), np.clip(ends, 0, length))
        z, g = found.at(s)
        # levels are what the grades add up to
        assert np.abs(np.diff(z) - 0.5 * (g[1:] + g[:-1]) * np.diff(s)).max() < 1e-9
        crosses = abs(g1 - g2) > 1e-9 and 0 < (z2 - z1 - g2 * length) / (g1 - g2) < length
        assert (found.form == "single") == crosses
        bends = np.sign(np.round(np.diff(g), 12))
        assert len(set(bends[bends != 0])) <= (2 if found.form == "reverse" else 1)
    assert forms == {"straight", "single", "reverse"}


def test_the_area_of_a_side_road_is_that_of_its_polygon() -> None:
    rng = np.random.default_rng(1503)
    for _ in range(100):
        origin, azimuth, angle = rng.uniform(-50, 50, 2), float(rng.uniform(0, 6.28)), float(np.radians(rng.uniform(45, 135)))
        side = str(rng.choice(SIDES))
        half, radius = ({s: float(rng.uniform(*span)) for s in SIDES} for span in ((2, 5), (0, 20)))
        found = side_road_area(origin, azimuth, side, angle, half, radius)
        away = azimuth + (angle if side == "right" else -angle)
        u, right = np.array([np.sin(away), np.cos(away)]), np.array([np.cos(away), -np.sin(away)])
        ring: list[np.ndarray] = []
        for s, sign in (("left", -1.0), ("right", 1.0)):
            main, own, r = found.main[s], found.side[s], radius[s]
            centre = own + sign * r * right  # outside of the side road's edge
            assert np.hypot(*(main - centre)) == pytest.approx(r, abs=1e-7)
            a, b = (np.arctan2(*(p - centre)[::-1]) if r > 1e-9 else 0.0 for p in (main, own))
            swept = a + ((b - a + np.pi) % (2 * np.pi) - np.pi) * np.linspace(0, 1, 2001)
            arc = centre + r * np.column_stack([np.cos(swept), np.sin(swept)])
            end = origin + sign * half[s] * right + found.cross_line * u
            path = [*arc, end]
            ring = path if s == "left" else [*ring, *path[::-1]]
        assert shapely.Polygon(ring).area == pytest.approx(found.area, rel=1e-5)
        assert max(float((found.side[s] - origin) @ u) for s in SIDES) == pytest.approx(found.cross_line, abs=1e-9)


def hills(rng: np.random.Generator, n: int, size: float = 100.0, base: float = 0.0) -> Surface:
    places = 500_000.0 + rng.uniform(0, size, (n, 2)) + np.array([0.0, 5_700_000.0])
    return triangulate(np.column_stack([places, base + rng.normal(0, 1.0, n)]))[0]


def by_shapely(a: Surface, b: Surface) -> tuple[float, float, float]:
    """Cut, fill and area over every two triangles that overlap, their difference read at corners of a fine fan."""
    cut = fill = area = 0.0
    o = a.points[0]

    def plane(s: Surface, t: np.ndarray) -> np.ndarray:
        p = s.points[t] - o
        return np.linalg.solve(np.column_stack([p[:, :2], np.ones(3)]), p[:, 2])

    tree = shapely.STRtree(shapely.polygons((b.points - o)[b.triangles][:, :, :2]))
    for t in a.triangles:
        shape = shapely.Polygon((a.points[t] - o)[:, :2])
        for k in tree.query(shape):
            common = shape.intersection(tree.geometries[k])
            if common.area < 1e-12:
                continue
            m = plane(b, b.triangles[k]) - plane(a, t)
            ring = np.array(common.exterior.coords)[:-1]
            for piece, sign in ((_above(ring, m), 1.0), (_above(ring, -m), -1.0)):
                if len(piece) > 2:
                    part = shapely.Polygon(piece)
                    c = part.centroid
                    value = part.area * float(m @ [c.x, c.y, 1.0]) * sign
                    fill, cut = (fill + value, cut) if sign > 0 else (fill, cut + value)
            area += common.area
    return cut, fill, area


def _above(ring: np.ndarray, m: np.ndarray) -> list[np.ndarray]:
    """Of a polygon the part where a plane is not below 0."""
    out = []
    for p, q in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        a, b = float(m @ [*p, 1.0]), float(m @ [*q, 1.0])
        if a >= 0:
            out.append(p)
        if a * b < 0:
            out.append(p + a / (a - b) * (q - p))
    return out


def test_the_volume_between_random_surfaces_is_that_of_their_common_pieces() -> None:
    rng = np.random.default_rng(1504)
    for na, nb in ((30, 30), (12, 150), (200, 25), (90, 90)):
        a, b = hills(rng, na), hills(rng, nb, base=0.3)
        found = volume_between(a, b)
        assert (found.cut, found.fill, found.common_area) == pytest.approx(by_shapely(a, b), rel=1e-7)
        back = volume_between(b, a)
        assert (back.cut, back.fill) == pytest.approx((found.fill, found.cut), rel=1e-12)
        same = volume_between(a, a)
        assert same.cut + same.fill < 1e-6
        lifted = Surface(a.points + [0, 0, 0.5], a.triangles, a.neighbours)
        assert volume_between(a, lifted).fill == pytest.approx(0.5 * volume_between(a, lifted).common_area, rel=1e-9)
    apart = hills(rng, 20)
    far = Surface(apart.points + [1000.0, 0, 0], apart.triangles, apart.neighbours)
    nothing = volume_between(apart, far)
    assert (nothing.cut, nothing.fill, nothing.common_area) == (0.0, 0.0, 0.0)
