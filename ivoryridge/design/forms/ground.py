"""Ground and files: findings, what lies near, water, files as they are looked at, the document exchange, lines through points."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

from .common import Finding, JobPicture
from .project import SurveyLayer

Pair = tuple[float, float]


class GroundFinding(Finding):
    """A finding on the ground with the points it speaks of; kept ones have remark and by."""

    key: str
    points: list[tuple[int, int]]
    level: float | None
    ways: list[Literal["leave_out", "set_level", "change_over", "keep"]]
    remark: NotRequired[str]
    by: NotRequired[str]


class GroundFindings(TypedDict):
    open: list[GroundFinding]
    kept: list[GroundFinding]
    problem: str | None


class GroundPick(TypedDict):
    kind: Literal["point", "vertex"]
    survey: int
    point: NotRequired[int]
    line: NotRequired[int]
    vertex: NotRequired[int]
    vertices: NotRequired[int]
    spacing: NotRequired[float | None]
    own: NotRequired[int]
    fixed: NotRequired[int]
    generated: NotRequired[int]
    place: tuple[float, float, float | None]


class ContourLabel(TypedDict):
    e: float
    n: float
    level: float
    azimuth: float


class Pond(TypedDict):
    level: float
    depth: float
    area: float
    volume: float
    place: Pair


class Water(TypedDict):
    ponds: list[Pond]
    area: float
    rings: list[list[Pair]]


class GroundReading(TypedDict):
    elevation: float | None
    slope: float | None
    aspect_deg: float | None


class VolumeBetween(TypedDict):
    """From one surface to another where both are, m3; the area that they share, m2."""

    cut: float
    fill: float
    net: float
    area: float


class GroundCut(TypedDict):
    points: list[tuple[float, float | None]]


class WayOut(TypedDict):
    label: str
    options: dict[str, Any]


class FileFinding(Finding):
    way: NotRequired[WayOut]


class PreviewSet(TypedDict):
    name: str
    points: int
    breaklines: int
    faces: int
    extent: tuple[float, float, float, float]
    levels: tuple[float, float]
    codes: list[tuple[str, int]]
    layers: list[SurveyLayer]
    plan: list[tuple[float, float, float]]
    place: Literal["join", "apart", "leave"]


class Reading(TypedDict):
    """How a file was read; what applies to its format."""

    delimiter: NotRequired[str]
    delimiter_name: NotRequired[str]
    decimal_comma: NotRequired[bool]
    header: NotRequired[bool]
    columns: NotRequired[dict[str, int]]
    names: NotRequired[list[str]]
    unit: NotRequired[str]
    alignments: NotRequired[int]
    reference: NotRequired[str | None]
    tolerance: NotRequired[float]
    cell: NotRequired[Pair]
    swapped: NotRequired[bool]
    factor: NotRequired[float]
    east: NotRequired[float]


class FilePreview(TypedDict):
    name: str
    format: str
    size: int
    reading: Reading
    rows: list[str]
    sets: list[PreviewSet]
    findings: list[FileFinding]
    far: bool
    error: str | None
    reference: str | None


class Uploaded(TypedDict):
    upload: int
    name: str
    size: int


class ExchangeDocument(TypedDict):
    id: int
    name: str
    version: int
    by: str
    at: str
    size: int
    remark: str
    state: Literal["new", "taken", "newer"]


class ExchangeDifference(TypedDict):
    version: int
    points_before: int
    points_now: int
    lines_before: int
    lines_now: int
    gone: int
    added: int
    levels_changed: int
    greatest: float
    place: Pair | None


class FitPI(TypedDict):
    easting: float
    northing: float
    radius: NotRequired[float]
    spiral_in: NotRequired[float]
    spiral_out: NotRequired[float]


class FitBend(TypedDict):
    turn: int
    radius: float
    spiral_in: float
    spiral_out: float
    start: float
    end: float
    rms: float
    greatest: float
    held: list[str]


class FitDoubt(Finding):
    bend: int


class LineFit(TypedDict):
    """A line through measured points; offsets + right."""

    pis: list[FitPI]
    bends: list[FitBend]
    line: list[Pair]
    points: list[Pair]
    station: list[float]
    offset: list[float]
    left_out: list[bool]
    rms: float
    length: float
    count: int
    doubts: list[FitDoubt]


class Vertices(TypedDict):
    pis: list[FitPI]


class MeasuredLine(TypedDict):
    """One line of a received layer: its length in plan (m), its vertices, and where it begins."""

    length: float
    vertices: int
    start: Pair


class OfferedLine(TypedDict):
    name: str
    length: float
    straights: int
    arcs: int


class OfferedLines(TypedDict):
    lines: list[OfferedLine]
    told: list[str]


class Queued(TypedDict):
    """What takes long is done by a job."""

    job: JobPicture
