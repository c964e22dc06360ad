"""Acts on a whole profile: fixed points, raising many PVIs, a curve through a point, and candidates beside the one in use."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.vertical import length_through_point
from ivoryridge.core.wording import quantity

from ..inputs.network import assemble_road
from ..ledger import Act
from ..models import FIRST_PROFILE, Road, RoadPVI
from ..refusals import BadValue, NotThere
from ..results.levels import levels_of
from ..results.line import line_of
from .edit_profile import change_pvi
from .standing import act, rehearsed

__all__ = ["add_candidate", "choose_candidate", "curve_through", "delete_candidate", "raise_pvis", "set_fixed_points"]

MOST_CANDIDATES = 12


@rehearsed
def set_fixed_points(road: Road, user: User, *, revision: int, points: list[dict[str, Any]]) -> Act:
    """Levels that the profile is to hit, or to stay above or below, in order of station."""
    line = line_of(assemble_road(road))
    for p in points:
        if not line.start_station - 1e-6 <= p["station"] <= line.end_station + 1e-6:
            raise BadValue(
                "fixed-outside",
                f"The fixed point at {quantity(p['station'], 'm', 2)} lies outside the road, which runs from "
                f"{quantity(line.start_station, 'bare', 2)} to {quantity(line.end_station, 'm', 2)}.",
                field="station",
            )
    with act(road.project, user, f"Change the fixed points of {road.name}") as doing:
        doing.change(road, revision=revision, fixed_points=sorted(points, key=lambda p: p["station"]))
    return doing


@rehearsed
def raise_pvis(road: Road, user: User, *, rise: float, station_from: float | None = None, station_to: float | None = None) -> Act:
    """Raise (+) or lower the PVIs of a range, or all of them, by ``rise`` m."""
    levels = levels_of(assemble_road(road))
    low = float("-inf") if station_from is None else station_from - 1e-6
    high = float("inf") if station_to is None else station_to + 1e-6
    chosen = [r.id for r, p in zip(levels.rows, levels.pvis, strict=True) if low <= p.station <= high]
    if not chosen:
        raise BadValue("no-pvi-there", "No PVI lies in the marked range.")
    word = "Raise" if rise > 0 else "Lower"
    with act(road.project, user, f"{word} {len(chosen)} PVIs of {road.name} by {quantity(abs(rise), 'm', 3)}") as doing:
        for row in RoadPVI.present.filter(pk__in=chosen):
            doing.change(row, elevation=row.elevation + rise)
    return doing


@rehearsed
def curve_through(road: Road, user: User, pvi_id: int, *, revision: int, point: tuple[float, float]) -> tuple[Act, list[str]]:
    """Give a PVI the symmetric parabola that passes a point (station, level m)."""
    levels = levels_of(assemble_road(road))
    i = next((k for k, r in enumerate(levels.rows) if r.id == pvi_id), None)
    if i is None:
        raise NotThere("no-such-pvi", "This PVI is no longer there; somebody deleted it. Undo brings it back if it was you.")
    if not 0 < i < len(levels.pvis) - 1:
        raise BadValue("curve-at-profile-end", "The first and the last PVI have no vertical curve.")
    a, p, b = levels.pvis[i - 1 : i + 2]
    g1, g2 = ((q.elevation - o.elevation) / (q.station - o.station) for o, q in ((a, p), (p, b)))
    length = round(length_through_point(g1, g2, (p.station, p.elevation), point), 3)
    doing = change_pvi(road, user, pvi_id, revision=revision, values={"half_in": length / 2, "half_out": length / 2})
    return doing, [f"The curve at PVI {i + 1} is {quantity(length, 'm', 3)} long now."]


# --- candidates ----------------------------------------------------------------------------------------------
@rehearsed
def add_candidate(road: Road, user: User, *, revision: int, name: str) -> Act:
    """Another profile for the line: a copy of the one in use, taken into use."""
    if len(road.candidates) >= MOST_CANDIDATES:
        raise BadValue("too-many-candidates", f"A road keeps at most {MOST_CANDIDATES} profiles. Delete one first.")
    used = {c["id"] for c in road.candidates}
    new = next(str(n) for n in range(1, 100) if str(n) not in used)
    rows = list(RoadPVI.present.filter(road=road, candidate=road.candidate))
    fields = (
        "anchor",
        "station",
        "easting",
        "northing",
        "anchor_pi_id",
        "tangent_point",
        "ahead",
        "elevation",
        "half_in",
        "half_out",
        "circular",
    )
    with act(road.project, user, f"Add profile {name} to {road.name}") as doing:
        doing.change(road, revision=revision, candidates=[*road.candidates, {"id": new, "name": name}], candidate=new)
        for row in rows:
            doing.create(RoadPVI(road=road, candidate=new, **{f: getattr(row, f) for f in fields}))
    return doing


def _name(road: Road, candidate: str) -> str:
    if candidate == "":
        return FIRST_PROFILE
    found = next((c["name"] for c in road.candidates if c["id"] == candidate), None)
    if found is None:
        raise NotThere("no-such-candidate", "This profile is no longer there; somebody deleted it.")
    return str(found)


@rehearsed
def choose_candidate(road: Road, user: User, *, revision: int, candidate: str) -> Act:
    """Take another profile into use; sections, volumes and sheets follow it."""
    with act(road.project, user, f"Use profile {_name(road, candidate)} of {road.name}") as doing:
        doing.change(road, revision=revision, candidate=candidate)
    return doing


@rehearsed
def delete_candidate(road: Road, user: User, *, revision: int, candidate: str) -> Act:
    name = _name(road, candidate)
    if candidate == road.candidate:
        raise BadValue("candidate-in-use", f"The profile {name} is in use. Take another one into use before you delete it.")
    if candidate == "":
        raise BadValue("first-candidate", "The first profile stays.")
    with act(road.project, user, f"Delete profile {name} of {road.name}") as doing:
        doing.change(road, revision=revision, candidates=[c for c in road.candidates if c["id"] != candidate])
        for row in RoadPVI.present.filter(road=road, candidate=candidate):
            doing.remove(row)
    return doing
