"""The demo read and typed in feet: through all stages, and out in files."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.design.models import Road, RoadPI, RoadPVI

from .conftest import until

FOOT = 0.3048


@pytest.fixture
def in_feet(demo: Any, demo_page: Any) -> Page:
    demo.length_unit, demo.chainage_group, demo.chainage_word = "ft", 100, "Station"
    demo.save()
    return demo_page("line")


def stage(page: Page, name: str) -> None:
    page.click(f"[data-test=stage-{name}]")


def test_the_demo_works_through_all_stages_in_feet(in_feet: Page, demo: Any) -> None:
    page, road = in_feet, Road.objects.get(project=demo, name="Link")
    pi = RoadPI.present.filter(road=road)[1]
    page.click("[data-test=pi-2] rect")
    radius = page.locator("[data-test=inspect-radius]")
    expect(radius).to_have_value(f"{pi.radius / FOOT:,.2f}".replace(",", "") if pi.radius < 3048 else re.compile("."))
    radius.fill("1640.42")
    radius.press("Enter")
    until(page, lambda: RoadPI.objects.get(pk=pi.pk).radius == pytest.approx(1640.42 * FOOT, abs=1e-9))
    radius.fill("750")  # 228.6 m
    radius.press("Enter")
    card = page.locator("[data-test=finding]").filter(has_text="The radius at PI 2 is 750.0 ft")
    expect(card).to_contain_text("at 53 mph the least is 837 ft")
    expect(page.get_by_text(re.compile(r"^\d+ ft$"))).to_be_visible()  # the scale bar
    page.keyboard.press("Control+z")
    expect(card).to_have_count(0)

    page.fill("[data-test=reading-mark]", "12+50")
    page.press("[data-test=reading-mark]", "Enter")
    expect(page.locator("[data-test=reading-mark]")).to_have_value("12+50.00")

    stage(page, "levels")
    page.locator("[data-test=pvi-2]").focus()
    level = page.get_by_label("Level", exact=True)
    expect(level).not_to_have_value("")
    shown = float(level.input_value())
    (pvi,) = [p for p in RoadPVI.present.filter(road=road) if abs(p.elevation / FOOT - shown) < 6e-4]
    level.fill("162.5")
    level.press("Enter")
    until(page, lambda: RoadPVI.objects.get(pk=pvi.pk).elevation == pytest.approx(162.5 * FOOT, abs=1e-9))
    expect(page.locator(".bands .station").first).to_have_text(re.compile(r"^\d+\+00$"))
    expect(page.locator("[data-test=total-cut]")).to_have_text(re.compile("yd³$"))

    stage(page, "sections")
    page.click("[data-test=part-right-carriageway]")
    width = page.get_by_label("Lane width")
    expect(width).to_have_value("11.98")  # 3.65 m
    width.fill("12")
    width.press("Enter")
    road.refresh_from_db()
    until(page, lambda: any(p["values"].get("lane_width") == pytest.approx(12 * FOOT) for p in _parts(road)))

    stage(page, "road")
    every = page.locator("[data-test=road-interval]")
    every.fill("50")
    every.press("Enter")
    until(page, lambda: Road.objects.get(pk=road.pk).interval == pytest.approx(50 * FOOT, abs=1e-12))

    stage(page, "earthwork")
    expect(page.get_by_role("columnheader", name="Cut yd³").first).to_be_visible()
    cells = page.locator("table[aria-label] tbody tr td:first-child")
    expect(cells.filter(has_text="0+50.00").first).to_be_attached()  # sections stand at round stations

    stage(page, "sheets")
    expect(page.get_by_text(re.compile(r"^Plan and profile 1"))).to_be_visible()
    sheet = page.request.get(f"{page.url.split('/projects')[0]}/api/sheet-sets/{road.sheet_sets.first().pk}/plan.svg?number=1")
    assert re.search(r">Datum -?\d+ ft<", sheet.text()), sheet.text()[:300]
    landxml = page.request.get(f"{page.url.split('/projects')[0]}/api/projects/{demo.pk}/landxml").body()
    assert b'linearUnit="foot"' in landxml
    line = next(a for a in read_landxml(landxml).alignments if a.name == "Link")
    assert line.alignment is not None
    first = RoadPI.present.filter(road=road).first()
    assert first is not None and line.alignment.start[0] == pytest.approx([first.easting, first.northing], abs=1e-5)


def _parts(road: Road) -> list[Any]:
    template = type(road.template).objects.get(pk=road.template_id)  # type: ignore[union-attr]
    return [*template.left, *template.right]
