"""Side slopes and the areas of sections."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...earthwork.end_area import average_end_area, prismoidal_volume
from ...geometry.areas import areas_between
from ...section.meeting import meet_ground
from ...section.part import part_from_dict
from ...section.solve import solve_side
from ...section.template import PlacedPart
from .registry import FAR, Inputs, adapter


def _ground(z0: float, m: float) -> tuple[Any, Any]:
    """Straight ground outward from the centre line."""
    return np.array([[0.0, FAR]]), np.array([[z0, z0 + m * FAR]])


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
        {"name": "toe", "rule": {"kind": "slope_until_surface", "from": "ditch_out", "slope": "1/n2", "sense": "rise",
        "crossing": "first"}},
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
        [[-left[0], left[1]], [-half, 0], [half, 0], [*right]], [[-FAR, c["c"] - m * FAR], [FAR, c["c"] + m * FAR]]
    )
    return {"x_left": -left[0], "x_right": right[0], "area": cut}


def _level_area(b: float, s: float, depth: float) -> float:
    if depth == 0:
        return 0.0
    found = _catch(b / 2, 0.0, 1 / s, _ground(depth, 0.0))
    assert found
    return _section_area([[-found[0], depth], [-b / 2, 0], [b / 2, 0], [found[0], depth]], [[-FAR, depth], [FAR, depth]])[0]


@adapter("level_sections")
def _level_sections(c: Inputs) -> Any:
    a1, am, a2 = (_level_area(c["b"], c["s"], d) for d in (c["d1"], (c["d1"] + c["d2"]) / 2, c["d2"]))
    ends, prism = float(average_end_area([0, c["L"]], [a1, a2])[0]), float(prismoidal_volume(c["L"], a1, am, a2))
    return {"A1": a1, "A2": a2, "Am": am, "average_end": ends, "prismoidal": prism, "prismoidal_correction": ends - prism}


@adapter("three_level")
def _three_level(c: Inputs) -> Any:
    slope = part_from_dict({
        "name": "slope", "label": "Slope", "end": "top", "parameters": [{"name": "h", "label": "h", "kind": "height", "value": 1.0},
        {"name": "s", "label": "s", "kind": "one_in", "value": 1.0}],
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
    whole = (np.array([[-FAR, FAR]]), np.array([[c["c"] - m * FAR, c["c"] + m * FAR]]))
    zero = _catch(-half, 0.0, 0.0, whole)  # along the formation until the ground is met
    assert cut and fill and zero
    areas = _section_area(
        [[-fill[0], fill[1]], [-half, 0], [half, 0], [*cut]], [[-FAR, c["c"] - m * FAR], [FAR, c["c"] + m * FAR]]
    )
    return {"x_zero": zero[0], "x_cut": cut[0], "x_fill": -fill[0], "cut_area": areas[0], "fill_area": areas[1]}
