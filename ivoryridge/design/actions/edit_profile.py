"""Acts on a road's profile: replace it, insert, change and delete PVIs, and choose what holds them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.guides import GuideLine, resolve_guides
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError

from ..edits.levels import pvi_fields
from ..inputs.network import assemble_road
from ..inputs.road import RoadInputs, pvi_from_row
from ..ledger import Act
from ..models import Road, RoadPVI
from ..refusals import BadValue, NotThere, Stale
from ..results.guides import grades_of
from ..results.levels import levels_of
from ..results.line import line_of
from .standing import act, rehearsed

__all__ = [
    "change_pvi",
    "create_pvis",
    "delete_pvi",
    "insert_pvi",
    "pinned_rows",
    "set_guides",
    "set_profile",
]


@rehearsed
def set_profile(road: Road, user: User, pvis: list[PVI], *, label: str, seen: Sequence[tuple[int, int]] | None = None) -> Act:
    """Replace the whole profile; the first and last PVI are held by the ends of the line, the others by chainage.

    ``seen``: id and revision of the PVIs that its editor saw. Raises Stale where others are there now.
    """
    before = assemble_road(road)
    with act(road.project, user, label) as doing:
        there = RoadPVI.present.filter(road=road, candidate=road.candidate).values_list("id", "revision")
        if seen is not None and set(there) != set(seen):
            raise Stale(
                "profile-changed", f"Somebody has changed the profile of {road.name} since you looked, so it was not replaced. "
                "Look at it as it is now, and replace it if you still want to.",
            )  # fmt: skip
        for row in RoadPVI.present.filter(road=road, candidate=road.candidate):
            doing.remove(row)
        create_pvis(doing, road, pvis)
        _keep_guides(doing, road, before)
    return doing


def create_pvis(doing: Act, road: Road, pvis: Sequence[PVI]) -> None:
    """A whole profile; the first and last PVI are held by the ends of the line, the others by chainage."""
    for i, p in enumerate(pvis):
        anchor = "start" if i == 0 else "end" if i == len(pvis) - 1 else "station"
        doing.create(
            RoadPVI(
                road=road, candidate=road.candidate, anchor=anchor, station=round(p.station, 3) if anchor == "station" else None,
                elevation=round(p.elevation, 3), half_in=round(p.half_in, 3), half_out=round(p.half_out, 3),
            )
        )  # fmt: skip


@rehearsed
def insert_pvi(road: Road, user: User, *, station: float, elevation: float, half_in: float = 0.0, half_out: float = 0.0) -> Act:
    """A new PVI held by its chainage. The first two become the start and the end of the profile."""
    inputs = assemble_road(road)
    line = line_of(inputs)
    if not line.start_station - 1e-6 <= station <= line.end_station + 1e-6:
        raise InputError("station-outside", station=station, start=line.start_station, end=line.end_station)
    with act(road.project, user, f"Add a PVI to {road.name}") as doing:
        if inputs.levels_follow:
            pinned_rows(doing, road)
        elif not inputs.pvis:
            doing.create(RoadPVI(road=road, candidate=road.candidate, anchor="start", elevation=elevation))
            doing.create(RoadPVI(road=road, candidate=road.candidate, anchor="end", elevation=elevation))
        doing.create(
            RoadPVI(
                road=road,
                candidate=road.candidate,
                anchor="station",
                station=station,
                elevation=elevation,
                half_in=half_in,
                half_out=half_out,
            )
        )
    return doing


MOST_GUIDES = 60


def _grades(inputs: RoadInputs) -> dict[str, GuideLine]:
    return grades_of(levels_of(inputs)) if inputs.has_profile else {}


def _on_their_own(guides: Iterable[Mapping[str, Any]], before: Mapping[str, GuideLine], grades: set[str]) -> list[dict[str, Any]]:
    """The guides; one that was parallel to a line that is gone becomes a line through its place of before."""
    rows = [dict(g) for g in guides]
    there = {g["id"] for g in rows} | grades
    for g in rows:
        if g["kind"] == "parallel" and g["of"] not in there and g["id"] in before:
            now = before[g["id"]]
            del g["of"], g["rise"]
            g |= {"kind": "grade", "station": now.station, "level": now.level, "grade": now.grade}
    return rows


def _keep_guides(doing: Act, road: Road, before: RoadInputs) -> None:
    """After PVIs went: guides that were parallel to their grades stay where they were."""
    if before.guides:
        now = assemble_road(road)
        doing.change(road, guides=_on_their_own(before.guides, resolve_guides(before.guides, _grades(before)), set(_grades(now))))


@rehearsed
def set_guides(road: Road, user: User, *, revision: int, guides: list[dict[str, Any]]) -> Act:
    """The road's guide lines, all of them. One that was parallel to a line that is gone stays where it is, on its own."""
    if len(guides) > MOST_GUIDES:
        raise BadValue("too-many-guides", f"A road keeps at most {MOST_GUIDES} guide lines. Delete some.", field="guides")
    inputs = assemble_road(road)
    grades = _grades(inputs)
    kept = _on_their_own(guides, resolve_guides(inputs.guides, grades), set(grades))
    resolve_guides(kept, grades)
    more, fewer = len(kept) > len(road.guides), len(kept) < len(road.guides)
    word = "Add a guide line to" if more else "Delete a guide line of" if fewer else "Change guide lines of"
    with act(road.project, user, f"{word} {road.name}") as doing:
        doing.change(road, revision=revision, guides=kept)
    return doing


