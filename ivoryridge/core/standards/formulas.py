"""Formulas of design standards. Speeds km/h, lengths m, grades and crossfalls as ratios, unless a name says otherwise.

AASHTO is 'A Policy on Geometric Design of Highways and Streets', 2018 (7th ed.); DMRB CD 109 is 'Highway link design';
all constants from memory of the printed formulas, checked by the cases of topic C in tests/reference.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

__all__ = [
    "MethodFive",
    "comfort_length",
    "crest_k_calculated",
    "crest_length",
    "headlight_k_calculated",
    "headlight_length",
    "headlight_length_printed",
    "least_radius_metric",
    "least_radius_us",
    "method_five",
    "rounding",
    "shift_length",
    "stopping_sight_austroads",
    "stopping_sight_graded",
    "stopping_sight_metric",
    "stopping_sight_us",
    "transition_length_british",
    "transition_length_jerk",
    "underpass_length",
]

G = 9.81  # m/s2


def stopping_sight_metric(speed: float, *, reaction: float = 2.5, deceleration: float = 3.4) -> float:
    """Stopping sight distance on the level, m: 0.278 V t + 0.039 V^2 / a. AASHTO, Table 3-1."""
    return 0.278 * speed * reaction + 0.039 * speed**2 / deceleration


def stopping_sight_us(speed_mph: float, *, reaction: float = 2.5, deceleration: float = 11.2) -> float:
    """Stopping sight distance on the level, ft: 1.47 V t + 1.075 V^2 / a, V mph, a ft/s2. AASHTO, Table 3-1."""
    return 1.47 * speed_mph * reaction + 1.075 * speed_mph**2 / deceleration


def stopping_sight_graded(speed: float, grade: float, *, reaction: float = 2.5, deceleration: float = 3.4) -> float:
    """Stopping sight distance on a grade (m/m, + up), m: 0.278 V t + V^2 / (254 (a / 9.81 + G)). AASHTO, Table 3-2."""
    return 0.278 * speed * reaction + speed**2 / (254 * (deceleration / G + grade))


def stopping_sight_austroads(speed: float, *, reaction: float, friction: float, grade: float = 0.0) -> float:
    """Stopping sight distance, m: R V / 3.6 + V^2 / (254 (d + a)). Austroads, Guide to Road Design Part 3 (from memory)."""
    return reaction * speed / 3.6 + speed**2 / (254 * (friction + grade))


def crest_k_calculated(sight: float, *, us: bool = False) -> float:
    """K of a crest for a sight distance: S^2 / 658 in m (eye 1.08, object 0.60 m), S^2 / 2158 in ft. AASHTO, section 3.4.6."""
    return sight**2 / (2158 if us else 658)


def headlight_k_calculated(sight: float, *, us: bool = False) -> float:
    """K of a sag for headlight sight: S^2 / (120 + 3.5 S) in m, S^2 / (400 + 3.5 S) in ft. AASHTO, section 3.4.6."""
    return sight**2 / ((400 if us else 120) + 3.5 * sight)


def printed_k(calculated: float) -> float:
    """As tables print K: the value to a tenth, then up to the next whole number."""
    return float(np.ceil(round(calculated, 1) - 1e-9))


def up_to_five(value: float) -> float:
    """As tables print sight distances: up to the next multiple of 5."""
    return float(5 * np.ceil(value / 5 - 1e-9))


def least_radius_metric(speed: float, crossfall: float, friction: float) -> float:
    """R = V^2 / (127 (e + f)), m. AASHTO, equation 3-8."""
    return speed**2 / (127 * (crossfall + friction))


def least_radius_us(speed_mph: float, crossfall: float, friction: float) -> float:
    """R = V^2 / (15 (e + f)), ft. AASHTO, equation 3-8."""
    return speed_mph**2 / (15 * (crossfall + friction))


def shift_length(radius: float, shift: float) -> float:
    """Length of a clothoid that shifts an arc by ``shift``: sqrt(24 p R), any unit. AASHTO, section 3.3.8."""
    return float(np.sqrt(24 * shift * radius))


def transition_length_jerk(speed: float, radius: float, jerk: float) -> float:
    """Length on which lateral acceleration grows at ``jerk`` (m/s3): 0.0214 V^3 / (R C), m. AASHTO, section 3.3.8."""
    return 0.0214 * speed**3 / (radius * jerk)


def transition_length_british(speed: float, radius: float, jerk: float = 0.3) -> float:
    """L = V^3 / (46.7 q R), m, q in m/s3. DMRB CD 109, transition curves (limited there to sqrt(24 R))."""
    return speed**3 / (46.7 * jerk * radius)


def crossfall_british(speed: float, radius: float) -> float:
    """Crossfall S = V^2 / (2.828 R) percent, given as a ratio. DMRB CD 109, superelevation."""
    return speed**2 / (2.828 * radius) / 100


@dataclass(frozen=True, slots=True)
class MethodFive:
    """Crossfall (ratio) for a radius by AASHTO's method 5, and the numbers on the way; radii in the unit of the input."""

    least_radius: float
    point_radius: float
    point_height: float
    slope_before: float
    slope_behind: float
    middle_ordinate: float
    friction: float
    crossfall: float


