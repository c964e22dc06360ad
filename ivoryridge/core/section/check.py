"""What is wrong with a part, slot by slot, before anything is built with it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..errors import InputError
from .formula import evaluate_formula, names_in
from .part import CASES, START, Case, Check, Part
from .rules import GROUND, RULES
from .solve import order_of
from .template import PlacedPart

__all__ = ["Fault", "broken_checks", "faults_of", "sound"]

MOST = {
    "parameters": 120,
    "nodes": 400,
    "runs": 60,
    "areas": 60,
    "cases": 60,
    "targets": 12,
    "layers": 4,
    "checks": 12,
    "upon": 4,
}  # rows


@dataclass(frozen=True, slots=True)
class Fault:
    """``where``: node (index) and slot, case, parameter, run or area by index; empty for the part as a whole."""

    where: Mapping[str, Any]
    error: InputError


def faults_of(part: Part, values: Mapping[str, Any] | None = None) -> list[Fault]:
    """All that keeps a part from being built with some values (else its usual ones), each at its slot."""
    given = {p.name: p.value for p in part.parameters} | dict(values or {})
    out = [
        *_sizes(part),
        *_names(part),
        *_limits(part),
        *_nodes(part, given),
        *_cases(part, given),
        *_loops(part),
        *_upon(part, given),
        *_checks(part, given),
        *_along(part),
    ]
    if not out:
        try:
            order_of(PlacedPart(part.label, part))
        except InputError as error:
            out.append(Fault({}, error))
    return out


def sound(part: Part, values: Mapping[str, Any] | None = None) -> Part:
    """The part itself; raises the first of its faults."""
    for fault in faults_of(part, values):
        raise fault.error
    return part


def broken_checks(placed: PlacedPart) -> list[tuple[Check, float, float]]:
    """Checks of a part that its values do not keep: the check, its value and the least it must be."""
    values = placed.all_values()
    out = []
    for check in placed.part.checks:
        value, least = (float(evaluate_formula(f, values, part=placed.part.label)) for f in (check.value, check.least))
        if value < least - 1e-9:
            out.append((check, value, least))
    return out


def _sizes(part: Part) -> Iterator[Fault]:
    for what, most in MOST.items():
        if len(getattr(part, what)) > most:
            yield Fault({}, InputError("part-too-large", part=part.label, what=what, count=len(getattr(part, what)), limit=most))


def _names(part: Part) -> Iterator[Fault]:
    for what, rows in (("parameter", part.parameters), ("case", part.cases), ("target", part.targets)):
        for name, n in Counter(r.name for r in rows).items():
            if n > 1:
                yield Fault({what: name}, InputError("name-twice", name=name, what=what, part=part.label))
    for t in part.targets:
        if t.name == GROUND:
            yield Fault({"target": t.name}, InputError("name-taken", name=t.name, what="target", part=part.label))
    # a node may be placed by several rules, but in each case by one at most
    seen: set[tuple[str, str]] = set()
    for i, node in enumerate(part.nodes):
        for case in node.cases or ("",):
            if (node.name, case) in seen or (not case and any(n == node.name for n, _ in seen)):
                yield Fault({"node": i}, InputError("node-twice", name=node.name, case=case or "every case", part=part.label))
            seen.add((node.name, case))


def _limits(part: Part) -> Iterator[Fault]:
    for p in part.parameters:
        if isinstance(p.value, int | float) and not p.least <= p.value <= p.greatest:
            reason = f"its usual value {p.value:g} lies outside its limits {p.least:g} to {p.greatest:g}"
            yield Fault({"parameter": p.name}, InputError("bad-parameter", label=p.label, reason=reason))


def _formula(part: Part, formula: Any, takes: str, given: Mapping[str, Any], what: str) -> InputError | None:
    try:
        value = evaluate_formula(formula, given, part=part.label, angle=takes == "angle")
    except InputError as error:
        return error
    if not np.all(np.isfinite(value)):
        return InputError("formula-no-number", what=what, expression=str(formula), names=_values_said(formula, given))
    if takes in ("length", "slope") and np.any(np.asarray(value) < 0):
        return InputError("formula-negative", what=what, expression=str(formula), value=float(np.min(value)),
                          help="inward instead of outward" if takes == "length" else "rising instead of falling")  # fmt: skip
    return None


def _values_said(formula: Any, given: Mapping[str, Any]) -> str:
    names = sorted(names_in(formula))
    return f" with {', '.join(f'{n} = {given[n]:g}' for n in names)}" if names else ""


def _nodes(part: Part, given: Mapping[str, Any]) -> Iterator[Fault]:
    known = {n.name for n in part.nodes} | {START}
    cases = {c.name for c in part.cases}
    runs = {r.called for r in part.runs}
    targets = {t.name for t in part.targets} | {GROUND}
    for i, node in enumerate(part.nodes):
        for slot in RULES[node.kind].slots:
            value = node.slots.get(slot.name, "")
            where = {"node": i, "slot": slot.name}
            if value == "":
                continue
            if slot.is_formula:
                error = _formula(part, value, slot.takes, given, f"{slot.name} of {node.name}")
                if error:
                    yield Fault(where, error)
            elif slot.takes == "node" and value not in known:
                yield Fault(where, InputError("unknown-node", node=node.name, missing=value))
            elif slot.takes == "run" and value not in runs:
                yield Fault(where, InputError("unknown-run", node=node.name, missing=value))
            elif slot.takes == "target" and value not in targets:
                yield Fault(where, InputError("unknown-target", node=node.name, missing=value))
        for missing in set(node.cases) - cases:
            yield Fault({"node": i, "slot": "cases"}, InputError("unknown-case", node=node.name, missing=missing))


def _cases(part: Part, given: Mapping[str, Any]) -> Iterator[Fault]:
    known = {n.name for n in part.nodes} | {START}
    for i, case in enumerate(part.cases):
        for one in (case, *case.also):
            yield from (Fault({"case": i, **f.where}, f.error) for f in _case(part, one, known, given))


def _case(part: Part, case: Case, known: set[str], given: Mapping[str, Any]) -> Iterator[Fault]:
    nodes, formulas, _ = CASES[case.kind]
    for name in nodes:
        missing = case.at if name == "at" else case.slots.get(name, "")
        if missing not in known:
            yield Fault({"slot": name}, InputError("unknown-node", node=f"case {case.name}", missing=missing))
    for name in formulas:
        if case.slots.get(name, "") != "" and (
            error := _formula(part, case.slots[name], "length", given, f"{name} of {case.name}")
        ):
            yield Fault({"slot": name}, error)
    if case.kind == "choice":
        p = next((p for p in part.parameters if p.name == case.slots["parameter"] and p.kind == "choice"), None)
        if p is None or case.slots["value"] not in p.choices:
            yield Fault(
                {"slot": "parameter"}, InputError("bad-case", case=case.name, reason="it asks for a choice that the part has not")
            )


def _loops(part: Part) -> Iterator[Fault]:
    known = {n.name for n in part.nodes} | {START}
    if part.end not in known:
        yield Fault({"end": part.end}, InputError("part-without-end", part=part.label, end=part.end))
    rows_of = {
        "run": [r.nodes for r in part.runs],
        "area": [a.nodes for a in part.areas],
        "layers": [x.under for x in part.layers],
        "upon": [x.nodes for x in part.upon],
    }
    for what, rows in rows_of.items():
        for i, row in enumerate(rows):
            for missing in set(row) - known:
                yield Fault({what: i}, InputError("unknown-node", node=f"{what} {i + 1}", missing=missing))
    for i, area in enumerate(part.areas):
        if len(set(area.nodes)) < 3:
            yield Fault({"area": i}, InputError("area-open", area=area.name, part=part.label, count=len(set(area.nodes))))


def _upon(part: Part, given: Mapping[str, Any]) -> Iterator[Fault]:
    known = {GROUND, *(t.name for t in part.targets if t.kind == "surface")}
    for i, x in enumerate(part.upon):
        if x.target not in known:
            yield Fault(
                {"upon": i}, InputError("bad-upon", part=part.label, reason=f"'{x.target}' is no surface that it asks for")
            )
        if len(x.nodes) < 2:
            yield Fault({"upon": i}, InputError("bad-upon", part=part.label, reason="it needs a row of at least two nodes"))
        if error := _formula(part, x.allowed, "length", given, x.taken_off):
            yield Fault({"upon": i}, error)


def _checks(part: Part, given: Mapping[str, Any]) -> Iterator[Fault]:
    for i, check in enumerate(part.checks):
        for formula in (check.value, check.least):
            if error := _formula(part, formula, "share", given, check.label):
                yield Fault({"check": i}, error)


def _along(part: Part) -> Iterator[Fault]:
    numbers = {p.name for p in part.parameters if isinstance(p.value, int | float)}
    cases = {c.name for c in part.cases}
    for along in part.along:
        for missing in sorted({along.over, *along.values} - numbers):
            yield Fault(
                {},
                InputError("unknown-parameter", expression=f"{along.kind} over {along.over}", missing=missing, part=part.label),
            )
        for missing in sorted(set(along.cases) - cases):
            yield Fault({}, InputError("unknown-case", node=f"what runs out over {along.over}", missing=missing))
