"""The fonts of sheets, shipped with the program, and the widths of texts in them."""

from __future__ import annotations

from functools import cache
from importlib import resources
from typing import Any

__all__ = ["CAP_SHARE", "FAMILY", "font_bytes", "font_name", "text_width"]

FAMILY = "DejaVu Sans Condensed"
CAP_SHARE = 0.729  # height of capitals over font size; OS/2 table of the font, 1493 of 2048 units
_FILES = {False: "DejaVuSansCondensed.ttf", True: "DejaVuSansCondensed-Bold.ttf"}


def font_bytes(bold: bool) -> bytes:
    return (resources.files(__package__) / "fonts" / _FILES[bold]).read_bytes()


@cache
def font_name(bold: bool) -> str:
    """Register the font once with the PDF library; its name there."""
    import io

    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    name = "SheetBold" if bold else "Sheet"
    source: Any = io.BytesIO(font_bytes(bold))
    pdfmetrics.registerFont(TTFont(name, source))
    return name


@cache
def text_width(text: str, size: float, bold: bool = False) -> float:
    """Width in mm of a text whose capitals are ``size`` mm high."""
    from reportlab.pdfbase import pdfmetrics

    return float(pdfmetrics.stringWidth(text, font_name(bold), size / CAP_SHARE))
