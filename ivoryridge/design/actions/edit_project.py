"""Acts on a project's settings."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from ivoryridge.core.wording import quantity

from ..inputs.standards import all_standards
from ..ledger import Act
from ..models import Membership, Project, SurveySet
from ..refusals import BadValue
from ..results.surface import survey_arrays
from .standing import act, rehearsed

__all__ = ["change_project", "create_project", "delete_project", "restore_project", "set_annotations"]


def create_project(
    user: User, *, name: str, standard: str | None = None, design_speed: float | None = None, length_unit: str | None = None
) -> Project:
    """A new project with its standard and design speed; who makes it is its owner. What is not said stays as usual."""
    said = {"standard": standard, "design_speed": design_speed, "length_unit": length_unit}
    project = Project(name=name, **{k: v for k, v in said.items() if v is not None})
    _check_standard(project.standard, project.design_speed)
    if project.length_unit != "m":
        project.chainage_group = 100  # common practice where lengths are feet, no source
    with transaction.atomic():
        project.save()
        Membership.objects.create(project=project, user=user, role="owner")
    return project


def delete_project(project: Project) -> None:
    """It is kept, marked as removed; an owner may take it back."""
    Project.objects.filter(pk=project.pk).update(removed=True)


def restore_project(project: Project) -> None:
    Project.objects.filter(pk=project.pk).update(removed=False)


def _check_standard(standard: str, speed: float) -> None:
    if standard not in all_standards():
        raise BadValue("standard-unknown", "There is no such standard here.", field="standard")
    fastest = all_standards()[standard].rows[-1]["speed"]
    if not speed <= fastest + 0.5:
        raise BadValue(
            "speed-outside", f"{all_standards()[standard].name} has values up to {quantity(fastest, 'kmh', 0)}. Choose a slower design "
            f"speed, or another standard.",
            field="design_speed",
        )  # fmt: skip


@rehearsed
def change_project(project: Project, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    if "standard" in values or "design_speed" in values:
        _check_standard(values.get("standard", project.standard), values.get("design_speed", project.design_speed))
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
