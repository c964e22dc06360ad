"""What a part is made of: parameters, nodes with placing rules, edges, areas, cases; read from its data form.

A rule is kept as data (kind and slots). Slots say ``rise`` or ``fall`` and ``outward`` or ``inward``; quantities are never negative to
turn a direction round. Lengths are in metres; a file states its unit and is converted where it is read.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from ..errors import InputError
from .formula import RESERVED
from .rules import ALIASES, RULES

__all__ = [
    "CASES",
    "PARAMETER_KINDS",
    "SCHEMA",
    "START",
    "Along",
    "Area",
    "Case",
    "Check",
    "Layers",
    "Node",
    "Parameter",
    "Part",
    "Run",
    "Target",
    "part_from_dict",
    "part_from_json",
]

SCHEMA = 1  # of the data form; a newer one is refused, an older one brought up where it is read
START = "start"

# kind -> what a value of it is
PARAMETER_KINDS = {
    "length": "a length", "height": "a height", "percent": "a fall in per cent", "one_in": "the n of a slope 1 in n",
    "degrees": "an angle", "number": "a plain number", "choice": "one of some words", "structure": "a pavement structure",
}  # fmt: skip
LENGTHS = ("length", "height")

# kind of case -> (the nodes it names, the formulas it holds, its words); what each means: solve._holds
CASES: dict[str, tuple[tuple[str, ...], tuple[str, ...], Mapping[str, tuple[str, ...]]]] = {
    "in_fill": (("at",), (), {}),
    "in_cut": (("at",), (), {}),
    "height": (("at",), ("least", "greatest"), {"of": ("fill", "cut")}),
    "rise": (("at", "from"), ("least", "greatest"), {}),
    "met": (("at",), (), {}),
    "not_met": (("at",), (), {}),
    "choice": ((), (), {}),
    "crossfall": ((), (), {"way": ("outward", "inward")}),
    "otherwise": ((), (), {}),
}


@dataclass(frozen=True, slots=True)
class Parameter:
    """A quantity (or a choice of words) that a person may set; ``kind``: one of ``PARAMETER_KINDS``.

    ``turns``: what a road's crossfall does with it: the fall of the "lane", the "lane way", the "width" that it turns, the fall of the
    paved "shoulder" beside it and the "shoulder way", its "high side" and "rollover"; beside a reserve the "axis" of the half and the
    "lift" of its inner edge; empty for all else.
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

    ``roles`` among ``finished`` and ``formation``; ``name``: what a parallel calls it by, else its first role.
    """

    nodes: tuple[str, ...]
    roles: tuple[str, ...]
    name: str = ""

    @property
    def called(self) -> str:
        return self.name or (self.roles[0] if self.roles else "")


@dataclass(frozen=True, slots=True)
class Area:
    """A closed loop of nodes with a material."""

    name: str
    material: str
    nodes: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Upon:
    """What is laid on a surface that is there: between it and a row of nodes, outward, ``made_up`` material where it lies below them,
    and ``taken_off`` where it stands above, which it may by ``allowed`` (a formula, m)."""

    nodes: tuple[str, ...]
    target: str
    made_up: str
    taken_off: str
    allowed: str


@dataclass(frozen=True, slots=True)
class Case:
    """A named choice; the first case whose condition holds is taken.

    ``kind``: one of ``CASES``; ``slots``: its further nodes, formulas and words; ``also``: conditions that must hold as well.
    """

    name: str
    kind: str
    at: str = ""
    slots: Mapping[str, Any] = field(default_factory=dict)
    also: tuple[Case, ...] = ()


@dataclass(frozen=True, slots=True)
class Check:
    """Something that must be so for a part's values: ``value`` at least ``least``, both formulas; else a finding says it."""

    label: str
    value: str | float
    least: str | float


@dataclass(frozen=True, slots=True)
class Target:
    """What slopes may look for and nodes may lie on: ``kind`` surface, level or line; a template or a stretch binds it."""

    name: str
    label: str
    kind: str


@dataclass(frozen=True, slots=True)
class Layers:
    """Layers of a pavement structure under a row of nodes; ``structure`` is the parameter that names it."""

    under: tuple[str, ...]
    structure: str


@dataclass(frozen=True, slots=True)
class Along:
    """What changes along a road where the case changes, over the length that parameter ``over`` gives; nothing where that is 0.

    ``kind`` "run out": in stretches of ``cases`` the ``values`` (parameters) grow from nothing at the ends where another case begins.
    "even": ``values`` says for each of ``cases`` which parameter counts there; all of them go from step to step on a straight line.
    """

    kind: str
    over: str
    cases: tuple[str, ...]
    values: tuple[str, ...]


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
    upon: tuple[Upon, ...] = ()
    cases: tuple[Case, ...] = ()
    targets: tuple[Target, ...] = ()
    layers: tuple[Layers, ...] = ()
    checks: tuple[Check, ...] = ()
    along: tuple[Along, ...] = ()
    remark: str = ""

    def parameter(self, name: str) -> Parameter:
        return next(p for p in self.parameters if p.name == name)


