"""A block: sections of a road that one template makes, solved all at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import VerticalAlignment
from ..arrays import frozen_fields
from ..section.along import Alongs, alongs_of_side, has_alongs
from ..section.columns import SideColumns
from ..section.reach import FARTHEST, reach_of
from ..section.roles import Zone
from ..section.solve import solve_side
from ..section.template import PlacedPart, Template
from ..terrain.section_cut import GroundSections, cut_lines
from ..terrain.surface import Surface
from .blend import values_at
from .carried_plane import Following, followed
from .led import Led, leads_at
from .places import SectionPlaces, places_at
from .turning import Crossfall, has_own_axis, lane_of, lane_width, turned_falls
from .varied import SIDES, Piece, Side

Floats = NDArray[np.float64]
Overrides = Mapping[str, Mapping[str, Any]]

__all__ = [
    "Block",
    "are_alike",
    "block_alongs",
    "changes_along",
    "cut_ground",
    "search_reach",
    "side_ground",
    "solve_block",
    "solve_blocks",
]

_BESIDE = 10.0  # m of ground beyond what the parts need, to be seen
_LEAST_REACH = 20.0  # m


@dataclass(frozen=True, slots=True, weakref_slot=True, eq=False)
class Block:
    """The sections of one template.

    template : Template
    places : where the sections stand
    level : (n,) float, m        of the centre: the profile's, and what turning about an edge adds
    grade : (n,) float, m/m
    ground : GroundSections      offsets from -reach to +reach, + right
    left, right : SideColumns    ``across`` grows outward on either side
    bare : bool                  nothing is cut or filled
    given_up                     sides and zones that junctions take over here: solved, but neither built nor counted
    """

    template: Template
    places: SectionPlaces
    level: Floats
    grade: Floats
    ground: GroundSections
    left: SideColumns
    right: SideColumns
    bare: bool = False
    given_up: frozenset[tuple[Side, Zone]] = frozenset()

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
            self.left.take(index), self.right.take(index), self.bare, self.given_up,
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
    along: Alongs | None = None,
    follow: Sequence[Following] = (),
    **around: Any,
) -> Block:
    """Solve a template, or a piece of a road with what varies along it, at stations (n,) m along the road; see ``solve_blocks``."""
    piece = template if isinstance(template, Piece) else Piece(template)
    return solve_blocks(line, profile, [piece], surface, [station], alongs=[along], follow=[follow], **around)[0]


def solve_blocks(
    line: HorizontalAlignment,
    profile: VerticalAlignment | Sequence[VerticalAlignment],
    pieces: Sequence[Piece],
    surface: Surface,
    stations: Sequence[Any],
    *,
    alongs: Sequence[Alongs | None] = (),
    follow: Sequence[Sequence[Following]] = (),
    crossfall: Crossfall | None = None,
    cut: tuple[GroundSections, Any] | None = None,
    beside: Mapping[str, Surface] | None = None,
    led: Sequence[Led] = (),
) -> tuple[Block, ...]:
    """Solve pieces of a road that ``are_alike``, each at its own stations (n,) m along the road, in one go.

    ``profile`` is one for all, or one a piece. What is given by piece: ``alongs`` is what changes where the case of a part does, as
    ``block_alongs`` finds it; ``follow`` where the lanes take another road's plane. What is given for all: ``crossfall`` turns the
    parts whose parameters say ``turns``; without one the template's own values stay. ``cut`` is what ``cut_ground`` gives at all
    stations in a row, and over which reach, if it is known already. Where a part turns out to look farther (two slopes may cross
    anywhere) those sections are cut again, as far as they look. ``beside``: other surfaces, by the names that the template's targets
    are bound to. ``led``: nodes that lines lead, over their ranges.

    Raises
    ------
    InputError    the surface is empty, or a rule of the template cannot be used
    """
    follow = follow or [()] * len(pieces)
    assert all(are_alike(pieces[0], follow[0], p, f) for p, f in zip(pieces, follow, strict=True))
    template, bare = pieces[0].template, pieces[0].bare
    parts = {"left": template.left, "right": template.right}
    own = [np.atleast_1d(np.asarray(s, float)) for s in stations]
    ends = np.cumsum([0, *map(len, own)])
    at = [slice(a, b) for a, b in pairwise(ends)]
    places = places_at(line, np.concatenate(own))
    n = len(places.station)
    profiles = [profile] * len(pieces) if isinstance(profile, VerticalAlignment) else profile
    level, grade = np.concatenate([p.evaluate(s) for p, s in zip(profiles, own, strict=True)], axis=1)
    given = {
        side: _in_a_row(parts[side], at, [values_at(p.values()[side], s) for p, s in zip(pieces, own, strict=True)])
        for side in SIDES
    }
    level, rates = _unfollowed(level, crossfall, template, places.station, given)
    for first, index in _same_follow(pieces, profiles, follow, at):
        level[index], (rates[0][index], rates[1][index]) = _followed(
            line, profiles[first], crossfall, pieces[first], places.station[index], follow[first]
        )
    turned: dict[Side, Overrides] = {**given}
    if crossfall is not None or follow[0]:
        turned = {
            side: _both(given[side], turned_falls(parts[side], rate, given[side]))
            for side, rate in zip(SIDES, rates, strict=True)
        }
    if any(along is not None for along in alongs):
        for side in SIDES:
            changed = [
                along.overrides(side, s, parts[side], values_at(p.values()[side], s)) if along is not None else {}
                for along, p, s in zip(alongs, pieces, own, strict=True)
            ]
            turned[side] = _both(turned[side], _in_a_row(parts[side], at, changed, turned[side]))
    if cut is None:
        reach = search_reach(template, n, left=turned["left"], right=turned["right"])
        ground = cut_ground(surface, places, reach)
    else:
        ground, reach = cut[0], np.array(np.broadcast_to(cut[1], (n,)), float)
    others = {name: cut_ground(s, places, reach) for name, s in (beside or {}).items()}
    leads = {side: leads_at(line, places.station, led, side, sign) for side, sign in zip(SIDES, (-1.0, 1.0), strict=True)}
    while True:
        sides: list[SideColumns] = []
        for side, sign in zip(SIDES, (-1.0, 1.0), strict=True):
            bound = {name: side_ground(g, sign) for name, g in others.items()}
            own_ground = side_ground(ground, sign)
            sides.append(solve_side(parts[side], level, own_ground, overrides=turned[side], surfaces=bound, led=leads[side]))
        left, right = sides
        wanted = np.minimum(np.fmax(left.farthest(), right.farthest()), FARTHEST)
        short = np.flatnonzero(wanted > reach)
        if not len(short):
            break
        reach[short] = np.minimum(wanted[short] + _BESIDE, FARTHEST)
        kept = ground.take(np.delete(np.arange(n), short))
        ground = kept.insert(short, cut_ground(surface, places.take(short), reach[short]))
        others = {name: cut_ground(s, places, reach) for name, s in (beside or {}).items()}
    whole = Block(template, places, level, grade, ground, left, right, bare)
    return (whole,) if len(pieces) == 1 else tuple(whole.take(np.arange(a, b)) for a, b in pairwise(ends))


def are_alike(one: Piece, follows: Any, other: Piece, follows_too: Any) -> bool:
    """Whether two pieces can be solved in one go: one template, and lanes turned by something in both or in neither."""
    return one.template is other.template and one.bare == other.bare and bool(follows) == bool(follows_too)


def _same_follow(
    pieces: Sequence[Piece], profiles: Sequence[VerticalAlignment], follow: Sequence[Any], at: Sequence[slice]
) -> list[tuple[int, NDArray[np.int64]]]:
    """Pieces that follow, those together whose plane is read the same way: the first of them, and all their sections."""
    same: dict[Any, list[int]] = {}
    for k, (piece, profile, rows) in enumerate(zip(pieces, profiles, follow, strict=True)):
        if rows:
            same.setdefault((id(rows), id(profile), id(piece.left), id(piece.right)), []).append(k)
    return [(ks[0], np.concatenate([np.arange(at[k].start, at[k].stop) for k in ks])) for ks in same.values()]


def _in_a_row(
    parts: Sequence[PlacedPart], at: Sequence[slice], rows: Sequence[Overrides], usual: Overrides | None = None
) -> dict[str, dict[str, Any]]:
    """Values that vary in some of the pieces, over the stations of all: elsewhere what ``usual`` says, else the part's own."""
    by = {p.id: p for p in parts}
    out: dict[str, dict[str, Any]] = {}
    for here, values in zip(at, rows, strict=True):
        for part, named in values.items():
            for name, value in named.items():
                own = out.setdefault(part, {})
                if name not in own and part in by:
                    before = (usual or {}).get(part, {}).get(name, by[part].value(name))
                    own[name] = np.array(np.broadcast_to(np.asarray(before, float), (at[-1].stop,)))
                if name in own:
                    own[name][here] = value
    return out


