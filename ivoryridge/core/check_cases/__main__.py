"""``python -m ivoryridge.core.check_cases FILE``: one line for each failed case, kinds not covered, and the counts."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from .run import run_cases


def main(path: str) -> int:
    try:
        cases = json.loads(Path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError) as error:
        print(f"{path} cannot be read as a file of check cases: {error}")
        return 2
    outcome = run_cases(cases)
    for line in outcome.failed:
        print(line)
    for kind, ids in sorted(outcome.not_covered.items()):
        print(f"not covered: {kind} ({', '.join(ids)})")
    print(f"{outcome.passed} passed, {len(outcome.failed)} failed, {sum(map(len, outcome.not_covered.values()))} not covered")
    return 1 if outcome.failed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
