"""Lines of drawings against what they were drawn from; drawings by ezdxf, arcs against its own construction."""

from __future__ import annotations

import io
from typing import Any

import ezdxf
import numpy as np
import pytest
from ezdxf.math import ConstructionArc

from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.dxf_lines import read_dxf_lines


def drawing(draw: Any, unit: int = 6) -> bytes:
    doc = ezdxf.new("R2010")
    doc.header["$INSUNITS"] = unit
    draw(doc, doc.modelspace())
    out = io.StringIO()
    doc.write(out)
    return out.getvalue().encode()


def test_straights_and_arcs_drawn_one_by_one_are_one_line_the_way_the_first_was_drawn() -> None:
    arc = ConstructionArc.from_2p_radius((100, 0), (200, 100), 100)  # from due east to due north, to the left

    def draw(doc: Any, msp: Any) -> None:
        msp.add_line((0, 0), (100, 0), {"layer": "Axis"})
        msp.add_line((200, 300), (200, 100), {"layer": "Axis"})  # against the others
        msp.add_arc(tuple(arc.center), arc.radius, arc.start_angle, arc.end_angle, dxfattribs={"layer": "Axis"})
        msp.add_lwpolyline([(0, 50), (60, 50)], dxfattribs={"layer": "Fence"})

    (axis, fence), told = read_dxf_lines(drawing(draw))
    line = axis.alignment
    assert (axis.layer, fence.layer, told) == ("Axis", "Fence", [])
    assert line.length == pytest.approx([100, np.pi * 50, 200]) and line.k0 == pytest.approx([0, -0.01, 0])
    place, azimuth, _ = line.evaluate(np.array([50, 100 + np.pi * 25, 100 + np.pi * 50 + 120]))
    middle = (100 + 100 * np.sin(np.pi / 4), 100 - 100 * np.cos(np.pi / 4))
    assert place == pytest.approx(np.array([(50, 0), middle, (200, 220)]), abs=1e-9)
    assert np.degrees(azimuth) % 360 == pytest.approx([90, 45, 0], abs=1e-9)


@pytest.mark.parametrize("mirrored", [False, True])
def test_bulges_in_feet_mirrored_and_in_blocks_keep_their_true_radius(mirrored: bool) -> None:
    """A bulge of tan(sweep/4) to the left (published DXF reference); seen from below, to the right and with eastings turned."""
    bulge = np.tan(np.radians(60) / 4)

    def draw(doc: Any, msp: Any) -> None:
        block = doc.blocks.new("road")
        more = {"extrusion": (0, 0, -1)} if mirrored else {}
        block.add_lwpolyline([(0, 0, 0), (300, 0, bulge), (800, 0, 0), (900, 0, 0)], format="xyb", dxfattribs=more)
        msp.add_blockref("road", (1000, 2000), dxfattribs={"layer": "Centre"})

    (one,), _ = read_dxf_lines(drawing(draw, unit=2))
    line, foot, side = one.alignment, 0.3048, -1 if mirrored else 1
    assert one.layer == "Centre" and line.k0 == pytest.approx([0, -side / (500 * foot), 0], abs=1e-12)  # chord 500, 60°: R 500
    assert line.start[0] == pytest.approx([1000 * foot, 2000 * foot]) and line.length[1] == pytest.approx(500 * foot * np.pi / 3)
    assert line.evaluate(line.end_station)[0][0] == pytest.approx([(1000 + side * 900) * foot, 2000 * foot])


def test_what_has_no_ends_or_forks_is_told_and_never_joined_at_a_fork() -> None:
    def draw(doc: Any, msp: Any) -> None:
        doc.layers.add("off").off()
        msp.add_lwpolyline([(0, 0), (10, 0), (10, 10)], close=True)
        msp.add_circle((0, 0), 5)
        msp.add_line((0, 0), (9, 9), {"layer": "off"})
        for place in ((100, 0), (0, 90), (-80, 0)):
            msp.add_line((0, 0), place, {"layer": "Fork"})
        for i in range(3000):  # a star
            msp.add_line((500, 500), (500 + 7 * np.cos(i), 500 + 7 * np.sin(i)), {"layer": "Star"})

    lines, told = read_dxf_lines(drawing(draw))
    assert [round(float(d.alignment.length.sum())) for d in lines[:3]] == [100, 90, 80] and len(lines) == 200
    words = " ".join(f.sentence for f in told)
    assert all(w in words for w in ("1 × closed line", "1 × CIRCLE", "1 × object on a layer that is off", "3003 lines; the 200"))
    with pytest.raises(FormatError, match=r"no open straights or arcs.*1 × CIRCLE"):
        read_dxf_lines(drawing(lambda doc, msp: msp.add_circle((0, 0), 5)))
    with pytest.raises(FormatError):
        read_dxf_lines(b"0\nSECTION\n  2\nENTITIES\n0\nLINE\n 10\nabc\n")


def test_a_random_road_cut_into_parts_and_shuffled_comes_back_whole() -> None:
    rng = np.random.default_rng(5)
    for _ in range(30):
        places = np.cumsum(rng.uniform(20, 90, (rng.integers(3, 30), 2)), axis=0) + 412_000
        order = rng.permutation(len(places) - 1)
        turned = rng.random(len(order)) < 0.5
        turned[0] = False

        def draw(doc: Any, msp: Any, order: Any = order, places: Any = places, turned: Any = turned) -> None:
            for i, t in zip(order, turned, strict=True):
                msp.add_line(*(places[[i + 1, i]] if t else places[[i, i + 1]]).tolist())

        (one,), _ = read_dxf_lines(drawing(draw))
        assert one.alignment.start == pytest.approx(places[:-1], abs=1e-6)
