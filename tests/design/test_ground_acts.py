"""Work on the ground through its acts and addresses: sorting, findings and answers, edits, merging, giving out; all undoable."""

from __future__ import annotations

import io
import json
from typing import Any

import ezdxf
import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.terrain.faces import clean_faces
from ivoryridge.core.terrain.surface import read_surface, surface_area
from ivoryridge.design.actions.bring_in_file import bring_in_file, preview_file, role_by_rules
from ivoryridge.design.actions.edit_ground import (
    answer_findings,
    change_roles,
    edit_ground,
    merge_into,
    set_rules,
    take_edit_back,
)
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.kept import kinds
from ivoryridge.design.models import Project, ReceivedFile, Surface, SurveySet
from ivoryridge.design.pictures.ground import findings_picture
from ivoryridge.design.refusals import BadValue, Stale
from ivoryridge.design.results.surface import surface_of, survey_arrays

E0, N0 = 412_000.0, 687_000.0


def points_csv(shift: float = 0.0, side: int = 10, faults: bool = False) -> bytes:
    rows = [[E0 + shift + 10 * i + 0.01 * j, N0 + 10 * j, 60 + 0.5 * i] for i in range(side) for j in range(side)]
    if faults:
        rows[33][2], rows[44][2] = 0.0, 99.0
        rows[55][0], rows[55][1] = rows[55][1], rows[55][0]
    return (
        "\n".join(
            ["E;N;level;code"] + [f"{e:.3f};{n:.3f};{z:.3f};{'GRD' if k % 3 else 'TR'}" for k, (e, n, z) in enumerate(rows)]
        )
    ).encode()


def surface_xml(name: str, shift: float, level: float) -> bytes:
    p = [(shift + 10 * i, 10 * j + 0.3 * i, level + 0.05 * (shift + 10 * i)) for i in range(8) for j in range(8)]
    points = "".join(f'<P id="{k}">{N0 + n} {E0 + e} {z}</P>' for k, (e, n, z) in enumerate(p))
    faces = "".join(
        f"<F>{a} {a + 8} {a + 1}</F><F>{a + 1} {a + 8} {a + 9}</F>" for i in range(7) for j in range(7) for a in [8 * i + j]
    )
    head = '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2"><Units><Metric linearUnit="meter"/></Units>'
    tin = f'<Definition surfType="TIN"><Pnts>{points}</Pnts><Faces>{faces}</Faces></Definition>'
    return f'{head}<Surfaces><Surface name="{name}">{tin}</Surface></Surfaces></LandXML>'.encode()


def lines_dxf() -> bytes:
    d = ezdxf.new("R2013", units=6)
    d.modelspace().add_polyline3d([(E0 + 5, N0 + 45, 70.0), (E0 + 85, N0 + 47, 74.0)], dxfattribs={"layer": "BANK_TOP"})
    d.modelspace().add_polyline3d([(E0 + 5, N0 + 65, 0.0), (E0 + 85, N0 + 66, 0.0)], dxfattribs={"layer": "HEDGE"})
    d.modelspace().add_polyline3d([(E0 + 15, N0 + 15, 0.0), (E0 + 25, N0 + 16, 0.0)], dxfattribs={"layer": "X-17"})
    out = io.StringIO()
    d.write(out)
    return out.getvalue().encode()


@pytest.fixture
def empty(people: Any) -> Project:
    from ivoryridge.design.models import Membership

    p = Project.objects.create(name="Ground only")
    for name, role in (("anna", "owner"), ("ben", "editor"), ("cara", "viewer")):
        Membership.objects.create(project=p, user=people[name], role=role)
    return p


