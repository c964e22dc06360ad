"""Points, 3D lines and faces of a DXF drawing, by layer. Reading by ezdxf, in any release it reads."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import FormatError
from ..findings import Finding
from ..terrain.faces import clean_faces
from ..terrain.survey import Survey
from .dxf_drawing import Walk, open_drawing, opened, parts_of_block

Floats = NDArray[np.float64]

__all__ = ["level_of_text", "read_dxf_survey"]

FLATTENED = 0.01  # m; an arc, circle or spline strays no farther from the row of points it becomes
_FARTHEST = 1e12  # m; rounding to tenths of a millimetre needs less
_LEVEL_TAG = re.compile(r"^(level|elev(ation)?|height|z|rl)$", re.IGNORECASE)
_NUMBER = re.compile(r"(?<![\w.,])[-+]?(?:\d{1,3}(?:,\d{3})+\.\d+|\d+(?:[.,]\d+)?)(?![\d.,])")
_CURVES = ("ARC", "CIRCLE", "ELLIPSE", "SPLINE")


def read_dxf_survey(content: bytes, name: str = "file") -> tuple[list[tuple[str, Survey]], str, list[Finding]]:
    """What a drawing holds for a ground model, the unit it was drawn in, and findings. Points and lines come first, under the
    file's name; then the faces of each layer, and levels written as text, as surveys of their own.

    POINT becomes a point. A block that carries a level in an attribute (level, elevation, height, z or rl) becomes a point with
    that level; any other is taken apart, and the place where it is inserted is a point filed under ``block NAME``. LINE, POLYLINE
    and LWPOLYLINE become lines, arcs, circles, ellipses, splines and the bulges of polylines rows of points within 1 cm;
    3DFACE and meshes become faces that share their corners. The thickness of a line is the height of what it outlines.
    Objects on layers that are off or frozen are left out. Coordinates are turned into metres by the drawing's unit; a drawing
    without one is taken as metres.

    Raises
    ------
    FormatError    empty, too large, not a drawing, or nothing in it that this reads
    """
    with opened(name):
        drawing = open_drawing(content, name)
        found = _Found(drawing.factor)
        walk = Walk(drawing, found.take, found.unseen)
        walk.go()
        if walk.too_deep:
            found.other["block too deep within others"] = walk.too_deep
        sets = found.sets(name)
        findings = [*found.findings(), *drawing.findings]
    if not sets:
        raise FormatError("dxf-nothing", name=name, content=found.told())
    if any(not np.isfinite(part[:, :2]).all() for _, s in sets for part in (s.points, *s.lines)):
        raise FormatError("dxf-broken", name=name, reason="a coordinate is not a finite number")
    return sets, drawing.unit, findings


def level_of_text(text: str) -> float | None:
    """The level that a text gives, in its own unit: its only number, else the one behind = or :, else the only one with
    decimals. ``1,234.56`` has a thousands mark, ``53,75`` a decimal comma. None where that does not tell one."""
    numbers = [(m.start(), m[0]) for m in _NUMBER.finditer(text)]
    if len(numbers) > 1:
        marks = [i for i, c in enumerate(text) if c in "=:"]
        behind = [n for n in numbers if marks and n[0] > marks[-1]]
        decimal = [n for n in numbers if re.search(r"[.,]", n[1])]
        numbers = behind if len(behind) == 1 else decimal if len(decimal) == 1 else []
    if len(numbers) != 1:
        return None
    word = numbers[0][1]
    return float(word.replace(",", "") if "," in word and "." in word else word.replace(",", "."))


class _Found:
    def __init__(self, factor: float) -> None:
        self.factor = factor
        self.points: list[tuple[float, float, float]] = []
        self.codes: list[str] = []
        self.lines: list[Floats] = []
        self.line_codes: list[str] = []
        self.line_types: list[str] = []
        self.line_heights: list[float] = []
        self.faces: dict[str, list[Floats]] = {}
        self.mended: list[Finding] = []
        self.written: list[tuple[float, float, float]] = []  # levels as text
        self.written_codes: list[str] = []
        self.other: Counter[str] = Counter()
        self.unseen: Counter[str] = Counter()
        self.silent = 0  # level attributes that tell no number
        self.apart = 0  # blocks taken apart
        self.flattened = 0

    def take(self, entity: Any, layer: str) -> Iterable[Any]:
        kind = entity.dxftype()
        if kind == "POINT":
            self._point(entity.dxf.location, layer)
        elif kind == "INSERT":
            return self._block(entity, layer)
        elif kind == "LINE":
            self._line([entity.dxf.start, entity.dxf.end], False, entity, layer)
        elif kind in ("LWPOLYLINE", "POLYLINE") and _is_line(entity):
            self._polyline(entity, layer)
        elif kind in _CURVES:
            self._curve(entity, layer)
        elif kind in ("TEXT", "MTEXT"):
            self._text(entity, layer)
        elif kind in ("3DFACE", "MESH", "POLYLINE"):
            for corners in _corners(entity, kind):
                self.faces.setdefault(layer, []).append(np.array([tuple(c)[:3] for c in corners], float) * self.factor)
        else:
            self.other[kind] += 1
        return ()

    def _point(self, at: Any, layer: str, level: float | None = None) -> None:
        e, n, z = (float(v) * self.factor for v in tuple(at)[:3])
        self.points.append((e, n, z if level is None else level * self.factor))
        self.codes.append(layer)

    def _block(self, insert: Any, layer: str) -> Iterable[Any]:
        tagged = [str(a.dxf.text) for a in insert.attribs if _LEVEL_TAG.match(str(a.dxf.tag).strip())]
        levels = [v for t in tagged if (v := level_of_text(t)) is not None]
        self.silent += bool(tagged) and not levels
        at = insert.ocs().to_wcs(insert.dxf.insert)
        if levels:
            self._point(at, layer, levels[0])
            return ()
        self._point(at, f"block {insert.dxf.name}")
        self.apart += 1
        return parts_of_block(insert)

    def _polyline(self, entity: Any, layer: str) -> None:
        closed = bool(entity.closed if entity.dxftype() == "LWPOLYLINE" else entity.is_closed)
        if entity.has_arc:
            self._curve(entity, layer)
        elif entity.dxftype() == "LWPOLYLINE":
            self._line(list(entity.vertices_in_wcs()), closed, entity, layer)
        else:
            self._line(list(entity.points_in_wcs()), closed, entity, layer)

    def _curve(self, entity: Any, layer: str) -> None:
        self.flattened += 1
        if entity.dxftype() in ("LWPOLYLINE", "POLYLINE"):
            places, closed = self._bulged(entity), False  # its own last part leads back where it is closed
        else:
            places, closed = self._flat(entity), entity.dxftype() == "CIRCLE"
        self._line(places, closed, entity, layer)

    def _flat(self, entity: Any) -> list[Any]:
        from ezdxf.path import make_path

        if entity.dxftype() == "SPLINE" and not entity.control_point_count():  # given by the points it passes
            return list(make_path(entity).flattening(FLATTENED / self.factor))
        return list(entity.flattening(FLATTENED / self.factor))

    def _bulged(self, entity: Any) -> list[Any]:
        """The places of a polyline with arcs: its parts one behind the other, each turned to go on from the one before."""
        parts = [[p.dxf.start, p.dxf.end] if p.dxftype() == "LINE" else self._flat(p) for p in entity.virtual_entities()]
        if len(parts) > 1 and min(parts[0][0].distance(q) for q in (parts[1][0], parts[1][-1])) < min(
            parts[0][-1].distance(q) for q in (parts[1][0], parts[1][-1])
        ):
            parts[0] = parts[0][::-1]
        out = list(parts[0]) if parts else []
        for part in parts[1:]:
            out += part[1:] if out[-1].distance(part[0]) <= out[-1].distance(part[-1]) else part[-2::-1]
        return out

    def _text(self, entity: Any, layer: str) -> None:
        text = (entity.plain_text() if entity.dxftype() == "MTEXT" else str(entity.dxf.text)).strip()
        level = level_of_text(text)
        if level is None or len(text) > 24:
            self.other[entity.dxftype()] += 1
            return
        at = entity.dxf.insert if entity.dxftype() == "MTEXT" else entity.ocs().to_wcs(entity.dxf.insert)
        e, n, _ = (float(v) * self.factor for v in tuple(at)[:3])
        self.written.append((e, n, level * self.factor))
        self.written_codes.append(layer)

    def _line(self, places: list[Any], closed: bool, entity: Any, layer: str) -> None:
        line = np.array([tuple(p)[:3] for p in places], float).reshape(-1, 3) * self.factor
        if len(line) < 2:
            self.other["line with fewer than 2 vertices"] += 1
            return
        if closed and not np.array_equal(line[0], line[-1]):
            line = np.concatenate([line, line[:1]])
        self.lines.append(line)
        self.line_codes.append(layer)
        self.line_types.append("CAD circle" if entity.dxftype() == "CIRCLE" else "CAD line")
        thick = entity.dxf.get("thickness", 0.0) if entity.dxf.is_supported("thickness") else 0.0
        self.line_heights.append(max(float(thick) * self.factor, 0.0))

    def sets(self, name: str) -> list[tuple[str, Survey]]:
        out = []
        if self.points or self.lines:
            points = np.array(self.points, float).reshape(-1, 3)
            drawn = Survey(
                points, tuple(self.codes), tuple(self.lines), line_codes=tuple(self.line_codes), line_types=tuple(self.line_types),
                point_type="CAD point", line_heights=np.array(self.line_heights),
            )  # fmt: skip
            out.append((name, drawn))
        out += [(f"faces of {layer}", self._surface(layer, faces)) for layer, faces in self.faces.items()]
        if self.written:
            out.append(
                ("levels written as text", Survey(np.array(self.written), tuple(self.written_codes), point_type="CAD text"))
            )
        return out

    def _surface(self, layer: str, faces: list[Floats]) -> Survey:
        """Faces of one layer, made clean; corners at one place (0.1 mm) are one point."""
        corners = np.concatenate(faces)
        if not np.isfinite(corners).all() or np.abs(corners).max() > _FARTHEST:
            raise ValueError("a coordinate is not a finite number")
        _, first, inverse = np.unique(np.round(corners * 1e4), axis=0, return_index=True, return_inverse=True)
        starts = np.cumsum([0, *(len(f) for f in faces)])
        triangles = [(a, a + i, a + i + 1) for a, f in zip(starts, faces, strict=False) for i in range(1, len(f) - 1)]
        points, rows = corners[first], inverse.ravel()[np.array(triangles, np.int64).reshape(-1, 3)]
        clean, found = clean_faces(points, rows, f"layer {layer}")
        self.mended += found
        return Survey(points, (layer,) * len(points), faces=clean, point_type="surface point")

    def findings(self) -> list[Finding]:
        out = [Finding("note", "left-out", {"count": n, "what": what}) for what, n in sorted(self.other.items())]
        out += self.mended
        if self.unseen:
            told = ", ".join(f"{la} ({n})" for la, n in self.unseen.most_common(6))
            out.append(Finding("doubt", "layers-hidden", {"count": sum(self.unseen.values()), "told": told}))
        if self.silent:
            out.append(Finding("doubt", "levels-unread", {"count": self.silent}))
        if self.apart:
            out.append(Finding("note", "blocks-apart", {"count": self.apart}))
        if self.flattened:
            out.append(Finding("note", "curves-flattened", {"count": self.flattened, "tolerance": FLATTENED}))
        if self.written:
            out.append(Finding("note", "levels-as-text", {"count": len(self.written)}))
        heights = (
            [np.array([p[2] for p in self.points])]
            + [ln[:, 2] for ln in self.lines]
            + [f[:, 2] for faces in self.faces.values() for f in faces]
        )
        z = np.concatenate(heights)
        if len(z) and not z.any():
            out.append(Finding("doubt", "level-zero-throughout", {"count": len(z)}))
        return out

    def told(self) -> str:
        return ", ".join(f"{n} × {what}" for what, n in self.other.most_common(6)) or "nothing at all"


def _is_line(entity: Any) -> bool:
    return entity.dxftype() == "LWPOLYLINE" or not (entity.is_poly_face_mesh or entity.is_polygon_mesh)


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
