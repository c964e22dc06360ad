"""Who designs, and the roads of tests of what varies along them."""

from __future__ import annotations

from typing import Any

import pytest

from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.design.actions.edit_profile import set_profile
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.actions.edit_template import create_template, set_rows
from ivoryridge.design.models import Road, Template


@pytest.fixture
def anna(people: Any) -> Any:
    return people["anna"]


@pytest.fixture
def kerbed(project: Any, road: Road, anna: Any) -> Template:
    """The road has levels, and another template is at hand."""
    set_profile(road, anna, [PVI(0, 103), PVI(480, 106)], label="Levels")
    base = Template.present.get(project=project)
    _, other = create_template(project, anna, name="Kerbed", like=base.pk)
    rows = [
        base.left[0],
        {"id": "kerb", "part": "kerb", "values": {}},
        {"id": "footway", "part": "footway", "values": {}},
        base.left[-1],
    ]
    set_rows(other, anna, revision=other.revision, left=rows, right=rows)
    return Template.objects.get(pk=other.pk)


@pytest.fixture
def slip(project: Any, road: Road, anna: Any, kerbed: Template) -> Road:
    """A road that leaves road A at its start and parts from it slowly on the right."""
    pis = [{"easting": 500_000.0 + 30, "northing": 6_199_994.0}, {"easting": 500_260.0, "northing": 6_199_985.0}]
    _, slip = create_road(project, anna, name="Slip", pis=pis)
    set_profile(slip, anna, [PVI(0, 104), PVI(230, 107)], label="Levels")
    return Road.objects.get(pk=slip.pk)
