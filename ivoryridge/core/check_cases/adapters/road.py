"""What varies along a road, what follows another one, overlays, and places to be set out."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...alignment.crossfall_diagram import CrossfallDiagram
from ...alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis
from ...alignment.vertical import PVI, VerticalAlignment, profile_from_pvis
from ...corridor.blend import Blend, values_at
from ...corridor.carried_plane import CarriedPlane
from ...corridor.corridor import compute_corridor, stations_once
from ...corridor.edges import to_space
from ...corridor.places import places_at
from ...corridor.turning import Crossfall
from ...corridor.varied import Stretch, pieces_of
from ...earthwork.end_area import average_end_area, compute_areas, compute_volumes
from ...section.overlay import overlay_section
from ...section.part import part_from_dict
from ...section.solve import solve_side
from ...section.template import PlacedPart, Template
from ...standards.widening import Vehicle, bend_widening, share_along
from ...terrain.triangulate import surface_from_faces, triangulate
from .parts import section_parts
from .registry import Inputs, adapter


def _line(c: Inputs) -> HorizontalAlignment:
    pis = [PI(p["E"], p["N"], p["R"] or 0.0, p["Ls"] or 0.0, p["Ls"] or 0.0) for p in c["PIs"]]
    return alignment_from_pis(pis, c["start_station"])


def _profile(c: Inputs) -> VerticalAlignment:
    return profile_from_pvis([PVI(p["station"], p["level"], p["L"] / 2, p["L"] / 2) for p in c["PVIs"]])


def _rates(c: Inputs) -> CrossfallDiagram:
    rows = c["crossfall"]
    s, left, right = (np.array([r[k] for r in rows], float) for k in ("station", "left_pct", "right_pct"))
    return CrossfallDiagram(s, left / 100, right / 100, (0.0, 0.0), (), ())


_STRIP = part_from_dict({
    "name": "strip", "label": "Strip", "end": "edge", "runs": [{"nodes": ["start", "edge"], "roles": ["finished"]}],
    "parameters": [{"name": "width", "label": "Width", "kind": "length", "value": 1.0},
                   {"name": "fall", "label": "Fall", "kind": "percent", "value": 0.0, "least": -1.0}],
    "nodes": [{"name": "edge", "rule": {"kind": "across_at_slope", "from": "start", "across": "width", "slope": "fall", "sense": "fall"}}],
})  # fmt: skip


@adapter("blend")
def _blend(c: Inputs) -> Any:
    before, after = (
        Template(name, (), tuple(PlacedPart(s["name"], _STRIP, {"width": s["width"], "fall": -s["pct"] / 100}) for s in c[name]))
        for name in ("before", "after")
    )
    a, b = c["from_station"], c["to_station"]
    last = b + 1e4
    blend = Stretch(after, b, last, Blend(b - a, c["form"], "outside"))
    row, _ = pieces_of(before, min(a, *c["stations"]) - 1.0, last, [blend])
    out = []
    for s in c["stations"]:
        piece = next(p for p, at in zip(row, stations_once([s], row), strict=True) if len(at))
        placed = piece.template.right
        given = values_at(piece.right, np.array([s]))
        side = solve_side(placed, [0.0], (np.array([[0.0, 1.0]]), np.array([[np.nan, np.nan]])), overrides=given)
        widths, offsets, levels = {}, [], []
        at, level = 0.0, 0.0
        for name in c["order"]:
            if any(p.id == name for p in placed):
                i = side.index(f"{name}.edge")
                widths[name], at, level = float(side.across[i, 0]) - at, float(side.across[i, 0]), float(side.level[i, 0])
            else:
                widths[name] = 0.0
            offsets.append(at)
            levels.append(level)
        out.append({"widths": widths, "edge_offsets": offsets, "edge_levels": levels})
    return out


@adapter("widening")
def _widening(c: Inputs) -> Any:
    vehicle = Vehicle(c["track_width"], tuple(c["wheelbases"]), c["front_overhang"], c["clearance"])
    w = bend_widening(vehicle, c["R"], c["V_kmh"], c["lanes"], c["width_on_straight"])
    share = share_along(c["stations"], [c[p] for p in ("TS", "SC", "CS", "ST")])
    at = [{"inner": w.more * c["inner_share"] * t, "outer": w.more * (1 - c["inner_share"]) * t} for t in share.tolist()]
    return {"U": w.track, "F": w.overhang, "Z": w.allowance, "width_in_curve": w.needed, "widening": w.more, "at": at}


@adapter("overlay")
def _overlay(c: Inputs) -> Any:
    low, high = (p / 100 for p in c["crossfall_pct"])
    o = overlay_section(
        c["existing"], c["left"], c["right"], crossfall=(low, high), least=c["least_thickness"], one_way=c["shape"] == "one_way",
        plane_depth=c["plane_depth"], centre_level=c["centre_level"],
    )  # fmt: skip
    return {
        "crossfall_pct": 100 * o.crossfall, "centre_level": o.centre_level, "regulating_area": o.regulating, "planing_area": o.planing,
        "surfacing_area": o.surfacing, "greatest_thickness": o.greatest_thickness, "greatest_planing": o.greatest_planing,
    }  # fmt: skip


@adapter("crossfall_follow")
def _crossfall_follow(c: Inputs) -> Any:
    main = CarriedPlane(_line(c["main"]), _profile(c["main"]), Crossfall(_rates(c["main"]), "centre", (0.0, 0.0)))
    slip = _line(c["slip"])
    left, right = c["half_width_left"], c["half_width_right"]
    z, (e_left, e_right) = main.beside(slip, c["stations"], left, right)
    s, u, _ = main.at(slip.evaluate(c["stations"])[0])
    return [
        {"main_station": float(s[i]), "main_offset": float(u[i]), "level": float(z[i]), "left_level": float(z[i] + e_left[i] * left),
         "right_level": float(z[i] + e_right[i] * right), "left_pct": 100 * float(e_left[i]), "right_pct": 100 * float(e_right[i])}
        for i in range(len(c["stations"]))
    ]  # fmt: skip


@adapter("setting_out")
def _setting_out(c: Inputs) -> Any:
    line, profile, diagram = _line(c), _profile(c), _rates(c)
    edges = {e["name"]: e for e in c["edges"]}
    out = []
    for p in c["points"]:
        edge, s = edges[p["edge"]], np.array([float(p["station"])])
        left, right = diagram.rates(s)
        lane = float((left if edge["side"] == "left" else right)[0])
        width = sum(x["width"] for x in edge["strips"])
        rise = sum(x["width"] * (lane if x["pct"] == "lane" else x["pct"] / 100) for x in edge["strips"])
        level = float(profile.evaluate(s)[0][0]) + rise - p.get("below", 0.0)
        (place,) = to_space(places_at(line, s), np.array([-width if edge["side"] == "left" else width]), np.array([level]))
        out.append(dict(zip(("E", "N", "level"), map(float, place), strict=True)))
    return out


def _ground(g: Inputs) -> Any:
    if g["type"] == "planes":
        return surface_from_faces(np.array(g["points"], float), np.array(g["triangles"]))
    e0, n0, e1, n1 = g["extent"]
    e, n = (np.arange(a, b + g["grid"] / 2, g["grid"]) for a, b in ((e0, e1), (n0, n1)))
    east, north = (x.ravel() for x in np.meshgrid(e, n))
    z = g["level"] + g["curve_e"] * (east - g["centre"][0]) ** 2 + g["curve_n"] * (north - g["centre"][1]) ** 2
    return triangulate(np.column_stack([east, north, z]))[0]


@adapter("corridor_volumes")
def _corridor_volumes(c: Inputs) -> Any:
    line, profile, surface = _line(c), _profile(c), _ground(c["ground"])
    template = Template("case", *(section_parts(c["section"][side], c["section"]) for side in ("left", "right")))

    def built(stations: Any) -> Any:
        corridor = compute_corridor(line, profile, template, surface, stations)
        return corridor, compute_areas(corridor)

    def volumes(interval: float) -> tuple[dict[str, float], dict[str, float]]:
        first, last = c["from_station"], c["to_station"]
        s = np.append(np.arange(first, last - 1e-9, interval), last)
        corridor, areas = built(s)
        v = compute_volumes(corridor, areas)
        plain = {"cut": float(v.plain_cut.sum()), "fill": float(v.plain_fill.sum())}
        k = corridor.places.curvature
        curved = {
            w: float(average_end_area(s, a * (1 - k * o)).sum())
            for w, a, o in (("cut", areas.cut, areas.cut_offset), ("fill", areas.fill, areas.fill_offset))
        }
        return plain, curved

    at, areas = built(np.array(c["at"], float))
    block = at.blocks[0]
    sections = [
        {"cut_area": float(areas.cut[i]), "fill_area": float(areas.fill[i]), **{
            f"toe_{name}": float(sign * columns.across[columns.index("slope.toe"), i]) for name, sign, columns, _ in block.sides()}}
        for i in range(len(c["at"]))
    ]  # fmt: skip
    (plain, curved), (fine, fine_curved) = volumes(c["interval"]), volumes(0.1)
    return {
        "sections": sections,
        "average_end_area": plain,
        "curve_corrected": curved,
        "converged": fine,
        "converged_curved": fine_curved,
    }
