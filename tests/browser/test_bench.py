"""The part bench in the browser: parts built from nothing by mouse and keyboard, and the road that follows them."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import LedgerEntry, Part, Project, Road, Template
from ivoryridge.design.results.corridor import corridor_of
from tests.browser.conftest import seize, until


class Bench:
    """The bench of an open project, driven as a person would; every click, drag, typed value and choice is counted."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def click(self, test: str) -> None:
        self.actions += 1
        self.page.click(f"[data-test='{test}']")

    def px(self, o: float, z: float) -> tuple[float, float]:
        canvas = self.page.locator("[data-test=bench-canvas]")
        expect(canvas).to_have_attribute("aria-busy", "false")
        x0, per_x, y0, per_y = map(float, str(canvas.get_attribute("data-scale")).split())
        box = canvas.bounding_box()
        assert box
        return box["x"] + x0 + o * per_x, box["y"] + y0 - z * per_y

    def put(self, o: float, z: float, name: str) -> None:
        """A node with the tool in hand; it is there when its sentence is."""
        self.actions += 1
        self.page.mouse.click(*self.px(o, z))
        expect(self.page.locator(f"[data-test=rule-{name}]").first).to_be_visible()
        expect(self.page.locator(f"[data-test=node-{name}]")).to_be_attached()

    def at(self, o: float, z: float) -> None:
        self.actions += 1
        self.page.mouse.click(*self.px(o, z))

    def slot(self, node: str, slot: str, text: str) -> None:
        """Type into a slot of a sentence."""
        self.actions += 1
        self.page.click(f"[data-test=slot-{node}-{slot}]")
        field = self.page.locator(f"[data-test=slot-{node}-{slot}-input]")
        field.fill(text)
        field.press("Enter")
        expect(field).to_have_count(0)

    def choose(self, node: str, slot: str, value: str) -> None:
        self.actions += 2
        self.page.click(f"[data-test=slot-{node}-{slot}]")
        self.page.select_option(f"[data-test=slot-{node}-{slot}-select]", value)

    def new_part(self, name: str) -> None:
        self.page.click("[data-test=bench-library]")
        self.page.fill("[data-test=new-part-name]", name)
        self.page.click("[data-test=new-part]")
        expect(self.page.locator("[data-test=bench-subject]")).to_contain_text(name)
        expect(self.page.locator("[data-test=bench-canvas]")).to_be_visible()
        expect(self.page.locator(".inspector h2")).to_contain_text(name)
        self.page.click("[data-test='ground-shallow fill']")
        expect(self.page.locator("[data-test=ground-kind]")).to_have_value("shallow fill")

    def zoom(self, o: float, z: float, times: int) -> None:
        self.page.mouse.move(*self.px(o, z))
        for _ in range(abs(times)):
            before = self.page.locator("[data-test=bench-canvas]").get_attribute("data-scale")
            self.page.mouse.wheel(0, -300 if times > 0 else 300)
            expect(self.page.locator("[data-test=bench-canvas]")).not_to_have_attribute("data-scale", before or "")

    def level(self) -> float:
        expect(self.page.locator("[data-test=bench-canvas]")).to_have_attribute("aria-busy", "false")
        return float(self.page.locator("[data-test=bench-level]").input_value())

    def drag(self, test: str, dx: float, dz: float) -> None:
        self.actions += 1
        (x0, y0), (x1, y1) = self.px(0, 0), self.px(dx, dz)  # waits until it is drawn, so that the handle stays where it is
        x, y = seize(self.page, f"[data-test='{test}']")
        self.page.mouse.move(x + (x1 - x0) / 2, y + (y1 - y0) / 2, steps=3)
        self.page.mouse.move(x + x1 - x0, y + y1 - y0, steps=3)
        self.page.mouse.up()

    def put_into_template(self, part: str, before: str = "") -> None:
        """The newest own part into the road's template, after the part in hand."""
        self.page.select_option("[data-test=bench-subject]", label="Rural single carriageway")
        if before:
            self.page.click(f"[data-test=part-right-{before}]")
        self.page.click("[data-test=bench-library]")
        row = Part.present.order_by("-pk").first()
        self.page.click(f"[data-test=put-part-{row.pk}]")
        expect(self.page.locator("[data-test=part-right-part]")).to_be_visible()


@pytest.fixture
def bench(demo_page: Any) -> Bench:
    page = demo_page("sections")
    expect(page.locator("[data-test=bench-canvas]")).to_be_visible()
    return Bench(page)


