"""The solver: places every node of one side of a template at all stations, column by column.

Each node is two arrays over the stations. Rules are array expressions, cases are masks; there is no loop over
stations. The order of nodes follows from their references.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from graphlib import CycleError, TopologicalSorter
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from ..geometry.areas import areas_between, greatest_over
from .columns import LaidUpon, SideColumns, Sight
from .formula import evaluate_formula
from .lead import LEADABLE, Lead, led_to
from .meeting import elevation_on_ground, level_on_run, meet_ground
from .part import START, Case, Node, Part, Upon
from .roles import CENTRE
from .rules import ALIASES, GROUND, RULES
from .template import PlacedPart

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

__all__ = ["order_of", "solve_side"]


@dataclass(slots=True)
class _Work:
    """What is known while the columns are filled. ``places``: node -> (across, level)."""

    n: int
    ground: tuple[Floats, Floats]
    followed: Mapping[str, tuple[Floats, Floats]]
    surfaces: Mapping[str, tuple[Floats, Floats]]
    fall: Any  # of the side's lanes, outward; None where nothing turns
    crossing: str  # "first" or "last" for all slopes; empty: as they say
    led: Mapping[str, Sequence[Lead]]
    everywhere: Mask
    unled: dict[str, Mask] = field(default_factory=dict)
    places: dict[str, tuple[Floats, Floats]] = field(default_factory=dict)
    unmet: dict[str, Mask] = field(default_factory=dict)
    reach: dict[str, Floats] = field(default_factory=dict)
    cases: dict[str, tuple[NDArray[np.int64], tuple[str, ...]]] = field(default_factory=dict)
    unknown: dict[str, Mask] = field(default_factory=dict)
    sights: dict[str, Sight] = field(default_factory=dict)

    def row(self, value: Any) -> Floats:
        """A value for all stations, (n,)."""
        if isinstance(value, np.ndarray) and value.shape == (self.n,):
            return value
        return np.array(np.broadcast_to(value, (self.n,)), float)


def solve_side(
    parts: tuple[PlacedPart, ...],
    level: Any,
    ground: tuple[Floats, Floats],
    *,
    overrides: Mapping[str, Mapping[str, Any]] | None = None,
    followed: Mapping[str, tuple[Floats, Floats]] | None = None,
    surfaces: Mapping[str, tuple[Floats, Floats]] | None = None,
    start_across: Any = 0.0,
    crossing: str = "",
    led: Mapping[str, Sequence[Lead]] | None = None,
) -> SideColumns:
    """Place the nodes of one side.

    Parameters
    ----------
    level : (n,) float, m              profile level at the start
    ground : two (n, k) float, m       ground as across (outward, increasing) and level, NaN where unknown
    overrides : part id -> name -> (n,) or scalar    parameter values over the stations (adjustments)
    followed : line name -> across, level (n,)       lines that nodes may follow; a NaN level keeps the rule's own
    surfaces : surface name -> across, level (n, k)  other surfaces that targets are bound to, as ``ground``
    crossing : "first" or "last"                     takes that crossing for all slopes, whatever they say; for comparisons
    led : node -> what leads it                      one after another

    Raises
    ------
    InputError    a circle of references (naming the nodes), an unknown node or parameter, a target that is not bound
    """
    level = np.atleast_1d(np.asarray(level, float))
    n = len(level)
    fall = _fall_of(parts, overrides or {})
    work = _Work(n, ground, followed or {}, surfaces or {}, fall, crossing, led or {}, np.ones(n, bool))
    work.places[START] = (np.broadcast_to(np.asarray(start_across, float), (n,)).copy(), level)
    start = START
    names, roles, guides = [START], [CENTRE], [False]
    runs: list[tuple[tuple[str, ...], tuple[str, ...]]] = []
    areas: list[tuple[str, str, tuple[str, ...]]] = []
    laid: list[LaidUpon] = []
    for placed in parts:
        values = placed.all_values() | dict((overrides or {}).get(placed.id, {}))
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
        laid += [_laid_upon(work, placed, x, values, [work.places[full(name)] for name in x.nodes]) for x in placed.part.upon]
        start = full(placed.part.end)
    position = {name: i for i, name in enumerate(names)}
    across = np.stack([work.places[name][0] for name in names])
    levels = np.stack([work.places[name][1] for name in names])
    return SideColumns(
        names=tuple(names), across=across, level=levels, present=np.isfinite(across) & np.isfinite(levels),
        roles=tuple(roles), guide=tuple(guides),
        runs=tuple((tuple(position[x] for x in nodes), r) for nodes, r in runs),
        areas=tuple((a, m, tuple(position[x] for x in nodes)) for a, m, nodes in areas),
        case_of=work.cases, unmet=work.unmet, reach=work.reach, unknown=work.unknown, sights=work.sights,
        unled=work.unled, upon=tuple(laid),
    )  # fmt: skip


def _laid_upon(
    work: _Work, placed: PlacedPart, upon: Upon, values: Mapping[str, Any], places: Sequence[tuple[Floats, Floats]]
) -> LaidUpon:
    target = _target(work, placed, upon.target)
    across, level = (np.stack([p[k] for p in places], axis=-1) for k in (0, 1))
    if isinstance(target, float):
        target = (np.tile([-1e4, 1e4], (work.n, 1)), np.full((work.n, 2), target))
    found = areas_between((across, level), target)
    allowed = evaluate_formula(upon.allowed, values, part=placed.part.label)
    return LaidUpon(
        placed.id, upon.made_up, upon.taken_off, found[:, [1, 0]].T.copy(), found[:, [3, 2]].T.copy(),
        greatest_over((across, level), target), np.broadcast_to(np.asarray(allowed, float), (work.n,)).copy(),
    )  # fmt: skip


def _fall_of(parts: tuple[PlacedPart, ...], overrides: Mapping[str, Mapping[str, Any]]) -> Any:
    """Outward fall of the lanes of a side, a number or (n,); None where nothing turns."""
    for placed in parts:
        by = {p.turns: p.name for p in placed.part.parameters if p.turns in ("lane", "lane way")}
        if "lane" in by:
            values = placed.all_values() | dict(overrides.get(placed.id, {}))
            inward = "lane way" in by and ALIASES.get(values[by["lane way"]], values[by["lane way"]]) == "rise"
            return -values[by["lane"]] if inward else values[by["lane"]]
    return None


def _solve_part(work: _Work, placed: PlacedPart, values: Mapping[str, Any], start: str) -> None:
    part, cases = placed.part, placed.part.cases

    def place_of(name: str) -> tuple[Floats, Floats]:
        return work.places[start if name == START else f"{placed.id}.{name}"]

    taken = np.zeros(work.n, np.int64)
    variants: dict[str, list[Node]] = {}
    for node in part.nodes:
        variants.setdefault(node.name, []).append(node)
    for task in order_of(placed):
        if task == "?cases":
            taken = _choose_cases(work, cases, place_of, placed, values)
            work.cases[placed.id] = (taken, tuple(c.name for c in cases))
        elif task != START:
            _place_node(work, placed, variants[task], values, place_of, taken)


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
        needs |= _named(node, part)
        for missing in needs - known - {"?cases"}:
            raise InputError("unknown-node", node=f"{placed.id}.{node.name}", missing=missing)
        if node.cases:
            for missing in set(node.cases) - {c.name for c in part.cases}:
                raise InputError("unknown-case", node=f"{placed.id}.{node.name}", missing=missing)
            needs.add("?cases")
    if part.cases:
        wanted["?cases"] = {n for c in part.cases for one in (c, *c.also) for n in (one.at, one.slots.get("from", "")) if n}
        for missing in wanted["?cases"] - known:
            raise InputError("unknown-node", node=f"{placed.id} (case)", missing=missing)
    used = {n for r in part.runs for n in r.nodes} | {n for a in part.areas for n in a.nodes} | {part.end}
    for missing in sorted(used - known):
        raise InputError("unknown-node", node=f"{placed.id} (its runs, areas and end)", missing=missing)
    try:
        _orders[part] = tuple(TopologicalSorter(wanted).static_order())
    except CycleError as error:
        nodes = [f"{placed.id}.{n}" for n in error.args[1] if n != "?cases"]
        raise InputError("template-circle", nodes=", ".join(dict.fromkeys(nodes))) from error
    return _orders[part]


def _named(node: Node, part: Part) -> set[str]:
    """The nodes that a node's rule names, those of the run it lies parallel to among them."""
    rule = RULES[node.kind]
    out = {node.slots[s] for s in rule.of("node")}
    for slot in rule.of("run"):
        run = next((r for r in part.runs if r.called == node.slots[slot]), None)
        if run is None:
            raise InputError("unknown-run", node=node.name, missing=node.slots[slot])
        out |= set(run.nodes)
    return out - {node.name} if node.kind == "parallel" else out


