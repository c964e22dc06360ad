"""The whole slice by mouse and keyboard, from an empty project to a sheet in the hand."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
import pypdfium2 as pdfium
from playwright.sync_api import Page, expect

from ivoryridge.design.models import LedgerEntry, Project, ReceivedFile, RoadPI, RoadPVI


def survey(path: Path) -> Path:
    """Hilly ground around E 500 000 N 6 200 000, with a decimal comma, and a line that cannot be read."""
    rng = np.random.default_rng(8)
    xy = rng.uniform([499_700, 6_199_700], [501_300, 6_200_700], (4000, 2))
    z = 80 + 7 * np.sin(xy[:, 0] / 140) + 4 * np.cos(xy[:, 1] / 110)
    rows = [f"{e:.2f};{n:.2f};{level:.3f}".replace(".", ",") + ";ground" for (e, n), level in zip(xy, z, strict=True)]
    rows.insert(1200, "500100,00;6200100,00;oops;ground")
    path.write_text("Easting;Northing;Level;Code\n" + "\n".join(rows) + "\n")
    return path


def draw(page: Page, shares: list[tuple[float, float]]) -> None:
    box = page.locator("[data-test=plan-canvas]").bounding_box()
    assert box
    for x, y in shares:
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    page.keyboard.press("Enter")


def number(text: str) -> float:
    return float(re.sub(r"[^\d.−-]", "", text).replace("−", "-"))


def test_from_an_empty_project_to_a_sheet(people: Any, open_as: Any, tmp_path: Path) -> None:
    page = open_as("anna")
    expect(page.get_by_text("You have no project yet")).to_be_visible()
    page.fill("[data-test=new-project]", "First road")
    page.click("[data-test=create-project]")

    # ground: look before it is brought in
    page.click("[data-test=empty-action]")
    page.set_input_files("[data-test=import-file]", survey(tmp_path / "survey.csv"))
    expect(page.locator("[data-test=inventory]")).to_contain_text("4000 points")
    expect(page.locator("[data-test=import-finding]")).to_contain_text("Line 1202 was left out: 'oops' is not a number (level)")
    expect(page.locator("[data-test=delimiter]")).to_have_value(";")
    assert ReceivedFile.objects.count() == 0
    page.click("[data-test=import-accept]")
    expect(page.locator("[data-test=view-plan] [data-drawn=true]")).to_be_attached()
    expect(page.locator("[data-test=surface-name]")).to_have_value("Existing ground")
    page.locator("[data-test=plan-canvas]").hover()
    expect(page.locator("[data-test=cursor-ground]")).to_contain_text(re.compile(r"\d+\.\d{3} m · "))

    # line: click four PIs, then give the inner ones radii and transitions in the table
    page.keyboard.press("Alt+2")
    page.click("[data-test=tool-draw-road]")
    draw(page, [(0.2, 0.6), (0.45, 0.35), (0.65, 0.6), (0.85, 0.45)])
    expect(page.locator("[data-test=pi-4]")).to_be_visible()
    for pi, radius in ((2, "120"), (3, "90+20")):
        page.fill(f"[data-test=pi-{pi}-radius]", radius)
        page.press(f"[data-test=pi-{pi}-radius]", "Enter")
        expect(page.locator(f"[data-test=pi-{pi}-radius]")).to_have_value("120.00" if pi == 2 else "110.00")
    page.fill("[data-test=pi-2-spiral_in]", "30")
    page.press("[data-test=pi-2-spiral_in]", "Enter")
    expect(page.get_by_role("table", name="Elements")).to_contain_text("transition")

    # levels, section, road, earthwork: everything follows
    page.keyboard.press("Escape")
    page.locator("[data-test=stage-levels]").click()
    page.click("[data-test=view-long] [data-test=empty-action]")
    expect(page.locator("[data-test=pvi-2]")).to_be_visible()
    expect(page.locator("[data-test=section-areas]")).to_contain_text("cut")
    cut = number(page.locator("[data-test=total-cut]").inner_text())
    assert cut > 100
    page.click("[data-test=stage-sections]")
    page.click("[data-test=part-right-carriageway]")
    page.fill("[data-test=carriageway-lane_width]", "5")
    page.press("[data-test=carriageway-lane_width]", "Enter")
    page.click("[data-test=stage-earthwork]")
    expect(page.locator("[data-test=volumes] tbody tr").nth(10)).to_be_visible()
    expect(page.locator("[data-test=total-cut]")).not_to_contain_text(f"{cut:.0f}")
    with page.expect_download() as csv:
        page.click("[data-test=volumes-csv]")
    assert "Sum of cut m3" in Path(csv.value.path()).read_text(encoding="utf-8-sig")

    # sheets
    page.click("[data-test=stage-sheets]")
    expect(page.locator("[data-test=sheet-plan-1]")).to_be_visible()
    with page.expect_download() as sheet:
        page.click("[data-test=sheet-pdf]")
    document = pdfium.PdfDocument(sheet.value.path())
    assert "First road" in document[0].get_textpage().get_text_range()
    document.close()

    # three steps back, and everything is still there after a reload
    project = Project.objects.get(name="First road")
    before = LedgerEntry.objects.filter(project=project, state="done").count()
    for _ in range(3):
        label = page.locator("[data-test=undo]").get_attribute("title")
        page.keyboard.press("Control+z")
        expect(page.locator("[data-test=undo]")).not_to_have_attribute("title", label or "")
    assert (
        LedgerEntry.objects.filter(project=project, state="undone").count()
        == 3
        == before - LedgerEntry.objects.filter(project=project, state="done").count()
    )
    page.reload()
    page.click("[data-test=stage-line]")
    expect(page.locator("[data-test=pi-3-radius]")).to_have_value("110.00")
    expect(page.locator("[data-test=pi-2-spiral_in]")).to_have_value("0.00")
    assert (
        RoadPI.present.filter(road__project=project).count() == 4 and not RoadPVI.present.filter(road__project=project).exists()
    )
