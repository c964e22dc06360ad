"""What varies along a road in the browser: a stretch from the route bar, dragged, blended, split and undone; a value dragged on the view
along the road and followed by the section."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, Variation
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.varied import pieces
from tests.browser.conftest import seize, until


def link(demo: Any) -> Any:
    return assemble_road(Road.objects.get(project=demo, name="Link"))


def mark_range(page: Page, a: float, b: float) -> None:
    """Shift-drag on the route bar between shares of it."""
    box = page.locator("[data-test=route-bar]").bounding_box()
    assert box
    left, width = box["x"] + 72, box["width"] - 92
    page.keyboard.down("Shift")
    page.mouse.move(left + a * width, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(left + b * width, box["y"] + 20, steps=4)
    page.mouse.up()
    page.keyboard.up("Shift")
    expect(page.locator("[data-test=marked-range]")).to_be_visible()


@pytest.fixture
def page(demo_page: Any) -> Page:
    page: Page = demo_page("road")
    page.click("[data-test=lower-along]")
    expect(page.locator("[data-test=along-canvas]")).to_be_visible()
    return page


def test_a_stretch_is_drawn_blended_dragged_split_joined_and_undone(page: Page, demo: Any) -> None:
    before = [p.template.name for p in pieces(link(demo))]
    mark_range(page, 0.1, 0.2)
    page.click("[data-test=along-add-stretch]")
    page.select_option("[data-test=new-template]", label="Kerbed with footway")
    page.click("[data-test=along-add]")
    expect(page.get_by_text("Add a stretch to Link")).to_be_visible()
    row = Variation.present.get(road__name="Link", kind="stretch", start__anchor="station", end__anchor="station")
    bar = page.locator(f"[data-test=along-{row.pk}]")
    expect(bar).to_be_visible()
    expect(page.locator(f"[data-test=span-{row.pk}]")).to_be_attached()

    blend = page.locator("[data-test=along-blend_from]")
    blend.fill("30")
    blend.press("Enter")
    expect(page.locator("[data-test=along-blend_from-form]")).to_have_value("linear")
    assert Variation.objects.get(pk=row.pk).data["blend_from"] == {"length": 30.0, "form": "linear", "lies": "outside"}

    end = float(Variation.objects.get(pk=row.pk).end["station"])

    def width() -> float:
        return float(bar.get_attribute("width") or 0)

    before_it = width()
    x, y = seize(page, f"[data-test=along-{row.pk}-station_to]")
    page.mouse.move(x + 40, y, steps=4)
    until(page, lambda: width() > before_it + 33)  # the road as it would be; 6 px may be given to what is caught
    page.mouse.up()
    until(page, lambda: float(Variation.objects.get(pk=row.pk).end["station"]) > end + 20)
    until(page, lambda: width() > before_it + 33)
    moved = float(Variation.objects.get(pk=row.pk).end["station"])
    page.locator(f"[data-test=span-{row.pk}-station_to]").press("ArrowRight")
    until(page, lambda: float(Variation.objects.get(pk=row.pk).end["station"]) == pytest.approx(moved + 1))

    start = float(Variation.objects.get(pk=row.pk).start["station"])
    page.fill("[data-test=reading-mark]", f"0+{start + 60:.0f}")
    page.press("[data-test=reading-mark]", "Enter")
    page.click("[data-test=along-split]")
    until(page, lambda: Variation.present.filter(road__name="Link", kind="stretch").count() == 3)
    page.click("[data-test=along-join]")
    until(page, lambda: Variation.present.filter(road__name="Link", kind="stretch").count() == 2)
    assert Variation.objects.get(pk=row.pk).end["station"] == pytest.approx(moved + 1)
    for left in (3, 2, 2, 2, 2, 1):  # joined, split, nudged, dragged, blended, added
        page.keyboard.press("Control+z")
        until(page, lambda left=left: Variation.present.filter(road__name="Link", kind="stretch").count() == left)  # type: ignore[misc]
        expect(page.locator("[data-test=along-canvas] .bar.stretch")).to_have_count(left)
    assert [p.template.name for p in pieces(link(demo))] == before


def test_a_value_is_dragged_along_the_road_and_the_section_follows(page: Page, demo: Any) -> None:
    page.fill("[data-test=reading-mark]", "0+300")
    page.press("[data-test=reading-mark]", "Enter")
    page.click("[data-test=along-add-adjustment]")
    page.select_option("[data-test=new-part]", label="Verge")
    page.locator("[data-test=new-value]").fill("3")
    page.locator("[data-test=new-value]").press("Tab")
    page.click("[data-test=along-add]")
    expect(page.get_by_text("Add an adjustment to Link")).to_be_visible()
    row = Variation.present.filter(road__project=demo, kind="adjustment").latest("pk")
    expect(page.locator("[data-test=along-told]")).to_contain_text("3.00 m")
    x, y = seize(page, f"[data-test=along-{row.pk}-value]")
    page.mouse.move(x, y - 24, steps=4)
    expect(page.locator("[data-test=along-told]")).not_to_contain_text("3.00 m")  # the road as it would be
    page.mouse.up()
    until(page, lambda: Variation.objects.get(pk=row.pk).data["value"] > 3.05)
    value = Variation.objects.get(pk=row.pk).data["value"]
    (block,) = corridor_at(link(demo), [350.0]).blocks
    columns = block.left
    i, j = columns.index("verge.verge_edge"), columns.index("carriageway.pavement_edge")
    assert columns.across[i, 0] - columns.across[j, 0] == pytest.approx(value, abs=1e-9)
    page.locator("[data-test=along-value]").fill("99")
    page.locator("[data-test=along-value]").press("Enter")
    expect(page.locator("[data-test=along-form] [role=alert]").first).to_contain_text("99")
    assert Variation.objects.get(pk=row.pk).data["value"] == value


def test_what_overlaps_is_refused_beside_the_form_and_what_was_typed_stays(page: Page, demo: Any) -> None:
    page.click("[data-test=along-add-stretch]")
    for name, text in (("new-from", "2+050"), ("new-to", "2+200")):
        page.locator(f"[data-test={name}]").fill(text)
        page.locator(f"[data-test={name}]").press("Tab")
    page.click("[data-test=along-add]")
    expect(page.locator("[data-test=along-wrong]")).to_contain_text("overlap from")
    expect(page.locator("[data-test=new-from]")).to_have_value("2+050.00")
    assert Variation.present.filter(road__name="Link", kind="stretch").count() == 1


def test_a_node_is_led_by_a_line_and_what_no_line_reaches_is_told(page: Page, demo: Any) -> None:
    def edge(s: float) -> float:
        (block,) = corridor_at(link(demo), [s]).blocks
        return float(block.right.across[block.right.index("carriageway.pavement_edge"), 0])

    lane = Road.present.get(project=demo, name="Tarn Lane")
    own = edge(820.0)
    page.click("[data-test=along-add-led]")
    for name, text in (("new-from", "0+780"), ("new-to", "0+860"), ("new-reach", "12")):
        page.locator(f"[data-test={name}]").fill(text)
        page.locator(f"[data-test={name}]").press("Tab")
    page.select_option("[data-test=new-node]", value="carriageway.pavement_edge")
    page.select_option("[data-test=lead-line]", value=f"road {lane.pk}")
    page.select_option("[data-test=lead-edge]", value="left pavement edge")
    page.click("[data-test=along-add]")
    row_said = "right, pavement edge lies at the left pavement edge of Tarn Lane"
    expect(page.locator("[data-test^=along-row-]").filter(has_text=row_said)).to_be_visible()
    row = Variation.present.get(road__project=demo, kind="led")
    assert row.data == {"node": "carriageway.pavement_edge", "takes": "offset", "reach": 12.0, "ease": 0.0, "release": 0.0,
                        "road": lane.pk, "edge": "left pavement edge".removeprefix("left "), "edge_side": "left"}  # fmt: skip
    page.click("[data-test=findings]")
    over = page.get_by_role("dialog")
    expect(over.get_by_text("is to be led by a line, and none lies within its reach").first).to_be_visible()
    page.keyboard.press("Escape")
    expect(over).to_have_count(0)
    page.select_option("[data-test=lead-edge]", value="centre line")
    until(page, lambda: "edge_side" not in Variation.objects.get(pk=row.pk).data)
    moved = [s for s in range(780, 861, 2) if abs(edge(float(s)) - own) > 0.5]
    assert moved  # where the lane's centre line passes within 12 m of the edge
    page.locator("[data-test=along-delete]").click()
    until(page, lambda: not Variation.present.filter(pk=row.pk).exists())
    assert edge(820.0) == pytest.approx(own)


def test_a_value_is_changed_in_the_section_over_the_range_only_and_sections_are_compared(page: Page, demo: Any) -> None:
    def verge(s: float) -> float:
        (block,) = corridor_at(link(demo), [s]).blocks
        return float(block.right.across[block.right.index("verge.verge_edge"), 0])

    page.fill("[data-test=reading-mark]", "0+300")
    page.press("[data-test=reading-mark]", "Enter")
    expect(page.locator("[data-test=section-station]")).to_have_text("0+300.00")
    page.click("[data-test=section-keep]")
    expect(page.locator("[data-test=ghost-right]")).to_be_attached()
    page.fill("[data-test=reading-mark]", "0+500")
    page.press("[data-test=reading-mark]", "Enter")
    expect(page.locator("[data-test=section-station]")).to_have_text("0+500.00")
    page.locator("[data-test='section-node-right-verge.verge_edge']").press("Enter")  # by keyboard as by a click
    expect(page.locator("[data-test=node-rule]")).to_contain_text("From the pavement edge, 2.500 m (verge width) outward")
    own = verge(500.0)
    for text in ("3.25", "3.5"):
        field = page.locator("[data-test=node-value-width]")
        field.fill(text)
        field.press("Enter")
        page.click("[data-test=node-range]")  # the first makes the row, the second changes it
        expect(page.locator("[data-test=node-where]")).to_have_count(0)
        expect(page.locator("[data-test=node-rule]")).to_contain_text(f"{float(text):.3f} m (verge width)")
    assert verge(500.0) == pytest.approx(own + 1.0) and verge(490.0) == pytest.approx(own)
    assert (
        Variation.present.filter(road__project=demo, kind="adjustment", data__parameter="width", data__part="verge").count() == 1
    )
    page.locator("[data-test=node-value-width]").fill("2.75")
    page.locator("[data-test=node-value-width]").press("Enter")
    page.click("[data-test=node-everywhere]")
    until(page, lambda: verge(900.0) == pytest.approx(own + 0.25))
    assert verge(500.0) == pytest.approx(own + 1.0)
    (block,) = corridor_at(link(demo), [500.0]).blocks
    left = float(block.left.across[block.left.index("verge.verge_edge"), 0])
    expect(page.locator("[data-test='section-node-left-verge.verge_edge'] title")).to_contain_text(f"{left:.3f}")  # it is drawn
    page.click("[data-test=section-measure]")
    here, there = (page.locator(f"[data-test='section-node-{s}-verge.verge_edge']").bounding_box() for s in ("left", "right"))
    assert here and there
    page.mouse.move(here["x"] + 3, here["y"] + 3)
    page.mouse.down()
    page.mouse.move(there["x"] + 3, there["y"] + 3, steps=4)
    page.mouse.up()
    expect(page.locator("[data-test=section-measured]")).to_contain_text(f"{left + verge(500.0):.3f} m across")
    page.click("[data-test=ghost-forget]")
    expect(page.locator("[data-test=ghost-right]")).to_have_count(0)


def test_sections_stand_closer_where_edges_bow_and_the_field_says_what_it_takes(page: Page, demo: Any) -> None:
    road = link(demo)
    shown = page.locator(".value", has_text="Sections").locator("b")
    expect(shown).to_have_text(re.compile(r"^\d+$"))
    before = shown.inner_text()
    field = page.locator("[data-test=road-fineness]")
    field.fill("0.01")
    field.press("Enter")
    until(page, lambda: Road.objects.get(pk=road.road_id).fineness == pytest.approx(0.01))
    more = len(corridor_of(link(demo)).station) - len(corridor_of(road).station)
    assert more > 100
    expect(shown).to_have_text(str(int(before) + more))
    expect(page.get_by_text("lies off their straight by more than 0.010 m")).to_be_visible()
    field.fill("0")
    field.press("Enter")
    expect(page.locator("[role=alert]").first).to_contain_text("0.001")
    field.fill("")
    field.press("Enter")
    until(page, lambda: Road.objects.get(pk=road.road_id).fineness is None)
    expect(shown).to_have_text(before)
