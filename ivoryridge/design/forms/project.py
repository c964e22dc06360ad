"""A project: settings, roads, surfaces, templates, sheet sets, files, and the head of its ledger."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from .common import RoleName
from .junction import CornerShape
from .sections import OwnPart, StructureTold

GroundRole = Literal["spot", "breakline", "outer", "hole", "background", "ignore", "unsorted"]
Place = tuple[float, float, float]
Plan = tuple[float, float]


class Parameter(TypedDict):
    name: str
    label: str
    kind: Literal["length", "height", "percent", "one_in", "degrees", "number", "choice", "structure"]
    value: float | str
    usual: float | str
    least: float
    greatest: float
    choices: list[str]
    remark: str


class PartTarget(TypedDict):
    """What a part's slopes may look for, and what that is here: a surface's id, a level in m, or nothing yet."""

    name: str
    label: str
    kind: Literal["surface", "level", "line"]
    surface: int | None
    level: float | None


class PlacedPart(TypedDict):
    """``part``: the name of one of the library, or the id of one of the project's."""

    id: str
    part: str | int
    label: str
    remark: str
    parameters: list[Parameter]
    targets: list[PartTarget]


class Template(TypedDict):
    id: int
    name: str
    revision: int
    left: list[PlacedPart]
    right: list[PlacedPart]


class SurveyLayer(TypedDict):
    type: str
    code: str
    key: str
    count: int
    vertices: int
    levels: tuple[float, float] | None
    role: GroundRole
    ruled: bool


class SurveySource(TypedDict):
    id: int
    name: str
    file_id: int
    revision: int
    layers: list[SurveyLayer]
    points: int
    breaklines: int
    faces: int
    extent: tuple[float, float, float, float]
    levels: tuple[float, float]
    codes: list[tuple[str, int]]


class EditRow(TypedDict):
    do: str
    survey: NotRequired[int]
    point: NotRequired[int]
    points: NotRequired[list[int]]
    line: NotRequired[int]
    vertex: NotRequired[int]
    level: NotRequired[float]
    spacing: NotRequired[float | None]
    to: NotRequired[Place]
    vertices: NotRequired[list[Place]]
    at: NotRequired[Plan]


class SurfaceRow(TypedDict):
    id: int
    name: str
    revision: int
    greatest_edge: float | None
    live_spacing: float | None
    weed_plan: float | None
    weed_level: float | None
    fill_area: float | None
    key: str
    sources: list[SurveySource]
    edits: list[EditRow]
    answers: dict[str, Any]
    label_paths: list[list[Plan]]


class FixedPoint(TypedDict):
    station: float
    level: float
    kind: Literal["exact", "above", "below"]
    name: str


class ByPIs(TypedDict):
    """A line laid out by its PIs."""

    kind: NotRequired[None]


class ByElements(TypedDict):
    kind: Literal["elements"]


class ByOffset(TypedDict):
    """A line parallel to another road's."""

    kind: Literal["offset"]
    road: int
    offset: float
    against: NotRequired[bool]


class ByReturn(TypedDict):
    """A corner of a junction."""

    kind: Literal["return"]
    junction: int
    arm: Literal["before", "after"]
    hand: Literal["left", "right"]
    shape: CornerShape


class ByExisting(TypedDict):
    """The edge of a road that is there and is not rebuilt."""

    kind: Literal["existing"]


class TieRow(TypedDict):
    road: int
    station: float
    level: NotRequired[str]


class Ties(TypedDict):
    start: NotRequired[TieRow]
    end: NotRequired[TieRow]


class CandidateName(TypedDict):
    id: str
    name: str


class RoadRow(TypedDict):
    id: int
    name: str
    revision: int
    interval: float
    fineness: float | None
    start_station: float
    template_id: int | None
    surface_id: int | None
    speeds: list[tuple[float, float]]
    course: ByElements | ByExisting | ByOffset | ByPIs | ByReturn
    ties: Ties
    mirrored: bool
    equations: list[tuple[float, float]]
    sight_clearance: float | None
    fixed_points: list[FixedPoint]
    candidates: list[CandidateName]
    candidate: str


class JunctionName(TypedDict):
    id: int
    name: str
    revision: int


class SheetSetRow(TypedDict):
    id: int
    name: str
    revision: int
    road_id: int
    paper: Literal["A1", "A3"]
    scale: float
    exaggeration: float
    section_scale: float
    section_interval: float
    section_texts: list[Literal["slopes", "widths", "names", "layers"]]
    band_interval: float
    drawing_number: str
    revision_mark: str


class Land(TypedDict):
    """The boundary of the land: a layer of a survey; and the margin kept beyond toes."""

    survey: NotRequired[int | None]
    layer: NotRequired[str]
    margin: NotRequired[float]


class Settings(TypedDict):
    coordinate_reference: str
    length_unit: Literal["m", "ft", "us-ft"]
    chainage_group: int
    chainage_word: str
    traffic_side: str
    standard: str
    design_speed: float
    greatest_grade: float
    least_k: float
    land: Land


class ScreenStyle(TypedDict):
    colour: str
    width: float
    dash: list[float]
    fill: str


class PaperStyle(TypedDict):
    width: float
    colour: str
    dash: list[float]


class LineRole(TypedDict):
    """What a line along the road is, and how it is drawn in plan and on sheets; as ``core/section/roles.py`` says."""

    name: str
    about: str
    screen: ScreenStyle | None
    paper: PaperStyle | None
    rank: int
    below: bool
    outline: bool


class SortingRule(TypedDict):
    pattern: str
    type: str
    role: GroundRole | Literal["line start", "line end", "line close"]


class AnnotationStyle(TypedDict):
    name: str
    scale: float
    tick: float
    text: float
    points: bool
    elements: bool
    size: float
    away: float


class StandardRow(TypedDict):
    id: str
    name: str
    source: str
    status: str
    greatest_speed: float


class ReceivedRow(TypedDict):
    id: int
    name: str
    format: str
    size: int
    sha256: str
    by: str
    at: str


class Ledger(TypedDict):
    head: str
    undo: str | None
    redo: str | None


class Project(TypedDict):
    id: int
    name: str
    revision: int
    role: RoleName
    user: str
    settings: Settings
    roles: list[LineRole]
    roads: list[RoadRow]
    surfaces: list[SurfaceRow]
    templates: list[Template]
    parts: list[OwnPart]
    structures: list[StructureTold]
    junctions: list[JunctionName]
    sheet_sets: list[SheetSetRow]
    sorting_rules: list[SortingRule]
    annotations: list[AnnotationStyle]
    standards: list[StandardRow]
    received: list[ReceivedRow]
    ledger: Ledger


class IssuedFile(TypedDict):
    id: int
    name: str
    size: int


class ShelfRow(TypedDict):
    """One thing on a shelf; ids are ``kind-number``."""

    id: str
    shelf: Literal["Received", "Worked", "Issued"]
    kind: Literal["file", "survey", "surface", "part", "structure", "template", "road", "sheets", "issue"]
    row: int
    revision: int
    name: str
    told: str
    made_from: list[str]
    made_into: list[str]
    sha256: NotRequired[str]
    at: NotRequired[str]
    files: NotRequired[list[IssuedFile]]
    record: NotRequired[dict[str, Any]]
