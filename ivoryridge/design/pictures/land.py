"""The land that a road takes, for the plan and the inspector."""

from __future__ import annotations

from ..forms.road import LandPicture
from ..inputs.road import RoadInputs
from ..results.corridor import missing_for_corridor
from ..results.land import land_take_of, margin_of

__all__ = ["land_picture"]


def land_picture(inputs: RoadInputs) -> LandPicture:
    """Area (m2) and closed lines, as easting and northing in m; nothing where the road has no sections."""
    if missing_for_corridor(inputs):
        return {"area": 0.0, "margin": margin_of(inputs), "rings": []}
    take = land_take_of(inputs)
    return {"area": take.area, "margin": margin_of(inputs), "rings": [r.round(3).tolist() for r in take.rings]}
