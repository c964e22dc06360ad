"""A road's profile: its PVIs at the stations that their anchors give, tied ends at the level of the other road."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.leaving import leaving_station
from ivoryridge.core.alignment.vertical import PVI, VerticalAlignment, curve_limits, profile_from_pvis
from ivoryridge.core.corridor.meet import EndFit
from ivoryridge.core.corridor.turning import Crossfall
from ivoryridge.core.errors import InputError
from ivoryridge.core.tolerances import SAME_STATION

from ..inputs.anchors import AnchoredPVI, resolve_stations
from ..inputs.road import RoadInputs, Tie
from ..kept.kinds import Result, kind
from .crossfall import crossfall, lanes_of
from .line import ground_under_result, line
from .meet import end_met, met_over

Floats = NDArray[np.float64]

__all__ = ["Levels", "TiedLevel", "following_rows_of", "levels", "levels_met", "levels_of", "profile_of", "tied_level"]


@dataclass(frozen=True, slots=True, eq=False)
class Levels:
    """A profile and the PVIs it came from, in order of station: rows as they are in the inputs, core PVIs.

    Where an end follows another road's edge the profile begins at that road's centre, on its surface; the first (last) PVI
    stands at the edge.
    """

    profile: VerticalAlignment
    rows: tuple[AnchoredPVI, ...]
    pvis: tuple[PVI, ...]


@dataclass(frozen=True, slots=True)
class TiedLevel:
    """Level (m) that a tied end follows and the station where it holds; and the level of the other road's centre at the end."""

    station: float
    level: float
    at_end: float


# --- levels of tied ends -------------------------------------------------------------------------------------
@kind("tied level", 1)
def _tied_level(
    line: HorizontalAlignment,
    other: HorizontalAlignment,
    levels: tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]],
    turning: Crossfall | None,
    lanes: tuple[tuple[float, float], tuple[float, float]],
    station: float,
    at_edge: bool,
    end: str,
) -> TiedLevel:
    def centre(s: float) -> float:
        rise = float(turning.rise_of_centre(s)[0]) if turning is not None else 0.0
        return float(levels[0].evaluate(s)[0][0]) + rise

    at_start = end == "start"
    own_end = line.start_station if at_start else line.end_station
    if not at_edge:
        return TiedLevel(own_end, centre(station), centre(station))
    leaves, there, side = leaving_station(line, other, (lanes[0][0], lanes[1][0]), at_start=at_start, name="the other road")
    width, normal = lanes[side]
    rate = float(turning.diagram.rates(there)[side][0]) if turning is not None else -normal
    return TiedLevel(leaves, centre(there) + width * rate, centre(station))


def _tied(road: RoadInputs, end: str, tie: Tie) -> Result[TiedLevel]:
    if tie.level == "edge" and any(a.main.road_id == tie.road.road_id for a in road.arms):
        from .arm_edge import tied_to_edge  # it needs the other road's sections

        if (found := tied_to_edge(road, end, tie)) is not None:
            return found
    return _tied_level(
        line=line(road), other=line(tie.road), levels=levels(tie.road), turning=crossfall(tie.road), lanes=lanes_of(tie.road),
        station=tie.station, at_edge=tie.level == "edge", end=end,
    )  # fmt: skip


def tied_level(road: RoadInputs, end: str) -> float | None:
    """Level (m) that an end follows: the other road's centre, or the edge of its lanes where this road crosses it; None where it
    does not follow in level."""
    tie = road.ties.get(end)
    return _tied(road, end, tie).get().level if tie is not None and tie.level else None


# --- the profile ---------------------------------------------------------------------------------------------
@kind("levels", 6)
def _levels(
    line: HorizontalAlignment,
    pvis: tuple[AnchoredPVI, ...],
    tied: Mapping[str, TiedLevel],
    met: Mapping[str, EndFit | None],
    met_over: tuple[tuple[str, float], ...],
) -> tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]:
    """``met``: the ground that an end meets, and ``met_over`` over which length, m."""
    stations = resolve_stations(list(pvis), line)
    elevations = [p.elevation for p in pvis]
    for i, p in enumerate(pvis):
        if p.anchor in tied and not p.ahead:
            stations[i], elevations[i] = tied[p.anchor].station, tied[p.anchor].level
    for end, over in met_over:
        for i, level in levels_met(line, pvis, stations, end, over, met[end]).items():
            elevations[i] = level
    order = tuple(sorted(range(len(stations)), key=lambda i: (_end_rank(pvis[i]), stations[i])))
    given = [PVI(stations[i], elevations[i], p.half_in, p.half_out, p.circular) for i in order for p in (pvis[i],)]
    if not np.isfinite([[p.station, p.elevation, p.half_in, p.half_out] for p in given]).all():
        wrong = next(i for i, p in enumerate(given, 1) if not np.isfinite([p.station, p.elevation, p.half_in, p.half_out]).all())
        raise InputError("not-a-number", what="The chainage or level", where_=f"PVI {wrong}", example="57.250")
    _within_held_ends(given, [pvis[i].anchor for i in order])
    profile = profile_from_pvis(_over_the_other_road(given, line, tied))
    return profile, order, curve_limits(given)


