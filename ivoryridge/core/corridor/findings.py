"""Findings along the sections of a block: ground that is missing or not met, slopes under ground, sections that cross."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import runs_of
from ..findings import Finding
from ..geometry.areas import greatest_over
from ..section.check import broken_checks
from ..section.columns import SideColumns
from ..section.roles import PAVEMENT_EDGE
from ..section.template import PlacedPart
from ..tolerances import SAME_STATION
from .block import Block, side_ground
from .trim import folded_area, inner_limit

Floats = NDArray[np.float64]

__all__ = ["block_findings", "folds_joined", "step_findings"]

LEAST_STEP, LEAST_RISE = 0.01, 0.002  # m in plan and level of an edge; common practice, no source
LEAST_THIN = 0.002  # m by which an overlay lacks thickness; levels are kept in millimetres, and nobody lays to less
LEAST_DEPTH = 0.02  # m; ground stands no better known over a slope
_TOE_JUMP = 8.0  # m between neighbouring sections; common practice, no source


def block_findings(block: Block) -> tuple[Finding, ...]:
    """What is wrong or doubtful with the sections of one block."""
    out: list[Finding] = []
    places, ground = block.places, block.ground
    s = places.station

    def span(code: str, mask: Any, severity: Any = "doubt", **params: Any) -> None:
        for a, b in runs_of(mask):
            out.append(
                Finding(
                    severity, code, {"start": float(s[a]), "end": float(s[b]), "count": b - a + 1, **params},
                    station_from=float(s[a]), station_to=float(s[b]),
                )
            )  # fmt: skip

    out += _of_values(block)
    span("off-ground", ~np.isfinite(ground.elevation).any(axis=1))
    known = np.isfinite(ground.elevation).any(axis=1)
    for name, sign, columns, parts in block.sides():
        labels = {p.id: p.part.label.lower() for p in parts}
        for node, missed in columns.unmet.items():
            span("not-met", missed & known, "fault", part=labels[node.split(".")[0]], side=name)
        for node, missed in columns.unled.items():
            role = columns.roles[columns.index(node)] or node.split(".")[1].replace("_", " ")
            span("line-not-reached", missed, part=labels[node.split(".")[0]], node=role, side=name)
        for part, dark in columns.unknown.items():
            span("case-unknown", dark & known, "fault", part=labels[part], side=name)
        for laid in columns.upon:
            lacking = laid.over - laid.allowed
            for a, b in runs_of(lacking > LEAST_THIN):
                worst = int(a + np.argmax(lacking[a : b + 1]))
                span(
                    "laid-too-thin", _within_run(len(s), a, b), part=labels[laid.part], side=name, value=float(lacking[worst]),
                    at=float(s[worst]), what=laid.taken_off,
                )  # fmt: skip
        for part, depth in _under_ground(columns, parts, side_ground(ground, sign)):
            for a, b in runs_of(depth > LEAST_DEPTH):
                greatest = float(depth[a : b + 1].max())
                span("slope-under-ground", _within_run(len(s), a, b), "fault", part=labels[part], side=name, depth=greatest)
        across, _ = columns.placed("finished")
        if not len(across):  # nothing is built on this side
            continue
        reach = _running_greatest(across)
        with np.errstate(invalid="ignore"):
            back = (across < reach - 1e-6).any(axis=0)
        span("crosses-itself", back, side=name)
        outer = reach[-1]
        with np.errstate(invalid="ignore"):
            jump = np.abs(np.diff(outer)) > _TOE_JUMP
        for i in np.flatnonzero(jump):
            out.append(
                Finding(
                    "doubt", "toe-jumps",
                    {"side": name, "start": float(s[i]), "end": float(s[i + 1]), "value": float(abs(outer[i + 1] - outer[i]))},
                    station_from=float(s[i]), station_to=float(s[i + 1]),
                )
            )  # fmt: skip
        with np.errstate(invalid="ignore"):
            inside = outer >= inner_limit(places, sign)  # the toe lies beyond the line where neighbouring sections meet
        folded = folded_area(places, sign, outer)
        for a, b in runs_of(inside):
            area = float(np.trapezoid(folded[max(a - 1, 0) : b + 2], s[max(a - 1, 0) : b + 2]))
            span("sections-cross", _within_run(len(s), a, b), side=name, area=area)
    return tuple(out)


def folds_joined(found: Iterable[Finding]) -> Iterator[Finding]:
    """The findings of a row of blocks; a fold inside of a bend that runs on from block to block is told once."""
    folds: dict[str, Finding] = {}
    for f in found:
        if f.code != "sections-cross":
            yield f
            continue
        side, before = f.params["side"], folds.get(f.params["side"])
        if (
            before is None
            or before.station_to is None
            or f.station_from is None
            or f.station_from - before.station_to > SAME_STATION
        ):
            if before is not None:
                yield before
            folds[side] = f
            continue
        told = {**before.params, "end": f.params["end"], "count": before.params["count"] + f.params["count"] - 1,
                "area": before.params["area"] + f.params["area"]}  # fmt: skip
        folds[side] = replace(before, params=told, station_to=f.station_to)
    yield from folds.values()


def step_findings(blocks: Sequence[Block]) -> list[Finding]:
    """Where the edge of the pavement steps between two blocks that meet."""
    out: list[Finding] = []
    for one, two in itertools.pairwise(blocks):
        s = float(two.station[0])
        if abs(s - float(one.station[-1])) > SAME_STATION:
            continue
        for (side, _, before, _), (_, _, after, _) in zip(one.sides(), two.sides(), strict=True):
            a, b = _pavement_edge(before, -1), _pavement_edge(after, 0)
            if a is None or b is None:
                continue
            wide, rise = abs(b[0] - a[0]), abs(b[1] - a[1])
            if wide > LEAST_STEP or rise > LEAST_RISE:
                out.append(
                    Finding(
                        "doubt", "pavement-steps", {"at": s, "side": side, "value": wide, "rise": rise}, station_from=s, station_to=s
                    )
                )  # fmt: skip
    return out


def _pavement_edge(columns: SideColumns, i: int) -> tuple[float, float] | None:
    """Across and level of the outermost edge of the pavement in a section; None where there is none."""
    there = [k for k, role in enumerate(columns.roles) if role == PAVEMENT_EDGE and columns.present[k, i]]
    k = max(there, key=lambda j: columns.across[j, i], default=None)
    return None if k is None else (float(columns.across[k, i]), float(columns.level[k, i]))


def _of_values(block: Block) -> list[Finding]:
    """What the values of a part say of themselves: checks it does not keep, layers of a thickness that nobody builds."""
    found: dict[tuple[str, tuple[tuple[str, Any], ...]], list[str]] = {}
    for name, _, _, parts in block.sides():
        for placed in parts:
            told: list[tuple[str, dict[str, Any]]] = [
                ("part-check", {"check": c.label, "value": v, "least": least}) for c, v, least in broken_checks(placed)
            ]
            told += [
                ("layer-implausible", {"material": m, "value": t, "least": a, "greatest": b}) for m, t, a, b in placed.implausible
            ]
            for code, params in told:
                found.setdefault((code, tuple({"part": placed.part.label, **params}.items())), []).append(name)
    first, last = float(block.station[0]), float(block.station[-1])
    return [
        Finding("doubt", code, {**dict(params), "side": " and ".join(dict.fromkeys(sides))}, station_from=first, station_to=last)
        for (code, params), sides in found.items()
    ]


def _within_run(n: int, a: int, b: int) -> NDArray[np.bool_]:
    out = np.zeros(n, bool)
    out[a : b + 1] = True
    return out


def _under_ground(
    columns: SideColumns, parts: tuple[PlacedPart, ...], ground: tuple[Floats, Floats]
) -> Iterator[tuple[str, Floats]]:
    """Parts with slopes that end in fill, and how deep (n,) m the built path runs under the ground before its end. The ray that met
    the ground is another line than the path, so it is held against the ground again."""
    outline = columns.outline("finished")
    for placed in parts:
        fills = [i for i, c in enumerate(placed.part.cases) if c.kind == "in_fill"]
        if not fills or placed.id not in columns.case_of:
            continue
        own = [i for i in outline if columns.names[i].startswith(f"{placed.id}.")]
        before = [i for i in outline if i < min(own, default=0)]
        path = [*before[-1:], *own]
        if len(path) < 2:
            continue
        in_fill = np.isin(columns.case_of[placed.id][0], fills)
        there = columns.present[path]
        u, z = np.where(there, columns.across[path], np.nan), np.where(there, columns.level[path], np.nan)
        yield placed.id, np.where(in_fill, np.fmax(greatest_over((u.T, z.T), ground), 0.0), 0.0)


def _running_greatest(across: Floats) -> Floats:
    return np.fmax.accumulate(across, axis=0)
