"""Placing of texts so that none covers another: candidates in order of liking, the first free one is taken."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import shapely
from shapely.geometry import Polygon

from .drawing import Drawing, Text, text_box

__all__ = ["LabelBook"]

_EDGE = 10.0  # mm from the paper's edge to the border
_AIR = 0.3  # mm kept free around every text


class LabelBook:
    """Knows where texts stand on one sheet."""

    def __init__(self, drawing: Drawing) -> None:
        self.drawing = drawing
        self._taken: list[Any] = []
        self._border = shapely.box(_EDGE, _EDGE, drawing.width - _EDGE, drawing.height - _EDGE)

    def fixed(self, text: Text) -> None:
        """A text that must stand here; what is placed later keeps clear of it."""
        self.drawing.texts.append(text)
        self._taken.append(self.shape_of(text))

    def place(self, candidates: Iterable[Text]) -> bool:
        """Set the first candidate that covers no other text; its words are kept as missed when none is free."""
        words = ""
        for text in candidates:
            words = text.text
            if self.try_at(text):
                return True
        self.drawing.missed.append(words)
        return False

    def try_at(self, text: Text) -> bool:
        """Set a text if its place is free; it is no loss if not."""
        shape = self.shape_of(text)
        if not self.is_free(shape):
            return False
        self.drawing.texts.append(text)
        self._taken.append(shape)
        return True

    def keep_free(self, x0: float, y0: float, x1: float, y1: float) -> None:
        self._taken.append(shapely.box(x0, y0, x1, y1))

    def is_free(self, shape: Any) -> bool:
        """Inside the border and clear of all that stands."""
        return bool(self._border.covers(shape)) and not (self._taken and shapely.intersects(shape, self._taken).any())

    @staticmethod
    def shape_of(text: Text) -> Any:
        return Polygon(text_box(text)).buffer(_AIR, join_style="mitre")
