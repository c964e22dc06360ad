"""Refresh docs/screenshots from the demo: one picture of each main view at 1280 x 800."""

from __future__ import annotations

import sys
from collections.abc import Callable

from playwright.sync_api import Page, sync_playwright

from .browser import sign_in
from .server import FLAGS, ROOT, demo_server

OUT = ROOT / "docs" / "screenshots"


def _mark(page: Page, text: str) -> None:
    page.fill("[data-test=reading-mark]", text)
    page.press("[data-test=reading-mark]", "Enter")
    page.wait_for_timeout(500)


def _bring_in(page: Page) -> None:
    """A preview full of doubts: axes changed over, a title that is not known, lines that cannot be read, levels that are none."""
    rows = [
        f"{100 + k};{686_900 + 12 * (k // 9)}.25;{412_300 + 15 * (k % 9)}.50;{58 + 0.4 * (k % 9):.2f};{'BANK' if k % 9 == 4 else 'GRD'}"
        for k in range(90)
    ]
    rows[7] = rows[7].replace("686", "6x6", 1)
    rows[20], rows[41] = (";".join([*r.split(";")[:3], "-9999", "GRD"]) for r in (rows[20], rows[41]))
    content = "# field book 7\nPoint;Left;Right;Level;Remark\n" + "\n".join([*rows, "106;686900.25;412465.50;58.10;GRD"])
    page.click("[data-test=import]")
    page.set_input_files(
        "[data-test=import-file]", {"name": "field-book-7.csv", "mimeType": "text/csv", "buffer": content.encode()}
    )
    page.wait_for_selector("[data-test=inventory]")


def _slopes(page: Page) -> None:
    page.click("[data-test=layers]")
    page.select_option("[data-test=terrain-colours]", "slopes")
    page.check("[data-test=layer-flow]")
    page.uncheck("[data-test=layer-contours]")


def _look_at(page: Page, name: str) -> None:
    page.locator("button[data-test^=junction-]", has_text=name).first.click()
    page.wait_for_selector("[data-test^=corner-row-]")
    page.wait_for_selector("[data-test=finished-glb]")
    page.wait_for_timeout(2500)


def _junctions(page: Page) -> None:
    _look_at(page, "Ferry Road")
    page.click("[data-test=corner-row-NE] button")


def _finished(page: Page) -> None:
    _look_at(page, "Tarn Lane")
    page.locator("[data-test=view-plan] h3").dblclick()
    page.wait_for_timeout(800)
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    page.get_by_role("button", name="Cut section", exact=True).click()
    for x, y in ((0.36, 0.72), (0.55, 0.18)):
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    page.keyboard.press("Enter")
    page.wait_for_selector("[data-test=finished-line]")


def _road(page: Page) -> None:
    _mark(page, "0+860")
    page.wait_for_selector("[data-test=view-model] [data-drawn=true]", state="attached")
    page.click("[data-test=model-along]")


def _model(page: Page) -> None:
    page.wait_for_selector("[data-test=view-model] [data-drawn=true]", state="attached")
    page.locator("[data-test=view-model] h3").dblclick()
    page.wait_for_timeout(800)
    _near(page, "model-canvas", 0.25, 0.5, 9)


def _reports(page: Page) -> None:
    page.click("[data-test=road-select]")
    page.get_by_role("option", name="Tarn Lane", exact=True).click()
    page.wait_for_timeout(800)
    page.click("[data-test=reports]")
    page.click("[data-test=report-deviation]")
    measured = page.locator("[data-test=report-measured]")
    name = next(o for o in measured.locator("option").all_text_contents() if "LANE CENTRE" in o)
    measured.select_option(label=name)
    page.wait_for_selector("[data-test=report] td")


def _near(page: Page, what: str, x: float, y: float, steps: int, by: int = 240) -> None:
    """Zoom in on a place of a view, given as shares of it."""
    box = page.locator(f"[data-test={what}]").bounding_box()
    assert box
    page.mouse.move(box["x"] + x * box["width"], box["y"] + y * box["height"])
    for _ in range(steps):
        page.mouse.wheel(0, -by)
    page.wait_for_timeout(800)


