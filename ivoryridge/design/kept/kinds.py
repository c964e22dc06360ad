"""Kinds of results and the results themselves: what a result depends on is said once, by what its computation is given.

A kind is a pure function; ``kind(name, version)`` makes one of it. Calling it with its needs computes nothing: it gives a
``Result`` that knows its key, a hash of kind, version, libraries and the very needs that the function will receive. Needs may
be results of other kinds; they enter the key by their own keys and reach the function as their values. What is forgotten is
a NameError in the function, never an old number.

Memory first, then the table of derived results (for kinds that cost seconds and state a codec), else computed. Nothing is ever
invalidated: changed needs have another key. Memory is bounded in bytes, class by class, so that pictures of the ground push
no corridor out.
"""

from __future__ import annotations

import dataclasses
import hashlib
import logging
import struct
import threading
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from importlib.metadata import version as installed
from typing import Any, Generic, TypeVar

import numpy as np
from django.conf import settings
from django.db import DatabaseError, transaction
from django.db.models import Max, Sum
from django.db.models.functions import Length
from django.utils import timezone

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.section.part import Part
from ivoryridge.core.section.template import Template

from ..models import DerivedResult
from .precedence import give_way, stepping_back
from .sizes import fields_of, size_of

__all__ = [
    "Codec",
    "Content",
    "IfPossible",
    "Kind",
    "Result",
    "Stored",
    "clear_memory",
    "computed_counts",
    "fields_hash",
    "find_together",
    "hash_of",
    "kind",
    "libraries",
    "memory_in_use",
    "tag",
    "trial",
    "versions",
]

log = logging.getLogger(__name__)

T = TypeVar("T")
Codec = tuple[Callable[[Any], bytes], Callable[[bytes], Any]]  # value -> bytes, and back
Together = Callable[[Sequence[Mapping[str, Any]]], Sequence[Any]]  # needs of several results -> their values

_NUMBERS = ("numpy", "scipy", "numba", "shapely", "pythoncdt")  # libraries whose numbers are kept
_CHUNK = 4_000_000  # bytes a row
MOST_BYTES = 1_000_000_000  # of the table; a surface of a million points takes about 60 MB
# class of memory -> its share of IVORY_MEMORY_MB; "trial" holds what drags derive, so that they push nothing saved out
SHARES = {"ground": 0.55, "shown": 0.1, "road": 0.2, "sheets": 0.05, "trial": 0.1}

computed_counts: dict[str, int] = {}  # how often each kind was really computed; read by tests
_kinds: dict[str, Kind[Any]] = {}
_kept: dict[str, OrderedDict[str, tuple[Any, int]]] = {name: OrderedDict() for name in SHARES}
_bytes: dict[str, int] = dict.fromkeys(SHARES, 0)  # in use, by class
_trying: ContextVar[bool] = ContextVar("trying", default=False)
_lock = threading.Lock()
_working: dict[str, threading.Lock] = {}


@cache
def libraries() -> str:
    return " ".join(f"{name} {installed(name)}" for name in _NUMBERS)


# --- what a computation may need -----------------------------------------------------------------------------
@dataclasses.dataclass(frozen=True, slots=True, eq=False)
class Stored(Generic[T]):
    """What is read from where it is stored; ``key`` is the hash of its content, never its id."""

    key: str
    load: Callable[[], T]

    def get(self) -> T:
        return self.load()


class Content(Generic[T]):
    """A record that enters keys by its whole content, hashed once; e.g. a template with all of its parts, or a standard."""

    __slots__ = ("_key", "value")
    _known: OrderedDict[int, tuple[Any, str]] = OrderedDict()  # by identity; the record is held, so its identity stays its own

    def __init__(self, value: T) -> None:
        self.value, self._key = value, ""

    @property
    def key(self) -> str:
        if not self._key:
            known = Content._known.get(id(self.value))
            if known is None:
                known = (self.value, hash_of(_fields(self.value)))
                Content._known[id(self.value)] = known
                while len(Content._known) > 256:
                    Content._known.popitem(last=False)
            self._key = known[1]
        return self._key

    def get(self) -> T:
        return self.value