def _within_held_ends(given: Sequence[PVI], anchors: Sequence[str]) -> None:
    """A line that was shortened past a PVI leaves it beyond the one that its end holds. Raises InputError."""
    last = len(given) - 1
    for held, inner, end in ((0, 1, "start"), (last, last - 1, "end")):
        if last < 1 or anchors[held] != end or anchors[inner] == end:
            continue
        a, b = given[min(held, inner)], given[max(held, inner)]
        if b.station - a.station <= SAME_STATION:
            raise InputError(
                "pvi-beyond-end", pvi=inner + 1, station=given[inner].station, held=held + 1, end=end, at=given[held].station,
                where={"pvi": inner},
            )  # fmt: skip


_EVERY = 5.0  # m between levels of an existing edge


@kind("levels on ground", 1)
def _on_ground(
    line: HorizontalAlignment, ground: Floats | None, name: str
) -> tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]:
    """An existing edge: straight from reading to reading of the ground under it."""
    length = line.end_station - line.start_station
    s = np.linspace(line.start_station, line.end_station, max(int(np.ceil(length / _EVERY)), 1) + 1)
    z = np.interp(s, ground[:, 0], ground[:, 1]) if ground is not None and len(ground) else np.full(len(s), np.nan)
    if not np.isfinite(z).all():
        raise InputError("edge-off-ground", road=name, at=float(s[int(np.argmax(~np.isfinite(z)))]))
    pvis = tuple(PVI(float(a), float(b)) for a, b in zip(s, z, strict=True))
    return profile_from_pvis(list(pvis)), tuple(range(len(pvis))), pvis


def levels_met(
    line: HorizontalAlignment, pvis: Sequence[AnchoredPVI], stations: Sequence[float], end: str, over: float, fit: EndFit | None
) -> dict[int, float]:
    """Levels (m) of the PVIs that a met end leads: its own, and on the ground's grade the next one within ``over`` m."""
    own = next((i for i, p in enumerate(pvis) if p.anchor == end and not p.ahead), None)
    if fit is None or own is None:
        return {}
    base = line.start_station if end == "start" else line.end_station
    sign = 1.0 if end == "start" else -1.0
    away = {i: sign * (s - base) for i, s in enumerate(stations) if i != own and 0 < sign * (s - base) <= over + SAME_STATION}
    nearest = min(away, key=lambda i: away[i], default=None)
    out = {own: fit.level}
    if nearest is not None:
        out[nearest] = fit.level + fit.grade * (stations[nearest] - base)
    return out


def _over_the_other_road(given: list[PVI], line: HorizontalAlignment, tied: Mapping[str, TiedLevel]) -> list[PVI]:
    """Between the other road's centre and its edge the level is the other road's: one straight fall across its lanes."""
    before = [
        PVI(line.start_station, t.at_end)
        for t in (tied.get("start"),)
        if t and given[0].station == t.station > line.start_station
    ]
    after = [
        PVI(line.end_station, t.at_end) for t in (tied.get("end"),) if t and given[-1].station == t.station < line.end_station
    ]
    return [*before, *given, *after]


def _end_rank(p: AnchoredPVI) -> int:
    """PVIs that hang on an end stay first or last, so that one dragged past them is out of order, and told so."""
    return {"start": -1, "end": 1}.get(p.anchor, 0)


def levels(road: RoadInputs) -> Result[tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]]:
    """Profile, order of the road's PVIs along it, and core PVIs in that order."""
    return road.once("_levels", lambda: _levels_result(road))


def _levels_result(road: RoadInputs) -> Result[tuple[VerticalAlignment, tuple[int, ...], tuple[PVI, ...]]]:
    if road.existing and not road.pvis:
        return _on_ground(line=line(road), ground=ground_under_result(road), name=road.name)
    if road.levels_follow:
        from .returns import return_profile

        return return_profile(road)
    # only numbers are kept by key: in place of a row's id stands its place among the rows
    pvis = tuple(replace(p, id=i, revision=0, pi_id=None) for i, p in enumerate(road.pvis))
    return _levels(
        line=line(road), pvis=pvis, tied={end: _tied(road, end, tie) for end, tie in road.ties.items() if tie.level},
        met={r.data["end"]: end_met(road, r) for r in road.varied if r.kind == "meet"}, met_over=met_over(road),
    )  # fmt: skip


def levels_of(road: RoadInputs) -> Levels:
    try:
        profile, order, pvis = levels(road).get()
    except InputError as error:
        at = error.where.get("pvi_id")
        if at is not None and 0 <= at < len(road.pvis):
            error.where["pvi_id"] = road.pvis[at].id
        raise
    rows = following_rows_of(pvis) if road.levels_follow else tuple(road.pvis[i] for i in order)
    return Levels(profile, rows, pvis)


def following_rows_of(pvis: Sequence[PVI]) -> tuple[AnchoredPVI, ...]:
    """Rows of a return's PVIs that follow from its roads, as they would be if they were pinned; their ids are below nothing."""
    anchors = ["start", *["station"] * (len(pvis) - 2), "end"]
    return tuple(
        AnchoredPVI(
            id=-1 - i, revision=0, anchor=anchor, station=p.station if anchor == "station" else None, elevation=p.elevation,
            half_in=p.half_in, half_out=p.half_out, circular=p.circular,
        )
        for i, (anchor, p) in enumerate(zip(anchors, pvis, strict=True))
    )  # fmt: skip


def profile_of(road: RoadInputs) -> VerticalAlignment:
    return levels(road).get()[0]
