"""Lines as DXF in real coordinates: arcs as arcs, transitions as fine polylines, profiles as 3D polylines, chainage texts."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import ezdxf
import numpy as np
from ezdxf.enums import TextEntityAlignment
from ezdxf.transform import scale_uniform

from ..alignment.horizontal import HorizontalAlignment, sample_stations
from ..alignment.stationing import round_stations
from ..alignment.vertical import VerticalAlignment
from ..wording import METRES, Units

__all__ = ["INSUNITS", "LineDrawn", "write_lines_dxf"]

TEXT_MM, TICK_MM = 2.5, 2.0  # on paper
_NEAR = 1e-6
INSUNITS = {"m": 6, "ft": 2, "us-ft": 21}  # $INSUNITS, by the published DXF reference (from memory)


@dataclass(frozen=True, slots=True)
class LineDrawn:
    """A line to write: ``words`` gives the text of a station, ``equations`` (station, jump) m how chainages are counted."""

    name: str
    line: HorizontalAlignment
    profile: VerticalAlignment | None
    words: Callable[[float], str]
    equations: Sequence[tuple[float, float]] = ()


def write_lines_dxf(
    lines: Iterable[LineDrawn],
    *,
    scale: float = 1000.0,
    interval: float = 100.0,
    units: Units = METRES,
) -> str:
    """A DXF (R2010, metres or another unit). On a layer of each line: lines, arcs and polylines of its elements; on layers beside it its
    course in
    space, ticks and chainages every ``interval`` m, and tangent points. Texts are ``TEXT_MM`` high on paper at 1:``scale``."""
    document = ezdxf.new("R2010", units=INSUNITS[units.name])
    space = document.modelspace()
    size, tick = TEXT_MM * scale / 1000, TICK_MM * scale / 1000
    for drawn in lines:
        name, line, profile = drawn.name, drawn.line, drawn.profile
        layer = _layer(document, name)
        for i, length in enumerate(line.length):
            a, b = line.stations[i], line.stations[i + 1]
            s = np.array([a, b]) if line.kind(i) != "Spiral" else np.linspace(a, b, max(int(length / 1.0), 8) + 1)
            place = line.evaluate(s)[0]
            bulge = float(-np.tan(0.25 * line.k0[i] * length)) if line.kind(i) == "Curve" else 0.0  # + is to the left in DXF
            points = [(float(e), float(n), bulge if k == 0 else 0.0) for k, (e, n) in enumerate(place)]
            space.add_lwpolyline(points, format="xyb", dxfattribs={"layer": layer})
        if profile is not None:
            s = np.unique(np.concatenate([sample_stations(line, 10.0, 0.02), profile.key_stations()]))
            s = s[(s >= profile.station[0] - _NEAR) & (s <= profile.station[-1] + _NEAR)]
            z, _ = profile.evaluate(s)
            course = [(float(e), float(n), float(h)) for (e, n), h in zip(line.evaluate(s)[0], z, strict=True)]
            space.add_polyline3d(course, dxfattribs={"layer": _layer(document, f"{name} IN SPACE")})
        texts = _layer(document, f"{name} CHAINAGES")
        inner = round_stations(line.start_station, line.end_station, interval, drawn.equations)
        marks = np.unique(np.concatenate([[line.start_station], inner, [line.end_station]]))
        for s0, (e, n), azimuth in zip(marks, *line.evaluate(marks)[:2], strict=True):
            right = np.array([np.cos(azimuth), -np.sin(azimuth)])
            ends = np.array([e, n]) + np.outer([-tick / 2, tick / 2], right)
            space.add_line(tuple(ends[0]), tuple(ends[1]), dxfattribs={"layer": texts})
            turn = float(np.degrees(np.pi / 2 - azimuth - np.pi / 2))
            text = space.add_text(drawn.words(float(s0)), height=size, rotation=turn, dxfattribs={"layer": texts})
            text.set_placement(tuple(np.array([e, n]) + right * tick), align=TextEntityAlignment.MIDDLE_LEFT)
        points_layer = _layer(document, f"{name} TANGENT POINTS")
        for e, n in line.evaluate(line.key_stations())[0]:
            space.add_circle((float(e), float(n)), radius=tick / 4, dxfattribs={"layer": points_layer})
    if units.metre != 1.0:
        scale_uniform(space, 1.0 / units.metre)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _layer(document: ezdxf.document.Drawing, name: str) -> str:
    """A layer of that name, without what DXF does not allow in one."""
    clean = "".join("_" if c in '<>/\\":;?*|=`' else c for c in name.upper())[:200]
    if clean not in document.layers:
        document.layers.add(clean)
    return clean
