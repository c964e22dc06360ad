"""A report as columns and rows, and as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from ..text import cell
from ..wording import spoken

__all__ = ["Column", "Table", "in_spoken_units", "write_csv"]


@dataclass(frozen=True, slots=True)
class Column:
    """``kind``: "text", "station", or "number" with a unit and decimals; ``signed`` numbers always carry their sign."""

    name: str
    kind: str = "number"
    unit: str = ""
    decimals: int = 3
    signed: bool = False


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of values, one a column; None where there is nothing to say."""

    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[Any, ...], ...]
    told: tuple[str, ...] = ()


_QUANTITIES = {"m": "m", "m²": "m2", "m³": "m3", "km/h": "kmh"}


def in_spoken_units(table: Table) -> Table:
    """The same table with its quantities in the spoken units; stations stay in m."""
    kinds = [_QUANTITIES.get(c.unit, "") if c.kind == "number" else "" for c in table.columns]
    per = [spoken().per(k)[0] if k else 1.0 for k in kinds]
    columns = tuple(replace(c, unit=spoken().per(k)[1]) if k else c for c, k in zip(table.columns, kinds, strict=True))
    rows = tuple(tuple(v / p if p != 1.0 and v is not None else v for v, p in zip(row, per, strict=True)) for row in table.rows)
    return Table(table.title, columns, rows, table.told)


def write_csv(table: Table, station_text: Callable[[float], str]) -> str:
    """Header with units; a station stands as people write it, and as a plain number beside it."""
    out = io.StringIO()
    sheet = csv.writer(out, lineterminator="\r\n")
    head: list[str] = []
    for c in table.columns:
        head += [c.name, f"{c.name} {spoken().length}"] if c.kind == "station" else [f"{c.name} {c.unit}".strip()]
    sheet.writerow(head)
    for row in table.rows:
        cells: list[str] = []
        for c, v in zip(table.columns, row, strict=True):
            if c.kind == "station":
                cells += ["", ""] if v is None else [station_text(v), f"{v / spoken().metre:.{c.decimals}f}"]
            elif v is None or c.kind == "text":
                cells.append("" if v is None else cell(str(v)))
            else:
                cells.append(f"{v:.{c.decimals}f}")
        sheet.writerow(cells)
    return out.getvalue()
