"""Acts on a ground surface: edits of its recipe, answers to findings, roles of layers, and merging."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.terrain.checks import GroundFinding
from ivoryridge.core.terrain.coded_lines import LINE_WORDS
from ivoryridge.core.terrain.outline import pieces_of
from ivoryridge.core.terrain.recipe import ADDED, ROLES

from ..inputs.surface import assemble_surface
from ..ledger import Act
from ..models import Project, Surface, SurveySet
from ..received.preview import line_words, role_by_rules
from ..refusals import BadValue
from ..results.surface import ground_findings_of, surface_of, survey_arrays
from .standing import act, rehearsed

__all__ = ["answer_findings", "change_roles", "delete_survey", "edit_ground", "merge_into", "set_rules", "take_edit_back"]

MOST_EDITS = 5_000
_DONE = {
    "leave_out": "Leave out points", "set_level": "Set a level", "move_point": "Move a point", "add_point": "Add a point",
    "leave_out_line": "Leave out a line", "add_line": "Add a breakline", "move_vertex": "Move a vertex",
    "delete_vertex": "Delete a vertex", "fixed_vertices": "Put vertices in", "live_spacing": "Set live spacing",
    "swap_edge": "Turn a side", "delete_triangles": "Delete triangles",
}  # fmt: skip


@rehearsed
def edit_ground(
    surface: Surface,
    user: User,
    *,
    revision: int,
    edits: list[dict[str, Any]],
    label: str = "",
    answers: dict[str, Any] | None = None,
) -> Act:
    """Add edits to a surface's recipe. An edit after which there is no surface is refused, and the last good one stays."""
    if len(surface.edits) + len(edits) > MOST_EDITS:
        raise BadValue("too-many-edits", f"A surface keeps at most {MOST_EDITS} edits. Correct the file, and bring it in anew.")
    words = label or f"{_DONE.get(edits[0]['do'], 'Edit')} in {surface.name}"
    with act(surface.project, user, words) as doing:
        doing.change(surface, revision=revision, edits=[*surface.edits, *edits], **({"answers": answers} if answers else {}))
    return doing


@rehearsed
def take_edit_back(surface: Surface, user: User, *, revision: int, index: int) -> Act:
    """Leave one edit out, wherever it stands in the list; those after it stay, but for edits of what it had added."""
    if not 0 <= index < len(surface.edits):
        raise BadValue("no-such-edit", "This edit is not in the list any more.")
    kept = _without(surface.edits, index)
    with act(surface.project, user, f"Take back: {_DONE[surface.edits[index]['do']].lower()} in {surface.name}") as doing:
        doing.change(surface, revision=revision, edits=kept)
    return doing


def _without(edits: list[dict[str, Any]], index: int) -> list[dict[str, Any]]:
    """The edits but for one. If that one added a point or line, edits of it go too, and later additions move up a number."""
    gone = edits[index]
    rest = [e for i, e in enumerate(edits) if i != index]
    if gone["do"] not in ("add_point", "add_line"):
        return rest
    what = gone["do"].removeprefix("add_")
    number = sum(e["do"] == gone["do"] for e in edits[:index])

    def moved(e: dict[str, Any]) -> dict[str, Any] | None:
        if e.get("survey") != ADDED:
            return e
        if what == "point" and "points" in e:
            points = [n - (n > number) for n in e["points"] if n != number]
            return {**e, "points": points} if points else None
        if what in e:
            return None if e[what] == number else {**e, what: e[what] - (e[what] > number)}
        return e

    return [m for e in rest if (m := moved(e)) is not None]


