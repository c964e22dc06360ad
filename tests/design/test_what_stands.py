"""What hangs on what: acts, undo and redo leave nothing broken, dangling or overwritten, and say why where they are refused."""

from __future__ import annotations

from typing import Any

import pytest
from django.db import transaction

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_course import create_course, reverse_road, tie_end, untie_end
from ivoryridge.design.actions.edit_ground import edit_ground
from ivoryridge.design.actions.edit_levels import add_candidate, choose_candidate, set_fixed_points
from ivoryridge.design.actions.edit_line import change_pi, delete_pi, insert_pi, replace_line
from ivoryridge.design.actions.edit_members import remove_member, set_member
from ivoryridge.design.actions.edit_profile import change_pvi, set_profile
from ivoryridge.design.actions.edit_road import accept_departure, change_road, create_road, delete_road
from ivoryridge.design.actions.edit_template import change_template
from ivoryridge.design.actions.join_lines import join_roads, split_road
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.inputs import network as inputs_network
from ivoryridge.design.inputs.network import assemble_road, network_of, read_network
from ivoryridge.design.models import LedgerEntry, Membership, Road, RoadPI, RoadPVI, Surface
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import BadValue, NotThere, Refused, Stale
from ivoryridge.design.results import corridor as results_corridor
from ivoryridge.design.results import surface as results_surface
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from tests.conftest import beside, plane_csv

E, N = 500_000.0, 6_200_000.0


def now(road: Road) -> Road:
    return Road.objects.select_related("project", "surface", "template").get(pk=road.pk)


def made(project: Any, user: Any, name: str, *places: tuple[float, float], levels: tuple[float, ...] = ()) -> Road:
    pis = [{"easting": E + e, "northing": N + n, "radius": 0.0} for e, n in places]
    _, road = create_road(project, user, name=name, pis=pis)
    if levels:
        length = line_of(assemble_road(road)).length.sum()
        set_profile(now(road), user, [PVI(length * i / (len(levels) - 1), z) for i, z in enumerate(levels)], label="Levels")
    return now(road)


def tied(road: Road, user: Any, end: str, other: Road, station: float | None = None, level: str = "") -> Road:
    tie_end(now(road), user, revision=now(road).revision, end=end, other=now(other), station=station, level=level)
    return now(road)


@pytest.fixture
def ben(people: Any) -> Any:
    return people["ben"]


# --- what hangs on a road ------------------------------------------------------------------------------------
def test_a_main_road_cannot_be_moved_so_that_a_side_road_breaks(project: Any, road: Road, anna: Any) -> None:
    side = made(project, anna, "Side", (100, 90), (100, 60), (100, 0))
    pi = RoadPI.present.filter(road=side)[1]
    change_pi(side, anna, pi.pk, revision=pi.revision, values={"easting": E + 90, "radius": 100.0})
    side = tied(side, anna, "end", road, 100.0)
    main = RoadPI.present.filter(road=road)[0]
    entries = LedgerEntry.objects.count()
    with pytest.raises(Refused, match=r"Side hangs on this and would not compute any more: .*curve.*Untie Side") as refused:
        change_pi(road, anna, main.pk, revision=main.revision, values={"northing": N + 60.0})
    assert refused.value.details["road_id"] == side.pk and LedgerEntry.objects.count() == entries
    untie_end(now(side), anna, revision=now(side).revision, end="end")
    change_pi(road, anna, main.pk, revision=main.revision, values={"northing": N + 60.0})


def test_a_road_that_is_shortened_or_replaced_keeps_what_is_tied_to_it(project: Any, road: Road, anna: Any) -> None:
    side = tied(made(project, anna, "Side", (400, -80), (450, 50)), anna, "end", road)
    last = list(RoadPI.present.filter(road=road))[-1]
    with pytest.raises(Refused, match=r"Side hangs on this .* is tied at 0\+.* of another road, which runs from 0\+000.00 to"):
        delete_pi(road, anna, last.pk, revision=last.revision)
    with pytest.raises(Refused, match="Side hangs on this"):
        replace_line(
            now(road), anna, revision=now(road).revision, pis=[{"easting": E, "northing": N}, {"easting": E + 50, "northing": N}]
        )
    assert list(RoadPI.present.filter(road=road))[-1].pk == last.pk and assemble_road(now(side)).ties


