"""What the views of a road draw. The tag of a picture is made of its whole inputs; nothing is listed by hand."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from typing import Any, Literal, cast

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, sample_stations
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.alignment.vertical import circle_differs
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.edges import edge_lines
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.section.roles import role_named
from ivoryridge.core.wording import counting, spoken

from ..forms.common import Problem
from ..forms.road import Crossfall as CrossfallForm
from ..forms.road import (
    Earthwork,
    EdgeLine,
    Edges,
    Line,
    LineElement,
    PIRow,
    PVIRow,
    RoadDesign,
    RoadFindings,
    RoadLead,
    RoadShape,
)
from ..forms.road import Levels as LevelsForm
from ..inputs.road import RoadInputs
from ..inputs.standards import standard_at_hand, standard_of
from ..kept.kinds import Content, tag, versions
from ..results.against import design_findings
from ..results.crossfall import crossfall_of
from ..results.guides import guides_picture
from ..results.land import land_findings_of
from ..results.levels import Levels, levels_of
from ..results.line import line_of, pis_of, tied_pis
from ..results.road import RoadResults, design_road
from .along import along_rows, built_parts, quantity_picture
from .numbers import level_stations, rounded
from .section import section_drawn

Floats = NDArray[np.float64]

__all__ = ["Hand", "road_key", "road_picture", "trial_pictures"]

Hand = Literal["line", "levels"]  # what a drag moves


PICTURE_VERSION = 6  # raised with every change of what the functions below make of the same inputs


def road_key(inputs: RoadInputs) -> str:
    """Tag of a road's picture: the hash of all that is in its inputs, which is all that the picture is made from, and the units of
    its sentences."""
    standard = Content(standard_of(inputs)) if standard_at_hand(inputs) else None
    return tag("road", PICTURE_VERSION, versions(), standard, inputs, spoken().name, spoken().group)


def road_picture(inputs: RoadInputs) -> RoadDesign:
    """Everything the views of a road draw, from saved values."""
    r = design_road(inputs)
    shape, found = _shape(inputs, r), _findings(inputs, r)
    problems = {**shape["problems"], **found["problems"]}
    return cast(RoadDesign, {**shape, **found, "built": built_parts(inputs), "problems": problems})


def trial_pictures(
    inputs: RoadInputs,
    *,
    hand: Hand | None = None,
    mark: float | None = None,
    outline_only: bool = False,
    quantity: dict[str, Any] | None = None,
) -> Iterator[RoadLead | RoadShape | RoadFindings]:
    """What the views of a road draw from values of a trial, in three parts: what the ``hand`` moves, the rest of its shape with
    section and volumes, and how it stands against the standard. A drag is drawn with one part while the next is worked out.

    The lead is empty where nothing is moved by hand, or what is cannot be computed (the shape says why); the shape leaves out what
    is in the lead, and what hangs on the line alone where that is not moved. ``outline_only`` leaves out the edge lines between toe
    and pavement, for a plan at a scale that does not show them; ``quantity`` is drawn along the road.
    """
    lead = _lead(inputs, hand)
    yield lead
    r = design_road(inputs, mark)
    yield _shape(inputs, r, lead, line_rests=hand != "line", outline_only=outline_only, quantity=quantity)
    yield _findings(inputs, r)


def _lead(inputs: RoadInputs, hand: Hand | None) -> RoadLead:
    try:
        if hand == "line":
            line = line_of(inputs)
            return {"pis": _pis(inputs, line), "line": _line(line)}
        if hand == "levels":
            levels = levels_of(inputs)
            return {"levels": _levels(levels), "pvis": _pvis(inputs, levels)}
    except IvoryRidgeError:  # told with the shape, which needs it too
        pass
    return {}


def _shape(
    inputs: RoadInputs,
    r: RoadResults,
    lead: RoadLead | None = None,
    *,
    line_rests: bool = False,
    outline_only: bool = False,
    quantity: dict[str, Any] | None = None,
) -> RoadShape:
    section = section_drawn(r.section, compute_areas(r.section)) if r.section is not None else None
    shape: dict[str, Any] = {
        "key": road_key(inputs),
        "road_id": inputs.road_id,
        "levels_follow": inputs.levels_follow,
        "pvi_rows": [[p.id, p.revision] for p in inputs.pvis],
        "edges": _edges(r.corridor, outline_only) if r.corridor is not None else {"origin": [0, 0], "lines": []},
        "earthwork": _earthwork(r) if r.corridor is not None else None,
        "section": section,
        "crossfall": _crossfall(inputs) if r.line is not None else None,
        "problems": {step: _problem(e) for step, e in r.problems.items()},
        **guides_picture(inputs, r.levels),
        "along": along_rows(inputs, r.line) if r.line is not None else [],
        **({"quantity": quantity_picture(inputs, quantity)} if quantity and r.corridor is not None else {}),
        "limits": {"design_speed": inputs.design_speed, "greatest_grade": inputs.greatest_grade, "least_k": inputs.least_k},
    }
    led = lead or {}
    if not line_rests:
        shape["ground"] = rounded(r.ground, 3) if len(r.ground) else []
        if "line" not in led:
            shape |= {"pis": _pis(inputs, r.line), "line": _line(r.line) if r.line else None}
    if "levels" not in led:
        shape |= {"levels": _levels(r.levels) if r.levels else None, "pvis": _pvis(inputs, r.levels)}
    return cast(RoadShape, shape)


def _findings(inputs: RoadInputs, r: RoadResults) -> RoadFindings:
    """Open findings of the corridor and against the standard, departures that are accepted, and why there are none if so."""
    with counting(lambda station: float(counted_at(station, inputs.equations)[0])):
        return _findings_said(inputs, r)


def _findings_said(inputs: RoadInputs, r: RoadResults) -> RoadFindings:
    problems = {}
    against: list[dict[str, Any]] = []
    if r.line is not None and "levels" not in r.problems:
        try:
            against = [f.as_dict() for f in design_findings(inputs)]
        except IvoryRidgeError as error:
            problems["standard"] = _problem(error)
    land: tuple[Any, ...] = ()
    if r.corridor is not None:
        try:
            land = land_findings_of(inputs)
        except IvoryRidgeError as error:
            problems["land"] = _problem(error)
    accepted = inputs.departures
    return cast(RoadFindings, {
        "findings": [f for f in against if f["key"] not in accepted] + ([f.as_dict() for f in (*r.corridor.findings, *land)]
        if r.corridor is not None else []),
        "departures": [{**f, **accepted[f["key"]]} for f in against if f["key"] in accepted],
        "problems": problems,
    })  # fmt: skip


def _crossfall(inputs: RoadInputs) -> CrossfallForm:
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
        return cast(
            CrossfallForm, {**settings, "station": [], "left": [], "right": [], "normal": [], "bends": [], "half_width": 0.0}
        )
    d = turning.diagram
    return cast(CrossfallForm, {
        **settings, "station": rounded(d.station, 3), "left": rounded(d.left, 6), "right": rounded(d.right, 6), "normal": d.normal,
        "half_width": max(turning.half_width), "bends": [{**asdict(b), "pi_id": inputs.pi_rows[b.pi][0] if inputs.pi_rows else b.pi}
        for b in d.bends],
    })  # fmt: skip


def _problem(e: IvoryRidgeError) -> Problem:
    return {"code": e.code, "sentence": e.sentence, "where": e.where}


def _pis(inputs: RoadInputs, line: HorizontalAlignment | None) -> list[PIRow]:
    out: list[PIRow] = []
    with_rows = bool(inputs.pi_rows)
    pis = (tied_pis(inputs) if with_rows else pis_of(inputs)) if line is not None else inputs.pis
    for i, (p, (pk, revision)) in enumerate(zip(pis, inputs.pi_rows or [(None, 0)] * len(pis), strict=True)):
        row: PIRow = {
            "id": pk, "revision": revision, "easting": p.easting, "northing": p.northing, "radius": p.radius,
            "spiral_in": p.spiral_in, "spiral_out": p.spiral_out, "stations": None, "turn": 0, "held": pk in inputs.held_pis,
            "straight_held": pk in inputs.held_straights,
        }  # fmt: skip
        if line is not None:
            own = np.flatnonzero(line.pi_of == i)
            if len(own):
                row["stations"] = (float(line.stations[own[0]]), float(line.stations[own[-1] + 1]))
                row["turn"] = int(np.sign(line.k0[own].sum() + line.k1[own].sum()))
        out.append(row)
    return out


def _line(line: HorizontalAlignment) -> Line:
    s = sample_stations(line, 500.0, 0.01)  # straights need their ends only; on bends chords leave the arc by R / 80 000
    places, azimuth, curvature = line.evaluate(s)
    ends = line.stations
    elements: list[LineElement] = []
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


def _levels(levels: Levels) -> LevelsForm:
    p = levels.profile
    stations = level_stations(p)
    z, grade = p.evaluate(stations)
    return {
        "start": float(p.station[0]), "end": float(p.station[-1]),
        "points": np.column_stack([np.round(stations, 3), np.round(z, 4), np.round(grade, 6)]).tolist(),
        "turning": rounded(p.turning_points(), 3),
    }  # fmt: skip


def _pvis(inputs: RoadInputs, levels: Levels | None) -> list[PVIRow]:
    if levels is None:
        return []
    out: list[PVIRow] = []
    pvis, rows = levels.pvis, levels.rows
    for i, (p, row) in enumerate(zip(pvis, rows, strict=True)):
        g_in = (p.elevation - pvis[i - 1].elevation) / (p.station - pvis[i - 1].station) if i else None
        g_out = (pvis[i + 1].elevation - p.elevation) / (pvis[i + 1].station - p.station) if i + 1 < len(pvis) else None
        length = p.half_in + p.half_out
        change = (g_out - g_in) if g_in is not None and g_out is not None else 0.0
        k = length / abs(100 * change) if length and abs(change) > 1e-9 else None
        out.append({
            "id": row.id, "revision": row.revision, "anchor": cast(Any, row.anchor), "tangent_point": row.tangent_point, "pi": row.pi,
            "ahead": row.ahead, "station": round(p.station, 4), "elevation": p.elevation, "half_in": p.half_in, "half_out": p.half_out,
            "circular": p.circular, "circle_differs": circle_differs(g_in, g_out, length)
            if p.circular and g_in is not None and g_out is not None else 0.0,
            "length": length, "grade_in": g_in, "grade_out": g_out, "k": k, "kind": "crest" if change < 0 else "sag",
        })  # fmt: skip
    return out


def _edges(corridor: Corridor, outline_only: bool = False) -> Edges:
    """Edge lines in plan for drawing: whole centimetres east and north of an origin, in one row a line; quick to write and read."""
    origin = np.floor(corridor.places.place[0])
    lines: list[EdgeLine] = [
        {
            "side": e.side,
            "role": e.role,
            "first": e.first,
            "cm": np.rint((e.points[:, :2] - origin) * 100).astype(np.int64).ravel().tolist(),
        }
        for e in edge_lines(corridor)
        if (role_named(e.role).outline if outline_only else not role_named(e.role).below)
    ]
    return {"origin": origin.tolist(), "lines": lines}


def _earthwork(r: RoadResults) -> Earthwork:
    assert r.corridor is not None and r.areas is not None and r.volumes is not None
    v, a = r.volumes, r.areas
    return {
        "station": rounded(v.station, 3), "cut_area": rounded(a.cut, 3), "fill_area": rounded(a.fill, 3),
        "cumulative_cut": rounded(v.cumulative_cut, 2), "cumulative_fill": rounded(v.cumulative_fill, 2),
        "cut": float(v.cumulative_cut[-1]), "fill": float(v.cumulative_fill[-1]),
        "plain_cut": float(v.plain_cut.sum()), "plain_fill": float(v.plain_fill.sum()),
        "unknown": float(np.max(a.unknown_width, initial=0.0)),
        "layers": [{"material": m, "volume": float(x.sum())} for m, x in v.layers.items()],
    }  # fmt: skip
