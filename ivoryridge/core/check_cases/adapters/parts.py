"""Parts of templates: one part as data, whole sections, benched slopes."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...geometry.areas import areas_between
from ...section.columns import SideColumns
from ...section.library import benched, library_part
from ...section.part import part_from_dict
from ...section.solve import solve_side
from ...section.structure import Layer, Structure
from ...section.template import PlacedPart, place_part
from .registry import Inputs, adapter


def _rows(points: list[list[float]], sign: float = 1.0) -> tuple[Any, Any]:
    """A ground polyline as one row, outward of one side."""
    rows = sorted((sign * u, z) for u, z in points)
    return np.array([[u for u, _ in rows]]), np.array([[z for _, z in rows]])


def _place(side: SideColumns, name: str) -> list[float] | None:
    i = side.index(name)
    return [float(side.across[i, 0]), float(side.level[i, 0])] if side.present[i, 0] else None


def _loop_area(side: SideColumns, loop: tuple[int, ...]) -> float:
    """By coordinates; nothing where a node of it is not there."""
    if not all(side.present[i, 0] for i in loop):
        return 0.0
    u, z = side.across[list(loop), 0], side.level[list(loop), 0]
    return float(abs(np.dot(u, np.roll(z, -1)) - np.dot(z, np.roll(u, -1))) / 2)


def _earth(design: list[list[float]], ground: list[list[float]]) -> tuple[float, float]:
    if len(design) < 2:
        return 0.0, 0.0
    d, g = np.array(design, float), np.array(sorted(ground), float)
    found = areas_between((d[:, 0], d[:, 1]), (g[:, 0], g[:, 1]))[0]
    return float(found[0]), float(found[1])


@adapter("part_solve")
def _part_solve(c: Inputs) -> Any:
    part = part_from_dict(c["part"])
    followed = {n: (np.array([u]), np.array([np.nan if z is None else z], float)) for n, (u, z) in c["followed"].items()}
    side = solve_side(
        (PlacedPart("p", part, c["values"]),), [c["start"][1]], _rows(c["ground"]), followed=followed, start_across=c["start"][0]
    )
    taken, names = side.case_of.get("p", (np.array([-1]), ()))
    across, level = side.placed("formation")
    run = [[float(u), float(z)] for u, z in zip(across[:, 0], level[:, 0], strict=True) if np.isfinite(u)]
    cut, fill = _earth(run, c["ground"])
    return {
        "case": names[taken[0]] if taken[0] >= 0 else None,
        "nodes": {n.name: _place(side, f"p.{n.name}") for n in part.nodes},
        "areas": {name: _loop_area(side, loop) for name, _, loop in side.areas},
        "cut": cut, "fill": fill,
    }  # fmt: skip


def section_parts(s: Inputs, section: Inputs) -> tuple[PlacedPart, ...]:
    def falls(pct: float) -> tuple[float, str]:
        return abs(pct) / 100, "outward" if pct <= 0 else "inward"

    (lane, lane_way), (shoulder, shoulder_way) = falls(s["lane_pct"]), falls(s["shoulder_pct"])
    structure = Structure("case", tuple(Layer(x["name"], x["thickness"]) for x in section["layers"]))
    carriageway = {
        "lane_width": s["lane_width"], "crossfall": lane, "falls": lane_way, "shoulder_width": s["shoulder_width"],
        "shoulder_crossfall": shoulder, "shoulder_falls": shoulder_way, "structure": "case",
    }  # fmt: skip
    fill, cut = section["fill"], section["cut"]
    slopes = {
        "first_slope": fill["first_n"], "first_width": fill["first_width"], "fill_slope": fill["middle_n"],
        "last_slope": fill["last_n"], "last_height": fill["last_height"], "ditch_slope": cut["ditch_n"],
        "ditch_depth": cut["ditch_depth"], "ditch_width": cut["ditch_width"], "cut_slope": cut["slope_n"], "crossing": "first",
        "search": 300.0,
    }  # fmt: skip
    verge, verge_way = falls(s["verge_pct"])
    strip = part_from_dict({
        "name": "verge", "label": "Verge", "end": "edge", "runs": [{"nodes": ["start", "edge"], "roles": ["finished", "formation"]}],
        "nodes": [{"name": "edge", "rule": {"kind": "across_at_slope", "from": "start", "across": s["verge_width"], "slope": verge,
                                            "sense": verge_way}}],
    })  # fmt: skip
    return (
        place_part("road", library_part("carriageway_layered"), carriageway, {"case": structure}),
        PlacedPart("verge", strip),
        PlacedPart("slope", library_part("side_slopes"), slopes),
    )


@adapter("template_areas")
def _template_areas(c: Inputs) -> Any:
    out: dict[str, Any] = {}
    run: list[list[float]] = []
    layers: dict[str, float] = {}
    for name, sign in (("left", -1.0), ("right", 1.0)):
        parts = section_parts(c["section"][name], c["section"])
        side = solve_side(parts, [c["centre_level"]], _rows(c["ground"], sign))
        toe = _place(side, "slope.toe")
        out[f"toe_{name}"] = [sign * toe[0], toe[1]] if toe else None
        across, level = side.placed("formation")
        half = [[sign * float(u), float(z)] for u, z in zip(across[:, 0], level[:, 0], strict=True) if np.isfinite(u)]
        run = half[::-1] + run if sign < 0 else run + half
        for layer, _, loop in side.areas:
            layers[layer] = layers.get(layer, 0.0) + _loop_area(side, loop)
    cut, fill = _earth(run, c["ground"])
    return {**out, "cut": cut, "fill": fill, "layers": layers}


@adapter("bench_areas")
def _bench_areas(c: Inputs) -> Any:
    most = 40 if c["most_benches"] is None else int(c["most_benches"])
    rises = c["bench_pct"] >= 0
    values = {
        "n": c["n"], "interval": c["interval"], "bench_width": c["bench_width"], "bench_fall": abs(c["bench_pct"]) / 100,
        "bench_way": "inward" if rises else "outward", "benches": most, "search": 300.0,
    }  # fmt: skip
    far = benched(c["mode"], max(most, 1))
    far["parameters"] = [{**p, **({} if p["kind"] == "choice" else {"least": 0.0, "greatest": 1e9})} for p in far["parameters"]]
    values["search"] = 1e8
    (u0, z0), ground = c["hinge"], c["ground"]
    side = solve_side((PlacedPart("b", part_from_dict(far), values),), [z0], _rows(ground), start_across=u0)
    toe = _place(side, "b.toe")
    if toe is None:
        return {"benches": None, "path": None, "toe": None, "area": None}
    corners = [p for i in range(1, (most or 0) + 1) for p in (_place(side, f"b.inner_{i}"), _place(side, f"b.outer_{i}")) if p]
    path = [[u0, z0], *corners, toe]
    cut, fill = _earth(path, ground)
    taken, names = side.case_of["b"]
    on_bench = names[taken[0]].startswith("bench")
    return {"benches": (len(corners) + on_bench) // 2, "path": path, "toe": toe, "area": cut if c["mode"] == "cut" else fill}
