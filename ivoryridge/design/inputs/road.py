"""A road's rows as core records, with the roads it hangs on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ivoryridge.core.alignment.horizontal import PI
from ivoryridge.core.alignment.stationing import counted_at
from ivoryridge.core.corridor.varied import Side
from ivoryridge.core.errors import InputError
from ivoryridge.core.junction.corner import CornerShape
from ivoryridge.core.junction.meeting import Arm
from ivoryridge.core.section.structure import Structure
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.units import format_station
from ivoryridge.core.wording import spoken

from ..kept.kinds import fields_hash
from ..models import RoadPVI
from .anchors import AnchoredPVI, HeldEnd
from .surface import SourceRow, SurfaceRecipe

__all__ = [
    "ArmOf", "Joined", "JunctionInputs", "Parallel", "ReturnOf", "RoadInputs", "Tie", "VariedRow", "chainage_words", "held_end",
    "pvi_from_row",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Parallel:
    """A line parallel to another road's: ``offset`` m, + right of it; ``against``: it runs the other way."""

    road: RoadInputs
    offset: float
    against: bool = False


@dataclass(frozen=True, slots=True)
class Tie:
    """An end that lies on another road's line at a station (m) there, and what its level follows: "", "centre" or "edge"."""

    road: RoadInputs
    station: float
    level: str = ""


@dataclass(frozen=True, slots=True)
class ArmOf:
    """A side road runs into a main one at a junction, near a place (E, N) m; its halves turn over ``run_out`` m from the main road's
    plane to their own fall. ``edge_fall``: ratio, of an existing road towards its edge; None: as the ground says."""

    main: RoadInputs
    place: tuple[float, float]
    run_out: float
    edge_fall: float | None = None


@dataclass(frozen=True, slots=True)
class ReturnOf:
    """A line that is a corner of a junction: of one arm of the side road, left or right as one looks along it away from the main road."""

    main: RoadInputs
    side: RoadInputs
    place: tuple[float, float]
    arm: Arm
    hand: Side
    shape: CornerShape


@dataclass(frozen=True, slots=True)
class VariedRow:
    """Something that varies along a road over a range; see ``models.Variation``. ``placed``: the part that a change puts there."""

    id: int
    revision: int
    kind: str
    side: str
    start: HeldEnd
    end: HeldEnd
    data: Mapping[str, Any]
    template: Template | None = None
    template_id: int | None = None
    placed: PlacedPart | None = None


@dataclass(frozen=True, slots=True)
class JunctionInputs:
    """A junction as its row says; ``returns``: road -> (arm, hand, shape) of each corner; ``structure``: what its pavement is built of,
    as on the "main" or "side" road, or the id of ``own_structure`` as text."""

    name: str
    main: int
    side: int
    place: tuple[float, float]
    run_out: float
    revision: int
    returns: Mapping[int, tuple[Arm, Side, CornerShape]]
    structure: str = "main"
    own_structure: Structure | None = None
    edge_fall: float | None = None


