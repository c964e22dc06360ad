"""What changes along a road where a case changes: ditches that run out, slopes by height that are evened."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.corridor.corridor import Corridor
from ivoryridge.core.errors import InputError
from ivoryridge.core.section.check import faults_of
from ivoryridge.core.section.edit_part import changed
from ivoryridge.core.section.library import library_data, library_part
from ivoryridge.core.section.part import part_from_dict
from ivoryridge.core.section.template import PlacedPart, Template

from .test_corridor import plane, rural, straight_road


def node(road: Corridor, name: str) -> Any:
    side = road.blocks[0].right
    i = side.index(name)
    return np.where(side.present[i], side.across[i], np.nan), np.where(side.present[i], side.level[i], np.nan)


def by_height(**values: Any) -> Template:
    row = (PlacedPart("verge", library_part("verge"), {"width": 5.0, "crossfall": 0.0}),
           PlacedPart("slope", library_part("slope_by_height"), values))  # fmt: skip
    return Template("by height", row, row)


def test_a_ditch_runs_out_to_where_cut_turns_to_fill() -> None:
    """The line falls 6 m on 400 m through level ground: the ditch is d/30 of its 0.8 m deep and of its 0.6 m wide, d m into the cut."""
    jumps = straight_road(plane(100.0), 103, 97, interval=5)
    eased = straight_road(plane(100.0), 103, 97, interval=5, template=rural(run_out=30.0))
    s = eased.station
    taken, names = eased.blocks[0].right.case_of["slope"]
    cut = taken == names.index("cut")
    first = int(np.flatnonzero(cut)[0])
    begin = (s[first - 1] + s[first]) / 2
    share = np.clip((s - begin) / 30.0, 0, 1)[cut]
    hinge = node(eased, "verge.verge_edge")
    inner, outer = node(eased, "slope.ditch_in"), node(eased, "slope.ditch_out")
    assert_allclose((hinge[1] - inner[1])[cut], 0.8 * share, rtol=0, atol=1e-9)
    assert_allclose((outer[0] - inner[0])[cut], 0.6 * share, rtol=0, atol=1e-9)
    toe_jump, toe_eased = (np.abs(np.diff(node(r, "slope.toe")[0]))[first - 1] for r in (jumps, eased))
    assert toe_jump > 3.5 and toe_eased < 0.8  # of a toe 4.4 m out, 2.5 m into the run-out of 30
    assert_allclose(node(jumps, "slope.toe")[0][cut][-20:], node(eased, "slope.toe")[0][cut][-20:], rtol=0, atol=1e-12)


def test_slopes_by_height_go_from_step_to_step_on_a_straight_line() -> None:
    """Fill grows from 1 to 6.4 m on level ground: 1 in 4 to 2 m, 1 in 2.5 to 5 m, 1 in 2 above, each step evened over 60 m."""
    stepped = straight_road(plane(100.0), 101, 106.4, interval=10, template=by_height())
    evened = straight_road(plane(100.0), 101, 106.4, interval=10, template=by_height(even_over=60.0))
    s, height = evened.station, evened.level - 100.0
    taken, names = stepped.blocks[0].right.case_of["slope"]
    n = np.array([{"fill 1": 4.0, "fill 2": 2.5, "fill above": 2.0}[names[k]] for k in taken])
    at = [(s[i] + s[i + 1]) / 2 for i in np.flatnonzero(n[1:] != n[:-1])]
    assert len(at) == 2 and set(n) == {4.0, 2.5, 2.0}
    wanted = np.interp(s, [at[0] - 30, at[0] + 30, at[1] - 30, at[1] + 30], [4.0, 2.5, 2.5, 2.0])
    assert_allclose(node(evened, "slope.toe")[0], 5 + wanted * height, rtol=0, atol=1e-9)
    assert_allclose(node(stepped, "slope.toe")[0], 5 + n * height, rtol=0, atol=1e-9)


def test_steps_that_follow_each_other_sooner_than_they_are_evened_stay_between_their_values() -> None:
    road = straight_road(plane(100.0, rise_n=0.002), 101.5, 107, length=120, interval=5, template=by_height(even_over=200.0))
    n = (node(road, "slope.toe")[0] - 5) / (road.level - node(road, "slope.toe")[1])
    assert (n >= 2 - 1e-9).all() and (n <= 4 + 1e-9).all() and (np.diff(n) <= 1e-9).all()


def test_what_changes_along_is_kept_in_step_with_names_and_refused_where_it_names_nothing() -> None:
    kept = changed(library_data("side_slopes"), [{"do": "set parameter", "parameter": "ditch_depth", "name": "depth"}])
    assert kept["along"][0]["values"] == ["depth", "ditch_width"] and not faults_of(part_from_dict(kept))
    with pytest.raises(InputError, match="run_out"):
        changed(library_data("side_slopes"), [{"do": "remove parameter", "parameter": "run_out"}])
    spoilt = {
        **library_data("side_slopes"),
        "along": [{"kind": "run out", "over": "run_out", "cases": ["none"], "values": ["x"]}],
    }
    assert {f.error.code for f in faults_of(part_from_dict(spoilt))} == {"unknown-parameter", "unknown-case"}
    with pytest.raises(InputError, match="even"):
        part_from_dict({**spoilt, "along": [{"kind": "even", "over": "run_out", "cases": ["cut"], "values": []}]})
