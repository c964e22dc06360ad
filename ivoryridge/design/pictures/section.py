"""What the page is told of one cross section."""

from __future__ import annotations

import itertools
from typing import Literal, cast

import numpy as np

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.neighbour import passages_of
from ivoryridge.core.earthwork.end_area import SectionAreas, compute_areas
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.section.columns import SideColumns
from ivoryridge.core.section.roles import TOE, role_named

from ..forms.common import Finding
from ..forms.road import Neighbour, Section, SectionLayer, SectionLink, SectionNode, SectionSide
from ..inputs.network import Network
from ..inputs.road import RoadInputs
from ..results.corridor import corridor_at, corridor_of, missing_for_corridor
from ..results.levels import profile_of
from ..results.line import line_of
from .numbers import rounded

__all__ = ["neighbours_picture", "section_drawn", "section_picture", "side_drawn"]

NEIGHBOURS_WITHIN = 80.0  # m beside the line; no section shows more


def section_picture(inputs: RoadInputs, station: float) -> Section:
    """The cross section at one station: ground, both sides, areas. Raises what keeps it from being computed."""
    line, profile = line_of(inputs), profile_of(inputs)
    first, last = max(line.start_station, profile.station[0]), min(line.end_station, profile.station[-1])
    station = float(np.clip(station, first, last))
    corridor = corridor_at(inputs, np.array([station]))
    return section_drawn(corridor, compute_areas(corridor))


def neighbours_picture(network: Network, road_id: int, station: float) -> list[Neighbour]:
    """Other roads of a project that a section crosses; one that cannot be built is not there, which is told with that road."""
    line = line_of(network.road(road_id))
    station = float(np.clip(station, line.start_station, line.end_station))
    place, azimuth, _ = line.evaluate(station)
    out: list[Neighbour] = []
    for pk in sorted(network.own):
        other = network.road(pk)
        if pk == road_id or other.broken or missing_for_corridor(other) or not _near(line_of(other), place[0]):
            continue
        try:
            corridor = corridor_of(other)
        except IvoryRidgeError:
            continue
        out += [
            {"road_id": pk, "name": other.name, "points": rounded(np.column_stack([p.offset, p.level]), 3)}
            for p in passages_of(corridor, place[0], float(azimuth[0]), NEIGHBOURS_WITHIN)
        ]
    return out


def _near(line: HorizontalAlignment, place: np.ndarray) -> bool:
    """Whether a road may come within reach of a place, with room for its own slopes."""
    foot = project_points(line, [place])
    return bool(np.abs(foot.offset[0]) < 2 * NEIGHBOURS_WITHIN + 100.0)


def section_drawn(corridor: Corridor, areas: SectionAreas) -> Section:
    block, _ = corridor.section(0)
    ground = block.ground.section(0)
    return {
        "station": float(corridor.station[0]), "level": float(corridor.level[0]), "grade": float(corridor.grade[0]),
        "easting": float(corridor.places.place[0, 0]), "northing": float(corridor.places.place[0, 1]),
        "azimuth": float(corridor.places.azimuth[0]), "curvature": float(corridor.places.curvature[0]),
        "ground": rounded(ground, 3), "cut": float(areas.cut[0]), "fill": float(areas.fill[0]),
        "layers": [{"material": m, "area": float(a[0])} for m, a in areas.layers.items()],
        "sides": [side_drawn(sign, columns, name) for name, sign, columns, _ in block.sides()],
        "findings": [cast(Finding, f.as_dict()) for f in corridor.findings if f.code in ("not-met", "off-ground", "crosses-itself")],
    }  # fmt: skip


def side_drawn(sign: float, c: SideColumns, name: Literal["left", "right"]) -> SectionSide:
    """Nodes, finished links with width and slope, the formation line, and layer areas; offsets + right."""
    there = [i for i in range(len(c.names)) if c.present[i, 0]]
    position = {i: k for k, i in enumerate(there)}
    nodes: list[SectionNode] = [
        {
            "name": c.names[i],
            "role": c.roles[i],
            "below": role_named(c.roles[i]).below,
            "guide": c.guide[i],
            "offset": sign * float(c.across[i, 0]),
            "level": float(c.level[i, 0]),
        }
        for i in there
    ]
    outline = [i for i in c.outline("finished") if c.present[i, 0]]
    links: list[SectionLink] = []
    for a, b in itertools.pairwise(outline):
        width = float(c.across[b, 0] - c.across[a, 0])
        rise = float(c.level[b, 0] - c.level[a, 0])
        links.append(
            {"from": position[a], "to": position[b], "width": width, "slope": rise / width if abs(width) > 1e-9 else None}
        )
    formation = [position[i] for i in c.outline("formation") if c.present[i, 0]]
    layers: list[SectionLayer] = [
        {"material": material, "points": [(sign * float(c.across[i, 0]), float(c.level[i, 0])) for i in loop]}
        for _, material, loop in c.areas if all(c.present[i, 0] for i in loop)
    ]  # fmt: skip
    toe = next((sign * float(c.across[i, 0]) for i in there if c.roles[i] == TOE), None)
    unmet = [n for n, mask in c.unmet.items() if bool(mask[0])]
    reach = {n: float(r[0]) for n, r in c.reach.items() if np.isfinite(r[0])}
    return {"side": name, "nodes": nodes, "links": links, "formation": formation, "layers": layers, "toe": toe, "unmet": unmet,
            "reach": sign * max(reach.values()) if reach else None}  # fmt: skip
