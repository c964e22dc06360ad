"""Roundabouts in plan by shapely's offsets of their edges; axles by small steps of a drawn point and by the tractrix on a straight; levels
at a side road by planes read at places a little apart."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from ivoryridge.core.errors import InputError
from ivoryridge.core.junction.demanded_levels import MainPlane, SideRoad, corners_at
from ivoryridge.core.junction.roundabout_plan import Arm, EdgeArc, Lane, arm_plan
from ivoryridge.core.junction.swept_path import BendPath, Trailer, Vehicle, greatest_cut_in, steady_off_tracking, swept_axles

SIDES = ("left", "right")


def edge_line(centre: np.ndarray, outward: np.ndarray, arc: EdgeArc) -> shapely.LineString:
    """An arm's edge from far out to the inscribed circle, its arc by 4000 chords."""
    a, b = (np.arctan2(*(p - arc.centre)[::-1]) for p in (arc.tangent_edge, arc.tangent_circle))
    swept = a + ((b - a + np.pi) % (2 * np.pi) - np.pi) * np.linspace(0, 1, 4001)
    radius = np.hypot(*(arc.tangent_edge - arc.centre))
    return shapely.LineString(
        [arc.tangent_edge + 200 * outward, *(arc.centre + radius * np.column_stack([np.cos(swept), np.sin(swept)]))]
    )


def test_arms_of_random_roundabouts_touch_edge_and_circle_and_their_islands_lie_at_the_lanes_widths() -> None:
    rng = np.random.default_rng(1505)
    noses = crossed = 0
    for _ in range(150):
        centre, inscribed = rng.uniform(-100, 100, 2), float(rng.uniform(13, 30))
        entry, leaving = (
            Lane(float(rng.uniform(2.5, 5)), float(rng.uniform(8, 40)), float(rng.uniform(2.8, 6))) for _ in range(2)
        )
        azimuth, traffic = float(rng.uniform(0, 2 * np.pi)), str(rng.choice(SIDES))
        found = arm_plan(centre, inscribed, Arm(azimuth, entry, leaving), traffic)
        assert found.entry is not None and found.exit is not None and found.island is not None
        outward = -np.array([np.sin(azimuth), np.cos(azimuth)])
        beside = np.array([np.cos(azimuth), -np.sin(azimuth)]) * (1 if traffic == "right" else -1)
        lines = []
        for arc, lane, sign in ((found.entry, entry, 1.0), (found.exit, leaving, -1.0)):
            line = edge_line(centre, outward, arc)
            lines.append(line)
            assert line.length - 200 == pytest.approx(arc.arc_length, rel=1e-6)
            # never inside the circle, but touches it; square to the edge's straight where it begins
            assert shapely.distance(line, shapely.Point(centre)) == pytest.approx(inscribed, abs=1e-5)
            assert sign * (arc.tangent_edge - centre) @ beside == pytest.approx(lane.half_width, abs=1e-9)
            assert (arc.centre - arc.tangent_edge) @ outward == pytest.approx(0, abs=1e-9)
            crosses = found.island.entry_crosses if sign > 0 else found.island.exit_crosses
            assert (crosses is None) == (lane.width <= lane.half_width)
            if crosses is not None:
                crossed += 1
                assert shapely.distance(line, shapely.Point(centre + crosses * outward)) == pytest.approx(lane.width, abs=1e-5)
        nose = found.island.nose
        assert (nose is None) == (entry.width + leaving.width <= entry.half_width + leaving.half_width)
        if nose is not None and found.island.nose_at is not None:
            noses += 1
            assert (found.island.nose_at - centre) @ outward == pytest.approx(nose, abs=1e-9)
            for line, lane in zip(lines, (entry, leaving), strict=True):
                assert shapely.distance(line, shapely.Point(found.island.nose_at)) == pytest.approx(lane.width, abs=1e-5)
    assert noses > 50 and crossed > 100
    beyond = arm_plan([0, 0], 4.0, Arm(0.0, Lane(5.0, 10.0, 4.0), Lane(3.0, 10.0, 4.0)), "right")
    assert beyond.entry is None and beyond.exit is not None and beyond.island is None


