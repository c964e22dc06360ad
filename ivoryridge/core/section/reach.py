"""How far out the ground is needed under a row of parts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .formula import evaluate_formula
from .part import START, Node
from .rules import RULES
from .solve import order_of
from .template import PlacedPart

Floats = NDArray[np.float64]

__all__ = ["FARTHEST", "reach_of"]

FARTHEST = 300.0  # m; a slope that states no search looks so far


def reach_of(parts: tuple[PlacedPart, ...], n: int = 1, overrides: Mapping[str, Mapping[str, Any]] | None = None) -> Floats:
    """(n,) m from the line, outward: the farthest that a node can lie or a slope looks, at most ``FARTHEST``.

    A bound from the rules alone, without levels: a node lies no farther than its own and what it starts from allow, in whichever
    case, a slope no farther than its search. Where two slopes cross is not known without levels; the farther of their starts stands
    for it. ``overrides`` as for ``solve_side``.
    """
    start, farthest = np.zeros(n), np.zeros(n)
    for placed in parts:
        values = placed.all_values() | dict((overrides or {}).get(placed.id, {}))
        bound: dict[str, Floats] = {START: start}
        for name in order_of(placed):
            for node in (m for m in placed.part.nodes if m.name == name):
                here = np.broadcast_to(_bound(node, values, bound, placed.part.label), (n,))
                bound[name] = np.fmax(bound.get(name, here), here)
        farthest = np.fmax.reduce([farthest, *bound.values()])
        start = bound.get(placed.part.end, start)
    return np.minimum(farthest, FARTHEST)


def _bound(node: Node, values: Mapping[str, Any], bound: Mapping[str, Floats], label: str) -> Any:
    slots = node.slots

    def quantity(slot: str) -> Any:
        return np.asarray(evaluate_formula(slots[slot], values, part=label), float)

    def word(slot: str) -> str:
        given = str(slots.get(slot) or RULES[node.kind].slot(slot).usual)  # type: ignore[union-attr]
        chosen = values.get(given)
        return chosen if isinstance(chosen, str) else given

    base = bound[slots["from"]]
    outward = "way" not in slots or word("way") == "outward"
    match node.kind:
        case "slope_until_surface":
            since = {"hinge": bound[START], "centre": 0.0, "node": base}[word("within_from")]
            return since + quantity("within") if slots.get("within", "") != "" else FARTHEST
        case "across_at_slope" | "across_and_up":
            return base + quantity("across") if outward else base
        case "angle_and_length":
            return base + quantity("length") if outward else base
        case "slope_until_level":
            with np.errstate(divide="ignore", invalid="ignore"):
                return base + quantity("change") / quantity("slope") if outward else base
        case "part_way":
            return np.fmax(base, base + quantity("share") * (bound[slots["to"]] - base))
        case "crossing":
            return np.fmax(base, bound[slots["other"]])
    return base  # at the offset of another node, or on a followed line: it lies where that does
