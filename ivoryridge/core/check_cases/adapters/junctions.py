"""Returns in plan and level, areas of side roads, volumes between surfaces."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...earthwork.between import volume_between
from ...junction.return_levels import return_levels
from ...junction.return_plan import CircleEdge, Edge, LineEdge, return_between, side_road_area
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
