"""The area of a junction's arm: the surface between the main road's edge, two returns and the side road, as cross lines span it.

Cross lines run square to the side road's line, straight in level from its crown to the ring; one that meets the main edge first ends
there. Ring, crown and cross lines are edges of a constrained triangulation. docs/formulas.md#patches.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..corridor.zones import UPRIGHT
from ..errors import InputError
from ..terrain.flow import Pond, ponds_of
from ..terrain.surface import Surface
from ..terrain.triangulate import select_triangles, triangulate

Floats = NDArray[np.float64]

__all__ = ["Patch", "PatchLines", "compute_patch", "formation_of", "low_places"]

_SAME = 2e-3  # m along the ring within which a cross line ends on a vertex that is there; below it triangles would be splinters
_PUDDLE = 0.01  # m; on pavement a hollow as deep as this is told (common practice, no source)


@dataclass(frozen=True, slots=True, eq=False)
class PatchLines:
    """The lines that bound and span a patch, all (k, 3) m.

    main : along the main edge from the left return's start to the right one's, left as one looks along the arm away from the main road
    left, right : from the main edge along each return and on along the side road's edge to the cross line that closes the patch
    crown : the side road's centre from the main edge to that cross line
    azimuth : (k,) rad       of the side road, away from the main one, at the crown's places
    """

    main: Floats
    left: Floats
    right: Floats
    crown: Floats
    azimuth: Floats


@dataclass(frozen=True, slots=True, eq=False)
class Patch:
    """The surface of a patch and its ring (k, 3) m, counter-clockwise or not as it came, not closed; ``shares``: for each vertex of the
    ring which line it is of: "main", "left", "right" or "side"."""

    surface: Surface
    ring: Floats
    shares: tuple[str, ...]

    @property
    def area(self) -> float:
        return float(shapely.Polygon(self.ring[:, :2]).area)


def compute_patch(lines: PatchLines, name: str = "") -> Patch:
    """Raises InputError where the ring crosses itself, with the place."""
    across = np.array([lines.crown[-1]])
    pieces = [("main", lines.main), ("right", lines.right[1:]), ("side", across), ("left", lines.left[:0:-1])]
    ring = np.concatenate([p for _, p in pieces])
    shares = [name for name, p in pieces for _ in range(len(p))]
    area = shapely.Polygon(ring[:, :2])
    if not area.is_valid:
        easting, northing = (float(x) for x in re.findall(r"-?\d[\d.e+-]*", shapely.is_valid_reason(area))[-2:])
        raise InputError("patch-crosses", junction=name, easting=easting, northing=northing)
    ring, shares, crossings = _with_ends(ring, shares, lines)
    spanned = [np.array([a, b]) for a, b in crossings if np.hypot(*(a - b)[:2]) > _SAME]
    closed = np.concatenate([ring, ring[:1]])
    places = np.concatenate([ring, lines.crown])
    surface, _ = triangulate(places, [closed, lines.crown, *spanned])
    centre = surface.points[surface.triangles, :2].mean(axis=1)
    area = shapely.Polygon(ring[:, :2])
    shapely.prepare(area)
    triangles, neighbours = select_triangles(
        surface.triangles, surface.neighbours, shapely.contains_xy(area, centre[:, 0], centre[:, 1])
    )
    return Patch(Surface(surface.points, triangles, neighbours, surface.breakline_edges), ring, tuple(shares))


def formation_of(patch: Patch, depth: float) -> tuple[Floats, NDArray[np.int64]]:
    """Points (p, 3) m and faces of the underside of a patch ``depth`` m below it. Along returns it comes up to the ring again, as pavement
    ends there; that upright face leans by a hair, so that there is one level a place."""
    points = patch.surface.points - [0.0, 0.0, depth]
    faces = patch.surface.triangles.astype(np.int64)
    n = len(patch.ring)
    bow = np.isin(patch.shares, ("left", "right"))
    inside = bow & np.roll(bow, 1) & np.roll(bow, -1)  # where the ring turns to another line both meet at one place
    way = np.roll(patch.ring, -1, axis=0) - np.roll(patch.ring, 1, axis=0)
    turned = 1.0 if shapely.Polygon(patch.ring[:, :2]).exterior.is_ccw else -1.0
    inward = turned * np.column_stack([-way[:, 1], way[:, 0]]) / np.hypot(way[:, 0], way[:, 1])[:, None]
    own = cKDTree(points[:, :2]).query(patch.ring[:, :2])[1]
    points[own[inside], :2] += UPRIGHT * inward[inside]
    rim = np.where(inside, len(points) + np.cumsum(inside) - 1, own)
    ahead = np.roll(np.arange(n), -1)
    skirt = np.flatnonzero(inside | inside[ahead])
    quads = np.stack([own[skirt], own[ahead[skirt]], rim[ahead[skirt]], rim[skirt]], axis=1)
    both = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    both = both[(both[:, 0] != both[:, 1]) & (both[:, 1] != both[:, 2]) & (both[:, 0] != both[:, 2])]
    return np.concatenate([points, patch.ring[inside]]), np.concatenate([faces, both if turned < 0 else both[:, ::-1]])


def _with_ends(ring: Floats, shares: list[str], lines: PatchLines) -> tuple[Floats, list[str], list[tuple[Floats, Floats]]]:
    """The ring with the ends of cross lines as vertices, and the cross lines from crown to ring."""
    hits: list[tuple[int, float, Floats]] = []  # side of the ring, share along it, place
    spans: list[tuple[Floats, Floats]] = []
    a, b = ring, np.roll(ring, -1, axis=0)
    d = (b - a)[:, :2]
    for place, azimuth in zip(lines.crown[:-1], lines.azimuth[:-1], strict=True):
        for sign in (-1.0, 1.0):
            out = sign * np.array([np.cos(azimuth), -np.sin(azimuth)])
            w = a[:, :2] - place[:2]
            cross = out[0] * d[:, 1] - out[1] * d[:, 0]
            with np.errstate(divide="ignore", invalid="ignore"):
                far = (w[:, 0] * d[:, 1] - w[:, 1] * d[:, 0]) / cross
                share = (w[:, 0] * out[1] - w[:, 1] * out[0]) / cross
            there = np.isfinite(far) & (far > _SAME) & (share >= 0) & (share <= 1)
            if not there.any():
                continue
            i = int(np.argmin(np.where(there, far, np.inf)))
            at = a[i] + share[i] * (b[i] - a[i])
            length = float(np.hypot(*d[i]))
            if share[i] * length < _SAME:
                at = a[i]
            elif (1 - share[i]) * length < _SAME:
                at = b[i]
            else:
                hits.append((i, float(share[i]), at))
            spans.append((place, at))
    out_ring: list[Floats] = []
    out_shares: list[str] = []
    by_side: dict[int, list[tuple[float, Floats]]] = {}
    for i, s, at in hits:
        by_side.setdefault(i, []).append((s, at))
    for i, vertex in enumerate(ring):
        out_ring.append(vertex)
        out_shares.append(shares[i])
        for _, at in sorted(by_side.get(i, []), key=lambda h: h[0]):
            out_ring.append(at)
            out_shares.append(shares[i])
    return np.array(out_ring), out_shares, spans


def low_places(surface: Surface) -> list[Pond]:
    """Hollows of a paved surface that hold water, deeper than a puddle."""
    return [p for p in ponds_of(surface) if p.depth > _PUDDLE]
