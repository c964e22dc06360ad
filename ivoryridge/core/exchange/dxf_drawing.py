"""Opening a DXF drawing: its unit, its hidden layers, and one kind of error for bytes that are no drawing. Reading by ezdxf."""

from __future__ import annotations

import io
import struct
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from ..errors import FormatError
from ..findings import Finding
from ..units import LINEAR_UNITS

__all__ = ["OpenDrawing", "Walk", "open_drawing", "opened", "parts_of_block"]

MOST_BYTES = 200 * 1024 * 1024
MOST_OBJECTS = 1_000_000  # after blocks are taken apart
DEEPEST = 12  # blocks within blocks
# header variable $INSUNITS -> unit, by the published DXF reference (from memory)
_UNITS = {1: "inch", 2: "foot", 4: "millimeter", 5: "centimeter", 6: "meter", 7: "kilometer", 21: "USSurveyFoot"}
# what the library may raise on bytes that are no drawing
_BROKEN = (
    ValueError, KeyError, IndexError, TypeError, AttributeError, EOFError, RecursionError, ArithmeticError, AssertionError, struct.error,
)  # fmt: skip


@dataclass(frozen=True, slots=True, eq=False)
class OpenDrawing:
    """A drawing, its unit (metres where it names none), metres per unit, layers that are off or frozen (lower case), and what
    was wrong with it or is to be known."""

    document: Any
    unit: str
    factor: float
    hidden: frozenset[str]
    findings: tuple[Finding, ...]


@contextmanager
def opened(name: str) -> Iterator[None]:
    """What the library raises on bytes that are no drawing becomes a FormatError."""
    import ezdxf

    try:
        yield
    except FormatError:
        raise
    except (ezdxf.DXFError, *_BROKEN) as error:
        own = isinstance(error, ezdxf.DXFError) and len(str(error)) > 8
        reason = str(error)[:120].rstrip(".") if own else "its content does not follow the format"
        raise FormatError("dxf-broken", name=name, reason=reason) from error


def open_drawing(content: bytes, name: str) -> OpenDrawing:
    """The drawing in ``content``; to be called within ``opened``. Raises FormatError when it is empty or too large."""
    from ezdxf import recover

    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    document, auditor = recover.read(io.BytesIO(content))
    code = int(document.header.get("$INSUNITS", 0))
    unit = _UNITS.get(code, "meter")
    findings = []
    if auditor.errors:
        findings.append(
            Finding("doubt", "dxf-errors", {"count": len(auditor.errors), "first": str(auditor.errors[0].message)[:120]})
        )
    if unit != "meter":
        findings.append(Finding("note", "units-converted", {"unit": unit}))
    elif code == 0:
        findings.append(Finding("note", "units-unsaid"))
    hidden = frozenset(str(la.dxf.name).lower() for la in document.layers if la.is_off() or la.is_frozen())
    return OpenDrawing(document, unit, LINEAR_UNITS[unit], hidden, tuple(findings))


@dataclass(slots=True, eq=False)
class Walk:
    """Goes through all objects of a drawing that are shown.

    ``take`` is given each with its layer and gives back the parts to be walked in turn, none for an object it is done with. What
    stands on layer 0 in a block stands on the block's layer. Objects on layers off or frozen are counted by layer in ``unseen``.

    Raises
    ------
    FormatError    more than a million objects
    """

    drawing: OpenDrawing
    take: Callable[[Any, str], Iterable[Any]]
    unseen: Counter[str] = field(default_factory=Counter)
    too_deep: int = 0
    count: int = 0

    def go(self) -> None:
        for entity in self.drawing.document.modelspace():
            self._one(entity, "", 0)

    def _one(self, entity: Any, layer: str, depth: int) -> None:
        self.count += 1
        if self.count > MOST_OBJECTS:
            raise FormatError("dxf-too-many", limit=MOST_OBJECTS)
        own = str(entity.dxf.get("layer", "0"))
        layer = layer if layer and own == "0" else own
        if own.lower() in self.drawing.hidden or layer.lower() in self.drawing.hidden:
            self.unseen[layer] += 1
            return
        parts = self.take(entity, layer)
        if depth >= DEEPEST and entity.dxftype() == "INSERT":
            self.too_deep += 1
            return
        for part in parts:
            self._one(part, layer, depth + 1)


def parts_of_block(insert: Any) -> Iterator[Any]:
    """What an inserted block is made of, where it stands in the drawing; a block inserted in rows and columns, all of them."""
    for one in insert.multi_insert() if insert.mcount > 1 else (insert,):
        for part in one.virtual_entities():
            if part.dxftype() != "ATTDEF":
                yield part
