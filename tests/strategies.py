"""Hypothesis strategies: lines, profiles and files as they come."""

from __future__ import annotations

import numpy as np
from hypothesis import strategies as st

from ivoryridge.core.alignment.horizontal import PI

finite = st.floats(-1e4, 1e4, allow_nan=False)


@st.composite
def pi_rows(draw: st.DrawFn) -> list[PI]:
    """3 to 6 PIs about 400 m apart near E 500 000 N 6 200 000, with curves that fit: turns below 70 degrees."""
    azimuth = draw(st.floats(0, 2 * np.pi))
    place = np.array([500_000.0, 6_200_000.0])
    rows = [PI(*place)]
    for _ in range(draw(st.integers(1, 4))):
        leg = draw(st.floats(380, 600))
        place = place + leg * np.array([np.sin(azimuth), np.cos(azimuth)])
        turn = draw(st.floats(0.15, 1.2)) * draw(st.sampled_from([-1, 1]))
        radius = draw(st.floats(80, 160))
        longest = radius * abs(turn) * 0.9
        rows.append(PI(*place, radius, draw(st.floats(0, 1)) * min(longest, 40), draw(st.floats(0, 1)) * min(longest, 40)))
        azimuth += turn
    place = place + 400 * np.array([np.sin(azimuth), np.cos(azimuth)])
    return [*rows, PI(*place)]
