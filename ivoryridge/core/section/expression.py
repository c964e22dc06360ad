"""Quantities of a part: numbers, parameters, or expressions of parameters."""

from __future__ import annotations

import ast
import operator
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Any

import numpy as np

from ..errors import InputError

__all__ = ["evaluate_expression", "names_in"]

_BINARY: dict[type[ast.operator], Callable[[Any, Any], Any]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_FUNCTIONS: dict[str, Callable[..., Any]] = {"least": np.minimum, "greatest": np.maximum}
_MAX_LENGTH = 200  # characters; a quantity is a short thing


@lru_cache(maxsize=4096)  # the same few quantities are read for every node of every trial
def _parse(expression: str) -> ast.expr:
    if len(expression) > _MAX_LENGTH:
        raise InputError("bad-expression", expression=expression[:40] + "…", reason=f"it is longer than {_MAX_LENGTH} characters")
    try:
        return ast.parse(expression.strip(), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as error:
        raise InputError("bad-expression", expression=expression, reason="it is not complete") from error


def evaluate_expression(expression: str | float, values: Mapping[str, Any], *, part: str = "") -> Any:
    """A number, or an array over stations where a parameter is one.

    Knows ``+ - * /``, brackets, ``least(a, b)`` and ``greatest(a, b)``; everything else is refused.
    """
    if isinstance(expression, int | float):
        return float(expression)

    def walk(node: ast.expr) -> Any:
        if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and not isinstance(node.value, bool):
            return float(node.value)
        if isinstance(node, ast.Name):
            if node.id not in values:
                raise InputError("unknown-parameter", expression=expression, missing=node.id, part=part)
            return values[node.id]
        if isinstance(node, ast.BinOp) and type(node.op) in _BINARY:
            with np.errstate(divide="ignore", invalid="ignore"):
                left, right = np.asarray(walk(node.left), float), np.asarray(walk(node.right), float)
                return _BINARY[type(node.op)](left, right)
        if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.UAdd):
            inner = walk(node.operand)
            return -inner if isinstance(node.op, ast.USub) else inner
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in _FUNCTIONS and len(node.args) == 2:
            return _FUNCTIONS[node.func.id](walk(node.args[0]), walk(node.args[1]))
        raise InputError("bad-expression", expression=expression, reason="it uses something else")

    return walk(_parse(expression))


def names_in(expression: str | float) -> set[str]:
    """The parameters an expression uses."""
    if isinstance(expression, int | float):
        return set()
    return {n.id for n in ast.walk(_parse(expression)) if isinstance(n, ast.Name)} - set(_FUNCTIONS)
