"""Shared fixtures: the demo project made once a run and copied, signed-in clients, and the core's small scenes."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import hypothesis
import numpy as np
import pytest
from django.contrib.auth.models import User
from django.test import Client

# kernels compile on their first call, so the first example of a test may take seconds
hypothesis.settings.register_profile("here", deadline=None, derandomize=True)
hypothesis.settings.load_profile("here")

REFERENCE = Path(__file__).parent / "reference"


@pytest.fixture(scope="session")
def django_db_modify_db_settings(tmp_path_factory: pytest.TempPathFactory) -> None:
    """Data base files of this worker only, on disk: a data base in memory knows no WAL."""
    from django.conf import settings

    folder = tmp_path_factory.mktemp("db")
    for alias in ("default", "derived"):
        settings.DATABASES[alias]["TEST"] = {
            **settings.DATABASES[alias].get("TEST", {}),
            "NAME": str(folder / f"{alias}.sqlite3"),
        }


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Tests of rows may use both data bases; those of the browser see what other threads commit."""
    for item in items:
        folder = item.path.parent.name
        if folder in ("design", "api", "browser") and item.get_closest_marker("django_db") is None:
            item.add_marker(pytest.mark.django_db(databases=["default", "derived"], transaction=folder == "browser"))


@pytest.fixture
def demo(db: Any) -> Any:
    """The demo project as its loader makes it, inside the test's transaction."""
    from ivoryridge.design.demo.load import load_demo

    return load_demo()


@pytest.fixture
def people(db: Any) -> dict[str, User]:
    return {name: User.objects.create_user(name, password="correct horse") for name in ("anna", "ben", "cara", "out")}


@pytest.fixture
def project(people: dict[str, User]) -> Any:
    """A small project: anna owns it, ben edits, cara views; a plane that rises 2 % to the east and a road over it."""
    from ivoryridge.design.actions.bring_in_file import bring_in_file
    from ivoryridge.design.actions.edit_road import create_road
    from ivoryridge.design.models import Membership, Project

    project = Project.objects.create(name="Small")
    for name, role in (("anna", "owner"), ("ben", "editor"), ("cara", "viewer")):
        Membership.objects.create(project=project, user=people[name], role=role)
    bring_in_file(project, people["anna"], content=plane_csv(), name="plane.csv")
    pis = [
        {"easting": 500_000.0, "northing": 6_200_000.0, "radius": 0.0, "spiral_in": 0.0, "spiral_out": 0.0},
        {"easting": 500_300.0, "northing": 6_200_000.0, "radius": 200.0, "spiral_in": 40.0, "spiral_out": 30.0},
        {"easting": 500_500.0, "northing": 6_200_200.0, "radius": 0.0, "spiral_in": 0.0, "spiral_out": 0.0},
    ]
    create_road(project, people["anna"], name="A", pis=pis)
    return project


def plane_csv(rise: float = 0.02) -> bytes:
    """Points every 25 m, E 499 900 to 500 700, N 6 199 800 to 6 200 400; level 100 at the road's start."""
    e, n = np.meshgrid(np.arange(499_900, 500_701, 25.0), np.arange(6_199_800, 6_200_401, 25.0))
    rows = [
        f"{i},{x:.3f},{y:.3f},{100 + rise * (x - 500_000):.4f},ground"
        for i, (x, y) in enumerate(zip(e.ravel(), n.ravel(), strict=True))
    ]
    return ("point,easting,northing,level,code\n" + "\n".join(rows) + "\n").encode()


@pytest.fixture
def road(project: Any) -> Any:
    from ivoryridge.design.models import Road

    return Road.objects.select_related("project", "surface", "template").get(project=project)


@pytest.fixture
def client_of(people: dict[str, User]) -> Any:
    def make(name: str) -> Client:
        client = Client()
        client.force_login(people[name])
        return client

    return make


def beside(road: Any, index: int) -> tuple[int | None, int | None]:
    """The PIs between which a new one would be the one of that index."""
    from ivoryridge.design.models import RoadPI

    ids = [None, *RoadPI.present.filter(road=road).values_list("id", flat=True), None]
    return ids[index], ids[index + 1]
