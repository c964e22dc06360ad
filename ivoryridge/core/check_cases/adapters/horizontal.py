"""Lines in plan, places and directions, and the writing of numbers."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...alignment.element import clothoid_local, spiral_length, spiral_shift, spiral_tangents, travel
from ...alignment.horizontal import (
    PI,
    HorizontalAlignment,
    alignment_from_pis,
    arc_between_spirals,
    grid_from_station_offset,
    project_points,
    tangent_points,
)
from ...geometry.plane import azimuth_between, fillet, line_circle, wrap_angle
from ...units import dms_from_degrees, format_station, quadrant_bearing
from .registry import FAR, Inputs, adapter, plain


def _one_curve(
    radius: float, spiral_in: float, spiral_out: float, deflection_deg: float, pi_station: float
) -> HorizontalAlignment:
    """A line whose only curve is at the PI; its start station makes the back tangent reach the PI at its station."""
    leg, d = FAR, np.radians(deflection_deg)
    pis = [PI(0.0, -leg), PI(0.0, 0.0, radius, spiral_in, spiral_out), PI(leg * np.sin(d), leg * np.cos(d))]
    return alignment_from_pis(pis, pi_station - leg)


@adapter("circular_curve")
def _circular_curve(c: Inputs) -> Any:
    line = _one_curve(c["R"], 0, 0, c["delta_deg"], c["PI_station"])
    at = tangent_points(line, 1)
    (begin, middle, end), _, _ = line.evaluate([at["TS"], (at["TS"] + at["ST"]) / 2, at["ST"]])
    return {
        "T": c["PI_station"] - at["TS"], "L": at["ST"] - at["TS"], "E": float(np.hypot(*middle)), "PC": at["TS"], "PT": at["ST"],
        "M": float(np.hypot(*(middle - (begin + end) / 2))), "chord": float(np.hypot(*(end - begin))),
    }  # fmt: skip


@adapter("deflection")
def _deflection(c: Inputs) -> Any:
    arc = HorizontalAlignment(
        start=np.zeros((1, 2)),
        azimuth=np.zeros(1),
        length=np.array([c["R"] * np.pi]),
        k0=np.array([1 / c["R"]]),
        k1=np.array([1 / c["R"]]),
        pi_of=np.zeros(1, np.int64),
        start_station=c["PC"],
    )
    places, _, _ = arc.evaluate(c["stations"])
    angles = np.degrees(azimuth_between(np.zeros(2), places))
    return [
        {"station": s, "deflection_deg": float(a), "chord_from_PC": float(np.hypot(*p))}
        for s, a, p in zip(c["stations"], angles, places, strict=True)
    ]


@adapter("clothoid_points")
def _clothoid_points(c: Inputs) -> Any:
    x, y, theta = clothoid_local(c["A"], c["lengths"])
    return [
        {"l": s, "x": float(a), "y": float(b), "theta_rad": float(t)}
        for s, a, b, t in zip(c["lengths"], x, y, theta, strict=True)
    ]


@adapter("egg_clothoid")
def _egg_clothoid(c: Inputs) -> Any:
    length = spiral_length(c["A"], 1 / c["R1"], 1 / c["R2"])
    x, y, turned = (float(v[0]) for v in travel([length], length, 1 / c["R1"], 1 / c["R2"]))
    return {"L": length, "x": x, "y": y, "theta_deg": float(np.degrees(turned))}


@adapter("spiral_curve_spiral")
def _spiral_curve_spiral(c: Inputs) -> Any:
    line = _one_curve(c["R"], c["Ls"], c["Ls"], c["delta_deg"], c["PI_station"])
    at = tangent_points(line, 1)
    x, y, theta = (float(v[0]) for v in travel([c["Ls"]], c["Ls"], 0.0, 1 / c["R"]))
    p, k, _ = spiral_shift(c["R"], c["Ls"])
    long, short = spiral_tangents(c["R"], c["Ls"])
    middle = line.evaluate((at["SC"] + at["CS"]) / 2)[0][0]
    return {
        "theta_s_deg": float(np.degrees(theta)), "X": x, "Y": y, "p": p, "k": k, "LT": long, "ST": short, "Ts": c["PI_station"] - at["TS"],
        "Es": float(np.hypot(*middle)), "Lc": at["CS"] - at["SC"], "TS": at["TS"], "SC": at["SC"], "CS": at["CS"], "ST_station": at["ST"],
    }  # fmt: skip


@adapter("unequal_spirals")
def _unequal_spirals(c: Inputs) -> Any:
    line = _one_curve(c["R"], c["Ls1"], c["Ls2"], c["delta_deg"], c["PI_station"])
    at = tangent_points(line, 1)
    p1, k1, _ = spiral_shift(c["R"], c["Ls1"])
    p2, k2, _ = spiral_shift(c["R"], c["Ls2"])
    out = line.evaluate(at["ST"])[0][0]
    return {
        "T1": c["PI_station"] - at["TS"], "T2": float(np.hypot(*out)), "Lc": at["CS"] - at["SC"], "p1": p1, "p2": p2, "k1": k1, "k2": k2,
        "TS": at["TS"], "SC": at["SC"], "CS": at["CS"], "ST_station": at["ST"],
    }  # fmt: skip


@adapter("spiral_feasible")
def _spiral_feasible(c: Inputs) -> Any:
    d = np.radians(c["delta_deg"])
    arc = float(arc_between_spirals(c["R"], c["Ls"], c["Ls"], d))
    return {"feasible": arc >= 0, "Lc_m": arc, "max_Ls_m": float(arc_between_spirals(c["R"], 0.0, 0.0, d))}


def _alignment(c: Inputs) -> HorizontalAlignment:
    pis = [PI(p["E"], p["N"], p["R"] or 0.0, p["Ls"] or 0.0, p["Ls"] or 0.0) for p in c["PIs"]]
    return alignment_from_pis(pis, c["start_station"])


@adapter("pi_alignment")
def _pi_alignment(c: Inputs) -> Any:
    line = _alignment(c)
    named = [("BP", line.start_station)]
    for i, p in enumerate(c["PIs"][1:-1], 1):
        at = tangent_points(line, i)
        named += [(f"PI{i}.{k}", at[k]) for k in (("TS", "SC", "CS", "ST") if p["Ls"] else ("TS", "ST"))]
    named.append(("EP", line.end_station))
    places, _, _ = line.evaluate([s for _, s in named])
    return [{"name": n, "station": s, "E": float(e), "N": float(nn)} for (n, s), (e, nn) in zip(named, places, strict=True)]


@adapter("project_points")
def _project_points(c: Inputs) -> Any:
    found = project_points(_alignment(c), [[p["E"], p["N"]] for p in c["points"]])
    return [{"station": float(s), "offset": float(o)} for s, o in zip(found.station, found.offset, strict=True)]


@adapter("station_offset_to_grid")
def _station_offset_to_grid(c: Inputs) -> Any:
    places, azimuth = grid_from_station_offset(
        _alignment(c), [p["station"] for p in c["points"]], [p["offset"] for p in c["points"]]
    )
    return [
        {"E": float(e), "N": float(n), "azimuth_deg": float(np.degrees(a))} for (e, n), a in zip(places, azimuth, strict=True)
    ]


@adapter("line_circle")
def _line_circle(c: Inputs) -> Any:
    return sorted(plain(line_circle(c["centre"], c["R"], c["p1"], c["p2"])))


@adapter("fillet_lines")
def _fillet_lines(c: Inputs) -> Any:
    f = fillet(c["corner"], np.radians(c["azimuth1_deg"]), np.radians(c["azimuth2_deg"]), c["R"])
    return {
        "leg_angle_deg": float(np.degrees(f["leg_angle"])), "deflection_deg": float(np.degrees(f["deflection"])),
        "T": float(f["tangent_length"]),
        "tangent1": plain(f["tangent1"]), "tangent2": plain(f["tangent2"]), "centre": plain(f["centre"]),
        "arc_length": float(f["arc_length"]), "external": float(f["external"]),
    }  # fmt: skip


@adapter("inverse")
def _inverse(c: Inputs) -> Any:
    d = np.subtract(c["to"], c["from_"])
    return {"distance": float(np.hypot(*d)), "azimuth_deg": float(np.degrees(azimuth_between(c["from_"], c["to"])))}


@adapter("polar")
def _polar(c: Inputs) -> Any:
    back, ahead = azimuth_between(c["station"], c["backsight"]), azimuth_between(c["station"], c["point"])
    return {
        "angle_right_from_backsight_deg": float(np.degrees(wrap_angle(ahead - back)) % 360),
        "distance": float(np.hypot(*np.subtract(c["point"], c["station"]))),
    }


@adapter("quadrant_bearing")
def _quadrant_bearing(c: Inputs) -> Any:
    ns, angle, ew = quadrant_bearing(c["azimuth_deg"])
    return {"ns": ns, "angle_deg": angle, "ew": ew}


@adapter("format_station")
def _format_station(c: Inputs) -> Any:
    return {"text": format_station(c["value"], group=c["group"], decimals=c["decimals"])}


@adapter("format_dms")
def _format_dms(c: Inputs) -> Any:
    d, m, s = dms_from_degrees(c["deg"], c["decimals"])
    return {"d": d, "m": m, "s": s}
