"""What holds a PVI's station, or an end of a range, when the line changes: its anchor, resolved against the line as it is now."""

from __future__ import annotations

from dataclasses import dataclass

from ivoryridge.core.alignment.horizontal import HorizontalAlignment, project_points, tangent_points
from ivoryridge.core.errors import InputError

__all__ = ["AnchoredPVI", "Held", "HeldEnd", "resolve_station", "resolve_stations"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """What a person holds a place along a line by; lengths in m. ``pi`` is the index of the PI whose tangent point holds it."""

    anchor: str
    station: float | None = None
    easting: float | None = None
    northing: float | None = None
    pi: int | None = None
    pi_id: int | None = None
    tangent_point: str = ""
    ahead: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class AnchoredPVI(Held):
    """A PVI as a person placed it."""

    id: int
    revision: int
    elevation: float
    half_in: float
    half_out: float
    circular: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldEnd(Held):
    """An end of a range as a person holds it. ``row``: whose end it is."""

    row: int | None = None


def resolve_stations(pvis: list[AnchoredPVI], line: HorizontalAlignment) -> list[float]:
    """Station of every PVI, m, by its anchor."""
    return [resolve_station(p, line) for p in pvis]


def resolve_station(p: Held, line: HorizontalAlignment) -> float:
    """Station of one PVI, or of an end, on the line as it is now, m.

    Raises
    ------
    InputError    the PI that holds it has no curve any more
    """
    match p.anchor:
        case "start":
            return line.start_station + p.ahead
        case "end":
            return line.end_station + p.ahead
        case "place":
            return float(project_points(line, [[p.easting, p.northing]]).station[0])
        case "tangent":
            points = tangent_points(line, p.pi) if p.pi is not None else {}
            if not points:
                where = {"pvi_id": p.id} if isinstance(p, AnchoredPVI) else {"variation_id": getattr(p, "row", None)}
                raise InputError("anchor-lost", point=p.tangent_point, pi="?" if p.pi is None else p.pi + 1, where=where)
            return points[p.tangent_point] + p.ahead
    assert p.station is not None
    return p.station
