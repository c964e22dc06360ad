"""What is told of the finished ground."""

from __future__ import annotations

from typing_extensions import TypedDict

from .common import Finding

__all__ = ["Finished", "FinishedCut", "FinishedPiece"]


class FinishedPiece(TypedDict):
    """A piece that is built: plan area m2, exact cut and fill against the existing ground, m3."""

    name: str
    material: str
    area: float
    cut: float
    fill: float


class FinishedCut(TypedDict):
    """Existing and finished ground along a drawn line: rows of distance and level, m."""

    points: list[tuple[float, float | None]]
    finished: list[tuple[float, float | None]]


class Finished(TypedDict):
    """``left_out``: why roads or junctions are not in it."""

    key: str
    triangles: int
    cut: float
    fill: float
    pieces: list[FinishedPiece]
    left_out: list[str]
    findings: list[Finding]
