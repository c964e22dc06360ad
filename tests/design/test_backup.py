"""Copies of the data: taken while somebody writes, looked at, put back."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import threading
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
Run = Callable[..., "subprocess.CompletedProcess[str]"]


@pytest.fixture
def run(tmp_path: Path) -> Run:
    environment = {**os.environ, "IVORY_MODE": "demo", "IVORY_DATA": str(tmp_path / "data"), "PYTHONPATH": str(ROOT)}
    (tmp_path / "data").mkdir()

    def manage(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "ivoryridge.manage", *words], cwd=ROOT, env=environment, capture_output=True, text=True
        )

    for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"], ["load_demo"]):
        assert manage(*command).returncode == 0
    return manage


def acts(file: Path) -> int:
    with closing(sqlite3.connect(file)) as base:
        return int(base.execute("SELECT count(*) FROM design_ledgerentry").fetchone()[0])


def test_a_copy_taken_while_somebody_writes_is_whole_computes_and_comes_back(run: Run, tmp_path: Path) -> None:
    live, copy = tmp_path / "data" / "ivoryridge.sqlite3", tmp_path / "copy.sqlite3"
    before, over = acts(live), threading.Event()

    def write() -> None:
        with closing(sqlite3.connect(live, timeout=30)) as base:
            while not over.wait(0.01):
                base.execute("UPDATE design_project SET head = head + 1")
                base.commit()

    writer = threading.Thread(target=write)
    writer.start()
    try:
        told = run("backup", str(copy))
    finally:
        over.set()
        writer.join()
    assert told.returncode == 0 and f"1 projects, 15 roads, {before} acts; Link computes, 270 sections." in told.stdout, (
        told.stderr
    )
    assert acts(copy) == before and copy.stat().st_mode & 0o777 == 0o600 and not list(tmp_path.glob("*.part"))
    with closing(sqlite3.connect(live)) as base:
        base.execute("DELETE FROM design_ledgerentry")
        base.commit()
    back = run("restore", str(copy))
    assert back.returncode == 0 and "What was there is kept as" in back.stdout, back.stderr
    assert acts(live) == before and acts(next((tmp_path / "data").glob("*before-restore*"))) == 0


def test_what_cannot_be_put_back_is_said_and_what_is_there_stays(run: Run, tmp_path: Path) -> None:
    live = tmp_path / "data" / "ivoryridge.sqlite3"
    before = live.read_bytes()
    (tmp_path / "text.sqlite3").write_text("no data base at all, but a text that is long enough to be looked at" * 40)
    with closing(sqlite3.connect(tmp_path / "other.sqlite3")) as other:
        other.execute("CREATE TABLE t (x)")
        other.commit()
    whole = live.read_bytes()
    (tmp_path / "cut.sqlite3").write_bytes(whole[: len(whole) // 2])
    for name, said in (("text", "no data base"), ("other", "something else"), ("cut", "damaged"), ("none", "There is no file")):
        told = run("restore", str(tmp_path / f"{name}.sqlite3"))
        assert told.returncode == 1 and said in told.stderr, (name, told.stderr)
    (tmp_path / "data" / "worker.sign").touch()
    assert "Stop ./ivory first" in run("restore", str(live)).stderr
    assert live.read_bytes() == before
    assert "is not there" in run("backup", str(tmp_path / "nowhere" / "x.sqlite3")).stderr
