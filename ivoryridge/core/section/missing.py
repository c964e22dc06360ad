"""Why a node that should be there is not: the rule that could not place it, and what it lacked."""

from __future__ import annotations

import numpy as np

from ..wording import Words, words
from .columns import SideColumns
from .part import START, Node
from .rules import GROUND, RULES
from .template import PlacedPart

__all__ = ["missing_nodes"]


def missing_nodes(placed: PlacedPart, side: SideColumns, i: int, start: str) -> dict[str, Words]:
    """Node -> why, of those a part should have at one section and has not; where one hangs on another, the other is named.

    ``start``: the full name of the node at which the part begins. A guide is told only where something built hangs on it; a node that
    belongs to other cases than the one taken is not missing.
    """
    taken, names = side.case_of.get(placed.id, (np.full(i + 1, -1), ()))
    case = names[taken[i]] if taken[i] >= 0 else ""
    here = {n.name: n for n in placed.part.nodes if not n.cases or case in n.cases}
    out: dict[str, Words] = {}

    def there(name: str) -> bool:
        return bool(side.present[side.index(start if name == START else f"{placed.id}.{name}"), i])

    def root(node: Node, seen: tuple[str, ...] = ()) -> tuple[str, Words]:
        for slot in RULES[node.kind].of("node"):
            name = node.slots[slot]
            if not there(name) and name not in seen:
                if name == START:
                    return node.name, words("the part before it does not reach so far")
                if name not in here:
                    return node.name, words("{name} is not there in this case", name=name)
                return root(here[name], (*seen, name))
        return node.name, _lack(node, placed)

    for node in here.values():
        if not node.guide and not there(node.name):
            name, why = root(node)
            out.setdefault(name, why)
    return out


def _lack(node: Node, placed: PlacedPart) -> Words:
    def called(slot: str) -> str:
        name = node.slots.get(slot) or GROUND
        return next((t.label.lower() for t in placed.part.targets if t.name == name), f"the {name}")

    match node.kind:
        case "slope_until_surface":
            return words("it does not meet {target} within its search", target=called("target"))
        case "slope_until_level":
            return words("a level line never changes its level")
        case "crossing":
            return words("its two slopes are parallel")
        case "on_surface":
            return words("{target} is not known there", target=called("target"))
        case "parallel":
            return words("the run {run} is not built there", run=node.slots["run"])
        case "on_line":
            return words("the line {line} is not beside the road there", line=node.slots["line"])
    return words("its numbers give no place")