def part_from_dict(data: Mapping[str, Any]) -> Part:
    """A part from its data form (library, file, or a person's own); every rule and case is checked against its kind.

    What names what, and whether formulas can be read, is told by ``check.faults_of``. Raises InputError.
    """
    choices = {p["name"] for p in data.get("parameters", ()) if p["kind"] == "choice"}
    return Part(
        name=data["name"],
        label=data["label"],
        end=data.get("end") or START,
        parameters=tuple(_parameter(p, data) for p in data.get("parameters", ())),
        nodes=tuple(_node(row, choices) for row in data["nodes"]),
        runs=tuple(Run(tuple(r["nodes"]), tuple(r["roles"]), r.get("name", "")) for r in data.get("runs", ())),
        areas=tuple(Area(a["name"], a["material"], tuple(a["nodes"])) for a in data.get("areas", ())),
        upon=tuple(
            Upon(tuple(x["nodes"]), x["target"], x["made_up"], x["taken_off"], str(x["allowed"])) for x in data.get("upon", ())
        ),
        cases=tuple(_case(c) for c in data.get("cases", ())),
        targets=tuple(Target(t["name"], t.get("label", t["name"]), t["kind"]) for t in data.get("targets", ())),
        layers=tuple(Layers(tuple(x["under"]), x["structure"]) for x in data.get("layers", ())),
        checks=tuple(Check(c["label"], c["value"], c["least"]) for c in data.get("checks", ())),
        along=tuple(_along(x) for x in data.get("along", ())),
        remark=data.get("remark", ""),
    )


def _along(x: Mapping[str, Any]) -> Along:
    along = Along(x["kind"], x["over"], tuple(x["cases"]), tuple(x["values"]))
    if along.kind not in ("run out", "even") or (along.kind == "even" and len(along.cases) != len(along.values)):
        raise InputError("bad-along", kind=str(along.kind), over=str(along.over))
    return along


@lru_cache(maxsize=512)  # the same part is read for every trial; it is frozen, so what follows from it is found once
def part_from_json(text: str) -> Part:
    return part_from_dict(json.loads(text))


def _parameter(p: Mapping[str, Any], data: Mapping[str, Any]) -> Parameter:
    name = p["name"]
    if name in RESERVED or name == START:
        raise InputError("name-taken", name=name, what="parameter", part=data.get("label", ""))
    if p["kind"] not in PARAMETER_KINDS:
        raise InputError("bad-parameter", label=p.get("label", name), reason=f"there is no kind '{p['kind']}'")
    if isinstance(p["value"], str) != (p["kind"] in ("choice", "structure")):
        raise InputError(
            "bad-parameter", label=p.get("label", name), reason=f"'{p['value']}' is not {PARAMETER_KINDS[p['kind']]}"
        )
    if p["kind"] == "choice" and p["value"] not in p.get("choices", ()):
        raise InputError("bad-parameter", label=p.get("label", name), reason="its usual value is none of its choices")
    for word in p.get("choices", ()):
        if not isinstance(word, str) or word.strip()[:1].isdigit():
            raise InputError(
                "bad-parameter", label=p.get("label", name), reason=f"a choice is a word; '{word}' begins with a figure"
            )
    usual = {"least": -90.0, "greatest": 90.0} if p["kind"] == "degrees" else {}
    return Parameter(**{**usual, **p, "choices": tuple(p.get("choices", ()))})


def _node(row: Mapping[str, Any], choices: set[str]) -> Node:
    slots = dict(row["rule"])
    kind = slots.pop("kind")
    _check_rule(row["name"], kind, slots, choices)
    return Node(
        row["name"], kind, slots, tuple(row.get("cases", ())), row.get("guide", False), row.get("role", ""), row.get("remark", "")
    )


def _check_rule(node: str, kind: str, slots: Mapping[str, Any], choices: set[str]) -> None:
    def wrong(reason: str, slot: str = "") -> InputError:
        return InputError("bad-rule", node=node, reason=reason, where={"node": node, "slot": slot})

    rule = RULES.get(kind)
    if rule is None:
        raise wrong(f"there is no rule '{kind}'")
    if node == START:
        raise wrong(f"'{START}' is where every part begins")
    for slot in rule.slots:
        if slots.get(slot.name, "") == "" and slot.usual is None:
            raise wrong(f"its slot '{slot.name}' is empty", slot.name)
    for name, value in slots.items():
        known = rule.slot(name)
        if known is None:
            raise wrong(f"it has no slot '{name}'", name)
        if known.is_formula:
            if not isinstance(value, int | float | str) or isinstance(value, bool):
                raise wrong(f"its slot '{name}' holds no quantity", name)
        elif not isinstance(value, str):
            raise wrong(f"its slot '{name}' holds no word", name)
        elif known.words and ALIASES.get(value, value) not in known.words and value not in known.words and value not in choices:
            raise wrong(f"'{value}' is neither of {' or '.join(known.words)}", name)


def _case(c: Mapping[str, Any], of: str = "") -> Case:
    kind, name = c["kind"], of or c["name"]
    slots = {k: v for k, v in c.items() if k not in ("name", "kind", "at", "also")}

    def wrong(reason: str) -> InputError:
        return InputError("bad-case", case=name, reason=reason)

    if kind not in CASES:
        raise wrong(f"there is no kind '{kind}'")
    nodes, formulas, words = CASES[kind]
    known = {*nodes, *formulas, *words, *(("parameter", "value") if kind == "choice" else ())} - {"at"}
    for slot in set(slots) - known:
        raise wrong(f"it has no slot '{slot}'")
    for slot in known - set(slots) - set(formulas):
        raise wrong(f"its slot '{slot}' is empty")
    if "at" in nodes and not c.get("at"):
        raise wrong("it names no node")
    for word, allowed in words.items():
        if slots[word] not in allowed:
            raise wrong(f"'{slots[word]}' is neither of {' or '.join(allowed)}")
    return Case(name, kind, c.get("at", ""), slots, tuple(_case(x, name) for x in c.get("also", ())))
