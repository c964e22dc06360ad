"""Foreign binary files are read in a process apart, with limits of memory and time: what a damaged one does there ends in a sentence.

The child reads the file from its standard input and writes messages to its standard output: a line of JSON, and behind it as many
bytes as that says. It imports no more than the one library that reads the format.
"""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np

from ..errors import FormatError

__all__ = ["messages_of"]

MEMORY = 3 * 1024**3  # bytes of address space: libraries alone take one
SECONDS = 300  # of computing
_ROOT = str(Path(__file__).resolve().parents[3])


def messages_of(kind: str, content: bytes, name: str, **options: Any) -> Iterator[tuple[dict[str, Any], bytes]]:
    """What the reader of a kind (``las``, ``tiff``) tells of a file, message by message. Leaving the loop ends the child.

    Raises
    ------
    FormatError    the reader says so, or it died: out of memory, out of time, or by a fault of its own
    """
    environment = {**os.environ, "PYTHONPATH": _ROOT, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    command = [sys.executable, "-m", "ivoryridge.core.exchange.apart", kind, json.dumps(options)]
    child = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=environment)
    assert child.stdin is not None and child.stdout is not None
    feeding = threading.Thread(target=_feed, args=(child.stdin, content), daemon=True)
    feeding.start()
    try:
        while line := child.stdout.readline():
            told = json.loads(line)
            data = child.stdout.read(told.get("bytes", 0))
            if len(data) < told.get("bytes", 0):
                break
            if "refused" in told:
                raise FormatError(told["refused"], name=name, **told.get("params", {}))
            if told.get("end"):
                return
            yield told, data
        code = child.wait(timeout=10)
        how = "it ran out of memory or broke down" if code else "it stopped in the middle"
        raise FormatError("reader-died", name=name, how=how)
    finally:
        child.kill()
        child.stdout.close()
        child.wait()
        feeding.join(timeout=10)


def _feed(pipe: Any, content: bytes) -> None:
    try:
        pipe.write(content)
        pipe.close()
    except (BrokenPipeError, OSError, ValueError):  # the child is gone; the reading side tells
        pass


# --- the child -----------------------------------------------------------------------------------------------
def _tell(told: dict[str, Any], data: bytes = b"") -> None:
    out = sys.stdout.buffer
    out.write(json.dumps({**told, "bytes": len(data)}).encode() + b"\n")
    out.write(data)
    out.flush()


def _las(content: bytes, most: int) -> None:
    """Messages of up to a million points: (n, 3) float64 places, then n class numbers, then n withheld flags."""
    import laspy

    with laspy.open(io.BytesIO(content), read_evlrs=False) as source:
        total = int(source.header.point_count)
        _tell({"total": total})
        done = 0
        for chunk in source.chunk_iterator(1_000_000):
            xyz = np.column_stack([chunk.x, chunk.y, chunk.z]).astype("<f8")
            kinds = np.asarray(chunk.classification).astype("u1")
            withheld = np.asarray(chunk.withheld).astype("u1")
            done += len(xyz)
            _tell({"count": len(xyz), "done": done}, xyz.tobytes() + kinds.tobytes() + withheld.tobytes())
            if done >= most:
                return
        if done < total:
            _tell({"refused": "las-cut", "params": {"count": total, "there": done}})


def _grid(content: bytes, most: int, driver: str) -> None:
    """One message: rows, columns, transform, reference; float64 levels, NaN where none."""
    import warnings

    import rasterio
    from rasterio.errors import NotGeoreferencedWarning

    ending = ".tif" if driver == "GTiff" else ".asc"
    with warnings.catch_warnings(), rasterio.MemoryFile(content, ext=ending) as memory:
        warnings.simplefilter("error", NotGeoreferencedWarning)
        try:
            source = memory.open(driver=driver)
        except NotGeoreferencedWarning:
            _tell({"refused": "grid-no-place"})
            return
        if source.width * source.height > most:
            _tell({"refused": "grid-too-large", "params": {"columns": source.width, "rows": source.height, "limit": most}})
            return
        values = source.read(1, masked=True).astype(float).filled(np.nan)
        reference = "" if source.crs is None else (source.crs.to_string() or "")
        unit = (source.units or ("",))[0] or ""
        told = {
            "rows": values.shape[0],
            "columns": values.shape[1],
            "transform": list(source.transform)[:6],
            "reference": reference,
        }
        _tell({**told, "bands": source.count, "unit": unit}, values.astype("<f8").tobytes())


_READERS: dict[str, Callable[..., None]] = {"las": _las, "grid": _grid}


def _main(kind: str, options: str) -> None:
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    content = sys.stdin.buffer.read()
    try:
        _READERS[kind](content, **json.loads(options))
    except MemoryError:
        _tell({"refused": "reader-died", "params": {"how": "it asks for more memory than there is"}})
    except BaseException as error:  # libraries raise panics of their own, which are no Exceptions; all are told
        _tell(
            {
                "refused": f"{kind}-broken",
                "params": {"reason": _REASONS.get(type(error).__name__, "its content does not follow the format")},
            }
        )
    else:
        _tell({"end": True})


_REASONS = {
    "LazrsError": "its packed points cannot be unpacked; it is damaged or cut off",
    "EOFError": "it ends in the middle",
    "RasterioIOError": "it does not start as such a grid does, or is cut off",
}

if __name__ == "__main__":
    _main(sys.argv[1], sys.argv[2])
