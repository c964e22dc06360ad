"""Sheets: places read back from the PDF, a DXF that opens without errors, texts that cover nothing."""

from __future__ import annotations

import io
import itertools
from dataclasses import replace
from functools import cache
from typing import Any

import ezdxf
import numpy as np
import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
import shapely
from ezdxf import recover
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.edges import edge_lines
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.errors import InputError
from ivoryridge.core.sheets.cross_sections import draw_cross_sections
from ivoryridge.core.sheets.drawing import Drawing, Map, text_box
from ivoryridge.core.sheets.frame import OtherRoad, RoadToDraw, SheetSettings, compute_frames, plan_window
from ivoryridge.core.sheets.plan_profile import draw_plan_profile, fitting_exaggeration
from ivoryridge.core.sheets.render_dxf import render_dxf
from ivoryridge.core.sheets.render_pdf import render_pdf
from ivoryridge.core.sheets.render_svg import render_svg
from ivoryridge.core.terrain.contour import compute_contours
from ivoryridge.core.terrain.section_cut import cut_polyline
from ivoryridge.core.units import format_station
from tests.core.test_corridor import E0, N0, rural
from tests.core.test_terrain import triangulate

POINT = 25.4 / 72  # mm


def settings(paper: str = "A3", scale: float = 1000.0) -> SheetSettings:
    return SheetSettings(
        project="Somewhere", road="Road", paper=paper, scale=scale, exaggeration=10, section_scale=200, section_interval=50,
        band_interval=20,
        drawing_number="X-1", revision="P1", coordinate_reference="local", chainage_word="Chainage",
        station_text=lambda v, d: format_station(v, decimals=d), section_texts=("slopes", "widths", "names", "layers"),
    )  # fmt: skip


@cache
def road() -> RoadToDraw:
    rng = np.random.default_rng(2)
    xy = rng.uniform([-300, -200], [900, 900], (4000, 2))
    surface, _ = triangulate(np.column_stack([xy + [E0, N0], 100 + 6 * np.sin(xy[:, 0] / 130) + 0.01 * xy[:, 1]]))
    line = alignment_from_pis([PI(E0, N0), PI(E0 + 120, N0 + 420, 250, 50, 40), PI(E0 + 600, N0 + 560)])
    profile_pvis = (PVI(0, 101), PVI.symmetric(380, 110, 120), PVI(line.end_station, 104))
    profile = profile_from_pvis(profile_pvis)
    corridor = compute_corridor(line, profile, rural(), surface, section_stations(line, profile, 10))
    places, _, _ = line.evaluate(np.linspace(0, line.end_station, 300))
    cut = cut_polyline(surface, places)
    xy_c, starts, level = compute_contours(surface, np.arange(90, 120, 1.0))
    return RoadToDraw(
        line, profile, profile_pvis, cut, tuple(edge_lines(corridor)), corridor, (xy_c, starts, np.arange(90, 120, 1.0)[level])
    )


@cache
def sheets(paper: str, scale: float) -> tuple[Drawing, ...]:
    s = settings(paper, scale)
    frames = compute_frames(road().line, s)
    plans = [draw_plan_profile(road(), f, s, count=len(frames)) for f in frames]
    corridor = road().corridor
    return (*plans, *draw_cross_sections(corridor, compute_areas(corridor), s))


def paths_of(page: Any) -> list[np.ndarray]:
    """Vertices in mm of every path on a PDF page."""
    out = []
    for thing in page.get_objects(filter=[raw.FPDF_PAGEOBJ_PATH]):
        points = []
        for i in range(raw.FPDFPath_CountSegments(thing.raw)):
            segment = raw.FPDFPath_GetPathSegment(thing.raw, i)
            x, y = raw.c_float(), raw.c_float()  # type: ignore[attr-defined]
            raw.FPDFPathSegment_GetPoint(segment, x, y)
            points.append((x.value * POINT, y.value * POINT))
        out.append(np.array(points))
    return out


