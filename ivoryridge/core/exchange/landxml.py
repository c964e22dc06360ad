"""LandXML 1.2 in: surfaces with breaklines, points, alignments with profiles and station equations; ``landxml_out`` writes.

Points in LandXML are northing, easting, level; directions are clockwise from north; ``rot`` is cw or ccw.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.vertical import PVI
from ..arrays import frozen_fields
from ..errors import FormatError
from ..findings import Finding
from ..units import LINEAR_UNITS

Floats = NDArray[np.float64]

__all__ = ["NAMESPACE", "LandXmlAlignment", "LandXmlModel", "LandXmlSurface", "read_landxml"]

NAMESPACE = "http://www.landxml.org/schema/LandXML-1.2"
MOST_BYTES = 200 * 1024 * 1024
_DEEPEST = 60


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlSurface:
    """A surface as a file gives it: points (n, 3) E N level in m, faces (m, 3) indices (may be empty), breaklines."""

    name: str
    points: Floats
    faces: NDArray[np.int64]
    breaklines: tuple[Floats, ...]
    contours: tuple[Floats, ...] = ()
    boundaries: tuple[tuple[str, Floats], ...] = ()  # ("outer" or "hole", closed ring; NaN level where the file gives none)

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("faces",), np.int64)


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlAlignment:
    """An alignment as a file gives it: its line, and the PVIs of its profiles by name."""

    name: str
    alignment: HorizontalAlignment
    profiles: dict[str, tuple[PVI, ...]]
    equations: tuple[tuple[float, float], ...] = ()  # station m, jump m


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlModel:
    unit: str
    surfaces: tuple[LandXmlSurface, ...]
    alignments: tuple[LandXmlAlignment, ...]
    findings: tuple[Finding, ...]
    points: Floats = field(default_factory=lambda: np.empty((0, 3)))  # CgPoints
    point_codes: tuple[str, ...] = ()
    reference: str = ""


def _tag(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _children(element: Any, name: str) -> Iterable[Any]:
    return (c for c in element if _tag(c) == name)


def _descend(element: Any, name: str) -> Iterable[Any]:
    return (c for c in element.iter() if _tag(c) == name)


def _parse(content: bytes, name: str) -> Any:
    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    head = content[:65536]
    if b"<!DOCTYPE" in head or b"<!ENTITY" in head:
        at = head.find(b"<!DOCTYPE") if b"<!DOCTYPE" in head else head.find(b"<!ENTITY")
        raise FormatError("xml-entities", name=name, line=head[:at].count(b"\n") + 1)
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=len(content) > 9_000_000)
    try:
        root = etree.fromstring(content, parser)
    except etree.XMLSyntaxError as error:
        line = error.lineno or 1
        raise FormatError("xml-broken", name=name, reason=str(error.msg)[:120], line=line, where={"line": line}) from error
    if root.getroottree().docinfo.internalDTD is not None:
        raise FormatError("xml-entities", name=name, line=1)
    if _tag(root) != "LandXML":
        raise FormatError("not-landxml", name=name, root=_tag(root) or "?")
    return root


def _unit(root: Any, name: str) -> tuple[str, float]:
    for units in _children(root, "Units"):
        for system in units:
            unit = system.get("linearUnit") if isinstance(system.tag, str) else None
            if unit:
                if unit not in LINEAR_UNITS:
                    raise FormatError("landxml-units", name=name, unit=unit, known=", ".join(LINEAR_UNITS))
                return unit, LINEAR_UNITS[unit]
    return "meter", 1.0


def _numbers(element: Any, surface: str, what: str) -> Floats:
    words = (element.text or "").split()
    try:
        values = np.array(words, dtype=np.float64)
    except ValueError as error:
        bad = next(w for w in words if not _reads(w))
        raise FormatError(
            "landxml-number", text=bad[:20], surface=surface, what=what, line=element.sourceline, expected="a number"
        ) from error
    if not np.isfinite(values).all():
        bad = words[int(np.argmin(np.isfinite(values)))]
        raise FormatError(
            "landxml-number", text=bad[:20], surface=surface, what=what, line=element.sourceline, expected="a finite number"
        )
    return values


def _reads(word: str) -> bool:
    try:
        float(word)
    except ValueError:
        return False
    return True


def read_landxml(content: bytes, name: str = "file") -> LandXmlModel:
    """Surfaces (with breaklines) and alignments of a LandXML file, in metres.

    Raises
    ------
    FormatError    empty, too large, cut off, entities, not LandXML, unknown unit, a number that is none, or a face
                   that names a point which is not there
    """
    root = _parse(content, name)
    unit, factor = _unit(root, name)
    findings: list[Finding] = []
    if factor != 1.0:
        findings.append(Finding("note", "units-converted", {"unit": unit}))
    surfaces = tuple(
        s for i, e in enumerate(_descend(root, "Surface"), 1) if (s := _read_surface(e, i, factor, findings)) is not None
    )
    alignments = tuple(_read_alignment(e, i, factor, findings) for i, e in enumerate(_descend(root, "Alignment"), 1))
    other = Counter(_tag(c) for c in root) - Counter(
        ["Units", "Project", "Application", "Surfaces", "Alignments", "CoordinateSystem", "CgPoints", "FeatureDictionary"]
    )
    for what, count in other.items():
        if what and what not in ("Surfaces", "Alignments"):
            findings.append(Finding("note", "left-out", {"count": count, "what": what}))
    points, codes = _read_points(root, factor)
    reference = next((c.get("epsgCode") or c.get("name") or "" for c in _children(root, "CoordinateSystem")), "")
    reference = f"EPSG:{reference}" if reference.isdigit() else reference
    kept = tuple(a for a in alignments if a is not None)
    return LandXmlModel(unit, surfaces, kept, tuple(findings), points, codes, reference)


def _read_points(root: Any, factor: float) -> tuple[Floats, tuple[str, ...]]:
    """CgPoints with their codes; one without a level has NaN."""
    rows, codes = [], []
    for p in _descend(root, "CgPoint"):
        values = _numbers(p, "CgPoints", "point")
        if len(values) in (2, 3):
            rows.append([values[1], values[0], values[2] if len(values) == 3 else np.nan])
            codes.append(p.get("code") or p.get("desc") or "")
    return np.array(rows, float).reshape(-1, 3) * factor, tuple(codes)


def _read_surface(element: Any, number: int, factor: float, findings: list[Finding]) -> LandXmlSurface | None:
    name = element.get("name") or f"surface {number}"
    ids: dict[str, int] = {}
    points: list[Floats] = []
    for p in _descend(element, "P"):
        if _tag(p.getparent()) != "Pnts":
            continue
        values = _numbers(p, name, "point")
        if len(values) != 3:
            raise FormatError(
                "landxml-number",
                text=(p.text or "").strip()[:20],
                surface=name,
                what="point",
                line=p.sourceline,
                expected="northing, easting and level",
            )
        ids[p.get("id") or str(len(points) + 1)] = len(points)
        points.append(values[[1, 0, 2]] * factor)
    faces: list[tuple[int, ...]] = []
    hidden = 0
    for n, f in enumerate(_descend(element, "F"), 1):
        if f.get("i") == "1":
            hidden += 1
            continue
        words = (f.text or "").split()
        if len(words) != 3:
            raise FormatError(
                "landxml-number",
                text=(f.text or "").strip()[:20],
                surface=name,
                what=f"face {n}",
                line=f.sourceline,
                expected="three point ids",
            )
        missing = next((w for w in words if w not in ids), None)
        if missing is not None:
            raise FormatError("landxml-point-missing", face=n, surface=name, point=missing, where={"line": f.sourceline})
        faces.append(tuple(ids[w] for w in words))
    if hidden:
        findings.append(Finding("note", "faces-invisible", {"count": hidden, "surface": name}))
    lines, extra = _source_data(element, name, factor)
    spots = np.array(points).reshape(-1, 3)
    if not len(spots) and extra:
        spots = np.concatenate(extra)
    if not len(spots) and not lines:
        return None
    if not faces:
        findings.append(Finding("note", "definition-missing", {"surface": name}))
    contours, boundaries = _contours_and_boundaries(element, name, factor)
    return LandXmlSurface(name, spots, np.array(faces, np.int64).reshape(-1, 3), tuple(lines), contours, boundaries)


def _contours_and_boundaries(element: Any, name: str, factor: float) -> tuple[tuple[Floats, ...], tuple[tuple[str, Floats], ...]]:
    contours = []
    for c in _descend(element, "Contour"):
        try:
            level = float(c.get("elev") or "nan") * factor
        except ValueError as error:
            raise FormatError(
                "landxml-number", text=c.get("elev")[:20], surface=name, what="contour", line=c.sourceline, expected="a level"
            ) from error
        contours += [_pairs(p, name, "contour", factor, level) for p in _children(c, "PntList2D")]
        contours += [_triples(p, name, "contour", factor) for p in _children(c, "PntList3D")]
    boundaries = []
    for b in _descend(element, "Boundary"):
        kind = "outer" if b.get("bndType", "outer") == "outer" else "hole"
        rings = [_pairs(p, name, "boundary", factor, np.nan) for p in _children(b, "PntList2D")]
        boundaries += [
            (kind, r) for r in rings + [_triples(p, name, "boundary", factor) for p in _children(b, "PntList3D")] if len(r) >= 3
        ]
    return tuple(c for c in contours if len(c) >= 2), tuple(boundaries)


def _pairs(element: Any, name: str, what: str, factor: float, level: float) -> Floats:
    values = _numbers(element, name, what)
    if len(values) % 2:
        raise FormatError(
            "landxml-number", text=f"{len(values)} numbers", surface=name, what=what, line=element.sourceline,
            expected="a row of northing, easting pairs",
        )  # fmt: skip
    en = values.reshape(-1, 2)[:, ::-1] * factor
    return np.column_stack([en, np.full(len(en), level)])


def _source_data(element: Any, name: str, factor: float) -> tuple[list[Floats], list[Floats]]:
    """Breaklines, and points that stand in the source data only."""
    lines, points = [], []
    for b in _descend(element, "Breakline"):
        for p in _children(b, "PntList3D"):
            lines.append(_triples(p, name, "breakline", factor))
    for d in _descend(element, "DataPoints"):
        for p in _children(d, "PntList3D"):
            points.append(_triples(p, name, "data points", factor))
    return lines, points


def _triples(element: Any, name: str, what: str, factor: float) -> Floats:
    values = _numbers(element, name, what)
    if len(values) % 3:
        raise FormatError(
            "landxml-number",
            text=f"{len(values)} numbers",
            surface=name,
            what=what,
            line=element.sourceline,
            expected="a row of northing, easting, level triples",
        )
    return values.reshape(-1, 3)[:, [1, 0, 2]] * factor


def _curvature(radius: str | None, turn: float, factor: float) -> float:
    if radius is None or radius in ("INF", "INFINITY", "inf"):
        return 0.0
    value = float(radius)
    return turn / (value * factor) if value else 0.0


def _read_alignment(element: Any, number: int, factor: float, findings: list[Finding]) -> LandXmlAlignment | None:
    name = element.get("name") or f"alignment {number}"
    rows: list[tuple[Floats, float, float, float, float]] = []
    for geometry in _children(element, "CoordGeom"):
        for g in geometry:
            kind = _tag(g)
            if kind not in ("Line", "Curve", "Spiral"):
                if kind:
                    findings.append(Finding("note", "left-out", {"count": 1, "what": f"{kind} of alignment {name}"}))
                continue
            try:
                rows.append(_read_element(g, kind, factor))
            except (StopIteration, ValueError, TypeError, AttributeError):
                line = g.sourceline
                raise FormatError(
                    "landxml-number", text=kind, surface=name, what="alignment element", line=line, expected="complete"
                ) from None
    if not rows:
        return None
    alignment = HorizontalAlignment(
        start=np.array([r[0] for r in rows]), azimuth=np.array([r[1] for r in rows]), length=np.array([r[2] for r in rows]),
        k0=np.array([r[3] for r in rows]), k1=np.array([r[4] for r in rows]), pi_of=np.full(len(rows), -1),
        start_station=float(element.get("staStart") or 0.0) * factor,
    )  # fmt: skip
    profiles: dict[str, tuple[PVI, ...]] = {}
    for p in _descend(element, "ProfAlign"):
        profiles[p.get("name") or f"profile {len(profiles) + 1}"] = tuple(_read_pvis(p, name, factor))
    equations = []
    for e in _children(element, "StaEquation"):
        try:
            inner, back, ahead = (float(e.get(k)) * factor for k in ("staInternal", "staBack", "staAhead"))
        except (TypeError, ValueError):
            findings.append(Finding("note", "left-out", {"count": 1, "what": f"station equation of alignment {name}"}))
            continue
        equations.append((inner, ahead - back))
    turned = sum(1 for _ in _children(element, "Superelevation"))
    if turned:
        findings.append(Finding("note", "superelevation-left", {"count": turned, "name": name}))
    return LandXmlAlignment(name, alignment, profiles, tuple(sorted(equations)))


def _place(element: Any, tag: str, factor: float) -> Floats:
    text = next(iter(_children(element, tag))).text
    north, east = (float(v) for v in text.split()[:2])
    return np.array([east, north]) * factor


def _read_element(g: Any, kind: str, factor: float) -> tuple[Floats, float, float, float, float]:
    start, end = _place(g, "Start", factor), _place(g, "End", factor)
    chord = end - start
    if kind == "Line":
        return start, float(np.arctan2(chord[0], chord[1]) % (2 * np.pi)), float(np.hypot(*chord)), 0.0, 0.0
    turn = 1.0 if g.get("rot") == "cw" else -1.0
    if kind == "Curve":
        centre = _place(g, "Center", factor)
        out = start - centre
        radius = float(np.hypot(*out))
        azimuth = float(np.arctan2(out[0], out[1])) + turn * np.pi / 2
        sweep = float((turn * (np.arctan2(*(end - centre)) - np.arctan2(*out))) % (2 * np.pi))
        return start, azimuth % (2 * np.pi), radius * sweep, turn / radius, turn / radius
    length = float(g.get("length")) * factor
    k0, k1 = _curvature(g.get("radiusStart"), turn, factor), _curvature(g.get("radiusEnd"), turn, factor)
    from ..alignment.element import travel

    ahead, right, _ = (float(v[0]) for v in travel([length], length, k0, k1))
    azimuth = float(np.arctan2(chord[0], chord[1]) - np.arctan2(right, ahead))
    return start, azimuth % (2 * np.pi), length, k0, k1


def _read_pvis(element: Any, name: str, factor: float) -> Iterable[PVI]:
    for v in element:
        kind = _tag(v)
        if kind not in ("PVI", "ParaCurve", "UnsymParaCurve"):
            continue
        station, level = _numbers(v, name, "PVI")[:2] * factor
        if kind == "PVI":
            yield PVI(float(station), float(level))
        elif kind == "ParaCurve":
            half = float(v.get("length")) * factor / 2
            yield PVI(float(station), float(level), half, half)
        else:
            yield PVI(float(station), float(level), float(v.get("lengthIn")) * factor, float(v.get("lengthOut")) * factor)
