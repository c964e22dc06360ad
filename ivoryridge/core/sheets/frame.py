"""What every sheet has: border, title strip, scale bar, north arrow; and how a road is cut into frames."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import PVI, VerticalAlignment
from ..corridor.corridor import Corridor
from ..corridor.edges import EdgePiece
from ..errors import InputError
from ..wording import spoken
from .drawing import PAPERS, Drawing, Map, Text
from .labels import LabelBook

Floats = NDArray[np.float64]

__all__ = [
    "Frame",
    "OtherRoad",
    "RoadToDraw",
    "SheetSettings",
    "compute_frames",
    "draw_border",
    "draw_north",
    "draw_scale_bar",
    "plan_window",
    "profile_window",
]

MARGIN = 10.0  # mm, paper edge to border
STRIP = 24.0  # mm, height of the title strip
NAMES = 34.0  # mm, column with the names of the bands
BAND = 6.5  # mm, height of a band
BANDS = ("chainage", "ground", "design", "difference", "grades", "bends")


@dataclass(frozen=True, slots=True)
class SheetSettings:
    """Scales are the n of 1:n; intervals m; ``station_text`` writes a station."""

    project: str
    road: str
    paper: str
    scale: float
    exaggeration: float
    section_scale: float
    section_interval: float
    band_interval: float
    drawing_number: str
    revision: str
    coordinate_reference: str
    chainage_word: str
    station_text: Callable[[float, int], str]
    section_texts: tuple[str, ...] = ()  # of "slopes", "widths", "names", "layers": what is written into cross sections
    equations: tuple[tuple[float, float], ...] = ()  # station, jump; chainages in the bands are round ones


@dataclass(frozen=True, slots=True, eq=False)
class OtherRoad:
    """Another road of the project as a sheet shows it; ``kerb``: its line is a return, an edge of a junction."""

    name: str
    line: HorizontalAlignment
    kerb: bool = False


@dataclass(frozen=True, slots=True, eq=False)
class RoadToDraw:
    """What a sheet shows of a road. ground (k, 2) station, level; edges: side, role, (k, 3); contours: xy, starts, levels; mapping: layer
    and (k, 2 or 3) places of what was received; others: further roads of the project."""

    line: HorizontalAlignment
    profile: VerticalAlignment
    pvis: tuple[PVI, ...]
    ground: Floats
    edges: tuple[EdgePiece, ...]
    corridor: Corridor | None
    contours: tuple[Floats, NDArray[np.int64], Floats] | None
    contour_interval: float = 1.0
    mapping: tuple[tuple[str, Floats], ...] = ()
    others: tuple[OtherRoad, ...] = ()


@dataclass(frozen=True, slots=True)
class Frame:
    """One plan-over-profile sheet: its stations, the map of its plan window, and the window's corners (4, 2) E N."""

    number: int
    start: float
    end: float
    plan: Map
    corners: tuple[tuple[float, float], ...]


def plan_window(paper: str) -> tuple[float, float, float, float]:
    """x0, y0, x1, y1 mm of the plan: the upper half between border and profile."""
    width, height = PAPERS[paper]
    split = MARGIN + STRIP + 0.5 * (height - 2 * MARGIN - STRIP)
    return MARGIN, split, width - MARGIN, height - MARGIN


def profile_window(paper: str) -> tuple[float, float, float, float]:
    """x0, y0, x1, y1 mm of the long section, above its bands and right of their names."""
    width, _ = PAPERS[paper]
    _, split, _, _ = plan_window(paper)
    return MARGIN + NAMES, MARGIN + STRIP + BAND * len(BANDS), width - MARGIN - 6, split - 4


def compute_frames(line: HorizontalAlignment, settings: SheetSettings) -> list[Frame]:
    """As few frames as the profile window allows along the whole line, of equal length in steps of the band interval.

    Raises
    ------
    InputError    the scale leaves less than one band interval on a sheet
    """
    x0, _, x1, _ = profile_window(settings.paper)
    room = (x1 - x0) * settings.scale / 1000.0
    step = max(settings.band_interval, 10.0)
    length = np.floor(room / step) * step
    if not length > 0:
        raise InputError("no-stations-for-sheet", start=line.start_station, end=line.start_station + room)
    whole = line.end_station - line.start_station
    length = np.ceil(whole / np.ceil(whole / length) / step) * step
    frames: list[Frame] = []
    start = line.start_station
    while start < line.end_station - 1e-6:
        end = min(start + length, line.end_station)
        frames.append(_frame(line, settings, len(frames) + 1, start, end))
        start = end
    return frames


