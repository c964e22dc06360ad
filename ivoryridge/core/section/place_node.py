"""From a place in the drawing to a rule, and from a dragged node to the numbers of its rule."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from .formula import evaluate_formula, names_in
from .part import Node, Parameter
from .rules import ALIASES, RULES

__all__ = ["Moved", "moved_node", "rule_for"]

_STEEP = 0.125  # a fall above it is read as 1 in n, below it in per cent; common practice, no source
_UPRIGHT = 0.02  # m across within which a node stands upright over or under another one
_SAME = 0.04  # m; a height so near to that of a node beside it is meant to be the same


def rule_for(
    since: str, across: float, up: float, *, on_ground: bool, beside: Sequence[Mapping[str, Any]] = ()
) -> dict[str, Any]:
    """The rule of a node put ``across`` m outward and ``up`` m above another one, with values as a person would type them.

    ``on_ground``: it was put on the ground line. ``beside``: rows of nodes there are; an upright step as high as one of theirs, but for
    a few centimetres, takes that one's quantity.
    """
    sense = "rise" if up > 0 else "fall"
    way = "outward" if across >= 0 else "inward"
    wide, high = abs(across), abs(up)
    if on_ground and wide > _UPRIGHT:
        slope = _slope_text(high / wide)
        return {"kind": "slope_until_surface", "from": since, "sense": sense, "slope": slope, "crossing": "first", "within": 40.0,
                "within_from": "hinge"}  # fmt: skip
    if wide <= _UPRIGHT or (wide < 0.25 and high > wide):
        return {"kind": "across_and_up", "from": since, "across": 0.0 if wide <= _UPRIGHT else _round(wide, 0.01), "way": way,
                "up": _same_height(high, beside), "sense": sense}  # fmt: skip
    if high / wide > _STEEP:
        return {"kind": "slope_until_level", "from": since, "way": way, "slope": _slope_text(high / wide), "sense": sense,
                "change": _round(high, 0.05)}  # fmt: skip
    return {"kind": "across_at_slope", "from": since, "across": _round(wide, 0.05), "way": way, "slope": _slope_text(high / wide),
            "sense": sense}  # fmt: skip


def _same_height(high: float, beside: Sequence[Mapping[str, Any]]) -> str | float:
    for row in reversed(beside):
        rule = row["rule"]
        if rule["kind"] == "across_and_up" and not rule["across"]:
            held = rule["up"]
            if isinstance(held, int | float) and abs(held - high) <= _SAME:
                return held
    return _round(high, 0.01 if high < 0.5 else 0.05)


def _round(value: float, step: float) -> float:
    return round(max(round(value / step) * step, step if value > 0 else 0.0), 6)


def _slope_text(slope: float) -> str:
    if slope <= _STEEP:
        return f"{round(200 * slope) / 2:g} %"
    n = 1 / slope
    return f"1 in {round(n * 4) / 4 if n >= 0.375 else max(round(n * 20) / 20, 0.05):g}"


# --- a node dragged --------------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True)
class Moved:
    """What a drag changes: ``slots`` of the node's rule, and ``values`` of parameters that stand alone in a slot."""

    slots: dict[str, Any] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)


