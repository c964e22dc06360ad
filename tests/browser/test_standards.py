"""A curve made too sharp is found with its clause and accepted with a remark; another design speed changes what is found."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import expect

from ivoryridge.design.models import Road
from tests.browser.conftest import without_junctions


def test_too_sharp_a_curve_is_found_accepted_and_mended(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=pi-2] rect")
    radius = page.locator("[data-test=inspect-radius]")
    radius.fill("230")
    radius.press("Enter")
    card = page.locator("[data-test=finding]").filter(has_text="The radius at PI 2 is 230.0 m")
    expect(card).to_contain_text("at 85 km/h the least is 255 m")
    expect(card).to_contain_text("CD 109, Table 2.10")
    expect(card).to_contain_text("unverified: check your edition")
    expect(page.locator(".flag.fault")).to_have_count(2)  # the other one: the demo's toe beyond the land boundary
    card.get_by_text("Why").click()
    expect(card.locator("[data-test=finding-why]")).to_contain_text("desirable 510 m")

    card.locator("[data-test=finding-accept]").click()
    card.locator("[data-test=finding-remark]").fill("existing bridge, agreed with the client")
    card.locator("[data-test=finding-settle]").click()
    expect(card).to_contain_text("Accepted by")
    expect(card).to_contain_text("existing bridge, agreed with the client")
    expect(page.locator(".flag.fault")).to_have_count(1)
    kept = Road.objects.get(project=demo, name="Link").departures
    assert any(d["remark"].startswith("existing bridge") for d in kept.values())
    page.click("[data-test=findings]")
    expect(page.get_by_role("dialog")).to_contain_text("Accepted departures")
    page.keyboard.press("Escape")

    card.locator("[data-test=finding-reopen]").click()
    card.locator("[data-test=finding-way]").filter(has_text="Use R 255 m").click()
    expect(page.locator("[data-test=inspect-radius]")).to_have_value("255.00")
    expect(page.locator(".flag.fault")).to_have_count(1)


def test_another_design_speed_changes_what_is_found(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    findings = page.locator("[data-test=finding]")
    expect(findings.filter(has_text="at 85 km/h 510 m is desirable")).to_have_count(1)
    speed = page.locator("[data-test=design-speed]")
    speed.fill("100")
    speed.press("Enter")
    expect(findings.filter(has_text="The radius at PI 3 is 500.0 m; at 100 km/h 720 m is desirable")).to_have_count(1)
    expect(findings.filter(has_text="The radius at PI 2 is 600.0 m")).to_have_count(1)
    page.select_option("[data-test=standard]", "american_metric")
    expect(findings.filter(has_text="radius")).to_have_count(0)  # 394 m is the least there at 100 km/h
    page.keyboard.press("Control+z")  # also with the focus in the list of standards
    expect(findings.filter(has_text="at 100 km/h 720 m is desirable")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(findings.filter(has_text="at 85 km/h 510 m is desirable")).to_have_count(1)


def test_sight_is_shown_over_the_long_section_and_its_lack_is_found(demo_page: Any, demo: Any) -> None:
    page = demo_page("levels")
    page.click("[data-test=pvi-3] rect")
    length = page.locator("[data-test=pvi-length]")
    length.fill("150")
    length.press("Enter")
    expect(
        page.locator("[data-test=finding]").filter(has_text="The crest at PVI 3 has K 32.0; at 85 km/h 55 is desirable")
    ).to_be_visible()
    page.click("[data-test=sight]")
    expect(page.locator("[data-test=sight-lane]")).to_contain_text("160 m needed")
    assert len(page.locator("[data-test=sight-short]").get_attribute("d") or "") > 50
    page.click("[data-test=findings]")
    expect(page.get_by_role("dialog")).to_contain_text("a driver sees")
    page.keyboard.press("Escape")
    page.locator("[data-test=finding-way]").filter(has_text="Use L 258").click()
    expect(page.locator("[data-test=sight-short]")).to_have_attribute("d", "")


def test_a_curve_is_laid_through_a_clicked_place(demo_page: Any, demo: Any) -> None:
    without_junctions(demo)
    page = demo_page("line")
    page.click("[data-test=pi-2] rect")
    page.select_option("[data-test=curve-by]", "tangent")
    value = page.locator("[data-test=curve-by-value]")
    value.fill("250")
    value.press("Enter")
    expect(page.locator("[data-test=told]").last).to_contain_text("PI 2 has a radius of")
    before = page.locator("[data-test=inspect-radius]").input_value()
    page.select_option("[data-test=curve-by]", "through")
    box = page.locator("[data-test=pi-2] rect").bounding_box()
    assert box
    page.mouse.click(box["x"] + box["width"] / 2 + 4, box["y"] - 16)  # inside the bend, north of its PI
    expect(page.locator("[data-test=inspect-radius]")).not_to_have_value(before)
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=inspect-radius]")).to_have_value(before)
