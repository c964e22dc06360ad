"""Changes of a part, as data: each takes a part in its data form and gives the changed one; the trial and the act do the same.

A change is a record ``{"do": name, ...}``; ``changed(data, steps)`` does several, ``label_of`` says what was done. Rows are named by
their index, nodes by their name where all their rules are meant.
"""

from __future__ import annotations

import copy
import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from ..errors import InputError
from .formula import RESERVED, evaluate_formula, names_in, read_formula
from .part import CASES, START, part_from_dict
from .place_node import rule_for
from .rules import ALIASES, RULES

__all__ = ["Data", "changed", "empty_part", "label_of"]

Data = dict[str, Any]
_NAME = re.compile(r"[^\W\d]\w{0,39}")
_STEPS: dict[str, tuple[Callable[..., None], str]] = {}


def empty_part(label: str) -> Data:
    """A part of no nodes yet; it ends where it begins."""
    return {"name": "part", "label": label, "end": START, "parameters": [], "nodes": [], "runs": [], "areas": [], "cases": [],
            "targets": [], "checks": [], "along": [], "remark": ""}  # fmt: skip


def changed(data: Mapping[str, Any], steps: Sequence[Mapping[str, Any]]) -> Data:
    """The part after these steps; what was given is left as it is. Raises InputError for a step that does not fit the part."""
    out = {**empty_part(""), **copy.deepcopy(dict(data))}
    for step in steps:
        do = str(step.get("do"))
        if do not in _STEPS:
            raise _unfit(out, f"there is no change called '{do}'")
        try:
            _STEPS[do][0](out, **{k: v for k, v in step.items() if k != "do"})
        except (IndexError, KeyError, TypeError) as error:
            raise _unfit(out, f"'{do}' does not name something that is there") from error
    part_from_dict(out)
    return out


def label_of(step: Mapping[str, Any], data: Mapping[str, Any]) -> str:
    """What a step does, for the ledger."""
    text = _STEPS[str(step["do"])][1]
    rows = data.get("nodes", ())
    at = step.get("node")
    name = rows[at]["name"] if isinstance(at, int) and at < len(rows) else at or step.get("name") or ""
    return f"{text.format(name=name)} in {data.get('label', 'a part')}"


def _unfit(data: Mapping[str, Any], reason: str) -> InputError:
    return InputError("edit-unfit", part=data.get("label", ""), reason=reason)


def _step(do: str, text: str) -> Callable[[Callable[..., None]], Callable[..., None]]:
    def keep(function: Callable[..., None]) -> Callable[..., None]:
        _STEPS[do] = (function, text)
        return function

    return keep


# --- names --------------------------------------------------------------------------------------------------
def _good_name(data: Data, name: str, what: str) -> str:
    name = "_".join(str(name).split())
    if not _NAME.fullmatch(name):
        raise _unfit(data, f"'{name[:40]}' is no name; use letters, digits and _, beginning with a letter, 40 at most")
    if name in RESERVED or name == START:
        raise InputError("name-taken", name=name, what=what, part=data["label"])
    return name


def _free(names: set[str], stem: str) -> str:
    return next(n for n in (stem, *(f"{stem}_{i}" for i in range(2, 1000))) if n not in names)


def _node_names(data: Data) -> set[str]:
    return {n["name"] for n in data["nodes"]} | {START}


# --- the part ------------------------------------------------------------------------------------------------
@_step("describe", "Change what is said")
def _describe(data: Data, label: str | None = None, remark: str | None = None, end: str | None = None) -> None:
    if label is not None:
        if not label.strip():
            raise _unfit(data, "its name is empty")
        data["label"] = label.strip()[:80]
    if remark is not None:
        data["remark"] = remark[:400]
    if end is not None:
        if end not in _node_names(data):
            raise InputError("part-without-end", part=data["label"], end=end)
        data["end"] = end


