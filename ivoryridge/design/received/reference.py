"""Coordinate references named in files, set beside the project's."""

from __future__ import annotations

from typing import Any

__all__ = ["compare_references"]


def compare_references(file: str, project: str) -> str | None:
    """A sentence where a file names another reference than the project's, or one in other units; None where all is well.

    Names and codes are looked up by pyproj; a project's own local grid is no such name, so it can only be set beside it.
    """
    if not file or file == project:
        return None
    theirs, ours = _known(file), _known(project)
    if theirs is not None and ours is not None:
        if theirs.equals(ours, ignore_axis_order=True):
            return None
        return f"The file is in {theirs.name}, the project in {ours.name}. Coordinates are taken as they are; transform the file first."
    name = theirs.name if theirs is not None else file
    units = {a.unit_name for a in theirs.axis_info} if theirs is not None else set()
    also = f" It is in {', '.join(sorted(units))}, not in metres." if units and units != {"metre"} else ""
    return f"The file names {name} as its coordinate reference, the project's is '{project}'. Check that both mean the same grid.{also}"


def _known(text: str) -> Any:
    from pyproj import CRS
    from pyproj.exceptions import CRSError

    try:
        return CRS.from_user_input(text)
    except CRSError:
        return None
