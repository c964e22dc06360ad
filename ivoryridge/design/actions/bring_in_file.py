"""Bring in a file: points, lines and faces on the Received shelf and into a surface, or into surfaces of their own."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.carried import carried_edits
from ivoryridge.core.terrain.recipe import usual_role
from ivoryridge.core.terrain.survey import Survey, layers_of
from ivoryridge.core.text import clean

from ..inputs.surface import SourceRow, SurfaceRecipe, assemble_surface, numbered_edits
from ..kept.packing import pack_survey
from ..ledger import Act
from ..models import Project, ReceivedFile, Surface, SurveySet, Variation
from ..received.preview import line_words, places_of, preview_file, role_by_rules, sorted_layers
from ..received.reading import ReadFile, read_file
from ..refusals import BadValue
from ..results.shown import overview_of
from ..results.surface import at_hand, survey_arrays
from ..results.surface import surface as surface_result
from .standing import act, rehearsed

__all__ = ["ReadFile", "bring_in_file", "preview_file", "read_file", "role_by_rules", "sorted_layers"]

_STEPS = 4


@dataclass(frozen=True, slots=True)
class _Packed:
    """A survey set as it will be stored."""

    name: str
    survey: Survey
    blob: bytes
    digest: str
    roles: dict[str, str]


def bring_in_file(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    options: dict[str, Any] | None = None,
    surface_id: int | None = None,
    replaces: tuple[int, ...] = (),
    received: ReceivedFile | None = None,
    progress: Callable[[int, int, str], None] = lambda done, total, message: None,
) -> tuple[Act, Surface, list[str]]:
    """Store the file and what it holds, and add it to a surface (a new one when none is named); sets that go apart become
    surfaces of their own (``options["sets"]``, see ``preview.places_of``). One step of undo.

    ``replaces`` are survey sets of that surface whose place the new ones take; edits of those sets go on where they still fit, see
    ``carried_edits``.
    ``received``: a file that is on the shelf already and is read again, perhaps in another way.

    All that takes long comes before the transaction, so that nobody waits for it and cancelling leaves nothing.
    ``progress`` is told (steps done, steps in all, what is being done), and may raise to cancel.
    """
    name = clean(name) or "file"
    progress(0, _STEPS, f"Reading {len(content) / 1e6:.1f} MB")

    def points_read(done: int, total: int) -> None:
        said = (
            f"Reading: {done / 1e6:.1f} of {total / 1e6:.1f} million laser points"
            if done < total
            else f"Thinning {total / 1e6:.1f} million laser points"
        )
        progress(0, _STEPS, said)

    read = read_file(content, name, options, progress=points_read)
    places = places_of(read, options or {})
    total = sum(len(a.points) for (_, a), place in zip(read.sets, places, strict=True) if place != "leave")
    progress(1, _STEPS, f"Packing {total} points")
    packed = [
        _pack(project, n, a, options or {}) if place != "leave" else None for (n, a), place in zip(read.sets, places, strict=True)
    ]
    joined = [p for p, place in zip(packed, places, strict=True) if p is not None and place == "join"]
    apart = [p for p, place in zip(packed, places, strict=True) if p is not None and place == "apart"]
    if not joined and not apart:
        raise BadValue(
            "nothing-chosen", "Nothing of the file is chosen. Choose where at least one part of it goes.", field="sets"
        )
    with at_hand({p.digest: p.survey for p in (*joined, *apart)}):
        surface = Surface.present.filter(project=project, pk=surface_id).first() if surface_id else None
        recipe = assemble_surface(surface) if surface else SurfaceRecipe()
        progress(2, _STEPS, f"Triangulating {total} points")
        findings: list[Finding] = []
        lost: list[dict[str, Any]] = []
        triangles = 0
        if joined:
            rows, edits, lost = _with_sources(recipe, surface, joined, replaces)
            new = replace(recipe, sources=tuple(rows), edits=numbered_edits(edits, [s.id for s in rows]))
            made, found = surface_result(new).get()
            overview_of(new)  # so that who opens the project next need not wait for it
            findings += found
            triangles = len(made.triangles)
        for p in apart:
            alone = SurfaceRecipe(sources=(SourceRow(0, p.digest, p.roles),))
            findings += surface_result(alone).get()[1]
            overview_of(alone)
        progress(3, _STEPS, "Storing")
        doing, own, unled, target = _stored_all(
            project, user, content=content, name=name, read=read, joined=joined, apart=apart, target=surface, replaces=replaces,
            received=received,
        )  # fmt: skip
        surface = target
    lines = sum(len(p.survey.lines) for p in (*joined, *apart))
    brought = f"{total:,} points".replace(",", " ") + (f" and {lines:,} lines".replace(",", " ") if lines else "") + " brought in"
    told = [f"{brought}."]
    if joined and surface is not None:
        told = [f"{brought}; {surface.name} has {triangles:,} triangles now.".replace(",", " ")]
    if own:
        told.append(f"{', '.join(s.name for s in own)}: surfaces of their own.")
    told += _lost_told(lost)
    if unled:
        told.append(f"{', '.join(unled)}: still on the lines of the version before, because the new one has no such layer.")
    if (waiting := _unsorted(packed)) > 0:
        told.append(f"{waiting} layers have no role yet and are not part of the surface; sort them under Layers.")
    return doing, surface or own[0], told + [f.sentence for f in (*read.findings, *findings)]


@rehearsed
def _stored_all(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    read: ReadFile,
    joined: list[_Packed],
    apart: list[_Packed],
    target: Surface | None,
    replaces: tuple[int, ...],
    received: ReceivedFile | None,
) -> tuple[Act, list[Surface], list[str], Surface | None]:
    """The one short transaction; edits of the surface made meanwhile stay."""
    surface = target
    waiting: list[str] = []
    with act(project, user, f"Bring in {name}") as doing:
        file = received or ReceivedFile.objects.create(
            project=project, name=name, format=read.format, sha256=hashlib.sha256(content).hexdigest(), content=content,
            size=len(content), received_by=user,
        )  # fmt: skip
        if joined:
            sets = [_stored(doing, project, file, read, p) for p in joined]
            added = [s.pk for s in sets]
            if surface is None:
                surface = doing.create(Surface(project=project, name=_free_name(project, "Existing ground"), sources=added))
            else:
                surface.refresh_from_db()  # edits made meanwhile stay
                if surface.removed:
                    raise BadValue(
                        "surface-gone", f"{surface.name} was deleted while the file was being read. Bring it in again, elsewhere.",
                        field="surface_id"
                    )  # fmt: skip
                at = next((i for i, s in enumerate(surface.sources) if s in replaces), len(surface.sources))
                others = [i for i in surface.sources if i not in replaces]
                edits = _onto(surface.edits, joined, replaces, added)[0]
                doing.change(surface, sources=[*others[:at], *added, *others[at:]], edits=edits)
            for road in project.roads.filter(removed=False, surface=None):
                doing.change(road, surface_id=surface.pk)
            waiting = _lead_on(doing, project, replaces, sets)
        own = [
            doing.create(
                Surface(project=project, name=_free_name(project, p.name), sources=[_stored(doing, project, file, read, p).pk])
            )
            for p in apart
        ]
    return doing, own, waiting, surface


def _lead_on(doing: Act, project: Project, replaced: tuple[int, ...], sets: list[SurveySet]) -> list[str]:
    """What lines of a replaced survey led or bounded hangs on those of the same layer in what took its place. Told is what has no such
    layer there, and stays with the lines of before."""
    waiting = []
    for row in Variation.present.filter(road__project=project, kind="led", data__survey__in=replaced).select_related("road"):
        there = next((s for s in sets if any(la["code"] == row.data["layer"] and la["type"] != "point" for la in s.layers)), None)
        if there is not None:
            doing.change(row, data={**row.data, "survey": there.pk})
        else:
            waiting.append(f"{row.road.name} (layer '{row.data['layer']}')")
    land = project.land
    there = next((s for s in sets if any(la["code"] == land.get("layer") and la["type"] != "point" for la in s.layers)), None)
    if land.get("survey") in replaced and there is not None:
        doing.change(project, land={**land, "survey": there.pk})
    elif land.get("survey") in replaced:
        waiting.append(f"the land boundary (layer '{land.get('layer')}')")
    return waiting


def _pack(project: Project, name: str, survey: Survey, options: dict[str, Any]) -> _Packed:
    blob, digest = pack_survey(survey)
    roles = {la["key"]: la["role"] for la in sorted_layers(project, survey, options) if la["ruled"]}
    rules = options["rules"] if isinstance(options.get("rules"), list) else project.sorting_rules
    return _Packed(name, survey, blob, digest, roles | line_words(rules))


def _with_sources(
    recipe: SurfaceRecipe, surface: Surface | None, joined: list[_Packed], replaces: tuple[int, ...]
) -> tuple[list[SourceRow], list[dict[str, Any]], list[dict[str, Any]]]:
    """Sources and edits as they will be, and edits that are lost; what is not stored yet has ids below 0."""
    ids = [-1 - i for i in range(len(joined))]
    sources = [SourceRow(pk, p.digest, p.roles) for pk, p in zip(ids, joined, strict=True)]
    kept = [s for s in recipe.sources if s.id not in replaces]
    at = next((i for i, s in enumerate(recipe.sources) if s.id in replaces), len(kept))
    edits, lost = _onto(surface.edits if surface else [], joined, replaces, ids)
    return [*kept[:at], *sources, *kept[at:]], edits, lost


def _onto(
    edits: list[dict[str, Any]], joined: list[_Packed], replaces: tuple[int, ...], ids: list[int]
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Edits of what is replaced on what takes its place, and those that fit nothing there."""
    old = {pk: survey_arrays(pk) for pk in replaces if any(e.get("survey") == pk for e in edits)}
    return carried_edits(edits, old, list(zip(ids, (p.survey for p in joined), strict=True)))


