"""Compiled kernels are loaded (or compiled, the first time on a machine) by using each of them once on a small road."""

from __future__ import annotations

import numpy as np

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.line_fit import fit_whole_line
from ivoryridge.core.alignment.sight import sight_along_profile
from ivoryridge.core.alignment.sight_plan import sight_in_plan
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.sight_space import sight_in_space
from ivoryridge.core.earthwork.end_area import compute_areas
from ivoryridge.core.junction.corner import edges_cross
from ivoryridge.core.junction.edge import ArmEdge
from ivoryridge.core.section.library import library_part
from ivoryridge.core.section.template import PlacedPart, Template
from ivoryridge.core.terrain.contour import compute_contours
from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.core.terrain.triangulate import triangulate

__all__ = ["warm_kernels"]


def warm_kernels() -> None:
    """About half a second when the kernels are kept from an earlier start, half a minute when they are not."""
    e, n = np.meshgrid(np.arange(-60, 61, 20.0), np.arange(-60, 161, 20.0))
    surface, _ = triangulate(np.column_stack([e.ravel(), n.ravel(), 100 + 0.02 * e.ravel()]))
    compute_contours(surface, [100.0])
    read_surface(surface, [[1.0, 1.0]])
    line, profile = alignment_from_pis([PI(0, 0), PI(0, 100)]), profile_from_pvis([PVI(0, 101), PVI(100, 99)])
    fit_whole_line(line.evaluate(np.linspace(0, 100, 12))[0])
    row = tuple(PlacedPart(name, library_part(name)) for name in ("carriageway", "verge", "side_slopes"))
    corridor = compute_corridor(line, profile, Template("warm", row, row), surface, [0.0, 50.0, 100.0])
    compute_areas(corridor)
    across = alignment_from_pis([PI(0, 50), PI(60, 50)])
    edge, other = (ArmEdge(x, np.array([0.0, x.end_station]), np.full(2, 3.0)) for x in (line, across))
    edges_cross(edge, other, (50.0, 0.0), 40.0)
    sight_along_profile(profile, [0.0], eye=1.0, target=0.5)
    sight_in_plan(line, [0.0], path=0.0, left=5.0, right=5.0)
    sight_in_space(line, profile, corridor, [0.0], path=0.0, eye=1.0, target=0.5)