def test_places_on_the_pdf_are_those_of_the_model_within_a_tenth_of_a_millimetre() -> None:
    """Every tangent point in the frame, and the design level there, stands on a drawn line at its place on paper."""
    drawing = sheets("A1", 1000.0)[0]
    document = pdfium.PdfDocument(render_pdf([drawing], title="t"))
    assert_allclose(np.array(document[0].get_size()) * POINT, [841, 594], rtol=0, atol=0.01)
    paths = paths_of(document[0])
    document.close()
    vertices = np.concatenate(paths)
    frame = compute_frames(road().line, settings("A1"))[0]
    stations = [s for s in road().line.stations if frame.start <= s <= frame.end]
    assert len(stations) >= 3
    edge = next(e.points for e in road().edges if (e.side, e.role) == ("left", "pavement edge"))
    for wanted in (road().line.evaluate(stations)[0], edge[:, :2]):
        paper = drawing.maps["plan"].to_paper(wanted)
        x0, y0, x1, y1 = plan_window("A1")
        paper = paper[(paper >= [x0, y0]).all(axis=1) & (paper <= [x1, y1]).all(axis=1)]
        assert len(paper) >= 3
        gaps = np.hypot(*(vertices[:, None] - paper[None]).transpose(2, 0, 1)).min(axis=0)
        assert gaps.max() < 0.1
    profile = drawing.maps["profile"].to_paper(np.column_stack([stations, road().profile.evaluate(stations)[0]]))
    design = max((p for p in paths if len(p) > 100 and p[:, 1].max() < plan_window("A1")[1]), key=len)
    assert_allclose(np.interp(profile[:, 0], design[:, 0], design[:, 1]), profile[:, 1], rtol=0, atol=0.1)


@pytest.mark.parametrize(("paper", "scale"), [("A3", 1000.0), ("A1", 1000.0), ("A3", 2000.0), ("A1", 500.0)])
def test_no_text_covers_another_and_all_stay_on_the_paper(paper: str, scale: float) -> None:
    for d in sheets(paper, scale):
        boxes = [shapely.Polygon(text_box(t)) for t in d.texts if t.layer != "border"]
        tree = shapely.STRtree(boxes)
        a, b = tree.query(boxes, predicate="intersects")
        covered = [
            (d.texts[i].text, d.texts[j].text)
            for i, j in zip(a, b, strict=True)
            if i < j and boxes[i].intersection(boxes[j]).area > 1e-3
        ]
        assert not covered, covered[:5]
        bounds = np.array([box.bounds for box in boxes])
        assert bounds[:, :2].min() > 0 and (bounds[:, 2:].max(axis=0) < [d.width, d.height]).all()


def test_sections_say_slopes_widths_names_and_layers_on_demand() -> None:
    """The rural template's own numbers, where there is room for them; nothing of it unless it is asked for."""
    corridor = road().corridor
    assert corridor is not None
    areas = compute_areas(corridor)
    asked = draw_cross_sections(corridor, areas, settings())
    told = {t.layer: [] for d in asked for t in d.texts}
    for d in asked:
        for t in d.texts:
            told[t.layer].append(t.text)
    sections = len(corridor.station)
    for layer, text in (("slopes", "-2.5 %"), ("widths", "3.65"), ("names", "lane edge"), ("layers", "subbase 0.25")):
        assert told[f"section-{layer}"].count(text) > 1.5 * sections, (layer, text)  # on most of either side
    silent = draw_cross_sections(corridor, areas, replace(settings(), section_texts=()))
    assert not {t.layer for d in silent for t in d.texts} & {f"section-{x}" for x in ("slopes", "widths", "names", "layers")}


def test_text_keeps_its_size_on_paper_at_every_scale() -> None:
    sizes = [{t.size for d in sheets("A3", scale) for t in d.texts if t.layer == "bands"} for scale in (1000.0, 2000.0)]
    assert max(sizes[0]) == max(sizes[1]) == 1.8


def test_dxf_opens_without_errors_and_holds_the_line() -> None:
    drawing = sheets("A3", 1000.0)[0]
    text = render_dxf(drawing)
    document, auditor = recover.read(io.BytesIO(text.encode()))
    assert not auditor.errors
    assert {"centre-line", "ground-line", "design-line", "title"} <= {layer.dxf.name for layer in document.layers}
    design = [e for e in ezdxf.read(io.StringIO(text)).modelspace().query('LWPOLYLINE[layer=="design-line"]')]
    m = drawing.maps["profile"]
    for entity in design:
        model = m.to_model([(p[0], p[1]) for p in entity.get_points()])
        assert_allclose(road().profile.evaluate(model[:, 0])[0], model[:, 1], rtol=0, atol=0.011)  # 0.1 mm at 1:100


def test_svg_is_well_formed_and_as_large_as_the_paper() -> None:
    import xml.etree.ElementTree as ET

    root = ET.fromstring(render_svg(sheets("A1", 1000.0)[0]))
    assert (root.get("width"), root.get("height"), root.get("viewBox")) == ("841mm", "594mm", "0 0 841 594")
    assert len(root.findall("{http://www.w3.org/2000/svg}text")) == len(sheets("A1", 1000.0)[0].texts)


