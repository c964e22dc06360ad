"""The land that a road takes, and where it passes the boundary of the land that is there for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..arrays import runs_of
from ..findings import Finding
from .corridor import Corridor
from .edges import to_space

Floats = NDArray[np.float64]

__all__ = ["Boundary", "LandTake", "boundary_from", "land_findings", "land_take", "outermost"]

_CLOSED = 0.01  # m between the ends of a line that is meant to be closed
_MITRE = 2.0  # times the margin, at most, that a corner of the widened toe line reaches out
LEAST_PASSED = 0.005  # m


@dataclass(frozen=True, slots=True, eq=False)
class Boundary:
    """Land within closed lines; ``open_by``: m between the ends of a line that is not closed, which bounds nothing."""

    area: Any  # shapely geometry
    open_by: float | None = None


@dataclass(frozen=True, slots=True, eq=False)
class LandTake:
    """area : m2; rings : closed (k, 2) lines round it, outer ones and holes"""

    area: float
    rings: tuple[Floats, ...]


def boundary_from(lines: Sequence[Any]) -> Boundary:
    """Land within lines (k, 2 or more) m: closed ones, and those that close with each other end to end."""
    shapes = [shapely.LineString(np.asarray(v, float)[:, :2]) for v in lines if len(v) > 1]
    if not shapes:
        return Boundary(shapely.Polygon())
    gaps = [float(np.hypot(*np.subtract(s.coords[0], s.coords[-1]))) for s in shapes]
    closed = [
        shapely.LineString([*s.coords[:-1], s.coords[0]]) if 0 < gap <= _CLOSED and len(s.coords) > 3 else s
        for s, gap in zip(shapes, gaps, strict=True)
    ]
    faces = shapely.get_parts(shapely.polygonize([shapely.unary_union(closed)]))
    area = shapely.unary_union(list(faces)) if len(faces) else shapely.Polygon()
    return Boundary(area, min(g for g in gaps if g > _CLOSED) if area.is_empty and any(g > _CLOSED for g in gaps) else None)


def outermost(corridor: Corridor) -> dict[str, tuple[Floats, Floats]]:
    """Side -> offset (n,) m, + right, and place (n, 2) of the outermost node that is built, at all sections; NaN where none is."""
    out = {}
    for side, sign in (("left", -1.0), ("right", 1.0)):
        across = np.concatenate([_farthest(getattr(b, side)) for b in corridor.blocks])
        out[side] = sign * across, to_space(corridor.places, sign * across, np.zeros(len(across)))[:, :2]
    return out


def _farthest(columns: Any) -> Floats:
    built = columns.present & ~np.array(columns.guide)[:, None]
    across = np.where(built, columns.across, -np.inf).max(axis=0)
    return np.where(np.isfinite(across), across, np.nan)


def land_take(corridor: Corridor, margin: float) -> LandTake:
    """Land between the toes from section to section, widened by a margin, m."""
    toes = outermost(corridor)
    left, right = toes["left"][1], toes["right"][1]
    corners = np.stack([left[:-1], right[:-1], right[1:], left[1:], left[:-1]], axis=1)
    apart = np.diff(corridor.station) > 0  # two sections at one station stand where pieces meet
    there = np.isfinite(corners).all(axis=(1, 2)) & apart
    pieces = shapely.make_valid(shapely.polygons(corners[there])) if there.any() else np.empty(0, object)
    area = shapely.unary_union(pieces)
    if margin > 0:
        area = shapely.buffer(area, margin, join_style="mitre", mitre_limit=_MITRE)
    rings = [r for p in shapely.get_parts(area) if p.geom_type == "Polygon" for r in (p.exterior, *p.interiors)]
    return LandTake(float(area.area), tuple(np.asarray(r.coords) for r in rings))


def land_findings(corridor: Corridor, boundary: Boundary, margin: float) -> list[Finding]:
    """Where a toe passes the boundary, and where less than the margin is left before it, by side, with the greatest amount."""
    if boundary.area.is_empty:
        code = "land-open" if boundary.open_by is not None else "land-nowhere"
        return [Finding("doubt", code, {"gap": boundary.open_by or 0.0})]
    out: list[Finding] = []
    s = corridor.station
    rim = boundary.area.boundary
    shapely.prepare(boundary.area)
    for side, (_, toe) in outermost(corridor).items():
        known: Any = np.isfinite(toe).all(axis=1)
        points = shapely.points(np.where(known[:, None], toe, 0.0))
        away = np.asarray(shapely.distance(points, rim))
        inside = np.asarray(shapely.contains(boundary.area, points), bool)
        room: Floats = np.where(known, np.where(inside, away, -away), np.inf)
        found: tuple[tuple[str, Any, Floats], ...] = (
            ("land-passed", room < -LEAST_PASSED, -room),
            ("land-margin", (room >= -LEAST_PASSED) & (room < margin - LEAST_PASSED), margin - room),
        )
        for code, here, amount in found:
            for a, b in runs_of(np.asarray(here)):
                most = a + int(np.argmax(amount[a : b + 1]))
                told = {
                    "side": side,
                    "start": float(s[a]),
                    "end": float(s[b]),
                    "value": float(amount[most]),
                    "at": float(s[most]),
                }
                severity: Any = "fault" if code == "land-passed" else "doubt"
                out.append(Finding(severity, code, told, station_from=float(s[a]), station_to=float(s[b])))
    return out