def _choose_cases(work: _Work, cases: Any, place_of: Any, placed: PlacedPart, values: Mapping[str, Any]) -> NDArray[np.int64]:
    """The first case that holds, -1 where none does; where one hangs on ground that is not known, none is taken, `otherwise` neither."""
    taken = np.full(work.n, -1, np.int64)
    unknown = np.zeros(work.n, bool)
    for k, case in enumerate(cases):
        holds, dark = _holds(work, case, place_of, placed, values)
        for more in case.also:
            also, darker = _holds(work, more, place_of, placed, values)
            dark |= holds & darker
            holds = holds & also
        unknown |= (taken < 0) & dark
        taken = np.where((taken < 0) & holds & ~unknown, k, taken)
    if unknown.any():
        work.unknown[placed.id] = unknown
    return taken


def _holds(work: _Work, case: Case, place_of: Any, placed: PlacedPart, values: Mapping[str, Any]) -> tuple[Mask, Mask]:
    """Where a case holds, and where that cannot be known, (n,)."""
    nowhere = np.zeros(work.n, bool)

    def within(height: Any) -> Mask:
        bounds = [
            evaluate_formula(case.slots[b], values, part=placed.part.label) if case.slots.get(b, "") != "" else usual
            for b, usual in (("least", -np.inf), ("greatest", np.inf))
        ]
        with np.errstate(invalid="ignore"):
            return np.asarray((height >= bounds[0]) & (height <= bounds[1]))

    match case.kind:
        case "otherwise":
            return ~nowhere, nowhere
        case "choice":
            return np.full(work.n, str(values.get(case.slots["parameter"])) == case.slots["value"]), nowhere
        case "crossfall":
            if work.fall is None:
                return nowhere, nowhere
            outward = np.broadcast_to(np.asarray(work.fall) >= 0, (work.n,))
            return outward == (case.slots["way"] == "outward"), nowhere
    across, level = place_of(case.at)
    match case.kind:
        case "met":
            return np.isfinite(across), nowhere
        case "not_met":
            return ~np.isfinite(across), nowhere
        case "rise":
            return within(np.abs(level - place_of(case.slots["from"])[1])), nowhere
    ground = elevation_on_ground(across, work.ground)
    dark = np.isfinite(across) & np.isnan(ground)
    if case.kind == "height":
        height = level - ground if case.slots["of"] == "fill" else ground - level
        with np.errstate(invalid="ignore"):
            return within(height) & (height > 0), dark
    with np.errstate(invalid="ignore"):
        return (level > ground if case.kind == "in_fill" else level < ground), dark


