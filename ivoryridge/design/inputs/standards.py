"""The standards that a project may follow: those that ship, and an office's own data files, which win by name."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from django.conf import settings

from ivoryridge.core.errors import InputError
from ivoryridge.core.standards.standard import SpeedZones, Standard, built_in_standards, standard_from_toml

from .road import RoadInputs

__all__ = ["all_standards", "standard_at_hand", "standard_of", "standards_stamp", "zones_of"]


def all_standards() -> dict[str, Standard]:
    """By id. Files in the office's folder are read again when they change."""
    folder = Path(settings.STANDARDS_DIR)
    own = {f.stem: _read(f, f.stat().st_mtime_ns) for f in sorted(folder.glob("*.toml"))} if folder.is_dir() else {}
    return {**built_in_standards(), **own}


def standards_stamp() -> tuple[tuple[str, int], ...]:
    """Changes whenever an office's own file comes, goes or changes."""
    folder = Path(settings.STANDARDS_DIR)
    return tuple((f.name, f.stat().st_mtime_ns) for f in sorted(folder.glob("*.toml"))) if folder.is_dir() else ()


@lru_cache(maxsize=32)
def _read(file: Path, changed: int) -> Standard:
    return standard_from_toml(file.read_text(), file.stem)


def _found(inputs: RoadInputs) -> Standard | None:
    """Asked for several times over in a trial, and the office's folder is looked at each time; inputs are frozen and short-lived."""
    if "_standard" not in inputs.__dict__:
        inputs.__dict__["_standard"] = all_standards().get(inputs.standard)
    return inputs.__dict__["_standard"]


def standard_at_hand(inputs: RoadInputs) -> bool:
    return _found(inputs) is not None


def standard_of(inputs: RoadInputs) -> Standard:
    found = _found(inputs)
    if found is None:
        raise InputError("standard-unknown", name=inputs.standard)
    return found


def zones_of(inputs: RoadInputs) -> SpeedZones:
    """The project's design speed from the start on, then the road's own, each from its station."""
    return SpeedZones((float("-inf"), *(s for s, _ in inputs.speeds)), (inputs.design_speed, *(v for _, v in inputs.speeds)))
