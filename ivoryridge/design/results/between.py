"""The exact volume between two surfaces."""

from __future__ import annotations

from typing import Any

from ivoryridge.core.earthwork.between import SurfaceVolume, volume_between

from ..inputs.surface import SurfaceRecipe
from ..kept.kinds import kind
from .surface import surface

__all__ = ["volume_from_to"]


@kind("volume between", 1, memory="ground")
def _between(existing: tuple[Any, Any], design: tuple[Any, Any]) -> SurfaceVolume:
    return volume_between(existing[0], design[0])


def volume_from_to(existing: SurfaceRecipe, design: SurfaceRecipe) -> SurfaceVolume:
    """Raises InputError where one of them cannot be made."""
    return _between(existing=surface(existing), design=surface(design)).get()
