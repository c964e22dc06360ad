"""An invented landscape and its survey: Sheepback's chalk shoulder between Vellin Quarry and the Marrow ferry road.

Everything here is made up. One seed, so that every machine makes the same files.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = ["LINK_PIS", "LINK_PVIS", "breaklines_xml", "ground_level", "spots_csv"]

NAMES: Any = {None: "http://www.landxml.org/schema/LandXML-1.2"}
SEED = 20_260
ORIGIN = np.array([411_800.0, 687_000.0])
# Link: from the quarry gate over Sheepback to the ferry road (E, N, radius, transition in, transition out)
LINK_PIS = [
    (411_820.0, 687_240.0, 0.0, 0.0, 0.0),
    (412_560.0, 686_880.0, 600.0, 70.0, 70.0),
    (413_330.0, 687_010.0, 500.0, 80.0, 60.0),
    (414_100.0, 686_690.0, 0.0, 0.0, 0.0),
]

# the designer's profile: station, level, curve length; cut and fill balance within a tenth
LINK_PVIS = [
    (0.0, 54.0, 0.0),
    (560.0, 49.2, 240.0),
    (1040.0, 59.6, 320.0),
    (1690.0, 43.2, 280.0),
    (2060.0, 54.8, 200.0),
    (2417.231, 58.4, 0.0),
]


def ground_level(places: Any) -> Floats:
    """Level (n,) m of the invented ground at places (n, 2)."""
    x, y = (np.asarray(places, float)[:, :2] - ORIGIN).T
    shoulder = 19.5 * np.exp(-(((x - 1010 + 0.25 * y) / 205) ** 2))
    valley = -10.5 * np.exp(-(((x - 1690 - 0.2 * y) / 165) ** 2))
    rolling = 1.1 * np.sin(x / 96 + 0.7) * np.cos(y / 120) + 0.5 * np.sin(x / 37 + y / 51)
    slope = 0.035 * (y - 60) * np.sin(x / 640 + 0.4)
    return 52.0 + shoulder + valley + rolling + slope + _stream_bed(x, y) - 3.0 * x / 2400


def _stream_east(y: Any) -> Any:
    return 1690 + 0.2 * y + 9 * np.sin(np.asarray(y) / 55)


def _stream_bed(x: Any, y: Any) -> Any:
    """The stream's channel: 1.4 m deep, 5 m wide at the top, flat 2 m bottom."""
    d = np.abs(x - _stream_east(y))
    return -1.4 * np.clip((2.5 - d) / 1.5, 0.0, 1.0)


def _middle() -> Floats:
    return np.array([[e, n] for e, n, *_ in LINK_PIS])


def _distance_to(path: Floats, places: Floats) -> Floats:
    best = np.full(len(places), np.inf)
    for a, b in itertools.pairwise(path):
        d = b - a
        t = np.clip(((places - a) @ d) / (d @ d), 0, 1)
        best = np.minimum(best, np.hypot(*(places - a - t[:, None] * d).T))
    return best


