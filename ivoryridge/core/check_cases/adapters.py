"""One adapter a kind: the case's inputs to the core's own functions, and their results to the case's keys."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from ..alignment.element import clothoid_local, spiral_length, spiral_shift, spiral_tangents, travel
from ..alignment.horizontal import (
    PI,
    HorizontalAlignment,
    alignment_from_pis,
    arc_between_spirals,
    grid_from_station_offset,
    project_points,
    tangent_points,
)
from ..alignment.vertical import PVI, length_through_point, profile_from_pvis
from ..earthwork.end_area import areas_between, average_end_area, curved_volume, prismoidal_volume, pyramid_volume
from ..geometry.plane import azimuth_between, fillet, line_circle, polygon_area, wrap_angle
from ..section.meeting import meet_ground
from ..section.solve import solve_side
from ..section.template import PlacedPart, part_from_dict
from ..terrain.contour import compute_contours
from ..terrain.surface import read_surface, surface_area
from ..terrain.triangulate import surface_from_faces, triangulate
from ..terrain.volume import prism_volumes, volume_to_level
from ..units import CUBIC_YARD_IN_CUBIC_FEET, dms_from_degrees, format_station, quadrant_bearing

Inputs = dict[str, Any]
ADAPTERS: dict[str, Callable[[Inputs], Any]] = {}
_FAR = 1e4  # m of tangent or ground beyond what a case looks at


def adapter(kind: str) -> Callable[[Callable[[Inputs], Any]], Callable[[Inputs], Any]]:
    def keep(function: Callable[[Inputs], Any]) -> Callable[[Inputs], Any]:
        ADAPTERS[kind] = function
        return function

    return keep


def _plain(values: Any) -> list[Any]:
    return np.asarray(values, float).tolist()


# --- horizontal ----------------------------------------------------------------------------------------------
def _one_curve(
    radius: float, spiral_in: float, spiral_out: float, deflection_deg: float, pi_station: float
) -> HorizontalAlignment:
    """A line whose only curve is at the PI; its start station makes the back tangent reach the PI at its station."""
    leg, d = _FAR, np.radians(deflection_deg)
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
    return sorted(_plain(line_circle(c["centre"], c["R"], c["p1"], c["p2"])))


@adapter("fillet_lines")
def _fillet_lines(c: Inputs) -> Any:
    f = fillet(c["corner"], np.radians(c["azimuth1_deg"]), np.radians(c["azimuth2_deg"]), c["R"])
    return {
        "leg_angle_deg": float(np.degrees(f["leg_angle"])), "deflection_deg": float(np.degrees(f["deflection"])), "T": float(f["tangent_length"]),
        "tangent1": _plain(f["tangent1"]), "tangent2": _plain(f["tangent2"]), "centre": _plain(f["centre"]),
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


# --- vertical ------------------------------------------------------------------------------------------------
def _one_vertical(c: Inputs, half_in: float, half_out: float) -> Any:
    g1, g2, s, z = c["g1_pct"] / 100, c["g2_pct"] / 100, c["PVI_station"], c["PVI_elev"]
    a, b = half_in + _FAR, half_out + _FAR
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
        "offset_at_PVI": float(levels[2] - c["PVI_elev"]), "grade_at_PVI_pct": float(100 * grades[2]), "M_at_PVI": float(abs(levels[2] - c["PVI_elev"])),
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


# --- terrain -------------------------------------------------------------------------------------------------
def _triangle(points: Any) -> Any:
    return surface_from_faces(points, [[0, 1, 2]])


@adapter("delaunay")
def _delaunay(c: Inputs) -> Any:
    surface, _ = triangulate([[*p, 0.0] for p in c["points"]])
    return {"triangles": sorted(sorted(int(i) for i in t) for t in surface.triangles)}


@adapter("triangle_interp")
def _triangle_interp(c: Inputs) -> Any:
    return _plain(read_surface(_triangle(c["triangle"]), c["query"]).elevation)


@adapter("tin_plane")
def _tin_plane(c: Inputs) -> Any:
    surface, _ = triangulate(c["points"])
    r = read_surface(surface, c["query"])
    return {
        "z": _plain(r.elevation),
        "slope_pct": float(100 * r.slope[0]),
        "slope_deg": float(np.degrees(np.arctan(r.slope[0]))),
        "aspect_downslope_azimuth_deg": float(np.degrees(r.aspect[0])),
    }


@adapter("triangle_contour")
def _triangle_contour(c: Inputs) -> Any:
    xy, starts, level = compute_contours(_triangle(c["triangle"]), np.array(c["levels"], float))
    return {f"{c['levels'][k]:g}": sorted(_plain(xy[a:b])) for a, b, k in zip(starts[:-1], starts[1:], level, strict=True)}


@adapter("triangle_cut_fill")
def _triangle_cut_fill(c: Inputs) -> Any:
    positive, negative = (float(v[0]) for v in prism_volumes(c["area"], [c["dz"]]))
    return {"positive": positive, "negative": negative, "net": positive - negative}


@adapter("cone_tin")
def _cone_tin(c: Inputs) -> Any:
    def volume(n: int) -> float:
        angle = np.arange(n) * 2 * np.pi / n
        rim = np.column_stack([c["R"] * np.cos(angle), c["R"] * np.sin(angle), np.zeros(n)])
        faces = np.column_stack([np.full(n, n), np.arange(n), (np.arange(n) + 1) % n])
        return volume_to_level(surface_from_faces(np.vstack([rim, [0.0, 0.0, c["h"]]]), faces), 0.0)[0]

    return {"polygonal_volume": volume(c["n"]), "true_cone": volume(20_000)}  # the cone as the limit of ever finer rims


@adapter("saddle_diagonal")
def _saddle_diagonal(c: Inputs) -> Any:
    a, b, d, e = (np.array(p, float) for p in c["corners"])
    first, _ = triangulate([a, b, d, e], [np.array([a, d])])
    second, _ = triangulate([a, b, d, e], [np.array([b, e])])
    return {
        "diagonal_00_1010": float(read_surface(first, [c["query"]]).elevation[0]),
        "diagonal_100_010": float(read_surface(second, [c["query"]]).elevation[0]),
    }


@adapter("surface_area")
def _surface_area(c: Inputs) -> Any:
    side = np.sqrt(c["plan_area"])
    corners = np.array([[0.0, 0.0], [side, 0.0], [side, side], [0.0, side]])
    surface, _ = triangulate(np.column_stack([corners, corners @ [c["b"], c["c"]]]))
    return {"surface_area": surface_area(surface)[1]}


# --- areas and volumes ---------------------------------------------------------------------------------------
@adapter("area_coords")
def _area_coords(c: Inputs) -> Any:
    return {"area": abs(polygon_area(c["polygon"]))}


@adapter("average_end_area_m")
def _average_end_area_m(c: Inputs) -> Any:
    return {"volume": float(average_end_area(c["stations"], c["areas"]).sum())}


@adapter("average_end_area")
def _average_end_area(c: Inputs) -> Any:
    return {"volume_yd3": float(average_end_area(c["stations"], c["areas"]).sum()) / CUBIC_YARD_IN_CUBIC_FEET}


@adapter("prismoidal")
def _prismoidal(c: Inputs) -> Any:
    return {
        "prismoidal": float(prismoidal_volume(c["L"], c["A1"], c["Am"], c["A2"])),
        "average_end": float(average_end_area([0, c["L"]], [c["A1"], c["A2"]])[0]),
    }


@adapter("pyramid_end")
def _pyramid_end(c: Inputs) -> Any:
    return {
        "pyramid": float(pyramid_volume(c["L"], c["A"])),
        "average_end": float(average_end_area([0, c["L"]], [c["A"], 0.0])[0]),
    }


@adapter("curvature_correction")
def _curvature_correction(c: Inputs) -> Any:
    straight = float(average_end_area([0, c["L"]], [c["A"], c["A"]])[0])
    curved = float(curved_volume(straight, 1 / c["R"], -c["e"]))  # e grows to the outside, left of a right bend
    return {"straight": straight, "curved": curved, "correction": curved - straight}


def _square(a: float, b: float) -> list[list[float]]:
    return [[0, 0], [a, 0], [a, b], [0, b]]


@adapter("frustum_square")
def _frustum_square(c: Inputs) -> Any:
    sides = (c["a1"], (c["a1"] + c["a2"]) / 2, c["a2"])
    areas = [polygon_area(_square(a, a)) for a in sides]
    volume, ends = float(prismoidal_volume(c["h"], *areas)), float(average_end_area([0, c["h"]], [areas[0], areas[2]])[0])
    return {"volume": volume, "average_end_area": ends, "ratio": ends / volume}


@adapter("pit")
def _pit(c: Inputs) -> Any:
    areas = [
        polygon_area(_square(c["bottom_a"] + 2 * c["s"] * z, c["bottom_b"] + 2 * c["s"] * z))
        for z in (0.0, c["depth"] / 2, c["depth"])
    ]
    return {"volume": float(prismoidal_volume(c["depth"], *areas)), "top_area": areas[2]}


# --- sections ------------------------------------------------------------------------------------------------
def _ground(z0: float, m: float) -> tuple[Any, Any]:
    """Straight ground outward from the centre line."""
    return np.array([[0.0, _FAR]]), np.array([[z0, z0 + m * _FAR]])


def _catch(u: float, z: float, slope: float, ground: tuple[Any, Any]) -> tuple[float, float] | None:
    x, level = meet_ground([u], [z], slope, ground, limit=np.inf, last=False)
    return (float(x[0]), float(level[0])) if np.isfinite(x[0]) else None


def _catch_case(c: Inputs, way: float) -> Any:
    found = _catch(c["hinge_x"], c["hinge_z"], way / c["n"], _ground(c["ground_z0"], c["ground_m"]))
    if found is None:
        return {"x": None, "z": None, "slope_length": None}
    return {"x": found[0], "z": found[1], "slope_length": float(np.hypot(found[0] - c["hinge_x"], found[1] - c["hinge_z"]))}


@adapter("catch_fill")
def _catch_fill(c: Inputs) -> Any:
    return _catch_case(c, -1.0)


@adapter("catch_cut")
def _catch_cut(c: Inputs) -> Any:
    return _catch_case(c, 1.0)


_DITCH = part_from_dict({
    "name": "ditch", "label": "Ditch", "end": "toe",
    "parameters": [{"name": p, "label": p, "kind": "length", "value": 1.0} for p in ("n1", "depth", "width", "n2")],
    "nodes": [
        {"name": "ditch_in", "rule": {"kind": "slope_until_level", "from": "start", "slope": "1/n1", "sense": "fall", "change": "depth"}},
        {"name": "ditch_out", "rule": {"kind": "across_at_slope", "from": "ditch_in", "across": "width", "slope": 0, "sense": "fall"}},
        {"name": "toe", "rule": {"kind": "slope_until_surface", "from": "ditch_out", "slope": "1/n2", "sense": "rise", "crossing": "first"}},
    ],
})  # fmt: skip


@adapter("ditch")
def _ditch(c: Inputs) -> Any:
    placed = PlacedPart("d", _DITCH, {k: float(c[k]) for k in ("n1", "depth", "width", "n2")})
    side = solve_side((placed,), [c["hinge_z"]], _ground(c["ground_z0"], c["ground_m"]), start_across=c["hinge_x"])
    places = {n: [float(side.across[i, 0]), float(side.level[i, 0])] for i, n in enumerate(side.names)}
    return {
        "ditch_in": places["d.ditch_in"],
        "ditch_out": places["d.ditch_out"],
        "catch_x": places["d.toe"][0],
        "catch_z": places["d.toe"][1],
    }


def _section_area(design: list[list[float]], ground: list[list[float]]) -> tuple[float, float]:
    d, g = np.array(design, float), np.array(ground, float)
    out = areas_between((d[:, 0], d[:, 1]), (g[:, 0], g[:, 1]))[0]
    return float(out[0]), float(out[1])


@adapter("two_level")
def _two_level(c: Inputs) -> Any:
    m, half = 1 / c["ground_1_in_n"], c["b"] / 2
    right, left = _catch(half, 0.0, 1 / c["s"], _ground(c["c"], m)), _catch(half, 0.0, 1 / c["s"], _ground(c["c"], -m))
    assert right and left
    cut, _ = _section_area(
        [[-left[0], left[1]], [-half, 0], [half, 0], [*right]], [[-_FAR, c["c"] - m * _FAR], [_FAR, c["c"] + m * _FAR]]
    )
    return {"x_left": -left[0], "x_right": right[0], "area": cut}


def _level_area(b: float, s: float, depth: float) -> float:
    if depth == 0:
        return 0.0
    found = _catch(b / 2, 0.0, 1 / s, _ground(depth, 0.0))
    assert found
    return _section_area([[-found[0], depth], [-b / 2, 0], [b / 2, 0], [found[0], depth]], [[-_FAR, depth], [_FAR, depth]])[0]


@adapter("level_sections")
def _level_sections(c: Inputs) -> Any:
    a1, am, a2 = (_level_area(c["b"], c["s"], d) for d in (c["d1"], (c["d1"] + c["d2"]) / 2, c["d2"]))
    ends, prism = float(average_end_area([0, c["L"]], [a1, a2])[0]), float(prismoidal_volume(c["L"], a1, am, a2))
    return {"A1": a1, "A2": a2, "Am": am, "average_end": ends, "prismoidal": prism, "prismoidal_correction": ends - prism}


@adapter("three_level")
def _three_level(c: Inputs) -> Any:
    slope = part_from_dict({
        "name": "slope", "label": "Slope", "end": "top", "parameters": [{"name": "h", "label": "h", "kind": "height", "value": 1.0}, {"name": "s", "label": "s", "kind": "one_in", "value": 1.0}],
        "nodes": [{"name": "top", "rule": {"kind": "slope_until_level", "from": "start", "slope": "1/s", "sense": "rise", "change": "h"}}],
    })  # fmt: skip

    def top(h: float) -> float:
        return float(
            solve_side(
                (PlacedPart("p", slope, {"h": float(h), "s": float(c["s"])}),), [0.0], _ground(0, 0), start_across=c["b"] / 2
            ).across[1, 0]
        )

    left, right, half = top(c["h_left"]), top(c["h_right"]), c["b"] / 2
    cut, _ = _section_area(
        [[-left, c["h_left"]], [-half, 0], [half, 0], [right, c["h_right"]]],
        [[-left, c["h_left"]], [0, c["c"]], [right, c["h_right"]]],
    )
    return {"d_left": left, "d_right": right, "area": cut}


@adapter("side_hill")
def _side_hill(c: Inputs) -> Any:
    m, half = 1 / c["ground_1_in_n"], c["b"] / 2
    cut, fill = _catch(half, 0.0, 1 / c["s_cut"], _ground(c["c"], m)), _catch(half, 0.0, -1 / c["s_fill"], _ground(c["c"], -m))
    whole = (np.array([[-_FAR, _FAR]]), np.array([[c["c"] - m * _FAR, c["c"] + m * _FAR]]))
    zero = _catch(-half, 0.0, 0.0, whole)  # along the formation until the ground is met
    assert cut and fill and zero
    areas = _section_area(
        [[-fill[0], fill[1]], [-half, 0], [half, 0], [*cut]], [[-_FAR, c["c"] - m * _FAR], [_FAR, c["c"] + m * _FAR]]
    )
    return {"x_zero": zero[0], "x_cut": cut[0], "x_fill": -fill[0], "cut_area": areas[0], "fill_area": areas[1]}
