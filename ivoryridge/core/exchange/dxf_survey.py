"""Points, 3D lines and faces of a DXF drawing, by layer. Reading by ezdxf, in any release it reads."""

from __future__ import annotations

import io
import re
import struct
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import FormatError
from ..findings import Finding
from ..terrain.survey import Survey
from ..units import LINEAR_UNITS

Floats = NDArray[np.float64]

__all__ = ["read_dxf_survey"]

MOST_BYTES = 200 * 1024 * 1024
# header variable $INSUNITS -> unit, by the published DXF reference (from memory)
_UNITS = {1: "inch", 2: "foot", 4: "millimeter", 5: "centimeter", 6: "meter", 7: "kilometer", 21: "USSurveyFoot"}
_CIRCLE_SIDES = 24
_LEVEL_TAG = re.compile(r"^(level|elev(ation)?|height|z|rl)$", re.IGNORECASE)
_NUMBER = re.compile(r"[-+]?\d+(?:[.,]\d+)?")
# what the library may raise on bytes that are no drawing
_BROKEN = (ValueError, KeyError, IndexError, TypeError, AttributeError, EOFError, RecursionError, OverflowError, struct.error)


def read_dxf_survey(content: bytes, name: str = "file") -> tuple[Survey, str, list[Finding]]:
    """What a drawing holds for a ground model, the unit it was drawn in, and findings.

    POINT and block inserts become points (a block's level comes from an attribute named level, elevation, height, z or
    rl, else from where it is inserted); LINE, POLYLINE, LWPOLYLINE and CIRCLE become lines, a circle one of 24 sides; 3DFACE
    and meshes become faces. The thickness of a line is the height of what it outlines.
    Coordinates are turned into metres by the drawing's unit; a drawing without one is taken as metres.

    Raises
    ------
    FormatError    empty, too large, not a drawing, or nothing in it that this reads
    """
    import ezdxf
    from ezdxf import recover

    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    try:
        drawing, auditor = recover.read(io.BytesIO(content))
        unit = _UNITS.get(int(drawing.header.get("$INSUNITS", 0)), "meter")
        found = _Found(LINEAR_UNITS[unit])
        for entity in drawing.modelspace():
            found.take(entity)
    except (ezdxf.DXFError, *_BROKEN) as error:
        raise FormatError("dxf-broken", name=name, reason=str(error)[:120] or type(error).__name__) from error
    if not (found.points or found.lines or found.faces):
        raise FormatError("dxf-nothing", name=name, content=found.told())
    findings = [Finding("note", "left-out", {"count": n, "what": what}) for what, n in sorted(found.other.items())]
    if auditor.errors:
        findings.append(
            Finding("doubt", "dxf-errors", {"count": len(auditor.errors), "first": str(auditor.errors[0].message)[:120]})
        )
    if unit != "meter":
        findings.append(Finding("note", "units-converted", {"unit": unit}))
    survey = found.survey()
    bad = int((~np.isfinite(survey.points[:, :2])).any(axis=1).sum()) if len(survey.points) else 0
    if bad or any(not np.isfinite(line[:, :2]).all() for line in survey.lines):
        raise FormatError("dxf-broken", name=name, reason="a coordinate is not a finite number")
    return survey, unit, findings


