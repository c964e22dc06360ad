"""PIs on held straights: they slide along them, and what is held stays on its line."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import InputError
from .horizontal import PI

__all__ = ["slide"]

_SAME = 1e-6  # m; a PI that is told its own place does not move


def slide(
    pis: Sequence[PI], held: Sequence[bool], index: int, easting: float | None = None, northing: float | None = None
) -> tuple[float, float]:
    """Where the PI of an index goes when it is moved: to the place, or to the nearest one on the held straight beside it.

    held               (n,)    whether the straight from each PI to the next is held
    easting, northing  m       None leaves one to be found: the place on the held straight with the other

    Raises InputError where both its straights are held, so that it has no way to go, and where no place on the straight has the
    coordinate.
    """
    p = pis[index]
    beside = [j for j in (index - 1, index) if 0 <= j < len(pis) - 1 and held[j]]
    wanted = (p.easting if easting is None else easting, p.northing if northing is None else northing)
    if not beside or np.hypot(wanted[0] - p.easting, wanted[1] - p.northing) < _SAME:
        return wanted
    if len(beside) == 2:
        raise InputError("pi-between-held", pi=index + 1)
    other = pis[index - 1 if beside[0] == index - 1 else index + 1]
    along = np.array([p.easting - other.easting, p.northing - other.northing])
    length = float(np.hypot(*along))
    if length < _SAME:
        return wanted
    along /= length
    if easting is not None and northing is not None:
        t = float(along @ [wanted[0] - p.easting, wanted[1] - p.northing])
    else:
        axis, step = (0, wanted[0] - p.easting) if easting is not None else (1, wanted[1] - p.northing)
        if abs(along[axis]) < 1e-9:
            raise InputError("held-square", pi=index + 1, what="easting" if axis == 0 else "northing")
        t = step / float(along[axis])
    if t <= -length:
        raise InputError("held-turned", pi=index + 1, other=beside[0] + 1 if beside[0] != index else index + 2)
    return p.easting + t * float(along[0]), p.northing + t * float(along[1])
