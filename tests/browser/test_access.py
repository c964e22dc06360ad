"""Everybody can use it: axe-core's rules for WCAG 2.1 A and AA on every stage, sign-in and dialogs."""

from __future__ import annotations

from typing import Any

import pytest
from django.conf import settings
from playwright.sync_api import Page, expect

AXE = settings.WEB_DIST.parent / "node_modules" / "axe-core" / "axe.min.js"
STAGES = ("ground", "line", "levels", "sections", "road", "junctions", "earthwork", "sheets")


def faults_of(page: Page) -> list[str]:
    """Broken rules as 'rule: element (what is wrong)'."""
    page.evaluate(AXE.read_text())  # as a script of the page it would not be let in
    found = page.evaluate(
        "axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'] }).then((r) => r.violations.map((v) => [v.id, "
        "v.nodes.map((n) => [n.target.join(' '), n.any.concat(n.all).map((c) => c.message).join('; ')])]))"
    )
    return [f"{rule}: {target} ({message})" for rule, nodes in found for target, message in nodes]


@pytest.mark.parametrize("stage", STAGES)
def test_every_stage_keeps_the_rules(demo_page: Any, stage: str) -> None:
    page = demo_page("ground")
    page.click(f"[data-test=stage-{stage}]")
    page.wait_for_load_state("networkidle")
    assert faults_of(page) == []


@pytest.mark.parametrize(
    "words", ["Ledger", "Findings", "Keys", "Members", "Project settings", "Shelves", "Line reports", "Earthwork report"]
)
def test_every_panel_keeps_the_rules_and_gives_the_focus_back(demo_page: Any, words: str) -> None:
    """It is closed by Escape; the focus is where it was before it opened, a handle in the plan."""
    page = demo_page("line")
    handle = page.locator("[data-test=pi-2]")
    handle.focus()
    page.keyboard.press("Control+k")
    page.fill("[data-test=find-input]", words)
    page.get_by_role("option", name=words).first.click()
    dialog = page.get_by_role("dialog").filter(has_not=page.locator("[data-test=find-input]"))
    expect(dialog).to_be_visible()
    page.wait_for_load_state("networkidle")
    assert faults_of(page) == []
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    expect(handle).to_be_focused()


def test_the_rules_hold_in_dialogs_and_before_signing_in(demo_page: Any, live_server: Any) -> None:
    page = demo_page("ground")
    page.keyboard.press("Control+k")
    expect(page.locator("[data-test=find-input]")).to_be_focused()
    assert faults_of(page) == []
    page.keyboard.press("Escape")
    page.locator("[data-test=import]").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    assert faults_of(page) == []
    page.keyboard.press("Escape")
    page.locator("[data-test=document].newer [data-test=take]").click()
    expect(page.locator("[data-test=difference-told]")).to_be_visible()
    assert faults_of(page) == []
    page.goto(live_server.url + "/")
    expect(page.locator("[data-test=project] path").first).to_be_attached()
    assert faults_of(page) == []
    page.context.clear_cookies()
    page.goto(live_server.url + "/sign-in")
    page.wait_for_selector("[data-test=name]")
    assert faults_of(page) == []


def test_axe_does_find_faults(demo_page: Any) -> None:
    """The check can fail: a picture without a name and grey text on grey are both told."""
    page = demo_page("ground")
    page.evaluate(
        "document.body.insertAdjacentHTML('beforeend', '<img src=x><p "
        'style="color:#999;background:#aaa;position:fixed;top:0;z-index:999">faint words</p>\')'
    )
    told = " ".join(faults_of(page))
    assert "image-alt" in told and "color-contrast" in told
