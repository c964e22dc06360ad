"""Pavement structures: named rows of layers that parts, junctions and areas stand on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from ..errors import InputError
from .part import Area, Node, Part, Run

__all__ = ["USUAL", "Layer", "Structure", "implausible", "layered", "structures_named"]


@dataclass(frozen=True, slots=True)
class Layer:
    """``thickness`` m, upright; plausible between ``least`` and ``greatest`` m; its outer end stands out by ``step_out`` m under the
    layer above."""

    material: str
    thickness: float
    least: float = 0.0
    greatest: float = 2.0
    step_out: float = 0.0


@dataclass(frozen=True, slots=True)
class Structure:
    name: str
    layers: tuple[Layer, ...]


# at hand in every project until it has its own; thicknesses and ranges are invented, not a design
USUAL = Structure(
    "Rural pavement",
    (
        Layer("surfacing", 0.10, 0.02, 0.20),
        Layer("base", 0.20, 0.05, 0.40),
        Layer("subbase", 0.25, 0.10, 0.60),
    ),
)


def implausible(structure: Structure) -> list[tuple[str, float, float, float]]:
    """Layers whose thickness lies outside its plausible range: material, thickness, least, greatest (m)."""
    return [(x.material, x.thickness, x.least, x.greatest) for x in structure.layers if not x.least <= x.thickness <= x.greatest]


def structures_named(part: Part, values: Mapping[str, Any], structures: Mapping[str, Structure]) -> tuple[Structure, ...]:
    """The structures that a part's values name, one for each of its rows of layers. Raises InputError for one that is not there."""
    chosen = []
    for row in part.layers:
        name = str(values.get(row.structure, part.parameter(row.structure).value)) or USUAL.name
        found = structures.get(name) or (USUAL if name == USUAL.name else None)
        if found is None:
            known = ", ".join([*structures, USUAL.name])
            raise InputError("no-such-structure", name=name, part=part.label, known=known)
        chosen.append(found)
    return tuple(chosen)


def layered(part: Part, structures: tuple[Structure, ...]) -> Part:
    """The part with the layers of its structures: nodes under its rows of nodes, an area a layer, and a formation along the lowest
    underside and up its outer face. The part itself where it stands on none."""
    return _layered(part, structures) if structures else part


@lru_cache(maxsize=256)
def _layered(part: Part, structures: tuple[Structure, ...]) -> Part:
    nodes, areas, runs = list(part.nodes), list(part.areas), list(part.runs)
    for k, (row, structure) in enumerate(zip(part.layers, structures, strict=True)):
        runs.append(Run(row.under, (), f"under_{k}"))
        above, depth = list(row.under), 0.0
        for i, layer in enumerate(structure.layers):
            below = [f"layer_{k}_{i}_{n}" for n in row.under]
            lowest = i + 1 == len(structure.layers)
            for j, (over, name) in enumerate(zip(above, below, strict=True)):
                last = j == len(above) - 1
                role = "" if not lowest else "formation centre" if j == 0 else "formation edge" if last else ""
                if not (last and i and layer.step_out):
                    down = {"from": over, "across": 0.0, "up": layer.thickness, "sense": "fall"}
                    nodes.append(Node(name, "across_and_up", down, role=role))
            rim = list(above)
            if i and layer.step_out:  # it stands out under the layer above, in that one's plane
                out, top = f"layer_{k}_{i}_out", f"layer_{k}_{i}_top"
                nodes.append(
                    Node(
                        out,
                        "across_and_up",
                        {"from": above[-1], "across": layer.step_out, "up": 0.0, "sense": "rise"},
                        guide=True,
                    )
                )
                for name, gap in ((top, depth), (below[-1], depth + layer.thickness)):
                    under = {"from": out, "gap": gap, "sense": "fall", "run": f"under_{k}"}
                    nodes.append(Node(name, "parallel", under, role="formation edge" if lowest and name != top else ""))
                rim.append(top)
            areas.append(Area(layer.material, layer.material, (*rim, *reversed(below))))
            above, depth = below, depth + layer.thickness
        runs.append(Run((*above, row.under[-1]), ("formation",)))
    return replace(part, nodes=tuple(nodes), areas=tuple(areas), runs=tuple(runs), layers=())
