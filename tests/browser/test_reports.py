"""The deviation report of an existing lane: the largest value stands where the demo planted it, on screen and in the CSV."""

from __future__ import annotations

import io
from typing import Any

import pandas as pd
from playwright.sync_api import expect


def test_the_planted_deviation_is_found_on_screen_and_in_the_csv(demo_page: Any, demo: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=road-select]")
    page.get_by_role("option", name="Tarn Lane", exact=True).click()
    expect(page.locator("[data-test=road-name]")).to_have_value("Tarn Lane")
    page.click("[data-test=reports]")
    page.click("[data-test=report-deviation]")
    options = page.locator("[data-test=report-measured] option").all_text_contents()
    page.select_option("[data-test=report-measured]", label=next(o for o in options if "LANE CENTRE" in o))
    report = page.locator("[data-test=report]")
    page.select_option("[data-test=report-each]", "point")
    page.click("[data-test=layout-3]")
    first = report.locator("table").first.locator("tbody tr").first
    expect(first).to_contain_text("arc")
    expect(first).to_contain_text("+0.93")  # one point was taken at the verge, 0.9 m to the right of where it should be
    expect(first).to_contain_text("0+254.00")
    page.click("[data-test=layout-1]")  # greatest first
    with page.expect_download() as download:
        page.click("[data-test=report-csv]")
    table = pd.read_csv(io.BytesIO(download.value.path().read_bytes()), encoding="utf-8-sig")
    worst = table.loc[0]
    assert table["Offset m"].abs().is_monotonic_decreasing
    assert abs(worst["Offset m"] - 0.93) < 0.02 and abs(worst["Chainage m"] - 254.0) < 0.2 and worst["Side"] == "right"
    report.locator("tr.over").first.click()
    page.keyboard.press("Escape")
    expect(page.locator("[data-test=reading-mark]")).not_to_have_value("0+000.00")
