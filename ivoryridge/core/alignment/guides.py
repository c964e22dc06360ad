"""Guide lines on the long section: straight lines of a gradient that help to place PVIs, and where they cross."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..errors import InputError

__all__ = ["GUIDE_KINDS", "GuideLine", "crossings_of", "resolve_guides"]

# kind -> the words it needs
GUIDE_KINDS: dict[str, tuple[str, ...]] = {
    "grade": ("station", "level", "grade"),
    "points": ("first", "second"),
    "parallel": ("of", "rise"),
}
FLATTEST_CROSSING = 1e-9  # m/m; lines of nearer gradients are parallel
ENDS_MEET = 1e-6  # m by which a crossing may lie beyond a line's end: two that end in one point cross there
SAME_POINT = 1e-6  # m between the stations of two points that make a line


@dataclass(frozen=True, slots=True)
class GuideLine:
    """A line through (station m, level m) with a grade (m/m, + rises ahead), drawn and crossed between two stations."""

    id: str
    station: float
    level: float
    grade: float
    start: float = -math.inf
    end: float = math.inf

    def at(self, station: float) -> float:
        """Level in m at a station."""
        return self.level + self.grade * (station - self.station)


def resolve_guides(rows: Sequence[Mapping[str, Any]], grades: Mapping[str, GuideLine] | None = None) -> dict[str, GuideLine]:
    """Guide rows as lines, by id.

    A row is through a point with a ``grade``; through two ``points`` [station, level]; or ``parallel`` to ``of``, raised by
    ``rise`` (m, - lowers). ``of`` is another guide's id or a key of ``grades``, the design's own grades. ``within``: the two stations
    between which it runs; without, it has no ends.

    Raises
    ------
    InputError    a row is incomplete, two points stand over each other, a parent is not there, or parents go in a circle
    """
    by_id = {str(r.get("id", "")): r for r in rows}
    if len(by_id) < len(rows):
        raise InputError("guide-twice")
    done: dict[str, GuideLine] = dict(grades or {})

    def line(name: str, on_the_way: tuple[str, ...]) -> GuideLine:
        if name in done:
            return done[name]
        if name in on_the_way:
            raise InputError("guide-circle", name=name)
        if name not in by_id:
            raise InputError("guide-parent", name=on_the_way[-1] if on_the_way else name)
        row = by_id[name]
        kind = str(row.get("kind"))
        if kind not in GUIDE_KINDS or not set(GUIDE_KINDS[kind]) <= set(row):
            raise InputError("guide-incomplete", name=name)
        if kind == "grade":
            made = GuideLine(name, float(row["station"]), float(row["level"]), float(row["grade"]))
        elif kind == "points":
            (s1, z1), (s2, z2) = row["first"], row["second"]
            if abs(s2 - s1) < SAME_POINT:
                raise InputError("guide-upright", name=name, station=float(s1))
            made = GuideLine(name, float(s1), float(z1), (z2 - z1) / (s2 - s1))
        else:
            parent = line(str(row["of"]), (*on_the_way, name))
            made = GuideLine(name, parent.station, parent.level + float(row["rise"]), parent.grade)
        if "within" in row:
            made = replace(made, start=min(row["within"]), end=max(row["within"]))
        done[name] = made
        return made

    return {name: line(name, ()) for name in by_id}


def crossings_of(lines: Sequence[GuideLine], start: float, end: float) -> list[tuple[str, str, float, float]]:
    """Where lines cross each other between two stations, and where they meet these: ids, station m, level m; by station.

    At the start and the end of the road, or where a line ends before, the second id is empty.
    """
    out = []
    for a, b in itertools.combinations(lines, 2):
        change = a.grade - b.grade
        if abs(change) < FLATTEST_CROSSING:
            continue
        station = a.station + (b.at(a.station) - a.level) / change
        first, last = max(start, a.start, b.start), min(end, a.end, b.end)
        if first - ENDS_MEET <= station <= last + ENDS_MEET:
            out.append((a.id, b.id, station, a.at(station)))
    for a in lines:
        ends = max(start, a.start), min(end, a.end)
        out += [(a.id, "", s, a.at(s)) for s in ends if start <= s <= end]
    return sorted(out, key=lambda c: (c[2], c[3]))
