"""The parts that ship with the program: data files beside this one, and those whose rows repeat, written out here."""

from __future__ import annotations

import tomllib
from collections.abc import Callable
from functools import cache
from importlib import resources
from typing import Any

from .part import Part, part_from_dict

__all__ = ["benched", "library_data", "library_part", "library_parts"]

MOST_BENCHES = 8


@cache
def library_parts() -> tuple[str, ...]:
    """Names of the parts of the library, in the order in which they are shown: from the road outward."""
    order = tomllib.loads((_files() / "order.toml").read_text())["parts"]
    return tuple(order)


@cache
def library_data(name: str) -> dict[str, Any]:
    """A part of the library in its data form; not to be changed. Raises KeyError for a name that is none."""
    if name in _REPEATING:
        return _REPEATING[name]()
    if name not in library_parts():
        raise KeyError(name)
    return tomllib.loads((_files() / f"{name}.toml").read_text())


@cache
def library_part(name: str) -> Part:
    """A part of the library by name."""
    return part_from_dict(library_data(name))


def _files() -> Any:
    return resources.files(__package__) / "parts"


# --- parts whose rows repeat ----------------------------------------------------------------------------------
def _until(start: str, slope: str, sense: str, within: str, since: str) -> dict[str, Any]:
    return {"kind": "slope_until_surface", "from": start, "slope": slope, "sense": sense, "crossing": "first", "within": within,
            "within_from": since}  # fmt: skip


def benched(way: str, most: int = MOST_BENCHES) -> dict[str, Any]:
    """A slope, a bench, a slope, a bench, ... until the ground is first met, on a slope or on a bench; after the last bench one slope."""
    rise, arriving = ("rise", "below") if way == "cut" else ("fall", "above")
    nodes: list[dict[str, Any]] = []
    cases: list[dict[str, Any]] = []
    built: list[str] = []
    start = "start"
    for i in range(1, most + 1):
        step, bench = f"step_{i}", f"bench_{i}"
        # a bench that is not wanted any more is nothing wide, and the slope goes on
        width = f"if benches < {i} then 0 else bench_width"
        fall = {"kind": "across_at_slope", "from": step, "across": width, "slope": "bench_fall", "sense": "bench_way"}
        nodes += [
            {"name": step, "guide": True, "rule": {"kind": "slope_until_level", "from": start, "slope": "1/n", "sense": rise,
             "change": "interval"}},
            {"name": bench, "guide": True, "rule": fall},
            {"name": f"on_slope_{i}", "guide": True, "rule": _until(start, "1/n", rise, "interval * n", "node")},
            {"name": f"on_bench_{i}", "guide": True,
             "rule": {**_until(step, "bench_fall", "bench_way", width, "node"), "arriving": arriving}},
        ]  # fmt: skip
        cases += [
            {"name": f"slope {i}", "kind": "met", "at": f"on_slope_{i}"},
            {"name": f"bench {i}", "kind": "met", "at": f"on_bench_{i}"},
        ]
        start = bench
    cases.append({"name": "beyond", "kind": "otherwise"})
    names = [c["name"] for c in cases]
    for i in range(1, most + 1):
        inner, outer = f"inner_{i}", f"outer_{i}"
        nodes += [
            {"name": inner, "role": "bench, inner" if i == 1 else "", "cases": names[2 * i - 1 :],
             "rule": {"kind": "part_way", "from": f"step_{i}", "to": f"bench_{i}", "share": 0}},
            {"name": outer, "role": "bench, outer" if i == 1 else "", "cases": names[2 * i :],
             "rule": {"kind": "part_way", "from": f"step_{i}", "to": f"bench_{i}", "share": 1}},
        ]  # fmt: skip
        built += [inner, outer]
        for case, at in ((f"slope {i}", f"on_slope_{i}"), (f"bench {i}", f"on_bench_{i}")):
            rule = {"kind": "part_way", "from": at, "to": at, "share": 0}
            nodes.append({"name": "toe", "role": "toe", "cases": [case], "rule": rule})
    nodes.append({"name": "toe", "role": "toe", "cases": ["beyond"], "rule": _until(start, "1/n", rise, "search", "hinge")})
    return {
        "name": f"benched_{way}", "label": f"Benched {way}", "end": "toe",
        "remark": f"A slope with a bench every so much of {'rise' if way == 'cut' else 'fall'}, until the ground is met.",
        "parameters": [
            {"name": "n", "label": "Slope: 1 in", "kind": "one_in", "value": 1.5, "least": 0.05, "greatest": 20.0},
            {"name": "interval", "label": "Height between benches", "kind": "height", "value": 5.0, "least": 0.5, "greatest": 50.0},
            {"name": "bench_width", "label": "Width of a bench", "kind": "length", "value": 3.0, "least": 0.0, "greatest": 20.0},
            {"name": "bench_fall", "label": "Fall of a bench", "kind": "percent", "value": 0.04, "least": 0.0, "greatest": 0.2},
            {"name": "bench_way", "label": "Benches fall", "kind": "choice", "value": "inward" if way == "cut" else "outward",
             "choices": ["inward", "outward"], "remark": "inward is towards the road"},
            {"name": "benches", "label": "Benches at most", "kind": "number", "value": most, "least": 0, "greatest": most},
            {"name": "search", "label": "Search within", "kind": "length", "value": 120.0, "least": 1.0, "greatest": 300.0},
        ],
        "cases": cases, "nodes": nodes,
        "runs": [{"nodes": ["start", *built, "toe"], "roles": ["finished", "formation"]}],
    }  # fmt: skip


_REPEATING: dict[str, Callable[[], dict[str, Any]]] = {
    "benched_cut": lambda: benched("cut"),
    "benched_fill": lambda: benched("fill"),
}
