"""A road held against its standard: findings on line, levels and crossfall, and what a driver sees."""

from __future__ import annotations

import numpy as np

from ivoryridge.core.alignment.first_profile import FixedLevel
from ivoryridge.core.alignment.sight_plan import sight_in_plan
from ivoryridge.core.corridor.sight_space import sight_in_space
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.standards.checks import (
    DesignFinding,
    SightLane,
    check_fixed,
    check_levels,
    check_line,
    check_sight,
    farthest_of,
    in_space,
    sight_lane,
    with_plan,
)
from ivoryridge.core.standards.crossfall import check_crossfall
from ivoryridge.core.standards.together import check_together

from .assemble import RoadInputs
from .derive import derived, key_of
from .results import (
    corridor_key,
    corridor_of,
    crossfall_key,
    crossfall_of,
    levels_key,
    levels_of,
    line_key,
    line_of,
    missing_for_corridor,
    pis_of,
)
from .standards import fingerprint, standard_of, zones_of

__all__ = ["design_findings", "sight_of"]


def design_findings(inputs: RoadInputs) -> list[DesignFinding]:
    """What a line, and its levels where there are some, say against the standard; accepted departures are among them."""
    standard, zones = standard_of(inputs), zones_of(inputs)
    line_told = [line_key(inputs), fingerprint(standard), inputs.design_speed, inputs.speeds]
    out: list[DesignFinding] = list(
        derived(key_of("standards", line_told), lambda: check_line(line_of(inputs), pis_of(inputs), standard, zones))
    )
    turning = crossfall_of(inputs)
    if len(inputs.pvis) >= 2:
        told = [
            levels_key(inputs), *line_told[1:], inputs.greatest_grade, inputs.least_k, inputs.fixed_points,
            inputs.sight_clearance, inputs.traffic_side, "" if missing_for_corridor(inputs) else corridor_key(inputs),
        ]  # fmt: skip

        def levels() -> list[DesignFinding]:
            now = levels_of(inputs)
            limits = {"greatest_grade": inputs.greatest_grade, "least_k": inputs.least_k}
            lane = sight_of(inputs, needed_only=True)
            seen = check_sight(lane, standard, zones) if lane else []
            together = check_together(line_of(inputs), pis_of(inputs), now.profile, now.pvis, standard, zones)
            fixed = [
                FixedLevel(float(f["station"]), float(f["level"]), f["kind"], f.get("name", "")) for f in inputs.fixed_points
            ]
            return (
                check_fixed(now.profile, fixed) + check_levels(now.profile, now.pvis, standard, zones, **limits) + seen + together
            )

        out += derived(key_of("standards", told), levels)
    if turning is not None:
        profile = levels_of(inputs).profile if len(inputs.pvis) >= 2 else None
        told = [crossfall_key(inputs), levels_key(inputs) if profile else "", *line_told[1:]]
        width = max(turning.half_width)
        out += derived(
            key_of("standards", "crossfall", told),
            lambda: check_crossfall(turning.diagram, line_of(inputs), profile, standard, zones, width=width),
        )
    return out


def sight_of(inputs: RoadInputs, *, needed_only: bool = False) -> SightLane | None:
    """What a driver sees along the road against what the standard asks for; None where either is lacking.

    Eye and object are in the middle of the own lane. A finished corridor is looked along in space, with its slopes and the ground
    behind them; before there is one, crests and the stated clearance beside bends are looked at one by one. ``needed_only`` looks
    no farther than is ever asked for, for findings.
    """
    if len(inputs.pvis) < 2:
        return None
    standard, zones = standard_of(inputs), zones_of(inputs)
    line, profile, clearance = line_of(inputs), levels_of(inputs).profile, inputs.sight_clearance
    lane = sight_lane(profile, standard, zones)
    if lane is None:
        return None
    farthest = 1.01 * float(np.max(lane.required)) if needed_only else farthest_of(standard)
    own = -0.5 * LANE if inputs.traffic_side == "left" else 0.5 * LANE
    try:
        corridor = corridor_of(inputs) if not missing_for_corridor(inputs) else None
    except IvoryRidgeError:
        corridor = None  # why is told with the road; the view along it is told without its slopes then
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


LANE = 3.65  # m; a driver sits about the middle of a lane, whatever its width
