"""Acts on whole lines: parallels, kept elements, ties of ends, reversal, and what goes with them."""

from __future__ import annotations

import itertools
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.course import convert_to_pis, told_elements
from ivoryridge.core.alignment.horizontal import project_points
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.errors import InputError, IvoryRidgeError
from ivoryridge.core.units import format_station

from ..edits.along import mirrored_variation
from ..edits.reversal import (
    mirrored_course,
    mirrored_crossfall,
    mirrored_guide,
    mirrored_pvi,
    mirrored_speeds,
    mirrored_ties,
)
from ..inputs.network import assemble_road
from ..ledger import Act
from ..models import Junction, Project, Road, RoadPI, RoadPVI, SheetSet, Template, Variation
from ..refusals import BadValue
from ..results.levels import levels_of
from ..results.line import line_of
from .standing import act, rehearsed

__all__ = [
    "change_offset",
    "convert_line",
    "create_course",
    "free_line",
    "hanging_on",
    "let_go",
    "reverse_road",
    "set_equations",
    "set_free",
    "tie_end",
    "untie_end",
]

_DECIMALS = 9  # of mirrored stations: twice mirrored, a station typed in micrometres is itself again


@rehearsed
def create_course(
    project: Project,
    user: User,
    *,
    name: str,
    course: dict[str, Any],
    start_station: float = 0.0,
    like: Road | None = None,
    pvis: Any = (),
) -> tuple[Act, Road]:
    """A road whose line is kept by elements or parallel to another's; template and ground as the other road's, or the first ones."""
    with act(project, user, f"Add road {name}") as doing:
        road = Road(
            project=project, name=name, course=course, start_station=start_station,
            template=like.template if like else Template.present.filter(project=project).first(),
            surface=like.surface if like else project.surfaces.filter(removed=False).first(),
            interval=like.interval if like else 10.0,
            fineness=like.fineness if like else None, speeds=like.speeds if like else [],
        )  # fmt: skip
        doing.create(road)
        doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"))
        for i, p in enumerate(pvis):
            last = i == len(pvis) - 1
            held = {"anchor": "start"} if i == 0 else {"anchor": "end"} if last else {"anchor": "station", "station": p.station}
            doing.create(
                RoadPVI(road=road, elevation=p.elevation, half_in=p.half_in, half_out=p.half_out, circular=p.circular, **held)
            )
    return doing, road


def set_free(doing: Act, road: Road) -> None:
    """A parallel becomes a line of its own, kept by elements just where it lies."""
    line = line_of(assemble_road(road))
    doing.change(road, course={"kind": "elements", "elements": told_elements(line)})


def _own_line(road: Road) -> None:
    if road.course.get("kind") == "existing":
        raise BadValue("edge-stays", f"{road.name} is the edge of a road that is there, and stays as it lies.")
    if road.course.get("kind") == "return":
        raise BadValue(
            "return-follows", f"{road.name} is a corner of a junction and follows its roads. Change its radius, or those roads."
        )


@rehearsed
def convert_line(road: Road, user: User, *, revision: int) -> tuple[Act, list[str]]:
    """A line kept by elements, or a parallel, becomes a line by PIs; says how far that moves it."""
    _own_line(road)
    if not road.course:
        raise BadValue("line-has-pis", f"{road.name} is laid out by PIs already.")
    found = convert_to_pis(line_of(assemble_road(road)))
    with act(road.project, user, f"Lay {road.name} out by PIs") as doing:
        doing.change(road, revision=revision, course={})
        pins, moved = road.crossfall.get("bends", {}), {}
        for i, p in enumerate(found.pis):
            values = {
                "easting": p.easting,
                "northing": p.northing,
                "radius": p.radius,
                "spiral_in": p.spiral_in,
                "spiral_out": p.spiral_out,
            }
            row = doing.create(RoadPI(road=road, position=2.0 * i, **values))
            if str(i) in pins:
                moved[str(row.pk)] = pins[str(i)]
        if pins:
            doing.change(road, crossfall={**road.crossfall, "bends": moved})
    amount = (
        "less than 0.1 mm"
        if found.difference < 1e-4
        else f"at most {1000 * found.difference:.1f} mm, at {format_station(found.station, decimals=1)}"
    )
    return doing, [f"{road.name} has {len(found.pis)} PIs now. The line moved by {amount}."]


@rehearsed
def free_line(road: Road, user: User, *, revision: int) -> Act:
    if road.course.get("kind") != "offset":
        raise BadValue("not-linked", f"The line of {road.name} hangs on no other road.")
    with act(road.project, user, f"Set the line of {road.name} free") as doing:
        doing.change(road, revision=revision)
        set_free(doing, road)
    return doing


