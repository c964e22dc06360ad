"""Crossfall (superelevation) along a bend: where it begins to turn, where it is full, and the levels of the edges.

Rates are ratios, + rises away from the axis; lengths in m or any one unit.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

__all__ = [
    "CrossfallTransition",
    "edge_levels",
    "relative_gradient",
    "reverse_rates",
    "runoff_length",
    "runout_length",
    "transition_on_spiral",
    "transition_with_share",
]


def runoff_length(width: float, lanes: float, full: float, relative_gradient: float, adjustment: float = 1.0) -> float:
    """Length over which the outer lane turns from level to full: w n e b / delta (delta a ratio). AASHTO, equation 3-23."""
    return width * lanes * full * adjustment / relative_gradient


def relative_gradient(width: float, full: float, runoff: float) -> float:
    """Grade of the lane's edge against the axis while it turns, a ratio: w e / L."""
    return width * full / runoff


def runout_length(normal: float, full: float, runoff: float) -> float:
    """Length over which the outer lane turns from its normal fall to level, at the runoff's rate: e_NC / e_d L_r."""
    return normal / full * runoff


@dataclass(frozen=True, slots=True)
class CrossfallTransition:
    """The turning on one end of a bend, in the direction of increasing crossfall.

    begin_runout, begin_runoff, full : stations, m; the outer lane falls at ``normal``, is level, and rises at ``full_rate``.
    On the leaving end they decrease.
    """

    begin_runout: float
    begin_runoff: float
    full: float
    normal: float
    full_rate: float

    @property
    def reverse_crown(self) -> float:
        """Where the outer lane rises as the inner falls normally; from there both turn."""
        return self.begin_runoff + self.normal / self.full_rate * (self.full - self.begin_runoff)

    def rates(self, stations: Any) -> tuple[Floats, Floats]:
        """Outer and inner rate (n,) at stations: linear between the places above; the inner falls more as soon as the outer's
        rise passes the normal fall."""
        s = np.atleast_1d(np.asarray(stations, float))
        places, values = [self.begin_runout, self.begin_runoff, self.full], [-self.normal, 0.0, self.full_rate]
        if self.full < self.begin_runout:
            places, values = places[::-1], values[::-1]
        outer = np.interp(s, places, values)
        return outer, -np.maximum(outer, self.normal)


def transition_with_share(
    tangent_point: float, *, runoff: float, normal: float, full: float, share: float, leaving: bool = False
) -> CrossfallTransition:
    """Turning without a transition curve: ``share`` of the runoff lies on the tangent. AASHTO, section 3.3.8."""
    way = -1.0 if leaving else 1.0
    begin = tangent_point - way * share * runoff
    return CrossfallTransition(begin - way * runout_length(normal, full, runoff), begin, begin + way * runoff, normal, full)


def transition_on_spiral(
    start: float, length: float, *, normal: float, full: float, leaving: bool = False
) -> CrossfallTransition:
    """Turning over a whole transition curve from its end on the tangent. AASHTO, section 3.3.8."""
    way = -1.0 if leaving else 1.0
    return CrossfallTransition(start - way * runout_length(normal, full, length), start, start + way * length, normal, full)


def reverse_rates(first: float, second: float, start: float, end: float, stations: Any) -> tuple[float, Floats]:
    """Straight turning between two full crossfalls of opposite sense: where it is level, and the rate at stations."""
    level = start + first / (first - second) * (end - start)
    return float(level), np.interp(np.asarray(stations, float), [start, end], [first, second])


def edge_levels(
    profile: Any, half_width: float, outer: Any, inner: Any, *, axis: str = "centre", normal: float = 0.0
) -> tuple[Any, Any, Any]:
    """Levels of inner edge, centre and outer edge for rates (n,).

    ``axis``: "centre" keeps the centre at the profile's level; "inner" and "outer" keep that edge where it lies with the
    normal fall ``normal`` on both sides. AASHTO, section 3.3.8, diagrammatic profiles of superelevation (from memory).
    """
    z, up, down = (np.asarray(v, float) for v in (profile, outer, inner))
    centre = z.copy() if axis == "centre" else z - half_width * normal - half_width * (down if axis == "inner" else up)
    return centre + half_width * down, centre, centre + half_width * up
