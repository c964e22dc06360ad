"""The legend of a plan: made from what is on it, in the corner where it covers least of the road."""

from __future__ import annotations

from dataclasses import asdict

import numpy as np
import shapely
from numpy.typing import NDArray

from ..section.roles import PaperStyle
from .drawing import Drawing, Text
from .fonts import text_width
from .labels import LabelBook

__all__ = ["Shown", "Window", "draw_legend"]

Window = tuple[float, float, float, float]

ROW = 4.2  # mm
SAMPLE = 14.0  # mm of line before its name
PAD = 2.5
MOST_ROWS = 14


class Shown:
    """What has been drawn on a plan, in order, each once."""

    def __init__(self) -> None:
        self.rows: dict[str, PaperStyle] = {}

    def line(self, name: str, style: PaperStyle, *, first: bool = False) -> None:
        if first:
            self.rows = {name: style, **self.rows}
        else:
            self.rows.setdefault(name, style)


def draw_legend(d: Drawing, book: LabelBook, shown: Shown, window: Window, centre: NDArray[np.float64]) -> None:
    """A box on white with a row a line, heaviest first; ``centre`` (n, 2) mm is the road, of which it covers as little as can be."""
    rows = sorted(shown.rows.items(), key=lambda r: -r[1].width)[:MOST_ROWS]
    width = 2 * PAD + SAMPLE + 3 + max(text_width(name, 1.8) for name, _ in rows)
    height = 2 * PAD + ROW * len(rows) + 4.5
    x0, y0, x1, y1 = window
    road = shapely.LineString(centre).buffer(25.0)
    places = [(x0 + 4, y1 - 4 - height), (x1 - 4 - width, y0 + 4), (x0 + 4, y0 + 16), (x1 - 4 - width, y1 - 32 - height)]
    x, y = min(
        places,
        key=lambda p: (round(shapely.box(p[0], p[1], p[0] + width, p[1] + height).intersection(road).area), places.index(p)),
    )
    d.box(x, y, x + width, y + height, width=0.18, fill="paper", layer="legend")
    book.fixed(Text(x + PAD, y + height - PAD - 2.6, "Legend", 2.5, bold=True, layer="legend"))
    for i, (name, style) in enumerate(rows):
        at = y + height - PAD - 4.5 - ROW * (i + 0.5)
        d.line([[x + PAD, at], [x + PAD + SAMPLE, at]], layer="legend", **asdict(style))
        d.texts.append(Text(x + PAD + SAMPLE + 3, at - 0.9, name, 1.8, layer="legend"))
    book.keep_free(x, y, x + width, y + height)
