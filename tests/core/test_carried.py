"""Edits on a newer version of a file: what is the same point or line is found again, whatever its number; all else is told."""

from __future__ import annotations

from typing import Any

import numpy as np

from ivoryridge.core.terrain.carried import carried_edits
from ivoryridge.core.terrain.survey import Survey


def test_edits_follow_their_points_and_lines_through_a_shuffled_file() -> None:
    """Families of random files: the newer one is shuffled, a share of its points has other levels or is gone, some are new."""
    rng = np.random.default_rng(17)
    for _ in range(40):
        points = np.round(rng.uniform(0, 200, (60, 3)), 3)
        points[rng.integers(0, 60, 4), 2] = np.nan
        lines = tuple(np.round(rng.uniform(0, 200, (int(k), 3)), 3) for k in rng.integers(2, 6, 8))
        layers = tuple(rng.choice(["EDGE", "TOP"], 8).tolist())
        old = Survey(points, lines=lines, line_codes=layers)
        order, line_order = rng.permutation(60), rng.permutation(8)
        stay = rng.random(60) < 0.8
        moved = points + np.where(stay, 0.0, 1.0)[:, None] * [0, 0, 0.05]
        moved[np.isnan(points[:, 2]) & ~stay, 0] += 1.0  # one without a level can only have another place
        changed = int(rng.integers(8))
        newer = tuple(v + (0.5 if i == changed else 0.0) for i, v in enumerate(lines))
        new = Survey(
            np.concatenate([moved[order], rng.uniform(300, 400, (5, 3))]),
            lines=tuple(newer[i] for i in line_order), line_codes=tuple(layers[i] for i in line_order),
        )  # fmt: skip
        edits: list[dict[str, Any]] = [{"do": "set_level", "survey": 4, "point": i, "level": 9.0} for i in range(60)]
        edits += [{"do": "leave_out_line", "survey": 4, "line": i} for i in range(8)]
        edits += [{"do": "leave_out", "survey": 9, "points": [3]}, {"do": "add_point", "to": [1, 2, 3]}]
        kept, lost = carried_edits(edits, {4: old}, [(7, new)])
        where = {int(old_number): new_number for new_number, old_number in enumerate(order)}
        assert {e["point"] for e in kept if e["do"] == "set_level"} == {where[i] for i in range(60) if stay[i]}
        assert [e["point"] for e in lost if "point" in e] == [i for i in range(60) if not stay[i]]
        there = {int(o): n for n, o in enumerate(line_order)}
        assert [e["line"] for e in kept if "line" in e] == [there[i] for i in range(8) if i != changed]
        assert [e["line"] for e in lost if "line" in e] == [changed]
        assert all(e["survey"] == 7 for e in kept if e["do"] in ("set_level", "leave_out_line"))
        assert kept[-2:] == edits[-2:]


def test_twins_are_not_taken_twice_and_an_edit_of_several_points_keeps_those_that_are_there() -> None:
    twin = np.array([[5.0, 5.0, 1.0], [5.0, 5.0, 1.0], [8.0, 8.0, 2.0], [9.0, 9.0, 3.0]])
    new = Survey(np.array([[8.0, 8.0, 2.0], [5.0, 5.0, 1.0], [5.0, 5.0, 1.0]]))
    edit = {"do": "leave_out", "survey": 1, "points": [0, 1, 2, 3]}
    kept, lost = carried_edits([edit], {1: Survey(twin)}, [(2, new)])
    assert kept == [{"do": "leave_out", "survey": 2, "points": [1, 2, 0]}]
    assert lost == [{"do": "leave_out", "survey": 1, "points": [3]}]
