"""Surfaces of a LandXML file: points, faces, breaklines, contours and boundaries."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import FormatError
from ..findings import Finding
from ..terrain.faces import clean_faces
from ..tolerances import SAME_SURVEY_POINT
from .landxml_tree import Floats, Tree, children, descend, tag

__all__ = ["LandXmlSurface", "read_surfaces"]

_NAMED = 6  # ids named in a sentence


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlSurface:
    """A surface as a file gives it: points (n, 3) E N level in m, faces (m, 3) indices (may be empty), breaklines.

    Faces are clean: none twice, none without area, none over another.
    """

    name: str
    points: Floats
    faces: NDArray[np.int64]
    breaklines: tuple[Floats, ...]
    contours: tuple[Floats, ...] = ()
    boundaries: tuple[tuple[str, Floats], ...] = ()  # ("outer" or "hole", closed ring; NaN level where the file gives none)

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("faces",), np.int64)


def read_surfaces(tree: Tree) -> tuple[LandXmlSurface, ...]:
    """All surfaces of the file that hold anything. What was left out or mended is among the tree's findings."""
    found = (_Reader(tree, e, i).read() for i, e in enumerate(descend(tree.root, "Surface"), 1))
    return tuple(s for s in found if s is not None)


class _Reader:
    def __init__(self, tree: Tree, element: Any, number: int) -> None:
        self.tree, self.element = tree, element
        self.name = element.get("name") or f"surface {number}"

    def tell(self, severity: Any, code: str, **params: Any) -> None:
        place = params.pop("place", None)
        self.tree.findings.append(Finding(severity, code, {"surface": self.name, **params}, place=place))

    def read(self) -> LandXmlSurface | None:
        points, ids = self._points()
        faces = self._faces(ids)
        if len(faces):
            faces, found = clean_faces(points, faces, self.name)
            self.tree.findings += found
        lines, extra = self._source()
        if not len(points) and extra:
            points = np.concatenate(extra)
        elif extra and not len(faces):
            points = np.concatenate([points, *extra])
        contours, boundaries = self._contours(), self._boundaries()
        if not (len(points) or lines or contours or boundaries):
            self.tell("note", "surface-holds-nothing")
            return None
        if not len(faces):
            self.tell("note", "definition-missing")
        return LandXmlSurface(self.name, points, faces, tuple(lines), contours, boundaries)

    def _points(self) -> tuple[Floats, dict[str, int]]:
        ids: dict[str, int] = {}
        points: list[Floats] = []
        same: list[str] = []
        other: list[str] = []
        for p in descend(self.element, "P"):
            if tag(p.getparent()) != "Pnts":
                continue
            values = self.tree.numbers(p, self.name, "point")
            if len(values) != 3:
                raise self.tree.bad(p, p.text or "", self.name, "point", "northing, easting and level")
            place = values[[1, 0, 2]] * self.tree.factor
            key = (p.get("id") or str(len(points) + 1)).strip()
            if key in ids:
                (same if np.allclose(points[ids[key]], place, rtol=0, atol=SAME_SURVEY_POINT) else other).append(key)
                continue
            ids[key] = len(points)
            points.append(place)
        if same:
            self.tell("note", "ids-repeated", count=len(same), ids=_some(same))
        if other:
            first = points[ids[other[0]]]
            self.tell("fault", "ids-twice", count=len(other), ids=_some(other), place=(float(first[0]), float(first[1])))
        return np.array(points).reshape(-1, 3), ids

    def _faces(self, ids: dict[str, int]) -> NDArray[np.int64]:
        faces: list[tuple[int, ...]] = []
        hidden = 0
        for n, f in enumerate(descend(self.element, "F"), 1):
            if f.get("i") == "1":
                hidden += 1
                continue
            words = (f.text or "").split()
            if len(words) == 4:  # a four-sided face is two triangles
                words = [*words[:3], words[0], *words[2:]]
            if len(words) not in (3, 6):
                raise self.tree.bad(f, f.text or "", self.name, f"face {n}", "three or four point ids")
            missing = next((w for w in words if w not in ids), None)
            if missing is not None:
                raise FormatError(
                    "landxml-point-missing", face=n, surface=self.name, point=missing[:40], where={"line": f.sourceline}
                )
            faces += [tuple(ids[w] for w in words[k : k + 3]) for k in range(0, len(words), 3)]
        if hidden:
            self.tell("note", "faces-invisible", count=hidden)
        return np.array(faces, np.int64).reshape(-1, 3)

    def _source(self) -> tuple[list[Floats], list[Floats]]:
        """Breaklines, and points that stand in the source data only. What has no level is told."""
        lines, points, flat = [], [], 0
        for b in descend(self.element, "Breakline"):
            lines += [self.tree.triples(p, self.name, "breakline") for p in children(b, "PntList3D")]
            flat += sum(1 for _ in children(b, "PntList2D"))
        for d in descend(self.element, "DataPoints"):
            points += [self.tree.triples(p, self.name, "data points") for p in children(d, "PntList3D")]
            bare = sum(len(self.tree.pairs(p, self.name, "data points")) for p in children(d, "PntList2D"))
            if bare:
                self.tell("doubt", "without-level", count=bare, what="points")
        if flat:
            self.tell("doubt", "without-level", count=flat, what="breaklines")
        short = sum(len(line) < 2 for line in lines)
        if short:
            self.tell("note", "lines-short", count=short)
        return [line for line in lines if len(line) >= 2], points

    def _contours(self) -> tuple[Floats, ...]:
        out: list[Floats] = []
        bare = 0
        for c in descend(self.element, "Contour"):
            level = self.tree.length(c, "elev", self.name)
            bare += level is None and any(True for _ in children(c, "PntList2D"))
            out += [
                self.tree.pairs(p, self.name, "contour", np.nan if level is None else level) for p in children(c, "PntList2D")
            ]
            out += [self.tree.triples(p, self.name, "contour") for p in children(c, "PntList3D")]
        if bare:
            self.tell("doubt", "without-level", count=bare, what="contours")
        return tuple(c for c in out if len(c) >= 2 and np.isfinite(c).all())

    def _boundaries(self) -> tuple[tuple[str, Floats], ...]:
        out: list[tuple[str, Floats]] = []
        for b in descend(self.element, "Boundary"):
            kind = "outer" if b.get("bndType", "outer") == "outer" else "hole"
            rings = [self.tree.pairs(p, self.name, "boundary") for p in children(b, "PntList2D")]
            rings += [self.tree.triples(p, self.name, "boundary") for p in children(b, "PntList3D")]
            out += [(kind, r) for r in rings if len(r) >= 3]
        return tuple(out)


def _some(ids: list[str]) -> str:
    return ", ".join(ids[:_NAMED]) + (f" and {len(ids) - _NAMED} more" if len(ids) > _NAMED else "")
