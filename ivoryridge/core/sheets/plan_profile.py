"""Plan over profile: the plan along the road above its long section, on the same stretch, with bands below."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..alignment.stationing import round_stations
from ..terrain.contour import levels_between
from ..wording import quantity, spoken
from .drawing import PAPERS, Drawing, Map, Text
from .frame import (
    BAND,
    BANDS,
    MARGIN,
    NAMES,
    STRIP,
    Frame,
    RoadToDraw,
    SheetSettings,
    draw_border,
    draw_north,
    draw_scale_bar,
    plan_window,
    profile_window,
)
from .labels import LabelBook
from .plan import draw_plan

Floats = NDArray[np.float64]

__all__ = ["draw_plan_profile", "fitting_exaggeration"]

_EXAGGERATIONS = (50.0, 25.0, 20.0, 10.0, 5.0, 4.0, 2.5, 2.0, 1.0)
_AIR = 6.0  # mm free above and below the long section's lines
_NAMES = {
    "chainage": "",
    "ground": "Ground level",
    "design": "Design level",
    "difference": "Design − ground",
    "grades": "Grades and curves",
    "bends": "Straights and bends",
}


def draw_plan_profile(road: RoadToDraw, frame: Frame, settings: SheetSettings, *, count: int) -> Drawing:
    """One sheet. Its maps are ``plan`` (E, N) and ``profile`` (station, level)."""
    width, height = PAPERS[settings.paper]
    stations = f"{settings.station_text(frame.start, 0)} to {settings.station_text(frame.end, 0)}"
    d = Drawing(width, height, f"{settings.road}, plan and profile {stations}")
    book = LabelBook(d)
    profile = _profile_map(road, frame, settings)
    vertical = 1000.0 / profile.scale[1]
    draw_border(
        d, book, settings, title=f"Plan and profile {stations}", scales=f"1:{settings.scale:g}, levels 1:{vertical:g}",
        sheet=f"{frame.number} of {count}",
    )  # fmt: skip
    d.maps["plan"], d.maps["profile"] = frame.plan, profile
    x0, y0, x1, y1 = plan_window(settings.paper)
    d.line([[x0, y0], [x1, y0]], width=0.25, layer="border")
    draw_north(d, book, x1 - 14, y1 - 16, frame.plan.turn)
    draw_scale_bar(d, book, x0 + 8, y0 + 5, settings.scale)
    draw_plan(d, book, road, frame, settings)
    _draw_profile(d, book, road, frame, settings)
    _draw_bands(d, book, road, frame, settings)
    return d


# --- profile -------------------------------------------------------------------------------------------------
def _in_frame(points: Floats, frame: Frame) -> Floats:
    """(k, 2) rows of station and level inside the frame, with both ends."""
    if len(points) < 2:
        return np.empty((0, 2))
    inside = points[(points[:, 0] > frame.start) & (points[:, 0] < frame.end)]
    known = points[np.isfinite(points[:, 1])]
    if len(known) < 2:
        return inside
    ends = [
        [s, np.interp(s, known[:, 0], known[:, 1])]
        for s in (frame.start, frame.end)
        if known[0, 0] - 1e-6 <= s <= known[-1, 0] + 1e-6
    ]
    return np.array(sorted([*inside.tolist(), *ends], key=lambda r: r[0])).reshape(-1, 2)


def _design(road: RoadToDraw, frame: Frame) -> Floats:
    keys = road.profile.station
    s = np.unique(
        np.concatenate([np.arange(frame.start, frame.end, 2.0), keys[(keys > frame.start) & (keys < frame.end)], [frame.end]])
    )
    return np.column_stack([s, road.profile.evaluate(s)[0]])


def fitting_exaggeration(road: RoadToDraw, frames: Sequence[Frame], settings: SheetSettings) -> float:
    """The wanted exaggeration, or the next smaller one at which the levels of every frame find room: one scale in a whole set."""
    return min(_profile_fit(road, f, settings)[0] for f in frames)


def _profile_fit(road: RoadToDraw, frame: Frame, settings: SheetSettings) -> tuple[float, float]:
    """Exaggeration at which all levels of a frame find room, and the level at its foot."""
    _, y0, _, y1 = profile_window(settings.paper)
    levels = np.concatenate([_design(road, frame)[:, 1], _in_frame(road.ground, frame)[:, 1]])
    levels = levels[np.isfinite(levels)]
    low, high = (float(levels.min()), float(levels.max())) if len(levels) else (0.0, 10.0)
    along, metre = 1000.0 / settings.scale, spoken().metre
    exaggeration, datum = settings.exaggeration, 0.0
    for exaggeration in (settings.exaggeration, *(e for e in _EXAGGERATIONS if e < settings.exaggeration)):
        up = along * exaggeration
        datum = float(np.floor((low - _AIR / up) / (5.0 * metre)) * 5.0 * metre)
        if (high - datum) * up <= y1 - y0 - _AIR:
            break
    return exaggeration, datum


def _profile_map(road: RoadToDraw, frame: Frame, settings: SheetSettings) -> Map:
    """Levels at the wanted exaggeration, or the next smaller one at which all of them find room."""
    x0, y0, _, _ = profile_window(settings.paper)
    exaggeration, datum = _profile_fit(road, frame, settings)
    along = 1000.0 / settings.scale
    return Map((frame.start, datum), (x0, y0), (along, along * exaggeration))


def _draw_profile(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    x0, y0, x1, y1 = profile_window(settings.paper)
    m = d.maps["profile"]
    window = (x0, y0, x1, y1)
    top, metre = m.anchor[1] + (y1 - y0) / m.scale[1], spoken().metre
    step = next(s for s in (0.5 * metre * k for k in (1, 2, 4, 10, 20, 40, 100, 400)) if s * m.scale[1] >= 9)
    for level in levels_between(m.anchor[1] - 1e-9, top, step):
        y = m.to_paper([[frame.start, level]])[0, 1]
        d.line([[x0, y], [m.to_paper([[frame.end, level]])[0, 0], y]], width=0.13, colour="light", layer="profile-grid")
        book.place(
            [Text(x0 - 2, y - 0.9, quantity(round(level / metre, 3) * metre, "bare"), 1.8, anchor="end", layer="profile-grid")]
        )
    for s in _columns(frame, settings):
        x = m.to_paper([[s, 0]])[0, 0]
        d.line([[x, y0], [x, y1]], width=0.13, colour="light", layer="profile-grid")
    d.line([[x0, y1], [x0, y0]], width=0.25, layer="profile-grid")
    d.lines_within(
        m.to_paper(_in_frame(road.ground, frame)), window, width=0.25, colour="grey", dash=(2.5, 1.0), layer="ground-line"
    )
    d.lines_within(m.to_paper(_design(road, frame)), window, width=0.5, colour="spot", layer="design-line")
    for p in road.pvis:
        if frame.start <= p.station <= frame.end and p.half_in + p.half_out > 0:
            tangents = [
                [p.station - p.half_in, _tangent(road, p.station - p.half_in)],
                [p.station, p.elevation],
                [p.station + p.half_out, _tangent(road, p.station + p.half_out)],
            ]
            d.lines_within(m.to_paper(tangents), window, width=0.18, dash=(1.5, 1.0), layer="tangents")
            x, y = m.to_paper([[p.station, p.elevation]])[0]
            text = f"PVI {settings.station_text(p.station, 3)}  {quantity(p.elevation, 'bare', 3)}"
            book.place([Text(x, y + o, text, 1.8, anchor="middle", layer="tangents") for o in (4.0, 8.0, -7.0, -11.0, 14.0)])


def _tangent(road: RoadToDraw, station: float) -> float:
    return float(road.profile.evaluate(station)[0][0])


def _columns(frame: Frame, settings: SheetSettings) -> Floats:
    inner = round_stations(frame.start, frame.end, settings.band_interval, settings.equations)
    return np.unique(np.concatenate([[frame.start], inner, [frame.end]]))


# --- bands ---------------------------------------------------------------------------------------------------
def _draw_bands(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, settings: SheetSettings) -> None:
    _, y0, _, _ = profile_window(settings.paper)
    m = d.maps["profile"]
    right = float(m.to_paper([[frame.end, 0]])[0, 0])
    rows = {band: y0 - BAND * (i + 1) for i, band in enumerate(BANDS)}
    for band, y in rows.items():
        d.line([[MARGIN, y], [right, y]], width=0.18, layer="bands")
        name = _NAMES[band] or settings.chainage_word
        book.fixed(Text(MARGIN + 2, y + 2.2, name, 1.8, layer="bands"))
    d.line([[MARGIN, y0], [right, y0]], width=0.25, layer="bands")
    d.line([[right, y0], [right, MARGIN + STRIP]], width=0.18, layer="bands")
    d.line([[MARGIN + NAMES, y0], [MARGIN + NAMES, MARGIN + STRIP]], width=0.18, layer="bands")
    book.fixed(Text(MARGIN + 2, y0 + 2, f"Datum {quantity(m.anchor[1], 'm', 0)}", 1.8, bold=True, layer="bands"))
    known = road.ground[np.isfinite(road.ground[:, 1])] if len(road.ground) else np.empty((0, 2))
    for s in _columns(frame, settings):
        x = float(m.to_paper([[s, 0]])[0, 0])
        anchor: Any = "start" if s == frame.start else "end" if s == frame.end else "middle"
        nudge = 0.6 if anchor == "start" else -0.6 if anchor == "end" else 0.0
        design = float(road.profile.evaluate(s)[0][0])
        ground = float(np.interp(s, known[:, 0], known[:, 1], left=np.nan, right=np.nan)) if len(known) else np.nan
        metre = spoken().metre
        values = {
            "chainage": settings.station_text(float(s), 0 if abs(s / metre - round(s / metre)) < 1e-6 else 2),
            "ground": _level(ground),
            "design": _level(design),
            "difference": _level(design - ground, sign=True),
        }
        for band, text in values.items():
            if text:
                book.place([Text(x + nudge, rows[band] + 2.2, text, 1.8, anchor=anchor, layer="bands")])
    _grade_band(d, book, road, frame, rows["grades"])
    _bend_band(d, book, road, frame, rows["bends"])


def _level(value: float, sign: bool = False) -> str:
    return "" if not np.isfinite(value) else f"{value / spoken().metre:+.2f}" if sign else quantity(value, "bare", 2)


def _grade_band(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, y: float) -> None:
    """Each grade from PVI to PVI as a slanting line, and each curve between its ends."""
    m = d.maps["profile"]
    for a, b in zip(road.pvis[:-1], road.pvis[1:], strict=True):
        s0, s1 = max(a.station, frame.start), min(b.station, frame.end)
        if s1 - s0 < 1e-6:
            continue
        x0, x1 = (float(v) for v in m.to_paper([[s0, 0], [s1, 0]])[:, 0])
        grade = (b.elevation - a.elevation) / (b.station - a.station)
        d.line(
            [[x0, y + (1.0 if grade > 0 else BAND - 1.0)], [x1, y + (BAND - 1.0 if grade > 0 else 1.0)]],
            width=0.18,
            layer="bands",
        )
        d.line([[x1, y], [x1, y + BAND]], width=0.13, layer="bands")
        length = b.half_in + b.half_out
        text = f"{100 * grade:+.3f} %" + (
            f"  (curve {quantity(length, 'm', 1)} follows)" if length and b.station <= frame.end and x1 - x0 > 60 else ""
        )
        third = x0 + (x1 - x0) * (0.30 if grade > 0 else 0.70)
        book.place(
            [
                Text(third, y + 3.6, text, 1.8, anchor="middle", layer="bands"),
                Text(third, y + 3.6, f"{100 * grade:+.2f} %", 1.3, anchor="middle", layer="bands"),
            ]
        )


def _bend_band(d: Drawing, book: LabelBook, road: RoadToDraw, frame: Frame, y: float) -> None:
    """Curvature as a stepped line, up for right, with the radius in it."""
    m = d.maps["profile"]
    ends = road.line.stations
    most = float(max(np.abs(road.line.k0).max(), np.abs(road.line.k1).max(), 1e-9))
    stations = np.unique(np.concatenate([ends[(ends > frame.start) & (ends < frame.end)], [frame.start, frame.end]]))
    path = []
    for s in stations:
        before = road.line.evaluate(s - 1e-6)[2][0]
        after = road.line.evaluate(s + 1e-6)[2][0]
        x = m.to_paper([[s, 0]])[0, 0]
        path += [[x, y + BAND / 2 + before / most * 2.4], [x, y + BAND / 2 + after / most * 2.4]]
    d.line(path[1:-1], width=0.25, layer="bands")
    for i in range(len(road.line.length)):
        s0, s1 = max(ends[i], frame.start), min(ends[i + 1], frame.end)
        if s1 - s0 < 1e-6 or road.line.kind(i) != "Curve":
            continue
        x = float(m.to_paper([[(s0 + s1) / 2, 0]])[0, 0])
        k = float(road.line.k0[i])
        book.place(
            [
                Text(
                    x,
                    y + (0.9 if k > 0 else BAND / 2 + 0.4),
                    f"R {quantity(1 / abs(k), 'bare', 1)} {'right' if k > 0 else 'left'}",
                    1.8,
                    anchor="middle",
                    layer="bands",
                )
            ]
        )
