"""Junctions by the acts that people use: what returns are in plan and level, what follows what, and what is told."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError
from ivoryridge.core.junction.return_plan import side_road_area
from ivoryridge.core.terrain.outline import boundary_loops
from ivoryridge.core.terrain.surface import find_triangles, surface_area
from ivoryridge.design.actions.edit_course import reverse_road
from ivoryridge.design.actions.edit_junction import (
    change_corners,
    change_junction,
    copy_corners,
    delete_junction,
    join_edge,
    let_follow,
    make_junction,
    pin,
)
from ivoryridge.design.actions.edit_parts import create_structure, delete_structure
from ivoryridge.design.actions.edit_profile import change_pvi, delete_pvi, insert_pvi, set_profile
from ivoryridge.design.actions.edit_road import create_road, delete_road
from ivoryridge.design.actions.join_lines import join_roads, split_road
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.edits.junction import with_corners
from ivoryridge.design.inputs.network import assemble_road, network_of
from ivoryridge.design.models import Junction, Road, RoadPVI
from ivoryridge.design.pictures.earthwork import VolumesAsked, volumes_picture
from ivoryridge.design.pictures.junction import affected_junctions, junction_picture, junctions_picture
from ivoryridge.design.refusals import BadValue, Refused
from ivoryridge.design.results.corridor import corridor_at, corridor_of, missing_for_corridor
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.finished import finished_of, finished_volumes
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.patch import patch_of
from ivoryridge.design.results.road import problems_of
from ivoryridge.design.results.surface import surface_of


def again(row: Any) -> Any:
    return type(row).objects.get(pk=row.pk)


@pytest.fixture
def lane(project: Any, road: Road, anna: Any) -> Road:
    """A side road that starts on the straight of A and goes north, with levels."""
    set_profile(road, anna, [PVI(0, 103), PVI(480, 106)], label="Levels")
    pis = [{"easting": 500_120.0, "northing": 6_200_000.0}, {"easting": 500_140.0, "northing": 6_200_150.0}]
    _, lane = create_road(project, anna, name="Lane", pis=pis)
    set_profile(lane, anna, [PVI(0, 104), PVI(150, 107)], label="Levels")
    return Road.objects.get(pk=lane.pk)


@pytest.fixture
def junction(project: Any, road: Road, lane: Road, anna: Any) -> Junction:
    return again(make_junction(project, anna, main=again(road), side=lane)[1])


def returns(junction: Junction) -> list[Road]:
    return [r for r in Road.present.filter(course__kind="return").order_by("pk") if r.course["junction"] == junction.pk]


def edge_by_hand(road: Road, side: str, station: float) -> float:
    """Level of the pavement edge at a station, from the section there."""
    block = corridor_at(assemble_road(again(road)), [station]).blocks[0]
    columns = block.left if side == "left" else block.right
    return float(columns.level[columns.roles.index("pavement edge")][0])


def test_a_t_junction_has_two_returns_whose_levels_both_roads_demand(project: Any, road: Road, lane: Road, anna: Any) -> None:
    (offer,) = junctions_picture(network_of(project.pk))["offers"]
    assert (offer["main"], offer["side"], offer["crosses"]) == (road.pk, lane.pk, False)
    _, junction, told = make_junction(project, anna, main=again(road), side=lane)
    assert told[0] == "Lane joins A with 2 returns." and again(lane).ties["start"]["level"] == "edge"
    row = junction_picture(network_of(project.pk).junction(junction.pk))
    assert not row["problems"] and [c["compass"] for c in row["corners"]] == ["NW", "NE"]
    for corner in row["corners"]:
        for which, base, side in (("start", road, "left"), ("end", lane, corner["hand"])):
            end = corner[which]
            level = edge_by_hand(base, side, end["station"])
            rise = edge_by_hand(base, side, end["station"] + 0.5) - edge_by_hand(base, side, end["station"] - 0.5)
            onward = 1.0 if which == "end" or corner["hand"] == "left" else -1.0
            assert end["level"] == pytest.approx(level, abs=1e-6) == end["edge_level"]
            assert abs(end["grade"] - onward * rise) < 1e-3 and end["grade"] == pytest.approx(end["edge_grade"], abs=1e-9)
    assert levels_of(assemble_road(again(lane))).pvis[0].elevation == pytest.approx(
        edge_by_hand(road, "left", row["main_station"] + 0.62), abs=1e-3
    )
    # the area in plan: two straight roads, against the closed form of the check cases
    angle = np.arctan2(150.0, 20.0)
    expected = side_road_area(
        (500_120 + 4.65 / np.tan(angle), 6_200_004.65),
        np.pi / 2,
        "left",
        angle,
        {"left": 4.65, "right": 4.65},
        {"left": 10, "right": 10},
    )
    patch = patch_of(network_of(project.pk).junction(junction.pk), "after").get()
    assert patch.area == pytest.approx(expected.area, rel=2e-3)  # arcs are drawn by chords of a metre
    assert surface_area(patch.surface)[0] == pytest.approx(patch.area, rel=1e-9)


def test_returns_follow_a_main_road_until_they_are_pinned(project: Any, road: Road, junction: Junction, anna: Any) -> None:
    first = returns(junction)[0]
    before = levels_of(assemble_road(first)).profile.evaluate(0.0)[0][0]
    end = RoadPVI.present.filter(road=road)[1]
    change_pvi(again(road), anna, end.pk, revision=end.revision, values={"elevation": 108.0})
    moved = levels_of(assemble_road(again(first))).profile.evaluate(0.0)[0][0]
    assert moved - before == pytest.approx(2.0 * 107.17 / line_of(assemble_road(again(road))).end_station, abs=1e-3)
    pin(again(first), anna)
    assert len(RoadPVI.present.filter(road=first)) == len(levels_of(assemble_road(first)).pvis)
    with pytest.raises(BadValue, match="its own already"):
        pin(again(first), anna)
    end.refresh_from_db()
    change_pvi(again(road), anna, end.pk, revision=end.revision, values={"elevation": 106.0})
    (found,) = [f for f in corridor_of(assemble_road(again(first))).findings if f.code == "return-step" and f.station_from == 0]
    assert found.params["step"] == pytest.approx(1000 * (moved - before), abs=1.0) and "above its edge" in found.sentence
    let_follow(again(first), anna)
    assert not [f for f in corridor_of(assemble_road(again(first))).findings if f.code == "return-step"]
    assert not RoadPVI.present.filter(road=first).exists()


def test_any_edit_of_a_pvi_pins_a_return(project: Any, junction: Junction, anna: Any) -> None:
    first, second = returns(junction)
    rows = levels_of(assemble_road(first)).rows
    change_pvi(first, anna, rows[1].id, revision=0, values={"elevation": rows[1].elevation + 0.05})
    now = levels_of(assemble_road(again(first))).pvis
    assert [p.elevation for p in now] == pytest.approx(
        [rows[0].elevation, rows[1].elevation + 0.05, *(r.elevation for r in rows[2:])], abs=1e-6
    )
    undo(project, anna)
    assert assemble_road(again(first)).levels_follow
    with pytest.raises(BadValue, match="Pin them first"):
        delete_pvi(second, anna, -2, revision=0)
    insert_pvi(second, anna, station=15.0, elevation=103.75)
    assert len(RoadPVI.present.filter(road=second)) == len(rows) + 1
    row = junction_picture(network_of(project.pk).junction(junction.pk))
    assert [c["levels"] for c in row["corners"]] == ["single", "pinned"]


def test_corners_are_changed_one_or_all_and_a_radius_too_large_is_refused(project: Any, junction: Junction, anna: Any) -> None:
    first, second = returns(junction)
    change_corners(junction, anna, roads={first.pk: first.revision}, values={"radius": 14.0})
    change_corners(junction, anna, roads={r.pk: r.revision for r in returns(junction)}, values={"form": "taper"})
    shapes = [r.course["shape"] for r in returns(junction)]
    assert [(s["form"], s["radius"]) for s in shapes] == [("taper", 14.0), ("taper", 10.0)]
    undo(project, anna)
    lengths = [line_of(assemble_road(again(r))).end_station for r in (first, second)]
    with pytest.raises(InputError, match=r"does not fit at Lane, corner NW; it is \d+\.\d\d m too large") as told:
        change_corners(junction, anna, roads={first.pk: again(first).revision}, values={"radius": 190.0})
    change_corners(junction, anna, roads={first.pk: again(first).revision}, values={"radius": told.value.params["fits"]})
    with pytest.raises(InputError):
        change_corners(
            junction, anna, roads={first.pk: again(first).revision}, values={"radius": told.value.params["fits"] + 0.05}
        )
    undo(project, anna)
    assert [line_of(assemble_road(again(r))).end_station for r in (first, second)] == lengths
    tried = with_corners(network_of(project.pk), junction.pk, [second.pk], {"radius": 6.0})
    assert [c["shape"]["radius"] for c in junction_picture(tried.junction(junction.pk))["corners"]] == [14.0, 6.0]
    assert again(second).course["shape"]["radius"] == 10.0
    main = tried.road(junction.main_id)
    assert [j["junction"] for j in affected_junctions(tried.with_road(main), main.road_id)] == [junction.pk]


def test_deleting_undoing_and_what_hangs_on_a_junction(
    project: Any, road: Road, lane: Road, junction: Junction, anna: Any
) -> None:
    first, second = returns(junction)
    _, told = delete_junction(junction, anna, revision=junction.revision)
    assert "2 returns" in told[0] and not Road.present.filter(course__kind="return").exists()
    undo(project, anna)
    assert [r.pk for r in returns(junction)] == [first.pk, second.pk]
    _, told = delete_road(again(road), anna, revision=again(road).revision)
    assert any("The junction A and Lane goes with it" in t for t in told) and not Junction.present.exists()
    undo(project, anna)
    redo(project, anna)
    undo(project, anna)
    for corner in (first, second):
        _, told = delete_road(again(corner), anna, revision=again(corner).revision)
    assert "the last corner" in told[0] and not Junction.present.exists()
    with pytest.raises(BadValue, match="cannot join itself"):
        make_junction(project, anna, main=again(road), side=again(road))
    with pytest.raises(BadValue, match="hangs on A"):
        make_junction(project, anna, main=again(lane), side=again(road))
    for act in ("make", "again"):
        if act == "make":
            make_junction(project, anna, main=again(road), side=again(lane))
        else:
            with pytest.raises(BadValue, match="a junction there already"):
                make_junction(project, anna, main=again(road), side=again(lane))


def test_reversed_or_split_roads_leave_returns_where_they_lie(
    project: Any, road: Road, lane: Road, junction: Junction, anna: Any
) -> None:
    def lie() -> list[np.ndarray]:
        out = []
        for r in returns(junction):
            own = line_of(assemble_road(r))
            levels = levels_of(assemble_road(r)).profile
            s = np.linspace(0, own.end_station, 9)
            out.append(np.column_stack([own.evaluate(s)[0], levels.evaluate(s)[0]]))
        return out

    before = lie()
    for base in (road, lane):
        reverse_road(again(base), anna, revision=again(base).revision)
        assert np.abs(np.array(lie()) - np.array(before)).max() < 1e-5
    reverse_road(again(road), anna, revision=again(road).revision)
    _, _, other = split_road(again(road), anna, revision=again(road).revision, station=60.0)
    assert again(junction).main_id == other.pk
    assert np.abs(np.array(lie()) - np.array(before))[..., :2].max() < 1e-6
    join_roads(again(road), anna, revision=again(road).revision, other=again(other))
    assert again(junction).main_id == road.pk
    with pytest.raises(BadValue, match="follows its roads"):
        reverse_road(returns(junction)[0], anna, revision=returns(junction)[0].revision)


def test_a_crossroads_and_its_values_for_another(project: Any, road: Road, junction: Junction, anna: Any) -> None:
    pis = [{"easting": 500_200.0, "northing": 6_199_900.0}, {"easting": 500_200.0, "northing": 6_200_090.0}]
    _, cross = create_road(project, anna, name="Cross", pis=pis)
    level = float(levels_of(assemble_road(again(road))).profile.evaluate(200.0)[0][0])
    set_profile(again(cross), anna, [PVI(0, level - 2), PVI(100, level - 0.1), PVI(190, level - 1.5)], label="Levels")
    _, other, told = make_junction(project, anna, main=again(road), side=again(cross))
    assert len(returns(other)) == 4 and "4 returns" in told[0]
    row = junction_picture(network_of(project.pk).junction(other.pk))
    assert not row["problems"] and sorted(c["compass"] for c in row["corners"]) == ["NE", "NW", "SE", "SW"]
    assert {p["arm"] for p in row["patches"]} == {"before", "after"}
    change_junction(other, anna, revision=again(other).revision, values={"run_out": 12.0})
    changed = returns(other)[0]
    change_corners(again(other), anna, roads={changed.pk: changed.revision}, values={"radius": 7.5})
    copy_corners(again(junction), anna, revision=again(junction).revision, other=again(other))
    assert again(junction).run_out == 12.0
    assert {r.course["hand"]: r.course["shape"]["radius"] for r in returns(junction)} == {"left": 10.0, "right": 10.0}


def test_the_finished_ground_is_one_surface_with_one_level_a_place(
    project: Any, road: Road, lane: Road, junction: Junction, anna: Any
) -> None:
    network = network_of(project.pk)
    recipe = network.surfaces[road.surface_id]
    result, left_out = finished_of(network, recipe)
    assert not left_out
    found, ground = result.get(), surface_of(recipe)[0]
    surface = found.surface
    sides = np.sort(np.concatenate([surface.triangles[:, [i, (i + 1) % 3]] for i in range(3)]), axis=1)
    counts = np.bincount(np.unique(sides, axis=0, return_counts=True)[1])
    assert counts[2] > 1000 and len(counts) == 3  # no side of three triangles
    assert len(boundary_loops(surface)) == 1  # one piece, no gap inside
    assert surface_area(surface)[0] == pytest.approx(surface_area(ground)[0], rel=1e-12)
    p, t = surface.points, surface.triangles
    twice = np.cross((p[t[:, 1]] - p[t[:, 0]])[:, :2], (p[t[:, 2]] - p[t[:, 0]])[:, :2])
    assert (twice > 0).all()  # single-valued
    assert {m for _, m in found.pieces} == {"pavement", "verge", "slope"}
    # levels of cross sections, away from what a junction takes over
    rng = np.random.default_rng(8)
    inputs = assemble_road(again(road))
    corridor = corridor_of(inputs)
    checked = 0
    for i in rng.choice(len(corridor.station), 20, replace=False):
        if 90 < corridor.station[i] < 150:
            continue
        for _, sign, columns, _ in corridor.blocks[0].sides():
            across, level = columns.placed("finished")
            a, z = across[:, i][np.isfinite(across[:, i])], level[:, i][np.isfinite(across[:, i])]
            u = rng.uniform(0, a[-1], 25)
            place, azimuth = corridor.places.place[i], corridor.places.azimuth[i]
            at = place + sign * u[:, None] * np.array([np.cos(azimuth), -np.sin(azimuth)])
            _, read = find_triangles(surface, at)
            checked += len(u)
            assert np.abs(read - np.interp(u, a, z)).max() < 1e-3
    assert checked > 500


def test_a_road_joins_an_existing_edge_that_is_not_rebuilt(project: Any, road: Road, anna: Any) -> None:
    """On the plane that rises 2 % to the east every level and grade has a closed form."""
    azimuth = np.radians(25.0)
    start = np.array([500_060.0, 6_200_150.0])
    edge = [tuple(start + d * np.array([np.sin(azimuth), np.cos(azimuth)])) for d in np.arange(-140.0, 141.0, 20.0)]
    away = azimuth + np.radians(80)
    pis = [
        dict(zip(("easting", "northing"), start + d * np.array([np.sin(away), np.cos(away)]), strict=True)) for d in (0.0, 60.0)
    ]
    _, access = create_road(project, anna, name="Access", pis=pis)
    set_profile(access, anna, [PVI(0, 101.2), PVI(60, 102.4)], label="Levels")
    with pytest.raises(BadValue, match="at least two places"):
        join_edge(project, anna, side=again(access))
    with pytest.raises(InputError, match="No received line lies within"):
        join_edge(project, anna, side=again(access), place=(500_060.0, 6_200_150.0))
    _, junction, told = join_edge(project, anna, side=again(access), points=edge)
    main = junction.main
    assert "2 returns" in told[0] and again(access).ties["start"] == {
        "road": main.pk,
        "station": pytest.approx(120.0),
        "level": "centre",
    }
    row = junction_picture(network_of(project.pk).junction(junction.pk))
    assert not row["problems"] and row["patches"][0]["area"] > 100
    for corner in row["corners"]:
        end = corner["start"]
        onward = (
            1.0 if corner["hand"] == "left" else -1.0
        )  # the arm lies on the right of the edge: the left return comes against it
        assert end["edge_level"] == pytest.approx(100 + 0.02 * (end["place"][0] - 500_000), abs=2e-3)
        assert end["edge_grade"] == pytest.approx(-onward * 0.02 * np.sin(azimuth), abs=1e-4)
    # the ground is a plane: behind the edge it falls towards it by the east component of the way from the edge into the road
    behind = azimuth - np.pi / 2  # the side road leaves to the right
    assert row["edge_fall_read"] == pytest.approx(0.02 * np.sin(behind), abs=1e-4) and row["edge_fall"] is None
    start = corridor_at(assemble_road(again(access)), [0.0]).blocks[0]
    right = np.array([np.cos(away), -np.sin(away)])
    for side, sign in ((start.left, -1.0), (start.right, 1.0)):
        across = side.across[side.roles.index("pavement edge"), 0]
        fall = (side.level[side.roles.index("pavement edge"), 0] - start.level[0]) / across
        assert fall == pytest.approx(sign * 0.02 * right[0], abs=2e-4)  # both halves lie in the plane of the road that is there
    change_junction(junction, anna, revision=again(junction).revision, values={"edge_fall": 0.04})
    told = corridor_at(assemble_road(again(access)), [0.0]).blocks[0].right
    typed = told.level[told.roles.index("pavement edge"), 0] - start.level[0]
    along = 0.02 * np.sin(azimuth) * (right @ [np.sin(azimuth), np.cos(azimuth)])
    fall = along + 0.04 * (right @ [np.sin(behind), np.cos(behind)])
    assert typed == pytest.approx(fall * told.across[told.roles.index("pavement edge"), 0], abs=2e-3)
    undo(project, anna)
    assert problems_of(assemble_road(main), whole=True) == {} and missing_for_corridor(assemble_road(main)) == "a template"
    patch = patch_of(network_of(project.pk).junction(junction.pk), "after").get()
    on_edge = patch.ring[np.array(patch.shares) == "main"]
    assert on_edge[:, 2] == pytest.approx(100 + 0.02 * (on_edge[:, 0] - 500_000), abs=2e-3)
    delete_junction(again(junction), anna, revision=again(junction).revision)
    assert not Road.present.filter(pk=main.pk).exists() and again(access).ties == {}
    undo(project, anna)
    assert Road.present.filter(pk=main.pk).exists()
    with pytest.raises(BadValue, match="stays as it lies"):
        reverse_road(again(main), anna, revision=again(main).revision)
    _, told = delete_road(again(main), anna, revision=again(main).revision)
    assert any("goes with it" in t for t in told) and again(access).ties == {}
    off = [(499_895.0, 6_200_100.0), (499_895.0, 6_200_300.0)]
    with pytest.raises(InputError, match=r"does not meet|leaves the ground"):
        join_edge(project, anna, side=again(access), points=off)


def test_a_side_road_too_steep_or_bent_at_the_edge_is_told(project: Any, junction: Junction, lane: Road, anna: Any) -> None:
    def told() -> dict[str, Any]:
        row = junction_picture(network_of(project.pk).junction(junction.pk))
        return {f["code"]: f["sentence"] for f in row["findings"]}

    assert told() == {}  # it rises by 2 %, the main road's lane falls by 2.5 % towards it
    edge = float(levels_of(assemble_road(again(lane))).pvis[0].elevation)
    set_profile(again(lane), anna, [PVI(0, edge), PVI(150, edge + 150 * 0.055)], label="Steeper")
    found = told()
    # 8.25 m over the 146.6 m from the edge to the end are 5.63 %; one straight falls from the main road's centre to its edge
    fall = 100 * (float(levels_of(assemble_road(again(lane))).profile.evaluate(0.0)[0][0]) - edge) / 4.69
    assert "up to 5.6 % in its first 15 m; 4.0 %" in found["side-steep"]
    assert f"break by {5.63 + fall:.1f} %" in found["side-break"] and fall > 2.0
    set_profile(again(lane), anna, [PVI(0, edge), PVI(150, edge + 150 * 0.03)], label="Gentler")
    assert told() == {}


def exact(road: Road, role: str = "formation") -> dict[str, tuple[float, float]]:
    """Exact cut and fill by piece."""
    network = network_of(road.project_id)
    out: dict[str, tuple[float, float]] = {}
    for name, _, v, _ in finished_volumes(network, network.surfaces[road.surface_id], role).get().by_piece:  # type: ignore[arg-type]
        before = out.get(name, (0.0, 0.0))
        out[name] = before[0] + v.cut, before[1] + v.fill
    return out


def test_end_areas_stop_where_a_junction_takes_over_and_come_to_the_exact_volumes(
    project: Any, road: Road, lane: Road, junction: Junction
) -> None:
    by = exact(road)
    counted = {}
    for pk in network_of(project.pk).own:
        row = network_of(project.pk).road(pk)
        alone = replace(row, junctions=())
        counted[row.name] = tuple(float(areas_of(r)[1].cumulative_fill[-1]) for r in (row, alone))
    for name, (fill, _) in counted.items():
        assert fill == pytest.approx(by[name][1], rel=0.025), name  # sections every 20 m against every triangle
    assert counted["A"][1] - counted["A"][0] > 100 and counted["Lane"][1] - counted["Lane"][0] > 200  # was counted twice
    rows = volumes_picture(assemble_road(again(lane)))["rows"]
    assert rows[-1]["cumulative_fill"] == pytest.approx(counted["Lane"][0])
    part = volumes_picture(assemble_road(again(lane)), VolumesAsked(5.0, 60.0))["rows"]
    own = volumes_picture(replace(assemble_road(again(lane)), junctions=()), VolumesAsked(5.0, 60.0))["rows"]
    whole = counted["Lane"][1] - counted["Lane"][0]
    lost = own[-1]["cumulative_fill"] - part[-1]["cumulative_fill"]
    assert 0.6 * whole < lost < whole  # the first 5 m are lost beside the range


def test_the_pavement_of_a_junction_is_a_roads_or_its_own(
    project: Any, road: Road, lane: Road, junction: Junction, anna: Any
) -> None:
    told = junction_picture(network_of(project.pk).junction(junction.pk))
    assert [(x["material"], round(x["thickness"], 3)) for x in told["layers"]] == [
        ("surfacing", 0.1),
        ("base", 0.2),
        ("subbase", 0.25),
    ]
    before, area = exact(road)[junction.name], told["patches"][0]["area"]
    assert told["layers"][1]["volume"] == pytest.approx(0.2 * area)
    _, thin, _ = create_structure(
        project, anna, name="Thin", layers=[{"material": "surfacing", "thickness": 0.15, "least": 0.02, "greatest": 0.2}]
    )
    change_junction(junction, anna, revision=again(junction).revision, values={"structure": str(thin.pk)})
    after = exact(road)[junction.name]
    assert after[1] - before[1] == pytest.approx(0.40 * area, rel=0.01)
    with pytest.raises(Refused, match=r"is what .*A and Lane stands on"):
        delete_structure(thin, anna, revision=thin.revision)
    with pytest.raises(BadValue, match="no such pavement structure"):
        change_junction(junction, anna, revision=again(junction).revision, values={"structure": "99999"})
    undo(project, anna)
    assert exact(road)[junction.name] == pytest.approx(before)


def test_a_corner_may_have_no_return(project: Any, road: Road, junction: Junction, anna: Any) -> None:
    west, _ = returns(junction)
    before = junction_picture(network_of(project.pk).junction(junction.pk))["patches"][0]["area"]
    change_corners(junction, anna, roads={west.pk: west.revision}, values={"form": "none"})
    told = junction_picture(network_of(project.pk).junction(junction.pk))
    assert not told["problems"]
    (patch,) = told["patches"]
    assert patch["area"] == pytest.approx(before - (1 - np.pi / 4) * 100, rel=0.08)  # a square less its quarter
    network = network_of(project.pk)
    found, left_out = finished_of(network, network.surfaces[road.surface_id])
    sides = np.sort(np.concatenate([found.get().surface.triangles[:, [i, (i + 1) % 3]] for i in range(3)]), axis=1)
    assert not left_out and np.unique(sides, axis=0, return_counts=True)[1].max() == 2
    assert len(boundary_loops(found.get().surface)) == 1
    codes = {f.code for f in corridor_of(assemble_road(again(west))).findings}
    assert not codes & {"return-steep", "return-flat", "return-sharp"}  # two metres of edges, which no radius would ease
    line = line_of(assemble_road(again(road)))
    along = line.evaluate(np.arange(60.0, 180.0, 0.1))[0]
    assert (found.get().piece[find_triangles(found.get().surface, along)[0]] >= 0).all()  # built from end to end
    change_corners(junction, anna, roads={west.pk: again(west).revision}, values={"form": "radius"})
    assert junction_picture(network_of(project.pk).junction(junction.pk))["patches"][0]["area"] == pytest.approx(before)
