"""Addresses attacked with what no page would send: a sentence, never a fault of ours, never unbounded work."""

from __future__ import annotations

import json
from typing import Any

import pytest

from ivoryridge.design.models import Surface, Template

HUGE = "9" * 20


def paths(project: Any, road: Any, surface: Any) -> list[str]:
    s, r, p = f"/api/surfaces/{surface.pk}", f"/api/roads/{road.pk}", f"/api/projects/{project.pk}"
    return [
        f"/api/roads/{HUGE}/design", f"/api/projects/{HUGE}", f"{p}/jobs/{HUGE}", f"/api/issues/{HUGE}/files/1", f"{r}/sight?x=1",
        f"{s}/labels?interval=1e-3", f"{s}/labels?interval=nan", f"{s}/contours?interval=nan", f"{s}/contours?interval=1e-300",
        f"{s}/out/geojson?interval=0.0001", f"{s}/out/dxf?interval=-1", f"{s}/out/grid?cell=inf", f"{s}/out/grid?cell=1e-6",
        f"{s}/reading?e=nan&n=1", f"{s}/reading?e=1e300&n=1", f"{s}/nearest?e=1&n=1&within=inf", f"{s}/water?e=-inf&n=0",
        f"{s}/ground-section?path=1,2;nan,3", f"{s}/geometry?window=1e300,0,2e300,1", f"{s}/geometry?window=a",
        f"{r}/section?station=nan", f"{r}/section?station=1e300", f"{r}/volumes?station_from=nan", f"{r}/volumes?way=magic",
        f"{r}/volumes?station_from=90&station_to=10", f"{r}/beside?offsets=1e300", f"{r}/beside?surfaces=1e300", f"{r}/beside?surfaces=inf",
        f"{r}/reports/coordinates?interval=1e-9", f"{r}/reports/coordinates?interval=nan", f"{r}/reports/deviation?survey={HUGE}",
    ]  # fmt: skip


def test_odd_questions_get_a_sentence(project: Any, road: Any, client_of: Any) -> None:
    surface = Surface.present.get(project=project)
    cara = client_of("cara")
    for path in paths(project, road, surface):
        answer = cara.get(path)
        assert answer.status_code < 500, (path, answer.content[:200])
        if answer.status_code >= 400:
            assert answer.json()["message"].endswith("."), path


def bodies(road: Any, template: Any) -> list[tuple[str, str, Any]]:
    r = f"/api/roads/{road.pk}"
    pi = road.pis.filter(removed=False)[1]
    pvi = {"station": 10.0, "elevation": 100.0}
    return [
        ("patch", f"{r}/pis/{pi.pk}", {"revision": 1, "radius": None}), ("patch", f"{r}/pis/{pi.pk}", {"revision": HUGE, "radius": 5}),
        ("patch", f"{r}/pis/{pi.pk}", {"revision": 1, "easting": 1e9}), ("patch", f"{r}/pis/{pi.pk}", {"revision": 1, "radius": "wide"}),
        ("patch", f"{r}/pis/{HUGE}", {"revision": 1, "radius": 5}), ("patch", r, {"revision": 1, "interval": None}),
        ("patch", r, {"revision": 1, "name": "\u0000\u0001"}), ("post", f"{r}/pvis", {**pvi, "elevation": None}),
        ("post", f"{r}/trial", {"pi": {"index": 1, "insert": True, "easting": 5.0}}), ("post", f"{r}/trial", {"pi": {"index": 10**9,
        "radius": 5}}),
        ("post", f"{r}/trial", {"pvi": {"id": 10**19, "elevation": 5}}), ("post", f"{r}/trial", {"bend": {"pi_id": -1, "rate": 0.05}}),
        ("put", f"{r}/pis/{HUGE}/held", {"revision": 1, "what": "pi", "held": True}),
        ("patch", f"/api/templates/{template.pk}", {"revision": 1, "side": "both", "part": "none such", "values": {"width": 3}}),
        ("patch", f"/api/templates/{template.pk}", {"revision": 1, "side": "left", "part": "carriageway",
        "values": {"lane_width": "wide"}}),
        ("patch", f"/api/templates/{template.pk}", {"revision": 1, "side": "left", "part": "carriageway", "values": {"no such": 1}}),
        ("post", f"/api/projects/{road.project_id}/line-fit", {"survey": 1, "layer": "", "held": {"x": {"radius": 5}}, "bends": 1}),
        ("post", f"/api/projects/{road.project_id}/roads", {"name": "x", "pis": [{"easting": -1e9, "northing": 0}, {"easting": 1e9,
        "northing": 0}]}),
        ("post", f"/api/projects/{road.project_id}/preview", {"options": "[1, 2"}),
    ]  # fmt: skip


def test_odd_acts_get_a_sentence_and_change_nothing(project: Any, road: Any, client_of: Any) -> None:
    ben, template = client_of("ben"), Template.present.filter(project=project).first()
    before = ben.get(f"/api/projects/{project.pk}").json()["ledger"]
    for method, path, body in bodies(road, template):
        answer = getattr(ben, method)(path, json.dumps(body), content_type="application/json")
        assert answer.status_code < 500, (path, body, answer.content[:300])
        if answer.status_code >= 400:
            assert answer.json()["message"].endswith("."), (path, body)
    assert ben.get(f"/api/projects/{project.pk}").json()["ledger"] == before


@pytest.mark.parametrize("options", ["[]", "nonsense", '{"columns": "x", "delimiter": 1, "header": 1, "decimal_comma": 1}',
'{"columns": {"easting": "q"}, "delimiter": ";", "header": true, "decimal_comma": false}',
                                     '{"factor": "big"}', '{"factor": 1e300}', '{"tolerance": "x"}', '{"rules": [1, {"pattern": 5}]}',
                                     '{"roles": [1]}', '{"sets": {"0": "nowhere"}}'])  # fmt: skip
def test_odd_reading_options_get_a_sentence(project: Any, client_of: Any, options: str) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile

    content = b"\n".join(b"%d;%d;5" % (500_000 + i, 6_200_000 + i * i) for i in range(9))
    answer = client_of("ben").post(
        f"/api/projects/{project.pk}/preview", {"file": SimpleUploadedFile("p.csv", content), "options": options}
    )
    assert answer.status_code < 500, answer.content[:300]


def test_names_are_cleaned_when_given_and_when_written(project: Any, road: Any, client_of: Any) -> None:
    from ivoryridge.core.text import cell, clean, file_name

    ben = client_of("ben")
    done = ben.patch(
        f"/api/roads/{road.pk}",
        json.dumps({"revision": road.revision, "name": " A\u0007\u202e road\t2 "}),
        content_type="application/json",
    )
    assert done.status_code == 200
    road.refresh_from_db()
    assert road.name == "A road 2"
    road.name = "=cmd()|'x'\u0001../up"
    road.save()
    assert ben.get(f"/api/projects/{project.pk}/landxml").status_code < 500
    assert file_name("../../etc/passwd") == "-..-etc-passwd" and "/" not in file_name("a/b\\c")
    assert [cell(t) for t in ("=1+1", "@x", "-cmd", "-12.5", "+3 %", "BM-2")] == [
        "'=1+1",
        "'@x",
        "'-cmd",
        "-12.5",
        "'+3 %",
        "BM-2",
    ]
    assert clean("a\u0000b\u200fc  d") == "abc d"
