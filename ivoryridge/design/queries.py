"""What the screens ask for: results as plain values. Reads only; the numbers come from ``results``."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, sample_stations
from ivoryridge.core.alignment.vertical import circle_differs
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.solids import edge_lines
from ivoryridge.core.earthwork.end_area import SectionAreas, compute_areas
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.section.solve import SideColumns
from ivoryridge.core.section.template import library_part
from ivoryridge.core.terrain.recipe import usual_role

from .assemble import RoadInputs
from .checked import design_findings
from .derive import key_of
from .guides import guides_picture
from .models import LedgerEntry, Project, ReceivedFile, Road, SheetSet, Surface, SurveySet, Template
from .results import (
    Levels,
    RoadResults,
    corridor_at,
    crossfall_of,
    design_road,
    levels_of,
    line_key,
    line_of,
    pis_of,
    surface_key,
    tied_pis,
)
from .standards import all_standards, fingerprint, standard_at_hand, standard_of

Floats = NDArray[np.float64]

__all__ = ["project_picture", "road_picture", "road_pictures", "section_picture"]


def _list(values: Any, decimals: int) -> list[Any]:
    """Nested lists of rounded numbers; NaN becomes None, as JSON has none."""
    a = np.round(np.asarray(values, float), decimals)
    return a.tolist() if np.isfinite(a).all() else np.where(np.isfinite(a), a, None).tolist()  # type: ignore[call-overload]


# --- the project ---------------------------------------------------------------------------------------------
def project_picture(project: Project, role: str, user: Any) -> dict[str, Any]:
    from .ledger import next_redo, next_undo

    undo, redo = next_undo(project, user), next_redo(project, user)
    entries = LedgerEntry.objects.filter(project=project)
    # says in a word which state of the design this is: an undo makes no entry, so the undone ones are told too
    head = f"{entries.order_by('-id').values_list('id', flat=True).first() or 0}/{entries.filter(state='undone').count()}"
    sets = {s.pk: s for s in SurveySet.present.filter(project=project).defer("arrays")}
    surfaces = [_surface_picture(s, sets) for s in Surface.present.filter(project=project)]
    return {
        "id": project.pk, "name": project.name, "revision": project.revision, "role": role, "user": user.get_username(),
        "settings": {k: getattr(project, k) for k in ("coordinate_reference", "chainage_group", "chainage_word", "traffic_side", "standard", "design_speed", "greatest_grade", "least_k")},
        "standards": [{"id": s.id, "name": s.name, "source": s.source, "status": s.status, "greatest_speed": s.rows[-1]["speed"]} for s in all_standards().values()],
        "roads": [
            {k: getattr(r, k) for k in ("id", "name", "revision", "interval", "start_station", "template_id", "surface_id", "speeds", "ties", "mirrored", "equations", "sight_clearance", "fixed_points", "candidates", "candidate")} | {"course": {k: v for k, v in r.course.items() if k != "elements"}}
            for r in Road.present.filter(project=project).order_by("id")
        ],
        "surfaces": surfaces, "sorting_rules": project.sorting_rules, "annotations": project.annotations,
        "templates": [_template_picture(t) for t in Template.present.filter(project=project)],
        "sheet_sets": [
            {k: getattr(s, k) for k in ("id", "name", "revision", "road_id", "paper", "scale", "exaggeration", "section_scale", "section_interval", "band_interval", "drawing_number", "revision_mark")}
            for s in SheetSet.present.filter(project=project, road__removed=False)
        ],
        "received": [
            {"id": f.pk, "name": f.name, "format": f.format, "size": f.size, "sha256": f.sha256, "by": f.received_by.get_username(), "at": f.received_at.isoformat()}
            for f in ReceivedFile.objects.filter(project=project, survey_sets__removed=False).distinct().defer("content").select_related("received_by")
        ],
        "ledger": {"head": head, "undo": undo.label if undo else None, "redo": redo.label if redo else None},
    }  # fmt: skip


def _surface_picture(s: Surface, sets: dict[int, SurveySet]) -> dict[str, Any]:
    from .assemble import SURFACE_SETTINGS, assemble_surface

    sources = [
        {"id": i, "name": sets[i].name, "file_id": sets[i].file_id, "revision": sets[i].revision, "layers": _layers(sets[i]), **sets[i].inventory}
        for i in s.sources if i in sets
    ]  # fmt: skip
    return {
        "id": s.pk, "name": s.name, "revision": s.revision, **{k: getattr(s, k) for k in SURFACE_SETTINGS},
        "key": surface_key(assemble_surface(s)), "sources": sources, "edits": s.edits, "answers": s.answers, "label_paths": s.label_paths,
    }  # fmt: skip


def _layers(s: SurveySet) -> list[dict[str, Any]]:
    out = []
    for la in s.layers:
        key = f"{la['type']}/{la['code']}"
        out.append({**la, "key": key, "role": s.roles.get(key, usual_role(la["type"])), "ruled": key in s.roles})
    return out


def _template_picture(t: Template) -> dict[str, Any]:
    def side(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        out = []
        for r in rows:
            part = library_part(r["part"])
            values = r.get("values", {})
            out.append({
                "id": r["id"], "part": r["part"], "label": part.label,
                "parameters": [
                    {"name": p.name, "label": p.label, "kind": p.kind, "value": values.get(p.name, p.value), "usual": p.value,
                     "least": p.least, "greatest": p.greatest, "choices": list(p.choices), "remark": p.remark}
                    for p in part.parameters
                ],
            })  # fmt: skip
        return out

    return {"id": t.pk, "name": t.name, "revision": t.revision, "left": side(t.left), "right": side(t.right)}


# --- a road --------------------------------------------------------------------------------------------------
def road_key(inputs: RoadInputs) -> str:
    """Changes whenever anything on a road's pictures could change."""
    told = [
        inputs.pi_rows, inputs.pis, sorted(inputs.held_pis), sorted(inputs.held_straights), inputs.pvis, inputs.start_station, inputs.interval, inputs.name, inputs.standard, inputs.speeds,
        line_key(inputs) if inputs.has_line else "", inputs.equations, inputs.sight_clearance, inputs.traffic_side, inputs.fixed_points, inputs.departures, inputs.guides, inputs.crossfall, inputs.design_speed, inputs.greatest_grade, inputs.least_k,
        fingerprint(standard_of(inputs)) if standard_at_hand(inputs) else "",
    ]  # fmt: skip
    template = (
        [[[p.id, p.part.name, dict(p.values)] for p in side] for side in (inputs.template.left, inputs.template.right)]
        if inputs.template
        else None
    )
    return key_of("corridor", told, template, surface_key(inputs.surface) if inputs.surface else None)


