"""Volumes of a road, whole or over a range whose ends are sections, by the way a person chooses."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.earthwork.end_area import SectionAreas, average_end_area, compute_areas, compute_volumes, prismoidal_volumes
from ivoryridge.core.errors import InputError
from ivoryridge.core.tolerances import SAME_STATION

from ..forms.road import CutFill, VolumeRow, VolumesPicture, VolumeWay
from ..inputs.road import RoadInputs
from ..results.corridor import missing_for_corridor
from ..results.cut_back import counted, counted_at, counted_over

Floats = NDArray[np.float64]

__all__ = ["WAYS", "volumes_picture"]

# bends: end areas, every element as long as it is in the bend; plain: end areas as if the line were straight; prismoidal: with the
# real section in the middle of each interval, bends too
WAYS: tuple[VolumeWay, ...] = ("bends", "plain", "prismoidal")


def volumes_picture(
    inputs: RoadInputs, station_from: float | None = None, station_to: float | None = None, *, way: VolumeWay = "bends"
) -> VolumesPicture:
    """One row a section: station, areas, volumes since the section before, running totals from the range's start; and the totals by
    every way side by side. The ends of the range are sections, wherever the road's own lie.

    ``unmet``: sections where a slope has not met the ground, so that its area ends at the search limit.

    Raises InputError when the range holds no part of the road.
    """
    if missing_for_corridor(inputs):
        return {"rows": [], "totals": {}, "way": way}
    corridor = _over(inputs, station_from, station_to)
    areas = compute_areas(corridor)
    v = compute_volumes(corridor, areas)
    middles = compute_areas(counted_at(inputs, 0.5 * (corridor.station[:-1] + corridor.station[1:])[corridor.joined]))
    by = {
        "bends": (v.cut, v.fill), "plain": (v.plain_cut, v.plain_fill), "prismoidal": prismoidal_volumes(corridor, areas, middles),
    }  # fmt: skip
    cut, fill = by[way]
    total_cut, total_fill = (np.concatenate([[0.0], np.cumsum(x)]) for x in (cut, fill))
    unmet = _unmet(corridor)
    rows: list[VolumeRow] = [
        {
            "station": float(s), "cut_area": float(areas.cut[i]), "fill_area": float(areas.fill[i]),
            "cut": float(cut[i - 1]) if i else 0.0, "fill": float(fill[i - 1]) if i else 0.0, "cumulative_cut": float(total_cut[i]),
            "cumulative_fill": float(total_fill[i]), "balance": float(total_cut[i] - total_fill[i]), "unmet": bool(unmet[i]),
        }
        for i, s in enumerate(corridor.station) if not i or not _told_before(corridor, areas, i)
    ]  # fmt: skip
    layers = {m: float(x.sum()) for m, x in v.layers.items()}
    if way == "plain":
        layers = {m: float(average_end_area(corridor.station, a)[corridor.joined].sum()) for m, a in areas.layers.items()}
    totals: dict[str, CutFill] = {w: {"cut": float(c.sum()), "fill": float(f.sum())} for w, (c, f) in by.items()}
    return {"rows": rows, "totals": totals, "way": way, "layers": [{"material": m, "volume": x} for m, x in layers.items()]}


def _over(inputs: RoadInputs, station_from: float | None, station_to: float | None) -> Corridor:
    """The road's sections within a range, and sections at its ends."""
    corridor = counted(inputs).get()
    s = corridor.station
    first = float(s[0]) if station_from is None else max(float(s[0]), station_from)
    last = float(s[-1]) if station_to is None else min(float(s[-1]), station_to)
    if not last - first > SAME_STATION:
        raise InputError("range-empty", start=first, end=last, road_start=float(s[0]), road_end=float(s[-1]))
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
