"""Lines of a DXF drawing as alignments: straights and arcs of one layer, joined where two ends meet. Reading by ezdxf."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from ..alignment.horizontal import HorizontalAlignment
from ..errors import FormatError
from ..findings import Finding
from .dxf_drawing import Walk, open_drawing, opened, parts_of_block

Floats = NDArray[np.float64]

__all__ = ["DrawnLine", "read_dxf_lines"]

ENDS_MEET = 0.01  # m between the ends of parts that are one line
SHORTEST = 1e-4  # m; a part shorter than this is none
MOST_OFFERED = 200
MOST_BYTES = 20_000_000  # what is read within about ten seconds


@dataclass(frozen=True, slots=True, eq=False)
class DrawnLine:
    """A line as drawn: its layer and its elements."""

    layer: str
    alignment: HorizontalAlignment


@dataclass(frozen=True, slots=True, eq=False)
class _Part:
    start: Floats  # (2,)
    end: Floats
    azimuth: float  # at the start
    length: float
    k: float  # curvature, + right

    def against(self) -> _Part:
        return _Part(self.end, self.start, self.leaving + np.pi, self.length, -self.k)

    @property
    def leaving(self) -> float:
        return self.azimuth + self.k * self.length


def read_dxf_lines(content: bytes, name: str = "file") -> tuple[list[DrawnLine], list[Finding]]:
    """The lines of a drawing that can be alignments, longest first, at most 200, and findings.

    LINE, ARC, LWPOLYLINE and POLYLINE in the plan, also within blocks, are taken; bulges are true arcs. Parts of one layer whose
    ends meet within 1 cm, and no third there, are one line; it runs the way its first part was drawn. Closed lines have no end
    to count chainage from and are left out, as are circles, ellipses and splines, and what is on layers off or frozen.

    Raises
    ------
    FormatError    empty, too large, not a drawing, or no such line in it
    """
    if len(content) > MOST_BYTES:
        raise FormatError("dxf-lines-too-large", name=name, size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    with opened(name):
        drawing = open_drawing(content, name)
        reader = _Lines(drawing.factor)
        walk = Walk(drawing, reader.take)
        walk.go()
        reader.left.update(
            {"object on a layer that is off or frozen": walk.unseen.total(), "block too deep within others": walk.too_deep}
        )
        reader.left = +reader.left
        found = [line for layer, parts in reader.parts.items() for line in _lines_of(layer, parts, reader.left)]
    if not found:
        told = ", ".join(f"{n} × {what}" for what, n in reader.left.most_common(6)) or "nothing at all"
        raise FormatError("dxf-no-line", name=name, content=told)
    found.sort(key=lambda d: -float(d.alignment.length.sum()))
    findings = [Finding("note", "left-out", {"count": n, "what": what}) for what, n in sorted(reader.left.items())]
    if len(found) > MOST_OFFERED:
        findings.append(Finding("doubt", "lines-not-offered", {"count": len(found), "limit": MOST_OFFERED}))
    return found[:MOST_OFFERED], [*findings, *drawing.findings]


class _Lines:
    def __init__(self, factor: float) -> None:
        self.factor = factor
        self.parts: dict[str, list[_Part]] = {}
        self.left: Counter[str] = Counter()

    def take(self, entity: Any, layer: str) -> Iterable[Any]:
        kind = entity.dxftype()
        if kind == "LINE":
            self._keep(layer, [self._plan(entity.dxf.start), self._plan(entity.dxf.end)])
        elif kind == "ARC":
            self._arc(entity, layer)
        elif kind == "LWPOLYLINE" or (kind == "POLYLINE" and not (entity.is_poly_face_mesh or entity.is_polygon_mesh)):
            return entity.virtual_entities()
        elif kind == "INSERT":
            return (p for p in parts_of_block(entity) if p.dxftype() in ("LINE", "ARC", "LWPOLYLINE", "POLYLINE", "INSERT"))
        else:
            self.left[kind] += 1
        return ()

    def _plan(self, place: Any) -> Floats:
        return np.array([place[0], place[1]], float) * self.factor

    def _arc(self, arc: Any, layer: str) -> None:
        if abs(abs(arc.dxf.extrusion.normalize().z) - 1) > 1e-9:
            self.left["arc that stands out of the plan"] += 1
            return
        sweep = (arc.dxf.end_angle - arc.dxf.start_angle) % 360 or 360.0
        angles = arc.dxf.start_angle + sweep * np.array([0, 0.5, 1])
        self._keep(layer, [self._plan(p) for p in arc.vertices(angles)], float(np.radians(sweep)), arc.dxf.radius * self.factor)

    def _keep(self, layer: str, places: list[Floats], sweep: float = 0.0, radius: float = np.inf) -> None:
        start, end = places[0], places[-1]
        chord = end - start
        length = float(np.hypot(*chord)) if not sweep else radius * sweep
        if not np.isfinite([*start, *end, length]).all():
            raise ValueError("a coordinate is not a finite number")
        if length < SHORTEST:
            self.left["line without length"] += 1
            return
        if not sweep:
            part = _Part(start, end, float(np.arctan2(*chord)), length, 0.0)
        else:
            before, after = places[1] - start, end - places[1]
            turn = float(np.sign(before[1] * after[0] - before[0] * after[1]))  # + right
            # the first half's chord leaves the tangent by a quarter of the sweep
            part = _Part(start, end, float(np.arctan2(*before)) - turn * sweep / 4, length, turn / radius)
        self.parts.setdefault(layer, []).append(part)


def _lines_of(layer: str, parts: list[_Part], left: Counter[str]) -> Iterator[DrawnLine]:
    """Chains of parts: end 2i is the start of part i, 2i + 1 its end."""
    partner = _partners(np.array([p for part in parts for p in (part.start, part.end)]))
    used = np.zeros(len(parts), bool)
    for first in range(len(parts)):
        if used[first]:
            continue
        start = 2 * first  # back to where the line begins that this part is in
        while (before := partner[start]) >= 0 and before // 2 != first:
            start = before ^ 1
        round_about = np.hypot(*(parts[first].start - parts[first].end)) < ENDS_MEET < parts[first].length / 3
        closed = partner[start] >= 0 or bool(round_about)
        chain: list[_Part] = []
        while start >= 0 and not used[start // 2]:
            used[start // 2] = True
            part = parts[start // 2]
            chain.append(part if start % 2 == 0 else part.against())
            start = partner[start ^ 1]
        if closed:
            left["closed line"] += 1
            continue
        yield _drawn(layer, chain)


def _partners(ends: Floats) -> NDArray[np.int64]:
    """For every end the one that meets it where no third does, else -1; ends 2i and 2i + 1 are of one part and never partners.

    Places where many parts meet are set aside first, so that a star of thousands costs no more than anything else."""
    partner = np.full(len(ends), -1)
    _, inverse, count = np.unique(np.round(ends / SHORTEST), axis=0, return_inverse=True, return_counts=True)
    few = np.flatnonzero(count[inverse.ravel()] <= 2)
    if len(few) < 2:
        return partner
    near, at = cKDTree(ends[few]).query(ends[few], k=min(3, len(few)), distance_upper_bound=ENDS_MEET)
    two = np.isfinite(near).sum(axis=1) == 2  # itself and one other
    for i in np.flatnonzero(two):
        j = next(int(x) for x in at[i][:2] if x != i)
        if two[j] and few[i] // 2 != few[j] // 2:
            partner[few[i]] = few[j]
    return partner


def _drawn(layer: str, chain: list[_Part]) -> DrawnLine:
    k = np.array([p.k for p in chain])
    line = HorizontalAlignment(
        start=np.array([p.start for p in chain]), azimuth=np.array([p.azimuth for p in chain]) % (2 * np.pi),
        length=np.array([p.length for p in chain]), k0=k, k1=k.copy(), pi_of=np.full(len(chain), -1), start_station=0.0,
    )  # fmt: skip
    return DrawnLine(layer, line)
