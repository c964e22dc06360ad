"""The plan of a sheet: contours, mapping and other roads under the road, with chainages, elements and a legend."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..alignment.horizontal import sample_stations
from ..alignment.stationing import counted_at, round_stations
from ..section.roles import PaperStyle, role_named
from ..wording import quantity, spoken
from .drawing import Drawing, Stroke, Text, text_box
from .fonts import text_width
from .frame import (
    Frame,
    RoadToDraw,
    SheetSettings,
    plan_window,
)
from .labels import LabelBook
from .legend import Shown, Window, draw_legend

Floats = NDArray[np.float64]

__all__ = ["draw_plan"]

_CLEAR = 18.0  # mm from the road's line within which no contour is labelled: its own values stand there


def _text_at(place: Any, text: str, size: float, **style: Any) -> Text:
    return Text(float(place[0]), float(place[1]), text, size, **style)


def draw_plan(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    """The plan along the road within a frame: what is there, what is built, its texts and a legend."""
    window = plan_window(settings.paper)
    to_paper = frame.plan.to_paper
    stations = np.unique(
        np.concatenate(
            [
                np.linspace(frame.start, frame.end, 400),
                road.line.stations[(road.line.stations > frame.start) & (road.line.stations < frame.end)],
            ]
        )
    )
    centre = to_paper(road.line.evaluate(stations)[0])
    shown = Shown()
    _draw_mapping(d, road, frame, window, shown)
    contours = _draw_contours(d, road, frame, window, shown)
    over_contours = len(d.strokes)
    others = _draw_others(d, road, frame, window, shown)
    for edge in road.edges:
        style = role_named(edge.role).paper
        if style and d.lines_within(to_paper(edge.points), window, layer=edge.role.replace(" ", "-"), **asdict(style)):
            shown.line(edge.role, style)
    axis = PaperStyle(0.35, "spot", (8.0, 1.5, 1.5, 1.5))
    d.lines_within(centre, window, layer="centre-line", **asdict(axis))
    shown.line("line of the road", axis, first=True)
    draw_legend(d, book, shown, window, centre)  # before all texts: they keep clear of it
    clear_of = shapely.LineString(centre).buffer(_CLEAR)
    for pieces, level in contours:
        label = _along(book, pieces, quantity(level, "bare"), "contours", clear_of=clear_of)
        if label is not None:
            white = Stroke(text_box(label), width=0.0, closed=True, fill="paper", layer="contours")
            d.strokes.insert(over_contours, white)
    for pieces, name in others:
        _along(book, pieces, name, "other-roads", beside=1.2)
    _draw_grid(d, book, frame, window)
    _draw_match_lines(d, book, road, frame, settings)
    _draw_tangent_points(d, book, road, frame, settings)
    _draw_chainages(d, book, road, frame, settings)


def _near(points: Floats, frame: Frame) -> bool:
    """Whether a line's box meets the box of a frame."""
    corners = np.array(frame.corners)
    low, high = corners.min(axis=0), corners.max(axis=0)
    return not ((points[:, :2].max(axis=0) < low).any() or (points[:, :2].min(axis=0) > high).any())


def _draw_mapping(d: Drawing, road: RoadToDraw, frame: Frame, window: Window, shown: Shown) -> None:
    style = PaperStyle(0.13, "grey")
    for layer, line in road.mapping:
        if _near(line, frame) and d.lines_within(
            frame.plan.to_paper(line), window, layer=f"mapping-{layer}"[:60], **asdict(style)
        ):
            shown.line("mapping as received", style)


def _draw_others(d: Drawing, road: RoadToDraw, frame: Frame, window: Window, shown: Shown) -> list[tuple[list[Floats], str]]:
    """Lines of the project's other roads, and returns as the edges they are; the pieces that are to be named."""
    named = []
    axis, kerb = PaperStyle(0.25, "grey", (8.0, 1.5, 1.5, 1.5)), PaperStyle(0.25)
    for other in road.others:
        s = sample_stations(other.line, 20.0, 0.02)
        places = other.line.evaluate(s)[0]
        style = kerb if other.kerb else axis
        if not _near(places, frame):
            continue
        layer = "junction-edges" if other.kerb else "other-roads"
        pieces = d.lines_within(frame.plan.to_paper(places), window, layer=layer, **asdict(style))
        if not pieces:
            continue
        shown.line("edge of a junction" if other.kerb else "other road", style)
        if not other.kerb:
            named.append((pieces, other.name))
    return named


