"""The part bench: a template over a trial ground, and what gestures in the drawing come to."""

from __future__ import annotations

import itertools
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any, cast

import numpy as np

from ivoryridge.core.corridor.turning import turned_falls
from ivoryridge.core.errors import InputError
from ivoryridge.core.geometry.areas import areas_between
from ivoryridge.core.section.check import broken_checks, faults_of
from ivoryridge.core.section.columns import SideColumns
from ivoryridge.core.section.edit_part import changed
from ivoryridge.core.section.library import library_data, library_part, library_parts
from ivoryridge.core.section.loops import crosses_itself, loop_at
from ivoryridge.core.section.materials import MATERIALS, OTHER, colour_of
from ivoryridge.core.section.missing import missing_nodes
from ivoryridge.core.section.part import CASES, PARAMETER_KINDS, START, Part, part_from_dict
from ivoryridge.core.section.place_node import moved_node
from ivoryridge.core.section.portable import in_unit
from ivoryridge.core.section.reach import reach_of
from ivoryridge.core.section.rules import RULES, rules_told
from ivoryridge.core.section.structure import USUAL, implausible
from ivoryridge.core.section.template import PlacedPart, Template, place_part
from ivoryridge.core.section.trial_ground import Side, Tried, passed_by, preset_grounds, reason_of, try_out
from ivoryridge.core.wording import quantity, spoken

from ..forms.sections import BenchAnswer, BenchPart, Drawn, Library, OwnPart, StructureTold
from ..inputs.sections import Stock, structure_of, template_of
from ..models import Part as PartRow
from ..models import Project, Structure, Surface
from ..models import Template as TemplateRow
from .section import side_drawn

__all__ = ["Wish", "bench_picture", "library_picture", "own_parts", "structures_told"]

Gesture = Mapping[str, Any]
_UNDER = 2.0  # m under the trial ground that another surface is taken to lie on the bench
_RAY = 400.0  # m that the ray of a slope without a limit is drawn, at most


@dataclass(frozen=True, slots=True)
class Wish:
    """What is to be shown: rows of parts on either side, the part that is chosen (side, id), steps tried on it, the trial ground.

    ``rates``: outward rise of the left and right half as turned, None as the template says; ``gesture``: what the pointer does.
    """

    left: Sequence[Mapping[str, Any]]
    right: Sequence[Mapping[str, Any]]
    chosen: tuple[Side, str] | None
    steps: Sequence[Mapping[str, Any]]
    ground: Sequence[tuple[float, float]] | None
    preset: str
    level: float
    rates: tuple[float, float] | None
    thumbs: bool
    gesture: Gesture | None
    surface: int | None = None  # the road's ground: what is bound to it is bound to the trial ground


def bench_picture(project: Project, wish: Wish) -> BenchAnswer:
    """Raises InputError where the template cannot be built; the page keeps its last good drawing then."""
    stock = Stock.of(project.pk)
    rows = {"left": [dict(r) for r in wish.left], "right": [dict(r) for r in wish.right]}
    chosen = next((r for r in rows[wish.chosen[0]] if r["id"] == wish.chosen[1]), None) if wish.chosen else None
    ref = chosen["part"] if chosen else None
    data = stock.data(ref) if ref is not None else None
    if data is not None and wish.steps:
        data = changed(data, wish.steps)
        stock = _with(stock, rows, ref, data)
    template = template_of("template", rows["left"], rows["right"], stock)
    grounds = _grounds(template, wish)
    tried = _tried(template, wish, grounds)
    steps: list[dict[str, Any]] = []
    values: dict[str, float] = {}
    if wish.gesture and chosen and data is not None and wish.chosen:
        steps, values = _what_it_means(tried, wish.chosen, chosen, part_from_dict(data), wish.gesture)
        if steps or values:
            chosen["values"] = {**chosen.get("values", {}), **values}
            if steps:
                data = changed(data, steps)
                stock = _with(stock, rows, ref, data)
            template = template_of("template", rows["left"], rows["right"], stock)
            tried = _tried(template, wish, grounds)
    cut, fill = _earth(tried)
    names = list(grounds)
    return {
        "sides": [side_drawn(sign, tried.side(s)[0].take([0]), s) for s, sign in _SIDES],
        "ground": list(grounds[names[0]]), "level": wish.level, "cut": cut, "fill": fill,
        "thumbs": [{"name": n, "ground": list(grounds[n]), "picture": _small(tried, i)} for i, n in enumerate(names) if i],
        "others": _others(project, template, wish, grounds[names[0]]),
        "sights": [s for side, sign in _SIDES for s in _sights(tried, side, sign)],
        "passed": [p for side, sign in _SIDES for p in _passed(tried, side, sign)],
        "reasons": [r for side, _ in _SIDES for r in _reasons(tried, side)],
        "told": _told(tried),
        "part": _part_told(project, ref, data, chosen, tried, wish) if data is not None and ref is not None else None,
        "steps": [{**s, "metres": True} for s in steps], "values": values,
    }  # fmt: skip