@rehearsed
def change_offset(road: Road, user: User, *, revision: int, offset: float) -> Act:
    if road.course.get("kind") != "offset":
        raise BadValue("not-linked", f"The line of {road.name} hangs on no other road.")
    with act(road.project, user, f"Change the offset of {road.name}") as doing:
        doing.change(road, revision=revision, course={**road.course, "offset": offset})
    return doing


@rehearsed
def tie_end(
    road: Road, user: User, *, revision: int, end: str, other: Road, station: float | None, level: str = ""
) -> tuple[Act, list[str]]:
    """Tie an end to a place on another road; without a station to the place nearest to where the end is now."""
    inputs = assemble_road(road)
    if len(inputs.pis) < 2:
        raise BadValue("no-own-pis", f"Only a line laid out by PIs can be tied; {road.name} has none.")
    if other.pk == road.pk:
        raise BadValue("tied-to-itself", "A road cannot be tied to itself. Choose another road.", field="road")
    rows = inputs.pi_rows
    if (rows[0] if end == "start" else rows[-2])[0] in inputs.held_straights:
        raise BadValue(
            "straight-held",
            f"The straight at the {end} of {road.name} is held, so this end cannot follow another road. Let it go first.",
        )
    line = line_of(assemble_road(other))
    pi = inputs.pis[0 if end == "start" else -1]
    if station is None:
        nearest = float(project_points(line, [[pi.easting, pi.northing]]).station[0])
        station = min(max(nearest, line.start_station), line.end_station)  # beyond an end, that end is nearest
    if not line.start_station - 1e-6 <= station <= line.end_station + 1e-6:
        raise InputError("station-outside", station=station, start=line.start_station, end=line.end_station)
    if level and not assemble_road(other).has_profile:
        raise BadValue("no-level-there", f"{other.name} has no profile yet, so there is no level to follow.", field="level")
    with act(road.project, user, f"Tie the {end} of {road.name} to {other.name}") as doing:
        doing.change(
            road,
            revision=revision,
            ties={**road.ties, end: {"road": other.pk, "station": round(station, _DECIMALS), "level": level}},
        )
    return doing, [
        f"The {end} of {road.name} is tied to {other.name} at {format_station(station)} and follows it{' in level, too' if level else ''}."
    ]


@rehearsed
def untie_end(road: Road, user: User, *, revision: int, end: str) -> Act:
    """The end stays where it is now, on its own."""
    if end not in road.ties:
        raise BadValue("not-tied", f"The {end} of {road.name} is not tied.")
    line = line_of(assemble_road(road))
    place = line.evaluate(line.start_station if end == "start" else line.end_station)[0][0]
    rows = list(RoadPI.present.filter(road=road))
    with act(road.project, user, f"Untie the {end} of {road.name}") as doing:
        doing.change(road, revision=revision, ties={k: v for k, v in road.ties.items() if k != end})
        doing.change(rows[0 if end == "start" else -1], easting=float(place[0]), northing=float(place[1]))
    return doing


def hanging_on(road: Road) -> list[Road]:
    """Roads whose line is a parallel of this one's, or tied to it."""
    others = Road.present.filter(project=road.project).exclude(pk=road.pk)
    follow = {v.road_id for v in Variation.present.filter(kind="follow", data__road=road.pk)}
    return [
        r
        for r in others
        if r.course.get("road") == road.pk or any(t["road"] == road.pk for t in r.ties.values()) or r.pk in follow
    ]


def let_go(doing: Act, other: Road, road: Road) -> None:
    """What hangs on a road that goes stays where it is."""
    for row in Variation.present.filter(road=other, kind="follow", data__road=road.pk):
        doing.remove(row)
    if other.course.get("road") == road.pk:
        set_free(doing, other)
    rows = list(RoadPI.present.filter(road=other))
    try:
        line = line_of(assemble_road(other))
    except IvoryRidgeError:  # it lay nowhere before, so its own PIs are all there is to stay
        doing.change(other, ties={e: t for e, t in other.ties.items() if t["road"] != road.pk})
        return
    for end in [e for e, t in other.ties.items() if t["road"] == road.pk]:
        place = line.evaluate(line.start_station if end == "start" else line.end_station)[0][0]
        doing.change(rows[0 if end == "start" else -1], easting=float(place[0]), northing=float(place[1]))
    doing.change(other, ties={e: t for e, t in other.ties.items() if t["road"] != road.pk})