# --- nodes ---------------------------------------------------------------------------------------------------
@_step("add node", "Add a node")
def _add_node(
    data: Data,
    since: str,
    by: Sequence[float],
    on_ground: bool = False,
    name: str = "",
    run: bool = True,
    rule: Data | None = None,
) -> None:
    """A node so far (across m outward, level m) from another one; its rule and rounded values follow from where it was put."""
    if since not in _node_names(data):
        raise InputError("unknown-node", node=name or "the new node", missing=since)
    name = (
        _good_name(data, name, "node")
        if name
        else _free(_node_names(data), "n1" if not data["nodes"] else f"n{len(data['nodes']) + 1}")
    )
    if name in _node_names(data):
        raise InputError("node-twice", name=name, case="every case", part=data["label"])
    made = rule or rule_for(since, float(by[0]), float(by[1]), on_ground=on_ground, beside=data["nodes"])
    row: Data = {"name": name, "rule": made}
    if on_ground:
        row["role"] = "toe"
    data["nodes"].append(row)
    outward = abs(by[0]) > 0.02 or by[1] > 0
    if not (run and outward and by[0] >= -0.02):
        return
    along = next((r for r in data["runs"] if r["nodes"] and r["nodes"][-1] == since and "finished" in r["roles"]), None)
    if along is not None:
        for r in data["runs"]:
            if r["nodes"] and r["nodes"][-1] == since and r["roles"]:
                r["nodes"].append(name)
    elif since == START and not any("finished" in r["roles"] for r in data["runs"]):
        data["runs"].append({"nodes": [START, name], "roles": ["finished", "formation"]})
    else:
        return
    if data["end"] == since:
        data["end"] = name


@_step("remove node", "Delete {name}")
def _remove_node(data: Data, node: str, dependents: bool = False) -> None:
    """All rules of a node; where others start from it, only with them."""
    if node not in _node_names(data) - {START}:
        raise InputError("unknown-node", node=node, missing=node)
    gone = {node}
    while True:
        more = {n["name"] for n in data["nodes"] if n["name"] not in gone and _names_of(n) & gone}
        if not more:
            break
        if not dependents:
            raise InputError("node-needed", name=node, by=", ".join(sorted(more)))
        gone |= more
    asked = [c["name"] for c in data["cases"] if {c.get("at"), c.get("from"), *(x.get("at") for x in c.get("also", ()))} & gone]
    if asked:
        raise InputError("node-needed", name=node, by=f"the case {', '.join(asked)}")
    before = next((n["rule"].get("from", START) for n in data["nodes"] if n["name"] == data["end"]), START)
    data["nodes"] = [n for n in data["nodes"] if n["name"] not in gone]
    for r in data["runs"]:
        r["nodes"] = [n for n in r["nodes"] if n not in gone]
    data["runs"] = [r for r in data["runs"] if len(r["nodes"]) > 1]
    data["areas"] = [a for a in data["areas"] if not set(a["nodes"]) & gone]
    if data["end"] in gone:
        data["end"] = before if before not in gone else START


def _names_of(row: Data) -> set[str]:
    return {row["rule"].get(s, "") for s in RULES[row["rule"]["kind"]].of("node")}


@_step("set slot", "Change {name}")
def _set_slot(data: Data, node: int, slot: str, value: str | float) -> None:
    rule = data["nodes"][node]["rule"]
    known = RULES[rule["kind"]].slot(slot)
    if known is None:
        raise _unfit(data, f"this rule has no slot '{slot}'")
    if known.is_formula and isinstance(value, str):
        value = value.strip()
        if value:
            read_formula(value)
    if value == "" and known.usual is not None:
        rule.pop(slot, None)
    else:
        rule[slot] = value


@_step("set rule", "Place {name} by another rule")
def _set_rule(data: Data, node: int, kind: str) -> None:
    """Another rule for a node: slots of the same name and kind keep what they hold, others begin with something usual."""
    old = data["nodes"][node]["rule"]
    if kind not in RULES:
        raise _unfit(data, f"there is no rule '{kind}'")
    usual = {"node": START, "length": 1.0, "slope": "2.5 %", "share": 0.5, "angle": 45.0, "target": "ground", "line": "line",
             "run": next((r.get("name") or (r["roles"] or [""])[0] for r in data["runs"]), "finished")}  # fmt: skip
    new: Data = {"kind": kind}
    for slot in RULES[kind].slots:
        if slot.name in old:
            new[slot.name] = old[slot.name]
        elif slot.usual is None:
            new[slot.name] = "fall" if slot.name == "sense" else next(iter(slot.words)) if slot.words else usual[slot.takes]
    data["nodes"][node]["rule"] = new


