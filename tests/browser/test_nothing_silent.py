"""Nothing wrong without a word, in the page: files full of doubts, broken ones, refused values, ranges."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
from playwright.sync_api import Page, expect

from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Membership, Project, Road, Surface
from ivoryridge.design.pictures.earthwork import VolumesAsked, volumes_picture
from ivoryridge.design.results.surface import surface_of
from tests.browser.conftest import until
from tests.core.test_readers import cloud

E0, N0 = 412_000.0, 687_000.0


def corners(level: float, size: float = 60.0) -> str:
    places = [(0, 0), (size, 0), (size, size), (0, size), (size / 2, size / 2)]
    return "".join(f'<P id="{i}">{N0 + n} {E0 + e} {level}</P>' for i, (e, n) in enumerate(places, 1))


def landxml(*surfaces: tuple[str, float, str]) -> bytes:
    body = "".join(
        f'<Surface name="{name}"><Definition><Pnts>{corners(level)}</Pnts><Faces>{faces}</Faces></Definition></Surface>'
        for name, level, faces in surfaces
    )
    return f"<LandXML><Surfaces>{body}</Surfaces></LandXML>".encode()


SOUND = "<F>1 2 5</F><F>2 3 5</F><F>3 4 5</F><F>4 1 5</F>"


def empty_project(people: Any, name: str) -> Project:
    project = Project.objects.create(name=name)
    Membership.objects.create(project=project, user=people["anna"], role="owner")
    return project


def choose(page: Page, name: str, content: bytes) -> None:
    page.click("[data-test=import]")
    page.set_input_files("[data-test=import-file]", {"name": name, "mimeType": "application/octet-stream", "buffer": content})


def accept(page: Page) -> None:
    page.click("[data-test=import-accept]")
    expect(page.get_by_role("dialog")).to_have_count(0, timeout=30_000)


def open_first(open_as: Any) -> Page:
    page = open_as("anna")
    page.locator("[data-test=project]").first.click()
    page.wait_for_selector("[data-test=import]")
    return page


def test_doubled_and_overlapping_faces_are_previewed_told_and_brought_in_clean(open_as: Any, people: Any) -> None:
    project = empty_project(people, "Doubled faces")
    page = open_first(open_as)
    choose(page, "doubled.xml", landxml(("Ground", 50.0, SOUND + "<F>1 2 5</F><F>1 2 3</F>")))
    expect(page.locator("[data-test=import-finding]").filter(has_text="are given twice")).to_be_visible()
    expect(page.locator("[data-test=import-finding]").filter(has_text="lie over each other on 1800.0 m²")).to_be_visible()
    expect(page.locator("[data-test=finding-counts]")).to_contain_text("Wrong: 1")
    expect(page.locator("[data-test=inventory]")).to_contain_text("4 faces")
    accept(page)
    made, _ = surface_of(assemble_surface(Surface.present.get(project=project)))
    assert len(made.triangles) == 4


def test_three_surfaces_of_one_file_end_as_ground_and_rock_apart(open_as: Any, people: Any) -> None:
    project = empty_project(people, "Three surfaces")
    page = open_first(open_as)
    choose(page, "three.xml", landxml(("Ground", 50.0, SOUND), ("Rock", 47.0, SOUND), ("Design", 52.0, SOUND)))
    expect(page.locator("[data-test=import-finding]").filter(has_text="surface of its own unless you say")).to_be_visible()
    page.select_option("[data-test=place-2]", "leave")
    expect(page.locator("[data-test=inventory]").nth(2)).to_have_class(re.compile("left"))
    accept(page)
    assert sorted(Surface.present.filter(project=project).values_list("name", flat=True)) == ["Ground", "Rock"]


def test_a_point_file_with_german_headers_comes_in_right_and_codes_become_lines(open_as: Any, people: Any) -> None:
    project = empty_project(people, "Coded survey")
    rows = [
        f"{k};{N0 + 10 * (k // 5):.0f},5;{E0 + 20 * (k % 5):.0f},25;{50 + k % 5},125;{'BANK' if k // 5 == 2 else 'GRD'}"
        for k in range(25)
    ]
    page = open_first(open_as)
    choose(page, "punkte.csv", ("Nr;Hochwert;Rechtswert;Höhe;Bemerkung\n" + "\n".join(rows)).encode("utf-16"))
    expect(page.locator("[data-test=inventory]")).to_contain_text(re.compile(r"E 412.000\.25"))
    page.select_option("[data-test=role-BANK]", "breakline")
    expect(page.locator("[data-test=role-BANK]")).to_have_value("breakline")
    expect(page.locator("[data-test=import-accept]")).to_be_enabled()
    accept(page)
    made, _ = surface_of(assemble_surface(Surface.present.get(project=project)))
    assert len(made.points) == 25 and len(made.breakline_edges) == 4
    assert np.allclose(made.points[made.breakline_edges.ravel(), 1], N0 + 20.5)


def test_a_broken_laz_is_refused_and_the_server_lives(open_as: Any, people: Any) -> None:
    empty_project(people, "Broken laser file")
    content = bytearray(cloud(300)[0])
    points_at = int.from_bytes(content[96:100], "little")
    table = int.from_bytes(content[points_at : points_at + 8], "little")
    content[table + 4 : table + 8] = b"\xff\xff\xff\xff"
    page = open_first(open_as)
    choose(page, "broken.laz", bytes(content))
    expect(page.locator("[data-test=import-wrong]")).to_contain_text(re.compile("cannot be (read|unpacked)"), timeout=30_000)
    page.set_input_files(
        "[data-test=import-file]", {"name": "sound.laz", "mimeType": "application/octet-stream", "buffer": cloud(300)[0]}
    )
    expect(page.locator("[data-test=inventory]")).to_contain_text("points", timeout=30_000)


def test_a_refused_radius_stays_marked_until_let_go_and_two_readings_are_asked_about(demo_page: Any) -> None:
    page = demo_page("line")
    field = page.locator("[data-test=pi-2-radius]")
    before = field.input_value()
    field.fill("9000")
    field.press("Enter")
    expect(page.locator("[data-test=pi-wrong]")).to_contain_text("overlap")
    expect(field).to_have_value("9000")
    expect(field).to_have_attribute("aria-invalid", "true")
    field.focus()
    field.press("Escape")
    expect(field).to_have_value(before)
    easting = page.locator("[data-test=pi-2-easting]")
    now = easting.input_value()
    easting.fill("412,560")
    easting.press("Enter")
    expect(page.locator("[data-test=reading]")).to_have_text(["412.560", "412560"])
    easting.focus()
    easting.press("Escape")
    expect(easting).to_have_value(now)
    mark = page.locator("[data-test=reading-mark]")
    mark.fill("1+24")
    mark.press("Enter")
    expect(page.locator("[data-test=mark-asked] button")).to_have_text(["1+024", "1+240"])
    page.locator("[data-test=mark-asked] button").nth(1).click()
    expect(mark).to_have_value("1+240.00")


def test_what_one_thing_is_refused_is_never_told_of_another(demo_page: Any) -> None:
    page = demo_page("line")
    page.click("[data-test=pi-2] rect")
    field = page.locator("[data-test=inspect-radius]")
    field.fill("9000")
    field.press("Enter")
    wrong = page.locator(".inspector [role=alert]")
    expect(wrong.first).to_contain_text("overlap")
    page.click("[data-test=pi-3] rect")
    expect(page.locator(".inspector h2").first).to_contain_text("PI 3")
    expect(wrong).to_have_count(0)
    expect(field).to_have_value("500.00")
    # an answer that comes when another thing is chosen already is not shown there
    held: list[Any] = []
    page.route("**/pis/*", lambda route: held.append(route))
    field.fill("8000")
    field.press("Enter")
    page.click("[data-test=pi-2] rect")
    expect(page.locator(".inspector h2").first).to_contain_text("PI 2")
    until(page, lambda: len(held) == 1)
    with page.expect_response("**/pis/*") as answered:
        held[0].continue_()
    assert answered.value.status == 422
    page.evaluate("new Promise(requestAnimationFrame)")
    expect(wrong).to_have_count(0)
    expect(field).to_have_value("600.00")


def test_a_marked_range_has_the_volume_of_its_own_ends(demo: Any, demo_page: Any) -> None:
    page = demo_page("earthwork")
    page.fill("[data-test=reading-mark]", "0+523.3")
    page.press("[data-test=reading-mark]", "Enter")
    page.keyboard.press("Escape")
    page.locator("body").press("r")
    page.fill("[data-test=reading-mark]", "0+871.7")
    page.press("[data-test=reading-mark]", "Enter")
    page.locator("body").press("r")
    road = Road.objects.select_related("project", "surface", "template").get(project=demo, name="Link")
    rows = page.locator("[data-test=volumes] tbody tr")
    expect(rows.first.locator("td").first).to_have_text("0+523.300")
    expect(rows.last.locator("td").first).to_have_text("0+871.700")
    told = volumes_picture(assemble_road(road), VolumesAsked(523.3, 871.7))
    whole = volumes_picture(assemble_road(road), VolumesAsked(530.0, 870.0))
    cut = told["totals"]["bends"]["cut"]
    assert cut + told["totals"]["bends"]["fill"] > whole["totals"]["bends"]["cut"] + whole["totals"]["bends"]["fill"]
    shown = page.locator("[data-test=volume-ways] tbody tr").first.locator("td").nth(1)
    expect(shown).to_have_text(f"{cut:,.1f}".replace(",", "\u2009"))
    page.check("[data-test=way-plain]")
    expect(rows.first.locator("td").first).to_have_text("0+523.300")
