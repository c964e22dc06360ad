"""Random junctions of whole roads over rough ground: bends, transitions, crests, crossfall that turns, skew from 50 to 130 degrees,
crossroads and staggered pairs. Each has a verdict; what is refused is refused for a reason that a search confirms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import pytest
import shapely
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.zones import zone_meshes
from ivoryridge.core.earthwork.between import volume_between
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.terrain.outline import boundary_loops
from ivoryridge.core.terrain.surface import find_triangles, surface_area
from ivoryridge.core.terrain.triangulate import surface_from_faces
from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_junction import change_corners, make_junction
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.inputs.network import Joined, Network, assemble_road, network_of
from ivoryridge.design.models import Junction, Membership, Project, Road
from ivoryridge.design.pictures.junction import junction_picture
from ivoryridge.design.refusals import Refused
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.cut_back import built_in_rows, cuts_of_road
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.finished import finished_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.patch import arms_of, patch_of
from ivoryridge.design.results.returns import corner_of, ends_of
from ivoryridge.design.results.surface import surface_of

E, N = 500_000.0, 6_200_000.0
Floats = NDArray[np.float64]


def rough(rng: np.random.Generator) -> bytes:
    """Points every 20 m or so of hills some metres high."""
    e, n = (x.ravel() for x in np.meshgrid(np.arange(-200, 801, 20.0), np.arange(-360, 561, 20.0)))
    e, n = e + rng.uniform(-6, 6, e.size), n + rng.uniform(-6, 6, n.size)
    z = (
        100
        + rng.uniform(-0.02, 0.02) * e
        + rng.uniform(1, 4) * np.sin(e / 90 + rng.uniform(0, 6))
        + rng.uniform(0, 2) * np.cos(n / 60)
    )
    rows = [f"{i},{E + a:.3f},{N + b:.3f},{c:.3f},ground" for i, (a, b, c) in enumerate(zip(e, n, z, strict=True))]
    return ("point,easting,northing,level,code\n" + "\n".join(rows) + "\n").encode()


@dataclass
class Scene:
    project: Project
    main: Road
    junctions: list[Junction]
    about: str


def pi(place: Any, radius: float = 0.0, spiral: float = 0.0) -> dict[str, float]:
    return {"easting": float(place[0]), "northing": float(place[1]), "radius": radius, "spiral_in": spiral, "spiral_out": spiral}


def away(azimuth: float) -> Floats:
    return np.array([np.sin(azimuth), np.cos(azimuth)])


def random_scene(rng: np.random.Generator, user: Any, number: int) -> Scene:
    """Raises what a junction is refused with."""
    standard = str(rng.choice(["", "british_metric", "german_rural"]))
    project = Project.objects.create(
        name=f"Scene {number}", standard=standard, design_speed=float(rng.choice([60.0, 70.0, 85.0]))
    )
    Membership.objects.create(project=project, user=user, role="owner")
    bring_in_file(project, user, content=rough(rng), name="rough.csv")
    start = np.array([E, N])
    turn = rng.uniform(-0.7, 0.7)
    azimuth = np.pi / 2 + rng.uniform(-0.2, 0.2)
    middle = start + 280 * away(azimuth)
    bend = rng.uniform(180, 420) if abs(turn) > 0.1 else 0.0
    spiral = float(rng.choice([0.0, min(40.0, 0.6 * bend * abs(turn))]))
    pis = [pi(start), pi(middle, bend, spiral if bend else 0.0), pi(middle + 280 * away(azimuth + turn))]
    _, main = create_road(project, user, name="Main", pis=pis)
    length = line_of(assemble_road(main)).end_station
    base = 103 + rng.uniform(-1, 2)
    at = rng.uniform(220, 340)
    grades = rng.uniform(-0.04, 0.04, 2)
    profile = [PVI(0, base), PVI.symmetric(at, base + grades[0] * at, rng.uniform(120, 200)),
               PVI(length, base + grades[0] * at + grades[1] * (length - at))]  # fmt: skip
    set_profile(main, user, profile, label="Levels")
    kind = str(rng.choice(["T", "T", "cross", "staggered"]))
    station, left = float(rng.uniform(170, 380)), bool(rng.integers(2))
    places = [(station, left)] + ([(station + float(rng.uniform(30, 60)), not left)] if kind == "staggered" else [])
    junctions = []
    for k, (s, to_left) in enumerate(places):
        skew = np.radians(rng.uniform(50, 130))
        junctions += side_road(rng, project, user, Road.objects.get(pk=main.pk), f"Side {k}", s, skew, to_left, kind == "cross")
    return Scene(project, main, junctions, f"{kind}, bend {bend:.0f}, {standard or 'no standard'}")


def side_road(
    rng: np.random.Generator, project: Project, user: Any, main: Road, name: str, station: float, skew: float, left: bool, crosses: bool
) -> list[Junction]:  # fmt: skip
    inputs = assemble_road(main)
    (place,), (azimuth,), _ = line_of(inputs).evaluate(station)
    out = float(azimuth) + (-skew if left else skew)
    knee = place + 70 * away(out)
    bend = rng.uniform(-0.5, 0.5)
    ends = [pi(knee, 60.0 if abs(bend) > 0.1 else 0.0), pi(knee + 90 * away(out + bend))]
    first = [pi(place - 110 * away(out)), pi(place - 2 * away(out))] if crosses else [pi(place)]
    _, side = create_road(project, user, name=name, pis=[*first, *ends])
    length = line_of(assemble_road(side)).end_station
    z = float(levels_of(inputs).profile.evaluate(station)[0][0])
    slopes = rng.uniform(-0.03, 0.03, 2)
    if crosses:
        pvis = [PVI(0, z + 110 * slopes[1]), PVI.symmetric(110.0, z, 30), PVI(length, z + slopes[0] * (length - 110))]
    else:
        pvis = [
            PVI(0, z),
            PVI.symmetric(35.0, z + 35 * slopes[0], 20),
            PVI(length, z + 35 * slopes[0] + slopes[1] * (length - 35)),
        ]
    set_profile(side, user, pvis, label="Levels")
    radii = rng.uniform(5, 15, 4)
    _, junction, _ = make_junction(
        project, user, main=Road.objects.get(pk=main.pk), side=Road.objects.get(pk=side.pk), radii=list(radii)
    )
    form = str(rng.choice(["radius", "radius", "taper", "three centres", "none"]))
    if form != "radius":
        returns = Road.present.filter(project=project, course__kind="return").order_by("pk")
        corner = next(r for r in returns if r.course["junction"] == junction.pk)
        values = {"form": form, "taper_length": 10.0, "outer_radius": 3 * corner.course["shape"]["radius"], "shift": 0.4}
        change_corners(junction, user, roads={corner.pk: corner.revision}, values=values)
    return [junction]


def edge_place(road: Any, station: float, side: str) -> Floats:
    """The outermost edge of what is paved, from the section there."""
    found = corridor_at(road, [station])
    columns = found.blocks[0].left if side == "left" else found.blocks[0].right
    i = columns.roles.index("pavement edge")
    (place,), (azimuth,), _ = line_of(road).evaluate(station)
    u = float(columns.across[i, 0]) * (1 if side == "right" else -1)
    return np.array([*(place + u * np.array([np.cos(azimuth), -np.sin(azimuth)])), columns.level[i, 0]])


def wrong_with(network: Network, junction: Joined) -> list[str]:
    """What is not as it has to be of one junction."""
    out = []
    for (arm, hand), road in junction.returns.items():
        found, way = corner_of(road)
        corner, own = found.get(), line_of(road)
        ends = own.evaluate(np.array([own.start_station, own.end_station]))[0]
        for place, other, station, side in (
            (ends[0], junction.main, corner.first, way.main_side), (ends[1], junction.side, corner.second, way.side_side),
        ):  # fmt: skip
            if np.hypot(*(place - edge_place(other, station, side)[:2])) > 1e-3:
                out.append(
                    f"{arm} {hand}: an end off its edge by {np.hypot(*(place - edge_place(other, station, side)[:2])):.4f} m"
                )
        levels = [e.get().level for e in ends_of(road)]
        for level, other, station, side in (
            (levels[0], junction.main, corner.first, way.main_side), (levels[1], junction.side, corner.second, way.side_side),
        ):  # fmt: skip
            if abs(level - edge_place(other, station, side)[2]) > 1e-3:
                out.append(f"{arm} {hand}: an end off in level by {level - edge_place(other, station, side)[2]:.4f} m")
        if found.get().crossing is None and cuts(own, junction, corner, way):
            out.append(f"{arm} {hand}: the return cuts an edge")
    for arm in arms_of(junction):
        patch = patch_of(junction, arm).get()
        ring = shapely.Polygon(patch.ring[:, :2])
        if (
            abs(surface_area(patch.surface)[0] - ring.area) > 1e-3
        ):  # m2; places within 1 mm are one, over a metre where a return parts
            out.append(f"arm {arm}: the triangles do not fill the ring")
    return out


def cuts(own: HorizontalAlignment, junction: Joined, corner: Any, way: Any) -> bool:
    """Whether a return runs over the carriageway of either road, 5 cm inside of the edge as sections draw it."""
    s = np.linspace(own.start_station, own.end_station, 60)[1:-1]
    bow = shapely.LineString(own.evaluate(s)[0])
    for road, station, side in ((junction.main, corner.first, way.main_side), (junction.side, corner.second, way.side_side)):
        at = np.linspace(station - 30, station + 30, 61)
        line = line_of(road)
        at = at[(at > line.start_station + 1) & (at < line.end_station - 1)]
        edge = np.array([edge_place(road, float(x), side)[:2] for x in at[::4]])
        centre = line.evaluate(at[::4])[0]
        inside = edge + (centre - edge) * 0.05 / np.hypot(*(centre - edge).T)[:, None]
        if bow.intersects(shapely.LineString(inside)):
            return True
    return False


def verdict(scene: Scene) -> str:
    network = network_of(scene.project.pk)
    wrong: list[str] = []
    for made in scene.junctions:
        junction = network.junction(made.pk)
        told = junction_picture(junction)
        if told["problems"]:
            return f"refused: {told['problems'][0]}"
        wrong += wrong_with(network, junction)
    recipe = network.surfaces[scene.main.surface_id]
    result, left_out = finished_of(network, recipe)
    if left_out:
        return f"refused: {left_out[0]}"
    found, ground = result.get(), surface_of(recipe)[0]
    t = found.surface.triangles
    _, counts = np.unique(np.sort(np.concatenate([t[:, [i, (i + 1) % 3]] for i in range(3)]), axis=1), axis=0, return_counts=True)
    if counts.max() > 2 or len(boundary_loops(found.surface)) != 1:
        wrong.append(
            f"the finished ground is not one: {counts.max()} triangles on a side, {len(boundary_loops(found.surface))} loops"
        )
    if abs(surface_area(found.surface)[0] - surface_area(ground)[0]) > 1e-3:
        wrong.append("the finished ground is not as large as the ground")
    wrong += off_sections(scene, network, found)
    for pk in (scene.main.pk, *(j.side_id for j in scene.junctions)):
        line = line_of(network.road(pk))
        s = np.arange(line.start_station + 0.5, line.end_station - 0.5, 0.25)
        s = s[np.abs(s[:, None] - line.stations).min(axis=1) > 0.3]  # at a corner of the line the outside of the wedge is ground
        bare = s[found.piece[find_triangles(found.surface, line.evaluate(s)[0])[0]] < 0]
        if len(bare):
            wrong.append(f"nothing is built on {network.road(pk).name} from {bare.min():.2f} to {bare.max():.2f}")
    for pk in (scene.main.pk, *(j.side_id for j in scene.junctions)):
        road, cuts = network.road(pk), cuts_of_road(network.road(pk))
        own = [zone_meshes(row.get(), "formation") for row in built_in_rows(road, (), cuts)]
        laid = [volume_between(ground, surface_from_faces(m.points, m.faces)) for meshes in own for m in meshes]
        exact = sum(v.cut + v.fill for v in laid)
        told = sum(float(x[-1]) for x in (areas_of(road)[1].cumulative_cut, areas_of(road)[1].cumulative_fill))
        if abs(told - exact) > 0.04 * exact + 10.0:
            wrong.append(f"{road.name}: {told:.0f} m3 by sections, {exact:.0f} by its own surface")
    return "; ".join(["wrong", *wrong]) if wrong else "right"


def off_sections(scene: Scene, network: Network, found: Any) -> list[str]:
    """Levels of the finished ground against the main road's own sections, at lane edges and centre, where each lies."""
    places, levels = [], []
    for block in corridor_of(network.road(scene.main.pk)).take(np.arange(1, 26)).blocks:
        right = np.column_stack([np.cos(block.places.azimuth), -np.sin(block.places.azimuth)])
        for _, sign, columns, _ in block.sides():
            for i, role in enumerate(columns.roles):
                if role in ("lane edge", "centre line") and not columns.guide[i]:
                    places.append(block.places.place + sign * columns.across[i][:, None] * right)
                    levels.append(columns.level[i])
    _, level = find_triangles(found.surface, np.concatenate(places))
    off = float(np.nanmax(np.abs(level - np.concatenate(levels))))
    return [f"the carriageway lies off its sections by {off:.4f} m"] if off > 1e-3 else []


def run(count: int, seed: int, user: Any) -> list[tuple[int, str, str]]:
    rng = np.random.default_rng(seed)
    rows = []
    for number in range(count):
        try:
            scene = random_scene(rng, user, number)
            rows.append((number, scene.about, verdict(scene)))
        except (IvoryRidgeError, Refused) as error:
            sentence = getattr(error, "sentence", None) or str(error)
            rows.append((number, "", f"refused: {sentence}"))
    for row in rows:
        print(*row, sep=" | ")
    return rows


def test_six_random_junctions_are_right(anna: Any) -> None:
    assert [r for r in run(6, 2024, anna) if r[2] != "right"] == []


@pytest.mark.long
def test_200_random_junctions_are_right_or_refused_for_a_reason(anna: Any) -> None:
    rows = run(200, 1515, anna)
    assert [r for r in rows if r[2].startswith("wrong")] == []
    assert sum(r[2].startswith("refused") for r in rows) <= 20
