"""The standards that a project may follow: those that ship, and an office's own data files, which win by name."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from django.conf import settings

from ivoryridge.core.errors import InputError
from ivoryridge.core.standards.checks import DesignFinding, SightLane, check_levels, check_line, check_sight, sight_lane
from ivoryridge.core.standards.standard import SpeedZones, Standard, built_in_standards, standard_from_toml
from ivoryridge.core.standards.together import check_together

from .assemble import RoadInputs
from .derive import derived, key_of
from .results import levels_key, levels_of, line_key, line_of

__all__ = ["all_standards", "design_findings", "sight_of", "standard_of"]


def all_standards() -> dict[str, Standard]:
    """By id. Files in the office's folder are read again when they change."""
    folder = Path(settings.STANDARDS_DIR)
    own = {f.stem: _read(f, f.stat().st_mtime_ns) for f in sorted(folder.glob("*.toml"))} if folder.is_dir() else {}
    return {**built_in_standards(), **own}


@lru_cache(maxsize=32)
def _read(file: Path, changed: int) -> Standard:
    return standard_from_toml(file.read_text(), file.stem)


@lru_cache(maxsize=32)
def _fingerprint(standard: Standard) -> str:
    return key_of("standards", standard)


def standard_of(inputs: RoadInputs) -> Standard:
    found = all_standards().get(inputs.standard)
    if found is None:
        raise InputError("standard-unknown", name=inputs.standard)
    return found


def zones_of(inputs: RoadInputs) -> SpeedZones:
    """The project's design speed from the start on, then the road's own, each from its station."""
    return SpeedZones((float("-inf"), *(s for s, _ in inputs.speeds)), (inputs.design_speed, *(v for _, v in inputs.speeds)))


def design_findings(inputs: RoadInputs) -> list[DesignFinding]:
    """What a line, and its levels where there are some, say against the standard; accepted departures are among them."""
    standard, zones = standard_of(inputs), zones_of(inputs)
    line_told = [line_key(inputs), _fingerprint(standard), inputs.design_speed, inputs.speeds]
    out: list[DesignFinding] = list(
        derived(key_of("standards", line_told), lambda: check_line(line_of(inputs), inputs.pis, standard, zones))
    )
    if len(inputs.pvis) >= 2:
        told = [levels_key(inputs), *line_told[1:], inputs.greatest_grade, inputs.least_k]

        def levels() -> list[DesignFinding]:
            now = levels_of(inputs)
            limits = {"greatest_grade": inputs.greatest_grade, "least_k": inputs.least_k}
            lane = sight_lane(now.profile, standard, zones)
            seen = check_sight(lane, standard, zones) if lane else []
            together = check_together(line_of(inputs), inputs.pis, now.profile, now.pvis, standard, zones)
            return check_levels(now.profile, now.pvis, standard, zones, **limits) + seen + together

        out += derived(key_of("standards", told), levels)
    return out


def sight_of(inputs: RoadInputs) -> SightLane | None:
    """What a driver sees along the road, against what the standard asks for; None where either is lacking."""
    if len(inputs.pvis) < 2:
        return None
    return sight_lane(levels_of(inputs).profile, standard_of(inputs), zones_of(inputs))
