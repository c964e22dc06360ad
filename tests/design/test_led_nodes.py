"""Nodes that lines lead, as persons set them: edges of other roads, received lines, drags, reversals, newer files, refusals."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely

from ivoryridge.core.alignment.horizontal import project_points
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.edges import edges_of, to_space
from ivoryridge.core.errors import InputError
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_along import add_variation, change_variation
from ivoryridge.design.actions.edit_course import reverse_road
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import create_road, delete_road
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road, network_of
from ivoryridge.design.models import Road, SurveySet, Template
from ivoryridge.design.objects import variation_refers
from ivoryridge.design.pictures.along import along_rows
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.surface import surface_of, survey_arrays

from .test_along_acts import add, again, inputs_of, lanes

EDGE = "carriageway.pavement_edge"


def edge_gap(slip: Road, road: Road, s: float) -> float:
    """m in space from the left pavement edge of the slip road at a station to the right one of road A."""
    corridor = corridor_at(inputs_of(slip), [s])
    (block,) = corridor.blocks
    i = block.left.index(EDGE)
    at = to_space(block.places, -block.left.across[i], block.left.level[i])[0]
    (piece,) = edges_of(corridor_of(inputs_of(road)), "pavement edge", "right")
    foot = float(project_points(line_of(inputs_of(road)), at[None, :2]).station[0])
    return float(np.linalg.norm(piece.at([foot])[0] - at))


def not_reached(road: Road) -> list[Any]:
    return [f for f in corridor_of(inputs_of(road)).findings if f.code == "line-not-reached"]


def test_an_edge_is_led_by_the_main_roads_edge_and_follows_it(project: Any, road: Road, slip: Road, anna: Any) -> None:
    led = {"kind": "led", "side": "left", "node": EDGE, "takes": "both", "road": road.pk, "edge": "pavement edge", "edge_side": "right",
           "station_from": 20.0, "station_to": 100.0, "reach": 12.0, "reach_level": 6.0}  # fmt: skip
    assert edge_gap(slip, road, 60.0) > 0.5
    row = add(slip, anna, **led)
    assert max(edge_gap(slip, road, s) for s in (20.0, 60.0, 100.0)) < 1e-3
    assert edge_gap(slip, road, 140.0) > 0.5
    set_profile(again(road), anna, [PVI(0, 104), PVI(480, 107)], label="Raise A by 1 m")
    assert edge_gap(slip, road, 60.0) < 1e-3
    assert [r["said"] for r in road_picture(inputs_of(slip))["along"]] == [
        "pavement edge lies at and has the level of the right pavement edge of A"
    ]
    before = lanes(slip, 60.0)
    reverse_road(again(road), anna, revision=again(road).revision)
    assert again(row).data["edge_side"] == "left" and lanes(slip, 60.0) == pytest.approx(before, abs=1e-9)
    reverse_road(again(road), anna, revision=again(road).revision)
    assert edge_gap(slip, road, 60.0) < 1e-3
    with pytest.raises(InputError, match=r"circle|hang"):
        add(road, anna, **{**led, "side": "right", "road": slip.pk})
    with pytest.raises(InputError, match="Slip hangs on A"):
        delete_road(again(road), anna, revision=again(road).revision)
    assert not not_reached(slip)
    change_variation(slip, anna, row.pk, revision=again(row).revision, values={"reach": 0.2})
    told = not_reached(slip)  # all but where the slip road's own edge happens to lie on it
    assert told[0].station_from == 20.0 and told[-1].station_to == 100.0 and all("pavement edge" in f.sentence for f in told)


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"side": "both"}, "Choose left or right"),
        ({"node": "carriageway.nowhere"}, "has a node"),
        ({"node": "slope.toe"}, "no line can lead it"),
        ({"road": None}, "Choose what leads: a line of another road"),
        ({"edge_side": None}, "left or the right"),
        ({"reach": 0.0}, r"outside 0\.01"),
        ({"survey": 999, "road": None}, "no such survey set"),
    ],
)
def test_a_lead_that_cannot_be_is_refused_in_words(road: Road, slip: Road, anna: Any, given: Any, said: str) -> None:
    led = {
        "kind": "led",
        "side": "left",
        "node": EDGE,
        "takes": "both",
        "road": road.pk,
        "edge": "pavement edge",
        "edge_side": "right",
    }
    with pytest.raises(BadValue, match=said):
        add(slip, anna, **{**led, **given})


def test_an_edge_is_led_by_a_received_line(demo: Any) -> None:
    """Lines of the mapping beside the Link: where one crosses a section by shapely, there the edge lies; a newer file leads on."""
    user = demo.memberships.get(role="owner").user
    link = Road.present.get(project=demo, name="Link")
    line = line_of(assemble_road(link))
    for survey, code, s, offset in received_beside(demo, line):
        row = add(link, user, kind="led", side="right", node=EDGE, takes="offset", survey=survey.pk, layer=code, reach=50.0,
                  station_from=s - 1, station_to=s + 1)  # fmt: skip
        (block,) = corridor_at(assemble_road(link), [s]).blocks
        assert block.right.across[block.right.index(EDGE), 0] == pytest.approx(offset, abs=1e-6)
        surface = next(x for x in demo.surfaces.all() if survey.pk in x.sources)
        bring_in_file(
            demo, user, content=b"1,481000,6204000,61,P\n2,481010,6204020,61.5,P\n3,481030,6204000,61.2,P\n", name="again.csv",
            surface_id=surface.pk, replaces=(survey.pk,),
        )  # fmt: skip
        assert again(row).data["survey"] == survey.pk  # the new version has no such layer: told, and the lines of before stay
        return
    raise AssertionError("no received line runs beside the road")


def received_beside(demo: Any, line: Any) -> Any:
    """Survey, layer, station m and offset m of lines of surveys where they cross sections of a line alone, to the right within 40 m."""
    for survey in SurveySet.present.filter(project=demo):
        arrays = survey_arrays(survey.pk)
        for code in dict.fromkeys(arrays.line_codes):
            lines = [v[:, :2] for v, c in zip(arrays.lines, arrays.line_codes, strict=True) if c == code]
            for s in np.arange(30.0, line.end_station - 30, 10.0):
                place, azimuth, _ = (x[0] for x in line.evaluate([s]))
                right = np.array([np.cos(azimuth), -np.sin(azimuth)])
                section = shapely.LineString([place, place + 40 * right])
                every = shapely.LineString([place - 300 * right, place + 300 * right])
                met = [
                    g
                    for v in lines
                    for g in shapely.get_parts(shapely.intersection(section, shapely.LineString(v)))
                    if not g.is_empty
                ]
                others = sum(shapely.intersects(every, shapely.LineString(v)) for v in lines)
                if len(met) == others == 1:
                    yield survey, code, float(s), float(np.hypot(*(np.array(met[0].coords[0]) - place)))


def test_a_drag_of_the_main_road_carries_the_led_edge_and_stores_nothing(project: Any, road: Road, slip: Road, anna: Any) -> None:
    add(slip, anna, kind="led", side="left", node=EDGE, takes="both", road=road.pk, edge="pavement edge", edge_side="right", reach=12.0,
        reach_level=6.0, station_from=20.0, station_to=100.0)  # fmt: skip
    network = network_of(project.pk)
    main = network.road(road.pk)

    def level(inputs: Any) -> float:
        (block,) = corridor_at(inputs, [60.0]).blocks
        return float(block.left.level[block.left.index(EDGE), 0])

    before = level(network.road(slip.pk))
    tried = network
    for pvi in main.pvis:
        tried = tried.with_road(with_trial(tried.road(road.pk), {"pvi": {"id": pvi.id, "elevation": pvi.elevation + 0.75}}))
    assert level(tried.road(slip.pk)) == pytest.approx(before + 0.75, abs=1e-6)
    assert level(inputs_of(slip)) == before


def test_levels_are_not_taken_from_lines_that_have_none(demo: Any, project: Any, road: Road, slip: Road, anna: Any) -> None:
    pis = [{"easting": 500_000.0, "northing": 6_199_990.0}, {"easting": 500_300.0, "northing": 6_199_990.0}]
    _, flat = create_road(project, anna, name="Drawn", pis=pis)
    with pytest.raises(BadValue, match="no profile yet"):
        add(slip, anna, kind="led", side="left", node=EDGE, takes="level", road=flat.pk, edge="centre line")
    add(slip, anna, kind="led", side="left", node=EDGE, takes="offset", road=flat.pk, edge="centre line", reach=30.0)
    user = demo.memberships.get(role="owner").user
    mapping = SurveySet.present.get(project=demo, name__startswith="mapping")
    link = Road.present.get(project=demo, name="Link")
    with pytest.raises(BadValue, match="drawn flat"):
        add(link, user, kind="led", side="left", node=EDGE, takes="both", survey=mapping.pk, layer="HEDGE")


def test_a_surface_leads_a_node_in_level_where_it_is_in_reach(road: Road, anna: Any, kerbed: Template) -> None:
    """The verge's edge lies on the ground at its own offset; a row that would take its offset too is refused."""
    row = {"kind": "led", "side": "right", "node": "verge.verge_edge", "surface": road.surface_id, "reach_level": 3.0}
    with pytest.raises(BadValue, match="leads a node in level only"):
        add_variation(road, anna, values={**row, "takes": "both"})
    plain = corridor_at(assemble_road(road), np.arange(105.0, 300.0, 20.0))
    made = add_variation(road, anna, values={**row, "takes": "level", "station_from": 100.0, "station_to": 310.0})[1]
    inputs = assemble_road(Road.objects.get(pk=road.pk))
    corridor = corridor_at(inputs, np.arange(105.0, 300.0, 20.0))
    on_ground = 0
    for block, before in zip(corridor.blocks, plain.blocks, strict=True):
        i = block.right.index("verge.verge_edge")
        assert block.right.across[i] == pytest.approx(before.right.across[i], abs=1e-12)
        places = to_space(block.places, block.right.across[i], np.zeros(len(block.station)))[:, :2]
        ground = read_surface(surface_of(inputs.surface)[0], places).elevation
        near = np.abs(ground - before.right.level[i]) <= 3.0
        assert block.right.level[i][near] == pytest.approx(ground[near], abs=1e-9)
        assert block.right.level[i][~near] == pytest.approx(before.right.level[i][~near], abs=1e-12)
        on_ground += int(near.sum())
    assert on_ground > 2
    said = next(r["said"] for r in along_rows(inputs, line_of(inputs)))
    assert said == f"verge edge has the level of {inputs.surface.name}"
    assert ("surface", road.surface_id) in set(variation_refers(made))
