"""Several ways to lay out one report: which of its tables, columns and rows stand on the page. Nothing is computed anew."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from .table import Table

__all__ = ["Layout", "laid_out", "layouts_of"]

_ROUND_LINE = ("Element", "PI", "From", "To", "Length", "Radius at start", "Radius at end", "A")
_PLACES = ("Element", "From", "Easting", "Northing", "Azimuth")


@dataclass(frozen=True, slots=True)
class Layout:
    """``table``: which of the report's; ``columns`` and ``rows``: their numbers in it, in the order they are shown."""

    name: str
    table: int
    columns: tuple[int, ...]
    rows: tuple[int, ...]


def layouts_of(kind: str, tables: Sequence[Table]) -> tuple[Layout, ...]:
    """The layouts of a report, the usual one first; none where there is only one way to show it."""
    if kind == "elements":
        return (
            _all("All values", tables, 0),
            _columns("Geometry", tables[0], _ROUND_LINE),
            _columns("Start places", tables[0], _PLACES),
        )
    if kind == "deviation":
        by_place = tables[0]
        offset = next(i for i, c in enumerate(by_place.columns) if c.name == "Offset")
        worst = sorted(range(len(by_place.rows)), key=lambda i: -abs(by_place.rows[i][offset]))
        every = _all("In order of chainage", tables, 0)
        return (
            every, replace(every, name="Greatest first", rows=tuple(worst)),
            replace(every, name="Beyond the limit", rows=_where(by_place, lambda row: row[-1] == "over")), _all("By element", tables, 1),
        )  # fmt: skip
    if kind == "earthwork":
        return (_all("Summary", tables, 0), _all("Per interval", tables, 1), _all("Per material", tables, 2))
    return ()


def laid_out(tables: Sequence[Table], layout: Layout) -> Table:
    """The table of a layout."""
    table = tables[layout.table]
    rows = tuple(tuple(table.rows[r][c] for c in layout.columns) for r in layout.rows)
    return Table(table.title, tuple(table.columns[c] for c in layout.columns), rows, tables[0].told)


def _all(name: str, tables: Sequence[Table], table: int) -> Layout:
    return Layout(name, table, tuple(range(len(tables[table].columns))), tuple(range(len(tables[table].rows))))


def _columns(name: str, table: Table, names: Sequence[str]) -> Layout:
    places = {c.name: i for i, c in enumerate(table.columns)}
    return Layout(name, 0, tuple(places[n] for n in names), tuple(range(len(table.rows))))


def _where(table: Table, wanted: Callable[[tuple[object, ...]], bool]) -> tuple[int, ...]:
    return tuple(i for i, row in enumerate(table.rows) if wanted(row))
