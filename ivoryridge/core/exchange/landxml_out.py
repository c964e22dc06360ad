"""LandXML 1.2 out: surfaces, alignments with profiles, station equations and superelevation; ``landxml`` reads them back.

Points in LandXML are northing, easting, level; directions are clockwise from north; ``rot`` is cw or ccw.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from lxml import etree

from ..alignment.crossfall import runout_length
from ..alignment.crossfall_diagram import CrossfallDiagram, TurnedBend
from ..alignment.horizontal import HorizontalAlignment
from ..alignment.stationing import counted_at
from ..alignment.vertical import PVI
from ..terrain.surface import Surface
from ..text import clean
from ..wording import FEET, METRES, Units
from .landxml import NAMESPACE

__all__ = ["write_landxml"]


def _text(values: Any) -> str:
    return " ".join(repr(float(v)) for v in values)


def write_landxml(
    *,
    project: str,
    surfaces: Iterable[tuple[str, Surface]] = (),
    alignments: Iterable[tuple[str, HorizontalAlignment, dict[str, tuple[PVI, ...]]]] = (),
    equations: Mapping[str, Sequence[tuple[float, float]]] | None = None,
    crossfalls: Mapping[str, CrossfallDiagram] | None = None,
    date: str = "",
    time: str = "",
    units: Units = METRES,
) -> bytes:
    """A LandXML 1.2 file in metres, or in another unit. In metres numbers are written so that reading gives back the same bits."""
    root = etree.Element(
        "LandXML",
        nsmap={None: NAMESPACE},  # type: ignore[dict-item]
        version="1.2",
        date=date or "2000-01-01",
        time=time or "00:00:00",
        readOnly="false",
        language="English",
    )
    metric = units.metre == 1.0
    told = (
        {
            "areaUnit": "squareMeter",
            "linearUnit": "meter",
            "volumeUnit": "cubicMeter",
            "temperatureUnit": "celsius",
            "pressureUnit": "milliBars",
        }
        if metric
        else {
            "areaUnit": "squareFoot",
            "linearUnit": "foot" if units.name == FEET.name else "USSurveyFoot",
            "volumeUnit": "cubicYard",
            "temperatureUnit": "fahrenheit",
            "pressureUnit": "inchHG",
        }
    )
    angles = {"angularUnit": "decimal degrees", "directionUnit": "decimal degrees"}
    etree.SubElement(etree.SubElement(root, "Units"), "Metric" if metric else "Imperial", {**told, **angles})
    etree.SubElement(root, "Project", name=clean(project))
    etree.SubElement(root, "Application", name="Ivory Ridge", version="0.1")
    listed = list(surfaces)
    if listed:
        group = etree.SubElement(root, "Surfaces")
        for name, surface in listed:
            _write_surface(group, name, surface)
    lines = list(alignments)
    if lines:
        group = etree.SubElement(root, "Alignments")
        for name, alignment, profiles in lines:
            _write_alignment(group, name, alignment, profiles, (equations or {}).get(name, ()), (crossfalls or {}).get(name))
    if not metric:
        _scale(root, 1.0 / units.metre)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True)


_LENGTHS = frozenset({  # texts and attributes that hold lengths
    "P", "PntList3D", "Start", "End", "Center", "PI", "PVI", "CircCurve", "ParaCurve", "UnsymParaCurve", "BeginRunoutSta", "BeginRunoffSta",
    "FullSuperSta", "RunoffSta", "StartofRunoutSta", "EndofRunoutSta", "length", "lengthIn", "lengthOut", "radius", "radiusStart",
    "radiusEnd", "staStart", "staEnd", "staInternal", "staBack", "staAhead", "elevMin", "elevMax",
})  # fmt: skip


def _scale(root: Any, factor: float) -> None:
    """All lengths of a document that was written in metres, in another unit."""
    for element in root.iter():
        if element.text and etree.QName(element).localname in _LENGTHS:
            element.text = _text(float(v) * factor for v in element.text.split())
        for name, value in element.attrib.items():
            if name in _LENGTHS and value != "INF":
                element.set(name, repr(float(value) * factor))


def _write_surface(group: Any, name: str, surface: Surface) -> None:
    element = etree.SubElement(group, "Surface", name=clean(name))
    if len(surface.breakline_edges):
        source = etree.SubElement(etree.SubElement(element, "SourceData"), "Breaklines")
        for a, b in surface.breakline_edges:
            line = etree.SubElement(source, "Breakline", brkType="standard")
            etree.SubElement(line, "PntList3D").text = _text(surface.points[[a, b]][:, [1, 0, 2]].ravel())
    low, high = surface.elevation_range
    definition = etree.SubElement(element, "Definition", surfType="TIN", elevMax=repr(float(high)), elevMin=repr(float(low)))
    pnts = etree.SubElement(definition, "Pnts")
    for i, p in enumerate(surface.points, 1):
        etree.SubElement(pnts, "P", id=str(i)).text = _text(p[[1, 0, 2]])
    faces = etree.SubElement(definition, "Faces")
    for t in surface.triangles:
        etree.SubElement(faces, "F").text = f"{t[0] + 1} {t[1] + 1} {t[2] + 1}"


def _write_alignment(
    group: Any, name: str, alignment: HorizontalAlignment, profiles: dict[str, tuple[PVI, ...]],
    equations: Sequence[tuple[float, float]], crossfall: CrossfallDiagram | None,
) -> None:  # fmt: skip
    element = etree.SubElement(
        group,
        "Alignment",
        name=clean(name),
        length=repr(float(alignment.length.sum())),
        staStart=repr(float(alignment.start_station)),
    )
    geometry = etree.SubElement(element, "CoordGeom")
    ends = np.concatenate([alignment.start, alignment.evaluate(alignment.end_station)[0]])
    for i, length in enumerate(alignment.length):
        kind = alignment.kind(i)
        k0, k1 = float(alignment.k0[i]), float(alignment.k1[i])
        rot = "cw" if (k0 or k1) > 0 else "ccw"
        start, end = ends[i], ends[i + 1]
        if kind == "Line":
            g = etree.SubElement(geometry, "Line", length=repr(float(length)))
            _points(g, start, end)
        elif kind == "Curve":
            g = etree.SubElement(
                geometry, "Curve", rot=rot, crvType="arc", radius=repr(float(1 / abs(k0))), length=repr(float(length))
            )
            to_right = np.array([np.cos(alignment.azimuth[i]), -np.sin(alignment.azimuth[i])])
            _points(g, start, end, centre=start + to_right / k0)
        else:
            g = etree.SubElement(
                geometry, "Spiral", length=repr(float(length)), rot=rot, spiType="clothoid",
                radiusStart=repr(1 / abs(k0)) if k0 else "INF", radiusEnd=repr(1 / abs(k1)) if k1 else "INF",
            )  # fmt: skip
            along = np.array([np.sin(alignment.azimuth[i]), np.cos(alignment.azimuth[i])])
            out = alignment.evaluate(alignment.stations[i + 1])[1][0]
            back = np.array([np.sin(out), np.cos(out)])
            d = end - start
            crossing = along[0] * back[1] - along[1] * back[0]
            pi = start + along * ((d[0] * back[1] - d[1] * back[0]) / crossing) if abs(crossing) > 1e-12 else start
            _points(g, start, end, pi=pi)
    for station, jump in equations:
        before = float(counted_at(station, equations)[0])
        etree.SubElement(
            element, "StaEquation", staInternal=repr(float(station)), staBack=repr(before), staAhead=repr(float(before + jump))
        )
    if profiles:
        profile = etree.SubElement(element, "Profile", name=clean(name))
        for title, pvis in profiles.items():
            align = etree.SubElement(profile, "ProfAlign", name=clean(title))
            for i, p in enumerate(pvis):
                _write_pvi(align, p, pvis[i - 1 : i + 2])
    if crossfall is not None:
        for b in crossfall.bends:
            _write_superelevation(element, b, crossfall.normal[0 if b.turn > 0 else 1])


def _write_superelevation(element: Any, b: TurnedBend, normal: float) -> None:
    """A bend as LandXML's places of turning: runout, runoff, full; and the same on the way out. Rates in percent."""
    begin = b.level_in - runout_length(normal, b.rate, b.full_in - b.level_in)
    end = b.level_out + runout_length(normal, b.rate, b.level_out - b.full_out)
    g = etree.SubElement(element, "Superelevation", staStart=repr(float(begin)), staEnd=repr(float(end)))
    for tag, value in (
        ("BeginRunoutSta", begin), ("BeginRunoffSta", b.level_in), ("FullSuperSta", b.full_in), ("FullSuperelev", 100 * b.rate),
        ("RunoffSta", b.full_out), ("StartofRunoutSta", b.level_out), ("EndofRunoutSta", end),
    ):  # fmt: skip
        etree.SubElement(g, tag).text = repr(float(value))
    etree.SubElement(g, "AdverseSE").text = "non-adverse"


