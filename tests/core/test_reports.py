"""Reports on a line: against the line itself, points set off by known amounts, and what pandas reads back from the CSV."""

from __future__ import annotations

import io

import numpy as np
import pandas as pd
import pytest

from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import InputError
from ivoryridge.core.report.layouts import laid_out, layouts_of
from ivoryridge.core.report.line import (
    coordinate_report,
    deviation_report,
    element_report,
    interval_deviation_report,
    tangent_point_report,
)
from ivoryridge.core.report.table import write_csv
from ivoryridge.core.units import format_station

E0, N0 = 412_000.0, 687_000.0


def line() -> HorizontalAlignment:
    return alignment_from_pis(
        [PI(E0, N0), PI(E0 + 300, N0 + 40, 220, 50, 40), PI(E0 + 520, N0 + 300, 150, 0, 0), PI(E0 + 900, N0 + 330)], 100.0
    )


def test_elements_join_up_and_keep_to_the_range() -> None:
    whole = element_report(line())
    assert [r[0] for r in whole.rows] == ["straight", "transition", "arc", "transition", "straight", "arc", "straight"]
    for a, b in zip(whole.rows, whole.rows[1:], strict=False):
        assert a[3] == b[2]
    assert sum(r[4] for r in whole.rows) == pytest.approx(line().end_station - 100)
    spiral = whole.rows[1]
    assert spiral[5] is None and abs(spiral[6]) == pytest.approx(220) and spiral[7] == pytest.approx(np.sqrt(50 * 220))
    arc = whole.rows[2]
    part = element_report(line(), arc[2] + 1, arc[3] - 1)
    assert part.rows == (arc,)
    with pytest.raises(InputError, match="holds no part of the road"):
        element_report(line(), 5000, 6000)


def test_tangent_points_are_the_ends_of_elements() -> None:
    table = tangent_point_report(line())
    assert [r[0] for r in table.rows][:3] == ["start", "straight to transition", "transition to arc"]
    assert [r[1] for r in table.rows] == pytest.approx(line().stations.tolist())


def test_coordinates_stand_at_round_chainages_and_at_both_ends_with_levels() -> None:
    road = line()
    profile = profile_from_pvis([PVI(100, 50), PVI(road.end_station, 50 + 0.02 * (road.end_station - 100))])
    table = coordinate_report(road, profile, interval=25, start=112.5, end=260, offset=-3.5)
    stations = [r[0] for r in table.rows]
    assert stations == [112.5, 125.0, 150.0, 175.0, 200.0, 225.0, 250.0, 260.0]
    place, azimuth, _ = road.evaluate(stations)
    left = np.array([[r[1], r[2]] for r in table.rows]) - place
    assert np.hypot(*left.T) == pytest.approx(np.full(8, 3.5))
    assert (left[:, 0] * np.sin(azimuth) + left[:, 1] * np.cos(azimuth)) == pytest.approx(
        np.zeros(8), abs=1e-9
    )  # square to the line
    assert [r[5] for r in table.rows] == pytest.approx([50 + 0.02 * (s - 100) for s in stations])
    read = pd.read_csv(io.StringIO(write_csv(table, lambda s: format_station(s))))
    assert read["Chainage m"].tolist() == stations and read["Chainage"].iloc[0] == "0+112.500"
    assert read["Easting m"].to_numpy() == pytest.approx([r[1] for r in table.rows], abs=0.0005)
    with pytest.raises(InputError, match="Use a spacing of at least"):
        coordinate_report(road, None, interval=1e-4)


