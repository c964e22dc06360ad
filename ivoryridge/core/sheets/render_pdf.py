"""PDF of drawings, a page each, with the font embedded."""

from __future__ import annotations

import io
from collections.abc import Iterable

from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from .drawing import COLOURS, Drawing, Stroke, Text
from .fonts import CAP_SHARE, font_name

__all__ = ["render_pdf"]


def render_pdf(drawings: Iterable[Drawing], *, title: str, author: str = "Ivory Ridge") -> bytes:
    """One PDF file; 1 mm on paper is 1 mm in the drawing. The same drawings give the same bytes."""
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    canvas.setTitle(title)
    canvas.setAuthor(author)
    for d in drawings:
        canvas.setPageSize((d.width * mm, d.height * mm))
        canvas.setLineJoin(1)
        canvas.setLineCap(1)
        for s in d.strokes:
            _stroke(canvas, s)
        for t in d.texts:
            _text(canvas, t)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _stroke(canvas: Canvas, s: Stroke) -> None:
    path = canvas.beginPath()
    path.moveTo(s.points[0, 0] * mm, s.points[0, 1] * mm)
    for x, y in s.points[1:]:
        path.lineTo(x * mm, y * mm)
    if s.closed:
        path.close()
    if s.width > 0:
        canvas.setLineWidth(s.width * mm)
        canvas.setStrokeColor(HexColor(COLOURS[s.colour]))
        canvas.setDash([d * mm for d in s.dash] if s.dash else [])
    if s.fill:
        canvas.setFillColor(HexColor(COLOURS[s.fill]))
    canvas.drawPath(path, stroke=int(s.width > 0), fill=int(bool(s.fill)))


def _text(canvas: Canvas, t: Text) -> None:
    canvas.saveState()
    canvas.translate(t.x * mm, t.y * mm)
    canvas.rotate(t.turn)
    canvas.setFont(font_name(t.bold), t.size / CAP_SHARE * mm)
    canvas.setFillColor(HexColor(COLOURS[t.colour]))
    draw = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[t.anchor]
    draw(0, 0, t.text)
    canvas.restoreState()
