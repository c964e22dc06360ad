"""Sentences with quantities in them, worded in the units that a project speaks.

A sentence is kept as a text with named places and its numbers, always in metres and km/h; it becomes words at the rim. A place says
what its number is and how many decimals it has: ``{radius:m.2}`` is a length with its unit, ``{start:bare.2}`` one whose unit
follows later in the sentence, ``{speed:kmh.0}`` a speed, ``{start:ch.2}`` a station read as a chainage. ``g`` instead of decimals
writes as few digits as tell it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from string import Formatter
from typing import Any

from .units import FOOT, US_SURVEY_FOOT, format_station

__all__ = [
    "FEET", "METRES", "UNITS", "US_FEET", "Units", "Words", "chainage", "counting", "quantity", "say", "speak", "speaking", "spoken",
    "words",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class Units:
    """What a project writes lengths, speeds, areas and volumes in. ``metre``: metres in one unit of length; ``kmh``: km/h in one of
    speed."""

    name: str
    length: str
    metre: float
    speed: str
    kmh: float
    far: str
    far_metres: float
    volume: str
    volume_cubes: float
    acre: float = 1.0  # ha in one unit of land
    group: int = 1000  # units of length that a chainage counts before its +, 1000 or 100

    def per(self, kind: str) -> tuple[float, str]:
        """What a number in SI is divided by, and the unit that is written."""
        return {
            "m": (self.metre, self.length), "bare": (self.metre, ""), "k": (self.metre, ""), "kmh": (self.kmh, self.speed),
            "km": (self.far_metres / 1000.0, self.far), "m2": (self.metre**2, f"{self.length}²"),
            "m3": (self.volume_cubes, self.volume), "ha": (self.acre, "ha" if self.acre == 1.0 else "ac"),
        }[kind]  # fmt: skip


METRES = Units("m", "m", 1.0, "km/h", 1.0, "km", 1000.0, "m³", 1.0)
FEET = Units("ft", "ft", FOOT, "mph", 1.609344, "mi", 1609.344, "yd³", 27 * FOOT**3, 0.40468564224)
US_FEET = Units("us-ft", "ft", US_SURVEY_FOOT, "mph", 1.609344, "mi", 1609.344, "yd³", 27 * US_SURVEY_FOOT**3, 0.40468726)
UNITS = {u.name: u for u in (METRES, FEET, US_FEET)}
_KINDS = ("m", "bare", "k", "kmh", "km", "m2", "m3", "ha")

_spoken: ContextVar[Units] = ContextVar("units", default=METRES)
_count: ContextVar[Callable[[float], float]] = ContextVar("count", default=float)


def spoken() -> Units:
    """The units that sentences are worded in now."""
    return _spoken.get()


def speak(units: Units) -> None:
    """Word sentences in these units from now on, in this context."""
    _spoken.set(units)


@contextmanager
def speaking(units: Units) -> Iterator[None]:
    token = _spoken.set(units)
    try:
        yield
    finally:
        _spoken.reset(token)


@contextmanager
def counting(count: Callable[[float], float]) -> Iterator[None]:
    """Read stations, m, as the chainages, m, that ``count`` makes of them: by the equations of the road that is spoken of."""
    token = _count.set(count)
    try:
        yield
    finally:
        _count.reset(token)


def chainage(station: float, decimals: int) -> str:
    """A station, m, as its chainage in the spoken units: 1+240.00."""
    units = _spoken.get()
    return format_station(_count.get()(station) / units.metre, group=units.group, decimals=decimals)


def quantity(value: float, kind: str, decimals: int | str = "g") -> str:
    """A number in SI (m, m2, m3, km/h, km) as text in the spoken units, e.g. ``quantity(12.3, "m", 2)``."""
    per, unit = _spoken.get().per(kind)
    told = float(value) / per
    text = f"{told:.6g}" if decimals == "g" else f"{told:.{decimals}f}"
    return f"{text} {unit}" if unit else text


class _Wording(Formatter):
    def format_field(self, value: Any, format_spec: str) -> str:
        kind, _, decimals = format_spec.partition(".")
        if kind in _KINDS:
            return quantity(value, kind, "g" if decimals == "g" else int(decimals))
        if kind == "ch":
            return chainage(value, int(decimals))
        if isinstance(value, Words):
            return value.said()
        return str(super().format_field(value, format_spec))


_WORDING = _Wording()


def say(text: str, params: Mapping[str, Any]) -> str:
    """A text with its places filled, in the spoken units."""
    return _WORDING.vformat(text, (), params)


@dataclass(frozen=True, slots=True)
class Words:
    """A text with named places and its numbers, not yet worded. Two of them follow one another with ``+``."""

    text: str
    params: Mapping[str, Any] = field(default_factory=dict)
    after: tuple[Words, ...] = ()

    def said(self) -> str:
        return say(self.text, self.params) + "".join(w.said() for w in self.after)

    def __add__(self, other: Words | str) -> Words:
        more = other if isinstance(other, Words) else Words("{said}", {"said": other})
        return Words(self.text, self.params, (*self.after, more))

    def __str__(self) -> str:
        return self.said()


def words(text: str, /, **params: Any) -> Words:
    return Words(text, params)
