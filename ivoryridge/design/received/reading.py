"""Read a file of any format into surveys: the format found out, the options a person chose applied, the impossible left out."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ivoryridge.core.errors import FormatError, InputError
from ivoryridge.core.exchange.dxf_survey import read_dxf_survey
from ivoryridge.core.exchange.geojson_in import read_geojson
from ivoryridge.core.exchange.grid import read_grid, survey_of_grid
from ivoryridge.core.exchange.landxml import LandXmlAlignment, LandXmlSurface, read_landxml
from ivoryridge.core.exchange.las import count_las_points, read_las
from ivoryridge.core.exchange.points_csv import CsvLayout, detect_layout, read_points
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.reach import moved_survey, within_reach
from ivoryridge.core.terrain.survey import Survey

__all__ = ["ReadFile", "format_of", "is_long", "layout_of", "layout_told", "read_file"]

USUAL_TOLERANCE = 0.05  # m; laser points are thinned to it unless another one is asked for
_LONG = {"LAS": 150_000, "DXF": 1_500_000, "LandXML": 6_000_000}  # points of a LAS, else bytes; more is read by the worker
_LONG_OTHERS = 12_000_000  # bytes


@dataclass(frozen=True, slots=True)
class ReadFile:
    """What a file holds: its format, how it was read, the surveys it gives, and findings."""

    format: str
    reading: dict[str, Any]
    sets: tuple[tuple[str, Survey], ...]
    findings: tuple[Finding, ...]


def is_long(content: bytes, name: str) -> bool:
    """Whether reading takes more than about a second, so that the worker should do it."""
    kind = format_of(content, name)
    return (count_las_points(content) if kind == "LAS" else len(content)) > _LONG.get(kind, _LONG_OTHERS)


def read_file(
    content: bytes,
    name: str,
    options: dict[str, Any] | None = None,
    *,
    look: bool = False,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> ReadFile:
    """Read whatever format the file has, found by its first bytes or its ending.

    ``options`` may change the CSV layout that was found out, the tolerance (m) to which laser points are thinned, and move what was
    read: ``swapped`` axes, a ``factor`` on all lengths, metres added ``east``.
    ``look``: only to be looked at, so laser points are not thinned yet. ``progress`` is told laser points read, of all, and may raise
    to cancel.
    """
    options = options or {}
    read = _read(content, name, options, look, progress)
    swapped, factor, east = bool(options.get("swapped")), _number(options, "factor", 1.0), _number(options, "east", 0.0)
    findings, sets = list(read.findings), []
    for set_name, survey in read.sets:
        if swapped or factor != 1.0 or east:
            survey = moved_survey(survey, swapped=swapped, factor=factor, east=east)
        kept, found = within_reach(survey)
        findings += found
        sets.append((set_name, kept))
    reading = {**read.reading, **({"swapped": True} if swapped else {}), **({"factor": factor} if factor != 1.0 else {})}
    return ReadFile(read.format, {**reading, **({"east": east} if east else {})}, tuple(sets), tuple(findings))


def _number(options: dict[str, Any], word: str, usual: float) -> float:
    value = options.get(word)
    if value is None:
        return usual
    if isinstance(value, bool) or not isinstance(value, int | float) or not np.isfinite(value) or abs(value) > 1e9:
        raise InputError("not-a-number", what=f"The {word}", where_="the reading options", example=f"{usual:g}")
    return float(value)


def _read(content: bytes, name: str, options: dict[str, Any], look: bool, progress: Callable[[int, int], None]) -> ReadFile:
    match format_of(content, name):
        case "LandXML":
            return _read_landxml(content, name)
        case "DXF":
            sets, unit, findings = read_dxf_survey(content, name)
            return ReadFile("DXF", {"unit": unit}, tuple(sets), tuple(findings))
        case "GeoJSON":
            survey, reference, findings = read_geojson(content, name)
            return ReadFile("GeoJSON", {"unit": "meter", "reference": reference}, ((name, survey),), tuple(findings))
        case "grid":
            grid = read_grid(content, name)
            survey, findings = survey_of_grid(grid)
            reading = {"unit": "meter", "reference": grid.reference, "cell": list(grid.size)}
            return ReadFile("Elevation grid", reading, ((name, survey),), tuple(findings))
        case "LAS":
            tolerance = _number(options, "tolerance", USUAL_TOLERANCE) or USUAL_TOLERANCE
            survey, findings = read_las(content, name, tolerance=None if look else tolerance, progress=progress)
            if look:
                findings = [*findings, Finding("note", "las-to-thin", {"count": len(survey.points), "tolerance": tolerance})]
            return ReadFile("Laser points", {"tolerance": tolerance}, ((name, survey),), tuple(findings))
    layout = layout_of(content, name, options)
    found = read_points(content, layout, name)
    survey = Survey(found.points, found.code, names=found.name if any(found.name) else ())
    return ReadFile("CSV points", layout_told(layout), ((name, survey),), found.findings)


def format_of(content: bytes, name: str) -> str:
    head, ending = content[:2000].lstrip(b"\xef\xbb\xbf \t\r\n"), name.lower().rpartition(".")[2]
    if head.startswith(b"<") or ending in ("xml", "landxml"):
        return "LandXML"
    if content.startswith(b"LASF") or ending in ("las", "laz"):
        return "LAS"
    if head.startswith(b"{") or ending in ("json", "geojson"):
        return "GeoJSON"
    if (
        (content[:2] in (b"II", b"MM") and ending in ("tif", "tiff"))
        or ending in ("tif", "tiff")
        or re.match(rb"(?i)ncols\s+\d", head)
    ):
        return "grid"
    if ending == "dxf" or b" Binary DXF" in content[:22] or re.match(rb"\s*(999\r?\n.*\r?\n\s*)*0\r?\nSECTION", head):
        return "DXF"
    return "CSV"


def layout_of(content: bytes, name: str, options: dict[str, Any]) -> CsvLayout:
    """How a points file is read: as found out, with what the person has changed."""
    found = detect_layout(content, name)
    given = options.get("columns")
    if not ({"delimiter", "decimal_comma", "header", "columns"} <= set(options) and isinstance(given, dict)):
        return found
    try:
        columns = {str(k): int(v) for k, v in given.items() if v is not None and int(v) >= 0}
    except (TypeError, ValueError):
        raise InputError("not-a-number", what="A column", where_="the reading options", example="2") from None
    delimiter = str(options["delimiter"])
    if delimiter not in CsvLayout.DELIMITERS or any(c > 500 for c in columns.values()):
        raise InputError("not-a-number", what="The delimiter or a column", where_="the reading options", example="; and 2")
    same = columns == found.columns
    return CsvLayout(
        delimiter, bool(options["decimal_comma"]), bool(options["header"]), columns, found.names, found.header_line, found.grouped,
        found.guessed if same else "",
    )  # fmt: skip


def layout_told(layout: CsvLayout) -> dict[str, Any]:
    return {
        "delimiter": layout.delimiter, "delimiter_name": layout.delimiter_name, "decimal_comma": layout.decimal_comma,
        "header": layout.header, "columns": layout.columns, "names": list(layout.names),
    }  # fmt: skip


def _read_landxml(content: bytes, name: str) -> ReadFile:
    model = read_landxml(content, name)
    sets = [(s.name, _survey_of(s)) for s in model.surfaces]
    if len(model.points):
        names = model.point_names if any(model.point_names) else ()
        sets.append((f"{name} points", Survey(model.points, model.point_codes, names=names)))
    sets += [(f"{g} along {a.name}", s) for a in model.alignments for g, s in _grounds(a)]
    if not sets:
        has = f"{len(model.alignments)} alignments" if model.alignments else "nothing this program brings in here"
        raise FormatError("landxml-no-surface", name=name, content=has)
    reading = {"unit": model.unit, "alignments": len(model.alignments), "reference": model.reference}
    return ReadFile("LandXML", reading, tuple(sets), model.findings)


def _grounds(a: LandXmlAlignment) -> list[tuple[str, Survey]]:
    """Ground profiles of a line as lines in space, offered without a role."""
    out = []
    for name, table in a.grounds.items():
        if a.alignment is None or len(table) < 2:
            continue
        place = a.alignment.evaluate(table[:, 0])[0]
        row = np.column_stack([place, table[:, 1]])
        out.append((name, Survey(np.empty((0, 3)), (), (row,), line_codes=(name,), line_types=("ground profile",))))
    return out


def _survey_of(s: LandXmlSurface) -> Survey:
    points = s.points if len(s.points) or not s.breaklines else np.empty((0, 3))
    lines = (*s.breaklines, *s.contours, *(ring for _, ring in s.boundaries))
    types = ("breakline",) * len(s.breaklines) + ("contour",) * len(s.contours)
    types += tuple("outer boundary" if kind == "outer" else "hole boundary" for kind, _ in s.boundaries)
    if len(s.faces):  # boundaries have done their work in faces that came; as they stand they would cut a second time
        lines, types = lines[: len(s.breaklines)], types[: len(s.breaklines)]
    return Survey(points, ("",) * len(points), lines, s.faces, ("",) * len(lines), types, "surface point")
