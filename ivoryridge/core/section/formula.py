"""Formulas of a part's slots: numbers with their units, parameters, arithmetic, choices. A small grammar of our own.

::

    choice  = "if" sum ("<" | "<=" | ">" | ">=" | "=") sum "then" choice "else" choice | sum
    sum     = product { ("+" | "-") product }
    product = signed { ("*" | "/" | ":" | "in") signed }          1 in 4 and 1:4 are 1/4
    signed  = { "-" | "+" } ended
    ended   = atom [ "%" | "°" | "deg" | "m" | "cm" | "mm" | "ft" ]   30° is the slope of that angle
    atom    = number | name | ("least" | "greatest" | "abs" | "root") "(" choice { "," choice } ")" | "(" choice ")"
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from ..errors import InputError
from ..units import FOOT

__all__ = ["RESERVED", "Formula", "evaluate_formula", "in_other_length", "names_in", "read_formula"]

RESERVED = ("least", "greatest", "abs", "root", "if", "then", "else", "in", "deg")  # no parameter may be called so
LONGEST = 200  # characters; a quantity is a short thing
DEEPEST = 20  # brackets and choices within one another

_TOKEN = re.compile(r"\s*(?:(\d+(?:\.\d*)?(?:[eE][+-]?\d+)?|\.\d+)|([^\W\d]\w*)|(<=|>=|[-+*/:<>=(),%°;]))")
_LENGTHS = {"m": 1.0, "cm": 0.01, "mm": 0.001, "ft": FOOT}
_TIMES = {"*": "*", "/": "/", ":": "/", "in": "/"}
_COMPARE: dict[str, Callable[[Any, Any], Any]] = {
    "<": np.less, "<=": np.less_equal, ">": np.greater, ">=": np.greater_equal, "=": np.equal,
}  # fmt: skip
_OF_ONE: dict[str, Callable[[Any], Any]] = {"abs": np.abs, "root": np.sqrt}  # root: the square root, NaN below nothing
_JOIN: dict[str, Callable[[Any, Any], Any]] = {"+": np.add, "-": np.subtract, "*": np.multiply, "/": np.divide}


@dataclass(frozen=True, slots=True)
class Formula:
    """A node of the tree: ``kind`` is number, name, an operator, a function, "if", "%" or "deg"; ``args`` what it is made of."""

    kind: str
    args: tuple[Any, ...]

    def parts(self) -> Iterator[Formula]:
        yield self
        for a in self.args:
            if isinstance(a, Formula):
                yield from a.parts()


class _Reader:
    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens: list[tuple[str, int]] = []
        at = 0
        while at < len(text.rstrip()):
            found = _TOKEN.match(text, at)
            if found is None:
                at += len(text[at:]) - len(text[at:].lstrip())
                raise self.wrong(f"'{text[at]}' has no meaning here", at)
            token = next(g for g in found.groups() if g)
            self.tokens.append((token, found.end() - len(token)))
            at = found.end()
        self.i = 0
        self.depth = 0

    def wrong(self, reason: str, at: int | None = None) -> InputError:
        place = "" if at is None else f" (character {at + 1})"
        return InputError("bad-expression", expression=self.text, reason=reason + place)

    @property
    def now(self) -> str:
        return self.tokens[self.i][0] if self.i < len(self.tokens) else ""

    def take(self, *wanted: str) -> str:
        token = self.now
        if token in wanted and token:
            self.i += 1
            return token
        return ""

    def expect(self, wanted: str, after: str) -> None:
        if not self.take(wanted):
            what = f"'{self.now}' stands where '{wanted}' belongs" if self.now else f"'{wanted}' is missing"
            raise self.wrong(f"{what} after {after}", self.tokens[self.i][1] if self.now else None)

    def whole(self) -> Formula:
        if not self.tokens:
            raise self.wrong("it is empty")
        found = self.choice()
        if self.now:
            hint = "; write decimals with a point" if self.now in ",;" else ""
            raise self.wrong(f"'{self.now}' does not belong here{hint}", self.tokens[self.i][1])
        return found

    def deeper(self) -> None:
        self.depth += 1
        if self.depth > DEEPEST:
            raise self.wrong(f"its brackets and choices lie more than {DEEPEST} deep")

    def choice(self) -> Formula:
        if not self.take("if"):
            return self.sum()
        self.deeper()
        left = self.sum()
        compare = self.take(*_COMPARE)
        if not compare:
            raise self.wrong("'if' needs a comparison with <, <=, >, >= or =")
        right = self.sum()
        self.expect("then", "the comparison")
        yes = self.choice()
        self.expect("else", "'then'")
        no = self.choice()
        self.depth -= 1
        return Formula("if", (compare, left, right, yes, no))

    def sum(self) -> Formula:
        found = self.product()
        while sign := self.take("+", "-"):
            found = Formula(sign, (found, self.product()))
        return found

    def product(self) -> Formula:
        found = self.signed()
        while sign := self.take(*_TIMES):
            found = Formula(_TIMES[sign], (found, self.signed()))
        return found

    def signed(self) -> Formula:
        minus = False
        while sign := self.take("-", "+"):
            minus ^= sign == "-"
        found = self.ended()
        return Formula("minus", (found,)) if minus else found

    def ended(self) -> Formula:
        found = self.atom()
        if self.take("%"):
            return Formula("%", (found,))
        if self.take("°", "deg"):
            return Formula("deg", (found,))
        if found.kind == "number" and (unit := self.take(*_LENGTHS)):
            return Formula("number", (found.args[0] * _LENGTHS[unit], "length"))
        return found

    def atom(self) -> Formula:
        if self.take("("):
            self.deeper()
            found = self.choice()
            self.expect(")", "what is in brackets")
            self.depth -= 1
            return found
        token, at = self.tokens[self.i] if self.now else ("", len(self.text))
        if not token:
            raise self.wrong("it is not complete")
        self.i += 1
        if token[0].isdigit() or token[0] == ".":
            return Formula("number", (float(token),))
        if token in ("least", "greatest", *_OF_ONE):
            return self.function(token)
        if token in RESERVED or not (token[0].isalpha() or token[0] == "_"):
            raise self.wrong(f"'{token}' does not belong here", at)
        return Formula("name", (token,))

    def function(self, name: str) -> Formula:
        self.expect("(", name)
        self.deeper()
        args = [self.choice()]
        while self.take(",", ";"):
            args.append(self.choice())
        self.expect(")", f"the values of {name}")
        self.depth -= 1
        if (len(args) == 1) != (name in _OF_ONE):
            raise self.wrong(f"{name} takes {'one value' if name in _OF_ONE else 'two values or more'}")
        return Formula(name, tuple(args))


@lru_cache(maxsize=8192)  # the same few quantities are read for every node of every trial
def read_formula(text: str) -> Formula:
    """The tree of a formula. Raises InputError with what stands where it cannot be read."""
    if len(text) > LONGEST:
        raise InputError("bad-expression", expression=text[:40] + "…", reason=f"it is longer than {LONGEST} characters")
    return _Reader(text).whole()


def evaluate_formula(formula: str | float, values: Mapping[str, Any], *, part: str = "", angle: bool = False) -> Any:
    """A number, or an array over stations where a parameter is one; NaN or infinite where it divides by nothing.

    ``angle``: the slot takes an angle in degrees, so that 30° stays 30; elsewhere it is the slope of that angle.
    Raises InputError for what cannot be read, an unknown name, a choice where a number belongs.
    """
    if isinstance(formula, int | float):
        return float(formula)
    try:
        found = _reading(formula, angle)(values)
    except _NoNumber as error:
        name = error.args[0]
        if name not in values:
            raise InputError("unknown-parameter", expression=formula, missing=name, part=part) from None
        raise InputError("bad-expression", expression=formula, reason=f"'{name}' is a choice of words, not a number") from None
    return found if isinstance(found, np.ndarray) and found.ndim else float(found)


class _NoNumber(Exception):
    """A name for which there is no number; its only argument."""


Reading = Callable[[Mapping[str, Any]], Any]
_QUIET = ("number", "name", "minus", "%", "abs")  # they cannot divide by nothing, nor grow beyond all numbers


@lru_cache(maxsize=8192)
def _reading(formula: str, angle: bool) -> Reading:
    """What finds a formula's value from the parameters'."""
    tree = read_formula(formula)
    read = _reading_of(tree, angle)
    if all(f.kind in _QUIET for f in tree.parts()):
        return read

    def silent(values: Mapping[str, Any]) -> Any:
        with np.errstate(all="ignore"):
            return read(values)

    return silent


def _reading_of(f: Formula, angle: bool) -> Reading:
    def of(part: Formula) -> Reading:
        return _reading_of(part, angle)

    match f.kind:
        case "number":
            number = f.args[0]
            return lambda values: number
        case "name":
            return _named(f.args[0])
        case "minus":
            inner = of(f.args[0])
            return lambda values: np.negative(inner(values))
        case "%":
            inner = of(f.args[0])
            return lambda values: np.divide(inner(values), 100.0)
        case "deg":
            inner = of(f.args[0])
            return inner if angle else lambda values: np.tan(np.radians(inner(values)))
        case "abs" | "root":
            inner, one = of(f.args[0]), _OF_ONE[f.kind]
            return lambda values: one(inner(values))
        case "least" | "greatest":
            several, all_of = [of(a) for a in f.args], np.minimum if f.kind == "least" else np.maximum
            return lambda values: all_of.reduce(np.broadcast_arrays(*(a(values) for a in several)))
        case "if":
            return _choice(_COMPARE[f.args[0]], *(of(a) for a in f.args[1:]))
    left, right, join = of(f.args[0]), of(f.args[1]), _JOIN[f.kind]
    return lambda values: join(left(values), right(values))


def _named(name: str) -> Reading:
    def read(values: Mapping[str, Any]) -> Any:
        value = values.get(name, "")
        if isinstance(value, str):
            raise _NoNumber(name)
        return value

    return read


def _choice(compare: Callable[[Any, Any], Any], left: Reading, right: Reading, yes: Reading, no: Reading) -> Reading:
    def read(values: Mapping[str, Any]) -> Any:
        a, b = left(values), right(values)
        chosen = np.where(compare(a, b), yes(values), no(values))
        return np.where(np.isfinite(a) & np.isfinite(b), chosen, np.nan)

    return read


def names_in(formula: str | float) -> set[str]:
    """The parameters a formula uses."""
    if isinstance(formula, int | float):
        return set()
    return {f.args[0] for f in read_formula(formula).parts() if f.kind == "name"}


# --- lengths in another unit ----------------------------------------------------------------------------------
def in_other_length(formula: str | float, factor: float, lengths: set[str], *, is_length: bool) -> str | float:
    """A formula whose bare lengths are written in another unit: each becomes ``factor`` times what it was.

    ``lengths``: names of the parameters that are lengths, whose values change of themselves; ``is_length``: what the formula gives.
    A number with its unit written beside it stays what it is.
    """
    if isinstance(formula, int | float):
        return formula * factor if is_length else formula
    if factor == 1.0:
        return formula
    return _written(_scaled(read_formula(formula), factor, lengths, is_length))


def _is_length(f: Formula, lengths: set[str]) -> bool:
    """Whether a formula gives a length of itself, by the parameters and units in it."""
    if f.kind == "name":
        return f.args[0] in lengths
    if f.kind == "number":
        return len(f.args) == 2
    if f.kind in ("%", "deg", "root"):
        return False
    if f.kind == "/":
        return _is_length(f.args[0], lengths) and not _is_length(f.args[1], lengths)
    args = f.args[3:] if f.kind == "if" else f.args
    return any(_is_length(a, lengths) for a in args)


def _scaled(f: Formula, k: float, lengths: set[str], wanted: bool) -> Formula:
    if f.kind == "number":
        return Formula("number", (f.args[0] * k,)) if wanted and len(f.args) == 1 else f
    if f.kind == "name":
        return f if not wanted or f.args[0] in lengths else Formula("*", (f, Formula("number", (k,))))
    if f.kind == "if":
        compare, a, b, yes, no = f.args
        over = _is_length(a, lengths) or _is_length(b, lengths)
        return Formula("if", (compare, *(_scaled(x, k, lengths, over) for x in (a, b)),
                              *(_scaled(x, k, lengths, wanted) for x in (yes, no))))  # fmt: skip
    if f.kind in ("%", "deg"):
        return f
    if f.kind == "root":  # of a number: the root of an area would be a length, which nothing here gives
        return Formula("root", (_scaled(f.args[0], k, lengths, False),))
    if f.kind in ("*", "/"):
        a, b = f.args
        if f.kind == "/":
            both = _is_length(a, lengths) or _is_length(b, lengths)
            if not wanted:  # a ratio of two lengths, or plain numbers
                return Formula("/", (_scaled(a, k, lengths, both), _scaled(b, k, lengths, both)))
            return Formula("/", (_scaled(a, k, lengths, True), _scaled(b, k, lengths, False)))
        left = wanted and (_is_length(a, lengths) or not _is_length(b, lengths))
        return Formula("*", (_scaled(a, k, lengths, left), _scaled(b, k, lengths, wanted and not left)))
    return Formula(f.kind, tuple(_scaled(a, k, lengths, wanted) for a in f.args))


def _written(f: Formula) -> str:
    """A tree as text again."""
    match f.kind:
        case "number":
            length = len(f.args) == 2  # it named its unit
            return f"{f.args[0]:.10g}" + (" m" if length else "")
        case "name":
            return str(f.args[0])
        case "minus":
            return f"-({_written(f.args[0])})"
        case "%":
            return f"({_written(f.args[0])}) %" if f.args[0].kind != "number" else f"{f.args[0].args[0]:.10g} %"
        case "deg":
            return f"({_written(f.args[0])})°" if f.args[0].kind != "number" else f"{f.args[0].args[0]:.10g}°"
        case "if":
            compare, *rest = f.args
            a, b, yes, no = (_written(x) for x in rest)
            return f"if {a} {compare} {b} then {yes} else {no}"
        case "least" | "greatest" | "abs" | "root":
            return f"{f.kind}({', '.join(_written(a) for a in f.args)})"
    a, b = f.args
    left, right = _written(a), _written(b)
    if a.kind in ("+", "-", "if") and f.kind in ("*", "/"):
        left = f"({left})"
    if b.kind in ("+", "-", "*", "/", "if", "minus") and not (f.kind == "+" and b.kind in ("*", "/")):
        right = f"({right})"
    return f"{left} {f.kind} {right}"
