"""What the page is sent of a surface: all of it while it is small, else a lattice from afar and its triangles from near.

surface -> overview (kept in the table, so that opening a project does not wait for the surface)
surface, window -> what is in view;  each of them, interval -> contours
"""

from __future__ import annotations

import dataclasses
import io
from dataclasses import dataclass
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.contour import compute_contours, levels_between
from ivoryridge.core.terrain.outline import pieces_of
from ivoryridge.core.terrain.rounding import round_surface
from ivoryridge.core.terrain.shown import Window, lattice_of, triangles_within
from ivoryridge.core.terrain.surface import Floats, Surface, robust_levels, surface_area

from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import Result, kind
from ..kept.packing import findings_from, pack_findings
from .surface import surface, surface_of

__all__ = [
    "MOST_SHOWN",
    "Contours",
    "Shown",
    "check_interval",
    "contours_of",
    "contours_shown",
    "contours_whole",
    "overview",
    "overview_of",
    "shown",
    "shown_of",
]

MOST_SHOWN = 120_000  # triangles that a page draws without effort
Contours = tuple[Floats, NDArray[np.int64], Floats]


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """A surface as it is shown: ``spacing`` (m) of the lattice, 0 where the triangles are the surface's own."""

    surface: Surface
    spacing: float
    told: dict[str, Any]
    findings: tuple[Finding, ...] = ()


# --- kept in the table ---------------------------------------------------------------------------------------
_NOTHING = Surface(np.empty((0, 3)), np.empty((0, 3), np.int32), np.empty((0, 3), np.int32))


def _pack(shown: Shown) -> bytes:
    out = io.BytesIO()
    s = shown.surface
    told = orjson.dumps([shown.spacing, shown.told])
    np.savez(
        out, points=s.points, triangles=s.triangles, neighbours=s.neighbours, told=np.frombuffer(told, np.uint8),
        findings=pack_findings(shown.findings),
    )  # fmt: skip
    return out.getvalue()


def _unpack(blob: bytes) -> Shown:
    with np.load(io.BytesIO(blob), allow_pickle=False) as z:
        spacing, told = orjson.loads(z["told"].tobytes())
        return Shown(Surface(z["points"], z["triangles"], z["neighbours"]), spacing, told, tuple(findings_from(z["findings"])))


# --- from afar and from near ---------------------------------------------------------------------------------
@kind("overview", 2, memory="shown", codec=(_pack, _unpack))
def _overview(surface: tuple[Surface, list[Finding]]) -> Shown:
    made, findings = surface
    plan, slope = surface_area(made)
    told = {
        "extent": list(made.extent), "levels": list(made.elevation_range), "robust_levels": list(robust_levels(made)),
        "plan_area": plan, "slope_area": slope, "pieces": len(pieces_of(made)), "triangles": len(made.triangles),
    }  # fmt: skip
    if len(made.triangles) <= MOST_SHOWN:
        return Shown(_NOTHING, 0.0, told, tuple(findings))  # kept with the surface already
    return Shown(*lattice_of(made, made.extent, MOST_SHOWN), told, tuple(findings))


def overview(recipe: SurfaceRecipe) -> Result[Shown]:
    return _overview(surface=surface(recipe))


def overview_of(recipe: SurfaceRecipe) -> Shown:
    """The whole surface, with its extent, levels (m), areas (m2), number of pieces and triangles, and findings."""
    return _whole(overview(recipe).get(), recipe)


def _whole(kept: Shown, recipe: SurfaceRecipe) -> Shown:
    return kept if kept.spacing else dataclasses.replace(kept, surface=surface_of(recipe)[0])


@kind("shown", 2, memory="shown")
def _shown(surface: tuple[Surface, list[Finding]], window: Window) -> Shown:
    near = triangles_within(surface[0], window)
    if len(near.triangles) <= MOST_SHOWN:
        return Shown(near, 0.0, {})
    e0, n0, e1, n1 = surface[0].extent
    inside = (max(window[0], e0), max(window[1], n0), min(window[2], e1), min(window[3], n1))
    return Shown(*lattice_of(near, inside, MOST_SHOWN), {})


def shown(recipe: SurfaceRecipe, window: Window | None) -> Result[Shown]:
    """What is in a window; its own triangles, unless they are too many. Without a window the overview; see ``shown_of``."""
    return overview(recipe) if window is None else _shown(surface=surface(recipe), window=window)


def shown_of(recipe: SurfaceRecipe, window: Window | None) -> Shown:
    return _whole(shown(recipe, window).get(), recipe) if window is None else shown(recipe, window).get()


# --- contours ------------------------------------------------------------------------------------------------
@kind("contours", 3, memory="shown")
def _contours(surface: tuple[Surface, list[Finding]], interval: float, rounded: bool) -> Contours:
    return _contours_on(surface[0], interval, rounded)


@kind("contours of a lattice", 1, memory="shown")
def _lattice_contours(shown: Shown, interval: float, rounded: bool) -> Contours:
    return _contours_on(shown.surface, interval, rounded)


def contours_shown(recipe: SurfaceRecipe, interval: float, *, rounded: bool, window: Window | None) -> Result[Contours]:
    """Contours of what is shown: where that is the surface itself, its own."""
    if window is None and not overview(recipe).get().spacing:
        return _contours(surface=surface(recipe), interval=interval, rounded=rounded)
    return _lattice_contours(shown=shown(recipe, window), interval=interval, rounded=rounded)


MOST_CONTOURS = 400  # levels on one plan; more cannot be told apart


def check_interval(recipe: SurfaceRecipe, interval: float) -> None:
    """Refuse an interval that would make more contours than can be told apart."""
    low, high = overview_of(recipe).told["levels"]
    if not interval > 0 or (high - low) / interval > MOST_CONTOURS:
        least = max((high - low) / MOST_CONTOURS, 0.001)
        count = int(min((high - low) / interval, 1e9)) if interval > 0 else 0
        raise InputError("contours-too-many", interval=interval, count=count, limit=MOST_CONTOURS, least=least)


def contours_whole(recipe: SurfaceRecipe, interval: float, *, rounded: bool = False) -> Result[Contours]:
    return _contours(surface=surface(recipe), interval=interval, rounded=rounded)


def contours_of(recipe: SurfaceRecipe, interval: float, *, rounded: bool = False) -> Contours:
    """Contours of the whole surface: vertices (n, 2), starts of the lines, and level (m) of each line."""
    check_interval(recipe, interval)
    return contours_whole(recipe, interval, rounded=rounded).get()


def _contours_on(surface: Surface, interval: float, rounded: bool) -> Contours:
    if not len(surface.triangles):
        return np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0)
    levels = levels_between(*surface.elevation_range, interval)
    xy, starts, level = compute_contours(round_surface(surface) if rounded else surface, levels)
    return xy, starts, levels[level] if len(level) else np.empty(0)
