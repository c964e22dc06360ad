"""What varies along a road."""

from __future__ import annotations

from typing import Any, Literal

from typing_extensions import TypedDict

Kind = Literal["stretch", "adjustment", "change", "bare", "follow", "led", "meet"]
AnchorName = Literal["station", "place", "tangent", "start", "end"]


class AlongRow(TypedDict):
    """A row of what varies, its range as the line is now; data as ``models.Variation`` keeps it; said: what it does, in words; taper: of a
    width that changes evenly, the length that the formula for lanes gained and dropped asks for, m."""

    id: int
    revision: int
    kind: Kind
    side: Literal["left", "right", "both"]
    station_from: float
    station_to: float
    hold_from: AnchorName
    hold_to: AnchorName
    template_id: int | None
    data: dict[str, Any]
    said: str
    problem: str
    taper: float | None


class Adjustable(TypedDict):
    name: str
    label: str
    kind: Literal["length", "height", "percent", "one_in", "degrees", "number", "choice"]
    value: float | str
    least: float
    greatest: float
    choices: list[str]


class LeadableNode(TypedDict):
    """A node that a line can lead: its name with that of its part, and what it is."""

    name: str
    label: str


class BuiltPart(TypedDict):
    """A part that is built somewhere along a road, with what can be adjusted of it, its nodes that lines can lead, and whether it is
    laid upon what is there."""

    id: str
    label: str
    parameters: list[Adjustable]
    nodes: list[LeadableNode]
    upon: bool


class Quantity(TypedDict):
    """One parameter along a road: station and value, straight between; two rows at one station are a step, null is not built."""

    side: Literal["left", "right"]
    part: str
    parameter: str
    rows: list[tuple[float, float | None]]