@_step("set node", "Change {name}")
def _set_node(data: Data, node: int, **fields: Any) -> None:
    row = data["nodes"][node]
    for key, value in fields.items():
        if key == "name":
            _rename(data, row["name"], _good_name(data, value, "node"))
        elif key in ("role", "remark"):
            row[key] = str(value).strip()[:200]
        elif key == "guide":
            row["guide"] = bool(value)
        elif key == "cases":
            known = [c["name"] for c in data["cases"]]
            row["cases"] = [c for c in known if c in value]
        else:
            raise _unfit(data, f"a node has no '{key}'")


def _rename(data: Data, old: str, new: str) -> None:
    if new == old:
        return
    if new in _node_names(data):
        raise InputError("node-twice", name=new, case="every case", part=data["label"])

    def named(name: str) -> str:
        return new if name == old else name

    for n in data["nodes"]:
        n["name"] = named(n["name"])
        for s in RULES[n["rule"]["kind"]].of("node"):
            n["rule"][s] = named(n["rule"][s])
    for rows in (data["runs"], data["areas"]):
        for r in rows:
            r["nodes"] = [named(n) for n in r["nodes"]]
    for c in data["cases"]:
        for one in (c, *c.get("also", ())):
            one.update({k: named(one[k]) for k in ("at", "from") if k in one})
    for x in data.get("layers", ()):
        x["under"] = [named(n) for n in x["under"]]
    data["end"] = named(data["end"])


@_step("place in cases", "Place {name} otherwise in a case")
def _place_in_cases(data: Data, node: int, cases: Sequence[str]) -> None:
    """A second rule for a node, in some of its cases; the first one keeps the others."""
    row = data["nodes"][node]
    known = [c["name"] for c in data["cases"]]
    wanted = [c for c in known if c in cases]
    kept = [c for c in (row.get("cases") or known) if c not in wanted]
    if not wanted or not kept:
        raise _unfit(data, "a node that is placed twice needs cases for either rule")
    row["cases"] = kept
    data["nodes"].insert(node + 1, {**copy.deepcopy(row), "cases": wanted})


@_step("order nodes", "Order the nodes")
def _order(data: Data, node: int, to: int) -> None:
    data["nodes"].insert(max(0, to), data["nodes"].pop(node))


# --- runs and areas ------------------------------------------------------------------------------------------
@_step("join", "Join nodes")
def _join(data: Data, nodes: Sequence[str], roles: Sequence[str] = ()) -> None:
    """An edge from node to node, as a run of its own, or on from the end of a run of the same roles."""
    missing = set(nodes) - _node_names(data)
    if missing:
        raise InputError("unknown-node", node="a run", missing=sorted(missing)[0])
    if len(nodes) < 2 or len(set(nodes)) != len(nodes):
        raise _unfit(data, "a run joins two different nodes or more")
    roles = [r for r in ("finished", "formation") if r in roles]
    along = next((r for r in data["runs"] if r["nodes"][-1] == nodes[0] and list(r["roles"]) == roles), None)
    if along is not None and not set(nodes[1:]) & set(along["nodes"]):
        along["nodes"] += nodes[1:]
    else:
        data["runs"].append({"nodes": list(nodes), "roles": roles})


@_step("set run", "Change a run")
def _set_run(
    data: Data, run: int, nodes: Sequence[str] | None = None, roles: Sequence[str] | None = None, name: str | None = None
) -> None:
    row = data["runs"][run]
    if nodes is not None:
        if set(nodes) - _node_names(data) or len(nodes) < 2:
            raise _unfit(data, "a run joins nodes that are there, two or more")
        row["nodes"] = list(nodes)
    if roles is not None:
        row["roles"] = [r for r in ("finished", "formation") if r in roles]
    if name is not None:
        row["name"] = _good_name(data, name, "run") if name else ""


