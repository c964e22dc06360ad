"""Junctions on the page: made where roads meet, their corners dragged and typed, levels that follow until pinned, the finished ground."""

from __future__ import annotations

import io
import itertools
from typing import Any

import numpy as np
import trimesh
from django.contrib.auth.models import User
from playwright.sync_api import Page, expect

from ivoryridge.design.actions.edit_junction import delete_junction
from ivoryridge.design.actions.edit_levels import raise_pvis
from ivoryridge.design.inputs.network import network_of
from ivoryridge.design.models import Junction, Road
from ivoryridge.design.results.finished import finished_of, finished_volumes
from tests.browser.conftest import seize, until


def lane_junction(demo: Any) -> Junction:
    return Junction.present.get(project=demo, name="Link and Tarn Lane, new piece")


def look_at(page: Page, junction: Junction) -> None:
    page.click(f"[data-test=junction-{junction.pk}]")
    expect(page.locator("[data-test=corner-row-NE]")).to_be_visible()


def px_of_metre(page: Page) -> float:
    """Of the long section, by the levels beside its grid."""
    rows = page.locator("[data-test=long-canvas] .grid text").all()
    read = [(float(r.text_content()), r.bounding_box()["y"]) for r in (rows[0], rows[-1])]
    return abs((read[1][1] - read[0][1]) / (read[1][0] - read[0][0]))


def levels_of_corner(page: Page, corner: str) -> Any:
    return page.locator(f"[data-test=corner-row-{corner}] [data-test=corner-levels]")


def test_a_t_junction_made_dragged_pinned_and_let_follow_in_eight_actions(demo_page: Any, demo: Any) -> None:
    old = lane_junction(demo)
    delete_junction(old, User.objects.get(username="designer"), revision=old.revision)
    page = demo_page("junctions")
    offer = page.locator("li", has_text="Tarn Lane, new piece ends at Link, 90°")
    offer.locator("[data-test=make-junction]").click()  # 1
    expect(page.get_by_text("Tarn Lane, new piece joins Link with 2 returns.")).to_be_visible()
    page.click("[data-test=corner-row-NE] button")  # 2
    expect(page.locator("[data-test=corner-start]")).to_contain_text("On Link0+832.99")
    expect(page.locator("[data-test=corner-end]")).to_contain_text("On Tarn Lane, new piece0+016.18")
    expect(levels_of_corner(page, "NE")).to_have_text("one curve")
    page.click("[data-test=to-main]")  # 3
    handle = page.locator("[data-test=pvi-3] rect")
    expect(handle).to_be_visible()
    x, y = seize(page, handle)  # 4: two metres up
    page.mouse.move(x, y - 2.0 * px_of_metre(page), steps=12)
    expect(levels_of_corner(page, "NE")).to_have_text("reverse pair")  # while it is held
    page.mouse.up()
    expect(page.get_by_text("Move PVI 3 of Link")).to_be_visible()
    expect(levels_of_corner(page, "NE")).to_have_text("reverse pair")
    page.click("[data-test=corner-row-NE] button")  # 5
    page.click("[data-test=levels-pin-change]")  # 6
    expect(page.locator("[data-test=levels-pin]")).to_contain_text("levels pinned")
    expect(levels_of_corner(page, "NE")).to_have_text("pinned")
    # somebody moves the main road meanwhile
    link = Road.objects.get(project=demo, name="Link")
    raise_pvis(link, User.objects.get(username="designer"), rise=0.12)
    expect(page.locator("[data-test=corner-step]").first).to_contain_text("-120 mm".replace("-", "−"))
    page.click("[data-test=levels-pin-change]")  # 7
    expect(page.locator("[data-test=levels-pin]")).to_contain_text("levels follow")
    expect(page.locator("[data-test=corner-step]")).to_have_count(0)


