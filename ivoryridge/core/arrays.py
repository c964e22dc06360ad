"""Arrays inside frozen records: copied once, then read-only."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np

__all__ = ["freeze", "frozen_fields", "given_away", "runs_of"]


def freeze(values: Any, dtype: Any = np.float64) -> np.ndarray:
    """A C-contiguous, read-only copy. Copies first: freezing a view would freeze the caller's own array. One that is read-only already
    and no view is taken as it is."""
    if isinstance(values, np.ndarray) and values.dtype == dtype and values.flags.c_contiguous and values.flags.owndata:
        if not values.flags.writeable:
            return values
    array = np.array(values, dtype=dtype, order="C", copy=True)
    array.setflags(write=False)
    return array


def given_away(array: np.ndarray) -> np.ndarray:
    """An array that its maker changes no more, read-only from now on, so that ``freeze`` need not copy it."""
    array.setflags(write=False)
    return array


def frozen_fields(record: object, names: Iterable[str], dtype: Any = np.float64) -> None:
    """Freeze the named array fields of a frozen dataclass, from its ``__post_init__``."""
    for name in names:
        object.__setattr__(record, name, freeze(getattr(record, name), dtype))


def runs_of(mask: Any) -> list[tuple[int, int]]:
    """First and last index of every run of True."""
    m = np.concatenate([[False], np.asarray(mask, bool), [False]])
    change = np.flatnonzero(m[1:] != m[:-1])
    return [(int(a), int(b) - 1) for a, b in zip(change[::2], change[1::2], strict=True)]
