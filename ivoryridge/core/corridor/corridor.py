"""The corridor: alignment + profile + template + ground, solved at all section stations at once."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..alignment.crossfall_diagram import CrossfallDiagram
from ..alignment.horizontal import HorizontalAlignment
from ..alignment.stationing import round_stations
from ..alignment.vertical import VerticalAlignment
from ..arrays import frozen_fields, runs_of
from ..errors import InputError
from ..findings import Finding
from ..section.solve import SideColumns, solve_side
from ..section.template import PlacedPart, Template
from ..terrain.section_cut import GroundSections, cut_lines
from ..terrain.surface import Surface
from ..tolerances import SAME_STATION

Floats = NDArray[np.float64]

__all__ = [
    "Corridor",
    "Crossfall",
    "SectionPlaces",
    "compute_corridor",
    "corners",
    "cut_ground",
    "lane_of",
    "line_stations",
    "places_at",
    "search_reach",
    "section_stations",
    "shoulder_fall",
    "side_outline",
    "take_sections",
]

MOST_SECTIONS = 20_000
LEAST_DEPTH = 0.02  # m; ground stands no better known over a slope
LEAST_CORNER = np.radians(0.5)  # rad by which a line turns between two sections beyond what its curvature there explains
_TOE_JUMP = 8.0  # m between neighbouring sections; common practice, no source


@dataclass(frozen=True, slots=True, eq=False)
class SectionPlaces:
    """Where the sections stand: station (n,), place (n, 2), azimuth (n,) rad, curvature (n,) 1/m, + right."""

    station: Floats
    place: Floats
    azimuth: Floats
    curvature: Floats

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "place", "azimuth", "curvature"))


@dataclass(frozen=True, slots=True, eq=False)
class Crossfall:
    """How a road's crossfall turns: its diagram, the axis ("centre", "inner" or "outer" edge), and the lanes' widths (left, right) m."""

    diagram: CrossfallDiagram
    axis: str
    half_width: tuple[float, float]

    def rise_of_centre(self, station: Any) -> Floats:
        return self.diagram.rise_of_centre(station, self.axis, self.half_width)


@dataclass(frozen=True, slots=True, eq=False)
class Corridor:
    """A road's sections.

    places : where the sections stand
    level : (n,) float, m        of the centre: the profile's, and what turning about an edge adds
    grade : (n,) float, m/m
    ground : GroundSections      offsets from -reach to +reach, + right
    left, right : SideColumns    ``across`` grows outward on either side
    findings : list of Finding
    """

    places: SectionPlaces
    level: Floats
    grade: Floats
    ground: GroundSections
    left: SideColumns
    right: SideColumns
    findings: tuple[Finding, ...]

    def __post_init__(self) -> None:
        frozen_fields(self, ("level", "grade"))

    @property
    def station(self) -> Floats:
        return self.places.station

    def sides(self) -> tuple[tuple[str, float, SideColumns], ...]:
        """Name, sign of the offset, and columns of either side."""
        return (("left", -1.0, self.left), ("right", 1.0, self.right))


def section_stations(
    alignment: HorizontalAlignment,
    profile: VerticalAlignment,
    interval: float,
    *,
    extra: Any = (),
    station_from: float | None = None,
    station_to: float | None = None,
    equations: Sequence[tuple[float, float]] = (),
) -> Floats:
    """Stations of the sections: multiples of the interval as chainages are read, ends, tangent points and grade changes, (n,) m.

    Only where both line and profile exist. Raises InputError when the interval makes more than 20 000 sections, or
    when nothing is left of the range.
    """
    start = max(alignment.start_station, float(profile.station[0]))
    end = min(alignment.end_station, float(profile.station[-1]))
    first = start if station_from is None else max(start, station_from)
    last = end if station_to is None else min(end, station_to)
    if not last - first > SAME_STATION:
        raise InputError("range-empty", start=first, end=last, road_start=start, road_end=end)
    count = (last - first) / interval if interval > 0 else np.inf
    if count > MOST_SECTIONS:
        raise InputError(
            "spacing-too-small",
            spacing=interval,
            count=int(min(count, 1e9)),
            limit=MOST_SECTIONS,
            least=(last - first) / MOST_SECTIONS,
        )
    regular = round_stations(first, last, interval, equations)
    key = np.concatenate([alignment.key_stations(), profile.key_stations(), np.asarray(extra, float), [first, last]])
    key = np.unique(key[(key >= first) & (key <= last)])
    key = key[np.concatenate([[True], np.diff(key) > SAME_STATION])]
    near = np.searchsorted(key, regular)
    gap = np.minimum(
        np.abs(regular - key[np.minimum(near, len(key) - 1)]), np.abs(regular - key[np.maximum(near - 1, 0)])
    )  # a key station wins over a regular one that falls on it
    return np.sort(np.concatenate([key, regular[gap > SAME_STATION]]))


def line_stations(
    alignment: HorizontalAlignment, interval: float, extra: Any = (), equations: Sequence[tuple[float, float]] = ()
) -> Floats:
    """Stations of sections that hang on the line alone, whatever its profile: round chainages at the interval, tangent points, and
    ``extra`` ones, e.g. where the crossfall turns, that lie on the line."""
    more = np.asarray(extra, float)
    more = more[(more > alignment.start_station) & (more < alignment.end_station)]
    regular = round_stations(alignment.start_station, alignment.end_station, interval, equations)
    return np.union1d(np.union1d(regular, alignment.key_stations()), more)


def places_at(alignment: HorizontalAlignment, station: Any) -> SectionPlaces:
    """Places, azimuths and curvatures of sections square to the line."""
    place, azimuth, curvature = alignment.evaluate(station)
    return SectionPlaces(np.atleast_1d(station), place, azimuth, curvature)


def corners(places: SectionPlaces) -> list[tuple[int, float]]:
    """Sections that stand at a corner of the line, where it turns without a curve, and by how much (rad, + right)."""
    turned = (np.diff(places.azimuth) + np.pi) % (2 * np.pi) - np.pi
    steady = 0.5 * (places.curvature[:-1] + places.curvature[1:]) * np.diff(places.station)
    left = turned - steady
    return [(int(i) + 1, float(left[i])) for i in np.flatnonzero(np.abs(left) > LEAST_CORNER)]


def cut_ground(surface: Surface, places: SectionPlaces, reach: float) -> GroundSections:
    """Ground square to the line from -reach to +reach m (offset, + right)."""
    right = np.stack([np.cos(places.azimuth), -np.sin(places.azimuth)], axis=-1)
    cut = cut_lines(surface, places.place - reach * right, places.place + reach * right)
    return GroundSections(cut.offset - reach, cut.elevation)


def search_reach(template: Template) -> float:
    """How far out the ground is needed, m: the widest the parts can get plus their search, at most 300."""
    widest = 10.0
    for side in (template.left, template.right):
        width = 0.0
        for placed in side:
            for p in placed.part.parameters:
                value = placed.value(p.name)
                if isinstance(value, int | float) and p.kind == "length":
                    width += float(value)
        widest = max(widest, width)
    return min(widest + 10.0, 300.0)


def _side_ground(ground: GroundSections, sign: float) -> tuple[Floats, Floats]:
    if sign > 0:
        return np.ascontiguousarray(ground.offset), np.ascontiguousarray(ground.elevation)
    return np.ascontiguousarray(-ground.offset[:, ::-1]), np.ascontiguousarray(ground.elevation[:, ::-1])


def compute_corridor(
    alignment: HorizontalAlignment,
    profile: VerticalAlignment,
    template: Template,
    surface: Surface,
    station: Any,
    *,
    crossfall: Crossfall | None = None,
    ground: GroundSections | None = None,
    checked: bool = True,
) -> Corridor:
    """Solve a template at stations (n,) m along a road.

    ``crossfall`` turns the parts whose parameters say ``turns``; without one the template's own values stay.
    ``ground`` is what ``cut_ground`` gives at these stations, if it is known already; ``checked=False`` leaves the
    findings to ``take_sections``.

    Raises
    ------
    InputError    the surface is empty, or a rule of the template cannot be used
    """
    places = places_at(alignment, station)
    level, grade = profile.evaluate(places.station)
    if crossfall is not None:
        level = level + crossfall.rise_of_centre(places.station)
    rates = crossfall.diagram.rates(places.station) if crossfall is not None else None
    if ground is None:
        ground = cut_ground(surface, places, search_reach(template))
    sides: dict[str, SideColumns] = {}
    for i, (name, sign, parts) in enumerate((("left", -1.0, template.left), ("right", 1.0, template.right))):
        turned = _turned(parts, rates[i]) if rates is not None else None
        sides[name] = solve_side(parts, level, _side_ground(ground, sign), overrides=turned)
    findings = _findings(places, ground, sides, template) if checked else []
    return Corridor(places, level, grade, ground, sides["left"], sides["right"], tuple(findings))


def lane_of(parts: tuple[PlacedPart, ...]) -> tuple[float, float]:
    """Width (m) and fall (ratio) of what turns with the crossfall at the centre of one side; zeros if nothing does."""
    for placed in parts:
        names = {p.turns: placed.value(p.name) for p in placed.part.parameters if p.turns in ("lane", "width")}
        if "lane" in names:
            return float(names.get("width", 0.0)), float(names["lane"])
    return 0.0, 0.0


def _turned(parts: tuple[PlacedPart, ...], rate: Floats) -> dict[str, dict[str, Floats]]:
    """Falls of lanes and paved shoulders over the stations."""
    _, normal = lane_of(parts)
    out: dict[str, dict[str, Floats]] = {}
    for placed in parts:
        by = {p.turns: p.name for p in placed.part.parameters if p.turns}
        turned: dict[str, Floats] = {}
        if "lane" in by:
            turned[by["lane"]] = -rate
        if "shoulder" in by:
            kept = "high side" in by and placed.value(by["high side"]) == "own fall kept"
            limit = float(placed.value(by["rollover"])) if kept and "rollover" in by else None
            turned[by["shoulder"]] = shoulder_fall(-rate, normal, float(placed.value(by["shoulder"])), limit)
        out[placed.id] = turned
    return out


def shoulder_fall(lane: Any, normal: float, own: float, rollover: float | None = None) -> Floats:
    """Outward fall (ratio) of a paved shoulder beside a lane that falls outward by ``lane`` (n,), ``normal`` where it is not turned.

    On the low side the steeper of its own fall and the lane's. On the high side it lies in the lane's plane from level on, its own
    extra fall running out evenly while the lane turns level; or, with ``rollover``, it keeps its own fall while the break against the
    lane is at most that, and is turned so that the break equals it beyond. Continuous in the lane's fall everywhere.
    """
    f = np.asarray(lane, float)
    if rollover is not None:
        return np.asarray(np.minimum(np.maximum(own, f), f + rollover))
    extra = own - normal
    eased = f + extra * (np.clip(f / normal, 0.0, 1.0) if normal > 0 else (f >= 0))
    low = np.maximum(own, f) if extra >= 0 else f + extra
    return np.asarray(np.where(f >= normal, low, eased))


def take_sections(corridor: Corridor, index: Any, template: Template) -> Corridor:
    """The corridor at some of its sections, e.g. without the one at the reading mark; findings are made anew."""
    index = np.asarray(index)
    p = corridor.places
    places = SectionPlaces(p.station[index], p.place[index], p.azimuth[index], p.curvature[index])
    ground = corridor.ground.take(index)
    left, right = (_take_side(c, index) for c in (corridor.left, corridor.right))
    findings = _findings(places, ground, {"left": left, "right": right}, template)
    return Corridor(places, corridor.level[index], corridor.grade[index], ground, left, right, tuple(findings))


def _take_side(c: SideColumns, index: Any) -> SideColumns:
    return replace(
        c,
        across=c.across[:, index],
        level=c.level[:, index],
        present=c.present[:, index],
        case_of={k: (taken[index], names) for k, (taken, names) in c.case_of.items()},
        unmet={k: m[index] for k, m in c.unmet.items()},
        reach={k: r[index] for k, r in c.reach.items()},
    )


def side_outline(columns: SideColumns, role: str) -> tuple[Floats, Floats]:
    """Across and level (k, n) of the nodes along one role, outward; NaN where a node is not present."""
    index = list(columns.outline(role))
    present = columns.present[index]
    return np.where(present, columns.across[index], np.nan), np.where(present, columns.level[index], np.nan)


def _findings(
    places: SectionPlaces, ground: GroundSections, sides: Mapping[str, SideColumns], template: Template
) -> list[Finding]:
    out: list[Finding] = []
    s = places.station

    def span(code: str, mask: Any, severity: Any = "doubt", **params: Any) -> None:
        for a, b in runs_of(mask):
            out.append(
                Finding(
                    severity, code, {"start": float(s[a]), "end": float(s[b]), "count": b - a + 1, **params},
                    station_from=float(s[a]), station_to=float(s[b]),
                )
            )  # fmt: skip

    span("off-ground", ~np.isfinite(ground.elevation).any(axis=1))
    known = np.isfinite(ground.elevation).any(axis=1)
    for name, parts in (("left", template.left), ("right", template.right)):
        columns = sides[name]
        labels = {p.id: p.part.label.lower() for p in parts}
        for node, missed in columns.unmet.items():
            span("not-met", missed & known, "fault", part=labels[node.split(".")[0]], side=name)
        for part, depth in _under_ground(columns, parts, _side_ground(ground, 1.0 if name == "right" else -1.0)):
            for a, b in runs_of(depth > LEAST_DEPTH):
                greatest = float(depth[a : b + 1].max())
                span("slope-under-ground", _within_run(len(s), a, b), "fault", part=labels[part], side=name, depth=greatest)
        across, _ = side_outline(columns, "finished")
        reach = _running_greatest(across)
        with np.errstate(invalid="ignore"):
            back = (across < reach - 1e-6).any(axis=0)
        span("crosses-itself", back, side=name)
        outer = reach[-1]
        with np.errstate(invalid="ignore"):
            jump = np.abs(np.diff(outer)) > _TOE_JUMP
        for i in np.flatnonzero(jump):
            out.append(
                Finding(
                    "doubt", "toe-jumps",
                    {"side": name, "start": float(s[i]), "end": float(s[i + 1]), "value": float(abs(outer[i + 1] - outer[i]))},
                    station_from=float(s[i]), station_to=float(s[i + 1]),
                )
            )  # fmt: skip
        sign = 1.0 if name == "right" else -1.0
        with np.errstate(invalid="ignore"):
            inside = sign * places.curvature * outer >= 1.0  # the toe lies beyond the bend's centre
        for corner, angle in corners(places):
            if sign * angle > 0:  # sections up to so far before and behind cross each other on the inside
                with np.errstate(invalid="ignore"):
                    inside = inside | (np.abs(s - s[corner]) < outer * np.tan(0.5 * abs(angle)))
        span("sections-cross", inside, side=name)
    return out


def _within_run(n: int, a: int, b: int) -> NDArray[np.bool_]:
    out = np.zeros(n, bool)
    out[a : b + 1] = True
    return out


def _under_ground(
    columns: SideColumns, parts: tuple[PlacedPart, ...], ground: tuple[Floats, Floats]
) -> Iterator[tuple[str, Floats]]:
    """Parts with slopes that end in fill, and how deep (n,) m the built path runs under the ground before its end. The ray that met
    the ground is another line than the path, so it is held against the ground again."""
    outline = columns.outline("finished")
    for placed in parts:
        fills = [i for i, c in enumerate(placed.part.cases) if c.kind == "in_fill"]
        if not fills or placed.id not in columns.case_of:
            continue
        own = [i for i in outline if columns.names[i].startswith(f"{placed.id}.")]
        before = [i for i in outline if i < min(own, default=0)]
        path = [*before[-1:], *own]
        if len(path) < 2:
            continue
        in_fill = np.isin(columns.case_of[placed.id][0], fills)
        there = columns.present[path]
        u, z = np.where(there, columns.across[path], np.nan), np.where(there, columns.level[path], np.nan)
        yield placed.id, np.where(in_fill, _depths(np.ascontiguousarray(u.T), np.ascontiguousarray(z.T), *ground), 0.0)


@njit(cache=True)
def _depths(u, z, gu, gz):
    """(n,) the greatest height of ground over a path, m; looked at where either of both has a vertex."""
    out = np.zeros(len(u))
    for n in range(len(u)):
        a = -1
        for k in range(u.shape[1]):
            if not (np.isfinite(u[n, k]) and np.isfinite(z[n, k])):
                continue
            if a >= 0 and u[n, k] > u[n, a]:
                rise = (z[n, k] - z[n, a]) / (u[n, k] - u[n, a])
                for j in range(gu.shape[1]):
                    if u[n, a] < gu[n, j] < u[n, k] and np.isfinite(gz[n, j]):
                        out[n] = max(out[n], gz[n, j] - (z[n, a] + rise * (gu[n, j] - u[n, a])))
                for j in range(gu.shape[1] - 1):
                    if gu[n, j] <= u[n, a] < gu[n, j + 1] and np.isfinite(gz[n, j]) and np.isfinite(gz[n, j + 1]):
                        g = gz[n, j] + (gz[n, j + 1] - gz[n, j]) * (u[n, a] - gu[n, j]) / (gu[n, j + 1] - gu[n, j])
                        out[n] = max(out[n], g - z[n, a])
            a = k
    return out


def _running_greatest(across: Floats) -> Floats:
    return np.fmax.accumulate(across, axis=0)
