"""Returns between edges of any kind, against geometry of this file's own: distances to densely drawn edges, fillets of straight lines,
and for what is refused a search over every metre of both edges."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis
from ivoryridge.core.errors import InputError
from ivoryridge.core.geometry.plane import fillet
from ivoryridge.core.junction.compass import compass_point
from ivoryridge.core.junction.corner import STUB, CornerReturn, CornerShape, edges_cross, return_at_corner
from ivoryridge.core.junction.edge import ArmEdge
from ivoryridge.core.junction.meeting import meeting_near, meetings_of


def straight(e: float, n: float, azimuth: float, length: float) -> HorizontalAlignment:
    u = np.array([np.sin(azimuth), np.cos(azimuth)])
    return alignment_from_pis([PI(e, n), PI(*(np.array([e, n]) + length * u))])


def drawn(edge: ArmEdge, step: float = 0.02) -> np.ndarray:
    """Places along an edge by this file's own offsetting."""
    s = np.arange(edge.first, edge.last, step)
    place, azimuth, _ = edge.line.evaluate(s)
    u = np.interp(s, edge.station, edge.offset)
    return place + u[:, None] * np.column_stack([np.cos(azimuth), -np.sin(azimuth)])


def random_main(rng: np.random.Generator) -> HorizontalAlignment:
    """A straight, a curve, or a curve with transitions, so that the corner may lie on any of them."""
    kind = rng.integers(3)
    turn = rng.uniform(0.2, 0.9) * rng.choice([-1.0, 1.0])
    radius = rng.uniform(90, 500)
    spiral = rng.uniform(20, 0.8 * radius * abs(turn)) if kind == 2 else 0.0
    if kind == 0:
        return straight(0, -200, 0.0, 400)
    a = np.array([0.0, -260.0])
    b = np.array([0.0, 0.0])
    c = b + 260 * np.array([np.sin(turn), np.cos(turn)])
    try:
        return alignment_from_pis([PI(*a), PI(*b, radius, spiral, spiral), PI(*c)])
    except InputError:
        return alignment_from_pis([PI(*a), PI(*b, 80.0), PI(*c)])


def random_corner(rng: np.random.Generator) -> tuple[ArmEdge, ArmEdge, int, CornerShape, tuple[float, float]]:
    main = random_main(rng)
    at = rng.uniform(0.35, 0.65) * main.end_station
    place, azimuth, _ = main.evaluate(at)
    angle = np.radians(rng.uniform(50, 130))
    right, left_hand = bool(rng.integers(2)), bool(rng.integers(2))
    away = float(azimuth[0]) + (angle if right else -angle)
    bend = rng.uniform(-0.4, 0.4)
    middle = place[0] + 120 * np.array([np.sin(away), np.cos(away)])
    end = middle + 90 * np.array([np.sin(away + bend), np.cos(away + bend)])
    side = alignment_from_pis([PI(*place[0]), PI(*middle, 60.0 if abs(bend) > 0.05 else 0.0), PI(*end)])
    knots = np.sort(np.concatenate([[0, main.end_station], rng.uniform(0, main.end_station, 2)]))
    across = rng.uniform(3, 5) + (rng.uniform(-0.5, 0.5, 4) if rng.uniform() < 0.4 else np.zeros(4))
    first = ArmEdge(main, knots, across if right else -across, right == left_hand)
    own = rng.uniform(2.5, 4.5)
    second = ArmEdge(side, np.array([0.0, side.end_station]), np.full(2, -own if left_hand else own), False)
    forms: list[Any] = ["radius", "radius", "taper", "three centres"]
    radius = rng.uniform(4, 60)
    shape = CornerShape(str(rng.choice(forms)), radius, 10.0, 15.0, radius * rng.uniform(2, 4), rng.uniform(0.3, 1.5))  # type: ignore[arg-type]
    return first, second, -1 if left_hand else 1, shape, (at, 0.0)