@rehearsed
def change_pvi(road: Road, user: User, pvi_id: int, *, revision: int, values: dict[str, Any]) -> Act:
    """Change station, elevation, curve halves or anchor. A new station keeps the kind of anchor."""
    inputs = assemble_road(road)
    follows = pvi_id < 0 and inputs.levels_follow
    row = None if follows else _pvi(road, pvi_id)
    index = {pk: i for i, (pk, _) in enumerate(inputs.pi_rows) if pk}
    rows = levels_of(inputs).rows
    number = next((i for i, r in enumerate(rows, 1) if r.id == pvi_id), 0)
    if not number:
        raise _gone()
    fields = pvi_fields(inputs, rows[number - 1] if row is None else pvi_from_row(row, index), values)
    word = "Move" if "station" in values or set(values) == {"elevation"} else "Change"
    with act(road.project, user, f"{word} PVI {number} of {road.name}") as doing:
        if row is None:
            doing.change(pinned_rows(doing, road)[number - 1], **fields)
        else:
            doing.change(row, revision=revision, **fields)
    return doing


def pinned_rows(doing: Act, road: Road) -> list[RoadPVI]:
    """The PVIs of a return that followed its roads, as rows of its own from now on, in order along it."""
    rows = []
    for p in levels_of(assemble_road(road)).rows:
        rows.append(
            doing.create(
                RoadPVI(
                    road=road, candidate=road.candidate, anchor=p.anchor, station=None if p.station is None else round(p.station, 6),
                    elevation=round(p.elevation, 6), half_in=round(p.half_in, 6), half_out=round(p.half_out, 6), circular=p.circular,
                )
            )
        )  # fmt: skip
    return rows


@rehearsed
def delete_pvi(road: Road, user: User, pvi_id: int, *, revision: int) -> Act:
    if pvi_id < 0 and assemble_road(road).levels_follow:
        raise BadValue("levels-follow", f"The levels of {road.name} follow from its roads. Pin them first, then delete PVIs.")
    row = _pvi(road, pvi_id)
    if row.anchor in ("start", "end"):
        raise BadValue(
            "end-pvi",
            "The first and last PVI hold the ends of the profile and cannot be deleted. Move them, or fit the profile to the ground again.",
        )
    before = assemble_road(road)
    with act(road.project, user, f"Delete a PVI of {road.name}") as doing:
        doing.remove(row, revision=revision)
        _keep_guides(doing, road, before)
    return doing


def _pvi(road: Road, pvi_id: int) -> RoadPVI:
    row = RoadPVI.present.filter(road=road, pk=pvi_id).first()
    if row is None:
        raise _gone()
    return row


def _gone() -> NotThere:
    return NotThere("no-such-pvi", "This PVI is no longer there; somebody deleted it. Undo brings it back if it was you.")