def test_rules_sort_layers_as_they_come_and_what_none_matches_is_unsorted(empty: Project, anna: Any) -> None:
    bring_in_file(empty, anna, content=points_csv(), name="spots.csv")
    set_rules(empty, anna, revision=empty.revision, rules=[
        {"pattern": "bank*", "type": "CAD line", "role": "breakline"}, {"pattern": "HEDGE", "type": "", "role": "background"},
    ])  # fmt: skip
    look = preview_file(empty, lines_dxf(), "lines.dxf")
    assert {la["code"]: (la["role"], la["ruled"]) for la in look["sets"][0]["layers"]} == {
        "BANK_TOP": ("breakline", True), "HEDGE": ("background", True), "X-17": ("unsorted", False),
    }  # fmt: skip
    tried = preview_file(
        empty, lines_dxf(), "lines.dxf", {"rules": [{"pattern": "x-??", "role": "ignore"}, {"pattern": "", "role": "spot"}]}
    )
    assert [la["role"] for la in tried["sets"][0]["layers"]] == ["unsorted", "unsorted", "ignore"]  # rules as they are typed
    assert ReceivedFile.objects.filter(project=empty).count() == 1  # looking stores nothing
    surface = Surface.present.get(project=empty)
    bring_in_file(empty, anna, content=lines_dxf(), name="lines.dxf", surface_id=surface.pk)
    surface.refresh_from_db()
    made, _ = surface_of(assemble_surface(surface))
    assert len(made.breakline_edges) and read_surface(made, [[E0 + 45, N0 + 46]]).elevation[0] == pytest.approx(72.0)
    lines = SurveySet.present.get(name="lines.dxf")
    change_roles(lines, anna, revision=lines.revision, roles={"CAD line/BANK_TOP": "ignore"})
    assert not len(surface_of(assemble_surface(surface))[0].breakline_edges)
    undo(empty, anna)
    assert len(surface_of(assemble_surface(surface))[0].breakline_edges)
    with pytest.raises(BadValue, match="not a layer or role"):
        change_roles(lines, anna, revision=lines.revision, roles={"CAD line/BANK_TOP": "fence"})
    empty.refresh_from_db()
    rules = [{"pattern": "x-*", "type": "", "role": "background"}]
    _, told = set_rules(empty, anna, revision=empty.revision, rules=rules, again=True)  # reaches what is in already
    assert told == ["lines.dxf: 1 layer sorted anew."]
    roles = SurveySet.present.get(name="lines.dxf").roles
    assert (roles["CAD line/X-17"], roles["CAD line/BANK_TOP"]) == ("background", "breakline")
    empty.refresh_from_db()
    assert set_rules(empty, anna, revision=empty.revision, rules=rules, again=True)[1] == [
        "Every layer that is in already lies as the rules say."
    ]
    with pytest.raises(BadValue, match="Sorting rule 1 needs a pattern"):
        set_rules(empty, anna, revision=empty.revision, rules=[{"pattern": " ", "role": "spot"}])


@pytest.mark.parametrize(("code", "role"), [("GRD-01", "spot"), ("grd", "spot"), ("WALL", None), ("TREE", "background")])
def test_the_first_rule_that_matches_speaks(code: str, role: str | None) -> None:
    rules = [{"pattern": "grd*", "type": "", "role": "spot"}, {"pattern": "GRD-01", "type": "", "role": "ignore"},
             {"pattern": "*", "type": "CAD line", "role": "breakline"}, {"pattern": "tre?", "type": "point",
             "role": "background"}]  # fmt: skip
    assert role_by_rules(rules, "point", code) == role


