"""Findings, problems, what an act did, who is here."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

Severity = Literal["note", "doubt", "fault"]
RoleName = Literal["viewer", "editor", "owner"]


class Finding(TypedDict):
    severity: Severity
    code: str
    sentence: str
    station_from: float | None
    station_to: float | None
    place: tuple[float, float] | None


class About(TypedDict):
    """What a finding speaks of: a PI or PVI by its place in the line; a bare number where it is of the whole."""

    kind: Literal["pi", "pvi", ""]
    index: int


class FindingWay(TypedDict):
    """A value that clears a finding."""

    label: str
    kind: Literal["pi", "pvi"]
    index: int
    values: dict[str, float]


class DesignFinding(Finding):
    """A finding against the design standard; accepted ones have remark, by and accepted."""

    key: str
    clause: str
    status: str
    why: str
    value: float
    limit: float
    unit: str
    about: About
    ways: list[FindingWay]
    remark: NotRequired[str]
    by: NotRequired[str]
    accepted: NotRequired[str]


class Problem(TypedDict):
    """Why a step could not be computed."""

    code: str
    sentence: str
    where: dict[str, Any]


class JobPicture(TypedDict):
    id: int
    title: str
    by: str
    state: Literal["waiting", "running", "done", "failed", "cancelled"]
    done: int
    total: int
    message: str
    result: dict[str, Any]


class Acted(TypedDict):
    """What an act did: its label, and what moved with it."""

    label: str
    told: list[str]
    job: NotRequired[JobPicture]
    road_id: NotRequired[int]
    surface_id: NotRequired[int]


class Head(TypedDict):
    head: str
    here: list[str]


class Session(TypedDict):
    username: str | None
    token: NotRequired[str]


class LastAct(TypedDict):
    label: str
    by: str
    at: str


class ProjectLine(TypedDict):
    """A project in the list of those a person may open."""

    id: int
    name: str
    role: RoleName
    roads: int
    people: list[str]
    last: LastAct | None
    length_unit: Literal["m", "ft", "us-ft"]


class ProjectSketch(TypedDict):
    """A small plan: lines in m from its south-west corner, and the length of all roads, m."""

    length: float
    width: float
    height: float
    lines: list[list[tuple[float, float]]]


class StandardLine(TypedDict):
    id: str
    name: str
    status: str
    greatest_speed: float


class Member(TypedDict):
    username: str
    role: RoleName


class LedgerLine(TypedDict):
    id: int
    label: str
    by: str
    at: str
    state: Literal["done", "undone", "dropped"]


class LedgerPage(TypedDict):
    """Some entries, the newest first, and how many there are in all."""

    lines: list[LedgerLine]
    count: int


class LedgerChange(TypedDict):
    """One value that an act set: of what, which, and what it was and became, as people read them."""

    of: str
    value: str
    before: str
    after: str
