"""Report of end areas and volumes in three depths: sums, interval by interval, and every material interval by interval."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from .table import Column, Table

__all__ = ["earthwork_report"]

Floats = NDArray[np.float64]


def earthwork_report(
    station: Floats, areas: tuple[Floats, Floats], volumes: Mapping[str, tuple[Floats, Floats]], way: str, layers: Mapping[str, Floats],
    shown: Sequence[int], told: Sequence[str] = (),
) -> tuple[Table, Table, Table]:  # fmt: skip
    """Sums by every way; areas and volumes by interval; cut, fill and materials by interval.

    ``station`` (n,) m; ``areas`` cut and fill (n,) m2; ``volumes`` way -> cut and fill (n - 1,) m3, of which ``way`` is that of the tables
    by interval; ``layers`` material -> (n - 1,) m3; ``shown``: the sections that stand in the tables, ascending; what lies between
    two of them is summed.
    """
    cut, fill = volumes[way]
    first = np.asarray(shown[:-1], int)
    materials = [("Cut", cut), ("Fill", fill), *layers.items()]  # a material may have the name of either
    by_interval = [np.concatenate([[0.0], np.add.reduceat(v, first) if len(first) else []]) for _, v in materials]
    sums = Table(
        "Sums", (Column("What", "text"), Column("Way", "text"), _solid("Volume")),
        tuple(
            (name, w, float(v.sum())) for w, pair in volumes.items() for name, v in zip(("Cut", "Fill"), pair, strict=True)
        ) + tuple((m, way, float(v.sum())) for m, v in layers.items()), tuple(told),
    )  # fmt: skip
    place = (Column("Chainage", "station"), Column("Interval", unit="m", decimals=2))
    length = [0.0, *np.diff(station[list(shown)]).tolist()]
    run_cut, run_fill = (np.cumsum(v) for v in by_interval[:2])
    rows = tuple(
        (
            float(station[i]), length[k] if k else None, float(areas[0][i]), float(areas[1][i]), float(by_interval[0][k]),
            float(by_interval[1][k]), float(run_cut[k]), float(run_fill[k]), float(run_cut[k] - run_fill[k]),
        )
        for k, i in enumerate(shown)
    )  # fmt: skip
    intervals = Table(
        "Areas and volumes",
        (
            *place, Column("Cut area", unit="m²", decimals=2), Column("Fill area", unit="m²", decimals=2), _solid("Cut"),
            _solid("Fill"), _solid("Sum of cut"), _solid("Sum of fill"),
            _solid("Balance", signed=True),
        ), rows,
    )  # fmt: skip
    parts = Table(
        "Materials", (*place, *(_solid(m) for m, _ in materials)),
        tuple(
            (float(station[i]), length[k] if k else None, *(float(v[k]) for v in by_interval)) for k, i in enumerate(shown)
        ) + ((None, None, *(float(v.sum()) for _, v in materials)),),
    )  # fmt: skip
    return sums, intervals, parts


def _solid(name: str, signed: bool = False) -> Column:
    return Column(name, unit="m³", decimals=1, signed=signed)
