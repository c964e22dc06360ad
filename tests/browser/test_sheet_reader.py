"""A sheet is read on screen: page by page, to paper detail at the pointer, by mouse and by keys; its texts are as large as on paper."""

from __future__ import annotations

import re
from typing import Any

import pypdfium2 as pdfium
from playwright.sync_api import expect


def test_a_sheet_is_turned_zoomed_and_moved(demo_page: Any, demo: Any) -> None:
    page = demo_page("sheets")
    sheet = page.locator("[data-test=sheet-image][data-drawn=true]")
    expect(sheet).to_be_visible(timeout=60_000)
    told = page.locator("[data-test=sheet-page]")
    expect(told).to_have_text("1 of 6")
    page.click("[data-test=sheet-next]")
    expect(told).to_have_text("2 of 6")
    expect(page.locator("[data-test=reading-mark]")).to_have_value("0+620.00")
    sheet.focus()
    page.keyboard.press("PageDown")
    expect(told).to_have_text("3 of 6")
    title = sheet.locator("svg > title")
    expect(title).to_have_text(re.compile("1\\+240 to 1\\+860"))

    page.click("[data-test=sheet-true]")
    expect(page.locator("[data-test=sheet-percent]")).to_have_text("100 %")
    paper = sheet.locator("svg").bounding_box()
    assert paper and abs(paper["width"] - 841 / 25.4 * 96) < 2  # an A1 sheet, in px of 1/96 inch
    legend = sheet.locator("svg text", has_text="Legend")
    assert legend.evaluate("t => t.getBoundingClientRect().height") > 10  # 2.5 mm capitals can be read

    box = sheet.bounding_box()
    assert box
    x, y = box["x"] + 200, box["y"] + 60
    under = "([x, y]) => { const r = document.querySelector('[data-test=sheet-image] svg').getBoundingClientRect(); "
    under += "return [(x - r.x) / r.width, (y - r.y) / r.height] }"
    before = page.evaluate(under, [x, y])
    page.mouse.move(x, y)
    page.mouse.wheel(0, -400)
    expect(page.locator("[data-test=sheet-percent]")).not_to_have_text("100 %")
    after = page.evaluate(under, [x, y])
    assert max(abs(p - q) for p, q in zip(before, after, strict=True)) < 0.002  # what lies under the pointer stays there
    page.mouse.down()
    page.mouse.move(x + 90, y + 40)
    page.mouse.up()
    moved = page.evaluate(under, [x + 90, y + 40])
    assert max(abs(p - q) for p, q in zip(after, moved, strict=True)) < 0.002
    page.keyboard.press("0")
    expect(page.locator("[data-test=sheet-fit]")).to_have_class(re.compile(r"\bon\b"))
    with page.expect_download() as download:
        page.click("[data-test=sheet-pdf]")
    assert len(pdfium.PdfDocument(download.value.path().read_bytes())) == 6 and "all sheets" in download.value.suggested_filename
