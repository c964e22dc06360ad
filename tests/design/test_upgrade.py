"""Data of every older schema, brought to the newest: the road that was kept then computes the same volumes now, and the program finds
nothing wrong with what it has."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from django.conf import settings

STATES = sorted(p.stem for p in (settings.ROOT / "ivoryridge/design/migrations").glob("0*.py"))
FEW = {STATES[0], STATES[13]}  # the rest under --long

# run in a process of its own: the schema as it was, and rows as the program of that time wrote them
FILL = """
import io, json, sys
import django
django.setup()
import numpy as np
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

state = ("design", sys.argv[1])
executor = MigrationExecutor(connection)
others = [n for n in executor.loader.graph.leaf_nodes() if n[0] != "design"]
executor.migrate([*others, state])
apps = MigrationExecutor(connection).loader.project_state([*others, state]).apps
User, models = apps.get_model("auth", "User"), {m: apps.get_model("design", m) for m in
    ("Project", "Membership", "ReceivedFile", "SurveySet", "Surface", "Template", "Road", "RoadPI", "RoadPVI", "SheetSet", "LedgerEntry")}
user = User.objects.create(username="anna")
project = models["Project"].objects.create(name="Old")
models["Membership"].objects.create(project=project, user=user, role="owner")
e, n = np.meshgrid(np.arange(-100.0, 501.0, 25.0), np.arange(-150.0, 151.0, 25.0))
points = np.column_stack([500000 + e.ravel(), 6200000 + n.ravel(), (100 + 4 * np.sin(e / 60) + 0.01 * n).ravel()])
blob, codes = io.BytesIO(), ["GRD"] * len(points)
np.savez_compressed(blob, points=points, vertices=np.empty((0, 3)), starts=np.array([0]), faces=np.empty((0, 3), np.int64),
                    code=np.zeros(len(points), np.int32), words=np.frombuffer(json.dumps(["GRD"]).encode(), np.uint8))
file = models["ReceivedFile"].objects.create(project=project, name="old.csv", format="CSV", sha256="0" * 64, content=b"x", size=1,
                                             received_by=user)
survey = models["SurveySet"].objects.create(project=project, file=file, name="old.csv", arrays=blob.getvalue(), hash="1" * 32)
surface = models["Surface"].objects.create(project=project, name="Ground", sources=[survey.pk])
row = [{"id": i, "part": p, "values": {}} for i, p in (("carriageway", "carriageway"), ("verge", "verge"), ("slope", "side_slopes"))]
template = models["Template"].objects.create(project=project, name="Rural", left=row, right=row)
road = models["Road"].objects.create(project=project, name="Old road", template=template, surface=surface)
for i, (x, y, r) in enumerate(((0, 0, 0), (200, 20, 150), (400, -40, 0))):
    models["RoadPI"].objects.create(road=road, position=2.0 * i, easting=500000 + x, northing=6200000 + y, radius=r,
                                    spiral_in=30.0 if r else 0, spiral_out=30.0 if r else 0)
for anchor, station, z, half in (("start", None, 101.0, 0), ("station", 200.0, 103.0, 60.0), ("end", None, 100.5, 0)):
    models["RoadPVI"].objects.create(road=road, anchor=anchor, station=station, elevation=z, half_in=half, half_out=half)
models["SheetSet"].objects.create(project=project, road=road, name="Old road sheets")
models["LedgerEntry"].objects.create(project=project, user=user, label="Add road Old road", changes=[])
"""
COMPUTED = """
import django
django.setup()
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import LedgerEntry, Road
from ivoryridge.design.results.earthwork import areas_of
_, v = areas_of(assemble_road(Road.objects.get(name="Old road")))
print(f"{v.cumulative_cut[-1]:.6f} {v.cumulative_fill[-1]:.6f} {LedgerEntry.objects.count()}")
"""


def run(data: Path, *command: str) -> str:
    environment = {
        **os.environ,
        "IVORY_MODE": "demo",
        "IVORY_DATA": str(data),
        "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
    }
    done = subprocess.run([sys.executable, *command], cwd=settings.ROOT, env=environment, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout[-2000:] + done.stderr[-4000:]
    return done.stdout.strip()


def computed_after(data: Path, state: str) -> str:
    run(data, "-c", FILL, state)
    for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"]):
        run(data, "-m", "ivoryridge.manage", *command)
    (data / "worker.sign").touch()
    assert run(data, "-m", "ivoryridge.manage", "doctor").endswith("All is well.")
    return run(data, "-c", COMPUTED)


pytestmark = pytest.mark.xdist_group("upgrade")  # what they are held against is made once


@pytest.fixture(scope="module")
def newest(tmp_path_factory: pytest.TempPathFactory) -> str:
    """What the newest schema makes of the same rows."""
    return computed_after(tmp_path_factory.mktemp("newest"), STATES[-1])


@pytest.mark.parametrize("state", [pytest.param(s, marks=[] if s in FEW else [pytest.mark.long]) for s in STATES[:-1]])
def test_data_of_an_older_schema_compute_the_same_now(state: str, newest: str, tmp_path: Path) -> None:
    cut, fill, acts = computed_after(tmp_path, state).split()
    assert (cut, fill, acts) == tuple(newest.split())
    assert float(cut) > 100 and float(fill) > 100
