"""What changing corners changes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict, replace
from typing import Any

from ivoryridge.core.junction.corner import CornerShape

from ..inputs.network import Network

__all__ = ["shape_with", "with_corners"]


def shape_with(shape: Mapping[str, Any] | CornerShape, values: Mapping[str, Any]) -> CornerShape:
    """A corner's shape after it is given ``values``."""
    before = asdict(shape) if isinstance(shape, CornerShape) else dict(shape)
    return CornerShape(**{**before, **values})


def with_corners(network: Network, junction: int, roads: Iterable[int], values: Mapping[str, Any]) -> Network:
    """A trial: a network in which some corners of a junction have other values. Raises NotThere without the junction."""
    network.junction(junction)
    row = network.junctions[junction]
    chosen = set(roads)
    returns = {
        pk: (arm, hand, shape_with(shape, values) if pk in chosen else shape) for pk, (arm, hand, shape) in row.returns.items()
    }
    return replace(network, junctions={**network.junctions, junction: replace(row, returns=returns)}, _linked={}, _whole={})
