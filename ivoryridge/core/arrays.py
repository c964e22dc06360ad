"""Arrays inside frozen records: copied once, then read-only."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

__all__ = ["freeze", "frozen_fields"]


def freeze(values: Any, dtype: Any = np.float64) -> np.ndarray:
    """A C-contiguous, read-only copy. Copies first: freezing a view would freeze the caller's own array."""
    array = np.array(values, dtype=dtype, order="C", copy=True)
    array.setflags(write=False)
    return array


def frozen_fields(record: object, names: Iterable[str], dtype: Any = np.float64) -> None:
    """Freeze the named array fields of a frozen dataclass, from its ``__post_init__``."""
    for name in names:
        object.__setattr__(record, name, freeze(getattr(record, name), dtype))
