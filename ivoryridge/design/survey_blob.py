"""Survey sets packed for a row: points with codes, breaklines, faces; and the hash that enters derived keys."""

from __future__ import annotations

import hashlib
import io
import itertools
import json
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ivoryridge.core.arrays import frozen_fields

__all__ = ["SurveyArrays", "pack_survey", "unpack_survey"]


@dataclass(frozen=True, slots=True, eq=False)
class SurveyArrays:
    """points (n, 3) m · codes per point · lines: breaklines, each (k, 3) m · faces (m, 3) point indices, may be empty."""

    points: NDArray[np.float64]
    codes: tuple[str, ...] = ()
    lines: tuple[NDArray[np.float64], ...] = ()
    faces: NDArray[np.int64] = field(default_factory=lambda: np.empty((0, 3), np.int64))

    def __post_init__(self) -> None:
        frozen_fields(self, ("points",))
        frozen_fields(self, ("faces",), np.int64)

    def inventory(self) -> dict[str, Any]:
        """Counts, extent and level range, for people."""
        stacked = np.concatenate([self.points, *self.lines]) if self.lines else self.points
        low, high = stacked.min(axis=0), stacked.max(axis=0)
        counts: dict[str, int] = {}
        for c in self.codes:
            counts[c] = counts.get(c, 0) + 1
        return {
            "points": len(self.points), "breaklines": len(self.lines), "faces": len(self.faces),
            "extent": [float(low[0]), float(low[1]), float(high[0]), float(high[1])],
            "levels": [float(low[2]), float(high[2])],
            "codes": [[c or "no code", n] for c, n in sorted(counts.items(), key=lambda item: -item[1])[:20]],
        }  # fmt: skip


def pack_survey(arrays: SurveyArrays) -> tuple[bytes, str]:
    """Bytes for the row, and the hash of what they hold."""
    starts = np.cumsum([0, *(len(line) for line in arrays.lines)])
    vertices = np.concatenate(arrays.lines) if arrays.lines else np.empty((0, 3))
    words = sorted(set(arrays.codes))
    number = {w: i for i, w in enumerate(words)}
    out = io.BytesIO()
    np.savez_compressed(
        out, points=arrays.points, vertices=vertices, starts=starts, faces=arrays.faces,
        code=np.array([number[c] for c in arrays.codes], np.int32), words=np.frombuffer(json.dumps(words).encode(), np.uint8),
    )  # fmt: skip
    h = hashlib.blake2b(digest_size=16)
    for a in (arrays.points, vertices, starts, arrays.faces):
        h.update(f"{a.dtype}{a.shape}".encode() + np.ascontiguousarray(a).tobytes())
    return out.getvalue(), h.hexdigest()


def unpack_survey(blob: bytes) -> SurveyArrays:
    with np.load(io.BytesIO(bytes(blob)), allow_pickle=False) as z:
        words = json.loads(z["words"].tobytes().decode())
        starts, vertices = z["starts"], z["vertices"]
        lines = tuple(vertices[a:b] for a, b in itertools.pairwise(starts))
        return SurveyArrays(z["points"], tuple(words[i] for i in z["code"]), lines, z["faces"])