@rehearsed
def answer_findings(
    surface: Surface, user: User, *, revision: int, keys: list[str], how: str, level: float | None = None, remark: str = ""
) -> Act:
    """Answer findings, all alike in one step: ``leave_out`` their points, ``set_level`` (to the level around each, or one that is typed),
    ``change_over`` coordinates, ``keep`` with a remark, or ``ask_again`` to take kept ones back."""
    some = "a finding" if len(keys) == 1 else f"{len(keys)} findings"
    if how == "ask_again":
        with act(surface.project, user, f"Ask again in {surface.name}") as doing:
            doing.change(surface, revision=revision, answers={k: v for k, v in surface.answers.items() if k not in keys})
        return doing
    recipe = assemble_surface(surface)
    wanted = set(keys)
    found = [f for f in ground_findings_of(recipe) if f.key in wanted]
    if len(found) < len(wanted):
        raise BadValue("no-such-finding", "This finding is not there any more; what it was about has changed.")
    if how == "keep":
        if not remark.strip():
            raise BadValue("remark-missing", "Say in a few words why it is kept; the next reader will ask.", field="remark")
        with act(surface.project, user, f"Keep {some} in {surface.name}") as doing:
            kept = {"remark": remark.strip()[:300], "by": user.get_username()}
            answers = {f.key: kept | {"sentence": f.finding.sentence} for f in found}
            doing.change(surface, revision=revision, answers={**surface.answers, **answers})
        return doing
    ids = [s.id for s in recipe.sources]
    edits = [e for f in found for e in _edits_for(f, how, level, ids)]
    what = found[0].finding.code.replace("-", " ")
    return edit_ground(surface, user, revision=revision, edits=edits, label=f"{_HOW[how]} ({what if len(found) == 1 else some})")


_HOW = {"leave_out": "Leave out points", "set_level": "Set a level", "change_over": "Change easting and northing over"}


def _edits_for(found: GroundFinding, how: str, level: float | None, ids: list[int]) -> list[dict[str, Any]]:
    points = [(ids[s - 1] if s else 0, i) for s, i in found.points]
    if not points or how not in _HOW:
        raise BadValue("no-such-answer", "This finding cannot be answered so.")
    if how == "leave_out":
        chosen = points[-1:] if found.finding.code == "duplicate-levels" else points
        return [
            {"do": "leave_out", "survey": s, "points": [i for t, i in chosen if t == s]}
            for s in dict.fromkeys(s for s, _ in chosen)
        ]
    survey, point = points[0]
    if how == "set_level":
        value = found.level if level is None else level
        if value is None:
            raise BadValue("level-missing", "Type the level the point should have.", field="level")
        return [{"do": "set_level", "survey": survey, "point": point, "level": value}]
    e, n = found.finding.place or (0.0, 0.0)
    return [{"do": "move_point", "survey": survey, "point": point, "to": [n, e, float(survey_arrays(survey).points[point, 2])]}]


@rehearsed
def change_roles(survey: SurveySet, user: User, *, revision: int, roles: dict[str, str], name: str | None = None) -> Act:
    """Sort layers of a survey by hand, or rename it. Surfaces made from it follow; if one could not be made, nothing is changed."""
    known = {f"{la['type']}/{la['code']}" for la in survey.layers}
    if (wrong := set(roles.values()) - set(ROLES)) or (wrong := set(roles) - known):
        raise BadValue("no-such-role", f"'{min(wrong)}' is not a layer or role of {survey.name}.")
    values: dict[str, Any] = {"roles": {**survey.roles, **roles}} if roles else {}
    if name and name.strip():
        values["name"] = name.strip()[:200]
    label = f"Sort layers of {survey.name}" if roles else f"Rename {survey.name} to {values.get('name')}"
    with act(survey.project, user, label) as doing:
        doing.change(survey, revision=revision, **values)
    return doing


@rehearsed
def delete_survey(survey: SurveySet, user: User, *, revision: int) -> tuple[Act, list[str]]:
    """Take a survey out of the project: its surfaces are made without it, and edits of it go. One step of undo."""
    using = [s for s in Surface.present.filter(project=survey.project) if survey.pk in s.sources]
    with act(survey.project, user, f"Delete survey {survey.name}") as doing:
        doing.remove(survey, revision=revision)
        for surface in using:
            edits = [e for e in surface.edits if e.get("survey") != survey.pk]
            doing.change(surface, sources=[i for i in surface.sources if i != survey.pk], edits=edits)
    names = ", ".join(s.name for s in using)
    told = f"{survey.name} is deleted" + (f"; {names} {'is' if len(using) == 1 else 'are'} made without it." if using else ".")
    return doing, [told + " The received file stays. Undo brings it back."]


