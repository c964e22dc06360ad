"""Returns in plan and level, levels at side roads, roundabouts, swept paths, volumes between surfaces."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...alignment.horizontal import PI, alignment_from_pis
from ...earthwork.between import volume_between
from ...junction.corner import CornerShape, return_at_corner
from ...junction.demanded_levels import MainPlane, SideRoad, corners_at
from ...junction.edge import ArmEdge
from ...junction.return_levels import return_levels
from ...junction.return_plan import CircleEdge, Edge, LineEdge, return_between, side_road_area
from ...junction.roundabout_plan import Arm, EdgeArc, Lane, arm_plan
from ...junction.swept_path import BendPath, Trailer, Vehicle, greatest_cut_in, steady_off_tracking, swept_axles
from ...junction.visibility import GAPS, gap_sight, in_triangle
from ...terrain.triangulate import surface_from_faces
from .registry import Inputs, adapter, plain


def _edge(e: Inputs) -> Edge:
    if e["type"] == "line":
        return LineEdge((e["point"][0], e["point"][1]), float(np.radians(e["azimuth_deg"])))
    return CircleEdge((e["centre"][0], e["centre"][1]), e["R"], e["rotation"] == "cw")


@adapter("return_plan")
def _return_plan(c: Inputs) -> Any:
    found = return_between(_edge(c["edge1"]), _edge(c["edge2"]), (c["side1"], c["side2"]), c["radius"], c["near"])
    if found is None:
        return dict.fromkeys(("centre", "tangent1", "tangent2", "arc_length"))
    return {
        "centre": plain(found.centre), "tangent1": plain(found.first), "tangent2": plain(found.second), "arc_length": found.arc_length,
    }  # fmt: skip


@adapter("return_levels")
def _return_levels(c: Inputs) -> Any:
    found = return_levels(c["z1"], c["g1_pct"] / 100, c["z2"], c["g2_pct"] / 100, c["L"])
    levels, _ = found.at(c["at"])
    out: dict[str, Any] = dict.fromkeys(("pvi_distance", "pvi_level", "curve_length", "mid_level", "mid_grade_pct"))
    if found.form == "single":
        p = found.pvis[1]
        out |= {"pvi_distance": p.station, "pvi_level": p.elevation, "curve_length": p.half_in + p.half_out}
    if found.form == "reverse":
        level, grade = found.at([c["L"] / 2])
        out |= {"mid_level": float(level[0]), "mid_grade_pct": 100 * float(grade[0])}
    return out | {"form": found.form, "levels": plain(levels)}


@adapter("junction_area")
def _junction_area(c: Inputs) -> Any:
    sides = ("left", "right")
    found = side_road_area(
        c["origin"], float(np.radians(c["main_azimuth_deg"])), c["side"], float(np.radians(c["angle_deg"])),
        {s: c[f"half_width_{s}"] for s in sides}, {s: c[f"radius_{s}"] for s in sides},
    )  # fmt: skip
    points = {f"tangent_{what}_{s}": plain(rows[s]) for s in sides for what, rows in (("main", found.main), ("side", found.side))}
    return points | {"cross_line_distance": found.cross_line, "area": found.area}


@adapter("surface_volume")
def _surface_volume(c: Inputs) -> Any:
    existing, design = (
        surface_from_faces(np.array(s["points"], float), np.array(s["triangles"])) for s in (c["existing"], c["design"])
    )
    v = volume_between(existing, design)
    return {"cut": v.cut, "fill": v.fill, "net": v.net, "common_area": v.common_area}


@adapter("finished_levels")
def _finished_levels(c: Inputs) -> Any:
    sides = ("left", "right")
    main = MainPlane(
        (c["origin"][0], c["origin"][1]), c["edge_level"], float(np.radians(c["main_azimuth_deg"])), c["side"],
        c["main_grade_pct"] / 100, c["main_crossfall_pct"] / 100,
    )  # fmt: skip
    road = SideRoad(
        float(np.radians(c["angle_deg"])), c["side_grade_pct"] / 100, {s: c[f"side_{s}_pct"] / 100 for s in sides},
        {s: c[f"half_width_{s}"] for s in sides}, {s: c[f"radius_{s}"] for s in sides}, c["run_out"],
    )  # fmt: skip
    out: dict[str, Any] = {"main_edge": plain(main.edge(c["main_at"])), "side_centre": plain(road.centre(main, c["side_at"]))}
    for name, corner in corners_at(main, road).items():
        levels = corner.levels
        out[name] = {
            "main_tangent": plain(corner.main), "side_tangent": plain(corner.side), "grade_at_main_pct": 100 * corner.grade_main,
            "grade_at_side_pct": 100 * corner.grade_side, "arc_length": corner.arc_length, "form": levels and levels.form,
            "middle_level": float(levels.at([corner.arc_length / 2])[0][0]) if levels else None,
        }  # fmt: skip
    return out


@adapter("roundabout_plan")
def _roundabout_plan(c: Inputs) -> Any:
    def lane(a: Inputs, which: str) -> Lane:
        return Lane(a[f"half_width_{which}"], a[f"{which}_radius"], a[f"{which}_width"])

    def arc(e: EdgeArc | None) -> Any:
        names = ("centre", "tangent_edge", "tangent_circle", "arc_length")
        return {n: plain(getattr(e, n)) if n != "arc_length" else e.arc_length for n in names} if e else dict.fromkeys(names)

    arms, inscribed = [], c["inscribed_diameter"] / 2
    for a in c["arms"]:
        found = arm_plan(
            c["centre"], inscribed, Arm(float(np.radians(a["azimuth_deg"])), lane(a, "entry"), lane(a, "exit")), c["traffic"]
        )
        i = found.island
        island = {
            "entry_side_crosses": i and i.entry_crosses, "exit_side_crosses": i and i.exit_crosses, "nose_distance": i and i.nose,
            "nose": plain(i.nose_at) if i and i.nose_at is not None else None,
        }  # fmt: skip
        arms.append({"name": a["name"], "entry": arc(found.entry), "exit": arc(found.exit), "island": island})
    return {"central_radius": inscribed - c["circulating_width"], "arms": arms}


@adapter("swept_path")
def _swept_path(c: Inputs) -> Any:
    path = BendPath(
        (c["start"][0], c["start"][1]), float(np.radians(c["azimuth_deg"])), c["length1"], c["radius"], c["turn"],
        float(np.radians(c["delta_deg"])), c["length2"],
    )  # fmt: skip
    drawn = c["trailer"]
    vehicle = Vehicle(c["wheelbase"], Trailer(drawn["coupling_ahead"], drawn["length"]) if drawn else None)
    found = swept_axles(path, vehicle, c["at"])
    rows = [
        {
            "front": plain(found.front[i]), "rear": plain(found.rear[i]), "heading_deg": float(np.degrees(found.heading[i])) % 360,
            "trailer_axle": plain(found.trailer[i]) if found.trailer is not None else None,
            "trailer_heading_deg": (
                float(np.degrees(found.trailer_heading[i])) % 360 if found.trailer_heading is not None else None
            ),
        }
        for i in range(len(c["at"]))
    ]  # fmt: skip
    return {"at": rows, "greatest_cut_in": greatest_cut_in(path, vehicle)}


@adapter("fillet_line_arc")
def _fillet_line_arc(c: Inputs) -> Any:
    line, circle = LineEdge((0.0, 0.0), np.pi / 2), CircleEdge((c["circle_centre"][0], c["circle_centre"][1]), c["Rc"], True)
    found = return_between(line, circle, ("left", "right" if c["internal"] else "left"), c["Rf"], (1e6, c["Rf"]))
    if found is None:
        return dict.fromkeys(("fillet_centre", "tangent_on_line", "tangent_on_arc"))
    return {
        "fillet_centre": plain(found.centre), "tangent_on_line": plain(found.first), "tangent_on_arc": plain(found.second),
    }  # fmt: skip


@adapter("three_centred")
def _three_centred(c: Inputs) -> Any:
    """Between two straight edges that turn right by the angle."""
    turn, far = np.radians(c["delta_deg"]), 40.0 * c["R1"]
    away = (far * np.sin(turn), far * np.cos(turn))
    edges = [
        ArmEdge(alignment_from_pis([PI(*a), PI(*b)]), np.array([0.0, far]), np.zeros(2))
        for a, b in (((0.0, -far), (0.0, 0.0)), ((0.0, 0.0), away))
    ]
    shape = CornerShape("three centres", c["R2"], outer_radius=c["R1"], shift=c["offset"])
    found = return_at_corner(edges[0], edges[1], 1, shape, (far, 0.0))
    lengths = found.line.length
    return {
        "alpha_deg": float(np.degrees(lengths[0] / c["R1"])), "central_deg": float(np.degrees(lengths[1] / c["R2"])),
        "T": far - found.first, "lengths": plain(lengths), "total": float(lengths.sum()),
    }  # fmt: skip


@adapter("sight_triangle")
def _sight_triangle(c: Inputs) -> Any:
    inside = in_triangle(c["X"], c["Y"], np.asarray(c["obstacles"], float))
    return {"area": 0.5 * c["X"] * c["Y"], "inside": [bool(v) for v in inside]}


def _departure_sight(speed: float, factor: float) -> dict[str, float]:
    exact = {name: gap_sight(speed, gap, factor=factor) for name, gap in GAPS.items()}
    return {name: 5.0 * float(np.ceil(round(v / 5.0, 9))) for name, v in exact.items()} | {"B1_exact": exact["B1"]}


@adapter("isd_metric")
def _isd_metric(c: Inputs) -> Any:
    return _departure_sight(c["V_kmh"], 0.278)


@adapter("isd_us")
def _isd_us(c: Inputs) -> Any:
    return _departure_sight(c["V_mph"], 1.47)


@adapter("offtracking")
def _offtracking(c: Inputs) -> Any:
    return {"offtracking": steady_off_tracking(c["R"], c["wheelbases"])}
