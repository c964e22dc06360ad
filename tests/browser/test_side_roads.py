"""Side roads in the browser: a slip road takes the main road's plane over three ranges and follows its crossfall, a lane is laid over
with the least thickness, an end meets the ground."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.design.actions.edit_along import delete_variation
from ivoryridge.design.actions.edit_crossfall import pin_bend
from ivoryridge.design.actions.edit_levels import raise_pvis
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPI, RoadPVI, Variation
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.levels import profile_of
from ivoryridge.design.results.line import ground_under, line_of
from tests.browser.conftest import until

from .test_along import mark_range


def road(demo: Any, name: str) -> Road:
    return Road.objects.get(project=demo, name=name)


def lane_edge(demo: Any, name: str, station: float) -> str:
    """Level of the right lane's edge in a section, as the drawing says it."""
    (block,) = corridor_at(assemble_road(road(demo, name)), [station]).blocks
    return f"{float(block.right.level[block.right.index('carriageway.lane_edge'), 0]):.3f}"


def fall(demo: Any, name: str, station: float) -> float:
    """Crossfall of the right lane in a section, per cent, + rises outward."""
    (block,) = corridor_at(assemble_road(road(demo, name)), [station]).blocks
    i = block.right.index("carriageway.lane_edge")
    return float(100 * (block.right.level[i, 0] - block.right.level[0, 0]) / block.right.across[i, 0])


def go_to(page: Page, name: str) -> None:
    page.click("[data-test=road-select]")
    page.get_by_role("option", name=name, exact=True).click()
    expect(page).to_have_title(f"{name} · Orrowmere Link · Ivory Ridge")


def test_a_slip_road_takes_the_main_roads_plane_over_three_ranges_and_both_are_read(demo_page: Any, demo: Any) -> None:
    owner = demo.memberships.get(role="owner").user
    slip = road(demo, "Quarry slip")
    row = Variation.present.get(road=slip, kind="follow")
    delete_variation(slip, owner, row.pk, revision=row.revision)
    page: Page = demo_page("road")
    go_to(page, "Quarry slip")
    page.click("[data-test=along-add-follow]")  # 1
    for k, (a, b) in enumerate(((0.0, 0.12), (0.14, 0.24), (0.27, 0.36))):
        mark_range(page, a, b)  # 2, 4, 6
        page.click("[data-test=along-add]" if k == 2 else "[data-test=along-another]")  # 3, 5, 7
        until(page, lambda k=k: Variation.present.filter(road=slip, kind="follow").count() == k + 1)
    assert all(
        v.data["road"] == road(demo, "Link").pk and v.data["level"] for v in Variation.present.filter(road=slip, kind="follow")
    )
    page.fill("[data-test=reading-mark]", "0+110")
    page.press("[data-test=reading-mark]", "Enter")
    expect(page.locator("[data-test=section-station]")).to_have_text("0+110.00")
    before = fall(demo, "Quarry slip", 110.0)
    edge = page.locator("[data-test='section-node-right-carriageway.lane_edge'] title")
    expect(edge).to_contain_text(lane_edge(demo, "Quarry slip", 110.0))
    expect(page.locator("[data-test=neighbour-Link]")).to_be_attached()
    link = road(demo, "Link")
    bend = RoadPI.present.filter(road=link)[2]
    pin_bend(link, owner, bend.pk, revision=link.revision, values={"rate": 0.065})
    assert fall(demo, "Link", 1600.0) == pytest.approx(-6.5, abs=1e-6)
    after = fall(demo, "Quarry slip", 110.0)
    assert after < before - 1.0
    expect(edge).to_contain_text(lane_edge(demo, "Quarry slip", 110.0))
    go_to(page, "Link")
    page.fill("[data-test=reading-mark]", "1+600")
    page.press("[data-test=reading-mark]", "Enter")
    expect(page.locator("[data-test='neighbour-Quarry slip']")).to_be_attached()
    expect(edge).to_contain_text(lane_edge(demo, "Link", 1600.0))


def test_a_lane_is_laid_over_with_the_least_thickness_and_too_thin_is_told(demo_page: Any, demo: Any) -> None:
    owner = demo.memberships.get(role="owner").user
    lane = road(demo, "Tarn Lane")
    raise_pvis(lane, owner, rise=-0.05)
    page: Page = demo_page("levels")
    go_to(page, "Tarn Lane")
    thin = page.locator(".card, [data-test=finding]").filter(has_text="would be too thin by up to")
    page.click("[data-test=stage-road]")
    expect(page.locator("#road-template option:checked")).to_have_text("none: stretches only")
    expect(thin.first).to_be_visible()
    page.click("[data-test=stage-levels]")
    page.click("[data-test=fit-overlay]")
    expect(page.get_by_text("over the least levels on average")).to_be_visible()
    page.click("[data-test=stage-road]")
    expect(thin).to_have_count(0)
    found = [f.code for f in corridor_of(assemble_road(road(demo, "Tarn Lane"))).findings]
    assert "laid-too-thin" not in found


def test_an_end_meets_the_ground_by_two_clicks_and_its_level_is_not_typed_over(demo_page: Any, demo: Any) -> None:
    page: Page = demo_page("road")
    page.click("[data-test=along-add-meet]")
    expect(page.locator("[data-test=new-end]")).to_have_value("start")
    page.click("[data-test=along-add]")
    until(page, lambda: Variation.present.filter(road__name="Link", kind="meet").exists())
    inputs = assemble_road(road(demo, "Link"))
    start = line_of(inputs).start_station
    ground = float(ground_under(inputs)[0, 1])
    assert profile_of(inputs).evaluate(start)[0][0] == pytest.approx(ground, abs=0.25)
    expect(page.get_by_text("its start meets the ground in level, grade and edges")).to_be_visible()
    page.click("[data-test=stage-levels]")
    first = RoadPVI.present.filter(road__name="Link", anchor="start", ahead=0.0).get()
    page.locator("[data-test=pvi-1]").focus()
    page.locator("[data-test=pvi-1]").press("Enter")
    field = page.locator("[data-test=pvi-level]")
    own = first.elevation
    field.fill("99")
    field.press("Enter")
    expect(page.get_by_text("This level is the ground's").first).to_be_visible()
    assert RoadPVI.objects.get(pk=first.pk).elevation == own
