"""Acts on junctions: made where roads meet, their corners, their levels pinned and let follow, deleted."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from shapely import LineString, Point
from shapely.ops import substring

from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.junction.compass import compass_point
from ivoryridge.core.junction.corner import CornerShape
from ivoryridge.core.junction.meeting import Meeting, meetings_of
from ivoryridge.core.wording import quantity

from ..edits.junction import shape_with
from ..inputs.network import assemble_road
from ..inputs.road import ReturnOf, RoadInputs
from ..ledger import Act
from ..models import Junction, Project, Road, RoadPVI, SheetSet, Structure
from ..refusals import BadValue
from ..results.line import line_of
from ..results.returns import meeting_of, trial_corner
from ..results.surface import ground_of
from .edit_course import let_go
from .edit_profile import pinned_rows
from .standing import act, rehearsed

__all__ = [
    "change_corners",
    "change_junction",
    "copy_corners",
    "delete_junction",
    "drop_junctions",
    "join_edge",
    "let_follow",
    "make_junction",
    "pin",
]

USUAL_RADIUS = 10.0  # m of a return at a rural side road (from memory)
RETURN_INTERVAL = 1.0  # m between sections of a return: chords leave an arc of 8 m by 16 mm
_LEAST_RADIUS = 1.0  # m


@rehearsed
def make_junction(
    project: Project, user: User, *, main: Road, side: Road, place: tuple[float, float] | None = None, radii: Sequence[float] = ()
) -> tuple[Act, Junction, list[str]]:
    """A priority junction where a side road ends at a main one or crosses it, with a return for each corner. ``place``: of several
    meetings the nearest. ``radii``: m of the corners, left and right of each arm in turn; without them the usual one, or the
    greatest below it that fits."""
    if main.pk == side.pk:
        raise BadValue("junction-with-itself", "A road cannot join itself. Choose another road.", field="side")
    for road in (main, side):
        if road.course.get("kind") == "return":
            raise BadValue("junction-of-return", f"{road.name} is a corner of a junction, which no road joins. Choose its road.")
    own, other = assemble_road(main), assemble_road(side)
    _not_both_ways(own, other)
    meeting = _meeting(own, other, place)
    taken = Junction.present.filter(project=project, main__in=(main, side), side__in=(main, side))
    if any(np.hypot(j.easting - meeting.place[0], j.northing - meeting.place[1]) < 5.0 for j in taken):
        raise BadValue("junction-there", f"{main.name} and {side.name} have a junction there already.")
    with act(project, user, f"Join {side.name} to {main.name}") as doing:
        junction, told = _make(doing, project, main, side, meeting, radii)
    return doing, junction, told


def _make(
    doing: Act, project: Project, main: Road, side: Road, meeting: Meeting, radii: Sequence[float]
) -> tuple[Junction, list[str]]:
    own, other = assemble_road(main), assemble_road(side)
    told: list[str] = []
    _tied(doing, main, side, own, other, meeting, told)
    e, n = meeting.place
    junction = doing.create(
        Junction(
            project=project,
            name=(f"{side.name} at its edge" if own.existing else f"{main.name} and {side.name}")[:120],
            main=main,
            side=side,
            easting=round(e, 3),
            northing=round(n, 3),
        )
    )
    given = iter(radii)
    for arm in meeting.arms:
        for hand in ("left", "right"):
            shape = CornerShape(radius=float(next(given, USUAL_RADIUS)))
            of = ReturnOf(own, other, (e, n), arm, hand, shape)
            shape, corner = _fitting(of, shape, told)
            name = f"{side.name}, corner {compass_point(meeting.place, corner)}"
            _create_return(doing, project, main, junction, name, {"arm": arm, "hand": hand, "shape": asdict(shape)})
    return junction, [f"{side.name} joins {main.name} with {2 * len(meeting.arms)} returns.", *told]


MARGIN = 120.0  # m of an existing edge to either side of where a road meets it: what returns need and a driver looks along


@rehearsed
def join_edge(
    project: Project,
    user: User,
    *,
    side: Road,
    place: tuple[float, float] | None = None,
    points: Sequence[tuple[float, float]] = (),
) -> tuple[Act, Junction, list[str]]:
    """A road joins the edge of one that is there and is not rebuilt: a received line near ``place``, or picked ``points`` (E, N) m in
    order. Nothing is built of that road; its levels are the ground's."""
    inputs = assemble_road(side)
    along = list(points) if len(points) >= 2 else _received_edge(inputs, place)
    own = line_of(inputs)
    ends = own.evaluate(np.array([own.start_station, own.end_station]))[0]
    edge = LineString(along)
    nearer = min((Point(*p) for p in ends), key=edge.distance)
    at = edge.project(nearer)
    piece = substring(edge, max(at - MARGIN, 0.0), min(at + MARGIN, edge.length))
    name = f"Edge at {side.name}"[:120]
    with act(project, user, f"Join {side.name} to an existing edge") as doing:
        main = Road(
            project=project, name=name, surface=side.surface, interval=side.interval,
            course={"kind": "existing", "points": [[round(e, 4), round(n, 4)] for e, n in piece.coords]},
        )  # fmt: skip
        doing.create(main)
        doing.create(SheetSet(project=project, road=main, name=f"{name} sheets"[:120]))
        meeting = _meeting(assemble_road(main), assemble_road(side), None)
        junction, told = _make(doing, project, main, side, meeting, ())
    return doing, junction, told


