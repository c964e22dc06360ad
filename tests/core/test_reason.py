"""Why a node lies where it does, in words: all rules of all parts of the library, at random values, in either unit."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from ivoryridge.core.section.formula import evaluate_formula, names_in
from ivoryridge.core.section.library import library_part, library_parts
from ivoryridge.core.section.part import START, Node
from ivoryridge.core.section.reason import called, parameters_of, rule_said
from ivoryridge.core.section.rules import RULES
from ivoryridge.core.wording import FEET, speaking


def drawn(part: Any, rng: Any) -> dict[str, Any]:
    """Values of a part's parameters anywhere within their limits, choices too."""
    out: dict[str, Any] = {}
    for p in part.parameters:
        if p.kind == "choice":
            out[p.name] = str(rng.choice(p.choices))
        elif p.kind == "structure":
            out[p.name] = p.value
        else:
            out[p.name] = float(rng.uniform(p.least, min(p.greatest, p.least + 20.0)))
    return out


@pytest.mark.parametrize("name", list(library_parts()))
def test_every_rule_of_the_library_is_a_sentence_with_its_numbers(name: str) -> None:
    part, rng = library_part(name), np.random.default_rng(len(name))
    for _ in range(5):
        values = drawn(part, rng)
        for node in part.nodes:
            said = rule_said(part, node, values, "the centre line").said()
            assert not re.search(r"[{}\[\]]|nan|None", said), said
            assert not {p.name for p in part.parameters if "_" in p.name} & set(re.findall(r"\w+", said)), said
            named = {n for s in RULES[node.kind].slots if s.is_formula for n in names_in(node.slots.get(s.name) or 0)}
            assert all(p.label.lower().removesuffix(": 1 in") in said for p in part.parameters if p.name in named)
            if "from" in node.slots:
                base = node.slots["from"]
                assert ("the centre line" if base == START else f"the {called(part, base)}") in said
            for slot in RULES[node.kind].of("length"):
                if node.slots.get(slot, "") != "":
                    value = float(evaluate_formula(node.slots[slot], values, part=part.label))
                    assert f"{value:.3f} m" in said.replace("−", "-"), (said, value)
            assert all(p in values or p in ("rise", "fall", "outward", "inward", "first", "last", "above", "below", "hinge", "centre",
                                            "node", "") for p in parameters_of(node))  # fmt: skip


def test_lengths_are_said_in_feet_and_slopes_as_they_are_typed() -> None:
    part = library_part("verge")
    node = part.nodes[0]
    with speaking(FEET):
        said = rule_said(part, node, {**{p.name: p.value for p in part.parameters}, "width": 3.048}).said()
    assert "10.000 ft (verge width) outward" in said
    odd = replace(part, parameters=tuple(replace(p, label="Width {of} [verge]") for p in part.parameters if p.name == "width"))
    braced = replace(node, slots={**node.slots, "slope": 0.04})
    assert "(width {of} [verge])" in rule_said(odd, braced, {"width": 2.0}).said()
    steep = Node("n", "across_at_slope", {"from": "start", "across": 2.0, "sense": "fall", "slope": 0.5})
    flat = replace(steep, slots={**steep.slots, "slope": 0.04, "way": "inward"})
    assert rule_said(part, steep, {}).said() == "from the start of the part, 2.000 m outward, falling at 1 in 2"
    assert rule_said(part, flat, {}).said() == "from the start of the part, 2.000 m back inward, falling at 4.00 %"
