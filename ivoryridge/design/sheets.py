"""Sheets of a road: from its results to drawings, kept by key."""

from __future__ import annotations

from typing import Any

import numpy as np

from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.corridor.solids import edge_lines
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.sheets.cross_sections import draw_cross_sections
from ivoryridge.core.sheets.drawing import Drawing
from ivoryridge.core.sheets.frame import Frame, RoadToDraw, SheetSettings, compute_frames
from ivoryridge.core.sheets.plan_profile import draw_plan_profile
from ivoryridge.core.units import format_station

from .assemble import RoadInputs, assemble_road
from .derive import CODE_VERSION, LIBRARIES, derived, key_of
from .models import SheetSet
from .results import (
    corridor_at,
    corridor_key,
    corridor_of,
    ground_under,
    levels_key,
    levels_of,
    line_of,
    missing_for_corridor,
    surface_key,
)
from .shown import contours_of

__all__ = ["plan_sheets", "section_sheets", "sheet_list", "sheets_key", "sheets_record"]

_TOLD = (
    "paper",
    "scale",
    "exaggeration",
    "section_scale",
    "section_interval",
    "band_interval",
    "drawing_number",
    "revision_mark",
)


def sheets_key(sheets: SheetSet) -> str:
    project = sheets.project
    told = {k: getattr(sheets, k) for k in _TOLD} | {
        "project": project.name, "reference": project.coordinate_reference, "group": project.chainage_group, "word": project.chainage_word,
        "road": sheets.road.name,
    }  # fmt: skip
    inputs = assemble_road(sheets.road)
    # what is drawn, not who wrote it: no revisions, so that undo finds the paper again
    drawn = [
        levels_key(inputs),
        corridor_key(inputs) if not missing_for_corridor(inputs) else "",
        surface_key(inputs.surface) if inputs.surface else "",
    ]
    return key_of("sheets", drawn, told, sheets.road.equations)


def sheets_record(sheets: SheetSet) -> dict[str, Any]:
    """What stands behind the sheets: keys of the results, versions of the code of each kind, and of the libraries."""
    inputs = assemble_road(sheets.road)
    return {
        "sheets": sheets_key(sheets),
        "levels": levels_key(inputs),
        "corridor": corridor_key(inputs) if not missing_for_corridor(inputs) else None,
        "surface": surface_key(inputs.surface) if inputs.surface else None,
        "code": dict(CODE_VERSION),
        "libraries": LIBRARIES,
    }


def _settings(sheets: SheetSet) -> SheetSettings:
    project = sheets.project
    decimals_group = project.chainage_group

    def station_text(value: float, decimals: int) -> str:
        return format_station(float(counted_at(value, sheets.road.equations)[0]), group=decimals_group, decimals=decimals)

    return SheetSettings(
        project=project.name, road=sheets.road.name, paper=sheets.paper, scale=sheets.scale, exaggeration=sheets.exaggeration,
        section_scale=sheets.section_scale, section_interval=sheets.section_interval, band_interval=sheets.band_interval,
        drawing_number=sheets.drawing_number, revision=sheets.revision_mark, coordinate_reference=project.coordinate_reference,
        chainage_word=project.chainage_word, station_text=station_text,
        equations=tuple((float(s), float(j)) for s, j in sheets.road.equations),
    )  # fmt: skip


def _inputs(sheets: SheetSet) -> RoadInputs:
    inputs = assemble_road(sheets.road)
    lacks = missing_for_corridor(inputs)
    if not inputs.has_line or len(inputs.pvis) < 2:
        raise InputError("corridor-needs", missing=lacks)
    return inputs


def _frames(sheets: SheetSet, inputs: RoadInputs) -> list[Frame]:
    return compute_frames(line_of(inputs), _settings(sheets))


def _road(inputs: RoadInputs, scale: float) -> RoadToDraw:
    levels = levels_of(inputs)
    corridor = corridor_of(inputs) if not missing_for_corridor(inputs) else None
    interval = 1.0 if scale <= 1000 else 2.0
    contours = contours_of(inputs.surface, interval) if inputs.surface and inputs.surface.sources else None
    edges = tuple((side, role, points) for side, role, points in edge_lines(corridor)) if corridor else ()
    return RoadToDraw(line_of(inputs), levels.profile, levels.pvis, ground_under(inputs), edges, corridor, contours, interval)


def plan_sheets(sheets: SheetSet) -> list[Drawing]:
    """All plan-over-profile sheets."""
    return derived(key_of("sheets", sheets_key(sheets), "plan"), lambda: _make_plan_sheets(sheets))


def _make_plan_sheets(sheets: SheetSet) -> list[Drawing]:
    inputs = _inputs(sheets)
    settings, frames = _settings(sheets), _frames(sheets, inputs)
    road = _road(inputs, sheets.scale)
    return [draw_plan_profile(road, f, settings, count=len(frames)) for f in frames]


def section_sheets(sheets: SheetSet) -> list[Drawing]:
    """All cross-section sheets: a section at the chosen interval and at both ends."""
    return derived(key_of("sheets", sheets_key(sheets), "sections"), lambda: _make_section_sheets(sheets))


def _make_section_sheets(sheets: SheetSet) -> list[Drawing]:
    inputs = _inputs(sheets)
    if missing_for_corridor(inputs):
        return []
    stations = corridor_of(inputs).station
    step = sheets.section_interval
    inner = np.arange(np.ceil(stations[0] / step), np.floor(stations[-1] / step) + 1) * step
    corridor = corridor_at(inputs, np.unique(np.concatenate([[stations[0]], inner, [stations[-1]]])))
    return draw_cross_sections(corridor, compute_areas(corridor), _settings(sheets))


def sheet_list(sheets: SheetSet) -> dict[str, Any]:
    """Frames with their corners in plan, the number of section sheets, and which sheets had to leave labels out."""
    inputs = _inputs(sheets)
    frames = _frames(sheets, inputs)
    plans, sections = plan_sheets(sheets), section_sheets(sheets)
    left_out = [
        Finding("note", "labels-left-out", {"count": d.left_out, "sheet": d.title}).sentence
        for d in (*plans, *sections)
        if d.left_out
    ]
    return {
        "frames": [{"number": f.number, "title": d.title, "from": f.start, "to": f.end, "corners": [list(c) for c in f.corners]} for f, d in zip(frames, plans, strict=True)],
        "section_sheets": len(sections), "left_out": left_out,
    }  # fmt: skip
