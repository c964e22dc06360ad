"""Closed loops of nodes in a drawn part: which one a person has clicked into."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from typing import Any

import numpy as np
import shapely
from scipy.sparse import csr_array
from scipy.sparse.csgraph import shortest_path

from .part import Part
from .rules import RULES

__all__ = ["crosses_itself", "loop_at"]

MOST_NODES = 120  # of a drawing that is looked through


def loop_at(part: Part, places: Mapping[str, tuple[float, float]], point: tuple[float, float]) -> tuple[str, ...] | None:
    """The smallest loop of nodes around a point: of drawn edges, else of these and of the ways from node to node by which they are
    found, else a way along all of them that a straight line closes.

    Drawn edges are those of runs and those along the rims of other areas. ``places``: node -> across and level, of the nodes that are
    there. None where nothing goes round the point.
    """
    names = list(places)[:MOST_NODES]
    drawn: set[tuple[str, str]] = set()
    for run in part.runs:
        drawn.update(itertools.pairwise(n for n in run.nodes if n in places))
    for area in part.areas:
        drawn.update(zip(area.nodes, (*area.nodes[1:], area.nodes[0]), strict=True))
    found_from = {(n.name, n.slots["from"]) for n in part.nodes if RULES[n.kind].slot("from")}
    drawn, joined = ({(a, b) for a, b in some if a in names and b in names} for some in (drawn, drawn | found_from))
    at = shapely.Point(point)
    return (
        _smallest(at, _faces(drawn, places))
        or _smallest(at, _faces(joined, places))
        or _smallest(at, _closable(joined, places, names))
    )


Loop = tuple[Any, tuple[str, ...]]  # polygon and its nodes


def _faces(edges: set[tuple[str, str]], places: Mapping[str, tuple[float, float]]) -> Iterator[Loop]:
    """What the edges enclose, where every corner is a node."""
    lines = [shapely.LineString([places[a], places[b]]) for a, b in edges if places[a] != places[b]]
    here: dict[tuple[float, float], list[str]] = {}
    for name in dict.fromkeys(itertools.chain.from_iterable(sorted(edges))):
        here.setdefault(places[name], []).append(name)
    for face in shapely.polygonize([shapely.union_all(lines)]).geoms:
        corners = list(face.exterior.coords)[:-1]
        if all(c in here for c in corners):
            loop: list[str] = []
            for c in corners:  # of nodes on one another the one that is joined to the corner before
                loop.append(next((n for n in here[c] if loop and {(loop[-1], n), (n, loop[-1])} & edges), here[c][0]))
            yield face, tuple(loop)


def _closable(edges: set[tuple[str, str]], places: Mapping[str, tuple[float, float]], names: list[str]) -> Iterator[Loop]:
    """Shortest ways along edges from any node to any other, closed by a straight line."""
    joined = np.zeros((len(names), len(names)))
    for a, b in edges:
        joined[names.index(a), names.index(b)] = joined[names.index(b), names.index(a)] = 1
    _, before = shortest_path(csr_array(joined), unweighted=True, return_predecessors=True)
    for i, j in itertools.combinations(range(len(names)), 2):
        way = [j]
        while way[-1] != i and before[i, way[-1]] >= 0:
            way.append(int(before[i, way[-1]]))
        if way[-1] == i and len(way) > 2:
            yield shapely.Polygon([places[names[k]] for k in way]), tuple(names[k] for k in way)


def _smallest(at: shapely.Point, loops: Iterator[Loop]) -> tuple[str, ...] | None:
    around = [(shape.area, loop) for shape, loop in loops if shape.is_valid and shape.area > 1e-9 and shape.contains(at)]
    return min(around, key=lambda found: found[0])[1] if around else None


def crosses_itself(loop: tuple[str, ...], places: Mapping[str, tuple[float, float]]) -> bool:
    """Whether a loop of nodes that are all there crosses itself as drawn; nodes that lie on one another do not count."""
    if not all(n in places for n in loop):
        return False
    rim = [k for k, _ in itertools.groupby(places[n] for n in loop)]
    return len(rim) > 3 and not shapely.Polygon(rim).is_valid
