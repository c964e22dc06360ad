"""Acts on a road as a whole."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.finer import LEAST_INTERVAL
from ivoryridge.core.errors import InputError, NoSolutionError
from ivoryridge.core.wording import quantity

from ..inputs.network import assemble_road, planned_road
from ..inputs.standards import all_standards
from ..ledger import Act
from ..models import Project, Road, RoadPI, RoadPVI, SheetSet, Surface, Template
from ..refusals import BadValue
from ..results.against import design_findings
from .edit_course import hanging_on, let_go
from .edit_junction import drop_junctions
from .edit_profile import create_pvis
from .edit_surface import own_row
from .propose_profile import first_profile
from .standing import act, rehearsed

__all__ = ["accept_departure", "change_road", "create_road", "delete_road", "draw_road", "free_name", "set_speeds"]

RURAL = [
    {"id": "carriageway", "part": "carriageway", "values": {}},
    {"id": "verge", "part": "verge", "values": {}},
    {"id": "slope", "part": "side_slopes", "values": {}},
]


def draw_road(project: Project, user: User, *, name: str, pis: list[dict[str, float]]) -> tuple[Act, Road, list[str]]:
    """A road from a drawn line: with a profile fitted to the ground and a template, so that it has sections at once. Where no profile
    can be fitted it has none, and why is told; nor while its bends have no radii, since they will shorten the line under it."""
    surface = Surface.present.filter(project=project).first()
    rows = [RoadPI(position=2.0 * i, **values) for i, values in enumerate(pis)]
    planned = planned_road(Road(project=project, name=name, surface=surface), rows)
    pvis: list[PVI] = []
    if planned.surface is None or not planned.surface.sources:
        told = ["It has no profile yet: there is no ground to fit one to."]
    elif any(not pi.radius for pi in rows[1:-1]):
        told = ["Give its bends radii; then Levels fits a profile to the ground."]
    elif planned.has_line:
        try:
            pvis = first_profile(planned)
            told = [f"Its profile is fitted to the ground with {len(pvis)} PVIs."]
        except (InputError, NoSolutionError) as error:
            told = [f"It has no profile yet. {error.sentence}"]
    else:
        told = []
    doing, road = create_road(project, user, name=name, pis=pis, pvis=pvis)
    return doing, road, told


@rehearsed
def create_road(
    project: Project, user: User, *, name: str, pis: list[dict[str, float]] | None = None, pvis: Sequence[PVI] = ()
) -> tuple[Act, Road]:
    """A road over the project's first surface, with its first template; a rural template is made when there is none."""
    name = free_name(name, Road.present.filter(project=project).values_list("name", flat=True))
    with act(project, user, f"Add road {name}") as doing:
        template = Template.present.filter(project=project).first()
        if template is None:
            template = doing.create(Template(project=project, name="Rural single carriageway", left=RURAL, right=RURAL))
        surface = Surface.present.filter(project=project).first()
        road = doing.create(Road(project=project, name=name, template=template, surface=surface))
        for i, values in enumerate(pis or []):
            doing.create(RoadPI(road=road, position=2.0 * i, **values))
        create_pvis(doing, road, pvis)
        doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"))
    return doing, road


def free_name(name: str, taken: Any) -> str:
    """A name that nothing else of its kind has: the wanted one, or with a number behind it."""
    name = name.strip() or "Road"
    used, number, wanted = set(taken), 2, name
    while wanted in used:
        wanted, number = f"{name} {number}", number + 1
    return wanted


@rehearsed
def change_road(road: Road, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if values.get("interval") is not None and not values["interval"] >= LEAST_INTERVAL:
        raise BadValue(
            "interval-small",
            f"A section every {quantity(values['interval'], 'm')} is too close; use at least {quantity(LEAST_INTERVAL, 'm')}.",
            field="interval",
        )
    if values.get("fineness") is not None and road.course.get("kind") == "return":
        raise BadValue(
            "fineness-of-return",
            f"{road.name} is a return: the junction's surface meets its sections, so they stand at their interval and no closer.",
            field="fineness",
        )
    if "surface_id" in values and values["surface_id"] is not None:
        own_row(Surface, road.project, values["surface_id"])
    if "template_id" in values and values["template_id"] is not None:
        own_row(Template, road.project, values["template_id"])
    label = f"Rename {road.name} to {values['name']}" if set(values) == {"name"} else f"Change {road.name}"
    with act(road.project, user, label) as doing:
        doing.change(road, revision=revision, **values)
    return doing


@rehearsed
def set_speeds(road: Road, user: User, *, revision: int, speeds: list[list[float]]) -> Act:
    """Design speeds along the road that differ from the project's, each [station m, km/h] from its station on."""
    stations = [s for s, _ in speeds]
    if len(set(stations)) < len(stations):
        raise BadValue("speeds-twice", "Two design speeds start at the same chainage. Take one of them away.", field="speeds")
    fastest = all_standards()[road.project.standard].rows[-1]["speed"] if road.project.standard in all_standards() else 200.0
    if wrong := next((v for _, v in speeds if not 20 <= v <= fastest), None):
        raise BadValue(
            "speed-outside",
            f"A design speed of {quantity(wrong, 'kmh')} is outside {quantity(20, 'kmh')} to {quantity(fastest, 'kmh', 0)}, for which "
            f"the standard has values.",
            field="speeds",
        )
    with act(road.project, user, f"Change the design speeds of {road.name}") as doing:
        doing.change(road, revision=revision, speeds=sorted([float(s), float(v)] for s, v in speeds))
    return doing


@rehearsed
def accept_departure(road: Road, user: User, *, revision: int, key: str, remark: str) -> Act:
    """Accept a finding against the standard with a remark, or, with an empty remark, take the acceptance back."""
    if key in road.departures and not remark.strip():
        with act(road.project, user, f"Take a departure of {road.name} back") as doing:
            doing.change(road, revision=revision, departures={k: v for k, v in road.departures.items() if k != key})
        return doing
    found = next((f for f in design_findings(assemble_road(road)) if f.key == key), None)
    if found is None:
        raise BadValue("no-such-finding", "This finding is not there any more; what it was about has changed.")
    if not remark.strip():
        raise BadValue("remark-missing", "Say in a few words why it is accepted; the checker will ask.", field="remark")
    kept = {"remark": remark.strip()[:300], "by": user.get_username(), "accepted": found.finding.sentence}
    with act(road.project, user, f"Accept a departure of {road.name}") as doing:
        doing.change(road, revision=revision, departures={**road.departures, key: kept})
    return doing


@rehearsed
def delete_road(road: Road, user: User, *, revision: int) -> tuple[Act, list[str]]:
    pis, pvis = RoadPI.present.filter(road=road).count(), RoadPVI.present.filter(road=road).count()
    told: list[str] = []
    with act(road.project, user, f"Delete road {road.name}") as doing:
        for other in hanging_on(road):
            let_go(doing, other, road)
            told.append(f"{other.name} hung on it and stays where it is, on its own.")
        told += drop_junctions(doing, road)
        doing.remove(road, revision=revision)
    return doing, [*told, f"{road.name} is deleted with its {pis} PIs, {pvis} PVIs and its sheets. Undo brings it back."]
