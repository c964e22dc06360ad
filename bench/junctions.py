"""Junctions and the finished ground: the demo's from nothing and after a change in one junction; a ground of a million triangles with three
roads and five junctions in it."""

from __future__ import annotations

import itertools
import resource
import statistics
import time
from typing import Any

import numpy as np

Row = tuple[str, float, str]


def finished_demo(designer: Any) -> list[Row]:
    """Of the demo, in this process: with roads and ground as they are kept, but nothing of the finished ground; then one radius changed."""
    from ivoryridge.design.actions.edit_junction import change_corners
    from ivoryridge.design.inputs.network import network_of
    from ivoryridge.design.models import Junction, Project, Road
    from ivoryridge.design.results.corridor import corridor_of
    from ivoryridge.design.results.finished import finished_of

    project = Project.objects.get(name="Orrowmere Link")
    network = network_of(project.pk)
    link = Road.objects.get(project=project, name="Link")
    recipe = network.surfaces[link.surface_id]
    for pk in network.own:
        if network.road(pk).has_template:
            corridor_of(network.road(pk))
    began = time.perf_counter()
    finished_of(network, recipe)[0].get()
    cold = time.perf_counter() - began
    junction = Junction.objects.filter(project=project).first()
    assert junction is not None
    taken = []
    for i in range(5):
        corner = Road.present.filter(project=project, course__junction=junction.pk).first()
        assert corner is not None
        change_corners(junction, designer, roads={corner.pk: corner.revision}, values={"radius": 9.0 + 0.2 * i})
        network = network_of(project.pk)
        began = time.perf_counter()
        finished_of(network, recipe)[0].get()
        taken.append(time.perf_counter() - began)
    return [
        ("finished_ground_demo", cold, "s from kept roads"),
        ("finished_ground_demo_changed", 1000 * statistics.median(taken), "ms after a change in one junction"),
    ]


def trial_demo() -> list[Row]:
    """Server's share of a drag of a main road's PVI: until the junctions that follow are told, and the road's own shape before them."""
    from dataclasses import replace

    from ivoryridge.design.edits.junction import with_corners
    from ivoryridge.design.inputs.network import network_of
    from ivoryridge.design.kept.kinds import trial
    from ivoryridge.design.models import Project, Road
    from ivoryridge.design.pictures.junction import affected_junctions, junction_picture
    from ivoryridge.design.pictures.road import road_picture, trial_pictures
    from ivoryridge.design.results.finished import finished_near_junctions

    project = Project.objects.get(name="Orrowmere Link")
    network = network_of(project.pk)
    row = Road.objects.get(project=project, name="Link")
    link, surface = network.road(row.pk), row.surface_id
    road_picture(link)
    taken = []
    for i in range(25):
        pvis = tuple(replace(p, elevation=p.elevation + 0.01 * (i + 1)) if k == 2 else p for k, p in enumerate(link.pvis))
        tried = replace(link, pvis=pvis)
        with trial():
            began = time.perf_counter()
            list(itertools.islice(trial_pictures(tried, hand="levels"), 2))
            list(affected_junctions(network.with_road(tried), tried.road_id))
            taken.append(1000 * (time.perf_counter() - began))
    junction, corners = min((pk, list(j.returns)) for pk, j in network.junctions.items() if j.main == link.road_id)
    around = []
    for i in range(15):
        tried_network = with_corners(network, junction, corners[:1], {"radius": 9.0 + 0.1 * i})
        with trial():
            junction_picture(tried_network.junction(junction), judged=False)
            began = time.perf_counter()
            finished_near_junctions(tried_network, network.surfaces[surface], [junction], network)
            around.append(1000 * (time.perf_counter() - began))
    return [
        (
            "trial_finished_near_server_p95",
            float(np.quantile(around[3:], 0.95)),
            "ms for the finished ground around a dragged return, more",
        ),
        ("trial_junctions_server_p95", float(np.quantile(taken[5:], 0.95)), "ms until two junctions follow a main road's PVI"),
    ]


def finished_million() -> list[Row]:
    from ivoryridge.core.junction.finished import GroundPiece, finished_ground, lay
    from ivoryridge.core.terrain.triangulate import triangulate

    rng = np.random.default_rng(9)
    side, count = 3000.0, 500_000
    xy = rng.uniform(0, side, (count, 2))
    z = 50 + 8 * np.sin(xy[:, 0] / 240) + 6 * np.cos(xy[:, 1] / 310)
    ground, _ = triangulate(np.column_stack([xy, z]))

    def strip(start: tuple[float, float], azimuth: float, length: float, name: str, widths: tuple[float, ...]) -> list[Any]:
        n = int(length / 10) + 1
        along = np.linspace(0, length, n)
        u, r = np.array([np.sin(azimuth), np.cos(azimuth)]), np.array([np.cos(azimuth), -np.sin(azimuth)])
        out = []
        for a, b, material in ((0, widths[0], "pavement"), (widths[0], widths[1], "verge"), (widths[1], widths[2], "slope")):
            for sign in (-1.0, 1.0):
                rows = [
                    np.column_stack([start + along[:, None] * u + sign * w * r, 52 + 0.01 * along - 0.03 * w]) for w in (a, b)
                ]
                points = np.concatenate(rows)
                i = np.arange(n - 1)
                faces = np.concatenate([np.stack([i, n + i, n + i + 1], -1), np.stack([i, n + i + 1, i + 1], -1)])
                faces = faces if sign > 0 else faces[:, ::-1]
                out.append(GroundPiece(name, material, points, faces))
        return out

    def plate(e: float, n: float, half: float, level: float) -> Any:
        corners = np.array([[e - half, n - half], [e + half, n - half], [e + half, n + half], [e - half, n + half]])
        return GroundPiece(
            "junction", "pavement", np.column_stack([corners, np.full(4, level)]), np.array([[0, 1, 2], [0, 2, 3]])
        )

    roads = [
        *strip((200, 200), np.pi / 4, 3500, "A", (5, 8, 20)), *strip((300, 2500), 2.2, 3000, "B", (4, 6, 15)),
        *strip((1500, 100), 0.1, 2700, "C", (4, 6, 15)),
    ]  # fmt: skip
    roads.sort(key=lambda p: ("pavement", "verge", "slope").index(p.material))
    spots = [(900, 900), (1500, 1500), (1550, 800), (1700, 1400), (1600, 2000)]
    plates = [plate(e, n, 18, 53.0) for e, n in spots]
    began = time.perf_counter()
    laid, made = [lay(p) for p in plates], [lay(p) for p in roads]
    finished_ground([*laid, *made], ground)
    cold = time.perf_counter() - began
    changed = []
    for i in range(3):
        began = time.perf_counter()
        moved = [lay(plate(*spots[0], 18 + i, 53.0)), *laid[1:]]
        finished_ground([*moved, *made], ground)
        changed.append(time.perf_counter() - began)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
    return [
        ("finished_ground_1m", cold, f"s with {len(ground.triangles)} triangles of ground"),
        ("finished_ground_1m_changed", statistics.median(changed), "s after a change in one junction"),
        ("finished_ground_1m_memory", peak, "GB of the whole process at its greatest"),
    ]