_SIDES: tuple[tuple[Side, float], ...] = (("left", -1.0), ("right", 1.0))


def _with(stock: Stock, rows: Mapping[str, list[dict[str, Any]]], ref: Any, data: Mapping[str, Any]) -> Stock:
    """The stock with a part as it would be; one of the library is tried under an id of its own."""
    if isinstance(ref, int):
        return stock.with_part(ref, data)
    for side in rows.values():
        for r in side:
            if r["part"] == ref:
                r["part"] = -1
    return stock.with_part(-1, data)


def _grounds(template: Template, wish: Wish) -> dict[str, Sequence[tuple[float, float]]]:
    if wish.ground and not wish.thumbs:
        return {"": wish.ground}
    presets = preset_grounds(_hinge(template), wish.level)
    trial = wish.ground or presets.get(wish.preset) or presets["shallow fill"]
    return {"": trial, **(presets if wish.thumbs else {})}


def _hinge(template: Template) -> float:
    """About how far out the built part of a template reaches: the sum of its lengths that are widths, at most 30 m."""
    reach = []
    for parts in (template.left, template.right):
        own = [p for p in parts if not any(RULES[n.kind].slot("target") for n in p.part.nodes)]
        reach.append(float(reach_of(tuple(own))[0]) if own else 0.0)
    return float(min(max(reach), 30.0))


def _tried(template: Template, wish: Wish, grounds: Mapping[str, Sequence[tuple[float, float]]]) -> Tried:
    turned = None
    if wish.rates is not None:
        rates = dict(zip(("left", "right"), wish.rates, strict=True))
        turned = {s: turned_falls(getattr(template, s), np.full(len(grounds), rates[s])) for s, _ in _SIDES}
    surfaces = {
        bound: [g if bound == f"surface {wish.surface}" else [(u, z - _UNDER) for u, z in g] for g in grounds.values()]
        for placed in (*template.left, *template.right)
        for bound in placed.targets.values()
        if isinstance(bound, str)
    }
    for side in (template.left, template.right):
        _all_bound(side)
    return try_out(template, wish.level, list(grounds.values()), surfaces=surfaces, turned=turned)


def _others(project: Project, template: Template, wish: Wish, ground: Sequence[tuple[float, float]]) -> list[Any]:
    """Other surfaces that parts are bound to, where the bench takes them to lie, and what is said of that."""
    bound = {b for p in (*template.left, *template.right) for b in p.targets.values() if isinstance(b, str)}
    ids = {int(b.split()[-1]) for b in bound} - {wish.surface}
    names = Surface.present.filter(project=project, pk__in=ids).order_by("pk").values_list("name", flat=True) if ids else ()
    told = quantity(_UNDER, "m", 0 if spoken().metre == 1.0 else 1)
    return [{"name": f"{name}: {told} under the ground here", "line": [(u, z - _UNDER) for u, z in ground]} for name in names]


def _all_bound(parts: Sequence[PlacedPart]) -> None:
    for p in parts:
        for t in p.part.targets:
            if t.name not in p.targets and t.kind != "line":
                raise InputError("target-unbound", part=p.part.label, target=t.label, where={"part": p.id, "target": t.name})


