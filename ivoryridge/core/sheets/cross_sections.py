"""Cross-section sheets: sections in columns from the lower left upward, each with axis, datum, levels and areas."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from shapely.geometry import LineString, Polygon

from ..corridor.corridor import Corridor
from ..earthwork.end_area import SectionAreas
from ..section.columns import SideColumns
from ..section.roles import role_named
from ..wording import quantity, spoken
from .drawing import PAPERS, Drawing, Floats, Map, Text
from .frame import MARGIN, STRIP, SheetSettings, draw_border
from .labels import LabelBook

__all__ = ["draw_cross_sections"]

_FOOT = 22.0  # mm under each section for offsets and levels
_HEAD = 9.0  # mm above it for its title
_NAMES = 11.0  # mm more above it where nodes are named
_FILLS = {"surfacing": "black", "base": "grey", "subbase": "light"}


@dataclass(frozen=True, slots=True)
class _Room:
    """One section's room: half width left and right of the axis and height of its drawing, mm; datum m."""

    index: int
    left: float
    right: float
    height: float
    datum: float


def draw_cross_sections(corridor: Corridor, areas: SectionAreas, settings: SheetSettings) -> list[Drawing]:
    """All sections of a corridor on as many sheets as it takes; maps are named ``section N`` by index."""
    width, height = PAPERS[settings.paper]
    per_metre = 1000.0 / settings.section_scale
    more = _NAMES if "names" in settings.section_texts else 0.0
    rooms = [_room(corridor, i, per_metre, more) for i in range(len(corridor.station))]
    columns = _columns(rooms, height - 2 * MARGIN - STRIP - 4)
    pages: list[list[tuple[_Room, float, float]]] = []
    x = MARGIN + 6.0
    page: list[tuple[_Room, float, float]] = []
    for column in columns:
        own = max(b.left for b, _ in column) + max(b.right for b, _ in column) + 16
        if page and x + own > width - MARGIN - 4:
            pages.append(page)
            x, page = MARGIN + 6.0, []
        axis = x + max(b.left for b, _ in column) + 12
        page += [(b, axis, y) for b, y in column]
        x += own
    if page:
        pages.append(page)
    return [_page(corridor, areas, settings, page, k + 1, len(pages), per_metre) for k, page in enumerate(pages)]


def _nodes(columns: SideColumns, sign: float, i: int, role: str) -> Floats:
    rows = [(sign * columns.across[k, i], columns.level[k, i]) for k in columns.outline(role) if columns.present[k, i]]
    return np.array(rows).reshape(-1, 2)


def _extent(corridor: Corridor, i: int) -> tuple[float, float, float, float]:
    """Least and greatest offset and level that are drawn, m: the road and 3 m of ground on either side."""
    block, i = corridor.section(i)
    rows = np.concatenate([_nodes(c, s, i, role) for _, s, c, _ in block.sides() for role in ("finished", "formation")])
    left, right = rows[:, 0].min() - 3.0, rows[:, 0].max() + 3.0
    ground = block.ground.section(i)
    seen = ground[(ground[:, 0] >= left) & (ground[:, 0] <= right) & np.isfinite(ground[:, 1])]
    levels = np.concatenate([rows[:, 1], seen[:, 1]])
    return float(left), float(right), float(levels.min()), float(levels.max())


def _room(corridor: Corridor, i: int, per_metre: float, more: float) -> _Room:
    left, right, low, high = _extent(corridor, i)
    metre = spoken().metre
    datum = float(np.floor((low - 1.0) / metre)) * metre
    return _Room(i, -left * per_metre, right * per_metre, (high - datum) * per_metre + more, datum)


def _columns(rooms: list[_Room], room: float) -> list[list[tuple[_Room, float]]]:
    """Rooms stacked upward from the strip; a new column when the next one finds no room."""
    columns: list[list[tuple[_Room, float]]] = []
    y = np.inf
    for b in rooms:
        need = b.height + _FOOT + _HEAD
        if y + need > room:
            columns.append([])
            y = 0.0
        columns[-1].append((b, MARGIN + STRIP + 2 + y + _FOOT))
        y += need
    return columns


