"""Levels by mouse: a PVI dragged on its grade keeps it, a fixed point is hit by the fit, profiles are compared and undone."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from playwright.sync_api import expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road
from ivoryridge.design.results.levels import levels_of
from tests.browser.conftest import go_to, seize


def link(demo: Any) -> Road:
    return Road.objects.select_related("project", "surface", "template").get(project=demo, name="Link")


def grades(demo: Any) -> list[float]:
    pvis = levels_of(assemble_road(link(demo))).pvis
    return [(b.elevation - a.elevation) / (b.station - a.station) for a, b in itertools.pairwise(pvis)]


def test_a_pvi_dragged_on_its_grade_in_keeps_that_grade(demo_page: Any, demo: Any) -> None:
    page = demo_page("levels")
    before = grades(demo)
    page.select_option("[data-test=pvi-drag]", "in")
    x, y = seize(page, "[data-test=pvi-3] rect")
    page.mouse.move(x - 20, y - 35, steps=5)
    page.mouse.up()
    expect(page.get_by_text("Move PVI 3 of Link")).to_be_visible()
    after = grades(demo)
    assert after[1] == pytest.approx(before[1], abs=1e-9) and after[2] != pytest.approx(before[2], abs=1e-4)
    grade = page.locator("[data-test=pvi-grade-out]")
    grade.fill("-2")
    grade.press("Enter")
    expect(page.locator("[data-test=pvi-grade-out]")).to_have_value("−2.000")
    assert grades(demo)[2] == pytest.approx(-0.02, abs=1e-9)


def test_a_fixed_point_and_a_second_profile(demo_page: Any, demo: Any) -> None:
    page = demo_page("levels")
    go_to(page, "1+300")
    page.fill("[data-test=candidate-name]", "Over the bridge")
    page.click("[data-test=candidate-add]")
    expect(page.locator("[data-test=candidate-1]")).to_contain_text("Over the bridge")
    page.click("[data-test=fixed-add]")
    level = page.locator("[data-test=fixed-1-level]")
    level.fill("60.5")
    level.press("Enter")
    expect(page.locator("[data-test=finding]").filter(has_text="where it should hit the fixed point, 60.500 m")).to_have_count(1)
    page.click("[data-test=fit-profile]")
    expect(page.locator("[data-test=finding]").filter(has_text="where it should hit")).to_have_count(0)
    assert levels_of(assemble_road(link(demo))).profile.evaluate(1300.0)[0][0] == pytest.approx(60.5, abs=0.002)
    expect(page.locator("[data-test=candidate-line-first]")).to_be_visible()
    page.locator("[data-test=candidate-first] button").click()
    expect(page.locator("[data-test=candidate-line-1]")).to_be_visible()
    assert link(demo).candidate == ""
