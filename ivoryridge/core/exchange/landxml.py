"""LandXML 1.2 in: surfaces with breaklines, points, alignments with profiles and station equations; ``landxml_out`` writes.

Points in LandXML are northing, easting, level; directions are clockwise from north; ``rot`` is cw or ccw.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

import numpy as np

from ..findings import Finding
from .landxml_line import LandXmlAlignment, LandXmlTurning, read_alignment
from .landxml_surface import LandXmlSurface, read_surfaces
from .landxml_tree import Floats, Tree, children, descend, tag

__all__ = ["NAMESPACE", "LandXmlAlignment", "LandXmlModel", "LandXmlSurface", "LandXmlTurning", "read_landxml"]

NAMESPACE = "http://www.landxml.org/schema/LandXML-1.2"
_READ = {"Units", "Project", "Application", "Surfaces", "Alignments", "CoordinateSystem", "CgPoints", "FeatureDictionary"}


@dataclass(frozen=True, slots=True, eq=False)
class LandXmlModel:
    """What a file holds, in m. points: CgPoints (n, 3) E N level (NaN where none), with their codes and names."""

    unit: str
    surfaces: tuple[LandXmlSurface, ...]
    alignments: tuple[LandXmlAlignment, ...]
    findings: tuple[Finding, ...]
    points: Floats = field(default_factory=lambda: np.empty((0, 3)))
    point_codes: tuple[str, ...] = ()
    reference: str = ""
    point_names: tuple[str, ...] = ()


def read_landxml(content: bytes, name: str = "file") -> LandXmlModel:
    """Surfaces (with breaklines) and alignments of a LandXML file, in metres.

    Raises
    ------
    FormatError    empty, too large, cut off, entities, not LandXML, unknown unit, a number that is none, a face that names
                   a point which is not there, or an alignment whose elements contradict their own points
    """
    tree = Tree.parse(content, name)
    surfaces = read_surfaces(tree)
    found = [read_alignment(tree, e, i) for i, e in enumerate(descend(tree.root, "Alignment"), 1)]
    other = Counter(t for c in tree.root if (t := tag(c)) and t not in _READ)
    tree.findings += [Finding("note", "left-out", {"count": n, "what": what}) for what, n in other.items()]
    points, codes, names = _read_points(tree)
    reference = next((c.get("epsgCode") or c.get("name") or "" for c in children(tree.root, "CoordinateSystem")), "")
    reference = f"EPSG:{reference}" if reference.isdigit() else reference
    kept = tuple(a for a in found if a is not None)
    return LandXmlModel(tree.unit, surfaces, kept, tree.told(), points, codes, reference, names)


def _read_points(tree: Tree) -> tuple[Floats, tuple[str, ...], tuple[str, ...]]:
    """CgPoints with their codes and names; one without a level has NaN."""
    rows: list[Floats] = []
    codes, names = [], []
    for p in descend(tree.root, "CgPoint"):
        if p.get("pntRef") is not None:
            continue  # names another one again
        rows.append(tree.place(p, "CgPoints", f"point {p.get('name') or len(rows) + 1}"))
        codes.append(p.get("code") or p.get("desc") or "")
        names.append((p.get("name") or "").strip())
    return np.array(rows, float).reshape(-1, 3), tuple(codes), tuple(names)