def road_picture(inputs: RoadInputs) -> dict[str, Any]:
    """Everything the views of a road draw, from saved values."""
    shape, found = road_pictures(inputs)
    return {**shape, **found, "problems": {**shape["problems"], **found["problems"]}}


def road_pictures(
    inputs: RoadInputs, *, mark: float | None = None, levels_only: bool = False, outline_only: bool = False
) -> Iterator[dict[str, Any]]:
    """What the views of a road draw, from saved values or from those of a trial, in two parts: its shape with section and
    volumes, then how it stands against the standard. A drag is drawn with the first while the second is still worked out.

    ``levels_only`` leaves out what hangs on the line alone, for a trial that does not move it; ``outline_only`` leaves out
    the edge lines between toe and pavement, for a plan at a scale that does not show them.
    """
    r = design_road(inputs, mark)
    section = _section(r.section, compute_areas(r.section)) if r.section is not None else None
    on_line = {} if levels_only else {
        "pis": _pis(inputs, r.line), "line": _line(r.line) if r.line else None, "ground": _list(r.ground, 3) if len(r.ground) else [],
    }  # fmt: skip
    yield {
        "key": road_key(inputs),
        "road_id": inputs.road_id,
        **on_line,
        "levels": _levels(r.levels) if r.levels else None,
        "pvis": _pvis(inputs, r),
        "edges": _edges(r.corridor, outline_only) if r.corridor is not None else {"origin": [0, 0], "lines": []},
        "earthwork": _earthwork(r) if r.corridor is not None else None,
        "section": section,
        "crossfall": _crossfall(inputs) if r.line is not None else None,
        "problems": {step: _problem(e) for step, e in r.problems.items()},
        **guides_picture(inputs, r.levels),
        "limits": {"design_speed": inputs.design_speed, "greatest_grade": inputs.greatest_grade, "least_k": inputs.least_k},
    }
    yield _findings(inputs, r)


