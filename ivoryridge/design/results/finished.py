"""The finished ground of a project: its roads, their junctions and the existing ground as one surface."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.zones import ZONES, Cut, Zone, ZoneMesh, zone_meshes
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.junction.arm import EDGE_ROLES
from ivoryridge.core.junction.finished import FinishedGround, GroundPiece, finished_ground
from ivoryridge.core.junction.patch import Patch
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.network import Network
from ..inputs.road import RoadInputs
from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import Result, kind
from .corridor import corridor, missing_for_corridor, sections
from .patch import arm_places, arms_of, patch_of
from .surface import surface

Floats = NDArray[np.float64]

__all__ = ["finished_of"]

MATERIALS: dict[Zone, str] = {"carriageway": "pavement", "beside": "verge", "slope": "slope"}


@kind("zones", 1)
def _zones(corridor: Corridor, role: str, cuts: tuple[Cut, ...], edges: tuple[str, ...]) -> tuple[ZoneMesh, ...]:
    return tuple(zone_meshes(corridor, role, edges, cuts))


@kind("finished ground", 1, memory="ground")
def _finished(
    patches: tuple[tuple[str, Patch], ...], roads: tuple[tuple[str, tuple[ZoneMesh, ...]], ...], ground: tuple[Any, Any]
) -> FinishedGround:
    """``roads``: highest in priority first."""
    pieces = [
        GroundPiece(name, "pavement", p.surface.points, p.surface.triangles.astype(np.int64), joins=True) for name, p in patches
    ]
    for zone in ZONES:
        for name, meshes in roads:
            pieces += [
                GroundPiece(name, MATERIALS[zone], m.points, m.faces, zone == "carriageway") for m in meshes if m.zone == zone
            ]
    return finished_ground(pieces, ground[0])


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
    patches: list[tuple[str, Result[Patch]]] = []
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
            patches.append((junction.row.name, patch))
            main, side = junction.row.main, junction.row.side
            cuts[main].append(Cut(at.main_side, *at.main_range, ("beside", "slope")))
            extra[main].append(at.main_at)
            extra[side].append(at.side_at)
            cuts[side] += [Cut(s, a, b, ("beside", "slope")) for s, a, b in at.side_ranges]
            cuts[side] += [Cut(s, *at.whole, ("carriageway",)) for s in ("left", "right")]
    rank = {pk: (pk in sides, r.return_of is not None, pk) for pk, r in on_it.items()}
    roads = []
    for pk in sorted(on_it, key=lambda k: rank[k]):
        road = on_it[pk]
        if missing_for_corridor(road):
            continue
        try:
            built = _with_stations(road, extra[pk])
            edges = EDGE_ROLES if road.return_of is None else ()  # all that a return builds stands beside its patch
            mesh = _zones(corridor=built, role="finished", cuts=tuple(cuts[pk]), edges=edges)
            mesh.get()
            roads.append((road.name, mesh))
        except IvoryRidgeError as error:
            left_out.append(f"{road.name}: {error.sentence}")
    return _finished(patches=tuple(patches), roads=tuple(roads), ground=surface(recipe)), left_out


def _with_stations(road: RoadInputs, more: Sequence[Floats]) -> Result[Corridor]:
    """The road's sections, and further ones where a junction needs them."""
    built = corridor(road)
    if not more:
        return built
    own = built.get().station
    wanted = np.concatenate(more)
    wanted = wanted[(wanted >= own[0]) & (wanted <= own[-1])]
    return sections(road, np.array(list(_once(np.union1d(own, wanted), wanted))))


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
