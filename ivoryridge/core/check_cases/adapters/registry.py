"""The adapters by kind, and what all of them use."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

__all__ = ["ADAPTERS", "FAR", "Inputs", "adapter", "plain"]

Inputs = dict[str, Any]
ADAPTERS: dict[str, Callable[[Inputs], Any]] = {}
FAR = 1e4  # m of tangent or ground beyond what a case looks at


def adapter(kind: str) -> Callable[[Callable[[Inputs], Any]], Callable[[Inputs], Any]]:
    """Registers a function as the adapter of a kind of case."""

    def keep(function: Callable[[Inputs], Any]) -> Callable[[Inputs], Any]:
        ADAPTERS[kind] = function
        return function

    return keep


def plain(values: Any) -> list[Any]:
    """Nested lists of floats, as a case's file has them."""
    return np.asarray(values, float).tolist()