def test_findings_are_answered_in_place_and_every_answer_is_undone(empty: Project, anna: Any) -> None:
    bring_in_file(empty, anna, content=points_csv(faults=True), name="spots.csv")
    surface = Surface.present.get(project=empty)
    found = {f["code"]: f for f in findings_picture(surface)["open"]}
    assert {"zero-level", "spike", "swapped"} <= set(found)
    kinds.clear_memory()
    kinds.computed_counts.clear()
    again = {f["code"]: f for f in findings_picture(surface)["open"]}
    assert again == found and "checks" not in kinds.computed_counts  # kept, and the same when read back
    assert found["swapped"]["ways"] == ["change_over", "leave_out", "keep"] and found["zero-level"]["level"] == pytest.approx(
        61.5, abs=0.6
    )
    for code, how, more in (
        ("zero-level", "set_level", {}),
        ("swapped", "change_over", {}),
        ("spike", "keep", {"remark": "a pylon, agreed"}),
    ):
        surface.refresh_from_db()
        answer_findings(surface, anna, revision=surface.revision, keys=[found[code]["key"]], how=how, **more)
    surface.refresh_from_db()
    told = findings_picture(surface)
    assert (
        [f["code"] for f in told["open"]] == []
        and told["kept"][0]["remark"] == "a pylon, agreed"
        and told["kept"][0]["by"] == "anna"
    )
    made, _ = surface_of(assemble_surface(surface))
    assert surface_area(made)[0] == pytest.approx(8100, rel=0.01)  # the swapped point is back on the site
    for _ in range(3):
        undo(empty, anna)
    surface.refresh_from_db()
    assert {f["code"] for f in findings_picture(surface)["open"]} == set(found) and surface.edits == [] and surface.answers == {}
    redo(empty, anna)
    surface.refresh_from_db()
    assert surface.edits[0]["do"] == "set_level"
    with pytest.raises(BadValue, match="Say in a few words"):
        answer_findings(surface, anna, revision=surface.revision, keys=[found["spike"]["key"]], how="keep")
    with pytest.raises(Stale):
        answer_findings(surface, anna, revision=surface.revision - 1, keys=[found["spike"]["key"]], how="leave_out")


def test_an_edit_without_a_surface_left_is_refused_and_the_last_good_one_stays(empty: Project, anna: Any) -> None:
    bring_in_file(empty, anna, content=points_csv(), name="spots.csv")
    surface = Surface.present.get(project=empty)
    survey = surface.sources[0]
    before = surface_of(assemble_surface(surface))[0]
    with pytest.raises(Exception, match="needs at least 3 points"):
        edit_ground(
            surface, anna, revision=surface.revision, edits=[{"do": "leave_out", "survey": survey, "points": list(range(99))}]
        )
    surface.refresh_from_db()
    assert surface.edits == [] and surface_of(assemble_surface(surface))[0] is before
    edit_ground(
        surface, anna, revision=surface.revision, edits=[{"do": "set_level", "survey": survey, "point": 5, "level": 77.0}]
    )
    edit_ground(surface, anna, revision=surface.revision, edits=[{"do": "leave_out", "survey": survey, "points": [7]}])
    take_edit_back(surface, anna, revision=surface.revision, index=0)
    assert [e["do"] for e in surface.edits] == ["leave_out"]
    assert len(surface_of(assemble_surface(surface))[0].points) == 99


def test_west_and_east_become_one_piece_with_the_step_told(empty: Project, anna: Any) -> None:
    bring_in_file(empty, anna, content=surface_xml("West", 0, 60), name="west.xml")
    bring_in_file(empty, anna, content=surface_xml("East", 50, 60.2), name="east.xml")
    west, east = Surface.present.filter(project=empty).order_by("id")
    _, told = merge_into(west, anna, revision=west.revision, others=[east.pk])
    assert told[0].startswith("Existing ground is one connected surface of") and "steps by at most 0.200 m" in told[1]
    made, _ = surface_of(assemble_surface(west))
    assert_allclose(read_surface(made, [[E0 + 60, N0 + 33], [E0 + 100, N0 + 33]]).elevation, [63.0, 65.2], rtol=0, atol=1e-6)
    found = [f for f in findings_picture(west)["open"] if f["code"] == "surfaces-disagree"]
    assert found[0]["sentence"].startswith("Survey 1 and survey 2 overlap")
    undo(empty, anna)
    west.refresh_from_db()
    assert len(west.sources) == 1