_DONE = {
    "leave_out": "left out", "set_level": "level set", "move_point": "moved", "leave_out_line": "left out", "move_vertex": "vertex moved",
    "delete_vertex": "vertex deleted", "fixed_vertices": "vertices put in", "live_spacing": "live spacing",
}  # fmt: skip


def _lost_told(lost: list[dict[str, Any]]) -> list[str]:
    if not lost:
        return []
    names = [
        f"line {e['line'] + 1} ({_DONE[e['do']]})" if "line" in e
        else f"{'point' if len(points := e.get('points', [e.get('point')])) == 1 else 'points'} "
        f"{', '.join(str(p + 1) for p in points[:5])}{' …' if len(points) > 5 else ''} ({_DONE[e['do']]})"
        for e in lost
    ]  # fmt: skip
    more = f" and {len(names) - 8} more" if len(names) > 8 else ""
    return [
        f"{'Edits that do' if len(lost) > 1 else 'One edit does'} not fit the new version and went: {', '.join(names[:8])}{more}. "
        "Undo brings the older version back."
    ]


def _stored(doing: Act, project: Project, file: ReceivedFile, read: ReadFile, p: _Packed) -> SurveySet:
    return doing.create(
        SurveySet(
            project=project, file=file, name=clean(p.name)[:200] or "Survey", arrays=p.blob, hash=p.digest, inventory=p.survey.inventory(),
            reading=read.reading, layers=[asdict(la) for la in layers_of(p.survey)], roles=p.roles,
        )
    )  # fmt: skip


def _unsorted(packed: list[_Packed | None]) -> int:
    return sum(
        1
        for p in packed
        if p is not None
        for la in layers_of(p.survey)
        if (p.roles.get(la.key) or usual_role(la.type)) == "unsorted"
    )


def _free_name(project: Project, wanted: str) -> str:
    taken = set(Surface.present.filter(project=project).values_list("name", flat=True))
    wanted = clean(wanted)[:110] or "Surface"
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name
