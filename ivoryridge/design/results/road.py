"""All that could be computed of a road, and why the rest could not."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.earthwork.end_area import SectionAreas, Volumes
from ivoryridge.core.errors import IvoryRidgeError

from ..inputs.road import RoadInputs
from .corridor import corridor_and_section, corridor_of, missing_for_corridor
from .earthwork import areas_of
from .levels import Levels, levels_of
from .line import ground_under, line_of

Floats = NDArray[np.float64]

__all__ = ["RoadResults", "design_road", "problems_of"]


@dataclass(frozen=True, slots=True, eq=False)
class RoadResults:
    """What could be computed of a road, and in ``problems`` why the rest could not: step -> error."""

    inputs: RoadInputs
    line: HorizontalAlignment | None
    ground: Floats
    levels: Levels | None
    corridor: Corridor | None
    areas: SectionAreas | None
    volumes: Volumes | None
    section: Corridor | None
    problems: dict[str, IvoryRidgeError]


class _Attempts:
    """Steps that may fail: a failed one is told, and those that need it are left out."""

    def __init__(self) -> None:
        self.problems: dict[str, IvoryRidgeError] = {}

    def __call__(self, step: str, compute: Callable[[], Any]) -> Any:
        try:
            return compute()
        except IvoryRidgeError as error:
            self.problems[step] = error
            return None


def _line_and_levels(road: RoadInputs, attempt: _Attempts) -> tuple[HorizontalAlignment | None, Levels | None]:
    line = attempt("line", lambda: line_of(road)) if road.pis or road.has_line else None
    levels = attempt("levels", lambda: levels_of(road)) if line and (road.pvis or road.levels_follow) else None
    return line, levels


def design_road(road: RoadInputs, mark: float | None = None) -> RoadResults:
    """Every step that has its inputs, and the section at ``mark`` (m) if one is given."""
    attempt = _Attempts()
    line, levels = _line_and_levels(road, attempt)
    ground = attempt("ground", lambda: ground_under(road)) if line else None
    ready = line and levels and not missing_for_corridor(road)
    section = None
    if ready and mark is not None:
        corridor, section = attempt("road", lambda: corridor_and_section(road, mark)) or (None, None)
    else:
        corridor = attempt("road", lambda: corridor_of(road)) if ready else None
    areas, volumes = areas_of(road) if corridor is not None else (None, None)
    found = np.empty((0, 2)) if ground is None else ground
    return RoadResults(road, line, found, levels, corridor, areas, volumes, section, attempt.problems)


def problems_of(road: RoadInputs, *, whole: bool) -> dict[str, IvoryRidgeError]:
    """Step -> why it cannot be computed, of the steps that have their inputs: line and levels, and all of them if ``whole``."""
    if whole:
        return design_road(road).problems
    attempt = _Attempts()
    _line_and_levels(road, attempt)
    return attempt.problems
