"""An invented landscape and its survey: Sheepback's chalk shoulder between Vellin Quarry and the Marrow ferry road.

Everything here is made up. One seed, so that every machine makes the same files.
"""

from __future__ import annotations

import itertools
from functools import cache
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis

Floats = NDArray[np.float64]

__all__ = [
    "LANE_LAID",
    "LINK_PIS",
    "LINK_PVIS",
    "SORTING_RULES",
    "TARN_PIS",
    "ground_level",
    "lines_dxf",
    "mapping_dxf",
    "measured_lane_csv",
    "spots_again_csv",
    "spots_csv",
    "surface_xml",
]

NAMES: Any = {None: "http://www.landxml.org/schema/LandXML-1.2"}
SEED = 20_260
ORIGIN = np.array([411_800.0, 687_000.0])
# Link: from the quarry gate over Sheepback to the ferry road (E, N, radius, transition in, transition out)
LINK_PIS = [
    (411_820.0, 687_240.0, 0.0, 0.0, 0.0),
    (412_560.0, 686_880.0, 600.0, 75.0, 75.0),
    (413_330.0, 687_010.0, 500.0, 90.0, 60.0),
    (414_100.0, 686_690.0, 0.0, 0.0, 0.0),
]

SORTING_RULES = [
    {"pattern": pattern, "type": "", "role": role}
    for pattern, role in (
        ("STREAM*", "breakline"), ("LANE EDGE", "breakline"), ("QUARRY*", "breakline"), ("WALL", "breakline"),
        ("BUILDING", "background"), ("HEDGE", "background"), ("FENCE", "background"), ("POND", "background"),
        ("PLOT", "background"), ("LAND", "background"), ("TREE", "background"),
    )
]  # fmt: skip

# Tarn Lane as it was drawn in years past; the measured centre lies up to two decimetres beside it
TARN_PIS = [
    (412_535.0, 686_749.8, 0.0, 0.0, 0.0),
    (412_548.5, 686_819.0, 575.0, 0.0, 0.0),
    (412_651.6, 687_041.2, 580.0, 0.0, 0.0),
    (412_668.6, 687_128.8, 0.0, 0.0, 0.0),
]
# and as it lies
MEASURED_LANE_PIS = [
    (412_535.1, 686_749.8, 0.0, 0.0, 0.0),
    (412_548.7, 686_819.1, 540.0, 0.0, 0.0),
    (412_651.5, 687_041.0, 555.0, 0.0, 0.0),
    (412_668.6, 687_128.8, 0.0, 0.0, 0.0),
]
LANE_LAID = (250.0, 350.0)  # stations of Tarn Lane between which it is laid over
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


@cache
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
    lines += _faults(places, level, number + 4)
    return ("\n".join(lines) + "\n").encode()


def spots_again_csv() -> bytes:
    """The surveyor's second version: the points east of the stream measured again after the wet spring, some lower."""
    rng = np.random.default_rng(SEED + 2)
    rows = spots_csv().decode().splitlines()
    out = [rows[0]]
    for row in rows[1:]:
        cells = row.split(";")
        try:
            e, n, z = (float(c) for c in cells[1:4])
        except ValueError:
            continue  # the two lines without a level are put right by leaving them out
        if 413_600 < e < 413_720 and n < 686_840 and z > 1:
            cells[3] = f"{z - 0.06 - 0.05 * rng.random():.3f}"
        out.append(";".join(cells))
    return ("\n".join(out) + "\n").encode()


def _faults(places: Floats, level: Floats, number: int) -> list[str]:
    """Well beside the road: three levels never measured, a pole taken for ground, another double, axes changed over."""
    away = _distance_to(_middle(), places)
    side = np.flatnonzero((away > 100) & (away < 135))
    k = side[np.linspace(40, len(side) - 40, 6).astype(int)]
    e, n = (places[k] + 1.9).T
    rows = [(e[i], n[i], 0.0, "ground") for i in range(3)]
    rows += [
        (e[3], n[3], level[k[3]] + 14.6, "ground"),
        (*places[k[4]], level[k[4]] - 0.41, "ground"),
        (n[5], e[5], level[k[5]], "ground"),
    ]
    return [f"{number + i};{a:.3f};{b:.3f};{z:.3f};{code}" for i, (a, b, z, code) in enumerate(rows)]


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