_NEAR_LINE = 5.0  # m from a clicked place within which a received line is its edge


def _received_edge(road: RoadInputs, place: tuple[float, float] | None) -> list[tuple[float, float]]:
    if place is None or road.surface is None:
        raise BadValue("edge-needs-place", "Click the edge, or pick at least two places along it.", field="points")
    here = Point(*place)
    lines = [LineString(g.vertices[:, :2]) for g in ground_of(road.surface).lines if len(g.vertices) > 1]
    best = min(lines, key=here.distance, default=None)
    if best is None or here.distance(best) > _NEAR_LINE:
        raise InputError("edge-not-there", limit=_NEAR_LINE)
    return [(float(e), float(n)) for e, n in best.coords]


def _not_both_ways(main: RoadInputs, side: RoadInputs) -> None:
    """The main road must not hang on the side road, or neither could be computed first."""
    if side.road_id in _hangs_on(main):
        raise BadValue(
            "junction-in-a-circle", f"{main.name} hangs on {side.name}, so it cannot be the main road here. Make {side.name} the "
            f"main road, or untie {main.name}.", field="main",
        )  # fmt: skip


def _hangs_on(road: RoadInputs) -> set[int]:
    others = [*(t.road for t in road.ties.values()), *road.followed.values(), *(a.main for a in road.arms)]
    if road.parallel is not None:
        others.append(road.parallel.road)
    return {o.road_id for o in others}.union(*(_hangs_on(o) for o in others)) if others else set()


def _meeting(main: RoadInputs, side: RoadInputs, place: tuple[float, float] | None) -> Meeting:
    if place is not None:
        return meeting_of(main, side, place)
    found = meetings_of(line_of(main), line_of(side))
    return found[0] if found else meeting_of(main, side, (0.0, 0.0))  # which says how far apart they are


def _tied(doing: Act, main: Road, side: Road, own: RoadInputs, other: RoadInputs, meeting: Meeting, told: list[str]) -> None:
    """A side road that ends at the main one is tied to it there, in level to its edge, where that can be."""
    if len(meeting.arms) > 1 or len(other.pis) < 2 or not own.has_profile:
        return
    end = "start" if meeting.arms[0] == "after" else "end"
    if end in side.ties:
        return
    if (other.pi_rows[0] if end == "start" else other.pi_rows[-2])[0] in other.held_straights:
        told.append(f"The straight at the {end} of {side.name} is held, so that end was not tied to {main.name}.")
        return
    level = ("centre" if own.existing else "edge") if other.has_profile else ""
    tie = {"road": main.pk, "station": round(meeting.main, 9), "level": level}
    doing.change(side, ties={**side.ties, end: tie})
    told.append(f"The {end} of {side.name} follows {main.name} now.")


def _fitting(of: ReturnOf, shape: CornerShape, told: list[str]) -> tuple[CornerShape, tuple[float, float]]:
    """A shape that fits, with the place of the corner. Raises what says why none does."""
    try:
        return shape, trial_corner(of)
    except IvoryRidgeError as error:
        if error.code != "return-too-large" or error.params["fits"] < _LEAST_RADIUS:
            raise
        smaller = replace(shape, radius=float(error.params["fits"]))
        told.append(
            f"A return of {quantity(shape.radius, 'm')} does not fit everywhere; one has {quantity(smaller.radius, 'm', 2)}."
        )
        return smaller, trial_corner(replace(of, shape=smaller))


def _create_return(doing: Act, project: Project, main: Road, junction: Junction, name: str, course: dict[str, Any]) -> Road:
    road = Road(
        project=project, name=name[:120], surface=main.surface, interval=RETURN_INTERVAL,
        course={"kind": "return", "junction": junction.pk, **course},
    )  # fmt: skip
    doing.create(road)
    doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"[:120]))
    return road


def _returns(junction: Junction) -> list[Road]:
    return [
        r for r in Road.present.filter(project=junction.project_id, course__kind="return") if r.course["junction"] == junction.pk
    ]


