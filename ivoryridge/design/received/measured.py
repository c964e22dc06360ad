"""What was measured along a line: points of a survey, or vertices of its lines; and the line fitted through it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.alignment.horizontal import sample_stations
from ivoryridge.core.alignment.line_fit import HELD_WORDS, FitDoubt, LineFit, fit_whole_line
from ivoryridge.core.findings import Finding

from ..kept.kinds import kind
from ..models import Project, SurveySet
from ..refusals import BadValue
from ..results.surface import survey_arrays

__all__ = ["fit_picture", "line_vertices", "lines_measured", "measured_along", "measured_of"]

MOST_POINTS = 20_000


def measured_along(project: Project, survey: int, layer: str, line: int | None = None) -> NDArray[np.float64]:
    """Points of a survey of the project and vertices of its lines (n, 2), of one layer (code) if one is named, or of one line of it,
    counted from 0."""
    points, lines = measured_of(project, survey, layer, line)
    return np.concatenate([points[:, :2], *(v[:, :2] for v in lines)])


def measured_of(project: Project, survey: int, layer: str, line: int | None = None) -> tuple[Any, list[Any]]:
    """Points (n, 3) and lines, each (k, 3), that were measured on a layer; one line alone where one is picked out."""
    points, lines = _of_layer(project, survey, layer)
    if line is not None:
        if not 0 <= line < len(lines):
            raise BadValue(
                "no-such-line", f"The layer '{layer}' has {len(lines)} lines; there is none with number {line + 1}.", field="line"
            )
        points, lines = points[:0], [lines[line]]
    if not len(points) and not lines:
        raise BadValue("no-such-layer", f"The survey has nothing on the layer '{layer}'.", field="layer")
    return points, lines


def lines_measured(project: Project, survey: int, layer: str) -> list[dict[str, Any]]:
    """The lines of a layer in the order of the file: length in plan (m), number of vertices, and where each begins."""
    lines = _of_layer(project, survey, layer)[1]
    return [
        {
            "length": float(np.hypot(*np.diff(v[:, :2], axis=0).T).sum()),
            "vertices": len(v),
            "start": (float(v[0, 0]), float(v[0, 1])),
        }
        for v in lines
    ]


def line_vertices(project: Project, survey: int, layer: str, line: int | None = None) -> list[dict[str, float]]:
    """Every vertex of the only line of a layer, or of the one picked out of several, or every point of it in its order, as a PI without
    a radius."""
    points, lines = measured_of(project, survey, layer, line)
    if len(lines) > 1:
        raise BadValue(
            "many-lines", f"There are {len(lines)} lines on the layer '{layer}'. Choose one of them.", field="line",
        )  # fmt: skip
    vertices = lines[0] if lines else points
    if len(vertices) > 500:
        raise BadValue(
            "too-many-pis", f"{len(vertices)} vertices are too many for PIs; fit straights and bends through them.", field="layer"
        )
    return [{"easting": float(v[0]), "northing": float(v[1])} for v in vertices]


def _of_layer(project: Project, survey: int, layer: str) -> tuple[Any, list[Any]]:
    row = SurveySet.present.filter(project=project, pk=survey).first()
    if row is None:
        raise BadValue("no-such-survey", "Choose the survey whose points were measured along the line.", field="survey")
    arrays = survey_arrays(row.pk)
    codes = arrays.codes or ("",) * len(arrays.points)
    points = arrays.points[[c == layer for c in codes]] if layer else arrays.points
    return points, [v for v, c in zip(arrays.lines, arrays.line_codes, strict=True) if not layer or c == layer]


def _told_doubt(fit: LineFit, doubt: FitDoubt) -> Finding:
    radius = fit.bends[doubt.bend].radius if doubt.bend >= 0 else 0.0
    params = {"bend": doubt.bend + 1, "radius": radius, "amount": doubt.amount, "start": doubt.start, "end": doubt.end}
    return Finding("doubt", f"fit-{doubt.what}", params, station_from=doubt.start, station_to=doubt.end)


@kind("fit", 3)
def _fit(points: NDArray[np.float64], held: tuple[tuple[int, Mapping[str, float]], ...], bends: int | None) -> LineFit:
    return fit_whole_line(points, held=dict(held), bends=bends)


def fit_picture(
    project: Project, survey: int, layer: str, line: int | None, held: Mapping[str, Mapping[str, float | None]], bends: int | None
) -> dict[str, Any]:
    """The line fitted through what was measured, with its bends, and how far every point lies beside it."""
    points = measured_along(project, survey, layer, line)
    if len(points) > MOST_POINTS:
        raise BadValue(
            "too-many-points",
            f"{len(points)} points are more than the {MOST_POINTS} that are fitted at once. Choose a layer.",
            field="layer",
        )
    if not all(i.isdecimal() and len(i) < 6 for i in held):
        raise BadValue("no-such-bend", "What is held must be said of bends by their numbers from 0.", field="held")
    kept = {
        int(i): {w: float(v) for w, v in words.items() if w in HELD_WORDS and v is not None} for i, words in sorted(held.items())
    }
    kept = {i: words for i, words in kept.items() if words}
    fit = _fit(points=points, held=tuple(kept.items()), bends=bends).get()
    drawn = fit.line.evaluate(sample_stations(fit.line, 100.0, 0.02))[0]
    return {
        "pis": [{"easting": float(p.easting), "northing": float(p.northing), "radius": p.radius, "spiral_in": p.spiral_in,
        "spiral_out": p.spiral_out} for p in fit.pis],
        "bends": [
            {"turn": b.turn, "radius": b.radius, "spiral_in": b.spiral_in, "spiral_out": b.spiral_out, "start": b.start, "end": b.end,
             "rms": b.rms, "greatest": b.greatest, "held": list(b.held)}
            for b in fit.bends
        ],
        "line": np.round(drawn, 3), "points": np.round(points, 3), "station": np.round(fit.station, 3), "offset": np.round(fit.offset, 4),
        "doubts": [_told_doubt(fit, d).as_dict() | {"bend": d.bend} for d in fit.doubts], "left_out": fit.left_out, "rms": fit.rms,
        "length": fit.line.end_station, "count": len(points),
    }  # fmt: skip
