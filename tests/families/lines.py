"""Random realistic lines and what a surveyor measures of them: the family that line fits are held against."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import PI, HorizontalAlignment, alignment_from_pis
from ivoryridge.core.errors import InputError

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Measured:
    """A line, and points measured along it: spacing and scatter (m), and which points are gross errors."""

    pis: tuple[PI, ...]
    line: HorizontalAlignment
    points: Floats
    spacing: float
    noise: float
    gross: NDArray[np.bool_]

    @property
    def radii(self) -> list[float]:
        return [p.radius for p in self.pis[1:-1]]


def random_line(rng: np.random.Generator) -> tuple[tuple[PI, ...], HorizontalAlignment]:
    """2 to 8 bends with R 60 to 2000 m: with and without transitions, compound, reverse with and without a straight between."""
    while True:
        pis = _pis(rng)
        try:
            line = alignment_from_pis(pis)
        except InputError:
            continue
        if line.end_station < 6000:
            return pis, line


def _pis(rng: np.random.Generator) -> tuple[PI, ...]:
    count = int(rng.integers(2, 9))
    azimuth, place = rng.uniform(0, 2 * np.pi), np.array([412_000.0, 687_000.0])
    rows = [PI(*place.tolist())]
    sense = int(rng.choice([-1, 1]))
    out_before = rng.uniform(60, 250)  # straight before the bend, then tangent of the one before
    joined = False
    for i in range(count):
        radius = float(np.exp(rng.uniform(np.log(60), np.log(2000))))
        while joined and 0.75 < radius / rows[-1].radius < 1.33:  # nearly alike ones are one bend to anybody
            radius = float(np.exp(rng.uniform(np.log(60), np.log(2000))))
        turn = rng.uniform(np.radians(8), np.radians(min(100, 45_000 / radius)))
        turn = max(turn, 35 / radius)
        lengths = [0.0, 0.0]
        if rng.uniform() < 0.6:
            longest = min(0.7 * radius * turn, radius, 120.0)
            if longest > 20:
                both = rng.uniform(20, longest)
                lengths = [both, both if rng.uniform() < 0.7 else float(rng.uniform(20, longest))]
        if joined:
            lengths = [0.0, 0.0]
        compound = i + 1 < count and rng.uniform() < 0.12 and not joined
        if compound:
            lengths = [0.0, 0.0]
        tangent = radius * np.tan(turn / 2) + 0.6 * max(lengths)
        place = place + (out_before + tangent) * np.array([np.sin(azimuth), np.cos(azimuth)])
        rows.append(PI(*place.tolist(), radius, *lengths))
        azimuth += sense * turn
        if compound:  # the next arc begins where this one ends, on the same side
            rows[-1] = PI(*place.tolist(), radius)
            out_before, joined = radius * np.tan(turn / 2), True
        else:
            touching = i + 1 < count and rng.uniform() < 0.15
            out_before, joined = tangent + (0.5 if touching else float(rng.uniform(40, 300))), False
            sense = -sense if rng.uniform() < 0.65 or touching else sense
    place = place + (out_before + 60) * np.array([np.sin(azimuth), np.cos(azimuth)])
    return (*rows, PI(*place.tolist()))


def measured(rng: np.random.Generator) -> Measured:
    """Points every 5 to 40 m (with jitter) with 5 to 50 mm of scatter and 2 % gross errors of 0.3 to 5 m."""
    while True:
        pis, line = random_line(rng)
        spacing = float(rng.uniform(5, 40))
        shortest = min(_arc_lengths(line, len(pis)))
        if shortest / spacing >= 3:  # three points on the shortest arc; fewer tell no radius to anybody
            break
    noise = float(rng.uniform(0.005, 0.050))
    steps = spacing * rng.uniform(0.7, 1.3, int(line.end_station / spacing) + 2)
    s = np.cumsum(steps)
    s = np.concatenate([[0.0], s[s < line.end_station]])
    place = line.evaluate(s)[0] + rng.normal(0, noise, (len(s), 2))
    gross = rng.uniform(size=len(s)) < 0.02
    way = rng.uniform(0, 2 * np.pi, len(s))
    place[gross] += (rng.uniform(0.3, 5.0, len(s))[:, None] * np.stack([np.sin(way), np.cos(way)], axis=-1))[gross]
    return Measured(pis, line, place, spacing, noise, gross)


def _arc_lengths(line: HorizontalAlignment, count: int) -> list[float]:
    arcs = [line.length[i] for i in range(len(line.length)) if line.kind(i) == "Curve"]
    return [float(a) for a in arcs] or [0.0]


def verdict(m: Measured, fit: Any) -> str:
    """right: as many bends and every radius within 2 %; doubted: what is off is told; wrong otherwise."""
    radii = m.radii
    found = [b.radius for b in fit.bends]
    off = len(found) != len(radii) or any(abs(a - b) > 0.02 * b for a, b in zip(found, radii, strict=False))
    if not off:
        return "right"
    return "doubted" if getattr(fit, "doubts", ()) else "wrong"