def test_frames_cover_the_road_once_and_maps_go_both_ways() -> None:
    frames = compute_frames(road().line, settings())
    assert frames[0].start == 0 and frames[-1].end == pytest.approx(road().line.end_station)
    assert all(a.end == b.start for a, b in itertools.pairwise(frames))
    m = Map((E0, N0), (100.0, 50.0), (1.0, 1.0), 0.7)
    assert_allclose(m.to_model(m.to_paper([[E0 + 12.5, N0 - 7.25]])), [[E0 + 12.5, N0 - 7.25]], rtol=0, atol=1e-8)
    with pytest.raises(InputError):
        compute_frames(road().line, settings(scale=20.0))


def test_levels_that_need_more_room_lower_the_exaggeration_and_the_scale_says_so() -> None:
    steep = (PVI(0, 100), PVI(road().line.end_station, 160))
    tall = RoadToDraw(road().line, profile_from_pvis(steep), steep, road().ground, (), None, None)
    d = draw_plan_profile(tall, compute_frames(road().line, settings())[0], settings(), count=2)
    m = d.maps["profile"]
    assert m.scale[1] < 10 * m.scale[0]
    assert any(f"levels 1:{1000 / m.scale[1]:g}" in t.text for t in d.texts)


def with_received(mapping: Any = (), others: Any = ()) -> RoadToDraw:
    return replace(road(), mapping=tuple(mapping), others=tuple(others))


def test_levels_stand_in_their_contours_clear_of_the_road_and_of_all_texts() -> None:
    """Each written level is that of the surface at its place, read back through the plan's map."""
    s = settings("A1", 1000.0)
    frames = compute_frames(road().line, s)
    contours = road().contours
    assert contours is not None
    xy, starts, levels = contours
    lines: dict[float, list[Any]] = {}
    for a, b, z in zip(starts[:-1], starts[1:], levels, strict=True):
        lines.setdefault(float(z), []).append(shapely.LineString(xy[a:b]))
    found = 0
    for f in frames:
        d = draw_plan_profile(road(), f, s, count=len(frames))
        centre = shapely.LineString(f.plan.to_paper(road().line.evaluate(np.linspace(f.start, f.end, 200))[0]))
        for t in (t for t in d.texts if t.layer == "contours"):
            middle = text_box(t).mean(axis=0)
            place = shapely.Point(f.plan.to_model(middle)[0])
            assert min(line.distance(place) for line in lines[float(t.text)]) < 1.0
            assert centre.distance(shapely.Polygon(text_box(t))) >= 18.0
            found += 1
    assert found >= 3


def test_mapping_and_other_roads_are_drawn_and_the_legend_tells_what_is_there() -> None:
    s = settings("A1", 1000.0)
    frame = compute_frames(road().line, s)[0]
    middle = road().line.evaluate((frame.start + frame.end) / 2)[0][0]
    hedge = np.array([middle + [-60, -50], middle + [70, -40], middle + [80, 60]])
    lane = OtherRoad("Mill Lane", alignment_from_pis([PI(*(middle + [-90.0, 80.0])), PI(*(middle + [120.0, 70.0]))]))
    bare = draw_plan_profile(road(), frame, s, count=1)
    full = draw_plan_profile(with_received([("HEDGE", hedge)], [lane]), frame, s, count=1)

    def legend(d: Drawing) -> set[str]:
        return {t.text for t in d.texts if t.layer == "legend"}

    assert legend(full) - legend(bare) == {"mapping as received", "other road"}
    drawn = [x.points for x in full.strokes if x.layer == "mapping-HEDGE"]
    assert drawn and shapely.LineString(frame.plan.to_paper(hedge)).buffer(1e-6).covers(shapely.LineString(drawn[0]))
    assert [t.text for t in full.texts if t.layer == "other-roads"] == ["Mill Lane"]
    box = next(x for x in full.strokes if x.layer == "legend" and x.closed)
    centre = frame.plan.to_paper(road().line.evaluate(np.linspace(frame.start, frame.end, 200))[0])
    assert not shapely.Polygon(box.points).intersects(shapely.LineString(centre))


def test_one_scale_of_levels_holds_in_a_whole_set() -> None:
    s = settings("A3", 500.0)
    frames = compute_frames(road().line, s)
    assert len(frames) > 2
    one = fitting_exaggeration(road(), frames, s)
    single = {fitting_exaggeration(road(), [f], s) for f in frames}
    assert one == min(single) and one in single