def built(name: str) -> Any:
    """The road's corridor as it is saved."""
    return corridor_of(assemble_road(Road.present.get(name=name)))


def has_role(corridor: Any, node: str) -> bool:
    return any(n.endswith(f".{node}") for b in corridor.blocks for n in b.right.names)


def test_a_lane_is_built_from_nothing_and_the_road_follows_it(bench: Bench, demo: Project) -> None:
    """Shown by (a): 3.40 m falling at 3 %, 0.28 m thick, its width a parameter; at most 10 actions for the part."""
    page = bench.page
    first = LedgerEntry.objects.filter(project=demo).order_by("-pk").values_list("pk", flat=True).first() or 0
    bench.new_part("My lane")
    z = bench.level()
    bench.click("tool-bench-node")
    bench.put(3.2, z - 0.15, "n1")
    bench.slot("n1", "across", "3.40")
    bench.slot("n1", "slope", "3 %")
    bench.put(0.0, z - 0.5, "n2")
    bench.slot("n2", "up", "0.28")
    bench.put(3.4, z - 0.102 - 0.27, "n3")
    bench.click("tool-bench-area")
    bench.at(1.7, z - 0.2)
    page.click("[data-test=tab-areas]")
    expect(page.locator("[data-test=area-0]")).to_have_value("surfacing")
    assert bench.actions <= 10
    part = Part.present.get(data__label="My lane")
    assert [n["rule"]["up"] for n in part.data["nodes"][1:]] == [0.28, 0.28]
    assert part.data["runs"][-1] == {"nodes": ["n2", "n3", "n1"], "roles": ["formation"]}
    page.click("[data-test=tab-rules]")
    page.click("[data-test=slot-n1-across]")
    page.click("[data-test=slot-n1-across-promote]")
    page.fill("[data-test=slot-n1-across-name]", "width")
    page.keyboard.press("Enter")
    expect(page.locator("[data-test=slot-n1-across]")).to_have_text("width")
    toe_before = float(built("Link").blocks[0].right.across[-1].max())
    bench.put_into_template("My lane", before="carriageway")
    expect(page.locator("[data-test=told]").filter(has_text="Add a part")).to_be_visible()
    assert has_role(built("Link"), "n1")
    assert float(built("Link").blocks[0].right.across[-1].max()) > toe_before + 3
    for left in range(LedgerEntry.objects.filter(project=demo, state="done", pk__gt=first).count(), 0, -1):  # all of it back
        page.keyboard.press("Control+z")
        until(page, lambda n=left: LedgerEntry.objects.filter(project=demo, state="done", pk__gt=first).count() < n)
    expect(page.locator("[data-test=bench-subject] option").filter(has_text="My lane")).to_have_count(0)
    assert not has_role(built("Link"), "n1") and not Part.present.filter(data__label="My lane").exists()


def test_last_crossing_within_thirty_metres_is_tried_on_a_hump_and_the_road_takes_it(bench: Bench) -> None:
    """Shown by (b), at most 6 actions."""
    page = bench.page
    bench.click("part-right-slope")
    bench.actions += 2
    page.select_option("[data-test=value-crossing]", "first")
    page.select_option("[data-test=value-crossing]", "last")
    bench.actions += 1
    page.fill("[data-test=slope-search]", "30")
    page.keyboard.press("Enter")
    bench.click("ground-hump")
    expect(page.locator("[data-test=passed-by]")).to_contain_text("First crossing would be")
    before = page.locator("[data-test=bench-areas]").inner_text()
    bench.drag("vertex-2", 0.0, -3.0)
    expect(page.locator("[data-test=passed-by]")).to_have_count(0)
    expect(page.locator("[data-test=bench-areas]")).not_to_have_text(before)
    assert bench.actions <= 6

    def saved() -> Template:
        return Template.present.get(name="Rural single carriageway")

    until(page, lambda: [r["values"].get("search") for r in (saved().left[-1], saved().right[-1])] == [30, 30])
    road = assemble_road(Road.present.get(name="Link"))
    assert road.template is not None and road.template.right[-1].value("search") == 30


