"""A line and a profile held against a design standard. Every finding says clause, value, limit, place, and what would keep to it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..alignment.horizontal import PI, HorizontalAlignment, tangent_points
from ..alignment.profile_limits import FixedLevel
from ..alignment.vertical import PVI, VerticalAlignment
from ..findings import Finding, Severity
from ..wording import Words, words
from .formulas import crossfall_british, shift_length, transition_length_british, transition_length_jerk
from .standard import SpeedZones, Standard

__all__ = [
    "DesignFinding",
    "Place",
    "Way",
    "check_fixed",
    "check_levels",
    "check_line",
]

PRACTICE = "common practice, no source"
KINK = 0.2  # degrees; a smaller turn without a curve is not felt (common practice, no source)
NEXT_TO = 0.5  # m of straight that still count as none between two curves
SLACK = 1e-6  # of a limit; a value typed as the limit keeps to it


@dataclass(frozen=True, slots=True)
class Way:
    """A way out of a finding: the values (radius, spiral_in, spiral_out, length in m) of a PI or PVI by its index."""

    label: Words
    kind: str
    index: int
    values: Mapping[str, float]


@dataclass(frozen=True, slots=True)
class DesignFinding:
    """A finding against a standard. ``key`` stays the same while what is found stays, so that an accepted departure is known.

    ``about``: "pi" or "pvi", and its index.
    """

    finding: Finding
    key: str
    clause: str
    status: str
    why: Words | str
    value: float
    limit: float
    unit: str
    ways: tuple[Way, ...] = field(default=())
    about: tuple[str, int] = ("", -1)

    def as_dict(self) -> dict[str, Any]:
        return {
            **self.finding.as_dict(), "key": self.key, "clause": self.clause, "status": self.status, "why": str(self.why),
            "value": self.value, "limit": self.limit, "unit": self.unit, "about": {"kind": self.about[0], "index": self.about[1]},
            "ways": [{"label": str(w.label), "kind": w.kind, "index": w.index, "values": dict(w.values)} for w in self.ways],
        }  # fmt: skip


@dataclass(frozen=True, slots=True)
class Place:
    """Where a check stands: the standard, the limits there, the speed, and the stretch."""

    standard: Standard
    speed: float
    row: Mapping[str, float]
    start: float
    end: float
    about: tuple[str, int]

    def found(
        self, severity: Severity, code: str, name: str, limit_name: str, value: float, limit: float, unit: str, why: Words | str,
        ways: Sequence[Way] = (), **more: Any,
    ) -> DesignFinding:  # fmt: skip
        params = {"name": name, "value": value, "limit": limit, "speed": self.speed, **more}
        finding = Finding(severity, code, params, station_from=self.start, station_to=self.end)
        clause = self.standard.where(limit_name) if limit_name else PRACTICE
        status = self.standard.status if limit_name in self.standard.clauses else PRACTICE
        return DesignFinding(
            finding, f"{code} {name} {value:.6g}", clause, status, why, value, limit, unit, tuple(ways), self.about
        )


def check_line(line: HorizontalAlignment, pis: Sequence[PI], standard: Standard, zones: SpeedZones) -> list[DesignFinding]:
    """Radii, transitions, lengths of curves, and how neighbouring curves go together, in order of station.

    Raises InputError for a design speed that the standard does not reach.
    """
    out: list[DesignFinding] = []
    curves: list[tuple[int, dict[str, float], float]] = []
    for i in range(1, len(pis) - 1):
        turn = _deflection(pis, i)
        places = tangent_points(line, i)
        if not places:
            out += _without_curve(line, pis, i, turn, standard, zones)
            continue
        speed = zones.over(places["TS"], places["ST"])
        here = Place(standard, speed, standard.at(speed), places["TS"], places["ST"], ("pi", i))
        out += _radius(here, pis[i], i) + _transitions(here, pis[i], i, places) + _curve_length(here, i, turn)
        curves.append((i, places, turn))
    out += _neighbours(curves, pis, standard, zones)
    return sorted(out, key=lambda f: f.finding.station_from or 0.0)


def _deflection(pis: Sequence[PI], i: int) -> float:
    """Degrees, + right."""
    a, b, c = pis[i - 1], pis[i], pis[i + 1]
    before, after = (
        np.arctan2(q.easting - p.easting, q.northing - p.northing) for p, q in ((a, b), (b, c))
    )  # fmt: skip
    return float(np.degrees((after - before + np.pi) % (2 * np.pi) - np.pi))


def _without_curve(
    line: HorizontalAlignment, pis: Sequence[PI], i: int, turn: float, standard: Standard, zones: SpeedZones
) -> list[DesignFinding]:
    """A kink; or a PI in line with its neighbours, whose radius does nothing."""
    if abs(turn) <= KINK and not pis[i].radius:
        return []
    d = np.hypot(*(line.start - [pis[i].easting, pis[i].northing]).T)
    station = float(line.stations[int(np.argmin(d))])
    speed = zones.at(station)
    here = Place(standard, speed, standard.at(speed), station, station, ("pi", i))
    if pis[i].radius:
        way = Way(words("Set its radius to 0"), "pi", i, {"radius": 0.0, "spiral_in": 0.0, "spiral_out": 0.0})
        why = "Move the PI off the straight for a bend, or delete it."
        return [here.found("note", "pi-in-line", f"PI {i + 1}", "", abs(turn), KINK, "°", why, [way], radius=pis[i].radius)]
    radius = here.row.get("radius_desirable", here.row["radius"])
    way = Way(words("Give it a radius of {radius:m.0}", radius=radius), "pi", i, {"radius": radius})
    why = "A line without a curve turns at once."
    return [here.found("fault", "line-kink", f"PI {i + 1}", "", abs(turn), KINK, "°", why, [way])]


def _radius(here: Place, pi: PI, i: int) -> list[DesignFinding]:
    least = here.row["radius"]
    desirable = here.row.get("radius_desirable", least)
    if pi.radius >= desirable * (1 - SLACK):
        return []
    fault = pi.radius < least * (1 - SLACK)
    wanted = least if fault and desirable == least else desirable
    ways = [Way(words("Use R {v:m.0}", v=v), "pi", i, {"radius": v}) for v in dict.fromkeys((wanted, least)) if v > pi.radius]
    why = words(
        "Design speed {speed:kmh.0}, row {row:kmh.0} of the table: least {least:m.0}",
        speed=here.speed,
        row=here.row["speed"],
        least=least,
    )
    if desirable != least:
        why += words(", desirable {desirable:m.0}", desirable=desirable)
    if here.standard.kind == "british":
        wanted_fall = 100 * crossfall_british(here.speed, pi.radius)
        why += words(". At R {radius:m.0} the crossfall V²/(2.828 R) would be {fall:.1f} %", radius=pi.radius, fall=wanted_fall)
    elif "friction" in here.row:
        why += f". R = V²/(127 (e + f)), e {here.standard.rules['greatest_crossfall']:.2f}, f {here.row['friction']:.2f}"
    code = "radius-least" if fault else "radius-desirable"
    return [
        here.found(
            "fault" if fault else "doubt",
            code,
            f"PI {i + 1}",
            "radius",
            pi.radius,
            least if fault else desirable,
            "m",
            why + ".",
            ways,
        )
    ]


def _transitions(here: Place, pi: PI, i: int, places: Mapping[str, float]) -> list[DesignFinding]:
    below = here.row.get("transition_below")
    if (below is None and "least_parameter" not in here.standard.rules) or pi.radius <= 0:
        return []
    out = []
    needed, most, why = _transition_limits(here, pi.radius)
    for field_name, word, length in (("spiral_in", "entry", pi.spiral_in), ("spiral_out", "exit", pi.spiral_out)):
        name = f"PI {i + 1}, {word}"
        rounded = float(np.ceil(needed))
        if length <= 0:
            if below is not None and pi.radius < below * (1 - SLACK):
                severity: Severity = "doubt" if here.standard.kind == "british" else "note"
                way = Way(words("Add a transition of {rounded:m.0}", rounded=rounded), "pi", i, {field_name: rounded})
                asked = "Below R {below:m.0} at {speed:kmh.0} a transition is asked for. {why}"
                told = words(asked, below=below, speed=here.speed, why=why)
                out.append(
                    here.found(
                        severity,
                        "transition-missing",
                        name,
                        "transition_below",
                        pi.radius,
                        below,
                        "m",
                        told,
                        [way],
                        length=rounded,
                    )
                )
        elif length < needed * (1 - SLACK):
            way = Way(words("Use {rounded:m.0}", rounded=rounded), "pi", i, {field_name: rounded})
            out.append(here.found("doubt", "transition-short", name, "transition", length, needed, "m", why, [way]))
        elif most is not None and length > most * (1 + SLACK):
            way = Way(words("Use {most:m.0}", most=float(np.floor(most))), "pi", i, {field_name: float(np.floor(most))})
            out.append(here.found("note", "transition-long", name, "transition", length, most, "m", why, [way]))
    return out


def _transition_limits(here: Place, radius: float) -> tuple[float, float | None, Words]:
    """Least and greatest length of a transition (m), and how they come about."""
    rules = here.standard.rules
    if here.standard.kind == "british":
        q = rules["lateral_jerk"]
        wanted, most = transition_length_british(here.speed, radius, q), float(np.sqrt(24 * radius))
        text = "V³/(46.7 q R) = {wanted:m.1} with q {q:g} m/s³, at most √(24 R) = {most:m.1}."
        return min(wanted, most), most, words(text, wanted=wanted, q=q, most=most)
    if "least_parameter" in rules:
        least = rules["least_parameter"] ** 2 * radius
        text = "A from {share:.2f} R to R, so L = A²/R from {least:bare.1} to {radius:m.1}."
        return least, radius, words(text, share=rules["least_parameter"], least=least, radius=radius)
    if "least_shift" not in rules:
        return 0.0, None, words("")
    by_shift = shift_length(radius, rules["least_shift"])
    by_jerk = transition_length_jerk(here.speed, radius, rules["jerk"])
    most = shift_length(radius, rules["greatest_shift"])
    why = words(
        "Least is the greater of √(24 p R) = {by_shift:m.1}, p {least_shift:m.2}, and "
        "0.0214 V³/(R C) = {by_jerk:m.1}, C {jerk:.2f} m/s³; "
        "greatest √(24 p R) = {most:m.1}, p {greatest_shift:m.2}.",
        by_shift=by_shift, by_jerk=by_jerk, most=most, **{k: rules[k] for k in ("least_shift", "jerk", "greatest_shift")},
    )  # fmt: skip
    return max(by_shift, by_jerk), most, why


def _curve_length(here: Place, i: int, turn: float) -> list[DesignFinding]:
    rules, length = here.standard.rules, here.end - here.start
    if "curve_length_per_speed" not in rules:
        return []
    needed = rules["curve_length_per_speed"] * here.speed
    why = words("{length:m.1} at {speed:kmh.0} of design speed.", length=needed, speed=here.speed)
    if abs(turn) < rules["small_deflection"]:
        small = rules["small_deflection_length"] + rules["small_deflection_step"] * (rules["small_deflection"] - abs(turn))
        if small > needed:
            needed = small
            why = words("The line turns by {turn:.2f}° only; short bends of small turn look like kinks.", turn=abs(turn))
    if length >= needed * (1 - SLACK):
        return []
    return [here.found("note", "curve-short", f"PI {i + 1}", "curve_length", length, needed, "m", why)]


def _neighbours(
    curves: list[tuple[int, dict[str, float], float]], pis: Sequence[PI], standard: Standard, zones: SpeedZones
) -> list[DesignFinding]:
    out = []
    for (i, a, turn_a), (j, b, turn_b) in itertools.pairwise(curves):
        straight = b["TS"] - a["ST"]
        if turn_a * turn_b <= 0 or j != i + 1:
            continue
        speed = zones.over(a["ST"] - 1.0, b["TS"] + 1.0)
        here = Place(standard, speed, standard.at(speed), a["ST"], b["TS"], ("pi", i))
        name = f"PI {i + 1} and PI {j + 1}"
        if straight <= NEXT_TO and "compound_ratio" in standard.rules:
            small, large = sorted((pis[i].radius, pis[j].radius))
            most = standard.rules["compound_ratio"]
            if large > most * small * (1 + SLACK):
                k = i if pis[i].radius < pis[j].radius else j
                radius = float(np.ceil(large / most))
                way = Way(words("Use R {radius:m.0} at PI {pi}", radius=radius, pi=k + 1), "pi", k, {"radius": radius})
                why = words("Radii of {large:bare.0} and {small:m.0} follow each other.", large=large, small=small)
                out.append(here.found("doubt", "compound-ratio", name, "compound", large / small, most, "", why, [way]))
        elif straight > NEXT_TO and straight < standard.rules.get("broken_back", 0.0):
            why = words("Two bends of one sense with a short straight between surprise the driver; one longer bend reads better.")
            out.append(here.found("note", "broken-back", name, "broken_back", straight, standard.rules["broken_back"], "m", why))
    return out


# --- levels --------------------------------------------------------------------------------------------------
def check_levels(
    profile: VerticalAlignment,
    pvis: Sequence[PVI],
    standard: Standard,
    zones: SpeedZones,
    *,
    greatest_grade: float,
    least_k: float = 0.0,
) -> list[DesignFinding]:
    """Grades, K of crests and sags, lengths of vertical curves, and grades too flat to drain, in order of station.

    ``greatest_grade`` (m/m) and ``least_k`` (m per percent) are the project's own limits; the standard's are checked beside them.
    """
    out: list[DesignFinding] = []
    grades = [(b.elevation - a.elevation) / (b.station - a.station) for a, b in itertools.pairwise(pvis)]
    for i, g in enumerate(grades):
        a, b = pvis[i].station, pvis[i + 1].station
        speed = zones.over(a, b)
        here = Place(standard, speed, standard.at(speed), a, b, ("pvi", i))
        own = here.row.get("greatest_grade", standard.rules.get("greatest_grade"))
        limit, clause = (own, "greatest_grade") if own is not None and own < greatest_grade else (greatest_grade, "")
        name = f"PVI {i + 1} to PVI {i + 2}"
        if abs(g) > limit * (1 + SLACK):
            why = "The project's own limit, from its settings." if not clause else "A limit of the standard."
            out.append(here.found("fault", "grade-steep", name, clause, 100 * abs(g), 100 * limit, "%", why))
        least = standard.rules.get("least_grade", 0.0)
        straight = (b - pvis[i + 1].half_in) - (a + pvis[i].half_out)
        if abs(g) < least * (1 - SLACK) and straight > NEXT_TO:
            why = "Water needs a fall along kerbs and channels; elsewhere the crossfall carries it off."
            out.append(here.found("note", "grade-flat", name, "least_grade", 100 * abs(g), 100 * least, "%", why))
    for i in range(1, len(pvis) - 1):
        out += _vertical_curve(pvis, i, grades[i - 1], grades[i], standard, zones, least_k)
    return sorted(out, key=lambda f: f.finding.station_from or 0.0)


def _vertical_curve(
    pvis: Sequence[PVI], i: int, g1: float, g2: float, standard: Standard, zones: SpeedZones, least_k: float
) -> list[DesignFinding]:
    p, change = pvis[i], g2 - g1
    length = p.half_in + p.half_out
    start, end = p.station - p.half_in, p.station + p.half_out
    speed = zones.over(start, end + 1e-9)
    here = Place(standard, speed, standard.at(speed), start, end, ("pvi", i))
    crest = change < 0
    word, clause = ("crest", "crest") if crest else ("sag", "sag")
    least = here.row["crest_k" if crest else "sag_k"]
    desirable = here.row.get("crest_k_desirable", least) if crest else least
    name = f"PVI {i + 1}"
    if abs(change) < 1e-9:
        return []
    out = []
    # the sharper half governs; of a symmetric curve both are the same
    k = _least_k(p, g1, g2)
    if k < desirable * (1 - SLACK):
        fault = k < least * (1 - SLACK)
        # a small change of grade needs no long curve: what K asks for may be shorter than a car
        severity: Severity = "fault" if fault else "doubt"
        limit = least if fault else desirable
        wanted = dict.fromkeys((desirable, least))
        ways = [
            Way(words("Use L {v:m.1}", v=_up(v * 100 * abs(change))), "pvi", i, {"length": _up(v * 100 * abs(change))})
            for v in wanted
            if v > k
        ]
        why = words(
            "Grades change by {change:.2f} %, length {length:m.1}. Design speed {speed:kmh.0}, row {row:kmh.0}: least K {least:k.g}",
            change=100 * abs(change), length=length, speed=here.speed, row=here.row["speed"], least=least,
        )  # fmt: skip
        why += words(", desirable {desirable:k.g}.", desirable=desirable) if desirable != least else "."
        out.append(
            here.found(severity, "k-least" if fault else "k-desirable", name, clause, k, limit, "m/%", why, ways, word=word)
        )
    elif k < least_k * (1 - SLACK):
        long = _up(least_k * 100 * abs(change))
        way = Way(words("Use L {long:m.1}", long=long), "pvi", i, {"length": long})
        why = words("The project's own limit, from its settings; the standard asks for {desirable:k.g}.", desirable=desirable)
        out.append(here.found("doubt", "k-least", name, "", k, least_k, "m/%", why, [way], word=word))
    rules = standard.rules
    shortest = here.row.get("vertical_length", rules.get("vertical_length_per_speed", 0.0) * here.speed)
    if 0 < length < shortest * (1 - SLACK):
        way = Way(words("Use L {shortest:m.1}", shortest=_up(shortest)), "pvi", i, {"length": _up(shortest)})
        out.append(
            here.found(
                "note",
                "vertical-short",
                name,
                "vertical_length",
                length,
                shortest,
                "m",
                "Shorter vertical curves look like kinks.",
                [way],
            )
        )
    flat = rules.get("drainage_k")
    if flat and k > flat * (1 + SLACK) and g1 * g2 < 0:
        why = words("Around its high or low point the grade is under 0.3 % for a long way.")
        out.append(here.found("note", "drainage-k", name, "drainage_k", k, flat, "m/%", why, word=word))
    return out


def _up(value: float) -> float:
    """The next tenth above, so that a value taken over keeps to the limit."""
    return float(np.ceil(value * 10 - 1e-9) / 10)


def _least_k(p: PVI, g1: float, g2: float) -> float:
    """K (m per percent) of the sharper half; 0 without a curve."""
    if p.half_in <= 0 or p.half_out <= 0:
        return 0.0
    common = (g1 * p.half_in + g2 * p.half_out) / (p.half_in + p.half_out)  # grade of the common tangent
    halves = [(p.half_in + p.half_out, g2 - g1)] if p.circular else [(p.half_in, common - g1), (p.half_out, g2 - common)]
    return min(length / (100 * abs(c)) for length, c in halves if abs(c) > 1e-12)


MISSED = 0.002  # m; levels are typed and shown in millimetres


def check_fixed(profile: VerticalAlignment, fixed: Sequence[FixedLevel]) -> list[DesignFinding]:
    """Fixed levels that the profile does not hit, or lies on the wrong side of, in order of station."""
    out = []
    for f in sorted(fixed, key=lambda f: f.station):
        level = float(profile.evaluate(f.station)[0][0])
        off = level - f.level
        wrong = {"exact": abs(off) > MISSED, "above": off < -MISSED, "below": off > MISSED}[f.kind]
        if np.isnan(level) or wrong:
            word = {"exact": "hit", "above": "stay above", "below": "stay below"}[f.kind]
            name = f.name or "the fixed point"
            params = {"name": name, "value": level, "limit": f.level, "word": word, "station": f.station, "off": abs(off)}
            finding = Finding("fault", "fixed-missed", params, station_from=f.station, station_to=f.station)
            own = "a fixed point of this road"
            out.append(
                DesignFinding(
                    finding,
                    f"fixed-missed {name} {f.level:.3f} {level:.4g}",
                    own,
                    own,
                    "It is set in stage 3.",
                    level,
                    f.level,
                    "m",
                )
            )
    return out
