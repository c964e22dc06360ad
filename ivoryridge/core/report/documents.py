"""Reports as documents: DOCX by python-docx, PDF by reportlab."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import Any

from .table import Column, Table

__all__ = ["cell_text", "write_docx", "write_pdf"]

_WIDE = 8  # columns from which a page lies on its side


def cell_text(column: Column, value: Any, station_text: Callable[[float], str]) -> str:
    """A value as people read it; empty where there is nothing to say."""
    if value is None or value == "":
        return ""
    if column.kind == "station":
        return station_text(float(value))
    if column.kind == "text":
        return str(value)
    return f"{value:+.{column.decimals}f}" if column.signed else f"{value:.{column.decimals}f}"


def _head(column: Column) -> str:
    return f"{column.name} {column.unit}".strip() if column.kind == "number" else column.name


def write_docx(title: str, tables: Sequence[Table], station_text: Callable[[float], str]) -> bytes:
    """A Word document with a heading, what is told, and one table after the other; heads repeat on every page."""
    from docx import Document
    from docx.enum.section import WD_ORIENT
    from docx.enum.text import WD_ALIGN_PARAGRAPH
    from docx.oxml import OxmlElement
    from docx.shared import Mm, Pt

    document = Document()
    section = document.sections[0]
    section.page_width, section.page_height = Mm(210), Mm(297)
    if any(len(t.columns) >= _WIDE for t in tables):
        section.orientation = WD_ORIENT.LANDSCAPE
        section.page_width, section.page_height = Mm(297), Mm(210)
    section.left_margin = section.right_margin = Mm(15)
    document.add_heading(title, level=1)
    for table in tables:
        document.add_heading(table.title, level=2)
        for line in table.told:
            document.add_paragraph(line)
        grid = document.add_table(rows=1, cols=len(table.columns))
        grid.style = "Light Grid"
        repeat = OxmlElement("w:tblHeader")
        grid.rows[0]._tr.get_or_add_trPr().append(repeat)
        rows = [[_head(c) for c in table.columns]] + [
            [cell_text(c, v, station_text) for c, v in zip(table.columns, row, strict=True)] for row in table.rows
        ]
        for i, row in enumerate(rows):
            cells = grid.rows[0].cells if i == 0 else grid.add_row().cells
            for cell, column, text in zip(cells, table.columns, row, strict=True):
                paragraph = cell.paragraphs[0]
                run = paragraph.add_run(text)
                run.font.size = Pt(8)
                if column.kind != "text":
                    paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def write_pdf(
    title: str,
    tables: Sequence[Table],
    station_text: Callable[[float], str],
    fonts: tuple[str, str] = ("Helvetica", "Helvetica-Bold"),
) -> bytes:
    """A PDF with the same content, A4; ``fonts``: names of a plain and a bold one that the PDF library knows. Table heads repeat on
    every page."""
    from reportlab.lib import colors
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.lib.styles import ParagraphStyle
    from reportlab.lib.units import mm
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer
    from reportlab.platypus import Table as Grid

    plain, bold = fonts
    wide = any(len(t.columns) >= _WIDE for t in tables)
    size = landscape(A4) if wide else A4
    text = ParagraphStyle("text", fontName=plain, fontSize=8.5, leading=11)
    heads = [
        ParagraphStyle(f"h{n}", fontName=bold, fontSize=s, leading=s * 1.3, spaceBefore=s * 0.6) for n, s in ((1, 14), (2, 10.5))
    ]

    def numbered(canvas: Any, document: Any) -> None:
        canvas.setFont(plain, 7.5)
        canvas.drawRightString(size[0] - 15 * mm, 9 * mm, f"{title} · {document.page}")

    parts: list[Any] = [Paragraph(_plain(title), heads[0])]
    for table in tables:
        parts.append(Paragraph(_plain(table.title), heads[1]))
        parts += [Paragraph(_plain(line), text) for line in table.told]
        rows = [[_head(c) for c in table.columns]] + [
            [cell_text(c, v, station_text) for c, v in zip(table.columns, row, strict=True)] for row in table.rows
        ]
        style: list[Any] = [
            ("FONT", (0, 0), (-1, -1), plain, 7.5), ("FONT", (0, 0), (-1, 0), bold, 7.5), ("LINEBELOW", (0, 0), (-1, -1), 0.25,
            colors.grey),
            ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
        ]  # fmt: skip
        style += [("ALIGN", (i, 0), (i, -1), "RIGHT") for i, c in enumerate(table.columns) if c.kind != "text"]
        parts += [Spacer(1, 2 * mm), Grid(rows, repeatRows=1, style=style, hAlign="LEFT"), Spacer(1, 4 * mm)]
    out = io.BytesIO()
    margin = 15 * mm
    SimpleDocTemplate(
        out, pagesize=size, title=title, leftMargin=margin, rightMargin=margin, topMargin=margin, bottomMargin=margin
    ).build(parts, onFirstPage=numbered, onLaterPages=numbered)
    return out.getvalue()


def _plain(text: str) -> str:
    """Text for a paragraph, whose mini-markup would read < and &."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
