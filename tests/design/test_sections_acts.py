"""Acts on parts, templates and pavement structures: what uses them follows, and what cannot be is said and changes nothing."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.portable import read_portable, write_portable
from ivoryridge.design.actions.edit_parts import (
    bring_in_parts,
    change_part,
    change_structure,
    create_part,
    create_structure,
    delete_part,
    delete_structure,
    own_copy,
)
from ivoryridge.design.actions.edit_template import change_template, create_template, delete_template, set_rows
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Part, Road, Structure, Surface, Template
from ivoryridge.design.pictures.parts_file import parts_of
from ivoryridge.design.refusals import BadValue, Refused, Stale
from ivoryridge.design.results.corridor import corridor_at, corridor_of


@pytest.fixture
def template(project: Any, road: Road, anna: Any) -> Template:
    """Of a road that goes from fill into cut."""
    from ivoryridge.core.alignment.vertical import PVI
    from ivoryridge.design.actions.edit_profile import set_profile

    set_profile(road, anna, [PVI(0, 103), PVI(480, 106)], label="Levels")
    return Template.present.get(project=project)


def again(row: Any) -> Any:
    return type(row).objects.get(pk=row.pk)


def built(road: Road) -> Any:
    return corridor_of(assemble_road(again(road)))


def road_surface(project: Any) -> int:
    return int(Surface.present.get(project=project).pk)


def across(road: Road, node: str, side: str = "right") -> Any:
    columns = getattr(built(road).blocks[0], side)
    return columns.across[columns.index(node)]


def test_a_road_follows_its_template_and_undo_takes_both_back(road: Road, template: Template, anna: Any, project: Any) -> None:
    before = across(road, "verge.verge_edge")
    change_template(template, anna, revision=template.revision, side="both", part="verge", values={"width": 4.0})
    assert_allclose(across(road, "verge.verge_edge"), before + 1.5, atol=1e-9)
    kerb = {"id": "kerb", "part": "kerb", "values": {}}
    row = again(template)
    set_rows(row, anna, revision=row.revision, left=row.left, right=[row.right[0], kerb, *row.right[1:]])
    assert_allclose(across(road, "verge.verge_edge"), before + 1.5 + 0.4, atol=1e-9)
    undo(project, anna)
    undo(project, anna)
    assert_allclose(across(road, "verge.verge_edge"), before, atol=0)
    redo(project, anna)
    assert_allclose(across(road, "verge.verge_edge"), before + 1.5, atol=1e-9)


def test_an_own_part_changes_wherever_it_stands(road: Road, template: Template, anna: Any, project: Any) -> None:
    _, own = own_copy(template, anna, revision=template.revision, side="left", part="verge")
    assert [r["part"] for r in again(template).right][1] == own.pk  # both sides had the same
    before = across(road, "verge.verge_edge")
    change_part(own, anna, revision=own.revision, steps=[{"do": "set slot", "node": 0, "slot": "across", "value": "width + 0.5"}])
    assert_allclose(across(road, "verge.verge_edge"), before + 0.5, atol=1e-9)
    with pytest.raises(Refused, match="stands in Rural single carriageway"):
        delete_part(again(own), anna, revision=again(own).revision)
    with pytest.raises(InputError, match=r"divides by nothing|no number"):
        change_part(
            again(own),
            anna,
            revision=again(own).revision,
            steps=[{"do": "set slot", "node": 0, "slot": "across", "value": "1/0"}],
        )
    assert_allclose(across(road, "verge.verge_edge"), before + 0.5, atol=1e-9)


def test_two_people_on_one_part_do_not_overwrite_each_other(template: Template, people: Any, project: Any) -> None:
    _, own = create_part(project, people["anna"], label="Mine", like="verge")
    theirs = again(own)
    step = {"do": "set node", "node": 0, "remark": "anna was here"}
    change_part(own, people["anna"], revision=own.revision, steps=[step])
    with pytest.raises(Stale):
        change_part(theirs, people["ben"], revision=theirs.revision, steps=[{**step, "remark": "ben was here"}])
    assert again(own).data["nodes"][0]["remark"] == "anna was here"


def test_a_section_asked_for_alone_is_the_roads_own_where_values_change_along(road: Road, template: Template, anna: Any) -> None:
    jumps = across(road, "slope.toe")
    change_template(template, anna, revision=template.revision, side="both", part="slope", values={"run_out": 60.0})
    whole = built(road)
    taken, names = whole.blocks[0].right.case_of["slope"]
    cut = taken == names.index("cut")
    assert cut.any() and not cut.all() and not np.array_equal(jumps, across(road, "slope.toe"))
    for i in (0, int(np.flatnonzero(cut)[0]), int(np.flatnonzero(cut)[2]), len(cut) - 1):
        alone = corridor_at(assemble_road(again(road)), [whole.station[i]])
        assert_allclose(alone.blocks[0].right.across[:, 0], whole.blocks[0].right.across[:, i], rtol=0, atol=1e-9)
    i = int(np.flatnonzero(cut)[2])  # and between two of them it lies between them
    between = corridor_at(assemble_road(again(road)), [(whole.station[i] + whole.station[i + 1]) / 2]).blocks[0].right
    columns = whole.blocks[0].right
    depth = columns.level[columns.index("verge.verge_edge")] - columns.level[columns.index("slope.ditch_in")]
    here = between.level[between.index("verge.verge_edge"), 0] - between.level[between.index("slope.ditch_in"), 0]
    assert depth[i] < here < depth[i + 1]


def test_what_is_in_use_is_not_deleted_and_says_where(road: Road, template: Template, anna: Any, project: Any) -> None:
    with pytest.raises(Refused, match="template of A"):
        delete_template(template, anna, revision=template.revision)
    _, structure, told = create_structure(
        project, anna, name="Thick", layers=[{"material": "base", "thickness": 0.9, "least": 0.0, "greatest": 0.4}]
    )
    assert told == ["base is 0.900 m thick; plausible is 0.000 m to 0.400 m."]
    _, other = create_template(project, anna, name="Layered")
    row = {"id": "c", "part": "carriageway_layered", "values": {"structure": str(structure.pk)}}
    set_rows(other, anna, revision=other.revision, left=[], right=[row])
    with pytest.raises(Refused, match="Layered"):
        delete_structure(again(structure), anna, revision=again(structure).revision)
    change_structure(
        structure,
        anna,
        revision=structure.revision,
        values={"layers": [{"material": "base", "thickness": 0.3, "least": 0.0, "greatest": 0.4}]},
    )
    with pytest.raises(BadValue, match="no value called"):
        change_template(template, anna, revision=template.revision, side="left", part="verge", values={"colour": 3.0})
    with pytest.raises(InputError, match="between"):
        change_template(template, anna, revision=template.revision, side="left", part="verge", values={"width": 200.0})


def test_a_swapped_part_keeps_the_values_it_understands(template: Template, anna: Any) -> None:
    change_template(
        template, anna, revision=template.revision, side="right", part="verge", values={"width": 1.8, "crossfall": 0.05}
    )
    row = again(template)
    swapped = [{**r, "part": "footway"} if r["id"] == "verge" else r for r in row.right]
    set_rows(row, anna, revision=row.revision, left=row.left, right=swapped)
    assert again(template).right[1]["values"] == {"width": 1.8, "crossfall": 0.05}
    row = again(template)
    kerbed = [{**r, "part": "kerb"} if r["id"] == "verge" else r for r in row.right]
    set_rows(row, anna, revision=row.revision, left=row.left, right=kerbed)
    assert again(template).right[1]["values"] == {}


def test_parts_and_templates_travel_to_another_project(template: Template, anna: Any, project: Any) -> None:
    _, own = own_copy(template, anna, revision=template.revision, side="left", part="slope")
    row = again(template)
    walls = [{"id": "rock", "part": "rock_slope", "values": {}, "targets": {"rock": {"level": 96.5}}}]
    overlay = {"id": "overlay", "part": "overlay", "values": {}, "targets": {"existing": {"surface": road_surface(project)}}}
    set_rows(row, anna, revision=row.revision, left=[*row.left[:2], *walls], right=[overlay, *row.right])
    name, held = parts_of(project, template=template.pk)
    content = write_portable(held, "ft")
    assert name == "Rural single carriageway" and list(read_portable(content, "x").parts) == [f"part {own.pk}"]
    _, told = bring_in_parts(project, anna, content=content, name="parts.json")
    assert told[1].endswith("existing carriageway of Overlay in Rural single carriageway 2.")
    copy = Template.present.filter(project=project).order_by("-pk").first()
    assert copy is not None and copy.name == "Rural single carriageway 2" and copy.right[3]["part"] != own.pk
    assert copy.left[2]["targets"]["rock"]["level"] == pytest.approx(96.5) and "targets" not in copy.right[0]
    spoilt = json.loads(content)
    spoilt["schema"] = 99
    parts, templates = Part.present.count(), Template.present.count()
    with pytest.raises(InputError, match="newer"):
        bring_in_parts(project, anna, content=json.dumps(spoilt).encode(), name="parts.json")
    assert (Part.present.count(), Template.present.count()) == (parts, templates) and Structure.present.count() == 0