def test_a_split_hands_ties_over_and_a_join_takes_them_back(project: Any, road: Road, anna: Any) -> None:
    near = tied(made(project, anna, "Near", (60, -80), (60, 0)), anna, "end", road)
    far = tied(made(project, anna, "Far", (420, -60), (460, 160)), anna, "end", road)
    _, parallel = create_course(
        project, anna, name="Beside", course={"kind": "offset", "road": road.pk, "offset": -20.0}, like=road
    )
    points = [{"station": s, "level": 101.0, "kind": "above", "name": f"at {s:g}"} for s in (50.0, 300.0)]
    set_fixed_points(now(road), anna, revision=now(road).revision, points=points)
    there = line_of(assemble_road(far)).evaluate(line_of(assemble_road(far)).end_station)[0][0]
    length = line_of(assemble_road(parallel)).length.sum()
    _, told, second = split_road(now(road), anna, revision=now(road).revision, station=150.0)
    assert now(near).ties["end"]["road"] == road.pk and now(far).ties["end"]["road"] == second.pk
    assert [[f["name"] for f in now(r).fixed_points] for r in (road, second)] == [["at 50"], ["at 300"]]
    assert any("Far is tied to" in t for t in told) and any("Beside was parallel" in t for t in told)
    place = line_of(assemble_road(now(far))).evaluate(line_of(assemble_road(now(far))).end_station)[0][0]
    assert place == pytest.approx(there, abs=1e-6) and line_of(assemble_road(now(parallel))).length.sum() == pytest.approx(length)
    join_roads(now(road), anna, revision=now(road).revision, other=now(second))
    assert now(far).ties["end"]["road"] == road.pk and [f["station"] for f in now(road).fixed_points] == [50.0, 300.0]
    undo(project, anna), undo(project, anna)
    assert now(far).ties["end"]["road"] == road.pk and now(parallel).course["kind"] == "offset"


def test_the_nearest_place_of_a_tie_beyond_an_end_is_that_end(project: Any, road: Road, anna: Any) -> None:
    side = tied(made(project, anna, "Side", (-200, -80), (-40, 3)), anna, "end", road)
    assert side.ties["end"]["station"] == 0.0


def test_circles_are_refused_by_name_also_by_redo(project: Any, road: Road, anna: Any, ben: Any) -> None:
    a, b = made(project, anna, "One", (0, 80), (90, 80)), made(project, anna, "Two", (0, 120), (90, 120))
    tied(a, anna, "end", b, 50.0)
    undo(project, anna)
    tied(b, ben, "end", a, 50.0)
    with pytest.raises((Refused, InputError), match=r"One on Two on One|Two on One on Two"):
        redo(project, anna)
    assert not now(a).ties and network_of(project.pk).road(b.pk).broken is None
    with pytest.raises(InputError, match="in a circle"):
        tie_end(now(a), ben, revision=now(a).revision, end="start", other=now(b), station=20.0)


def test_undoing_what_others_need_is_refused_in_words(project: Any, road: Road, anna: Any, ben: Any) -> None:
    side = made(project, anna, "Side", (100, -80), (100, -10))
    branch = tied(made(project, ben, "Branch", (180, -60), (110, -50)), ben, "end", side)
    with pytest.raises(Refused, match="Branch needs a road that would go with it"):
        undo(project, anna)
    assert line_of(assemble_road(now(branch))).length.sum() > 0
    _, ground, _ = bring_in_file(project, anna, content=plane_csv(0.01), name="new.csv")
    change_road(now(road), ben, revision=now(road).revision, values={"surface_id": ground.pk})
    with pytest.raises(Refused, match=r"A needs Existing ground.* that would go with it"):
        undo(project, anna)
    assert Surface.present.filter(pk=ground.pk).exists()


def test_undo_of_a_radius_that_the_next_person_made_room_for_is_refused(project: Any, road: Road, anna: Any, ben: Any) -> None:
    middle = RoadPI.present.filter(road=road)[1]
    change_pi(road, anna, middle.pk, revision=middle.revision, values={"radius": 60.0})
    end = RoadPI.present.filter(road=road)[2]
    change_pi(road, ben, end.pk, revision=end.revision, values={"easting": E + 360.0, "northing": N + 60.0})
    with pytest.raises((InputError, Refused), match=r"overlap|curve"):
        undo(project, anna)
    assert RoadPI.present.filter(road=road)[1].radius == 60.0
    end = RoadPI.present.filter(road=road)[2]
    change_pi(road, ben, end.pk, revision=end.revision, values={"northing": N + 65.0})  # the next act goes on