def _along(
    book: LabelBook, pieces: list[Floats], text: str, layer: str, *, beside: float = 0.0, clear_of: shapely.Geometry | None = None
) -> Text | None:
    """A text along the longest piece of a line (mm) that has room for it, in it or ``beside`` mm off; None where there is none."""
    size = 1.8
    for piece in sorted(pieces, key=lambda p: -_length(p)):
        far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(piece, axis=0).T))])
        if far[-1] < 2.0 * text_width(text, size):
            return None
        for share in (0.5, 0.3, 0.7, 0.15, 0.85):
            before, at, behind = (
                np.array([np.interp(share * far[-1] + o, far, piece[:, k]) for k in (0, 1)]) for o in (-1.0, 0.0, 1.0)
            )
            turn = float((np.degrees(np.arctan2(*(behind - before)[::-1])) + 90) % 180 - 90)
            up = np.array([-np.sin(np.radians(turn)), np.cos(np.radians(turn))])
            x, y = at + up * (beside or -0.36 * size)
            label = Text(float(x), float(y), text, size, anchor="middle", turn=turn, colour="grey", layer=layer)
            if (clear_of is None or not clear_of.intersects(book.shape_of(label))) and book.try_at(label):
                return label
    return None


def _length(points: Floats) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _draw_contours(d: Drawing, road: RoadToDraw, frame: Frame, window: Window, shown: Shown) -> list[tuple[list[Floats], float]]:
    """Every fifth one stronger; the pieces of these with their levels, which are to be written into them."""
    if road.contours is None:
        return []
    xy, starts, levels = road.contours
    labelled: list[tuple[list[Floats], float]] = []
    for i, level in enumerate(levels):
        line = xy[starts[i] : starts[i + 1]]
        if not _near(line, frame):
            continue
        major = round(level / road.contour_interval) % 5 == 0
        style = PaperStyle(0.18, "grey") if major else PaperStyle(0.13, "light")
        pieces = d.lines_within(frame.plan.to_paper(line), window, layer="contours", **asdict(style))
        if pieces and major:
            labelled.append((pieces, float(level)))
        if pieces:
            every = road.contour_interval * (5 if major else 1)
            shown.line(f"contour every {quantity(every, 'm')}", style)
    return labelled


def _draw_grid(d: Drawing, book: LabelBook, frame: Frame, window: tuple[float, float, float, float]) -> None:
    """Crosses where round coordinates meet, with their values where the sheet has room."""
    corners = np.array(frame.corners)
    metre = spoken().metre
    step = (100.0 if metre == 1.0 else 200.0) * (1 if frame.plan.scale[0] > 0.4 else 2) * metre
    e = np.arange(np.ceil(corners[:, 0].min() / step), np.floor(corners[:, 0].max() / step) + 1) * step
    n = np.arange(np.ceil(corners[:, 1].min() / step), np.floor(corners[:, 1].max() / step) + 1) * step
    if not len(e) or not len(n):
        return
    grid = np.stack(np.meshgrid(e, n), axis=-1).reshape(-1, 2)
    at = frame.plan.to_paper(grid)
    x0, y0, x1, y1 = window
    inside = (at[:, 0] > x0 + 4) & (at[:, 0] < x1 - 4) & (at[:, 1] > y0 + 4) & (at[:, 1] < y1 - 4)
    c, s = np.cos(frame.plan.turn), np.sin(frame.plan.turn)
    for place, (x, y) in zip(grid[inside], at[inside], strict=True):
        for ux, uy in ((c, s), (-s, c)):
            d.line([[x - 2 * ux, y - 2 * uy], [x + 2 * ux, y + 2 * uy]], width=0.13, colour="grey", layer="grid")
        text = f"E {quantity(place[0], 'bare', 0)}  N {quantity(place[1], 'bare', 0)}"
        label = Text(x + 1.2, y + 0.9, text, 1.3, colour="grey", layer="grid")
        if book.is_free(book.shape_of(label)):  # a value less is no loss: its neighbours tell
            book.fixed(label)


