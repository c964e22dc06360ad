"""Beds of ditches: random ones lowered so that they keep a least grade, against conditions read off one by one."""

from __future__ import annotations

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI
from ivoryridge.core.corridor.drainage import beds_of, kept_falling

from .test_bends import road
from .test_corridor import E0, N0


def test_random_beds_fall_to_where_they_run_out_and_are_lowered_no_more_than_that_needs() -> None:
    rng = np.random.default_rng(1451)
    for _ in range(200):
        n = int(rng.integers(2, 60))
        s = np.cumsum(rng.uniform(2, 15, n))
        z = 50 + rng.uniform(-0.03, 0.03) * s + rng.uniform(0, 1.5) * np.sin(s / rng.uniform(20, 120)) + rng.normal(0, 0.02, n)
        least = float(rng.uniform(0.001, 0.02))
        low = kept_falling(s, z, least)
        assert (low <= z + 1e-12).all()
        # water runs from every place to an end or a hollow that was there, at the least grade or more
        grade = np.diff(low) / np.diff(s)
        turns = [i for i in range(1, n - 1) if grade[i - 1] < 0 <= grade[i]]  # hollows
        assert (np.abs(grade) >= least - 1e-9).all()
        for i in turns:  # each lies within a step of a hollow that stood more than 0.15 m under both rims
            before, behind = z[: i + 1].max() - z[max(i - 1, 0) : i + 2].min(), z[i:].max() - z[max(i - 1, 0) : i + 2].min()
            assert min(before, behind) > 0.1
        # lowered as little as can be: where a place is lower than it was, the way down to it has just the least grade
        for i in np.flatnonzero(low < z - 1e-9):
            beside = [abs((low[i] - low[k]) / (s[i] - s[k])) for k in (i - 1, i + 1) if 0 <= k < n and low[k] > low[i]]
            assert min(beside, default=np.inf) == pytest.approx(least, abs=1e-9)


def test_a_bed_that_falls_enough_stays_and_lists_name_hollows_and_outfalls() -> None:
    s = np.arange(0.0, 200.0, 10.0)
    assert kept_falling(s, 50 - 0.02 * s, 0.01) == pytest.approx(50 - 0.02 * s, abs=0)
    _, made, _, _ = road([PI(E0, N0), PI(E0 + 300, N0)], -2.0, 10.0)  # in cut: a level ditch on either side
    beds = [b for b in beds_of(made) if b.role == "ditch invert"]
    assert [b.side for b in beds] == ["left", "right"] and all(b.flattest == pytest.approx(0, abs=1e-9) for b in beds)
    assert all(not len(b.lows) and not len(b.outfalls) for b in beds)