def _page(
    corridor: Corridor,
    areas: SectionAreas,
    settings: SheetSettings,
    page: list[tuple[_Room, float, float]],
    number: int,
    count: int,
    per_metre: float,
) -> Drawing:
    width, height = PAPERS[settings.paper]
    s = corridor.station
    stations = (
        f"{settings.station_text(float(s[page[0][0].index]), 0)} to {settings.station_text(float(s[page[-1][0].index]), 0)}"
    )
    d = Drawing(width, height, f"{settings.road}, cross sections {stations}")
    book = LabelBook(d)
    draw_border(
        d,
        book,
        settings,
        title=f"Cross sections {stations}",
        scales=f"1:{settings.section_scale:g}",
        sheet=f"{number} of {count}",
    )
    for b, x, y in page:
        m = Map((0.0, b.datum), (x, y), (per_metre, per_metre))
        d.maps[f"section {b.index}"] = m
        _section(d, book, corridor, areas, settings, b, m)
    return d


def _section(
    d: Drawing, book: LabelBook, corridor: Corridor, areas: SectionAreas, settings: SheetSettings, b: _Room, m: Map
) -> None:
    block, i = corridor.section(b.index)
    x, y = m.origin
    left, right = x - b.left, x + b.right
    window = (left, y - 1.0, right, y + b.height + 3.0)
    d.line([[left, y], [right, y]], width=0.18, layer="section-datum")
    d.line([[x, y], [x, y + b.height + 2]], width=0.13, colour="spot", dash=(6.0, 1.0, 1.0, 1.0), layer="section-axis")
    for _, sign, columns, _ in block.sides():
        for _, material, loop in columns.areas:
            if all(columns.present[k, i] for k in loop):
                points = m.to_paper([[sign * columns.across[k, i], columns.level[k, i]] for k in loop])
                d.line(points, width=0.0, closed=True, fill=_FILLS.get(material, "light"), layer=f"layer-{material}")
    d.lines_within(
        m.to_paper(block.ground.section(i)), window, width=0.25, colour="grey", dash=(2.5, 1.0), layer="section-ground"
    )
    for _, sign, columns, _ in block.sides():
        d.line(
            m.to_paper(_nodes(columns, sign, i, "formation")),
            width=0.18,
            colour="spot",
            dash=(2.0, 1.0),
            layer="section-formation",
        )
        d.line(m.to_paper(_nodes(columns, sign, i, "finished")), width=0.35, layer="section-finished")
    title = f"{settings.station_text(float(corridor.station[b.index]), 3)}"
    book.fixed(Text(x, y + b.height + 4.2, title, 2.5, anchor="middle", bold=True, layer="section-title"))
    told = f"cut {quantity(areas.cut[b.index], 'm2', 2)}   fill {quantity(areas.fill[b.index], 'm2', 2)}"
    book.place([Text(x, y + b.height + 1.2, told, 1.3, anchor="middle", layer="section-title")])
    for row, name in ((-5.0, "Offset"), (-11.7, "Design"), (-18.4, "Ground")):
        book.fixed(Text(left - 1, y + row, name, 1.3, anchor="end", colour="grey", layer="section-levels"))
    book.place([Text(left - 1, y + 0.6, quantity(b.datum, "bare", 0), 1.3, anchor="end", layer="section-levels")])
    _levels(d, book, corridor, b, m)
    for side, sign, columns, _ in block.sides():
        _texts(d, book, settings.section_texts, columns, sign, i, m, centre=side == "left")


def _signed(offset: float) -> str:
    return ("+" if offset > 0 else "") + quantity(offset, "bare", 2) if abs(offset) > 5e-3 else "0.00"