@rehearsed
def set_rules(
    project: Project, user: User, *, revision: int, rules: list[dict[str, str]], again: bool = False
) -> tuple[Act, list[str]]:
    """The project's sorting rules, in order. They speak when a file comes in; ``again``: layers that are in already are sorted by them,
    too, and those that no rule fits stay as they are."""
    clean = []
    for i, r in enumerate(rules, 1):
        if not r.get("pattern", "").strip() or r.get("role") not in (*ROLES, *LINE_WORDS):
            raise BadValue("bad-rule", f"Sorting rule {i} needs a pattern such as GRD* and one of the roles.", field=f"rule {i}")
        clean.append({"pattern": r["pattern"].strip()[:80], "type": r.get("type", "") or "", "role": r["role"]})
    with act(project, user, "Change the sorting rules") as doing:
        doing.change(project, revision=revision, sorting_rules=clean)
        told = []
        for survey in SurveySet.present.filter(project=project).defer("arrays") if again else ():
            own = {f"{la['type']}/{la['code']}": role_by_rules(clean, la["type"], la["code"]) for la in survey.layers}
            new = {key: role for key, role in own.items() if role and survey.roles.get(key) != role}
            words = line_words(clean)
            if new or any(survey.roles.get(what) != said for what, said in words.items()):
                doing.change(survey, roles={**survey.roles, **new, **words})
                told.append(f"{survey.name}: {len(new)} {'layer' if len(new) == 1 else 'layers'} sorted anew.")
        if again and not told:
            told.append("Every layer that is in already lies as the rules say.")
    return doing, told


def _with_edits_of(edits: list[dict[str, Any]], others: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Edits and those of another surface. Points and lines that the other's edits added get numbers after the own ones, also
    where its later edits name them."""
    before = {what: sum(e["do"] == f"add_{what}" for e in edits) for what in ("point", "line")}
    out = list(edits)
    for e in others:
        if e["do"] in ("add_point", "add_line"):
            out.append(e)
            continue
        if e.get("survey") == ADDED:
            e = dict(e)
            if "line" in e:
                e["line"] += before["line"]
            if "point" in e:
                e["point"] += before["point"]
            if "points" in e:
                e["points"] = [n + before["point"] for n in e["points"]]
        if e not in out:
            out.append(e)
    return out


@rehearsed
def merge_into(surface: Surface, user: User, *, revision: int, others: list[int]) -> tuple[Act, list[str]]:
    """Put what other surfaces are made from under this one, in order of priority; they stay as they are."""
    rows = {s.pk: s for s in Surface.present.filter(project=surface.project, pk__in=others).exclude(pk=surface.pk)}
    if not rows or set(others) - set(rows):
        raise BadValue("nothing-to-merge", "Choose another surface of this project to merge with.")
    sources, edits = list(surface.sources), list(surface.edits)
    for pk in others:
        sources += [s for s in rows[pk].sources if s not in sources]
        edits = _with_edits_of(edits, rows[pk].edits)
    with act(surface.project, user, f"Merge {', '.join(rows[pk].name for pk in others)} into {surface.name}") as doing:
        doing.change(surface, revision=revision, sources=sources, edits=edits)
    made, findings = surface_of(assemble_surface(surface))
    pieces = pieces_of(made)
    areas = ", ".join(f"{p.plan_area / 10_000:.2f} ha" for p in pieces)
    one = f"{surface.name} is one connected surface of {areas}."
    many = (
        f"{surface.name} is in {len(pieces)} pieces ({areas}): they do not touch. "
        "Bring in what lies between, or raise the longest outer edge."
    )
    return doing, [one if len(pieces) == 1 else many, *(f.sentence for f in findings)]