def test_the_addresses_of_the_ground(empty: Project, anna: Any, client_of: Any) -> None:
    bring_in_file(empty, anna, content=points_csv(), name="spots.csv")
    surface = Surface.present.get(project=empty)
    at = f"/api/surfaces/{surface.pk}"
    client = client_of("anna")
    near = client.get(f"{at}/nearest?e={E0 + 21}&n={N0 + 19}&within=5").json()
    assert near["kind"] == "point" and near["place"][2] == 61.0
    move = {
        "revision": 1,
        "edits": [{"do": "move_point", "survey": near["survey"], "point": near["point"], "to": [E0 + 22, N0 + 21, 65.5]}],
    }
    assert client.post(f"{at}/edits", move, content_type="application/json").status_code == 200
    assert client.get(f"{at}/reading?e={E0 + 22}&n={N0 + 21}").json()["elevation"] == pytest.approx(65.5)
    line = {"revision": 2, "edits": [{"do": "add_line", "vertices": [[E0 + 5, N0 + 5, 60], [E0 + 80, N0 + 80, 68]]}]}
    assert client.post(f"{at}/edits", line, content_type="application/json").status_code == 200
    assert (
        client.post(f"{at}/edits", {"revision": 3, "edits": [{"do": "smooth"}]}, content_type="application/json").status_code
        == 422
    )
    vertex = client.get(f"{at}/nearest?e={E0 + 79}&n={N0 + 80}&within=3").json()
    assert (vertex["kind"], vertex["survey"], vertex["vertex"]) == ("vertex", 0, 1)
    assert client.get(f"{at}/nearest?e={E0 + 900}&n={N0}&within=3").json() is None
    change = {"revision": 3, "live_spacing": 4.0, "label_paths": [[[E0 + 3, N0 + 85], [E0 + 57, N0 + 86]]]}
    assert client.patch(at, change, content_type="application/json").status_code == 200
    (labels,) = client.get(f"{at}/labels?interval=1").json()
    assert [la["level"] for la in labels] == [61, 62]
    assert client.get(f"{at}/labels?interval=0").status_code == 422
    section = client.get(f"{at}/ground-section?path={E0 + 1},{N0 + 33};{E0 + 80},{N0 + 33}").json()["points"]
    assert section[0][0] == 0 and section[-1][0] == pytest.approx(79)
    assert client.get(f"{at}/ground-section?path=1,2").status_code == 422
    water = client.get(f"{at}/water?e={E0 + 40}&n={N0 + 40}").json()
    assert water["area"] > 0 and water["rings"]
    lines = client.get(f"{at}/lines")
    assert lines.content[:4] == b"IRG1" and client.get(f"{at}/lines", headers={"If-None-Match": lines["ETag"]}).status_code == 304


def test_what_is_given_out_reads_back_equal(empty: Project, anna: Any, client_of: Any) -> None:
    bring_in_file(empty, anna, content=points_csv(), name="spots.csv")
    surface = Surface.present.get(project=empty)
    made, _ = surface_of(assemble_surface(surface))
    get = lambda kind: client_of("cara").get(f"/api/surfaces/{surface.pk}/out/{kind}").content  # noqa: E731
    back = read_landxml(get("landxml")).surfaces[0]
    assert_allclose(back.points, made.points, rtol=0, atol=1e-6)
    sound, _ = clean_faces(made.points, made.triangles, "")  # along the hull lie triangles of no width, by rounding
    assert len(sound) > 0.95 * len(made.triangles) and np.array_equal(back.faces, sound)
    assert len(ezdxf.read(io.StringIO(get("dxf").decode())).modelspace().query("3DFACE")) == len(made.triangles)
    assert len(json.loads(get("geojson"))["features"]) == 4 and get("glb")[:4] == b"glTF" and get("grid").startswith(b"ncols")
    assert client_of("cara").get(f"/api/surfaces/{surface.pk}/out/shape").status_code == 422


