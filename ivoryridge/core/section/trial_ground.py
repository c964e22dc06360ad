"""A template over a ground that a person bends: solved at once with the usual grounds, with the reasons for what was taken."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..wording import Words, words
from .columns import SideColumns
from .formula import evaluate_formula
from .meeting import elevation_on_ground, meet_ground
from .part import START, Case
from .rules import GROUND
from .solve import solve_side
from .template import PlacedPart, Template, value_said

Floats = NDArray[np.float64]
Line = Sequence[tuple[float, float]]
Side = Literal["left", "right"]

__all__ = ["PRESETS", "Passed", "Tried", "passed_by", "preset_grounds", "reason_of", "try_out"]

PRESETS = ("deep cut", "shallow cut", "level", "shallow fill", "deep fill", "side hill", "hump", "dip")
_FAR = 80.0  # m to either side that a preset reaches


@dataclass(frozen=True, slots=True, eq=False)
class Tried:
    """A template over n grounds: ``ground`` offset and level (n, k), + right, NaN beyond a line's end."""

    template: Template
    ground: tuple[Floats, Floats]
    left: SideColumns
    right: SideColumns

    def side(self, name: Side) -> tuple[SideColumns, tuple[PlacedPart, ...], tuple[Floats, Floats]]:
        """Columns, parts, and the ground outward."""
        u, z = self.ground
        if name == "right":
            return self.right, self.template.right, (u, z)
        return self.left, self.template.left, outward(u, z)


def _rows(lines: Sequence[Line]) -> tuple[Floats, Floats]:
    """Lines as rows of one length, NaN beyond a line's end."""
    most = max(len(line) for line in lines)
    u, z = np.zeros((len(lines), most)), np.full((len(lines), most), np.nan)
    for i, line in enumerate(lines):
        u[i] = line[-1][0]
        u[i, : len(line)], z[i, : len(line)] = np.array(line, float).T
    return u, z


def outward(u: Floats, z: Floats) -> tuple[Floats, Floats]:
    return np.ascontiguousarray(-u[:, ::-1]), np.ascontiguousarray(z[:, ::-1])


def preset_grounds(half_width: float, level: float) -> dict[str, list[tuple[float, float]]]:
    """The usual grounds under a road of some half width (m) whose centre lies at a level (m)."""
    w, far = max(half_width, 3.0), _FAR

    def flat(up: float) -> list[tuple[float, float]]:
        return [(-far, level + up), (far, level + up)]

    h = w + 1.5
    return {
        "deep cut": flat(7.0), "shallow cut": flat(1.2), "level": flat(-0.2), "shallow fill": flat(-1.2), "deep fill": flat(-7.0),
        "side hill": [(-far, level - far / 5), (far, level + far / 5)],
        "hump": [(-far, level - 2.5), (h, level - 2.5), (h + 2, level - 0.6), (h + 4.5, level - 3.0), (far, level - 3.4)],
        "dip": [(-far, level - 2.0), (h, level - 2.0), (h + 3, level - 4.5), (h + 6, level - 2.2), (far, level - 1.8)],
    }  # fmt: skip


def try_out(
    template: Template,
    level: float,
    grounds: Sequence[Line],
    *,
    surfaces: Mapping[str, Sequence[Line]] | None = None,
    turned: Mapping[Side, Mapping[str, Mapping[str, Any]]] | None = None,
) -> Tried:
    """Solve a template over some grounds at once, (offset + right, level) m each, offsets increasing.

    ``surfaces``: others that targets are bound to, by name, a line for each ground. ``turned``: values that hold
    instead of the template's, as ``solve_side`` takes them. Raises InputError as ``solve_side`` does.
    """
    n = len(grounds)
    rows = _rows(grounds)
    others = {k: _rows(lines) for k, lines in (surfaces or {}).items()}
    levels = np.full(n, level)
    sides = {}
    for name, parts in (("left", template.left), ("right", template.right)):
        ground = rows if name == "right" else outward(*rows)
        beside = {k: s if name == "right" else outward(*s) for k, s in others.items()}
        sides[name] = solve_side(parts, levels, ground, overrides=(turned or {}).get(name), surfaces=beside)  # type: ignore[call-overload]
    return Tried(template, rows, sides["left"], sides["right"])


