"""Roads that hang on each other, and two persons on one project, in the page."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from playwright.sync_api import Page, expect

from ivoryridge.design.actions.edit_course import tie_end
from ivoryridge.design.actions.edit_line import change_pi, delete_pi, insert_pi
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.models import Road, RoadPI
from tests.browser.conftest import seize, until, without_junctions
from tests.conftest import beside


def side_road(demo: Any) -> Road:
    """A road with a bend that just fits, tied at its end to the Link."""
    designer = User.objects.get(username="designer")
    places = ((412_640.0, 687_130.0), (412_690.0, 687_020.0), (412_690.0, 686_860.0))
    pis = [{"easting": e, "northing": n, "radius": 150.0 if i == 1 else 0.0} for i, (e, n) in enumerate(places)]
    _, side = create_road(demo, designer, name="Mill Road", pis=pis)
    tie_end(side, designer, revision=side.revision, end="end", other=Road.objects.get(project=demo, name="Link"), station=None)
    return side


def drag(page: Page, what: str, by: tuple[float, float]) -> None:
    x, y = seize(page, what)
    page.mouse.move(x + by[0] / 2, y + by[1] / 2, steps=4)
    page.mouse.move(x + by[0], y + by[1], steps=4)


def test_a_drag_shows_what_breaks_on_the_roads_that_hang_on_it_and_its_end_refuses_it(demo_page: Any, demo: Any) -> None:
    without_junctions(demo)
    side = side_road(demo)
    page = demo_page("line")
    link = RoadPI.present.filter(road__project=demo, road__name="Link")
    before = list(link.values_list("easting", "northing"))
    drag(page, "[data-test=pi-2] rect", (0, -44))
    expect(page.locator("[data-test=view-plan]")).to_contain_text("Mill Road hangs on this road: The curve")
    page.mouse.up()
    told = page.locator("[data-test=told]")
    expect(told.filter(has_text="Mill Road hangs on this and would not compute any more")).to_be_visible()
    page.click("[data-test=told-go]")
    expect(page.locator("[data-test=road-name]")).to_have_value("Mill Road")
    page.locator("[data-test=road-select]").click()
    page.get_by_role("option", name="Link").click()
    expect(page.locator("[data-test=road-name]")).to_have_value("Link")
    assert list(link.values_list("easting", "northing")) == before
    pi = RoadPI.present.filter(road=side)[1]
    change_pi(side, User.objects.get(username="designer"), pi.pk, revision=pi.revision, values={"radius": 0.0})
    drag(page, "[data-test=pi-2] rect", (0, -44))
    page.mouse.up()
    expect(told.filter(has_text="Move PI 2 of Link")).to_be_visible()
    assert list(link.values_list("easting", "northing")) != before


def test_another_road_is_taken_by_a_click_on_its_line(demo_page: Any, demo: Any) -> None:
    side_road(demo)
    page = demo_page("line")
    name = page.locator("[data-test=road-name]")
    expect(name).to_have_value("Link")

    def at() -> list[float] | None:
        """Where the plan shows the side road's last leg just now; None once it is the active road, which has three PIs."""
        places = "[1, 4].map((i) => document.querySelector(`[data-test=pi-${i}] rect`)?.getBoundingClientRect())"
        told = page.evaluate(f"{places}.map((b) => b && [b.x + b.width / 2, b.y + b.height / 2])")
        if not all(told):
            return None
        (x, y), (right, _) = told
        scale = (right - x) / (414_100.0 - 411_820.0)
        return [x + (412_690.0 - 411_820.0) * scale, y + (687_240.0 - 686_960.0) * scale]

    def clicked() -> bool:
        if place := at():
            page.mouse.click(*place)
        return name.input_value() == "Mill Road"

    until(page, clicked)  # the other roads' lines come a little after the active one's


def test_a_chosen_pi_stays_chosen_by_itself_whatever_another_person_does(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=pi-3]")
    chosen = page.locator("[data-test=pi-3].chosen")
    expect(chosen).to_be_visible()
    designer, link = User.objects.get(username="designer"), Road.objects.get(project=demo, name="Link")
    insert_pi(link, designer, between=beside(link, 1), values={"easting": 412_000.0, "northing": 687_140.0})
    expect(page.locator("[data-test=pi-4].chosen")).to_be_visible()  # it is the fourth now
    pi = RoadPI.present.filter(road=link)[3]
    delete_pi(link, designer, pi.pk, revision=pi.revision)
    expect(page.locator("[data-test=pi-4]")).to_be_visible()
    expect(page.locator(".pi.chosen")).to_have_count(0)


def test_two_persons_see_each_other_and_what_the_other_does(demo_page: Any, open_as: Any, demo: Any) -> None:
    page = demo_page("line")
    expect(page.locator("[data-test=here]")).to_have_count(0)
    other = open_as("colleague", "orrowmere", project=demo.pk, stage="line")
    expect(page.locator("[data-test=here]")).to_have_text("colleague")
    expect(other.locator("[data-test=here]")).to_have_text("designer")
    name = other.locator("[data-test=road-name]")
    name.fill("Link Road")
    name.press("Enter")
    expect(page.locator("[data-test=road-name]")).to_have_value("Link Road", timeout=5_000)  # within 2 s on a quiet machine
    radius = page.locator("[data-test=pi-2-radius]")
    radius.fill("580")
    theirs = other.locator("[data-test=pi-2-radius]")
    theirs.fill("640")
    theirs.press("Enter")
    expect(page.locator("[data-test=theirs]")).to_contain_text("Somebody has meanwhile made it 640.00")
    expect(radius).to_have_value("580")
    radius.press("Escape")
    expect(radius).to_have_value("640.00")
    radius.fill("590")
    theirs.fill("650")
    theirs.press("Enter")
    expect(page.locator("[data-test=theirs]")).to_contain_text("made it 650.00")
    radius.press("Enter")
    expect(theirs).to_have_value("590.00")
    expect(page.locator("[data-test=theirs]")).to_have_count(0)
