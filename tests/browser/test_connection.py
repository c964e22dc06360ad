"""A server that is away and a session that has ended: said once, what is typed stays, what was not saved is offered again."""

from __future__ import annotations

from typing import Any

import pytest
from django.contrib.sessions.models import Session
from playwright.sync_api import Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road
from ivoryridge.design.results.levels import levels_of
from tests.browser.conftest import seize, until


@pytest.fixture
def page(demo_page: Any) -> Page:
    page: Page = demo_page("levels")
    page.locator("[data-test=pvi-3] rect").click()
    expect(page.locator("[data-test=pvi-level]")).to_be_visible()
    return page


def level_of(demo: Any) -> float:
    return levels_of(assemble_road(Road.objects.get(project=demo, name="Link"))).rows[2].elevation


def raise_to(page: Page, level: str) -> None:
    field = page.locator("[data-test=pvi-level]")
    field.fill(level)
    field.press("Enter")


def test_what_cannot_be_saved_stays_typed_and_is_saved_when_the_server_is_back(page: Page, demo: Any) -> None:
    before, strip = level_of(demo), page.locator("[data-test=connection]")
    page.context.set_offline(True)
    raise_to(page, f"{before + 0.25:.3f}")
    expect(strip).to_contain_text("The server does not answer")
    expect(strip).to_contain_text("Your last change is not saved.")
    expect(page.locator("[data-test=pvi-level]")).to_have_value(f"{before + 0.25:.3f}")
    expect(page.locator("[data-test=told]")).to_have_count(0)
    assert level_of(demo) == before
    page.context.set_offline(False)
    expect(page.locator("[data-test=connection-save]")).to_be_visible()  # found by itself
    expect(strip).not_to_contain_text("does not answer")
    page.click("[data-test=connection-save]")
    until(page, lambda: level_of(demo) == pytest.approx(before + 0.25, abs=1e-9))
    expect(strip).to_have_count(0)


def test_a_drag_that_ends_without_a_server_is_marked_and_offered_again(page: Page, demo: Any) -> None:
    before = level_of(demo)
    x, y = seize(page, "[data-test=pvi-3] rect")
    page.mouse.move(x, y - 12)
    expect(page.locator("[data-test=as-it-would-be]")).to_be_visible()  # of a trial, also if nothing answers any more
    page.context.set_offline(True)
    page.mouse.move(x, y - 20)
    expect(page.locator("[data-test=connection]")).to_contain_text("does not answer")
    expect(page.locator("[data-test=as-it-would-be]")).to_be_visible()
    page.mouse.up()
    expect(page.locator("[data-test=connection]")).to_contain_text("Your last change is not saved.")
    expect(page.locator("[data-test=as-it-would-be]")).to_have_count(0)  # the figures are the saved ones again
    page.context.set_offline(False)
    page.click("[data-test=connection-save]")
    until(page, lambda: level_of(demo) > before)


def test_a_session_that_ended_is_taken_up_in_place(page: Page, demo: Any) -> None:
    before, strip = level_of(demo), page.locator("[data-test=connection]")
    Session.objects.all().delete()
    raise_to(page, f"{before + 0.5:.3f}")
    expect(strip).to_contain_text("Your session has ended")
    page.fill("[data-test=connection-password]", "wrong")
    page.click("[data-test=connection-sign-in]")
    expect(strip.locator("[role=alert]")).to_contain_text("password")
    page.fill("[data-test=connection-password]", "orrowmere")
    page.click("[data-test=connection-sign-in]")
    expect(strip).not_to_contain_text("ended")
    page.click("[data-test=connection-save]")
    until(page, lambda: level_of(demo) == pytest.approx(before + 0.5, abs=1e-9))
    expect(page.locator("[data-test=pvi-level]")).to_have_value(f"{before + 0.5:.3f}")
