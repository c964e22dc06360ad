"""Junctions and the finished ground by their addresses: made, tried, changed, given out; files read again by other libraries."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import pytest
import rasterio
from lxml import etree

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.terrain.surface import find_triangles
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.inputs.network import network_of
from ivoryridge.design.models import Junction, Road
from ivoryridge.design.results.finished import finished_of


def send(client: Any, method: str, path: str, body: dict[str, Any] | None = None) -> Any:
    return getattr(client, method)(f"/api{path}", json.dumps(body or {}), content_type="application/json")


@pytest.fixture
def two(project: Any, road: Road, people: Any) -> tuple[Road, Road]:
    anna = people["anna"]
    set_profile(road, anna, [PVI(0, 103), PVI(480, 106)], label="Levels")
    pis = [{"easting": 500_120.0, "northing": 6_200_000.0}, {"easting": 500_140.0, "northing": 6_200_150.0}]
    _, lane = create_road(project, anna, name="Lane", pis=pis)
    set_profile(lane, anna, [PVI(0, 104), PVI(150, 107)], label="Levels")
    return Road.objects.get(pk=road.pk), Road.objects.get(pk=lane.pk)


def test_a_junction_is_offered_made_tried_and_changed(project: Any, two: tuple[Road, Road], client_of: Any) -> None:
    _main, _side = two
    client = client_of("ben")
    address = f"/projects/{project.pk}/junctions"
    first = client.get(f"/api{address}")
    (offer,) = first.json()["offers"]
    assert client.get(f"/api{address}", HTTP_IF_NONE_MATCH=first["ETag"]).status_code == 304
    done = send(client, "post", address, {k: offer[k] for k in ("main", "side", "place")} | {"radii": [8, 9]})
    assert done.status_code == 200, done.content
    pk = done.json()["junction_id"]
    told = client.get(f"/api{address}").json()
    assert told["offers"] == [] and [c["shape"]["radius"] for c in told["junctions"][0]["corners"]] == [8, 9]
    corner = told["junctions"][0]["corners"][0]
    tried = send(client, "post", f"/junctions/{pk}/trial", {"roads": [corner["road_id"]], "shape": {"radius": 12}}).json()
    assert tried["corners"][0]["length"] > corner["length"] and Junction.objects.get(pk=pk).revision == 1
    too_large = send(client, "post", f"/junctions/{pk}/trial", {"roads": [corner["road_id"]], "shape": {"radius": 200}}).json()
    assert "does not fit" in too_large["problems"][0] and "points" not in too_large["corners"][0]
    road = Road.objects.get(pk=corner["road_id"])
    changed = send(client, "patch", f"/junctions/{pk}/corners", {"roads": {road.pk: road.revision}, "shape": {"radius": 11}})
    assert changed.status_code == 200
    stale = send(client, "patch", f"/junctions/{pk}/corners", {"roads": {road.pk: road.revision}, "shape": {"radius": 10}})
    assert stale.status_code == 409
    assert send(client, "patch", f"/junctions/{pk}/corners", {"roads": {}, "shape": {"radius": -4}}).status_code == 422
    assert send(client, "post", f"/roads/{road.pk}/pin").status_code == 200
    design = client.get(f"/api/roads/{road.pk}/design").json()
    assert design["levels_follow"] is False and all(p["id"] > 0 for p in design["pvis"])
    assert send(client, "delete", f"/roads/{road.pk}/pin").status_code == 200
    assert next(p["id"] for p in client.get(f"/api/roads/{road.pk}/design").json()["pvis"]) == -1
    gone = send(client, "post", f"/junctions/{pk}/copy", {"revision": 1, "other": 999})
    assert gone.status_code == 422 and "no such junction" in gone.json()["message"]
    sight = client.get(f"/api/junctions/{pk}/sight").json()
    assert not sight["problem"] and sight["arms"][0]["left"]["needed"] > 50
    assert send(client_of("cara"), "delete", f"/junctions/{pk}?revision=1").status_code == 403


def test_the_finished_ground_is_told_and_given_out(project: Any, two: tuple[Road, Road], client_of: Any) -> None:
    main, side = two
    client = client_of("ben")
    send(client, "post", f"/projects/{project.pk}/junctions", {"main": main.pk, "side": side.pk})
    base = f"/api/surfaces/{main.surface_id}/finished"
    told = client.get(base)
    assert client.get(base, HTTP_IF_NONE_MATCH=told["ETag"]).status_code == 304
    answer = told.json()
    assert answer["left_out"] == []
    exact = client.get(f"{base}/volumes")
    assert client.get(f"{base}/volumes", HTTP_IF_NONE_MATCH=exact["ETag"]).status_code == 304
    volumes = exact.json()
    net = {k: volumes[k]["fill"] - volumes[k]["cut"] for k in ("formation", "finished")}
    assert sum(p["fill"] - p["cut"] for p in volumes["pieces"]) == pytest.approx(net["formation"], rel=5e-4)
    assert net["finished"] > net["formation"] + 100  # layers lie between
    network = network_of(project.pk)
    surface = finished_of(network, network.surfaces[main.surface_id])[0].get().surface
    xml = etree.fromstring(client.get(f"{base}/out/landxml").content)
    assert len(xml.findall(".//{*}Faces/{*}F")) == len(surface.triangles)
    points = np.array([[float(v) for v in p.text.split()] for p in xml.findall(".//{*}Pnts/{*}P")])  # northing, easting, level
    hit, z = find_triangles(surface, points[:, [1, 0]])
    assert (hit >= 0).mean() > 0.99 and np.nanmax(np.abs(z - points[:, 2])) < 2e-3
    with rasterio.open(io.BytesIO(client.get(f"{base}/out/grid?cell=10").content)) as grid:
        rows, columns = np.indices((grid.height, grid.width))
        e, n = rasterio.transform.xy(grid.transform, rows.ravel(), columns.ravel())
        values = grid.read(1).ravel()
        _, z = find_triangles(surface, np.column_stack([e, n]))
        there = (values != grid.nodata) & np.isfinite(z)
        assert there.sum() > 500 and np.abs(values - z)[there].max() < 2e-3
    section = client.get(f"{base}/section?path=500100,6199980;500140,6200040").json()
    assert max(z for _, z in section["finished"]) > max(z for _, z in section["points"]) + 0.5
    assert {x["material"] for x in section["layers"]} == {"surfacing", "base", "subbase"}
    under = dict(section["formation"])
    assert all(z <= dict(section["finished"]).get(d, z) + 1e-6 for d, z in under.items() if z is not None)
    assert client.get(f"{base}/section?path=1").status_code == 422
    assert client.get(f"{base}/out/grid?cell=0").status_code == 422
    assert client.get(f"{base}/lines?interval=0").status_code == 422
    assert client.get(f"{base}/geometry").content[:4] == b"IRG1"


def test_the_finished_ground_around_a_drag_is_what_the_act_makes(project: Any, two: tuple[Road, Road], client_of: Any) -> None:
    main, side = two
    client = client_of("ben")
    pk = send(client, "post", f"/projects/{project.pk}/junctions", {"main": main.pk, "side": side.pk}).json()["junction_id"]
    corner = Road.present.filter(project=project, course__kind="return").order_by("pk").first()
    assert corner is not None
    tried = unpacked(
        send(client, "post", f"/junctions/{pk}/trial/finished", {"roads": [corner.pk], "shape": {"radius": 14}}).content
    )
    ((e0, n0, e1, n1),) = tried["boxes"]
    assert tried["material"].max() == 3 and e1 - e0 > 50 and Road.objects.get(pk=corner.pk).course["shape"]["radius"] == 10.0
    shape = {"roads": {str(corner.pk): corner.revision}, "shape": {"radius": 14}}
    assert send(client, "patch", f"/junctions/{pk}/corners", shape).status_code == 200
    network = network_of(project.pk)
    saved = finished_of(network, network.surfaces[main.surface_id])[0].get().surface
    middle = tried["points"][tried["triangles"]].mean(axis=1)
    middle = middle[((middle[:, :2] > [e0, n0]) & (middle[:, :2] < [e1, n1])).all(axis=1)]
    _, z = find_triangles(saved, middle[:, :2])
    assert len(middle) > 300 and np.abs(z - middle[:, 2]).max() < 2e-3  # sent as single floats
    pvi = client.get(f"/api/roads/{main.pk}/design").json()["pvis"][0]
    asked = {"pvi": {"id": pvi["id"], "elevation": pvi["elevation"] + 1.0}}
    higher = unpacked(send(client, "post", f"/roads/{main.pk}/trial/finished", asked).content)
    assert higher["points"][:, 2].max() > tried["points"][:, 2].max() + 0.5
    assert send(client_of("out"), "post", f"/junctions/{pk}/trial/finished", shape).status_code in (403, 404)


def unpacked(content: bytes) -> dict[str, Any]:
    """Packed geometry, its points with their origin."""
    length = int.from_bytes(content[4:8], "little")
    header = json.loads(content[8 : 8 + length])
    out, at = dict(header), 8 + length
    for s in header["sections"]:
        count = int(np.prod(s["shape"]))
        out[s["name"]] = (
            np.frombuffer(content, "<f4" if s["type"] == "f" else "<u4", count, at)
            .reshape(s["shape"])
            .astype(float if s["type"] == "f" else int)
        )
        at += 4 * count
    out["points"] = out["points"] + [*header["origin"], 0.0]
    return out


def test_what_a_junction_is_built_of_and_how_its_edge_falls_are_set_refused_and_put_back(
    project: Any, two: tuple[Road, Road], client_of: Any
) -> None:
    main, side = two
    client = client_of("ben")
    pk = send(client, "post", f"/projects/{project.pk}/junctions", {"main": main.pk, "side": side.pk}).json()["junction_id"]

    def row() -> dict[str, Any]:
        return next(j for j in client.get(f"/api/projects/{project.pk}/junctions").json()["junctions"] if j["id"] == pk)

    def change(**values: Any) -> Any:
        return send(client, "patch", f"/junctions/{pk}", {"revision": row()["revision"], **values})

    first = row()
    assert (first["structure"], first["edge_fall"], first["edge_fall_read"]) == ("main", None, None)  # the main road is built
    layers = [
        {"material": "surfacing", "thickness": 0.04, "least": 0.02, "greatest": 0.1},
        {"material": "base", "thickness": 0.3, "least": 0.1, "greatest": 0.5},
    ]
    own = send(client, "post", f"/projects/{project.pk}/structures", {"name": "Heavy", "layers": layers})
    assert own.status_code == 200
    assert change(structure=str(own.json()["structure_id"])).status_code == 200
    told = row()
    area = sum(p["area"] for p in told["patches"])
    assert [(x["material"], x["volume"]) for x in told["layers"]] == [
        ("surfacing", pytest.approx(0.04 * area)), ("base", pytest.approx(0.3 * area)),
    ]  # fmt: skip
    refused = change(structure="nothing")
    assert refused.status_code == 422 and "no such pavement structure" in refused.json()["message"]
    assert row()["structure"] == told["structure"]
    assert change(edge_fall=0.025).status_code == 200 and row()["edge_fall"] == 0.025
    assert change(edge_fall=None).status_code == 200 and row()["edge_fall"] is None  # as the ground says again
    for wrong in (0.4, "steep", -0.2):
        assert change(edge_fall=wrong).status_code == 422
    assert row()["structure"] == told["structure"]  # what is not given stays
    for _ in range(3):
        assert send(client, "post", f"/projects/{project.pk}/undo").status_code == 200
    assert (row()["structure"], row()["edge_fall"]) == ("main", None)


def test_what_has_no_ground_or_no_junction_says_so_or_is_empty(project: Any, two: tuple[Road, Road], client_of: Any) -> None:
    main, _ = two
    client = client_of("ben")
    nothing = unpacked(send(client, "post", f"/roads/{main.pk}/trial/finished", {"pvi": None}).content)
    assert nothing["boxes"] == [] and len(nothing["triangles"]) == 0  # no junction is moved
    Road.objects.filter(pk=main.pk).update(surface=None)
    Road.objects.get(pk=main.pk).save()  # what is kept of the network is read anew
    bare = send(client, "post", f"/roads/{main.pk}/trial/finished", {})
    assert bare.status_code == 422 and "no ground" in bare.json()["message"]
    gone = send(client, "post", "/junctions/999/trial/finished", {"roads": [], "shape": {}})
    assert gone.status_code in (403, 404)


def test_a_drag_of_the_main_road_tells_its_junctions_only_when_asked(
    project: Any, two: tuple[Road, Road], client_of: Any
) -> None:
    main, side = two
    client = client_of("ben")
    pk = send(client, "post", f"/projects/{project.pk}/junctions", {"main": main.pk, "side": side.pk}).json()["junction_id"]
    pvi = client.get(f"/api/roads/{main.pk}/design").json()["pvis"][0]

    def lines(**more: Any) -> list[dict[str, Any]]:
        asked = {"pvi": {"id": pvi["id"], "elevation": pvi["elevation"] + 0.4}, **more}
        answer = send(client, "post", f"/roads/{main.pk}/trial", asked)
        return [json.loads(x) for x in b"".join(answer.streaming_content).splitlines() if x.strip()]

    told = lines()
    (junction,) = [x for x in told if "junction" in x]
    assert junction["junction"] == pk and junction["layers"] == [] and junction["findings"] == []
    dependents = [x["road_id"] for x in told if "dependent" in x]
    assert side.pk in dependents
    alone = lines(joined=False)
    assert not [x for x in alone if "junction" in x] and [x["road_id"] for x in alone if "dependent" in x] == dependents
    assert alone[1]["earthwork"] == told[1]["earthwork"] is not None


def test_a_trial_is_told_to_its_end_wherever_a_point_goes(demo: Any, client: Any) -> None:
    """A main road whose line cannot be, and a side road that its junction takes over whole; also what hangs on them, and is joined."""
    client.force_login(demo.memberships.get(user__username="designer").user)
    link, access, slip = (Road.present.get(project=demo, name=n) for n in ("Link", "Field access", "Quarry slip"))

    def told(road: Road, index: int, towards: int, share: float) -> list[dict[str, Any]]:
        a, b = ((p.easting, p.northing) for p in (road.pis.filter(removed=False)[k] for k in (index, towards)))
        place = {"easting": a[0] + share * (b[0] - a[0]), "northing": a[1] + share * (b[1] - a[1])}
        answer = send(client, "post", f"/roads/{road.pk}/trial", {"pi": {"index": index, **place}, "mark": 0})
        assert answer.status_code == 200
        lines = [json.loads(x) for x in b"".join(answer.streaming_content).split(b"\n") if x]
        assert not [x for x in lines if "failed" in x], (road.name, share)
        assert {j.pk for j in Junction.objects.filter(project=demo) if road.pk in (j.main_id, j.side_id)} <= {
            x.get("junction") for x in lines
        }
        return lines

    lines = told(link, 1, 0, 0.99)
    (follower,) = (x for x in lines if x.get("dependent") == slip.pk)
    assert "overlap" in follower["problems"]["levels"] and {z for _, _, z in follower["points"]} == {None}
    for share in (0.5, 0.8, 0.9, 0.95, 0.99):  # 40 m long as it is; its junction takes over some 6 m
        shape = told(access, 1, 0, share)[1]
        assert shape["problems"] == {} and shape["edges"]["lines"]
