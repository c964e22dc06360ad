"""SVG of a drawing. Texts carry their width, so that another font in the browser cannot make them cover each other."""

from __future__ import annotations

from xml.sax.saxutils import escape

from .drawing import COLOURS, Drawing, Stroke, Text
from .fonts import CAP_SHARE, FAMILY, text_width

__all__ = ["render_svg"]


def render_svg(drawing: Drawing) -> str:
    """The drawing as an SVG document of its paper size, in mm."""
    h = drawing.height
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{drawing.width:g}mm" height="{h:g}mm" viewBox="0 0 {drawing.width:g} {h:g}" '
        f'font-family="\'{FAMILY}\', \'IBM Plex Sans Condensed\', sans-serif" stroke-linejoin="round" stroke-linecap="round">',
        f"<title>{escape(drawing.title)}</title>",
        f'<rect width="{drawing.width:g}" height="{h:g}" fill="#fff"/>',
    ]
    out += [_stroke(s, h) for s in drawing.strokes]
    out += [_text(t, h) for t in drawing.texts]
    return "\n".join([*out, "</svg>"])


def _stroke(s: Stroke, h: float) -> str:
    points = " ".join(f"{x:.4f},{h - y:.4f}" for x, y in s.points)
    style = f'fill="{COLOURS[s.fill] if s.fill else "none"}"'
    style += f' stroke="{COLOURS[s.colour]}" stroke-width="{s.width:g}"' if s.width > 0 else ' stroke="none"'
    if s.dash:
        style += f' stroke-dasharray="{" ".join(f"{d:g}" for d in s.dash)}"'
    return f'<{"polygon" if s.closed else "polyline"} points="{points}" {style}/>'


def _text(t: Text, h: float) -> str:
    turn = f' transform="rotate({-t.turn:.3f} {t.x:.4f} {h - t.y:.4f})"' if t.turn else ""
    weight = ' font-weight="bold"' if t.bold else ""
    width = text_width(t.text, t.size, t.bold)
    return (
        f'<text x="{t.x:.4f}" y="{h - t.y:.4f}" font-size="{t.size / CAP_SHARE:.4f}" text-anchor="{t.anchor}" fill="{COLOURS[t.colour]}"'
        f'{weight}{turn} textLength="{width:.4f}" lengthAdjust="spacingAndGlyphs">{escape(t.text)}</text>'
    )
