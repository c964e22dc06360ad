"""Parts, templates and pavement structures as a file that travels between projects: JSON with a schema, and a unit of length.

::

    {"kind": "Ivory Ridge parts", "schema": 1, "unit": "m",
     "parts": {key: part}, "structures": {key: {"name", "layers"}}, "templates": [{"name", "left", "right"}]}

A template's row names a part by its key in the file, or one of the library by its name; lengths are in the file's unit.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import FormatError, InputError
from ..text import clean
from ..units import FOOT, US_SURVEY_FOOT
from .check import sound
from .edit_part import empty_part
from .formula import in_other_length
from .library import library_part, library_parts
from .part import LENGTHS, SCHEMA, part_from_dict
from .rules import RULES

__all__ = ["KIND", "Portable", "in_unit", "read_portable", "write_portable"]

KIND = "Ivory Ridge parts"
UNITS = {"m": 1.0, "ft": FOOT, "us-ft": US_SURVEY_FOOT}
LARGEST = 2_000_000  # bytes
MOST = 200  # parts, structures or templates of a file
_TEXT = 400  # characters


@dataclass(frozen=True, slots=True)
class Portable:
    """What a file holds, lengths in m; parts and structures by their keys in the file."""

    parts: dict[str, dict[str, Any]] = field(default_factory=dict)
    structures: dict[str, dict[str, Any]] = field(default_factory=dict)
    templates: list[dict[str, Any]] = field(default_factory=list)


def write_portable(file: Portable, unit: str = "m") -> bytes:
    """The file, with its lengths in a unit."""
    k = 1.0 / UNITS[unit]
    told: dict[str, Any] = {
        "kind": KIND, "schema": SCHEMA, "unit": unit,
        "parts": {key: in_unit(p, k) for key, p in file.parts.items()},
        "structures": {key: {**s, "layers": [_layer(x, k) for x in s["layers"]]} for key, s in file.structures.items()},
        "templates": [{"name": t["name"], **_sides(t, lambda r: _placed(r, file.parts, k))} for t in file.templates],
    }  # fmt: skip
    return json.dumps(told, indent=1, ensure_ascii=False).encode()


def read_portable(content: bytes, name: str) -> Portable:
    """What a file holds; every part is checked as if it had been drawn here. Raises FormatError or InputError in words."""
    told = _document(content, name)
    schema = told.get("schema")
    if not isinstance(schema, int) or isinstance(schema, bool) or schema < 1:
        raise FormatError("part-broken", name=name, reason="it does not say which schema it follows")
    if schema > SCHEMA:
        raise FormatError("part-newer", name=name, schema=schema, known=SCHEMA)
    unit = told.get("unit")
    if unit not in UNITS:
        raise FormatError("part-no-unit", name=name)
    k = UNITS[unit]
    try:
        parts = {str(key)[:60]: in_unit(_tidy_part(p), k) for key, p in _rows(told, "parts", dict).items()}
        structures = {
            str(key)[:60]: {"name": _words(s["name"]), "layers": [_layer(_tidy_layer(x), k) for x in s["layers"]]}
            for key, s in _rows(told, "structures", dict).items()
        }
        templates = [
            {"name": _words(t["name"]), **_sides(t, lambda r: _placed(_tidy_row(r), parts, k))}
            for t in _rows(told, "templates", list)
        ]
        for data in parts.values():
            sound(part_from_dict(data))
    except InputError:
        raise
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise FormatError(
            "part-broken", name=name, reason=f"something is missing or of another kind ({str(error)[:60]})"
        ) from error
    for t in templates:
        for row in (*t["left"], *t["right"]):
            if row["part"] not in parts and row["part"] not in library_parts():
                reason = f"template {t['name']} names the part '{row['part']}', which is neither in the file nor in the library"
                raise FormatError("part-broken", name=name, reason=reason)
    return Portable(parts, structures, templates)


def _sides(template: Any, row: Callable[[Any], dict[str, Any]]) -> dict[str, Any]:
    return {side: [row(r) for r in template[side]] for side in ("left", "right")}


def _document(content: bytes, name: str) -> dict[str, Any]:
    if len(content) > LARGEST:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=LARGEST / 1e6)
    try:
        told = json.loads(content.decode("utf-8-sig"), parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise FormatError("json-broken", name=name, reason=str(error)[:120]) from error
    if not isinstance(told, dict) or told.get("kind") != KIND:
        raise FormatError("part-broken", name=name, reason=f'it does not begin with "kind": "{KIND}"')
    return told


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _rows(told: Mapping[str, Any], what: str, kind: type[dict[Any, Any]] | type[list[Any]]) -> Any:
    rows = told.get(what, kind())
    if not isinstance(rows, kind) or len(rows) > MOST:
        raise TypeError(what)
    return rows


def _words(text: Any) -> str:
    if not isinstance(text, str) or not clean(text):
        raise TypeError("a name")
    return clean(text)[:80]


def _number(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value) or abs(value) > 1e6:
        raise InputError("bad-parameter", label="A number of the file", reason=f"{str(value)[:20]} is no number below a million")
    return value


def _plain(value: Any, depth: int = 0) -> Any:
    """Texts, numbers, lists and records only, short and shallow."""
    if depth > 6:
        raise TypeError("nesting")
    if isinstance(value, str):
        return value[:_TEXT]
    if isinstance(value, bool) or value is None:
        return value
    if isinstance(value, int | float):
        return _number(value)
    if isinstance(value, list):
        return [_plain(v, depth + 1) for v in value[:2000]]
    return {str(k)[:40]: _plain(v, depth + 1) for k, v in value.items()}


def _tidy_part(data: Mapping[str, Any]) -> dict[str, Any]:
    known = {**empty_part(""), "layers": [], "upon": []}
    plain = _plain(dict(data))
    return {k: plain[k] for k in known if k in plain} | {"label": _words(data["label"]), "name": "part"} | {
        k: v for k, v in known.items() if k not in plain
    }  # fmt: skip


def _tidy_layer(layer: Mapping[str, Any]) -> dict[str, Any]:
    numbers = {k: _number(layer.get(k, usual)) for k, usual in (("least", 0.0), ("greatest", 2.0), ("step_out", 0.0))}
    return {"material": _words(layer["material"]), "thickness": _number(layer["thickness"]), **numbers}


def _layer(layer: Mapping[str, Any], k: float) -> dict[str, Any]:
    return {**layer, **{n: layer[n] * k for n in ("thickness", "least", "greatest", "step_out") if n in layer}}


def _tidy_row(row: Mapping[str, Any]) -> dict[str, Any]:
    return {
        "id": str(row["id"])[:40].replace(".", "_"),
        "part": str(row["part"])[:60],
        "values": _plain(dict(row.get("values", {}))),
        "targets": {str(name)[:40]: {"level": _number(b["level"])} for name, b in row.get("targets", {}).items()},
    }


def _placed(row: Mapping[str, Any], parts: Mapping[str, Mapping[str, Any]], k: float) -> dict[str, Any]:
    if row["part"] in parts:
        kinds = {p["name"]: p["kind"] for p in parts[row["part"]]["parameters"]}
    elif row["part"] in library_parts():
        kinds = {p.name: p.kind for p in library_part(row["part"]).parameters}
    else:
        kinds = {}
    values = {n: v * k if kinds.get(n) in LENGTHS and not isinstance(v, str) else v for n, v in row["values"].items()}
    targets = {name: {"level": b["level"] * k} for name, b in row.get("targets", {}).items()}
    return {"id": row["id"], "part": row["part"], "values": values} | ({"targets": targets} if targets else {})


def in_unit(data: Mapping[str, Any], k: float) -> dict[str, Any]:
    """A part whose lengths were in another unit: each times ``k``, those in its formulas too."""
    if k == 1.0:
        return dict(data)
    lengths = {p["name"] for p in data["parameters"] if p["kind"] in LENGTHS}

    def formula(value: Any, is_length: bool) -> Any:
        return in_other_length(value, k, lengths, is_length=is_length) if value != "" else value

    def rule(rule: Mapping[str, Any]) -> dict[str, Any]:
        of = RULES.get(str(rule.get("kind")))
        slots = {s.name: s.takes for s in of.slots if s.is_formula} if of else {}
        return {n: formula(v, slots[n] == "length") if n in slots else v for n, v in rule.items()}

    def case(c: Mapping[str, Any]) -> dict[str, Any]:
        out = {n: formula(v, True) if n in ("least", "greatest") else v for n, v in c.items()}
        return out | ({"also": [case(x) for x in c["also"]]} if "also" in c else {})

    parameters = [
        {n: v * k if p["kind"] in LENGTHS and n in ("value", "least", "greatest") else v for n, v in p.items()}
        for p in data["parameters"]
    ]
    return {
        **data, "parameters": parameters, "nodes": [{**n, "rule": rule(n["rule"])} for n in data["nodes"]],
        "cases": [case(c) for c in data.get("cases", ())],
        "checks": [{**c, "value": formula(c["value"], True), "least": formula(c["least"], True)} for c in data.get("checks", ())],
        "upon": [{**x, "allowed": formula(x["allowed"], True)} for x in data.get("upon", ())],
    }  # fmt: skip
