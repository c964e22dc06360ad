"""Laser points: LAS and LAZ, the ground class, thinned to a stated tolerance. Reading by laspy."""

from __future__ import annotations

import io
import struct
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..errors import FormatError
from ..findings import Finding
from ..terrain.survey import Survey
from ..terrain.thin import thin_to_tolerance

__all__ = ["read_las"]

MOST_BYTES = 400 * 1024 * 1024
MOST_POINTS = 20_000_000
GROUND = 2  # ASPRS LAS specification 1.4, table 17 'standard point classes' (from memory)
_CHUNK = 1_000_000
_BROKEN = (ValueError, KeyError, IndexError, TypeError, AttributeError, EOFError, OverflowError, struct.error, RuntimeError)


def read_las(
    content: bytes,
    name: str = "file",
    *,
    tolerance: float | None = 0.05,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> tuple[Survey, list[Finding]]:
    """Ground points of a LAS or LAZ file, as few as keep every one of them within ``tolerance`` m in level of the surface.

    Without any point of the ground class all points are taken, with a finding. Without a tolerance no point is left out;
    that is quick, for a look. ``progress`` is told points read of all,
    and may raise to cancel.

    Raises
    ------
    FormatError    empty, too large, not such a file, or no points
    """
    import laspy

    if not content:
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    _check_header(content, name)
    ground: list[NDArray[np.float64]] = []
    rest: list[NDArray[np.float64]] = []
    done = 0
    try:
        with laspy.open(io.BytesIO(content), read_evlrs=False) as source:
            total = int(source.header.point_count)
            if total > MOST_POINTS:
                raise FormatError("las-too-many", name=name, count=total, limit=MOST_POINTS)
            for chunk in source.chunk_iterator(_CHUNK):
                xyz = np.column_stack([chunk.x, chunk.y, chunk.z])
                is_ground = np.asarray(chunk.classification) == GROUND
                ground.append(xyz[is_ground])
                if not any(len(g) for g in ground):
                    rest.append(xyz)
                elif rest:
                    rest.clear()
                done += len(xyz)
                progress(done, total)
    except (laspy.errors.LaspyException, *_BROKEN) as error:
        raise FormatError("las-broken", name=name, reason=str(error)[:120] or type(error).__name__) from error
    findings: list[Finding] = []
    points = np.concatenate(ground) if any(len(g) for g in ground) else np.empty((0, 3))
    if not len(points) and rest:
        points = np.concatenate(rest)
        findings.append(Finding("doubt", "las-no-ground", {"count": len(points)}))
    points = points[np.isfinite(points).all(axis=1)]
    if len(points) < 3:
        raise FormatError("las-no-points", name=name, count=len(points))
    ground.clear()
    rest.clear()
    if tolerance is None:
        return Survey(points, point_type="ground return"), findings
    kept, greatest = thin_to_tolerance(points, tolerance)
    findings.append(
        Finding("note", "las-thinned", {"kept": len(kept), "count": len(points), "tolerance": tolerance, "greatest": greatest})
    )
    return Survey(points[kept], point_type="ground return"), findings


def _check_header(content: bytes, name: str) -> None:
    """Refuse a header that promises more than the file has room for; reading would go on for as long as it says.

    Places of the fields by the ASPRS LAS specification 1.4, table 3 'public header block' (from memory).
    """
    if len(content) < 227 or content[:4] != b"LASF":
        raise FormatError("las-broken", name=name, reason="it does not start as such a file does")
    header_size, points_at, records = struct.unpack_from("<HII", content, 94)
    if not 227 <= header_size <= points_at <= len(content) or header_size + 54 * records > points_at:
        raise FormatError("las-broken", name=name, reason="its header promises more than the file holds")
