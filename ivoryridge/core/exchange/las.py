"""Laser points: LAS and LAZ, the ground class, thinned to a stated tolerance. Reading by laspy, in a process apart."""

from __future__ import annotations

import struct
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..errors import FormatError
from ..findings import Finding
from ..terrain.survey import Survey
from ..terrain.thin import thin_to_tolerance
from .apart import messages_of

__all__ = ["count_las_points", "read_las"]

MOST_BYTES = 400 * 1024 * 1024
MOST_POINTS = 20_000_000
MOST_LOOKED_AT = 2_000_000
GROUND = 2  # ASPRS LAS specification 1.4, table 17 'standard point classes' (from memory)


def read_las(
    content: bytes,
    name: str = "file",
    *,
    tolerance: float | None = 0.05,
    progress: Callable[[int, int], None] = lambda done, total: None,
) -> tuple[Survey, list[Finding]]:
    """Ground points of a LAS or LAZ file, as few as keep every one of them within ``tolerance`` m in level of the surface.

    Without any point of the ground class all points are taken, with a finding. Points that the file marks as withheld are left
    out. Without a tolerance no point is thinned away and at most the first 2 million are read; that is quick, for a look.
    ``progress`` is told points read of all, and may raise to cancel.

    Raises
    ------
    FormatError    empty, too large, not such a file, cut off, or no points
    """
    if not content:
        raise FormatError("file-empty", name=name)
    if len(content) > MOST_BYTES:
        raise FormatError("file-too-large", size=len(content) / 1e6, limit=MOST_BYTES / 1e6)
    _check_header(content, name)
    if (count := count_las_points(content)) > MOST_POINTS:
        raise FormatError("las-too-many", name=name, count=count, limit=MOST_POINTS)
    ground: list[NDArray[np.float64]] = []
    rest: list[NDArray[np.float64]] = []
    total = done = withheld = 0
    for told, data in messages_of("las", content, name, most=MOST_LOOKED_AT if tolerance is None else MOST_POINTS):
        total = told.get("total", total)
        if not (n := told.get("count", 0)):
            continue
        xyz = np.frombuffer(data, "<f8", 3 * n).reshape(n, 3)
        kinds, kept_back = np.frombuffer(data, "u1", n, 24 * n), np.frombuffer(data, "u1", n, 25 * n) > 0
        withheld += int(kept_back.sum())
        is_ground = (kinds == GROUND) & ~kept_back
        ground.append(xyz[is_ground])
        if not any(len(g) for g in ground):
            rest.append(xyz[~kept_back])
        elif rest:
            rest.clear()
        done += n
        progress(done, total)
    findings: list[Finding] = []
    points = np.concatenate(ground) if any(len(g) for g in ground) else np.empty((0, 3))
    if not len(points) and rest:
        points = np.concatenate(rest)
        findings.append(Finding("doubt", "las-no-ground", {"count": len(points)}))
    if withheld:
        findings.append(Finding("note", "las-withheld", {"count": withheld}))
    points = points[np.isfinite(points).all(axis=1)]
    if len(points) < 3:
        raise FormatError("las-no-points", name=name, count=len(points))
    ground.clear()
    rest.clear()
    if tolerance is None:
        if done < total:
            findings.append(Finding("note", "las-looked-at", {"count": done, "total": total}))
        return Survey(points, point_type="ground return"), findings
    kept, greatest = thin_to_tolerance(points, tolerance)
    findings.append(
        Finding("note", "las-thinned", {"kept": len(kept), "count": len(points), "tolerance": tolerance, "greatest": greatest})
    )
    return Survey(points[kept], point_type="ground return"), findings


def count_las_points(content: bytes) -> int:
    """How many points the header promises. By the ASPRS LAS specification 1.4, table 3 'public header block' (from memory)."""
    if len(content) >= 255 and tuple(content[24:26]) >= (1, 4):
        return int(struct.unpack_from("<Q", content, 247)[0])
    return int(struct.unpack_from("<I", content, 107)[0]) if len(content) >= 111 else 0


def _check_header(content: bytes, name: str) -> None:
    """Refuse a header that promises more than the file has room for; reading would go on for as long as it says.

    Places of the fields by the ASPRS LAS specification 1.4, table 3 'public header block' (from memory).
    """
    if len(content) < 227 or content[:4] != b"LASF":
        raise FormatError("las-broken", name=name, reason="it does not start as such a file does")
    header_size, points_at, records, kind, size = struct.unpack_from("<HIIBH", content, 94)
    if not 227 <= header_size <= points_at <= len(content) or header_size + 54 * records > points_at:
        raise FormatError("las-broken", name=name, reason="its header promises more than the file holds")
    there = (len(content) - points_at) // max(size, 1)
    if not kind & 0x80 and there < (count := count_las_points(content)):  # packed points say so by that bit
        raise FormatError("las-cut", name=name, count=count, there=there)
