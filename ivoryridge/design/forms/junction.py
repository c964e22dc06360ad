"""What is told of junctions."""

from __future__ import annotations

from typing import Literal, NotRequired

from typing_extensions import TypedDict

from .common import Finding

__all__ = [
    "ArmPatch",
    "ArmSightRow",
    "CornerEnd",
    "CornerRow",
    "CornerShape",
    "JunctionLayer",
    "JunctionRow",
    "JunctionSight",
    "Junctions",
    "LookRow",
    "MeetingOffer",
    "PatchContour",
]

Plan = tuple[float, float]
Arm = Literal["before", "after"]
Hand = Literal["left", "right"]


class CornerShape(TypedDict):
    form: Literal["radius", "taper", "three centres", "none"]
    radius: float
    taper: float
    taper_length: float
    outer_radius: float
    shift: float


class CornerEnd(TypedDict):
    """An end of a return: station on its road, place, level of the return and of the road's edge (m), grades (ratios)."""

    station: float
    place: Plan
    level: float
    edge_level: float
    grade: float
    edge_grade: float


class CornerRow(TypedDict):
    """A return. ``levels``: how they come about; ``points``: E, N along it; ``handle``: the middle of its arc."""

    road_id: int
    name: str
    arm: Arm
    hand: Hand
    compass: str
    shape: CornerShape
    levels: NotRequired[Literal["straight", "single", "reverse", "pinned"]]
    length: NotRequired[float]
    start: NotRequired[CornerEnd]
    end: NotRequired[CornerEnd]
    points: NotRequired[list[Plan]]
    handle: NotRequired[Plan]
    centre: NotRequired[Plan]
    problem: NotRequired[str]


class PatchContour(TypedDict):
    level: float
    points: list[Plan]


class ArmPatch(TypedDict):
    """The area of an arm: its ring (E, N), area m2, contours of its surface as rows of E, N with their level."""

    arm: Arm
    ring: list[Plan]
    area: float
    contours: list[PatchContour]


class JunctionLayer(TypedDict):
    """A layer of a junction's pavement: thickness m, volume m3 below its areas."""

    material: str
    thickness: float
    volume: float


class JunctionRow(TypedDict):
    """``structure``: "main", "side" or the id of a pavement structure as text; ``layers``: of it, from the top;
    ``edge_fall``: of an existing main road towards its edge (ratio) as given, ``edge_fall_read`` as it is or as the ground says."""

    id: int
    revision: int
    name: str
    main: int
    side: int
    run_out: float
    structure: str
    edge_fall: float | None
    edge_fall_read: float | None
    layers: list[JunctionLayer]
    place: Plan
    main_station: NotRequired[float]
    side_station: NotRequired[float]
    angle_deg: NotRequired[float]
    corners: list[CornerRow]
    patches: list[ArmPatch]
    problems: list[str]
    findings: list[Finding]


class MeetingOffer(TypedDict):
    """Roads that meet without a junction."""

    main: int
    side: int
    place: Plan
    main_station: float
    side_station: float
    angle_deg: float
    crosses: bool


class Junctions(TypedDict):
    junctions: list[JunctionRow]
    offers: list[MeetingOffer]


class LookRow(TypedDict):
    """To one hand: how far all is seen, is asked for, and is known of the edge, m; what hides the first place that is not seen."""

    seen: float
    needed: float
    reach: float
    known_to_the_end: bool
    enough: bool
    place: Plan | None
    amount: float
    by: str
    edge: list[Plan]


class ArmSightRow(TypedDict):
    arm: Arm
    eye: Plan
    left: LookRow
    right: LookRow


class JunctionSight(TypedDict):
    arms: list[ArmSightRow]
    findings: list[Finding]
    problem: str
