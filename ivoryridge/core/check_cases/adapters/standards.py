"""Standards: sight, K, radii, transitions, crossfall."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...standards import formulas as f
from ...standards.standard import KMH, built_in_standards
from ...units import FOOT
from .registry import Inputs, adapter


@adapter("ssd_aashto_metric")
def _sight_metric(c: Inputs) -> Any:
    s = f.stopping_sight_metric(c["V_kmh"], reaction=c["t"], deceleration=c["a"])
    return {"calculated": s, "design": f.up_to_five(s)}


@adapter("ssd_aashto_us")
def _sight_us(c: Inputs) -> Any:
    s = f.stopping_sight_us(c["V_mph"], reaction=c["t"], deceleration=c["a"])
    return {"calculated": s, "design": f.up_to_five(s)}


@adapter("ssd_grade_metric")
def _sight_graded(c: Inputs) -> Any:
    s = f.stopping_sight_graded(c["V_kmh"], c["grade_pct"] / 100)
    return {"formula": s, "table": float(np.ceil(s))}


@adapter("ssd_austroads")
def _sight_austroads(c: Inputs) -> Any:
    return {"SSD": f.stopping_sight_austroads(c["V_kmh"], reaction=c["Rt"], friction=c["d"], grade=c["grade_pct"] / 100)}


def _k(row: Any, unit: float) -> Any:
    told = {"K_crest": "crest_k", "K_sag": "sag_k", "K_passing": "passing_k", "PSD": "passing_sight"}
    return {name: round(row[key] / unit, 6) if key in row else None for name, key in told.items()}


@adapter("k_metric")
def _k_metric(c: Inputs) -> Any:
    return _k(built_in_standards()["american_metric"].at(c["V_kmh"]), 1.0)


@adapter("k_us")
def _k_us(c: Inputs) -> Any:
    return _k(built_in_standards()["american_us"].at(c["V_mph"] * KMH["mph"]), FOOT)


@adapter("rmin_metric")
def _least_radius_metric(c: Inputs) -> Any:
    row = built_in_standards()["american_metric"].at(c["V_kmh"])
    r = f.least_radius_metric(c["V_kmh"], c["e_max_pct"] / 100, row["friction"])
    return {"f": row["friction"], "calculated": r, "rounded": round(r)}


@adapter("rmin_us")
def _least_radius_us(c: Inputs) -> Any:
    row = built_in_standards()["american_us"].at(c["V_mph"] * KMH["mph"])
    r = f.least_radius_us(c["V_mph"], c["e_max_pct"] / 100, row["friction"])
    return {"f": row["friction"], "calculated": r, "rounded": round(r) if r < 1000 else round(r, -1)}


@adapter("cd109")
def _cd109(c: Inputs) -> Any:
    row = built_in_standards()["british_metric"].at(c["V_kmh"])
    radius = row["radius_desirable"]
    return {
        "SSD": row["sight"], "SSD_one_step": row["sight_least"], "R_desirable": radius, "K_crest": row["crest_k_desirable"],
        "S_at_Rdes_pct": 100 * f.crossfall_british(c["V_kmh"], radius), "transition_L": f.transition_length_british(c["V_kmh"], radius,
        c["q"]),
        "max_L": f.shift_length(radius, 1.0),
    }  # fmt: skip


@adapter("ral")
def _ral(c: Inputs) -> Any:
    row = next(r for r in built_in_standards()["german_rural"].rows if r["class"] == c["EKL"])
    return {
        "R_min": row["radius"], "s_max_pct": 100 * row["greatest_grade"], "crest_H_min": 100 * row["crest_k"],
        "sag_H_min": 100 * row["sag_k"],
    }  # fmt: skip


@adapter("spiral_min_metric")
def _spiral_lengths(c: Inputs) -> Any:
    rules = built_in_standards()["american_metric"].rules
    by_shift = f.shift_length(c["R"], rules["least_shift"])
    by_jerk = f.transition_length_jerk(c["V_kmh"], c["R"], rules["jerk"])
    return {
        "L_pmin": by_shift,
        "L_C": by_jerk,
        "L_min": max(by_shift, by_jerk),
        "L_max": f.shift_length(c["R"], rules["greatest_shift"]),
    }


def _five(c: Inputs, speed: str, running: str, us: bool) -> Any:
    m = f.method_five(c[speed], c[running], c["R"], greatest_crossfall=c["e_max"], greatest_friction=c["f_max"], us=us)
    return {
        "R_min": m.least_radius, "R_PI": m.point_radius, "h_PI": m.point_height, "S1": m.slope_before, "S2": m.slope_behind,
        "MO": m.middle_ordinate, "f_D": m.friction, "e_D_pct": 100 * m.crossfall,
    }  # fmt: skip


@adapter("superelevation_method5_metric")
def _five_metric(c: Inputs) -> Any:
    return _five(c, "V_kmh", "VR_kmh", False)


@adapter("superelevation_method5_us")
def _five_us(c: Inputs) -> Any:
    return _five(c, "V_mph", "VR_mph", True)
