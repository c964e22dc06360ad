"""A road held against its standard: findings on line, levels and crossfall, and what a driver sees."""

from __future__ import annotations

from ivoryridge.core.alignment.first_profile import FixedLevel
from ivoryridge.core.standards.checks import (
    DesignFinding,
    SightLane,
    check_fixed,
    check_levels,
    check_line,
    check_sight,
    sight_lane,
)
from ivoryridge.core.standards.crossfall import check_crossfall
from ivoryridge.core.standards.together import check_together

from .assemble import RoadInputs
from .derive import derived, key_of
from .results import crossfall_key, crossfall_of, levels_key, levels_of, line_key, line_of, pis_of
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
        told = [levels_key(inputs), *line_told[1:], inputs.greatest_grade, inputs.least_k, inputs.fixed_points]

        def levels() -> list[DesignFinding]:
            now = levels_of(inputs)
            limits = {"greatest_grade": inputs.greatest_grade, "least_k": inputs.least_k}
            lane = sight_lane(now.profile, standard, zones)
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


def sight_of(inputs: RoadInputs) -> SightLane | None:
    """What a driver sees along the road, against what the standard asks for; None where either is lacking."""
    if len(inputs.pvis) < 2:
        return None
    return sight_lane(levels_of(inputs).profile, standard_of(inputs), zones_of(inputs))
