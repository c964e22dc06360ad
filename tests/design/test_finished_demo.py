"""The demo's finished ground as it leaves: read again by another library it is one piece, and it has the levels of the roads' sections."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
import trimesh

from ivoryridge.core.exchange.surface_out import write_surface_glb
from ivoryridge.core.junction.finished import STEP_TOLD
from ivoryridge.core.section.roles import ZONES
from ivoryridge.core.terrain.outline import boundary_loops
from ivoryridge.core.terrain.surface import find_triangles, surface_area
from ivoryridge.design.actions.edit_road import change_road
from ivoryridge.design.edits.junction import with_corners
from ivoryridge.design.inputs.network import Network, assemble_road, network_of
from ivoryridge.design.kept.kinds import trial
from ivoryridge.design.models import Road
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_of
from ivoryridge.design.results.cut_back import cuts_of_road
from ivoryridge.design.results.finished import built_on, finished_near_junctions, finished_of, finished_volumes
from ivoryridge.design.results.surface import surface_of


@pytest.fixture
def shown(demo: Any) -> tuple[Network, Any]:
    network = network_of(demo.pk)
    return network, network.surfaces[Road.objects.get(project=demo, name="Link").surface_id]


def test_read_again_it_is_one_piece_single_valued_and_without_a_gap(shown: tuple[Network, Any]) -> None:
    found = finished_of(*shown)[0].get().surface
    mesh = trimesh.load(io.BytesIO(write_surface_glb(found, name="Finished")), file_type="glb", force="mesh", process=False)
    mesh.merge_vertices()
    assert len(mesh.faces) == len(found.triangles) and mesh.body_count == 1
    sides, counts = np.unique(np.sort(mesh.edges, axis=1), axis=0, return_counts=True)
    assert counts.max() == 2
    rim = sides[counts == 1]
    (loop,) = boundary_loops(found)  # so every inner side has two triangles
    assert len(rim) == len(loop) or len(rim) == len(loop) - 1  # closed by its first place again, or not
    assert surface_area(found)[0] == pytest.approx(surface_area(surface_of(shown[1])[0])[0], rel=1e-9)


def test_it_stays_so_where_the_sections_of_its_roads_are_refined(demo: Any) -> None:
    """Returns keep their own sections, what is joined to them does not. (Read by its indices: some places lie 2 micrometres apart, which
    single precision takes for one.)"""
    roads = [r for r in Road.present.filter(project=demo) if r.course.get("kind") not in ("return", "existing")]
    anyone = demo.memberships.get(user__username="designer").user
    before = {r.pk: len(corridor_of(assemble_road(r)).station) for r in roads}
    for r in roads:
        change_road(r, anyone, revision=r.revision, values={"fineness": 0.004})
    finer = {r.pk: corridor_of(assemble_road(Road.objects.get(pk=r.pk))) for r in roads}
    assert len(roads) > 4 and all(len(c.station) > before[pk] for pk, c in finer.items())
    network = network_of(demo.pk)
    found = finished_of(network, network.surfaces[roads[0].surface_id])[0].get().surface
    mesh = trimesh.load(io.BytesIO(write_surface_glb(found, name="Finished")), file_type="glb", force="mesh", process=False)
    counts = np.unique(np.sort(mesh.edges, axis=1), axis=0, return_counts=True)[1]
    (loop,) = boundary_loops(found)
    assert mesh.body_count == 1 and counts.max() == 2 and abs(int((counts == 1).sum()) - len(loop)) <= 1
    corner = Road.present.filter(project=demo, course__kind="return").first()
    with pytest.raises(BadValue, match="they stand at their interval and no closer"):
        change_road(corner, anyone, revision=corner.revision, values={"fineness": 0.01})


def test_ten_thousand_places_have_the_levels_of_the_sections(shown: tuple[Network, Any]) -> None:
    """At random places of the sections of every road, where its own carriageway is what is seen there. A triangle that was cut where a
    higher piece lies takes that one's level on the cut, by as much as a step that is not told."""
    rng = np.random.default_rng(10_000)
    network, recipe = shown
    found = finished_of(network, recipe)[0].get()
    name_of = np.array([name for name, _ in found.pieces] + [""])[found.piece]
    beside = found.surface.neighbours
    cut = ((beside >= 0) & (name_of[np.maximum(beside, 0)] != name_of[:, None])).any(axis=1)
    paved = np.array([m == "pavement" for _, m in found.pieces] + [False])[found.piece]
    seen = tried = 0
    worst = worst_cut = 0.0
    for road, rows in built_on(network, recipe).roads:
        if road.return_of is not None:
            continue
        for block in (b for row in rows for b in row.get().blocks):
            right = np.column_stack([np.cos(block.places.azimuth), -np.sin(block.places.azimuth)])
            for side, sign, columns, _ in block.sides():
                if (side, ZONES[0]) in block.given_up or "lane edge" not in columns.roles:
                    continue
                edge = columns.roles.index("lane edge")
                share = rng.uniform(0.02, 0.98, (14, len(block.station)))
                across, level = share * columns.across[edge], columns.level[0] + share * (columns.level[edge] - columns.level[0])
                places = block.places.place[None] + (sign * across)[..., None] * right[None]
                hit, z = find_triangles(found.surface, places.reshape(-1, 2))
                own = (hit >= 0) & (name_of[hit] == road.name) & paved[hit]
                off = np.abs(z - level.ravel())
                worst = max(worst, float(off[own & ~cut[hit]].max(initial=0.0)))
                worst_cut = max(worst_cut, float(off[own & cut[hit]].max(initial=0.0)))
                seen, tried = seen + int(own.sum()), tried + own.size
    assert seen > 10_000 and seen > 0.9 * tried
    assert worst < 1e-3 and worst_cut < STEP_TOLD


