"""Cut and fill areas of sections, and volumes by average end areas and by the prismoidal rule."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..corridor.block import Block
from ..corridor.corridor import Corridor
from ..corridor.places import corners, turned_beyond
from ..corridor.zones import given_up_parts, zones_of
from ..geometry.areas import areas_between, closed_areas
from ..section.roles import ZONES

Floats = NDArray[np.float64]

__all__ = [
    "SectionAreas",
    "Volumes",
    "average_end_area",
    "compute_areas",
    "compute_volumes",
    "curved_volume",
    "divides",
    "prismoidal_volume",
    "prismoidal_volumes",
    "pyramid_volume",
]


@dataclass(frozen=True, slots=True, eq=False)
class SectionAreas:
    """Areas of n sections: all (n,) and >= 0.

    cut, fill : m2              between formation and ground
    cut_offset, fill_offset : m offset of their centroids, + right; 0 where the area is 0
    unknown_width : m           width of the formation over which no ground is known
    layers : material -> (n,) m2
    bent : (2, n) m2            cut and fill with every element weighted by 1 - k offset, its length in the bend against the
                                line's; nothing beyond the bend's centre
    layers_bent : material -> (n,) m2, weighted likewise
    layers_moment : material -> (n,) m3, about the line, + right
    """

    cut: Floats
    fill: Floats
    cut_offset: Floats
    fill_offset: Floats
    unknown_width: Floats
    layers: dict[str, Floats]
    bent: Floats
    layers_bent: dict[str, Floats]
    layers_moment: dict[str, Floats]

    def __post_init__(self) -> None:
        frozen_fields(self, ("cut", "fill", "cut_offset", "fill_offset", "unknown_width", "bent"))


def compute_areas(corridor: Corridor, offsets: tuple[float, float] | None = None) -> SectionAreas:
    """Cut, fill and layer areas at every section of a corridor, all of them or what lies between two ``offsets`` (m, + right).

    Of a road laid over another what is made up and taken off is counted whole; between offsets it is left out (``divides``).
    """
    found = [_areas_of(b) if offsets is None else _block_areas(b, offsets) for b in corridor.blocks]
    if len(found) == 1:
        return found[0]

    def row(name: str) -> Floats:
        return np.concatenate([getattr(a, name) for a in found], axis=-1)

    def materials(name: str) -> dict[str, Floats]:  # a block that has no such layer has none of it
        none = [np.zeros(len(a.cut)) for a in found]
        names = dict.fromkeys(m for a in found for m in getattr(a, name))
        return {m: np.concatenate([getattr(a, name).get(m, z) for a, z in zip(found, none, strict=True)]) for m in names}

    return SectionAreas(
        row("cut"), row("fill"), row("cut_offset"), row("fill_offset"), row("unknown_width"), materials("layers"), row("bent"),
        materials("layers_bent"), materials("layers_moment"),
    )  # fmt: skip


def divides(corridor: Corridor) -> bool:
    """Whether all that is counted of a corridor can be divided by offsets."""
    return not any(columns.upon for block in corridor.blocks for _, _, columns, _ in block.sides())


_known: WeakKeyDictionary[Block, SectionAreas] = WeakKeyDictionary()  # as long as the very block is held


def _areas_of(block: Block) -> SectionAreas:
    """Of a block that stayed while others of its road changed, they are there already."""
    found = _known.get(block)
    if found is None:
        found = _known[block] = _block_areas(block)
    return found


def _block_areas(block: Block, offsets: tuple[float, float] | None = None) -> SectionAreas:
    k = block.places.curvature
    limits = offsets or (-np.inf, np.inf)
    ground = block.ground.offset, block.ground.elevation
    out = np.zeros((len(k), 7))
    for offset, level in _formation_lines(block):
        out += areas_between((offset.T, level.T), ground, k, limits)
    cut, fill = out[:, 0], out[:, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        cut_offset = np.where(cut > 1e-9, out[:, 2] / cut, 0.0)
        fill_offset = np.where(fill > 1e-9, out[:, 3] / fill, 0.0)
    rows: dict[str, Floats] = {}  # material -> (3, n): area, weighted for the bend, moment about the line

    def add(material: str, found: Floats) -> None:
        rows[material] = rows[material] + found if material in rows else found

    for side, sign, columns, parts in block.sides():
        gone = given_up_parts(block, side, columns, parts)
        for laid in columns.upon:
            if laid.part in gone or offsets is not None:
                continue
            for material, found in zip(
                (laid.made_up, laid.taken_off), _weighted(laid.areas, sign * laid.moments, k), strict=True
            ):
                add(material, found)
        counted = {(x.part, m) for x in columns.upon for m in (x.made_up, x.taken_off)}
        own: list[tuple[str, tuple[int, ...]]] = []
        for _, material, nodes in columns.areas:
            part = columns.names[nodes[-1]].partition(".")[0]
            if part not in gone and (part, material) not in counted:  # the latter are drawn by their nodes
                own.append((material, nodes))
        if not own:
            continue
        area, moment = closed_areas(columns.across, columns.level, [nodes for _, nodes in own], _outward(sign, offsets))
        for (material, _), found in zip(own, _weighted(area, sign * moment, k), strict=True):
            add(material, found)
    unknown = np.where(out[:, 4] > 1e-6, out[:, 4], 0.0)
    if block.bare:
        cut, fill, cut_offset, fill_offset, unknown = (np.zeros(len(cut)) for _ in range(5))
        out[:, 5:7] = 0.0
    layers, layers_bent, layers_moment = ({m: v[i] for m, v in rows.items()} for i in range(3))
    return SectionAreas(cut, fill, cut_offset, fill_offset, unknown, layers, out[:, 5:7].T, layers_bent, layers_moment)


def _weighted(area: Floats, moment: Floats, k: Floats) -> Floats:
    """(a, 3, n) of areas and moments (a, n): these, with the areas weighted by 1 - k offset between them; nothing where they are not
    known."""
    known = np.isfinite(area)
    area, moment = np.where(known, area, 0.0), np.where(known, moment, 0.0)
    return np.stack([area, np.maximum(area - k * moment, 0.0), moment], axis=1)


def _outward(sign: float, offsets: tuple[float, float] | None) -> tuple[float, float]:
    """Two offsets (m, + right), or none, as limits outward on a side."""
    first, last = sorted(sign * x for x in offsets) if offsets is not None else (-np.inf, np.inf)
    return first, last


def _formation_lines(block: Block) -> Iterator[tuple[Floats, Floats]]:
    """Offset and level (k, n), + right and increasing, of what is counted of the formation: one line, or where zones are given up a line
    for each that is left."""
    placed = [columns.placed("formation") for _, _, columns, _ in block.sides()]
    if not block.given_up:
        (lu, lz), (ru, rz) = placed
        yield np.concatenate([-lu[::-1], ru]), np.concatenate([lz[::-1], rz])
        return
    for (side, sign, columns, parts), (across, level) in zip(block.sides(), placed, strict=True):
        zone_of = zones_of(columns, parts, columns.outline("formation"))
        for i, zone in enumerate(ZONES):
            own = np.flatnonzero(zone_of == i)
            if not len(own) or (side, zone) in block.given_up:
                continue
            u, z = across[own[0] : own[-1] + 1], level[own[0] : own[-1] + 1]
            if own[0]:  # it begins where the one before ends
                before = [_last_known(rows[: own[0]], across[: own[0]]) for rows in (across, level)]
                u, z = np.concatenate([before[0][None], u]), np.concatenate([before[1][None], z])
            yield (u, z) if sign > 0 else (-u[::-1], z[::-1])


def _last_known(rows: Floats, across: Floats) -> Floats:
    """(n,) of rows (k, n) the last where ``across`` is known; NaN where none is."""
    known = np.isfinite(across)
    last = len(rows) - 1 - np.argmax(known[::-1], axis=0)
    return np.where(known.any(axis=0), rows[last, np.arange(rows.shape[1])], np.nan)


@dataclass(frozen=True, slots=True, eq=False)
class Volumes:
    """Volumes between n sections, m3: cut, fill and layers (n - 1,), and running totals (n,) that start at 0.

    plain_cut, plain_fill : (n - 1,) m3    by end areas as if the line were straight, for comparison
    """

    station: Floats
    cut: Floats
    fill: Floats
    layers: dict[str, Floats]
    cumulative_cut: Floats
    cumulative_fill: Floats
    plain_cut: Floats
    plain_fill: Floats

    def __post_init__(self) -> None:
        frozen_fields(self, ("station", "cut", "fill", "cumulative_cut", "cumulative_fill", "plain_cut", "plain_fill"))


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
    """Volumes between the sections of a corridor by average end areas, every element as long as it is in the bend; nothing between
    two blocks.

    An element at offset u of a section on a line of curvature k is 1 - k u as long as the line, and there is none beyond the
    centre; at a corner of the line by the angle a it loses 2 u tan(a / 2), and at a tangent point, whose section has the
    curvature ahead, what that says wrong of the way to it. Source: Pappus; docs/formulas.md#bends.
    """
    s = corridor.station

    def between(area: Floats) -> Floats:
        return np.where(corridor.joined, average_end_area(s, area), 0.0)

    plain_cut, plain_fill = between(areas.cut), between(areas.fill)
    cut, fill = between(areas.bent[0]), between(areas.bent[1])
    layers = {m: between(a) for m, a in areas.layers_bent.items()}
    lost = np.where(corridor.joined, turned_beyond(corridor.places), 0.0)
    for i, angle in corners(corridor.places):
        lost[i - 1] += 2.0 * np.tan(0.5 * angle) - angle
    cut = np.maximum(cut - lost * (areas.cut * areas.cut_offset)[1:], 0.0)
    fill = np.maximum(fill - lost * (areas.fill * areas.fill_offset)[1:], 0.0)
    layers = {m: np.maximum(v - lost * areas.layers_moment[m][1:], 0.0) for m, v in layers.items()}
    zero = np.zeros(1)
    return Volumes(
        s,
        cut,
        fill,
        layers,
        np.concatenate([zero, np.cumsum(cut)]),
        np.concatenate([zero, np.cumsum(fill)]),
        plain_cut,
        plain_fill,
    )


def prismoidal_volumes(corridor: Corridor, areas: SectionAreas, middle: SectionAreas) -> tuple[Floats, Floats]:
    """Cut and fill (n - 1,) m3 by the prismoidal rule, from the areas at n sections and at the middles of those that are joined,
    weighted for the bend; nothing between two blocks."""
    at = np.flatnonzero(corridor.joined)
    out = np.zeros((2, len(corridor.joined)))
    for k, (a, m) in enumerate(zip(areas.bent, middle.bent, strict=True)):
        out[k, at] = prismoidal_volume(np.diff(corridor.station)[at], a[at], m, a[at + 1])
    return out[0], out[1]
