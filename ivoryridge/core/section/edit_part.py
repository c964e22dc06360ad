"""Changes of a part, as data: each takes a part in its data form and gives the changed one; the trial and the act do the same.

A change is a record ``{"do": name, ...}``; ``changed(data, steps)`` does several, ``label_of`` says what was done. Rows are named by
their index, nodes by their name where all their rules are meant.
"""

from __future__ import annotations

import copy
from collections.abc import Mapping, Sequence
from typing import Any

from . import edit_nodes, edit_values  # noqa: F401  their steps enter the table
from .part import START, part_from_dict
from .part_steps import STEPS, Data, unfit

__all__ = ["Data", "changed", "empty_part", "label_of"]


def empty_part(label: str) -> Data:
    """A part of no nodes yet; it ends where it begins."""
    return {"name": "part", "label": label, "end": START, "parameters": [], "nodes": [], "runs": [], "areas": [], "cases": [],
            "targets": [], "checks": [], "along": [], "remark": ""}  # fmt: skip


def changed(data: Mapping[str, Any], steps: Sequence[Mapping[str, Any]]) -> Data:
    """The part after these steps; what was given is left as it is. Raises InputError for a step that does not fit the part."""
    out = {**empty_part(""), **copy.deepcopy(dict(data))}
    for step in steps:
        do = str(step.get("do"))
        if do not in STEPS:
            raise unfit(out, f"there is no change called '{do}'")
        try:
            STEPS[do][0](out, **{k: v for k, v in step.items() if k != "do"})
        except (IndexError, KeyError, TypeError) as error:
            raise unfit(out, f"'{do}' does not name something that is there") from error
    part_from_dict(out)
    return out


def label_of(step: Mapping[str, Any], data: Mapping[str, Any]) -> str:
    """What a step does, for the ledger."""
    text = STEPS[str(step["do"])][1]
    rows = data.get("nodes", ())
    at = step.get("node")
    name = rows[at]["name"] if isinstance(at, int) and at < len(rows) else at or step.get("name") or ""
    return f"{text.format(name=name)} in {data.get('label', 'a part')}"