def test_what_roads_give_up_and_areas_take_is_built_once(shown: tuple[Network, Any]) -> None:
    """Plan areas: a junction's pavement is there once, whichever of its roads is looked at."""
    network, recipe = shown
    areas = {(name, material): area for name, material, _, area in finished_volumes(network, recipe).get().by_piece}
    for junction in network.junctions.values():
        assert areas[junction.name, "pavement"] > 30.0
    joined = {pk for j in network.junctions.values() for pk in (j.main, j.side)}
    sides = {j.side for j in network.junctions.values()}
    for pk in network.own:
        cuts = cuts_of_road(network.road(pk))
        assert bool(cuts) == (pk in joined)
        if pk in sides:
            assert {c.side for c in cuts if "carriageway" in c.zones} == {"left", "right"}
    whole = finished_volumes(network, recipe).get().whole
    assert sum(areas.values()) == pytest.approx(whole.common_area, rel=1e-6)


def test_around_a_dragged_corner_it_comes_at_every_radius_and_is_the_whole_there(shown: tuple[Network, Any]) -> None:
    """Corners of all junctions drawn in until slopes lie within a hair of each other; and at the last radius the levels."""
    rng = np.random.default_rng(6)
    network, recipe = shown
    for pk in sorted(network.junctions):
        for (arm, _), road in network.junction(pk).returns.items():
            for radius in np.append(np.arange(4.2, 6.6, 0.4), rng.uniform(7.0, 9.0)):
                tried = with_corners(network, pk, [road.road_id], {"radius": float(radius)})
                with trial():
                    found, boxes = finished_near_junctions(tried, recipe, [pk], network)
                assert boxes and (found.piece >= 0).any(), (pk, arm, radius)
    whole = finished_of(tried, recipe)[0].get()
    low, high = np.array(boxes[0][:2]), np.array(boxes[0][2:])
    places = rng.uniform(low + 1.0, high - 1.0, (4000, 2))
    levels = [find_triangles(x.surface, places)[1] for x in (found, whole)]
    known = np.isfinite(levels[1])
    assert known.sum() > 2000 and np.abs(levels[0] - levels[1])[known].max() < 0.011
    assert np.quantile(np.abs(levels[0] - levels[1])[known], 0.99) < 1e-6
