"""Keyed results: a derived thing is a pure function of its inputs, found again by a hash of them.

Memory first, then the table of derived results (for kinds that cost seconds), else computed. Nothing is ever
invalidated: changed inputs have another key.
"""

from __future__ import annotations

import dataclasses
import hashlib
import io
import logging
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

import numpy as np
import orjson
from django.db import DatabaseError, transaction
from django.db.models import Max, Sum
from django.db.models.functions import Length
from django.utils import timezone
from numpy.typing import NDArray

from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.surface import Surface

from .models import DerivedResult

__all__ = [
    "CODECS",
    "CODE_VERSION",
    "clear_memory",
    "computed_counts",
    "derived",
    "finding_from",
    "findings_from",
    "key_of",
    "told_of",
    "trial",
]

log = logging.getLogger(__name__)

# Raise a number in the same commit as the formula behind it.
CODE_VERSION = {
    "surface": 4,
    "checks": 2,
    "gathered": 3,
    "lines": 4,
    "ponds": 1,
    "overview": 1,
    "shown": 1,
    "contours": 2,
    "terrain": 1,
    "line": 1,
    "levels": 3,
    "ground": 2,
    "cuts": 1,
    "crossfall": 1,
    "corridor": 3,
    "fit": 2,
    "areas": 2,
    "standards": 2,
    "sheets": 1,
}
LIBRARIES = f"numpy {np.__version__}"
_MEMORY_ITEMS = 96
_CHUNK = 4_000_000  # bytes a row
MOST_BYTES = 1_000_000_000  # of kept results; a surface of a million points takes about 60 MB

_memory: OrderedDict[str, Any] = OrderedDict()
_trials: OrderedDict[str, Any] = OrderedDict()  # results of trials: a few, so that a drag pushes nothing saved out
_TRIAL_ITEMS = 16
_trying: ContextVar[bool] = ContextVar("trying", default=False)
_lock = threading.Lock()
_working: dict[str, threading.Lock] = {}
computed_counts: dict[str, int] = {}  # how often each kind was really computed; read by tests


def _feed(h: Any, value: Any) -> None:
    """Canonical bytes: dtype and shape count, -0.0 is 0.0, an int equals the same float, mappings are sorted."""
    if value is None or isinstance(value, str | bool):
        h.update(f"{type(value).__name__}:{value};".encode())
    elif isinstance(value, int | float | np.integer | np.floating):
        h.update(b"f" + np.float64(float(value) + 0.0).tobytes())
    elif isinstance(value, np.ndarray):
        a = np.ascontiguousarray(value)
        if a.dtype.kind == "f":
            a = a + 0.0
        h.update(f"a{a.dtype}{a.shape}:".encode())
        h.update(a.tobytes())
    elif isinstance(value, Mapping):
        h.update(b"{")
        for k in sorted(value):
            _feed(h, k)
            _feed(h, value[k])
        h.update(b"}")
    elif isinstance(value, list | tuple):
        h.update(b"[")
        for v in value:
            _feed(h, v)
        h.update(b"]")
    elif dataclasses.is_dataclass(value) and not isinstance(value, type):
        _feed(h, type(value).__name__)
        for f in dataclasses.fields(value):
            _feed(h, getattr(value, f.name))
    else:
        raise TypeError(f"{type(value).__name__} cannot enter a key")


def key_of(kind: str, *inputs: Any) -> str:
    """Key of a derived result; inputs that are derived themselves enter by their own keys (str)."""
    h = hashlib.blake2b(digest_size=20)
    _feed(h, [kind, CODE_VERSION[kind], LIBRARIES, *inputs])
    return f"{kind}-{h.hexdigest()}"


