"""Crossfall of bends by a design standard: how much, where it turns, and what to say of a diagram that departs from it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..alignment.crossfall import runoff_length
from ..alignment.crossfall_diagram import CrossfallDiagram, TurnedBend
from ..alignment.horizontal import PI, HorizontalAlignment, tangent_points
from ..alignment.vertical import VerticalAlignment
from ..arrays import runs_of
from ..wording import Words, words
from .checks import DesignFinding, Place
from .formulas import crossfall_british, method_five
from .standard import SpeedZones, Standard

__all__ = ["BendPin", "asked_crossfall", "check_crossfall", "pins_along", "turned_bends"]

USUAL_SHARE = 2 / 3  # of the runoff that lies on the tangent where there is no transition; AASHTO, section 3.3.8
LEAST_TURNED = 0.015  # below this crossfall the normal fall stays; AASHTO, section 3.3.5
LANES_ROTATED = {1.0: 1.0, 1.5: 0.83, 2.0: 0.75, 2.5: 0.70, 3.0: 0.67, 3.5: 0.64}  # lanes -> b_w; AASHTO, Table 3-16
FLAT = 0.005  # grade and crossfall below this hold water; AASHTO, section 3.3.8, least transition grades
_LACKING = 0.01  # m; what is lacking by less is the rounding of typed lengths
_SLACK = 1e-6


@dataclass(frozen=True, slots=True)
class BendPin:
    """What a person has set for a bend: full crossfall (ratio), and places in m from TS and ST, + ahead; None is left to the standard."""

    rate: float | None = None
    level_in: float | None = None
    full_in: float | None = None
    full_out: float | None = None
    level_out: float | None = None


def pins_along(line: HorizontalAlignment, rows: Sequence[BendPin]) -> tuple[dict[int, BendPin], list[BendPin]]:
    """Pins of a line's bends from rows whose places are stations, m, as a file has them: bend -> pin, and rows that lie in no bend, or
    whose places are out of order."""
    found: dict[int, BendPin] = {}
    left: list[BendPin] = []
    for row in rows:
        places = [s for s in (row.level_in, row.full_in, row.full_out, row.level_out) if s is not None]
        middle = [s for s in (row.full_in, row.full_out) if s is not None] or places
        bend = _bend_at(line, sum(middle) / len(middle)) if middle else None
        if bend is None or bend in found or any(b < a for a, b in itertools.pairwise(places)):
            left.append(row)
            continue
        points = tangent_points(line, bend)
        ts, st = points["TS"], points["ST"]
        found[bend] = BendPin(
            row.rate, _after(row.level_in, ts), _after(row.full_in, ts), _after(row.full_out, st), _after(row.level_out, st)
        )
    return found, left


def _after(station: float | None, point: float) -> float | None:
    return None if station is None else round(station - point, 6)


def _bend_at(line: HorizontalAlignment, station: float) -> int | None:
    for n in range(1, int(line.pi_of.max(initial=0)) + 1):
        points = tangent_points(line, n)
        if points and points["TS"] <= station <= points["ST"]:
            return n
    return None


def asked_crossfall(standard: Standard, row: Mapping[str, float], speed: float, radius: float, normal: float) -> float | None:
    """Full crossfall (ratio) for a radius (m) at a speed (km/h); 0 where the normal fall stays, None without a rule.

    American tables: method 5, to the next 0.1 percent above; British: V^2 / (2.828 R), between the normal and the greatest
    crossfall, on radii below that of the table.
    """
    greatest = standard.rules["greatest_crossfall"]
    if standard.kind == "american":
        found = method_five(
            speed, row["running_speed"], radius, greatest_crossfall=greatest, greatest_friction=row["friction"]
        ).crossfall  # fmt: skip
        if found < LEAST_TURNED:
            return 0.0
    elif standard.kind == "british":
        if radius >= row["transition_below"]:
            return 0.0
        found = crossfall_british(speed, radius)
    else:
        return None
    return float(np.clip(np.ceil(1000 * found - 1e-6) / 1000, normal, greatest))


def turned_bends(
    line: HorizontalAlignment,
    pis: Sequence[PI],
    standard: Standard,
    zones: SpeedZones,
    *,
    width: float,
    normal: float,
    share: float = USUAL_SHARE,
    lanes: float = 1.0,
    pins: Mapping[int, BendPin] | None = None,
) -> list[TurnedBend]:
    """The bends that turn the crossfall, by the standard and what a person has pinned, in order of station.

    ``width``: m, from the axis to the edge of the lanes on one side; ``normal``: fall of the straight, a ratio;
    ``lanes``: lanes that turn about the axis, for the adjustment b_w of wide carriageways.

    With a transition the crossfall turns over the whole of it; without one over a runoff w n e b_w / delta, of which
    ``share`` lies on the tangent. A bend too short for both runoffs is full at its middle.
    """
    out = []
    for i in range(1, len(pis) - 1):
        places = tangent_points(line, i)
        if not places:
            continue
        pin = (pins or {}).get(i, BendPin())
        speed = zones.over(places["TS"], places["ST"])
        row = standard.at(speed)
        asked = asked_crossfall(standard, row, speed, pis[i].radius, normal)
        rate = asked if pin.rate is None else pin.rate
        if not rate:
            continue
        own = np.flatnonzero(line.pi_of == i)
        turn = float(np.sign(line.k0[own].sum() + line.k1[own].sum()))
        runoff = runoff_length(width / lanes, lanes, rate, _relative_gradient(standard, row), _lane_factor(lanes))
        level_in, full_in = _turning(places["TS"], places["SC"], runoff, share)
        level_out, full_out = (-v for v in _turning(-places["ST"], -places["CS"], runoff, share))
        if full_in > full_out:
            middle = 0.5 * (full_in + full_out)
            level_in, full_in, full_out, level_out = level_in + middle - full_in, middle, middle, level_out + middle - full_out
        level_in, full_in = _set(pin.level_in, places["TS"], level_in), _set(pin.full_in, places["TS"], full_in)
        full_out, level_out = _set(pin.full_out, places["ST"], full_out), _set(pin.level_out, places["ST"], level_out)
        out.append(TurnedBend(i, turn, rate, level_in, full_in, full_out, level_out, asked, pin != BendPin()))
    return out


def _set(pinned: float | None, point: float, usual: float) -> float:
    return usual if pinned is None else point + pinned


def _turning(tangent: float, arc: float, runoff: float, share: float) -> tuple[float, float]:
    """Where a half is level and full, on the way in."""
    return (tangent, arc) if arc - tangent > 1e-6 else (tangent - share * runoff, tangent + (1 - share) * runoff)


def _relative_gradient(standard: Standard, row: Mapping[str, float]) -> float:
    """Greatest grade of the edge against the axis, a ratio; 0.5 percent where the standard has none (common practice)."""
    return row.get("relative_gradient", standard.rules.get("relative_gradient", 0.5)) / 100


def _lane_factor(lanes: float) -> float:
    return float(np.interp(lanes, list(LANES_ROTATED), list(LANES_ROTATED.values())))


def check_crossfall(
    diagram: CrossfallDiagram,
    line: HorizontalAlignment,
    profile: VerticalAlignment | None,
    standard: Standard,
    zones: SpeedZones,
    *,
    width: float,
) -> list[DesignFinding]:
    """Bends with less crossfall than is asked for or more than is allowed, straights between reverse bends that are too short to
    turn on, too fast turning, and flat places, by station."""
    out = [f for b in diagram.bends for f in _rate(b, standard, zones)] + _reverse(diagram, line, standard, zones)
    out += _too_fast(diagram, line, standard, zones, width)
    if profile is not None:
        out += _flat(diagram, profile, standard, zones)
    return sorted(out, key=lambda f: f.finding.station_from or 0.0)


def _rate(b: TurnedBend, standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    speed = zones.over(b.full_in, b.full_out + 1e-9)
    here = Place(standard, speed, standard.at(speed), b.full_in, b.full_out, ("pi", b.pi))
    name, greatest = f"PI {b.pi + 1}", standard.rules["greatest_crossfall"]
    out = []
    if b.asked is not None and b.rate < b.asked - _SLACK:
        why: Words | str = words(
            "The standard asks for {asked:.1f} % at {speed:kmh.0} on this radius.", asked=100 * b.asked, speed=speed
        )
        out.append(here.found("doubt", "crossfall-low", name, "crossfall", 100 * b.rate, 100 * b.asked, "%", why))
    if b.rate > greatest + _SLACK:
        why = "Steeper carriageways let slow vehicles slide in ice and make turning off hard."
        out.append(here.found("fault", "crossfall-high", name, "crossfall", 100 * b.rate, 100 * greatest, "%", why))
    return out


def _reverse(diagram: CrossfallDiagram, line: HorizontalAlignment, standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    """Reverse bends whose turning overlaps: the straight between them would have to be longer by as much."""
    out = []
    for a, b in itertools.pairwise(diagram.bends):
        lacking = a.level_out - b.level_in
        ends = [np.flatnonzero(line.pi_of == bend.pi) for bend in (a, b)]
        if a.turn * b.turn > 0 or lacking <= _LACKING or not all(len(e) for e in ends):
            continue
        start, end = float(line.stations[ends[0][-1] + 1]), float(line.stations[ends[1][0]])
        speed = zones.over(start - 1.0, end + 1.0)
        here = Place(standard, speed, standard.at(speed), start, end, ("pi", b.pi))
        why = (
            "Between reverse bends the carriageway turns from one full crossfall through level to the other. "
            "Move the bends apart, or turn them over transitions."
        )
        name = f"PI {a.pi + 1} and PI {b.pi + 1}"
        out.append(
            here.found("doubt", "reverse-straight", name, "relative_gradient", end - start, end - start + lacking, "m", why)
        )
    return out


def _too_fast(
    diagram: CrossfallDiagram, line: HorizontalAlignment, standard: Standard, zones: SpeedZones, width: float
) -> list[DesignFinding]:
    out: list[DesignFinding] = []
    s = diagram.station
    if len(s) < 2:
        return out
    turning = np.maximum(np.abs(np.diff(diagram.left)), np.abs(np.diff(diagram.right)))
    steep = width * turning / np.diff(s)
    for a, b in runs_of(turning > _SLACK):
        start, end = float(s[a]), float(s[b + 1])
        if end <= line.start_station or start >= line.end_station:
            continue
        worst = float(steep[a : b + 1].max())
        speed = zones.over(start, end)
        here = Place(standard, speed, standard.at(speed), start, end, _nearest(diagram, start, end))
        limit = _relative_gradient(standard, here.row)
        if worst > limit * (1 + 1e-3):
            why = words(
                "The lane's edge, {width:m.2} from the axis, rises or falls against it by {worst:.2f} %; it would take {times:.2f} times "
                "the length.",
                width=width, worst=100 * worst, times=worst / limit,
            )  # fmt: skip
            out.append(
                here.found("doubt", "crossfall-fast", "the carriageway", "relative_gradient", 100 * worst, 100 * limit, "%", why,
                start=start, end=end)
            )  # fmt: skip
    return out


def _nearest(diagram: CrossfallDiagram, start: float, end: float) -> tuple[str, int]:
    middle = 0.5 * (start + end)
    b = min(diagram.bends, key=lambda b: min(abs(b.full_in - middle), abs(b.full_out - middle)))
    return ("pi", b.pi)


def _flat(diagram: CrossfallDiagram, profile: VerticalAlignment, standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    """Where a half is nearly level across while the road is nearly level along."""
    out: list[DesignFinding] = []
    s = np.arange(float(profile.station[0]), float(profile.station[-1]), 1.0)
    grade = np.abs(profile.evaluate(s)[1])
    across = np.minimum(*(np.abs(r) for r in diagram.rates(s)))
    for a, b in runs_of(np.hypot(grade, across) < FLAT):
        start, end = float(s[a]), float(s[b])
        speed = zones.over(start, end + 1e-9)
        here = Place(standard, speed, standard.at(speed), start, end, ("", -1))
        worst = float(np.hypot(grade, across)[a : b + 1].min())
        why = (
            "Grade and crossfall together; water stays where both are small. "
            "Let the crossfall turn elsewhere, or give the road a grade there."
        )
        out.append(
            here.found("doubt", "crossfall-flat", "the carriageway", "", 100 * worst, 100 * FLAT, "%", why, start=start, end=end)
        )
    return out