def _findings(inputs: RoadInputs, r: RoadResults) -> dict[str, Any]:
    """Open findings of the corridor and against the standard, departures that are accepted, and why there are none if so."""
    problems = {}
    against: list[dict[str, Any]] = []
    if r.line is not None and "levels" not in r.problems:
        try:
            against = [f.as_dict() for f in design_findings(inputs)]
        except IvoryRidgeError as error:
            problems["standard"] = _problem(error)
    accepted = inputs.departures
    return {
        "findings": [f for f in against if f["key"] not in accepted] + ([f.as_dict() for f in r.corridor.findings] if r.corridor is not None else []),
        "departures": [{**f, **accepted[f["key"]]} for f in against if f["key"] in accepted],
        "problems": problems,
    }  # fmt: skip


def _crossfall(inputs: RoadInputs) -> dict[str, Any] | None:
    """The diagram of a road whose carriageway turns; bends by PI with what is pinned."""
    settings = {
        "off": bool(inputs.crossfall.get("off")),
        "axis": inputs.crossfall.get("axis", "centre"),
        "share": inputs.crossfall.get("share"),
    }
    try:
        turning = crossfall_of(inputs)
    except IvoryRidgeError:  # why is told with the road, which needs it
        turning = None
    if turning is None:
        return {**settings, "station": [], "left": [], "right": [], "normal": [], "bends": [], "half_width": 0.0}
    d = turning.diagram
    return {
        **settings, "station": _list(d.station, 3), "left": _list(d.left, 6), "right": _list(d.right, 6), "normal": d.normal,
        "half_width": max(turning.half_width), "bends": [{**asdict(b), "pi_id": inputs.pi_rows[b.pi][0] if inputs.pi_rows else None} for b in d.bends],
    }  # fmt: skip


def _problem(e: IvoryRidgeError) -> dict[str, Any]:
    return {"code": e.code, "sentence": e.sentence, "where": e.where}


def _pis(inputs: RoadInputs, line: HorizontalAlignment | None) -> list[dict[str, Any]]:
    out = []
    with_rows = bool(inputs.pi_rows)
    pis = (tied_pis(inputs) if with_rows else pis_of(inputs)) if line is not None else inputs.pis
    for i, (p, (pk, revision)) in enumerate(zip(pis, inputs.pi_rows or [(None, 0)] * len(pis), strict=True)):
        row: dict[str, Any] = {
            "id": pk, "revision": revision, "easting": p.easting, "northing": p.northing, "radius": p.radius,
            "spiral_in": p.spiral_in, "spiral_out": p.spiral_out, "stations": None, "turn": 0, "held": pk in inputs.held_pis, "straight_held": pk in inputs.held_straights,
        }  # fmt: skip
        if line is not None:
            own = np.flatnonzero(line.pi_of == i)
            if len(own):
                row["stations"] = [float(line.stations[own[0]]), float(line.stations[own[-1] + 1])]
                row["turn"] = int(np.sign(line.k0[own].sum() + line.k1[own].sum()))
        out.append(row)
    return out


