"""A road laid over one that is there: the profile that just keeps its thickness, what is made up and planed off by plain sums."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.design.actions.edit_levels import raise_pvis
from ivoryridge.design.actions.edit_road import change_road
from ivoryridge.design.actions.edit_template import create_template, set_rows
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, Template
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.corridor import corridor_at, corridor_of
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.surface import surface_of

WIDTH, LAYER = 2.5, 0.05


def inputs_of(road: Road) -> Any:
    return assemble_road(Road.objects.get(pk=road.pk))


@pytest.fixture
def laid(project: Any, road: Road, anna: Any, kerbed: Template) -> Road:
    """The road is an overlay, planed by nothing, on the ground as it is."""
    _, template = create_template(project, anna, name="Overlay")
    row = {
        "id": "top",
        "part": "overlay",
        "values": {"width": WIDTH, "surfacing": LAYER},
        "targets": {"existing": {"surface": road.surface_id}},
    }
    set_rows(template, anna, revision=template.revision, left=[row], right=[row])
    road = Road.objects.get(pk=road.pk)
    change_road(road, anna, revision=road.revision, values={"template_id": template.pk})
    return Road.objects.get(pk=road.pk)


def by_sums(inputs: Any, station: float) -> tuple[float, float, float]:
    """Made up, taken off (m2) and the greatest height of the ground over the underside (m) at a section, from readings 5 mm apart."""
    (block,) = corridor_at(inputs, [station]).blocks
    made = off = 0.0
    over = -np.inf
    for columns, sign in ((block.left, -1.0), (block.right, 1.0)):
        edge = columns.index("top.overlay_edge")
        u = np.arange(0.0, float(columns.across[edge, 0]), 0.005) + 0.0025
        top = np.interp(u, columns.across[[0, edge], 0], columns.level[[0, edge], 0]) - LAYER
        right = np.array([np.cos(block.places.azimuth[0]), -np.sin(block.places.azimuth[0])])
        z = read_surface(surface_of(inputs.surface)[0], block.places.place[0] + sign * u[:, None] * right).elevation
        made, off, over = (
            made + 0.005 * np.maximum(top - z, 0).sum(),
            off + 0.005 * np.maximum(z - top, 0).sum(),
            max(over, (z - top).max()),
        )
    return float(made), float(off), float(over)


def test_the_proposed_profile_keeps_the_thickness_everywhere_and_touches_somewhere(laid: Road, anna: Any) -> None:
    _, told = propose_profile(laid, anna, overlay=True)
    assert any("over the least levels on average" in t for t in told)
    now = inputs_of(laid)
    corridor = corridor_of(now)
    assert not [f for f in corridor.findings if f.code == "laid-too-thin"]
    worst = max(by_sums(now, float(s))[2] for s in corridor.station[::3])
    lift = max(float(x.over.max()) for b in corridor.blocks for c in (b.left, b.right) for x in c.upon)
    assert -0.002 <= lift <= 0.002 and worst <= 0.003
    _, volumes = areas_of(now)
    assert volumes.layers["planing"].sum() < 0.05 and volumes.layers["regulating"].sum() > 1.0


def test_lowered_it_is_told_with_place_and_amount_and_the_quantities_are_those_of_plain_sums(laid: Road, anna: Any) -> None:
    propose_profile(laid, anna, overlay=True)
    raise_pvis(laid, anna, rise=-0.03)
    now = inputs_of(laid)
    found = [f for f in corridor_of(now).findings if f.code == "laid-too-thin"]
    assert found and max(f.params["value"] for f in found) == pytest.approx(0.03, abs=0.002)
    assert all("or allow more planing" in f.sentence for f in found)
    for s in np.linspace(5.0, 470.0, 12):
        areas = compute_areas(corridor_at(now, [s]))
        made, off, _ = by_sums(now, float(s))
        assert (areas.layers["regulating"][0], areas.layers["planing"][0]) == pytest.approx((made, off), abs=2e-3)
        assert areas.cut[0] == areas.fill[0] == pytest.approx(0.0, abs=1e-6)


def test_what_may_be_planed_lets_the_profile_down_and_a_road_without_an_overlay_is_told(
    laid: Road, anna: Any, kerbed: Template
) -> None:
    propose_profile(laid, anna, overlay=True)
    high = corridor_of(inputs_of(laid)).level.mean()
    template = Template.objects.get(name="Overlay")
    rows = [{**r, "values": {**r["values"], "planing": 0.04}} for r in template.left]
    set_rows(template, anna, revision=template.revision, left=rows, right=rows)
    propose_profile(Road.objects.get(pk=laid.pk), anna, overlay=True)
    assert high - corridor_of(inputs_of(laid)).level.mean() == pytest.approx(0.04, abs=0.01)
    road = Road.objects.get(pk=laid.pk)
    change_road(road, anna, revision=road.revision, values={"template_id": kerbed.pk})
    with pytest.raises(BadValue, match="is laid upon a road that is there"):
        propose_profile(Road.objects.get(pk=laid.pk), anna, overlay=True)