def _levels(d: Drawing, book: LabelBook, corridor: Corridor, b: _Room, m: Map) -> None:
    """Offset, design and ground level under the axis, pavement edges, toes and what lies between, where there is room."""
    block, i = corridor.section(b.index)
    ground = block.ground.section(i)
    wanted: list[tuple[int, float, float]] = []
    for side, sign, columns, _ in block.sides():
        for k, role in enumerate(columns.roles):
            if (
                role
                and columns.present[k, i]
                and not columns.guide[k]
                and not role_named(role).below
                and not (k == 0 and side == "right")
            ):
                rank = 0 if k == 0 else role_named(role).rank
                wanted.append((rank, float(sign * columns.across[k, i]), float(columns.level[k, i])))
    kept: list[float] = []
    for _, offset, level in sorted(wanted):
        x = float(m.to_paper([[offset, level]])[0, 0])
        if any(abs(x - other) < 2.6 for other in kept):
            continue
        kept.append(x)
        known = ground[np.isfinite(ground[:, 1])]
        at_ground = (
            quantity(float(np.interp(offset, known[:, 0], known[:, 1])), "bare", 2)
            if len(known) > 1 and known[0, 0] <= offset <= known[-1, 0]
            else ""
        )
        y = m.origin[1]
        d.line([[x, y], [x, y - 0.8]], width=0.13, layer="section-levels")
        for row, text in ((-1.2, _signed(offset)), (-7.9, quantity(level, "bare", 2)), (-14.6, at_ground)):
            if text:
                book.place([Text(x + 0.65, y + row, text, 1.3, anchor="end", turn=90.0, layer="section-levels")])


def _texts(
    d: Drawing, book: LabelBook, wanted: tuple[str, ...], columns: SideColumns, sign: float, i: int, m: Map, *, centre: bool
) -> None:
    """Names of nodes, slopes and widths along the finished line, layers with their thickness: each where it covers no other text."""
    line = [k for k in columns.outline("finished") if columns.present[k, i]]
    at = {k: m.to_paper([[sign * columns.across[k, i], columns.level[k, i]]])[0] for k in line}
    for k in line if "names" in wanted else ():
        role = columns.roles[k]
        if not role or (k == 0 and not centre):
            continue
        x, y = at[k]
        name = role_named(role).name
        book.place(Text(x + dx, y + 1.2, name, 1.3, turn=90.0, layer="section-names") for dx in (0.5, 1.9, -0.9))
    for a, b in itertools.pairwise(line):
        run, rise = columns.across[b, i] - columns.across[a, i], columns.level[b, i] - columns.level[a, i]
        middle, long = (at[a] + at[b]) / 2, float(np.hypot(*(at[b] - at[a])))
        for kind, text in (("slopes", _slope_text(run, rise)), ("widths", quantity(run, "bare", 2) if run > 5e-3 else "")):
            if kind in wanted and text and long > 1.1 * len(text):
                rows = (middle[1] + up for up in (0.8, 3.0, 5.2))
                book.place(Text(middle[0], y, text, 1.3, anchor="middle", layer=f"section-{kind}") for y in rows)
    if "layers" in wanted:
        _layer_texts(d, book, columns, sign, i, m)


def _slope_text(run: float, rise: float) -> str:
    """The slope of an edge as it is said: per cent below a tenth, else 1 : n; empty where it is upright (common practice, no source)."""
    if run < 5e-3:
        return ""
    slope = rise / run
    return f"{100 * slope:.1f} %" if abs(slope) < 0.1 else f"1 : {1 / abs(slope):.3g}"


def _layer_texts(d: Drawing, book: LabelBook, columns: SideColumns, sign: float, i: int, m: Map) -> None:
    """Material and upright thickness, under the lowest layer, each with a leader from inside its own."""
    loops = [(material, loop) for _, material, loop in columns.areas if all(columns.present[k, i] for k in loop)]
    for n, (material, loop) in reversed(list(enumerate(loops))):  # the lowest first: its leader crosses no text
        places = np.array([(columns.across[k, i], columns.level[k, i]) for k in loop])
        u = places[:, 0].min() + np.ptp(places[:, 0]) * (n + 1) / (len(loops) + 1)
        cut = Polygon(places).intersection(LineString([(u, -1e5), (u, 1e5)]))
        if cut.length < 5e-3:
            continue
        inside = m.to_paper([[sign * u, cut.centroid.y]])[0]
        text = f"{material} {quantity(cut.length, 'bare', 2)}"
        lowest = m.to_paper([[0.0, min(columns.level[k, i] for _, other in loops for k in other)]])[0, 1]
        for y in (lowest - 2.2, lowest - 4.5, lowest - 6.8, lowest - 9.1):
            label = Text(inside[0] + 0.5 * sign, y, text, 1.3, anchor="start" if sign > 0 else "end", layer="section-layers")
            if book.try_at(label):
                d.line([inside, [inside[0], y]], width=0.13, colour="grey", layer="section-layers")
                break
        else:
            d.missed.append(text)