# --- gestures --------------------------------------------------------------------------------------------------
def _what_it_means(
    tried: Tried, chosen: tuple[Side, str], row: Mapping[str, Any], part: Part, gesture: Gesture
) -> tuple[list[dict[str, Any]], dict[str, float]]:
    """Steps on the part, and values of parameters, that a gesture comes to. ``to``: offset and level, + right."""
    side, pid = chosen
    sign = 1.0 if side == "right" else -1.0
    columns, parts, _ = tried.side(side)
    k = next(i for i, p in enumerate(parts) if p.id == pid)
    start = _start_of(parts, k)
    values = parts[k].all_values()

    def place(name: str) -> tuple[float, float]:
        full = start if name == START else f"{pid}.{name}"
        if full not in columns.names:
            raise InputError("unknown-node", node="the place that was clicked", missing=name)
        i = columns.index(full)
        return float(columns.across[i, 0]), float(columns.level[i, 0])

    u, z = sign * float(gesture["to"][0]), float(gesture["to"][1])
    match gesture["do"]:
        case "put":
            u0, z0 = place(gesture["since"])
            step = {
                "do": "add node",
                "since": gesture["since"],
                "by": [u - u0, z - z0],
                "on_ground": bool(gesture.get("on_ground")),
            }
            return [step], {}
        case "loop":
            places = {n.name: place(n.name) for n in part.nodes} | {START: place(START)}
            loop = loop_at(part, {n: p for n, p in places.items() if np.isfinite(p).all()}, (u, z))
            if loop is None:
                raise InputError(
                    "edit-unfit", part=part.label, reason="nothing closed lies round the place; join the nodes first"
                )
            return [{"do": "add area", "nodes": list(loop), "material": gesture.get("material") or "surfacing"}], {}
        case "drag":
            taken = columns.case_of[pid][0][0] if pid in columns.case_of else -1
            case = part.cases[taken].name if 0 <= taken < len(part.cases) else ""
            found = [i for i, n in enumerate(part.nodes) if n.name == gesture["node"] and (not n.cases or case in n.cases)]
            if not found:
                return [], {}
            node = part.nodes[found[0]]
            (u0, z0), (_, was) = place(node.slots["from"]), place(node.name)
            far = place(node.slots["to"]) if "to" in node.slots else (u0, z0)
            moved = moved_node(
                node, u - u0, z - z0, z - was, {p.name: p for p in part.parameters}, values, (far[0] - u0, far[1] - z0)
            )
            return [{"do": "set slot", "node": found[0], "slot": s, "value": v} for s, v in moved.slots.items()], moved.values
        case "limit":
            i = next((i for i, n in enumerate(part.nodes) if n.name == gesture["node"] and "within" in n.slots), -1)
            if i < 0:
                raise InputError("edit-unfit", part=part.label, reason=f"{gesture['node']} has no search to be limited")
            node = part.nodes[i]
            base = {"hinge": place(START)[0], "centre": 0.0}
            word = node.slots.get("within_from", "hinge")
            since = values[word] if isinstance(values.get(word), str) else word
            reach = max(round((u - base.get(since, place(node.slots["from"])[0])) * 2) / 2, 0.5)
            held = node.slots["within"]
            parameter = next((p for p in part.parameters if p.name == held), None)
            if parameter is not None:
                return [], {parameter.name: min(max(reach, parameter.least), parameter.greatest)}
            return [{"do": "set slot", "node": i, "slot": "within", "value": reach}], {}
    raise InputError("edit-unfit", part=part.label, reason=f"there is no gesture '{gesture['do']}'")


def _start_of(parts: Sequence[PlacedPart], k: int) -> str:
    """The full name of the node at which part k begins: where the nearest one before it ends that has nodes."""
    ended = next((p for p in reversed(parts[:k]) if p.part.end != START), None)
    return START if ended is None else f"{ended.id}.{ended.part.end}"


# --- what is drawn ---------------------------------------------------------------------------------------------
def _earth(tried: Tried) -> tuple[float, float]:
    """Cut and fill of the trial section, m2."""
    lu, lz = tried.left.placed("formation")
    ru, rz = tried.right.placed("formation")
    u, z = np.concatenate([-lu[::-1, 0], ru[:, 0]]), np.concatenate([lz[::-1, 0], rz[:, 0]])
    there = np.isfinite(u)
    if there.sum() < 2:
        return 0.0, 0.0
    found = areas_between((u[there], z[there]), (tried.ground[0][:1], tried.ground[1][:1]))[0]
    return float(found[0]), float(found[1])


def _sights(tried: Tried, side: Side, sign: float) -> list[Any]:
    columns = tried.side(side)[0]
    out = []
    for node, s in columns.sights.items():
        i = columns.index(node)
        if columns.guide[i] or not np.isfinite(s.across[0]):
            continue
        met = bool(columns.present[i, 0])
        limit = float(s.limit[0]) if np.isfinite(s.limit[0]) else None
        far = float(columns.across[i, 0]) if met else min(limit if limit is not None else _RAY, float(s.across[0]) + _RAY)
        end = float(columns.level[i, 0]) if met else float(s.level[0] + s.slope[0] * (far - s.across[0]))
        out.append({
            "side": side, "node": node, "start": (sign * float(s.across[0]), float(s.level[0])), "end": (sign * far, end),
            "limit": None if limit is None else sign * limit, "met": met,
        })  # fmt: skip
    return out


