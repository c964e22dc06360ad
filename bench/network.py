"""Many roads that hang on each other, and a large ground that is edited while others save. Its data are made anew and thrown away."""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np

from . import junctions
from .measure import Figures, machine_milliseconds, middle_seconds

ROOT = Path(__file__).resolve().parents[1]
EDITS = 50


def run(figures: Figures) -> None:
    with tempfile.TemporaryDirectory() as data:
        environment = {
            **os.environ, "IVORY_MODE": "demo", "IVORY_DATA": data, "PYTHONPATH": str(ROOT),
            "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
            "OPENBLAS_NUM_THREADS": "1",
        }  # fmt: skip
        manage = [sys.executable, "-m", "ivoryridge.manage"]
        for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"], ["load_demo"]):
            subprocess.run([*manage, *command], cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL)
        done = subprocess.run(
            [sys.executable, "-m", "bench.network"], cwd=ROOT, env=environment, check=True, stdout=subprocess.PIPE, text=True
        )
    for row in json.loads(done.stdout.splitlines()[-1]):
        figures.add(*row)


def main() -> None:
    import django

    django.setup()
    from django.contrib.auth.models import User

    from ivoryridge.design.warm import warm_kernels

    warm_kernels()
    designer = User.objects.get(username="designer")
    rows = [
        *_thirty_roads(designer),
        *_dependents(designer),
        *_one_template(designer),
        *_local_edit(designer),
        *junctions.finished_demo(designer),
        *junctions.trial_demo(),
        *junctions.finished_million(),
        *_large_ground(designer),
    ]
    print(json.dumps(rows))


def _project(designer: Any, name: str, content: bytes) -> tuple[Any, Any]:
    from ivoryridge.design.actions.bring_in_file import bring_in_file
    from ivoryridge.design.models import Membership, Project

    project = Project.objects.create(name=name)
    Membership.objects.create(project=project, user=designer, role="owner")
    return project, bring_in_file(project, designer, content=content, name="ground.csv")[1]


def _road(project: Any, designer: Any, name: str, places: list[tuple[float, float]], levels: tuple[float, ...]) -> Any:
    from ivoryridge.core.alignment.vertical import PVI
    from ivoryridge.design.actions.edit_profile import set_profile
    from ivoryridge.design.actions.edit_road import create_road
    from ivoryridge.design.inputs.network import assemble_road
    from ivoryridge.design.models import Road
    from ivoryridge.design.results.line import line_of

    pis = [{"easting": 412_000 + e, "northing": 687_000 + n} for e, n in places]
    _, road = create_road(project, designer, name=name, pis=pis)
    end = line_of(assemble_road(road)).end_station
    set_profile(road, designer, [PVI(end * i / (len(levels) - 1), z) for i, z in enumerate(levels)], label="Levels")
    return Road.objects.get(pk=road.pk)


def _tied(road: Any, designer: Any, other: Any) -> None:
    from ivoryridge.design.actions.edit_course import tie_end
    from ivoryridge.design.models import Road

    fresh = Road.objects.get(pk=road.pk)
    tie_end(fresh, designer, revision=fresh.revision, end="end", other=Road.objects.get(pk=other.pk), station=None, level="edge")


def thirty_roads(designer: Any) -> Any:
    """The project "Thirty roads": a main road with a bend, fifteen that end at it, fourteen that end at those; each of 1 km and tied to
    the road that it ends at, in plan and level."""
    from ivoryridge.design.models import Road

    from .big_ground import points_csv

    project, _ = _project(designer, "Thirty roads", points_csv(4_000))
    _road(project, designer, "Main", [(1500, 2000), (2000, 2040), (2500, 2000)], (105.0, 112.0))
    main = Road.objects.get(project=project, name="Main")
    for i in range(15):
        x, y = 1520 + 65 * i, 1060 + 50 * i
        from_south = _road(project, designer, f"South {i}", [(x, 1000), (x + 20, 1500), (x, 2001)], (104.0, 106.0))
        _tied(from_south, designer, main)
        if i < 14:
            from_west = _road(project, designer, f"West {i}", [(x - 1000, y), (x - 500, y + 10), (x + 1, y)], (104.0, 106.0))
            _tied(from_west, designer, from_south)
    return project


