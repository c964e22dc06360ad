"""How line and levels go together: hints on places where each is sound and both at once surprise the driver."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from ..alignment.horizontal import PI, HorizontalAlignment, tangent_points
from ..alignment.vertical import PVI, VerticalAlignment
from ..wording import words
from .checks import DesignFinding, Place
from .standard import SpeedZones, Standard

__all__ = ["check_together"]

# common practice, no source; a standard's data file may set its own under the same names
GRADE_SECONDS = 4.0  # s of travel; a shorter grade between two crests or two sags looks broken
SHORT_BEND_SHARE = 0.5  # of the vertical curve it overlaps; a shorter bend looks like a kink on it

_HIDDEN = (
    "Looking {word}, the top at {top:m.0} hides where the bend begins until it is nearer than the stopping sight distance. Start the bend "
    "before the top, or well behind it."
)


def check_together(
    line: HorizontalAlignment,
    pis: Sequence[PI],
    profile: VerticalAlignment,
    pvis: Sequence[PVI],
    standard: Standard,
    zones: SpeedZones,
) -> list[DesignFinding]:
    """Bends that start hidden behind a crest (in both directions), crests or sags of one sense joined by a short grade, and
    bends much shorter than the vertical curve they overlap; in order of station."""
    bends = [(i, places["TS"], places["ST"]) for i in range(1, len(pis) - 1) if (places := tangent_points(line, i))]
    curves = []
    for i in range(1, len(pvis) - 1):
        a, p, b = pvis[i - 1 : i + 2]
        change = (b.elevation - p.elevation) / (b.station - p.station) - (p.elevation - a.elevation) / (p.station - a.station)
        if p.half_in + p.half_out > 0 and abs(change) > 1e-9:
            curves.append((i, p.station - p.half_in, p.station + p.half_out, change))
    out = (
        _behind_crests(bends, profile, standard, zones)
        + _broken_grades(curves, standard, zones)
        + _short_bends(bends, curves, standard, zones)
    )
    return sorted(out, key=lambda f: f.finding.station_from or 0.0)


def _behind_crests(
    bends: list[tuple[int, float, float]], profile: VerticalAlignment, standard: Standard, zones: SpeedZones
) -> list[DesignFinding]:
    out = []
    tops = [float(s) for s, _ in profile.turning_points() if _is_crest(profile, float(s))]
    for top, (i, start, end) in itertools.product(tops, bends):
        speed = zones.at(top)
        row = standard.at(speed)
        if "sight" not in row:
            continue
        for away, word in ((start - top, "ahead"), (top - end, "back")):
            if 0 < away < row["sight"]:
                here = Place(standard, speed, row, min(top, start), max(top, start), ("pi", i))
                why = words(_HIDDEN, word=word, top=top)
                out.append(here.found("note", "bend-behind-crest", f"PI {i + 1}", "", away, row["sight"], "m", why, top=top))
    return out


def _is_crest(profile: VerticalAlignment, station: float) -> bool:
    grades = profile.evaluate([station - 0.01, station + 0.01])[1]
    return bool(grades[0] > grades[1])


def _broken_grades(curves: list[tuple[int, float, float, float]], standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    out = []
    seconds = standard.rules.get("broken_grade_seconds", GRADE_SECONDS)
    for (i, _, end, c1), (j, start, _, c2) in itertools.pairwise(curves):
        if c1 * c2 <= 0 or j != i + 1:
            continue
        speed = zones.over(end - 1.0, start + 1.0)
        limit = seconds * speed / 3.6
        if start - end < limit:
            here = Place(standard, speed, standard.at(speed), end, start, ("pvi", i))
            word = "crests" if c1 < 0 else "sags"
            why = f"Less than {seconds:g} s of travel; one longer curve reads better."
            out.append(
                here.found("note", "broken-grade", f"PVI {i + 1} and PVI {j + 1}", "", start - end, limit, "m", why, word=word)
            )
    return out


def _short_bends(
    bends: list[tuple[int, float, float]], curves: list[tuple[int, float, float, float]], standard: Standard, zones: SpeedZones
) -> list[DesignFinding]:
    out = []
    share = standard.rules.get("short_bend_share", SHORT_BEND_SHARE)
    for (i, a, b), (j, c, d, _) in itertools.product(bends, curves):
        if min(b, d) > max(a, c) and b - a < share * (d - c):
            speed = zones.over(a, b)
            here = Place(standard, speed, standard.at(speed), a, b, ("pi", i))
            why = "Where both turn at once the bend should be at least as long as the vertical curve, and enclose it."
            out.append(
                here.found(
                    "note", "bend-on-long-curve", f"PI {i + 1}", "", b - a, share * (d - c), "m", why, pvi=j + 1, length=d - c
                )
            )
    return out