@dataclass(frozen=True)
class RoadInputs:
    """All that a road's results depend on. ``pi_rows`` are (id, revision) of the PIs; None for one not yet saved.

    ``broken``: why what it hangs on cannot be had; its line raises it. Frozen, so that what follows from it is found once and
    kept with it (``once``).
    """

    road_id: int
    name: str
    start_station: float
    interval: float
    pis: tuple[PI, ...]
    pi_rows: tuple[tuple[int | None, int], ...]
    pvis: tuple[AnchoredPVI, ...]
    template: Template | None
    surface: SurfaceRecipe | None
    design_speed: float
    greatest_grade: float
    least_k: float
    standard: str = ""
    speeds: tuple[tuple[float, float], ...] = ()
    departures: Mapping[str, Any] = field(default_factory=dict)
    guides: tuple[Mapping[str, Any], ...] = ()
    crossfall: Mapping[str, Any] = field(default_factory=dict)
    held_pis: frozenset[int] = frozenset()  # ids
    held_straights: frozenset[int] = frozenset()  # ids of the PIs they begin at
    elements: tuple[tuple[float, ...], ...] = ()
    parallel: Parallel | None = None
    ties: Mapping[str, Tie] = field(default_factory=dict)
    return_of: ReturnOf | None = None
    existing: tuple[tuple[float, float], ...] = ()  # the edge of a road that is there and is not rebuilt, E, N in order
    arms: tuple[ArmOf, ...] = ()  # the junctions at which it is the side road
    junctions: tuple[Joined, ...] = ()  # that take over parts of it, with their roads as they are without that
    broken: InputError | None = None
    template_fault: InputError | None = None  # why its template cannot be used; it has none then
    varied: tuple[VariedRow, ...] = ()
    followed: Mapping[int, RoadInputs] = field(default_factory=dict)  # roads whose plane it takes over ranges
    received: Mapping[int, SourceRow] = field(default_factory=dict)  # surveys whose lines lead nodes, or bound the land
    led_on: Mapping[int, SurfaceRecipe] = field(default_factory=dict)  # surfaces that lead nodes in level
    land: Mapping[str, Any] = field(default_factory=dict)
    beside: Mapping[str, SurfaceRecipe] = field(default_factory=dict)  # surfaces that targets of its templates are bound to
    mirrored: bool = False  # reversed since it was drawn
    sight_clearance: float | None = None
    fineness: float | None = None
    traffic_side: str = "left"
    equations: tuple[tuple[float, float], ...] = ()
    fixed_points: tuple[Mapping[str, Any], ...] = ()

    @property
    def has_line(self) -> bool:
        return len(self.pis) >= 2 or bool(self.elements) or self.is_derived or bool(self.existing) or self.broken is not None

    @property
    def is_derived(self) -> bool:
        """Its line follows from other roads'."""
        return self.parallel is not None or self.return_of is not None

    @property
    def has_profile(self) -> bool:
        """It has PVIs of its own, or levels that follow from those of two roads."""
        return len(self.pvis) >= 2 or self.levels_follow

    @property
    def levels_follow(self) -> bool:
        """A return that nobody has pinned, or an existing edge, whose levels are the ground's."""
        return (self.return_of is not None or bool(self.existing)) and not self.pvis

    @property
    def has_own_pis(self) -> bool:
        """Its line is laid out by PIs."""
        return not (self.elements or self.existing or self.is_derived)

    @property
    def has_template(self) -> bool:
        """It has one of its own, or as a return what stands outside of the edges of both roads."""
        return self.first_template is not None or self.return_of is not None

    @property
    def first_template(self) -> Template | None:
        """Its own template, else that of its first stretch."""
        return self.template or next((r.template for r in self.varied if r.template is not None), None)

    def content_key(self) -> str:
        return str(self.once("_content", lambda: fields_hash(self)))

    def once(self, what: str, find: Callable[[], Any]) -> Any:
        """What follows from these inputs, found once and kept with them."""
        kept = self.__dict__
        if what not in kept:
            kept[what] = find()
        return kept[what]


@dataclass(frozen=True, slots=True)
class Joined:
    """A junction with its roads; ``returns``: (arm, hand) -> the return."""

    id: int
    row: JunctionInputs
    main: RoadInputs
    side: RoadInputs
    returns: Mapping[tuple[Arm, Side], RoadInputs]


def chainage_words(inputs: RoadInputs, group: int, decimals: int = 3) -> Callable[[float], str]:
    """How stations of a road are read, in the spoken units, with its chainage equations."""
    metre = spoken().metre
    return lambda s: format_station(float(counted_at(s, inputs.equations)[0]) / metre, group=group, decimals=decimals)


def pvi_from_row(r: RoadPVI, pi_index: Mapping[int, int]) -> AnchoredPVI:
    return AnchoredPVI(
        id=r.pk, revision=r.revision, anchor=r.anchor, elevation=r.elevation, half_in=r.half_in, half_out=r.half_out,
        station=r.station, easting=r.easting, northing=r.northing, ahead=r.ahead, pi_id=r.anchor_pi_id,
        pi=pi_index.get(r.anchor_pi_id) if r.anchor_pi_id else None, tangent_point=r.tangent_point, circular=r.circular,
    )  # fmt: skip


def held_end(held: Mapping[str, Any], pi_index: Mapping[int, int], row: int | None) -> HeldEnd:
    pi_id = held.get("pi_id")
    return HeldEnd(
        anchor=held["anchor"], station=held.get("station"), easting=held.get("easting"), northing=held.get("northing"), pi_id=pi_id,
        pi=pi_index.get(pi_id) if pi_id else None, tangent_point=held.get("tangent_point", ""), ahead=held.get("ahead", 0.0), row=row,
    )  # fmt: skip
