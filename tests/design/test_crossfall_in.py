"""Crossfall that comes with a line in LandXML: taken, pinned on bends of a line without PIs, kept when that is turned or laid out anew."""

from __future__ import annotations

import re
from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import tangent_points
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.design.actions.edit_course import convert_line, reverse_road
from ivoryridge.design.actions.edit_crossfall import pin_bend, unpin_bend
from ivoryridge.design.actions.lines_in import bring_in_lines
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import NotThere
from ivoryridge.design.results.crossfall import crossfall_of
from ivoryridge.design.results.line import line_of


def turning(road: Road) -> Any:
    found = crossfall_of(assemble_road(Road.objects.get(pk=road.pk)))
    assert found is not None
    return found.diagram


@pytest.fixture
def link(demo: Any) -> Road:
    return Road.objects.get(project=demo, name="Link")


def taken_in(demo: Any, link: Road, change: Any = lambda text: text) -> tuple[Road, list[str]]:
    owner = demo.memberships.get(role="owner").user
    line = line_of(assemble_road(link))
    content = write_landxml(project="x", alignments=[("Link", line, {})], crossfalls={"Link": turning(link)})
    _, (road,), told = bring_in_lines(demo, owner, content=change(content.decode()).encode(), name="link.xml")
    road.template_id = link.template_id
    road.save()
    return road, told


def test_the_diagram_of_a_road_that_goes_out_and_comes_in_is_the_same(demo: Any, link: Road) -> None:
    road, told = taken_in(demo, link)
    assert any("the crossfall of 2 bends is taken from the file, and pinned" in t for t in told)
    s = np.arange(0.0, 2400.0, 3.7)
    assert np.array(turning(road).rates(s)) == pytest.approx(np.array(turning(link).rates(s)), abs=1e-8)


def test_pins_by_number_are_changed_turned_with_the_road_and_handed_to_pis(demo: Any, link: Road) -> None:
    owner = demo.memberships.get(role="owner").user
    road, _ = taken_in(demo, link)
    first = road_picture(assemble_road(Road.objects.get(pk=road.pk)))["crossfall"]["bends"][0]
    pin_bend(
        Road.objects.get(pk=road.pk),
        owner,
        first["pi_id"],
        revision=Road.objects.get(pk=road.pk).revision,
        values={"rate": 0.071},
    )
    assert max(b.rate for b in turning(road).bends) == 0.071
    end = line_of(assemble_road(Road.objects.get(pk=road.pk))).end_station
    s = np.arange(0.5, 2400.0, 11.3)
    left, right = turning(road).rates(s)
    reverse_road(Road.objects.get(pk=road.pk), owner, revision=Road.objects.get(pk=road.pk).revision)
    back = turning(road).rates(end - s)
    assert np.array(back[::-1]) == pytest.approx(np.array([left, right]), abs=1e-6)
    reverse_road(Road.objects.get(pk=road.pk), owner, revision=Road.objects.get(pk=road.pk).revision)
    convert_line(Road.objects.get(pk=road.pk), owner, revision=Road.objects.get(pk=road.pk).revision)
    assert np.array(turning(road).rates(s)) == pytest.approx(np.array([left, right]), abs=1e-4)
    bend = next(b for b in road_picture(assemble_road(Road.objects.get(pk=road.pk)))["crossfall"]["bends"] if b["rate"] == 0.071)
    unpin_bend(Road.objects.get(pk=road.pk), owner, bend["pi_id"], revision=Road.objects.get(pk=road.pk).revision)
    assert max(b.rate for b in turning(road).bends) < 0.071
    with pytest.raises(NotThere):
        pin_bend(
            Road.objects.get(pk=road.pk), owner, 999_999, revision=Road.objects.get(pk=road.pk).revision, values={"rate": 0.05}
        )


@pytest.mark.parametrize(
    ("pattern", "to", "words"),
    [
        (r"<FullSuperelev>[^<]*<", "<FullSuperelev>45.0<", "is steeper or flatter than a road is built"),
        (r"<(FullSuperSta|RunoffSta)>[^<]*<", r"<\1>5.0<", "lies in no bend of the line"),
        (r"<(BeginRunoffSta|FullSuperSta|RunoffSta|StartofRunoutSta)>[^<]*</\1>", "", "without a place lies in no bend"),
    ],
)  # fmt: skip
def test_what_fits_no_bend_is_told_and_left_out(demo: Any, link: Road, pattern: str, to: str, words: str) -> None:
    road, told = taken_in(demo, link, lambda text: re.sub(pattern, to, text))
    assert sum(words in t for t in told) == 2, told
    assert not Road.objects.get(pk=road.pk).crossfall
    line = line_of(assemble_road(Road.objects.get(pk=road.pk)))
    assert tangent_points(line, 1)
