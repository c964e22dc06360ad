"""Volumes as they are asked for: an interval of their own, key chainages by choice, between offsets, in three depths."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road
from ivoryridge.design.pictures.earthwork import VolumesAsked, count_volumes, earthwork_tables
from ivoryridge.design.results.corridor import corridor_of


@pytest.fixture
def levelled(project: Any, road: Road, anna: Any) -> Road:
    """The road with levels that cut in and fill up."""
    set_profile(road, anna, [PVI(0, 100), PVI(200, 108, 60, 60), PVI(480, 99)], label="Levels")
    return Road.objects.get(pk=road.pk)


def polygons(made: Corridor, i: int) -> list[tuple[str, Any]]:
    """Materials of a section with their areas as shapely polygons, offset + right."""
    block, k = made.section(i)
    out = []
    for _, sign, columns, _ in block.sides():
        for _, material, nodes in columns.areas:
            corners = [(sign * columns.across[n, k], columns.level[n, k]) for n in nodes]
            out.append((material, shapely.Polygon(corners).buffer(0)))
    return out


def test_layers_between_offsets_are_those_that_shapely_cuts_out(levelled: Road) -> None:
    made = corridor_of(assemble_road(levelled))
    rng = np.random.default_rng(4)
    for _ in range(6):
        a, b = np.sort(rng.uniform(-6.0, 6.0, 2))
        areas = compute_areas(made, (float(a), float(b)))
        i = int(rng.integers(len(made.station)))
        strip = shapely.box(a, -1e4, b, 1e4)
        for material, value in areas.layers.items():
            cut = sum(p.intersection(strip).area for m, p in polygons(made, i) if m == material)
            assert value[i] == pytest.approx(cut, abs=1e-9)


def test_strips_side_by_side_add_up_to_the_whole(levelled: Road) -> None:
    inputs = assemble_road(levelled)
    whole = count_volumes(inputs, VolumesAsked())
    limits = [-np.inf, -4.2, -1.0, 0.0, 2.75, 6.1, np.inf]
    strips = [count_volumes(inputs, VolumesAsked(offsets=pair)) for pair in itertools.pairwise(limits)]
    for way in ("bends", "plain"):
        for k in (0, 1):
            assert_allclose(sum(s.by[way][k].sum() for s in strips), whole.by[way][k].sum(), rtol=1e-9)
    for material, volume in whole.layers.items():
        assert_allclose(sum(s.layers[material].sum() for s in strips), volume.sum(), rtol=1e-9)


def test_an_interval_of_its_own_is_that_of_a_road_built_so(levelled: Road) -> None:
    inputs = assemble_road(levelled)
    asked = VolumesAsked(station_from=20.0, station_to=120.0, interval=25.0)
    as_road = count_volumes(replace(inputs, interval=25.0), replace(asked, interval=None))
    own = count_volumes(inputs, asked)
    assert_allclose(own.corridor.station, as_road.corridor.station, rtol=0, atol=1e-9)
    assert_allclose(own.by["bends"][0], as_road.by["bends"][0], rtol=0, atol=1e-9)
    plain = count_volumes(inputs, replace(asked, keys=False)).corridor.station
    assert set(np.round(plain, 6)) == {20.0, 25.0, 50.0, 75.0, 100.0, 120.0}
    assert set(np.round(own.corridor.station, 6)) >= set(np.round(plain, 6))


def test_three_depths_say_the_same_sums_and_odd_wishes_are_refused(levelled: Road) -> None:
    inputs = assemble_road(levelled)
    asked = VolumesAsked(interval=25.0, offsets=(-4.0, 4.0))
    sums, intervals, parts = earthwork_tables(inputs, asked)
    total = {(r[0], r[1]): r[2] for r in sums.rows}
    assert (
        intervals.rows[-1][6] == pytest.approx(total["Cut", "bends counted"]) == pytest.approx(sum(r[4] for r in intervals.rows))
    )
    assert parts.rows[-1][2:4] == pytest.approx((total["Cut", "bends counted"], total["Fill", "bends counted"]))
    assert {c.name for c in parts.columns[4:]} == {r[0] for r in sums.rows} - {"Cut", "Fill"}
    assert sums.told[1] == "Between 4.000 m left and 4.000 m right."
    with pytest.raises(InputError, match="must lie to the right"):
        earthwork_tables(inputs, replace(asked, offsets=(2.0, -2.0)))
    with pytest.raises(InputError, match="sections"):
        earthwork_tables(inputs, replace(asked, interval=1e-6))
