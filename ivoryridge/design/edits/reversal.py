"""What reversing a road changes: chainages, sides, grades, crossfall, speeds and guides are mirrored; twice restores every value."""

from __future__ import annotations

import re
from typing import Any

from ivoryridge.core.alignment.course import run_against, told_elements

from ..models import Road, RoadPVI

__all__ = [
    "mirrored_course",
    "mirrored_crossfall",
    "mirrored_guide",
    "mirrored_held",
    "mirrored_pvi",
    "mirrored_speeds",
    "mirrored_ties",
]

_TURNED_POINTS = {"TS": "ST", "SC": "CS", "CS": "SC", "ST": "TS", "": ""}
_TURNED_ENDS = {"start": "end", "end": "start"}


def mirrored_held(held: dict[str, Any], mirror: Any) -> dict[str, Any]:
    """What holds an end of a range."""
    out = {**held, "anchor": _TURNED_ENDS.get(held["anchor"], held["anchor"])}
    if "station" in held:
        out["station"] = mirror(held["station"])
    if "tangent_point" in held:
        out["tangent_point"] = _TURNED_POINTS[held["tangent_point"]]
    if "ahead" in held:
        out["ahead"] = -held["ahead"] + 0.0
    return out


def mirrored_pvi(pvi: RoadPVI, mirror: Any) -> dict[str, Any]:
    return {
        "anchor": _TURNED_ENDS.get(pvi.anchor, pvi.anchor), "station": None if pvi.station is None else mirror(pvi.station),
        "tangent_point": _TURNED_POINTS[pvi.tangent_point], "ahead": -pvi.ahead + 0.0, "half_in": pvi.half_out, "half_out": pvi.half_in,
    }  # fmt: skip


def mirrored_course(road: Road, line: Any) -> dict[str, Any]:
    """Elements from the last to the first, each from its other end."""
    if road.course.get("kind") != "elements":
        return dict(road.course)
    return {"kind": "elements", "elements": told_elements(run_against(line))}


def mirrored_ties(road: Road) -> dict[str, Any]:
    return {_TURNED_ENDS[end]: tie for end, tie in road.ties.items()}


def mirrored_speeds(road: Road, start: float, mirror: Any) -> list[list[float]]:
    """Zones from the last to the first; the project's own speed needs no zone at the start."""
    usual = float(road.project.design_speed)
    own = sorted([float(s), float(v)] for s, v in road.speeds)
    edges = [(start, usual), *((s, v) for s, v in own if s > start)]
    if own and own[0][0] <= start:
        edges[0] = (start, own[0][1])
    speeds = [v for _, v in edges]
    stations = [s for s, _ in edges[1:]]
    zones = [(start, speeds[-1]), *zip([mirror(s) for s in reversed(stations)], speeds[-2::-1], strict=True)]
    return [[s, v] for i, (s, v) in enumerate(zones) if i > 0 or v != usual]


def mirrored_guide(guide: dict[str, Any], mirror: Any, grades: list[int]) -> dict[str, Any]:
    g = dict(guide)
    if "station" in g:
        g["station"] = mirror(g["station"])
    if "grade" in g:
        g["grade"] = -g["grade"] + 0.0
    if "within" in g:
        g["within"] = [mirror(s) for s in reversed(g["within"])]
    for word in ("first", "second"):
        if word in g:
            g[word] = [mirror(g[word][0]), g[word][1]]
    found = re.fullmatch(r"after-(\d+)", g.get("of", ""))
    if found and int(found[1]) in grades[:-1]:  # the grade after a PVI leaves its other PVI now
        g["of"] = f"after-{grades[grades.index(int(found[1])) + 1]}"
    return g


def mirrored_crossfall(crossfall: dict[str, Any], bends_there: int | None = None) -> dict[str, Any]:
    """``bends_there``: how many bends a line without PIs has, whose pins go by their numbers."""
    turned = {"level_in": "level_out", "level_out": "level_in", "full_in": "full_out", "full_out": "full_in"}
    bends = {
        (pi if bends_there is None else str(bends_there + 1 - int(pi))): {
            turned.get(k, k): -v + 0.0 if k in turned else v for k, v in pin.items()
        }
        for pi, pin in crossfall.get("bends", {}).items()
    }
    return {**crossfall, "bends": bends} if "bends" in crossfall else dict(crossfall)
