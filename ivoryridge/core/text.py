"""Words that people gave, made fit for what they are written into: files of other programs, tables, names of files."""

from __future__ import annotations

import re
import unicodedata

__all__ = ["cell", "clean", "file_name"]

_FORMULA = ("=", "+", "-", "@", "\t", "\r")
_NUMBER = re.compile(r"[+-]?[\d.,\u2009]+%?")
_TURNING = frozenset("\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")  # marks that turn the way of writing


def clean(text: str) -> str:
    """Without control characters and marks that turn the way of writing; blanks are single. Nothing else changes."""
    kept = "".join(" " if c in "\t\n\r" else "" if unicodedata.category(c) in ("Cc", "Cs") or c in _TURNING else c for c in text)
    return re.sub(r" {2,}", " ", kept).strip()


def cell(text: str) -> str:
    """A text for a cell of a table file: one that a spreadsheet would run as a formula gets a quote before it; numbers stay."""
    if text.startswith(_FORMULA) and not _NUMBER.fullmatch(text.strip()):
        return f"'{text}"
    return text


def file_name(text: str) -> str:
    """A name that leads nowhere: no folders, no drive, no leading dots, at most 120 letters."""
    plain = re.sub(r'[\\/:*?"<>|]+', "-", clean(text)).strip(" .")
    return plain[:120].rstrip(" .") or "unnamed"
