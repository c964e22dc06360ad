"""The finished ground of a project: its roads, their junctions and the existing ground as one surface."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from shapely import LineString, MultiPoint

from ivoryridge.core.arrays import runs_of
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.layer_cut import LayerCut, cut_layers, under_surface
from ivoryridge.core.corridor.zones import zone_meshes
from ivoryridge.core.earthwork.between import SurfaceVolume, volume_between
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.junction.finished import Box, FinishedGround, GroundPiece, LaidPiece, finished_ground, finished_near, lay
from ivoryridge.core.junction.meeting import Arm
from ivoryridge.core.junction.patch import Patch, formation_of
from ivoryridge.core.section.roles import EDGE_ROLES, ZONES, Zone
from ivoryridge.core.terrain.section_cut import cut_polyline
from ivoryridge.core.terrain.surface import Surface, surface_area
from ivoryridge.core.terrain.triangulate import select_triangles

from ..inputs.network import Network
from ..inputs.road import Joined, RoadInputs
from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import Result, kind
from .corridor import missing_for_corridor
from .cut_back import built_in_rows, cuts_of_road
from .patch import arm_places, arms_of, layers_of, patch_of
from .returns import corner_of
from .surface import surface, surface_of

Floats = NDArray[np.float64]

__all__ = ["FinishedVolumes", "finished_near_junctions", "finished_of", "finished_volumes", "layers_along"]

Role = Literal["finished", "formation"]

MATERIALS: dict[Zone, str] = {"carriageway": "pavement", "beside": "verge", "slope": "slope"}


@kind("laid zones", 2)
def _zones(corridor: Corridor, role: str, edges: tuple[str, ...], name: str) -> tuple[LaidPiece, ...]:
    """A road's zones, from the carriageway outward."""
    return _zones_of(corridor, role, edges, name)


def _zones_of(corridor: Corridor, role: str, edges: tuple[str, ...], name: str) -> tuple[LaidPiece, ...]:
    meshes = {m.zone: m for m in zone_meshes(corridor, role, edges)}
    pieces = [
        GroundPiece(name, MATERIALS[z], meshes[z].points, meshes[z].faces, z == "carriageway") for z in ZONES if z in meshes
    ]
    return tuple(lay(p) for p in pieces)


@kind("laid patch", 2)
def _patch(patch: Patch, name: str, depth: float) -> LaidPiece:
    """``depth``: m from its surface down to the formation, 0 for the finished surface."""
    if depth:
        return lay(GroundPiece(name, "pavement", *formation_of(patch, depth)))
    return lay(GroundPiece(name, "pavement", patch.surface.points, patch.surface.triangles.astype(np.int64), joins=True))


@kind("finished ground", 3, memory="ground")
def _finished(
    patches: tuple[LaidPiece, ...], roads: tuple[tuple[LaidPiece, ...], ...], ground: tuple[Any, Any]
) -> FinishedGround:
    """``roads``: highest in priority first."""
    zones = (p for m in MATERIALS.values() for road in roads for p in road if p.piece.material == m)
    return finished_ground([*patches, *zones], ground[0])


@dataclass(frozen=True, slots=True)
class Built:
    """What is built over a surface: areas of junctions, and roads in rows, highest in priority first; why others are left out."""

    patches: tuple[tuple[Joined, Arm, Result[Patch]], ...]
    roads: tuple[tuple[RoadInputs, tuple[Result[Corridor], ...]], ...]
    left_out: tuple[str, ...]


def built_on(network: Network, recipe: SurfaceRecipe) -> Built:
    """All roads and junctions that stand on a surface, each without what others take over. Raises InputError where there is no ground."""
    if not recipe.sources:
        raise InputError("corridor-needs", missing="a ground surface")
    left_out: list[str] = []
    on_it = {pk: network.road(pk) for pk in network.own}
    on_it = {pk: r for pk, r in on_it.items() if r.surface is not None and r.surface.content_key() == recipe.content_key()}
    extra: dict[int, list[Floats]] = defaultdict(list)
    patches = []
    sides: set[int] = set()
    for pk in sorted(network.junctions):
        junction = network.junction(pk)
        sides.add(junction.row.side)
        for arm in arms_of(junction):
            try:
                patch = patch_of(junction, arm)
                patch.get()
                at = arm_places(junction, arm)
            except IvoryRidgeError as error:
                left_out.append(f"{junction.row.name}: {error.sentence}")
                continue
            patches.append((junction, arm, patch))
            for of, here in ((junction.row.main, at.main_at), (junction.row.side, np.union1d(at.side_at, at.whole))):
                extra[of].append(here)
    rank = {pk: (pk in sides, r.return_of is not None, pk) for pk, r in on_it.items()}
    roads = []
    for pk in sorted(on_it, key=lambda k: rank[k]):
        road = on_it[pk]
        if missing_for_corridor(road):
            continue
        try:
            rows = tuple(built_in_rows(road, extra[pk], cuts_of_road(road)))
            for row in rows:
                row.get()
            roads.append((road, rows))
        except IvoryRidgeError as error:
            left_out.append(f"{road.name}: {error.sentence}")
    return Built(tuple(patches), tuple(roads), tuple(left_out))


def finished_of(network: Network, recipe: SurfaceRecipe, role: Role = "finished") -> tuple[Result[FinishedGround], list[str]]:
    """The finished ground over a surface, or its ``formation``, of all roads that stand on it; and why roads or junctions are not in it.
    Raises InputError where there is no ground."""
    built = built_on(network, recipe)
    patches, roads = _laid(built, role)
    return _finished(patches=patches, roads=roads, ground=surface(recipe)), list(built.left_out)