def test_a_stepped_kerb_with_its_bed_is_built_from_nothing(bench: Bench) -> None:
    """A part the bench was not planned for; the road follows."""
    bench.new_part("Stepped kerb")
    z = bench.level()
    bench.zoom(0.3, z, 3)
    bench.click("tool-bench-node")
    for i, (o, up) in enumerate([(0.3, -0.01), (0.3, 0.11), (0.55, 0.11), (0.55, 0.22), (0.8, 0.22), (0.8, -0.2), (0.0, -0.2)]):
        bench.put(o, z + up, f"n{i + 1}")
    bench.click("tool-bench-area")
    bench.at(0.2, z - 0.15)
    bench.page.click("[data-test=tab-areas]")
    expect(bench.page.locator("[data-test=area-0]")).to_be_visible()
    bench.page.fill("[data-test=area-0]", "concrete")
    bench.page.keyboard.press("Enter")
    bench.put_into_template("Stepped kerb", before="carriageway")
    corridor = built("Link")
    assert has_role(corridor, "n4")
    areas = [a for a in corridor.blocks[0].right.areas if a[1] == "concrete"]
    assert len(areas) == 1 and len(areas[0][2]) == 8


def test_a_ditch_with_a_berm_is_built_by_sentences_and_keyboard(bench: Bench) -> None:
    """Another one, without a click into the drawing: cut alone, with a berm at its outer rim."""
    page = bench.page
    bench.new_part("Ditch and berm")
    for i in range(1, 6):
        page.click("[data-test=add-node-sentence]")
        expect(page.locator(f"[data-test=rule-n{i}]")).to_be_visible()
    rules = [("slope_until_level", {"slope": "1 in 2", "change": "0.6"}), ("across_at_slope", {"across": "0.5", "slope": "0"}),
             ("slope_until_level", {"slope": "1 in 1.5", "change": "0.8"}), ("across_at_slope", {"across": "1.2", "slope": "4 %"}),
             ("slope_until_surface", {"slope": "1 in 2"})]  # fmt: skip
    for i, (kind, slots) in enumerate(rules, 1):
        node = f"n{i}"
        page.click(f"[data-test=rule-{node}] b")
        page.click("[data-test=node-more]")
        page.select_option("[data-test=node-rule]", kind)
        for slot in [*slots, "crossing"] if kind == "slope_until_surface" else slots:
            expect(page.locator(f"[data-test=slot-{node}-{slot}]")).to_be_visible()
        for slot, text in slots.items():
            bench.slot(node, slot, text)
        page.click("[data-test=node-more]")
    bench.choose("n3", "sense", "rise")
    bench.choose("n5", "sense", "rise")
    page.click("[data-test='ground-deep cut']")
    expect(page.locator("[data-test=node-n5]")).to_be_attached()
    expect(page.locator("[data-test=slot-n5-sense]")).to_have_text("rising")
    data = Part.present.get(data__label="Ditch and berm").data
    assert data["end"] == "n5" and data["runs"][0]["nodes"] == ["start", "n1", "n2", "n3", "n4", "n5"]
    bench.put_into_template("Ditch and berm", before="verge")
    assert has_role(built("Link"), "n4")


def test_a_wall_with_backfill_is_built_with_cases(bench: Bench) -> None:
    """The third: a wall where the road lies in cut, a slope where it does not."""
    page = bench.page
    bench.new_part("Wall and backfill")
    page.click("[data-test='ground-deep cut']")
    z = bench.level()
    page.click("[data-test=add-case]")
    page.fill("[data-test=case-name]", "cut")
    page.select_option("[data-test=case-kind]", "in_cut")
    page.click("[data-test=case-keep]")
    expect(page.locator("[data-test=case-form]")).to_have_count(0)
    page.click("[data-test=add-case]")
    page.fill("[data-test=case-name]", "fill")
    page.select_option("[data-test=case-kind]", "otherwise")
    page.click("[data-test=case-keep]")
    expect(page.locator("[data-test=case-fill]")).to_be_visible()
    bench.zoom(1.0, z, -2)
    bench.click("tool-bench-node")
    bench.put(0.0, z + 3.0, "n1")
    bench.put(0.4, z + 3.0, "n2")
    bench.put(0.4, z + 0.0, "n3")
    bench.click("tool-bench-area")
    bench.at(0.2, z + 1.0)
    page.click("[data-test=tab-areas]")
    expect(page.locator("[data-test=area-0]")).to_be_visible()
    page.click("[data-test=tab-rules]")
    page.click("[data-test=tool-bench-node]")
    page.mouse.click(*bench.px(0.4, z + 3.0))  # on from the back of the top
    page.click("[data-test=rule-n2] b")
    page.click("[data-test=add-node-sentence]")
    expect(page.locator("[data-test=rule-n4]")).to_be_visible()
    page.click("[data-test=rule-n4] b")
    page.click("[data-test=node-more]")
    page.select_option("[data-test=node-rule]", "slope_until_surface")
    expect(page.locator("[data-test=slot-n4-crossing]")).to_be_visible()  # the new sentence; the old one has a slope too
    bench.choose("n4", "sense", "rise")
    expect(page.locator("[data-test=slot-n4-sense]")).to_have_text("rising")
    for node in ("n1", "n2", "n3", "n4"):
        page.click(f"[data-test=rule-{node}] b")
        if not page.locator("[data-test=node-case-cut]").count():
            page.click("[data-test=node-more]")
        page.click("[data-test=node-case-cut]")
        expect(page.locator(f"[data-test=rule-{node}] .case-tag")).to_have_text("cut")
        page.click("[data-test=node-more]")
    expect(page.locator("[data-test=case-holds]")).to_contain_text("cut holds here")
    page.click("[data-test='ground-deep fill']")
    expect(page.locator("[data-test=case-holds]")).to_contain_text("fill holds here")
    bench.put_into_template("Wall and backfill", before="verge")
    assert has_role(built("Link"), "n2")