def method_five(
    speed: float, running_speed: float, radius: float, *, greatest_crossfall: float, greatest_friction: float, us: bool = False
) -> MethodFive:
    """Crossfall for a radius; beyond the least radius that of the least radius.

    Source: AASHTO, section 3.3.4, 'Procedure for development of Method 5 superelevation distribution': the friction over
    1/R is an unsymmetrical parabola between the origin, the point where running speed needs the greatest crossfall alone,
    and the point of the least radius.
    """
    c = 15.0 if us else 127.0
    e, f = greatest_crossfall, greatest_friction
    least = speed**2 / (c * (e + f))
    point = running_speed**2 / (c * e)
    height = e * speed**2 / running_speed**2 - e
    before = height * point
    behind = (f - height) / (1 / least - 1 / point)
    ordinate = (1 / point) * (1 / least - 1 / point) * (behind - before) / (2 / least)
    x = min(1 / radius, 1 / least)
    if x <= 1 / point:
        friction = ordinate * (x * point) ** 2 + before * x
    else:
        friction = ordinate * ((1 / least - x) / (1 / least - 1 / point)) ** 2 + height + behind * (x - 1 / point)
    return MethodFive(least, point, height, before, behind, ordinate, friction, speed**2 * x / c - friction)


# --- lengths of vertical curves ------------------------------------------------------------------------------
def _vertical_length(change: float, sight: float, constant: float) -> float:
    """A S^2 / c while the sight distance lies on the curve, else 2 S - c / A, never negative. ``change`` in percent."""
    length = change * sight**2 / constant
    if length < sight:
        length = 2 * sight - constant / change
    return max(length, 0.0)


def crest_length(change: float, sight: float, eye: float, target: float) -> float:
    """Least length of a crest for a sight distance; change of grade as a ratio. AASHTO, section 3.4.6."""
    return _vertical_length(100 * abs(change), sight, float(200 * (np.sqrt(eye) + np.sqrt(target)) ** 2))


def headlight_length(change: float, sight: float, *, height: float = 0.6, beam: float = 1.0) -> float:
    """Least length of a sag for headlights of a height (m) and beam (degrees): c = 200 (h + S tan b). AASHTO, section 3.4.6."""
    return _vertical_length(100 * abs(change), sight, 200 * (height + sight * float(np.tan(np.radians(beam)))))


def headlight_length_printed(change: float, sight: float) -> float:
    """The same with the printed constant 120 + 3.5 S (m)."""
    return _vertical_length(100 * abs(change), sight, 120 + 3.5 * sight)


def underpass_length(change: float, sight: float, clearance: float, eye: float, target: float) -> float:
    """Least length of a sag under a bridge over its PVI: c = 800 (C - (h1 + h2) / 2). AASHTO, section 3.4.6."""
    return _vertical_length(100 * abs(change), sight, 800 * (clearance - (eye + target) / 2))


def comfort_length(change: float, speed: float) -> float:
    """Length of a sag at 0.3 m/s2: A V^2 / 395, m. AASHTO, section 3.4.6."""
    return 100 * abs(change) * speed**2 / 395


def rounding(radius: float, grade_in: float, grade_out: float) -> tuple[float, float, float]:
    """Tangent length T, length L and offset at the PVI f of a vertical curve of radius H: L = H |s2 - s1|, f = T^2 / (2 H), m.
    RAL 2012."""
    length = radius * abs(grade_out - grade_in)
    return length / 2, length, (length / 2) ** 2 / (2 * radius)
