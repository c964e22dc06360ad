"""A family of damaged files: what broken transfers, editors and programs do to bytes and to numbers."""

from __future__ import annotations

import re

import numpy as np

__all__ = ["damaged"]

_NUMBER = re.compile(rb"-?\d+(?:\.\d+)?")
_ODD = (
    b"",
    b"0",
    b"-0",
    b"nan",
    b"inf",
    b"1e308",
    b"-1e12",
    b"1e-300",
    b"99999999999999999999",
    b"4294967295",
    b"1,5",
    b"-9999",
    b"1+200",
)


def damaged(content: bytes, rng: np.random.Generator) -> bytes:
    """``content`` with one to four hurts: cut short, bytes flipped, a stretch lost, a stretch said again or moved, a number made
    odd, a number of a binary file made greatest. Half of the files have odd numbers only, so that the form holds and what
    reads the numbers is reached."""
    data, numbers_only = bytearray(content), rng.random() < 0.5
    for _ in range(rng.integers(1, 5)):
        if len(data) < 2:
            break
        a, b = sorted(rng.integers(0, len(data), 2).tolist())
        b = min(b, a + int(10 ** rng.uniform(0, 3.5)))
        match 5 if numbers_only else rng.integers(0, 7):
            case 0:
                del data[max(b, 1) :]
            case 1:
                for i in rng.integers(0, len(data), rng.integers(1, 9)):
                    data[i] ^= 1 << int(rng.integers(0, 8))
            case 2:
                del data[a:b]
            case 3:
                data[b:b] = data[a:b] * int(rng.integers(1, 4))
            case 4:
                part = data[a:b]
                del data[a:b]
                at = int(rng.integers(0, len(data) + 1))
                data[at:at] = part
            case 5:
                numbers = list(_NUMBER.finditer(bytes(data)))
                if numbers:
                    m = numbers[rng.integers(0, len(numbers))]
                    data[m.start() : m.end()] = _ODD[rng.integers(0, len(_ODD))]
            case _:
                data[a : a + 4] = b"\xff" * min(4, len(data) - a)
    return bytes(data)
