"""Wrong values, two editors, viewers, no connection, keyboard only, a small window."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import expect

from ivoryridge.design.actions.edit_line import change_pi
from ivoryridge.design.models import LedgerEntry, Road, RoadPI, RoadPVI
from tests.browser.conftest import seize, until

WHOLE_PAGE = "[document.documentElement.scrollWidth, document.documentElement.scrollHeight]"


def test_a_radius_that_does_not_fit_is_told_at_its_field_and_nothing_is_lost(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    radius = page.locator("[data-test=pi-2-radius]")
    expect(radius).to_have_value("600.00")
    radius.fill("9000")
    radius.press("Enter")
    expect(page.locator("[data-test=pi-wrong]")).to_contain_text("overlap by")
    expect(page.locator("[data-test=pi-wrong]")).to_contain_text("Use a radius below")
    assert RoadPI.present.filter(road__project=demo, road__name="Link")[1].radius == 600
    radius.fill("six hundred")
    radius.press("Tab")
    expect(page.get_by_text("'six hundred' is not a number. Type a value such as 12.5.")).to_be_visible()
    expect(page.locator("[data-test=view-plan] [data-drawn=true]")).to_be_attached()


def test_a_drag_into_the_impossible_keeps_the_last_good_picture_and_says_why(demo_page: Any, demo: Any) -> None:
    page = demo_page()
    before = page.locator("[data-test=design-line]").get_attribute("d")
    _, y = seize(page, "[data-test=pvi-2] rect")
    other = page.locator("[data-test=pvi-4] rect").bounding_box()
    assert other
    page.mouse.move(other["x"] - 20, y, steps=6)
    expect(page.locator("[data-test=notice-long]")).to_contain_text("overlap by")
    assert page.locator("[data-test=design-line]").get_attribute("d")
    page.mouse.up()
    expect(page.locator("[data-test=told]")).to_contain_text("overlap by")
    expect(page.locator("[data-test=notice-long]")).to_have_count(0)
    expect(page.locator("[data-test=design-line]")).to_have_attribute("d", before or "")


def test_the_second_of_two_editors_sees_both_values(demo_page: Any, demo: Any) -> None:
    from django.contrib.auth.models import User

    page = demo_page("line")
    page.route("**/head", lambda route: route.fulfill(json={"head": "0", "here": []}))  # the page has not learned of it yet
    radius = page.locator("[data-test=pi-2-radius]")
    expect(radius).to_have_value("600.00")
    road = Road.objects.select_related("project", "surface", "template").get(project=demo, name="Link")
    pi = RoadPI.present.filter(road=road)[1]
    radius.fill("580")
    change_pi(road, User.objects.get(username="colleague"), pi.pk, revision=pi.revision, values={"radius": 640.0})
    radius.press("Enter")
    expect(page.locator("[data-test=pi-wrong]")).to_contain_text(
        "colleague changed a PI while you were editing it (radius: theirs 640, yours 580)"
    )
    expect(radius).to_have_value("640.00")


def test_a_viewer_reads_and_is_offered_no_change(demo: Any, open_as: Any) -> None:
    page = open_as("checker", "orrowmere", project=demo.pk, stage="line")
    expect(page.locator("[data-test=pi-2]")).to_be_visible()
    expect(page.locator("[data-test=pi-2-radius]")).to_be_disabled()
    for tool in ("tool-draw-road", "tool-add-pi"):
        expect(page.locator(f"[data-test={tool}]")).to_have_count(0)
    expect(page.locator("[data-test=undo]")).to_be_disabled()
    page.click("[data-test=stage-levels]")
    expect(page.locator("[data-test=total-cut]")).to_be_visible()
    expect(page.locator("[data-test=fit-profile]")).to_have_count(0)


def test_without_a_connection_the_picture_stays_and_the_act_says_so(demo_page: Any) -> None:
    page = demo_page("line")
    radius = page.locator("[data-test=pi-2-radius]")
    expect(radius).to_have_value("600.00")
    acts = LedgerEntry.objects.count()
    page.context.set_offline(True)
    radius.fill("580")
    radius.press("Enter")
    expect(page.locator("[data-test=pi-wrong]")).to_contain_text("The server cannot be reached. What you see stays")
    expect(page.locator("[data-test=view-plan] [data-drawn=true]")).to_be_attached()
    page.context.set_offline(False)
    radius.fill("580")
    radius.press("Enter")
    expect(page.locator("[data-test=told]")).to_contain_text("Change PI 2 of Link")
    assert LedgerEntry.objects.count() == acts + 1


def test_keyboard_alone_moves_a_pvi_and_takes_it_back(demo_page: Any, demo: Any) -> None:
    page = demo_page("ground")
    page.keyboard.press("Alt+3")
    pvi = page.locator("[data-test=pvi-3]")
    expect(pvi).to_be_visible()
    for _ in range(60):
        if page.evaluate("document.activeElement?.getAttribute('data-test')") == "pvi-3":
            break
        page.keyboard.press("Tab")
    before = RoadPVI.present.get(road__project=demo, station=1040.0).elevation
    for _ in range(10):
        page.keyboard.press("ArrowUp")
    expect(page.locator("[data-test=pvi-level]")).to_have_value("60.600")  # all of them, at once
    until(page, lambda: RoadPVI.present.get(road__project=demo, station=1040.0).elevation == pytest.approx(before + 1.0))
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Control+z")  # what was nudged is saved first, and then undone
    expect(page.locator("[data-test=pvi-level]")).to_have_value("60.600")
    page.keyboard.press("Control+z")  # the ten are one step
    expect(page.locator("[data-test=pvi-level]")).to_have_value("59.600")
    acts = LedgerEntry.objects.count()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Escape")  # at once: what is nudged is not saved yet, and is let go of
    expect(page.locator("[data-test=pvi-level]")).to_have_value("59.600")
    assert LedgerEntry.objects.count() == acts


def test_what_is_drawn_is_taken_back_point_by_point_and_let_go_of_one_thing_at_a_time(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    entries = LedgerEntry.objects.filter(project=demo, state="done").count()
    page.click("[data-test=tool-draw-road]")
    canvas = page.locator("[data-test=plan-canvas]").bounding_box()
    assert canvas
    for x, y in ((200, 60), (300, 90), (420, 70)):
        page.mouse.click(canvas["x"] + x, canvas["y"] + y)
        page.mouse.move(canvas["x"] + x + 30, canvas["y"] + y + 5)
    draft = page.locator("polyline.draft")

    def points() -> int:
        return len((draft.get_attribute("points") or "").split())

    assert points() == 4  # three, and the pointer
    page.keyboard.press("Control+z")
    until(page, lambda: points() == 3)
    page.keyboard.press("Backspace")
    until(page, lambda: points() == 2)
    page.keyboard.press("Escape")
    expect(draft).to_have_count(0)
    expect(page.locator("[data-test=tool-draw-road].on")).to_be_visible()  # the tool is still in hand
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=tool-move].on")).to_be_visible()
    assert LedgerEntry.objects.filter(project=demo, state="done").count() == entries


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_nothing_essential_is_cut_off_in_a_small_window(demo_page: Any, size: tuple[int, int]) -> None:
    page = demo_page("levels", size=size)
    expect(page.locator("[data-test=total-cut]")).to_be_visible()
    for stage in ("ground", "line", "levels", "sections", "road", "earthwork", "sheets"):
        page.click(f"[data-test=stage-{stage}]")
        page.wait_for_url(re.compile(f"/{stage}(\\?|$)"))
        until(page, lambda: page.evaluate(WHOLE_PAGE) == list(size))
        for test in ("reading-mark", "undo", "findings", "members", "find"):
            box = page.locator(f"[data-test={test}]").bounding_box()
            assert box and box["x"] >= 0 and box["x"] + box["width"] <= size[0] + 1 and box["y"] + box["height"] <= size[1] + 1, (
                f"{stage}: {test}"
            )


def test_tools_that_find_no_room_fold_into_a_menu_that_mouse_and_keys_reach(demo_page: Any) -> None:
    page = demo_page("ground", size=(1024, 700))
    strip = page.locator("[data-test=view-plan] .tools")
    more = page.locator("[data-test=more-plan]")
    expect(more).to_be_visible()
    last = page.locator("[data-test=plan-fit]")

    def below() -> bool:
        box, of = last.bounding_box(), strip.bounding_box()
        assert box and of
        return box["y"] >= of["y"] + of["height"] - 2

    assert below()  # folded away
    more.click()
    expect(more).to_have_attribute("aria-expanded", "true")
    assert not below()
    page.keyboard.press("Escape")
    page.locator("[data-test=plan-canvas]").click()
    expect(more).to_have_attribute("aria-expanded", "false")
    last.focus()  # whoever comes by keyboard sees it
    expect(more).to_have_attribute("aria-expanded", "true")
    page.set_viewport_size({"width": 1280, "height": 800})
    page.mouse.click(1100, 700)
    expect(more).to_have_count(0)


def test_a_wrong_password_and_an_unknown_project_are_told(demo: Any, open_as: Any, live_server: Any) -> None:
    page = open_as("designer", "wrong one")
    expect(page.get_by_role("alert")).to_contain_text("do not belong together")
    page.fill("[data-test=password]", "orrowmere")
    page.press("[data-test=password]", "Enter")
    expect(page.locator("[data-test=project]")).to_be_visible()
    page.goto(live_server.url + "/projects/99999/plan")
    expect(page.get_by_text("There is no such project, or you are not a member of it")).to_be_visible()


def test_a_road_can_be_drawn_before_there_is_ground(people: Any, open_as: Any) -> None:
    from ivoryridge.design.models import Membership, Project

    project = Project.objects.create(name="Bare")
    Membership.objects.create(project=project, user=people["anna"], role="owner")
    page = open_as("anna")
    page.click("[data-test=project]")
    page.click("[data-test=stage-line]")
    page.click("[data-test=tool-draw-road]")
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    for x, y in ((0.2, 0.7), (0.5, 0.3), (0.8, 0.6)):
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=pi-3]")).to_be_visible()
    page.click("[data-test=stage-levels]")
    expect(page.get_by_text("There is no ground under the line.")).to_be_visible()
    expect(page.locator("[data-test=stage-road]")).to_have_attribute(
        "title", "The road needs a line, a profile, a template and ground."
    )