@_step("remove run", "Delete a run")
def _remove_run(data: Data, run: int) -> None:
    data["runs"].pop(run)


@_step("add area", "Add an area")
def _add_area(data: Data, nodes: Sequence[str], material: str = "surfacing", name: str = "") -> None:
    """A closed loop; where it lies under the finished line, the formation goes along its underside."""
    if set(nodes) - _node_names(data) or len(set(nodes)) < 3:
        raise InputError("area-open", area=name or material, part=data["label"], count=len(set(nodes)))
    name = name or _free({a["name"] for a in data["areas"]}, material)
    data["areas"].append({"name": name, "material": material, "nodes": list(nodes)})
    _formation_under(data, list(nodes))


def _formation_under(data: Data, loop: list[str]) -> None:
    for r in data["runs"]:
        if "formation" not in r["roles"]:
            continue
        on = [n for n in r["nodes"] if n in loop]
        first = r["nodes"].index(on[0]) if on else -1
        if len(on) < 2 or r["nodes"][first : first + len(on)] != on:
            continue
        at = loop.index(on[0])
        turned = loop[at:] + loop[:at]
        if turned[1] != on[1]:
            turned = [turned[0], *reversed(turned[1:])]
        if turned[: len(on)] != on:
            continue
        under = turned[len(on) :][::-1]
        before, after = r["nodes"][:first], r["nodes"][first + len(on) :]
        below = [*before, *([on[0]] if before else []), *under, on[-1], *after]
        if "finished" in r["roles"]:
            r["roles"] = ["finished"]
            data["runs"].append({"nodes": below, "roles": ["formation"]})
        else:
            r["nodes"] = below
        return


@_step("set area", "Change an area")
def _set_area(data: Data, area: int, **fields: Any) -> None:
    row = data["areas"][area]
    for key in ("name", "material"):
        if fields.get(key):
            row[key] = str(fields[key]).strip()[:60]
    if "nodes" in fields:
        row["nodes"] = list(fields["nodes"])


@_step("remove area", "Delete an area")
def _remove_area(data: Data, area: int) -> None:
    data["areas"].pop(area)


# --- parameters ----------------------------------------------------------------------------------------------
_KIND_OF_SLOT = {"length": "length", "slope": "percent", "share": "number", "angle": "degrees"}
_LIMITS = {"length": (0.0, 50.0), "height": (0.0, 20.0), "percent": (0.0, 0.5), "one_in": (0.05, 50.0), "degrees": (-90.0, 90.0),
           "number": (0.0, 1000.0)}  # fmt: skip


@_step("promote", "Make a parameter of {name}")
def _promote(data: Data, node: int, slot: str, name: str, label: str = "") -> None:
    """The number in a slot becomes a parameter of that name; its usual value is that number."""
    row = data["nodes"][node]
    held = row["rule"].get(slot)
    known = RULES[row["rule"]["kind"]].slot(slot)
    if known is None or not known.is_formula or held is None or names_in(held):
        raise _unfit(data, "only a number can be made a parameter")
    name = _good_name(data, name, "parameter")
    if name in {p["name"] for p in data["parameters"]}:
        raise InputError("name-twice", name=name, what="parameter", part=data["label"])
    kind, value, formula = _as_parameter(held, known.takes, slot)
    formula = formula.format(name=name)
    least, greatest = _LIMITS[kind]
    data["parameters"].append({
        "name": name, "label": (label or name.replace("_", " ").capitalize())[:80], "kind": kind, "value": value,
        "least": min(least, value), "greatest": max(greatest, value),
    })  # fmt: skip
    row["rule"][slot] = formula


