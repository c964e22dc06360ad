"""What addresses take. Lengths m, grades as ratios; no NaN or infinity gets in."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import ConfigDict, Field

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Name = Annotated[str, Field(min_length=1, max_length=120)]


class In(Schema):
    model_config = ConfigDict(extra="forbid")

    def given(self) -> dict[str, Any]:
        """Only the fields that were sent, without the revision."""
        return {k: v for k, v in self.dict(exclude_unset=True).items() if k not in ("revision", "index")}


class SignIn(In):
    username: str
    password: str


class ProjectIn(In):
    name: Name


class ProjectChange(In):
    revision: int
    name: Name | None = None
    coordinate_reference: Name | None = None
    chainage_word: Literal["Chainage", "Station"] | None = None
    chainage_group: Literal[100, 1000] | None = None
    traffic_side: Literal["left", "right"] | None = None
    design_speed: Annotated[float, Field(ge=20, le=200)] | None = None
    greatest_grade: Annotated[float, Field(gt=0, le=0.3)] | None = None
    least_k: Annotated[float, Field(gt=0, le=1000)] | None = None


class MemberIn(In):
    username: str
    role: Literal["viewer", "editor", "owner"]


class PIValues(In):
    easting: Number
    northing: Number
    radius: Number = 0.0
    spiral_in: Number = 0.0
    spiral_out: Number = 0.0


class PIInsert(PIValues):
    index: int


class PIChange(In):
    revision: int
    easting: Number | None = None
    northing: Number | None = None
    radius: Number | None = None
    spiral_in: Number | None = None
    spiral_out: Number | None = None


class PVIInsert(In):
    station: Number
    elevation: Number
    half_in: Number = 0.0
    half_out: Number = 0.0


class PVIChange(In):
    revision: int
    station: Number | None = None
    elevation: Number | None = None
    half_in: Number | None = None
    half_out: Number | None = None
    anchor: Literal["station", "place", "tangent", "start", "end"] | None = None


class RoadIn(In):
    name: str = "Road"
    pis: list[PIValues] = Field(default_factory=list, max_length=2000)


class RoadChange(In):
    revision: int
    name: Name | None = None
    interval: Number | None = None
    start_station: Number | None = None
    template_id: int | None = None
    surface_id: int | None = None


class TemplateChange(In):
    revision: int
    side: Literal["left", "right", "both"]
    part: str
    values: dict[str, Number | str]


class SurfaceChange(In):
    revision: int
    name: Name | None = None
    greatest_edge: Number | None = None
    sources: list[int] | None = None


class SheetSetChange(In):
    revision: int
    paper: Literal["A1", "A3"] | None = None
    scale: Annotated[float, Field(ge=50, le=20000)] | None = None
    exaggeration: Annotated[float, Field(ge=1, le=100)] | None = None
    section_scale: Annotated[float, Field(ge=20, le=2000)] | None = None
    section_interval: Annotated[float, Field(ge=1, le=1000)] | None = None
    band_interval: Annotated[float, Field(ge=1, le=500)] | None = None
    drawing_number: Annotated[str, Field(max_length=40)] | None = None
    revision_mark: Annotated[str, Field(max_length=8)] | None = None


class TrialPI(In):
    index: int
    insert: bool = False
    easting: Number | None = None
    northing: Number | None = None
    radius: Number | None = None
    spiral_in: Number | None = None
    spiral_out: Number | None = None


class TrialPVI(In):
    id: int
    station: Number | None = None
    elevation: Number | None = None
    half_in: Number | None = None
    half_out: Number | None = None


class Trial(In):
    pi: TrialPI | None = None
    pvi: TrialPVI | None = None
    mark: Number | None = None
    key: str | None = None
    outline_only: bool = False
