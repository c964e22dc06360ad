"""The part bench over its address: what a gesture shows is what it saves, whatever it is done to; odd wishes are refused in words."""

from __future__ import annotations

from typing import Any

import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.section.library import library_parts
from ivoryridge.design.actions.edit_parts import create_part
from ivoryridge.design.models import Part, Project, Surface

from .test_api import send


@pytest.fixture
def own(project: Project, people: Any, client_of: Any) -> Any:
    """A part of the library made the project's own and laid on the bench alone, over a shallow fill."""

    def lay(name: str) -> tuple[Any, Part, dict[str, Any]]:
        _, part = create_part(project, people["ben"], label="Mine", like=name)
        bound = {t["name"]: {"level": -1.5} for t in part.data["targets"]}
        row = {"id": "part", "part": part.pk, "values": {}, "targets": bound}
        wish = {
            "left": [],
            "right": [row],
            "side": "right",
            "part": "part",
            "preset": "shallow fill",
            "level": 0.0,
            "thumbs": False,
        }
        return client_of("ben"), part, wish

    return lay


def drawn(client: Any, project: Project, wish: dict[str, Any]) -> dict[str, Any]:
    answer = send(client, "post", f"/projects/{project.pk}/bench", wish)
    assert answer.status_code == 200, answer.json()
    return answer.json()


def nodes(told: dict[str, Any]) -> dict[str, tuple[float, float]]:
    return {n["name"]: (n["offset"], n["level"]) for s in told["sides"] if s["side"] == "right" for n in s["nodes"]}


@pytest.mark.parametrize("name", library_parts())
def test_what_a_drag_shows_is_what_it_saves_and_the_node_follows_the_pointer(name: str, own: Any, project: Project) -> None:
    """Every node of every part of the library, moved by a few decimetres: the trial, saved, is the same drawing."""
    client, part, wish = own(name)
    before = nodes(drawn(client, project, wish))
    moved = 0
    for node in [
        n["name"].split(".")[-1] for n in drawn(client, project, wish)["sides"][1]["nodes"] if n["name"].startswith("part.")
    ]:
        at = before[f"part.{node}"]
        to = [at[0] + 0.3, at[1] - 0.2]
        tried = drawn(client, project, {**wish, "gesture": {"do": "drag", "node": node, "to": to}})
        if not tried["steps"] and not tried["values"]:
            continue  # nothing of it can be moved, e.g. where it lies on the ground
        assert tried["told"] is not None and not tried["part"]["faults"], (node, tried["part"]["faults"])
        moved += nodes(tried) != before
        values = [{"do": "set parameter", "parameter": k, "value": v, "metres": True} for k, v in tried["values"].items()]
        part.refresh_from_db()
        kept = part.data
        answer = send(client, "patch", f"/parts/{part.pk}", {"revision": part.revision, "steps": [*values, *tried["steps"]]})
        assert answer.status_code == 200, (node, answer.json())
        saved = nodes(drawn(client, project, wish))
        assert saved.keys() == nodes(tried).keys()
        for key, place in nodes(tried).items():
            assert_allclose(saved[key], place, rtol=0, atol=1e-9, err_msg=f"{node}: {key}")
        Part.objects.filter(pk=part.pk).update(data=kept)
    assert moved


def test_a_node_put_into_the_drawing_lies_where_it_was_put_to_within_its_rounding(own: Any, project: Project) -> None:
    client, _, wish = own("verge")
    start = drawn(client, project, wish)["part"]["start"]
    assert start == [0.0, 0.0]
    for to in ([3.9, 0.4], [2.5, -1.0], [6.1, -0.12], [2.0, -0.1]):
        told = drawn(client, project, {**wish, "gesture": {"do": "put", "since": "verge_edge", "to": to}})
        (new,) = set(nodes(told)) - set(nodes(drawn(client, project, wish)))
        assert_allclose(nodes(told)[new], to, rtol=0, atol=0.08)  # slopes in quarters, widths in 5 cm


def test_the_end_of_a_search_is_dragged_from_hinge_and_from_centre(own: Any, project: Project) -> None:
    client, _, wish = own("side_slopes")
    told = drawn(client, project, {**wish, "gesture": {"do": "limit", "node": "toe", "to": [22.3, 0.0]}})
    assert told["values"] == {"search": 22.5}
    assert {s["limit"] for s in told["sights"]} == {22.5}


