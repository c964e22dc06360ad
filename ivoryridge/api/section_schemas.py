"""What addresses of parts, templates, pavement structures and the bench take."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from .schemas import Cleaned, Id, In, Name, Number, Pair

Text = Annotated[str, Field(max_length=400)]
PartRef = Annotated[str, Field(max_length=60)] | Id
SideName = Literal["left", "right"]
Steps = Annotated[list[dict[str, Any]], Field(max_length=60)]


class Bound(In):
    """What a target of a part is bound to: a surface of the project, or a level in m."""

    surface: Id | None = None
    level: Number | None = None

    def kept(self) -> dict[str, Any]:
        return {k: v for k, v in self.dict().items() if v is not None}


Targets = dict[Annotated[str, Field(max_length=40)], Bound]


class TemplateChange(In):
    revision: int
    side: Literal["left", "right", "both"]
    part: str
    values: dict[Annotated[str, Field(max_length=40)], Number | Text | None] = Field(default_factory=dict)
    targets: Targets | None = None


class TemplateRow(In):
    """A part in a template."""

    id: Annotated[str, Field(max_length=60)]
    part: PartRef
    values: dict[Annotated[str, Field(max_length=40)], Number | Text] = Field(default_factory=dict)
    targets: Targets = Field(default_factory=dict)

    def row(self) -> dict[str, Any]:
        bound = {name: b.kept() for name, b in self.targets.items()}
        return {"id": self.id, "part": self.part, "values": self.values, "targets": bound}


Rows = Annotated[list[TemplateRow], Field(max_length=60)]


class TemplateRows(In):
    revision: int
    left: Rows
    right: Rows
    what: Annotated[str, Field(max_length=60)] = ""


class TemplateIn(In):
    name: Name
    like: Id | None = None


class OwnCopy(In):
    revision: int
    side: SideName
    part: Annotated[str, Field(max_length=60)]


class PartIn(In):
    label: Annotated[str, Field(max_length=80), Cleaned]
    like: PartRef | None = None


class PartSteps(In):
    """Steps as ``core.section.edit_part`` knows them; lengths in the project's unit."""

    revision: int
    steps: Steps


class PartsFile(In):
    name: Name
    content: Annotated[str, Field(max_length=2_000_000)]


class LayerIn(In):
    material: Annotated[str, Field(max_length=60), Cleaned]
    thickness: Annotated[float, Field(gt=0, le=10, allow_inf_nan=False)]
    least: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 0.0
    greatest: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 2.0
    step_out: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 0.0


Layers = Annotated[list[LayerIn], Field(min_length=1, max_length=12)]


class StructureIn(In):
    name: Name
    layers: Layers


class StructureChange(In):
    revision: int
    name: Name | None = None
    layers: Layers | None = None


class GestureIn(In):
    """What the pointer does with the chosen part: put a node, drag one, drag the end of a search, click into a loop; ``to``: offset and
    level, m."""

    do: Literal["put", "drag", "limit", "loop"]
    to: Pair
    since: Annotated[str, Field(max_length=60)] = "start"
    node: Annotated[str, Field(max_length=60)] = ""
    on_ground: bool = False
    material: Annotated[str, Field(max_length=60)] = ""


class BenchWish(In):
    """What the part bench is to show; lengths in m, offsets + right."""

    left: Rows
    right: Rows
    side: SideName | None = None
    part: str = ""
    steps: Steps = Field(default_factory=list)
    ground: (
        Annotated[list[Annotated[list[Number], Field(min_length=2, max_length=2)]], Field(min_length=2, max_length=200)] | None
    ) = None
    preset: Annotated[str, Field(max_length=20)] = ""
    level: Number = 0.0
    rates: Annotated[list[Annotated[float, Field(ge=-0.2, le=0.2)]], Field(min_length=2, max_length=2)] | None = None
    thumbs: bool = True
    gesture: GestureIn | None = None
    surface: int | None = None  # the ground of the road in view