# --- profiles that are not in use ----------------------------------------------------------------------------
def test_a_pi_on_whose_curve_a_profile_not_in_use_hangs_can_go(road: Road, anna: Any) -> None:
    propose_profile(road, anna)
    pvi = next(r for r in levels_of(assemble_road(now(road))).rows if r.anchor == "station")
    change_pvi(now(road), anna, pvi.id, revision=pvi.revision, values={"anchor": "tangent"})
    before = {p.station for p in levels_of(assemble_road(now(road))).pvis}
    add_candidate(now(road), anna, revision=now(road).revision, name="Other")
    for row in RoadPVI.present.filter(road=road, candidate="1", anchor="tangent"):
        change_pvi(now(road), anna, row.pk, revision=row.revision, values={"anchor": "station"})
    middle = RoadPI.present.filter(road=road)[1]
    _, told = delete_pi(now(road), anna, middle.pk, revision=middle.revision)
    assert any("now held by its chainage" in t for t in told)
    kept = RoadPVI.present.get(pk=pvi.id)
    assert kept.anchor == "station" and any(abs(kept.station - s) < 1e-6 for s in before)
    choose_candidate(now(road), anna, revision=now(road).revision, candidate="")
    assert {p.station for p in levels_of(assemble_road(now(road))).pvis} >= {kept.station}


# --- two persons at once -------------------------------------------------------------------------------------
def test_two_pis_put_in_at_once_stand_in_the_legs_they_were_meant_for(road: Road, anna: Any, ben: Any) -> None:
    first, second = beside(road, 1), beside(road, 2)
    insert_pi(road, anna, between=first, values={"easting": E + 100.0, "northing": N})
    insert_pi(road, ben, between=second, values={"easting": E + 400.0, "northing": N + 100.0})
    with pytest.raises(Stale, match="not beside each other any more"):
        insert_pi(road, ben, between=first, values={"easting": E + 150.0, "northing": N})
    assert [p.easting - E for p in RoadPI.present.filter(road=road)] == [0, 100, 300, 400, 500]


def test_a_fit_to_the_ground_replaces_no_pvis_that_were_not_seen(road: Road, anna: Any, ben: Any) -> None:
    propose_profile(road, anna)
    seen = [tuple(r) for r in road_picture(assemble_road(now(road)))["pvi_rows"]]
    pvi = RoadPVI.present.filter(road=road).exclude(anchor__in=("start", "end")).first()
    assert pvi is not None
    change_pvi(now(road), ben, pvi.pk, revision=pvi.revision, values={"elevation": pvi.elevation + 0.4})
    with pytest.raises(Stale, match="Somebody has changed the profile of A"):
        propose_profile(now(road), anna, seen=seen)
    propose_profile(now(road), anna, seen=[tuple(r) for r in road_picture(assemble_road(now(road)))["pvi_rows"]])


def test_a_stale_value_is_told_with_what_really_differs(road: Road, anna: Any, ben: Any) -> None:
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(road, ben, pi.pk, revision=pi.revision, values={"spiral_in": 50.0})
    with pytest.raises(Stale) as stale:
        change_pi(road, anna, pi.pk, revision=pi.revision, values={"radius": 220.0})
    assert "ben changed a PI while you were editing it (spiral in: theirs 50)" in stale.value.sentence
    with pytest.raises(Stale, match="radius: theirs 210, yours 220"):
        change_pi(road, ben, pi.pk, revision=pi.revision + 1, values={"radius": 210.0})
        change_pi(road, anna, pi.pk, revision=pi.revision + 1, values={"radius": 220.0})


def test_owners_who_let_go_of_each_other_leave_one_and_the_ledger_knows(project: Any, anna: Any, ben: Any) -> None:
    set_member(project, anna, username="ben", role="owner")
    set_member(project, ben, username="anna", role="viewer")
    with pytest.raises(BadValue, match="needs an owner"):
        set_member(project, anna, username="ben", role="viewer")
    with pytest.raises(BadValue, match="needs an owner"):
        remove_member(project, ben, username="ben")
    remove_member(project, ben, username="anna")
    labels = list(LedgerEntry.objects.filter(project=project).order_by("-id").values_list("label", flat=True)[:3])
    assert labels == ["Take anna out of the project", "Make anna viewer", "Make ben owner"]
    undo(project, ben), undo(project, ben)
    assert {m.user.username: m.role for m in Membership.present.filter(project=project)} == {
        "anna": "owner",
        "ben": "owner",
        "cara": "viewer",
    }
    set_member(project, anna, username="ben", role="editor")
    with pytest.raises(Refused):  # it would leave ben the owner that anna has since made an editor
        redo(project, ben)