def measured_lane_csv() -> bytes:
    """The centre of Tarn Lane, measured every 10 m with 20 mm of noise; one point was taken at the verge, 0.9 m to the right."""
    rng = np.random.default_rng(SEED + 3)
    lane = alignment_from_pis([PI(*p) for p in MEASURED_LANE_PIS])
    place, azimuth, _ = lane.evaluate(14.0 + 10.0 * np.arange(38))
    middle = _laid(place) + rng.normal(0, 0.02, (len(place), 3))
    middle[24, :2] += 0.9 * np.array([np.cos(azimuth[24]), -np.sin(azimuth[24])])
    return ("Easting,Northing,Level,Code\n" + "".join(f"{e:.3f},{n:.3f},{z:.3f},LANE CENTRE\n" for e, n, z in middle)).encode()


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


@cache
def lines_dxf() -> bytes:
    """3D lines by layer: stream, lane, quarry, and two walls that cross at different levels; one layer that no rule knows."""
    t = np.linspace(0, 1, 9)[:, None]
    walls = [
        _laid(np.array([412_180.0, 687_128.0]) + t * [100.0, 22.0]),
        _laid(np.array([412_226.0, 687_172.0]) + t * [10.0, -62.0]),
    ]
    walls[1][:, 2] += 0.22
    sketch = _laid(np.array([412_950.0, 687_080.0]) + t * [60.0, 25.0])
    rows = [("STREAM BANK" if "bank" in name else "STREAM BED", line) for name, line in _stream_lines()]
    rows += [("LANE EDGE", line) for _, line in _lane_lines()]
    rows += [(name.upper(), line) for name, line in _quarry_lines()]
    return _drawing([*rows, *(("WALL", w) for w in walls), ("K-SKETCH 7", sketch)])


@cache
def mapping_dxf() -> bytes:
    """Buildings, hedges, fences, a pond, plot boundaries, and trees as circles of their crowns: drawn flat, without levels; how high
    a thing stands is its thickness."""
    rng = np.random.default_rng(SEED + 1)
    rows: list[tuple[str, Floats]] = []
    for e, n, w, d, turn in (
        (411_905, 687_150, 14, 9, 0.3),
        (411_935, 687_168, 9, 7, 0.3),
        (414_020, 686_820, 16, 10, -0.4),
        (413_985, 686_845, 8, 8, -0.4),
    ):
        corners = np.array([(-w, -d), (w, -d), (w, d), (-w, d), (-w, -d)]) / 2
        rows.append(("BUILDING", corners @ [[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]] + [e, n]))
    for e, n, de, dn in (
        (412_050, 687_160, 190, 70),
        (412_780, 687_060, 210, -20),
        (413_180, 687_130, 120, 60),
        (413_620, 686_960, 170, -60),
    ):
        t = np.linspace(0, 1, 12)
        rows.append(("HEDGE", np.column_stack([e + t * de, n + t * dn + 3 * np.sin(9 * t)])))
    for e, n, de, dn in ((412_300, 687_060, 260, -30), (413_420, 686_860, 180, 50)):
        rows.append(("FENCE", np.array([(e, n), (e + de / 2, n + dn / 2 + 4), (e + de, n + dn)])))
    angle = np.linspace(0, 2 * np.pi, 25)
    rows.append(("POND", np.column_stack([413_560 + 17 * np.cos(angle), 687_000 + 11 * np.sin(angle)])))
    rows.append(
        ("PLOT", np.array([(411_880, 687_110), (411_985, 687_140), (411_970, 687_205), (411_865, 687_180), (411_880, 687_110)]))
    )
    rows.append(("LAND", _land()))
    trees = np.array([(412_060, 687_190), (413_190, 687_150), (413_640, 686_975)])[rng.integers(3, size=18)] + rng.uniform(
        -28, 28, (18, 2)
    )
    crowns = rng.uniform(2.2, 4.8, 18)
    return _drawing(rows, circles=[("TREE", p, r) for p, r in zip(trees, crowns, strict=True)])


