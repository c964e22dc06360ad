"""Why a node lies where it does: its rule as a sentence, with what its slots come to."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ..wording import Words, words
from .formula import evaluate_formula, names_in
from .part import START, Node, Part
from .rules import ALIASES, RULES, Slot

__all__ = ["called", "parameters_of", "rule_said"]

_FLAT = 0.12  # ratio up to which a slope is said in per cent


def called(part: Part, node: str) -> str:
    """What a node of a part is called: what it is for, else its name."""
    return next((n.role for n in part.nodes if n.name == node and n.role), "") or node.replace("_", " ")


def parameters_of(node: Node) -> tuple[str, ...]:
    """Names of the parameters that a node's rule reads, in the order of its slots."""
    rule = RULES[node.kind]
    named = [
        n for s in rule.slots if s.is_formula and node.slots.get(s.name, "") != "" for n in sorted(names_in(node.slots[s.name]))
    ]
    words_ = [str(node.slots.get(s.name) or s.usual) for s in rule.slots if s.takes == "word"]
    return tuple(dict.fromkeys([*named, *words_]))


def rule_said(part: Part, node: Node, values: Mapping[str, Any], start: str = "the start of the part") -> Words:
    """The rule of a node as a sentence; a formula is read with what it comes to at these values. ``start``: what the part begins at."""
    rule = RULES[node.kind]
    given: dict[str, Any] = {}

    def fill(text: str) -> str:
        return re.sub(r"\{(\w+)\}", lambda m: _slot(part, start, node, rule.slot(m[1]), values, given), text)  # type: ignore[arg-type]

    pieces = []
    for piece in re.split(r"(\[[^\]]*\])", rule.sentence):
        if not piece.startswith("["):
            pieces.append(fill(piece))
        elif (first := re.search(r"\{(\w+)\}", piece)) and node.slots.get(first[1], "") != "":
            pieces.append(fill(piece[1:-1]))
    return words("".join(pieces), **given)


def _slot(part: Part, start: str, node: Node, slot: Slot, values: Mapping[str, Any], given: dict[str, Any]) -> str:
    """The text of a slot; what is put into it goes into ``given`` and is worded at the rim."""
    held = node.slots.get(slot.name, "")
    held = slot.usual if held == "" and slot.usual is not None else held
    key = f"v_{slot.name}"
    match slot.takes:
        case "node":
            given[key] = start if held == START else f"the {called(part, str(held))}"
            return f"{{{key}}}"
        case "word":
            said = values.get(str(held), held) if isinstance(values.get(str(held)), str) else held
            given[key] = slot.words.get(str(said)) or slot.words.get(ALIASES.get(str(said), "")) or said
            return f"{{{key}}}"
        case "length" | "slope" | "share" | "angle":
            value = float(evaluate_formula(held, values, part=part.label, angle=slot.takes == "angle"))
            given[f"{key}_of"] = _named(part, names_in(held))
            of = f"{{{key}_of}}"
            if slot.takes == "slope" and abs(value) > _FLAT:
                given[key] = 1.0 / value
                return f"1 in {{{key}:.3g}}{of}"
            given[key] = 100 * value if slot.takes == "slope" else value
            forms = {"length": f"{{{key}:m.3}}", "slope": f"{{{key}:.2f}} %", "angle": f"{{{key}:.1f}}°"}
            return forms.get(slot.takes, f"{{{key}:.3g}}") + of
    given[key] = f"the {held}" if slot.takes == "target" else f"'{held}'"
    return f"{{{key}}}"


def _named(part: Part, names: set[str]) -> str:
    """The parameters that a number is made of, behind it."""
    labels = [p.label.lower().removesuffix(": 1 in") for p in part.parameters if p.name in names]
    return f" ({', '.join(labels)})" if labels else ""
