"""The ground from flawed files to one surface that can be signed for, by mouse and keyboard in the page."""

from __future__ import annotations

import json
import re
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.terrain.outline import pieces_of
from ivoryridge.design.demo.landscape import SORTING_RULES, lines_dxf, spots_csv, surface_xml
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Membership, Project, Surface
from ivoryridge.design.results.surface import surface_of
from tests.browser.conftest import seize


@pytest.fixture
def empty(people: Any) -> Project:
    project = Project.objects.create(name="From flawed files", sorting_rules=SORTING_RULES)
    Membership.objects.create(project=project, user=people["anna"], role="owner")
    return project


def open_ground(open_as: Any, project: Project) -> Page:
    page = open_as("anna")
    page.locator("[data-test=project]").first.click()
    page.wait_for_selector("[data-test=import]")
    return page


def bring_in(page: Page, name: str, content: bytes, *, new: bool = False) -> None:
    page.click("[data-test=import]")
    page.set_input_files("[data-test=import-file]", {"name": name, "mimeType": "application/octet-stream", "buffer": content})
    expect(page.locator("[data-test=inventory]").first).to_be_visible(timeout=20_000)
    if new:
        page.locator("label.into select").select_option(label="a new surface")
    page.click("[data-test=import-accept]")
    expect(page.get_by_role("dialog")).to_have_count(0, timeout=30_000)


def test_flawed_files_are_checked_answered_and_one_surface_comes_of_them(open_as: Any, empty: Project) -> None:
    page = open_ground(open_as, empty)
    bring_in(page, "spots.csv", spots_csv())
    findings = page.locator("[data-test=ground-finding]")
    alike = page.locator("[data-test=ground-findings]")  # zero levels: one group with its count
    expect(alike).to_contain_text("3 alike", timeout=20_000)
    expect(alike).to_contain_text("while the ground around lies near")
    expect(findings.filter(has_text="all its neighbours")).to_have_count(1)  # the pole
    expect(findings.filter(has_text="changed over it would lie on the site")).to_have_count(1)
    expect(findings.filter(has_text="lie at one place with levels")).to_have_count(2)

    findings.filter(has_text="changed over").locator("[data-test=change-over]").click()
    expect(findings.filter(has_text="changed over it would")).to_have_count(0)
    findings.filter(has_text="all its neighbours").locator("[data-test=leave-out]").click()
    expect(findings.filter(has_text="all its neighbours")).to_have_count(0)
    alike.locator("[data-test=open-group]").click()
    expect(findings.filter(has_text="while the ground around")).to_have_count(3)
    alike.locator("[data-test=take-level]").click()  # all of them in one step
    expect(page.get_by_text("while the ground around")).to_have_count(0)
    double = findings.filter(has_text="0.320 m apart")
    double.locator("[data-test=keep]").click()
    double.locator("[data-test=remark]").fill("the kerb beside the bench mark")
    double.locator("[data-test=remark]").press("Enter")
    expect(double).to_have_count(0)
    expect(page.get_by_text("1 kept with a remark")).to_be_visible()
    surface = Surface.present.get(project=empty)
    assert [e["do"] for e in surface.edits] == ["move_point", "leave_out", "set_level", "set_level", "set_level"]
    page.keyboard.press("Control+z")
    expect(double).to_have_count(1)

    # sorting: the preview tells what no rule knows, and takes a role by hand
    page.click("[data-test=import]")
    page.set_input_files("[data-test=import-file]", {"name": "lines.dxf", "mimeType": "application/dxf", "buffer": lines_dxf()})
    expect(page.locator("[data-test=sorted-told]")).to_have_text(
        "6 of 7 layers have a role; the unsorted ones come in too, and wait."
    )
    page.select_option("[data-test='role-K-SKETCH 7']", "ignore")
    expect(page.locator("[data-test=sorted-told]")).to_have_text("All 7 layers have a role.")
    page.click("[data-test=import-accept]")
    expect(findings.filter(has_text="Two breaklines cross")).to_have_count(1, timeout=20_000)


