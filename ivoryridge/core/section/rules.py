"""The rules that place a node: their slots, what each takes, and the sentence it is read as. Said once, here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

__all__ = ["ALIASES", "GROUND", "RULES", "Rule", "Slot", "rules_told"]

GROUND = "ground"  # the target that needs no binding

# words that mean the same in a slot: a carriageway falls "outward" or "inward"
ALIASES = {"outward": "fall", "inward": "rise"}

_WAY = {"outward": "outward", "inward": "back inward"}
_SENSE = {"rise": "rising", "fall": "falling"}
_UP = {"rise": "up", "fall": "down"}
_BESIDE = {"rise": "above", "fall": "below"}
_CROSSING = {"first": "first", "last": "last"}
_ARRIVING = {"above": "above", "below": "below"}  # else from above where it falls or is level, from below where it rises
_WITHIN_FROM = {"hinge": "the hinge", "centre": "the centre", "node": "that node"}


@dataclass(frozen=True, slots=True)
class Slot:
    """A place in a rule's sentence.

    takes : "node", "length", "slope", "share", "angle" (all three formulas), "word", "target", "line", "run"
    words : of a word slot, what is kept and how it is read
    usual : what holds where it is left empty; None where it must be filled
    """

    name: str
    takes: str
    words: Mapping[str, str] = field(default_factory=dict)
    usual: str | None = None

    @property
    def is_formula(self) -> bool:
        return self.takes in ("length", "slope", "share", "angle")


@dataclass(frozen=True, slots=True)
class Rule:
    """``sentence``: places in braces are slots; what stands in square brackets is left out while its slots are empty."""

    kind: str
    about: str
    sentence: str
    slots: tuple[Slot, ...]

    def of(self, *takes: str) -> tuple[str, ...]:
        """Names of the slots that take one of these."""
        return tuple(s.name for s in self.slots if s.takes in takes)

    def slot(self, name: str) -> Slot | None:
        return next((s for s in self.slots if s.name == name), None)


_FROM = Slot("from", "node")
_WAY_SLOT = Slot("way", "word", _WAY, "outward")


def _sense(said: Mapping[str, str] = _SENSE, name: str = "sense") -> Slot:
    return Slot(name, "word", said)


RULES: dict[str, Rule] = {r.kind: r for r in (
    Rule("across_at_slope", "so far across, at a slope", "from {from}, {across} {way}, {sense} at {slope}",
         (_FROM, Slot("across", "length"), _WAY_SLOT, _sense(), Slot("slope", "slope"))),
    Rule("across_and_up", "so far across and up or down", "from {from}, {across} {way} and {up} {sense}",
         (_FROM, Slot("across", "length"), _WAY_SLOT, Slot("up", "length"), _sense(_UP))),
    Rule("slope_until_level", "at a slope, until the level has changed", "from {from}, {way}, {sense} at {slope} until the level has "
         "changed by {change}", (_FROM, _WAY_SLOT, _sense(), Slot("slope", "slope"), Slot("change", "length"))),
    Rule("slope_until_surface", "at a slope, until it meets something", "from {from}, {sense} at {slope} until it meets {target}"
         "[ from {arriving}] at the {crossing} crossing[ within {within} of {within_from}]",
         (_FROM, _sense(), Slot("slope", "slope"), Slot("target", "target", usual=GROUND), Slot("crossing", "word", _CROSSING),
          Slot("arriving", "word", _ARRIVING, ""), Slot("within", "length", usual=""), Slot("within_from", "word", _WITHIN_FROM, "hinge"))),
    Rule("crossing", "where two slopes cross", "where {slope} {sense} from {from} crosses {other_slope} {other_sense} from {other}",
         (_FROM, Slot("slope", "slope"), _sense(), Slot("other", "node"), Slot("other_slope", "slope"), _sense(name="other_sense"))),
    Rule("part_way", "part of the way between two nodes", "{share} of the way from {from} to {to}",
         (Slot("share", "share"), _FROM, Slot("to", "node"))),
    Rule("angle_and_length", "at an angle, so long", "from {from}, {way} at {angle_deg} to the horizontal, {length} long",
         (_FROM, _WAY_SLOT, Slot("angle_deg", "angle"), Slot("length", "length"))),
    Rule("on_line", "on a followed line", "from {from}, to the followed line {line}", (_FROM, Slot("line", "line"))),
    Rule("on_surface", "above or below a surface", "{gap} {sense} {target}, at the offset of {from}",
         (Slot("gap", "length"), _sense(_BESIDE), Slot("target", "target", usual=GROUND), _FROM)),
    Rule("parallel", "parallel to a run", "{gap} {sense} the run {run}, at the offset of {from}",
         (Slot("gap", "length"), _sense(_BESIDE), Slot("run", "run"), _FROM)),
)}  # fmt: skip


def rules_told() -> list[dict[str, Any]]:
    """All rules as plain values for the page."""
    return [
        {"kind": r.kind, "about": r.about, "sentence": r.sentence,
         "slots": [{"name": s.name, "takes": s.takes, "words": dict(s.words), "usual": s.usual} for s in r.slots]}
        for r in RULES.values()
    ]  # fmt: skip
