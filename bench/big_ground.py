"""Two projects with much ground, for the browser's benchmarks: 300 000 and 1 000 000 triangles. Run on a demo's data."""

from __future__ import annotations

import os

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


if __name__ == "__main__":
    main()
