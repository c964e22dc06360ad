"""Survey points from text files: delimiter, header, decimal comma and column order are found out and shown."""

from __future__ import annotations

import csv
import io
import math
import re
from collections import Counter
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import FormatError
from ..findings import Finding

__all__ = ["CsvLayout", "SurveyPoints", "detect_layout", "inventory_findings", "read_points"]

MOST_BYTES = 200 * 1024 * 1024
_DELIMITERS = {";": "semicolon", "\t": "tab", ",": "comma", "|": "bar", " ": "space"}
_WORDS = {
    "easting": ("easting", "east", "e", "x", "rechts", "ost"),
    "northing": ("northing", "north", "n", "y", "hoch", "nord"),
    "elevation": ("elevation", "level", "height", "z", "h", "elev", "rl"),
    "code": ("code", "feature", "class", "type", "layer", "kind"),
    "name": ("name", "id", "point", "number", "no", "nr", "pt", "pno"),
}
_NUMBER = re.compile(r"^[+-]?(\d+([.]\d*)?|[.]\d+)([eE][+-]?\d+)?$")
_NUMBER_COMMA = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")  # files mix both signs
_COLUMNS = ("easting", "northing", "elevation", "code", "name", "attribute")
_KINDS = {"code": "category", "name": str, "attribute": "category"}
_ENOUGH = 50_000
_BAD_NUMBERS = {"nan", "inf", "-inf", "+inf", "infinity", "-infinity"}


@dataclass(frozen=True, slots=True)
class CsvLayout:
    """How a file is read. ``columns`` maps easting, northing, elevation, code, name, attribute to column numbers from 0."""

    delimiter: str
    decimal_comma: bool
    header: bool
    columns: dict[str, int]
    names: tuple[str, ...] = ()

    @property
    def delimiter_name(self) -> str:
        return _DELIMITERS[self.delimiter]


@dataclass(frozen=True, slots=True, eq=False)
class SurveyPoints:
    """points (n, 3) m · code and name per point ("" where none; a code and its attribute read ``code / attribute``) · line (n,) in the file, from 1."""

    points: NDArray[np.float64]
    code: tuple[str, ...]
    name: tuple[str, ...]
    line: NDArray[np.int64]
    findings: tuple[Finding, ...] = field(default_factory=tuple)

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("line",), np.int64)


def decode_text(content: bytes, name: str) -> str:
    """The file's text; refuses empty, oversized and binary files."""
    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    if b"\x00" in content[:4096]:
        raise FormatError("not-text", name=name, position=content.index(b"\x00"))
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("latin-1")


def _split(line: str, delimiter: str) -> list[str]:
    if delimiter == " ":
        return line.split()
    if '"' in line:
        return [c.strip() for c in next(csv.reader([line], delimiter=delimiter), [])]
    return [c.strip() for c in line.split(delimiter)]


def _is_number(text: str, comma: bool) -> bool:
    return bool((_NUMBER_COMMA if comma else _NUMBER).match(text)) or text.lower() in _BAD_NUMBERS


def detect_layout(content: bytes, name: str = "file") -> CsvLayout:
    """Find out how a points file is written.

    The delimiter and decimal sign are those that make most lines of a sample fall into the same number of columns
    with most numbers. Header words name the columns; without them the usual orders are taken: name, E, N, level,
    code where the first column counts or is text, else E, N, level, code.
    """
    sample = [ln for ln in decode_text(content, name).splitlines() if ln.strip()][:200]
    best: tuple[float, str, bool] | None = None
    for delimiter in _DELIMITERS:
        for comma in (False, True):
            if comma and delimiter == ",":
                continue
            rows = [_split(ln, delimiter) for ln in sample]
            width, agree = Counter(len(r) for r in rows).most_common(1)[0]
            if width < 3:
                continue
            numbers = sum(_is_number(c, comma) for r in rows for c in r)
            score = numbers / (len(rows) * width) * agree / len(rows) * (1.0 if not comma else 0.999)
            if best is None or score > best[0] + 1e-9:
                best = (score, delimiter, comma)
    if best is None or best[0] < 0.2:
        raise FormatError("csv-no-columns", name=name)
    _, delimiter, comma = best
    rows = [_split(ln, delimiter) for ln in sample]
    header = sum(_is_number(c, comma) for c in rows[0]) < 2 and len(rows) > 1
    body = rows[1:] if header else rows
    width = Counter(len(r) for r in body).most_common(1)[0][0]
    numeric = [
        sum(_is_number(r[c], comma) for r in body if len(r) > c) > 0.8 * max(sum(len(r) > c for r in body), 1)
        for c in range(width)
    ]
    names = tuple(rows[0]) if header else ()
    columns = _columns_by_words(names, numeric) if header else {}
    if not {"easting", "northing", "elevation"} <= set(columns):
        columns = _columns_by_order(body, numeric, comma)
    return CsvLayout(delimiter, comma, header, columns, names)


