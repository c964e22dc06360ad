"""Acts on a road's profile: propose one, insert, change and delete PVIs, and choose what holds them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.first_profile import FixedLevel, ProfileLimits, fit_first_profile
from ivoryridge.core.alignment.guides import GuideLine, resolve_guides
from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError, NoSolutionError
from ivoryridge.core.wording import quantity

from ..edits.levels import pvi_fields
from ..inputs.anchors import AnchoredPVI
from ..inputs.network import assemble_road
from ..inputs.road import RoadInputs, pvi_from_row
from ..inputs.standards import standard_at_hand, standard_of, zones_of
from ..kept.kinds import trial
from ..ledger import Act
from ..models import Road, RoadPVI
from ..refusals import BadValue, NotThere, Stale
from ..results.corridor import missing_for_corridor
from ..results.earthwork import areas_of
from ..results.guides import grades_of
from ..results.levels import levels_of, tied_level
from ..results.line import ground_under, line_of
from .standing import act, rehearsed

__all__ = [
    "change_pvi",
    "create_pvis",
    "delete_pvi",
    "first_profile",
    "insert_pvi",
    "propose_profile",
    "set_guides",
    "set_profile",
]


def propose_profile(
    road: Road, user: User, *, balance: bool = False, seen: Sequence[tuple[int, int]] | None = None
) -> tuple[Act, list[str]]:
    """Replace the profile by the best fit to the ground: greatest grade and K of project and standard along the road, fixed
    points, and ends that are tied to other roads in level. ``balance`` moves it until cut and fill of the road balance."""
    inputs = assemble_road(road)
    told: list[str] = []
    if balance:
        fitted, left = _balanced(inputs, *_under(inputs), profile_limits(inputs))
        told.append(f"Cut and fill differ by {quantity(abs(left), 'm3', 0)} now.")
    else:
        fitted = first_profile(inputs)
    label = f"Fit the profile of {road.name} to the ground" + (", cut and fill balanced" if balance else "")
    return set_profile(road, user, fitted, label=label, seen=seen), told


def first_profile(inputs: RoadInputs) -> list[PVI]:
    """The best fit to the ground within the limits. Raises InputError, NoSolutionError."""
    return _desirable(inputs, *_under(inputs), profile_limits(inputs))


def _under(inputs: RoadInputs) -> tuple[Any, Any]:
    """Stations and levels of the ground under the whole line."""
    if not inputs.has_line:
        raise InputError("too-few-pis", count=len(inputs.pis))
    if inputs.surface is None:
        raise InputError("surface-empty")
    return _over_whole_line(line_of(inputs), ground_under(inputs))


def profile_limits(inputs: RoadInputs, *, desirable: bool = False) -> ProfileLimits:
    """Limits of the standard (``desirable``: those that it finds desirable), by design speed along the road, and of the project; fixed
    points; levels of tied ends."""
    crest: Any = inputs.least_k
    sag: Any = inputs.least_k
    grade = inputs.greatest_grade
    if standard_at_hand(inputs):
        standard, zones = standard_of(inputs), zones_of(inputs)

        def k_along(word: str) -> Any:
            def asked(s: float) -> float:
                row = standard.at(zones.at(s))
                return row.get(f"{word}_desirable", row.get(word, 0.0)) if desirable else row.get(word, 0.0)

            return lambda at: np.array([ROUNDED * max(asked(float(s)), inputs.least_k) for s in at])

        crest, sag = k_along("crest_k"), k_along("sag_k")
        grade = min(grade, standard.rules.get("greatest_grade", grade))
    fixed = tuple(FixedLevel(float(f["station"]), float(f["level"]), f["kind"], f.get("name", "")) for f in inputs.fixed_points)
    ends = {end: (tied_level(inputs, end), None) for end in ("start", "end")}
    return ProfileLimits(grade, crest, sag, fixed, ends["start"], ends["end"])


def _desirable(inputs: RoadInputs, station: Any, level: Any, limits: ProfileLimits) -> list[PVI]:
    """The fit with the K that the standard finds desirable where the ground and what is fixed let it, else with the least."""
    better = profile_limits(inputs, desirable=True)
    try:
        return fit_first_profile(station, level, better)
    except NoSolutionError:
        return fit_first_profile(station, level, limits)


ROUNDED = 1.002  # levels are kept in millimetres; K must still be kept then
MOST_TRIALS = 7
BALANCED = 0.01  # of the cut; better tells nothing, soil swells by more (common practice, no source)


def _balanced(inputs: RoadInputs, station: Any, level: Any, limits: ProfileLimits) -> tuple[list[PVI], float]:
    """The fitted profile whose cut and fill differ least, and by how much, m3; by its mean height over the ground (secants)."""

    def tried(height: float) -> tuple[list[PVI], float, float]:
        pvis = fit_first_profile(station, level, replace(limits, mean_height=height))
        last = len(pvis) - 1
        rows = tuple(
            AnchoredPVI(
                id=-i - 1,
                revision=1,
                anchor="start" if i == 0 else "end" if i == last else "station",
                elevation=p.elevation,
                half_in=p.half_in,
                half_out=p.half_out,
                station=p.station,
            )
            for i, p in enumerate(pvis)
        )
        with trial():
            _, volumes = areas_of(replace(inputs, pvis=rows))
        return pvis, float(volumes.cumulative_cut[-1] - volumes.cumulative_fill[-1]), float(volumes.cumulative_cut[-1])

    if lacks := missing_for_corridor(replace(inputs, pvis=(inputs.pvis or (None, None)))):  # type: ignore[arg-type]
        raise InputError("corridor-needs", missing=lacks)
    heights = [0.0]
    results = [tried(0.0)]
    heights.append(0.3 if results[0][1] > 0 else -0.3)  # too much cut: higher
    for _ in range(MOST_TRIALS):
        results.append(tried(heights[-1]))
        (_, before, _), (_, now, cut) = results[-2:]
        if abs(now) <= BALANCED * max(cut, 1.0) or now == before:
            break
        step = now * (heights[-1] - heights[-2]) / (now - before)
        heights.append(heights[-1] - float(np.clip(step, -3.0, 3.0)))
    best = min(results, key=lambda r: abs(r[1]))
    return best[0], best[1]


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


def _over_whole_line(line: HorizontalAlignment, ground: Any) -> tuple[Any, Any]:
    """The ground, with both ends of the line: where the ends lie outside, the nearest level stands in."""
    known = ground[np.isfinite(ground[:, 1])] if len(ground) else np.empty((0, 2))
    if len(known) < 2:
        raise InputError("no-ground-for-fit", start=line.start_station, end=line.end_station)
    s = np.concatenate([[line.start_station], known[:, 0], [line.end_station]])
    z = np.concatenate([[known[0, 1]], known[:, 1], [known[-1, 1]]])
    keep = np.concatenate([[True], np.diff(s) > 1e-9])
    return s[keep], z[keep]


@rehearsed
def insert_pvi(road: Road, user: User, *, station: float, elevation: float, half_in: float = 0.0, half_out: float = 0.0) -> Act:
    """A new PVI held by its chainage. The first two become the start and the end of the profile."""
    inputs = assemble_road(road)
    line = line_of(inputs)
    if not line.start_station - 1e-6 <= station <= line.end_station + 1e-6:
        raise InputError("station-outside", station=station, start=line.start_station, end=line.end_station)
    with act(road.project, user, f"Add a PVI to {road.name}") as doing:
        if not inputs.pvis:
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
    return grades_of(levels_of(inputs)) if len(inputs.pvis) >= 2 else {}


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
    row = _pvi(road, pvi_id)
    inputs = assemble_road(road)
    index = {pk: i for i, (pk, _) in enumerate(inputs.pi_rows) if pk}
    fields = pvi_fields(inputs, pvi_from_row(row, index), values)
    number = next(i for i, r in enumerate(levels_of(inputs).rows, 1) if r.id == row.pk)
    word = "Move" if "station" in values or set(values) == {"elevation"} else "Change"
    with act(road.project, user, f"{word} PVI {number} of {road.name}") as doing:
        doing.change(row, revision=revision, **fields)
    return doing


@rehearsed
def delete_pvi(road: Road, user: User, pvi_id: int, *, revision: int) -> Act:
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
        raise NotThere("no-such-pvi", "This PVI is no longer there; somebody deleted it. Undo brings it back if it was you.")
    return row