def test_west_and_east_are_merged_to_one_piece_and_given_out_equal(open_as: Any, empty: Project) -> None:
    page = open_ground(open_as, empty)
    bring_in(page, "ground_west.xml", surface_xml("west"))
    bring_in(page, "ground_east.xml", surface_xml("east"), new=True)
    west, east = Surface.present.filter(project=empty).order_by("id")
    page.select_option("[data-test=surface]", str(west.pk))
    page.select_option("[data-test=merge-with]", str(east.pk))
    page.click("[data-test=merge]")
    expect(page.locator("[data-test=told]").first).to_contain_text("is one connected surface of", timeout=20_000)
    expect(page.locator("[data-test=told]").first).to_contain_text("the level steps by at most 0.0")
    expect(page.locator("[data-test=ground-finding]").filter(has_text="Survey 1 and survey 2 overlap")).to_have_count(1)
    page.fill("[data-test=fill-area]", "500")
    page.press("[data-test=fill-area]", "Enter")
    expect(page.locator("[data-test=told]").first).to_contain_text("Change surface")
    west.refresh_from_db()
    made, found = surface_of(assemble_surface(west))
    assert len(pieces_of(made)) == 1 and west.fill_area == 500
    assert [f.params["count"] for f in found if f.code == "holes-filled"] == [2]

    page.select_option("[data-test=surface]", str(east.pk))
    page.click("[data-test=delete-surface]")
    expect(page.locator("[data-test=told]").filter(has_text="is deleted")).to_have_count(1)
    page.get_by_text("Export", exact=True).click()
    with page.expect_download() as given:
        page.click("[data-test=out-landxml]")
    back = read_landxml(given.value.path().read_bytes()).surfaces[0]
    assert np.abs(back.points - made.points).max() < 1e-6 and np.array_equal(back.faces, made.triangles)
    with page.expect_download() as given:
        page.click("[data-test=out-geojson]")
    assert json.loads(given.value.path().read_text())["features"]


def test_a_label_path_is_drawn_moved_and_its_labels_follow(demo_page: Any, demo: Any) -> None:
    page = demo_page("ground")
    page.click("[data-test=tool-label-path]")
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    at = lambda x, y: (box["x"] + x * box["width"], box["y"] + y * box["height"])  # noqa: E731
    page.mouse.click(*at(0.42, 0.50))
    page.mouse.click(*at(0.64, 0.50))
    page.keyboard.press("Enter")
    labels = page.locator("[data-test=contour-label]")
    expect(labels.first).to_be_attached()
    before = labels.all_text_contents()
    assert len(before) > 5 and all(re.fullmatch(r"\d\d", t) for t in before)
    seize(page, "[data-test=path-1-2]")
    page.mouse.move(*at(0.52, 0.56), steps=4)
    page.mouse.up()
    expect(labels).not_to_have_count(len(before))
    after = labels.all_text_contents()
    (path,) = Surface.present.get(project=demo, name="Existing ground").label_paths
    assert after != before and len(path) == 2
    page.keyboard.press("Control+z")
    expect(labels).to_have_count(len(before))
    page.locator("[data-test=path-1-1]").focus()
    page.keyboard.press("Delete")
    expect(labels).to_have_count(0)


def test_a_point_is_chosen_typed_dragged_and_left_out(demo_page: Any, demo: Any) -> None:
    page = demo_page("ground")
    surface = Surface.present.get(project=demo, name="Existing ground")
    edits = len(surface.edits)
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    x, y = box["x"] + 0.6 * box["width"], box["y"] + 0.5 * box["height"]
    for _ in range(4):
        page.mouse.move(x, y)
        page.mouse.wheel(0, -400)
    expect(page.locator("[data-test=view-plan] [data-sharp=true]")).to_be_attached()
    pick = page.locator("[data-test=ground-pick]")
    for step in range(12):  # points stand about 9 m apart, so one is near
        with page.expect_response("**/nearest?*") as asked:
            page.mouse.click(x + 9 * step, y + 40)
        if asked.value.json():
            break
    expect(pick).to_be_visible()
    page.fill("[data-test=pick-level]", "58.25+0.5")
    page.press("[data-test=pick-level]", "Enter")
    expect(page.locator("[data-test=told]").first).to_contain_text("Move a point")
    surface.refresh_from_db()
    assert surface.edits[-1]["do"] == "move_point" and surface.edits[-1]["to"][2] == 58.75
    x, y = seize(page, pick)
    page.mouse.move(x + 35, y + 25, steps=3)
    page.mouse.up()
    expect(page.locator("[data-test=told]")).to_have_count(2)
    surface.refresh_from_db()
    assert len(surface.edits) == edits + 2 and surface.edits[-1]["to"][2] == 58.75
    page.click("[data-test=pick-leave-out]")
    expect(pick).to_have_count(0)
    page.click("[data-test=recipe]")
    expect(page.locator("[data-test=edit]")).to_have_count(edits + 3)
    page.locator("[data-test=edit]").last.get_by_text("Take back").click()
    expect(page.locator("[data-test=edit]")).to_have_count(edits + 2)


def test_slopes_water_and_a_section_are_read_from_the_ground(demo_page: Any) -> None:
    page = demo_page("ground")
    page.click("[data-test=layers]")
    page.select_option("[data-test=terrain-colours]", "slopes")
    expect(page.get_by_text("20 to 40 %")).to_be_visible()
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    at = lambda x, y: (box["x"] + x * box["width"], box["y"] + y * box["height"])  # noqa: E731
    page.click("[data-test=tool-water]")
    page.mouse.click(*at(0.5, 0.5))
    expect(page.locator("[data-test=water-told]")).to_contain_text("ha drain to this place")
    page.click("[data-test=tool-ground-section]")
    page.mouse.click(*at(0.4, 0.5))
    page.mouse.click(*at(0.6, 0.5))
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=ground-section]")).to_contain_text("m long")
    assert page.locator("[data-test=ground-section] path.line").get_attribute("d").count("L") > 20  # type: ignore[union-attr]


