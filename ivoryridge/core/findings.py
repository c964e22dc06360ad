"""Findings: what is allowed but doubtful, reported beside the result while the work goes on."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

__all__ = ["FINDING_SENTENCES", "Finding", "Severity"]

Severity = Literal["note", "doubt", "fault"]

FINDING_SENTENCES: dict[str, str] = {
    "points-duplicate": "{count} points lie at the same place as another one and were taken once.",
    "points-duplicate-levels": "{count} points lie at the place of another one with a different level, at most {greatest:.3f} m apart; the first one was kept.",
    "breaklines-cross-levels": "Two breaklines cross at E {easting:.2f} N {northing:.2f} with levels {difference:.3f} m apart (limit {limit:.3f} m); the level of the first one was taken.",
    "breakline-short": "Breakline {name} has fewer than 2 different points and was left out.",
    "points-outside": "{count} points were left out because a coordinate is not a number; the first is in line {line}.",
    "line-unread": "Line {line} was left out: {reason}.",
    "lines-unread": "{count} lines were left out because they could not be read, the first is line {line}: {reason}.",
    "axes-swapped": "Easting and northing look swapped: the columns are named, or lie, the other way round. Check the order.",
    "flat-file": "All {count} points have the same level {elevation:.3f}. Check the level column.",
    "levels-spread": "The levels run from {least:.2f} to {greatest:.2f}, {spread:.0f} m apart. Check for zero levels and spikes.",
    "far-from-project": "The file lies {distance:.0f} km away from what the project already holds. Check the coordinate reference and the order of the axes.",
    "units-converted": "The file gives lengths in {unit}; they were converted to metres.",
    "definition-missing": "Surface {surface} has no triangles of its own; they are made from its points and breaklines.",
    "left-out": "{count} × {what} were left out: this program does not bring them in here.",
    "faces-invisible": "{count} faces of surface {surface} are marked invisible and were left out.",
    "off-ground": "From {start:.2f} to {end:.2f} m the road lies outside the surface; no ground is known there.",
    "not-met": "The {part} on the {side} does not meet the ground within its search distance from {start:.2f} to {end:.2f} m ({count} sections).",
    "crosses-itself": "The section on the {side} crosses itself from {start:.2f} to {end:.2f} m.",
    "toe-jumps": "The toe on the {side} jumps by {value:.2f} m between {start:.2f} and {end:.2f} m.",
    "sections-cross": "On the inside of the bend neighbouring sections cross on the {side} from {start:.2f} to {end:.2f} m; quantities there are counted twice.",
    "labels-left-out": "{count} labels found no free place on sheet {sheet} and were left out.",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding: severity, code, the numbers of its sentence, and the place (stations in m, or a point)."""

    severity: Severity
    code: str
    params: dict[str, Any] = field(default_factory=dict)
    station_from: float | None = None
    station_to: float | None = None
    place: tuple[float, float] | None = None

    @property
    def sentence(self) -> str:
        return FINDING_SENTENCES[self.code].format(**self.params)

    def as_dict(self) -> dict[str, Any]:
        return {
            "severity": self.severity,
            "code": self.code,
            "sentence": self.sentence,
            "station_from": self.station_from,
            "station_to": self.station_to,
            "place": list(self.place) if self.place else None,
        }
