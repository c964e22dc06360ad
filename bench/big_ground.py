"""Two projects with much ground, for the browser's benchmarks: 300 000 and 1 000 000 triangles. Run on a demo's data."""

from __future__ import annotations

import os
from typing import Any

import django
import numpy as np

NAMES = {150_000: "Bench 300k", 500_000: "Bench 1M"}


def points_csv(count: int) -> bytes:
    rng = np.random.default_rng(count)
    e, n = rng.uniform(0, 4000, count), rng.uniform(0, 2500, count)
    z = 100 + 9 * np.sin(e / 310) + 6 * np.cos(n / 170) + 0.4 * np.sin(e / 23 + n / 31)
    rows = np.char.mod("%.3f", np.column_stack([e + 412_000, n + 687_000, z]))
    return ("E,N,Z\n" + "\n".join(",".join(r) for r in rows.tolist())).encode()


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ivoryridge.config.settings")
    django.setup()
    from django.contrib.auth.models import User

    from ivoryridge.design.actions.bring_in_file import bring_in_file
    from ivoryridge.design.models import Membership, Project

    designer = User.objects.get(username="designer")
    for count, name in NAMES.items():
        project = Project.objects.create(name=name)
        Membership.objects.create(project=project, user=designer, role="owner")
        bring_in_file(project, designer, content=points_csv(count), name="flown.csv")
        if name == "Bench 1M":
            long_road(project, designer)


def long_road(project: Any, designer: Any) -> None:
    """A road of 30 km to and fro over the ground, with a profile every 500 m near it."""
    from ivoryridge.core.alignment.vertical import PVI
    from ivoryridge.design.actions.edit_profile import set_profile
    from ivoryridge.design.actions.edit_road import create_road
    from ivoryridge.design.inputs.network import assemble_road
    from ivoryridge.design.results.line import ground_under, line_of

    rows = np.linspace(687_150, 689_350, 9)
    pis = []
    for i, n in enumerate(rows):
        west, east = ({"easting": e, "northing": float(n), "radius": 120.0} for e in (412_200.0, 415_800.0))
        pis += [west, east] if i % 2 == 0 else [east, west]
    pis[0]["radius"] = pis[-1]["radius"] = 0.0
    _, road = create_road(project, designer, name="To and fro", pis=pis)
    inputs = assemble_road(road)
    line, ground = line_of(inputs), ground_under(inputs)
    stations = np.linspace(line.start_station, line.end_station, int(line.length.sum() // 600))
    levels = np.interp(stations, ground[:, 0], ground[:, 1])
    ends = {0, len(stations) - 1}
    pvis = [
        PVI(float(s), float(z), *((0.0, 0.0) if i in ends else (90.0, 90.0)))
        for i, (s, z) in enumerate(zip(stations, levels, strict=True))
    ]
    set_profile(road, designer, pvis, label="Profile near the ground")


if __name__ == "__main__":
    main()