def test_a_newer_version_from_the_exchange_is_compared_and_taken(demo_page: Any, demo: Any) -> None:
    page = demo_page("ground")
    newer = page.locator("[data-test=document].newer")
    expect(newer).to_contain_text("spots.csv version 2")
    newer.locator("[data-test=take]").click()  # looked at first: picture, layers with their roles, and what it would change
    expect(page.locator("[data-test=difference-told]")).to_contain_text("have another level, by up to 0.1")
    expect(page.locator("[data-test=inventory]")).to_contain_text("points")
    page.click("[data-test=import-accept]")
    expect(newer).to_have_count(0, timeout=20_000)
    expect(page.locator("[data-test=document].taken").filter(has_text="spots.csv version 2")).to_have_count(1)
    page.keyboard.press("Control+z")
    expect(newer).to_have_count(1, timeout=20_000)


def test_rules_are_tried_while_typed_and_made_of_roles_set_by_hand(open_as: Any, empty: Project) -> None:
    page = open_ground(open_as, empty)
    page.click("[data-test=import]")
    page.set_input_files("[data-test=import-file]", {"name": "lines.dxf", "mimeType": "application/dxf", "buffer": lines_dxf()})
    told = page.locator("[data-test=sorted-told]")
    expect(told).to_contain_text("6 of 7 layers have a role", timeout=20_000)
    page.click("[data-test=preview-rules]")
    page.get_by_role("dialog").locator("[data-test=add-rule]").click()
    page.get_by_role("dialog").locator("[data-test=rule-pattern]").last.fill("k-sk*")
    expect(told).to_contain_text("All 7 layers have a role")
    page.get_by_role("dialog").locator("[data-test=rule-pattern]").last.fill("nothing")
    expect(told).to_contain_text("6 of 7")
    page.select_option("[data-test='role-K-SKETCH 7']", "ignore")
    page.click("[data-test=keep-as-rules]")
    page.get_by_role("dialog").locator("[data-test=save-rules]").click()
    expect(page.get_by_text("Change the sorting rules")).to_be_visible()
    empty.refresh_from_db()
    assert empty.sorting_rules[0] == {"pattern": "K-SKETCH 7", "type": "", "role": "ignore"}


def test_what_is_made_from_what_stands_on_the_shelves(open_as: Any, empty: Project) -> None:
    page = open_ground(open_as, empty)
    bring_in(page, "west.xml", surface_xml("west"))
    page.click("[data-test=shelves]")
    shelves = page.locator("[data-test=shelves-list]")
    expect(shelves.locator("[data-test^=shelf-file]")).to_contain_text("used by Ground west")
    expect(shelves.locator("[data-test^=shelf-survey]")).to_contain_text("used by Existing ground")
    shelves.locator("[data-test^=shelf-surface] input").fill("Moor")
    shelves.locator("[data-test^=shelf-surface] input").press("Enter")
    expect(shelves.locator("[data-test^=shelf-survey]")).to_contain_text("used by Moor")
    shelves.locator("[data-test^=delete-survey]").click()
    expect(shelves.locator("[data-test^=shelf-file]")).to_contain_text("used by nothing")
    page.keyboard.press("Escape")
    expect(page.get_by_text("There is no ground yet")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("There is no ground yet")).to_have_count(0)


def test_the_plan_shows_bands_hides_and_dims(open_as: Any, empty: Project) -> None:
    page = open_ground(open_as, empty)
    bring_in(page, "west.xml", surface_xml("west"))
    page.wait_for_selector("[data-drawn=true]", state="attached")
    page.click("[data-test=layers]")

    canvas = "document.querySelector('.host canvas').toDataURL()"
    seen: list[str] = []

    def drawn_anew() -> None:
        """The picture becomes another one than all before it, however long the server takes."""
        page.wait_for_function(f"(seen) => !seen.includes({canvas})", arg=seen, timeout=30_000)
        seen.append(str(page.evaluate(canvas)))

    drawn_anew()
    page.select_option("[data-test=terrain-colours]", "bands")
    expect(page.locator("[data-test=height-bands] li").first).to_contain_text(re.compile(r"\d+ to \d+ m"))
    drawn_anew()
    page.check("[data-test=contours-rounded]")
    drawn_anew()
    page.click("[data-test=dim-heights]")
    drawn_anew()
    page.uncheck("[data-test=layer-contours]")
    drawn_anew()
    page.reload()  # how this person likes contours is remembered
    page.click("[data-test=layers]")
    expect(page.locator("[data-test=contours-rounded]")).to_be_checked()