def _passed(tried: Tried, side: Side, sign: float) -> list[Any]:
    columns, _, ground = tried.side(side)
    return [
        {"side": side, "node": p.node, "first": (sign * p.first[0], p.first[1]), "last": (sign * p.last[0], p.last[1]),
         "takes_last": p.takes_last, "nearer": p.last[0] - p.first[0]}
        for p in passed_by(columns, ground, 0)
    ]  # fmt: skip


def _reasons(tried: Tried, side: Side) -> list[Any]:
    columns, parts, ground = tried.side(side)
    out = []
    for k, placed in enumerate(parts):
        start = _start_of(parts, k)
        found = reason_of(placed, columns, ground, 0, start)
        if found:
            out.append({"side": side, "part": placed.id, "case": found[0], "why": found[1].said()})
    return out


def _told(tried: Tried) -> list[str]:
    """What is wrong with the trial section, in sentences."""
    out = []
    for side, _ in _SIDES:
        columns, parts, _ = tried.side(side)
        for k, placed in enumerate(parts):
            start = _start_of(parts, k)
            for node, why in missing_nodes(placed, columns, 0, start).items():
                out.append(f"{placed.part.label}, {side}: {node} is not placed: {why.said()}.")
        for placed in parts:
            for check, value, least in broken_checks(placed):
                out.append(
                    f"{placed.part.label}, {side}: {check.label} is {quantity(value, 'm', 2)}; at least {quantity(least, 'm', 2)}."
                )
            places = {
                n.split(".", 1)[-1]: (float(columns.across[i, 0]), float(columns.level[i, 0]))
                for i, n in enumerate(columns.names) if n.startswith(f"{placed.id}.") and columns.present[i, 0]
            }  # fmt: skip
            for area in placed.part.areas:
                if crosses_itself(area.nodes, places):
                    out.append(InputError("area-crosses", area=area.name, part=placed.part.label).sentence)
    return list(dict.fromkeys(out))


def _line(columns: SideColumns, sign: float, i: int, index: Sequence[int]) -> list[tuple[float, float]]:
    return [
        (round(sign * float(columns.across[j, i]), 3), round(float(columns.level[j, i]), 3))
        for j in index
        if columns.present[j, i]
    ]


def _small(tried: Tried, i: int) -> Drawn:
    """A small picture of one of the sections."""
    lines: list[Any] = []
    areas: list[Any] = []
    u, z = tried.ground[0][i], tried.ground[1][i]
    lines.append(("ground", [(round(float(a), 2), round(float(b), 2)) for a, b in zip(u, z, strict=True) if np.isfinite(b)]))
    for side, sign in _SIDES:
        columns = tried.side(side)[0]
        for _, material, loop in columns.areas:
            if all(columns.present[j, i] for j in loop):
                areas.append((colour_of(material), _line(columns, sign, i, loop)))
        if len(line := _line(columns, sign, i, columns.outline("finished"))) > 1:
            lines.append(("finished", line))
    return {"lines": lines, "areas": areas}


def _part_told(
    project: Project, ref: str | int, data: Mapping[str, Any], row: Mapping[str, Any] | None, tried: Tried, wish: Wish
) -> BenchPart:
    own = PartRow.present.filter(project=project, pk=ref).first() if isinstance(ref, int) else None
    faults = faults_of(part_from_dict(data), (row or {}).get("values"))
    return {
        "ref": ref, "id": own.pk if own else None, "revision": own.revision if own else 0, "label": str(data["label"]),
        "start": _began(tried, wish),
        "data": in_unit({"cases": [], "targets": [], "checks": [], "areas": [], "runs": [], **data}, 1.0 / spoken().metre),
        "faults": [{"where": dict(f.where), "sentence": f.error.sentence} for f in faults],
    }  # fmt: skip


def _began(tried: Tried, wish: Wish) -> tuple[float, float]:
    """Where the chosen part begins in the drawing; the centre where that is not known."""
    assert wish.chosen is not None
    columns, parts, _ = tried.side(wish.chosen[0])
    k = next(i for i, p in enumerate(parts) if p.id == wish.chosen[1])
    i = columns.index(_start_of(parts, k))
    sign = dict(_SIDES)[wish.chosen[0]]
    return (sign * float(columns.across[i, 0]), float(columns.level[i, 0])) if columns.present[i, 0] else (0.0, wish.level)