def drawn_by_steps(path: BendPath, vehicle: Vehicle, at: np.ndarray, step: float) -> np.ndarray:
    """The last axle (n, 2): each point drawn at its length behind the one before it, a small step at a time."""
    head = np.array([np.sin(path.azimuth), np.cos(path.azimuth)])
    front = path.at(np.arange(0, path.length + step, step))
    rear = front[0] - vehicle.wheelbase * head
    trailer = vehicle.trailer
    last = rear + trailer.coupling_ahead * head - trailer.length * head if trailer else rear
    rows = []
    for f in front:
        rear = f - vehicle.wheelbase * (f - rear) / np.hypot(*(f - rear))
        if trailer:
            coupling = rear + trailer.coupling_ahead * (f - rear) / vehicle.wheelbase
            last = coupling - trailer.length * (coupling - last) / np.hypot(*(coupling - last))
        rows.append(last if trailer else rear)
    return np.array(rows)[np.round(at / step).astype(int)]


def test_axles_are_where_small_steps_of_drawing_bring_them() -> None:
    rng = np.random.default_rng(1506)
    step = 0.01
    for _ in range(6):
        trailer = Trailer(float(rng.uniform(-1.5, 1.0)), float(rng.uniform(4, 9))) if rng.uniform() < 0.6 else None
        vehicle = Vehicle(float(rng.uniform(2.7, 6.5)), trailer)
        path = BendPath(
            (float(rng.uniform(-50, 50)), float(rng.uniform(-50, 50))), float(rng.uniform(0, 6.28)), float(rng.uniform(0, 20)),
            float(rng.uniform(11, 30)), str(rng.choice(SIDES)), float(rng.uniform(0.5, 4.0)), float(rng.uniform(5, 30)),
        )  # fmt: skip
        at = np.floor(np.linspace(0, path.length, 40) / step) * step
        drawn = drawn_by_steps(path, vehicle, at, step)
        found = swept_axles(path, vehicle, at)
        assert np.hypot(*(found.last - drawn).T).max() < 0.01  # the steps are of first order
        # the greatest cut in, by shapely's distance from the path with its first straight drawn backwards
        fine = swept_axles(path, vehicle, np.linspace(0, path.length, 3001)).last
        line = shapely.LineString(np.vstack([path.at(-60.0), path.at(np.linspace(0, path.length, 8001))]))
        inside = path.inside(fine)
        assert np.abs(inside) == pytest.approx(shapely.distance(line, shapely.points(fine)), abs=1e-4)
        assert greatest_cut_in(path, vehicle) == pytest.approx(inside.max(), abs=1e-4)


def test_behind_a_bend_the_angle_of_the_rear_axle_dies_out_as_the_tractrix_says() -> None:
    """tan(f / 2) = tan(f0 / 2) exp(-s / b) on a straight: the tractrix, a standard result of plane curves (from memory)."""
    path, vehicle = BendPath((0.0, 0.0), 0.3, 5.0, 12.0, "left", 1.4, 25.0), Vehicle(5.8)
    s = np.linspace(0, 25, 11)
    bent = swept_axles(path, vehicle, path.length - 25 + s).heading - float(path.azimuth_at(path.length))
    assert np.tan(bent / 2) == pytest.approx(np.tan(bent[0] / 2) * np.exp(-s / 5.8), abs=1e-9)
    assert abs(bent[0]) > 0.3