def _columns_by_words(names: tuple[str, ...], numeric: list[bool]) -> dict[str, int]:
    found: dict[str, int] = {}
    for what, words in _WORDS.items():
        for i, title in enumerate(names):
            plain = re.sub(r"[^a-z]", "", re.sub(r"[\[(].*", "", title.lower()))
            if plain in words and i not in found.values() and (what in ("code", "name") or (i < len(numeric) and numeric[i])):
                found[what] = i
                break
    return found


def _columns_by_order(body: list[list[str]], numeric: list[bool], comma: bool) -> dict[str, int]:
    numbers = [i for i, ok in enumerate(numeric) if ok]
    columns: dict[str, int] = {}
    if len(numbers) >= 4 and numbers[0] == 0:
        first = [r[0].replace(",", ".") for r in body if r]
        if all(re.fullmatch(r"\d+", c) for c in first if c) and len({*first}) > 0.9 * len(first):
            columns["name"] = 0  # whole numbers, no two alike: point numbers
            numbers = numbers[1:]
    elif not numeric[0]:
        columns["name"] = 0
    for what, i in zip(("easting", "northing", "elevation"), numbers, strict=False):
        columns[what] = i
    for i in range(len(numeric)):
        if not numeric[i] and i not in columns.values() and i > max(columns.values(), default=0):
            columns["code"] = i
            break
    return columns


def read_points(content: bytes, layout: CsvLayout, name: str = "file") -> SurveyPoints:
    """Points of a file in the given layout. Lines that cannot be read are left out and found, never guessed.

    Raises
    ------
    FormatError    a needed column is not chosen or chosen twice, or no line at all could be read
    """
    _check_columns(layout)
    if (quick := _read_sound(content, layout, name)) is not None:
        return replace(quick, findings=tuple(inventory_findings(quick.points, layout)))
    text = decode_text(content, name)
    points, codes, names, numbers, bad = [], [], [], [], []
    ce, cn, cz = (layout.columns[k] for k in ("easting", "northing", "elevation"))
    cc, ci, ca = (layout.columns.get(k, -1) for k in ("code", "name", "attribute"))
    for number, line in enumerate(io.StringIO(text), start=1):
        if not line.strip() or (layout.header and number == 1):
            continue
        row = _split(line.rstrip("\r\n"), layout.delimiter)
        point, reason = _point_of(row, (ce, cn, cz), layout.decimal_comma)
        if point is None:
            bad.append((number, reason))
            continue
        points.append(point)
        codes.append(_code(row[cc] if 0 <= cc < len(row) else "", row[ca] if 0 <= ca < len(row) else ""))
        names.append(row[ci] if 0 <= ci < len(row) else "")
        numbers.append(number)
    if not points:
        raise FormatError("csv-no-points", name=name, reason=f"line {bad[0][0]}: {bad[0][1]}." if bad else "it has no lines.")
    findings = []
    if len(bad) == 1:
        findings.append(Finding("doubt", "line-unread", {"line": bad[0][0], "reason": bad[0][1]}))
    elif bad:
        findings.append(Finding("doubt", "lines-unread", {"count": len(bad), "line": bad[0][0], "reason": bad[0][1]}))
    array = np.array(points)
    found = SurveyPoints(array, tuple(codes), tuple(names), np.array(numbers), ())
    return replace(found, findings=(*findings, *inventory_findings(array, layout)))


def _code(code: str, attribute: str) -> str:
    return f"{code.strip()} / {attribute.strip()}" if attribute.strip() else code.strip()


