"""Roads that are odd and honest: nothing on one side, one side only over a range."""

from __future__ import annotations

from typing import Any

import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.design.actions.edit_along import add_variation
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import change_road
from ivoryridge.design.actions.edit_template import create_template, set_rows
from ivoryridge.design.models import Road, SheetSet, Template


@pytest.mark.parametrize("over_all", [True, False])
def test_a_road_with_nothing_on_one_side_is_drawn_counted_and_given_out(
    project: Any, road: Any, people: Any, client_of: Any, over_all: bool
) -> None:
    anna = people["anna"]
    set_profile(road, anna, [PVI(0, 103), PVI(480, 106)], label="Levels")
    base = Template.present.filter(project=project).first()
    _, one = create_template(project, anna, name="One side")
    set_rows(one, anna, revision=one.revision, left=[], right=list(base.right))
    road = Road.objects.get(pk=road.pk)
    if over_all:
        change_road(road, anna, revision=road.revision, values={"template_id": one.pk})
    else:
        stretch = {"kind": "stretch", "template_id": one.pk, "station_from": 100.0, "station_to": 200.0}
        add_variation(road, anna, values={**stretch, "blend_from": {"length": 20.0}})
    client = client_of("anna")
    at = f"/api/roads/{road.pk}"
    sheets = SheetSet.present.get(road=road).pk
    told = client.get(f"{at}/design").json()
    assert not told["problems"] and told["earthwork"]["layers"]
    drawn = client.get(f"{at}/section?station=150").json()
    assert [bool(s["links"]) for s in drawn["sides"]] == [False, True] and drawn["layers"]
    for address in (
        f"{at}/model", f"{at}/volumes?interval=20", f"{at}/land", f"{at}/sight", f"/api/projects/{project.pk}/landxml",
        f"/api/sheet-sets/{sheets}/sections.dxf", f"/api/sheet-sets/{sheets}/plan.svg?number=1",
    ):  # fmt: skip
        answer = client.get(address)
        assert answer.status_code == 200, (address, answer.content[:200])
