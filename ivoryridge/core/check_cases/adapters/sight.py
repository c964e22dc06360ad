"""Sight, crossfall, best fit, chainage equations and curves by hand."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...alignment import crossfall as x
from ...alignment import curves, sight
from ...alignment.best_fit import fit_circle, fit_line, slews_to_circle
from ...alignment.stationing import ChainageEquation, chainages_at, length_between
from ...alignment.vertical import PVI, profile_from_pvis
from ...standards import formulas as f
from ...standards.standard import built_in_standards
from .registry import FAR, Inputs, adapter, plain


# --- sight ---------------------------------------------------------------------------------------------------
@adapter("crest_available_sight")
def _on_crest(c: Inputs) -> Any:
    return {"S": sight.sight_on_crest(c["K"], c["h1"], c["h2"])}


@adapter("crest_sight_from_station")
def _from_station(c: Inputs) -> Any:
    g1, g2, half = c["g1_pct"] / 100, c["g2_pct"] / 100, c["L"] / 2
    profile = profile_from_pvis([PVI(-FAR, g1 * (-FAR - half)), PVI(half, 0.0, half, half), PVI(FAR, g2 * (FAR - half))])
    distance, touch = sight.sight_along_profile(profile, [c["eye_x_from_PVC"]], eye=c["h1"], target=c["h2"])
    return {"tangent_x": float(touch[0]), "object_x": float(c["eye_x_from_PVC"] + distance[0]), "S": float(distance[0])}


@adapter("sag_available_headlight")
def _on_sag(c: Inputs) -> Any:
    return {"S": sight.sight_on_sag(c["K"], c["h"])}


@adapter("hso")
def _offset(c: Inputs) -> Any:
    return {"HSO": sight.offset_for_sight(c["R"], c["S"]), "HSO_with_28_65": sight.offset_for_sight(c["R"], c["S"], printed=True)}


@adapter("hso_inverse")
def _past(c: Inputs) -> Any:
    return {"S": sight.sight_past_offset(c["R"], c["HSO"])}


@adapter("hso_S_gt_L")
def _beyond(c: Inputs) -> Any:
    return {"M_mid": sight.offset_for_sight_beyond(c["R"], c["L"], c["S"])}


@adapter("sight_offset_compare")
def _compared(c: Inputs) -> Any:
    needed = sight.offset_for_sight(c["R"], c["S"])
    return {"ok": bool(c["available"] >= needed), "HSO": needed}


# --- crossfall -----------------------------------------------------------------------------------------------
def _rates(stations: Any, outer: Any, inner: Any) -> Any:
    return [
        {"station": s, "outer_pct": 100 * float(o), "inner_pct": 100 * float(i)}
        for s, o, i in zip(stations, outer, inner, strict=True)
    ]


@adapter("superelevation_transition")
def _turning(c: Inputs) -> Any:
    normal, full = c["eNC_pct"] / 100, c["ed_pct"] / 100
    runoff = x.runoff_length(c["lane_width"], c["lanes_rotated"], full, c["delta_pct"] / 100, c["bw"])
    usual: dict[str, Any] = {"runoff": runoff, "normal": normal, "full": full, "share": c["share_on_tangent"]}
    enter, leave = x.transition_with_share(c["PC"], **usual), x.transition_with_share(c["PT"], **usual, leaving=True)
    outer = np.minimum(enter.rates(c["stations"])[0], leave.rates(c["stations"])[0])
    return {
        "Lr": runoff, "Lt": x.runout_length(normal, full, runoff), "begin_runout": enter.begin_runout, "begin_runoff": enter.begin_runoff,
        "reverse_crown": enter.reverse_crown, "full_super": enter.full, "end_full": leave.full, "reverse_crown_exit": leave.reverse_crown,
        "end_runoff": leave.begin_runoff, "end_runout": leave.begin_runout, "rates": _rates(c["stations"], outer, -np.maximum(outer,
        normal)),
    }  # fmt: skip


@adapter("superelevation_spiral")
def _turning_on_spiral(c: Inputs) -> Any:
    normal, full = c["eNC_pct"] / 100, c["ed_pct"] / 100
    t = x.transition_on_spiral(c["TS"], c["Ls"], normal=normal, full=full)
    return {
        "Lt": x.runout_length(normal, full, c["Ls"]), "begin_runout": t.begin_runout, "reverse_crown": t.reverse_crown, "full": t.full,
        "relative_gradient_pct": 100 * x.relative_gradient(c["lane_width"], full, c["Ls"]), "rates": _rates(c["stations"],
        *t.rates(c["stations"])),
    }  # fmt: skip


@adapter("reverse_super")
def _reverse(c: Inputs) -> Any:
    level, rates = x.reverse_rates(c["e1_pct"], c["e2_pct"], c["from_station"], c["to_station"], c["stations"])
    return {"zero_station": level, "rates": plain(rates)}


@adapter("axis_of_rotation")
def _axes(c: Inputs) -> Any:
    e = c["ed_pct"] / 100
    out = {}
    for name, axis in (("centreline", "centre"), ("inner_edge", "inner"), ("outer_edge", "outer")):
        inner, centre, outer = x.edge_levels(
            c["profile_elev_at_crown"], c["half_width"], e, -e, axis=axis, normal=c["eNC_pct"] / 100
        )
        out[name] = {"inner": float(inner), "centre": float(centre), "outer": float(outer)}
    return out


@adapter("edge_profile")
def _edges(c: Inputs) -> Any:
    g1, g2, half, s = c["g1_pct"] / 100, c["g2_pct"] / 100, c["Lv"] / 2, c["PVI_station"]
    a = half + FAR
    profile = profile_from_pvis(
        [PVI(s - a, c["PVI_elev"] - g1 * a), PVI(s, c["PVI_elev"], half, half), PVI(s + a, c["PVI_elev"] + g2 * a)]
    )
    turning = x.transition_on_spiral(c["TS"], c["Ls"], normal=c["eNC_pct"] / 100, full=c["ed_pct"] / 100)
    z, _ = profile.evaluate(c["stations"])
    inner, centre, outer = x.edge_levels(z, c["half_width"], *turning.rates(c["stations"]))
    return [
        {"station": v, "centre": float(m), "outer_edge": float(o), "inner_edge": float(i)}
        for v, m, o, i in zip(c["stations"], centre, outer, inner, strict=True)
    ]


# --- best fit ------------------------------------------------------------------------------------------------
@adapter("best_fit_circle")
def _circle(c: Inputs) -> Any:
    found = fit_circle(c["points"])
    return {
        "centre": plain(found.centre),
        "R": found.radius,
        "residuals_radial": plain(found.residuals),
        "kasa_R": found.start_radius,
    }


@adapter("best_fit_line")
def _line(c: Inputs) -> Any:
    found = fit_line(c["points"])
    p = np.asarray(c["points"], float)
    return {
        "centroid": plain(found.centroid), "azimuth_deg": float(np.degrees(found.azimuth)), "offsets_right": plain(found.offsets),
        "rms": found.rms,
        "y_on_x_slope": float(np.polyfit(p[:, 0], p[:, 1], 1)[0]),
    }  # fmt: skip


@adapter("slew_to_circle")
def _slews(c: Inputs) -> Any:
    return plain(slews_to_circle(c["points"], c["centre"], c["R"]))


# --- chainage and curves by hand -----------------------------------------------------------------------------
@adapter("station_equation")
def _equation(c: Inputs) -> Any:
    equations = [ChainageEquation(c["back"], c["ahead"])]
    return {
        "stations": plain(chainages_at(c["distances_from_start"], c["start_station"], equations)),
        "total_length": length_between(c["start_station"], c["end_station"], equations),
    }


@adapter("compound_curve")
def _compound(c: Inputs) -> Any:
    k = curves.compound_curve(c["R1"], c["R2"], np.radians(c["delta1_deg"]), np.radians(c["delta2_deg"]))
    begin = c["PI_station"] - k.tangent_in
    return {"Ta": k.tangent_in, "Tb": k.tangent_out, "PC": begin, "PCC": begin + k.first, "PT": begin + k.first + k.second}


@adapter("reverse_parallel")
def _reverse_curve(c: Inputs) -> Any:
    r = curves.reverse_between_parallels(c["R1"], c["R2"], c["offset_d"])
    begin = c["PC_station"]
    return {
        "delta_deg": float(np.degrees(r.turn)),
        "PRC": begin + r.first,
        "PT": begin + r.first + r.second,
        "advance": r.advance,
    }


@adapter("degree_of_curve")
def _degree(c: Inputs) -> Any:
    return {"D_arc_100ft": curves.degree_of_curve(c["R_ft"]), "D_chord_100ft": curves.degree_of_curve(c["R_ft"], chord=True)}


@adapter("degree_to_R")
def _radius(c: Inputs) -> Any:
    return {"R_arc": curves.radius_of_degree(c["D_deg"]), "R_chord": curves.radius_of_degree(c["D_deg"], chord=True)}


@adapter("versine")
def _versine(c: Inputs) -> Any:
    return {"exact": curves.versine(c["R"], c["chord"]), "approx": curves.versine(c["R"], c["chord"], flat=True)}


# --- lengths of vertical curves ------------------------------------------------------------------------------
@adapter("crest_min_length")
def _crest(c: Inputs) -> Any:
    return {"L_min": f.crest_length(c["A_pct"] / 100, c["S"], c["h1"], c["h2"])}


@adapter("sag_headlight_min_length")
def _headlight(c: Inputs) -> Any:
    change = c["A_pct"] / 100
    return {
        "L_min_exact_tan1": f.headlight_length(change, c["S"], height=c["h"], beam=c["beam_deg"]),
        "L_min_book_120_3p5S": f.headlight_length_printed(change, c["S"]),
    }


@adapter("sag_underpass")
def _underpass(c: Inputs) -> Any:
    return {"L_min": f.underpass_length(c["A_pct"] / 100, c["S"], c["C"], c["h1"], c["h2"])}


@adapter("sag_comfort")
def _comfort(c: Inputs) -> Any:
    return {"L": f.comfort_length(c["A_pct"] / 100, c["V_kmh"])}


@adapter("rounding_H")
def _rounding(c: Inputs) -> Any:
    t, length, offset = f.rounding(c["H"], c["s1_pct"] / 100, c["s2_pct"] / 100)
    return {"T": t, "L": length, "f": offset, "K_m_per_pct": c["H"] / 100}


@adapter("min_k_from_grades_speed")
def _least_k(c: Inputs) -> Any:
    standard = built_in_standards()["american_metric"]
    row, change = standard.at(c["V_kmh"]), c["g2_pct"] - c["g1_pct"]
    k = row["crest_k" if change < 0 else "sag_k"]
    shortest = standard.rules["vertical_length_per_speed"] * c["V_kmh"]
    return {"type": "crest" if change < 0 else "sag", "K_required": k, "L_required": k * abs(change), "L_min_06V": shortest}