def test_three_slopes_are_taken_from_sentences_through_all_their_cases(bench: Bench) -> None:
    """Shown by (c): the library's slope made the project's own, one number of its sentences changed, the centre lifted over the ground."""
    page = bench.page
    bench.click("part-right-slope")
    bench.click("copy-to-change")
    expect(page.locator(".inspector h2")).to_contain_text("own part")
    bench.click("tab-rules")
    bench.slot("fill_lower", "slope", "1 in 4")
    expect(page.locator("[data-test=slot-fill_lower-slope]")).to_have_text("1 in 4")
    page.click("[data-test=ground-level]")
    holds = page.locator("[data-test=case-holds] b")
    expect(holds).to_contain_text("cut")
    z = bench.level()
    for up, case in ((0.15, "lowest"), (0.5, "low"), (2.0, "full"), (-1.0, "cut")):
        page.fill("[data-test=bench-level]", f"{z + up:.3f}")
        page.keyboard.press("Enter")
        expect(holds).to_have_text(f"{case} holds here")


def test_values_of_a_library_part_are_dragged_and_its_rules_are_not(bench: Bench) -> None:
    page = bench.page
    bench.click("part-right-verge")
    bench.click("tab-rules")
    expect(page.locator("[data-test=slot-verge_edge-across]")).to_be_disabled()
    bench.drag("node-verge_edge", 1.0, 0.0)  # its width is a parameter: the template's value moves

    def width(side: str) -> float | None:
        return getattr(Template.present.get(name="Rural single carriageway"), side)[1]["values"].get("width")

    until(page, lambda: width("left") == width("right") == 3.5)
    page.keyboard.press("Control+z")
    until(page, lambda: width("right") is None)


def test_what_cannot_be_is_said_at_the_slot_and_the_drawing_stays(bench: Bench) -> None:
    page = bench.page
    bench.new_part("Wrong")
    z = bench.level()
    bench.click("tool-bench-node")
    bench.put(2.0, z - 0.05, "n1")
    bench.put(3.0, z - 0.1, "n2")
    wrong = page.locator("[data-test=rule-n2] [role=alert]")
    for text, sentence in (
        ("width + 1", "'width'"),
        ("1/0", "divides by nothing"),
        ("(2", "')' is missing"),
        ("0 - 1", "must not be"),
    ):
        page.click("[data-test=slot-n2-across]")
        page.fill("[data-test=slot-n2-across-input]", text)
        page.keyboard.press("Enter")
        expect(wrong).to_contain_text(sentence)
        expect(page.locator("[data-test=node-n2]")).to_be_attached()
    page.click("[data-test=slot-n2-slope]")
    page.fill("[data-test=slot-n2-slope-input]", "3")
    page.keyboard.press("Enter")
    page.click("[data-test='slot-ask-3 %']")
    expect(page.locator("[data-test=slot-n2-slope]")).to_have_text("3 %")
    bench.choose("n1", "from", "n2")
    expect(page.locator("[data-test=rule-n1] [role=alert]")).to_contain_text("circle")
    page.click("[data-test=rule-n1] b")
    page.click("[data-test=node-delete]")
    expect(page.locator("[data-test=rule-n1] [role=alert]")).to_contain_text("n2")
    page.click("[data-test=node-delete-all]")
    expect(page.locator("[data-test=rule-n1]")).to_have_count(0)