def _land() -> Floats:
    """The boundary of the land for the Link: some 36 m to either side by the field boundaries, nearer to the centre at one field; and
    a strip along Tarn Lane as far as that is laid over."""
    from shapely.geometry import LineString, Polygon

    line = alignment_from_pis([PI(*p) for p in LINK_PIS])
    rng = np.random.default_rng(SEED + 5)
    sides = []
    for sign in (-1.0, 1.0):
        s = np.linspace(line.start_station, line.end_station, 28)
        offset = rng.uniform(33, 46, len(s))
        if sign > 0:  # a field that comes nearer
            before, behind = s < 760, s > 860
            offset = np.concatenate([offset[before], [38.0, 18.0, 18.0, 38.0], offset[behind]])
            s = np.concatenate([s[before], [770.0, 771.0, 850.0, 851.0], s[behind]])
        place, azimuth, _ = line.evaluate(s)
        sides.append(place + (sign * offset)[:, None] * np.stack([np.cos(azimuth), -np.sin(azimuth)], axis=-1))
    ends = [
        (line.evaluate([s])[0][0], line.evaluate([s])[1][0], d)
        for s, d in ((line.start_station, -12.0), (line.end_station, 12.0))
    ]
    first, last = (p + d * np.array([np.sin(a), np.cos(a)]) for p, a, d in ends)
    ring = Polygon([first, *sides[0], last, *sides[1][::-1], first])
    lane = alignment_from_pis([PI(*p) for p in TARN_PIS]).evaluate(np.arange(168.0, LANE_LAID[1] + 12.1, 4.0))[0]
    strip = LineString(lane).buffer(10.0, cap_style="flat", join_style="mitre")
    return np.round(np.array(ring.union(strip).exterior.coords), 2)


_HEIGHTS = {"BUILDING": 6.5, "HEDGE": 1.6, "FENCE": 1.2}  # m


def _drawing(lines: list[tuple[str, Floats]], circles: list[tuple[str, Floats, float]] | None = None) -> bytes:
    import io

    import ezdxf

    drawing = ezdxf.new("R2013", units=6)
    space = drawing.modelspace()
    for layer, line in lines:
        attributes = {"layer": layer, "thickness": _HEIGHTS.get(layer, 0.0)}
        if line.shape[1] == 3:
            space.add_polyline3d(np.round(line, 3).tolist(), dxfattribs={"layer": layer})
        else:
            space.add_lwpolyline(np.round(line, 3).tolist(), dxfattribs=attributes)
    for layer, p, crown in circles or []:
        attributes = {"layer": layer, "thickness": round(2.4 * crown, 1)}
        space.add_circle((round(float(p[0]), 3), round(float(p[1]), 3)), round(crown, 2), dxfattribs=attributes)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


@cache
def surface_xml(which: str) -> bytes:
    """``west`` or ``east``: a flown surface of one half on a 20 m grid; they overlap by 60 m, and east has two small holes."""
    west = which == "west"
    e0, e1, lift = (411_780.0, 412_980.0, 0.0) if west else (412_920.0, 414_140.0, 0.085)
    columns, rows = int((e1 - e0) / 20) + 1, 41
    e, n = np.meshgrid(e0 + 20 * np.arange(columns), 686_560.0 + 20 * np.arange(rows))
    n = n + 0.4 * np.sin(e / 7)
    places = np.column_stack([e.ravel(), n.ravel()])
    z = ground_level(places) + lift
    at = np.arange(columns * rows).reshape(rows, columns)
    quads = np.stack([at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]], axis=-1).reshape(-1, 4)
    if not west:
        middle = places[quads].mean(axis=1)
        keep = np.ones(len(quads), bool)
        for hole in ((413_310, 686_770), (413_790, 687_130)):
            keep[np.argmin(np.hypot(*(middle - hole).T))] = False
        quads = quads[keep]
    root = etree.Element("LandXML", nsmap=NAMES, version="1.2", date="2026-02-11", time="10:30:00")
    etree.SubElement(
        etree.SubElement(root, "Units"), "Metric", linearUnit="meter", areaUnit="squareMeter", volumeUnit="cubicMeter"
    )
    surface = etree.SubElement(etree.SubElement(root, "Surfaces"), "Surface", name=f"Ground {which}")
    definition = etree.SubElement(surface, "Definition", surfType="TIN")
    pnts, faces = etree.SubElement(definition, "Pnts"), etree.SubElement(definition, "Faces")
    for i, (p, level) in enumerate(zip(places, z, strict=True), 1):
        etree.SubElement(pnts, "P", id=str(i)).text = f"{p[1]:.3f} {p[0]:.3f} {level:.3f}"
    for a, b, c, d in (quads + 1).tolist():
        etree.SubElement(faces, "F").text = f"{a} {b} {c}"
        etree.SubElement(faces, "F").text = f"{a} {c} {d}"
    return etree.tostring(root, xml_declaration=True, encoding="UTF-8")
