"""Ends of a road that meet the ground: what profile and edges become, against fits and planes of this file's own."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.meet import GroundPlane, fit_end
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.core.terrain.triangulate import triangulate
from ivoryridge.design.actions.edit_along import add_variation, change_variation, delete_variation, split_variation
from ivoryridge.design.actions.edit_course import reverse_road
from ivoryridge.design.actions.edit_profile import change_pvi, set_profile
from ivoryridge.design.actions.join_lines import split_road
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPVI, Template, Variation
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.levels import levels_of, profile_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.surface import surface_of


def again(row: Any) -> Any:
    return type(row).objects.get(pk=row.pk)


def inputs_of(road: Road) -> Any:
    return assemble_road(again(road))


def read_by_hand(inputs: Any, station: float, offset: float) -> tuple[float, float]:
    """Level and grade of the ground along a road: a straight line through 21 readings, by hand."""
    line = line_of(inputs)
    place, azimuth, _ = line.evaluate(station)
    t = np.arange(-5.0, 5.01, 0.5)
    end = line.start_station if abs(station - line.start_station) < 1 else line.end_station
    ahead = np.column_stack([np.sin(azimuth + 0 * t), np.cos(azimuth + 0 * t)])
    right = np.column_stack([np.cos(azimuth + 0 * t), -np.sin(azimuth + 0 * t)])
    inside = (t > 0) == (end == line.start_station)
    there = np.where(
        inside[:, None], line.evaluate(np.clip(station + t, line.start_station, line.end_station))[0], place + t[:, None] * ahead
    )
    z = read_surface(surface_of(inputs.surface)[0], there + offset * right).elevation
    a = np.column_stack([np.ones_like(t), t])
    level, grade = np.linalg.lstsq(a, z - z.mean(), rcond=None)[0]
    return float(level + z.mean()), float(grade)


def test_on_random_planes_level_grade_and_edges_are_the_planes() -> None:
    rng = np.random.default_rng(1421)
    for _ in range(40):
        a, b, c = rng.uniform(-0.12, 0.12, 2).tolist() + [rng.uniform(50, 300)]
        corners = np.array([[x, y, c + a * x + b * y] for x in (-400.0, 400.0) for y in (-400.0, 400.0)])
        ground = triangulate(corners)[0]
        heading = rng.uniform(0, 2 * np.pi)
        way = np.array([np.sin(heading), np.cos(heading)])
        first = rng.uniform(-100, 100, 2)
        line = alignment_from_pis([PI(*first), PI(*(first + 150 * way))], 1000.0)
        for s, at in ((1000.0, first), (1150.0, first + 150 * way)):
            fit = fit_end(line, ground, s)
            assert fit is not None and fit.worst < 1e-9
            assert (fit.level, fit.grade) == pytest.approx((c + a * at[0] + b * at[1], a * way[0] + b * way[1]), abs=1e-9)
            z, (left, right) = GroundPlane(ground).beside(line, [s], np.array([3.65]), np.array([4.2]))
            across = a * way[1] - b * way[0]
            assert (z[0], left[0], right[0]) == pytest.approx((fit.level, -across, across), abs=1e-9)
    assert fit_end(alignment_from_pis([PI(398, 0), PI(500, 0)]), ground, 100.0) is None


@pytest.mark.parametrize("end", ["start", "end"])
def test_an_end_takes_level_grade_and_edges_and_goes_over_into_the_roads_own(
    road: Road, anna: Any, kerbed: Template, end: str
) -> None:
    before = inputs_of(road)
    line = line_of(before)
    base, sign = (line.start_station, 1.0) if end == "start" else (line.end_station, -1.0)
    if end == "end":
        set_profile(road, anna, [PVI(0, 103), PVI(line.end_station, 106)], label="To the end")
    row = add_variation(road, anna, values={"kind": "meet", "end": end, "over": 40.0})[1]
    now = inputs_of(road)
    level, grade = read_by_hand(now, base, 0.0)
    z, g = profile_of(now).evaluate(base + sign * 1e-7)
    assert (z[0], g[0]) == pytest.approx((level, grade), abs=1e-5)
    (block,) = corridor_at(now, [base]).blocks
    for columns, side in ((block.left, -1.0), (block.right, 1.0)):
        i = (
            columns.index("carriageway.lane_edge")
            if "carriageway.lane_edge" in columns.names
            else columns.index("carriageway.pavement_edge")
        )
        assert float(columns.level[i, 0]) == pytest.approx(
            read_by_hand(now, base, side * float(columns.across[i, 0]))[0], abs=2e-4
        )
    middle, own, free = (
        (corridor_at(i, [base + sign * d]).blocks[0]) for i, d in ((now, 20.0), (inputs_of(road), 41.0), (before, 41.0))
    )
    slope = lambda b: float((b.left.level[1, 0] - b.left.level[0, 0]) / b.left.across[1, 0])  # noqa: E731
    start = slope(corridor_at(now, [base]).blocks[0])
    assert slope(own) == pytest.approx(slope(free), abs=1e-9)
    assert slope(middle) == pytest.approx(0.5 * (start + slope(free)), abs=1e-9)
    led = levels_of(now).rows[0 if end == "start" else -1]
    with pytest.raises(BadValue, match="This level is the ground's"):
        change_pvi(road, anna, led.id, revision=led.revision, values={"elevation": 120.0})
    kept = profile_of(now).evaluate(np.arange(base, base + sign * 60, sign * 3.0))[0]
    delete_variation(road, anna, row.pk, revision=row.revision)
    assert profile_of(inputs_of(road)).evaluate(np.arange(base, base + sign * 60, sign * 3.0))[0] == pytest.approx(kept, abs=1e-3)
    undo(road.project, anna)
    undo(road.project, anna)
    assert (
        not Variation.present.exists()
        and profile_of(inputs_of(road)).evaluate(base)[0][0] == profile_of(inputs_of(road)).evaluate(base)[0][0]
    )


def test_the_met_end_follows_its_line_keeps_to_its_end_when_reversed_and_goes_where_a_road_is_cut(
    road: Road, anna: Any, kerbed: Template
) -> None:
    add_variation(road, anna, values={"kind": "meet", "end": "start", "over": 30.0})
    there = line_of(inputs_of(road)).evaluate(0.0)[0][0]
    level = read_by_hand(inputs_of(road), 0.0, 0.0)[0]
    reverse_road(again(road), anna, revision=again(road).revision)
    turned = inputs_of(road)
    end = line_of(turned).end_station
    assert line_of(turned).evaluate(end)[0][0] == pytest.approx(there, abs=1e-6)
    assert [r.data["end"] for r in turned.varied] == ["end"] and profile_of(turned).evaluate(end)[0][0] == pytest.approx(
        level, abs=1e-5
    )
    _, _, other = split_road(again(road), anna, revision=again(road).revision, station=100.0)
    assert not inputs_of(road).varied and [r.data["end"] for r in inputs_of(other).varied] == ["end"]


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"end": "start", "over": 2.0}, "within 5 m to 1000 m; 2.00 m is not"),
        ({"over": 20.0}, "Choose which end"),
        ({"end": "end", "over": 40.0}, "does not reach the end"),
    ],
)  # fmt: skip
def test_what_cannot_meet_is_refused_in_words(
    road: Road, anna: Any, kerbed: Template, values: dict[str, Any], words: str
) -> None:
    RoadPVI.present.filter(road=road, anchor="end").update(ahead=-30.0)
    again(road).save()
    with pytest.raises(BadValue, match=words):
        add_variation(road, anna, values={"kind": "meet", **values})
    assert not Variation.present.exists()


def test_a_second_one_a_split_and_a_range_off_the_end_are_refused_and_lost_ground_or_grade_is_told(
    road: Road, anna: Any, kerbed: Template
) -> None:
    row = add_variation(road, anna, values={"kind": "meet", "end": "start", "over": 40.0})[1]
    with pytest.raises(BadValue, match="meets the ground already"):
        add_variation(road, anna, values={"kind": "meet", "end": "start"})
    with pytest.raises(BadValue, match="cannot be split"):
        split_variation(road, anna, row.pk, revision=row.revision, station=20.0)
    with pytest.raises(BadValue, match="where it meets the ground"):
        change_variation(road, anna, row.pk, revision=row.revision, values={"station_from": 10.0})
    codes = lambda: {f.code for f in corridor_of(inputs_of(road)).findings}  # noqa: E731
    assert not {"met-no-grade", "met-no-ground"} & codes()
    RoadPVI.present.filter(road=road, ahead__gt=0).update(anchor="station", station=60.0, ahead=0.0)
    again(road).save()
    assert "met-no-grade" in codes()