class IfPossible(Generic[T]):
    """A result where it can be computed, else None; why it cannot is told where it is asked for itself."""

    __slots__ = ("result",)

    def __init__(self, result: Result[T]) -> None:
        self.result = result

    @property
    def key(self) -> str:
        return f"if-possible-{self.result.key}"

    def get(self) -> T | None:
        try:
            return self.result.get()
        except IvoryRidgeError:
            return None


@dataclasses.dataclass(frozen=True, slots=True, eq=False)
class Kind(Generic[T]):
    """A kind of result; raise ``version`` in the same commit as the formula behind it."""

    name: str
    version: int
    make: Callable[..., T]
    memory: str
    codec: Codec | None
    together: Together | None = None

    def __call__(self, **needs: Any) -> Result[T]:
        return Result(self, needs)


def kind(
    name: str, version: int, *, memory: str = "road", codec: Codec | None = None, together: Together | None = None
) -> Callable[[Callable[..., T]], Kind[T]]:
    """Make a kind of a pure function. ``memory``: its class, one of ``SHARES``; ``codec``: how it is kept in the table;
    ``together``: finds several at once, sooner, each as the function would find it."""

    def declare(make: Callable[..., T]) -> Kind[T]:
        assert name not in _kinds and memory in SHARES, name
        declared = Kind(name, version, make, memory, codec, together)
        _kinds[name] = declared
        return declared

    return declare


def versions() -> dict[str, int]:
    """Version of the code behind each kind."""
    return {k.name: k.version for k in _kinds.values()}


class Result(Generic[T]):
    """One result of a kind: a key now, a value when asked for. Errors of the computation are raised and not kept."""

    __slots__ = ("_key", "kind", "needs")

    def __init__(self, of: Kind[T], needs: Mapping[str, Any]) -> None:
        self.kind, self.needs, self._key = of, needs, ""

    @property
    def key(self) -> str:
        if not self._key:
            self._key = f"{self.kind.name}-{hash_of([self.kind.version, libraries(), self.needs])}"
        return self._key

    def get(self) -> T:
        return self._found(self.found_anew)

    def found_anew(self) -> T:
        """The value computed, whatever is in memory, and not kept."""
        return self.kind.make(**self._values())

    def _values(self) -> dict[str, Any]:
        return {k: _value(v) for k, v in self.needs.items()}

    def keep(self, value: Callable[[], T]) -> T:
        """The value, where another computation has found it along the way: the same that the kind's own would give."""
        return self._found(value)

    def _found(self, compute: Callable[[], T]) -> T:
        """Two threads that want the same thing compute it once."""
        found, value = _look(self)
        if found:
            return value
        give_way()
        with _alone(self.key):
            found, value = _look(self)
            if found:
                return value
            read = _read_table(self) if self.kind.codec else None
            if read is not None:
                value = read
            else:
                value = compute()
                computed_counts[self.kind.name] = computed_counts.get(self.kind.name, 0) + 1
                if self.kind.codec and not _trying.get():
                    _write_table(self, value)
            _remember(self, value)
        return value


@contextmanager
def _alone(key: str) -> Iterator[None]:
    """While one thread works on a key, others that want it wait."""
    with _lock:
        own = _working.setdefault(key, threading.Lock())
    if not own.acquire(blocking=False):
        with stepping_back():
            own.acquire()
    try:
        yield
    finally:
        with _lock:
            _working.pop(key, None)
        own.release()


def _value(need: Any) -> Any:
    if isinstance(need, Result | Stored | Content | IfPossible):
        return need.get()
    if isinstance(need, Mapping):
        return {k: _value(v) for k, v in need.items()}
    if isinstance(need, tuple):
        find_together(need)
        return tuple(_value(v) for v in need)
    return need