def test_radii_are_dragged_typed_and_refused_in_words(demo_page: Any, demo: Any) -> None:
    page = demo_page("junctions")
    look_at(page, lane_junction(demo))
    corner = Road.present.get(project=demo, name="Tarn Lane, new piece, corner NE")
    x, y = seize(page, f"[data-test=corner-handle-{corner.pk}] circle:last-of-type")
    with page.expect_response(lambda r: r.url.endswith("/trial/finished?interval=0.25") and r.ok):  # follows while it is dragged
        page.mouse.move(x + 8, y - 6, steps=5)
    page.mouse.up()
    expect(page.get_by_text("Change a corner of Link and Tarn Lane, new piece")).to_be_visible()
    corner.refresh_from_db()
    dragged = corner.course["shape"]["radius"]
    assert dragged > 12.5
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=radius-NE]")).to_have_value("12.00")
    # a tangent point is dragged along its edge: the radius follows, and the point lies where it was dropped
    x, y = seize(page, f"[data-test=tangent-start-{corner.pk}] circle:last-of-type")
    there = page.locator(f"[data-test=tangent-start-{corner.pk}] circle:last-of-type")

    def off() -> float:
        box = there.bounding_box()
        return abs(box["x"] + box["width"] / 2 - x - 24)

    page.mouse.move(x + 22, y, steps=5)
    until(page, lambda: off() < 10)
    turns = itertools.count()

    def nearer() -> bool:  # edges bend here: with each move and answer the point comes nearer
        page.mouse.move(x + 24, y + next(turns) % 2)
        return off() < 2

    until(page, nearer)
    page.mouse.up()
    expect(page.locator("[data-test=radius-NE]")).not_to_have_value("12.00")
    until(page, lambda: off() < 2 and Road.objects.get(pk=corner.pk).course["shape"]["radius"] > 14)
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=radius-NE]")).to_have_value("12.00")
    page.locator(f"[data-test=corner-handle-{corner.pk}]").focus()
    page.keyboard.press("ArrowUp")
    page.keyboard.press("ArrowUp")
    page.locator("[data-test=inspector] h2").click()  # leaving saves what the arrows came to
    expect(page.locator("[data-test=radius-NE]")).to_have_value("14.00")
    page.fill("[data-test=radius-NE]", "190")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=corner-wrong]")).to_contain_text("does not fit at Tarn Lane, new piece, corner NE")
    page.fill("[data-test=radius-all]", "9")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=radius-NW]")).to_have_value("9.00")
    expect(page.locator("[data-test=radius-NE]")).to_have_value("9.00")
    page.select_option("[data-test=corner-form]", "taper")
    expect(page.locator("[data-test=corner-taper]")).to_have_value("10.0")
    page.select_option("[data-test=corner-form]", "none")
    expect(page.locator("[data-test=radius-NE]")).to_be_disabled()
    expect(page.locator("[data-test=corner-taper]")).to_have_count(0)
    page.fill("[data-test=run-out]", "15")
    page.keyboard.press("Enter")
    until(page, lambda: Junction.objects.get(pk=lane_junction(demo).pk).run_out == 15.0)
    page.click("[data-test=delete-junction]")
    expect(page.get_by_text("is deleted with its 2 returns")).to_be_visible()
    expect(page.locator("[data-test=junction-offer]")).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(page.locator("[data-test=junction-offer]")).to_have_count(1)


def test_the_finished_ground_leaves_as_a_file_that_another_library_reads(demo_page: Any, demo: Any) -> None:
    page = demo_page("junctions")
    look_at(page, lane_junction(demo))
    expect(page.locator("[data-test=finished-glb]")).to_be_visible(timeout=60_000)
    with page.expect_download() as got:
        page.click("[data-test=finished-glb]")
    mesh = trimesh.load(io.BytesIO(got.value.path().read_bytes()), file_type="glb", force="mesh", process=False)
    network = network_of(demo.pk)
    surface_id = Road.objects.get(project=demo, name="Link").surface_id
    found = finished_of(network, network.surfaces[surface_id])[0].get()
    mesh.merge_vertices()
    assert len(mesh.faces) == len(found.surface.triangles) and mesh.body_count == 1
    _, counts = np.unique(np.sort(mesh.edges, axis=1), axis=0, return_counts=True)
    assert counts.max() == 2
    # a section drawn through the junction shows both grounds
    page.get_by_role("button", name="Cut section", exact=True).click()
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    for dx, dy in ((-90, 30), (90, -30)):
        page.mouse.click(box["x"] + box["width"] / 2 + dx, box["y"] + box["height"] / 2 + dy)
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=finished-line]")).to_be_attached()
    expect(page.locator("[data-test=cut-layer]").first).to_be_attached()
    before = page.locator("[data-test=formation-line]").get_attribute("d")
    # another pavement: its layers are told, and the section that is open follows by itself
    page.select_option("[data-test=junction-structure]", label="Ferry street")
    expect(page.locator("[data-test=junction-layer-base]")).to_contain_text("0.160 m")
    expect(page.locator("[data-test=formation-line]")).not_to_have_attribute("d", before, timeout=30_000)
    page.click("[data-test=stage-earthwork]")
    exact = page.locator("[data-test=exact-cut]")
    expect(exact).to_be_visible(timeout=60_000)
    network = network_of(demo.pk)
    cut = finished_volumes(network, network.surfaces[surface_id], "formation").get().whole.cut
    expect(exact).to_have_text(f"{cut:,.0f}".replace(",", " "))


def test_b_a_road_joins_an_existing_edge_in_seven_actions(demo_page: Any, demo: Any) -> None:
    old = Junction.present.get(project=demo, name="Field access at its edge")
    delete_junction(old, User.objects.get(username="designer"), revision=old.revision)
    access = Road.present.get(project=demo, name="Field access")
    page = demo_page("junctions")
    page.click("[data-test=road-select]")  # 1
    page.get_by_role("option", name="Field access").click()  # 2
    start = access.pis.first()
    page.keyboard.press("Control+k")
    page.fill("[data-test=find-input]", "PI 1")  # 3: shows it in plan, in the stage of lines
    expect(page.locator("#found li").first).to_contain_text("PI 1")
    page.keyboard.press("Enter")
    page.click("[data-test=stage-junctions]")  # 4
    page.get_by_role("button", name="Join edge").click()  # 5
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2 + 1, box["y"] + box["height"] / 2)
    expect(page.locator("[data-test=caught]")).to_be_visible()
    page.mouse.click(box["x"] + box["width"] / 2 + 1, box["y"] + box["height"] / 2)  # 6
    expect(page.get_by_text("Join Field access to an existing edge")).to_be_visible()
    expect(page.locator("[data-test=corner-row-NE]")).to_be_visible()
    made = Junction.present.get(project=demo, side=access)
    assert made.main.course["kind"] == "existing" and abs(made.easting - start.easting) < 0.01