def test_a_newer_version_in_the_exchange_is_told_compared_and_takes_the_old_ones_place(empty: Project, anna: Any) -> None:
    from datetime import UTC, datetime

    from ivoryridge.design.actions.document_exchange import difference_to_taken, exchange_picture, put_document, take_document

    when = datetime(2026, 3, 2, 9, tzinfo=UTC)
    first = put_document(empty, name="spots.csv", content=points_csv(), by="the surveyor", at=when)
    put_document(empty, name="lines.dxf", content=lines_dxf(), by="the surveyor", at=when)
    assert {d["name"]: d["state"] for d in exchange_picture(empty)} == {"spots.csv": "new", "lines.dxf": "new"}
    take_document(empty, anna, first.pk)
    bring_in_file(
        empty, anna, content=surface_xml("West", 300, 60), name="west.xml", surface_id=Surface.present.get(project=empty).pk
    )
    surface = Surface.present.get(project=empty)
    old, other = surface.sources
    changed = points_csv().decode().splitlines()[41].split(";")
    at = survey_arrays(old).points.tolist().index([float(c) for c in changed[:3]])
    edits = [
        {"do": "leave_out", "survey": old, "points": [7]},
        {"do": "set_level", "survey": old, "point": at, "level": 61.0},
        {"do": "add_point", "to": [E0 + 33, N0 + 33, 64.0]},
    ]
    edit_ground(surface, anna, revision=surface.revision, edits=edits)
    with pytest.raises(BadValue, match="brought in already"):
        take_document(empty, anna, first.pk)

    again = points_csv().decode().splitlines()
    cells = again[41].split(";")
    again[41] = ";".join([*cells[:2], f"{float(cells[2]) + 0.37:.3f}", cells[3]])
    second = put_document(
        empty, name="spots.csv", content="\n".join([*again[:-1], "412200;687100;63;GRD"]).encode(), by="the surveyor", at=when
    )
    assert {d["name"]: (d["version"], d["state"]) for d in exchange_picture(empty)} == {
        "spots.csv": (2, "newer"),
        "lines.dxf": (1, "new"),
    }
    told = difference_to_taken(empty, second.pk)
    assert (told["gone"], told["added"], told["levels_changed"]) == (1, 1, 1) and told["greatest"] == pytest.approx(0.37)
    assert told["place"] == [float(cells[0]), float(cells[1])]
    _, _, words = take_document(empty, anna, second.pk)
    assert f"One edit does not fit the new version and went: point {at + 1} (level set)" in words[-1]
    surface.refresh_from_db()
    assert (
        surface.sources[1] == other
        and surface.sources[0] not in (old, other)
        and surface.edits == [{"do": "leave_out", "survey": surface.sources[0], "points": [7]}, edits[-1]]
    )
    undo(empty, anna)
    surface.refresh_from_db()
    assert surface.sources == [old, other] and len(surface.edits) == 3
    assert {d["name"]: d["state"] for d in exchange_picture(empty)}["spots.csv"] == "newer"


@pytest.mark.parametrize(("file", "project", "told"), [
    ("", "EPSG:27700", None), ("local", "local", None), ("EPSG:27700", "OSGB36 / British National Grid", None),
    ("EPSG:27700", "EPSG:25832", "The file is in OSGB36 / British National Grid, the project in ETRS89 / UTM zone 32N"),
    ("EPSG:2263", "Orrowmere local grid", "It is in US survey foot, not in metres"),
    ("our own grid", "Orrowmere local grid", "names our own grid as its coordinate reference"),
])  # fmt: skip
def test_the_reference_of_a_file_is_set_beside_the_projects(file: str, project: str, told: str | None) -> None:
    """Names and units of the codes: EPSG register, as pyproj ships it."""
    from ivoryridge.design.received.reference import compare_references

    got = compare_references(file, project)
    assert got is None if told is None else told in (got or "")
