"""Sheets of a road: from its results to drawings, kept by key."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.alignment.vertical import PVI, VerticalAlignment
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.edges import edge_lines
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.sheets.cross_sections import draw_cross_sections
from ivoryridge.core.sheets.drawing import Drawing
from ivoryridge.core.sheets.frame import Frame, OtherRoad, RoadToDraw, SheetSettings, compute_frames
from ivoryridge.core.sheets.plan_profile import draw_plan_profile, fitting_exaggeration
from ivoryridge.core.terrain.recipe import Ground
from ivoryridge.core.units import format_station
from ivoryridge.core.wording import UNITS, speaking

from ..inputs.network import assemble_road, network_of
from ..inputs.road import RoadInputs
from ..kept.kinds import IfPossible, Result, hash_of, kind, libraries, versions
from ..models import SheetSet
from .corridor import corridor, corridor_of, missing_for_corridor, sections
from .levels import levels
from .line import ground_under_result, line, line_of
from .shown import Contours, contours_whole
from .surface import gathered, surface

Floats = NDArray[np.float64]

__all__ = ["plan_sheets", "section_sheets", "sheet_list", "sheets_key", "sheets_record"]

_OWN = (
    "paper", "scale", "exaggeration", "section_scale", "section_interval", "section_texts", "band_interval",
    "drawing_number", "revision_mark",
)  # fmt: skip


def _words(sheets: SheetSet) -> dict[str, Any]:
    """What a person has set of the sheets and of what is written on them; no revisions, so that undo finds the paper again."""
    project = sheets.project
    return {k: getattr(sheets, k) for k in _OWN} | {
        "units": project.length_unit, "project": project.name, "road": sheets.road.name,
        "coordinate_reference": project.coordinate_reference,
        "chainage_group": project.chainage_group, "chainage_word": project.chainage_word,
        "equations": tuple((float(s), float(j)) for s, j in sheets.road.equations),
    }  # fmt: skip


def _settings(words: Mapping[str, Any]) -> SheetSettings:
    w = dict(words)
    group, equations = w.pop("chainage_group"), w["equations"]
    metre = UNITS[w.pop("units")].metre

    def station_text(value: float, decimals: int) -> str:
        return format_station(float(counted_at(value, equations)[0]) / metre, group=group, decimals=decimals)

    revision = w.pop("revision_mark")
    w["section_texts"] = tuple(w["section_texts"])
    return SheetSettings(**w, revision=revision, station_text=station_text)


def _road(sheets: SheetSet) -> RoadInputs:
    road = assemble_road(sheets.road)
    if not road.has_line or not road.has_profile:
        raise InputError("corridor-needs", missing=missing_for_corridor(road))
    return road


# --- plan over profile ---------------------------------------------------------------------------------------
@kind("plan sheets", 4, memory="sheets")
def _plan_sheets(
    line: HorizontalAlignment,
    levels: tuple[VerticalAlignment, Any, tuple[PVI, ...]],
    ground: Floats | None,
    corridor: Corridor | None,
    contours: Contours | None,
    interval: float,
    mapping: Ground | None,
    others: tuple[tuple[str, bool, HorizontalAlignment | None], ...],
    words: Mapping[str, Any],
) -> list[Drawing]:
    settings = _settings(words)
    frames = compute_frames(line, settings)
    received = mapping.role("background", "outer", "hole") if mapping else []
    drawn = tuple((x.layer[1] or "mapping", x.vertices[:, :2]) for x in received if len(x.vertices) > 1)
    beside = tuple(OtherRoad(name, other, kerb) for name, kerb, other in others if other is not None)
    edges = tuple(edge_lines(corridor)) if corridor else ()
    under = np.empty((0, 2)) if ground is None else ground
    road = RoadToDraw(line, levels[0], levels[2], under, edges, corridor, contours, interval, drawn, beside)
    with speaking(UNITS[words["units"]]):
        settings = replace(settings, exaggeration=fitting_exaggeration(road, frames, settings))
        return [draw_plan_profile(road, f, settings, count=len(frames)) for f in frames]


def _plan_result(sheets: SheetSet) -> Result[list[Drawing]]:
    road = _road(sheets)
    near = sheets.scale <= 1000
    metre = UNITS[sheets.project.length_unit].metre
    interval = (1.0 if near else 2.0) if metre == 1.0 else (2.0 if near else 5.0) * metre
    has_ground = road.surface is not None and bool(road.surface.sources)
    return _plan_sheets(
        line=line(road), levels=levels(road), ground=ground_under_result(road),
        corridor=None if missing_for_corridor(road) else corridor(road),
        contours=contours_whole(road.surface, interval) if has_ground and road.surface else None,
        interval=interval, words=_words(sheets),
        mapping=IfPossible(gathered(road.surface)) if has_ground and road.surface else None, others=_others(sheets),
    )  # fmt: skip


def _others(sheets: SheetSet) -> tuple[tuple[str, bool, IfPossible[HorizontalAlignment]], ...]:
    """Name, whether it is a return, and line of every other road of the project that has one."""
    network = network_of(sheets.project_id)
    roads = [network.road(pk) for pk in sorted(network.own) if pk != sheets.road_id]
    return tuple((r.name, r.return_of is not None, IfPossible(line(r))) for r in roads if r.has_line)


def plan_sheets(sheets: SheetSet) -> list[Drawing]:
    """All plan-over-profile sheets."""
    return _plan_result(sheets).get()


# --- cross sections ------------------------------------------------------------------------------------------
@kind("section sheets", 4, memory="sheets")
def _section_sheets(sections: Corridor, words: Mapping[str, Any]) -> list[Drawing]:
    with speaking(UNITS[words["units"]]):
        return draw_cross_sections(sections, compute_areas(sections), _settings(words))


def section_sheets(sheets: SheetSet) -> list[Drawing]:
    """All cross-section sheets: a section at the chosen interval and at both ends."""
    road = _road(sheets)
    if missing_for_corridor(road):
        return []
    stations = corridor_of(road).station
    step = sheets.section_interval
    inner = np.arange(np.ceil(stations[0] / step), np.floor(stations[-1] / step) + 1) * step
    at = np.unique(np.concatenate([[stations[0]], inner, [stations[-1]]]))
    return _section_sheets(sections=sections(road, at), words=_words(sheets)).get()


# --- what is told of them ------------------------------------------------------------------------------------
def sheets_key(sheets: SheetSet) -> str:
    """Changes whenever anything on the paper could change."""
    return f"sheets-{hash_of(_plan_result(sheets))}"


def sheets_record(sheets: SheetSet) -> dict[str, Any]:
    """What stands behind the sheets: keys of the results, versions of the code of each kind, and of the libraries."""
    road = assemble_road(sheets.road)
    return {
        "sheets": sheets_key(sheets),
        "levels": levels(road).key,
        "corridor": None if missing_for_corridor(road) else corridor(road).key,
        "surface": surface(road.surface).key if road.surface else None,
        "code": versions(),
        "libraries": libraries(),
    }


def _some(texts: list[str]) -> str:
    told = ", ".join(f"'{t}'" for t in texts[:8])
    return told + (f" and {len(texts) - 8} more" if len(texts) > 8 else "")


def _frames(sheets: SheetSet) -> list[Frame]:
    return compute_frames(line_of(_road(sheets)), _settings(_words(sheets)))


def sheet_list(sheets: SheetSet) -> dict[str, Any]:
    """Frames with their corners in plan, the number of section sheets, and which sheets had to leave labels out."""
    frames = _frames(sheets)
    plans, across = plan_sheets(sheets), section_sheets(sheets)
    left_out = [
        Finding("note", "labels-left-out", {"count": d.left_out, "sheet": d.title, "told": _some(d.missed)}).sentence
        for d in (*plans, *across)
        if d.left_out
    ]
    return {
        "frames": [{"number": f.number, "title": d.title, "from": f.start, "to": f.end, "corners": [list(c) for c in f.corners]} for f,
        d in zip(frames, plans, strict=True)],
        "section_sheets": len(across), "left_out": left_out,
    }  # fmt: skip
