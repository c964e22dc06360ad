"""What steps on a part are made of: the table of them, names, and what goes with nodes that are gone."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from typing import Any

from ..errors import InputError
from .formula import RESERVED
from .part import START

__all__ = ["STEPS", "Data", "free_name", "good_name", "keep_nodes", "node_names", "step", "unfit"]

Data = dict[str, Any]
STEPS: dict[str, tuple[Callable[..., None], str]] = {}  # name of a step -> what does it, and what the ledger says
_NAME = re.compile(r"[^\W\d]\w{0,39}")


def unfit(data: Mapping[str, Any], reason: str) -> InputError:
    return InputError("edit-unfit", part=data.get("label", ""), reason=reason)


def step(do: str, text: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    def keep(function: Callable[..., None]) -> Callable[..., None]:
        STEPS[do] = (function, text)
        return function

    return keep


def good_name(data: Data, name: str, what: str) -> str:
    name = "_".join(str(name).split())
    if not _NAME.fullmatch(name):
        raise unfit(data, f"'{name[:40]}' is no name; use letters, digits and _, beginning with a letter, 40 at most")
    if name in RESERVED or name == START:
        raise InputError("name-taken", name=name, what=what, part=data["label"])
    return name


def free_name(names: set[str], stem: str) -> str:
    return next(n for n in (stem, *(f"{stem}_{i}" for i in range(2, 1000))) if n not in names)


def node_names(data: Data) -> set[str]:
    return {n["name"] for n in data["nodes"]} | {START}


def keep_nodes(data: Data, kept: set[str]) -> None:
    """What hangs on nodes that are gone goes with them: their places in runs, runs of one node, areas."""
    for r in data["runs"]:
        r["nodes"] = [n for n in r["nodes"] if n in kept]
    data["runs"] = [r for r in data["runs"] if len(r["nodes"]) > 1]
    data["areas"] = [a for a in data["areas"] if set(a["nodes"]) <= kept]
    if "upon" in data:
        data["upon"] = [x for x in data["upon"] if set(x["nodes"]) <= kept]
