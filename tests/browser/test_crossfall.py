"""The crossfall diagram by mouse and keyboard: it follows the design speed, is pinned by a drag, reaches the section, and is undone."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import expect

from ivoryridge.design.models import Road
from tests.browser.conftest import go_to, seize


def test_crossfall_follows_the_speed_until_it_is_pinned(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=lower-crossfall]")
    diagram = page.locator("[data-test=crossfall-canvas]")
    expect(diagram).to_contain_text("PI 3: 5.2 %")  # 85^2 / (2.828 x 500) = 5.11 %, up to the tenth (CD 109, from memory)
    speed = page.locator("[data-test=design-speed]")
    speed.fill("100")
    speed.press("Enter")
    expect(diagram).to_contain_text("PI 3: 7.0 %")  # 7.07 %, at most 7
    page.keyboard.press("Control+z")
    expect(diagram).to_contain_text("PI 3: 5.2 %")

    x, y = seize(page, "[data-test=bend-3-full_in] rect")
    page.mouse.move(x + 1, y + 20, steps=4)
    page.mouse.up()
    expect(diagram).to_contain_text(re.compile(r"PI 3: [34]\.\d % pinned"))
    card = page.locator("[data-test=finding]").filter(has_text=re.compile(r"The crossfall at PI 3 is [34]\.\d %"))
    expect(card).to_contain_text("asks for 5.2 %")
    typed = page.locator("[data-test=bend-rate]")
    typed.fill("6")
    typed.press("Enter")
    expect(diagram).to_contain_text("PI 3: 6.0 % pinned")
    page.locator("[data-test=bend-3-level_in]").press("ArrowLeft")
    page.locator("[data-test=unpin-bend]").click()
    expect(diagram).to_contain_text("PI 3: 5.2 %")
    for shown in (
        "PI 3: 6.0 % pinned",
        "PI 3: 6.0 % pinned",
        re.compile(r"PI 3: [34]\.\d % pinned"),
        re.compile(r"PI 3: 5.2 %(?! pinned)"),
    ):
        page.keyboard.press("Control+z")  # unpinned, nudged, typed, dragged
        expect(diagram).to_contain_text(shown)
    expect(page.locator("[data-test=unpin-bend]")).to_have_count(0)
    assert len(Road.objects.get(project=demo, name="Link").crossfall["bends"]) == 1


def test_a_drag_that_is_refused_leaves_the_diagram_standing(demo_page: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=lower-crossfall]")
    left = page.locator("[data-test=crossfall-left]")
    before = left.get_attribute("d")
    x, y = seize(page, "[data-test=pi-2] rect")
    page.mouse.move(x - 234, y - 104, steps=6)
    expect(page.locator("[data-test=view-plan]")).to_contain_text("overlap by")
    expect(left).to_be_attached()
    page.mouse.up()
    expect(page.locator("[data-test=told]").filter(has_text="overlap by")).to_be_visible()
    expect(left).to_have_attribute("d", before or "")


def test_the_section_in_a_bend_lies_in_one_plane(demo_page: Any, demo: Any) -> None:
    page = demo_page("levels")
    go_to(page, "1+600")
    section = page.locator("[data-test=cross-canvas]")
    expect(section).to_contain_text("+5.2 %")
    expect(section).to_contain_text("−5.2 %")