def test_deviations_are_those_the_points_were_set_off_by() -> None:
    road = line()
    stations = np.linspace(105, road.end_station - 5, 60)
    off = 0.05 * np.sin(stations / 30)
    off[40] = -0.73
    place, azimuth, _ = road.evaluate(stations)
    points = place + off[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    far = np.array([[E0 - 400, N0], [E0 + 200, N0 + 900]])  # before the start, and far beside
    mixed = np.concatenate([points[::-1], far])
    table, groups = deviation_report(road, mixed, limit=0.1)
    assert [r[0] for r in table.rows] == pytest.approx(stations.tolist(), abs=1e-6)
    assert [r[3] for r in table.rows] == pytest.approx(off.tolist(), abs=1e-6)
    assert [i for i, r in enumerate(table.rows) if r[6] == "over"] == [40] and table.rows[40][4] == "left"
    assert table.told[0].startswith("60 points measured beside the line, 2 left out") and table.told[1].startswith("1 lie")
    assert groups.rows[0][4] == pytest.approx(-0.73, abs=1e-6) and groups.rows[0][5] == pytest.approx(stations[40], abs=1e-6)
    assert [abs(g[4]) for g in groups.rows] == sorted((abs(g[4]) for g in groups.rows), reverse=True)
    assert sum(g[3] for g in groups.rows) == 60
    part, _ = deviation_report(road, mixed, start=200, end=300)
    assert all(200 <= r[0] <= 300 for r in part.rows) and len(part.rows) == int(((stations >= 200) & (stations <= 300)).sum())


def test_deviations_at_an_interval_are_square_to_the_line_and_those_of_shapely() -> None:
    """Random measured lines that swing about the line; offsets against the crossing of the square by shapely (GEOS)."""
    import shapely

    road = line()
    rng = np.random.default_rng(8)
    for _ in range(20):
        s = np.sort(rng.uniform(100, road.end_station, 60))
        place, azimuth, _ = road.evaluate(s)
        off = rng.uniform(-6, 6, 60)
        measured = place + off[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
        table, by_element = interval_deviation_report(road, [measured], interval=8.0, limit=2.0)
        assert table.rows and sum(r[3] for r in by_element.rows) == len(table.rows)
        course = shapely.LineString(measured)
        for station, east, north, offset, side, _, mark in table.rows:
            p, h = (np.squeeze(x) for x in road.evaluate(station)[:2])
            r = np.array([np.cos(h), -np.sin(h)])
            met = shapely.get_coordinates(course.intersection(shapely.LineString([p - 50 * r, p + 50 * r])))
            least = min(((m - p) @ r for m in met), key=abs)
            assert offset == pytest.approx(least, abs=1e-6) and side == ("left" if offset < 0 else "right")
            assert (east, north) == pytest.approx(tuple(p + offset * r), abs=1e-6)
            assert mark == ("over" if abs(offset) > 2.0 else "")
        inner = [r[0] for r in table.rows if s[0] < r[0] < s[-1]]
        assert inner == [8.0 * k for k in range(13, 200) if s[0] < 8.0 * k < s[-1]]  # every one of them


def test_single_points_are_joined_and_places_without_anything_are_counted() -> None:
    road = alignment_from_pis([PI(E0, N0), PI(E0 + 100, N0)], 0.0)
    points = np.array([[E0 + 60.0, N0 - 3.0], [E0 + 20.0, N0 - 1.0]])
    table, _ = interval_deviation_report(road, [], points, interval=10)
    assert [(r[0], round(r[3], 9)) for r in table.rows] == [(20.0, 1.0), (30.0, 1.5), (40.0, 2.0), (50.0, 2.5), (60.0, 3.0)]
    assert table.told[0].startswith("5 places") and "at 6 more there is nothing measured" in table.told[0]
    assert table.told[1] == "2 single points, joined by straights in the order of their chainage."
    along = np.array([[E0 + 50.0, N0 + 9.0], [E0 + 50.0, N0 + 4.0]])  # a piece that lies in the square itself
    assert interval_deviation_report(road, [along], interval=10)[0].rows[0][3] == pytest.approx(-4.0)


def test_layouts_show_the_same_values_in_other_ways() -> None:
    road = line()
    offsets = [0.5, -4.0, 2.0]
    place, azimuth, _ = road.evaluate([150.0, 400.0, 800.0])
    points = place + np.array(offsets)[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    tables = deviation_report(road, points, limit=1.0)
    by_name = {la.name: laid_out(tables, la) for la in layouts_of("deviation", tables)}
    assert [round(r[3], 6) for r in by_name["Greatest first"].rows] == [-4.0, 2.0, 0.5]
    assert [round(r[3], 6) for r in by_name["Beyond the limit"].rows] == [-4.0, 2.0]
    assert by_name["By element"].rows == tables[1].rows and by_name["In order of chainage"].rows == tables[0].rows
    elements = (element_report(road),)
    short = laid_out(elements, layouts_of("elements", elements)[2])
    assert [c.name for c in short.columns] == ["Element", "From", "Easting", "Northing", "Azimuth"]
    assert short.rows[3][2] == elements[0].rows[3][8]
