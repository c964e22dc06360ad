"""Measured points that are strung into lines by their codes, as surveyors code them in the field."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

__all__ = ["LINE_WORDS", "CodedLine", "strung", "words_of"]

# words behind a code that start, end or close a line (common practice, no source); a project's own come with its sorting rules
LINE_WORDS: Mapping[str, tuple[str, ...]] = {"line start": ("ST", "BEG"), "line end": ("END", "EN"), "line close": ("CL", "CLS")}


@dataclass(frozen=True, slots=True, eq=False)
class CodedLine:
    """A line through points of one code: the points' numbers in order (a closed one ends where it starts), and its code."""

    code: str
    points: NDArray[np.int64]


def words_of(roles: Mapping[str, str]) -> dict[str, tuple[str, ...]]:
    """The words of start, end and close: those that stand among a survey's roles, else the usual ones."""
    return {k: tuple(w.upper() for w in roles[k].split()) if k in roles else usual for k, usual in LINE_WORDS.items()}


def strung(codes: Sequence[str], numbers: NDArray[np.int64], words: Mapping[str, tuple[str, ...]]) -> list[CodedLine]:
    """Lines through points (``numbers`` among ``codes``, in the order of the file). Points of one code make one line, so a code with
    a number of its own (BL1, BL2) is a line of its own; a word behind the code starts, ends or closes one. Lines may be measured
    across each other. Single points make none.
    """
    open_: dict[str, list[int]] = {}
    done: list[CodedLine] = []

    def finish(code: str, *, closed: bool = False) -> None:
        row = open_.pop(code, [])
        if closed and len(row) > 2:
            row.append(row[0])
        if len(row) > 1:
            done.append(CodedLine(code, np.array(row, np.int64)))

    for i in numbers.tolist():
        code, word = _parted(codes[i], words)
        if word == "line start":
            finish(code)
        open_.setdefault(code, []).append(i)
        if word in ("line end", "line close"):
            finish(code, closed=word == "line close")
    for code in list(open_):
        finish(code)
    return done


def _parted(code: str, words: Mapping[str, tuple[str, ...]]) -> tuple[str, str]:
    """A code without the word behind it, and what that word does ("" for none)."""
    head, _, last = code.strip().replace(".", " ").rpartition(" ")
    if head:
        for what, known in words.items():
            if last.upper() in known:
                return head.strip(), what
    return code.strip(), ""
