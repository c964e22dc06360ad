"""The areas of a junction: one for each arm of the side road, between the main road's edge and its returns."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points
from ivoryridge.core.alignment.vertical import VerticalAlignment
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.edges import to_space
from ivoryridge.core.corridor.layer_cut import layers_below
from ivoryridge.core.corridor.meet import EdgePlane
from ivoryridge.core.corridor.varied import SIDES, Side
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.findings import Finding
from ivoryridge.core.junction.arm import edge_nodes
from ivoryridge.core.junction.corner import CornerReturn
from ivoryridge.core.junction.meeting import Arm
from ivoryridge.core.junction.patch import Patch, PatchLines, compute_patch, low_places
from ivoryridge.core.section.structure import Layer
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import Joined, RoadInputs
from ..kept.kinds import IfPossible, Result, find_together, kind
from .corridor import missing_for_corridor, section_stations_of, sections
from .levels import levels
from .line import line, line_of
from .meet import edge_plane
from .returns import ROUGH_TOLD, corner_of, ends_of, meeting_of
from .surface import surface

Floats = NDArray[np.float64]

__all__ = [
    "ArmPlaces",
    "arm_places",
    "arms_of",
    "existing_plane",
    "layers_of",
    "patch_findings",
    "patch_of",
    "read_at_once",
    "side_findings",
]

_STEP = 1.5  # m between cross lines of a patch, and between vertices of its edges
_GREATEST_GRADE = 0.04  # of the side road in its first metres (from memory)
_FIRST = 15.0  # m of the side road over which that holds (from memory)
_GREATEST_BREAK = 0.06  # between the main road's fall and the side road's grade at the edge (from memory)
_BESIDE = 0.1, 1.1  # m either way of the edge between which both are read


def arms_of(junction: Joined) -> tuple[Arm, ...]:
    """Arms of the side road that have both corners."""
    return tuple(a for a in ("before", "after") if (a, "left") in junction.returns and (a, "right") in junction.returns)


@kind("patch", 3)
def _patch(
    edge: Floats, against: bool, side: Corridor, outward: bool, near: tuple[str, ...],
    left: tuple[HorizontalAlignment, tuple[VerticalAlignment, Any, Any], Floats, CornerReturn],
    right: tuple[HorizontalAlignment, tuple[VerticalAlignment, Any, Any], Floats, CornerReturn], name: str,
) -> Patch:  # fmt: skip
    """``edge``: places along the main road's edge from one return's tangent point to the other's, with one where the crown crosses
    it; ``side``: sections from there to the cross line that closes the patch; ``near``: for each hand the side of the side
    road on which it is sought; ``left``, ``right``: of the returns line, levels and stations of their own sections."""
    edge = edge[::-1] if against else edge
    places, level = side.places, side.level
    crown = to_space(places, np.zeros(len(level)), level)
    order = slice(None) if outward else slice(None, None, -1)
    crown = crown[order]
    azimuth = places.azimuth[order] + (0.0 if outward else np.pi)
    crown[0] = edge[int(np.argmin(np.hypot(*(edge - crown[0])[:, :2].T)))]
    rows = []
    for (own, own_levels, every, corner), which in zip((left, right), near, strict=True):
        stations = every if corner.crossing is None else every[every > own.stations[1] - 1e-6]  # from where the edges cross
        bow = np.column_stack([own.evaluate(stations)[0], own_levels[0].evaluate(stations)[0]])
        edge_there = _edge(side, which)[order]
        end = bow[-1]
        ahead = np.array([np.sin(azimuth[-1]), np.cos(azimuth[-1])])
        behind = (edge_there - end)[:, :2] @ ahead > 1e-3
        rows.append(np.concatenate([bow, edge_there[behind]]))
    return compute_patch(PatchLines(edge, rows[0], rows[1], crown, azimuth), name)


def _edge(corridor: Corridor, side: Any) -> Floats:
    sign = 1.0 if side == "right" else -1.0
    out = []
    for block in corridor.blocks:
        across, level, _ = edge_nodes(block, side)
        known = np.isfinite(across)
        out.append(to_space(block.places, sign * across, level)[known])
    return np.concatenate(out)


@kind("built edge", 1)
def _built_edge(sections: Corridor, side: Side) -> Floats:
    return _edge(sections, side)


@kind("existing edge", 1)
def _existing_edge(line: HorizontalAlignment, surface: tuple[Any, Any], at: Floats, name: str) -> Floats:
    places = line.evaluate(at)[0]
    level = read_surface(surface[0], places).elevation
    if not np.isfinite(level).all():
        raise InputError("edge-off-ground", road=name, at=float(at[int(np.argmax(~np.isfinite(level)))]))
    return np.column_stack([places, level])


def _main_edge(main: RoadInputs, at: Floats, side: Side) -> Result[Floats]:
    if main.existing and main.surface is not None:
        return _existing_edge(line=line(main), surface=surface(main.surface), at=at, name=main.name)
    return _built_edge(sections=sections(main, at), side=side)


def _even(a: float, b: float) -> Floats:
    low, high = min(a, b), max(a, b)
    return np.linspace(low, high, max(int(np.ceil((high - low) / _STEP)), 1) + 1)


@dataclass(frozen=True, slots=True, eq=False)
class ArmPlaces:
    """Stations (m) of sections along the main road's edge and along the arm from which a patch is made, and what the arm takes over: of
    the main road's side between its tangent points, of the side road's sides up to theirs, and as far as the closing cross line."""

    main_at: Floats
    side_at: Floats
    main_side: Side
    main_range: tuple[float, float]
    side_ranges: tuple[tuple[Side, float, float], ...]
    whole: tuple[float, float]


def arm_places(junction: Joined, arm: Arm) -> ArmPlaces:
    left, right = junction.returns[arm, "left"], junction.returns[arm, "right"]
    (one, way), (two, other) = corner_of(left), corner_of(right)
    first, second = one.get(), two.get()
    meeting = meeting_of(junction.main, junction.side, junction.row.place)
    far = max(first.second, second.second) if arm == "after" else min(first.second, second.second)
    crossing, main_station = _crown_start(junction, way.main_side, meeting.side, far)
    main_at = np.union1d(np.union1d(_even(first.leaves, main_station), _even(main_station, second.leaves)), [main_station])
    for road in (left, right):
        main_at = np.union1d(main_at, _beside(junction, road, float(main_at[0]), float(main_at[-1])))
    ends = ((way.side_side, first.second), (other.side_side, second.second))
    return ArmPlaces(
        main_at, np.union1d(_even(crossing, far), [first.second, second.second]), way.main_side,
        (min(first.first, second.first), max(first.first, second.first)),
        tuple((side, min(meeting.side, s), max(meeting.side, s)) for side, s in ends), (min(meeting.side, far), max(meeting.side, far)),
    )  # fmt: skip


_PARTING = 3.0  # m of a return over which it and the edge it leaves lie within a hair of each other


def _beside(junction: Joined, road: RoadInputs, low: float, high: float) -> Floats:
    """Stations of the main road beside the first vertices of a return, between two stations: there the edge's vertices are its own, so that
    no chord of it passes on the wrong side of the return that leaves it."""
    own, every = line_of(road), section_stations_of(road).get()
    near = every[(every > own.start_station) & (every < own.start_station + _PARTING)]
    if not len(near):
        return near
    at = np.asarray(project_points(line_of(junction.main), own.evaluate(near)[0]).station, float)
    return at[(at > low + SAME_STATION) & (at < high - SAME_STATION)]


def patch_of(junction: Joined, arm: Arm) -> Result[Patch]:
    """Raises why there is none."""
    left, right = junction.returns[arm, "left"], junction.returns[arm, "right"]
    (one, way), (two, other) = corner_of(left), corner_of(right)
    at = arm_places(junction, arm)
    return _patch(
        edge=_main_edge(junction.main, at.main_at, way.main_side), against=one.get().first > two.get().first,
        side=sections(junction.side, at.side_at), outward=arm == "after", near=(way.side_side, other.side_side),
        left=_bow(left), right=_bow(right), name=junction.row.name,
    )  # fmt: skip


def read_at_once(junction: Joined) -> None:
    """Find all sections of its roads that the returns' levels of a junction are made from, and then those of its areas, each road's in
    one go; what cannot be found is told where it is asked for."""
    try:
        ends = [e for road in junction.returns.values() if road.levels_follow for e in ends_of(road)]
        _sections_together([e.needs.get("sections") for e in ends])
        patches = [patch_of(junction, arm) for arm in arms_of(junction)]
        _sections_together([x for p in patches for x in (p.needs["side"], p.needs["edge"].needs.get("sections"))])
    except IvoryRidgeError:
        return


def _sections_together(wanted: Sequence[Result[Corridor] | None]) -> None:
    find_together(tuple(block for made in wanted if made is not None for block in made.needs["blocks"]))


@kind("layers in the lane", 1)
def _in_lane(section: Corridor, side: Side) -> tuple[Layer, ...]:
    """What the carriageway of a section is built of, half way to its edge."""
    for which in (side, *SIDES):
        across, _, _ = edge_nodes(section.blocks[0], which)
        if np.isfinite(across[0]):
            return layers_below(section.blocks[0], which, 0.5 * float(across[0]))
    return ()


def layers_of(junction: Joined, arm: Arm) -> tuple[Layer, ...]:
    """What a junction's pavement is built of, from the top: its own structure, else what the road that it names has in its lane there;
    where that has nothing, as an existing road has not, what the other road has."""
    row = junction.row
    if row.own_structure is not None:
        return row.own_structure.layers
    at = arm_places(junction, arm)
    asked = [(junction.main, float(at.main_at.mean())), (junction.side, at.whole[1] if arm == "after" else at.whole[0])]
    for road, station in asked[::-1] if row.structure == "side" else asked:
        if not missing_for_corridor(road):
            layers = _in_lane(section=sections(road, np.array([station])), side=at.main_side).get()
            if layers:
                return layers
    return ()


def _bow(road: RoadInputs) -> tuple[Any, ...]:
    """What a ring needs of a return; its own sections' places are the ring's vertices there, so that both meet without a gap."""
    return line(road), levels(road), section_stations_of(road), corner_of(road)[0]


@kind("crown start", 1)
def _start(
    side: HorizontalAlignment,
    main: HorizontalAlignment,
    station: tuple[float, ...],
    offset: tuple[float, ...],
    meet: float,
    far: float,
) -> tuple[float, float]:
    """Stations on the side and on the main road where the side road's centre crosses the main road's edge."""
    s = np.linspace(meet, far, 400)
    foot = project_points(main, side.evaluate(s)[0])
    over = np.abs(foot.offset) - np.abs(np.interp(foot.station, station, offset))
    i = np.flatnonzero(over >= 0)
    if not len(i) or i[0] == 0:
        at = s[0] if len(i) else s[-1]
    else:
        k = int(i[0])
        at = float(s[k - 1] + (s[k] - s[k - 1]) * -over[k - 1] / (over[k] - over[k - 1]))
    return float(at), float(project_points(main, side.evaluate(at)[0]).station[0])


def _crown_start(junction: Joined, main_side: Side, meet: float, far: float) -> tuple[float, float]:
    arm = "after" if far > meet else "before"
    found, _ = corner_of(junction.returns[arm, "left"])  # type: ignore[index]
    row = found.needs["first"].get()
    return _start(
        side=line(junction.side), main=line(junction.main), station=tuple(row.station.tolist()), offset=tuple(row.offset.tolist()),
        meet=meet, far=far,
    ).get()  # fmt: skip


@kind("side levels", 1)
def _side_levels(sections: Corridor, outward: bool, name: str) -> tuple[Finding, ...]:
    """Of sections at the edge and along the arm's first metres, the first two inside of the main road's edge."""
    s, z = sections.station, sections.level
    order = np.argsort(s if outward else -s)
    s, z = s[order], z[order]
    grade = np.diff(z) / np.abs(np.diff(s))
    out = []
    steep = float(np.abs(grade[2:]).max())
    if steep > _GREATEST_GRADE + 1e-6:
        told = {"road": name, "grade": 100 * steep, "limit": 100 * _GREATEST_GRADE, "over": _FIRST}
        out.append(Finding("doubt", "side-steep", told))
    bent = abs(float(grade[2] - grade[0]))
    if bent > _GREATEST_BREAK + 1e-6:
        out.append(Finding("doubt", "side-break", {"road": name, "break": 100 * bent, "limit": 100 * _GREATEST_BREAK}))
    return tuple(out)


def existing_plane(junction: Joined) -> EdgePlane | None:
    """The plane of an existing main road at its edge; None for one that is built, or where the ground does not say it."""
    of = next((a for a in junction.side.arms if a.main.road_id == junction.row.main and a.place == junction.row.place), None)
    if of is None or not junction.main.existing:
        return None
    return IfPossible(edge_plane(of, line(junction.side))).get()


def side_findings(junction: Joined, arm: Arm) -> list[Finding]:
    """Where the side road is too steep as it comes to the main one, or breaks too sharply at its edge."""
    at = arm_places(junction, arm)
    outward = arm == "after"
    sign, edge = (1.0, float(at.side_at[0])) if outward else (-1.0, float(at.side_at[-1]))
    own = line_of(junction.side)
    s = edge + sign * np.concatenate([[-_BESIDE[1], -_BESIDE[0], _BESIDE[0], _BESIDE[1]], np.arange(2.5, _FIRST + 0.1, 2.5)])
    s = np.unique(np.clip(s, own.start_station, own.end_station))
    if junction.main.existing:
        plane = existing_plane(junction)
        if plane is None or plane.worst <= ROUGH_TOLD:
            return []
        told = {"road": junction.main.name, "off": 1000 * plane.worst, "limit": 1000 * ROUGH_TOLD}
        return [Finding("doubt", "edge-uneven", told, place=plane.place)]
    if len(s) < 5:
        return []
    return list(_side_levels(sections=sections(junction.side, s), outward=outward, name=junction.side.name).get())


def patch_findings(junction: Joined, patch: Patch) -> list[Finding]:
    """Hollows of a patch that hold water."""
    out = []
    for pond in low_places(patch.surface):
        told = {"junction": junction.row.name, "depth": 1000 * pond.depth, "area": pond.area}
        out.append(Finding("doubt", "patch-hollow", told, place=pond.place))
    return out
