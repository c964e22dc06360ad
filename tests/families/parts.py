"""Random parts of all rules, and a second way to place them: one node at a time, with shapely for what meets and crosses."""

from __future__ import annotations

from math import cos, inf, radians, sin
from typing import Any

import numpy as np
from shapely.geometry import GeometryCollection, LineString, MultiPoint, Point

Row = tuple[float, float]
KINDS = ("across_at_slope", "across_and_up", "slope_until_level", "slope_until_surface", "crossing", "part_way", "angle_and_length",
         "on_surface")  # fmt: skip


def random_ground(rng: np.random.Generator) -> list[Row]:
    u = np.cumsum(rng.uniform(0.4, 9.0, 24)) - 12.0
    z = np.cumsum(rng.normal(0, 1.2, 24))
    return [(float(a), float(b)) for a, b in zip(u, z - z[8], strict=True)]


def random_part(rng: np.random.Generator) -> dict[str, Any]:
    """A part that hangs together: each node starts from one before it; formulas of two parameters among its numbers."""
    nodes: list[dict[str, Any]] = []
    names = ["start"]

    def one(*of: Any) -> Any:
        return of[int(rng.integers(len(of)))]

    for i in range(int(rng.integers(2, 9))):
        width, slope = round(float(rng.uniform(0, 6)), 3), round(float(rng.uniform(0.01, 1.2)), 3)
        rule: dict[str, Any] = {"kind": one(*KINDS), "from": one(*names)}
        match rule["kind"]:
            case "across_at_slope":
                rule |= {"across": one(width, "w", "w/2 + 0.3", "greatest(w, 2)"), "slope": one(slope, "s", "1 in 4", "2.5 %"),
                         "sense": one("rise", "fall"), "way": one("outward", "outward", "inward")}  # fmt: skip
            case "across_and_up":
                rule |= {"across": width, "up": one(round(float(rng.uniform(0, 2)), 3), "if w < 3 then 0.2 else s"),
                         "sense": one("rise", "fall"), "way": one("outward", "inward")}  # fmt: skip
            case "slope_until_level":
                rule |= {"slope": slope, "change": width / 3, "sense": one("rise", "fall"), "way": one("outward", "inward")}
            case "slope_until_surface":
                rule |= {"slope": slope, "sense": one("rise", "fall"), "crossing": one("first", "last"),
                         "within": one("", 4 * width), "within_from": one("hinge", "centre", "node")}  # fmt: skip
            case "crossing":
                rule |= {"slope": slope, "sense": one("rise", "fall"), "other": one(*names), "other_slope": one(0.3, slope),
                         "other_sense": one("rise", "fall")}  # fmt: skip
            case "part_way":
                rule |= {"to": one(*names), "share": round(float(rng.uniform(-0.3, 1.3)), 3)}
            case "angle_and_length":
                rule |= {"angle_deg": round(float(rng.uniform(-80, 80)), 2), "length": width, "way": one("outward", "inward")}
            case "on_surface":
                rule |= {"gap": one(0, 0.15), "sense": one("rise", "fall")}
        nodes.append({"name": f"n{i}", "rule": rule})
        names.append(f"n{i}")
    parameters = [{"name": n, "label": n, "kind": k, "value": v, "least": 0, "greatest": 50} for n, k, v in
                  (("w", "length", round(float(rng.uniform(0.5, 6)), 2)), ("s", "percent", 0.04))]  # fmt: skip
    return {"name": "r", "label": "Random", "end": "start", "parameters": parameters, "nodes": nodes}


def _number(formula: Any, w: float, s: float) -> float:
    """The formulas that occur above, said once more in Python."""
    known = {"w": w, "s": s, "w/2 + 0.3": w / 2 + 0.3, "greatest(w, 2)": max(w, 2.0), "1 in 4": 0.25, "2.5 %": 0.025,
             "if w < 3 then 0.2 else s": 0.2 if w < 3 else s}  # fmt: skip
    return known[formula] if isinstance(formula, str) else float(formula)


