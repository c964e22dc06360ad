"""Keyed results: computed once, never stale, shared by equals, and gone without harm."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from ivoryridge.design.actions.edit_road import change_road
from ivoryridge.design.actions.edit_template import change_template
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.kept import kinds
from ivoryridge.design.kept.kinds import computed_counts, hash_of
from ivoryridge.design.models import DerivedResult, Road, Template
from ivoryridge.design.pictures.ground import lines_key
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.results.corridor import corridor, corridor_of
from ivoryridge.design.results.crossfall import crossfall_of
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.road import design_road
from ivoryridge.design.results.surface import surface, surface_of


@pytest.fixture(autouse=True)
def fresh() -> None:
    kinds.clear_memory()
    computed_counts.clear()


def ready(road: Road, people: Any) -> Road:
    propose_profile(road, people["anna"])
    return Road.objects.select_related("project", "surface", "template").get(pk=road.pk)


def test_the_second_look_computes_nothing(road: Road, people: Any) -> None:
    road = ready(road, people)
    first = design_road(assemble_road(road))
    counts = dict(computed_counts)
    second = design_road(assemble_road(road))
    assert computed_counts == counts and second.corridor is first.corridor


def test_a_change_reaches_volumes_and_undo_needs_no_computation(road: Road, people: Any) -> None:
    road = ready(road, people)
    before = areas_of(assemble_road(road))[1].cumulative_cut[-1]
    template = Template.objects.get(pk=road.template_id)
    change_template(
        template, people["anna"], revision=template.revision, side="both", part="carriageway", values={"lane_width": 6.0}
    )
    road = Road.objects.select_related("project", "surface", "template").get(pk=road.pk)
    assert areas_of(assemble_road(road))[1].cumulative_cut[-1] > before
    undo(road.project, people["anna"])
    counts = dict(computed_counts)
    road = Road.objects.select_related("project", "surface", "template").get(pk=road.pk)
    assert areas_of(assemble_road(road))[1].cumulative_cut[-1] == before
    assert computed_counts == counts


@pytest.mark.django_db(databases=["default", "derived"])
def test_a_kept_surface_survives_a_restart_and_a_lost_table_costs_only_time(road: Road) -> None:
    recipe = assemble_road(road).surface
    assert recipe is not None
    surface, _ = surface_of(recipe)
    assert DerivedResult.objects.filter(kind="surface").exists()
    kinds.clear_memory()
    again, _ = surface_of(recipe)
    assert computed_counts["surface"] == 1 and np.array_equal(again.triangles, surface.triangles)
    DerivedResult.objects.all().delete()
    kinds.clear_memory()
    assert np.array_equal(surface_of(recipe)[0].points, surface.points)
    assert computed_counts["surface"] == 2


@pytest.mark.django_db(databases=["default", "derived"])
def test_the_table_drops_what_was_used_longest_ago(road: Road, monkeypatch: pytest.MonkeyPatch) -> None:
    recipe = assemble_road(road).surface
    assert recipe is not None
    keys = []
    for edge in (None, 500.0, 400.0):
        other = replace(recipe, greatest_edge=edge)
        keys.append(surface(other).key)
        surface_of(other)
    size = sum(len(bytes(b)) for b in DerivedResult.objects.filter(key=keys[0]).values_list("blob", flat=True))
    kinds.clear_memory()
    surface_of(recipe)  # the oldest is used again
    monkeypatch.setattr(kinds, "MOST_BYTES", int(2.5 * size))
    surface_of(replace(recipe, greatest_edge=300.0))
    kept = set(DerivedResult.objects.values_list("key", flat=True))
    assert keys[0] in kept and keys[1] not in kept and len(kept) == 2


def test_keys_tell_apart_what_differs_and_only_that() -> None:
    key = lambda *v: hash_of(list(v))  # noqa: E731
    assert key(np.zeros(6)) != key(np.zeros((2, 3)))
    assert key(-0.0) == key(0.0) == key(0)
    assert key({"a": 1, "b": 2}) == key({"b": 2.0, "a": 1.0}) != key({"a": 1, "b": 3})
    assert key([1, [2]]) != key([1, 2]) and key(None) != key("") and key("1") != key(1) and key(True) != key(1)
    assert kinds.tag("levels", 1, 1) != kinds.tag("levels", 2, 1) != kinds.tag("line", 2, 1)
    with pytest.raises(TypeError):
        key(object())


def test_the_key_of_the_picture_follows_everything_on_it(road: Road, people: Any) -> None:
    road = ready(road, people)
    keys = {road_picture(assemble_road(road))["key"]}
    change_road(road, people["anna"], revision=road.revision, values={"interval": 7.0})
    road = Road.objects.select_related("project", "surface", "template").get(pk=road.pk)
    keys.add(road_picture(assemble_road(road))["key"])
    change_road(road, people["anna"], revision=road.revision, values={"name": "Renamed"})
    road = Road.objects.select_related("project", "surface", "template").get(pk=road.pk)
    keys.add(road_picture(assemble_road(road))["key"])
    assert len(keys) == 3


def test_a_step_that_fails_is_told_and_the_steps_before_it_stay(road: Road, people: Any) -> None:
    inputs = assemble_road(ready(road, people))
    bad = replace(inputs, pis=(inputs.pis[0], replace(inputs.pis[1], radius=5000.0), inputs.pis[2]))
    found = design_road(bad)
    assert found.problems["line"].code == "tangents-overlap" and found.levels is None
    rows = tuple(replace(p, station=9e3) if p.anchor == "station" else p for p in inputs.pvis)
    found = design_road(replace(inputs, pvis=rows))
    assert found.line is not None and found.problems["levels"].code == "pvi-beyond-end" and found.corridor is None


def test_a_change_of_levels_cuts_only_what_moved_with_it_and_gets_the_same_sections(road: Road, people: Any) -> None:
    """Second way: the corridor from kept cuts is the one from a fresh cut at every station, to the last bit."""
    from ivoryridge.core.corridor.corridor import compute_corridor

    inputs = assemble_road(ready(road, people))
    corridor_of(inputs)
    for _ in range(2):
        pvis = tuple(
            replace(p, elevation=p.elevation + 0.25, station=None if p.station is None else p.station + 1.37) for p in inputs.pvis
        )
        inputs = replace(inputs, pvis=pvis)
        got = corridor_of(inputs)
        line, levels = line_of(inputs), levels_of(inputs)
        assert inputs.surface is not None and inputs.template is not None
        stations, turning = got.station, crossfall_of(inputs)
        assert turning is not None and set(turning.diagram.station[1:-1]) <= set(stations)
        want = compute_corridor(line, levels.profile, inputs.template, surface_of(inputs.surface)[0], stations, crossfall=turning)
        assert np.array_equal(got.blocks[0].left.across, want.blocks[0].left.across, equal_nan=True)
        assert np.array_equal(got.blocks[0].right.level, want.blocks[0].right.level, equal_nan=True)
        for i in range(len(stations)):
            assert np.array_equal(got.blocks[0].ground.section(i), want.blocks[0].ground.section(i), equal_nan=True)
    assert computed_counts["corridor"] == 3 and computed_counts["cuts"] == 1


def test_a_key_is_made_of_content_never_of_names_or_ids(road: Road, people: Any) -> None:
    inputs = assemble_road(ready(road, people))
    template, recipe = inputs.template, inputs.surface
    assert template is not None and recipe is not None
    placed = template.left[0]
    parameter = placed.part.parameters[0]
    changed = replace(placed.part, parameters=(replace(parameter, value=parameter.value + 0.5), *placed.part.parameters[1:]))
    other = replace(template, left=(replace(placed, part=changed), *template.left[1:]))  # a person's own part of the same name
    assert corridor(replace(inputs, template=other)).key != corridor(inputs).key
    assert corridor(replace(inputs, template=replace(template))).key == corridor(inputs).key
    again = tuple(replace(p, id=p.id + 900, revision=p.revision + 1) for p in inputs.pvis)
    assert corridor(replace(inputs, name="B", road_id=99, pvis=again)).key == corridor(inputs).key
    brought_in_again = replace(recipe, sources=tuple(replace(s, id=s.id + 50) for s in recipe.sources))
    assert surface(brought_in_again).key == surface(recipe).key and lines_key(brought_in_again) != lines_key(recipe)
    assert all(name in kinds.libraries() for name in ("numpy", "scipy", "numba", "shapely", "pythoncdt"))


def test_a_need_that_is_forgotten_is_an_error_not_an_old_number() -> None:
    @kinds.kind("half made", 1)
    def half(line: int, levels: int) -> int:
        return line + levels

    assert half(line=1, levels=2).get() == 3 and half(line=1, levels=2).key != half(line=1, levels=3).key
    with pytest.raises(TypeError, match="levels"):
        half(line=1).get()
    assert not kinds._working  # what failed leaves no lock behind


def test_memory_is_bounded_in_bytes_class_by_class(settings: Any) -> None:
    settings.MEMORY_MB = 10  # 2 MB for roads, 5.5 for the ground
    big = [kinds._kinds["half big"](n=n) for n in range(6)] if "half big" in kinds._kinds else []
    if not big:
        many = kinds.kind("half big", 1)(lambda n: np.full(100_000, float(n)))
        big = [many(n=n) for n in range(6)]
    for result in big:
        result.get()
    used, most = kinds.memory_in_use()["road"]
    assert used <= most == 2_000_000
    computed_counts.clear()
    big[-1].get(), big[0].get()
    assert computed_counts == {"half big": 1}  # the last ones are there, the first has gone
    with kinds.trial():
        for n in range(50, 56):
            big[0].kind(n=n).get()
    big[-1].get()
    assert computed_counts["half big"] == 7  # a drag has pushed nothing saved out


def test_memory_in_use_is_what_is_kept_through_eviction_renewal_and_forgetting(settings: Any) -> None:
    """Totals are carried along, not counted anew: after 300 random results, some asked for again, they are the sum of what is there."""
    from ivoryridge.design.kept import kinds

    settings.MEMORY_MB = 1.0
    kinds.clear_memory()
    made = kinds.Kind("memory test", 1, lambda size, number: np.full(size, number), "road", None)
    rng = np.random.default_rng(0)
    try:
        for i in range(300):
            size = int(rng.integers(10, 4000))
            with kinds.trial() if i % 3 == 0 else contextlib.nullcontext():
                assert made(size=size, number=float(i % 40)).get()[0] == i % 40
            for name, kept in kinds._kept.items():
                used, most = kinds.memory_in_use()[name]
                assert used == sum(size for _, size in kept.values()) and (used <= most or len(kept) == 1)
        assert kinds.memory_in_use()["road"][0] > 100_000 and kinds.memory_in_use()["trial"][0] > 10_000
    finally:
        kinds.clear_memory()
    assert all(used == 0 for used, _ in kinds.memory_in_use().values())