def spots_csv() -> bytes:
    """About 9 000 points: number, easting, northing, level, code; a few lines are as doubtful as surveys come."""
    rng = np.random.default_rng(SEED)
    step = 9.2
    e, n = np.meshgrid(np.arange(411_760, 414_160, step), np.arange(686_420, 687_480, step))
    places = np.column_stack([e.ravel(), n.ravel()]) + rng.uniform(-3.2, 3.2, (e.size, 2))
    middle = _middle()
    away = _distance_to(middle, places)
    width = 165 + 45 * np.sin(places[:, 0] / 330)
    places = places[away < width]
    lane = np.concatenate([line[:, :2] for _, line in _lane_lines()])
    places = places[_nearest(lane, places) > 2.0]
    x, y = (places - ORIGIN).T
    places = places[np.abs(x - _stream_east(y)) > 4.0]
    level = ground_level(places) + rng.normal(0, 0.015, len(places))
    lines = ["Point;Easting;Northing;Level;Code"]
    for i, (p, z) in enumerate(zip(places, level, strict=True), 1):
        lines.append(f"{i};{p[0]:.3f};{p[1]:.3f};{z:.3f};ground")
    number = len(places)
    for name in ("quarry gate", "boundary stone", "bench mark"):
        number += 1
        p = places[rng.integers(len(places))] + 0.7
        lines.append(f"{number};{p[0]:.3f};{p[1]:.3f};{ground_level([p])[0]:.3f};{name}")
    # planted faults: a level that is a word, a line without a level, one point measured twice with another level
    p, z = places[4000], level[4000]
    lines.insert(2500, f"{number + 1};{p[0] + 2:.3f};{p[1]:.3f};n/a;ground")
    lines.insert(5100, f"{number + 2};{p[0] + 4:.3f};{p[1]:.3f};;ground")
    lines.append(f"{number + 3};{p[0]:.3f};{p[1]:.3f};{z + 0.32:.3f};ground")
    return ("\n".join(lines) + "\n").encode()


def _nearest(path: Floats, places: Floats) -> Floats:
    from scipy.spatial import cKDTree

    return cKDTree(path).query(places)[0]


def _lane_lines() -> list[tuple[str, Floats]]:
    """Tarn Lane crosses the valley side near 0+820: both edges as 3D lines, 4 m apart."""
    t = np.linspace(-190, 190, 39)
    middle = np.column_stack([412_600 + 0.30 * t + 14 * np.sin(t / 80), 686_930 + t])
    along = np.gradient(middle, axis=0)
    right = np.column_stack([along[:, 1], -along[:, 0]]) / np.hypot(*along.T)[:, None]
    return [(f"lane edge {side}", _laid(middle + off * right)) for side, off in (("left", -2.0), ("right", 2.0))]


def _stream_lines() -> list[tuple[str, Floats]]:
    y = np.linspace(-260, 210, 63)
    lines = []
    for name, off in (("bank top left", -2.5), ("bed left", -1.0), ("bed right", 1.0), ("bank top right", 2.5)):
        lines.append((name, _laid(np.column_stack([ORIGIN[0] + _stream_east(y) + off, ORIGIN[1] + y]))))
    return lines


def _quarry_lines() -> list[tuple[str, Floats]]:
    angle = np.linspace(0.25 * np.pi, 1.2 * np.pi, 18)
    crest = np.column_stack([411_850 + 42 * np.cos(angle), 687_345 + 30 * np.sin(angle)])
    toe = np.column_stack([411_850 + 34 * np.cos(angle), 687_345 + 23 * np.sin(angle)])
    low = _laid(toe)
    low[:, 2] -= 5.5
    return [("quarry crest", _laid(crest)), ("quarry toe", low)]


def _laid(places: Floats) -> Floats:
    return np.column_stack([places, ground_level(places)])


def breaklines_xml() -> bytes:
    """Stream banks, lane edges, quarry crest and toe as the breaklines of a LandXML surface without faces."""
    root = etree.Element("LandXML", nsmap=NAMES, version="1.2", date="2026-03-02", time="09:00:00")
    etree.SubElement(
        etree.SubElement(root, "Units"), "Metric", linearUnit="meter", areaUnit="squareMeter", volumeUnit="cubicMeter"
    )
    surface = etree.SubElement(etree.SubElement(root, "Surfaces"), "Surface", name="Measured lines")
    group = etree.SubElement(etree.SubElement(surface, "SourceData"), "Breaklines")
    makers: list[Callable[[], list[tuple[str, Floats]]]] = [_stream_lines, _lane_lines, _quarry_lines]
    for make in makers:
        for name, line in make():
            b = etree.SubElement(group, "Breakline", brkType="standard", desc=name)
            etree.SubElement(b, "PntList3D").text = " ".join(f"{p[1]:.3f} {p[0]:.3f} {p[2]:.3f}" for p in line)
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True)
