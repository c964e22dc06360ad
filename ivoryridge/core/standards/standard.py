"""A design standard: a table of limits by design speed, read from a data file."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from types import MappingProxyType
from typing import Any

from ..errors import FormatError, InputError
from ..units import LINEAR_UNITS

__all__ = ["SpeedZones", "Standard", "built_in_standards", "standard_from_toml"]

KMH = {"km/h": 1.0, "mph": 1.609344}
# what is a length, or grows with one, and so is turned into metres; K is a length per percent
_LENGTHS = {
    "sight", "sight_least", "radius", "radius_desirable", "radius_one_step", "crest_k", "crest_k_desirable", "sag_k", "passing_sight",
    "passing_k", "transition_below", "transition_desirable", "vertical_length", "drainage_k", "least_shift", "greatest_shift", "jerk",
    "small_deflection_length", "eye_height", "object_height", "small_deflection_step", "broken_back",
}  # fmt: skip
_SPEEDS = {"speed", "running_speed"}
_PER_SPEED = {"curve_length_per_speed", "vertical_length_per_speed"}


@dataclass(frozen=True, slots=True, eq=False)
class Standard:
    """Limits by speed, in m and km/h whatever the file's units. ``status`` says whether an office has checked the values.

    rows : by increasing speed; each maps a limit's name to its value
    rules : values that hold for every speed
    clauses : a limit's name -> where it is printed
    """

    id: str
    name: str
    source: str
    status: str
    kind: str
    rows: tuple[Mapping[str, float], ...]
    rules: Mapping[str, float] = field(default_factory=dict)
    clauses: Mapping[str, str] = field(default_factory=dict)

    def at(self, speed: float) -> Mapping[str, float]:
        """The row for a design speed in km/h: the first that is not slower. Faster than all is refused."""
        for row in self.rows:
            if row["speed"] >= speed - 0.5:
                return row
        raise InputError("speed-beyond", speed=speed, limit=self.rows[-1]["speed"], name=self.name)

    def where(self, limit: str) -> str:
        return f"{self.clauses[limit]}" if limit in self.clauses else self.source


@dataclass(frozen=True, slots=True)
class SpeedZones:
    """Design speeds in km/h along a road: ``speeds[i]`` from ``stations[i]`` (m) on; the first from the start."""

    stations: tuple[float, ...]
    speeds: tuple[float, ...]

    def over(self, station_from: float, station_to: float) -> float:
        """The greatest design speed on a stretch, km/h."""
        ends = (*self.stations[1:], float("inf"))
        there = [v for a, b, v in zip(self.stations, ends, self.speeds, strict=True) if b > station_from and a < station_to]
        return max(there, default=self.speeds[0])

    def at(self, station: float) -> float:
        return self.over(station, station + 1e-9)


def standard_from_toml(text: str, name: str) -> Standard:
    """A standard from the text of a data file. Raises FormatError with what is missing."""
    try:
        data = tomllib.loads(text)
        metre, kmh = LINEAR_UNITS[{"m": "meter", "ft": "foot"}[data["length_unit"]]], KMH[data["speed_unit"]]

        def converted(key: str, value: Any) -> float:
            factor = metre if key in _LENGTHS else kmh if key in _SPEEDS else metre / kmh if key in _PER_SPEED else 1.0
            return float(value) * factor

        rows = tuple(
            MappingProxyType({k: converted(k, v) for k, v in row.items()})
            for row in sorted(data["rows"], key=lambda r: float(r["speed"]))
        )
        rules = {k: converted(k, v) for k, v in data.items() if isinstance(v, int | float) and not isinstance(v, bool)}
        if not rows:
            raise KeyError("rows")
        return Standard(
            name, data["name"], data["source"], data["status"], data["kind"], rows, MappingProxyType(rules),
            MappingProxyType(dict(data["clauses"]))
        )  # fmt: skip
    except (tomllib.TOMLDecodeError, KeyError, ValueError, TypeError, AttributeError) as error:
        raise FormatError("standard-broken", name=name, reason=str(error)) from error


@cache
def built_in_standards() -> Mapping[str, Standard]:
    """The data files that ship with the program, by their file name."""
    files = sorted(
        (f for f in (resources.files(__package__) / "sets").iterdir() if f.name.endswith(".toml")), key=lambda f: f.name
    )
    return {f.name[:-5]: standard_from_toml(f.read_text(), f.name[:-5]) for f in files}
