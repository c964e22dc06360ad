"""A profile proposed by the program: fitted to the ground, balanced, or laid over a road that is there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.first_profile import fit_first_profile
from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.overlay_profile import fit_over_least, steepest_over
from ivoryridge.core.alignment.profile_limits import FixedLevel, ProfileLimits
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import InputError, NoSolutionError
from ivoryridge.core.wording import quantity

from ..inputs.anchors import AnchoredPVI
from ..inputs.network import assemble_road
from ..inputs.road import RoadInputs
from ..inputs.standards import standard_at_hand, standard_of, zones_of
from ..kept.kinds import trial
from ..ledger import Act
from ..models import Road
from ..refusals import BadValue
from ..results.corridor import corridor_at, corridor_of, missing_for_corridor
from ..results.earthwork import areas_of
from ..results.levels import profile_of, tied_level
from ..results.line import ground_under, line_of
from ..results.meet import end_met
from ..results.overlay import lays_upon, least_lifts
from .edit_profile import set_profile

__all__ = ["first_profile", "profile_limits", "propose_profile"]


def propose_profile(
    road: Road, user: User, *, balance: bool = False, overlay: bool = False, seen: Sequence[tuple[int, int]] | None = None
) -> tuple[Act, list[str]]:
    """Replace the profile by the best fit to the ground: greatest grade and K of project and standard along the road, fixed
    points, and ends that are tied to other roads in level or meet the ground. ``balance`` moves it until cut and fill of the road
    balance; ``overlay``: the lowest one at which what is laid upon the road that is there keeps its thickness."""
    inputs = assemble_road(road)
    told: list[str] = []
    if overlay:
        fitted, told = _overlaid(inputs)
        return set_profile(
            road, user, fitted, label=f"Lay the profile of {road.name} over the road that is there", seen=seen
        ), told
    if balance:
        fitted, left = _balanced(inputs, *_under(inputs), profile_limits(inputs))
        told.append(f"Cut and fill differ by {quantity(abs(left), 'm3', 0)} now.")
    else:
        fitted = first_profile(inputs)
    label = f"Fit the profile of {road.name} to the ground" + (", cut and fill balanced" if balance else "")
    return set_profile(road, user, fitted, label=label, seen=seen), told


def _overlaid(inputs: RoadInputs) -> tuple[list[PVI], list[str]]:
    """The profile of least volume over what is there, its mean height over the least levels, and what of the limits gave way: a road
    that is there may be steeper than a new one is to be."""
    if not inputs.has_profile:
        inputs = replace(inputs, pvis=_as_rows(first_profile(inputs)))
    with trial():
        own = corridor_of(inputs)
        line = line_of(inputs)
        every = np.append(np.arange(line.start_station, line.end_station, LOOK), line.end_station)
        between = corridor_at(inputs, every)
    if not lays_upon(own):
        raise BadValue(
            "nothing-laid-upon",
            f"No part of {inputs.name} is laid upon a road that is there. Give it a template with an overlay first.",
        )
    unbuilt = np.setdiff1d(every, between.station)  # there the profile stays where it is, if it can
    s = np.concatenate([own.station, between.station, unbuilt])
    lift = np.concatenate([least_lifts(own), least_lifts(between), np.zeros(len(unbuilt))])
    order = np.argsort(s, kind="stable")
    s, lift = s[order], lift[order]
    least = profile_of(inputs).evaluate(s)[0] + lift
    limits = profile_limits(inputs, existing=True)
    told: list[str] = []
    steepest = steepest_over(s, least, STEEP_OVER)
    if steepest > limits.greatest_grade:
        grades = f"{100 * steepest:.2f} % over {quantity(STEEP_OVER, 'm', 0)} against {100 * limits.greatest_grade:.2f} %"
        told.append(f"The road that is there is steeper than the greatest grade: {grades}. The profile goes up to that, too.")
        limits = replace(limits, greatest_grade=steepest)
    fitted = fit_over_least(s, least, limits)
    over = profile_from_pvis(fitted).evaluate(s)[0] - least
    height = float(np.trapezoid(over, s) / (s[-1] - s[0]))
    return fitted, [f"It lies {quantity(height, 'm', 3)} over the least levels on average.", *told]


def _as_rows(pvis: Sequence[PVI]) -> tuple[AnchoredPVI, ...]:
    """A profile as inputs have it, held as ``set_profile`` would hold it."""
    last = len(pvis) - 1
    return tuple(
        AnchoredPVI(
            id=-i - 1, revision=1, anchor="start" if i == 0 else "end" if i == last else "station", elevation=p.elevation,
            half_in=p.half_in, half_out=p.half_out, station=p.station,
        )
        for i, p in enumerate(pvis)
    )  # fmt: skip


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


def profile_limits(inputs: RoadInputs, *, desirable: bool = False, existing: bool = False) -> ProfileLimits:
    """Limits of the standard (``desirable``: those that it finds desirable; ``existing``: those of a road that is there, for which the
    project's own least K is not meant), by design speed along the road, and of the project; fixed
    points; levels of tied ends, levels and grades of those that meet the ground."""
    crest: Any = inputs.least_k
    sag: Any = inputs.least_k
    grade = inputs.greatest_grade
    if standard_at_hand(inputs):
        standard, zones = standard_of(inputs), zones_of(inputs)

        def k_along(word: str) -> Any:
            def asked(s: float) -> float:
                row = standard.at(zones.at(s))
                return row.get(f"{word}_desirable", row.get(word, 0.0)) if desirable else row.get(word, 0.0)

            floor = LEAST_K_THERE if existing else inputs.least_k
            return lambda at: np.array([ROUNDED * max(asked(float(s)), floor) for s in at])

        crest, sag = k_along("crest_k"), k_along("sag_k")
        grade = min(grade, standard.rules.get("greatest_grade", grade))
    fixed = tuple(FixedLevel(float(f["station"]), float(f["level"]), f["kind"], f.get("name", "")) for f in inputs.fixed_points)
    ends: dict[str, tuple[float | None, float | None]] = {end: (tied_level(inputs, end), None) for end in ("start", "end")}
    for row in (r for r in inputs.varied if r.kind == "meet"):
        if (fit := end_met(inputs, row).get()) is not None:
            ends[row.data["end"]] = (fit.level, fit.grade)
    return ProfileLimits(grade, crest, sag, fixed, ends["start"], ends["end"])


def _desirable(inputs: RoadInputs, station: Any, level: Any, limits: ProfileLimits) -> list[PVI]:
    """The fit with the K that the standard finds desirable where the ground and what is fixed let it, else with the least."""
    better = profile_limits(inputs, desirable=True)
    try:
        return fit_first_profile(station, level, better)
    except NoSolutionError:
        return fit_first_profile(station, level, limits)


LOOK = 5.0  # m between places at which the least level is asked for
STEEP_OVER = 50.0  # m over which the grade of a road that is there is read; common practice, no source
LEAST_K_THERE = 0.5  # m per %; what is sharper is no curve but a step
ROUNDED = 1.002  # levels are kept in millimetres; K must still be kept then
MOST_TRIALS = 7
BALANCED = 0.01  # of the cut; better tells nothing, soil swells by more (common practice, no source)


def _balanced(inputs: RoadInputs, station: Any, level: Any, limits: ProfileLimits) -> tuple[list[PVI], float]:
    """The fitted profile whose cut and fill differ least, and by how much, m3; by its mean height over the ground (secants)."""

    def tried(height: float) -> tuple[list[PVI], float, float]:
        pvis = fit_first_profile(station, level, replace(limits, mean_height=height))
        with trial():
            _, volumes = areas_of(replace(inputs, pvis=_as_rows(pvis)))
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


def _over_whole_line(line: HorizontalAlignment, ground: Any) -> tuple[Any, Any]:
    """The ground, with both ends of the line: where the ends lie outside, the nearest level stands in."""
    known = ground[np.isfinite(ground[:, 1])] if len(ground) else np.empty((0, 2))
    if len(known) < 2:
        raise InputError("no-ground-for-fit", start=line.start_station, end=line.end_station)
    s = np.concatenate([[line.start_station], known[:, 0], [line.end_station]])
    z = np.concatenate([[known[0, 1]], known[:, 1], [known[-1, 1]]])
    keep = np.concatenate([[True], np.diff(s) > 1e-9])
    return s[keep], z[keep]