def _points(g: Any, start: Any, end: Any, *, centre: Any = None, pi: Any = None) -> None:
    etree.SubElement(g, "Start").text = _text(start[::-1])
    if centre is not None:
        etree.SubElement(g, "Center").text = _text(centre[::-1])
    if pi is not None:
        etree.SubElement(g, "PI").text = _text(pi[::-1])
    etree.SubElement(g, "End").text = _text(end[::-1])


def _write_pvi(align: Any, p: PVI, beside: Sequence[PVI]) -> None:
    if p.half_in == p.half_out == 0:
        element = etree.SubElement(align, "PVI")
    elif p.circular and (radius := _radius(beside)):
        element = etree.SubElement(align, "CircCurve", radius=repr(float(radius)), length=repr(float(p.half_in + p.half_out)))
    elif p.half_in == p.half_out:
        element = etree.SubElement(align, "ParaCurve", length=repr(float(p.half_in * 2)))
    else:
        element = etree.SubElement(align, "UnsymParaCurve", lengthIn=repr(float(p.half_in)), lengthOut=repr(float(p.half_out)))
    element.text = _text((p.station, p.elevation))


def _radius(beside: Sequence[PVI]) -> float:
    """Radius (m) of the circular curve at the middle one of three PVIs; 0 where it does not turn."""
    a, b = (np.arctan((q.elevation - p.elevation) / (q.station - p.station)) for p, q in itertools.pairwise(beside))
    turned = abs(float(np.sin(b) - np.sin(a)))
    return (beside[1].half_in + beside[1].half_out) / turned if turned > 1e-9 else 0.0