def moved_node(
    node: Node,
    across: float,
    up: float,
    shift: float,
    parameters: Mapping[str, Parameter],
    values: Mapping[str, Any],
    path: tuple[float, float] = (0.0, 0.0),
) -> Moved:
    """The numbers of a node's rule after it was dragged so that it lies ``across`` m outward and ``up`` m above the node it starts from.

    ``shift`` m: how much it was lifted; ``path``: across and up of the node at the other end of a part of a way. A slot that holds a
    number, or a parameter alone (also in ``1 in n``), takes the new quantity, rounded; any other formula stays as it is.
    """
    made = _Made(node, parameters, values)
    wide, high = abs(across), abs(up)
    slope = high / wide if wide > 1e-6 else 0.0
    match node.kind:
        case "across_at_slope":
            made.put("across", wide)
            made.word("way", "outward" if across >= 0 else "inward")
            made.put("slope", slope)
            made.word("sense", "rise" if up > 0 else "fall")
        case "across_and_up":
            made.put("across", wide if wide > _UPRIGHT else 0.0)
            made.word("way", "outward" if across >= -_UPRIGHT else "inward")
            made.put("up", high)
            made.word("sense", "rise" if up > 0 else "fall")
        case "slope_until_level":
            made.put("slope", slope)
            made.word("way", "outward" if across >= 0 else "inward")
            made.put("change", high)
            made.word("sense", "rise" if up > 0 else "fall")
        case "slope_until_surface" if across > 1e-3:
            made.put("slope", slope)
            made.word("sense", "rise" if up > 0 else "fall")
        case "crossing" if wide > 1e-3:
            made.put("slope", slope)
            made.word("sense", "rise" if up * across > 0 else "fall")
        case "angle_and_length":
            made.put("angle_deg", math.degrees(math.atan2(up, max(wide, 1e-9))))
            made.word("way", "outward" if across >= 0 else "inward")
            made.put("length", math.hypot(across, up))
        case "part_way":
            far = path[0] ** 2 + path[1] ** 2
            if far > 1e-9:
                made.put("share", (across * path[0] + up * path[1]) / far)
        case "on_surface" | "parallel":
            sign = 1.0 if made.said("sense") == "rise" else -1.0
            gap = sign * float(evaluate_formula(node.slots["gap"], values)) + shift
            made.put("gap", abs(gap))
            made.word("sense", "rise" if gap > 0 else "fall")
    return Moved(made.slots, made.changed)


_STEPS = {"length": 0.05, "share": 0.01, "angle": 1.0}


class _Made:
    def __init__(self, node: Node, parameters: Mapping[str, Parameter], values: Mapping[str, Any]) -> None:
        self.node, self.parameters, self.values = node, parameters, values
        self.slots: dict[str, Any] = {}
        self.changed: dict[str, float] = {}

    def said(self, slot: str) -> str:
        held = str(self.node.slots.get(slot, "fall"))
        chosen = self.values.get(held)
        said = chosen if isinstance(chosen, str) else held
        return ALIASES.get(said, said)

    def word(self, slot: str, word: str) -> None:
        """A word that stands in the rule itself; one that a choice parameter says stays that parameter's."""
        known = RULES[self.node.kind].slot(slot)
        assert known is not None
        held = self.node.slots.get(slot, known.usual)
        if held in known.words and held != word:
            self.slots[slot] = word

    def put(self, slot: str, quantity: float) -> None:
        known = RULES[self.node.kind].slot(slot)
        assert known is not None
        held = self.node.slots[slot]
        if not names_in(held):
            self.slots[slot] = _like(held, quantity, known.takes)
            return
        alone = re.fullmatch(r"(?:1\s*(?:in|:|/)\s*)?([^\W\d]\w*)\s*(°|deg)?", str(held).strip())
        parameter = self.parameters.get(alone.group(1)) if alone else None
        if alone is None or parameter is None or parameter.kind in ("choice", "structure"):
            return
        inverse = str(held).strip().startswith("1")
        value = quantity
        if inverse:
            value = 1 / quantity if quantity > 1e-6 else parameter.greatest
        elif alone.group(2) and known.takes == "slope":
            value = math.degrees(math.atan(quantity))
        step = {"percent": 0.001, "one_in": 0.05, "degrees": 1.0, "number": 0.01}.get(parameter.kind, 0.05)
        if parameter.kind == "height" and quantity < 0.5:
            step = 0.01
        kept = min(max(round(round(value / step) * step, 6), parameter.least), parameter.greatest)
        self.changed[parameter.name] = kept


def _like(held: str | float, quantity: float, takes: str) -> str | float:
    """A quantity written as the one it takes the place of was: in per cent, 1 in n, degrees, or as a number."""
    text = str(held)
    if takes == "slope":
        if "°" in text or "deg" in text:
            return f"{round(math.degrees(math.atan(quantity))):g}°"
        if isinstance(held, str) or quantity > _STEEP:
            steep = quantity > _STEEP if not re.match(r"\s*1\s*(in|:|/)", text) else quantity > 1e-6
            return _slope_text(quantity) if not steep else f"1 in {_nice(1 / quantity):g}"
        return round(round(quantity, 3), 6)
    step = _STEPS[takes]
    if takes == "length" and quantity < 0.5:
        step = 0.01
    return round(round(quantity / step) * step, 6)


def _nice(n: float) -> float:
    return round(n * 20) / 20 if n < 2 else round(n * 4) / 4 if n < 20 else float(round(n))
