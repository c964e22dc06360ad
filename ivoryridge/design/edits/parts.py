"""Steps on a part as a person gives them: lengths in the project's unit become metres."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.formula import in_other_length
from ivoryridge.core.section.part import LENGTHS
from ivoryridge.core.section.rules import RULES
from ivoryridge.core.wording import spoken

__all__ = ["steps_in_metres"]


def steps_in_metres(steps: Sequence[Mapping[str, Any]], data: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The steps with every bare length in m. What the drawing gives (``by`` of a new node, steps that say ``metres``) is so already.

    ``data``: the part as saved; rules and parameters that an earlier step of the same row makes are taken as they are.
    """
    k = spoken().metre
    lengths = {p["name"] for p in data.get("parameters", ()) if p["kind"] in LENGTHS}
    plain = [({n: v for n, v in s.items() if n != "metres"}, bool(s.get("metres"))) for s in steps]
    return [s if k == 1.0 or kept else _step(s, data, lengths, k) for s, kept in plain]


def _formula(value: Any, k: float, lengths: set[str], is_length: bool) -> Any:
    try:
        return in_other_length(value, k, lengths, is_length=is_length) if value != "" else value
    except InputError:
        return value  # the step itself says what cannot be read


def _step(step: dict[str, Any], data: Mapping[str, Any], lengths: set[str], k: float) -> dict[str, Any]:
    nodes = data.get("nodes", ())
    if (
        step.get("do") == "set slot"
        and isinstance(step.get("node"), int)
        and step["node"] < len(nodes)
        and not step.pop("metres", False)
    ):
        slot = RULES[nodes[step["node"]]["rule"]["kind"]].slot(str(step.get("slot")))
        if slot is not None and slot.is_formula:
            step["value"] = _formula(step.get("value", ""), k, lengths, slot.takes == "length")
    elif step.get("do") in ("set parameter", "add parameter"):
        kind = step.get("kind") or next((p["kind"] for p in data.get("parameters", ()) if p["name"] == step.get("parameter")), "")
        for key in ("value", "least", "greatest"):
            if kind in LENGTHS and isinstance(step.get(key), int | float):
                step[key] *= k
    elif step.get("do") in ("add case", "set case") and isinstance(step.get("case"), Mapping):
        step["case"] = {n: _formula(v, k, lengths, True) if n in ("least", "greatest") else v for n, v in step["case"].items()}
    elif step.get("do") == "add check":
        step |= {n: _formula(step[n], k, lengths, True) for n in ("value", "least") if n in step}
    return step
