"""An installation that is looked at: well as it is set up, and each thing that goes wrong as a sentence that says what helps."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest
from django.conf import settings

Run = Callable[..., subprocess.CompletedProcess[str]]


@pytest.fixture
def run(tmp_path: Path) -> Run:
    """``manage`` on data of its own that were set up, with a worker that has just been seen."""

    def manage(*command: str, **more: str) -> subprocess.CompletedProcess[str]:
        environment = {**os.environ, "IVORY_MODE": "demo", "IVORY_DATA": str(tmp_path), **more}
        return subprocess.run(
            [sys.executable, "-m", "ivoryridge.manage", *command],
            cwd=settings.ROOT,
            env=environment,
            capture_output=True,
            text=True,
        )

    for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"]):
        assert manage(*command).returncode == 0
    (tmp_path / "worker.sign").touch()
    return manage


def test_what_is_set_up_is_well(run: Run) -> None:
    told = run("doctor")
    assert told.returncode == 0 and told.stdout.rstrip().endswith("All is well."), told.stdout + told.stderr
    assert told.stdout.count("well") >= 12 and "!" not in told.stdout


def _readable(data: Path) -> None:
    (data / "ivoryridge.sqlite3").chmod(0o644)


def _damaged(data: Path) -> None:
    file = data / "ivoryridge.sqlite3"
    with closing(sqlite3.connect(file)) as base:
        base.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    content = bytearray(file.read_bytes())
    content[4096 * 3 : 4096 * 9] = b"x" * (4096 * 6)
    file.write_bytes(content)


def _orphaned(data: Path) -> None:
    with closing(sqlite3.connect(data / "ivoryridge.sqlite3")) as base:
        base.execute(
            "INSERT INTO design_membership (project_id, user_id, role, revision, removed) VALUES (77, 77, 'owner', 1, 0)"
        )
        base.commit()


def _newer(data: Path) -> None:
    with closing(sqlite3.connect(data / "ivoryridge.sqlite3")) as base:
        base.execute("INSERT INTO django_migrations (app, name, applied) VALUES ('design', '9999_later', '2030-01-01')")
        base.commit()


def _older(data: Path) -> None:
    with closing(sqlite3.connect(data / "ivoryridge.sqlite3")) as base:
        base.execute("DELETE FROM django_migrations WHERE name = (SELECT max(name) FROM django_migrations WHERE app = 'design')")
        base.commit()


def _gone(data: Path) -> None:
    (data / "ivoryridge.sqlite3").unlink()


def _standard(data: Path) -> None:
    (data / "standards").mkdir()
    (data / "standards" / "office.toml").write_text("name = [")


def _silent(data: Path) -> None:
    os.utime(data / "worker.sign", (time.time() - 600, time.time() - 600))


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (_readable, "can be read by others (644)"), (_damaged, "is damaged"), (_orphaned, "names a row of"),
        (_newer, "written by a newer version of the program (9999_later)"), (_older, "1 changes of the schema wait"),
        (_gone, "is not there. Start the program once"), (_standard, "Mend the file in"), (_silent, "last seen 10 minutes ago"),
    ],
)  # fmt: skip
def test_each_thing_that_is_wrong_is_said_with_what_helps(
    run: Run, tmp_path: Path, spoil: Callable[[Path], None], words: str
) -> None:
    spoil(tmp_path)
    told = run("doctor")
    assert told.returncode == 1 and words in told.stdout, told.stdout + told.stderr
    assert "Traceback" not in told.stdout + told.stderr
    wrong = [line for line in told.stdout.splitlines() if line.startswith("! ")]
    assert wrong and "to look at." in told.stdout


def test_serving_without_a_secret_or_with_a_short_one_is_named(tmp_path: Path) -> None:
    told = subprocess.run(
        [str(settings.ROOT / "ivory"), "doctor"], cwd=settings.ROOT, capture_output=True, text=True,
        env={**os.environ, "IVORY_MODE": "serve", "IVORY_DATA": str(tmp_path), "IVORY_SECRET": "short"},
    )  # fmt: skip
    assert told.returncode == 1 and told.stderr.startswith("! settings: Set IVORY_SECRET to a random text"), told.stderr
