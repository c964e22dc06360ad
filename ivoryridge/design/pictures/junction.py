"""What the page is told of junctions: their corners and areas as they are, why one is not, and where roads meet without one."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import asdict
from functools import partial
from typing import Any, cast

import numpy as np

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.junction.compass import compass_point
from ivoryridge.core.junction.meeting import Arm, Meeting, meetings_of
from ivoryridge.core.junction.patch import Patch
from ivoryridge.core.junction.visibility import Look
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.wording import spoken

from ..forms.junction import (
    ArmPatch,
    CornerEnd,
    CornerRow,
    JunctionLayer,
    JunctionRow,
    Junctions,
    JunctionSight,
    MeetingOffer,
    PatchContour,
)
from ..inputs.network import Network
from ..inputs.road import Joined, JunctionInputs, RoadInputs
from ..kept.kinds import kind, tag, versions
from ..results.junction_sight import sight_findings, sights_of
from ..results.levels import levels_of, profile_of
from ..results.line import line, line_of
from ..results.patch import arms_of, existing_plane, layers_of, patch_findings, patch_of, read_at_once, side_findings
from ..results.returns import corner_of, ends_of, meeting_of

__all__ = ["affected_junctions", "junction_picture", "junctions_key", "junctions_moved", "junctions_picture", "sight_picture"]

VERSION = 2
_LEAST_ANGLE = 30.0  # degrees; roads that meet at less run into each other, as a slip road does
_CONTOURS = 0.05  # m between levels of a patch
_MOST_TURN = 0.05  # rad between points along a return


def junctions_key(network: Network) -> str:
    roads = tuple(network.road(pk) for pk in sorted(network.own))
    return tag("junctions", VERSION, versions(), spoken().name, spoken().group, tuple(network.junctions.items()), roads)


def junctions_picture(network: Network) -> Junctions:
    rows = [junction_picture(network.junction(pk)) for pk in sorted(network.junctions)]
    return {"junctions": rows, "offers": list(_offers(network))}


def affected_junctions(network: Network, road: int) -> Iterator[dict[str, Any]]:
    """Junctions that a change of a road changes, over others too, as they would be; without their findings, which a drag does not wait
    for."""
    for pk in junctions_moved(network, road):
        yield {"junction": pk, **junction_picture(network.junction(pk), judged=False)}


def junctions_moved(network: Network, road: int) -> Iterator[int]:
    """Junctions of a road, or of one that hangs on it."""
    moved = {road, *network.hanging_on(road)}
    for pk, j in sorted(network.junctions.items()):
        if moved & {j.main, j.side, *j.returns}:
            yield pk


def junction_picture(junction: Joined, *, judged: bool = True) -> JunctionRow:
    """A junction; what cannot be computed is left out, and why is among its problems. ``judged``: with its findings, its layers,
    and how an existing main road falls to its edge, none of which a drag changes but by the area."""
    row = junction.row
    problems: list[str] = []
    findings: list[dict[str, Any]] = []

    def tried(compute: Callable[[], Any]) -> Any:
        try:
            return compute()
        except IvoryRidgeError as error:
            if error.sentence not in problems:
                problems.append(error.sentence)
            return None

    meeting: Meeting | None = tried(lambda: meeting_of(junction.main, junction.side, row.place))
    where: dict[str, Any] = {"place": row.place}
    if meeting is not None:
        where = {
            "place": meeting.place, "main_station": meeting.main, "side_station": meeting.side,
            "angle_deg": float(np.degrees(meeting.angle)),
        }  # fmt: skip
    read_at_once(junction)
    corners = [_corner(junction, key, road, meeting) for key, road in sorted(junction.returns.items())]
    problems += [c["problem"] for c in corners if "problem" in c and c["problem"] not in problems]
    patches: list[ArmPatch] = []
    for arm in arms_of(junction) if meeting is not None and not problems else ():
        patch = tried(partial(_computed_patch, junction, arm))
        if patch is not None:
            if judged:
                findings += [f.as_dict() for f in (*patch_findings(junction, patch), *side_findings(junction, arm))]
            patches.append(_patch(arm, patch))
    built: dict[str, JunctionLayer] = {}
    for p in patches if judged else ():
        for x in tried(partial(layers_of, junction, p["arm"])) or ():
            layer = built.setdefault(x.material, {"material": x.material, "thickness": x.thickness, "volume": 0.0})
            layer["volume"] += p["area"] * x.thickness
    plane = tried(lambda: existing_plane(junction)) if judged and meeting is not None else None
    return cast(JunctionRow, {
        "id": junction.id, "revision": row.revision, "name": row.name, "main": row.main, "side": row.side, "run_out": row.run_out,
        "structure": row.structure, "layers": list(built.values()), "edge_fall": row.edge_fall,
        "edge_fall_read": plane.fall if plane is not None else None, **where,
        "corners": corners, "patches": patches, "problems": problems, "findings": findings,
    })  # fmt: skip


def _corner(junction: Joined, key: tuple[Arm, Any], road: RoadInputs, meeting: Meeting | None) -> CornerRow:
    arm, hand = key
    shape = junction.row.returns[road.road_id][2]
    out: dict[str, Any] = {
        "road_id": road.road_id, "name": road.name, "arm": arm, "hand": hand, "compass": road.name.rsplit(" ", 1)[-1],
        "shape": asdict(shape),
    }  # fmt: skip
    if meeting is None:
        return cast(CornerRow, out)
    try:
        corner = corner_of(road)[0].get()
        own, profile = line_of(road), profile_of(road)
        ends = [e.get() for e in ends_of(road)]
        turned = float(np.abs(own.k0 * own.length).sum())
        s = np.union1d(np.linspace(own.start_station, own.end_station, max(int(turned / _MOST_TURN), 1) + 1), own.key_stations())
        places = own.evaluate(s)[0]
        middle = own.evaluate(0.5 * (own.start_station + own.end_station))[0][0]
        out |= {
            "compass": compass_point(meeting.place, middle), "length": own.end_station - own.start_station,
            "points": np.round(places, 3).tolist(),
            "handle": middle.tolist(), "centre": corner.centres[len(corner.centres) // 2].tolist(), "levels": _levels_word(road),
        }  # fmt: skip
        for name, end, station, at, place in (
            ("start", ends[0], corner.first, own.start_station, places[0]),
            ("end", ends[1], corner.second, own.end_station, places[-1]),
        ):
            level, grade = profile.evaluate(at)[:2]
            told: CornerEnd = {
                "station": station, "place": (float(place[0]), float(place[1])), "level": float(level[0]), "edge_level": end.level,
                "grade": float(grade[0]), "edge_grade": end.grade,
            }  # fmt: skip
            out[name] = told
    except IvoryRidgeError as error:
        out["problem"] = error.sentence
    return cast(CornerRow, out)


def _levels_word(road: RoadInputs) -> str:
    if not road.levels_follow:
        return "pinned"
    return {2: "straight", 3: "single", 4: "reverse"}[len(levels_of(road).pvis)]


def _computed_patch(junction: Joined, arm: Arm) -> Patch:
    return patch_of(junction, arm).get()


def _patch(arm: Arm, patch: Patch) -> ArmPatch:
    low, high = patch.surface.elevation_range
    points, starts, which = compute_contours(patch.surface, levels_between(low, high, _CONTOURS))
    levels = levels_between(low, high, _CONTOURS)
    lines: list[PatchContour] = [
        {"level": round(float(levels[which[i]]), 4), "points": np.round(points[a:b, :2], 3).tolist()}
        for i, (a, b) in enumerate(itertools.pairwise(starts))
    ]
    return {"arm": arm, "ring": np.round(patch.ring[:, :2], 3).tolist(), "area": patch.area, "contours": lines}


# --- what is seen from side roads ---------------------------------------------------------------------------------
def sight_picture(network: Network, junction: Joined) -> JunctionSight:
    """What a driver sees who waits on each arm; ``problem``: why it cannot be told."""
    try:
        found = sights_of(network, junction)
    except IvoryRidgeError as error:
        return {"arms": [], "findings": [], "problem": error.sentence}
    return cast(JunctionSight, {
        "arms": [
            {"arm": s.arm, "eye": s.eye[:2].tolist(), "left": _look(s.left, s.left_edge), "right": _look(s.right, s.right_edge)}
            for s in found
        ],
        "findings": [f.as_dict() for s in found for f in sight_findings(junction, s)], "problem": "",
    })  # fmt: skip


def _look(look: Look, edge: Any) -> dict[str, Any]:
    return {**asdict(look), "enough": look.enough, "known_to_the_end": look.known_to_the_end, "edge": np.round(edge, 2).tolist()}


# --- where roads meet without a junction ------------------------------------------------------------------------
@kind("meetings", 1)
def _meetings(main: Any, side: Any) -> tuple[Meeting, ...]:
    return tuple(meetings_of(main, side))


_SAME_PLACE = 30.0  # m between meetings that are one


def _joins(network: Network, j: JunctionInputs, main: int, side: int, place: tuple[float, float]) -> bool:
    """Whether a junction is of two roads' meeting; one with the existing edge of the main road is, too."""
    of = {j.main, j.side}
    same = of == {main, side} or (side in of and bool(network.own[j.main].existing))
    return same and bool(np.hypot(j.place[0] - place[0], j.place[1] - place[1]) < _SAME_PLACE)


