"""Steps on what a part is as a whole, on its nodes, its runs and its areas."""

from __future__ import annotations

import copy
from collections.abc import Sequence
from typing import Any

from ..errors import InputError
from .formula import read_formula
from .part import START
from .part_steps import Data, free_name, good_name, keep_nodes, node_names, step, unfit
from .place_node import rule_for
from .rules import RULES

__all__: list[str] = []


# --- the part ------------------------------------------------------------------------------------------------
@step("describe", "Change what is said")
def _describe(data: Data, label: str | None = None, remark: str | None = None, end: str | None = None) -> None:
    if label is not None:
        if not label.strip():
            raise unfit(data, "its name is empty")
        data["label"] = label.strip()[:80]
    if remark is not None:
        data["remark"] = remark[:400]
    if end is not None:
        if end not in node_names(data):
            raise InputError("part-without-end", part=data["label"], end=end)
        data["end"] = end


# --- nodes ---------------------------------------------------------------------------------------------------
@step("add node", "Add a node")
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
    if since not in node_names(data):
        raise InputError("unknown-node", node=name or "the new node", missing=since)
    name = (
        good_name(data, name, "node")
        if name
        else free_name(node_names(data), "n1" if not data["nodes"] else f"n{len(data['nodes']) + 1}")
    )
    if name in node_names(data):
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


@step("remove node", "Delete {name}")
def _remove_node(data: Data, node: str, dependents: bool = False) -> None:
    """All rules of a node; where others start from it, only with them."""
    if node not in node_names(data) - {START}:
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
    keep_nodes(data, node_names(data))
    if data["end"] in gone:
        data["end"] = before if before not in gone else START


def _names_of(row: Data) -> set[str]:
    return {row["rule"].get(s, "") for s in RULES[row["rule"]["kind"]].of("node")}


@step("set slot", "Change {name}")
def _set_slot(data: Data, node: int, slot: str, value: str | float) -> None:
    rule = data["nodes"][node]["rule"]
    known = RULES[rule["kind"]].slot(slot)
    if known is None:
        raise unfit(data, f"this rule has no slot '{slot}'")
    if known.is_formula and isinstance(value, str):
        value = value.strip()
        if value:
            read_formula(value)
    if value == "" and known.usual is not None:
        rule.pop(slot, None)
    else:
        rule[slot] = value


@step("set rule", "Place {name} by another rule")
def _set_rule(data: Data, node: int, kind: str) -> None:
    """Another rule for a node: slots of the same name and kind keep what they hold, others begin with something usual."""
    old = data["nodes"][node]["rule"]
    if kind not in RULES:
        raise unfit(data, f"there is no rule '{kind}'")
    usual = {"node": START, "length": 1.0, "slope": "2.5 %", "share": 0.5, "angle": 45.0, "target": "ground", "line": "line",
             "run": next((r.get("name") or (r["roles"] or [""])[0] for r in data["runs"]), "finished")}  # fmt: skip
    new: Data = {"kind": kind}
    for slot in RULES[kind].slots:
        if slot.name in old:
            new[slot.name] = old[slot.name]
        elif slot.usual is None:
            new[slot.name] = "fall" if slot.name == "sense" else next(iter(slot.words)) if slot.words else usual[slot.takes]
    data["nodes"][node]["rule"] = new


@step("set node", "Change {name}")
def _set_node(data: Data, node: int, **fields: Any) -> None:
    row = data["nodes"][node]
    for key, value in fields.items():
        if key == "name":
            _rename(data, row["name"], good_name(data, value, "node"))
        elif key in ("role", "remark"):
            row[key] = str(value).strip()[:200]
        elif key == "guide":
            row["guide"] = bool(value)
        elif key == "cases":
            known = [c["name"] for c in data["cases"]]
            row["cases"] = [c for c in known if c in value]
        else:
            raise unfit(data, f"a node has no '{key}'")


