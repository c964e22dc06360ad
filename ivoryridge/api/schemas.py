"""What addresses take. Lengths m, grades as ratios; no NaN or infinity gets in."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import AfterValidator, ConfigDict, Field

from ivoryridge.core.text import clean

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Id = Annotated[int, Field(ge=0, le=2**53)]  # what a row can be named by; more digits overflow the data base
Way = Literal["bends", "plain", "prismoidal"]


def _cleaned(text: str) -> str:
    if not (kept := clean(text)):
        raise ValueError("a name needs at least one letter or sign")
    return kept


Cleaned = AfterValidator(_cleaned)
Name = Annotated[str, Field(min_length=1, max_length=120), Cleaned]
Pair = Annotated[list[Number], Field(min_length=2, max_length=2)]


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
    standard: Annotated[str, Field(max_length=60)] | None = None
    design_speed: Annotated[float, Field(ge=20, le=200)] | None = None
    length_unit: Literal["m", "ft", "us-ft"] | None = None


class LandIn(In):
    """The boundary of the land: a layer of a survey, or none; and the margin to be kept beyond toes, m."""

    survey: int | None = None
    layer: Annotated[str, Field(max_length=200)] = ""
    margin: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 0.0


class ProjectChange(In):
    revision: int
    name: Name | None = None
    coordinate_reference: Name | None = None
    length_unit: Literal["m", "ft", "us-ft"] | None = None
    chainage_word: Literal["Chainage", "Station"] | None = None
    chainage_group: Literal[100, 1000] | None = None
    traffic_side: Literal["left", "right"] | None = None
    standard: Annotated[str, Field(max_length=60)] | None = None
    design_speed: Annotated[float, Field(ge=20, le=200)] | None = None
    greatest_grade: Annotated[float, Field(gt=0, le=0.3)] | None = None
    least_k: Annotated[float, Field(gt=0, le=1000)] | None = None
    land: LandIn | None = None


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
    between: tuple[int | None, int | None]  # ids of the PIs that the editor sees beside the new one; null: beyond an end


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
    circular: bool | None = None
    anchor: Literal["station", "place", "tangent", "start", "end"] | None = None


class RoadIn(In):
    name: Name = "Road"
    pis: list[PIValues] = Field(default_factory=list, max_length=2000)


class HeldBend(In):
    radius: Number | None = None
    spiral_in: Number | None = None
    spiral_out: Number | None = None
    start: Number | None = None
    end: Number | None = None


class FitIn(In):
    survey: int
    layer: Annotated[str, Field(max_length=200)] = ""
    line: int | None = None
    held: dict[str, HeldBend] = Field(default_factory=dict, max_length=500)
    bends: int | None = None


class VerticesIn(In):
    survey: int
    layer: Annotated[str, Field(max_length=200)] = ""
    line: int | None = None


class FitProfile(In):
    balance: bool = False
    overlay: bool = False
    seen: list[tuple[int, int]]  # id and revision of the PVIs that go, as their editor saw them


class Fixed(In):
    station: Number
    level: Number
    kind: Literal["exact", "above", "below"] = "exact"
    name: Annotated[str, Field(max_length=60)] = ""


class FixedPoints(In):
    revision: int
    points: Annotated[list[Fixed], Field(max_length=100)]


class RaisePVIs(In):
    rise: Number
    station_from: Number | None = None
    station_to: Number | None = None


class CurvePVI(In):
    revision: int
    station: Number
    level: Number


class CandidateIn(In):
    revision: int
    name: Name


class CandidateChoice(In):
    revision: int
    id: Annotated[str, Field(max_length=12)]


class Revised(In):
    revision: int


class ParallelIn(In):
    road: int
    offset: Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]
    name: Annotated[str, Field(max_length=120)] = ""


class OffsetChange(Revised):
    offset: Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]


class SplitIn(Revised):
    station: Number


class JoinIn(Revised):
    road: int


class EquationsIn(Revised):
    equations: Annotated[list[Pair], Field(max_length=50)]


class Tie(Revised):
    road: int
    station: Number | None = None
    level: Literal["", "centre", "edge"] = ""


class Hold(Revised):
    what: Literal["pi", "straight", "curve"] = "pi"
    held: bool


class LineIn(In):
    revision: int
    pis: Annotated[list[PIValues], Field(min_length=2, max_length=2000)]


class RoadChange(In):
    revision: int
    name: Name | None = None
    interval: Number | None = None
    fineness: Annotated[float, Field(ge=0.001, le=1)] | None = None
    start_station: Number | None = None
    sight_clearance: Annotated[float, Field(ge=2, le=200)] | None = None
    template_id: int | None = None
    surface_id: int | None = None


class Speeds(In):
    revision: int
    speeds: Annotated[list[Annotated[list[Number], Field(min_length=2, max_length=2)]], Field(max_length=50)]


class Guide(In):
    id: Annotated[str, Field(min_length=1, max_length=12, pattern=r"^\w+$")]
    kind: Literal["grade", "points", "parallel"]
    station: Number | None = None
    level: Number | None = None
    grade: Annotated[float, Field(ge=-5, le=5, allow_inf_nan=False)] | None = None
    first: Pair | None = None
    second: Pair | None = None
    of: Annotated[str, Field(max_length=30)] | None = None
    rise: Number | None = None
    within: Pair | None = None
    hidden: bool | None = None


class Guides(In):
    revision: int
    guides: Annotated[list[Guide], Field(max_length=100)]


class CurveBy(In):
    revision: int
    by: Literal["tangent", "external", "degree", "through", "largest"]
    value: Number | None = None
    place: Pair | None = None


class CrossfallChange(In):
    revision: int
    axis: Literal["centre", "inner", "outer"] | None = None
    share: Annotated[float, Field(ge=0, le=1)] | None = None
    off: bool | None = None


class BendChange(In):
    revision: int
    rate: Number | None = None
    level_in: Number | None = None
    full_in: Number | None = None
    full_out: Number | None = None
    level_out: Number | None = None


class Departure(In):
    revision: int
    key: Annotated[str, Field(max_length=200)]
    remark: Annotated[str, Field(max_length=300)] = ""


Place = Annotated[list[Number], Field(min_length=3, max_length=3)]
PlanPlace = Annotated[list[Number], Field(min_length=2, max_length=2)]
Positive = Annotated[float, Field(gt=0, le=1e9, allow_inf_nan=False)]


class SurfaceChange(In):
    revision: int
    name: Name | None = None
    greatest_edge: Number | None = None
    live_spacing: Positive | None = None
    weed_plan: Positive | None = None
    weed_level: Positive | None = None
    fill_area: Positive | None = None
    sources: list[int] | None = None
    label_paths: (
        Annotated[list[Annotated[list[PlanPlace], Field(min_length=2, max_length=200)]], Field(max_length=100)] | None
    ) = None


class GroundEdit(In):
    """One edit; which of the words it needs is told by ``core.terrain.recipe.EDITS``."""

    do: Literal[
        "leave_out", "set_level", "move_point", "add_point", "leave_out_line", "add_line", "move_vertex", "delete_vertex",
        "fixed_vertices", "live_spacing", "swap_edge", "delete_triangles",
    ]  # fmt: skip
    survey: int | None = None
    points: Annotated[list[int], Field(max_length=100_000)] | None = None
    point: int | None = None
    line: int | None = None
    vertex: int | None = None
    level: Number | None = None
    spacing: Positive | None = None
    to: Place | None = None
    vertices: Annotated[list[Place], Field(min_length=2, max_length=5_000)] | None = None
    at: PlanPlace | Annotated[list[PlanPlace], Field(max_length=10_000)] | None = None


class GroundEdits(In):
    revision: int
    edits: Annotated[list[GroundEdit], Field(min_length=1, max_length=500)]


class Answer(In):
    revision: int
    keys: Annotated[list[str], Field(min_length=1, max_length=5000)]
    how: Literal["leave_out", "set_level", "change_over", "keep", "ask_again"]
    level: Number | None = None
    remark: str = ""


class Merge(In):
    revision: int
    others: Annotated[list[int], Field(min_length=1, max_length=50)]


class SurveySetChange(In):
    revision: int
    name: Name | None = None
    roles: dict[str, str] = {}


class SortingRule(In):
    pattern: str
    type: str = ""
    role: str


class SortingRules(In):
    revision: int
    rules: Annotated[list[SortingRule], Field(max_length=200)]
    again: bool = False


class Annotation(In):
    name: Annotated[str, Field(min_length=1, max_length=60)]
    scale: Annotated[float, Field(ge=50, le=20000)]
    tick: Annotated[float, Field(ge=1, le=10000)]
    text: Annotated[float, Field(ge=1, le=10000)]
    points: bool
    elements: bool
    size: Annotated[float, Field(ge=0.5, le=20)]
    away: Annotated[float, Field(ge=0, le=100)]


class Annotations(In):
    revision: int
    styles: Annotated[list[Annotation], Field(max_length=50)]


class SheetSetChange(In):
    revision: int
    paper: Literal["A1", "A3"] | None = None
    scale: Annotated[float, Field(ge=50, le=20000)] | None = None
    exaggeration: Annotated[float, Field(ge=1, le=100)] | None = None
    section_scale: Annotated[float, Field(ge=20, le=2000)] | None = None
    section_interval: Annotated[float, Field(ge=1, le=1000)] | None = None
    section_texts: Annotated[list[Literal["slopes", "widths", "names", "layers"]], Field(max_length=4)] | None = None
    band_interval: Annotated[float, Field(ge=1, le=500)] | None = None
    drawing_number: Annotated[str, Field(max_length=40)] | None = None
    revision_mark: Annotated[str, Field(max_length=8)] | None = None


class NameChange(In):
    revision: int
    name: Name


class IssueIn(In):
    revision: int
    remark: Annotated[str, Field(max_length=300)] = ""


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


class TrialBend(In):
    pi_id: int
    rate: Annotated[float, Field(gt=0, le=0.15)] | None = None
    level_in: Number | None = None
    full_in: Number | None = None
    full_out: Number | None = None
    level_out: Number | None = None


class TrialRange(In):
    """A row of what varies, with other ends or values."""

    id: int
    station_from: Number | None = None
    station_to: Number | None = None
    value: Number | None = None
    value_to: Number | None = None
    rows: Annotated[list[tuple[Number, Number]], Field(max_length=2000)] | None = None


class AskedQuantity(In):
    side: Literal["left", "right"]
    part: Annotated[str, Field(max_length=60)]
    parameter: Annotated[str, Field(max_length=60)]


class Trial(In):
    bend: TrialBend | None = None
    variation: TrialRange | None = None
    quantity: AskedQuantity | None = None
    pi: TrialPI | None = None
    pvi: TrialPVI | None = None
    mark: Number | None = None
    key: str | None = None
    outline_only: bool = False
    judged: bool = True
    followed: bool = True
    joined: bool = True
