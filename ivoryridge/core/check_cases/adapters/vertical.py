"""Profiles."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...alignment.vertical import PVI, length_through_point, profile_from_pvis
from .registry import FAR, Inputs, adapter


def _one_vertical(c: Inputs, half_in: float, half_out: float) -> Any:
    g1, g2, s, z = c["g1_pct"] / 100, c["g2_pct"] / 100, c["PVI_station"], c["PVI_elev"]
    a, b = half_in + FAR, half_out + FAR
    return profile_from_pvis([PVI(s - a, z - g1 * a), PVI(s, z, half_in, half_out), PVI(s + b, z + g2 * b)])


def _vertical(c: Inputs, half_in: float, half_out: float) -> dict[str, Any]:
    profile = _one_vertical(c, half_in, half_out)
    s = c["PVI_station"]
    begin, end = s - half_in, s + half_out
    levels, grades = profile.evaluate([begin, end, s])
    turning = profile.turning_points()
    at = profile.evaluate(c["stations"])[0]
    return {
        "PVC": begin, "PVC_elev": float(levels[0]), "PVT": end, "PVT_elev": float(levels[1]),
        "offset_at_PVI": float(levels[2] - c["PVI_elev"]), "grade_at_PVI_pct": float(100 * grades[2]),
        "M_at_PVI": float(abs(levels[2] - c["PVI_elev"])),
        "elevations": [{"station": v, "elev": float(z)} for v, z in zip(c["stations"], at, strict=True)],
        "turning_station": float(turning[0, 0]) if len(turning) else None, "turning_elev": float(turning[0, 1]) if len(turning) else None,
    }  # fmt: skip


@adapter("vertical_curve")
def _vertical_curve(c: Inputs) -> Any:
    profile = _one_vertical(c, c["L"] / 2, c["L"] / 2)
    return {**_vertical(c, c["L"] / 2, c["L"] / 2), "K": float(0.01 / np.abs(profile.rate[profile.pvi_of == 1][0]))}


@adapter("asym_vertical_curve")
def _asym_vertical_curve(c: Inputs) -> Any:
    return _vertical(c, c["L1"], c["L2"])


@adapter("vc_through_point")
def _vc_through_point(c: Inputs) -> Any:
    return {
        "L": length_through_point(
            c["g1_pct"] / 100, c["g2_pct"] / 100, (c["PVI_station"], c["PVI_elev"]), (c["point_station"], c["point_elev"])
        )
    }
