"""Run check cases and compare: numbers within the case's tolerance, texts and truths exactly, null where nothing is."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ..errors import IvoryRidgeError
from .adapters import ADAPTERS

__all__ = ["Outcome", "differences", "run_cases"]


@dataclass(slots=True)
class Outcome:
    passed: int = 0
    failed: list[str] = field(default_factory=list)
    not_covered: dict[str, list[str]] = field(default_factory=dict)


def run_cases(cases: list[dict[str, Any]]) -> Outcome:
    """Every case of a kind the core covers is run; an error of ours is a failed case, not an end of the run."""
    out = Outcome()
    for case in cases:
        kind = case["inputs"]["kind"]
        if kind not in ADAPTERS:
            out.not_covered.setdefault(kind, []).append(case["id"])
            continue
        try:
            got = ADAPTERS[kind]({k: v for k, v in case["inputs"].items() if k != "kind"})
        except (IvoryRidgeError, ArithmeticError, ValueError, LookupError, TypeError) as error:
            out.failed.append(f"{case['id']}: got {type(error).__name__} ({error}), expected {case['expected']}")
            continue
        wrong = differences(got, case["expected"], case["tolerance"])
        if wrong:
            out.failed.append(f"{case['id']}: " + "; ".join(wrong))
        else:
            out.passed += 1
    return out


def differences(got: Any, expected: Any, tolerance: dict[str, Any], name: str = "") -> list[str]:
    """What differs, each as 'name: got ..., expected ...'; only the expected keys are compared."""
    told = f"{name or 'value'}: got {got!r}, expected {expected!r}"
    if expected is None or isinstance(expected, str | bool):
        return [] if got == expected and type(got) is type(expected) else [told]
    if isinstance(expected, dict):
        if not isinstance(got, dict):
            return [told]
        return [
            d
            for k, v in expected.items()
            for d in differences(got.get(k), v, _for_field(tolerance, k), f"{name}.{k}".lstrip("."))
        ]
    if isinstance(expected, list):
        if not isinstance(got, list | tuple) or len(got) != len(expected):
            return [told]
        return [d for i, v in enumerate(expected) for d in differences(got[i], v, tolerance, f"{name}[{i}]")]
    if not isinstance(got, int | float) or isinstance(got, bool) or got != got:
        return [told]
    limit = tolerance["rel"] * abs(expected) if "rel" in tolerance else tolerance.get("abs", 0.0)
    return [] if abs(got - expected) <= limit else [told]


def _for_field(tolerance: dict[str, Any], key: str) -> dict[str, Any]:
    own = tolerance.get("per_field", {})
    return {"abs": own[key]} if key in own else tolerance