def _place_node(
    work: _Work, placed: PlacedPart, variants: list[Node], values: Mapping[str, Any], place_of: Any, taken: Any
) -> None:
    full = f"{placed.id}.{variants[0].name}"
    case_names = [c.name for c in placed.part.cases]
    found: tuple[Any, Any] = np.nan, np.nan
    for node in variants:
        here = _in_cases(taken, case_names, node.cases) if node.cases else work.everywhere
        count = np.count_nonzero(here)
        if not count:
            continue
        u, z = _apply_rule(work, placed, node, values, place_of, here)
        if full in work.led and node.kind in LEADABLE:
            u, z = _lead(work, full, u, z, place_of(node.slots["from"]), here, upright=node.kind == "across_and_up")
        found = (u, z) if count == work.n else (np.where(here, u, found[0]), np.where(here, z, found[1]))
    across, level = (work.row(v) for v in found)
    work.places[full] = (across, level)


def _lead(
    work: _Work, full: str, u: Any, z: Any, start: tuple[Floats, Floats], here: Mask, *, upright: bool
) -> tuple[Floats, Floats]:
    u, z = (np.array(np.broadcast_to(a, (work.n,)), float) for a in (u, z))
    for lead in work.led[full]:
        u, z, missed = led_to(lead, u, z, *start, upright=upright)
        work.unled[full] = work.unled.get(full, np.zeros(work.n, bool)) | (missed & here)
    return u, z


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
        return evaluate_formula(slots[slot], values, part=placed.part.label, angle=slot == "angle_deg")

    def word(slot: str) -> str:
        given = str(slots.get(slot) or RULES[node.kind].slot(slot).usual)  # type: ignore[union-attr]
        chosen = values.get(given)  # of a choice parameter of that name; one that is a number only has the name of a word
        said = chosen if isinstance(chosen, str) else given
        return ALIASES.get(said, said) if slot in ("sense", "other_sense") else said

    def signed(slot: str, sense: str) -> Any:
        return quantity(slot) * (1.0 if word(sense) == "rise" else -1.0)

    way = -1.0 if "way" in slots and word("way") == "inward" else 1.0
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
            return u0 + way * width, z0 + (change if word("sense") == "rise" else -change)
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
            u, z = work.followed.get(slots["line"], (np.full(work.n, np.nan),) * 2)
            return u, np.where(np.isfinite(z), z, z0)
        case "on_surface":
            target = _target(work, placed, slots.get("target") or GROUND)
            below = np.broadcast_to(target, (work.n,)) if isinstance(target, float) else elevation_on_ground(u0, target)
            return u0 + 0.0 * below, below + signed("gap", "sense")
        case "parallel":
            run = next(r for r in placed.part.runs if r.called == slots["run"])
            points = [place_of(n) for n in run.nodes if n != node.name]
            level = level_on_run(u0, np.stack([p[0] for p in points]), np.stack([p[1] for p in points]))
            return u0 + 0.0 * level, level + signed("gap", "sense")
    raise AssertionError(node.kind)  # RULES and this match have the same kinds; test_section holds it


