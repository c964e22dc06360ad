"""How much memory a value takes, so that what is kept can be bounded."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from functools import cache
from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.corridor.block import Block
from ivoryridge.core.section.part import Part
from ivoryridge.core.section.template import Template

__all__ = ["fields_of", "size_of"]

_SHARED = frozenset({HorizontalAlignment, Template, Part, Block})
_SMALL = frozenset({type(None), bool, int, float, np.float64, np.int64, np.int32, np.bool_})


@cache
def fields_of(record: Any) -> tuple[str, ...]:
    """Fields of a kind of record; none of what is no record."""
    return tuple(f.name for f in dataclasses.fields(record)) if dataclasses.is_dataclass(record) else ()


def size_of(value: Any) -> int:
    """Bytes that a value takes, about; arrays that others share are counted once. A line, a template or a block within another record is
    held by many and counts where it is kept for itself."""
    seen: set[int] = set()
    total = 0
    ahead = [value]
    while ahead:  # a stack, not a call each: a road is tens of thousands of small values
        v = ahead.pop()
        kind: Any = type(v)
        if kind in _SMALL:
            total += 30
            continue
        if id(v) in seen or (kind in _SHARED and v is not value):
            continue
        seen.add(id(v))
        if isinstance(v, np.ndarray):
            if isinstance(v.base, np.ndarray):
                ahead.append(v.base)
            else:
                total += int(v.nbytes) + 100
        elif isinstance(v, str | bytes):
            total += len(v) + 50
        elif isinstance(v, Mapping):
            total += 100
            ahead += v.keys()
            ahead += v.values()
        elif isinstance(v, list | tuple | set | frozenset):
            total += 60
            if isinstance(v, tuple) and v and isinstance(v[0], str | float | int):  # one by one they would cost time
                total += 60 * len(v)
            else:
                ahead += v
        else:
            own = getattr(v, "__dict__", {})
            total += 60
            ahead += [getattr(v, name) for name in fields_of(kind) if name not in own]
            ahead += own.values()
    return total
