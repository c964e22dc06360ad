"""Files brought in through the acts: a surface with faces stays as it came; breaklines join points; the demo is what it says."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.core.terrain.triangulate import triangulate
from ivoryridge.design.actions.bring_in_file import bring_in_file, preview_file
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Road, Surface
from ivoryridge.design.results.against import design_findings
from ivoryridge.design.results.land import land_findings_of
from ivoryridge.design.results.road import design_road
from ivoryridge.design.results.surface import surface_of
from tests.core.test_terrain import FAR, scattered, triangle_set


def test_a_landxml_surface_keeps_its_own_triangles(project: Any, people: Any) -> None:
    made, _ = triangulate(scattered(200) + FAR)
    keep = np.ones(len(made.triangles), bool)
    keep[:20] = False  # a hole that no triangulation of the points would have
    from ivoryridge.core.terrain.triangulate import surface_from_faces

    holed = surface_from_faces(made.points, made.triangles[keep])
    content = write_landxml(project="P", surfaces=[("Holed", holed)])
    told = preview_file(project, content, "holed.xml")
    assert told["format"] == "LandXML" and told["sets"][0]["faces"] == keep.sum()
    _, surface, _ = bring_in_file(project, people["ben"], content=content, name="holed.xml")
    again, _ = surface_of(assemble_surface(surface))
    assert triangle_set(again.triangles) == triangle_set(holed.triangles)


def test_breaklines_brought_in_later_are_edges_of_the_surface(project: Any, people: Any) -> None:
    surface = Surface.present.get(project=project)
    body = "".join(f"{6_200_050 + 30 * i} {500_120 + 7 * i} {120 + i} " for i in range(6))
    lines = f"<Breaklines><Breakline><PntList3D>{body}</PntList3D></Breakline></Breaklines>"
    xml = f'<LandXML><Surfaces><Surface name="L"><SourceData>{lines}</SourceData></Surface></Surfaces></LandXML>'
    bring_in_file(project, people["ben"], content=xml.encode(), name="lines.xml", surface_id=surface.pk)
    surface.refresh_from_db()
    made, _ = surface_of(assemble_surface(surface))
    at = np.array([[500_120 + 7 * 2.5, 6_200_050 + 30 * 2.5]])
    assert_allclose(read_surface(made, at).elevation, [122.5], rtol=0, atol=1e-6)
    assert len(made.breakline_edges) >= 5


def test_a_file_far_from_the_project_is_told(project: Any) -> None:
    far = b"\n".join(b"%d,%d,50" % (100_000 + 10 * i, 200_000 + 7 * i * i) for i in range(12))
    codes = {f["code"] for f in preview_file(project, far, "far.csv")["findings"]}
    assert "far-from-project" in codes


def test_the_demo_is_believable_and_keeps_its_limits(demo: Any) -> None:
    """Cut and fill balance within a fifth, grades within 6 %, K at least the project's, every slope meets the ground."""
    road = Road.objects.select_related("project", "surface", "template").get(project=demo, name="Link")
    results = design_road(assemble_road(road))
    assert results.problems == {} and results.volumes is not None and results.levels is not None and results.corridor is not None
    cut, fill = results.volumes.cumulative_cut[-1], results.volumes.cumulative_fill[-1]
    assert cut > 50_000 and fill == pytest.approx(cut, rel=0.2)
    pvis = results.levels.pvis
    grades = np.diff([p.elevation for p in pvis]) / np.diff([p.station for p in pvis])
    assert np.abs(grades).max() < demo.greatest_grade
    for p, change in zip(pvis[1:-1], np.abs(np.diff(grades)) * 100, strict=True):
        assert (p.half_in + p.half_out) / change >= demo.least_k
    assert not [f for f in results.corridor.findings if f.severity == "fault"]
    assert 2400 < results.line.end_station < 2500  # type: ignore[union-attr]
    doubts = design_findings(assemble_road(road))
    assert [f.finding.code for f in doubts] == ["radius-desirable", "transition-short"]  # few, and the second is accepted
    assert [d["remark"] for d in road.departures.values()] == ["kept short of the plot boundary east of the stream"]
    lane, slip = (Road.present.get(project=demo, name=name) for name in ("Tarn Lane", "Quarry slip"))
    assert {f.key for f in design_findings(assemble_road(lane))} == set(lane.departures)  # it is accepted as it lies
    for side_road in (lane, slip):
        built = design_road(assemble_road(side_road))
        assert not built.problems and built.corridor is not None
        assert not [f for f in built.corridor.findings if f.severity == "fault"]
        assert not [f for f in land_findings_of(assemble_road(side_road)) if f.code == "land-passed"]
    assert not [f for f in design_findings(assemble_road(slip)) if f.finding.severity == "fault"]