def _as_parameter(held: str | float, takes: str, slot: str) -> tuple[str, float, str]:
    """Kind and value of the parameter that stands for a number as it was written, and the formula that uses it."""
    text = str(held).strip()
    if takes == "slope":
        found = re.fullmatch(r"1\s*(?:in|:|/)\s*([\d.]+)", text)
        if found:
            return "one_in", float(found.group(1)), "1 in {name}"
        found = re.fullmatch(r"([-\d.]+)\s*(?:°|deg)", text)
        if found:
            return "degrees", float(found.group(1)), "{name}°"

    value = float(evaluate_formula(held, {}, angle=takes == "angle"))
    kind = "height" if slot in ("up", "change", "gap") else _KIND_OF_SLOT[takes]
    return kind, round(value, 9), "{name}"


@_step("add parameter", "Add a parameter")
def _add_parameter(data: Data, name: str, kind: str, label: str = "", value: Any = None, choices: Sequence[str] = ()) -> None:
    name = _good_name(data, name, "parameter")
    if name in {p["name"] for p in data["parameters"]}:
        raise InputError("name-twice", name=name, what="parameter", part=data["label"])
    row: Data = {"name": name, "label": (label or name.replace("_", " ").capitalize())[:80], "kind": kind}
    if kind == "choice":
        choices = [str(c)[:40] for c in choices] or ["yes", "no"]
        row |= {"value": value or choices[0], "choices": choices}
    elif kind == "structure":
        row["value"] = value or ""
    else:
        least, greatest = _LIMITS.get(kind, (0.0, 1000.0))
        row |= {"value": 1.0 if value is None else value, "least": least, "greatest": greatest}
    data["parameters"].append(row)


@_step("set parameter", "Change a parameter")
def _set_parameter(data: Data, parameter: str, **fields: Any) -> None:
    row = next(p for p in data["parameters"] if p["name"] == parameter)
    new = fields.pop("name", None)
    for key, value in fields.items():
        if key not in ("label", "value", "least", "greatest", "remark", "choices", "turns", "kind"):
            raise _unfit(data, f"a parameter has no '{key}'")
        row[key] = value
    if new and new != parameter:
        new = _good_name(data, new, "parameter")
        if new in {p["name"] for p in data["parameters"]}:
            raise InputError("name-twice", name=new, what="parameter", part=data["label"])
        _each_formula(data, lambda f: re.sub(rf"\b{re.escape(parameter)}\b", new, f))
        row["name"] = new


@_step("remove parameter", "Delete a parameter")
def _remove_parameter(data: Data, parameter: str) -> None:
    users = [n["name"] for n in data["nodes"] if any(_uses(v, parameter) for k, v in n["rule"].items() if k != "kind")]
    users += [
        f"case {c['name']}"
        for c in data["cases"]
        if any(_uses(v, parameter) for k, v in c.items() if k in ("least", "greatest", "parameter"))
    ]
    users += [
        f"what changes along the road over {x['over']}" for x in data.get("along", ()) if parameter in (x["over"], *x["values"])
    ]
    users += ["the layers" for x in data.get("layers", ()) if x["structure"] == parameter]
    if users:
        raise InputError("node-needed", name=parameter, by=", ".join(dict.fromkeys(users)))
    data["parameters"] = [p for p in data["parameters"] if p["name"] != parameter]


def _uses(value: Any, name: str) -> bool:
    if not isinstance(value, str):
        return False
    try:
        return value == name or name in names_in(value)
    except InputError:
        return False


def _each_formula(data: Data, change: Callable[[str], str]) -> None:
    for n in data["nodes"]:
        rule = RULES[n["rule"]["kind"]]
        for s in rule.slots:
            value = n["rule"].get(s.name)
            if isinstance(value, str) and (s.is_formula or (s.words and ALIASES.get(value, value) not in s.words)):
                n["rule"][s.name] = change(value)
    for c in data["cases"]:
        for one in (c, *c.get("also", ())):
            one.update({k: change(one[k]) for k in ("least", "greatest", "parameter") if isinstance(one.get(k), str)})
    for x in data.get("checks", ()):
        x.update({k: change(x[k]) for k in ("value", "least") if isinstance(x[k], str)})
    for x in data.get("layers", ()):
        x["structure"] = change(x["structure"])
    for x in data.get("along", ()):
        x.update({"over": change(x["over"]), "values": [change(v) for v in x["values"]]})