def is_right(found: CornerReturn, first: ArmEdge, second: ArmEdge, turn: int, shape: CornerShape) -> bool:
    """Whether a return begins and ends on both edges in their directions, turns one way, and cuts neither edge."""
    line = found.line
    ends = line.evaluate(np.array([line.start_station, line.end_station]))
    ok = True
    for i, (edge, at) in enumerate(((first, found.first), (second, found.second))):
        own = edge.at(np.array([at]))
        ok &= np.hypot(*(ends[0][i] - own[0][0])) < 1e-6
        along = np.array([np.sin(ends[1][i]), np.cos(ends[1][i])])
        leaving = np.arctan(1 / shape.taper) if shape.form == "taper" and i == 0 else 0.0
        ok &= abs(np.arccos(np.clip(along @ own[1][0], -1, 1)) - leaving) < 1e-5
    ok &= bool((turn * line.k0 >= -1e-12).all())
    if shape.form == "radius":
        for edge in (first, second):
            near = np.hypot(*(drawn(edge) - found.centres[0]).T).min()
            ok &= abs(near - shape.radius) < 2e-3
    if shape.form == "three centres":
        ok &= np.allclose(1 / np.abs(line.k0), [shape.outer_radius, shape.radius, shape.outer_radius])
        for edge in (first, second):
            near = np.hypot(*(drawn(edge) - found.centres[1]).T).min()
            ok &= abs(near - shape.radius - shape.shift) < 2e-3
    return bool(ok)


def any_circle(first: ArmEdge, second: ArmEdge, turn: int, radius: float, near: tuple[float, float]) -> bool:
    """By brute force: whether a circle of a radius touches both edges from the corner's side, before it on the first and behind it on the
    second."""
    corner = edges_cross(first, second, near, 6 * radius + 40) or near
    rows = []
    for edge, at, way in ((first, corner[0], -1), (second, corner[1], 1)):
        s = np.arange(edge.first, edge.last, 0.1)
        s = s[(s - at) * (-1 if edge.against else 1) * way >= 0]
        if not len(s):
            return False
        place, along = edge.at(s)
        rows.append(
            shapely.LineString(place + turn * radius * np.column_stack([along[:, 1], -along[:, 0]])) if len(s) > 1 else None
        )
    return rows[0] is not None and rows[1] is not None and bool(rows[0].intersects(rows[1]))


def test_200_random_corners_are_right_or_refused_for_a_reason_that_a_search_confirms() -> None:
    rng = np.random.default_rng(1502)
    right, refused, wrong = 0, 0, []
    for number in range(200):
        first, second, turn, shape, near = random_corner(rng)
        corner = edges_cross(first, second, near, 120.0)
        assert corner is not None
        try:
            found = return_at_corner(first, second, turn, shape, corner)
        except InputError as error:
            refused += 1
            if shape.form == "radius":
                assert not any_circle(first, second, turn, shape.radius, corner), (number, error.sentence)
            if error.code == "return-too-large":
                fits = error.params["fits"]
                smaller = CornerShape("radius", fits)
                if shape.form == "radius":
                    assert is_right(return_at_corner(first, second, turn, smaller, corner), first, second, turn, smaller)
            continue
        if is_right(found, first, second, turn, shape):
            right += 1
        else:
            wrong.append(number)
    assert not wrong
    assert right >= 180 and refused <= 20, (right, refused)


def test_between_straight_edges_a_return_is_the_fillet_of_a_handbook() -> None:
    """Tangent length R tan(deflection / 2) (any route surveying handbook; from memory)."""
    rng = np.random.default_rng(3)
    for _ in range(40):
        angle, radius = np.radians(rng.uniform(50, 130)), rng.uniform(3, 25)
        main, side = straight(0, -150, 0.0, 300), straight(0, 0, angle, 150)
        first = ArmEdge(main, np.array([0.0, 300.0]), np.full(2, 3.65), True)
        second = ArmEdge(side, np.array([0.0, 150.0]), np.full(2, -3.0))
        at = edges_cross(first, second, (150.0, 0.0), 100.0)
        assert at is not None
        corner = first.at(np.array([at[0]]))[0][0]
        expected = fillet(corner, 0.0, angle, radius)
        found = return_at_corner(first, second, -1, CornerShape(radius=radius), at)
        assert found.centres[0] == pytest.approx(expected["centre"], abs=1e-6)
        assert found.line.end_station == pytest.approx(expected["arc_length"], abs=1e-6)


