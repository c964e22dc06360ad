"""Five roads with four junctions: after random acts, what is kept is what an empty process computes, and undone all is as it was."""

from __future__ import annotations

from typing import Any

import numpy as np
import orjson
import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.edit_junction import change_corners, change_junction, let_follow, make_junction, pin
from ivoryridge.design.actions.edit_levels import raise_pvis
from ivoryridge.design.actions.edit_line import change_pi
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.network import assemble_road, network_of
from ivoryridge.design.models import Junction, Road, RoadPI
from ivoryridge.design.pictures.finished import finished_picture
from ivoryridge.design.pictures.junction import junctions_picture
from ivoryridge.design.refusals import Refused
from ivoryridge.design.results.levels import levels_of
from tests.design.test_warm_and_cold import empty_process

E, N = 500_000.0, 6_200_000.0
SIDES = {
    "B": ((60.0, 0.0), (75.0, 140.0)), "C": ((130.0, 0.0), (120.0, -130.0)), "D": ((215.0, -110.0), (200.0, 130.0)),
    "F": ((75.0, 70.0), (180.0, 90.0)),
}  # fmt: skip


def level_at(road: Road, station: float) -> float:
    return float(levels_of(assemble_road(Road.objects.get(pk=road.pk))).profile.evaluate(station)[0][0])


@pytest.fixture
def net(project: Any, road: Road, anna: Any) -> list[Junction]:
    set_profile(road, anna, [PVI(0, 103), PVI(560, 106)], label="Levels")
    made: dict[str, Road] = {"A": road}
    junctions = []
    for name, (a, b) in SIDES.items():
        pis = [{"easting": E + e, "northing": N + n} for e, n in (a, b)]
        _, own = create_road(project, anna, name=name, pis=pis)
        length = float(np.hypot(b[0] - a[0], b[1] - a[1]))
        main = made["B"] if name == "F" else road
        base = level_at(main, 70.0 if name == "F" else a[0])
        middle = [PVI(110.0, base - 0.1)] if name == "D" else []
        set_profile(own, anna, [PVI(0, base), *middle, PVI(length, base + 1.2)], label="Levels")
        made[name] = Road.objects.get(pk=own.pk)
        main = Road.objects.get(pk=main.pk)
        junctions.append(make_junction(project, anna, main=main, side=made[name], radii=[6, 6, 6, 6])[1])
    return junctions


def told(project: Any, surface: int) -> bytes:
    network = network_of(project.pk)
    pictures = [junctions_picture(network), finished_picture(network, network.surfaces[surface])]
    return orjson.dumps(pictures, option=orjson.OPT_SERIALIZE_NUMPY)


def test_warm_equals_cold_on_a_network_of_junctions(project: Any, road: Road, net: list[Junction], anna: Any) -> None:
    rng = np.random.default_rng(1515)
    first = told(project, road.surface_id)
    done = refused = 0
    for _ in range(10):
        junction = Junction.objects.get(pk=net[int(rng.integers(len(net)))].pk)
        corners = [r for r in Road.present.filter(course__kind="return") if r.course["junction"] == junction.pk]
        corner = corners[int(rng.integers(len(corners)))]
        try:
            match int(rng.integers(5)):
                case 0:
                    radius = float(np.round(rng.uniform(3, 14), 1))
                    change_corners(junction, anna, roads={corner.pk: corner.revision}, values={"radius": radius})
                case 1:
                    raise_pvis(Road.objects.get(pk=road.pk), anna, rise=float(np.round(rng.uniform(-0.2, 0.2), 3)))
                case 2:
                    run_out = float(np.round(rng.uniform(5, 30), 1))
                    change_junction(junction, anna, revision=junction.revision, values={"run_out": run_out})
                case 3:
                    (pin if assemble_road(corner).levels_follow else let_follow)(corner, anna)
                case 4:
                    pi = RoadPI.present.filter(road=junction.side).last()
                    assert pi is not None
                    values = {"easting": pi.easting + float(rng.uniform(-4, 4)), "northing": pi.northing}
                    change_pi(Road.objects.get(pk=pi.road_id), anna, pi.pk, revision=pi.revision, values=values)
            done += 1
        except (InputError, Refused):
            refused += 1
        warm = told(project, road.surface_id)
        with empty_process():
            assert told(project, road.surface_id) == warm
    assert done >= 7
    for _ in range(done):
        undo(project, anna)
    last = orjson.loads(told(project, road.surface_id))
    before = orjson.loads(first)
    for picture in (last[0], before[0]):
        for j in picture["junctions"]:
            j.pop("revision")
    assert last == before
