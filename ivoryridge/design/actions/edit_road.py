"""Acts on roads, templates, surfaces and sheet sets as a whole."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.section.template import Part, library_part

from ..inputs.network import assemble_road
from ..inputs.road import template_from_row
from ..inputs.standards import all_standards
from ..ledger import Act
from ..models import Project, Road, RoadPI, RoadPVI, SheetSet, Surface, SurveySet, Template
from ..refusals import BadValue
from ..results.against import design_findings
from .edit_course import hanging_on, let_go
from .standing import act, rehearsed

__all__ = [
    "accept_departure",
    "change_project",
    "change_road",
    "change_sheet_set",
    "change_surface",
    "change_template",
    "create_road",
    "delete_road",
    "delete_surface",
    "rename",
    "set_annotations",
    "set_speeds",
]

RURAL = [
    {"id": "carriageway", "part": "carriageway", "values": {}},
    {"id": "verge", "part": "verge", "values": {}},
    {"id": "slope", "part": "side_slopes", "values": {}},
]
LEAST_INTERVAL = 0.5  # m between sections; nearer ones tell nothing more (common practice, no source)


@rehearsed
def create_road(project: Project, user: User, *, name: str, pis: list[dict[str, float]] | None = None) -> tuple[Act, Road]:
    """A road over the project's first surface, with its first template; a rural template is made when there is none."""
    name = _free_name(name, Road.present.filter(project=project).values_list("name", flat=True))
    with act(project, user, f"Add road {name}") as doing:
        template = Template.present.filter(project=project).first()
        if template is None:
            template = doing.create(Template(project=project, name="Rural single carriageway", left=RURAL, right=RURAL))
        surface = Surface.present.filter(project=project).first()
        road = doing.create(Road(project=project, name=name, template=template, surface=surface))
        for i, values in enumerate(pis or []):
            doing.create(RoadPI(road=road, position=2.0 * i, **values))
        doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"))
    return doing, road


def _free_name(name: str, taken: Any) -> str:
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
            f"A section every {values['interval']:g} m is too close; use at least {LEAST_INTERVAL:g} m.",
            field="interval",
        )
    if "surface_id" in values and values["surface_id"] is not None:
        _own(Surface, road.project, values["surface_id"])
    if "template_id" in values and values["template_id"] is not None:
        _own(Template, road.project, values["template_id"])
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
            f"A design speed of {wrong:g} km/h is outside 20 to {fastest:.0f} km/h, for which the standard has values.",
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
        doing.remove(road, revision=revision)
    return doing, [*told, f"{road.name} is deleted with its {pis} PIs, {pvis} PVIs and its sheets. Undo brings it back."]


@rehearsed
def change_template(template: Template, user: User, *, revision: int, side: str, part: str, values: dict[str, Any]) -> Act:
    """Set parameter values of one part on one side, or on both."""
    sides = ("left", "right") if side == "both" else (side,)
    new: dict[str, Any] = {}
    label = ""
    for s in sides:
        rows = [dict(r) for r in getattr(template, s)]
        for r in rows:
            if r["id"] == part:
                _known(library_part(r["part"]), values)
                r["values"] = {**r.get("values", {}), **values}
                label = library_part(r["part"]).label
        new[s] = rows
    if not label:
        raise BadValue("no-such-part", f"{template.name} has no such part on that side. Reload the page.", field="part")
    with act(template.project, user, f"Change {label.lower()} of {template.name}") as doing:
        doing.change(template, revision=revision, **new)
        template_from_row(template)
    return doing


def _known(part: Part, values: dict[str, Any]) -> None:
    """Refuse values that a part does not have, and words where a number belongs."""
    by_name = {p.name: p for p in part.parameters}
    for name, value in values.items():
        p = by_name.get(name)
        if p is None:
            raise BadValue("no-such-parameter", f"{part.label} has no value called {name.replace('_', ' ')}.", field=name)
        if p.choices and value not in p.choices:
            raise BadValue("no-such-choice", f"{p.label} must be one of {', '.join(map(str, p.choices))}.", field=name)
        if not p.choices and isinstance(value, str):
            raise BadValue("not-a-number", f"{p.label} of {part.label} must be a number, not '{value[:20]}'.", field=name)


@rehearsed
def change_surface(surface: Surface, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if "sources" in values:
        for pk in values["sources"]:
            _own(SurveySet, surface.project, pk)
    if values.get("greatest_edge") is not None and not values["greatest_edge"] > 0:
        raise BadValue(
            "edge-small",
            "The greatest outer edge must be above 0 m. Leave it empty to keep the whole hull.",
            field="greatest_edge",
        )
    words = {"label_paths": "Change label paths of", "sources": "Change the sources of"}
    label = words.get(next(iter(values)), "Change surface") if len(values) == 1 else "Change surface"
    if set(values) == {"name"}:
        label = f"Rename surface to {values['name']}, before"
    with act(surface.project, user, f"{label} {surface.name}") as doing:
        doing.change(surface, revision=revision, **values)
    return doing


@rehearsed
def delete_surface(surface: Surface, user: User, *, revision: int) -> tuple[Act, list[str]]:
    roads = list(Road.present.filter(surface=surface).values_list("name", flat=True))
    with act(surface.project, user, f"Delete surface {surface.name}") as doing:
        doing.remove(surface, revision=revision)
    told = f"{surface.name} is deleted." + (
        f" {', '.join(roads)} had it as ground and {'has' if len(roads) == 1 else 'have'} none now." if roads else ""
    )
    return doing, [told + " Undo brings it back."]


@rehearsed
def change_project(project: Project, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if "standard" in values and values["standard"] not in all_standards():
        raise BadValue("standard-unknown", "There is no such standard here.", field="standard")
    name = values.get("standard", project.standard)
    fastest = all_standards()[name].rows[-1]["speed"] if name in all_standards() else 200.0
    if not values.get("design_speed", project.design_speed) <= fastest + 0.5:
        raise BadValue(
            "speed-outside", f"{all_standards()[name].name} has values up to {fastest:.0f} km/h. Choose a slower design speed, or another standard.",
            field="design_speed",
        )  # fmt: skip
    with act(project, user, "Change the project's settings") as doing:
        doing.change(project, revision=revision, **values)
    return doing


@rehearsed
def set_annotations(project: Project, user: User, *, revision: int, styles: list[dict[str, Any]]) -> Act:
    """Named styles in which lines are annotated on the plan."""
    if len({s["name"] for s in styles}) < len(styles):
        raise BadValue("styles-twice", "Two styles have the same name.", field="styles")
    with act(project, user, "Change the annotation styles") as doing:
        doing.change(project, revision=revision, annotations=styles)
    return doing


@rehearsed
def rename(row: Template | SheetSet, user: User, *, revision: int, name: str) -> Act:
    if not name.strip():
        raise BadValue("name-empty", "Type a name.", field="name")
    with act(row.project, user, f"Rename {row.name} to {name.strip()}") as doing:
        doing.change(row, revision=revision, name=name.strip()[:120])
    return doing


@rehearsed
def change_sheet_set(sheets: SheetSet, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    with act(sheets.project, user, f"Change {sheets.name}") as doing:
        doing.change(sheets, revision=revision, **values)
    return doing


def _own(model: Any, project: Project, pk: int) -> None:
    if not model.present.filter(project=project, pk=pk).exists():
        raise BadValue("not-of-project", f"There is no such {model.__name__.lower()} in this project.")
