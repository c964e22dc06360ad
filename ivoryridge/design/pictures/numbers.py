"""Numbers as the page is told them."""

from __future__ import annotations

from typing import Any

import numpy as np

__all__ = ["rounded"]


def rounded(values: Any, decimals: int) -> list[Any]:
    """Nested lists of rounded numbers; NaN becomes None, as JSON has none."""
    a = np.round(np.asarray(values, float), decimals)
    return a.tolist() if np.isfinite(a).all() else np.where(np.isfinite(a), a, None).tolist()  # type: ignore[call-overload]
