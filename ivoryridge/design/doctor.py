"""What is wrong with an installation, each thing as a sentence that says what helps."""

from __future__ import annotations

import re
import shutil
import sqlite3
import stat
import sys
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path

from django.conf import settings
from django.core import checks
from django.db import DatabaseError, connections
from django.db.migrations.executor import MigrationExecutor

from ivoryridge.core.errors import IvoryRidgeError

from .inputs.standards import all_standards
from .jobs import SILENT_AFTER, worker_silent

__all__ = ["Told", "examine"]

LEAST_PYTHON = (3, 11)
LEAST_ROOM = 2.0  # GB; a project with a million points and its results take about one


@dataclass(frozen=True, slots=True)
class Told:
    """One thing that was looked at: what it is about, whether it is well, and a sentence."""

    about: str
    well: bool
    said: str


def examine() -> list[Told]:
    """Everything that can be looked at without changing anything. What cannot even be looked at is wrong, too."""
    looks: list[tuple[str, Callable[[], Iterator[str]]]] = [
        ("Python", _python), ("packages", _packages), ("page", _page), ("settings", _settings), ("data folder", _folder),
        ("room on disk", _room), ("data base", _data_base), ("schema", _schema), ("derived results", _derived),
        ("standards", _standards), ("worker", _worker),
    ]  # fmt: skip
    out = []
    for about, look in looks:
        try:
            wrong = list(look())
        except (OSError, sqlite3.Error, DatabaseError) as error:
            wrong = [f"It cannot be looked at: {error}."]
        out += [Told(about, False, said) for said in wrong] or [Told(about, True, "well")]
    return out


def _python() -> Iterator[str]:
    if sys.version_info < LEAST_PYTHON:
        yield f"Python {sys.version.split()[0]} runs this; 3.11 or newer is needed. Install one, delete .venv, and run ./ivory again."


def _packages() -> Iterator[str]:
    lock = settings.ROOT / "requirements.lock"
    if not lock.is_file():
        yield "requirements.lock is missing, so it cannot be told which packages belong here. Get the program anew."
        return
    for name, wanted in re.findall(r"^([A-Za-z0-9._-]+)(?:\[[^\]]*\])?==([^ \\]+)", lock.read_text(), re.MULTILINE):
        try:
            there = version(name)
        except PackageNotFoundError:
            yield f"The package {name} {wanted} is missing. Run ./ivory demo or ./ivory serve once with a network."
            continue
        if there != wanted:
            yield f"The package {name} is {there}; {wanted} belongs here. Delete .venv and run ./ivory again."


def _page() -> Iterator[str]:
    if not (settings.WEB_DIST / "index.html").is_file():
        yield "The page is not built. Run ./ivory demo or ./ivory serve once; Node 20 or newer is needed for it."


def _settings() -> Iterator[str]:
    if settings.MODE == "demo":
        return
    for found in checks.run_checks(include_deployment_checks=settings.MODE == "serve"):
        if found.level >= checks.WARNING and found.id not in settings.SILENCED_SYSTEM_CHECKS:
            yield f"{found.msg} {found.hint or ''}".strip()


def _folder() -> Iterator[str]:
    folder = Path(settings.DATA)
    if not folder.is_dir():
        yield f"{folder} is not there. Set IVORY_DATA to the folder that holds the data, or start once so that it is made."
        return
    probe = folder / ".doctor"
    try:
        probe.touch()
        probe.unlink()
    except OSError as error:
        yield f"{folder} cannot be written to ({error.strerror}). Give it to the account that runs the program."
    for file in sorted(folder.glob("*.sqlite3*")):
        mode = stat.S_IMODE(file.stat().st_mode)
        if mode & 0o077:
            yield f"{file.name} can be read by others ({mode:o}). Set it to 600: chmod 600 {file}"


def _room() -> Iterator[str]:
    folder = Path(settings.DATA)
    free = shutil.disk_usage(folder if folder.is_dir() else folder.parent).free / 1e9
    if free < LEAST_ROOM:
        yield (
            f"{free:.1f} GB are free where the data lie; {LEAST_ROOM:.0f} GB should be. Make room; nothing is lost when it runs out, but "
            "nothing more is taken either."
        )


def _data_base() -> Iterator[str]:
    file = Path(str(connections["default"].settings_dict["NAME"]))
    if not file.is_file():
        yield f"{file.name} is not there. Start the program once, or bring a copy back with ./ivory restore FILE."
        return
    broken: list[tuple[str, int, str, int]] = []
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as base:
            found = base.execute("PRAGMA quick_check").fetchone()[0]
            broken = base.execute("PRAGMA foreign_key_check").fetchmany(5)
    except sqlite3.DatabaseError as error:
        found = str(error)
    if found != "ok":
        yield f"{file.name} is damaged: {found}. Bring the newest copy back with ./ivory restore FILE."
    for table, row, parent, _ in broken:
        yield f"Row {row} of {table} names a row of {parent} that is not there. Bring the newest copy back, or ask for help with this line."


def _schema() -> Iterator[str]:
    for name in ("default", "derived"):
        executor = MigrationExecutor(connections[name])
        waiting = executor.migration_plan(executor.loader.graph.leaf_nodes())
        if waiting:
            yield f"{len(waiting)} changes of the schema wait for {name}. They are made at the next start, after a copy of the data."
        unknown = set(executor.loader.applied_migrations) - set(executor.loader.graph.nodes)
        ours = sorted(m for app, m in unknown if app == "design")
        if ours:
            yield f"The data were written by a newer version of the program ({ours[-1]}). Install that one."


def _derived() -> Iterator[str]:
    file = Path(str(connections["derived"].settings_dict["NAME"]))
    if file.is_file():
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as base:
            found = base.execute("PRAGMA quick_check").fetchone()[0]
        if found != "ok":
            yield f"{file.name} is damaged. Stop the program and delete it; all in it is computed anew."


def _standards() -> Iterator[str]:
    try:
        all_standards()
    except IvoryRidgeError as error:
        yield f"{error.sentence} Mend the file in {settings.STANDARDS_DIR}, or take it away."


def _worker() -> Iterator[str]:
    silent = worker_silent()
    if silent is None:
        yield "No worker ever ran here, so large files wait. Start the program with ./ivory, which starts one."
    elif silent > SILENT_AFTER:
        yield f"The worker was last seen {silent / 60:.0f} minutes ago, so large files wait. Start the program with ./ivory."
