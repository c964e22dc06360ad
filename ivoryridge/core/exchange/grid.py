"""Elevation grids: Esri ASCII grid and GeoTIFF in, by rasterio in a process apart; Esri ASCII grid out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrays import frozen_fields
from ..errors import FormatError
from ..findings import Finding
from ..terrain.surface import Surface, read_surface
from ..terrain.survey import Survey
from .apart import messages_of

Floats = NDArray[np.float64]

__all__ = ["Grid", "grid_of_surface", "read_grid", "survey_of_grid", "write_esri_grid"]

MOST_BYTES = 200 * 1024 * 1024
MOST_CELLS = 4_000_000
_NO_VALUE = -9999.0
_FARTHEST_LEVEL = 1e6  # m; what lies beyond stands for no level


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """Levels at cell centres. elevation (rows, columns) m, first row northernmost, NaN where none; size in m.

    corner : easting and northing of the outer lower left corner
    reference : name of the coordinate reference, "" where the file names none
    """

    elevation: Floats
    corner: tuple[float, float]
    size: tuple[float, float]
    reference: str = ""

    def __post_init__(self) -> None:
        frozen_fields(self, ("elevation",))

    def centres(self) -> Floats:
        """(rows * columns, 3) easting, northing, level, row by row from the north."""
        rows, columns = self.elevation.shape
        e = self.corner[0] + (np.arange(columns) + 0.5) * self.size[0]
        n = self.corner[1] + (rows - np.arange(rows) - 0.5) * self.size[1]
        ee, nn = np.meshgrid(e, n)
        return np.column_stack([ee.ravel(), nn.ravel(), self.elevation.ravel()])


def read_grid(content: bytes, name: str = "file") -> Grid:
    """Read an Esri ASCII grid or a GeoTIFF elevation grid (first band).

    Raises
    ------
    FormatError    empty, too large, not such a grid, turned against north, or without any level
    """
    if not content.strip():
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    tiff = content[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
    told: dict[str, Any] = {}
    data = b""
    for told, data in messages_of("grid", content, name, most=MOST_CELLS, driver="GTiff" if tiff else "AAIGrid"):  # noqa: B007
        pass
    a, b, c, d, e, f = told["transform"]
    if abs(b) > 1e-9 or abs(d) > 1e-9 or a <= 0 or e >= 0:
        raise FormatError("grid-turned", name=name)
    values = np.frombuffer(data, "<f8").reshape(told["rows"], told["columns"])
    values = np.where(np.abs(values) < _FARTHEST_LEVEL, values, np.nan)
    if not np.isfinite(values).any():
        raise FormatError("grid-no-level", name=name)
    return Grid(values, (float(c), float(f + e * values.shape[0])), (float(a), float(-e)), told["reference"])


def survey_of_grid(grid: Grid) -> tuple[Survey, list[Finding]]:
    """The cells that have a level as points."""
    centres = grid.centres()
    there = np.isfinite(centres[:, 2])
    findings = [Finding("note", "grid-no-value", {"count": int((~there).sum())})] if not there.all() else []
    return Survey(centres[there], point_type="grid"), findings


def grid_of_surface(surface: Surface, size: float) -> Grid:
    """Levels of a surface at the centres of square cells, on whole multiples of the cell size (m)."""
    e0, n0, e1, n1 = surface.extent
    corner = (float(np.floor(e0 / size) * size), float(np.floor(n0 / size) * size))
    columns, rows = int(np.ceil((e1 - corner[0]) / size)), int(np.ceil((n1 - corner[1]) / size))
    if columns * rows > MOST_CELLS:
        least = float(np.sqrt((e1 - e0) * (n1 - n0) / MOST_CELLS)) * 1.01
        raise FormatError("grid-cells", size=size, count=columns * rows, limit=MOST_CELLS, least=least)
    empty = Grid(np.zeros((rows, columns)), corner, (size, size))
    return Grid(read_surface(surface, empty.centres()[:, :2]).elevation.reshape(rows, columns), corner, (size, size))


def write_esri_grid(grid: Grid, stream: Any) -> None:
    """Esri ASCII grid text, levels to the millimetre. By the format's public description (from memory)."""
    rows, columns = grid.elevation.shape
    stream.write(
        f"ncols {columns}\nnrows {rows}\nxllcorner {grid.corner[0]:.4f}\nyllcorner {grid.corner[1]:.4f}\n"
        f"cellsize {grid.size[0]:.6g}\nNODATA_value {_NO_VALUE:.0f}\n"
    )
    np.savetxt(stream, np.where(np.isfinite(grid.elevation), grid.elevation, _NO_VALUE), fmt="%.3f")
