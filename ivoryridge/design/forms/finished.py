"""What is told of the finished ground."""

from __future__ import annotations

from typing_extensions import TypedDict

from .common import Finding
from .road import CutFill

__all__ = ["CutLayer", "ExactPiece", "ExactVolumes", "Finished", "FinishedCut"]


class ExactPiece(TypedDict):
    """What a road or a junction builds: plan area of its formation m2, exact cut and fill from the existing ground to it, m3."""

    name: str
    area: float
    cut: float
    fill: float


class ExactVolumes(TypedDict):
    """Exact cut and fill from the existing ground to the formation and to the finished ground, m3; to the formation by piece."""

    formation: CutFill
    finished: CutFill
    pieces: list[ExactPiece]


class CutLayer(TypedDict):
    material: str
    points: list[tuple[float, float]]


class FinishedCut(TypedDict):
    """Existing and finished ground along a drawn line and the formation of what is built: rows of distance and level, m; and rings of
    the layers between."""

    points: list[tuple[float, float | None]]
    finished: list[tuple[float, float | None]]
    formation: list[tuple[float, float | None]]
    layers: list[CutLayer]


class Finished(TypedDict):
    """``left_out``: why roads or junctions are not in it."""

    key: str
    triangles: int
    left_out: list[str]
    findings: list[Finding]
