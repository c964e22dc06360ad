"""Survey points from text files: delimiter, header, decimal comma and column order are found out and shown."""

from __future__ import annotations

import csv
import io
import itertools
import math
import re
import unicodedata
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import FormatError
from ..findings import Finding

__all__ = ["CsvLayout", "SurveyPoints", "detect_layout", "inventory_findings", "read_points"]

MOST_BYTES = 200 * 1024 * 1024
_DELIMITERS = {";": "semicolon", "\t": "tab", ",": "comma", "|": "bar", " ": "space"}
# titles of columns, without accents, blanks and what stands in brackets; English and German words of the trade
_WORDS = {
    "easting": ("easting", "east", "e", "x", "rechts", "rechtswert", "ost", "ostwert", "ecoord", "xcoord", "xkoordinate"),
    "northing": ("northing", "north", "n", "y", "hoch", "hochwert", "nord", "nordwert", "ncoord", "ycoord", "ykoordinate"),
    "elevation": (
        "elevation", "level", "height", "z", "h", "elev", "rl", "reducedlevel", "hohe", "hoehe", "altitude", "alt", "zcoord", "zkoordinate",
    ),
    "code": (
        "code", "feature", "featurecode", "class", "type", "layer", "kind", "description", "desc", "art", "punktart", "remark", "remarks",
        "bemerkung",
    ),
    "name": (
        "name", "id", "point", "number", "no", "nr", "pt", "p", "pno", "pointno", "pointnumber", "pointname", "pointid", "ptid", "num",
        "punkt", "punktnr", "punktnummer", "pktnr", "pnr",
    ),
}  # fmt: skip
_NUMBER = re.compile(r"^[+-]?(\d+([.]\d*)?|[.]\d+)([eE][+-]?\d+)?$")
_NUMBER_COMMA = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")  # files mix both signs
_COLUMNS = ("easting", "northing", "elevation", "code", "name", "attribute")
_KINDS = {"code": "category", "name": str, "attribute": "category"}
_ENOUGH = 50_000
_BAD_NUMBERS = {"nan", "inf", "-inf", "+inf", "infinity", "-infinity"}
_COMMENTS = ("#", "//", "%", "!", "--")
_THOUSANDS = re.compile(r"[+-]?\d{1,3}(,\d{3})+")
_MOST_LINES = 20  # that one quoted record may take; more is a quote that was never closed
_NAMED = 5  # bad lines named in a finding
# levels that programs write for 'none'; no ground on Earth lies there
_NO_LEVEL = (
    -999.0,
    -999.9,
    -999.99,
    -9999.0,
    -9999.9,
    -9999.99,
    -99999.0,
    -999999.0,
    -32767.0,
    -32768.0,
    9999.0,
    9999.99,
    99999.0,
    999999.0,
)
_DEGREES = 1.5  # extent of a site in degrees; in metres nothing is surveyed on so little


@dataclass(frozen=True, slots=True)
class CsvLayout:
    """How a file is read; with a ``header`` all up to its line is no data. ``columns`` maps easting, northing, elevation, code, name,
    attribute to column numbers from 0."""

    delimiter: str
    decimal_comma: bool
    header: bool
    DELIMITERS: ClassVar[tuple[str, ...]] = tuple(_DELIMITERS)
    columns: dict[str, int]
    names: tuple[str, ...] = ()
    header_line: int = 1  # number of the header's line in the file, from 1
    grouped: bool = False  # every number may have been written with commas between thousands
    guessed: str = ""  # why the columns were taken in their usual order, where titles were there

    @property
    def delimiter_name(self) -> str:
        return _DELIMITERS[self.delimiter]


@dataclass(frozen=True, slots=True, eq=False)
class SurveyPoints:
    """points (n, 3) m · code and name per point ("" where none; a code and its attribute read ``code / attribute``) · line (n,) in the
    file, from 1."""

    points: NDArray[np.float64]
    code: tuple[str, ...]
    name: tuple[str, ...]
    line: NDArray[np.int64]
    findings: tuple[Finding, ...] = field(default_factory=tuple)

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("line",), np.int64)