def find_together(row: tuple[Any, ...]) -> None:
    """Find those of a row that are not in memory, where their kind finds several at once."""
    by: dict[str, list[Result[Any]]] = {}
    for r in row:
        if isinstance(r, Result) and r.kind.together is not None and not _look(r)[0]:
            by.setdefault(r.kind.name, []).append(r)
    for missing in by.values():
        if len(missing) > 1:
            values = missing[0].kind.together([r._values() for r in missing])  # type: ignore[misc]
            for r, value in zip(missing, values, strict=True):

                def found(value: Any = value) -> Any:
                    return value

                r.keep(found)


# --- keys ----------------------------------------------------------------------------------------------------
def hash_of(value: Any) -> str:
    """Hash of plain values, arrays, records and needs. -0.0 is 0.0, an int equals the same float, mappings are sorted.

    Raises TypeError for anything whose content it cannot see.
    """
    h = hashlib.blake2b(digest_size=20)
    _feed(h.update, value)
    return h.hexdigest()


def _feed(put: Callable[[bytes], None], value: Any) -> None:
    _feeder(type(value))(put, value)


Feeder = Callable[[Callable[[bytes], None], Any], None]
_feeders: dict[type, Feeder] = {}


def _feeder(kind: type) -> Feeder:
    """What puts a value of a type into a hash; found once a type, since keys are made of many small values in every trial."""
    found = _feeders.get(kind)
    if found is None:
        found = _feeders[kind] = _feeder_of(kind)
    return found


def _feeder_of(kind: type) -> Feeder:
    if kind is type(None) or issubclass(kind, str | bool):
        return lambda put, v: put(f"{type(v).__name__}{len(str(v))}:{v};".encode())
    if issubclass(kind, int | float | np.integer | np.floating):
        return lambda put, v: put(b"f" + struct.pack("=d", float(v) + 0.0))
    if issubclass(kind, Result | Stored | Content | IfPossible):
        return lambda put, v: put(f"need:{v.key};".encode())
    if issubclass(kind, np.ndarray):
        return _feed_array
    if issubclass(kind, Mapping):
        return _feed_mapping
    if issubclass(kind, list | tuple):
        return _feed_row
    if issubclass(kind, Exception):
        return lambda put, v: put(f"{type(v).__name__}:{v};".encode())
    if issubclass(kind, Template | Part):
        return lambda put, v: put(f"need:{Content(v).key};".encode())
    if hasattr(kind, "content_key"):
        return lambda put, v: put(f"content:{v.content_key()};".encode())
    if issubclass(kind, frozenset):
        return lambda put, v: _feed(put, sorted(v))
    if dataclasses.is_dataclass(kind):
        return _feed_record
    raise TypeError(f"{kind.__name__} cannot enter a key")


def _feed_array(put: Callable[[bytes], None], value: Any) -> None:
    a = np.ascontiguousarray(value)
    if a.dtype.kind == "f":
        a = a + 0.0
    put(f"a{a.dtype.str}{a.shape}:".encode())
    put(a.tobytes())


def _feed_mapping(put: Callable[[bytes], None], value: Any) -> None:
    put(b"{")
    for k in sorted(value):
        _feed(put, k)
        _feed(put, value[k])
    put(b"}")


def _feed_row(put: Callable[[bytes], None], value: Any) -> None:
    put(b"[")
    for v in value:
        _feeder(type(v))(put, v)
    put(b"]")


def _feed_record(put: Callable[[bytes], None], value: Any) -> None:
    record: Any = type(value)
    put(f"{record.__name__}(".encode())
    for name in fields_of(record):
        v = getattr(value, name)
        _feeder(type(v))(put, v)
    put(b")")


def _fields(record: Any) -> dict[str, Any]:
    return {"": type(record).__name__, **{f.name: getattr(record, f.name) for f in dataclasses.fields(record)}}


def fields_hash(record: Any) -> str:
    """Hash of a record by its fields, for its ``content_key``."""
    return hash_of(_fields(record))