def _offers(network: Network) -> Iterator[MeetingOffer]:
    """Where a road ends at another or crosses it at an angle; of two that cross the longer one is the main road."""
    lines: dict[int, tuple[RoadInputs, Any]] = {}
    for pk in sorted(network.own):
        road = network.road(pk)
        try:
            if road.has_line and not road.is_derived and not road.existing:
                own = line_of(road)
                ends = own.evaluate(np.linspace(own.start_station, own.end_station, 60))[0]
                lines[pk] = road, (own, ends.min(axis=0) - 60.0, ends.max(axis=0) + 60.0)
        except IvoryRidgeError:  # why it has no line is told with the road
            continue
    for a, b in itertools.combinations(sorted(lines), 2):
        (one, (own, low, high)), (two, (other, low2, high2)) = lines[a], lines[b]
        if (low > high2).any() or (low2 > high).any():
            continue
        seen: list[tuple[float, float]] = []
        longer = own.end_station - own.start_station >= other.end_station - other.start_station
        for main, side in ((one, two), (two, one)) if longer else ((two, one), (one, two)):
            for m in _meetings(main=line(main), side=line(side)).get():
                done = any(np.hypot(e - m.place[0], n - m.place[1]) < _SAME_PLACE for e, n in seen)
                there = any(_joins(network, j, main.road_id, side.road_id, m.place) for j in network.junctions.values())
                if done or there or np.degrees(m.angle) < _LEAST_ANGLE:
                    continue
                seen.append(m.place)
                yield {
                    "main": main.road_id, "side": side.road_id, "place": m.place, "main_station": m.main, "side_station": m.side,
                    "angle_deg": float(np.degrees(m.angle)), "crosses": len(m.arms) == 2,
                }  # fmt: skip
