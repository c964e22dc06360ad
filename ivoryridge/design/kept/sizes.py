"""How much memory a value takes, so that what is kept can be bounded."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from functools import cache
from typing import Any

import numpy as np

from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.section.part import Part
from ivoryridge.core.section.template import Template

__all__ = ["fields_of", "size_of"]

_SHARED = (HorizontalAlignment, Template, Part)


@cache
def fields_of(record: Any) -> tuple[str, ...]:
    """Fields of a kind of record; none of what is no record."""
    return tuple(f.name for f in dataclasses.fields(record)) if dataclasses.is_dataclass(record) else ()


def size_of(value: Any) -> int:
    """Bytes that a value takes, about; arrays that others share are counted once. A line or a template within another record is
    held by many and counts where it is kept for itself."""
    seen: set[int] = set()

    def of(v: Any) -> int:
        if v is None or isinstance(v, bool | int | float):
            return 30
        if id(v) in seen or (v is not value and isinstance(v, _SHARED)):
            return 0
        seen.add(id(v))
        if isinstance(v, np.ndarray):
            return of(v.base) if isinstance(v.base, np.ndarray) else int(v.nbytes) + 100
        if isinstance(v, str | bytes):
            return len(v) + 50
        if isinstance(v, Mapping):
            return 100 + sum(of(k) + of(x) for k, x in v.items())
        if isinstance(v, list | tuple | set | frozenset):
            if isinstance(v, tuple) and v and isinstance(v[0], str | float | int):  # one by one they would cost time
                return 60 + 60 * len(v)
            return 60 + sum(of(x) for x in v)
        own = getattr(v, "__dict__", {})
        fields = [getattr(v, name) for name in fields_of(v.__class__) if name not in own]
        return 60 + sum(of(x) for x in (*fields, *own.values()))

    return of(value)
