"""Exact conversion factors and the trade's ways of writing numbers. Used at the rim only."""

from __future__ import annotations

import math

FOOT = 0.3048  # m, international foot, exact by definition (1959 agreement)
US_SURVEY_FOOT = 1200.0 / 3937.0  # m, exact by definition
CUBIC_YARD_IN_CUBIC_FEET = 27.0
LINEAR_UNITS = {
    "meter": 1.0,
    "metre": 1.0,
    "millimeter": 0.001,
    "centimeter": 0.01,
    "kilometer": 1000.0,
    "foot": FOOT,
    "USSurveyFoot": US_SURVEY_FOOT,
    "inch": 0.0254,
    "mile": 1609.344,
}


def format_station(value: float, *, group: int = 1000, decimals: int = 3) -> str:
    """Station as text, e.g. ``1+250.000`` (group 1000) or ``12+50.00`` (group 100). Rounding carries."""
    digits = max(round(math.log10(group)), 1)
    rounded = round(abs(value), decimals)
    head = int(rounded // group)
    rest = round(rounded - head * group, decimals)
    width = digits + (decimals + 1 if decimals else 0)
    sign = "-" if value < 0 and rounded > 0 else ""
    return f"{sign}{head}+{rest:0{width}.{decimals}f}"


def dms_from_degrees(degrees: float, decimals: int = 0) -> tuple[int, int, float]:
    """Degrees, minutes and rounded seconds; carries, so that no 60 ever shows. Takes degrees >= 0."""
    scale = 10**decimals
    total = round(degrees * 3600 * scale)
    d, rest = divmod(total, 3600 * scale)
    m, s = divmod(rest, 60 * scale)
    return int(d), int(m), s / scale


def quadrant_bearing(azimuth_deg: float) -> tuple[str, float, str]:
    """Quadrant bearing (``N``/``S``, angle 0 to 90 degrees, ``E``/``W``) of a whole-circle azimuth."""
    a = azimuth_deg % 360.0
    ns = "N" if a <= 90 or a >= 270 else "S"
    ew = "E" if a <= 180 else "W"
    angle = {"NE": a, "SE": 180 - a, "SW": a - 180, "NW": 360 - a}[ns + ew]
    return ns, angle, ew