# --- why --------------------------------------------------------------------------------------------------------
def reason_of(
    placed: PlacedPart, side: SideColumns, ground: tuple[Floats, Floats], i: int, start: str
) -> tuple[str, Words] | None:
    """The case that a part takes at one section and why, in words; "" where none holds. None for a part without cases.

    ``start``: the node at which the part begins.
    """
    if placed.id not in side.case_of:
        return None
    taken, names = side.case_of[placed.id]
    k = int(taken[i])

    def place(name: str) -> tuple[float, float]:
        j = side.index(start if name == START else f"{placed.id}.{name}")
        return float(side.across[j, i]), float(side.level[j, i])

    if k < 0:
        dark = placed.id in side.unknown and bool(side.unknown[placed.id][i])
        return "", words("the ground is not known where a case asks for it") if dark else words("no case holds")
    case = placed.part.cases[k]
    told = [_why(one, placed, place, ground, i) for one in (case, *case.also)]
    out = told[0]
    for more in told[1:]:
        out = out + ", and " + more
    return names[k], out


def _why(case: Case, placed: PlacedPart, place: Any, ground: tuple[Floats, Floats], i: int) -> Words:
    match case.kind:
        case "otherwise":
            return words("no case before it holds")
        case "choice":
            p = placed.part.parameter(case.slots["parameter"])
            return words("{label} is {value}", label=p.label.lower(), value=str(placed.value(p.name)))
        case "crossfall":
            return words("this side falls {way}", way=case.slots["way"])
        case "met":
            return words("{at} meets what it looks for", at=_name(case.at))
        case "not_met":
            return words("{at} does not meet what it looks for", at=_name(case.at))
    u, z = place(case.at)
    if case.kind == "rise":
        height = abs(z - place(case.slots["from"])[1])
        return words("{at} lies {h:m.2} from {since} in level{bounds}", at=_name(case.at), h=height, since=_name(case.slots["from"]),
                     bounds=_bounds(case, placed))  # fmt: skip
    below = float(elevation_on_ground(np.array([u]), (ground[0][i : i + 1], ground[1][i : i + 1]))[0])
    bounds = _bounds(case, placed) if case.kind == "height" else words("")
    way = "above" if z > below else "below"
    return words("{at} lies {h:m.2} {way} the ground{bounds}", at=_name(case.at), h=abs(z - below), way=way, bounds=bounds)


def _name(node: str) -> str:
    return "its start" if node == START else node


def _bounds(case: Case, placed: PlacedPart) -> Words:
    values = placed.all_values()

    def said(slot: str) -> Words | None:
        held = case.slots.get(slot, "")
        return None if held == "" else value_said("length", float(evaluate_formula(held, values, part=placed.part.label)))

    least, greatest = said("least"), said("greatest")
    if least and greatest:
        return words(" ({a} to {b})", a=least, b=greatest)
    if least or greatest:
        return words(" (at {which} {a})", which="least" if least else "most", a=least or greatest)
    return words("")


# --- what was passed by --------------------------------------------------------------------------------------
@dataclass(frozen=True, slots=True)
class Passed:
    """A slope's first and last crossing at one section, across and level m; they differ."""

    node: str
    first: tuple[float, float]
    last: tuple[float, float]
    takes_last: bool


def passed_by(side: SideColumns, ground: tuple[Floats, Floats], i: int) -> list[Passed]:
    """Slopes to the ground that have more than one crossing within their search at a section."""
    out = []
    row = (ground[0][i : i + 1], ground[1][i : i + 1])
    for node, sight in side.sights.items():
        j = side.index(node)
        if sight.target != GROUND or side.guide[j] or not np.isfinite(sight.across[i]):
            continue
        ray = (sight.across[i : i + 1], sight.level[i : i + 1], sight.slope[i : i + 1])
        found = [meet_ground(*ray, row, limit=sight.limit[i : i + 1], last=last) for last in (False, True)]
        (u0, z0), (u1, z1) = ((float(u[0]), float(z[0])) for u, z in found)
        if np.isfinite(u0) and np.isfinite(u1) and u1 - u0 > 1e-6:
            out.append(Passed(node, (u0, z0), (u1, z1), sight.last))
    return out
