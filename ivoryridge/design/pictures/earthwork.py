"""Volumes of a road, whole or over a range whose ends are sections, by the way a person chooses."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.earthwork.end_area import (
    SectionAreas,
    average_end_area,
    compute_areas,
    compute_volumes,
    divides,
    prismoidal_volumes,
)
from ivoryridge.core.errors import InputError
from ivoryridge.core.report.earthwork import earthwork_report
from ivoryridge.core.report.table import Table
from ivoryridge.core.tolerances import SAME_STATION
from ivoryridge.core.wording import quantity

from ..forms.road import CutFill, LayerVolume, VolumeRow, VolumesPicture, VolumeWay
from ..inputs.road import RoadInputs
from ..results.corridor import missing_for_corridor
from ..results.cut_back import counted, counted_at, counted_every, counted_over

Floats = NDArray[np.float64]

__all__ = ["WAYS", "CountedVolumes", "VolumesAsked", "count_volumes", "earthwork_tables", "told_sections", "volumes_picture"]

# bends: end areas, every element as long as it is in the bend; plain: end areas as if the line were straight; prismoidal: with the
# real section in the middle of each interval, bends too
WAYS: tuple[VolumeWay, ...] = ("bends", "plain", "prismoidal")

_WAY_NAMES: dict[VolumeWay, str] = {"bends": "bends counted", "plain": "plain", "prismoidal": "prismoidal"}
_WAY_WORDS: dict[VolumeWay, str] = {
    "bends": "By average end areas; every strip is as long as it lies in the bend.",
    "plain": "By average end areas, as if the line were straight.",
    "prismoidal": "By the prismoidal rule with the real section in the middle of each interval; bends counted.",
}


@dataclass(frozen=True, slots=True)
class VolumesAsked:
    """What volumes are asked for: a range (stations in m), sections of an interval of their own (m; None: the road's sections) with or
    without key chainages, what lies between two offsets (m, + right), and the way they are counted."""

    station_from: float | None = None
    station_to: float | None = None
    way: VolumeWay = "bends"
    interval: float | None = None
    keys: bool = True
    offsets: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True, eq=False)
class CountedVolumes:
    """Sections with their areas, and cut, fill and layers between them by the way asked for; cut and fill by every way beside it."""

    corridor: Corridor
    areas: SectionAreas
    by: dict[VolumeWay, tuple[Floats, Floats]]
    layers: dict[str, Floats]


def count_volumes(inputs: RoadInputs, asked: VolumesAsked) -> CountedVolumes:
    """Raises InputError when the range holds no part of the road, or the interval makes too many sections."""
    if asked.offsets is not None and not asked.offsets[1] - asked.offsets[0] > 1e-6:
        raise InputError("offsets-empty", left=asked.offsets[0], right=asked.offsets[1])
    corridor = _over(inputs, asked)
    areas = compute_areas(corridor, asked.offsets)
    v = compute_volumes(corridor, areas)
    between = 0.5 * (corridor.station[:-1] + corridor.station[1:])[corridor.joined]
    middles = compute_areas(counted_at(inputs, between), asked.offsets)
    by: dict[VolumeWay, tuple[Floats, Floats]] = {
        "bends": (v.cut, v.fill), "plain": (v.plain_cut, v.plain_fill), "prismoidal": prismoidal_volumes(corridor, areas, middles),
    }  # fmt: skip
    layers = v.layers
    if asked.way == "plain":
        layers = {m: np.where(corridor.joined, average_end_area(corridor.station, a), 0.0) for m, a in areas.layers.items()}
    return CountedVolumes(corridor, areas, by, layers)


def volumes_picture(inputs: RoadInputs, asked: VolumesAsked | None = None) -> VolumesPicture:
    """One row a section: station, areas, volumes since the section before, running totals from the range's start; and the totals by
    every way side by side. The ends of the range are sections, wherever the road's own lie.

    ``unmet``: sections where a slope has not met the ground, so that its area ends at the search limit.
    """
    asked = asked or VolumesAsked()
    if missing_for_corridor(inputs):
        return {"rows": [], "totals": {}, "way": asked.way}
    found = count_volumes(inputs, asked)
    corridor, areas = found.corridor, found.areas
    cut, fill = found.by[asked.way]
    total_cut, total_fill = (np.concatenate([[0.0], np.cumsum(x)]) for x in (cut, fill))
    unmet, told = _unmet(corridor), told_sections(found)
    rows: list[VolumeRow] = [
        {
            "station": float(s), "cut_area": float(areas.cut[i]), "fill_area": float(areas.fill[i]),
            "cut": float(cut[i - 1]) if i else 0.0, "fill": float(fill[i - 1]) if i else 0.0, "cumulative_cut": float(total_cut[i]),
            "cumulative_fill": float(total_fill[i]), "balance": float(total_cut[i] - total_fill[i]), "unmet": bool(unmet[i]),
        }
        for i, s in enumerate(corridor.station) if i in told
    ]  # fmt: skip
    totals: dict[str, CutFill] = {w: {"cut": float(c.sum()), "fill": float(f.sum())} for w, (c, f) in found.by.items()}
    layers: list[LayerVolume] = [{"material": m, "volume": float(x.sum())} for m, x in found.layers.items()]
    return {"rows": rows, "totals": totals, "way": asked.way, "layers": layers}


def earthwork_tables(inputs: RoadInputs, asked: VolumesAsked) -> tuple[Table, ...]:
    """The report of volumes in three depths."""
    if lacks := missing_for_corridor(inputs):
        raise InputError("corridor-needs", missing=lacks)
    found = count_volumes(inputs, asked)
    told = [_WAY_WORDS[asked.way]]
    if asked.offsets is not None:
        told.append(f"Between {_beside(asked.offsets[0])} and {_beside(asked.offsets[1])}.")
        if not divides(found.corridor):
            told.append("What is made up and planed off of an existing pavement is not divided by offsets and left out here.")
    if unmet := int(_unmet(found.corridor).sum()):
        told.append(f"In {unmet} sections a slope does not meet the ground; their areas end at the search limit.")
    areas = found.areas.cut, found.areas.fill
    by = {_WAY_NAMES[w]: v for w, v in found.by.items()}
    return earthwork_report(
        found.corridor.station, areas, by, _WAY_NAMES[asked.way], found.layers, sorted(told_sections(found)), told
    )


def _beside(offset: float) -> str:
    if not np.isfinite(offset):
        return "the outermost"
    if abs(offset) < 5e-4:
        return "the line"
    return f"{quantity(abs(offset), 'm', 3)} {'right' if offset > 0 else 'left'}"


def told_sections(found: CountedVolumes) -> set[int]:
    """Numbers of the sections that a table shows."""
    return {i for i in range(len(found.corridor.station)) if not i or not _told_before(found.corridor, found.areas, i)}


def _over(inputs: RoadInputs, asked: VolumesAsked) -> Corridor:
    """The sections within a range, and sections at its ends."""
    corridor = counted(inputs).get()
    s = corridor.station
    first = float(s[0]) if asked.station_from is None else max(float(s[0]), asked.station_from)
    last = float(s[-1]) if asked.station_to is None else min(float(s[-1]), asked.station_to)
    if not last - first > SAME_STATION:
        raise InputError("range-empty", start=first, end=last, road_start=float(s[0]), road_end=float(s[-1]))
    if asked.interval is not None:
        return counted_every(inputs, first, last, asked.interval, asked.keys)
    if first <= s[0] and last >= s[-1]:
        return corridor
    return counted_over(inputs, first, last)


def _told_before(corridor: Corridor, areas: SectionAreas, i: int) -> bool:
    """Whether two blocks meet at a section without any change of its areas."""
    same = abs(corridor.station[i] - corridor.station[i - 1]) < SAME_STATION and not corridor.joined[i - 1]
    return bool(same and np.allclose(areas.bent[:, i], areas.bent[:, i - 1], rtol=0, atol=1e-9))


def _unmet(corridor: Corridor) -> NDArray[np.bool_]:
    own = [np.zeros(len(b.station), bool) for b in corridor.blocks]
    for block, out in zip(corridor.blocks, own, strict=True):
        for _, _, columns, _ in block.sides():
            for mask in columns.unmet.values():
                out |= np.asarray(mask, bool)
    return np.concatenate(own)