def _points(found: Any) -> list[Row]:
    if isinstance(found, Point) and not found.is_empty:
        return [(found.x, found.y)]
    if isinstance(found, MultiPoint | GeometryCollection):
        return [p for g in found.geoms for p in _points(g)]
    if isinstance(found, LineString) and not found.is_empty:
        return [(x, y) for x, y in found.coords]
    return []


def level_on(ground: LineString, u: float) -> float | None:
    hits = _points(ground.intersection(LineString([(u, -1e4), (u, 1e4)])))
    return hits[0][1] if hits else None


def places_of(data: dict[str, Any], start: Row, ground: list[Row]) -> dict[str, Row | None] | None:
    """Where each node lies; None for one that is not placed. None in all where a touch is too near to call."""
    line = LineString(ground)
    w, s = (p["value"] for p in data["parameters"])
    at: dict[str, Row | None] = {"start": start}
    for node in data["nodes"]:
        r = node["rule"]
        here = at[r["from"]]
        other = at[r.get("other") or r.get("to") or "start"]
        at[node["name"]] = None
        if here is None or (other is None and r["kind"] in ("crossing", "part_way")):
            continue
        u, z = here
        turn = -1.0 if r.get("way") == "inward" else 1.0
        up = 1.0 if r.get("sense") == "rise" else -1.0
        match r["kind"]:
            case "across_at_slope":
                d = _number(r["across"], w, s)
                at[node["name"]] = (u + turn * d, z + up * d * _number(r["slope"], w, s))
            case "across_and_up":
                at[node["name"]] = (u + turn * r["across"], z + up * _number(r["up"], w, s))
            case "slope_until_level":
                at[node["name"]] = (u + turn * r["change"] / r["slope"], z + up * r["change"])
            case "part_way":
                assert other
                at[node["name"]] = (u + r["share"] * (other[0] - u), z + r["share"] * (other[1] - z))
            case "angle_and_length":
                a = radians(r["angle_deg"])
                at[node["name"]] = (u + turn * r["length"] * cos(a), z + r["length"] * sin(a))
            case "on_surface":
                level = level_on(line, u)
                at[node["name"]] = None if level is None else (u, level + up * r["gap"])
            case "crossing":
                assert other
                up2 = 1.0 if r["other_sense"] == "rise" else -1.0
                if up * r["slope"] == up2 * r["other_slope"]:
                    continue
                rays = [LineString([(x - 1e3, y - k * 1e3), (x + 1e3, y + k * 1e3)]) for x, y, k in
                        ((u, z, up * r["slope"]), (*other, up2 * r["other_slope"]))]  # fmt: skip
                hits = _points(rays[0].intersection(rays[1]))
                if not hits:
                    return None  # farther away than a kilometre
                at[node["name"]] = hits[0]
            case "slope_until_surface":
                base = {"hinge": start[0], "centre": 0.0, "node": u}[r["within_from"]]
                limit = base + r["within"] if r["within"] != "" else inf
                end = min(limit, ground[-1][0])
                if end <= u:
                    continue
                k = up * r["slope"]
                level = level_on(line, u)
                if level is not None and abs(level - z) < 1e-6:
                    return None
                met = []
                for x, y in sorted(_points(LineString([(u, z), (end, z + k * (end - u))]).intersection(line))):
                    e = 1e-5
                    side = [level_on(line, x + d) for d in (-e, e)]
                    if min(abs(x - u), abs(x - end), *(abs(x - g[0]) for g in ground)) < 1e-4 or None in side:
                        return None
                    over = [(z + k * (x + d - u)) - (level_ or 0.0) for d, level_ in zip((-e, e), side, strict=True)]
                    if over[0] * -up > 0 >= over[1] * -up:
                        met.append((x, y))
                at[node["name"]] = None if not met else met[0] if r["crossing"] == "first" else met[-1]
    return at
