"""One adapter a kind: the case's inputs to the core's own functions, and their results to the case's keys."""

from . import earthwork, horizontal, junctions, parts, road, sections, sight, standards, terrain, vertical
from .registry import ADAPTERS

__all__ = [
    "ADAPTERS",
    "earthwork",
    "horizontal",
    "junctions",
    "parts",
    "road",
    "sections",
    "sight",
    "standards",
    "terrain",
    "vertical",
]