def _frame(line: HorizontalAlignment, settings: SheetSettings, number: int, start: float, end: float) -> Frame:
    """The plan is turned so that the chord lies level, and centred on the road's own extent across it."""
    places, _, _ = line.evaluate(np.linspace(start, end, 41))
    chord = places[-1] - places[0]
    turn = -float(np.arctan2(chord[1], chord[0]))
    c, s = np.cos(turn), np.sin(turn)
    local = (places - places[0]) @ np.array([[c, s], [-s, c]])
    middle = np.array([(local[:, 0].min() + local[:, 0].max()) / 2, (local[:, 1].min() + local[:, 1].max()) / 2])
    anchor = places[0] + middle @ np.array([[c, -s], [s, c]])
    x0, y0, x1, y1 = plan_window(settings.paper)
    per_metre = 1000.0 / settings.scale
    plan = Map((float(anchor[0]), float(anchor[1])), ((x0 + x1) / 2, (y0 + y1) / 2), (per_metre, per_metre), turn)
    corners = plan.to_model([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    return Frame(number, float(start), float(end), plan, tuple((float(e), float(n)) for e, n in corners))


def draw_border(d: Drawing, book: LabelBook, settings: SheetSettings, *, title: str, scales: str, sheet: str) -> None:
    """Border and title strip; the strip's cells are filled from the left."""
    d.box(MARGIN, MARGIN, d.width - MARGIN, d.height - MARGIN, width=0.5, layer="border")
    top = MARGIN + STRIP
    d.line([[MARGIN, top], [d.width - MARGIN, top]], width=0.35, layer="border")
    cells: list[tuple[str, str, float, float]] = [
        ("Project", settings.project, 0.22, 3.5), ("Road", settings.road, 0.12, 3.5), ("Drawing", title, 0.26, 2.5),
        ("Scales", scales, 0.14, 2.5), ("Coordinates", settings.coordinate_reference, 0.14, 1.8),
        ("Number, revision", f"{settings.drawing_number}   {settings.revision}", 0.12, 2.5),
    ]  # fmt: skip
    x, inner = MARGIN, d.width - 2 * MARGIN
    for i, (name, value, share, size) in enumerate(cells):
        if i:
            d.line([[x, MARGIN], [x, top]], width=0.18, layer="border")
        book.fixed(Text(x + 2, top - 4, name, 1.8, colour="grey", layer="title"))
        room = share * inner - 4
        while size > 1.3 and _width(value, size, i < 2) > room:
            size -= 0.1
        book.fixed(Text(x + 2, MARGIN + 8.5, value, round(size, 1), bold=i < 2, layer="title"))
        x += share * inner
    book.fixed(Text(d.width - MARGIN - 2, MARGIN + 2.5, f"Sheet {sheet}", 1.8, anchor="end", layer="title"))
    book.fixed(
        Text(MARGIN + 2, MARGIN + 2.5, "Ivory Ridge · derived from the model, not issued", 1.8, colour="grey", layer="title")
    )


def _width(text: str, size: float, bold: bool) -> float:
    from .fonts import text_width

    return text_width(text, size, bold)


def draw_north(d: Drawing, book: LabelBook, x: float, y: float, turn: float) -> None:
    """An arrow 16 mm high around (x, y), turned as the plan is (rad, counter-clockwise)."""
    shape: Any = np.array([[0, 8], [-3, -7], [0, -4.5], [3, -7]])
    c, s = np.cos(turn), np.sin(turn)
    turned = shape @ np.array([[c, s], [-s, c]])
    d.line(turned + np.array([x, y]), width=0.25, closed=True, fill="black", layer="border")
    tip = np.array([0, 10.5]) @ np.array([[c, s], [-s, c]])
    book.keep_free(x - 9, y - 9, x + 9, y + 9)
    book.fixed(Text(x + tip[0], y + tip[1] - 1.2, "N", 3.5, anchor="middle", bold=True, layer="border"))


def draw_scale_bar(d: Drawing, book: LabelBook, x: float, y: float, scale: float) -> None:
    """A bar of four fields, about 60 mm long, at (x, y)."""
    units = spoken()
    step = next(m for m in (1, 2, 5, 10, 20, 25, 50, 100, 200, 500, 1000, 5000, 20000) if m * units.metre * 1000 / scale >= 12)
    width = step * units.metre * 1000 / scale
    book.keep_free(x - 4, y - 1, x + 4 * width + 14, y + 7)
    for i in range(4):
        d.box(x + i * width, y, x + (i + 1) * width, y + 1.5, width=0.18, fill="black" if i % 2 == 0 else "paper", layer="border")
    for i in range(5):
        d.texts.append(
            Text(
                x + i * width,
                y + 2.6,
                f"{i * step}" + (f" {units.length}" if i == 4 else ""),
                1.8,
                anchor="middle" if i < 4 else "start",
                layer="border",
            )
        )
