"""Surveys packed for a row, with the hash that enters keys, and findings packed beside a kept result."""

from __future__ import annotations

import dataclasses
import hashlib
import io
import itertools
import json
from collections.abc import Iterable
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.survey import Survey

__all__ = ["finding_from", "findings_from", "pack_findings", "pack_survey", "unpack_survey"]


def pack_survey(survey: Survey) -> tuple[bytes, str]:
    """Bytes for the row, and the hash of what they hold."""
    starts = np.cumsum([0, *(len(line) for line in survey.lines)])
    vertices = np.concatenate(survey.lines) if survey.lines else np.empty((0, 3))
    words = sorted({*survey.codes, *survey.line_codes, *survey.line_types})
    number = {w: i for i, w in enumerate(words)}
    code, line_code, line_type = (
        np.array([number[c] for c in given], np.int32) for given in (survey.codes, survey.line_codes, survey.line_types)
    )
    heights = np.asarray(survey.line_heights)
    named = survey.names if any(survey.names) else ()
    names = np.frombuffer("\n".join(n.replace("\n", " ") for n in named).encode(), np.uint8)
    told = json.dumps({"words": words, "point_type": survey.point_type}).encode()
    out = io.BytesIO()
    np.savez_compressed(
        out, points=survey.points, vertices=vertices, starts=starts, faces=survey.faces, code=code, line_code=line_code,
        line_type=line_type, heights=heights, told=np.frombuffer(told, np.uint8), names=names,
    )  # fmt: skip
    h = hashlib.blake2b(told, digest_size=16)
    for a in (survey.points, vertices, starts, survey.faces, code, line_code, line_type):
        h.update(f"{a.dtype}{a.shape}".encode() + np.ascontiguousarray(a).tobytes())
    if heights.any():  # left out while all is flat, so that surveys from before lines had heights keep their hash
        h.update(heights.tobytes())
    if len(names):  # likewise
        h.update(names.tobytes())
    return out.getvalue(), h.hexdigest()


def unpack_survey(blob: bytes) -> Survey:
    with np.load(io.BytesIO(bytes(blob)), allow_pickle=False) as z:
        starts, vertices = z["starts"], z["vertices"]
        lines = tuple(vertices[a:b] for a, b in itertools.pairwise(starts))
        if "told" not in z:  # packed before lines had codes
            words = json.loads(z["words"].tobytes().decode())
            return Survey(z["points"], tuple(words[i] for i in z["code"]), lines, z["faces"])
        told = json.loads(z["told"].tobytes().decode())
        code, line_code, line_type = (tuple(told["words"][i] for i in z[n]) for n in ("code", "line_code", "line_type"))
        heights = z["heights"] if "heights" in z else np.zeros(len(lines))
        text = z["names"].tobytes().decode() if "names" in z else ""
        names = tuple(text.split("\n")) if text else ()
        return Survey(z["points"], code, lines, z["faces"], line_code, line_type, told["point_type"], heights, names)


def pack_findings(findings: Iterable[Finding]) -> NDArray[np.uint8]:
    """Findings as bytes, for a kept result."""
    return np.frombuffer(orjson.dumps([dataclasses.asdict(f) for f in findings], option=orjson.OPT_SERIALIZE_NUMPY), np.uint8)


def findings_from(packed: NDArray[np.uint8]) -> list[Finding]:
    return [finding_from(f) for f in orjson.loads(packed.tobytes())]


def finding_from(packed: dict[str, Any]) -> Finding:
    return Finding(**{**packed, "place": tuple(packed["place"]) if packed["place"] else None})
