"""One reading mark for all views; drags show the true result and are saved once."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Page, expect

from ivoryridge.design.models import LedgerEntry, Road, RoadPI
from tests.browser.conftest import go_to, until


def text(page: Page, test: str) -> str:
    return page.locator(f"[data-test={test}]").inner_text()


def path(page: Page) -> str:
    return page.locator("[data-test=design-line]").get_attribute("d") or ""


def middle(page: Page, test: str) -> tuple[float, float]:
    box = page.locator(f"[data-test={test}] rect").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_the_reading_mark_moves_every_view(demo_page: Any) -> None:
    page = demo_page()
    mark = page.locator("[data-test=reading-mark]")
    mark.fill("1+060")
    mark.press("Enter")
    expect(page.locator("[data-test=section-station]")).to_have_text("1+060.00")
    expect(page.locator("[data-test=mark-told]")).to_contain_text(re.compile(r"grade [+−]\d"))
    in_plan = page.locator("[data-test=plan-canvas] .mark").get_attribute("transform")
    page.locator("[data-test=view-plan] h3").click()
    page.keyboard.press(".")
    expect(page.locator("[data-test=section-station]")).to_have_text("1+070.00")
    expect(mark).to_have_value("1+070.00")
    assert page.locator("[data-test=plan-canvas] .mark").get_attribute("transform") != in_plan
    page.keyboard.press("End")
    expect(page.locator("[data-test=section-station]")).to_have_text("2+417.16")
    box = page.locator("[data-test=route-bar]").bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] * 0.4, box["y"] + 20)
    expect(page.locator("[data-test=section-station]")).to_have_text(re.compile(r"0\+8\d\d"))


def test_a_dragged_pvi_shows_the_new_volume_and_is_saved_once_on_release(demo_page: Any, demo: Any) -> None:
    page = demo_page()
    expect(page.locator("[data-test=total-cut]")).to_be_visible()
    saved, line, acts = text(page, "total-cut"), path(page), LedgerEntry.objects.count()
    x, y = middle(page, "pvi-3")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 6, y + 12, steps=4)
    expect(page.locator("[data-test=total-cut]")).not_to_have_text(saved)
    during = text(page, "total-cut")
    assert path(page) != line and LedgerEntry.objects.count() == acts
    page.mouse.up()
    expect(page.locator("[data-test=told]")).to_contain_text("Move PVI 3 of Link")
    assert LedgerEntry.objects.count() == acts + 1
    expect(page.locator("[data-test=total-cut]")).not_to_have_text(saved)
    assert during != saved
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=total-cut]")).to_have_text(saved)


def test_escape_leaves_a_drag_without_a_trace(demo_page: Any) -> None:
    page = demo_page()
    expect(page.locator("[data-test=total-cut]")).to_be_visible()
    saved, acts = text(page, "total-cut"), LedgerEntry.objects.count()
    x, y = middle(page, "pvi-3")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 15, steps=4)
    expect(page.locator("[data-test=total-cut]")).not_to_have_text(saved)
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=total-cut]")).to_have_text(saved)
    page.mouse.up()
    assert LedgerEntry.objects.count() == acts


def test_a_dragged_pi_moves_line_and_levels_and_tells_what_kept_its_anchor(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    expect(page.locator("[data-test=pi-2]")).to_be_visible()
    row = RoadPI.present.filter(road__project=demo, road__name="Link")[1]
    x, y = middle(page, "pi-2")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 4, y + 14, steps=5)
    expect(page.locator("[data-test=pi-2-northing]")).not_to_have_value("686\u2009880.000")
    page.mouse.up()
    expect(page.locator("[data-test=told]")).to_contain_text("kept the end")
    moved = RoadPI.objects.get(pk=row.pk)
    assert moved.revision == row.revision + 1 and moved.northing < row.northing


def test_pis_and_pvis_are_added_and_deleted_where_they_are_clicked(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    expect(page.locator("[data-test=pi-4]")).to_be_visible()
    (x1, y1), (x2, y2) = middle(page, "pi-3"), middle(page, "pi-4")
    page.click("[data-test=tool-add-pi]")
    page.mouse.click((x1 + x2) / 2, (y1 + y2) / 2 + 9)
    expect(page.locator("[data-test=pi-5]")).to_be_visible()
    names = [p.northing for p in RoadPI.present.filter(road__project=demo, road__name="Link")]
    assert len(names) == 5 and names[4] == 686_690.0
    page.keyboard.press("Escape")
    page.click("[data-test=pi-4] rect")
    page.keyboard.press("Delete")
    expect(page.locator("[data-test=pi-5]")).to_have_count(0)
    page.click("[data-test=stage-levels]")
    expect(page.locator("[data-test=pvi-6]")).to_be_visible()
    box = page.locator("[data-test=long-canvas]").bounding_box()
    assert box
    page.click("[data-test=tool-add-pvi]")
    page.mouse.click(box["x"] + box["width"] * 0.18, box["y"] + box["height"] * 0.38)
    expect(page.locator("[data-test=pvi-7]")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=pvi-7]")).to_have_count(0)


def test_a_range_marked_on_the_route_bar_is_the_range_of_the_volumes(demo_page: Any) -> None:
    page = demo_page("earthwork")
    rows = page.locator("[data-test=volumes] tbody tr")
    expect(rows.nth(100)).to_be_attached()
    box = page.locator("[data-test=route-bar]").bounding_box()
    assert box
    page.keyboard.down("Shift")
    page.mouse.move(box["x"] + 300, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + 420, box["y"] + 20, steps=4)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.locator("[data-test=marked-range]")).to_be_visible()
    expect(rows.nth(60)).not_to_be_attached()
    assert "station_from=" in (page.locator("[data-test=volumes-csv]").get_attribute("href") or "")


def test_find_or_do_goes_to_a_chainage_and_runs_a_command(demo_page: Any) -> None:
    page = demo_page()
    go_to(page, "1+240")
    expect(page.locator("[data-test=section-station]")).to_have_text("1+240.00")
    page.keyboard.press("Control+k")
    page.fill("[data-test=find-input]", "sheets")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=sheet-plan-1]")).to_be_visible()
    assert "/sheets" in page.url


def test_the_model_is_drawn_and_looks_along_the_road(demo_page: Any) -> None:
    page = demo_page("road")
    expect(page.locator("[data-test=view-model] [data-drawn=true]")).to_be_attached(timeout=30_000)
    canvas = page.locator("[data-test=model-canvas]")
    above = canvas.screenshot()
    page.click("[data-test=model-along]")
    until(page, lambda: canvas.screenshot() != above)


def test_the_address_brings_one_back_and_back_walks_through_stages(demo_page: Any, demo: Any) -> None:
    page = demo_page("ground")
    page.click("[data-test=stage-levels]")
    go_to(page, "1+240")
    expect(page.locator("[data-test=reading-mark]")).to_have_value("1+240.00")
    page.wait_for_url("**/levels?at=1240")
    expect(page).to_have_title("Link · Orrowmere Link · Ivory Ridge")
    page.reload()
    expect(page.locator("[data-test=reading-mark]")).to_have_value("1+240.00")
    expect(page.locator("[data-test=stage-levels]")).to_have_attribute("aria-current", "step")
    page.click("[data-test=stage-road]")
    page.click("[data-test=ledger]")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.wait_for_url("**/road?at=1240")
    page.go_back()
    page.wait_for_url("**/levels?at=1240")
    expect(page.locator("[data-test=view-long]")).to_be_visible()
    lane = Road.objects.get(project=demo, name="Tarn Lane")
    page.goto(page.url.split("?")[0] + f"?road={lane.pk}&at=10")
    expect(page).to_have_title("Tarn Lane · Orrowmere Link · Ivory Ridge")


def test_a_refused_drag_is_told_once_over_the_plan_with_the_roads_own_reason(demo_page: Any) -> None:
    """Also where roads hang on it, which fail with it; what stands at the top of the plan stays free."""
    page = demo_page("line")
    (x, y), (first_x, first_y) = middle(page, "pi-4"), middle(page, "pi-1")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 20, y - 9)
    page.mouse.move(x - 120, y - 48)
    notice = page.locator("[data-test=notice-plan]")
    expect(notice).to_have_text(re.compile(r"^PVI 5 at 2\+060\.00 lies beyond PVI 6"))
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(notice).to_have_count(0)
    page.mouse.move(*middle(page, "pi-2"))
    page.mouse.down()
    page.mouse.move(first_x + 60, first_y + 40)
    with page.expect_response(lambda r: r.url.endswith("/trial") and r.finished() is None):  # told to its end
        page.mouse.move(first_x + 12, first_y + 8)
    expect(notice).to_have_text(re.compile("^The curves at PI 1 and PI 2 overlap"))
    expect(page.locator("[data-test=told]")).to_have_count(0)
    told, layers, north = notice.bounding_box(), page.locator(".layers").bounding_box(), page.locator(".north").bounding_box()
    assert told and layers and north and layers["x"] + layers["width"] <= told["x"] and told["x"] + told["width"] <= north["x"]
    page.keyboard.press("Escape")
    page.mouse.up()
