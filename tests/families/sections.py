"""A second solver of the rural template, one section at a time in plain Python, from the words of its parts; and random roads for it."""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np

from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.template import PlacedPart, Template

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Rural:
    """The values of a rural side: widths and heights m, slopes as the n of 1 in n, falls as ratios."""

    lane: float
    fall: float
    shoulder: float
    shoulder_fall: float
    verge: float
    verge_fall: float
    first_slope: float
    first_width: float
    fill_slope: float
    last_slope: float
    last_height: float
    ditch_slope: float
    ditch_depth: float
    ditch_width: float
    cut_slope: float
    crossing: str
    search: float
    search_from: str

    def parts(self) -> tuple[PlacedPart, ...]:
        slope = {
            k: getattr(self, k)
            for k in ("first_slope", "first_width", "fill_slope", "last_slope", "last_height", "ditch_slope", "ditch_depth", "ditch_width",
                      "cut_slope", "crossing", "search", "search_from")
        }  # fmt: skip
        carriageway = {
            "lane_width": self.lane, "crossfall": self.fall, "shoulder_width": self.shoulder, "shoulder_crossfall": self.shoulder_fall,
        }  # fmt: skip
        return (
            PlacedPart("carriageway", library_part("carriageway"), carriageway),
            PlacedPart("verge", library_part("verge"), {"width": self.verge, "crossfall": self.verge_fall}),
            PlacedPart("slope", library_part("side_slopes"), slope),
        )


def random_rural(rng: np.random.Generator) -> Rural:
    u = rng.uniform
    return Rural(
        lane=u(2.75, 7.5), fall=u(0.0, 0.06), shoulder=u(0, 3), shoulder_fall=u(0.0, 0.06), verge=u(0, 5), verge_fall=u(0.02, 0.1),
        first_slope=u(1, 8), first_width=u(0, 4), fill_slope=u(1, 4), last_slope=u(1, 6), last_height=u(0, 1.5), ditch_slope=u(1, 4),
        ditch_depth=u(0, 1.5), ditch_width=u(0, 2), cut_slope=u(0.5, 3), crossing=str(rng.choice(["first", "last"])), search=u(3, 60),
        search_from=str(rng.choice(["hinge", "centre"])),
    )  # fmt: skip


def template_of(left: Rural, right: Rural) -> Template:
    return Template("random", left.parts(), right.parts())


# --- one section, in words ------------------------------------------------------------------------------------
def level_of(ground: list[Point], u: float) -> float:
    """Ground at an offset; NaN where none is known."""
    for (a, za), (b, zb) in itertools.pairwise(ground):
        if a <= u <= b and np.isfinite(za) and np.isfinite(zb):
            return za if b == a else za + (zb - za) * (u - a) / (b - a)
    return float("nan")


def meets(start: Point, slope: float, ground: list[Point], limit: float, last: bool) -> Point | None:
    """Where a ray that falls comes down on the ground from above, or one that rises comes up to it from below."""
    u0, z0 = start
    side = -1.0 if slope > 0 else 1.0
    found: Point | None = None
    for (a, za), (b, zb) in itertools.pairwise(ground):
        if b <= u0 or not (np.isfinite(za) and np.isfinite(zb)) or a >= limit:
            continue
        if a < u0:
            za += (zb - za) * (u0 - a) / (b - a)
            a = u0
        before = side * (z0 + slope * (a - u0) - za)
        behind = side * (z0 + slope * (b - u0) - zb)
        if before > 1e-9 and behind <= 1e-9:
            u = a + (b - a) * before / (before - behind) if behind < -1e-9 else b
            if u <= limit + 1e-9:
                found = (u, z0 + slope * (u - u0))
                if not last:
                    return found
    return found


def side_of(v: Rural, level: float, ground: list[Point]) -> tuple[list[Point], list[Point], bool]:
    """Finished line and formation of one side, outward, and whether its slope meets the ground; ``ground`` outward too."""
    lane = (v.lane, level - v.lane * v.fall)
    edge = (v.lane + v.shoulder, lane[1] - v.shoulder * v.shoulder_fall)
    hinge = (edge[0] + v.verge, edge[1] - v.verge * v.verge_fall)
    limit = (hinge[0] if v.search_from == "hinge" else 0.0) + v.search
    first = (hinge[0] + v.first_width, hinge[1] - v.first_width / v.first_slope)
    end = (first[0] + v.last_height * v.last_slope, first[1] - v.last_height)
    last = v.crossing == "last"
    slope: list[Point] = []
    fill = hinge[1] > level_of(ground, hinge[0])
    if fill and end[1] > level_of(ground, end[0]):
        toe = meets(end, -1 / v.fill_slope, ground, limit, last)
        slope = [first, *([(toe[0] - v.last_height * v.last_slope, toe[1] + v.last_height), toe] if toe else [])]
    elif fill and first[1] > level_of(ground, first[0]):
        toe = meets(first, -1 / v.last_slope, ground, limit, last)
        slope = [first, *([toe] if toe else [])]
    elif fill:
        toe = meets(hinge, -1 / v.first_slope, ground, limit, False)
        slope = [toe] if toe else []
    else:
        inner = (hinge[0] + v.ditch_depth * v.ditch_slope, hinge[1] - v.ditch_depth)
        outer = (inner[0] + v.ditch_width, inner[1])
        toe = meets(outer, 1 / v.cut_slope, ground, limit, last)
        slope = [inner, outer, *([toe] if toe else [])]
    depth = 0.55  # of the layers
    formation = [(0.0, level - depth), (lane[0], lane[1] - depth), (edge[0], edge[1] - depth), edge, hinge, *slope]
    return [(0.0, level), lane, edge, hinge, *slope], formation, toe is not None


def earth(design: list[Point], ground: list[Point]) -> tuple[float, float]:
    """Cut and fill (m2) between two lines over what both cover: trapezes between all vertices and crossings."""
    u = sorted({p[0] for p in design} | {p[0] for p in ground})
    d, g = np.array(design), np.array(ground)
    lo, hi = max(d[0, 0], g[0, 0]), min(d[-1, 0], g[-1, 0])
    cut = fill = 0.0
    rows = [x for x in u if lo <= x <= hi]
    for a, b in itertools.pairwise(rows):
        if b - a < 1e-12:
            continue
        e = min(1e-9, 0.25 * (b - a))  # beside upright steps
        da, db = (np.interp(x, g[:, 0], g[:, 1]) - np.interp(x, d[:, 0], d[:, 1]) for x in (a + e, b - e))
        if da * db >= 0:
            area = 0.5 * (da + db) * (b - a)
            cut, fill = cut + max(area, 0.0), fill + max(-area, 0.0)
        else:
            t = da / (da - db)
            for one, width in ((da, t * (b - a)), (db, (1 - t) * (b - a))):
                cut, fill = cut + max(0.5 * one * width, 0.0), fill + max(-0.5 * one * width, 0.0)
    return float(cut), float(fill)


def outward(section: Any, sign: float) -> list[Point]:
    """The ground of one side of a section, from the line outward."""
    rows = [(sign * float(o), float(z)) for o, z in section]
    return sorted(rows) if sign < 0 else rows