def _line(line: HorizontalAlignment) -> dict[str, Any]:
    s = sample_stations(line, 500.0, 0.01)  # straights need their ends only; on bends chords leave the arc by R / 80 000
    places, azimuth, curvature = line.evaluate(s)
    ends = line.stations
    elements = []
    for i, j in line.whole_elements():
        k0, k1, length = float(line.k0[i]), float(line.k1[j]), float(line.length[i : j + 1].sum())
        elements.append({
            "kind": line.kind(i), "start": float(ends[i]), "end": float(ends[j + 1]), "length": length,
            "radius_start": 1 / k0 if abs(k0) > 1e-9 else None, "radius_end": 1 / k1 if abs(k1) > 1e-9 else None,
            "azimuth_deg": float(np.degrees(line.azimuth[i])), "easting": float(line.start[i, 0]), "northing": float(line.start[i, 1]),
            "pi": int(line.pi_of[i]), "parameter": float(np.sqrt(length / abs(k1 - k0))) if line.kind(i) == "Spiral" and i == j else None,
        })  # fmt: skip
    return {
        "start": line.start_station, "end": line.end_station, "elements": elements,
        "points": np.column_stack([np.round(s, 3), np.round(places, 3), np.round(azimuth, 6), np.round(curvature, 8)]).tolist(),
    }  # fmt: skip


def _levels(levels: Levels) -> dict[str, Any]:
    p = levels.profile
    inner = np.arange(p.station[0], p.station[-1], 5.0)
    piece = np.clip(np.searchsorted(p.station, inner, side="right") - 1, 0, len(p.rate) - 1)
    stations = np.unique(np.concatenate([p.station, inner[p.rate[piece] != 0]]))  # a straight grade needs its ends only
    z, grade = p.evaluate(stations)
    return {
        "start": float(p.station[0]), "end": float(p.station[-1]),
        "points": np.column_stack([np.round(stations, 3), np.round(z, 4), np.round(grade, 6)]).tolist(),
        "turning": _list(p.turning_points(), 3),
    }  # fmt: skip


def _pvis(inputs: RoadInputs, r: RoadResults) -> list[dict[str, Any]]:
    if r.levels is None:
        return []
    out = []
    pvis, rows = r.levels.pvis, r.levels.rows
    for i, (p, row) in enumerate(zip(pvis, rows, strict=True)):
        g_in = (p.elevation - pvis[i - 1].elevation) / (p.station - pvis[i - 1].station) if i else None
        g_out = (pvis[i + 1].elevation - p.elevation) / (pvis[i + 1].station - p.station) if i + 1 < len(pvis) else None
        length = p.half_in + p.half_out
        change = (g_out - g_in) if g_in is not None and g_out is not None else 0.0
        k = length / abs(100 * change) if length and abs(change) > 1e-9 else None
        out.append({
            "id": row.id, "revision": row.revision, "anchor": row.anchor, "tangent_point": row.tangent_point, "pi": row.pi,
            "ahead": row.ahead, "station": round(p.station, 4), "elevation": p.elevation, "half_in": p.half_in, "half_out": p.half_out,
            "circular": p.circular, "circle_differs": circle_differs(g_in, g_out, length) if p.circular and g_in is not None and g_out is not None else 0.0,
            "length": length, "grade_in": g_in, "grade_out": g_out, "k": k, "kind": "crest" if change < 0 else "sag",
        })  # fmt: skip
    return out


OUTLINE = ("toe", "pavement edge")


def _edges(corridor: Corridor, outline_only: bool = False) -> dict[str, Any]:
    """Edge lines in plan for drawing: whole centimetres east and north of an origin, in one row a line; quick to write and read."""
    origin = np.floor(corridor.places.place[0])
    lines = [
        {"side": side, "role": role, "cm": np.rint((points[:, :2] - origin) * 100).astype(np.int64).ravel().tolist()}
        for side, role, points in edge_lines(corridor)
        if (role in OUTLINE if outline_only else not role.startswith("formation"))
    ]
    return {"origin": origin.tolist(), "lines": lines}


