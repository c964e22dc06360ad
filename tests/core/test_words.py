"""Errors and findings reach people as sentences: every code used has one, and is given all its numbers. And the check cases."""

from __future__ import annotations

import ast
import json
import string
import subprocess
import sys
from pathlib import Path

import pytest

from ivoryridge.core.check_cases.run import differences, run_cases
from ivoryridge.core.errors import SENTENCES
from ivoryridge.core.findings import FINDING_SENTENCES
from ivoryridge.core.units import dms_from_degrees, format_station

ROOT = Path(__file__).resolve().parents[2]
ERRORS = {"InputError", "FormatError", "NoSolutionError", "ConvergenceError"}


def raised() -> list[tuple[str, str, set[str]]]:
    """(file, code, keyword names) of every error made in core and design."""
    out = []
    for path in [*(ROOT / "ivoryridge/core").rglob("*.py"), *(ROOT / "ivoryridge/design").rglob("*.py")]:
        for node in ast.walk(ast.parse(path.read_text())):
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Name)
                and node.func.id in ERRORS
                and node.args
                and isinstance(node.args[0], ast.Constant)
            ):
                out.append((path.name, str(node.args[0].value), {k.arg or "" for k in node.keywords}))
    return out


def fields(sentence: str) -> set[str]:
    return {name for _, name, _, _ in string.Formatter().parse(sentence) if name}


def test_every_error_has_its_sentence_and_all_its_numbers() -> None:
    found = raised()
    assert len(found) > 40
    for file, code, given in found:
        assert code in SENTENCES, f"{file}: {code}"
        assert fields(SENTENCES[code]) <= given | {"where"}, f"{file}: {code} lacks {fields(SENTENCES[code]) - given}"


def test_every_finding_has_its_sentence() -> None:
    codes = set()
    for path in (ROOT / "ivoryridge").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call):
                continue
            texts = [a.value if isinstance(a, ast.Constant) and isinstance(a.value, str) else "" for a in node.args[:2]]
            named = isinstance(node.func, ast.Name) and node.func.id in ("Finding", "span")
            if named or (texts and texts[0] in ("note", "doubt", "fault")):  # however it is made, it says how grave it is
                codes |= {t for t in texts if "-" in t}
    assert len(codes) > 60 and codes <= set(FINDING_SENTENCES)


def test_public_check_cases_pass() -> None:
    """tests/reference/check_cases.json: each case names its source; kinds of later stages are not covered yet."""
    cases = json.loads((ROOT / "tests/reference/check_cases.json").read_text())
    outcome = run_cases(cases)
    assert outcome.failed == []
    assert outcome.passed >= 105


def test_public_check_cases_of_the_next_stages_pass() -> None:
    cases = json.loads((ROOT / "tests/reference/check_cases_2.json").read_text())
    outcome = run_cases([c for c in cases if c["inputs"]["kind"] in ("part_solve", "template_areas", "bench_areas")])
    assert outcome.failed == [] and not outcome.not_covered
    assert outcome.passed >= 10


def test_a_wrong_value_is_found_and_the_command_says_so(tmp_path: Path) -> None:
    cases = json.loads((ROOT / "tests/reference/check_cases.json").read_text())
    case = next(c for c in cases if c["id"] == "A-CIRC-01")
    case["expected"]["T"] += 0.02
    file = tmp_path / "cases.json"
    file.write_text(json.dumps([case, {"id": "Z", "inputs": {"kind": "nowhere"}, "expected": 1, "tolerance": {"abs": 0}}]))
    done = subprocess.run(
        [sys.executable, "-m", "ivoryridge.core.check_cases", str(file)], cwd=ROOT, capture_output=True, text=True
    )
    assert done.returncode == 1
    assert "A-CIRC-01: T: got 210.37" in done.stdout and "not covered: nowhere (Z)" in done.stdout
    assert done.stdout.splitlines()[-1] == "0 passed, 1 failed, 1 not covered"


def test_comparison_takes_nothing_for_granted() -> None:
    tight = {"abs": 1e-6}
    assert (
        differences(None, 5.0, tight)
        and differences(float("nan"), 5.0, tight)
        and differences(True, 1, tight)
        and differences(1, True, tight)
    )
    assert differences([1.0], [1.0, 2.0], tight) and differences({"a": 1}, {"b": 1}, tight)
    assert not differences({"R": 5.009}, {"R": 5.0}, {"abs": 1e-6, "per_field": {"R": 0.01}})


@pytest.mark.parametrize(
    ("value", "text"), [(1249.9996, "1+250.000"), (-0.0004, "0+000.000"), (-12.5, "-0+012.500"), (999.9999, "1+000.000")]
)
def test_stations_carry_when_rounded(value: float, text: str) -> None:
    assert format_station(value) == text


def test_no_sixty_seconds() -> None:
    assert dms_from_degrees(59.99999, 0) == (60, 0, 0.0)
