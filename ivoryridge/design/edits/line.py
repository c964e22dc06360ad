"""What moving or changing a PI changes."""

from __future__ import annotations

from collections.abc import Mapping

from ivoryridge.core.alignment.held import slide

from ..inputs.road import RoadInputs

__all__ = ["pi_fields", "slides"]


def slides(road: RoadInputs, index: int) -> bool:
    """Whether a PI lies on a held straight and so slides along it."""
    held = _held(road)
    return any(held[max(index - 1, 0) : index + 1])


def pi_fields(road: RoadInputs, index: int, values: Mapping[str, float]) -> dict[str, float]:
    """Fields of a PI after it is given ``values``; a place on a held straight slides along it (m).

    Raises InputError where held straights leave it no room.
    """
    fields = dict(values)
    if {"easting", "northing"} & set(values):
        to = slide(list(road.pis), _held(road), index, values.get("easting"), values.get("northing"))
        fields["easting"], fields["northing"] = to
    return fields


def _held(road: RoadInputs) -> list[bool]:
    return [pk in road.held_straights for pk, _ in road.pi_rows]
