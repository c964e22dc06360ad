"""Roles of nodes: what a line along the road is, and how it is drawn in plan, on sheets and in sections. Said once, here."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

__all__ = [
    "CENTRE", "EDGE_ROLES", "PAVEMENT_EDGE", "ROLES", "TOE", "ZONES", "PaperStyle", "Role", "ScreenStyle", "Zone", "role_named",
    "roles_told",
]  # fmt: skip

CENTRE = "centre line"
PAVEMENT_EDGE = "pavement edge"
TOE = "toe"
EDGE_ROLES = ("channel line", PAVEMENT_EDGE, "lane edge")  # what bounds a carriageway: the first that a side has, outermost

Zone = Literal["carriageway", "beside", "slope"]  # what a side is made of, outward
ZONES: tuple[Zone, ...] = ("carriageway", "beside", "slope")


@dataclass(frozen=True, slots=True)
class ScreenStyle:
    """A line in plan: colour, width and dashes in pixels. ``fill``: colour of the band between its left and right line."""

    colour: str
    width: float
    dash: tuple[float, ...] = ()
    fill: str = ""


@dataclass(frozen=True, slots=True)
class PaperStyle:
    """A line on a sheet: width and dashes in mm, and one of the sheet's colours."""

    width: float
    colour: str = "black"
    dash: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Role:
    """What a node is for.

    below : it is of the formation, under what is built; not drawn in plan
    outline : drawn at every scale; the others only from near
    rank : order in which labels of a section find room, the least first
    """

    name: str
    about: str
    screen: ScreenStyle | None = None
    paper: PaperStyle | None = None
    below: bool = False
    outline: bool = False
    rank: int = 2


_FINE = ScreenStyle("#6f9aa2", 0.7)  # of a role that states nothing of its own

ROLES: tuple[Role, ...] = (
    Role(TOE, "where a side slope meets the ground", ScreenStyle("#5e6b73", 1.0, (5, 3), "#0e5a6826"), PaperStyle(0.18, dash=(3.0, 1.5)),
         outline=True, rank=1),
    Role("verge edge", "outer edge of the verge", _FINE, PaperStyle(0.13, "grey")),
    Role("ditch invert", "bottom of the ditch, on the side of the road", _FINE, PaperStyle(0.13, "spot", (4.0, 1.0, 0.5, 1.0))),
    Role("ditch invert, outer", "bottom of the ditch, away from the road", _FINE),
    Role("lane edge", "outer edge of the lanes", ScreenStyle("#3f8996", 0.7), PaperStyle(0.13, "grey")),
    Role(PAVEMENT_EDGE, "outer edge of what is paved", ScreenStyle("#0e5a68", 1.0, fill="#0e5a6840"), PaperStyle(0.25), outline=True,
    rank=1),
    Role(CENTRE, "the line of the road", rank=0),
    Role("channel line", "where the water runs beside a kerb", ScreenStyle("#3f8996", 0.9), PaperStyle(0.18)),
    Role("channel invert", "bottom of a dished channel", _FINE, PaperStyle(0.13, "spot", (4.0, 1.0, 0.5, 1.0))),
    Role("channel edge", "outer edge of a channel", _FINE, PaperStyle(0.13, "grey")),
    Role("kerb top", "front upper edge of a kerb", ScreenStyle("#0e5a68", 0.9), PaperStyle(0.18)),
    Role("kerb back", "back of a kerb", _FINE, PaperStyle(0.13)),
    Role("footway back", "back of a footway", _FINE, PaperStyle(0.13, "grey")),
    Role("cycle track back", "back of a cycle track", _FINE, PaperStyle(0.13, "grey")),
    Role("reserve edge", "edge of the central reserve", _FINE, PaperStyle(0.13, "grey")),
    Role("ditch top", "outer rim of a ditch or a hollow", _FINE, PaperStyle(0.13, "grey")),
    Role("bench, inner", "inner edge of the first bench of a slope", _FINE, PaperStyle(0.13, "grey")),
    Role("bench, outer", "outer edge of the first bench of a slope", _FINE, PaperStyle(0.13, "grey")),
    Role("rock line", "where a cut leaves the rock", _FINE, PaperStyle(0.13, "grey")),
    Role("ledge", "outer edge of the ledge over the rock", _FINE, PaperStyle(0.13, "grey")),
    Role("wall top", "top of a wall", ScreenStyle("#1d2a33", 1.0), PaperStyle(0.25)),
    Role("wall foot", "where a wall stands at its front", _FINE, PaperStyle(0.13)),
    Role("barrier", "face of a safety barrier", ScreenStyle("#5e6b73", 0.9, (2, 2)), PaperStyle(0.18, dash=(1.5, 1.0))),
    Role("parapet", "top of a parapet", ScreenStyle("#5e6b73", 0.9, (2, 2)), PaperStyle(0.18, dash=(1.5, 1.0))),
    Role("existing surface", "the road as it is, under new layers", below=True),
    Role("pipe", "a pipe under the section", below=True),
    Role("formation centre", "middle of the formation", below=True),
    Role("formation edge", "outer edge of the formation", below=True),
)  # fmt: skip

_BY_NAME = {r.name: r for r in ROLES}


def role_named(name: str) -> Role:
    """The role of that name; one that a person has made up is drawn finely, from near."""
    return _BY_NAME.get(name) or Role(name, "", _FINE)


def roles_told() -> list[dict[str, Any]]:
    """All roles in the order in which they are drawn, as plain values for the page."""
    return [asdict(r) for r in ROLES]
