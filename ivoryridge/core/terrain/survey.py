"""What was measured, as a file gives it: points with codes, lines with codes, faces. Immutable; edits come on top."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields

Floats = NDArray[np.float64]

__all__ = ["Layer", "Survey", "layers_of"]


@dataclass(frozen=True, slots=True, eq=False)
class Survey:
    """Points, lines and faces in metres, each with the word (code or layer) they were filed under.

    points : (n, 3)          easting, northing, elevation; NaN elevation where the file gives none
    codes : n words          may be empty: no codes at all
    lines : each (k, 3)      a closed one ends where it starts
    line_codes : a word a line
    line_types : a type a line, e.g. ``breakline``, ``contour``, ``outer boundary``, ``CAD line``
    line_heights : m a line  how far what it outlines stands above the ground; 0 for what lies flat
    point_type :             e.g. ``point``, ``CAD point``, ``grid``
    faces : (m, 3)           indices of points; may be empty
    names : n words          what the file calls each point; may be empty: no names at all
    """

    points: Floats
    codes: tuple[str, ...] = ()
    lines: tuple[Floats, ...] = ()
    faces: NDArray[np.int64] = field(default_factory=lambda: np.empty((0, 3), np.int64))
    line_codes: tuple[str, ...] = ()
    line_types: tuple[str, ...] = ()
    point_type: str = "point"
    line_heights: Floats = field(default_factory=lambda: np.empty(0))
    names: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("faces",), np.int64)
        for name, usual in (("line_codes", ""), ("line_types", "breakline")):
            if not getattr(self, name) and self.lines:
                object.__setattr__(self, name, (usual,) * len(self.lines))
        if not len(self.line_heights):
            object.__setattr__(self, "line_heights", np.zeros(len(self.lines)))
        frozen_fields(self, ("line_heights",))

    def name_of(self, point: int) -> str:
        """What the file calls a point, else its number from 1."""
        return (self.names[point] if self.names else "") or str(point + 1)

    def inventory(self) -> dict[str, Any]:
        """Counts, extent and level range, for people."""
        stacked = np.concatenate([self.points, *self.lines]) if self.lines else self.points
        stacked = stacked[np.isfinite(stacked[:, :2]).all(axis=1)]
        if not len(stacked):
            stacked = np.zeros((1, 3))
        low, high = np.nanmin(stacked[:, :2], axis=0), np.nanmax(stacked[:, :2], axis=0)
        z = stacked[np.isfinite(stacked[:, 2]), 2]
        counts: dict[str, int] = {}
        for c in self.codes:
            counts[c] = counts.get(c, 0) + 1
        return {
            "points": len(self.points), "breaklines": len(self.lines), "faces": len(self.faces),
            "extent": [float(low[0]), float(low[1]), float(high[0]), float(high[1])],
            "levels": [float(z.min()), float(z.max())] if len(z) else [0.0, 0.0],
            "codes": [[c or "no code", n] for c, n in sorted(counts.items(), key=lambda item: -item[1])[:20]],
        }  # fmt: skip


@dataclass(frozen=True, slots=True)
class Layer:
    """All objects of one type and code in a survey: what sorting rules are tried on."""

    type: str
    code: str
    count: int
    vertices: int
    levels: tuple[float, float] | None

    @property
    def key(self) -> str:
        return f"{self.type}/{self.code}"


def layers_of(survey: Survey) -> list[Layer]:
    """The layers of a survey: points by code, then lines by type and code."""
    out: list[Layer] = []
    if len(survey.points):
        codes = np.array(survey.codes or ("",) * len(survey.points))
        words, inverse, counts = np.unique(codes, return_inverse=True, return_counts=True)
        for i, word in enumerate(words):
            z = survey.points[inverse == i, 2]
            out.append(Layer(survey.point_type, str(word), int(counts[i]), int(counts[i]), _range(z)))
    groups: dict[tuple[str, str], list[Floats]] = {}
    for line, code, kind in zip(survey.lines, survey.line_codes, survey.line_types, strict=True):
        groups.setdefault((kind, code), []).append(line)
    for (kind, code), lines in groups.items():
        out.append(Layer(kind, code, len(lines), sum(map(len, lines)), _range(np.concatenate([ln[:, 2] for ln in lines]))))
    return out


def _range(z: Iterable[float]) -> tuple[float, float] | None:
    a = np.asarray(z, float)
    a = a[np.isfinite(a)]
    return (float(a.min()), float(a.max())) if len(a) else None
