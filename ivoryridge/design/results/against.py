"""A road held against its standard: findings on line, levels and crossfall, and what a driver sees."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment
from ivoryridge.core.alignment.profile_limits import FixedLevel
from ivoryridge.core.alignment.sight_plan import sight_in_plan
from ivoryridge.core.alignment.vertical import VerticalAlignment
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.sight_space import sight_in_space
from ivoryridge.core.corridor.turning import Crossfall
from ivoryridge.core.standards.checks import DesignFinding, check_fixed, check_levels, check_line
from ivoryridge.core.standards.crossfall import check_crossfall
from ivoryridge.core.standards.sight import SightLane, check_sight, farthest_of, in_space, sight_lane, with_plan
from ivoryridge.core.standards.standard import SpeedZones, Standard
from ivoryridge.core.standards.together import check_together

from ..inputs.road import RoadInputs
from ..inputs.standards import standard_of, zones_of
from ..kept.kinds import Content, IfPossible, Result, kind
from .corridor import corridor, missing_for_corridor
from .crossfall import crossfall
from .levels import levels, levels_of
from .line import line, pis_result

__all__ = ["against_results", "design_findings", "sight_of"]

LANE = 3.65  # m; a driver sits about the middle of a lane, whatever its width


@kind("line findings", 3)
def _line_findings(line: HorizontalAlignment, pis: tuple[PI, ...], standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    return check_line(line, pis, standard, zones)


@kind("sight", 1)
def _sight(
    line: HorizontalAlignment,
    levels: tuple[VerticalAlignment, Any, Any],
    corridor: Corridor | None,
    standard: Standard,
    zones: SpeedZones,
    clearance: float | None,
    traffic_side: str,
    needed_only: bool,
) -> SightLane | None:
    profile = levels[0]
    lane = sight_lane(profile, standard, zones)
    if lane is None:
        return None
    farthest = 1.01 * float(np.max(lane.required)) if needed_only else farthest_of(standard)
    own = -0.5 * LANE if traffic_side == "left" else 0.5 * LANE
    if corridor is not None:
        heights = {"eye": standard.rules["eye_height"], "target": standard.rules["object_height"]}
        beside = float("inf") if clearance is None else clearance
        seen = sight_in_space(line, profile, corridor, lane.station, path=own, **heights, clearance=beside, farthest=farthest)
        return in_space(lane, *seen)
    if clearance is None:
        return lane
    ahead, back = (
        sight_in_plan(line, lane.station, path=p, left=clearance, right=clearance, farthest=farthest, backward=backward)
        for p, backward in ((own, False), (-own, True))
    )
    return with_plan(lane, ahead, back)


@kind("levels findings", 1)
def _levels_findings(
    line: HorizontalAlignment,
    pis: tuple[PI, ...],
    levels: tuple[VerticalAlignment, Any, Any],
    seen: SightLane | None,
    standard: Standard,
    zones: SpeedZones,
    limits: Mapping[str, float],
    fixed: tuple[FixedLevel, ...],
) -> list[DesignFinding]:
    profile, _, pvis = levels
    return [
        *check_fixed(profile, list(fixed)),
        *check_levels(profile, pvis, standard, zones, **limits),
        *(check_sight(seen, standard, zones) if seen else []),
        *check_together(line, pis, profile, pvis, standard, zones),
    ]


@kind("crossfall findings", 1)
def _crossfall_findings(
    line: HorizontalAlignment,
    turning: Crossfall,
    levels: tuple[VerticalAlignment, Any, Any] | None,
    standard: Standard,
    zones: SpeedZones,
) -> list[DesignFinding]:
    profile = levels[0] if levels else None
    return check_crossfall(turning.diagram, line, profile, standard, zones, width=max(turning.half_width))


def _standard_needs(road: RoadInputs) -> dict[str, Any]:
    return {"standard": Content(standard_of(road)), "zones": zones_of(road)}


def _sight_result(road: RoadInputs, *, needed_only: bool) -> Result[SightLane | None]:
    whole = IfPossible(corridor(road)) if not missing_for_corridor(road) else None
    return _sight(
        line=line(road), levels=levels(road), corridor=whole, **_standard_needs(road), clearance=road.sight_clearance,
        traffic_side=road.traffic_side, needed_only=needed_only,
    )  # fmt: skip


def against_results(road: RoadInputs) -> list[Result[list[DesignFinding]]]:
    """What there is to hold against the standard: the line, the levels where there are some, and the crossfall if it turns."""
    if road.return_of is not None or road.existing:  # what holds for a corner is told with its sections
        return []
    common = _standard_needs(road)
    out = [_line_findings(line=line(road), pis=pis_result(road), **common)]
    with_levels = road.has_profile
    if with_levels:
        fixed = tuple(FixedLevel(float(f["station"]), float(f["level"]), f["kind"], f.get("name", "")) for f in road.fixed_points)
        limits = {"greatest_grade": road.greatest_grade, "least_k": road.least_k}
        out.append(
            _levels_findings(
                line=line(road), pis=pis_result(road), levels=levels(road), seen=_sight_result(road, needed_only=True), **common,
                limits=limits, fixed=fixed,
            )
        )  # fmt: skip
    if (turning := crossfall(road)) is not None:
        out.append(_crossfall_findings(line=line(road), turning=turning, levels=levels(road) if with_levels else None, **common))
    return out


def design_findings(road: RoadInputs) -> list[DesignFinding]:
    """What a line, and its levels where there are some, say against the standard; accepted departures are among them. Their
    keys name rows by id, so that a departure stays accepted where PIs are put in or the road is reversed."""
    return [replace(f, key=_identity(f.key, road)) for result in against_results(road) for f in result.get()]


_NUMBERED = re.compile(r"\b(PVI|PI) (\d+)")
_OTHER_WAY = {"entry": "exit", "exit": "entry", "ahead": "back", "back": "ahead"}


def _identity(key: str, road: RoadInputs) -> str:
    """The key of a finding with the ids of its PIs and PVIs for their numbers, two of them by their ids in order; which way it
    looks is told as the road was first drawn."""
    ids: dict[str, list[int | None]] = {"PI": [pk for pk, _ in road.pi_rows], "PVI": []}
    if "PVI " in key:
        ids["PVI"] = [p.id for p in levels_of(road).rows]

    def named(m: re.Match[str]) -> str:
        rows, n = ids[m[1]], int(m[2]) - 1
        return f"{m[1]}#{rows[n]}" if n < len(rows) and rows[n] is not None else m[0]

    key = _NUMBERED.sub(named, key)
    key = re.sub(r"(P\w*I#(\d+))( to | and )(P\w*I#(\d+))", lambda m: m[0] if int(m[2]) < int(m[5]) else m[4] + m[3] + m[1], key)
    return re.sub(r"\b(entry|exit|ahead|back)\b", lambda m: _OTHER_WAY[m[0]], key) if road.mirrored else key


def sight_of(road: RoadInputs) -> SightLane | None:
    """What a driver sees along the road against what the standard asks for; None where either is lacking.

    Eye and object are in the middle of the own lane. A finished corridor is looked along in space, with its slopes and the ground
    behind them; before there is one, crests and the stated clearance beside bends are looked at one by one.
    """
    return _sight_result(road, needed_only=False).get() if road.has_profile else None
