"""What junctions take over of a road: the road as it is built and counted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.corridor.cut_back import Cut, cut_back, in_a_row, outside_of, sections_cut_back, within
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.road import Joined, RoadInputs
from ..kept.kinds import Result, kind
from .corridor import corridor, corridor_at, corridor_of, corridor_over, sections_over, turning_stations
from .crossfall import crossfall_of
from .levels import levels
from .line import line_of
from .patch import ArmPlaces, arm_places, arms_of, patch_of

Floats = NDArray[np.float64]

__all__ = ["built_in_rows", "counted", "counted_at", "counted_every", "counted_over", "cuts_of_arm", "cuts_of_road"]


def cuts_of_arm(junction: Joined, at: ArmPlaces, road: int) -> tuple[Cut, ...]:
    """What an arm of a junction takes over of one of its roads."""
    out: list[Cut] = []
    if road == junction.row.main:
        out.append(Cut(at.main_side, *at.main_range, ("beside", "slope")))
    if road == junction.row.side:
        out += [Cut(s, a, b, ("beside", "slope")) for s, a, b in at.side_ranges]
        out += [Cut(s, *at.whole, ("carriageway",)) for s in ("left", "right")]
    return tuple(out)


def cuts_of_road(road: RoadInputs) -> tuple[Cut, ...]:
    """What junctions take over of a road; one whose area cannot be made takes nothing."""
    return tuple(c for j in road.junctions for at in _arms_made(j) for c in cuts_of_arm(j, at, road.road_id))


def _arms_made(junction: Joined) -> list[ArmPlaces]:
    """Places of the arms whose areas can be made; found once for a junction, in whichever trial of its roads."""

    def find() -> list[ArmPlaces]:
        out = []
        for arm in arms_of(junction):
            try:
                patch_of(junction, arm).get()
                out.append(arm_places(junction, arm))
            except IvoryRidgeError:  # why is told with the junction
                continue
        return out

    corner = next(iter(junction.returns.values()), None)
    return list(corner.once("_arms_made", find)) if corner is not None else []


@kind("built outside", 2)
def _outside(corridor: Corridor, ranges: tuple[tuple[float, float], ...]) -> Corridor:
    return outside_of(corridor, ranges)


@kind("cut back", 2)
def _cut_back(corridor: Corridor, cuts: tuple[Cut, ...]) -> Corridor:
    return cut_back(corridor, cuts)


@kind("counted", 1)
def _counted(rows: tuple[Corridor, ...]) -> Corridor:
    return in_a_row(rows)


def built_in_rows(road: RoadInputs, wanted: Sequence[Floats], cuts: Sequence[Cut]) -> list[Result[Corridor]]:
    """A road as it is built: along its own sections, and around each of some rows of further stations (m) by itself, so that what changes
    there leaves the rest as it is. At the ends of cuts there are sections, too. Raises InputError where the road lacks something."""
    built = corridor(road)
    own = built.get().station
    middles = 0.5 * (own[1:] + own[:-1])[built.get().joined]
    around: list[tuple[float, float, list[Floats]]] = []
    for row in sorted([*wanted, *_ends(cuts)], key=lambda w: float(w[0])):
        if row[-1] < own[0] or row[0] > own[-1]:
            continue
        inside = np.clip(row, own[0], own[-1])  # a cut that goes on beyond the road takes it to its end
        low = float(own[max(int(np.searchsorted(own, inside[0], side="right")) - 1, 0)])
        high = float(own[min(int(np.searchsorted(own, inside[-1])), len(own) - 1)])
        if not within(middles, [(low, high)]).any():  # at a section that stands there already, or where nothing is built
            continue
        if around and low <= around[-1][1]:
            before = around.pop()
            around.append((before[0], max(high, before[1]), [*before[2], inside]))
        else:
            around.append((low, high, [inside]))
    if not around:
        return [built]
    out = []
    ranges = tuple((a, b) for a, b, _ in around)
    if not within(middles, ranges).all():
        out.append(_outside(corridor=built, ranges=ranges))
    for low, high, rows in around:
        at = _with(own[(own >= low) & (own <= high)], np.concatenate(rows))
        here = tuple(c for c in cuts if c.station_from < high and c.station_to > low)
        out.append(_cut_back(corridor=sections_over(road, at), cuts=here))
    return out


def _with(stations: Floats, more: Floats) -> Floats:
    """Stations in order; of two that are nearly one the one that is wanted more."""
    return np.array(list(_once(np.union1d(stations, more), set(more.tolist()))))


def _once(stations: Floats, keep: set[float]) -> Iterator[float]:
    last: float | None = None
    for s in stations.tolist():
        if last is not None and s - last < SAME_STATION:
            if s in keep and last not in keep:
                last = s
            continue
        if last is not None:
            yield last
        last = s
    if last is not None:
        yield last


def _ends(cuts: Sequence[Cut]) -> list[Floats]:
    return [np.array([c.station_from, c.station_to]) for c in cuts]


def counted(road: RoadInputs) -> Result[Corridor]:
    """The sections by which a road's earth and layers are counted: its own, and two where a junction begins or ceases to take something
    over. Raises InputError where the road lacks something."""
    cuts = cuts_of_road(road)
    rows = built_in_rows(road, (), cuts)
    return rows[0] if len(rows) == 1 and not cuts else _counted(rows=tuple(rows))


def counted_over(road: RoadInputs, first: float, last: float) -> Corridor:
    """As ``counted``, over a range (m) with sections at its ends; not kept. Raises InputError where nothing is built there."""
    cuts = [c for c in cuts_of_road(road) if c.station_from < last and c.station_to > first]
    if not cuts:
        return corridor_over(road, first, last)
    own = corridor_of(road).station
    within = [np.array([first, last]), *(e[(e > first) & (e < last)] for e in _ends(cuts))]
    at = _with(own[(own > first) & (own < last)], np.concatenate(within))
    return cut_back(sections_over(road, at).get(), cuts)


def counted_every(road: RoadInputs, first: float, last: float, interval: float, keys: bool) -> Corridor:
    """As ``counted_over``, with sections at round chainages of an interval (m) that need not be the road's own; ``keys``: at tangent
    points, grade changes and where the crossfall turns, too. Where pieces of the road meet, and where a junction takes something over,
    they always stand. Not kept."""
    at = section_stations(
        line_of(road), levels(road).get()[0], interval, extra=turning_stations(crossfall_of(road)), station_from=first, station_to=last,
        equations=road.equations, keys=keys,
    )  # fmt: skip
    cuts = [c for c in cuts_of_road(road) if c.station_from < last and c.station_to > first]
    ends = [e[(e > first) & (e < last)] for e in _ends(cuts)]
    found = sections_over(road, _with(at, np.concatenate([np.empty(0), *ends]))).found_anew()
    return cut_back(found, cuts) if cuts else found


def counted_at(road: RoadInputs, stations: Any) -> Corridor:
    """Sections at given stations only, cut back. Raises InputError where nothing is built at any of them."""
    found, cuts = corridor_at(road, stations), cuts_of_road(road)
    return Corridor(found.line, tuple(b for block in found.blocks for b in sections_cut_back(block, cuts)))
