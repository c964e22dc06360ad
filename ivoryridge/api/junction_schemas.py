"""What addresses of junctions take."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .schemas import In, Pair, Revised

Radius = Annotated[float, Field(ge=1, le=200, allow_inf_nan=False)]


class JunctionIn(In):
    """A side road that joins a main one, near a place (E, N) m; radii of its corners, left and right of each arm, m."""

    main: int
    side: int
    place: Pair | None = None
    radii: Annotated[list[Radius], Field(max_length=4)] = []


class EdgeIn(In):
    """A road that joins an existing edge: a received line near ``place``, or picked ``points`` along it, E, N m."""

    side: int
    place: Pair | None = None
    points: Annotated[list[Pair], Field(max_length=200)] = []


class JunctionChange(Revised):
    name: Annotated[str, Field(min_length=1, max_length=120)] = ""
    run_out: Annotated[float, Field(ge=0, le=300, allow_inf_nan=False)] = 20.0
    structure: Annotated[str, Field(max_length=20)] = "main"
    edge_fall: Annotated[float, Field(ge=-0.15, le=0.15, allow_inf_nan=False)] | None = None


class ShapeIn(In):
    """Values of a corner's shape: lengths in m, the taper 1 in n."""

    form: Literal["radius", "taper", "three centres", "none"] = "radius"
    radius: Radius = 10.0
    taper: Annotated[float, Field(ge=2, le=50, allow_inf_nan=False)] = 10.0
    taper_length: Annotated[float, Field(ge=1, le=100, allow_inf_nan=False)] = 20.0
    outer_radius: Annotated[float, Field(ge=1, le=1000, allow_inf_nan=False)] = 30.0
    shift: Annotated[float, Field(ge=0.01, le=20, allow_inf_nan=False)] = 1.0


class CornersChange(In):
    """Values that some corners take; their roads with the revisions that were seen."""

    roads: Annotated[dict[int, int], Field(max_length=8)]
    shape: ShapeIn


class CornersTrial(In):
    """Values that some corners would take."""

    roads: Annotated[list[int], Field(max_length=8)]
    shape: ShapeIn


class CopyCorners(Revised):
    other: int