def decode_text(content: bytes, name: str) -> str:
    """The file's text, in UTF-8, UTF-16 or Latin-1; refuses empty, oversized and binary files."""
    if not content.strip(b" \t\r\n\x00"):
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    if wide := _wide(content):
        try:
            return content.decode(wide).lstrip("\ufeff")
        except UnicodeDecodeError as error:
            raise FormatError("not-text", name=name, position=error.start) from error
    if b"\x00" in content[:4096]:
        raise FormatError("not-text", name=name, position=content.index(b"\x00"))
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        return content.decode("latin-1")


def _wide(content: bytes) -> str:
    """The name of a coding with two bytes a character, by its mark or by every other byte being zero; "" for others."""
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16"
    head = content[:400]
    odd, even = head[1::2].count(0), head[0::2].count(0)
    if len(head) >= 20 and max(odd, even) > 0.8 * len(head) / 2 and min(odd, even) == 0:
        return "utf-16-le" if odd > even else "utf-16-be"
    return ""


def _split(line: str, delimiter: str) -> list[str]:
    if delimiter == " ":
        return line.split()
    if '"' in line:
        return [c.strip() for c in next(csv.reader([line], delimiter=delimiter), [])]
    return [c.strip() for c in line.split(delimiter)]


def _records(text: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    """Line number (from 1) and cells of every line that is neither blank nor a comment; a quoted cell may hold line breaks."""
    if '"' in text and delimiter != " ":
        lines = text.splitlines(keepends=True)
        reader = csv.reader(lines, delimiter=delimiter)
        start = 1
        try:
            rows = []
            for row in reader:
                if reader.line_num - start >= _MOST_LINES:
                    raise csv.Error("a quote is never closed")
                rows.append((start, [c.strip() for c in row]))
                start = reader.line_num + 1
        except csv.Error:
            rows = [(i, [c.strip().strip('"') for c in line.split(delimiter)]) for i, line in enumerate(lines, 1)]
        yield from ((i, row) for i, row in rows if any(row) and not row[0].startswith(_COMMENTS))
        return
    for number, line in enumerate(io.StringIO(text), start=1):
        plain = line.strip()
        if plain and not plain.startswith(_COMMENTS):
            yield number, line.split() if delimiter == " " else [c.strip() for c in line.rstrip("\r\n").split(delimiter)]


def _is_number(text: str, comma: bool) -> bool:
    return bool((_NUMBER_COMMA if comma else _NUMBER).match(text)) or text.lower() in _BAD_NUMBERS


def detect_layout(content: bytes, name: str = "file") -> CsvLayout:
    """Find out how a points file is written.

    The delimiter and decimal sign are those that make most lines of a sample fall into the same number of columns
    with most numbers. Header words name the columns; without them the usual orders are taken: name, E, N, level,
    code where the first column counts or is text, else E, N, level, code.
    """
    text = decode_text(content, name)
    sample = [
        ln for ln in itertools.islice((ln for ln in text.splitlines() if ln.strip()), 260) if not ln.strip().startswith(_COMMENTS)
    ][:200]
    if not sample:
        raise FormatError("csv-no-columns", name=name)
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
    lines = list(itertools.islice(_records(text, delimiter), 200))
    first = next((i for i, (_, r) in enumerate(lines) if len(r) >= 3 and sum(_is_number(c, comma) for c in r) >= 2), 0)
    header, header_line = first > 0, lines[first - 1][0] if first else 1
    titles, body = (lines[first - 1][1] if header else []), [r for _, r in lines[first:]]
    width = Counter(len(r) for r in body).most_common(1)[0][0]
    numeric = [
        sum(_is_number(r[c], comma) or not r[c] for r in body if len(r) > c) > 0.8 * max(sum(len(r) > c for r in body), 1)
        and any(_is_number(r[c], comma) for r in body if len(r) > c)
        for c in range(width)
    ]
    columns = _columns_by_words(tuple(titles), numeric) if header else {}
    guessed = ""
    if not {"easting", "northing", "elevation"} <= set(columns):
        known = [titles[i] for k, i in columns.items() if k in ("easting", "northing", "elevation")]
        guessed = (
            ""
            if not header
            else f"of the titles {', '.join(titles)} only {', '.join(known)} is known"
            if known
            else f"none of the titles {', '.join(titles)} is known"
        )
        columns = _columns_by_order(body, numeric, comma, columns)
    places = [r[columns[k]] for r in body for k in ("easting", "northing", "elevation") if k in columns and columns[k] < len(r)]
    grouped = comma and len(places) > 3 and all(_THOUSANDS.fullmatch(v) for v in places)
    return CsvLayout(delimiter, comma, header, columns, tuple(titles), header_line, grouped, guessed[:200])


def _plain(title: str) -> str:
    """A title in small letters without accents, signs and what stands in brackets."""
    flat = unicodedata.normalize("NFKD", re.sub(r"[\[(].*", "", title.lower()).replace("ß", "ss"))
    return re.sub(r"[^a-z]", "", flat)


def _columns_by_words(names: tuple[str, ...], numeric: list[bool]) -> dict[str, int]:
    found: dict[str, int] = {}
    for what, words in _WORDS.items():
        for i, title in enumerate(names):
            free = i not in found.values() and (what in ("code", "name") or (i < len(numeric) and numeric[i]))
            if free and _plain(title) in words:
                found[what] = i
                break
    return found


def _columns_by_order(body: list[list[str]], numeric: list[bool], comma: bool, known: dict[str, int]) -> dict[str, int]:
    """Columns in their usual order: name, E, N, level, code. What titles have named stays, the rest fills the free ones."""
    columns = dict(known)
    numbers = [i for i, ok in enumerate(numeric) if ok and i not in columns.values()]
    if "name" in columns:
        pass
    elif len(numbers) >= 4 - len(columns) and numbers[0] == 0:
        first = [r[0].replace(",", ".") for r in body if r]
        if all(re.fullmatch(r"\d+", c) for c in first if c) and len({*first}) > 0.9 * len(first):
            columns["name"] = 0  # whole numbers, no two alike: point numbers
            numbers = numbers[1:]
    elif not numeric[0] and 0 not in columns.values():
        columns["name"] = 0
    wanted = [what for what in ("easting", "northing", "elevation") if what not in columns]
    for what, i in zip(wanted, numbers, strict=False):
        columns[what] = i
    for i in range(len(numeric)):
        if "code" not in columns and not numeric[i] and i not in columns.values() and i > max(columns.values(), default=0):
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
    found = _read_sound(content, layout, name) or _read_lines(content, layout, name)
    points, silent = _without_levels(found.points)
    findings = [*found.findings, *silent, *inventory_findings(points, layout, found)]
    return SurveyPoints(points, found.code, found.name, found.line, tuple(findings))


def _without_levels(points: Any) -> tuple[NDArray[np.float64], list[Finding]]:
    """Points whose level is a number that programs write for none get no level, and are told."""
    z = points[:, 2]
    none = np.isin(z, _NO_LEVEL) | (np.abs(z) > 1e30)
    if not none.any() or none.all():
        return points, []
    out = points.copy()
    out[none, 2] = np.nan
    told = ", ".join(f"{v:g}" for v in np.unique(z[none])[:3])
    return out, [Finding("doubt", "level-none", {"count": int(none.sum()), "told": told})]


def _read_lines(content: bytes, layout: CsvLayout, name: str) -> SurveyPoints:
    """Line by line, so that each fault is told with its line."""
    points, codes, names, numbers, bad = [], [], [], [], []
    ce, cn, cz = (layout.columns[k] for k in ("easting", "northing", "elevation"))
    cc, ci, ca = (layout.columns.get(k, -1) for k in ("code", "name", "attribute"))
    for number, row in _records(decode_text(content, name), layout.delimiter):
        if layout.header and number <= layout.header_line:
            continue
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
        told = "; ".join(f"line {n}: {reason}" for n, reason in bad[:_NAMED]) + (
            f"; and {len(bad) - _NAMED} more" if len(bad) > _NAMED else ""
        )
        findings.append(Finding("doubt", "lines-unread", {"count": len(bad), "told": told, "line": bad[0][0]}))
    return SurveyPoints(np.array(points), tuple(codes), tuple(names), np.array(numbers), tuple(findings))


def _code(code: str, attribute: str) -> str:
    return f"{code.strip()} / {attribute.strip()}" if attribute.strip() else code.strip()


def _read_sound(content: bytes, layout: CsvLayout, name: str) -> SurveyPoints | None:
    """The points of a file in which every line reads as it should, by the compiled reader of pandas; None for any other
    file, which is then read line by line so that each fault is told with its line."""
    import pandas as pd

    if not content.strip() or len(content) > MOST_BYTES or b"\x00" in content[:4096] or b'"' in content:
        return None
    if layout.header and layout.header_line > 1:
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


def inventory_findings(points: Any, layout: CsvLayout | None = None, found: SurveyPoints | None = None) -> list[Finding]:
    """What looks wrong in a file of points before it is brought in. Names of points, where there are some, are spoken of."""
    p = np.asarray(points, float)
    out: list[Finding] = []
    if layout is not None and layout.grouped and layout.decimal_comma:
        out.append(Finding("doubt", "comma-groups", {"example": "412,560"}))
    if layout is not None and layout.guessed:
        out.append(Finding("doubt", "columns-guessed", {"why": layout.guessed}))
    if layout is not None and layout.header and layout.header_line > 1:
        out.append(Finding("note", "lines-before-header", {"line": layout.header_line}))
    low, high = p[:, :2].min(axis=0), p[:, :2].max(axis=0)
    if len(p) > 3 and (high - low < _DEGREES).all() and (np.abs(p[:, :2]) <= 180).all() and (high > low).all():
        params = {"e0": low[0], "e1": high[0], "n0": low[1], "n1": high[1]}
        out.append(Finding("fault", "looks-like-degrees", params))
    if found is not None and any(found.name):
        counts = Counter(n for n in found.name if n)
        twice = [n for n, k in counts.items() if k > 1]
        if twice:
            told = ", ".join(twice[:6]) + (f" and {len(twice) - 6} more" if len(twice) > 6 else "")
            out.append(Finding("note", "names-twice", {"count": len(twice), "told": told}))
    if layout is not None and layout.names:
        names = [_plain(n) for n in layout.names]
        e, n = layout.columns["easting"], layout.columns["northing"]
        if e < len(names) and n < len(names) and names[e] in _WORDS["northing"] and names[n] in _WORDS["easting"]:
            out.append(Finding("doubt", "axes-swapped"))
    z = p[np.isfinite(p[:, 2]), 2]
    if not len(z):
        return out
    least, greatest = float(z.min()), float(z.max())
    if len(p) > 3 and greatest - least < 1e-9:
        out.append(Finding("doubt", "flat-file", {"count": len(p), "elevation": float(z[0])}))
    step = len(p) // _ENOUGH + 1  # quantiles of points evenly taken tell as much as those of all
    usual_low, usual_high = (float(v) for v in np.percentile(z[::step], [5, 95]))
    if greatest - least > 3 * max(usual_high - usual_low, 1.0) + 5:
        out.append(Finding("doubt", "levels-spread", {"least": least, "greatest": greatest, "spread": greatest - least}))
    centre = np.median(p[::step, :2], axis=0)
    if len(p) > 10 and abs(centre[0] - centre[1]) > 10_000:
        reversed_ = (np.abs(p[:, 0] - centre[1]) < 10_000) & (np.abs(p[:, 1] - centre[0]) < 10_000)
        if reversed_.any() and not reversed_.all():
            at = int(np.argmax(reversed_))
            out.append(Finding("doubt", "axes-swapped", place=(float(p[at, 0]), float(p[at, 1]))))
    return out
