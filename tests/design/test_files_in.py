"""Bringing files in: nothing wrong without a word, sent once, surfaces apart, a whole file in the wrong place."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from ivoryridge.core.terrain.reach import likely_cause, within_reach
from ivoryridge.core.terrain.survey import Survey
from ivoryridge.design.actions.bring_in_file import bring_in_file, preview_file
from ivoryridge.design.actions.edit_ground import edit_ground
from ivoryridge.design.actions.edit_surface import delete_surface
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.jobs import Cancelled
from ivoryridge.design.models import ReceivedFile, Surface, SurveySet, Upload
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.surface import surface_of
from tests.core.test_readers import cloud

E0, N0 = 500_000.0, 6_200_000.0


def points(swapped: bool = False, factor: float = 1.0, east: float = 0.0) -> bytes:
    rows = [[E0 + 10 * i + east, N0 + 10 * j, 100 + 0.1 * i] for i in range(8) for j in range(8)]
    order = [1, 0, 2] if swapped else [0, 1, 2]
    return "\n".join(";".join(f"{v / factor:.4f}" for v in np.array(r)[order]) for r in rows).encode()


@pytest.mark.parametrize(
    ("content", "cause"),
    [
        (points(swapped=True), "easting and northing are changed over"),
        (points(factor=0.3048), "they are in feet, taken as metres"),
        (points(factor=0.001), "they are in millimetres, taken as metres"),
        (points(east=32_000_000), "the easting begins with the number of its zone"),
    ],
)
def test_a_file_in_the_wrong_place_is_told_with_its_cause_and_brought_right_in_one_click(
    project: Any, content: bytes, cause: str
) -> None:
    told = preview_file(project, content, "odd.csv")
    (finding,) = [f for f in told["findings"] if f["code"] == "misplaced"]
    assert cause in finding["sentence"] and told["far"]
    mended = preview_file(project, content, "odd.csv", finding["way"]["options"])
    assert not mended["far"] and "misplaced" not in {f["code"] for f in mended["findings"]}
    np.testing.assert_allclose(mended["sets"][0]["extent"], [E0, N0, E0 + 70, N0 + 70], rtol=0, atol=0.1)


def test_a_far_file_without_a_known_cause_is_still_doubted() -> None:
    found = likely_cause([1e5, 1e5, 1.1e5, 1.1e5], [E0, N0, E0 + 900, N0 + 900], least=20_000)
    assert found is not None and found.cause == ""
    assert likely_cause([E0 + 950, N0, E0 + 2000, N0 + 900], [E0, N0, E0 + 900, N0 + 900], least=20_000) is None


def test_what_cannot_be_ground_is_left_out_and_named() -> None:
    rows = np.array(
        [[E0, N0, 5.0], [E0 + 9, N0, 6.0], [E0, N0 + 9, 7.0], [3e9, N0, 5.0], [E0 + 3e6, N0, 5.0], [E0 + 3, N0 + 3, 99_000.0]]
    )
    kept, findings = within_reach(Survey(rows, names=("1", "2", "3", "wild", "far", "high")))
    told = {f.code: f.params for f in findings}
    assert told["points-beyond"]["told"] == "wild, far" and told["levels-beyond"]["count"] == 1
    assert kept.names == ("1", "2", "3", "high") and np.isnan(kept.points[3, 2])


def xml_of(*surfaces: tuple[str, float]) -> bytes:
    def one(name: str, level: float) -> str:
        corners = "".join(
            f'<P id="{i}">{N0 + n} {E0 + e} {level}</P>' for i, (e, n) in enumerate([(0, 0), (50, 0), (50, 50), (0, 50)], 1)
        )
        return f'<Surface name="{name}"><Definition><Pnts>{corners}</Pnts><Faces><F>1 2 3</F><F>1 3 4</F></Faces></Definition></Surface>'

    return f"<LandXML><Surfaces>{''.join(one(*s) for s in surfaces)}</Surfaces></LandXML>".encode()


def test_surfaces_over_each_other_come_in_apart_unless_told_otherwise(project: Any, people: Any) -> None:
    content = xml_of(("Ground", 100.0), ("Rock", 95.0), ("Design", 103.0))
    told = preview_file(project, content, "three.xml")
    assert [s["place"] for s in told["sets"]] == ["apart"] * 3 and "surfaces-over" in {f["code"] for f in told["findings"]}
    before = Surface.present.filter(project=project).count()
    bring_in_file(project, people["ben"], content=content, name="three.xml", options={"sets": {"2": "leave"}})
    names = list(Surface.present.filter(project=project).values_list("name", flat=True))
    assert names[before:] == ["Ground", "Rock"]
    rock, _ = surface_of(assemble_surface(Surface.present.get(project=project, name="Rock")))
    assert rock.points[:, 2].tolist() == [95.0] * 4
    undo(project, people["ben"])
    assert Surface.present.filter(project=project).count() == before


def test_a_file_is_sent_once_and_looked_at_and_brought_in_by_its_id(project: Any, client_of: Any) -> None:
    ben = client_of("ben")
    sent = ben.post(f"/api/projects/{project.pk}/uploads", {"file": SimpleUploadedFile("more.csv", points())}).json()
    form = {"upload": sent["upload"], "options": json.dumps({"roles": {"point/": "spot"}})}
    assert ben.post(f"/api/projects/{project.pk}/preview", form).json()["sets"][0]["points"] == 64
    assert client_of("anna").post(f"/api/projects/{project.pk}/preview", form).status_code == 404  # another person's
    assert ben.post(f"/api/projects/{project.pk}/files", form).status_code == 200
    assert not Upload.objects.exists()
    kept = ReceivedFile.objects.get(project=project, name="more.csv")
    again = {"received": kept.pk, "options": json.dumps({"swapped": True})}
    assert ben.post(f"/api/projects/{project.pk}/preview", again).json()["reading"]["swapped"]
    assert ben.post(f"/api/projects/{project.pk}/files", again).status_code == 200
    assert ReceivedFile.objects.filter(project=project, name="more.csv").count() == 1  # the original stays, once
    assert SurveySet.present.filter(file=kept).count() == 2
    assert ben.post(f"/api/projects/{project.pk}/preview", {"upload": 999}).status_code == 404


def test_edits_made_while_a_file_is_read_stay(project: Any, people: Any) -> None:
    surface = Surface.present.get(project=project)

    def meanwhile(done: int, total: int, message: str) -> None:
        if message == "Storing":
            now = Surface.present.get(pk=surface.pk)
            edit_ground(now, people["anna"], revision=now.revision, edits=[{"do": "add_point", "to": [E0, N0, 101.0]}])

    bring_in_file(project, people["ben"], content=points(), name="more.csv", surface_id=surface.pk, progress=meanwhile)
    surface.refresh_from_db()
    assert len(surface.edits) == 1 and len(surface.sources) == 2
    undo(project, people["anna"])  # ben's file came after, but changed nothing of what she did
    surface.refresh_from_db()
    assert not surface.edits and len(surface.sources) == 2


def test_a_surface_deleted_while_a_file_is_read_is_told(project: Any, people: Any) -> None:
    surface = Surface.present.get(project=project)

    def meanwhile(done: int, total: int, message: str) -> None:
        if message == "Storing":
            delete_surface(surface, people["anna"], revision=Surface.present.get(pk=surface.pk).revision)

    with pytest.raises(BadValue, match="was deleted while the file was being read"):
        bring_in_file(project, people["ben"], content=points(), name="more.csv", surface_id=surface.pk, progress=meanwhile)
    assert not ReceivedFile.objects.filter(name="more.csv").exists()


def test_laser_points_tell_how_far_they_are_and_can_be_cancelled_there(project: Any, people: Any) -> None:
    """A million at a time, as they are unpacked."""
    content, _ = cloud(n=1_200_000, suffix=".laz")
    told: list[str] = []

    def heard(done: int, total: int, message: str) -> None:
        told.append(message)
        if message.startswith("Reading: 1.0"):
            raise Cancelled

    before = ReceivedFile.objects.count()
    with pytest.raises(Cancelled):
        bring_in_file(project, people["ben"], content=content, name="cloud.laz", progress=heard)
    assert told == [f"Reading {len(content) / 1e6:.1f} MB", "Reading: 1.0 of 1.2 million laser points"]
    assert ReceivedFile.objects.count() == before


CODED = """P;E;N;Z;code
1;{0}10;6200010;100;BANK1 ST
2;{0}20;6200011;101;WALL
3;{0}30;6200010;102;BANK1
4;{0}30;6200030;103;GRD
5;{0}50;6200012;104;BANK1 END
6;{0}60;6200012;105;BANK1
7;{0}70;6200015;106;BANK1
8;{0}10;6200050;107;PLOT
9;{0}90;6200050;107;PLOT
10;{0}50;6200090;107;PLOT CL
""".format("5000").encode()


def test_points_of_one_code_become_lines_and_nothing_leaves_the_surface(project: Any, people: Any) -> None:
    project.sorting_rules = [{"pattern": p, "type": "", "role": "breakline"} for p in ("BANK*", "PLOT*", "WALL")]
    project.sorting_rules.append({"pattern": "GRD", "type": "", "role": "spot"})
    project.save()
    _, surface, _ = bring_in_file(project, people["ben"], content=CODED, name="coded.csv")
    made, _ = surface_of(assemble_surface(surface))
    assert len(made.points) == 10  # none has left
    edges = {tuple(sorted(np.round(made.points[e, 0] - 500_000).astype(int).tolist())) for e in made.breakline_edges}
    assert edges == {(10, 30), (30, 50), (60, 70), (10, 90), (50, 90), (10, 50)}


def test_a_point_that_is_edited_moves_its_coded_line(project: Any, people: Any) -> None:
    project.sorting_rules = [{"pattern": "*", "type": "", "role": "breakline"}]
    project.save()
    _, surface, _ = bring_in_file(project, people["ben"], content=CODED, name="coded.csv")
    source = surface.sources[0]
    edit_ground(
        surface,
        people["ben"],
        revision=surface.revision,
        edits=[{"do": "set_level", "survey": source, "point": 2, "level": 150.0}],
    )
    surface.refresh_from_db()
    made, _ = surface_of(assemble_surface(surface))
    assert 150.0 in made.points[made.breakline_edges.ravel(), 2]


def test_german_headers_utf16_and_names_are_understood(project: Any) -> None:
    text = "Vermessung Musterfeld\nPunktnr;Hochwert;Rechtswert;Höhe;Bemerkung\n" + "\n".join(
        f"A{i};{N0 + i:.0f},25;{E0 + 2 * i:.0f},5;{100 + i},125;GRD" for i in range(6)
    )
    for content in (text.encode("utf-16"), text.encode("latin-1"), text.encode()):
        told = preview_file(project, content, "points.csv")
        assert told["error"] is None and told["reading"]["columns"] == {
            "name": 0,
            "northing": 1,
            "easting": 2,
            "elevation": 3,
            "code": 4,
        }
        assert told["sets"][0]["extent"][:2] == [E0 + 0.5, N0 + 0.25]
        assert "lines-before-header" in {f["code"] for f in told["findings"]}


@pytest.mark.parametrize(
    ("rows", "code"),
    [
        ("foo;bar;baz\n" + "\n".join(f"{E0 + i};{N0 + i * i};5{i}" for i in range(5)), "columns-guessed"),
        ("\n".join(f"7.{i}5123;50.{i}1234;{100 + i}" for i in range(9)), "looks-like-degrees"),
        ("\n".join(f"{E0 + i};{N0 + i * i};{-9999 if i == 2 else 50 + i}" for i in range(9)), "level-none"),
        ("\n".join(f"P{i // 2};{E0 + i};{N0 + i * i};{50 + i}" for i in range(9)), "names-twice"),
        ("E;N;Z\n" + "\n".join(f"41{i},560;68{i},420;5{i},250" for i in range(9)), "comma-groups"),
    ],
)
def test_odd_points_are_doubted_in_words(project: Any, rows: str, code: str) -> None:
    assert code in {f["code"] for f in preview_file(project, rows.encode(), "odd.csv")["findings"]}


def test_findings_speak_of_points_by_their_names(project: Any, people: Any) -> None:
    from ivoryridge.design.pictures.ground import findings_picture

    rows = [f"{100 + i};{E0 + 10 * (i % 7)};{N0 + 10 * (i // 7)};{100 + 0.1 * i}" for i in range(49)]
    rows += [f"306;{E0 + 10};{N0};140"]
    _, surface, _ = bring_in_file(project, people["ben"], content="\n".join(["Nr;E;N;Z", *rows]).encode(), name="named.csv")
    told = [f["sentence"] for f in findings_picture(surface)["open"]]
    assert any("Points 101 and 306" in t for t in told)


def test_many_points_on_one_spot_are_checked_in_linear_time() -> None:
    from ivoryridge.core.terrain.checks import check_ground
    from ivoryridge.core.terrain.recipe import Recipe, Source, gather

    rng = np.random.default_rng(3)
    spots = np.column_stack([np.full(200_000, E0), np.full(200_000, N0), rng.normal(50, 1, 200_000)])
    recipe = Recipe((Source(1, Survey(np.concatenate([spots, [[E0 + 9, N0, 1], [E0, N0 + 9, 1]]]))),))
    found = check_ground(recipe, gather(recipe))
    assert 1 <= sum(f.finding.code == "duplicate-levels" for f in found) <= 200