def test_a_click_into_a_loop_makes_an_area_and_one_beside_it_says_so(own: Any, project: Project) -> None:
    client, _, wish = own("hard_strip")
    told = drawn(client, project, {**wish, "gesture": {"do": "loop", "to": [0.3, -0.2], "material": "concrete"}})
    assert told["steps"][0]["material"] == "concrete" and set(told["steps"][0]["nodes"]) == {
        "start",
        "strip_edge",
        "under_out",
        "under_in",
    }
    beside = send(client, "post", f"/projects/{project.pk}/bench", {**wish, "gesture": {"do": "loop", "to": [7.0, 3.0]}})
    assert beside.status_code == 422 and "join the nodes first" in beside.json()["message"]


@pytest.mark.parametrize(
    "change",
    [
        {"gesture": {"do": "put", "since": "nowhere", "to": [1, 1]}},
        {"gesture": {"do": "drag", "node": "verge_edge"}},
        {"gesture": {"do": "explode", "to": [1, 1]}},
        {"gesture": {"do": "limit", "node": "verge_edge", "to": [1, 1]}},
        {"gesture": {"do": "put", "to": [1e12, 0]}},
        {"ground": [[0, 1]]},
        {"ground": [[0, "x"], [1, 2]]},
        {"steps": [{"do": "explode"}]},
        {"steps": [{"do": "set slot", "node": 99, "slot": "across", "value": 1}]},
        {"steps": [{"do": "set slot", "node": 0, "slot": "across", "value": {"a": 1}}]},
        {"rates": [9, 9]},
        {"right": [{"id": "part", "part": "gone", "values": {}}]},
        {"right": [{"id": "part", "part": "verge", "values": {"width": 900}}]},
        {"right": [{"id": "part", "part": "verge", "values": {"colour": 1}}]},
        {"right": [{"id": "part", "part": "overlay", "values": {}}]},
    ],
    ids=str,
)  # fmt: skip
def test_an_odd_wish_is_refused_in_words(change: dict[str, Any], own: Any, project: Project) -> None:
    client, _, wish = own("verge")
    answer = send(client, "post", f"/projects/{project.pk}/bench", {**wish, **change})
    assert answer.status_code in (400, 422) and len(answer.json()["message"]) > 15, answer.content


def test_grounds_that_fold_back_or_stand_upright_are_drawn_as_they_can_be(own: Any, project: Project) -> None:
    client, _, wish = own("side_slopes")
    for ground in ([[-20, 0], [8, -2], [8, -5], [30, -5]], [[0, -1], [0, -2], [0, -3]], [[30, -3], [-30, -3]]):
        answer = send(client, "post", f"/projects/{project.pk}/bench", {**wish, "ground": ground})
        assert answer.status_code in (200, 422), answer.content


def test_usual_grounds_are_tried_in_the_same_call_and_left_out_on_request(own: Any, project: Project) -> None:
    client, _, wish = own("side_slopes")
    told = drawn(client, project, {**wish, "thumbs": True})
    assert [t["name"] for t in told["thumbs"]] == [
        "deep cut",
        "shallow cut",
        "level",
        "shallow fill",
        "deep fill",
        "side hill",
        "hump",
        "dip",
    ]
    assert drawn(client, project, wish)["thumbs"] == []
    (small,) = [t for t in told["thumbs"] if t["name"] == "shallow fill"]
    line = dict(small["picture"]["lines"])["finished"]
    toe = nodes(told)["part.toe"]
    assert_allclose(line[-1], toe, rtol=0, atol=2e-3)  # the thumbnail is the drawing


def test_a_surface_that_a_part_looks_for_is_the_trial_ground_where_it_is_the_roads_own(own: Any, project: Project) -> None:
    client, _, wish = own("overlay")
    ground = Surface.present.get(project=project)
    wish["right"][0]["targets"] = {"existing": {"surface": ground.pk}}
    on_it = drawn(client, project, {**wish, "surface": ground.pk})
    assert on_it["others"] == [] and nodes(on_it)["part.old_1"][1] == pytest.approx(-1.2)
    beside = drawn(client, project, wish)
    assert nodes(beside)["part.old_1"][1] == pytest.approx(-3.2)
    assert beside["others"][0]["name"] == "Existing ground: 2 m under the ground here"
