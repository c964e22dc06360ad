"""DXF of one drawing: paper millimetres in model space, layers by what things are, line weights kept."""

from __future__ import annotations

import io

import ezdxf
from ezdxf.enums import TextEntityAlignment
from ezdxf.lldxf.const import LINEWEIGHT_BYLAYER

from .drawing import COLOURS, Drawing
from .fonts import FAMILY

__all__ = ["render_dxf"]

_WEIGHTS = (13, 18, 25, 35, 50)  # 1/100 mm, those a DXF file knows
_ALIGN = {"start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "end": TextEntityAlignment.RIGHT}


def render_dxf(drawing: Drawing) -> str:
    """The drawing as the text of a DXF file (release R2010, units mm)."""
    document = ezdxf.new("R2010", units=4)  # 4: millimetres
    document.styles.add("SHEET", font="DejaVuSansCondensed.ttf")
    document.linetypes.add("SHEET_DASH", pattern=[3.0, 2.0, -1.0], description=f"dash, {FAMILY}")
    space = document.modelspace()
    for s in drawing.strokes:
        _layer(document, s.layer)
        attribs = {
            "layer": s.layer, "true_color": int(COLOURS[s.colour][1:], 16),
            "lineweight": min(_WEIGHTS, key=lambda w: abs(w - s.width * 100)) if s.width > 0 else LINEWEIGHT_BYLAYER,
            "linetype": "SHEET_DASH" if s.dash else "CONTINUOUS",
        }  # fmt: skip
        if s.fill and s.fill != "paper":
            hatch = space.add_hatch(dxfattribs={"layer": s.layer, "true_color": int(COLOURS[s.fill][1:], 16)})
            hatch.paths.add_polyline_path([(float(x), float(y)) for x, y in s.points], is_closed=True)
        if s.width > 0:
            space.add_lwpolyline([(float(x), float(y)) for x, y in s.points], close=s.closed, dxfattribs=attribs)
    for t in drawing.texts:
        _layer(document, t.layer)
        entity = space.add_text(
            t.text,
            height=t.size,
            rotation=t.turn,
            dxfattribs={"layer": t.layer, "style": "SHEET", "true_color": int(COLOURS[t.colour][1:], 16)},
        )
        entity.set_placement((t.x, t.y), align=_ALIGN[t.anchor])
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _layer(document: ezdxf.document.Drawing, name: str) -> None:
    if name not in document.layers:
        document.layers.add(name)
