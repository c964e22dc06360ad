"""Ditches that keep a least grade: lowered by their depth from where they lie without it, live with the profile, undone, refused."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.drainage import bed_runs, beds_of, kept_falling
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.edit_along import add_variation, change_variation, delete_variation
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPVI, Template, Variation
from ivoryridge.design.pictures.along import along_rows
from ivoryridge.design.pictures.beside import beds_picture, beside_picture
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_of
from ivoryridge.design.results.line import line_of

DITCH = {"kind": "adjustment", "side": "both", "part": "slope", "parameter": "ditch_depth", "form": "graded", "least": 0.012}


def inputs_of(road: Road) -> Any:
    return assemble_road(Road.objects.get(pk=road.pk))


@pytest.fixture
def cut(road: Road, anna: Any, kerbed: Template) -> Road:
    """The road in cut with a hollow profile: its ditches are flat about the sag."""
    set_profile(road, anna, [PVI(0, 94), PVI.symmetric(240, 92.6, 150), PVI(480, 94.2)], label="In cut")
    return Road.objects.get(pk=road.pk)


def test_beds_are_lowered_by_their_depth_so_that_they_fall_and_follow_a_drag(cut: Road, anna: Any) -> None:
    plain = {s: bed_runs(corridor_of(inputs_of(cut)), s, "slope", 0.0, 600.0) for s in ("left", "right")}
    row = add_variation(cut, anna, values=DITCH)[1]
    now = corridor_of(inputs_of(cut))
    lowered = 0.0
    for side, runs in plain.items():
        for (s, z), (s_now, z_now) in zip(runs, bed_runs(now, side, "slope", 0.0, 600.0), strict=True):
            wanted = np.interp(s_now, s, kept_falling(s, z, 0.012))
            assert z_now == pytest.approx(wanted, abs=1e-6)
            lowered = max(lowered, float((z - np.interp(s, s_now, z_now)).max()))
    assert lowered > 0.05
    pvi = RoadPVI.present.filter(road=cut, anchor="station").get()
    tried = with_trial(inputs_of(cut), {"pvi": {"id": pvi.pk, "elevation": 92.9}})
    for s, z in bed_runs(corridor_of(tried), "right", "slope", 0.0, 600.0):
        assert (np.abs(np.diff(z) / np.diff(s)) >= 0.012 - 1e-6).mean() > 0.9  # but where a new crest falls between two sections
    said = along_rows(inputs_of(cut), line_of(inputs_of(cut)))[0]["said"]
    assert "bed kept at 1.2 % or more by its" in said
    delete_variation(cut, anna, row.pk, revision=row.revision)
    for side, runs in plain.items():
        for (_, z), (_, z_now) in zip(runs, bed_runs(corridor_of(inputs_of(cut)), side, "slope", 0.0, 600.0), strict=True):
            assert z_now == pytest.approx(z, abs=0)


def test_beds_are_listed_and_drawn_beside_the_profile(cut: Road) -> None:
    rows = beds_picture(inputs_of(cut))
    assert {r["role"] for r in rows} >= {"ditch invert"} and any(r["lows"] for r in rows)
    low = next(r["lows"][0] for r in rows if r["lows"])
    bed = next(b for b in beds_of(corridor_of(inputs_of(cut))) if len(b.lows))
    assert low == pytest.approx([bed.station[np.argmin(bed.level)], bed.level.min()], abs=0.01)
    names = [g["name"] for g in beside_picture(cut, [], [], beds=True)["grounds"]]
    assert "left ditch invert" in names and "right ditch invert" in names
    assert "left ditch invert" not in [g["name"] for g in beside_picture(cut, [], [])["grounds"]]


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"least": 0.0}, "above 0 and at most 20 %"),
        ({"least": 0.5}, "50 % is not"),
        ({"part": "verge", "parameter": "width"}, "no ditch or channel"),
        ({"parameter": "ditch_width"}, "is no depth"),
    ],
)  # fmt: skip
def test_what_can_keep_no_grade_is_refused(cut: Road, anna: Any, values: dict[str, Any], words: str) -> None:
    with pytest.raises(BadValue, match=words):
        add_variation(cut, anna, values={**DITCH, **values})
    assert not Variation.present.exists()


def test_a_bed_that_would_have_to_lie_too_deep_is_refused_with_its_depth(cut: Road, anna: Any) -> None:
    row = add_variation(cut, anna, values=DITCH)[1]
    with pytest.raises(InputError, match="it must lie between"):
        change_variation(cut, anna, row.pk, revision=row.revision, values={"least": 0.19})
