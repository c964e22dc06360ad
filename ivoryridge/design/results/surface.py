"""A surface from its surveys, and what the checks find in them."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import asdict
from functools import partial
from types import MappingProxyType
from typing import Any

import numpy as np
import orjson

from ivoryridge.core.errors import InputError
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.checks import GroundFinding, check_ground
from ivoryridge.core.terrain.flow import Pond, ponds_of
from ivoryridge.core.terrain.recipe import Ground, Recipe, Source, build_surface, gather
from ivoryridge.core.terrain.surface import Surface
from ivoryridge.core.terrain.survey import Survey

from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import IfPossible, Result, Stored, kind
from ..kept.packing import finding_from, findings_from, pack_findings, unpack_survey
from ..models import SurveySet

__all__ = [
    "at_hand",
    "core_recipe",
    "ground_findings_of",
    "ground_of",
    "ponds_of_surface",
    "surface",
    "surface_of",
    "survey_arrays",
]

_at_hand: ContextVar[Mapping[str, Survey]] = ContextVar("at_hand", default=MappingProxyType({}))  # by the hash of their content


@contextmanager
def at_hand(surveys: Mapping[str, Survey]) -> Iterator[None]:
    """Surveys, by the hash of their content, that are not rows yet: what is made of them in here need not look for rows."""
    token = _at_hand.set(surveys)
    try:
        yield
    finally:
        _at_hand.reset(token)


def _survey(content: str, pk: int) -> Survey:
    found = _at_hand.get().get(content)
    return survey_arrays(pk) if found is None else found


def survey_arrays(pk: int) -> Survey:
    return unpack_survey(bytes(SurveySet.objects.only("arrays").get(pk=pk).arrays))


def _recipe_needs(recipe: SurfaceRecipe) -> dict[str, Any]:
    surveys = tuple(Stored(s.hash, partial(_survey, s.hash, s.id)) for s in recipe.sources)
    return {
        "surveys": surveys,
        "roles": tuple(s.roles for s in recipe.sources),
        "settings": recipe.settings(),
        "edits": recipe.edits,
    }


def _core(surveys: tuple[Survey, ...], roles: tuple[Any, ...], settings: Any, edits: tuple[Any, ...]) -> Recipe:
    sources = tuple(Source(i, s, r) for i, (s, r) in enumerate(zip(surveys, roles, strict=True), 1))
    return Recipe(sources, **settings, edits=edits)


def core_recipe(recipe: SurfaceRecipe) -> Recipe:
    needs = _recipe_needs(recipe)
    return _core(tuple(s.get() for s in needs.pop("surveys")), **needs)


# --- the surface ---------------------------------------------------------------------------------------------
def _pack_surface(value: tuple[Surface, list[Finding]]) -> bytes:
    s, findings = value
    out = io.BytesIO()
    np.savez(
        out, points=s.points, triangles=s.triangles, neighbours=s.neighbours, edges=s.breakline_edges, findings=pack_findings(findings)
    )  # fmt: skip
    return out.getvalue()


def _unpack_surface(blob: bytes) -> tuple[Surface, list[Finding]]:
    with np.load(io.BytesIO(blob), allow_pickle=False) as z:
        return Surface(z["points"], z["triangles"], z["neighbours"], z["edges"]), findings_from(z["findings"])


@kind("surface", 5, memory="ground", codec=(_pack_surface, _unpack_surface))
def _surface(
    surveys: tuple[Survey, ...], roles: tuple[Any, ...], settings: Any, edits: tuple[Any, ...]
) -> tuple[Surface, list[Finding]]:
    if not surveys:
        raise InputError("surface-empty")
    return build_surface(_core(surveys, roles, settings, edits))


def surface(recipe: SurfaceRecipe) -> Result[tuple[Surface, list[Finding]]]:
    kept = recipe.__dict__  # frozen; its key is hashed once
    if "_surface" not in kept:
        kept["_surface"] = _surface(**_recipe_needs(recipe))
    return kept["_surface"]


def surface_of(recipe: SurfaceRecipe) -> tuple[Surface, list[Finding]]:
    """The surface of a recipe, and what was found while it was made."""
    return surface(recipe).get()


# --- what goes into it, and what is wrong with it ------------------------------------------------------------
@kind("gathered", 4, memory="ground")
def _gathered(surveys: tuple[Survey, ...], roles: tuple[Any, ...], settings: Any, edits: tuple[Any, ...]) -> Ground:
    return gather(_core(surveys, roles, settings, edits))


def gathered(recipe: SurfaceRecipe) -> Result[Ground]:
    """Points and lines that go into the triangulation."""
    return _gathered(**_recipe_needs(recipe))


def ground_of(recipe: SurfaceRecipe) -> Ground:
    return gathered(recipe).get()


def _pack_found(found: list[GroundFinding]) -> bytes:
    return orjson.dumps([asdict(f) for f in found], option=orjson.OPT_SERIALIZE_NUMPY)


def _unpack_found(blob: bytes) -> list[GroundFinding]:
    return [
        GroundFinding(finding_from(f["finding"]), f["key"], tuple((int(s), int(n)) for s, n in f["points"]), f["level"])
        for f in orjson.loads(blob)
    ]


@kind("ground findings", 3, memory="ground", codec=(_pack_found, _unpack_found))
def _ground_findings(
    surveys: tuple[Survey, ...],
    roles: tuple[Any, ...],
    settings: Any,
    edits: tuple[Any, ...],
    made: tuple[Surface, list[Finding]] | None,
) -> list[GroundFinding]:
    core = _core(surveys, roles, settings, edits)
    return check_ground(core, gather(core), made[0] if made else None)


def ground_findings_of(recipe: SurfaceRecipe) -> list[GroundFinding]:
    """What the checks find in the data of a recipe, and in its surface if one can be made."""
    return _ground_findings(**_recipe_needs(recipe), made=IfPossible(surface(recipe))).get()


@kind("ponds", 2, memory="ground")
def _ponds(surface: tuple[Surface, list[Finding]]) -> list[Pond]:
    return ponds_of(surface[0])


def ponds_of_surface(recipe: SurfaceRecipe) -> list[Pond]:
    """Where water stands on a surface, the largest first."""
    return _ponds(surface=surface(recipe)).get()
