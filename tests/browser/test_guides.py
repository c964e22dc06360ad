"""Guide lines on the long section: two by gradient, one lowered; PVIs put on their crossings have the exact gradients."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road
from ivoryridge.design.results.levels import levels_of


def place(page: Page, station: float, level: float) -> tuple[float, float]:
    """Pixels of a place, by two PVIs whose values and places are known."""
    known = []
    for i in (1, 3):
        box = page.locator(f"[data-test=pvi-{i}] rect").bounding_box()
        assert box
        known.append((box["x"] + box["width"] / 2, box["y"] + box["height"] / 2))
    (x1, y1), (x3, y3) = known
    return x1 + (station - 0) / 1040 * (x3 - x1), y1 + (level - 54.0) / (59.6 - 54.0) * (y3 - y1)


def test_pvis_on_crossings_of_guides_have_the_exact_gradients(demo_page: Any, demo: Any) -> None:
    page = demo_page()
    page.wait_for_selector("[data-test=pvi-3] rect")
    page.click("[data-test=tool-guide]")
    for grade, station, level in (("2.5", 300.0, 50.0), ("-3", 1300.0, 74.0)):
        field = page.locator("[data-test=guide-grade]")
        field.fill(grade)
        field.press("Enter")
        page.mouse.click(*place(page, station, level))
        expect(page.locator(f"[data-test=guide-{'A' if grade == '2.5' else 'B'}]")).to_be_visible()
    page.select_option("[data-test=guide-kind]", "parallel")
    amount = page.locator("[data-test=guide-rise]")
    amount.fill("4")
    amount.press("Enter")
    page.mouse.click(*place(page, 500.0, 50.0 + 0.025 * 200 - 1.2))  # a little below A
    expect(page.locator("[data-test=guide-row-C]")).to_contain_text("from guide A")
    expect(page.locator("[data-test=guide-row-C]")).to_contain_text("Lowered")
    page.keyboard.press("Escape")

    road = Road.objects.get(project=demo, name="Link")
    before = {p.id for p in levels_of(assemble_road(road)).rows}
    page.click("[data-test=tool-add-pvi]")
    there = page.locator("[data-test^=pvi-] rect").count()
    for added, name in enumerate(("A-B", "B-C"), 1):
        box = page.locator(f"[data-test=crossing-{name}]").bounding_box()
        assert box
        page.mouse.click(box["x"] + box["width"] / 2 + 3, box["y"] + box["height"] / 2 - 2)  # near is enough
        expect(page.locator("[data-test=told]").last).to_contain_text("Add a PVI")
        expect(page.locator("[data-test^=pvi-] rect")).to_have_count(there + added)
    road = Road.objects.get(pk=road.pk)
    levels = levels_of(assemble_road(road))
    new = [p for row, p in zip(levels.rows, levels.pvis, strict=True) if row.id not in before]
    assert len(new) == 2
    # both lie on B, so the grade between them is B's own, to the last digit that matters
    assert (new[1].elevation - new[0].elevation) / (new[1].station - new[0].station) == pytest.approx(-0.03, abs=1e-9)
    assert [g.get("grade", g.get("rise")) for g in road.guides] == [0.025, -0.03, -4]
    a = road.guides[0]  # the first lies on A too, the second 4 m under it
    for pvi, under in zip(new, (0.0, 4.0), strict=True):
        assert pvi.elevation == pytest.approx(a["level"] + 0.025 * (pvi.station - a["station"]) - under, abs=1e-6)

    page.click("[data-test=guide-delete-A]")
    expect(page.locator("[data-test=guide-row-A]")).to_have_count(0)
    expect(page.locator("[data-test=guide-row-C]")).to_contain_text("+2.50 %")  # stays where it was, on its own
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=guide-row-A]")).to_have_count(1)
