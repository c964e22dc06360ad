"""A road's views: line, levels, crossfall, edges, section, earthwork; and what stands beside them."""

from __future__ import annotations

from typing import Literal, NotRequired

from typing_extensions import TypedDict

from .along import AlongRow, BuiltPart, Quantity
from .common import DesignFinding, Finding, Problem

Pair = tuple[float, float]


class PIRow(TypedDict):
    id: int | None
    revision: int
    easting: float
    northing: float
    radius: float
    spiral_in: float
    spiral_out: float
    stations: Pair | None
    turn: int
    held: bool
    straight_held: bool


class LineElement(TypedDict):
    kind: Literal["Line", "Curve", "Spiral"]
    start: float
    end: float
    length: float
    radius_start: float | None
    radius_end: float | None
    azimuth_deg: float
    easting: float
    northing: float
    pi: int
    parameter: float | None


class Line(TypedDict):
    """points: station, easting, northing, azimuth, curvature"""

    start: float
    end: float
    elements: list[LineElement]
    points: list[tuple[float, float, float, float, float]]


class PVIRow(TypedDict):
    id: int
    revision: int
    anchor: Literal["station", "place", "tangent", "start", "end"]
    tangent_point: str
    pi: int | None
    ahead: float
    station: float
    elevation: float
    half_in: float
    half_out: float
    circular: bool
    circle_differs: float
    length: float
    grade_in: float | None
    grade_out: float | None
    k: float | None
    kind: Literal["crest", "sag"]


class Levels(TypedDict):
    """points: station, level, grade; turning: station, level of tops and bottoms"""

    start: float
    end: float
    points: list[tuple[float, float, float]]
    turning: list[Pair]


class EdgeLine(TypedDict):
    """A piece of an edge; cm: east and north of the origin, in whole centimetres, one after the other"""

    side: str
    role: str
    first: int
    cm: list[int]


class Edges(TypedDict):
    origin: Pair
    lines: list[EdgeLine]


class LayerVolume(TypedDict):
    material: str
    volume: float


class Earthwork(TypedDict):
    station: list[float]
    cut_area: list[float]
    fill_area: list[float]
    cumulative_cut: list[float]
    cumulative_fill: list[float]
    cut: float
    fill: float
    plain_cut: float
    plain_fill: float
    unknown: float
    layers: list[LayerVolume]


class SectionNode(TypedDict):
    name: str
    role: str
    guide: bool
    below: bool
    offset: float
    level: float


# the key "from" is no name in Python
SectionLink = TypedDict("SectionLink", {"from": int, "to": int, "width": float, "slope": float | None})


class SectionLayer(TypedDict):
    material: str
    points: list[Pair]


class LayerArea(TypedDict):
    material: str
    area: float


class SectionSide(TypedDict):
    side: Literal["left", "right"]
    nodes: list[SectionNode]
    links: list[SectionLink]
    formation: list[int]
    layers: list[SectionLayer]
    unmet: list[str]
    reach: float | None
    toe: float | None


class Section(TypedDict):
    station: float
    level: float
    grade: float
    easting: float
    northing: float
    azimuth: float
    curvature: float
    ground: list[tuple[float, float | None]]
    cut: float
    fill: float
    layers: list[LayerArea]
    sides: list[SectionSide]
    findings: list[Finding]


class Neighbour(TypedDict):
    """Another road where a section crosses its finished surface: offset, + right, and level."""

    road_id: int
    name: str
    points: list[tuple[float, float]]


class ReasonValue(TypedDict):
    """A parameter that a node's rule reads, and where its value comes from. ``row``: the adjustment that can be changed in its place."""

    name: str
    label: str
    kind: Literal["length", "height", "percent", "one_in", "degrees", "number", "choice"]
    value: float | str
    origin: Literal["turned", "adjusted", "blended", "template", "usual"]
    choices: list[str]
    row: int | None
    row_range: tuple[float, float] | None


class NodeReason(TypedDict):
    """Why a node of a section lies where it does. ``template_id``: the template that the part is of, if it is of one."""

    station: float
    side: Literal["left", "right"]
    node: str
    label: str
    part: str
    part_label: str
    case: str
    rule: str
    offset: float
    level: float
    led: bool
    template_id: int | None
    values: list[ReasonValue]


class GuideRow(TypedDict):
    """A line on the long section; ``line`` is station, level and grade as they were found."""

    id: str
    kind: Literal["grade", "points", "parallel"]
    station: NotRequired[float]
    level: NotRequired[float]
    grade: NotRequired[float]
    first: NotRequired[Pair]
    second: NotRequired[Pair]
    of: NotRequired[str]
    rise: NotRequired[float]
    within: NotRequired[Pair]
    hidden: NotRequired[bool]
    line: tuple[float, float, float]


class TurnedBend(TypedDict):
    """A bend with its full crossfall, and where its outer half is level and full; places are stations, rates ratios."""

    pi: int
    pi_id: int | None
    turn: int
    rate: float
    level_in: float
    full_in: float
    full_out: float
    level_out: float
    asked: float | None
    pinned: bool