def _rename(data: Data, old: str, new: str) -> None:
    if new == old:
        return
    if new in node_names(data):
        raise InputError("node-twice", name=new, case="every case", part=data["label"])

    def named(name: str) -> str:
        return new if name == old else name

    for n in data["nodes"]:
        n["name"] = named(n["name"])
        for s in RULES[n["rule"]["kind"]].of("node"):
            n["rule"][s] = named(n["rule"][s])
    for rows in (data["runs"], data["areas"], data.get("upon", ())):
        for r in rows:
            r["nodes"] = [named(n) for n in r["nodes"]]
    for c in data["cases"]:
        for one in (c, *c.get("also", ())):
            one.update({k: named(one[k]) for k in ("at", "from") if k in one})
    for x in data.get("layers", ()):
        x["under"] = [named(n) for n in x["under"]]
    data["end"] = named(data["end"])


@step("place in cases", "Place {name} otherwise in a case")
def _place_in_cases(data: Data, node: int, cases: Sequence[str]) -> None:
    """A second rule for a node, in some of its cases; the first one keeps the others."""
    row = data["nodes"][node]
    known = [c["name"] for c in data["cases"]]
    wanted = [c for c in known if c in cases]
    kept = [c for c in (row.get("cases") or known) if c not in wanted]
    if not wanted or not kept:
        raise unfit(data, "a node that is placed twice needs cases for either rule")
    row["cases"] = kept
    data["nodes"].insert(node + 1, {**copy.deepcopy(row), "cases": wanted})


@step("order nodes", "Order the nodes")
def _order(data: Data, node: int, to: int) -> None:
    data["nodes"].insert(max(0, to), data["nodes"].pop(node))


# --- runs and areas ------------------------------------------------------------------------------------------
@step("join", "Join nodes")
def _join(data: Data, nodes: Sequence[str], roles: Sequence[str] = ()) -> None:
    """An edge from node to node, as a run of its own, or on from the end of a run of the same roles."""
    missing = set(nodes) - node_names(data)
    if missing:
        raise InputError("unknown-node", node="a run", missing=sorted(missing)[0])
    if len(nodes) < 2 or len(set(nodes)) != len(nodes):
        raise unfit(data, "a run joins two different nodes or more")
    roles = [r for r in ("finished", "formation") if r in roles]
    along = next((r for r in data["runs"] if r["nodes"][-1] == nodes[0] and list(r["roles"]) == roles), None)
    if along is not None and not set(nodes[1:]) & set(along["nodes"]):
        along["nodes"] += nodes[1:]
    else:
        data["runs"].append({"nodes": list(nodes), "roles": roles})


@step("set run", "Change a run")
def _set_run(
    data: Data, run: int, nodes: Sequence[str] | None = None, roles: Sequence[str] | None = None, name: str | None = None
) -> None:
    row = data["runs"][run]
    if nodes is not None:
        if set(nodes) - node_names(data) or len(nodes) < 2:
            raise unfit(data, "a run joins nodes that are there, two or more")
        row["nodes"] = list(nodes)
    if roles is not None:
        row["roles"] = [r for r in ("finished", "formation") if r in roles]
    if name is not None:
        row["name"] = good_name(data, name, "run") if name else ""


@step("remove run", "Delete a run")
def _remove_run(data: Data, run: int) -> None:
    data["runs"].pop(run)


@step("add area", "Add an area")
def _add_area(data: Data, nodes: Sequence[str], material: str = "surfacing", name: str = "") -> None:
    """A closed loop; where it lies under the finished line, the formation goes along its underside."""
    if set(nodes) - node_names(data) or len(set(nodes)) < 3:
        raise InputError("area-open", area=name or material, part=data["label"], count=len(set(nodes)))
    name = name or free_name({a["name"] for a in data["areas"]}, material)
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


@step("set area", "Change an area")
def _set_area(data: Data, area: int, **fields: Any) -> None:
    row = data["areas"][area]
    for key in ("name", "material"):
        if fields.get(key):
            row[key] = str(fields[key]).strip()[:60]
    if "nodes" in fields:
        row["nodes"] = list(fields["nodes"])


@step("remove area", "Delete an area")
def _remove_area(data: Data, area: int) -> None:
    data["areas"].pop(area)
