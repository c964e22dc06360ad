"""What a driver who waits on a side road sees along the main road's edge, over the finished ground and past mapped obstacles.

Eye and object heights are from memory: the lowest eye over the lowest object is the view that is hidden first.
docs/formulas.md#junction-sight.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from ..terrain.surface import Surface, read_surface

Floats = NDArray[np.float64]

__all__ = ["EYE", "GAPS", "OBJECT", "Look", "Obstacle", "gap_sight", "in_triangle", "look_along"]

EYE, OBJECT = 1.05, 0.26  # m over the side road, and over the main road's edge (from memory)
_STEP = 1.0  # m between readings of the ground along a line of sight
_NEAR = 1.0  # m from eye and object within which nothing hides


@dataclass(frozen=True, slots=True, eq=False)
class Obstacle:
    """A mapped line that stands over the ground: places (k, 2) m, and its ``height`` m."""

    name: str
    places: Floats
    height: float


@dataclass(frozen=True, slots=True)
class Look:
    """Along one side: how far along the edge all is seen, what is asked for, and how far the edge and the ground under it are known, m;
    what hides the first place that is not seen: where (E, N) m, by how much it stands above the line of sight, m, and what it is."""

    seen: float
    needed: float
    reach: float
    place: tuple[float, float] | None = None
    amount: float = 0.0
    by: str = ""

    @property
    def enough(self) -> bool:
        """All that is known of what is asked for is seen; ``known_to_the_end`` tells whether that is all that is asked for."""
        return self.seen >= min(self.needed, self.reach) - 1e-6

    @property
    def known_to_the_end(self) -> bool:
        return self.reach >= self.needed - 1e-6


def look_along(
    eye: Floats, along: Floats, distance: Floats, needed: float, surface: Surface, obstacles: Sequence[Obstacle] = ()
) -> Look:
    """``eye``: (3,) m; ``along``: (k, 3) m what is looked at, at ``distance`` (k,) m along the edge, increasing.

    The first place that is hidden ends the view, and what is known ends before the first place without a level; what lies off the ground
    hides nothing.
    """
    unknown = np.flatnonzero(~np.isfinite(along[:, 2]))
    if len(unknown):
        along, distance = along[: unknown[0]], distance[: unknown[0]]
    reach = float(distance[-1]) if len(distance) else 0.0
    hidden = np.zeros(len(along))
    where = np.full((len(along), 2), np.nan)
    what = ["the ground"] * len(along)
    d = along[:, :2] - eye[:2]
    far = np.hypot(*d.T)
    steps = np.arange(_NEAR, float(far.max()) - _NEAR, _STEP) if len(far) else np.empty(0)
    if len(steps):
        share = steps[None, :] / far[:, None]
        inside = steps[None, :] < (far - _NEAR)[:, None]
        places = eye[:2] + share[..., None] * d[:, None, :]
        line = eye[2] + share * (along[:, 2] - eye[2])[:, None]
        ground = read_surface(surface, places.reshape(-1, 2)).elevation.reshape(share.shape)
        over = np.where(inside & np.isfinite(ground), ground - line, -np.inf)
        worst = np.argmax(over, axis=1)
        pick = np.arange(len(along))
        hidden = over[pick, worst]
        where = places[pick, worst]
    if obstacles:
        rays = shapely.linestrings(np.stack([np.broadcast_to(eye[:2], d.shape), along[:, :2]], axis=1))
        for obstacle in obstacles:
            wall = shapely.LineString(obstacle.places)
            for i in np.flatnonzero(shapely.intersects(rays, wall)).tolist():
                for p in shapely.get_coordinates(shapely.intersection(rays[i], wall)):
                    at = float(np.hypot(*(p - eye[:2])))
                    if not _NEAR < at < far[i] - _NEAR:
                        continue
                    base = float(read_surface(surface, p).elevation[0])
                    over_line = base + obstacle.height - (eye[2] + at / far[i] * (along[i, 2] - eye[2]))
                    if over_line > hidden[i]:
                        hidden[i], where[i], what[i] = over_line, p, obstacle.name
    first = np.flatnonzero(hidden > 1e-9)
    if not len(first):
        return Look(min(needed, reach), needed, reach)
    i = int(first[0])
    seen = float(distance[i - 1]) if i else 0.0
    return Look(seen, needed, reach, (float(where[i, 0]), float(where[i, 1])), float(hidden[i]), what[i])


# s a driver needs to turn left out of a side road, to turn right or cross, to turn left into it (passenger car)
GAPS = {"B1": 7.5, "B2": 6.5, "F": 5.5}


def gap_sight(speed: float, gap: float, *, factor: float = 0.278) -> float:
    """How far along the main road a driver must see to find a gap of some seconds, in the speed's length: 0.278 V t in m for km/h, 1.47 V t
    in ft for mph. AASHTO Green Book ch. 9, departure sight triangles (from memory)."""
    return factor * speed * gap


def in_triangle(x: float, y: float, places: Floats) -> NDArray[np.bool_]:
    """Which places (n, 2), m back from the main road's edge and along it, lie inside the sight triangle of x back and y along."""
    p = np.asarray(places, float)
    return np.asarray((p[:, 0] >= 0) & (p[:, 1] >= 0) & (p[:, 0] / x + p[:, 1] / y < 1))
