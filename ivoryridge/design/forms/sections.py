"""The part bench: parts with their rules, the library, and what a template comes to over a trial ground."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

from .road import Pair, SectionSide

SideName = Literal["left", "right"]


class RuleSlot(TypedDict):
    name: str
    takes: Literal["node", "length", "slope", "share", "angle", "word", "target", "line", "run"]
    words: dict[str, str]
    usual: str | None


class RuleTold(TypedDict):
    """``sentence``: slots in braces; what stands in square brackets is left out while its slots are empty."""

    kind: str
    about: str
    sentence: str
    slots: list[RuleSlot]


class Drawn(TypedDict):
    """A small picture: lines with a class each, and areas; offset + right, level."""

    lines: list[tuple[Literal["ground", "finished", "guide"], list[Pair]]]
    areas: list[tuple[str, list[Pair]]]


class LibraryPart(TypedDict):
    name: str
    label: str
    remark: str
    nodes: int
    picture: Drawn


class Library(TypedDict):
    """The same for all projects. ``materials``: material -> colour; ``other``: the colour of one that a person makes up."""

    parts: list[LibraryPart]
    rules: list[RuleTold]
    materials: dict[str, str]
    other: str
    usual_structure: str
    case_kinds: dict[str, dict[str, Any]]
    parameter_kinds: dict[str, str]


class OwnPart(TypedDict):
    id: int
    revision: int
    label: str
    remark: str
    picture: Drawn | None
    templates: list[str]


class StructureLayer(TypedDict):
    material: str
    thickness: float
    least: float
    greatest: float
    step_out: float


class StructureTold(TypedDict):
    id: int
    revision: int
    name: str
    layers: list[StructureLayer]
    told: list[str]


class PartFault(TypedDict):
    """``where``: node (index) and slot, case, parameter, run, area or check by index; empty for the part as a whole."""

    where: dict[str, Any]
    sentence: str


class BenchPart(TypedDict):
    """The chosen part: its data form with lengths in the project's unit, where it begins in the drawing, and what is wrong with it.
    ``id``: of an own part."""

    ref: str | int
    id: int | None
    revision: int
    label: str
    data: dict[str, Any]
    start: Pair
    faults: list[PartFault]


class BenchSight(TypedDict):
    """A slope that looks for something: from a place to where it ends; ``limit``: offset at which its search ends."""

    side: SideName
    node: str
    start: Pair
    end: Pair
    limit: float | None
    met: bool


class BenchPassed(TypedDict):
    """First and last crossing of a slope that has several; ``nearer`` m: how much nearer the first is."""

    side: SideName
    node: str
    first: Pair
    last: Pair
    takes_last: bool
    nearer: float


class BenchReason(TypedDict):
    side: SideName
    part: str
    case: str
    why: str


class BenchThumb(TypedDict):
    name: str
    ground: list[Pair]
    picture: Drawn


class BenchOther(TypedDict):
    name: str
    line: list[Pair]


class BenchAnswer(TypedDict):
    """A template over the trial ground. ``steps`` and ``values``: what a gesture comes to, to be saved as it is."""

    sides: list[SectionSide]
    ground: list[Pair]
    level: float
    cut: float
    fill: float
    thumbs: list[BenchThumb]
    others: list[BenchOther]
    sights: list[BenchSight]
    passed: list[BenchPassed]
    reasons: list[BenchReason]
    told: list[str]
    part: BenchPart | None
    steps: list[dict[str, Any]]
    values: dict[str, float]


class CrossingRow(TypedDict):
    station: float
    side: SideName
    node: str
    first: float
    last: float


class Crossings(TypedDict):
    """Sections of a road where a slope's first and last crossing differ; offsets of the two, m. ``left_out``: how many more
    there are than are told."""

    rows: list[CrossingRow]
    left_out: int
    sections: int
