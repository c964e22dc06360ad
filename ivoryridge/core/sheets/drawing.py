"""The neutral display list of a sheet: strokes, areas and texts in paper millimetres, x right and y up from the lower left."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from .fonts import CAP_SHARE, text_width

Floats = NDArray[np.float64]

__all__ = ["COLOURS", "PAPERS", "Drawing", "Map", "Stroke", "Text", "clip_polyline", "text_box"]

PAPERS = {"A1": (841.0, 594.0), "A3": (420.0, 297.0)}  # mm, ISO 216, landscape
COLOURS = {"black": "#000000", "grey": "#7a7a7a", "light": "#bdbdbd", "spot": "#0e5a68", "paper": "#ffffff"}


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """A polyline or polygon. points (n, 2) mm · width mm (ISO 128 row) · dash mm on and off · fill a colour name or none."""

    points: Floats
    width: float = 0.18
    colour: str = "black"
    dash: tuple[float, ...] = ()
    closed: bool = False
    fill: str = ""
    layer: str = "drawing"

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))


@dataclass(frozen=True, slots=True)
class Text:
    """A line of text at (x, y) mm. ``size`` is the height of capitals in mm; ``turn`` degrees, counter-clockwise."""

    x: float
    y: float
    text: str
    size: float = 2.5
    anchor: Literal["start", "middle", "end"] = "start"
    turn: float = 0.0
    colour: str = "black"
    bold: bool = False
    layer: str = "text"


@dataclass(frozen=True, slots=True)
class Map:
    """Model to paper: paper = origin + scale * R(turn) * (model - anchor), scales in mm per m, per axis.

    ``turn`` (rad) is counter-clockwise. A plan has equal scales; a long section has turn 0 and two scales.
    """

    anchor: tuple[float, float]
    origin: tuple[float, float]
    scale: tuple[float, float]
    turn: float = 0.0

    def to_paper(self, points: Any) -> Floats:
        p = (np.atleast_2d(np.asarray(points, float))[:, :2] - np.array(self.anchor)) * np.array(self.scale)
        c, s = np.cos(self.turn), np.sin(self.turn)
        return np.array(self.origin) + np.column_stack([c * p[:, 0] - s * p[:, 1], s * p[:, 0] + c * p[:, 1]])

    def to_model(self, paper: Any) -> Floats:
        q = np.atleast_2d(np.asarray(paper, float)) - np.array(self.origin)
        c, s = np.cos(self.turn), np.sin(self.turn)
        turned = np.column_stack([c * q[:, 0] + s * q[:, 1], -s * q[:, 0] + c * q[:, 1]])
        return turned / np.array(self.scale) + np.array(self.anchor)


@dataclass(slots=True)
class Drawing:
    """One sheet being composed. ``maps`` names its windows, so that places can be read back from paper."""

    width: float
    height: float
    title: str
    strokes: list[Stroke] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)
    maps: dict[str, Map] = field(default_factory=dict)
    missed: list[str] = field(default_factory=list)  # texts that found no room

    @property
    def left_out(self) -> int:
        return len(self.missed)

    def line(self, points: Any, **style: Any) -> None:
        p = np.asarray(points, float)
        if len(p) > 1:
            self.strokes.append(Stroke(p, **style))

    def box(self, x0: float, y0: float, x1: float, y1: float, **style: Any) -> None:
        self.strokes.append(Stroke(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]), closed=True, **style))

    def lines_within(self, points: Any, window: tuple[float, float, float, float], **style: Any) -> list[Floats]:
        """A polyline cut to a window x0, y0, x1, y1 (mm); the pieces drawn."""
        pieces = clip_polyline(points, window)
        for piece in pieces:
            self.line(piece, **style)
        return pieces


def clip_polyline(points: Any, window: tuple[float, float, float, float]) -> list[Floats]:
    """The pieces of a polyline (n, 2) inside a window; NaN rows break it."""
    import shapely

    p = np.asarray(points, float)
    pieces: list[Floats] = []
    good = np.isfinite(p).all(axis=1)
    for run in np.split(p, np.flatnonzero(~good)):
        run = run[np.isfinite(run).all(axis=1)]
        if len(run) < 2:
            continue
        cut = shapely.intersection(shapely.LineString(run), shapely.box(*window))
        for part in shapely.get_parts(cut):
            if part.geom_type == "LineString" and len(part.coords) > 1:
                pieces.append(np.array(part.coords))
    return pieces


def text_box(t: Text) -> Floats:
    """(4, 2) mm: the corners of a text, with descenders."""
    width = text_width(t.text, t.size, t.bold)
    x0 = {"start": 0.0, "middle": -width / 2, "end": -width}[t.anchor]
    low = -0.32 * t.size if any(c in "gjpqy,;()" for c in t.text) else 0.0
    corners = np.array([[x0, low], [x0 + width, low], [x0 + width, t.size / CAP_SHARE * 0.76], [x0, t.size / CAP_SHARE * 0.76]])
    a = np.radians(t.turn)
    turned = corners @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
    return turned + np.array([t.x, t.y])