def _unfollowed(
    level: Floats, crossfall: Crossfall | None, template: Template, at: Floats, given: Mapping[Side, Overrides]
) -> tuple[Floats, tuple[Floats, Floats]]:
    """Level of the centre and crossfall of both halves at stations (n,) m, as the road's own crossfall and template have them.
    ``level``: of its profile there; ``given``: the values that vary, there."""
    both = (("left", template.left), ("right", template.right))
    if crossfall is None:
        left, right = (np.full(at.shape, -lane_of(parts)[1]) for _, parts in both)
        return level, (left, right)
    if any(has_own_axis(parts) for _, parts in both):  # each half turns about its own axis, and the reserve stays
        return level, crossfall.diagram.rates(at)
    left, right = (lane_width(parts, given[side]) for side, parts in both)  # type: ignore[index]
    return level + crossfall.rise_of_centre(at, (left, right)), crossfall.diagram.rates(at)


def _followed(
    line: HorizontalAlignment,
    profile: VerticalAlignment,
    crossfall: Crossfall | None,
    piece: Piece,
    station: Floats,
    rows: Sequence[Following],
) -> tuple[Floats, tuple[Floats, Floats]]:
    """As ``_unfollowed``, of a piece that takes another road's plane."""

    def given(at: Floats) -> dict[Side, Overrides]:
        return {"left": values_at(piece.left, at), "right": values_at(piece.right, at)}

    def own(at: Floats) -> tuple[Floats, tuple[Floats, Floats]]:
        return _unfollowed(profile.evaluate(at)[0], crossfall, piece.template, at, given(at))

    def widths(at: Floats) -> tuple[Any, Any]:
        varied = given(at)
        return lane_width(piece.template.left, varied["left"]), lane_width(piece.template.right, varied["right"])

    return followed(line, station, own, widths, rows)


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