@rehearsed
def set_equations(road: Road, user: User, *, revision: int, equations: list[list[float]]) -> tuple[Act, list[str]]:
    """Chainage equations [station m, jump m]; says where chainages occur twice or not at all."""
    line = line_of(assemble_road(road))
    rows = sorted([float(s), float(j)] for s, j in equations)
    for s, j in rows:
        if not line.start_station + 1e-6 < s < line.end_station - 1e-6:
            raise BadValue(
                "equation-outside", f"A chainage equation at {format_station(s)} lies outside the road, or at its end. It runs from "
                f"{format_station(line.start_station)} to {format_station(line.end_station)}.", field="equations",
            )  # fmt: skip
        if j == 0:
            raise BadValue(
                "equation-idle",
                f"The equation at {format_station(s)} changes nothing. Give another chainage to count on from.",
                field="equations",
            )
    if any(b[0] - a[0] < 1e-3 for a, b in itertools.pairwise(rows)):
        raise BadValue(
            "equations-together", "Two chainage equations stand at the same place. Take one of them away.", field="equations"
        )
    told = []
    for i, (s, j) in enumerate(rows):
        back = float(counted_at(s, [(a, b) for a, b in rows[:i]])[0])
        low, high = format_station(min(back, back + j)), format_station(max(back, back + j))
        told.append(
            f"Chainages from {low} to {high} do not occur."
            if j > 0
            else f"Chainages from {low} to {high} occur twice; a typed one takes the place nearer to the reading mark."
        )
    with act(road.project, user, f"Change the chainage equations of {road.name}") as doing:
        doing.change(road, revision=revision, equations=rows)
    return doing, told


# --- reversal ------------------------------------------------------------------------------------------------
@rehearsed
def reverse_road(road: Road, user: User, *, revision: int) -> tuple[Act, list[str]]:
    """The road in the other direction. Chainages, sides, grades, crossfall, speeds, guides and equations are mirrored; twice
    restores every value."""
    _own_line(road)
    if road.course.get("kind") == "offset":
        raise BadValue("linked-reversal", f"{road.name} runs as the road it is parallel to. Set it free before you reverse it.")
    inputs = assemble_road(road)
    line = line_of(inputs)
    whole = line.start_station + line.end_station
    grades = [r.id for r in levels_of(inputs).rows] if inputs.has_profile else []

    def mirror(station: float) -> float:
        return round(whole - station, _DECIMALS)

    bends = int(line.pi_of.max(initial=0)) if road.course else None
    with act(road.project, user, f"Reverse {road.name}") as doing:
        rows = list(RoadPI.present.filter(road=road))
        straights = [False, *(r.straight_held for r in rows[:-1])][: len(rows)]  # a straight begins at its other PI now
        for row, position, straight in zip(rows, reversed([r.position for r in rows]), straights, strict=True):
            doing.change(row, position=position, spiral_in=row.spiral_out, spiral_out=row.spiral_in, straight_held=straight)
        for pvi in RoadPVI.present.filter(road=road):
            doing.change(pvi, **mirrored_pvi(pvi, mirror))
        for varied in Variation.present.filter(road=road):
            doing.change(varied, **mirrored_variation(varied, mirror))
        doing.change(
            road, revision=revision, mirrored=not road.mirrored, course=mirrored_course(road, line), ties=mirrored_ties(road),
            speeds=mirrored_speeds(road, line.start_station, mirror), guides=[mirrored_guide(g, mirror, grades) for g in road.guides],
            crossfall=mirrored_crossfall(road.crossfall, bends), equations=sorted([mirror(s), -j] for s, j in road.equations),
            fixed_points=[{**f, "station": mirror(f["station"])} for f in road.fixed_points],
        )  # fmt: skip
        for corner in Road.present.filter(project=road.project, course__kind="return"):
            if Junction.present.filter(pk=corner.course["junction"], side=road).exists():
                arm = {"before": "after", "after": "before"}[corner.course["arm"]]
                doing.change(corner, course={**corner.course, "arm": arm})
        for other in hanging_on(road):
            _follow_reversal(doing, other, road, mirror)
        for led in Variation.present.filter(road__project=road.project, kind="led", data__road=road.pk):
            if side := {"left": "right", "right": "left"}.get(led.data.get("edge_side", "")):
                doing.change(led, data={**led.data, "edge_side": side})
    return doing, [f"{road.name} runs the other way now; its sides, grades and chainages are mirrored."]


def _follow_reversal(doing: Act, other: Road, road: Road, mirror: Any) -> None:
    """What hangs on the reversed road stays where it lies: ties keep their place, a parallel runs against its road."""
    ties = {end: {**t, "station": mirror(t["station"])} if t["road"] == road.pk else t for end, t in other.ties.items()}
    course = dict(other.course)
    if course.get("road") == road.pk:
        course["against"] = not course.get("against", False)
    doing.change(other, ties=ties, course=course)
