"""Cut and fill areas of sections, and volumes by average end areas and by the prismoidal rule."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..corridor.corridor import Corridor, side_outline

Floats = NDArray[np.float64]

__all__ = [
    "SectionAreas",
    "Volumes",
    "areas_between",
    "average_end_area",
    "compute_areas",
    "compute_volumes",
    "curved_volume",
    "prismoidal_volume",
    "pyramid_volume",
]


@njit(cache=True)
def _areas(du, dz, gu, gz):
    n = len(du)
    out = np.zeros((n, 5))  # cut, fill, moment of cut, moment of fill, width without ground
    for i in range(n):
        ua, za = np.nan, np.nan
        for k in range(du.shape[1]):
            ub, zb = du[i, k], dz[i, k]
            if not (np.isfinite(ub) and np.isfinite(zb)):
                continue
            if np.isfinite(ua) and ub > ua:
                covered = 0.0
                for j in range(gu.shape[1] - 1):
                    p, q = gu[i, j], gu[i, j + 1]
                    if not (q > ua):
                        continue
                    if p >= ub:
                        break
                    if not (np.isfinite(gz[i, j]) and np.isfinite(gz[i, j + 1])):
                        continue
                    lo, hi = max(p, ua), min(q, ub)
                    if hi <= lo:
                        continue
                    covered += hi - lo
                    d0 = gz[i, j] + (gz[i, j + 1] - gz[i, j]) * (lo - p) / (q - p) - (za + (zb - za) * (lo - ua) / (ub - ua))
                    d1 = gz[i, j] + (gz[i, j + 1] - gz[i, j]) * (hi - p) / (q - p) - (za + (zb - za) * (hi - ua) / (ub - ua))
                    if d0 * d1 >= 0.0:
                        area = 0.5 * (d0 + d1) * (hi - lo)
                        moment = (hi - lo) * (d0 * (2 * lo + hi) + d1 * (lo + 2 * hi)) / 6.0
                        if area >= 0:
                            out[i, 0] += area
                            out[i, 2] += moment
                        else:
                            out[i, 1] -= area
                            out[i, 3] -= moment
                    else:
                        mid = lo + (hi - lo) * d0 / (d0 - d1)
                        first, second = 0.5 * d0 * (mid - lo), 0.5 * d1 * (hi - mid)
                        m_first, m_second = first * (2 * lo + mid) / 3.0, second * (mid + 2 * hi) / 3.0
                        if d0 > 0:
                            out[i, 0] += first
                            out[i, 2] += m_first
                            out[i, 1] -= second
                            out[i, 3] -= m_second
                        else:
                            out[i, 1] -= first
                            out[i, 3] -= m_first
                            out[i, 0] += second
                            out[i, 2] += m_second
                out[i, 4] += (ub - ua) - covered
            ua, za = ub, zb
    return out


@dataclass(frozen=True, slots=True, eq=False)
class SectionAreas:
    """Areas of n sections: all (n,) and >= 0.

    cut, fill : m2              between formation and ground
    cut_offset, fill_offset : m offset of their centroids, + right; 0 where the area is 0
    unknown_width : m           width of the formation over which no ground is known
    layers : material -> (n,) m2
    """

    cut: Floats
    fill: Floats
    cut_offset: Floats
    fill_offset: Floats
    unknown_width: Floats
    layers: dict[str, Floats]

    def __post_init__(self) -> None:
        frozen_fields(self, ("cut", "fill", "cut_offset", "fill_offset", "unknown_width"))


def areas_between(design: tuple[Any, Any], ground: tuple[Any, Any]) -> Floats:
    """Cut, fill, their first moments and the width without ground, (n, 5), between design and ground lines.

    ``design`` and ``ground`` are offset (n, k) and level (n, k), increasing; NaN vertices of the design are passed
    over, NaN levels of the ground are breaks. Exact for straight pieces: trapezes, split where the lines cross.
    Source: docs/formulas.md#section-areas.
    """
    arrays = [np.ascontiguousarray(np.atleast_2d(np.asarray(a, float))) for a in (*design, *ground)]
    return _areas(*arrays)


def compute_areas(corridor: Corridor) -> SectionAreas:
    """Cut, fill and layer areas at every section of a corridor."""
    lu, lz = side_outline(corridor.left, "formation")
    ru, rz = side_outline(corridor.right, "formation")
    offset = np.concatenate([-lu[::-1], ru]).T
    level = np.concatenate([lz[::-1], rz]).T
    out = areas_between((offset, level), (corridor.ground.offset, corridor.ground.elevation))
    cut, fill = out[:, 0], out[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        cut_offset = np.where(cut > 1e-9, out[:, 2] / cut, 0.0)
        fill_offset = np.where(fill > 1e-9, out[:, 3] / fill, 0.0)
    layers: dict[str, Floats] = {}
    for _, _, columns in corridor.sides():
        for _, material, nodes in columns.areas:
            u, z = columns.across[list(nodes)], columns.level[list(nodes)]
            ahead, back = np.roll(np.arange(len(nodes)), -1), np.roll(np.arange(len(nodes)), 1)
            area = np.abs(0.5 * np.einsum("ij,ij->j", u - u[0], z[ahead] - z[back]))
            layers[material] = layers.get(material, 0.0) + np.nan_to_num(area)
    return SectionAreas(cut, fill, cut_offset, fill_offset, np.where(out[:, 4] > 1e-6, out[:, 4], 0.0), layers)


@dataclass(frozen=True, slots=True, eq=False)
class Volumes:
    """Volumes between n sections, m3: cut, fill (n - 1,), layers, and running totals (n,) that start at 0."""

    station: Floats
    cut: Floats
    fill: Floats
    layers: dict[str, Floats]
    cumulative_cut: Floats
    cumulative_fill: Floats

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "cut", "fill", "cumulative_cut", "cumulative_fill"))


def average_end_area(station: Any, area: Any) -> Floats:
    """V = L (A1 + A2) / 2 between neighbouring sections, (n - 1,). Source: docs/formulas.md#average-end-area."""
    s, a = np.asarray(station, float), np.asarray(area, float)
    return np.diff(s) * 0.5 * (a[:-1] + a[1:])


def prismoidal_volume(length: Any, first: Any, middle: Any, last: Any) -> Any:
    """V = L (A1 + 4 Am + A2) / 6, Am the area of the real middle section."""
    return np.asarray(length) * (np.asarray(first) + 4 * np.asarray(middle) + np.asarray(last)) / 6.0


def pyramid_volume(length: Any, area: Any) -> Any:
    """V = L A / 3 where a section runs out to nothing."""
    return np.asarray(length) * np.asarray(area) / 3.0


def curved_volume(volume: Any, curvature: Any, offset: Any) -> Any:
    """Volume along a bend: V (1 + e k), e the centroid's offset to the outside, by Pappus.

    ``offset`` is + right and ``curvature`` + right, so the outside of a right bend is left: factor 1 - k * offset.
    """
    return np.asarray(volume) * (1.0 - np.asarray(curvature) * np.asarray(offset))


def compute_volumes(corridor: Corridor, areas: SectionAreas) -> Volumes:
    """Average-end-area volumes between the sections of a corridor, without curve correction."""
    s = corridor.station
    cut, fill = average_end_area(s, areas.cut), average_end_area(s, areas.fill)
    layers = {m: average_end_area(s, a) for m, a in areas.layers.items()}
    zero = np.zeros(1)
    return Volumes(s, cut, fill, layers, np.concatenate([zero, np.cumsum(cut)]), np.concatenate([zero, np.cumsum(fill)]))