def _draw_match_lines(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    for station, at_end in ((frame.start, False), (frame.end, True)):
        inner = road.line.end_station if at_end else road.line.start_station
        if abs(station - inner) < 1e-6:
            continue
        place, azimuth, _ = road.line.evaluate(station)
        right = np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])])
        half = 30.0 / frame.plan.scale[0]
        p = frame.plan.to_paper([place[0] - half * right, place[0] + half * right])
        d.lines_within(p, plan_window(settings.paper), width=0.35, dash=(6.0, 2.0), layer="match-lines")
        turn = float(np.degrees(np.arctan2(p[0, 1] - p[1, 1], p[0, 0] - p[1, 0])))
        text = f"Match line {settings.station_text(station, 0)}, sheet {frame.number + (1 if at_end else -1)}"
        along = (p[0] - p[1]) / np.hypot(*(p[0] - p[1]))
        side = np.array([along[1], -along[0]]) * (1.2 if not at_end else -1.2 - 2.5)
        book.place([_text_at(p[1] + along * a + side, text, 1.8, turn=turn, layer="match-lines") for a in (34.0, 2.0)])


def _draw_tangent_points(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    """A tick and the chainage at every tangent point, and the values of each element along it."""
    ends = road.line.stations
    for s in ends:
        if frame.start - 1e-6 <= s <= frame.end + 1e-6:
            _mark_beside(d, book, road, frame, float(s), settings.station_text(float(s), 3), side=1.0, size=1.8)
    for i, length in enumerate(road.line.length):
        middle = (max(ends[i], frame.start) + min(ends[i + 1], frame.end)) / 2
        if ends[i + 1] <= frame.start or ends[i] >= frame.end:
            continue
        k0, k1, kind = float(road.line.k0[i]), float(road.line.k1[i]), road.line.kind(i)
        if kind == "Line":
            text = f"L {quantity(length, 'bare', 2)}"
        elif kind == "Curve":
            text = f"R {quantity(1 / abs(k0), 'bare', 2)}  L {quantity(length, 'bare', 2)}"
        else:
            text = f"A {quantity(np.sqrt(length / abs(k1 - k0)), 'bare', 2)}  L {quantity(length, 'bare', 2)}"
        place, azimuth, _ = road.line.evaluate(middle)
        right = np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])])
        turn = np.degrees(np.pi / 2 - azimuth[0] + frame.plan.turn)
        turn = (turn + 90) % 180 - 90
        at = frame.plan.to_paper(place)[0]
        out = frame.plan.to_paper(place + right)[0] - at
        out /= np.hypot(*out)
        book.place(
            [
                _text_at(at + out * o, text, 1.8, anchor="middle", turn=turn, colour="spot", layer="elements")
                for o in (24.0, 29.0, -27.0, -32.0, 34.0)
            ]
        )


def _mark_beside(
    d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, s: float, text: str, *, side: float, size: float
) -> None:
    place, azimuth, _ = road.line.evaluate(s)
    right = np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])]) * side
    at = frame.plan.to_paper(place)[0]
    out = frame.plan.to_paper(place + right)[0] - at
    out /= np.hypot(*out)
    d.line([at - 1.5 * out, at + 1.5 * out], width=0.25, colour="spot", layer="chainages")
    turn = float(np.degrees(np.arctan2(out[1], out[0])))
    flip = abs(turn) > 90
    turn = (turn + 180) % 360 if flip else turn
    turn = turn - 360 if turn > 180 else turn
    candidates = [
        _text_at(at + out * o, text, size, anchor="end" if flip else "start", turn=turn, colour="spot", layer="chainages")
        for o in (14.0, 18.0, 10.0, 24.0, 32.0)
    ]
    book.place(candidates)


def _draw_chainages(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    step = 20.0 if settings.scale <= 1250 else 50.0
    for s in round_stations(frame.start, frame.end, step, settings.equations):
        if round(counted_at(s, settings.equations)[0] / step) % 5 == 0:
            _mark_beside(d, book, road, frame, float(s), settings.station_text(float(s), 0), side=-1.0, size=2.5)
        else:
            place, azimuth, _ = road.line.evaluate(s)
            right = np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])]) / frame.plan.scale[0]
            d.line(frame.plan.to_paper([place[0] - right, place[0] + right]), width=0.18, colour="spot", layer="chainages")