def tag(name: str, version: int, *made_of: Any) -> str:
    """Tag of a picture: another one whenever anything it is made of, its own version or a library is another one."""
    return f"{name}-{hash_of([version, libraries(), *made_of])}"


# --- memory --------------------------------------------------------------------------------------------------
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
        for name, kept in _kept.items():
            kept.clear()
            _bytes[name] = 0


def memory_in_use() -> dict[str, tuple[int, int]]:
    """Class of memory -> bytes in use, and at most."""
    with _lock:
        return {name: (_bytes[name], _limit(name)) for name in _kept}


def _limit(name: str) -> int:
    return int(SHARES[name] * settings.MEMORY_MB * 1e6)


def _look(result: Result[T]) -> tuple[bool, T]:
    with _lock:
        for name in (result.kind.memory, "trial"):
            if result.key in _kept[name]:
                _kept[name].move_to_end(result.key)
                return True, _kept[name][result.key][0]
    return False, None  # type: ignore[return-value]


def _remember(result: Result[T], value: T) -> None:
    name = "trial" if _trying.get() else result.kind.memory
    size = _size_in_trial(result.kind.name, value) if name == "trial" else size_of(value)
    with _lock:
        kept = _kept[name]
        _bytes[name] -= kept.pop(result.key, (None, 0))[1]
        kept[result.key] = (value, size)
        _bytes[name] += size
        if name == "ground":  # few, and they grow with what is found out about them
            for key, (v, _) in kept.items():
                kept[key] = (v, size_of(v))
            _bytes[name] = sum(size for _, size in kept.values())
        while _bytes[name] > _limit(name) and len(kept) > 1:
            _bytes[name] -= kept.popitem(last=False)[1][1]


_MEASURED_EACH = 8  # of the results of a kind in trials: a drag makes many of one size, and measuring takes time from it
_in_trials: dict[str, list[int]] = {}  # kind -> results since one was measured, and its size


def _size_in_trial(kind: str, value: Any) -> int:
    row = _in_trials.setdefault(kind, [_MEASURED_EACH, 0])
    row[0] += 1
    if row[0] > _MEASURED_EACH:
        row[:] = [0, size_of(value)]
    return row[1]


# --- the table of derived results ----------------------------------------------------------------------------
def _write_table(result: Result[Any], value: Any) -> None:
    assert result.kind.codec is not None
    blob = result.kind.codec[0](value)
    parts = [blob[i : i + _CHUNK] for i in range(0, len(blob), _CHUNK)]
    try:
        with transaction.atomic("derived"):
            DerivedResult.objects.filter(key=result.key).delete()
            DerivedResult.objects.bulk_create(
                DerivedResult(key=result.key, part=i, kind=result.kind.name, blob=p) for i, p in enumerate(parts)
            )
            _drop_least_used()
    except DatabaseError:  # a full disk costs the next start some time, and must not cost the result
        log.warning("a derived %s could not be kept", result.kind.name, exc_info=True)


def _drop_least_used() -> None:
    """Keep the table below its limit: what was used longest ago goes first, whole results at a time."""
    rows = DerivedResult.objects.values("key").annotate(size=Sum(Length("blob")), last=Max("used_at")).order_by("-last")
    total, drop = 0, []
    for row in rows:
        total += row["size"]
        if total > MOST_BYTES:
            drop.append(row["key"])
    DerivedResult.objects.filter(key__in=drop).delete()


def _read_table(result: Result[Any]) -> Any:
    assert result.kind.codec is not None
    try:
        DerivedResult.objects.filter(key=result.key).update(used_at=timezone.now())
        parts = list(DerivedResult.objects.filter(key=result.key).order_by("part").values_list("blob", flat=True))
        return result.kind.codec[1](b"".join(bytes(p) for p in parts)) if parts else None
    except (DatabaseError, ValueError, KeyError, OSError):
        log.warning("a kept result could not be read; it is computed again", exc_info=True)
        return None
