"""Land that the demo's road takes, its boundary through newer files; and what a drawn line becomes at once."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_project import change_project
from ivoryridge.design.actions.edit_road import draw_road
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.demo.landscape import mapping_dxf
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import LedgerEntry, Project, Road, SurveySet
from ivoryridge.design.pictures.land import land_picture
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.land import land_findings_of
from ivoryridge.design.results.line import line_of


def passed(road: Road) -> list[Any]:
    return [f for f in land_findings_of(assemble_road(road)) if f.code == "land-passed"]


def test_the_land_boundary_is_kept_with_its_survey_and_what_passes_it_is_found(demo: Any) -> None:
    """The demo's boundary comes to 18 m of the centre at one field; a newer mapping without it leaves the lines of before."""
    user = demo.memberships.get(role="owner").user
    link = Road.present.get(project=demo, name="Link")
    found = passed(link)
    (block,) = corridor_at(assemble_road(link), [800.0]).blocks
    over = max(float(block.right.across[i, 0]) for i, r in enumerate(block.right.roles) if r == "toe")
    chord = 618 * np.cos(79 / 1200) / np.cos(10.5 / 600) - 600  # from 0+771 to 0+850, 18 m outside of a bend of 600 m
    assert [f.params["side"] for f in found] == ["right"]
    assert found[0].params["value"] == pytest.approx(over - chord, abs=0.02)
    take = land_picture(assemble_road(link))
    project = Project.objects.get(pk=demo.pk)
    change_project(project, user, revision=project.revision, values={"land": {**project.land, "margin": 0.0}})
    bare = land_picture(assemble_road(link))
    around = sum(float(np.hypot(*np.diff(np.array(r), axis=0).T).sum()) for r in bare["rings"])
    assert take["area"] - bare["area"] == pytest.approx(2.0 * around, rel=0.02)
    project.refresh_from_db()
    mapping = SurveySet.present.get(pk=project.land["survey"])
    with pytest.raises(BadValue, match="no line on the layer 'NOTHING'"):
        change_project(project, user, revision=project.revision, values={"land": {"survey": mapping.pk, "layer": "NOTHING"}})
    surface = next(x for x in demo.surfaces.all() if mapping.pk in x.sources)
    _, _, told = bring_in_file(
        demo, user, content=mapping_dxf(), name="mapping.dxf", surface_id=surface.pk, replaces=(mapping.pk,)
    )
    project.refresh_from_db()
    assert project.land["survey"] != mapping.pk and not any("version before" in t for t in told)
    assert [f.params["value"] for f in passed(link)] == [found[0].params["value"]]
    change_project(project, user, revision=project.revision, values={"land": {**project.land, "layer": "FENCE"}})
    assert any("not closed" in f["sentence"] for f in road_picture(assemble_road(link))["findings"])


def test_a_drawn_road_has_its_profile_and_its_sections_in_one_act(demo: Any) -> None:
    user = demo.memberships.get(role="owner").user
    entries = LedgerEntry.objects.filter(project=demo).count()
    places = line_of(assemble_road(Road.present.get(project=demo, name="Link"))).evaluate([300.0, 600.0, 900.0])[0] + [0.0, 15.0]
    pis = [{"easting": float(e), "northing": float(n)} for e, n in places]
    _, corners, told = draw_road(demo, user, name="Corners", pis=pis)
    assert told == ["Give its bends radii; then Levels fits a profile to the ground."] and not assemble_road(corners).pvis
    entries += 1
    pis[1]["radius"] = 400.0
    _, drawn, told = draw_road(demo, user, name="Drawn", pis=pis)
    assert "Its profile is fitted to the ground" in told[0]
    made = corridor_of(assemble_road(drawn))
    assert len(made.station) > 10 and LedgerEntry.objects.filter(project=demo).count() == entries + 1
    undo(demo, user)
    assert not Road.present.filter(pk=drawn.pk).exists()
    far = [{"easting": 1000.0, "northing": 1000.0}, {"easting": 1500.0, "northing": 1000.0}]
    _, off, told = draw_road(demo, user, name="Far", pis=far)
    assert "no profile yet" in told[0] and not assemble_road(off).pvis
