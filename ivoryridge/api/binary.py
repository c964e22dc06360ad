"""Packed geometry: ``magic(4) | uint32 header length | JSON header, padded to 8 | 4-byte aligned sections``."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse

__all__ = ["MAGIC", "pack_geometry", "unchanged", "with_key"]

MAGIC = b"IRG1"
_TYPES = {"f": np.float32, "u": np.uint32}


def pack_geometry(origin: tuple[float, float], sections: dict[str, Any], **told: Any) -> bytes:
    """Float sections become float32 after the caller has taken off ``origin`` (E, N, m); int sections uint32."""
    listed, blobs = [], []
    for name, values in sections.items():
        a = np.asarray(values)
        kind = "u" if a.dtype.kind in "iu" else "f"
        packed = np.ascontiguousarray(a, _TYPES[kind])
        listed.append({"name": name, "type": kind, "shape": list(packed.shape)})
        blobs.append(packed.tobytes())
    header = json.dumps({"version": 1, "origin": list(origin), "sections": listed, **told}).encode()
    header += b" " * (-(len(header) + 8) % 8)
    return b"".join([MAGIC, np.uint32(len(header)).tobytes(), header, *blobs])


def unchanged(request: HttpRequest, key: str) -> bool:
    """The browser already has the result of this key."""
    return request.headers.get("If-None-Match") == f'"{key}"'


def with_key(body: bytes, key: str, content_type: str = "application/octet-stream") -> HttpResponse:
    response = HttpResponse(body, content_type=content_type)
    response["ETag"] = f'"{key}"'
    response["Cache-Control"] = "private, no-cache"
    return response