def _earthwork(r: RoadResults) -> dict[str, Any]:
    assert r.corridor is not None and r.areas is not None and r.volumes is not None
    v, a = r.volumes, r.areas
    return {
        "station": _list(v.station, 3), "cut_area": _list(a.cut, 3), "fill_area": _list(a.fill, 3),
        "cumulative_cut": _list(v.cumulative_cut, 2), "cumulative_fill": _list(v.cumulative_fill, 2),
        "cut": float(v.cumulative_cut[-1]), "fill": float(v.cumulative_fill[-1]),
        "plain_cut": float(v.plain_cut.sum()), "plain_fill": float(v.plain_fill.sum()),
        "unknown": float(np.max(a.unknown_width, initial=0.0)),
        "layers": [{"material": m, "volume": float(x.sum())} for m, x in v.layers.items()],
    }  # fmt: skip


# --- a section -----------------------------------------------------------------------------------------------
def section_picture(inputs: RoadInputs, station: float) -> dict[str, Any]:
    """The cross section at one station: ground, both sides, areas. Raises what keeps it from being computed."""
    line, levels = line_of(inputs), levels_of(inputs)
    first, last = max(line.start_station, levels.profile.station[0]), min(line.end_station, levels.profile.station[-1])
    station = float(np.clip(station, first, last))
    corridor = corridor_at(inputs, np.array([station]))
    return _section(corridor, compute_areas(corridor))


def _section(corridor: Corridor, areas: SectionAreas) -> dict[str, Any]:
    ground = corridor.ground.section(0)
    return {
        "station": float(corridor.station[0]), "level": float(corridor.level[0]), "grade": float(corridor.grade[0]),
        "easting": float(corridor.places.place[0, 0]), "northing": float(corridor.places.place[0, 1]),
        "azimuth": float(corridor.places.azimuth[0]), "curvature": float(corridor.places.curvature[0]),
        "ground": _list(ground, 3), "cut": float(areas.cut[0]), "fill": float(areas.fill[0]),
        "layers": [{"material": m, "area": float(a[0])} for m, a in areas.layers.items()],
        "sides": [_side(sign, columns, name) for name, sign, columns in corridor.sides()],
        "findings": [f.as_dict() for f in corridor.findings if f.code in ("not-met", "off-ground", "crosses-itself")],
    }  # fmt: skip


def _side(sign: float, c: SideColumns, name: str) -> dict[str, Any]:
    """Nodes, finished links with width and slope, the formation line, and layer areas; offsets + right."""
    there = [i for i in range(len(c.names)) if c.present[i, 0]]
    position = {i: k for k, i in enumerate(there)}
    nodes = [
        {
            "name": c.names[i],
            "role": c.roles[i],
            "guide": c.guide[i],
            "offset": sign * float(c.across[i, 0]),
            "level": float(c.level[i, 0]),
        }
        for i in there
    ]
    outline = [i for i in c.outline("finished") if c.present[i, 0]]
    links = []
    for a, b in itertools.pairwise(outline):
        width = float(c.across[b, 0] - c.across[a, 0])
        rise = float(c.level[b, 0] - c.level[a, 0])
        links.append(
            {"from": position[a], "to": position[b], "width": width, "slope": rise / width if abs(width) > 1e-9 else None}
        )
    formation = [position[i] for i in c.outline("formation") if c.present[i, 0]]
    layers = [
        {"material": material, "points": [[sign * float(c.across[i, 0]), float(c.level[i, 0])] for i in loop]}
        for _, material, loop in c.areas if all(c.present[i, 0] for i in loop)
    ]  # fmt: skip
    unmet = [n for n, mask in c.unmet.items() if bool(mask[0])]
    reach = {n: float(r[0]) for n, r in c.reach.items() if np.isfinite(r[0])}
    return {"side": name, "nodes": nodes, "links": links, "formation": formation, "layers": layers, "unmet": unmet,
            "reach": sign * max(reach.values()) if reach else None}  # fmt: skip