def test_levels_at_a_side_road_lie_on_both_roads_and_leave_them_with_their_grades() -> None:
    rng = np.random.default_rng(1507)
    for _ in range(200):
        main = MainPlane(
            (float(rng.uniform(-9, 9)), float(rng.uniform(-9, 9))), 50.0, float(rng.uniform(0, 6.28)), str(rng.choice(SIDES)),
            float(rng.uniform(-0.06, 0.06)), float(rng.uniform(-0.05, 0.05)),
        )  # fmt: skip
        radius = {s: float(rng.choice([0.0, rng.uniform(4, 20)])) for s in SIDES}
        road = SideRoad(
            float(np.radians(rng.uniform(50, 130))), float(rng.uniform(-0.08, 0.08)),
            {s: float(rng.uniform(-0.04, 0.04)) for s in SIDES}, {s: float(rng.uniform(2, 4)) for s in SIDES}, radius,
            float(rng.uniform(5, 30)),
        )  # fmt: skip
        origin = np.array(main.origin)
        turn = 1 if main.side == "right" else -1
        away = main.azimuth + turn * road.angle
        u, right = np.array([np.sin(away), np.cos(away)]), np.array([np.cos(away), -np.sin(away)])
        w = np.array([np.sin(main.azimuth), np.cos(main.azimuth)])
        n = turn * np.array([np.cos(main.azimuth), -np.sin(main.azimuth)])

        def plane(p: np.ndarray, main: MainPlane = main, o: np.ndarray = origin, w: np.ndarray = w, n: np.ndarray = n) -> float:
            return 50.0 + float((p - o) @ (main.grade * w + main.crossfall * n))

        for name, corner in corners_at(main, road).items():
            across = right if name == "right" else -right
            own_plane = plane(origin + across) - plane(origin)

            def edge(d: float, name: str = name, flat: float = own_plane, road: SideRoad = road) -> float:
                share = min(max(d / road.run_out, 0.0), 1.0)
                return 50.0 + road.grade * d + road.half_width[name] * ((1 - share) * flat + share * road.crossfall[name])

            assert (corner.main[:2] - origin) @ n == pytest.approx(0, abs=1e-9)
            assert corner.main[2] == pytest.approx(plane(corner.main[:2]), abs=1e-9)
            d = float((corner.side[:2] - origin) @ u)
            assert corner.side[2] == pytest.approx(edge(d), abs=1e-9)
            if min(abs(d), abs(d - road.run_out)) > 1e-3:
                assert corner.grade_side == pytest.approx((edge(d + 1e-4) - edge(d - 1e-4)) / 2e-4, abs=1e-7)
            if corner.levels is None:
                assert radius[name] == 0.0
                continue
            # on the main edge one walks from the tangent point towards where the edges meet
            meet = corner.side[:2] - ((corner.side[:2] - origin) @ n) / float(u @ n) * u
            walked = (meet - corner.main[:2]) / np.hypot(*(meet - corner.main[:2]))
            assert corner.grade_main == pytest.approx(plane(corner.main[:2] + walked) - corner.main[2], abs=1e-9)
            level, grade = corner.levels.at([0.0, corner.arc_length])
            assert level == pytest.approx([corner.main[2], corner.side[2]], abs=1e-9)
            assert grade == pytest.approx([corner.grade_main, corner.grade_side], abs=1e-9)


def test_a_steady_turn_is_where_the_tractrix_comes_to() -> None:
    """After some turns the last axle of the swept path runs inside by as much as the closed form says."""
    for radius, wheelbase, trailer in ((20.0, 6.1, None), (15.0, 4.0, 8.5), (30.0, 5.5, 7.0)):
        path = BendPath((0.0, 0.0), 0.0, 1.0, radius, "right", 6 * np.pi, 0.0)
        vehicle = Vehicle(wheelbase, None if trailer is None else Trailer(0.0, trailer))
        last = swept_axles(path, vehicle, [path.length]).last[0]
        inside = radius - np.hypot(last[0] - radius, last[1] - 1.0)
        assert inside == pytest.approx(steady_off_tracking(radius, [wheelbase, *([trailer] if trailer else [])]), abs=1e-4)
    with pytest.raises(InputError, match="cannot go round"):
        steady_off_tracking(5.0, [4.0, 8.0])
