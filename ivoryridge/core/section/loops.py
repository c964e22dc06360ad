"""Closed loops of nodes in a drawn part: which one a person has clicked into."""

from __future__ import annotations

import itertools
from collections.abc import Mapping

import numpy as np
import shapely
from scipy.sparse import csr_array
from scipy.sparse.csgraph import shortest_path

from .part import Part
from .rules import RULES

__all__ = ["crosses_itself", "loop_at"]

MOST_NODES = 120  # of a drawing that is looked through


def loop_at(part: Part, places: Mapping[str, tuple[float, float]], point: tuple[float, float]) -> tuple[str, ...] | None:
    """The smallest loop of nodes around a point: a way along edges from node to node, closed by a straight line where it is open.

    Edges are those of runs, those from a node to the one it starts from, and those along the rims of other areas. ``places``: node ->
    across and level, of the nodes that are there. None where nothing goes round the point.
    """
    names = list(places)[:MOST_NODES]
    index = {n: i for i, n in enumerate(names)}
    joined = np.zeros((len(names), len(names)))

    def edge(a: str, b: str) -> None:
        if a in index and b in index and a != b:
            joined[index[a], index[b]] = joined[index[b], index[a]] = 1

    for run in part.runs:
        there = [n for n in run.nodes if n in places]
        for a, b in itertools.pairwise(there):
            edge(a, b)
    for node in part.nodes:
        if RULES[node.kind].slot("from"):
            edge(node.name, node.slots["from"])
    for area in part.areas:
        for a, b in zip(area.nodes, (*area.nodes[1:], area.nodes[0]), strict=True):
            edge(a, b)
    at = shapely.Point(point)
    best: tuple[float, tuple[str, ...]] | None = None
    _, before = shortest_path(csr_array(joined), unweighted=True, return_predecessors=True)
    for i, j in itertools.combinations(range(len(names)), 2):
        way = [j]
        while way[-1] != i and before[i, way[-1]] >= 0:
            way.append(int(before[i, way[-1]]))
        if way[-1] != i or len(way) < 3:
            continue
        shape = shapely.Polygon([places[names[k]] for k in way])
        if shape.is_valid and shape.area > 1e-9 and shape.contains(at) and (best is None or shape.area < best[0] - 1e-12):
            best = (shape.area, tuple(names[k] for k in way))
    return best[1] if best else None


def crosses_itself(loop: tuple[str, ...], places: Mapping[str, tuple[float, float]]) -> bool:
    """Whether a loop of nodes that are all there crosses itself as drawn; nodes that lie on one another do not count."""
    if not all(n in places for n in loop):
        return False
    rim = [k for k, _ in itertools.groupby(places[n] for n in loop)]
    return len(rim) > 3 and not shapely.Polygon(rim).is_valid