def _laid(built: Built, role: Role) -> tuple[tuple[Result[LaidPiece], ...], tuple[Result[tuple[LaidPiece, ...]], ...]]:
    """What is built as pieces: areas of junctions, and the zones of roads."""
    patches = [
        _patch(patch=patch, name=j.row.name, depth=sum(x.thickness for x in layers_of(j, arm)) if role == "formation" else 0.0)
        for j, arm, patch in built.patches
    ]
    roads = [
        _zones(corridor=row, role=role, name=road.name, edges=EDGE_ROLES if road.return_of is None else ())
        for road, rows in built.roads
        for row in rows  # all that a return builds stands beside its patch
    ]
    return tuple(patches), tuple(roads)


_AROUND = 25.0  # m around the returns of a junction that a drag of it may change


def finished_near_junctions(
    network: Network, recipe: SurfaceRecipe, junctions: Collection[int], before: Network
) -> tuple[FinishedGround, tuple[Box, ...]]:
    """The finished ground around some junctions as a trial has it, and the boxes it is of: they hold the junctions as they are and as
    they were. Junctions that cannot be computed are left out."""
    boxes = []
    for pk in sorted(junctions):
        both = [_extent(n.junction(pk)) for n in (network, before)]
        known = np.array([b for b in both if b is not None])
        if len(known):
            low, high = known[:, 0].min(axis=0) - _AROUND, known[:, 1].max(axis=0) + _AROUND
            boxes.append((float(low[0]), float(low[1]), float(high[0]), float(high[1])))
    built = built_on(network, recipe)
    patches, _ = _laid(built, "finished")
    zones = [z for road, rows in built.roads for row in rows for z in _zones_near(road, row, boxes)]
    pieces = [*(p.get() for p in patches), *(p for m in MATERIALS.values() for p in zones if p.piece.material == m)]
    return finished_near(pieces, surface_of(recipe)[0], boxes), tuple(boxes)


def _zones_near(road: RoadInputs, row: Result[Corridor], boxes: Sequence[Box]) -> tuple[LaidPiece, ...]:
    """Zones of a row of a road where it comes near to boxes, so that the rest of a long road need not be laid anew in every drag."""
    edges = EDGE_ROLES if road.return_of is None else ()
    corridor = row.get()
    blocks = []
    whole = True
    for block in corridor.blocks:
        e, n = block.places.place.T
        near = np.zeros(len(e), bool)
        for e0, n0, e1, n1 in boxes:
            near |= (e > e0 - _FAR) & (e < e1 + _FAR) & (n > n0 - _FAR) & (n < n1 + _FAR)
        whole &= bool(near.all())
        blocks += [block.take(np.arange(a, b + 1)) for a, b in runs_of(near) if b > a]
    if whole:
        return _zones(corridor=row, role="finished", edges=edges, name=road.name).get()
    return _zones_of(Corridor(corridor.line, tuple(blocks)), "finished", edges, road.name) if blocks else ()


def _extent(junction: Joined) -> Floats | None:
    """(2, 2) lower left and upper right of a junction's returns, m."""
    try:
        own = [corner_of(road)[0].get().line for road in junction.returns.values()]
    except IvoryRidgeError:
        return None
    places = np.concatenate([line.evaluate(np.linspace(line.start_station, line.end_station, 9))[0] for line in own])
    return np.stack([places.min(axis=0), places.max(axis=0)])


_FAR = 60.0  # m from a road's line at which its layers may still be met


def layers_along(network: Network, recipe: SurfaceRecipe, path: Floats) -> list[LayerCut]:
    """Pavement layers of all that is built along a plan polyline (k, 2) m."""
    built = built_on(network, recipe)
    out: list[LayerCut] = []
    for junction, arm, patch in built.patches:
        out += under_surface(cut_polyline(patch.get().surface, path), layers_of(junction, arm))
    drawn = LineString(path)
    for _, rows in built.roads:
        for row in rows:
            corridor = row.get()
            if MultiPoint(corridor.places.place).buffer(_FAR).intersects(drawn):
                out += cut_layers(corridor, path)
    return out


@dataclass(frozen=True, slots=True, eq=False)
class FinishedVolumes:
    """Exact volumes from the existing ground to the finished one or its formation, in all, and by (name, material); plan areas of these,
    m2."""

    whole: SurfaceVolume
    by_piece: tuple[tuple[str, str, SurfaceVolume, float], ...]


@kind("finished volumes", 1)
def _volumes(finished: FinishedGround, ground: tuple[Any, Any]) -> FinishedVolumes:
    built = finished.piece >= 0
    named: dict[tuple[str, str], list[int]] = defaultdict(list)
    for number, key in enumerate(finished.pieces):
        named[key].append(number)
    rows = []
    for (name, material), numbers in named.items():
        own = _part(finished.surface, np.isin(finished.piece, numbers))
        if own is not None:
            rows.append((name, material, volume_between(ground[0], own), surface_area(own)[0]))
    whole = _part(finished.surface, built)
    nothing = SurfaceVolume(0.0, 0.0, 0.0)
    return FinishedVolumes(volume_between(ground[0], whole) if whole is not None else nothing, tuple(rows))


def _part(surface: Surface, keep: Any) -> Surface | None:
    if not keep.any():
        return None
    triangles, neighbours = select_triangles(surface.triangles, surface.neighbours, keep)
    return Surface(surface.points, triangles, neighbours)


def finished_volumes(network: Network, recipe: SurfaceRecipe, role: Role = "finished") -> Result[FinishedVolumes]:
    """Raises what ``finished_of`` does."""
    return _volumes(finished=finished_of(network, recipe, role)[0], ground=surface(recipe))