def _crossfall(page: Page) -> None:
    page.click("[data-test=lower-crossfall]")
    page.focus("[data-test=bend-3-full_in]")


def _fit_line(page: Page) -> None:
    page.click("[data-test=tool-fit-line]")
    measured = page.locator("[data-test=fit-measured]")
    measured.select_option(label=next(o for o in measured.locator("option").all_text_contents() if "LANE CENTRE" in o))
    page.wait_for_selector("[data-test=fit-told]")
    _near(page, "plan-canvas", 0.36, 0.55, 9, 140)


def _guides(page: Page) -> None:
    box = page.locator("[data-test=long-canvas]").bounding_box()
    assert box
    page.click("[data-test=tool-guide]")
    for grade, x, y in (("2.5", 0.3, 0.55), ("-3", 0.6, 0.35)):
        field = page.locator("[data-test=guide-grade]")
        field.fill(grade)
        field.press("Enter")
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
        page.wait_for_timeout(500)
    page.keyboard.press("Escape")
    page.click("[data-test=sight]")


def _along(page: Page) -> None:
    _mark(page, "1+600")
    page.click("[data-test=lower-along]")
    page.locator("[data-test^=along-row-]").filter(has_text="lane width 4.05 m1").click()


def _sheet(page: Page) -> None:
    """A plan with its contours, mapping and side roads, near enough to be read."""
    page.click("[data-test=sheet-plan-2]")
    sheet = page.locator("[data-test=sheet-image][data-drawn=true]")
    sheet.wait_for()
    page.locator("[data-test=view-table] h3").dblclick()
    page.wait_for_timeout(800)
    _near(page, "sheet-image", 0.36, 0.16, 3)


def _narrow(page: Page) -> None:
    page.set_viewport_size({"width": 1024, "height": 700})
    page.click("[data-test=plan-fit]")
    page.click("[data-test=more-long]")
    page.click("[data-test=sight]")
    page.wait_for_timeout(1500)


def _bench(page: Page) -> None:
    page.click("[data-test=part-right-slope]")
    page.click("[data-test=ground-hump]")
    page.wait_for_selector("[data-test=passed-by]")


SHOTS: list[tuple[str, str, Callable[[Page], None]]] = [
    ("ground", "ground", lambda page: page.click("[data-test=layers]")),
    ("bring-in", "ground", _bring_in),
    ("slopes", "ground", _slopes),
    ("line", "line", lambda page: page.click("[data-test=pi-2] rect")),
    ("crossfall", "line", _crossfall),
    ("fit-line", "line", _fit_line),
    ("levels", "levels", lambda page: (_mark(page, "1+040"), page.click("[data-test=pvi-3] rect"))[1]),
    ("sections", "sections", _bench),
    ("junctions", "junctions", _junctions),
    ("finished", "junctions", _finished),
    ("road", "road", _road),
    ("model", "road", _model),
    ("along", "road", _along),
    ("shelves", "ground", lambda page: page.click("[data-test=shelves]")),
    ("reports", "line", _reports),
    ("earthwork", "earthwork", lambda page: _mark(page, "1+100")),
    ("sheets", "sheets", _sheet),
    ("narrow", "levels", _narrow),
    ("guides", "levels", _guides),  # last, since what is drawn stays in the demo
]


def main() -> None:
    """All, or those named: python -m bench.shots model road."""
    wanted = sys.argv[1:]
    OUT.mkdir(parents=True, exist_ok=True)
    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        sign_in(page, address)
        project = page.locator("[data-test=project]").first.get_attribute("href")
        for name, stage, prepare in (shot for shot in SHOTS if not wanted or shot[0] in wanted):
            page.set_viewport_size({"width": 1280, "height": 800})
            page.goto(f"{address}{project}/{stage}")
            page.wait_for_selector("[data-drawn=true], [data-test=bench-canvas]", state="attached")
            page.wait_for_timeout(1500)
            prepare(page)
            page.mouse.move(640, 4)
            page.wait_for_timeout(1500)
            page.screenshot(path=OUT / f"{name}.png")
            print(name)
        browser.close()


if __name__ == "__main__":
    main()