# --- cases, targets, checks -----------------------------------------------------------------------------------
@_step("add case", "Add a case")
def _add_case(data: Data, case: Data, at: int | None = None) -> None:
    name = " ".join(str(case.get("name", "")).split())[:40]
    if not name or name in {c["name"] for c in data["cases"]}:
        raise _unfit(data, "a case needs a name of its own")
    row = {**case, "name": name}
    otherwise = next((i for i, c in enumerate(data["cases"]) if c["kind"] == "otherwise"), len(data["cases"]))
    data["cases"].insert(otherwise if at is None else at, row)


@_step("set case", "Change a case")
def _set_case(data: Data, index: int, case: Data) -> None:
    old, new = data["cases"][index]["name"], " ".join(str(case.get("name", "")).split())[:40]
    if not new or new in {c["name"] for i, c in enumerate(data["cases"]) if i != index}:
        raise _unfit(data, "a case needs a name of its own")
    allowed = {"name", "kind", "also", *(("at", "from", "least", "greatest") if case["kind"] in CASES else ()), "of", "way", "parameter",
               "value"}  # fmt: skip
    data["cases"][index] = {k: v for k, v in case.items() if k in allowed and v != ""} | {"name": new}
    for n in data["nodes"]:
        if "cases" in n:
            n["cases"] = [new if c == old else c for c in n["cases"]]
    for x in data.get("along", ()):
        x["cases"] = [new if c == old else c for c in x["cases"]]


@_step("remove case", "Delete a case")
def _remove_case(data: Data, index: int) -> None:
    """A case, and the rules that hold in no other."""
    name = data["cases"].pop(index)["name"]
    for x in data.get("along", ()):
        left = [i for i, c in enumerate(x["cases"]) if c != name]
        if x["kind"] == "even":
            x["values"] = [x["values"][i] for i in left]
        x["cases"] = [x["cases"][i] for i in left]
    data["along"] = [x for x in data.get("along", ()) if x["cases"]]
    kept = []
    for n in data["nodes"]:
        if name in n.get("cases", ()):
            n["cases"] = [c for c in n["cases"] if c != name]
            if not n["cases"]:
                continue
        kept.append(n)
    data["nodes"] = kept
    names = _node_names(data)
    for r in data["runs"]:
        r["nodes"] = [n for n in r["nodes"] if n in names]
    data["runs"] = [r for r in data["runs"] if len(r["nodes"]) > 1]
    data["areas"] = [a for a in data["areas"] if set(a["nodes"]) <= names]
    if data["end"] not in names:
        data["end"] = START


@_step("order cases", "Order the cases")
def _order_cases(data: Data, index: int, to: int) -> None:
    data["cases"].insert(max(0, to), data["cases"].pop(index))


@_step("add target", "Add a target")
def _add_target(data: Data, name: str, kind: str, label: str = "") -> None:
    name = _good_name(data, name, "target")
    if kind not in ("surface", "level", "line") or name == "ground" or name in {t["name"] for t in data["targets"]}:
        raise _unfit(data, "a target is a surface, a level or a line, under a name of its own")
    data["targets"].append({"name": name, "label": (label or name.replace("_", " "))[:60], "kind": kind})


@_step("remove target", "Delete a target")
def _remove_target(data: Data, target: str) -> None:
    users = [n["name"] for n in data["nodes"] if target in (n["rule"].get("target"), n["rule"].get("line"))]
    if users:
        raise InputError("node-needed", name=target, by=", ".join(dict.fromkeys(users)))
    data["targets"] = [t for t in data["targets"] if t["name"] != target]


@_step("add check", "Add a check")
def _add_check(data: Data, label: str, value: str, least: str) -> None:
    data["checks"].append({"label": label[:80], "value": value, "least": least})


@_step("remove check", "Delete a check")
def _remove_check(data: Data, index: int) -> None:
    data["checks"].pop(index)
