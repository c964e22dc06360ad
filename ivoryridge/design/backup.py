"""Copies of the data while people work, looked at before they count; and the way back."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings

from .jobs import SILENT_AFTER, worker_silent

__all__ = ["BackupError", "back_up", "computed", "restore"]


class BackupError(Exception):
    """Why there is no copy, or no way back, in a sentence."""


def _data_base(which: str = "default") -> Path:
    return Path(str(settings.DATABASES[which]["NAME"]))


def back_up(target: Path) -> str:
    """Copy the data base as it is at one moment, by SQLite's online backup; tells what the copy holds. An older file of that name stays
    until the new one was looked at."""
    source = _data_base()
    if not source.is_file():
        raise BackupError(f"There is nothing to copy: {source} is not there.")
    if not target.parent.is_dir():
        raise BackupError(f"The folder {target.parent} is not there.")
    part = target.with_name(target.name + ".part")
    try:
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True)) as live, closing(sqlite3.connect(part)) as copy:
            live.backup(copy)  # in one step: one moment, while others go on writing
            copy.execute("PRAGMA journal_mode = DELETE")
        part.chmod(0o600)
        told = _looked_at(part)
        os.replace(part, target)
    except (sqlite3.Error, OSError) as error:
        raise BackupError(f"The copy could not be written: {error}.") from error
    finally:
        part.unlink(missing_ok=True)
    return told


def restore(file: Path) -> str:
    """Put a copy in the place of the data; what was there stays beside it. Refused while the program runs."""
    silent = worker_silent()
    if silent is not None and silent < SILENT_AFTER:
        raise BackupError("The program is running on these data. Stop ./ivory first.")
    if not file.is_file():
        raise BackupError(f"There is no file {file}.")
    told = _looked_at(file)
    place = _data_base()
    aside = place.with_name(f"{place.stem}.before-restore-{datetime.now(UTC):%Y%m%d-%H%M%S}.sqlite3")
    place.parent.mkdir(parents=True, exist_ok=True)
    new = place.with_name(place.name + ".new")
    shutil.copyfile(file, new)
    new.chmod(0o600)
    if place.is_file():
        with closing(sqlite3.connect(place)) as old:
            old.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        os.replace(place, aside)
    for name in (place, _data_base("derived")):
        for end in ("-wal", "-shm"):
            name.with_name(name.name + end).unlink(missing_ok=True)
    _data_base("derived").unlink(missing_ok=True)  # computed anew
    os.replace(new, place)
    return f"{told} What was there is kept as {aside.name}." if aside.is_file() else told


def _looked_at(file: Path) -> str:
    """Whether a copy is whole, and computes. Raises BackupError."""
    try:
        with closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True)) as copy:
            found = copy.execute("PRAGMA integrity_check").fetchone()[0]
            tables = {row[0] for row in copy.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    except sqlite3.Error as error:
        raise BackupError(f"{file.name} is no data base, or a damaged one: {error}.") from error
    if found != "ok":
        raise BackupError(f"{file.name} is damaged: {found}.")
    if "design_project" not in tables:
        raise BackupError(f"{file.name} is a data base of something else.")
    with tempfile.TemporaryDirectory() as data:
        shutil.copyfile(file, Path(data) / _data_base().name)
        environment = {**os.environ, "IVORY_DATA": data}
        done = subprocess.run(
            [sys.executable, "-m", "ivoryridge.manage", "compute_one"],
            env=environment,
            cwd=settings.ROOT,
            capture_output=True,
            text=True,
        )
    if done.returncode:
        raise BackupError(f"{file.name} does not compute: {(done.stderr.strip().splitlines() or ['no reason given'])[-1]}")
    return done.stdout.strip()


def computed() -> str:
    """Compute the first road that has all it needs, and tell what there is."""
    from .inputs.network import assemble_road
    from .models import LedgerEntry, Project, Road
    from .results.corridor import corridor_of, missing_for_corridor

    counts = f"{Project.objects.count()} projects, {Road.objects.count()} roads, {LedgerEntry.objects.count()} acts"
    for road in Road.present.filter(project__removed=False).order_by("pk"):
        inputs = assemble_road(road)
        if not missing_for_corridor(inputs):
            return f"{counts}; {road.name} computes, {len(corridor_of(inputs).station)} sections."
    return f"{counts}; no road has all it needs to be computed."
