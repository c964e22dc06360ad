"""Curves by hand: compound and reverse curves, degree of curve, versines. Angles in rad; lengths in any one unit."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

__all__ = [
    "CompoundCurve",
    "ReverseCurve",
    "compound_curve",
    "degree_of_curve",
    "radius_of_degree",
    "reverse_between_parallels",
    "versine",
]

STATION_FT = 100.0  # degree of curve is measured on 100 ft


@dataclass(frozen=True, slots=True)
class CompoundCurve:
    """Tangent lengths at both ends of two arcs that bend one way and touch, and the arcs' lengths."""

    tangent_in: float
    tangent_out: float
    first: float
    second: float


def compound_curve(r1: float, r2: float, deflection1: float, deflection2: float) -> CompoundCurve:
    """Two arcs of one sense: the triangle on their common tangent. Source: Hickerson, compound curves (from memory)."""
    t1, t2 = r1 * np.tan(deflection1 / 2), r2 * np.tan(deflection2 / 2)
    whole = np.sin(deflection1 + deflection2)
    a = t1 + (t1 + t2) * np.sin(deflection2) / whole
    b = t2 + (t1 + t2) * np.sin(deflection1) / whole
    return CompoundCurve(float(a), float(b), r1 * deflection1, r2 * deflection2)


@dataclass(frozen=True, slots=True)
class ReverseCurve:
    """Turn of each arc (rad), their lengths, and the advance along the tangents."""

    turn: float
    first: float
    second: float
    advance: float


def reverse_between_parallels(r1: float, r2: float, offset: float) -> ReverseCurve:
    """Two arcs of opposite sense between parallel tangents: d = (R1 + R2)(1 - cos D)."""
    turn = float(np.arccos(1 - offset / (r1 + r2)))
    return ReverseCurve(turn, r1 * turn, r2 * turn, (r1 + r2) * float(np.sin(turn)))


def degree_of_curve(radius_ft: float, *, chord: bool = False) -> float:
    """Degree of curve (degrees): the angle over an arc of 100 ft, or over a chord of 100 ft."""
    angle = 2 * np.arcsin(STATION_FT / 2 / radius_ft) if chord else STATION_FT / radius_ft
    return float(np.degrees(angle))


def radius_of_degree(degree: float, *, chord: bool = False) -> float:
    """Radius (ft) of a degree of curve."""
    angle = np.radians(degree)
    return float(STATION_FT / 2 / np.sin(angle / 2) if chord else STATION_FT / angle)


def versine(radius: float, chord: float, *, flat: bool = False) -> float:
    """Height of an arc over its chord: R - sqrt(R^2 - C^2 / 4); for a ``flat`` arc C^2 / (8 R)."""
    if flat:
        return chord**2 / (8 * radius)
    return radius - float(np.sqrt(radius**2 - chord**2 / 4))