class _Found:
    def __init__(self, factor: float) -> None:
        self.factor = factor
        self.points: list[tuple[float, float, float]] = []
        self.codes: list[str] = []
        self.lines: list[Floats] = []
        self.line_codes: list[str] = []
        self.line_types: list[str] = []
        self.line_heights: list[float] = []
        self.faces: list[tuple[Floats, str]] = []
        self.other: Counter[str] = Counter()

    def take(self, entity: Any) -> None:
        kind, layer = entity.dxftype(), str(entity.dxf.get("layer", "0"))
        if kind == "POINT":
            self._point(entity.dxf.location, layer)
        elif kind == "INSERT":
            self._point(entity.dxf.insert, layer, _attribute_level(entity))
        elif kind == "LINE":
            self._line([entity.dxf.start, entity.dxf.end], False, entity)
        elif kind == "LWPOLYLINE":
            z = float(entity.dxf.get("elevation", 0.0))
            self._line([(x, y, z) for x, y in entity.get_points("xy")], bool(entity.closed), entity)
        elif kind == "POLYLINE" and not (entity.is_poly_face_mesh or entity.is_polygon_mesh):
            self._line([v.dxf.location for v in entity.vertices], bool(entity.is_closed), entity)
        elif kind == "CIRCLE":
            (x, y, z), r = tuple(entity.dxf.center)[:3], float(entity.dxf.radius)
            turn = np.linspace(0.0, 2 * np.pi, _CIRCLE_SIDES + 1)
            self._line(
                np.column_stack([x + r * np.cos(turn), y + r * np.sin(turn), np.full(len(turn), z)]).tolist(), True, entity
            )
        elif kind in ("3DFACE", "MESH", "POLYLINE"):
            for corners in _corners(entity, kind):
                self.faces.append((np.array([tuple(c)[:3] for c in corners], float) * self.factor, layer))
        else:
            self.other[kind] += 1

    def _point(self, at: Any, layer: str, level: float | None = None) -> None:
        e, n, z = (float(v) for v in tuple(at)[:3])
        self.points.append((e * self.factor, n * self.factor, z * self.factor if level is None else level))
        self.codes.append(layer)

    def _line(self, places: list[Any], closed: bool, entity: Any) -> None:
        line = np.array([tuple(p)[:3] for p in places], float).reshape(-1, 3) * self.factor
        if len(line) < 2:
            self.other["line with fewer than 2 vertices"] += 1
            return
        if closed and not np.array_equal(line[0], line[-1]):
            line = np.concatenate([line, line[:1]])
        self.lines.append(line)
        self.line_codes.append(str(entity.dxf.get("layer", "0")))
        self.line_types.append("CAD circle" if entity.dxftype() == "CIRCLE" else "CAD line")
        self.line_heights.append(max(float(entity.dxf.get("thickness", 0.0)) * self.factor, 0.0))

    def survey(self) -> Survey:
        points = [np.array(self.points, float).reshape(-1, 3)]
        faces: list[tuple[int, int, int]] = []
        codes = list(self.codes)
        base = len(points[0])
        for corners, layer in self.faces:
            points.append(corners)
            codes += [layer] * len(corners)
            faces += [(base, base + i, base + i + 1) for i in range(1, len(corners) - 1)]
            base += len(corners)
        return Survey(
            np.concatenate(points), tuple(codes), tuple(self.lines), np.array(faces, np.int64).reshape(-1, 3),
            tuple(self.line_codes), tuple(self.line_types), "CAD point", np.array(self.line_heights),
        )  # fmt: skip

    def told(self) -> str:
        return ", ".join(f"{n} × {what}" for what, n in self.other.most_common(6)) or "nothing at all"


def _attribute_level(insert: Any) -> float | None:
    """Level in the drawing's own number, from an attribute named like one."""
    for attribute in insert.attribs:
        if _LEVEL_TAG.match(str(attribute.dxf.tag).strip()) and (m := _NUMBER.search(str(attribute.dxf.text))):
            return float(m[0].replace(",", "."))
    return None


def _corners(entity: Any, kind: str) -> Iterator[list[Any]]:
    if kind == "3DFACE":
        corners = [entity.dxf.vtx0, entity.dxf.vtx1, entity.dxf.vtx2]
        if entity.dxf.hasattr("vtx3") and tuple(entity.dxf.vtx3) != tuple(entity.dxf.vtx2):
            corners.append(entity.dxf.vtx3)
        yield corners
    elif kind == "MESH":
        vertices = list(entity.vertices)
        for face in entity.faces:
            yield [vertices[i] for i in face]
    else:
        from ezdxf.render import MeshBuilder

        mesh = MeshBuilder.from_polyface(entity)
        for face in mesh.faces:
            yield [mesh.vertices[i] for i in face]
