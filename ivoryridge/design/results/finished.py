"""The finished ground of a project: its roads, their junctions and the existing ground as one surface."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.zones import ZONES, Cut, Zone, zone_meshes
from ivoryridge.core.earthwork.between import SurfaceVolume, volume_between
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.junction.arm import EDGE_ROLES
from ivoryridge.core.junction.finished import FinishedGround, GroundPiece, LaidPiece, finished_ground, lay
from ivoryridge.core.junction.patch import Patch
from ivoryridge.core.terrain.surface import Surface, surface_area
from ivoryridge.core.terrain.triangulate import select_triangles
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.network import Network
from ..inputs.road import RoadInputs
from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import Result, kind
from .corridor import corridor, missing_for_corridor, sections
from .patch import arm_places, arms_of, patch_of
from .surface import surface

Floats = NDArray[np.float64]

__all__ = ["FinishedVolumes", "finished_of", "finished_volumes"]

MATERIALS: dict[Zone, str] = {"carriageway": "pavement", "beside": "verge", "slope": "slope"}


@kind("laid zones", 1)
def _zones(corridor: Corridor, role: str, cuts: tuple[Cut, ...], edges: tuple[str, ...], name: str) -> tuple[LaidPiece, ...]:
    """A road's zones, from the carriageway outward."""
    meshes = {m.zone: m for m in zone_meshes(corridor, role, edges, cuts)}
    pieces = [
        GroundPiece(name, MATERIALS[z], meshes[z].points, meshes[z].faces, z == "carriageway") for z in ZONES if z in meshes
    ]
    return tuple(lay(p) for p in pieces)


@kind("laid patch", 1)
def _patch(patch: Patch, name: str) -> LaidPiece:
    return lay(GroundPiece(name, "pavement", patch.surface.points, patch.surface.triangles.astype(np.int64), joins=True))


@kind("finished ground", 1, memory="ground")
def _finished(
    patches: tuple[LaidPiece, ...], roads: tuple[tuple[LaidPiece, ...], ...], ground: tuple[Any, Any]
) -> FinishedGround:
    """``roads``: highest in priority first."""
    zones = (p for m in MATERIALS.values() for road in roads for p in road if p.piece.material == m)
    return finished_ground([*patches, *zones], ground[0])


def finished_of(network: Network, recipe: SurfaceRecipe) -> tuple[Result[FinishedGround], list[str]]:
    """The finished ground over a surface, of all roads that stand on it; and why roads or junctions are not in it. Raises InputError
    where there is no ground."""
    if not recipe.sources:
        raise InputError("corridor-needs", missing="a ground surface")
    left_out: list[str] = []
    on_it = {pk: network.road(pk) for pk in network.own}
    on_it = {pk: r for pk, r in on_it.items() if r.surface is not None and r.surface.content_key() == recipe.content_key()}
    cuts: dict[int, list[Cut]] = defaultdict(list)
    extra: dict[int, list[Floats]] = defaultdict(list)
    patches: list[Result[LaidPiece]] = []
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
            patches.append(_patch(patch=patch, name=junction.row.name))
            main, side = junction.row.main, junction.row.side
            cuts[main].append(Cut(at.main_side, *at.main_range, ("beside", "slope")))
            extra[main].append(at.main_at)
            extra[side].append(np.union1d(at.side_at, at.whole))
            cuts[side] += [Cut(s, a, b, ("beside", "slope")) for s, a, b in at.side_ranges]
            cuts[side] += [Cut(s, *at.whole, ("carriageway",)) for s in ("left", "right")]
    rank = {pk: (pk in sides, r.return_of is not None, pk) for pk, r in on_it.items()}
    roads = []
    for pk in sorted(on_it, key=lambda k: rank[k]):
        road = on_it[pk]
        if missing_for_corridor(road):
            continue
        try:
            edges = EDGE_ROLES if road.return_of is None else ()  # all that a return builds stands beside its patch
            mesh = _laid(road, extra[pk], cuts[pk], edges)
            for m in mesh:
                m.get()
            roads += mesh
        except IvoryRidgeError as error:
            left_out.append(f"{road.name}: {error.sentence}")
    return _finished(patches=tuple(patches), roads=tuple(roads), ground=surface(recipe)), left_out


@dataclass(frozen=True, slots=True, eq=False)
class FinishedVolumes:
    """Exact volumes from the existing to the finished ground, in all, and by (name, material); plan areas of these, m2."""

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


def finished_volumes(network: Network, recipe: SurfaceRecipe) -> Result[FinishedVolumes]:
    """Raises what ``finished_of`` does."""
    return _volumes(finished=finished_of(network, recipe)[0], ground=surface(recipe))


def _laid(
    road: RoadInputs, more: Sequence[Floats], cuts: Sequence[Cut], edges: tuple[str, ...]
) -> list[Result[tuple[LaidPiece, ...]]]:
    """A road's zones: along its own sections, and around each junction with further ones by themselves, so that what changes there leaves
    the rest as it is laid."""
    built = corridor(road)
    own = built.get().station
    around: list[tuple[float, float, list[Floats]]] = []
    for wanted in sorted(more, key=lambda w: float(w[0])):
        inside = wanted[(wanted >= own[0]) & (wanted <= own[-1])]
        if not len(inside):
            continue
        low = float(own[max(int(np.searchsorted(own, inside[0], side="right")) - 1, 0)])
        high = float(own[min(int(np.searchsorted(own, inside[-1])), len(own) - 1)])
        if around and low <= around[-1][1]:
            before = around.pop()
            around.append((before[0], max(high, before[1]), [*before[2], inside]))
        else:
            around.append((low, high, [inside]))
    left_out = tuple(Cut(side, low, high, ZONES) for low, high, _ in around for side in ("left", "right"))
    out = [_zones(corridor=built, role="finished", cuts=left_out, edges=edges, name=road.name)]
    for low, high, wanted_here in around:
        keep = np.concatenate(wanted_here)
        at = np.array(list(_once(np.union1d(own[(own >= low) & (own <= high)], keep), keep)))
        here = tuple(c for c in cuts if c.station_from < high and c.station_to > low)
        out.append(_zones(corridor=sections(road, at), role="finished", cuts=here, edges=edges, name=road.name))
    return out


def _once(stations: Floats, keep: Floats) -> Iterator[float]:
    """Stations in order, of several that are nearly one only one, and rather one that is to be kept."""
    kept = set(keep.tolist())
    last: float | None = None
    for s in stations.tolist():
        if last is not None and s - last < SAME_STATION:
            if s in kept and last not in kept:
                last = s
            continue
        if last is not None:
            yield last
        last = s
    if last is not None:
        yield last
