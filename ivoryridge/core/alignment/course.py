"""Lines that are not laid out by PIs: kept element by element, or parallel to another line; and their PIs, as near as PIs get."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from ..errors import InputError
from .horizontal import LONGEST, PI, HorizontalAlignment, alignment_from_pis, project_points, sample_stations
from .line_fit import drawn_in

Floats = NDArray[np.float64]

__all__ = [
    "Conversion",
    "convert_to_pis",
    "line_from_elements",
    "line_through",
    "numbered_bends",
    "parallel_line",
    "told_elements",
]

PIECE_TURN = 0.002  # rad that a piece of a transition's parallel turns at most; its place is then right to 1e-6 m
MOST_GAP = 0.01  # m between elements of a received line; more is told
_BEND = 1e-9  # 1/m
_SAME_PLACE = 1e-3  # m


def told_elements(line: HorizontalAlignment) -> list[list[float]]:
    """Elements as plain rows: easting, northing, azimuth (rad), length (m), curvatures at start and end (1/m, + right)."""
    return np.column_stack([line.start, line.azimuth, line.length, line.k0, line.k1]).tolist()


def line_from_elements(rows: Sequence[Sequence[float]], start_station: float = 0.0) -> HorizontalAlignment:
    """A line of elements kept as they came, every one at its own start. Raises InputError where one does not meet the next."""
    table = np.asarray(rows, float).reshape(-1, 6)
    if not len(table) or not np.isfinite(table).all() or (table[:, 3] <= 0).any():
        raise InputError("elements-unusable", count=len(table))
    if table[:, 3].sum() > LONGEST:
        raise InputError("line-too-long", length=float(table[:, 3].sum()) / 1000, limit=LONGEST / 1000)
    line = HorizontalAlignment(
        start=table[:, :2], azimuth=table[:, 2], length=table[:, 3], k0=table[:, 4], k1=table[:, 5],
        pi_of=np.full(len(table), -1), start_station=start_station,
    )  # fmt: skip
    ends = line.evaluate(line.stations[1:-1] - 1e-9)[0] if len(table) > 1 else np.empty((0, 2))
    gaps = np.hypot(*(ends - table[1:, :2]).T)
    if len(gaps) and gaps.max() > MOST_GAP:
        worst = int(np.argmax(gaps))
        raise InputError("elements-apart", first=worst + 1, second=worst + 2, gap=float(gaps[worst]), limit=MOST_GAP)
    return numbered_bends(line)


def line_through(points: Sequence[Sequence[float]], start_station: float = 0.0) -> HorizontalAlignment:
    """Straights through points (E, N) m in order; one at the place of the one before is left out.

    Raises InputError without two places.
    """
    places = np.asarray(points, float).reshape(-1, 2)
    apart = np.hypot(*np.diff(places, axis=0).T) > _SAME_PLACE if len(places) > 1 else np.empty(0, bool)
    places = places[np.concatenate([[True], apart])] if len(places) else places
    if len(places) < 2:
        raise InputError("elements-unusable", count=len(places))
    step = np.diff(places, axis=0)
    azimuth = np.arctan2(step[:, 0], step[:, 1]) % (2 * np.pi)
    length = np.hypot(*step.T)
    nothing = np.zeros(len(step))
    return line_from_elements(np.column_stack([places[:-1], azimuth, length, nothing, nothing]).tolist(), start_station)


def numbered_bends(line: HorizontalAlignment) -> HorizontalAlignment:
    """The line with its bends numbered as PIs from 1: runs of elements that bend one way, a new one at every change of arc."""
    middle = 0.5 * (line.k0 + line.k1)
    pi_of = np.full(len(line.length), -1)
    number, arc = 0, None
    for i, k in enumerate(middle):
        if abs(k) < _BEND:
            arc = None
            continue
        is_arc = abs(line.k1[i] - line.k0[i]) < _BEND
        fresh = i == 0 or pi_of[i - 1] < 0 or np.sign(middle[i - 1]) != np.sign(k) or (is_arc and arc is not None)
        if fresh:
            number, arc = number + 1, None
        pi_of[i] = number
        arc = k if is_arc else arc
    return replace(line, pi_of=pi_of)


def run_against(line: HorizontalAlignment) -> HorizontalAlignment:
    """The same line from its end to its start, counted from the same station."""
    place, azimuth, _ = line.evaluate(line.stations[1:])
    last = int(line.pi_of.max(initial=0))
    leaving = azimuth.copy()
    leaving[:-1] = (
        line.azimuth[:-1] + 0.5 * (line.k0[:-1] + line.k1[:-1]) * line.length[:-1]
    )  # as the element ends, not the next begins
    return HorizontalAlignment(
        start=place[::-1], azimuth=((leaving + np.pi) % (2 * np.pi))[::-1], length=line.length[::-1], k0=-line.k1[::-1], k1=-line.k0[::-1],
        pi_of=np.where(line.pi_of > 0, last + 1 - line.pi_of, line.pi_of)[::-1], start_station=line.start_station,
    )  # fmt: skip


def parallel_line(line: HorizontalAlignment, offset: float, start_station: float | None = None) -> HorizontalAlignment:
    """The line ``offset`` m to the right (+) or left of another, all along.

    A parallel of an arc is an arc; that of a clothoid is none, and stands here as short pieces whose ends lie on the true
    parallel with its true curvature k / (1 - d k). Source: differential geometry of parallel curves, e.g. do Carmo.

    Raises
    ------
    InputError    the offset reaches the centre of a bend on its side, where the parallel would turn back
    """
    sharpest = float(max((offset * line.k0).max(), (offset * line.k1).max()))
    if sharpest >= 1 - 1e-6:
        at = int(np.argmax(np.maximum(offset * line.k0, offset * line.k1)))
        radius = 1 / max(abs(line.k0[at]), abs(line.k1[at]))
        raise InputError("offset-beyond-centre", offset=offset, radius=radius, station=float(line.stations[at]))
    ends = line.stations
    cuts, owner = [], []
    for i, length in enumerate(line.length):
        bends = abs(line.k1[i] - line.k0[i]) > _BEND
        turned = 0.5 * (abs(line.k0[i]) + abs(line.k1[i])) * length
        n = max(int(np.ceil(turned / PIECE_TURN)), 16) if bends else 1
        cuts.append(np.linspace(ends[i], ends[i + 1], n + 1)[:-1])
        owner += [i] * n
    s = np.concatenate([*cuts, ends[-1:]])
    place, azimuth, _ = line.evaluate(s)
    place = place + offset * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1)
    own = np.asarray(owner)
    x0, x1 = s[:-1] - ends[own], s[1:] - ends[own]
    rate = (line.k1[own] - line.k0[own]) / line.length[own]
    k0, k1 = line.k0[own] + rate * x0, line.k0[own] + rate * x1
    length = (x1 - x0) - offset * (x1 - x0) * 0.5 * (k0 + k1)  # m along the parallel: the turn in between times the offset less
    k0, k1 = k0 / (1 - offset * k0), k1 / (1 - offset * k1)
    turned = (azimuth[1:] - azimuth[:-1] + np.pi) % (2 * np.pi) - np.pi
    told = 0.5 * (k0 + k1) * length
    exact = np.where(np.abs(told) > 1e-12, turned / np.where(told == 0, 1.0, told), 1.0)  # every piece turns by just what is true
    return HorizontalAlignment(
        start=place[:-1], azimuth=azimuth[:-1], length=length, k0=k0 * exact, k1=k1 * exact,
        pi_of=line.pi_of[own], start_station=line.start_station if start_station is None else start_station,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Conversion:
    """PIs for a line of elements, the greatest distance (m) between both lines, and the station where it stands."""

    pis: tuple[PI, ...]
    difference: float
    station: float


def convert_to_pis(line: HorizontalAlignment) -> Conversion:
    """PIs whose line follows a line of elements. Exact for straights with arcs and clothoids between them; transitions between
    two arcs are parted in their middle, and the difference says how far that leaves the line.

    Raises InputError for a line that bends at an end of more than PIs can (a bend that turns by half a circle or more).
    """
    bends = [(a, b) for n in range(1, int(line.pi_of.max(initial=0)) + 1) for a, b in runs_of(line.pi_of == n)]
    place, _, _ = line.evaluate(line.stations)
    pis = [PI(float(place[0, 0]), float(place[0, 1]))]
    for a, b in bends:
        into, out = float(line.azimuth[a]), float(line.evaluate(line.stations[b + 1] - 1e-9)[1][0])
        d1, d2 = (np.array([np.sin(h), np.cos(h)]) for h in (into, out))
        cross = d1[0] * d2[1] - d1[1] * d2[0]
        if abs(cross) < 1e-6:
            raise InputError("no-pi", station=float(line.stations[a]))
        gap = place[b + 1] - place[a]
        t = float((gap[0] * d2[1] - gap[1] * d2[0]) / cross)
        if t < 0:
            raise InputError("no-pi", station=float(line.stations[a]))
        at = place[a] + t * d1
        inner = slice(a, b + 1)
        sharp = float(np.maximum(np.abs(line.k0[inner]), np.abs(line.k1[inner])).max())
        arcs = np.abs(line.k1[inner] - line.k0[inner]) < _BEND
        pieces = line.length[inner]
        first = int(np.argmax(arcs)) if arcs.any() else int(np.argmax(np.abs(line.k1[inner])))
        spiral_in = float(pieces[:first].sum()) if arcs.any() else float(pieces[: first + 1].sum())
        last = int(len(arcs) - np.argmax(arcs[::-1])) if arcs.any() else first + 1
        spiral_out = float(pieces[last:].sum())
        starts_bent, ends_bent = abs(line.k0[a]) > 1e-7, abs(line.k1[b]) > 1e-7
        pis.append(PI(float(at[0]), float(at[1]), 1 / sharp, 0.0 if starts_bent else spiral_in, 0.0 if ends_bent else spiral_out))
    pis.append(PI(float(place[-1, 0]), float(place[-1, 1])))
    there = alignment_from_pis(drawn_in(pis), start_station=line.start_station)
    s = sample_stations(line, 5.0)
    off = np.abs(project_points(there, line.evaluate(s)[0]).offset)
    return Conversion(tuple(drawn_in(pis)), float(off.max()), float(s[int(np.argmax(off))]))
