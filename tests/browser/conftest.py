"""A real browser on the real application: Debian's chromium, headless, without a graphics card."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from time import monotonic
from typing import Any

import pytest
from django.conf import settings
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from bench.server import FLAGS
from ivoryridge.design.models import Junction, Road

os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = (
    "true"  # playwright keeps an event loop in this thread; the rows are read between its calls
)
expect.set_options(timeout=30_000)  # a state is waited for, also on a machine at a quarter of its speed


def until(page: Page, holds: Callable[[], bool]) -> None:
    """Wait for a state that no locator tells, looking at it with every picture the page draws."""
    end = monotonic() + 30
    while not holds():
        told = page.locator("[data-test=told]")
        assert monotonic() < end, f"the state did not come within 30 s; told: {told.all_text_contents()}"
        page.evaluate("new Promise(requestAnimationFrame)")


def go_to(page: Page, chainage: str) -> None:
    """Set the reading mark by Ctrl K; the road's stations may be on their way still, so what it offers is waited for."""
    page.keyboard.press("Control+k")
    page.fill("[data-test=find-input]", chainage)
    expect(page.locator("#found li").first).to_contain_text("Go to")
    page.keyboard.press("Enter")


def without_junctions(project: Any) -> None:
    """The demo before its junctions: Link, its lane and its slip road alone, so that Link's line may be moved far."""
    for junction in Junction.present.filter(project=project):
        junction.removed = True
        junction.save()
    for road in Road.present.filter(project=project).exclude(name__in=("Link", "Tarn Lane", "Quarry slip")):
        road.removed = True
        road.save()


def seize(page: Page, what: Locator | str) -> tuple[float, float]:
    """Press on a handle that stands still and lies on top; where it was pressed."""
    handle = page.locator(what) if isinstance(what, str) else what
    handle.hover()
    box = handle.bounding_box()
    assert box
    page.mouse.down()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


@pytest.fixture(scope="session")
def chromium() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture(scope="session", autouse=True)
def built() -> None:
    assert (settings.WEB_DIST / "index.html").is_file(), "Build the front end first: ./ivory test does it."


@pytest.fixture
def open_as(chromium: Browser, live_server: Any) -> Iterator[Callable[..., Page]]:
    """Sign a person in; ``project`` opens that project's plan. Pages must raise no error of their own."""
    faults: list[str] = []
    contexts = []

    def sign_in(
        name: str,
        password: str = "correct horse",
        *,
        project: int | None = None,
        stage: str = "ground",
        size: tuple[int, int] = (1280, 800),
    ) -> Page:
        context = chromium.new_context(viewport={"width": size[0], "height": size[1]}, accept_downloads=True)
        contexts.append(context)
        page = context.new_page()
        if slow := float(os.environ.get("IVORY_SLOW", 0)):  # times slower, to see whether a test waits for states
            context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slow})
        page.on("pageerror", lambda e: faults.append(str(e)))
        page.on("console", lambda m: faults.append(m.text) if "Content Security Policy" in m.text else None)
        page.goto(live_server.url + (f"/projects/{project}/{stage}" if project else "/"))
        page.fill("[data-test=name]", name)
        page.fill("[data-test=password]", password)
        page.press("[data-test=password]", "Enter")
        if project:
            expect(page.locator("[data-drawn=true]").first).to_be_attached(timeout=30_000)
        return page

    yield sign_in
    for context in contexts:
        context.close()
    assert faults == []


@pytest.fixture
def demo_page(demo: Any, open_as: Callable[..., Page]) -> Callable[..., Page]:
    return lambda stage="levels", **more: open_as("designer", "orrowmere", project=demo.pk, stage=stage, **more)
