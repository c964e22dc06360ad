"""A template: parts from the centre outward on either side, each with the values and bindings its user has given."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import InputError
from ..wording import Words, words
from .part import Part
from .structure import Structure, implausible, layered, structures_named

__all__ = ["PlacedPart", "Template", "place_part", "value_said"]


@dataclass(frozen=True, slots=True)
class PlacedPart:
    """A part in a template, under its own id, with the values its user has set.

    ``targets``: name of a target -> what it is bound to: the name of a surface or a line, or a level in m. ``implausible``: layers of
    its pavement structures as ``structure.implausible`` tells them.
    """

    id: str
    part: Part
    values: Mapping[str, Any] = field(default_factory=dict)
    targets: Mapping[str, str | float] = field(default_factory=dict)
    implausible: tuple[tuple[str, float, float, float], ...] = ()

    def value(self, name: str) -> Any:
        return self.values.get(name, self.part.parameter(name).value)

    def all_values(self) -> dict[str, Any]:
        return {p.name: self.values.get(p.name, p.value) for p in self.part.parameters}

    def __post_init__(self) -> None:
        for name, value in self.values.items():
            p = next((p for p in self.part.parameters if p.name == name), None)
            if p is None:
                raise InputError("unknown-parameter", expression=name, missing=name, part=self.part.label)
            if p.kind == "choice":
                if value not in p.choices:
                    raise InputError(
                        "bad-rule", node=f"{self.id}.{name}", reason=f"'{value}' is not one of {', '.join(p.choices)}"
                    )
            elif isinstance(value, int | float) and not p.least <= value <= p.greatest:
                raise InputError(
                    "parameter-out-of-range",
                    label=p.label,
                    part=self.part.label,
                    where={"part": self.id, "parameter": name},
                    value=value_said(p.kind, value),
                    least=value_said(p.kind, p.least),
                    greatest=value_said(p.kind, p.greatest),
                )


def value_said(kind: str, value: float) -> Words:
    """A parameter's value as it is said: lengths in the spoken units, falls in per cent."""
    texts = {"length": "{v:m.g}", "height": "{v:m.g}", "percent": "{p:g} %", "degrees": "{v:g}°"}
    return words(texts.get(kind, "{v:g}"), v=value, p=100 * value)


def place_part(
    id: str,
    part: Part,
    values: Mapping[str, Any],
    structures: Mapping[str, Structure],
    targets: Mapping[str, str | float] | None = None,
) -> PlacedPart:
    """A part in a template; where it stands on a pavement structure, with the layers of the one its values name.

    Raises InputError where there is no such structure, or a value is outside its limits.
    """
    chosen = structures_named(part, values, structures)
    doubtful = tuple(row for structure in chosen for row in implausible(structure))
    return PlacedPart(id, layered(part, chosen), values, targets or {}, doubtful)


@dataclass(frozen=True, slots=True)
class Template:
    """Parts from the centre outward, left and right."""

    name: str
    left: tuple[PlacedPart, ...]
    right: tuple[PlacedPart, ...]
