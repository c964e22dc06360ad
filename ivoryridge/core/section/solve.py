"""The solver: places every node of one side of a template at all stations, column by column.

Each node is two arrays over the stations. Rules are array expressions, cases are masks; there is no loop over
stations. The order of nodes follows from their references.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from graphlib import CycleError, TopologicalSorter
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from .expression import evaluate_expression
from .meeting import elevation_on_ground, meet_ground
from .roles import CENTRE
from .template import RULES, Node, Part, PlacedPart

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

__all__ = ["START", "SideColumns", "order_of", "solve_side"]

START = "start"


@dataclass(frozen=True, slots=True, eq=False)
class SideColumns:
    """The nodes of one side at n stations, in order from the centre outward.

    names : node names, ``part.node``; the first is the start on the centre line
    across : (k, n) float, m     outward from the line, NaN where the node is not present
    level : (k, n) float, m
    present : (k, n) bool        the node is built here: its case is taken, and what it had to meet was met
    roles, guide : per node
    runs : (indices, roles)      rows of edges, outward
    areas : (name, material, indices)
    case_of : part id -> (n,) int index of the case taken, and its case names
    unmet : node -> (n,) bool    a slope that had to meet the ground here and did not
    reach : node -> (n,) float   where its search ended, m outward
    """

    names: tuple[str, ...]
    across: Floats
    level: Floats
    present: Mask
    roles: tuple[str, ...]
    guide: tuple[bool, ...]
    runs: tuple[tuple[tuple[int, ...], tuple[str, ...]], ...]
    areas: tuple[tuple[str, str, tuple[int, ...]], ...]
    case_of: Mapping[str, tuple[NDArray[np.int64], tuple[str, ...]]]
    unmet: Mapping[str, Mask]
    reach: Mapping[str, Floats]

    def index(self, name: str) -> int:
        return self.names.index(name)

    def outline(self, role: str) -> tuple[int, ...]:
        """The nodes along the finished surface or the formation, outward; at a station those present are joined."""
        return tuple(dict.fromkeys(i for nodes, roles in self.runs if role in roles for i in nodes))

    def placed(self, role: str) -> tuple[Floats, Floats]:
        """Across and level (k, n) of the nodes along one outline, outward; NaN where a node is not present."""
        index = list(self.outline(role))
        present = self.present[index]
        return np.where(present, self.across[index], np.nan), np.where(present, self.level[index], np.nan)

    def farthest(self) -> Floats:
        """(n,) m outward: the farthest node, and as far as slopes look."""
        return np.fmax.reduce([np.where(self.present, self.across, -np.inf).max(axis=0), *self.reach.values()])

    def take(self, index: Any) -> SideColumns:
        """Some of these stations."""
        return replace(
            self, across=self.across[:, index], level=self.level[:, index], present=self.present[:, index],
            case_of={k: (taken[index], names) for k, (taken, names) in self.case_of.items()},
            unmet={k: m[index] for k, m in self.unmet.items()}, reach={k: r[index] for k, r in self.reach.items()},
        )  # fmt: skip


@dataclass(slots=True)
class _Work:
    """What is known while the columns are filled. ``places``: node -> (across, level)."""

    n: int
    ground: tuple[Floats, Floats]
    followed: Mapping[str, tuple[Floats, Floats]]
    places: dict[str, tuple[Floats, Floats]] = field(default_factory=dict)
    unmet: dict[str, Mask] = field(default_factory=dict)
    reach: dict[str, Floats] = field(default_factory=dict)
    cases: dict[str, tuple[NDArray[np.int64], tuple[str, ...]]] = field(default_factory=dict)


def solve_side(
    parts: tuple[PlacedPart, ...],
    level: Any,
    ground: tuple[Floats, Floats],
    *,
    overrides: Mapping[str, Mapping[str, Any]] | None = None,
    followed: Mapping[str, tuple[Floats, Floats]] | None = None,
    start_across: Any = 0.0,
) -> SideColumns:
    """Place the nodes of one side.

    Parameters
    ----------
    level : (n,) float, m              profile level at the start
    ground : two (n, k) float, m       ground as across (outward, increasing) and level, NaN where unknown
    overrides : part id -> name -> (n,) or scalar    parameter values over the stations (adjustments)
    followed : line name -> across, level (n,)       lines that nodes may follow; a NaN level keeps the rule's own

    Raises
    ------
    InputError    a circle of references (naming the nodes), an unknown node or parameter
    """
    level = np.atleast_1d(np.asarray(level, float))
    n = len(level)
    work = _Work(n, ground, followed or {})
    work.places[START] = (np.broadcast_to(np.asarray(start_across, float), (n,)).copy(), level)
    start = START
    names, roles, guides = [START], [CENTRE], [False]
    runs: list[tuple[tuple[str, ...], tuple[str, ...]]] = []
    areas: list[tuple[str, str, tuple[str, ...]]] = []
    for placed in parts:
        values = {p.name: placed.value(p.name) for p in placed.part.parameters} | dict((overrides or {}).get(placed.id, {}))
        _solve_part(work, placed, values, start)
        for node in placed.part.nodes:
            name = f"{placed.id}.{node.name}"
            if name not in names:
                names.append(name)
                roles.append(node.role)
                guides.append(node.guide)

        def full(name: str, placed: PlacedPart = placed, start: str = start) -> str:
            return start if name == START else f"{placed.id}.{name}"

        runs += [(tuple(full(x) for x in r.nodes), r.roles) for r in placed.part.runs]
        areas += [(a.name, a.material, tuple(full(x) for x in a.nodes)) for a in placed.part.areas]
        start = f"{placed.id}.{placed.part.end}"
    position = {name: i for i, name in enumerate(names)}
    across = np.stack([work.places[name][0] for name in names])
    levels = np.stack([work.places[name][1] for name in names])
    return SideColumns(
        names=tuple(names), across=across, level=levels, present=np.isfinite(across) & np.isfinite(levels),
        roles=tuple(roles), guide=tuple(guides),
        runs=tuple((tuple(position[x] for x in nodes), r) for nodes, r in runs),
        areas=tuple((a, m, tuple(position[x] for x in nodes)) for a, m, nodes in areas),
        case_of=work.cases, unmet=work.unmet, reach=work.reach,
    )  # fmt: skip


def _solve_part(work: _Work, placed: PlacedPart, values: Mapping[str, Any], start: str) -> None:
    part, cases = placed.part, placed.part.cases
    order = order_of(placed)

    def place_of(name: str) -> tuple[Floats, Floats]:
        return work.places[start if name == START else f"{placed.id}.{name}"]

    taken = np.zeros(work.n, np.int64)
    for task in order:
        if task == "?cases":
            taken = _choose_cases(work, cases, place_of, placed)
            work.cases[placed.id] = (taken, tuple(c.name for c in cases))
        elif task != START:
            _place_node(work, placed, [n for n in part.nodes if n.name == task], values, place_of, taken)


_orders: WeakKeyDictionary[Part, tuple[str, ...]] = WeakKeyDictionary()  # a part is frozen, so its order is found once


def order_of(placed: PlacedPart) -> tuple[str, ...]:
    """Nodes of a part, and ``?cases`` for the choice among its cases, each after what it needs."""
    part = placed.part
    if part in _orders:
        return _orders[part]
    known = {n.name for n in part.nodes} | {START}
    wanted: dict[str, set[str]] = {}  # task -> tasks it needs; a case's condition is a task of its own
    for node in part.nodes:
        needs = wanted.setdefault(node.name, set())
        for slot in RULES[node.kind][0]:
            if node.slots[slot] not in known:
                raise InputError("unknown-node", node=f"{placed.id}.{node.name}", missing=node.slots[slot])
            needs.add(node.slots[slot])
        if node.cases:
            needs.add("?cases")
    if part.cases:
        wanted["?cases"] = {c.at for c in part.cases if c.at}
        for missing in wanted["?cases"] - known:
            raise InputError("unknown-node", node=f"{placed.id} (case)", missing=missing)
    try:
        _orders[part] = tuple(TopologicalSorter(wanted).static_order())
    except CycleError as error:
        nodes = [f"{placed.id}.{n}" for n in error.args[1] if n != "?cases"]
        raise InputError("template-circle", nodes=", ".join(dict.fromkeys(nodes))) from error
    return _orders[part]


def _choose_cases(work: _Work, cases: Any, place_of: Any, placed: PlacedPart) -> NDArray[np.int64]:
    taken = np.full(work.n, -1, np.int64)
    for k, case in enumerate(cases):
        if case.kind == "otherwise":
            holds = np.ones(work.n, bool)
        else:
            across, level = place_of(case.at)
            if case.kind == "met":
                holds = np.isfinite(across)
            else:
                ground = elevation_on_ground(across, work.ground)
                with np.errstate(invalid="ignore"):
                    holds = level > ground if case.kind == "in_fill" else level < ground
        taken = np.where((taken < 0) & holds, k, taken)
    return taken


def _place_node(
    work: _Work, placed: PlacedPart, variants: list[Node], values: Mapping[str, Any], place_of: Any, taken: Any
) -> None:
    across, level = np.full(work.n, np.nan), np.full(work.n, np.nan)
    full = f"{placed.id}.{variants[0].name}"
    case_names = [c.name for c in placed.part.cases]
    for node in variants:
        here = _in_cases(taken, case_names, node.cases) if node.cases else np.ones(work.n, bool)
        if not here.any():
            continue
        u, z = _apply_rule(work, placed, node, values, place_of, here)
        across, level = np.where(here, u, across), np.where(here, z, level)
    work.places[full] = (across, level)


def _in_cases(taken: NDArray[np.int64], names: list[str], wanted: tuple[str, ...]) -> Mask:
    """Where one of the wanted cases is taken; -1 (none) looks up the last place, which is never wanted."""
    table = np.zeros(len(names) + 1, bool)
    table[[names.index(c) for c in wanted]] = True
    return table[taken]


def _apply_rule(
    work: _Work, placed: PlacedPart, node: Node, values: Mapping[str, Any], place_of: Any, here: Mask
) -> tuple[Floats, Floats]:
    slots = node.slots

    def quantity(slot: str) -> Any:
        return evaluate_expression(slots[slot], values, part=placed.part.label)

    def word(slot: str, usual: str) -> str:
        given = slots.get(slot, usual)
        return str(values.get(given, given))

    def signed(slot: str, sense: str) -> Any:
        return quantity(slot) * (1.0 if word(sense, "rise") == "rise" else -1.0)

    way = 1.0 if word("way", "outward") == "outward" else -1.0
    u0, z0 = place_of(slots["from"])
    match node.kind:
        case "across_at_slope":
            width = quantity("across")
            return u0 + way * width, z0 + width * signed("slope", "sense")
        case "across_and_up":
            return u0 + way * quantity("across"), z0 + signed("up", "sense")
        case "slope_until_level":
            change = quantity("change")
            slope = quantity("slope")
            with np.errstate(divide="ignore", invalid="ignore"):
                width = np.where(np.asarray(slope) > 0, change / slope, np.nan)
            return u0 + way * width, z0 + (change if word("sense", "rise") == "rise" else -change)
        case "slope_until_surface":
            return _meet_rule(work, placed, node, u0, z0, signed("slope", "sense"), quantity, word, place_of, here)
        case "crossing":
            u1, z1 = place_of(slots["other"])
            s0, s1 = signed("slope", "sense"), signed("other_slope", "other_sense")
            with np.errstate(divide="ignore", invalid="ignore"):
                u = np.where(s0 == s1, np.nan, (z1 - z0 + s0 * u0 - s1 * u1) / (np.asarray(s0) - s1))
            return u, z0 + s0 * (u - u0)
        case "part_way":
            u1, z1 = place_of(slots["to"])
            share = quantity("share")
            return u0 + share * (u1 - u0), z0 + share * (z1 - z0)
        case "angle_and_length":
            angle, length = np.radians(quantity("angle_deg")), quantity("length")
            return u0 + way * length * np.cos(angle), z0 + length * np.sin(angle)
        case "on_line":
            if slots["line"] not in work.followed:
                return np.full(work.n, np.nan), np.full(work.n, np.nan)
            u, z = work.followed[slots["line"]]
            return u, np.where(np.isfinite(z), z, z0)
    raise AssertionError(node.kind)  # RULES and this match have the same kinds; test_solve holds it


def _meet_rule(
    work: _Work, placed: PlacedPart, node: Node, u0: Any, z0: Any, slope: Any, quantity: Any, word: Any, place_of: Any, here: Mask
) -> tuple[Floats, Floats]:
    hinge = place_of(START)[0]
    reach = quantity("within") if "within" in node.slots else np.inf
    limit = (hinge if word("within_from", "hinge") == "hinge" else 0.0) + np.asarray(reach)
    limit = np.broadcast_to(limit, (work.n,))
    start = np.where(here, u0, np.nan)
    u, z = meet_ground(start, z0, slope, work.ground, limit=limit, last=word("crossing", "first") == "last")
    full = f"{placed.id}.{node.name}"
    missed = here & np.isfinite(u0) & np.isnan(u)
    work.unmet[full] = work.unmet.get(full, np.zeros(work.n, bool)) | missed
    work.reach[full] = np.where(here, limit, work.reach.get(full, np.full(work.n, np.nan)))
    return u, z