def _read_sound(content: bytes, layout: CsvLayout, name: str) -> SurveyPoints | None:
    """The points of a file in which every line reads as it should, by the compiled reader of pandas; None for any other
    file, which is then read line by line so that each fault is told with its line."""
    import pandas as pd

    if not content.strip() or len(content) > MOST_BYTES or b"\x00" in content[:4096] or b'"' in content:
        return None
    columns = {k: c for k, c in layout.columns.items() if c >= 0 and k in _COLUMNS}
    kinds: dict[int, Any] = {c: _KINDS.get(k, np.float64) for k, c in columns.items()}
    try:
        table = pd.read_csv(
            io.BytesIO(content), sep=r"\s+" if layout.delimiter == " " else layout.delimiter, header=None, skiprows=int(layout.header),
            usecols=list(kinds), dtype=kinds, decimal="," if layout.decimal_comma else ".", na_filter=False, skip_blank_lines=False,
            encoding="utf-8-sig",
        )  # fmt: skip
    except (ValueError, IndexError, OverflowError, pd.errors.ParserError):
        return None
    points = table[[columns[k] for k in ("easting", "northing", "elevation")]].to_numpy(np.float64)
    if not len(points) or not np.isfinite(points).all():
        return None
    codes = ("",) * len(points)
    if "attribute" in columns:
        both = (table[columns[k]].astype(str) if k in columns else [""] * len(points) for k in ("code", "attribute"))
        codes = tuple(_code(c, a) for c, a in zip(*both, strict=True))
    elif "code" in columns:
        kept = table[columns["code"]].cat
        words = np.array([*(str(w).strip() for w in kept.categories), ""], object)
        codes = tuple(words[kept.codes.to_numpy()].tolist())
    names = tuple(str(w).strip() for w in table[columns["name"]].tolist()) if "name" in columns else ("",) * len(points)
    line = np.arange(1, len(points) + 1) + int(layout.header)
    return SurveyPoints(points, codes, names, line, ())


def _check_columns(layout: CsvLayout) -> None:
    for what in ("easting", "northing", "elevation"):
        if layout.columns.get(what, -1) < 0:
            raise FormatError("csv-columns-missing", missing=what if what != "elevation" else "level")
    taken: dict[int, str] = {}
    for what, column in layout.columns.items():
        if column >= 0 and column in taken:
            raise FormatError("csv-column-twice", column=column + 1, first=taken[column], second=what)
        taken[column] = what


def _point_of(row: list[str], columns: tuple[int, ...], comma: bool) -> tuple[tuple[float, ...] | None, str]:
    values = []
    for column, what in zip(columns, ("easting", "northing", "level"), strict=True):
        if column >= len(row) or row[column] == "":
            return None, f"it has no {what}"
        text = row[column].replace(",", ".") if comma else row[column]
        try:
            value = float(text)
        except ValueError:
            return None, f"'{row[column][:20]}' is not a number ({what})"
        if not math.isfinite(value):
            return None, f"the {what} is {row[column][:20]}"
        values.append(value)
    return tuple(values), ""


def inventory_findings(points: Any, layout: CsvLayout | None = None) -> list[Finding]:
    """What looks wrong in a file of points before it is brought in."""
    p = np.asarray(points, float)
    out: list[Finding] = []
    if layout is not None and layout.names:
        names = [re.sub(r"[^a-z]", "", n.lower()) for n in layout.names]
        e, n = layout.columns["easting"], layout.columns["northing"]
        if e < len(names) and n < len(names) and names[e] in _WORDS["northing"] and names[n] in _WORDS["easting"]:
            out.append(Finding("doubt", "axes-swapped"))
    z = p[:, 2]
    least, greatest = float(z.min()), float(z.max())
    if len(p) > 3 and greatest - least < 1e-9:
        out.append(Finding("doubt", "flat-file", {"count": len(p), "elevation": float(z[0])}))
    step = len(p) // _ENOUGH + 1  # quantiles of points evenly taken tell as much as those of all
    low, high = (float(v) for v in np.percentile(z[::step], [5, 95]))
    if greatest - least > 3 * max(high - low, 1.0) + 5:
        out.append(Finding("doubt", "levels-spread", {"least": least, "greatest": greatest, "spread": greatest - least}))
    centre = np.median(p[::step, :2], axis=0)
    if len(p) > 10 and abs(centre[0] - centre[1]) > 10_000:
        reversed_ = (np.abs(p[:, 0] - centre[1]) < 10_000) & (np.abs(p[:, 1] - centre[0]) < 10_000)
        if reversed_.any() and not reversed_.all():
            at = int(np.argmax(reversed_))
            out.append(Finding("doubt", "axes-swapped", place=(float(p[at, 0]), float(p[at, 1]))))
    return out
