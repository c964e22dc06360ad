"""The tree of a LandXML file: parsed as hostile, its unit, its numbers and its places, with the line of each fault."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from ..errors import FormatError
from ..findings import Finding
from ..units import LINEAR_UNITS

Floats = NDArray[np.float64]

__all__ = ["Tree", "children", "descend", "tag"]

MOST_BYTES = 200 * 1024 * 1024
_COMMA = re.compile(r"[+-]?\d+,\d+(?:[eE][+-]?\d+)?")
_GROUPED = re.compile(r"([+-]?)(\d+)\+(\d{2,3}(?:[.,]\d*)?)")


def tag(element: Any) -> str:
    """The element's name without its name space; "" for a comment."""
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def children(element: Any, name: str) -> Iterable[Any]:
    return (c for c in element if tag(c) == name)


def descend(element: Any, name: str) -> Iterable[Any]:
    return (c for c in element.iter() if tag(c) == name)


@dataclass(slots=True)
class Tree:
    """A parsed file: its root, name, unit and the metres of it, and what was noticed while it is read."""

    root: Any
    name: str
    unit: str = "meter"
    factor: float = 1.0
    findings: list[Finding] = field(default_factory=list)
    commas: int = 0
    _named: dict[str, Any] | None = None

    @classmethod
    def parse(cls, content: bytes, name: str) -> Tree:
        """Raises FormatError: empty, too large, cut off, entities, not LandXML, or a unit that is not known."""
        tree = cls(_root_of(content, name), name)
        tree._read_unit()
        return tree

    def _read_unit(self) -> None:
        for units in children(self.root, "Units"):
            for system in units:
                if not isinstance(system.tag, str):
                    continue
                for what in ("linearUnit", "elevationUnit"):
                    unit = system.get(what)
                    if unit and unit not in LINEAR_UNITS:
                        raise FormatError("landxml-units", name=self.name, unit=unit, known=", ".join(LINEAR_UNITS))
                if unit := system.get("linearUnit"):
                    self.unit, self.factor = unit, LINEAR_UNITS[unit]
                    other = system.get("elevationUnit")
                    if other and LINEAR_UNITS[other] != self.factor:
                        self.findings.append(Finding("doubt", "level-unit-differs", {"unit": unit, "other": other}))
        if self.factor != 1.0:
            self.findings.append(Finding("note", "units-converted", {"unit": self.unit}))

    def told(self) -> tuple[Finding, ...]:
        """All that was noticed."""
        commas = [Finding("note", "decimal-commas", {"count": self.commas})] if self.commas else []
        return (*self.findings, *commas)

    # --- numbers -------------------------------------------------------------------------------------------------
    def bad(self, element: Any, text: Any, owner: str, what: str, expected: str) -> FormatError:
        line = element.sourceline
        return FormatError(
            "landxml-number", text=str(text).strip()[:20], surface=owner, what=what, line=line, expected=expected,
            where={"line": line},
        )  # fmt: skip

    def numbers(self, element: Any, owner: str, what: str) -> Floats:
        """The element's text as numbers, as they stand. A decimal comma is understood, and counted."""
        words = (element.text or "").split()
        try:
            values = np.array(words, dtype=np.float64)
        except ValueError:
            values = np.array([self._number(element, w, owner, what) for w in words])
        if not np.isfinite(values).all():
            raise self.bad(element, words[int(np.argmin(np.isfinite(values)))], owner, what, "a finite number")
        return values

    def _number(self, element: Any, word: str, owner: str, what: str) -> float:
        try:
            return float(word)
        except ValueError:
            if not _COMMA.fullmatch(word):
                raise self.bad(element, word, owner, what, "a number") from None
        self.commas += 1
        return float(word.replace(",", "."))

    def attribute(self, element: Any, name: str, owner: str, *, needed: bool = False) -> float | None:
        """A number of an attribute, as it stands; None where there is none (``INF`` and ``NaN`` count as such)."""
        text = (element.get(name) or "").strip()
        if not text:
            if needed:
                raise self.bad(element, tag(element), owner, name, f"complete: it has no {name}")
            return None
        if text.upper() in ("INF", "INFINITY", "+INF", "NAN", "N/A"):
            return None
        value = self._number(element, text, owner, name)
        if not np.isfinite(value):
            raise self.bad(element, text, owner, name, "a finite number")
        return value

    def length(self, element: Any, name: str, owner: str, *, needed: bool = False) -> float | None:
        """An attribute that is a length, in m."""
        value = self.attribute(element, name, owner, needed=needed)
        return None if value is None else value * self.factor

    def station(self, element: Any, name: str, owner: str) -> float | None:
        """An attribute that is a station, in m; also written in groups, 1+200 or 12+00."""
        text = (element.get(name) or "").strip()
        if m := _GROUPED.fullmatch(text):
            rest = m[3].replace(",", ".")
            value = float(m[2]) * 10 ** len(rest.split(".")[0]) + float(rest)
            return (-value if m[1] == "-" else value) * self.factor
        return self.length(element, name, owner)

    def triples(self, element: Any, owner: str, what: str) -> Floats:
        """(k, 3) easting, northing, level in m of a list northing, easting, level, ..."""
        return self._rows(element, owner, what, 3, "northing, easting, level triples")[:, [1, 0, 2]]

    def pairs(self, element: Any, owner: str, what: str, level: float = np.nan) -> Floats:
        """(k, 3) of a list northing, easting, ... with one level (m)."""
        en = self._rows(element, owner, what, 2, "northing, easting pairs")[:, ::-1]
        return np.column_stack([en, np.full(len(en), level)])

    def _rows(self, element: Any, owner: str, what: str, width: int, words: str) -> Floats:
        values = self.numbers(element, owner, what)
        if len(values) % width:
            raise self.bad(element, f"{len(values)} numbers", owner, what, f"a row of {words}")
        return values.reshape(-1, width) * self.factor

    # --- places --------------------------------------------------------------------------------------------------
    def place(self, element: Any, owner: str, what: str) -> Floats:
        """Easting, northing and level (NaN where none) in m of an element that gives them or names a point (``pntRef``)."""
        reference = element.get("pntRef")
        if reference and not (element.text or "").strip():
            named = self._points().get(reference.strip())
            if named is None:
                raise self.bad(element, reference, owner, what, "the name of a point in this file")
            element = named
        values = self.numbers(element, owner, what)
        if len(values) not in (2, 3):
            raise self.bad(element, element.text or "", owner, what, "northing and easting, perhaps with a level")
        level = values[2] if len(values) == 3 else np.nan
        return np.array([values[1], values[0], level]) * self.factor

    def _points(self) -> dict[str, Any]:
        if self._named is None:
            self._named = {}
            for p in descend(self.root, "CgPoint"):
                if p.get("pntRef") is None and (key := p.get("name") or p.get("oID")):
                    self._named.setdefault(key.strip(), p)
        return self._named


def _root_of(content: bytes, name: str) -> Any:
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
    if tag(root) != "LandXML":
        raise FormatError("not-landxml", name=name, root=tag(root) or "?")
    return root
