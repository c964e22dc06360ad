"""Real use: nothing starts without a secret and hosts of its own."""

from __future__ import annotations

import os
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.parametrize(
    ("secret", "hosts", "told"),
    [("", "roads.example.org", "Set IVORY_SECRET"), ("x" * 60, "", "Set IVORY_HOSTS"), ("x" * 60, "*", "Set IVORY_HOSTS")],
)
def test_serve_refuses_to_start_insecurely(secret: str, hosts: str, told: str, tmp_path: Path) -> None:
    environment = {**os.environ, "IVORY_SECRET": secret, "IVORY_HOSTS": hosts, "IVORY_DATA": str(tmp_path)}
    done = subprocess.run([str(ROOT / "ivory"), "serve"], cwd=ROOT, env=environment, capture_output=True, text=True, timeout=120)
    assert done.returncode == 1
    assert done.stderr.splitlines()[-1].startswith(f"Not started: {told}") and "Traceback" not in done.stderr
    assert not list(tmp_path.iterdir())