@rehearsed
def change_junction(junction: Junction, user: User, *, revision: int, values: Mapping[str, Any]) -> Act:
    """Its name, over which length the side road turns from the main road's plane, what its pavement is built of, and how an existing main
    road falls to its edge."""
    chosen = values.get("structure", "main")
    known = {"main", "side", *(str(s.pk) for s in Structure.present.filter(project=junction.project_id))}
    if chosen not in known:
        raise BadValue("no-such-structure", "There is no such pavement structure in this project.", field="structure")
    with act(junction.project, user, f"Change junction {junction.name}") as doing:
        doing.change(
            junction, revision=revision, **{k: v for k, v in values.items() if k in ("name", "run_out", "structure", "edge_fall")}
        )
    return doing


@rehearsed
def change_corners(junction: Junction, user: User, *, roads: Mapping[int, int], values: Mapping[str, Any]) -> Act:
    """Values of the shape of some corners: road -> the revision that was seen."""
    chosen = [r for r in _returns(junction) if r.pk in roads]
    if len(chosen) != len(roads):
        raise BadValue("no-such-corner", "One of these corners is not there any more. Look at the junction as it is now.")
    what = "a corner" if len(chosen) == 1 else "all corners" if len(chosen) == len(_returns(junction)) else "corners"
    with act(junction.project, user, f"Change {what} of {junction.name}") as doing:
        for road in chosen:
            shape = asdict(shape_with(road.course["shape"], values))
            doing.change(road, revision=roads[road.pk], course={**road.course, "shape": shape})
    return doing


@rehearsed
def copy_corners(junction: Junction, user: User, *, revision: int, other: Junction) -> Act:
    """The corners of a junction take the shapes of another's, hand by hand; and it its run-out and structure."""
    theirs = {(r.course["arm"], r.course["hand"]): r.course["shape"] for r in _returns(other)}
    by_hand = {hand: shape for (_, hand), shape in theirs.items()}
    with act(junction.project, user, f"Copy corners of {other.name} to {junction.name}") as doing:
        doing.change(junction, revision=revision, run_out=other.run_out, structure=other.structure)
        for road in _returns(junction):
            key = road.course["arm"], road.course["hand"]
            shape = theirs.get(key, by_hand.get(key[1]))
            if shape is not None:
                doing.change(road, course={**road.course, "shape": shape})
    return doing


@rehearsed
def delete_junction(junction: Junction, user: User, *, revision: int) -> tuple[Act, list[str]]:
    with act(junction.project, user, f"Delete junction {junction.name}") as doing:
        count = _remove(doing, junction, revision)
    return doing, [f"{junction.name} is deleted with its {count} returns. Undo brings it back."]


def _remove(doing: Act, junction: Junction, revision: int | None = None, going: int | None = None) -> int:
    """``going``: a road that is deleted in this act anyway."""
    returns = _returns(junction)
    for road in returns:
        doing.remove(road)
    doing.remove(junction, revision=revision)
    if junction.main.course.get("kind") == "existing" and junction.main_id != going:  # it is there for the junction alone
        _let_go_of_edge(doing, junction)
    return len(returns)


def _let_go_of_edge(doing: Act, junction: Junction) -> None:
    side = Road.objects.get(pk=junction.side_id)
    let_go(doing, side, junction.main)
    doing.remove(junction.main)


def drop_junctions(doing: Act, road: Road) -> list[str]:
    """Junctions of a road that goes, and one whose last corner goes, go with it; what is to be told."""
    told = []
    for junction in Junction.present.filter(project=road.project_id):
        if road.pk in (junction.main_id, junction.side_id):
            told.append(f"The junction {junction.name} goes with it, and its {_remove(doing, junction, going=road.pk)} returns.")
        elif road.course.get("junction") == junction.pk and not [r for r in _returns(junction) if r.pk != road.pk]:
            doing.remove(junction)
            told.append(f"It was the last corner of {junction.name}, which goes with it.")
    return told


# --- levels ---------------------------------------------------------------------------------------------------
@rehearsed
def pin(road: Road, user: User) -> Act:
    """The levels of a return stay as they are now."""
    if not assemble_road(road).levels_follow:
        raise BadValue("already-pinned", f"The levels of {road.name} are its own already.")
    with act(road.project, user, f"Pin the levels of {road.name}") as doing:
        pinned_rows(doing, road)
    return doing


@rehearsed
def let_follow(road: Road, user: User) -> Act:
    """The levels of a return follow from its roads again."""
    inputs = assemble_road(road)
    if inputs.return_of is None or inputs.levels_follow:
        raise BadValue("not-pinned", f"The levels of {road.name} are not pinned.")
    with act(road.project, user, f"Let the levels of {road.name} follow") as doing:
        for row in RoadPVI.present.filter(road=road, candidate=road.candidate):
            doing.remove(row)
    return doing
