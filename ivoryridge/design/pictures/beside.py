"""What stands beside a profile on the long section: other profiles of the line, ground elsewhere, and what crosses the line."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, cast

import numpy as np
import shapely
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points, sample_stations
from ivoryridge.core.corridor.drainage import beds_of
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.wording import quantity

from ..forms.road import BedRow, Beside, CandidateLine, Crosses, GroundBeside
from ..inputs.network import assemble_road
from ..inputs.road import RoadInputs, pvi_from_row
from ..inputs.surface import assemble_surface
from ..models import FIRST_PROFILE, Road, RoadPVI, Surface, SurveySet
from ..refusals import NotThere
from ..results.corridor import corridor_of, missing_for_corridor
from ..results.earthwork import areas_of
from ..results.levels import levels_of
from ..results.line import ground_beside, ground_under, line_of
from ..results.surface import survey_arrays

Floats = NDArray[np.float64]

__all__ = ["beds_picture", "beside_picture", "candidates_picture", "other_lines", "with_candidate"]

MOST_CROSSINGS = 200


def with_candidate(road: Road, candidate: str) -> RoadInputs:
    """A road as it would be with another of its profiles in use. Raises NotThere for one that is none."""
    if candidate not in ("", *(c["id"] for c in road.candidates)):
        raise NotThere("no-such-candidate", "This profile is no longer there; somebody deleted it.")
    inputs = assemble_road(road)
    index = {pk: i for i, (pk, _) in enumerate(inputs.pi_rows) if pk}
    rows = RoadPVI.present.filter(road=road, candidate=candidate)
    return replace(inputs, pvis=tuple(pvi_from_row(r, index) for r in rows))


def candidates_picture(road: Road) -> list[CandidateLine]:
    """Every profile of the line: its course, and cut, fill and balance of the road with it; or why it cannot be computed."""
    out = []
    for c in [{"id": "", "name": FIRST_PROFILE}, *road.candidates]:
        own = with_candidate(road, c["id"])
        row: CandidateLine = {
            "id": c["id"],
            "name": c["name"],
            "used": c["id"] == road.candidate,
            "points": [],
            "cut": None,
            "fill": None,
            "problem": None,
        }
        try:
            if own.has_profile:
                p = levels_of(own).profile
                s = np.unique(np.concatenate([p.station, np.arange(p.station[0], p.station[-1], 10.0)]))
                row["points"] = np.column_stack([np.round(s, 2), np.round(p.evaluate(s)[0], 3)]).tolist()
                if not missing_for_corridor(own):
                    _, volumes = areas_of(own)
                    row |= {"cut": float(volumes.cumulative_cut[-1]), "fill": float(volumes.cumulative_fill[-1])}
        except IvoryRidgeError as error:
            row["problem"] = error.sentence
        out.append(row)
    return out


def beside_picture(road: Road, offsets: list[float], surfaces: list[int], *, beds: bool = False) -> Beside:
    inputs = assemble_road(road)
    line = line_of(inputs)
    grounds: list[GroundBeside] = []
    if inputs.surface is not None and inputs.surface.sources:
        grounds += [
            {"name": f"{quantity(abs(o), 'm')} {'right' if o > 0 else 'left'}", "points": _ground(inputs, inputs.surface, o)}
            for o in offsets
            if o
        ]
    for row in Surface.present.filter(project=road.project, pk__in=surfaces):
        if row.sources:
            grounds.append({"name": row.name, "points": _ground(inputs, assemble_surface(row), 0.0)})
    if beds:
        grounds += _beds(inputs)
    return {"grounds": grounds, "crossings": _roads_across(road, inputs, line) + _lines_across(road, line)}


def beds_picture(inputs: RoadInputs) -> list[BedRow]:
    """Ditches and channels of a road. Raises InputError where it cannot be built."""
    return [
        cast(BedRow, {
            "side": b.side, "role": b.role, "station_from": float(b.station[0]), "station_to": float(b.station[-1]),
            "lows": np.round(b.lows, 3).tolist(), "outfalls": np.round(b.outfalls, 3).tolist(), "flattest": b.flattest,
            "flattest_at": b.flattest_at,
        })
        for b in beds_of(corridor_of(inputs))
    ]  # fmt: skip


def _beds(inputs: RoadInputs) -> list[GroundBeside]:
    """Beds as lines on the long section."""
    if missing_for_corridor(inputs):
        return []
    out: dict[str, list[tuple[float, float | None]]] = {}
    for b in beds_of(corridor_of(inputs)):
        row = out.setdefault(f"{b.side} {b.role}".strip(), [])
        row += [(float(b.station[0]), None)] if row else []
        row += [(round(float(s), 2), round(float(z), 3)) for s, z in zip(b.station, b.level, strict=True)]
    return [{"name": name, "points": points} for name, points in out.items()]


def _ground(inputs: RoadInputs, recipe: Any, offset: float) -> list[tuple[float, float | None]]:
    """Station and level of a ground under the line or beside it; the station is that of the line square to the place."""

    table = ground_beside(inputs, recipe, offset)
    return [(round(float(s), 2), round(float(z), 3) if np.isfinite(z) else None) for s, z in table]


def _course(line: HorizontalAlignment) -> Any:
    return shapely.LineString(line.evaluate(sample_stations(line, 500.0, 0.02))[0])


def _places(found: Any) -> Floats:
    points = [g for g in shapely.get_parts(found) if g.geom_type == "Point"] if not found.is_empty else []
    return np.array([[p.x, p.y] for p in points]).reshape(-1, 2)


def _roads_across(road: Road, inputs: RoadInputs, line: HorizontalAlignment) -> list[Crosses]:
    """Other roads where their lines cross this one, at the level of their profiles."""
    out: list[Crosses] = []
    for other in Road.present.filter(project=road.project).exclude(pk=road.pk).select_related("project", "surface", "template"):
        try:
            theirs = assemble_road(other)
            if not theirs.has_line:
                continue
            places = _places(shapely.intersection(_course(line), _course(line_of(theirs))))
            if not len(places):
                continue
            if theirs.has_profile:
                levels = levels_of(theirs).profile.evaluate(project_points(line_of(theirs), places).station)[0]
            else:  # a road without levels is shown on the ground
                ground = ground_under(inputs)
                levels = (
                    np.interp(project_points(line, places).station, *ground.T) if len(ground) else np.full(len(places), np.nan)
                )
        except IvoryRidgeError:
            continue  # a road that cannot be computed says so where it is looked at
        for s, z in zip(project_points(line, places).station, levels, strict=True):
            out.append(
                {
                    "kind": "road",
                    "name": other.name,
                    "station": round(float(s), 2),
                    "level": None if np.isnan(z) else round(float(z), 3),
                }
            )
    return out


def _lines_across(road: Road, line: HorizontalAlignment) -> list[Crosses]:
    """Received lines that are no part of the ground, with levels of their own: pipes, services, edges."""
    out: list[Crosses] = []
    course = _course(line)
    for survey in SurveySet.present.filter(project=road.project).only("id", "name", "roles"):
        arrays = survey_arrays(survey.pk)
        for vertices, code, kind in zip(arrays.lines, arrays.line_codes, arrays.line_types, strict=True):
            role = survey.roles.get(f"{kind}/{code}", "breakline")
            if (
                role not in ("background", "unsorted", "ignore")
                or not np.isfinite(vertices[:, 2]).all()
                or not vertices[:, 2].any()
            ):
                continue
            found = shapely.intersection(course, shapely.LineString(vertices[:, :2]))
            for place in _places(found):
                d = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(vertices[:, :2], axis=0).T))])
                at = shapely.line_locate_point(shapely.LineString(vertices[:, :2]), shapely.Point(place))
                level = float(np.interp(at, d, vertices[:, 2]))
                station = float(project_points(line, place[None]).station[0])
                out.append({"kind": "line", "name": code or survey.name, "station": round(station, 2), "level": round(level, 3)})
                if len(out) >= MOST_CROSSINGS:
                    return out
    return out


def other_lines(road: Road) -> list[tuple[str, HorizontalAlignment]]:
    """Lines of the project's other roads, by name; one that cannot be computed says so where it is looked at."""
    out = []
    for other in Road.present.filter(project=road.project).exclude(pk=road.pk).select_related("project", "surface", "template"):
        try:
            theirs = assemble_road(other)
            if theirs.has_line:
                out.append((other.name, line_of(theirs)))
        except IvoryRidgeError:
            continue
    return out
