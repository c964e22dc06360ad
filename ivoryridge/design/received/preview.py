"""What a file holds, looked at before anything of it is stored: inventory, sorting, doubts, and where it would go."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from fnmatch import fnmatchcase
from typing import Any

import numpy as np

from ivoryridge.core.errors import FormatError, InputError
from ivoryridge.core.exchange.points_csv import decode_text
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.coded_lines import LINE_WORDS
from ivoryridge.core.terrain.reach import Misplaced, likely_cause
from ivoryridge.core.terrain.recipe import ROLES, usual_role
from ivoryridge.core.terrain.survey import Survey, layers_of

from ..models import Project, SurveySet
from .reading import ReadFile, format_of, layout_of, layout_told, read_file
from .reference import compare_references

__all__ = ["PLACES", "line_words", "places_of", "preview_file", "role_by_rules", "sorted_layers"]

PLACES = ("join", "apart", "leave")  # into the chosen surface, a surface of its own, not at all
FAR = 20_000.0  # m; a file farther than this from what is there is told (common practice, no source)
_OVER = 0.5  # of the smaller surface's extent; side by side ones overlap less


def preview_file(project: Project, content: bytes, name: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
    """Inventory of a file; nothing is stored. A layout that cannot be read is told beside the first rows."""
    options = options or {}
    error: FormatError | InputError | None = None
    read: ReadFile | None = None
    try:
        read = read_file(content, name, options, look=True)
    except InputError as found:
        error = found
        if format_of(content, name) != "CSV":
            raise
    rows: list[str] = []
    if read is None or read.format == "CSV points":
        rows = [line[:200] for line in decode_text(content, name).splitlines() if line.strip()][:12]
        reading = read.reading if read else layout_told(layout_of(content, name, options))
    else:
        reading = read.reading
    findings = [f.as_dict() for f in read.findings] if read else []
    sets: list[dict[str, Any]] = []
    beside: Misplaced | None = None
    if read:
        places = places_of(read, options)
        if over := _surfaces_over(read):
            findings.append(over.as_dict())
        sets = [
            {"name": n, **a.inventory(), "plan": _thumbnail(a), "layers": sorted_layers(project, a, options), "place": place}
            for (n, a), place in zip(read.sets, places, strict=True)
        ]
        beside = _beside(project, read)
        if beside is not None:
            findings.append(_told_misplaced(beside))
    return {
        "name": name, "format": read.format if read else "CSV points", "size": len(content), "reading": reading, "rows": rows,
        "sets": sets, "findings": findings, "far": beside is not None,
        "reference": compare_references(str(reading.get("reference") or ""), project.coordinate_reference),
        "error": error.sentence if error else None,
    }  # fmt: skip


def _thumbnail(a: Survey) -> list[list[float]]:
    """At most 2500 places for a quick plan, evenly taken; E, N, level (that of the lowest where there is none)."""
    stacked = np.concatenate([a.points, *a.lines]) if a.lines else a.points
    stacked = stacked[np.isfinite(stacked[:, :2]).all(axis=1)]
    step = max(len(stacked) // 2500, 1)
    some = np.round(stacked[::step], 2)
    known = some[np.isfinite(some[:, 2]), 2]
    return np.nan_to_num(some, nan=float(known.min()) if len(known) else 0.0).tolist()


# --- where it lies -------------------------------------------------------------------------------------------
def _extent(surveys: Sequence[Survey]) -> np.ndarray:
    """The extent of most of what surveys hold, so that one wild point does not stretch it."""
    xy = np.concatenate([part[:: max(len(part) // 20_000, 1), :2] for s in surveys for part in (s.points, *s.lines) if len(part)])
    low, high = np.quantile(xy[np.isfinite(xy).all(axis=1)], [0.02, 0.98], axis=0)
    return np.array([*low, *high])


def _beside(project: Project, read: ReadFile) -> Misplaced | None:
    others = [s.inventory["extent"] for s in SurveySet.present.filter(project=project).only("inventory") if s.inventory]
    if not others or not read.sets:
        return None
    e = np.array(others)
    middle = np.median((e[:, :2] + e[:, 2:]) / 2, axis=0)
    near = e[np.hypot(*((e[:, :2] + e[:, 2:]) / 2 - middle).T) <= FAR]  # where most of the project is
    near = near if len(near) else e
    site = np.array([*near[:, :2].min(axis=0), *near[:, 2:].max(axis=0)])
    return likely_cause(_extent([a for _, a in read.sets]), site, least=FAR)


def _told_misplaced(m: Misplaced) -> dict[str, Any]:
    if not m.cause:
        return Finding("doubt", "far-from-project", {"distance": m.distance / 1000}).as_dict()
    told = Finding("fault", "misplaced", {"distance": m.distance / 1000, "cause": m.cause}).as_dict()
    words = [
        w
        for w, on in (
            ("change the axes over", m.swapped),
            ("take other lengths", m.factor != 1.0),
            ("mend the easting", m.east != 0.0),
        )
        if on
    ]
    return {
        **told,
        "way": {
            "label": f"Bring it to the site: {' and '.join(words)}",
            "options": {"swapped": m.swapped, "factor": m.factor, "east": m.east},
        },
    }


# --- what goes where -----------------------------------------------------------------------------------------
def places_of(read: ReadFile, options: dict[str, Any]) -> list[str]:
    """Where each set goes: as the person chose, else surfaces that lie over another one apart, and all else together."""
    chosen = options.get("sets") if isinstance(options.get("sets"), dict) else {}
    over = {j for _, j in _pairs_over(read)} | {i for i, _ in _pairs_over(read)}
    out = []
    for i in range(len(read.sets)):
        given = (chosen or {}).get(str(i))
        out.append(given if given in PLACES else "apart" if i in over else "join")
    return out


def _pairs_over(read: ReadFile) -> list[tuple[int, int]]:
    """Pairs of surfaces with faces whose extents cover half of the smaller one."""
    boxes = {i: s.inventory()["extent"] for i, (_, s) in enumerate(read.sets) if len(s.faces)}
    out = []
    for i, a in boxes.items():
        for j, b in boxes.items():
            if i < j:
                both = max(min(a[2], b[2]) - max(a[0], b[0]), 0.0) * max(min(a[3], b[3]) - max(a[1], b[1]), 0.0)
                least = min((q[2] - q[0]) * (q[3] - q[1]) for q in (a, b))
                if both > _OVER * max(least, 1e-9):
                    out.append((i, j))
    return out


def _surfaces_over(read: ReadFile) -> Finding | None:
    pairs = _pairs_over(read)
    if not pairs:
        return None
    first, second = (read.sets[k][0] for k in pairs[0])
    count = sum(1 for _, s in read.sets if len(s.faces))
    return Finding("doubt", "surfaces-over", {"count": count, "first": second, "second": first})


def sorted_layers(project: Project, survey: Survey, options: dict[str, Any]) -> list[dict[str, Any]]:
    """Layers of a survey with their roles: as chosen by the person (``options["roles"]``), else by the first rule of the
    project that matches, else by their type; ``options["rules"]`` are tried in place of the project's. ``ruled`` says that one
    of the first two has spoken."""
    given = options.get("roles")
    chosen = given if isinstance(given, dict) else {}
    rules = options["rules"] if isinstance(options.get("rules"), list) else project.sorting_rules
    out = []
    for la in layers_of(survey):
        ruled = chosen.get(la.key) if chosen.get(la.key) in ROLES else role_by_rules(rules, la.type, la.code)
        told = {**asdict(la), "key": la.key, "role": ruled or usual_role(la.type), "ruled": ruled is not None}
        out.append(told)
    return out


def line_words(rules: list[Any]) -> dict[str, str]:
    """What rules say of the words that start, end or close coded lines; they go with a survey, so that they enter its key."""
    said = {what: [str(r["pattern"]) for r in rules if isinstance(r, dict) and r.get("role") == what] for what in LINE_WORDS}
    return {what: " ".join(words) for what, words in said.items() if words}


def role_by_rules(rules: list[dict[str, str]], kind: str, code: str) -> str | None:
    """The role of the first rule whose pattern (* and ? stand for any) and type match; upper and lower case are one."""
    for rule in rules:
        if not isinstance(rule, dict):
            continue
        pattern = str(rule.get("pattern", "")).strip().lower()
        if pattern and rule.get("role") in ROLES and rule.get("type") in ("", None, kind) and fnmatchcase(code.lower(), pattern):
            return rule["role"]
    return None