def _thirty_roads(designer: Any) -> list[tuple[str, float, str]]:
    from django.db import connection
    from django.test.utils import CaptureQueriesContext

    from ivoryridge.design.inputs.network import read_network

    project = thirty_roads(designer)

    def assembled() -> None:
        network = read_network(project.pk)
        for pk in network.own:
            network.road(pk)

    with CaptureQueriesContext(connection) as queries:
        assembled()
    return [
        ("assemble_30_roads_ms", 1000 * middle_seconds(assembled, 9), "ms"),
        ("assemble_30_roads_queries", len(queries), "queries"),
    ]


def _local_edit(designer: Any) -> list[tuple[str, float, str]]:
    """One of 20 adjusted values of 100 m on a road of 10 km gets another value: the corridor after it, against the whole anew."""
    from ivoryridge.design.actions.edit_along import add_variation
    from ivoryridge.design.actions.edit_road import change_road
    from ivoryridge.design.edits.trial import with_trial
    from ivoryridge.design.inputs.network import assemble_road
    from ivoryridge.design.kept.kinds import clear_memory
    from ivoryridge.design.models import Road
    from ivoryridge.design.results.corridor import corridor_of

    from .big_ground import points_csv

    project, _ = _project(designer, "Ten kilometres", points_csv(40_000))
    zigzag = [(100 + 900 * (i % 2) + 40 * i, 60 + 110 * i) for i in range(11)]
    road = _road(project, designer, "Long", zigzag, (104.0, 108.0, 104.0))
    change_road(road, designer, revision=road.revision, values={"interval": 5.0})
    rows = []
    for i in range(20):
        values = {"kind": "adjustment", "side": "left", "part": "verge", "parameter": "width", "form": "constant", "value": 3.0}
        values |= {"station_from": 100.0 + 400 * i, "station_to": 200.0 + 400 * i}
        rows.append(add_variation(Road.objects.get(pk=road.pk), designer, values=values)[1])
    inputs = assemble_road(Road.objects.get(pk=road.pk))

    def whole() -> None:
        clear_memory()
        corridor_of(with_trial(inputs, {}))

    whole()
    anew = middle_seconds(whole, 5)
    local = []
    for i in range(9):
        tried = with_trial(inputs, {"variation": {"id": rows[9].pk, "value": 3.1 + 0.1 * i}})
        began = time.perf_counter()
        corridor_of(tried)
        local.append(time.perf_counter() - began)
    return [("local_edit_ms", 1000 * sorted(local)[4], "ms"), ("local_edit", sorted(local)[4] / anew, "of the whole")]


def _one_template(designer: Any) -> list[tuple[str, float, str]]:
    """A value of a template that ten roads of 2 km have: until the road in view answers, and until all ten do."""
    from ivoryridge.design.actions.edit_template import change_template
    from ivoryridge.design.inputs.network import assemble_road
    from ivoryridge.design.models import Road, Template
    from ivoryridge.design.results.corridor import corridor_of

    from .big_ground import points_csv

    project, _ = _project(designer, "Ten roads", points_csv(40_000))
    roads = [
        _road(
            project,
            designer,
            f"Road {i}",
            [(100, 100 + 110 * i), (1100, 130 + 110 * i), (2100, 100 + 110 * i)],
            (104.0, 108.0, 104.0),
        )
        for i in range(10)
    ]
    template = Template.objects.get(pk=roads[0].template_id)
    for road in roads:
        corridor_of(assemble_road(road))
    active, machines, every = [], [], []
    for i in range(15):
        template.refresh_from_db()
        machine = machine_milliseconds()
        began = time.perf_counter()
        change_template(
            template, designer, revision=template.revision, side="both", part="verge", values={"width": 2.6 + 0.1 * i}
        )
        corridor_of(assemble_road(Road.objects.get(pk=roads[0].pk)))
        active.append(1000 * (time.perf_counter() - began))
        machines.append(active[-1] / machine)
        for road in roads[1:]:
            corridor_of(assemble_road(Road.objects.get(pk=road.pk)))
        every.append(time.perf_counter() - began)
    return [
        ("edit_template_active", statistics.median(active), "ms until the road in view answers, of ten that have the template"),
        (
            "edit_template_active_machines",
            statistics.median(machines),
            "of the machine's fixed piece of work, taken right before",
        ),
        ("edit_template_all", statistics.median(every), "s until all ten do"),
    ]