def _target(work: _Work, placed: PlacedPart, name: str) -> tuple[Floats, Floats] | float:
    """What a target is bound to: a surface across and level, or a level in m. Raises InputError where it is not bound."""
    if name == GROUND:
        return work.ground
    bound = placed.targets.get(name)
    target = next((t for t in placed.part.targets if t.name == name), None)
    label = target.label if target else name
    if bound is None:
        raise InputError("target-unbound", part=placed.part.label, target=label, where={"part": placed.id, "target": name})
    if isinstance(bound, int | float):
        return float(bound)
    if bound == GROUND:
        return work.ground
    if bound not in work.surfaces:
        raise InputError(
            "target-gone", part=placed.part.label, target=label, name=bound, where={"part": placed.id, "target": name}
        )
    return work.surfaces[bound]


def _sight(here: Mask, now: tuple[Any, ...], before: tuple[Any, ...], target: str, last: bool) -> Sight:
    across, level, slope, limit = (np.where(here, a, b) for a, b in zip(now, before, strict=True))
    return Sight(across, level, slope, limit, target, last)


def _meet_rule(
    work: _Work, placed: PlacedPart, node: Node, u0: Any, z0: Any, slope: Any, quantity: Any, word: Any, place_of: Any, here: Mask
) -> tuple[Floats, Floats]:
    name = node.slots.get("target") or GROUND
    reach = quantity("within") if node.slots.get("within", "") != "" else np.inf
    base = {"hinge": place_of(START)[0], "centre": 0.0, "node": u0}[word("within_from")]
    limit = np.broadcast_to(base + np.asarray(reach), (work.n,))
    start = np.where(here, u0, np.nan)
    last = (work.crossing or word("crossing")) == "last"
    target = placed.targets.get(name)
    line = next((t for t in placed.part.targets if t.name == name and t.kind == "line"), None)
    if line is not None and isinstance(target, str) and target in work.followed:
        across = work.followed[target][0]
        u = np.where((across >= start) & (across <= limit), across, np.nan)
        z = z0 + slope * (u - u0)
    else:
        bound = _target(work, placed, name)
        if isinstance(bound, float):
            far = np.nanmax(np.where(np.isfinite(limit), limit, u0 + 1e4), initial=1.0)
            bound = (np.tile([-1e4, max(far, 1.0) + 1e4], (work.n, 1)), np.full((work.n, 2), bound))
        side = {"above": 1.0, "below": -1.0}.get(word("arriving"), 0.0)
        u, z = meet_ground(start, z0, slope, bound, limit=limit, last=last, side=side)
    full = f"{placed.id}.{node.name}"
    if not node.guide:
        missed = here & np.isfinite(u0) & np.isnan(u)
        work.unmet[full] = work.unmet.get(full, np.zeros(work.n, bool)) | missed
    nothing = np.full(work.n, np.nan)
    work.reach[full] = np.where(here, limit, work.reach.get(full, nothing))
    if node.guide:
        return u, z
    before = work.sights.get(full)
    now = (start, z0, slope, limit)
    rows = now if before is None else (before.across, before.level, before.slope, before.limit)
    work.sights[full] = _sight(here, now, rows, name, last)
    return u, z
