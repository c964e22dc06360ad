"""What is kept is what an empty process computes: random acts by two persons, undo and redo among them, on roads that hang on each
other; and whatever was accepted still computes."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import numpy as np
import orjson
import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.design.actions.edit_course import create_course, tie_end
from ivoryridge.design.actions.edit_ground import edit_ground
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_project import change_project
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.inputs import network
from ivoryridge.design.inputs.network import assemble_road, network_of
from ivoryridge.design.kept import kinds
from ivoryridge.design.models import DerivedResult, Project, Road, SheetSet, Surface
from ivoryridge.design.pictures.beside import beside_picture, candidates_picture
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import Refused
from ivoryridge.design.results.sheets import sheets_key
from tests.families.acts import acts_of

AREA = ((499_950.0, 500_650.0), (6_199_850.0, 6_200_350.0))
E, N = 500_000.0, 6_200_000.0


@contextmanager
def empty_process() -> Iterator[None]:
    """Nothing is in memory, nor in the table of derived results; afterwards all is as it was."""
    kept, networks, rows = kinds._kept, network._kept, list(DerivedResult.objects.all())
    kinds._kept, network._kept = {name: type(memory)() for name, memory in kept.items()}, type(networks)()
    DerivedResult.objects.all().delete()
    try:
        yield
    finally:
        kinds._kept, network._kept = kept, networks
        DerivedResult.objects.all().delete()
        DerivedResult.objects.bulk_create(rows)


def told(project: Project) -> dict[int, bytes]:
    """All that is told of every road, as bytes."""
    out = {}
    for road in Road.present.filter(project=project).select_related("project", "surface", "template"):
        try:
            inputs = assemble_road(road)
            beside = beside_picture(road, [10.0], []) if inputs.has_line else None
            picture = [road_picture(inputs), candidates_picture(road), beside]
        except IvoryRidgeError as error:
            picture = [error.sentence]
        out[road.pk] = orjson.dumps(picture, option=orjson.OPT_SERIALIZE_NUMPY)
    return out


def papers(project: Project) -> list[str]:
    out = []
    for sheets in SheetSet.present.filter(project=project, road__removed=False).select_related("project", "road"):
        try:
            out.append(sheets_key(sheets))
        except IvoryRidgeError as error:
            out.append(error.sentence)
    return out


def broken(project: Project) -> list[str]:
    """Why roads that have a line do not compute."""
    pictures = [orjson.loads(b)[0] for b in told(project).values()]
    return [
        p["sentence"] for picture in pictures if picture["pis"] and len(picture["pis"]) > 1 for p in picture["problems"].values()
    ]


def hanging_roads(project: Project, user: Any) -> None:
    """The main road A; B ends on its edge, C begins at its centre, D is parallel to it, F ends on B, G runs from A to D."""

    def made(name: str, *places: tuple[float, float]) -> Road:
        pis = [{"easting": E + e, "northing": N + n, "radius": 0.0} for e, n in places]
        _, road = create_road(project, user, name=name, pis=pis)
        return road

    def now(road: Road) -> Road:
        return Road.objects.select_related("project").get(pk=road.pk)

    def levelled(road: Road, length: float) -> None:
        set_profile(now(road), user, [PVI(0, 101), PVI.symmetric(length / 2, 104, length / 5), PVI(length, 103)], label="Levels")

    main = Road.objects.get(project=project, name="A")
    levelled(main, 500.0)
    b, c, f, g = (
        made("B", (60, -120), (90, 0)),
        made("C", (200, 0), (230, 140)),
        made("F", (20, -90), (70, -80)),
        made("G", (130, 0), (150, 60)),
    )
    for road, length in ((b, 120.0), (c, 140.0), (f, 50.0), (g, 60.0)):
        levelled(road, length)
    _, d = create_course(project, user, name="D", course={"kind": "offset", "road": main.pk, "offset": -60.0}, like=main)
    for road, end, other, level in (
        (b, "end", main, "edge"),
        (c, "start", main, "centre"),
        (f, "end", b, "centre"),
        (g, "start", main, "edge"),
        (g, "end", d, ""),
    ):
        tie_end(now(road), user, revision=now(road).revision, end=end, other=now(other), station=None, level=level)


def acts_by(project: Project, person: Any, rng: np.random.Generator) -> list[Any]:
    surface, now = Surface.present.filter(project=project).first(), Project.objects.get(pk=project.pk)
    more: list[Any] = [lambda: undo(now, person), lambda: undo(now, person), lambda: redo(now, person)] * 3
    more.append(
        lambda: change_project(now, person, revision=now.revision, values={"design_speed": float(rng.choice([50, 60, 70]))})
    )
    if surface is not None:
        point = {
            "do": "add_point",
            "to": [E + float(rng.uniform(0, 400)), N + float(rng.uniform(-90, 90)), float(rng.uniform(100, 108))],
        }
        more.append(lambda: edit_ground(surface, person, revision=surface.revision, edits=[point]))
    return acts_of(now, person, rng, AREA) + more


def walk(project: Project, people: dict[str, Any], acts: int, seed: int) -> tuple[int, int]:
    """How many of the acts were accepted, and how many answers differed."""
    rng = np.random.default_rng(seed)
    hanging_roads(project, people["anna"])
    assert broken(project) == []
    by_tag: dict[str, bytes] = {}
    accepted, before = 0, told(project)
    for _ in range(acts):
        person = people[str(rng.choice(["anna", "ben"]))]
        try:
            rng.choice(np.array(acts_by(project, person, rng), object))()
            accepted += 1
        except (IvoryRidgeError, Refused):
            assert told(project) == before
            continue
        warm, sheets = before, _ = told(project), papers(project)
        with empty_process():
            assert (told(project), papers(project)) == (warm, sheets)
        for picture in warm.values():
            road = orjson.dumps(orjson.loads(picture)[0])
            assert by_tag.setdefault(orjson.loads(road).get("key", ""), road) == road  # the same tag, the same picture
        assert broken(project) == []
    return accepted, len(network_of(project.pk).links)


@pytest.mark.django_db(databases=["default", "derived"], transaction=True)
@pytest.mark.parametrize("seed", [1, 2])
def test_after_every_act_what_is_kept_is_what_an_empty_process_computes(project: Any, people: Any, seed: int) -> None:
    accepted, links = walk(project, people, 30, seed)
    assert accepted >= 10 and links >= 1


@pytest.mark.long
@pytest.mark.django_db(databases=["default", "derived"], transaction=True)
def test_the_same_over_four_hundred_acts(project: Any, people: Any) -> None:
    assert walk(project, people, 400, 7)[0] > 100
