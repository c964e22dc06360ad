"""Reports on a line: its elements, tangent points, coordinates, and how far a measured line lies off it."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment, project_points, sample_stations
from ..alignment.stationing import round_stations
from ..alignment.vertical import VerticalAlignment
from ..errors import InputError
from ..wording import quantity
from .table import Column, Table

__all__ = ["coordinate_report", "deviation_report", "element_report", "interval_deviation_report", "tangent_point_report"]

MOST_ROWS = 50_000
KINDS = {"Line": "straight", "Curve": "arc", "Spiral": "transition"}
_PLACE = (Column("Easting", unit="m"), Column("Northing", unit="m"), Column("Azimuth", unit="°", decimals=4))


def _within(line: HorizontalAlignment, start: float | None, end: float | None) -> tuple[float, float]:
    a = line.start_station if start is None else max(start, line.start_station)
    b = line.end_station if end is None else min(end, line.end_station)
    if b < a:
        raise InputError("range-empty", start=start, end=end, road_start=line.start_station, road_end=line.end_station)
    return a, b


def element_report(line: HorizontalAlignment, start: float | None = None, end: float | None = None) -> Table:
    """Every element that has a part between two stations (m), whole."""
    a, b = _within(line, start, end)
    ends = line.stations
    rows = []
    for i, j in line.whole_elements():
        if ends[j + 1] < a or ends[i] > b:
            continue
        k0, k1, length = float(line.k0[i]), float(line.k1[j]), float(line.length[i : j + 1].sum())
        r0, r1 = (1 / k if abs(k) > 1e-9 else None for k in (k0, k1))
        parameter = float(np.sqrt(length / abs(k1 - k0))) if line.kind(i) == "Spiral" and i == j else None
        pi = int(line.pi_of[i]) + 1 if line.pi_of[i] >= 0 else None
        rows.append((
            KINDS[line.kind(i)], pi, float(ends[i]), float(ends[j + 1]), length, r0, r1, parameter,
            float(line.start[i, 0]), float(line.start[i, 1]), float(np.degrees(line.azimuth[i])),
        ))  # fmt: skip
    columns = (
        Column("Element", "text"), Column("PI", "text"), Column("From", "station"), Column("To", "station"), Column("Length", unit="m"),
        Column("Radius at start", unit="m", signed=True), Column("Radius at end", unit="m", signed=True), Column("A", unit="m"), *_PLACE,
    )  # fmt: skip
    return Table(
        "Elements", columns, tuple(rows), ("Radii are + to the right. Places and azimuths are those of each element's start.",)
    )


def tangent_point_report(line: HorizontalAlignment, start: float | None = None, end: float | None = None) -> Table:
    """Every place where one element meets the next, and the ends."""
    a, b = _within(line, start, end)
    ends = line.key_stations()
    kinds = [KINDS[line.kind(i)] for i, _ in line.whole_elements()]
    names = ["start", *(f"{one} to {next_one}" for one, next_one in itertools.pairwise(kinds)), "end"]
    place, azimuth, _ = line.evaluate(ends)
    rows = [
        (names[i], float(s), float(place[i, 0]), float(place[i, 1]), float(np.degrees(azimuth[i])))
        for i, s in enumerate(ends)
        if a - 1e-6 <= s <= b + 1e-6
    ]
    return Table("Tangent points", (Column("Point", "text"), Column("Chainage", "station"), *_PLACE), tuple(rows))


def _round_places(a: float, b: float, interval: float, equations: Sequence[tuple[float, float]]) -> NDArray[np.float64]:
    """Stations between two whose chainages are round at an interval (m)."""
    if not interval > 0 or (b - a) / interval > MOST_ROWS:
        raise InputError(
            "spacing-too-small",
            spacing=interval,
            count=int((b - a) / max(interval, 1e-9)),
            limit=MOST_ROWS,
            least=(b - a) / MOST_ROWS,
        )
    return round_stations(a, b, interval, equations)


def coordinate_report(
    line: HorizontalAlignment, profile: VerticalAlignment | None, *, interval: float, start: float | None = None,
    end: float | None = None, offset: float = 0.0, equations: Sequence[tuple[float, float]] = (),
) -> Table:  # fmt: skip
    """Places at round chainages at an interval (m), as they are read with chainage equations, and at both ends of the range, ``offset``
    m beside the line (+ right); levels where a profile is."""
    a, b = _within(line, start, end)
    inner = _round_places(a, b, interval, equations)
    s = np.unique(np.round(np.concatenate([[a], inner, [b]]), 6))
    place, azimuth, curvature = line.evaluate(s)
    place = place + offset * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    columns: list[Column] = [Column("Chainage", "station"), *_PLACE, Column("Radius", unit="m", signed=True)]
    radius = [1 / k if abs(k) > 1e-9 else None for k in curvature]
    data: list[Sequence[Any]] = [s.tolist(), place[:, 0].tolist(), place[:, 1].tolist(), np.degrees(azimuth).tolist(), radius]
    if profile is not None:
        level, grade = profile.evaluate(s)
        columns += [Column("Level", unit="m"), Column("Grade", unit="%", decimals=3, signed=True)]
        data += [[None if np.isnan(v) else float(v) for v in x] for x in (level, 100 * grade)]
    told = (
        (
            f"{quantity(abs(offset), 'm', 3)} {'right' if offset > 0 else 'left'} of the line; levels and grades are those of the line.",
        )
        if offset
        else ()
    )
    return Table("Coordinates", tuple(columns), tuple(zip(*data, strict=True)), told)


def deviation_report(
    line: HorizontalAlignment, measured: Any, *, start: float | None = None, end: float | None = None, limit: float | None = None,
    reach: float = 50.0,
) -> tuple[Table, Table]:  # fmt: skip
    """How far measured points (n, 2) lie beside a line, + right, in order of station; and, by element, the greatest and the mean.

    Points beyond the ends, outside the range, or farther off than ``reach`` (m) are counted and left out. Points over ``limit``
    (m) are marked. Elements stand with the greatest deviation first.
    """
    a, b = _within(line, start, end)
    points: NDArray[np.float64] = np.asarray(measured, float).reshape(-1, np.shape(measured)[-1])[:, :2]
    found = project_points(line, points)
    keep = ~found.beyond & (np.abs(found.offset) <= reach) & (found.station >= a - 1e-6) & (found.station <= b + 1e-6)
    order = np.flatnonzero(keep)[np.argsort(found.station[keep], kind="stable")]
    left_out = int(len(points) - len(order))
    told = f"{len(order)} points measured beside the line" + (
        f", {left_out} left out beyond its ends or more than {quantity(reach, 'm')} off." if left_out else "."
    )
    return _deviation_tables(line, found.station[order], found.offset[order], points[order], limit, [told])


def interval_deviation_report(
    line: HorizontalAlignment, lines: Sequence[Any], points: Any = None, *, interval: float, start: float | None = None,
    end: float | None = None, limit: float | None = None, reach: float = 50.0, equations: Sequence[tuple[float, float]] = (),
) -> tuple[Table, Table]:  # fmt: skip
    """How far measured lines, each (n, 2), lie beside a line at round chainages at an interval (m) and at both ends of the range, + right.

    Each offset is measured square to the line, to the nearest place within ``reach`` (m) where a measured line crosses the square.
    Where there are only ``points`` (n, 2), they are joined by straights in the order of their chainage. Places without a measured line
    are counted. Tables are those of ``deviation_report``.
    """
    a, b = _within(line, start, end)
    inner = _round_places(a, b, interval, equations)
    station = np.unique(np.round(np.concatenate([[a], inner, [b]]), 6))
    courses = [np.asarray(v, float)[:, :2] for v in lines if len(v) > 1]
    told = []
    if not courses and points is not None and len(points) > 1:
        single = np.asarray(points, float)[:, :2]
        found = project_points(line, single)
        keep = ~found.beyond & (np.abs(found.offset) <= reach)
        courses = [single[keep][np.argsort(found.station[keep], kind="stable")]]
        told.append(f"{int(keep.sum())} single points, joined by straights in the order of their chainage.")
    offset = _square_offsets(line, station, courses, reach)
    there = np.isfinite(offset)
    missing = int((~there).sum())
    told.insert(0, f"{int(there.sum())} places, one every {quantity(interval, 'm')}, each square to the design line" + (
        f"; at {missing} more there is nothing measured within {quantity(reach, 'm')}." if missing else "."
    ))  # fmt: skip
    station, offset = station[there], offset[there]
    place, azimuth, _ = line.evaluate(station)
    at = place + offset[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    return _deviation_tables(line, station, offset, at, limit, told)


def _square_offsets(
    line: HorizontalAlignment, station: NDArray[np.float64], courses: Sequence[Any], reach: float
) -> NDArray[np.float64]:
    """(n,) signed offset (m, + right) of the nearest place where a course crosses the square at each station; NaN where none does."""
    import shapely

    place, azimuth, _ = line.evaluate(station)
    right = np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    offset = np.full(len(station), np.nan)
    pieces = np.concatenate([np.stack([c[:-1], c[1:]], axis=1) for c in courses if len(c) > 1] or [np.empty((0, 2, 2))])
    if not len(pieces):
        return offset
    squares = shapely.linestrings(np.stack([place - reach * right, place + reach * right], axis=1))
    i, j = shapely.STRtree(shapely.linestrings(pieces)).query(squares, predicate="intersects")
    p, d = pieces[j, 0], pieces[j, 1] - pieces[j, 0]
    r, to = right[i], p - place[i]
    cross = r[:, 0] * d[:, 1] - r[:, 1] * d[:, 0]
    along = np.hypot(d[:, 0], d[:, 1])
    crossing = np.abs(cross) > 1e-12 * np.maximum(along, 1e-9)
    with np.errstate(divide="ignore", invalid="ignore"):
        u = (to[:, 0] * d[:, 1] - to[:, 1] * d[:, 0]) / cross
    # a piece that lies in the square itself is met where it comes nearest
    ends = np.stack([(to * r).sum(axis=1), ((to + d) * r).sum(axis=1)])
    lying = np.where(ends[0] * ends[1] <= 0, 0.0, np.where(np.abs(ends[0]) < np.abs(ends[1]), ends[0], ends[1]))
    u = np.where(crossing, u, lying)
    for k in np.argsort(-np.abs(u)):  # the nearest of a square is written last
        offset[i[k]] = u[k]
    return offset


def _deviation_tables(
    line: HorizontalAlignment, station: NDArray[np.float64], offset: NDArray[np.float64], places: NDArray[np.float64],
    limit: float | None, told: list[str],
) -> tuple[Table, Table]:  # fmt: skip
    element = np.clip(np.searchsorted(line.stations, station, side="right") - 1, 0, len(line.length) - 1)
    rows = tuple(
        (float(s), float(p[0]), float(p[1]), float(d), "left" if d < 0 else "right", KINDS[line.kind(int(e))], "over"
        if limit is not None and abs(d) > limit else "")
        for s, p, d, e in zip(station, places, offset, element, strict=True)
    )  # fmt: skip
    columns = (
        Column("Chainage", "station"), Column("Easting", unit="m"), Column("Northing", unit="m"), Column("Offset", unit="m", signed=True),
        Column("Side", "text"), Column("Element", "text"), Column("Limit", "text"),
    )  # fmt: skip
    groups = []
    for e in np.unique(element):
        own = offset[element == e]
        worst = int(np.argmax(np.abs(own)))
        at = float(station[element == e][worst])
        groups.append((
            KINDS[line.kind(int(e))], float(line.stations[e]), float(line.stations[e + 1]), len(own), float(own[worst]), at,
            float(np.abs(own).mean()),
        ))  # fmt: skip
    groups.sort(key=lambda g: -abs(g[4]))
    over = int((np.abs(offset) > limit).sum()) if limit is not None else 0
    if limit is not None:
        told = [*told, f"{over} lie more than {quantity(limit, 'm')} off."]
    by_element = Table(
        "By element, greatest first",
        (
            Column("Element", "text"), Column("From", "station"), Column("To", "station"), Column("Points", "number", decimals=0),
            Column("Greatest", unit="m", signed=True), Column("at", "station"), Column("Mean of amounts", unit="m"),
        ), tuple(groups),
    )  # fmt: skip
    return Table("Deviation", columns, rows, tuple(told)), by_element


def crossing_report(
    line: HorizontalAlignment,
    others: Sequence[tuple[str, HorizontalAlignment]],
    start: float | None = None,
    end: float | None = None,
) -> Table:
    """Where other lines cross this one, with the chainages on both and the angle; for one that does not cross it, where it comes
    nearest."""
    from shapely import LineString, get_parts, intersection

    a, b = _within(line, start, end)
    s = sample_stations(line, 20.0, 0.01)
    course = LineString(line.evaluate(s)[0])
    rows: list[tuple[Any, ...]] = []
    for name, other in others:
        t = sample_stations(other, 20.0, 0.01)
        theirs = other.evaluate(t)[0]
        found = [g for g in get_parts(intersection(course, LineString(theirs))) if g.geom_type == "Point"]
        places: list[tuple[float, float, float | None, float]] = [_crossing(line, other, np.array([[g.x, g.y]])) for g in found]
        if not places:
            near = project_points(line, theirs)
            i = int(np.argmin(np.where(near.beyond, np.inf, np.abs(near.offset))))
            places = [(float(near.station[i]), float(t[i]), None, float(near.offset[i]))]
        for mine, on_other, angle, gap in places:
            if a - 1e-6 <= mine <= b + 1e-6:
                e, n = line.evaluate(mine)[0][0]
                rows.append((name, "crosses" if gap == 0 else "comes nearest", mine, on_other, gap, angle, float(e), float(n)))
    rows.sort(key=lambda r: r[2])
    columns = (
        Column("Road", "text"), Column("How", "text"), Column("Chainage", "station"), Column("On the other m"), Column("Distance",
        unit="m", signed=True),
        Column("Angle", unit="°", decimals=2), Column("Easting", unit="m"), Column("Northing", unit="m"),
    )  # fmt: skip
    return Table("Crossings", columns, tuple(rows), () if rows else ("No other road crosses or comes near in this range.",))


def _crossing(
    line: HorizontalAlignment, other: HorizontalAlignment, place: NDArray[np.float64]
) -> tuple[float, float, float | None, float]:
    """Stations on both lines, and the angle between them (degrees); Newton's method from where their chords cross."""
    for _ in range(20):
        mine, theirs = project_points(line, place), project_points(other, place)
        p, h, _ = line.evaluate(mine.station)
        q, k, _ = other.evaluate(theirs.station)
        u, v = (np.array([np.sin(x[0]), np.cos(x[0])]) for x in (h, k))
        cross = u[0] * v[1] - u[1] * v[0]
        if abs(cross) < 1e-9:
            break
        d = q[0] - p[0]
        new = (p[0] + u * ((d[0] * v[1] - d[1] * v[0]) / cross))[None]
        if np.abs(new - place).max() < 1e-8:
            place = new
            break
        place = new
    angle = float(np.degrees(abs((h[0] - k[0] + np.pi / 2) % np.pi - np.pi / 2)))
    return float(project_points(line, place).station[0]), float(project_points(other, place).station[0]), angle, 0.0
