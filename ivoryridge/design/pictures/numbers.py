"""Numbers as the page is told them, and where a profile is drawn."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.vertical import VerticalAlignment

__all__ = ["level_stations", "rounded"]


def rounded(values: Any, decimals: int) -> list[Any]:
    """Nested lists of rounded numbers; NaN becomes None, as JSON has none."""
    a = np.round(np.asarray(values, float), decimals)
    return a.tolist() if np.isfinite(a).all() else np.where(np.isfinite(a), a, None).tolist()  # type: ignore[call-overload]


def level_stations(profile: VerticalAlignment) -> NDArray[np.float64]:
    """Stations (m) at which a profile is drawn: every 5 m on curves; a straight grade needs its ends only."""
    inner = np.arange(profile.station[0], profile.station[-1], 5.0)
    piece = np.clip(np.searchsorted(profile.station, inner, side="right") - 1, 0, len(profile.rate) - 1)
    return np.unique(np.concatenate([profile.station, inner[profile.rate[piece] != 0]]))
