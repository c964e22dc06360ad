"""Edits of surveys that a newer version of their file has replaced: those that still fit what it holds go on, the others are told."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from .survey import Survey

__all__ = ["carried_edits"]

SAME = 1e-3  # m in plan and level within which a point or vertex is the same one


def carried_edits(
    edits: Iterable[Mapping[str, Any]], old: Mapping[int, Survey], new: Sequence[tuple[int, Survey]]
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Edits with the points and lines of the ``new`` surveys for those of the ``old`` ones, and those that are lost.

    Surveys stand by the ids that edits name them by. A point is found again where one lies at its place with its level (``SAME``), a
    line where one has its layer and the same vertices; of twins the first that no other has been taken for. An edit of several points
    keeps those that are found. Edits of other surveys stay as they are.
    """
    seeker = _Seeker(old, new)
    kept: list[dict[str, Any]] = []
    lost: list[dict[str, Any]] = []
    for given in edits:
        e = dict(given)
        if e.get("survey") not in old:
            kept.append(e)
        elif "line" in e:
            there = seeker.line(e["survey"], e["line"])
            (kept if there else lost).append(e | ({"survey": there[0], "line": there[1]} if there else {}))
        elif "points" in e:
            found = [seeker.point(e["survey"], p) for p in e["points"]]
            for survey in dict.fromkeys(f[0] for f in found if f):
                kept.append(e | {"survey": survey, "points": [f[1] for f in found if f and f[0] == survey]})
            if gone := [p for p, f in zip(e["points"], found, strict=True) if f is None]:
                lost.append(e | {"points": gone})
        else:
            at = seeker.point(e["survey"], e["point"])
            (kept if at else lost).append(e | ({"survey": at[0], "point": at[1]} if at else {}))
    return kept, lost


class _Seeker:
    """Finds points and lines of old surveys among the new ones; what was found for one is not found for another."""

    def __init__(self, old: Mapping[int, Survey], new: Sequence[tuple[int, Survey]]) -> None:
        self._old, self._new = old, new
        self._points: dict[tuple[int, int], tuple[int, int] | None] = {}
        self._lines: dict[tuple[int, int], tuple[int, int] | None] = {}
        self._trees = [cKDTree(_places(s.points)) if len(s.points) else None for _, s in new]

    def point(self, survey: int, number: int) -> tuple[int, int] | None:
        if (survey, number) not in self._points:
            self._points[survey, number] = self._same_point(self._old[survey], number)
        return self._points[survey, number]

    def line(self, survey: int, number: int) -> tuple[int, int] | None:
        if (survey, number) not in self._lines:
            self._lines[survey, number] = self._same_line(self._old[survey], number)
        return self._lines[survey, number]

    def _same_point(self, survey: Survey, number: int) -> tuple[int, int] | None:
        if number >= len(survey.points):
            return None
        taken = set(self._points.values())
        at = _places(survey.points[number : number + 1])[0]
        for (pk, _), tree in zip(self._new, self._trees, strict=True):
            near = sorted(tree.query_ball_point(at, SAME * 1.01)) if tree is not None else []
            free = next((i for i in near if (pk, i) not in taken), None)
            if free is not None:
                return pk, free
        return None

    def _same_line(self, survey: Survey, number: int) -> tuple[int, int] | None:
        if number >= len(survey.lines):
            return None
        vertices, layer = survey.lines[number], survey.line_codes[number]
        taken = set(self._lines.values())
        for pk, other in self._new:
            for i, (v, code) in enumerate(zip(other.lines, other.line_codes, strict=True)):
                if code != layer or (pk, i) in taken or v.shape != vertices.shape:
                    continue
                if np.allclose(v, vertices, rtol=0, atol=SAME, equal_nan=True):
                    return pk, i
        return None


def _places(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points without a level lie far below all others."""
    return np.where(np.isnan(points), -1e7, points)