# --- the library and what a project has ------------------------------------------------------------------------
@cache
def library_picture() -> Library:
    return {
        "parts": [_library_row(name) for name in library_parts()],
        "rules": cast(Any, rules_told()),
        "materials": dict(MATERIALS), "other": OTHER, "usual_structure": USUAL.name,
        "case_kinds": {k: {"nodes": list(n), "formulas": list(f), "words": {w: list(v) for w, v in words.items()}}
                       for k, (n, f, words) in CASES.items()},
        "parameter_kinds": dict(PARAMETER_KINDS),
    }  # fmt: skip


def _library_row(name: str) -> Any:
    part = library_part(name)
    return {
        "name": name, "label": part.label, "remark": part.remark, "nodes": len({n.name for n in part.nodes}),
        "picture": part_drawn(library_data(name)),
    }  # fmt: skip


def part_drawn(data: Mapping[str, Any]) -> Drawn:
    """A picture of a part made by its own rules: over fill, or in cut where more of it is built there."""
    part = part_from_dict(data)
    bound: dict[str, Any] = {t.name: "under" if t.kind == "surface" else -1.0 for t in part.targets}
    placed = place_part("p", part, {}, {})
    placed = PlacedPart("p", placed.part, {}, bound)
    grounds: list[list[tuple[float, float]]] = [[(-2.0, -2.6), (90.0, -2.9)], [(-2.0, 4.6), (90.0, 5.4)]]
    best: tuple[int, Drawn] | None = None
    for ground in grounds:
        under = [(u, z - 2.0 if z > 0 else -0.16) for u, z in ground]
        tried = try_out(Template("one", (), (placed,)), 0.0, [ground], surfaces={"under": [under]})
        columns = tried.right
        there = int(sum(columns.present[i, 0] for i in range(len(columns.names)) if not columns.guide[i]))
        drawn = _small(tried, 0)
        guides = [
            ("guide", _line(columns, 1.0, 0, [columns.index(f"p.{n.slots['from']}") if n.slots["from"] != START else 0, j]))
            for n in placed.part.nodes if n.guide and n.role for j in [columns.index(f"p.{n.name}")]
        ]  # fmt: skip
        drawn["lines"] += cast(Any, guides)
        if best is None or there > best[0]:
            best = (there, drawn)
    assert best is not None
    reach = max((abs(u) for kind, line in best[1]["lines"] if kind != "ground" for u, _ in line), default=3.0)
    lines = [(k, _clipped(line, -1.0, reach * 1.1 + 0.5) if k == "ground" else line) for k, line in best[1]["lines"]]
    grounded = any(RULES[n.kind].slot("target") for n in part.nodes)
    return {"lines": cast(Any, [x for x in lines if grounded or x[0] != "ground"]), "areas": best[1]["areas"]}


def _clipped(line: list[tuple[float, float]], low: float, high: float) -> list[tuple[float, float]]:
    u, z = np.array(line).T
    at = np.array([low, *(x for x in u if low < x < high), high])
    return [(round(float(a), 2), round(float(b), 2)) for a, b in zip(at, np.interp(at, u, z), strict=True)]


@lru_cache(maxsize=256)
def _own_drawn(text: str) -> Drawn | None:
    """A picture of a project's part; None where it cannot be built alone."""
    try:
        drawn = part_drawn(json.loads(text))
    except InputError:  # the bench says why as soon as the part lies on it
        return None
    return drawn if any(kind == "finished" for kind, _ in drawn["lines"]) or drawn["areas"] else None


def own_parts(project: Project) -> list[OwnPart]:
    templates = list(TemplateRow.present.filter(project=project).order_by("pk"))
    return [
        {"id": p.pk, "revision": p.revision, "label": p.name, "remark": str(p.data.get("remark", "")),
         "picture": _own_drawn(json.dumps(p.data, sort_keys=True)),
         "templates": [t.name for t in templates if any(r["part"] == p.pk for r in itertools.chain(t.left, t.right))]}
        for p in PartRow.present.filter(project=project).order_by("pk")
    ]  # fmt: skip


def structures_told(project: Project) -> list[StructureTold]:
    out: list[StructureTold] = []
    for s in Structure.present.filter(project=project).order_by("pk"):
        layers = [{"least": 0.0, "greatest": 2.0, "step_out": 0.0, **x} for x in s.layers]
        told = [
            f"{m} is {quantity(t, 'm', 3)} thick; plausible is {quantity(a, 'm', 3)} to {quantity(b, 'm', 3)}."
            for m, t, a, b in implausible(structure_of(s))
        ]
        out.append({"id": s.pk, "revision": s.revision, "name": s.name, "layers": cast(Any, layers), "told": told})
    return out
