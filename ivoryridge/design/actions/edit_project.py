"""Acts on a project's settings."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.wording import quantity

from ..inputs.standards import all_standards
from ..ledger import Act
from ..models import Project, SurveySet
from ..refusals import BadValue
from ..results.surface import survey_arrays
from .standing import act, rehearsed

__all__ = ["change_project", "set_annotations"]


@rehearsed
def change_project(project: Project, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if "standard" in values and values["standard"] not in all_standards():
        raise BadValue("standard-unknown", "There is no such standard here.", field="standard")
    name = values.get("standard", project.standard)
    fastest = all_standards()[name].rows[-1]["speed"] if name in all_standards() else 200.0
    if not values.get("design_speed", project.design_speed) <= fastest + 0.5:
        raise BadValue(
            "speed-outside", f"{all_standards()[name].name} has values up to {quantity(fastest, 'kmh', 0)}. Choose a slower design "
            f"speed, or another standard.",
            field="design_speed",
        )  # fmt: skip
    if "land" in values:
        _check_land(project, values["land"])
    label = "Change the land boundary" if set(values) == {"land"} else "Change the project's settings"
    with act(project, user, label) as doing:
        doing.change(project, revision=revision, **values)
    return doing


def _check_land(project: Project, land: dict[str, Any]) -> None:
    if land.get("survey") is None:
        return
    survey = SurveySet.present.only("name").filter(project=project, pk=land["survey"]).first()
    if survey is None:
        raise BadValue("no-such-survey", "Choose the survey that holds the boundary.", field="land")
    if land.get("layer", "") not in survey_arrays(survey.pk).line_codes:
        raise BadValue("no-such-layer", f"{survey.name} has no line on the layer '{land.get('layer', '')}'.", field="land")


@rehearsed
def set_annotations(project: Project, user: User, *, revision: int, styles: list[dict[str, Any]]) -> Act:
    """Named styles in which lines are annotated on the plan."""
    if len({s["name"] for s in styles}) < len(styles):
        raise BadValue("styles-twice", "Two styles have the same name.", field="styles")
    with act(project, user, "Change the annotation styles") as doing:
        doing.change(project, revision=revision, annotations=styles)
    return doing
