"""What a template is made of: parameters, nodes with placing rules, edges, areas, cases; and the part library.

A rule is kept as data (kind and slots). Slots say ``rise`` or ``fall`` and ``outward`` or ``inward``; quantities
are never negative to turn a direction round.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from typing import Any

from ..errors import InputError
from ..wording import Words, words

__all__ = [
    "RULES",
    "Area",
    "Case",
    "Node",
    "Parameter",
    "Part",
    "PlacedPart",
    "Run",
    "Template",
    "library_part",
    "library_parts",
    "part_from_dict",
]

# kind of rule -> (slots that name nodes, slots that hold quantities, slots that hold words)
RULES: dict[str, tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]] = {
    "across_at_slope": (("from",), ("across", "slope"), ("way", "sense")),
    "across_and_up": (("from",), ("across", "up"), ("way", "sense")),
    "slope_until_level": (("from",), ("slope", "change"), ("way", "sense")),
    "slope_until_surface": (("from",), ("slope", "within"), ("sense", "crossing", "within_from")),
    "crossing": (("from", "other"), ("slope", "other_slope"), ("sense", "other_sense")),
    "part_way": (("from", "to"), ("share",), ()),
    "angle_and_length": (("from",), ("angle_deg", "length"), ("way",)),
    "on_line": (("from",), (), ("line",)),
}
WORDS = {
    "way": ("outward", "inward"),
    "sense": ("rise", "fall"),
    "other_sense": ("rise", "fall"),
    "crossing": ("first", "last"),
    "within_from": ("hinge", "centre"),
}


@dataclass(frozen=True, slots=True)
class Parameter:
    """A quantity (or a choice of words) that a person may set; ``kind``: length, percent, one_in, height, choice.

    ``turns``: what a road's crossfall does with it: the fall of the "lane", the "width" that it turns, the fall of the paved
    "shoulder" beside it; empty for all else.
    """

    name: str
    label: str
    kind: str
    value: float | str
    least: float = 0.0
    greatest: float = 1000.0
    choices: tuple[str, ...] = ()
    remark: str = ""
    turns: str = ""


@dataclass(frozen=True, slots=True)
class Node:
    """A named point of a section; the same name may be placed by another rule in another case."""

    name: str
    kind: str
    slots: Mapping[str, Any]
    cases: tuple[str, ...] = ()
    guide: bool = False
    role: str = ""
    remark: str = ""


@dataclass(frozen=True, slots=True)
class Run:
    """A row of edges from node to node; nodes that a case does not build are passed over.

    ``roles`` among ``finished`` and ``formation``.
    """

    nodes: tuple[str, ...]
    roles: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Area:
    """A closed loop of nodes with a material."""

    name: str
    material: str
    nodes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Case:
    """A named choice; the first case whose condition holds is taken. ``kind``: in_fill, in_cut, met, otherwise."""

    name: str
    kind: str
    at: str = ""


@dataclass(frozen=True, slots=True, eq=False, weakref_slot=True)
class Part:
    """A piece of a template from ``start`` (the end of the part before it) outward to ``end``."""

    name: str
    label: str
    end: str
    parameters: tuple[Parameter, ...]
    nodes: tuple[Node, ...]
    runs: tuple[Run, ...]
    areas: tuple[Area, ...] = ()
    cases: tuple[Case, ...] = ()

    def parameter(self, name: str) -> Parameter:
        return next(p for p in self.parameters if p.name == name)


@dataclass(frozen=True, slots=True)
class PlacedPart:
    """A part in a template, under its own id, with the values its user has set."""

    id: str
    part: Part
    values: Mapping[str, Any] = field(default_factory=dict)

    def value(self, name: str) -> Any:
        return self.values.get(name, self.part.parameter(name).value)

    def __post_init__(self) -> None:
        for name, value in self.values.items():
            p = next((p for p in self.part.parameters if p.name == name), None)
            if p is None:
                raise InputError("unknown-parameter", expression=name, missing=name, part=self.part.label)
            if p.kind == "choice":
                if value not in p.choices:
                    raise InputError(
                        "bad-rule", node=f"{self.id}.{name}", reason=f"'{value}' is not one of {', '.join(p.choices)}"
                    )
            elif isinstance(value, int | float) and not p.least <= value <= p.greatest:
                told = {k: _quantity(p.kind, v) for k, v in (("value", value), ("least", p.least), ("greatest", p.greatest))}
                raise InputError(
                    "parameter-out-of-range",
                    label=p.label,
                    part=self.part.label,
                    where={"part": self.id, "parameter": name},
                    **told,
                )


def _quantity(kind: str, value: float) -> Words:
    """A parameter's value as it is said: lengths in the spoken units, falls in per cent."""
    return words({"length": "{v:m.g}", "height": "{v:m.g}", "percent": "{p:g} %"}.get(kind, "{v:g}"), v=value, p=100 * value)


@dataclass(frozen=True, slots=True)
class Template:
    """Parts from the centre outward, left and right."""

    name: str
    left: tuple[PlacedPart, ...]
    right: tuple[PlacedPart, ...]


def part_from_dict(data: Mapping[str, Any]) -> Part:
    """A part from its data form (library file or a person's own); every rule is checked against ``RULES``."""
    nodes = []
    for row in data["nodes"]:
        slots = dict(row["rule"])
        kind = slots.pop("kind")
        _check_rule(row["name"], kind, slots, data)
        nodes.append(
            Node(
                row["name"],
                kind,
                slots,
                tuple(row.get("cases", ())),
                row.get("guide", False),
                row.get("role", ""),
                row.get("remark", ""),
            )
        )
    parameters = tuple(Parameter(**{**p, "choices": tuple(p.get("choices", ()))}) for p in data.get("parameters", ()))
    return Part(
        name=data["name"],
        label=data["label"],
        end=data["end"],
        parameters=parameters,
        nodes=tuple(nodes),
        runs=tuple(Run(tuple(r["nodes"]), tuple(r["roles"])) for r in data.get("runs", ())),
        areas=tuple(Area(a["name"], a["material"], tuple(a["nodes"])) for a in data.get("areas", ())),
        cases=tuple(Case(c["name"], c["kind"], c.get("at", "")) for c in data.get("cases", ())),
    )


def _check_rule(node: str, kind: str, slots: Mapping[str, Any], data: Mapping[str, Any]) -> None:
    if kind not in RULES:
        raise InputError("bad-rule", node=node, reason=f"there is no rule '{kind}'")
    nodes, quantities, words = RULES[kind]
    known = {*nodes, *quantities, *words}
    for slot in known - set(slots):
        if slot not in ("way", "within", "within_from"):  # these have a usual value
            raise InputError("bad-rule", node=node, reason=f"its slot '{slot}' is empty")
    for slot in set(slots) - known:
        raise InputError("bad-rule", node=node, reason=f"it has no slot '{slot}'")
    choices = {p["name"] for p in data.get("parameters", ()) if p["kind"] == "choice"}
    for slot in words:
        if slot in WORDS and slot in slots and slots[slot] not in WORDS[slot] and slots[slot] not in choices:
            raise InputError("bad-rule", node=node, reason=f"'{slots[slot]}' is neither of {' or '.join(WORDS[slot])}")


@cache
def library_parts() -> tuple[str, ...]:
    """Names of the parts that ship with the program."""
    return tuple(sorted(f.name[:-5] for f in (resources.files(__package__) / "parts").iterdir() if f.name.endswith(".toml")))


@cache
def library_part(name: str) -> Part:
    """A part of the library by name."""
    return part_from_dict(tomllib.loads((resources.files(__package__) / "parts" / f"{name}.toml").read_text()))