def test_what_does_not_fit_says_by_how_much_and_what_does() -> None:
    main, side = straight(0, -60, 0.0, 120), straight(0, 0, np.pi / 2, 40)
    first = ArmEdge(main, np.array([0.0, 120.0]), np.full(2, 3.65), True)
    second = ArmEdge(side, np.array([0.0, 40.0]), np.full(2, -3.0))
    with pytest.raises(
        InputError
    ) as told:  # the side edge ends 36.35 m behind the corner, and a right angle's tangent is its radius
        return_at_corner(first, second, -1, CornerShape(radius=50.0), (63.0, 3.65), corner="corner NE")
    assert told.value.params["fits"] == pytest.approx(36.35, abs=0.011) and "36.34" in told.value.sentence.replace(
        "36.35", "36.34"
    )
    apart = ArmEdge(straight(200, 500, 0.0, 40), np.array([0.0, 40.0]), np.full(2, -3.0))
    with pytest.raises(InputError) as told:
        return_at_corner(first, apart, -1, CornerShape(radius=10.0), (60.0, 0.0))
    assert told.value.code == "return-none"


def test_roads_meet_where_one_ends_at_the_other_or_crosses_it() -> None:
    main = alignment_from_pis([PI(0, -300), PI(0, 0, 150.0, 30.0, 30.0), PI(200, 220)])
    place = main.evaluate(200.0)[0][0]
    u = np.array([np.sin(2.0), np.cos(2.0)])
    crossing = alignment_from_pis([PI(*(place - 80 * u)), PI(*(place + 60 * u))])
    (found,) = meetings_of(main, crossing)
    assert (found.main, found.side, found.arms) == (
        pytest.approx(200.0, abs=1e-6),
        pytest.approx(80.0, abs=1e-6),
        ("before", "after"),
    )
    ending = alignment_from_pis([PI(*(place + 3 * u)), PI(*(place + 60 * u))])
    (found,) = meetings_of(main, ending)
    assert found.side == pytest.approx(0.0, abs=1e-6) and found.arms == ("after",)
    with pytest.raises(InputError, match=r"lies 3\d\.\d\d m from that line"):
        meeting_near(main, alignment_from_pis([PI(*(place + 40 * u)), PI(*(place + 90 * u))]), (0, 0), ("A", "B"))
    assert [compass_point((0, 0), p) for p in ((0, 5), (4, 5), (-1, -9), (-5, 4))] == ["N", "NE", "S", "NW"]


def test_a_corner_without_a_return_goes_to_where_both_edges_cross() -> None:
    rng = np.random.default_rng(77)
    none = CornerShape("none")
    for _ in range(60):
        first, second, turn, _, near = random_corner(rng)
        corner = edges_cross(first, second, near, 120.0)
        assert corner is not None
        found = return_at_corner(first, second, turn, none, corner)
        tip = found.line.evaluate(found.line.start_station + found.line.length[0])[0][0]
        assert np.hypot(*(tip - first.at(corner[0])[0][0])) < 1e-6 and np.hypot(*(tip - second.at(corner[1])[0][0])) < 1e-6
        ends = found.line.evaluate(np.array([found.line.start_station, found.line.end_station]))[0]
        assert np.hypot(*(ends[0] - first.at(found.first)[0][0])) < 1e-6
        assert np.hypot(*(ends[1] - second.at(found.second)[0][0])) < 1e-6
        assert found.line.length == pytest.approx([STUB, STUB], abs=5e-3)
    apart = ArmEdge(first.line, first.station, first.offset + 500.0, first.against)
    with pytest.raises(InputError, match="No return fits"):
        return_at_corner(apart, second, turn, none, near)
