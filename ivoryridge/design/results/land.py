"""The land that a road takes within the project's boundary."""

from __future__ import annotations

from functools import partial

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.land import Boundary, LandTake, boundary_from, land_findings, land_take
from ivoryridge.core.findings import Finding

from ..inputs.road import RoadInputs
from ..kept.kinds import Result, Stored, kind
from .corridor import corridor
from .led import Lines, received_lines
from .surface import survey_arrays

__all__ = ["land_findings_of", "land_take_of"]


@kind("land boundary", 1)
def _boundary(lines: Lines) -> Boundary:
    return boundary_from(lines)


@kind("land findings", 1)
def _findings(corridor: Corridor, boundary: Boundary, margin: float) -> tuple[Finding, ...]:
    return tuple(land_findings(corridor, boundary, margin))


@kind("land take", 1)
def _take(corridor: Corridor, margin: float) -> LandTake:
    return land_take(corridor, margin)


def _bounds(road: RoadInputs) -> Result[Boundary] | None:
    source = road.received.get(int(road.land.get("survey") or 0))
    if source is None:
        return None
    lines = received_lines(survey=Stored(source.hash, partial(survey_arrays, source.id)), layer=str(road.land.get("layer", "")))
    return _boundary(lines=lines)


def margin_of(road: RoadInputs) -> float:
    return float(road.land.get("margin") or 0.0)


def land_findings_of(road: RoadInputs) -> tuple[Finding, ...]:
    """None where the project has no boundary. Raises InputError where the road lacks something."""
    bounds = _bounds(road)
    return _findings(corridor=corridor(road), boundary=bounds, margin=margin_of(road)).get() if bounds is not None else ()


def land_take_of(road: RoadInputs) -> LandTake:
    """Raises InputError where the road lacks something."""
    return _take(corridor=corridor(road), margin=margin_of(road)).get()