class Crossfall(TypedDict):
    """Left and right crossfall, outward, + rises; linear between the stations."""

    off: bool
    axis: Literal["centre", "inner", "outer"]
    share: float | None
    station: list[float]
    left: list[float]
    right: list[float]
    normal: list[float]
    half_width: float
    bends: list[TurnedBend]


class Limits(TypedDict):
    design_speed: float
    greatest_grade: float
    least_k: float


class RoadLead(TypedDict):
    """What a trial says first: what the hand moves, if it can be computed."""

    pis: NotRequired[list[PIRow]]
    line: NotRequired[Line]
    levels: NotRequired[Levels]
    pvis: NotRequired[list[PVIRow]]


class RoadShape(TypedDict):
    """What a trial says next; what came before it and, where the line does not move, what hangs on that alone is left out."""

    key: str
    road_id: int
    pis: NotRequired[list[PIRow]]
    line: NotRequired[Line | None]
    ground: NotRequired[list[tuple[float, float | None]]]
    levels: NotRequired[Levels | None]
    pvis: NotRequired[list[PVIRow]]
    levels_follow: bool
    pvi_rows: list[tuple[int, int]]
    edges: Edges
    earthwork: Earthwork | None
    section: Section | None
    crossfall: Crossfall | None
    problems: dict[str, Problem]
    guides: list[GuideRow]
    crossings: list[tuple[str, str, float, float]]
    guides_problem: NotRequired[str]
    limits: Limits
    along: list[AlongRow]
    quantity: NotRequired[Quantity]


class RoadFindings(TypedDict):
    """How a road stands against the standard."""

    findings: list[DesignFinding | Finding]
    departures: list[DesignFinding]
    problems: dict[str, Problem]


class RoadDesign(TypedDict):
    """Everything the views of a road draw."""

    key: str
    road_id: int
    pis: list[PIRow]
    line: Line | None
    ground: list[tuple[float, float | None]]
    levels: Levels | None
    pvis: list[PVIRow]
    levels_follow: bool
    pvi_rows: list[tuple[int, int]]
    edges: Edges
    earthwork: Earthwork | None
    section: Section | None
    crossfall: Crossfall | None
    problems: dict[str, Problem]
    guides: list[GuideRow]
    crossings: list[tuple[str, str, float, float]]
    guides_problem: NotRequired[str]
    limits: Limits
    along: list[AlongRow]
    built: dict[str, list[BuiltPart]]
    findings: list[DesignFinding | Finding]
    departures: list[DesignFinding]


class LightRoad(TypedDict):
    """A road as it is drawn beside the active one; points: easting, northing, level (null where it has none)."""

    road_id: int
    name: str
    points: list[tuple[float, float, float | None]]
    problems: dict[str, str]


class VolumeRow(TypedDict):
    station: float
    cut_area: float
    fill_area: float
    cut: float
    fill: float
    cumulative_cut: float
    cumulative_fill: float
    balance: float
    unmet: bool


class CutFill(TypedDict):
    cut: float
    fill: float


VolumeWay = Literal["bends", "plain", "prismoidal"]


class VolumesPicture(TypedDict):
    rows: list[VolumeRow]
    totals: dict[str, CutFill]
    way: VolumeWay
    layers: NotRequired[list[LayerVolume]]


class LandPicture(TypedDict):
    """The land that a road takes with its margin: area, and closed lines round it and round what it leaves out."""

    area: float
    margin: float
    rings: list[list[tuple[float, float]]]


class SightLane(TypedDict):
    station: list[float]
    ahead: list[float | None]
    back: list[float | None]
    required: list[float]


class CandidateLine(TypedDict):
    """A profile of the line with its course, and cut and fill of the road with it."""

    id: str
    name: str
    used: bool
    points: list[Pair]
    cut: float | None
    fill: float | None
    problem: str | None


class GroundBeside(TypedDict):
    name: str
    points: list[tuple[float, float | None]]


class Crosses(TypedDict):
    """What crosses the line, with its level there."""

    kind: Literal["road", "line"]
    name: str
    station: float
    level: float | None


class BedRow(TypedDict):
    """A ditch's or channel's bed as far as it runs through: station and level of its hollows, and of the ends to which it falls."""

    side: Literal["left", "right", ""]
    role: str
    station_from: float
    station_to: float
    lows: list[Pair]
    outfalls: list[Pair]
    flattest: float
    flattest_at: float


class Beside(TypedDict):
    grounds: list[GroundBeside]
    crossings: list[Crosses]


SheetFrame = TypedDict("SheetFrame", {"number": int, "title": str, "from": float, "to": float, "corners": list[Pair]})


class SheetList(TypedDict):
    frames: list[SheetFrame]
    section_sheets: int
    left_out: list[str]


class ReportColumn(TypedDict):
    name: str
    kind: Literal["text", "station", "number"]
    unit: str
    decimals: int
    signed: bool


class ReportTable(TypedDict):
    """One table of a report."""

    title: str
    columns: list[ReportColumn]
    rows: list[list[str | float | None]]
    told: list[str]


class ReportLayout(TypedDict):
    """One way to show a report: numbers of columns and rows of one of its tables."""

    name: str
    table: int
    columns: list[int]
    rows: list[int]


class Report(TypedDict):
    tables: list[ReportTable]
    layouts: list[ReportLayout]
