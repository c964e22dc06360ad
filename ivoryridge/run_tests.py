"""Every check in one run: ruff, mypy, import-linter, the types of answers, eslint, vue-tsc, vitest, pytest; closes with the counts."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent


def checks(long: bool, extra: list[str]) -> list[tuple[str, list[str], Path]]:
    web = ROOT / "web"
    marker = [] if long else ["-m", "not long"]
    return [
        ("ruff", [str(BIN / "ruff"), "check", "."], ROOT),
        ("ruff format", [str(BIN / "ruff"), "format", "--check", "-q", "."], ROOT),
        ("mypy", [str(BIN / "mypy"), "--no-error-summary"], ROOT),
        ("import-linter", [str(BIN / "lint-imports"), "--no-cache"], ROOT),
        (
            "types of answers",
            [
                "sh",
                "-c",
                f"{sys.executable} -m ivoryridge.api.describe node_modules/.api.json && npx --no-install openapi-typescript "
                f"node_modules/.api.json -o src/api/generated.ts --default-non-nullable=false --check",
            ],
            web,
        ),
        ("prettier", ["npx", "--no-install", "prettier", "--check", "src/**/*.ts"], web),
        ("eslint", ["npm", "run", "-s", "lint"], web),
        ("vue-tsc", ["npm", "run", "-s", "types"], web),
        ("vitest", ["npm", "run", "-s", "test"], web),
        ("pytest", [sys.executable, "-m", "pytest", "-n", "2", "--dist", "loadgroup", *marker, *extra], ROOT),
    ]


def main(arguments: list[str]) -> int:
    long = "--long" in arguments
    passed, failed = 0, 0
    for name, command, where in checks(long, [a for a in arguments if a != "--long"]):
        began = time.monotonic()
        done = subprocess.run(command, cwd=where, capture_output=True, text=True, env={**os.environ, "PYTHONPATH": str(ROOT)})
        text = done.stdout + done.stderr
        ok, bad = _counts(name, text, done.returncode)
        passed, failed = passed + ok, failed + bad
        print(f"{name}: {'ok' if done.returncode == 0 else 'FAILED'} ({time.monotonic() - began:.0f} s)", flush=True)
        if done.returncode or name == "pytest":
            print(text[-12000:], flush=True)
    print(f"{passed} passed, {failed} failed")
    return 1 if failed else 0


def _counts(name: str, text: str, code: int) -> tuple[int, int]:
    """Passed and failed: the runner's own counts for tests, one for a static check."""
    if name in ("pytest", "vitest"):
        line = next(
            (ln for ln in reversed(text.splitlines()) if re.search(r"\d+ (passed|failed|error)", ln) and "Files" not in ln), ""
        )
        numbers = {word: int(n) for n, word in re.findall(r"(\d+) (passed|failed|error)", re.sub(r"\x1b\[[0-9;]*m", "", line))}
        bad = numbers.get("failed", 0) + numbers.get("error", 0)
        return numbers.get("passed", 0), bad if bad or code == 0 else 1
    return (1, 0) if code == 0 else (0, 1)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
