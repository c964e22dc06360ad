"""Steps on a part's parameters, cases, targets and checks."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

from ..errors import InputError
from .formula import evaluate_formula, names_in
from .part import CASES, START
from .part_steps import Data, good_name, keep_nodes, node_names, step, unfit
from .rules import ALIASES, RULES

__all__: list[str] = []


# --- parameters ----------------------------------------------------------------------------------------------
_KIND_OF_SLOT = {"length": "length", "slope": "percent", "share": "number", "angle": "degrees"}
_LIMITS = {"length": (0.0, 50.0), "height": (0.0, 20.0), "percent": (0.0, 0.5), "one_in": (0.05, 50.0), "degrees": (-90.0, 90.0),
           "number": (0.0, 1000.0)}  # fmt: skip


@step("promote", "Make a parameter of {name}")
def _promote(data: Data, node: int, slot: str, name: str, label: str = "") -> None:
    """The number in a slot becomes a parameter of that name; its usual value is that number."""
    row = data["nodes"][node]
    held = row["rule"].get(slot)
    known = RULES[row["rule"]["kind"]].slot(slot)
    if known is None or not known.is_formula or held is None or names_in(held):
        raise unfit(data, "only a number can be made a parameter")
    name = good_name(data, name, "parameter")
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


@step("add parameter", "Add a parameter")
def _add_parameter(data: Data, name: str, kind: str, label: str = "", value: Any = None, choices: Sequence[str] = ()) -> None:
    name = good_name(data, name, "parameter")
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


@step("set parameter", "Change a parameter")
def _set_parameter(data: Data, parameter: str, **fields: Any) -> None:
    row = next(p for p in data["parameters"] if p["name"] == parameter)
    new = fields.pop("name", None)
    for key, value in fields.items():
        if key not in ("label", "value", "least", "greatest", "remark", "choices", "turns", "kind"):
            raise unfit(data, f"a parameter has no '{key}'")
        row[key] = value
    if new and new != parameter:
        new = good_name(data, new, "parameter")
        if new in {p["name"] for p in data["parameters"]}:
            raise InputError("name-twice", name=new, what="parameter", part=data["label"])
        _each_formula(data, lambda f: re.sub(rf"\b{re.escape(parameter)}\b", new, f))
        row["name"] = new


@step("remove parameter", "Delete a parameter")
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
    users += [f"what may be taken off as {x['taken_off']}" for x in data.get("upon", ()) if _uses(x["allowed"], parameter)]
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
    for x in data.get("upon", ()):
        x["allowed"] = change(str(x["allowed"]))
    for x in data.get("layers", ()):
        x["structure"] = change(x["structure"])
    for x in data.get("along", ()):
        x.update({"over": change(x["over"]), "values": [change(v) for v in x["values"]]})


# --- cases, targets, checks -----------------------------------------------------------------------------------
@step("add case", "Add a case")
def _add_case(data: Data, case: Data, at: int | None = None) -> None:
    name = " ".join(str(case.get("name", "")).split())[:40]
    if not name or name in {c["name"] for c in data["cases"]}:
        raise unfit(data, "a case needs a name of its own")
    row = {**case, "name": name}
    otherwise = next((i for i, c in enumerate(data["cases"]) if c["kind"] == "otherwise"), len(data["cases"]))
    data["cases"].insert(otherwise if at is None else at, row)


@step("set case", "Change a case")
def _set_case(data: Data, index: int, case: Data) -> None:
    old, new = data["cases"][index]["name"], " ".join(str(case.get("name", "")).split())[:40]
    if not new or new in {c["name"] for i, c in enumerate(data["cases"]) if i != index}:
        raise unfit(data, "a case needs a name of its own")
    allowed = {"name", "kind", "also", *(("at", "from", "least", "greatest") if case["kind"] in CASES else ()), "of", "way", "parameter",
               "value"}  # fmt: skip
    data["cases"][index] = {k: v for k, v in case.items() if k in allowed and v != ""} | {"name": new}
    for n in data["nodes"]:
        if "cases" in n:
            n["cases"] = [new if c == old else c for c in n["cases"]]
    for x in data.get("along", ()):
        x["cases"] = [new if c == old else c for c in x["cases"]]


@step("remove case", "Delete a case")
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
    names = node_names(data)
    keep_nodes(data, names)
    if data["end"] not in names:
        data["end"] = START


@step("order cases", "Order the cases")
def _order_cases(data: Data, index: int, to: int) -> None:
    data["cases"].insert(max(0, to), data["cases"].pop(index))


@step("add target", "Add a target")
def _add_target(data: Data, name: str, kind: str, label: str = "") -> None:
    name = good_name(data, name, "target")
    if kind not in ("surface", "level", "line") or name == "ground" or name in {t["name"] for t in data["targets"]}:
        raise unfit(data, "a target is a surface, a level or a line, under a name of its own")
    data["targets"].append({"name": name, "label": (label or name.replace("_", " "))[:60], "kind": kind})


@step("remove target", "Delete a target")
def _remove_target(data: Data, target: str) -> None:
    users = [n["name"] for n in data["nodes"] if target in (n["rule"].get("target"), n["rule"].get("line"))]
    if users:
        raise InputError("node-needed", name=target, by=", ".join(dict.fromkeys(users)))
    data["targets"] = [t for t in data["targets"] if t["name"] != target]


@step("add check", "Add a check")
def _add_check(data: Data, label: str, value: str, least: str) -> None:
    data["checks"].append({"label": label[:80], "value": value, "least": least})


@step("remove check", "Delete a check")
def _remove_check(data: Data, index: int) -> None:
    data["checks"].pop(index)
