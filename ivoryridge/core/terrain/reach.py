"""Where a survey lies: what lies beyond any ground is left out, and the likely cause of a whole file in the wrong place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..errors import InputError
from ..findings import Finding
from ..units import FOOT
from .survey import Survey

Floats = NDArray[np.float64]

__all__ = ["Misplaced", "likely_cause", "moved_survey", "within_reach"]

FARTHEST = 1e10  # m east or north; beyond it metres have no millimetres any more
UNUSUAL = 1e8  # m east or north; no grid of any country counts so far, but one in millimetres does
HIGHEST = 20_000.0  # m above or below the datum; no ground lies there
WIDEST = 1e6  # m from end to end; a project is no country
_ON_SITE = 0.25  # of the site's own size that a file may stand over it and still be on it
_NAMED = 5


def within_reach(survey: Survey) -> tuple[Survey, list[Finding]]:
    """The survey without what cannot be ground: coordinates beyond 10 million km, and whatever lies more than 500 km from the middle
    of the rest; levels beyond 20 km become none. All of it is told.

    Raises InputError when nothing is left.
    """
    findings: list[Finding] = []
    p = survey.points
    far: NDArray[np.bool_] = np.asarray(~np.isfinite(p[:, :2]).all(axis=1) | (np.abs(p[:, :2]) > FARTHEST).any(axis=1))
    lines_far = [not np.isfinite(v[:, :2]).all() or bool((np.abs(v[:, :2]) > FARTHEST).any()) for v in survey.lines]
    stacked = np.concatenate([p[~far, :2], *(v[:, :2] for v, f in zip(survey.lines, lines_far, strict=True) if not f)])
    if not len(stacked):
        raise InputError("nothing-in-reach", limit=FARTHEST / 1000)
    if np.ptp(stacked, axis=0).max() > WIDEST:
        middle = np.median(stacked, axis=0)
        far = np.logical_or(far, (np.abs(p[:, :2] - middle) > WIDEST / 2).any(axis=1))
        lines_far = [
            f or bool((np.abs(v[:, :2] - middle) > WIDEST / 2).any()) for v, f in zip(survey.lines, lines_far, strict=True)
        ]
    if far.any():
        rows = np.flatnonzero(far)
        told = ", ".join(survey.name_of(int(i)) for i in rows[:_NAMED]) + (" and more" if len(rows) > _NAMED else "")
        findings.append(Finding("fault", "points-beyond", {"count": len(rows), "told": told}))
    if float(np.abs(stacked).max()) > UNUSUAL:
        findings.append(Finding("fault", "coordinates-large", {"value": float(np.abs(stacked).max())}))
    if any(lines_far):
        findings.append(Finding("fault", "lines-beyond", {"count": sum(lines_far)}))
    high = np.abs(p[:, 2]) > HIGHEST
    line_high = sum(int((np.abs(v[:, 2]) > HIGHEST).sum()) for v in survey.lines)
    if count := int((high & ~far).sum()) + line_high:
        findings.append(Finding("fault", "levels-beyond", {"count": count, "limit": HIGHEST}))
    if not (far.any() or any(lines_far) or count):
        return survey, findings
    return _without(survey, far, lines_far), findings


def _without(survey: Survey, far: NDArray[np.bool_], lines_far: Sequence[bool]) -> Survey:
    number = np.cumsum(~far) - 1
    faces = survey.faces[~far[survey.faces].any(axis=1)] if len(survey.faces) else survey.faces

    def sane(rows: Floats) -> Floats:
        out = rows.copy()
        out[np.abs(out[:, 2]) > HIGHEST, 2] = np.nan
        return out

    keep = [i for i, f in enumerate(lines_far) if not f]
    return Survey(
        sane(survey.points[~far]),
        tuple(c for c, f in zip(survey.codes, far, strict=True) if not f) if survey.codes else (),
        tuple(sane(survey.lines[i]) for i in keep), number[faces], tuple(survey.line_codes[i] for i in keep),
        tuple(survey.line_types[i] for i in keep), survey.point_type, survey.line_heights[keep],
        tuple(n for n, f in zip(survey.names, far, strict=True) if not f) if survey.names else (),
    )  # fmt: skip


def moved_survey(survey: Survey, *, swapped: bool = False, factor: float = 1.0, east: float = 0.0) -> Survey:
    """A survey with easting and northing changed over, all lengths multiplied (levels too), and then ``east`` m added."""
    order = [1, 0, 2] if swapped else [0, 1, 2]

    def moved(rows: Any) -> Floats:
        return np.asarray(rows)[:, order] * factor + [east, 0.0, 0.0]

    faces = survey.faces[:, ::-1] if swapped else survey.faces  # a mirror turns them over
    return replace(
        survey, points=moved(survey.points), lines=tuple(moved(v) for v in survey.lines), faces=faces,
        line_heights=survey.line_heights * factor,
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Misplaced:
    """A file beside the site: how far off (m), and what would bring it there ("" for nothing known), in words and as the
    arguments of ``moved_survey``."""

    distance: float
    cause: str = ""
    swapped: bool = False
    factor: float = 1.0
    east: float = 0.0


_FEET = "they are in feet, taken as metres"
_CAUSES: tuple[tuple[str, bool, float], ...] = (
    ("easting and northing are changed over", True, 1.0),
    (_FEET, False, FOOT),
    ("they are in millimetres, taken as metres", False, 0.001),
    ("they are metres, taken for feet", False, 1 / FOOT),
    ("easting and northing are changed over, and they are in feet", True, FOOT),
)


def likely_cause(file: Any, site: Any, *, least: float) -> Misplaced | None:
    """Why a file lies off the site; None when it lies less than ``least`` m away.

    file, site : (least E, least N, greatest E, greatest N) m
    """
    f, s = np.asarray(file, float), np.asarray(site, float)
    distance = _gap(f, s)
    if distance <= least:
        return None
    for cause, swapped, factor in _CAUSES:
        moved = (f[[1, 0, 3, 2]] if swapped else f) * factor
        if _on(moved, s):
            return Misplaced(distance, cause, swapped, factor)
    zone = float(np.round((s[0] - f[0]) / 1e6) * 1e6)  # before the easting, or missing there
    if zone and _on(f + [zone, 0, zone, 0], s):
        return Misplaced(distance, "the easting begins with the number of its zone", east=zone)
    return Misplaced(distance)


def _gap(a: Floats, b: Floats) -> float:
    return float(np.hypot(*np.maximum(np.maximum(b[:2] - a[2:], a[:2] - b[2:]), 0.0)))


def _on(file: Floats, site: Floats) -> bool:
    return _gap(file, site) <= _ON_SITE * float(np.hypot(*(site[2:] - site[:2])))
