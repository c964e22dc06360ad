"""A block: sections of a road that one template makes, solved all at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import VerticalAlignment
from ..arrays import frozen_fields
from ..section.along import Alongs, alongs_of_side, has_alongs
from ..section.reach import FARTHEST, reach_of
from ..section.solve import SideColumns, solve_side
from ..section.template import PlacedPart, Template
from ..terrain.section_cut import GroundSections, cut_lines
from ..terrain.surface import Surface
from .carried_plane import Following, followed
from .places import SectionPlaces, places_at
from .turning import Crossfall, lane_of, lane_width, turned_falls
from .varied import Piece, values_at

Floats = NDArray[np.float64]
Overrides = Mapping[str, Mapping[str, Any]]
Side = Literal["left", "right"]

__all__ = ["Block", "block_alongs", "changes_along", "cut_ground", "search_reach", "side_ground", "solve_block"]

_BESIDE = 10.0  # m of ground beyond what the parts need, to be seen
_LEAST_REACH = 20.0  # m


@dataclass(frozen=True, slots=True, eq=False)
class Block:
    """The sections of one template.

    template : Template
    places : where the sections stand
    level : (n,) float, m        of the centre: the profile's, and what turning about an edge adds
    grade : (n,) float, m/m
    ground : GroundSections      offsets from -reach to +reach, + right
    left, right : SideColumns    ``across`` grows outward on either side
    bare : bool                  nothing is cut or filled
    """

    template: Template
    places: SectionPlaces
    level: Floats
    grade: Floats
    ground: GroundSections
    left: SideColumns
    right: SideColumns
    bare: bool = False

    def __post_init__(self) -> None:
        frozen_fields(self, ("level", "grade"))

    @property
    def station(self) -> Floats:
        return self.places.station

    def sides(self) -> tuple[tuple[Side, float, SideColumns, tuple[PlacedPart, ...]], ...]:
        """Name, sign of the offset, columns and parts of either side."""
        return (("left", -1.0, self.left, self.template.left), ("right", 1.0, self.right, self.template.right))

    def take(self, index: Any) -> Block:
        """Some of these sections."""
        index = np.asarray(index)
        return Block(
            self.template, self.places.take(index), self.level[index], self.grade[index], self.ground.take(index),
            self.left.take(index), self.right.take(index), self.bare,
        )  # fmt: skip


def changes_along(template: Template) -> bool:
    return has_alongs(template.left) or has_alongs(template.right)


def search_reach(template: Template, n: int = 1, *, left: Overrides | None = None, right: Overrides | None = None) -> Floats:
    """(n,) m to either side of the line over which the ground is needed at n sections: what the parts can reach, and 10 m more."""
    needed = np.fmax(reach_of(template.left, n, left), reach_of(template.right, n, right))
    return np.clip(needed + _BESIDE, _LEAST_REACH, FARTHEST)


def cut_ground(surface: Surface, places: SectionPlaces, reach: Any) -> GroundSections:
    """Ground square to the line from -reach to +reach m, one for all sections or (n,); offset + right."""
    out = np.broadcast_to(np.asarray(reach, float), (len(places.station),))[:, None]
    right = np.stack([np.cos(places.azimuth), -np.sin(places.azimuth)], axis=-1)
    cut = cut_lines(surface, places.place - out * right, places.place + out * right)
    return GroundSections(cut.offset - out, cut.elevation)


def side_ground(ground: GroundSections, sign: float) -> tuple[Floats, Floats]:
    """Ground of one side as across (n, k), increasing outward, and level."""
    if sign > 0:
        return np.ascontiguousarray(ground.offset), np.ascontiguousarray(ground.elevation)
    return np.ascontiguousarray(-ground.offset[:, ::-1]), np.ascontiguousarray(ground.elevation[:, ::-1])


def solve_block(
    line: HorizontalAlignment,
    profile: VerticalAlignment,
    template: Template | Piece,
    surface: Surface,
    station: Any,
    *,
    crossfall: Crossfall | None = None,
    cut: tuple[GroundSections, Any] | None = None,
    beside: Mapping[str, Surface] | None = None,
    along: Alongs | None = None,
    follow: Sequence[Following] = (),
) -> Block:
    """Solve a template, or a piece of a road with what varies along it, at stations (n,) m along the road.

    ``crossfall`` turns the parts whose parameters say ``turns``; without one the template's own values stay. ``cut`` is what
    ``cut_ground`` gives at these stations, and over which reach, if it is known already. Where a part turns out to look farther
    (two slopes may cross anywhere) those sections are cut again, as far as they look. ``beside``: other surfaces, by the names that the
    template's targets are bound to. ``along``: what changes where the case of a part does, as ``block_alongs`` finds it.
    ``follow``: where the lanes take another road's plane.

    Raises
    ------
    InputError    the surface is empty, or a rule of the template cannot be used
    """
    piece = template if isinstance(template, Piece) else Piece(template)
    template = piece.template
    places = places_at(line, station)
    n = len(places.station)
    grade = profile.evaluate(places.station)[1]
    both = (("left", template.left), ("right", template.right))
    given = [values_at(lines, places.station) for lines in (piece.left, piece.right)]

    def widths(at: Floats) -> tuple[Any, Any]:
        """Of the lanes left and right at stations, m."""
        return lane_width(template.left, values_at(piece.left, at)), lane_width(template.right, values_at(piece.right, at))

    def own(at: Floats) -> tuple[Floats, tuple[Floats, Floats]]:
        """Level of the centre and crossfall of both halves, as the road's own profile, crossfall and template have them."""
        level, _ = profile.evaluate(at)
        if crossfall is None:
            left, right = (np.full(at.shape, -lane_of(parts)[1]) for _, parts in both)
            return level, (left, right)
        return level + crossfall.rise_of_centre(at, widths(at)), crossfall.diagram.rates(at)

    level, rates = followed(line, places.station, own, widths, follow) if follow else own(places.station)
    turned: list[Overrides] = [*given]
    if crossfall is not None or follow:
        turned = [_both(given[i], turned_falls(parts, rates[i], given[i])) for i, (_, parts) in enumerate(both)]
    if along is not None:
        turned = [
            _both(turned[i], along.overrides(side, places.station, parts, given[i])) for i, (side, parts) in enumerate(both)
        ]
    if cut is None:
        reach = search_reach(template, n, left=turned[0], right=turned[1])
        ground = cut_ground(surface, places, reach)
    else:
        ground, reach = cut[0], np.array(np.broadcast_to(cut[1], (n,)), float)
    others = {name: cut_ground(s, places, reach) for name, s in (beside or {}).items()}
    while True:
        sides = []
        for sign, parts, falls in ((-1.0, template.left, turned[0]), (1.0, template.right, turned[1])):
            bound = {name: side_ground(g, sign) for name, g in others.items()}
            sides.append(solve_side(parts, level, side_ground(ground, sign), overrides=falls, surfaces=bound))
        left, right = sides
        wanted = np.minimum(np.fmax(left.farthest(), right.farthest()), FARTHEST)
        short = np.flatnonzero(wanted > reach)
        if not len(short):
            return Block(template, places, level, grade, ground, left, right, piece.bare)
        reach[short] = np.minimum(wanted[short] + _BESIDE, FARTHEST)
        kept = ground.take(np.delete(np.arange(n), short))
        ground = kept.insert(short, cut_ground(surface, places.take(short), reach[short]))
        others = {name: cut_ground(s, places, reach) for name, s in (beside or {}).items()}


def _both(one: Overrides, more: Overrides) -> Overrides:
    return {part: {**one.get(part, {}), **more.get(part, {})} for part in {**one, **more}}


def block_alongs(*blocks: Block) -> Alongs:
    """What changes along blocks of one template that follow on each other and were solved without it, from the cases of their own
    sections."""
    station = np.concatenate([b.station for b in blocks])
    template = blocks[0].template
    sides = []
    for side in ("left", "right"):
        columns = [getattr(b, side) for b in blocks]
        cases = {
            part: (np.concatenate([c.case_of[part][0] for c in columns]), names)
            for part, (_, names) in columns[0].case_of.items()
        }
        sides.append(alongs_of_side(getattr(template, side), cases, station))
    return Alongs(*sides)