def derived(key: str, compute: Callable[[], Any]) -> Any:
    """The result of that key. Two threads that want the same thing compute it once."""
    with _lock:
        for kept in (_memory, _trials):
            if key in kept:
                kept.move_to_end(key)
                return kept[key]
        own = _working.setdefault(key, threading.Lock())
    with own:
        with _lock:
            if key in _memory or key in _trials:
                return _memory.get(key, _trials.get(key))
        kind = key.partition("-")[0]
        value = _read_table(key) if kind in CODECS else None
        if value is None:
            value = compute()
            computed_counts[kind] = computed_counts.get(kind, 0) + 1
            if kind in CODECS and not _trying.get():
                _write_table(kind, key, value)
        with _lock:
            kept, most = (_trials, _TRIAL_ITEMS) if _trying.get() else (_memory, _MEMORY_ITEMS)
            kept[key] = value
            while len(kept) > most:
                kept.popitem(last=False)
            _working.pop(key, None)
        return value


@contextmanager
def trial() -> Iterator[None]:
    """What is derived in here is a trial: kept apart, never in the table."""
    token = _trying.set(True)
    try:
        yield
    finally:
        _trying.reset(token)


def clear_memory() -> None:
    """Forget what is in memory; costs time only."""
    with _lock:
        _memory.clear()
        _trials.clear()


def _write_table(kind: str, key: str, value: Any) -> None:
    blob = CODECS[kind][0](value)
    parts = [blob[i : i + _CHUNK] for i in range(0, len(blob), _CHUNK)]
    try:
        with transaction.atomic("derived"):
            DerivedResult.objects.filter(key=key).delete()
            DerivedResult.objects.bulk_create(DerivedResult(key=key, part=i, kind=kind, blob=p) for i, p in enumerate(parts))
            _drop_least_used()
    except DatabaseError:  # a full disk costs the next start some time, and must not cost the result
        log.warning("a derived %s could not be kept", kind, exc_info=True)


def _drop_least_used() -> None:
    """Keep the table below its limit: what was used longest ago goes first, whole results at a time."""
    rows = DerivedResult.objects.values("key").annotate(size=Sum(Length("blob")), last=Max("used_at")).order_by("-last")
    total, drop = 0, []
    for row in rows:
        total += row["size"]
        if total > MOST_BYTES:
            drop.append(row["key"])
    DerivedResult.objects.filter(key__in=drop).delete()


def _read_table(key: str) -> Any:
    try:
        DerivedResult.objects.filter(key=key).update(used_at=timezone.now())
        parts = list(DerivedResult.objects.filter(key=key).order_by("part").values_list("blob", flat=True))
        return CODECS[key.partition("-")[0]][1](b"".join(bytes(p) for p in parts)) if parts else None
    except (DatabaseError, ValueError, KeyError, OSError):
        log.warning("a kept result could not be read; it is computed again", exc_info=True)
        return None


def told_of(findings: Iterable[Finding]) -> NDArray[np.uint8]:
    """Findings as bytes, for a kept result."""
    return np.frombuffer(orjson.dumps([dataclasses.asdict(f) for f in findings], option=orjson.OPT_SERIALIZE_NUMPY), np.uint8)


def findings_from(told: NDArray[np.uint8]) -> list[Finding]:
    return [finding_from(f) for f in orjson.loads(told.tobytes())]


def finding_from(told: dict[str, Any]) -> Finding:
    return Finding(**{**told, "place": tuple(told["place"]) if told["place"] else None})


def _pack_surface(value: tuple[Surface, list[Finding]]) -> bytes:
    surface, findings = value
    out = io.BytesIO()
    np.savez(
        out, points=surface.points, triangles=surface.triangles, neighbours=surface.neighbours,
        edges=surface.breakline_edges, findings=told_of(findings),
    )  # fmt: skip
    return out.getvalue()


def _unpack_surface(blob: bytes) -> tuple[Surface, list[Finding]]:
    with np.load(io.BytesIO(blob), allow_pickle=False) as z:
        return Surface(z["points"], z["triangles"], z["neighbours"], z["edges"]), findings_from(z["findings"])


# how kinds that cost seconds are kept in the table; a module that derives such a kind adds its own
CODECS: dict[str, tuple[Callable[[Any], bytes], Callable[[bytes], Any]]] = {"surface": (_pack_surface, _unpack_surface)}
