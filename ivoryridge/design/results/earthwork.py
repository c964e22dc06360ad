"""Areas of a road's sections, and the volumes between them."""

from __future__ import annotations

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.earthwork.end_area import SectionAreas, Volumes, compute_areas, compute_volumes

from ..inputs.road import RoadInputs
from ..kept.kinds import Result, kind
from .cut_back import counted

__all__ = ["areas", "areas_of"]


@kind("areas", 5)
def _areas(corridor: Corridor) -> tuple[SectionAreas, Volumes]:
    found = compute_areas(corridor)
    return found, compute_volumes(corridor, found)


def areas(road: RoadInputs) -> Result[tuple[SectionAreas, Volumes]]:
    """At the sections that ``counted`` gives."""
    return _areas(corridor=counted(road))


def areas_of(road: RoadInputs) -> tuple[SectionAreas, Volumes]:
    return areas(road).get()
