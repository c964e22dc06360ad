"""Reports on a line: against the line itself, points set off by known amounts, and what pandas reads back from the CSV."""

from __future__ import annotations

import io

import numpy as np
import pandas as pd
import pytest

from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import InputError
from ivoryridge.core.report.line import coordinate_report, deviation_report, element_report, tangent_point_report
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
