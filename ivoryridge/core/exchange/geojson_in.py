"""GeoJSON in: points, lines and polygons with the properties that name them. By RFC 7946, and its older form with a ``crs``."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np
import orjson

from ..errors import FormatError
from ..findings import Finding
from ..terrain.survey import Survey
from .points_csv import inventory_findings

__all__ = ["read_geojson"]

MOST_BYTES = 200 * 1024 * 1024
_CODES = ("code", "layer", "feature", "class", "type", "kind")
_NAMES = ("name", "id", "number")
_LEVELS = ("level", "elevation", "elev", "height", "z")


def read_geojson(content: bytes, name: str = "file") -> tuple[Survey, str, list[Finding]]:
    """What a GeoJSON file holds for a ground model, the reference it names ("" for none), and findings.

    Points become points; lines and the rings of polygons become lines. Coordinates are taken as easting, northing and level
    in metres; a level may also stand in a property (level, elevation, elev, height or z), as for contours.

    Raises
    ------
    FormatError    empty, too large, no GeoJSON, a coordinate that is no number, or nothing in it
    """
    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    try:
        root = orjson.loads(content)
    except orjson.JSONDecodeError as error:
        raise FormatError("json-broken", name=name, reason=str(error)[:120]) from error
    if not isinstance(root, dict) or root.get("type") not in ("FeatureCollection", "Feature", *_KINDS):
        raise FormatError("not-geojson", name=name)
    found = _Found(name)
    for properties, geometry in _geometries(root, found):
        found.take(properties, geometry)
    if not (found.points or found.lines):
        raise FormatError("geojson-nothing", name=name)
    survey = Survey(
        np.array(found.points, float).reshape(-1, 3), tuple(found.codes), tuple(found.lines), line_codes=tuple(found.line_codes),
        line_types=tuple(found.line_types), point_type="point", names=tuple(found.names) if any(found.names) else (),
    )  # fmt: skip
    findings = [Finding("note", "left-out", {"count": n, "what": what}) for what, n in sorted(found.other.items())]
    stacked = np.concatenate([survey.points, *survey.lines])
    return survey, _reference(root), [*findings, *(f for f in inventory_findings(stacked) if f.code != "flat-file")]


_KINDS = ("Point", "MultiPoint", "LineString", "MultiLineString", "Polygon", "MultiPolygon", "GeometryCollection")


def _reference(root: dict[str, Any]) -> str:
    crs = root.get("crs")
    told = crs.get("properties", {}) if isinstance(crs, dict) else {}
    given = told.get("name", "") if isinstance(told, dict) else ""
    text = str(given or root.get("coordinates_in") or "")
    if "EPSG" in text.upper() and (digits := text.rpartition(":")[2]).isdigit():
        return f"EPSG:{digits}"
    return text[:100]


def _geometries(root: Any, found: _Found) -> Iterator[tuple[dict[str, Any], dict[str, Any]]]:
    todo: list[tuple[dict[str, Any], Any]] = [({}, root)]
    while todo:
        properties, item = todo.pop()
        kind = item.get("type") if isinstance(item, dict) else None
        if kind == "FeatureCollection":
            todo += [({}, f) for f in reversed(found.listed(item.get("features")))]
        elif kind == "Feature":
            told = item.get("properties")
            told = dict(told) if isinstance(told, dict) else {}
            if "id" in item:
                told.setdefault("id", item["id"])
            if item.get("geometry") is None:
                found.other["feature without a geometry"] += 1
            else:
                todo.append((told, item["geometry"]))
        elif kind == "GeometryCollection":
            todo += [(properties, g) for g in reversed(found.listed(item.get("geometries")))]
        elif kind in _KINDS:
            yield properties, item
        else:
            found.other[str(kind)[:40] if kind else "object without a type"] += 1


class _Found:
    def __init__(self, name: str) -> None:
        self.name = name
        self.points: list[list[float]] = []
        self.codes: list[str] = []
        self.names: list[str] = []
        self.lines: list[Any] = []
        self.line_codes: list[str] = []
        self.line_types: list[str] = []
        self.other: Counter[str] = Counter()

    def listed(self, value: Any) -> list[Any]:
        if not isinstance(value, list):
            raise FormatError("not-geojson", name=self.name)
        return value

    def take(self, properties: dict[str, Any], geometry: dict[str, Any]) -> None:
        kind, at = geometry["type"], geometry.get("coordinates")
        code = _word(properties, _CODES)
        level = next((float(v) for k in _LEVELS if isinstance(v := _of(properties, k), int | float)), math.nan)
        match kind:
            case "Point":
                self._point(at, level, code, _word(properties, _NAMES))
            case "MultiPoint":
                for p in self.listed(at):
                    self._point(p, level, code, "")
            case "LineString":
                self._line(at, level, code, "line")
            case "MultiLineString":
                for part in self.listed(at):
                    self._line(part, level, code, "line")
            case "Polygon":
                for ring in self.listed(at):
                    self._line(ring, level, code, "area")
            case "MultiPolygon":
                for polygon in self.listed(at):
                    for ring in self.listed(polygon):
                        self._line(ring, level, code, "area")

    def _place(self, at: Any, level: float) -> list[float]:
        if not isinstance(at, list) or len(at) < 2 or not all(isinstance(v, int | float) and math.isfinite(v) for v in at[:3]):
            raise FormatError("geojson-place", name=self.name, text=str(at)[:40])
        return [float(at[0]), float(at[1]), float(at[2]) if len(at) > 2 else level]

    def _point(self, at: Any, level: float, code: str, name: str) -> None:
        self.points.append(self._place(at, level))
        self.codes.append(code)
        self.names.append(name)

    def _line(self, row: Any, level: float, code: str, kind: str) -> None:
        line = np.array([self._place(p, level) for p in self.listed(row)]).reshape(-1, 3)
        if len(line) < 2:
            self.other["line with fewer than 2 points"] += 1
            return
        self.lines.append(line)
        self.line_codes.append(code)
        self.line_types.append(kind)


def _of(properties: dict[str, Any], word: str) -> Any:
    return next((v for k, v in properties.items() if str(k).lower() == word), None)


def _word(properties: dict[str, Any], words: tuple[str, ...]) -> str:
    for word in words:
        value = _of(properties, word)
        if isinstance(value, str | int) and not isinstance(value, bool) and str(value).strip():
            return str(value).strip()[:80]
    return ""