# --- findings by the rows they speak of ----------------------------------------------------------------------
def test_a_departure_stays_where_a_pi_is_put_in_and_the_road_is_reversed(project: Any, road: Road, anna: Any) -> None:
    def open_codes() -> set[str]:
        return {f["code"] for f in road_picture(assemble_road(now(road)))["findings"] if "key" in f}

    found = next(f for f in road_picture(assemble_road(now(road)))["findings"] if f["code"] == "radius-least")
    accept_departure(now(road), anna, revision=now(road).revision, key=found["key"], remark="walls on both sides")
    assert "radius-least" not in open_codes()
    insert_pi(now(road), anna, between=beside(road, 1), values={"easting": E + 80.0, "northing": N + 0.5})
    assert "radius-least" not in open_codes()
    kept = now(road).departures
    reverse_road(now(road), anna, revision=now(road).revision)
    assert "radius-least" not in open_codes() and now(road).departures == kept


def test_thirty_roads_tied_in_a_chain_are_read_in_a_few_queries(
    project: Any, road: Road, anna: Any, django_assert_max_num_queries: Any
) -> None:
    before = road
    for i in range(8):
        side = made(project, anna, f"Chain {i}", (20 + 10 * i, -60), (30 + 10 * i, 0))
        before = tied(side, anna, "end", before, 20.0)
    with django_assert_max_num_queries(12):
        assert line_of(assemble_road(now(before))).length.sum() > 0
    delete_road(now(road), anna, revision=now(road).revision)
    assert all(network_of(project.pk).road(pk).broken is None for pk in network_of(project.pk).own)


def test_a_road_that_hangs_on_one_that_is_gone_says_so_and_the_others_stand(project: Any, road: Road, anna: Any) -> None:
    """However it came to that, e.g. in a project from before acts looked at what hangs on what."""
    main = made(project, anna, "Main", (0, 90), (90, 90))
    side = tied(made(project, anna, "Side", (20, 40), (20, 80)), anna, "end", main)
    Road.objects.filter(pk=main.pk).update(removed=True)
    told = road_picture(assemble_road(now(side)))["problems"]["line"]["sentence"]
    assert told == "Side hangs on Main, which was deleted. Untie it or set it free, or bring Main back."
    assert not road_picture(assemble_road(now(road)))["problems"]


@pytest.mark.django_db(databases=["default", "derived"], transaction=True)
def test_what_takes_long_is_computed_outside_the_transaction(
    project: Any, road: Road, anna: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    held: list[tuple[str, bool]] = []
    for module, name in ((results_surface, "build_surface"), (results_corridor, "solve_blocks")):
        real = getattr(module, name)

        def watched(*args: Any, real: Any = real, name: str = name, **given: Any) -> Any:
            held.append((name, transaction.get_connection().in_atomic_block))
            return real(*args, **given)

        monkeypatch.setattr(module, name, watched)
    propose_profile(road, anna)
    ground, template = Surface.objects.get(pk=road.surface_id), now(road).template
    assert template is not None
    edit_ground(ground, anna, revision=ground.revision, edits=[{"do": "add_point", "to": [E + 30.0, N + 12.0, 103.0]}])
    change_template(template, anna, revision=template.revision, side="both", part="carriageway", values={"lane_width": 4.0})
    undo(project, anna)
    assert {name for name, _ in held} == {"build_surface", "solve_blocks"} and not any(inside for _, inside in held)


def test_an_act_on_a_road_that_somebody_has_just_deleted_is_told(road: Road, anna: Any, ben: Any) -> None:
    seen, pi = now(road), RoadPI.present.filter(road=road)[1]
    delete_road(now(road), ben, revision=now(road).revision)
    with pytest.raises(NotThere, match="somebody has deleted it"):
        change_pi(seen, anna, pi.pk, revision=pi.revision, values={"radius": 250.0})
    with pytest.raises(NotThere, match="somebody has deleted it"):
        propose_profile(seen, anna)


@pytest.mark.django_db(databases=["default", "derived"], transaction=True)
def test_what_an_act_leaves_is_there_for_who_asks_next_and_what_is_undone_after_all_is_not(
    project: Any, road: Road, anna: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    reads = []
    monkeypatch.setattr(inputs_network, "read_network", lambda pk: reads.append(pk) or read_network(pk))

    def asked() -> tuple[float, int]:
        reads.clear()
        return assemble_road(road).interval, len(reads)

    change_road(now(road), anna, revision=now(road).revision, values={"interval": 7.0})
    assert asked() == (7.0, 0)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        change_road(now(road), anna, revision=now(road).revision, values={"interval": 8.0})
        raise ZeroDivisionError
    assert asked()[0] == 7.0
    with transaction.atomic():  # a row behind the act's back
        change_road(now(road), anna, revision=now(road).revision, values={"interval": 9.0})
        row = now(road)
        row.interval = 10.0
        row.save()
    assert asked()[0] == 10.0
    change_road(now(road), anna, revision=now(road).revision, values={"interval": 11.0})
    undo(now(road).project, anna)
    assert asked()[0] == 10.0
