"""Whole tasks of a day's work, every action counted: a click, a drag, a typed value or a key is one, a choice from a list two.

Further tasks are counted where they are tested at length: an own lane part and the last crossing in test_bench, the slip road in
test_side_roads, the T junction and the joined edge in test_junctions.
"""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest
from playwright.sync_api import Locator, Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import ExchangeDocument, Project, Road, RoadPI, Surface, SurveySet
from ivoryridge.design.pictures.earthwork import VolumesAsked, count_volumes
from ivoryridge.design.results.guides import guides_picture
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.surface import survey_arrays
from tests.browser.conftest import seize, until

from .test_slice import draw, survey

TABLE: list[tuple[str, int, int]] = []


@pytest.fixture(scope="module", autouse=True)
def table() -> Iterator[None]:
    yield
    print("\ntask".ljust(62) + "actions  at most")
    for name, actions, most in TABLE:
        print(f"{name:60} {actions:8} {most:8}")


class Hand:
    """A person at the page, counted."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def of(self, what: str) -> Locator:
        return self.page.locator(f"[data-test={what}]")

    def click(self, what: str | Locator) -> None:
        self.actions += 1
        (self.of(what) if isinstance(what, str) else what).click()

    def type(self, what: str | Locator, value: str) -> None:
        self.actions += 1
        field = self.of(what) if isinstance(what, str) else what
        field.fill(value)
        field.press("Enter")

    def key(self, key: str) -> None:
        self.actions += 1
        self.page.keyboard.press(key)

    def choose(self, what: str, **option: str) -> None:
        self.actions += 2
        self.of(what).select_option(**option)  # type: ignore[arg-type]

    def at(self, place: tuple[float, float]) -> None:
        self.actions += 1
        self.page.mouse.click(*place)

    def drag(self, a: tuple[float, float], b: tuple[float, float], *, shift: bool = False) -> None:
        self.actions += 1
        if shift:
            self.page.keyboard.down("Shift")
        self.page.mouse.move(*a)
        self.page.mouse.down()
        self.page.mouse.move((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        self.page.mouse.move(*b)
        self.page.mouse.up()
        if shift:
            self.page.keyboard.up("Shift")

    def done(self, name: str, most: int) -> None:
        TABLE.append((name, self.actions, most))
        assert self.actions <= most, f"{name}: {self.actions} actions, at most {most}"


def middle(what: Locator) -> tuple[float, float]:
    box = what.bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_reports_of_a_line_and_its_annotation(demo_page: Any, demo: Any) -> None:
    hand = Hand(demo_page("ground"))
    hand.click("stage-line")
    hand.type("annotation-scale", "1250")
    expect(hand.of("annotation-scale")).to_have_value("1250")
    hand.click("reports")
    report = hand.of("report")
    expect(report.locator("tbody tr").first).to_contain_text("straight")  # the elements stand there at once
    expect(report.locator("tbody tr")).to_have_count(9)
    hand.click("report-deviation")
    survey_set, layer = next(
        (s, la)
        for s in SurveySet.present.filter(project=demo)
        for la in s.layers
        if la["type"] != "point" and la["count"] > 1 and la["code"] != "LAND"
    )
    hand.choose("report-measured", value=f"{survey_set.pk}|{layer['code']}")
    hand.choose("report-measured-line", value="1")
    hand.type("report-interval", "8")
    expect(hand.of("report").locator("p").first).to_contain_text("one every 8 m")
    asked: list[str] = []
    hand.page.on("request", lambda r: asked.append(r.url) if "/reports/" in r.url else None)
    hand.click("layout-1")
    expect(hand.of("layout-1")).to_have_attribute("aria-pressed", "true")
    rows = report.locator("tbody tr")
    expect(rows.first).to_be_visible()
    assert asked == []  # another layout computes nothing anew
    with hand.page.expect_download() as download:
        hand.of("report-csv").click()
    told = pd.read_csv(io.BytesIO(download.value.path().read_bytes()), encoding="utf-8-sig")
    inner = [c for c in told["Chainage m"] if abs(c % 8) < 1e-6]
    assert len(inner) >= len(told) - 2 and told["Offset m"].abs().is_monotonic_decreasing
    assert rows.count() == len(told)
    hand.done("reports of a line, deviations every 8 m, annotation", 10)


def test_a_document_is_looked_at_merged_and_seen_in_space(demo_page: Any, demo: Any) -> None:
    """Thirty levels of the document are wrong in one way: they are answered as one group with its count."""
    owner = demo.memberships.get(role="owner").user
    latest = ExchangeDocument.objects.filter(project=demo, name="spots.csv").order_by("-version").first()
    assert latest is not None
    lines = bytes(latest.content).decode().splitlines()
    for i in range(60, 60 + 30 * 40, 40):
        e, n, _, *rest = lines[i].split(";")
        lines[i] = ";".join([e, n, "0.000", *rest])
    latest.content = "\n".join(lines).encode()
    latest.save()
    assert owner
    hand = Hand(demo_page("ground"))
    hand.click(hand.page.locator("[data-test=document].newer [data-test=take]"))
    expect(hand.of("difference-told")).to_contain_text("have another level")
    expect(hand.of("inventory")).to_contain_text("points")
    expect(hand.page.get_by_label("Quick plan of the file")).to_be_visible()
    expect(hand.page.locator("[data-test^=role-]").first).to_be_visible()
    hand.click("import-accept")
    group = hand.of("ground-findings")
    expect(group.first).to_contain_text("alike", timeout=60_000)
    count = int(group.first.locator("b").first.inner_text().split()[0])
    assert count >= 25
    hand.click(group.first.locator("[data-test=leave-out]"))
    expect(hand.page.get_by_text(f"{count} alike")).to_have_count(0, timeout=60_000)
    surface = Surface.present.get(project=demo, name="Existing ground")
    others = hand.of("merge-with").locator("option").all_text_contents()
    hand.choose("merge-with", label=others[1])
    hand.click("merge")
    hand.type("fill-area", "300")
    until(hand.page, lambda: Surface.objects.get(pk=surface.pk).fill_area == 300)
    assert len(Surface.objects.get(pk=surface.pk).sources) > len(surface.sources)
    hand.click("ground-model")
    expect(hand.page.locator("[data-test=view-model] canvas")).to_be_visible()
    hand.done("a document looked at, merged, holes filled, in the model", 8)


def test_layers_that_are_in_are_sorted_by_a_rule_with_height_colours_as_proof(demo_page: Any, demo: Any) -> None:
    hand = Hand(demo_page("ground"))
    lines = SurveySet.present.get(project=demo, name="lines.dxf")
    hand.click("rules")
    there = hand.of("rule-pattern").count()
    hand.click("add-rule")
    hand.actions += 1
    hand.of("rule-pattern").nth(there).fill("K-SKETCH*")
    hand.actions += 2
    hand.of("rule-role").nth(there).select_option("background")
    hand.click("save-rules")
    until(hand.page, lambda: SurveySet.objects.get(pk=lines.pk).roles.get("CAD line/K-SKETCH 7") == "background")
    expect(hand.of("told").last).to_contain_text("sorted anew")
    hand.click("layers")
    hand.choose("terrain-colours", value="bands")
    hand.done("layers sorted by a rule, those that are in too", 9)


def test_two_guides_and_the_whole_profile_lowered_with_pvis_on_crossings(demo_page: Any, demo: Any) -> None:
    hand = Hand(demo_page("levels"))
    link = Road.objects.get(project=demo, name="Link")
    old = levels_of(assemble_road(link))
    expect(hand.of("pvi-1")).to_be_visible()
    last = len(old.pvis)
    hand.click("tool-guide")
    hand.type("guide-grade", "0.2")
    hand.at(middle(hand.of("pvi-1").locator("rect")))  # the end is caught, not the handle on it
    expect(hand.of("guide-A")).to_be_attached()
    hand.type("guide-grade", "0.5")
    hand.at(middle(hand.of(f"pvi-{last}").locator("rect")))
    expect(hand.of("guide-B")).to_be_attached()
    hand.choose("guide-kind", value="profile")
    hand.type("guide-profile", "-0.240")
    expect(hand.page.locator("[data-test^=guide-row-]")).to_have_count(2 + last - 1)
    guides = {g["id"]: g for g in Road.objects.get(pk=link.pk).guides}
    for name, end in (("A", old.pvis[0]), ("B", old.pvis[-1])):
        assert (guides[name]["station"], guides[name]["level"]) == pytest.approx((end.station, end.elevation), abs=1e-3)
    names = sorted(set(guides) - {"A", "B"})
    hand.click("tool-add-pvi")
    before = hand.page.locator("[data-test^=pvi-] rect").count()
    found = guides_picture(assemble_road(Road.objects.get(pk=link.pk)), old)["crossings"]
    far = [c for c in found if c[0] in "AB" and c[1] in names and min(abs(c[2] - p.station) - p.half_in for p in old.pvis) > 5]
    chosen = [f"crossing-{a}-{b}" for a, b, *_ in far[:2]]
    assert len(chosen) == 2
    for k, name in enumerate(chosen, 1):
        hand.at(middle(hand.of(name)))
        expect(hand.page.locator("[data-test^=pvi-] rect")).to_have_count(before + k)
    now = levels_of(assemble_road(Road.objects.get(pk=link.pk)))
    kept = {(p.station, p.elevation) for p in old.pvis}
    for p in (q for q in now.pvis if (q.station, q.elevation) not in kept):  # 0.240 m under the old grades, to the last digit
        a, b = next((x, y) for x, y in zip(old.pvis, old.pvis[1:], strict=False) if x.station <= p.station <= y.station)
        there = a.elevation + (b.elevation - a.elevation) * (p.station - a.station) / (b.station - a.station)
        assert p.elevation == pytest.approx(there - 0.24, abs=1e-6)
    hand.done("two guides, the whole profile lowered, PVIs on crossings", 11)


def test_an_end_area_report_over_a_range_between_offsets(demo_page: Any, demo: Any) -> None:
    hand = Hand(demo_page("earthwork"))
    expect(hand.of("volumes").locator("tr.here")).to_be_attached()
    bar = hand.of("route-bar").bounding_box()
    assert bar
    left, width = bar["x"] + 72, bar["width"] - 92
    hand.drag((left + 0.2 * width, bar["y"] + 20), (left + 0.5 * width, bar["y"] + 20), shift=True)
    expect(hand.of("marked-range")).to_be_visible()
    hand.click("volumes-report")
    hand.type("report-interval", "25")
    hand.type("report-left", "-3.65")
    hand.type("report-right", "3.65")
    hand.click("layout-2")
    table = hand.of("report").locator("table")
    expect(table.locator("th").nth(2)).to_contain_text("Cut")
    with hand.page.expect_download() as download:
        hand.of("report-csv").click()
    told = pd.read_csv(io.BytesIO(download.value.path().read_bytes()), encoding="utf-8-sig")
    first, last = told["Chainage m"].iloc[0], told["Chainage m"].dropna().iloc[-1]
    asked = VolumesAsked(first, last, "bends", 25.0, True, (-3.65, 3.65))
    found = count_volumes(assemble_road(Road.objects.get(project=demo, name="Link")), asked)
    total = told.iloc[-1]
    assert total["Cut m³"] == pytest.approx(found.by["bends"][0].sum(), abs=0.06)
    assert total["surfacing m³"] == pytest.approx(found.layers["surfacing"].sum(), abs=0.06)
    hand.done("end areas every 25 m over a range, between offsets", 6)


def test_a_new_project_with_standard_surface_and_labels(people: Any, open_as: Any, tmp_path: Path) -> None:
    page = open_as("anna")
    hand = Hand(page)
    expect(hand.of("new-standard").locator("option").first).to_be_attached()
    hand.actions += 1
    hand.of("new-project").fill("Mill bypass")
    other = hand.of("new-standard").locator("option").last.get_attribute("value")
    hand.choose("new-standard", value=str(other))
    hand.actions += 1
    hand.of("new-speed").fill("70")
    hand.click("create-project")
    hand.click("empty-action")
    hand.actions += 1
    page.set_input_files("[data-test=import-file]", survey(tmp_path / "survey.csv"))
    expect(hand.of("inventory")).to_contain_text("4000 points")
    hand.click("import-accept")
    expect(page.locator("[data-test=view-plan] [data-drawn=true]")).to_be_attached()
    expect(hand.of("surface-name")).to_have_value("Existing ground")
    hand.click("tool-label-path")
    draw(page, [(0.3, 0.5), (0.7, 0.5)])
    hand.actions += 3  # two places and Enter
    expect(hand.of("contour-label").first).to_be_attached()
    project = Project.objects.get(name="Mill bypass")
    assert (project.standard, project.design_speed) == (other, 70)
    hand.done("a new project with standard and speed, surface, labels", 12)


def test_edits_of_a_line(demo_page: Any, demo: Any) -> None:
    from tests.browser.conftest import without_junctions

    without_junctions(demo)
    page = demo_page("line")
    hand = Hand(page)
    link = Road.objects.get(project=demo, name="Link")
    pis = lambda: list(RoadPI.present.filter(road=link))  # noqa: E731
    x, y = seize(page, "[data-test=pi-2]")
    before = pis()[1].easting
    hand.actions += 1
    page.mouse.move(x + 4, y + 3, steps=3)
    page.mouse.up()

    until(page, lambda: pis()[1].easting != before)
    first, second = (middle(hand.of(f"pi-{i}").locator("rect")) for i in (1, 2))
    hand.click("tool-add-pi")
    hand.at((first[0] - 14, first[1] - 8))  # before the start
    expect(hand.of("pi-5")).to_be_visible()
    hand.at(((first[0] + second[0]) / 2, (first[1] + second[1]) / 2 - 4))  # between
    expect(hand.of("pi-6")).to_be_visible()
    end = middle(hand.of("pi-6").locator("rect"))
    hand.at((end[0] + 22, end[1] + 11))  # behind the end
    expect(hand.of("pi-7")).to_be_visible()
    hand.key("Escape")
    hand.type("pi-4-radius", "620")
    hand.type("pi-4-spiral_in", "60")
    until(page, lambda: (pis()[3].radius, pis()[3].spiral_in) == (620, 60))
    hand.click(page.get_by_role("button", name="Delete PI 3", exact=True))
    expect(hand.of("pi-7")).to_have_count(0)
    first_easting = hand.of("pi-1-easting").input_value()
    hand.click("line-reverse")
    expect(hand.of("pi-1-easting")).not_to_have_value(first_easting)  # the page has it, too
    hand.type("road-name", "Link again")
    expect(hand.of("road-select")).to_contain_text("Link again")
    hand.click("line-delete")
    until(page, lambda: Road.objects.get(pk=link.pk).removed)
    hand.key("Control+z")
    until(page, lambda: not Road.objects.get(pk=link.pk).removed)
    hand.done("edits of a line", 14)


def test_both_densities_of_a_breakline_are_set_and_counted(demo_page: Any, demo: Any) -> None:
    surface = Surface.present.get(project=demo, name="Existing ground")
    line = SurveySet.present.get(project=demo, name="lines.dxf")
    arrays = survey_arrays(line.pk)
    number = next(i for i, c in enumerate(arrays.line_codes) if c == "STREAM BED")
    vertices = arrays.lines[number]
    page = demo_page("ground")
    hand = Hand(page)
    canvas = hand.of("plan-canvas")
    box = canvas.bounding_box()
    assert box
    page.mouse.move(box["x"] + 500, box["y"] + 300)
    told = hand.of("cursor-ground").locator("xpath=..")
    expect(told).to_contain_text("E ")

    def reads(at: tuple[float, float]) -> tuple[float, float]:
        page.mouse.move(*at)
        e, n = re.findall(r"[EN] ([\d\u2009.]+)", told.inner_text().replace("\u00a0", " "))
        return float(e.replace("\u2009", "")), float(n.replace("\u2009", ""))

    (e0, n0), (e1, n1) = reads((box["x"] + 300, box["y"] + 200)), reads((box["x"] + 600, box["y"] + 400))
    x = box["x"] + 300 + (vertices[3, 0] - e0) * 300 / (e1 - e0)
    y = box["y"] + 200 + (vertices[3, 1] - n0) * 200 / (n1 - n0)
    hand.at((x, y))
    counts = hand.of("vertex-counts")
    expect(counts).to_contain_text(f"{len(vertices)} vertices of its own, 0 fixed")
    hand.type("line-spacing", "4")
    until(page, lambda: any(e["do"] == "live_spacing" for e in Surface.objects.get(pk=surface.pk).edits))
    lengths = np.hypot(*np.diff(vertices[:, :2], axis=0).T)
    live = int((np.ceil(lengths / 4 - 1e-9) - 1).sum())
    expect(counts).to_contain_text(f"0 fixed, {live} generated")
    field = hand.page.get_by_label("Fixed vertices every")
    hand.type(field, "10")
    hand.click("put-in")
    fixed = int((np.ceil(lengths / 10 - 1e-9) - 1).sum())
    expect(counts).to_contain_text(f"{len(vertices)} vertices of its own, {fixed} fixed")
    hand.done("both densities of a breakline, each sort counted", 6)
