"""Alignments of a LandXML file: elements held against their own points, profiles, equations and superelevation."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..alignment.element import travel
from ..alignment.horizontal import HorizontalAlignment
from ..alignment.spirals import SPIRAL_SHAPES, spiral_pieces
from ..alignment.vertical import PVI
from ..errors import FormatError
from ..findings import Finding
from ..geometry.plane import wrap_angle
from ..tolerances import COINCIDENT
from ..wording import quantity
from .landxml_tree import Floats, Tree, children, descend, tag

__all__ = ["LandXmlAlignment", "LandXmlTurning", "read_alignment"]

# how far what a file says twice may differ; files print millimetres, radii often centimetres
PLACES_AGREE = 0.010  # m between a point given and where the element's numbers lead
LENGTHS_AGREE = 0.010  # m between a length, radius or distance given and that of the points
TANGENTS_AGREE = np.radians(0.05)  # between elements; more is a kink and told
SHORTEST = 1e-4  # m; an element shorter than this is a rounding of none
MOST_KINKS = 5  # told one by one
MOST_ELEMENTS = 100_000
_LEFT = ("CrossSects", "CgPoints", "AlignPIs", "Feature")

Row = tuple[Floats, float, float, float, float]  # start (E, N), azimuth, length, k0, k1


@dataclass(frozen=True, slots=True)
class LandXmlTurning:
    """How the carriageway turns in one bend: stations (m, None where the file is silent) and full crossfall (m/m)."""

    begin_runout: float | None = None
    begin_runoff: float | None = None
    full_from: float | None = None
    full_to: float | None = None
    end_runoff: float | None = None
    end_runout: float | None = None
    rate: float | None = None


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlAlignment:
    """An alignment as a file gives it: its line, the PVIs of its profiles by name, ground along it by name ((k, 2) station and
    level in m), equations (station and jump in m) and turnings. ``refused`` says why there is no line."""

    name: str
    alignment: HorizontalAlignment | None
    profiles: dict[str, tuple[PVI, ...]] = field(default_factory=dict)
    equations: tuple[tuple[float, float], ...] = ()
    grounds: dict[str, Floats] = field(default_factory=dict)
    turnings: tuple[LandXmlTurning, ...] = ()
    refused: FormatError | None = None


def read_alignment(tree: Tree, element: Any, number: int) -> LandXmlAlignment | None:
    """One alignment; None where it holds no geometry. One that contradicts itself comes without a line, and says why."""
    name = element.get("name") or f"alignment {number}"
    reader = _Reader(tree, element, name)
    try:
        line = reader.line()
        if line is None:
            tree.findings.append(Finding("doubt", "alignment-empty", {"name": name}))
            return None
        profiles, grounds = reader.profiles()
        return LandXmlAlignment(name, line, profiles, reader.equations(), grounds, reader.turnings())
    except FormatError as error:
        tree.findings.append(Finding("fault", "alignment-refused", {"name": name, "reason": error.sentence}))
        return LandXmlAlignment(name, None, refused=error)


class _Reader:
    def __init__(self, tree: Tree, element: Any, name: str) -> None:
        self.tree, self.element, self.name = tree, element, name
        self.rows: list[Row] = []
        self.ends: list[Floats] = []
        self.start = tree.station(element, "staStart", name) or 0.0
        self.at = self.start
        self.number = 0

    def tell(self, severity: Any, code: str, **params: Any) -> None:
        self.tree.findings.append(Finding(severity, code, {"name": self.name, **params}))

    def contradicts(self, kind: str, what: str) -> FormatError:
        return FormatError("landxml-element", kind=kind, number=self.number, name=self.name, station=self.at, what=what)

    # --- the line ------------------------------------------------------------------------------------------------
    def line(self) -> HorizontalAlignment | None:
        read: dict[str, Callable[[Any], None]] = {
            "Line": self._straight, "Curve": self._curve, "Spiral": self._spiral, "IrregularLine": self._chain, "Chain": self._chain,
        }  # fmt: skip
        short = 0
        for geometry in children(self.element, "CoordGeom"):
            for g in geometry:
                kind = tag(g)
                if kind not in read:
                    if kind and kind != "Feature":
                        raise FormatError("landxml-element-kind", kind=kind, name=self.name, line=g.sourceline)
                    continue
                self.number += 1
                before = len(self.rows)
                read[kind](g)
                short += len(self.rows) == before
                if len(self.rows) > MOST_ELEMENTS:
                    raise FormatError("landxml-too-many", what="elements", owner=self.name, limit=MOST_ELEMENTS)
        if short:
            self.tell("note", "elements-without-length", count=short)
        if not self.rows:
            return None
        self._tangents()
        return HorizontalAlignment(
            start=np.array([r[0] for r in self.rows]), azimuth=np.array([r[1] for r in self.rows]),
            length=np.array([r[2] for r in self.rows]), k0=np.array([r[3] for r in self.rows]), k1=np.array([r[4] for r in self.rows]),
            pi_of=np.full(len(self.rows), -1), start_station=self.start,
        )  # fmt: skip

    def _place(self, g: Any, word: str, *, needed: bool = True) -> Floats | None:
        found = next(iter(children(g, word)), None)
        if found is None:
            if needed:
                raise FormatError(
                    "landxml-element-lacks", kind=tag(g), number=self.number, name=self.name, what=word, line=g.sourceline
                )
            return None
        return self.tree.place(found, self.name, f"{word} of {tag(g)} {self.number}")[:2]

    def _ends(self, g: Any) -> tuple[Floats, Floats]:
        start, end = self._place(g, "Start"), self._place(g, "End")
        assert start is not None and end is not None
        if self.rows and (gap := float(np.hypot(*(start - self.ends[-1])))) > PLACES_AGREE:
            raise self.contradicts(tag(g), f"it begins {quantity(gap, 'm', 3)} away from where the one before it ends")
        return start, end

    def _add(self, rows: list[Row], end: Floats) -> None:
        kept = [r for r in rows if r[2] > SHORTEST]
        self.rows += kept
        self.at += sum(r[2] for r in kept)
        if kept:
            self.ends += [end] * len(kept)

    def _straight(self, g: Any) -> None:
        start, end = self._ends(g)
        length = float(np.hypot(*(end - start)))
        told = self.tree.length(g, "length", self.name)
        if told is not None and abs(told - length) > LENGTHS_AGREE:
            raise self.contradicts(
                "Line", f"its length is given as {quantity(told, 'm', 3)}, its ends are {quantity(length, 'm', 3)} apart"
            )
        self._add([_straight_row(start, end)], end)

    def _chain(self, g: Any) -> None:
        """A row of places: straights from each to the next."""
        lists = [*children(g, "PntList2D"), *children(g, "PntList3D")]
        if lists:
            read = self.tree.pairs if tag(lists[0]) == "PntList2D" else self.tree.triples
            places = read(lists[0], self.name, f"{tag(g)} {self.number}")[:, :2]
        else:
            places = self.tree.pairs(g, self.name, f"{tag(g)} {self.number}")[:, :2]
        start = self._place(g, "Start", needed=False)
        end = self._place(g, "End", needed=False)
        if start is not None and (not len(places) or np.hypot(*(places[0] - start)) > PLACES_AGREE):
            places = np.concatenate([[start], places])
        if end is not None and (not len(places) or np.hypot(*(places[-1] - end)) > PLACES_AGREE):
            places = np.concatenate([places, [end]])
        if len(places) < 2:
            raise FormatError(
                "landxml-element-lacks", kind=tag(g), number=self.number, name=self.name, what="row of points", line=g.sourceline
            )
        if self.rows and (gap := float(np.hypot(*(places[0] - self.ends[-1])))) > PLACES_AGREE:
            raise self.contradicts(tag(g), f"it begins {quantity(gap, 'm', 3)} away from where the one before it ends")
        for a, b in itertools.pairwise(places):
            self._add([_straight_row(a, b)], b)
        self.tell("note", "line-of-straights", number=self.number, count=len(places) - 1)

    def _turn(self, g: Any) -> float:
        rot = (g.get("rot") or "").strip().lower()
        if rot not in ("cw", "ccw"):
            raise FormatError(
                "landxml-element-lacks",
                kind=tag(g),
                number=self.number,
                name=self.name,
                what="rot (cw or ccw)",
                line=g.sourceline,
            )
        return 1.0 if rot == "cw" else -1.0

    def _curve(self, g: Any) -> None:
        start, end = self._ends(g)
        turn, told = self._turn(g), self.tree.length(g, "length", self.name)
        given = self.tree.length(g, "radius", self.name)
        centre = self._place(g, "Center", needed=False)
        if centre is None:
            centre = self._centre(start, end, turn, given, told)
        radius, other = float(np.hypot(*(start - centre))), float(np.hypot(*(end - centre)))
        if abs(radius - other) > LENGTHS_AGREE:
            raise self.contradicts(
                "Curve", f"its start lies {quantity(radius, 'm', 3)} from its centre, its end {quantity(other, 'm', 3)}"
            )
        if given is not None and abs(given - radius) > LENGTHS_AGREE:
            raise self.contradicts(
                "Curve",
                f"its radius is given as {quantity(given, 'm', 3)}, its start lies {quantity(radius, 'm', 3)} from its centre",
            )
        if radius < SHORTEST:
            raise self.contradicts("Curve", "its start is its centre")
        from_centre = float(np.arctan2(*(start - centre)))
        sweep = float((turn * (np.arctan2(*(end - centre)) - from_centre)) % (2 * np.pi))
        length = radius * sweep
        if told is not None and abs(told - length) > LENGTHS_AGREE:
            round_ = abs(told - radius * (2 * np.pi - sweep)) <= LENGTHS_AGREE
            hint = "; the other way round it would be as long as that, so rot is most likely wrong" if round_ else ""
            raise self.contradicts(
                "Curve",
                f"its length is given as {quantity(told, 'm', 3)}, its points and rot make {quantity(length, 'm', 3)}{hint}",
            )
        azimuth = (from_centre + turn * np.pi / 2) % (2 * np.pi)
        self._add([(start, azimuth, length, turn / radius, turn / radius)], end)

    def _centre(self, start: Floats, end: Floats, turn: float, radius: float | None, told: float | None) -> Floats:
        """The centre from both ends, radius and sense; the shorter arc unless the length says the longer one."""
        if radius is None or radius <= 0:
            raise FormatError(
                "landxml-element-lacks", kind="Curve", number=self.number, name=self.name, what="Center or radius", line=0
            )
        chord = end - start
        half = float(np.hypot(*chord)) / 2
        if half > radius + LENGTHS_AGREE or half < SHORTEST:
            raise self.contradicts(
                "Curve", f"its ends are {quantity(2 * half, 'm', 3)} apart, too far for a radius of {quantity(radius, 'm', 3)}"
            )
        rise = float(np.sqrt(max(radius**2 - half**2, 0.0)))
        to_right = np.array([chord[1], -chord[0]]) / (2 * half)
        longer = told is not None and told > np.pi * radius
        return np.asarray((start + end) / 2 + (-turn if longer else turn) * rise * to_right)

    def _spiral(self, g: Any) -> None:
        start, end = self._ends(g)
        turn = self._turn(g)
        length = self.tree.length(g, "length", self.name, needed=True) or 0.0
        radii = [self.tree.length(g, k, self.name) for k in ("radiusStart", "radiusEnd")]
        k0, k1 = (turn / r if r else 0.0 for r in radii)
        kind = (g.get("spiType") or "clothoid").strip()
        if kind not in SPIRAL_SHAPES:
            raise FormatError(
                "landxml-spiral-type",
                number=self.number,
                name=self.name,
                station=self.at,
                type=kind[:40],
                known=", ".join(SPIRAL_SHAPES),
            )
        if length <= SHORTEST or abs(k1 - k0) < 1e-12:
            what = "it has no length" if length <= SHORTEST else "both its radii are the same"
            raise self.contradicts("Spiral", what)
        pieces = spiral_pieces(kind, length, k0, k1)
        ahead, right = pieces.ahead[-1], pieces.right[-1]
        chord = end - start
        off = abs(float(np.hypot(ahead, right) - np.hypot(*chord)))
        if off > PLACES_AGREE:
            raise self.contradicts(
                "Spiral",
                f"its ends are {quantity(np.hypot(*chord), 'm', 3)} apart, its length and radii make "
                f"{quantity(np.hypot(ahead, right), 'm', 3)}",
            )
        azimuth = float(np.arctan2(chord[0], chord[1]) - np.arctan2(right, ahead))
        self._held_by_pi(g, start, azimuth)
        self._add(pieces.rows(start, azimuth), end)
        if kind != "clothoid":
            self.tell("note", "spiral-in-pieces", number=self.number, type=kind, count=len(pieces.k0))

    def _held_by_pi(self, g: Any, start: Floats, azimuth: float) -> None:
        pi = self._place(g, "PI", needed=False)
        if pi is None or np.hypot(*(pi - start)) < 1.0:
            return
        d = pi - start
        beside = abs(float(d[0] * np.cos(azimuth) - d[1] * np.sin(azimuth)))
        if beside > 2 * PLACES_AGREE:
            raise self.contradicts(
                "Spiral", f"its PI lies {quantity(beside, 'm', 3)} beside the tangent that its ends, radii and rot make"
            )

    def _tangents(self) -> None:
        """Kinks between elements, and ends that are not where the element leads."""
        station, leaving = self.start, self.rows[0][1]
        kinks = []
        for i, (start, azimuth, length, k0, k1) in enumerate(self.rows):
            ahead, right, turned = (float(v[0]) for v in travel([length], length, k0, k1))
            kink = abs(float(wrap_angle(azimuth - leaving)))
            if kink > TANGENTS_AGREE:
                kinks.append((i + 1, station, np.degrees(kink)))
            led = start + np.array(
                [ahead * np.sin(azimuth) + right * np.cos(azimuth), ahead * np.cos(azimuth) - right * np.sin(azimuth)]
            )
            after = self.rows[i + 1][0] if i + 1 < len(self.rows) else self.ends[i]
            if (gap := float(np.hypot(*(after - led)))) > PLACES_AGREE:
                self.number, self.at = i + 1, station
                raise self.contradicts("Element", f"it leads {quantity(gap, 'm', 3)} away from where it should end")
            leaving = azimuth + turned
            station += length
        for number, at, degrees in kinks[:MOST_KINKS]:
            self.tell("fault" if degrees > 5 else "doubt", "element-kink", number=number, station=at, value=float(degrees))
        if len(kinks) > MOST_KINKS:
            self.tell("doubt", "element-kinks", count=len(kinks) - MOST_KINKS, value=float(max(k[2] for k in kinks)))

    # --- profiles ------------------------------------------------------------------------------------------------
    def profiles(self) -> tuple[dict[str, tuple[PVI, ...]], dict[str, Floats]]:
        found: dict[str, tuple[PVI, ...]] = {}
        grounds: dict[str, Floats] = {}
        for p in descend(self.element, "ProfAlign"):
            found[_free(p.get("name") or f"profile {len(found) + 1}", found)] = self._pvis(p)
        for p in descend(self.element, "ProfSurf"):
            rows = [self.tree.numbers(c, self.name, "ground profile") for c in children(p, "PntList2D")]
            if any(len(r) % 2 for r in rows):
                raise self.tree.bad(p, f"{len(rows[0])} numbers", self.name, "ground profile", "a row of station, level pairs")
            if rows:
                table = np.concatenate(rows).reshape(-1, 2) * self.tree.factor
                grounds[_free(p.get("name") or f"ground {len(grounds) + 1}", grounds)] = table
        return found, grounds

    def _pvis(self, element: Any) -> tuple[PVI, ...]:
        rows: list[tuple[float, float, float, float, float | None]] = []  # station, level, halves, radius of a circle
        told: list[float | None] = []
        for v in element:
            kind = tag(v)
            if kind not in ("PVI", "ParaCurve", "UnsymParaCurve", "CircCurve"):
                if kind and kind != "Feature":
                    self.tell("doubt", "profile-left-out", what=kind)
                continue
            values = self.tree.numbers(v, self.name, kind)
            if len(values) != 2:
                raise self.tree.bad(v, v.text or "", self.name, kind, "station and level")
            station, level = (float(x) for x in values * self.tree.factor)
            lengths = [self.tree.length(v, k, self.name) for k in ("lengthIn", "lengthOut")]
            whole, radius = self.tree.length(v, "length", self.name), self.tree.length(v, "radius", self.name)
            half_in = half_out = 0.0
            if kind == "ParaCurve":
                half_in = half_out = self._needed(v, whole, "length") / 2
            elif kind == "UnsymParaCurve":
                half_in, half_out = (self._needed(v, x, k) for x, k in zip(lengths, ("lengthIn", "lengthOut"), strict=True))
            elif kind == "CircCurve" and not radius:
                half_in = half_out = self._needed(v, whole, "radius or length") / 2
            rows.append((station, level, half_in, half_out, radius if kind == "CircCurve" else None))
            told.append(whole if kind == "CircCurve" else None)
        return tuple(self._pvi(rows, told, i, element) for i in range(len(rows)))

    def _needed(self, v: Any, value: float | None, what: str) -> float:
        if value is None or value < 0:
            raise self.tree.bad(v, tag(v), self.name, what, f"complete: it has no {what}")
        return value

    def _pvi(self, rows: list[Any], told: list[float | None], i: int, element: Any) -> PVI:
        station, level, half_in, half_out, radius = rows[i]
        if told[i] is None and radius is None:
            return PVI(station, level, half_in, half_out)
        if not 0 < i < len(rows) - 1:
            raise self.tree.bad(element, "CircCurve", self.name, "profile", "between two other points, as a curve must be")
        runs = [rows[k + 1][0] - rows[k][0] for k in (i - 1, i)]
        if min(runs) <= COINCIDENT:
            raise self.tree.bad(element, f"{station:.3f}", self.name, "profile", "a station after the one before it")
        a, b = (float(np.arctan((rows[k + 1][1] - rows[k][1]) / run)) for k, run in zip((i - 1, i), runs, strict=True))
        if radius:
            plan, arc = radius * abs(np.sin(b) - np.sin(a)), radius * abs(b - a)
            length = told[i]
            if length is not None and min(abs(length - plan), abs(length - arc)) > LENGTHS_AGREE:
                self.tell("doubt", "circle-length-differs", station=station, given=length, value=plan, radius=radius)
            half_in = half_out = plan / 2
        if half_in > 0:
            self.tell("note", "circle-kept", station=station)
        return PVI.circle(station, level, half_in + half_out, a, b)

    # --- what else hangs on it -----------------------------------------------------------------------------------
    def equations(self) -> tuple[tuple[float, float], ...]:
        out: list[tuple[float, float]] = []
        for e in children(self.element, "StaEquation"):
            try:
                inner, back, ahead = (self.tree.station(e, k, self.name) for k in ("staInternal", "staBack", "staAhead"))
            except FormatError:
                inner = back = ahead = None
            if back is not None and ahead is not None and inner is None:
                inner = back - sum(jump for _, jump in out)
            if inner is None or back is None or ahead is None:
                self.tell("doubt", "equation-left-out")
                continue
            out.append((inner, ahead - back))
        left = sum(len(c) for c in children(self.element, "CrossSects"))
        if left:
            self.tree.findings.append(
                Finding("note", "left-out", {"count": left, "what": f"cross section of alignment {self.name}"})
            )
        return tuple(sorted(out))

    def turnings(self) -> tuple[LandXmlTurning, ...]:
        """Where the carriageway turns, by LandXML's places; rates in percent there."""
        words = {
            "BeginRunoutSta": "begin_runout", "BeginRunoffSta": "begin_runoff", "FullSuperSta": "full_from", "RunoffSta": "full_to",
            "StartofRunoutSta": "end_runoff", "EndofRunoutSta": "end_runout",
        }  # fmt: skip
        out = []
        for s in children(self.element, "Superelevation"):
            found: dict[str, float] = {}
            for c in s:
                if (kind := tag(c)) in words or kind == "FullSuperelev":
                    values = self.tree.numbers(c, self.name, kind)
                    if len(values) != 1:
                        raise self.tree.bad(c, c.text or "", self.name, kind, "one number")
                    value = float(values[0])
                    found[words.get(kind, "rate")] = value / 100 if kind == "FullSuperelev" else value * self.tree.factor
            out.append(LandXmlTurning(**found))
        return tuple(out)


def _straight_row(start: Floats, end: Floats) -> Row:
    chord = end - start
    return start, float(np.arctan2(chord[0], chord[1]) % (2 * np.pi)), float(np.hypot(*chord)), 0.0, 0.0


def _free(name: str, taken: dict[str, Any]) -> str:
    number, free = 2, name
    while free in taken:
        free, number = f"{name} {number}", number + 1
    return free