def _dependents(designer: Any) -> list[tuple[str, float, str]]:
    """A road tied to the dragged one, and one that takes its plane: how long until both are told, in further lines of the answer."""
    from django.test import Client

    from ivoryridge.design.models import Project, Road

    demo = Project.objects.get(name="Orrowmere Link")
    link = Road.objects.get(project=demo, name="Link")
    side = _road(demo, designer, "Mill Road", [(640, 130), (690, 20), (690, -140)], (55.0, 54.0))
    _tied(side, designer, link)
    slip = Road.objects.get(project=demo, name="Quarry slip")  # follows its plane
    client = Client(SERVER_NAME="127.0.0.1")
    client.force_login(designer)
    seen = client.get(f"/api/roads/{link.pk}/design").json()
    taken = []
    for i in range(45):
        values = {"pi": {"index": 1, "easting": seen["pis"][1]["easting"] + 0.3 * i}, "key": seen["key"], "mark": 700.0}
        began = time.perf_counter()
        answer = client.post(f"/api/roads/{link.pk}/trial", data=json.dumps(values), content_type="application/json")
        told = set()
        for line in answer.streaming_content:  # type: ignore[attr-defined]
            told.add(json.loads(line).get("dependent"))
            if told >= {side.pk, slip.pk}:  # junctions follow
                break
        taken.append(1000 * (time.perf_counter() - began))
        answer.close()
        assert told >= {side.pk, slip.pk}
    return [("trial_dependent_p95", float(np.percentile(taken[5:], 95)), "ms")]


def _large_ground(designer: Any) -> list[tuple[str, float, str]]:
    """Saves on another road while a ground of a million points is edited; and the memory after many edits of it."""
    from django.db import connection

    from ivoryridge.design.actions.edit_ground import edit_ground
    from ivoryridge.design.actions.edit_line import change_pi
    from ivoryridge.design.models import Project, Road, RoadPI, Surface

    from .big_ground import points_csv

    _, large = _project(designer, "A million points", points_csv(1_000_000))
    link = Road.objects.get(project__name="Orrowmere Link", name="Link", project=Project.objects.get(name="Orrowmere Link"))
    done = threading.Event()
    taken: list[float] = []

    def save() -> None:
        while not done.is_set():
            pi = RoadPI.present.filter(road=link)[1]
            began = time.perf_counter()
            change_pi(link, designer, pi.pk, revision=pi.revision, values={"easting": pi.easting + (-1) ** len(taken) * 0.25})
            taken.append(1000 * (time.perf_counter() - began))
            time.sleep(0.05)
        connection.close()

    beside = threading.Thread(target=save)
    beside.start()
    for i in range(EDITS):
        if i == 3:
            done.set()
            beside.join()
        surface = Surface.objects.get(pk=large.pk)
        edit = {"do": "add_point", "to": [412_500.0 + 7.3 * i, 688_000.0 + 3.1 * i, 104.0]}
        edit_ground(surface, designer, revision=surface.revision, edits=[edit])
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 / 1e9
    return [
        ("save_beside_edit_p95", float(np.percentile(taken, 95)), f"ms, {len(taken)} saves on another road"),
        ("memory_50_edits_1m", peak, "GB at most"),
    ]


if __name__ == "__main__":
    main()
