"""Choosing: the nearest thing first, a short list where several lie under the pointer; other roads in plan and model; files without a
unit in a project in feet; settings changed by somebody else."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.design.models import Membership, Road, RoadPI, SurveySet

from .conftest import until, without_junctions

FOOT = 0.3048


def middle(page: Page, test: str) -> tuple[float, float]:
    box = page.locator(f"[data-test={test}] rect").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


@pytest.fixture
def crossed(demo: Any, people: Any) -> Road:
    """A second road that begins exactly on PI 2 of the demo's main road."""
    from ivoryridge.design.actions.edit_road import create_road

    without_junctions(demo)
    owner = Membership.objects.filter(project=demo).first()
    assert owner
    pi = RoadPI.present.filter(road__project=demo, road__name="Link")[1]
    pis = [{"easting": pi.easting + d, "northing": pi.northing - 2 * d, "radius": 0.0} for d in (0.0, 90.0)]
    _, road = create_road(demo, owner.user, name="Spur", pis=pis)
    return road


def test_a_short_list_offers_what_lies_under_the_pointer(crossed: Road, demo_page: Any) -> None:
    page = demo_page("line")
    expect(page.locator("[data-others='3']")).to_be_attached()
    expect(page.locator("[data-test=pi-2]")).to_be_visible()
    x, y = middle(page, "pi-2")
    page.mouse.click(x, y)
    names = page.locator("[data-test=under] [role=menuitem]")
    expect(names.first).to_have_text("PI 2")  # the nearest, chosen at once
    expect(page.locator("[data-test=pi-2].chosen")).to_be_attached()
    expect(names.filter(has_text="Spur")).to_have_count(1)
    page.keyboard.press("Escape")
    expect(names).to_have_count(0)
    expect(page.locator("[data-test=pi-2].chosen")).to_be_attached()  # one thing at a time
    page.mouse.click(x, y)
    page.locator("[data-test=under] [role=menuitem]", has_text="Spur").click()
    expect(page).to_have_title(re.compile("^Spur"))
    expect(names).to_have_count(0)


def test_a_handle_is_held_by_its_first_four_pixels_and_no_list_opens_after_a_drag(
    crossed: Road, demo_page: Any, demo: Any
) -> None:
    page = demo_page("line")
    pi = RoadPI.present.filter(road__project=demo, road__name="Link")[1]
    expect(page.locator("[data-others='3']")).to_be_attached()
    expect(page.locator("[data-test=pi-2]")).to_be_visible()
    x, y = middle(page, "pi-2")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 2, y + 1)
    page.mouse.up()
    expect(page.locator("[data-test=under]")).to_be_visible()  # that was a click
    assert RoadPI.objects.get(pk=pi.pk).revision == pi.revision
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 5, y + 7)
    page.mouse.move(x + 3, y + 20, steps=3)
    page.mouse.up()
    until(page, lambda: RoadPI.objects.get(pk=pi.pk).revision > pi.revision)
    expect(page.locator("[data-test=under]")).to_have_count(0)
    assert RoadPI.objects.get(pk=pi.pk).northing < pi.northing


def test_another_road_is_chosen_in_the_model_and_turning_it_chooses_none(demo_page: Any, demo: Any) -> None:
    """The model is looked at from above; a click on the light line of a side road, wherever the picture shows it."""
    without_junctions(demo)
    page = demo_page("road")
    canvas = page.locator("[data-test=model-canvas]")
    expect(page.locator("[data-drawn=true]").last).to_be_attached()
    box = canvas.bounding_box()
    assert box
    page.mouse.move(box["x"] + 300, box["y"] + 150)
    page.mouse.down()
    page.mouse.move(box["x"] + 330, box["y"] + 155, steps=3)
    page.mouse.up()
    expect(page).to_have_title(re.compile("^Link"))
    found = []
    for y in range(20, int(box["height"]) - 10, 6):  # a row of clicks across the others' lines
        for x in range(40, int(box["width"]) - 40, 40):
            page.mouse.click(box["x"] + x, box["y"] + y)
        if not page.title().startswith("Link"):
            found.append(y)
            break
    assert found and page.title().startswith(("Tarn Lane", "Quarry slip"))


def test_a_file_without_a_unit_is_taken_in_the_unit_of_the_project(demo: Any, demo_page: Any, tmp_path: Path) -> None:
    demo.length_unit = "ft"
    demo.save()
    e0, n0 = 412_400 / FOOT, 687_000 / FOOT
    rows = [f"{i},{e0 + 30 * (i % 6):.3f},{n0 + 30 * (i // 6):.3f},{200 + i % 3:.2f}" for i in range(36)]
    (tmp_path / "feet.csv").write_text("name,easting,northing,level\n" + "\n".join(rows) + "\n")
    page = demo_page("ground")
    page.click("[data-test=import]")
    page.set_input_files("[data-test=import-file]", tmp_path / "feet.csv")
    unit = page.locator("[data-test=file-unit]")
    expect(unit).to_have_value(str(FOOT))
    expect(page.locator("[data-test=moved-told]")).to_contain_text("0.3048")
    expect(page.locator("[data-test=inventory]")).to_contain_text(re.compile(r"levels 200\.000 to 202\.000 ft"))
    page.click("[data-test=import-accept]")
    until(page, lambda: SurveySet.objects.filter(name__startswith="feet").exists())
    extent = SurveySet.objects.get(name__startswith="feet").inventory["extent"]
    assert extent[:2] == pytest.approx([412_400, 687_000], abs=1e-3) and extent[2] == pytest.approx(
        412_400 + 150 * FOOT, abs=1e-3
    )


def test_a_unit_that_somebody_else_sets_is_read_here_within_moments(demo: Any, demo_page: Any) -> None:
    """Two browsers on one project: the other one speaks feet as soon as one of them is told to; fields keep what is typed."""
    first, second = demo_page("line"), demo_page("line")
    second.click("[data-test=pi-2] rect")
    radius = second.locator("[data-test=inspect-radius]")
    before = RoadPI.present.filter(road__project=demo, road__name="Link")[1].radius
    expect(radius).to_have_value(re.compile(r"^\d+\.\d\d$"))
    first.keyboard.press("Control+k")
    first.fill("[data-test=find-input]", "Project settings")
    first.get_by_role("option", name="Project settings").first.click()
    first.select_option("[data-test=length-unit]", "ft")
    expect(radius).to_have_value(f"{before / FOOT:.2f}")
    expect(second.get_by_text(re.compile(r"^\d+ ft$"))).to_be_visible()  # the scale bar
    first.keyboard.press("Escape")
    first.keyboard.press("Control+z")
    expect(radius).to_have_value(f"{before:.2f}")
