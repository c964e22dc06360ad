"""What pinning the crossfall of a bend changes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

__all__ = ["pinned"]


def pinned(crossfall: Mapping[str, Any], pi_id: int, values: Mapping[str, float]) -> dict[str, Any]:
    """A road's crossfall with values of a bend pinned beside those that are; ``values`` as in ``BendPin``."""
    bends = dict(crossfall.get("bends", {}))
    bends[str(pi_id)] = {**bends.get(str(pi_id), {}), **values}
    return {**crossfall, "bends": bends}
