"""A radius from something else that is known of the curve: put back in, the line itself gives that value."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis, project_points, tangent_points
from ivoryridge.core.alignment.radius import (
    external_distance,
    largest_radius,
    radius_by_external,
    radius_by_tangent,
    radius_through,
)
from ivoryridge.core.errors import InputError

E0, N0 = 412_000.0, 687_000.0


def road(spirals: tuple[float, float] = (0.0, 0.0)) -> list[PI]:
    return [PI(E0, N0), PI(E0 + 900, N0, 200, *spirals), PI(E0 + 1500, N0 + 700, 150, 30, 30), PI(E0 + 2300, N0 + 700)]


def test_without_transitions_the_handbook_formulas_hold() -> None:
    """T = R tan(D/2), E = R (1 / cos(D/2) - 1); Hickerson, simple curves (from memory)."""
    half = np.arctan2(700, 600) / 2
    assert radius_by_tangent(road(), 1, 120.0) == pytest.approx(120 / np.tan(half), abs=1e-7)
    assert radius_by_external(road(), 1, 25.0) == pytest.approx(25 / (1 / np.cos(half) - 1), abs=1e-7)


@pytest.mark.parametrize("spirals", [(0.0, 0.0), (60.0, 60.0), (80.0, 30.0)])
def test_the_line_gives_back_what_was_asked_for(spirals: tuple[float, float]) -> None:
    pis = road(spirals)
    by_tangent = [replace(p, radius=radius_by_tangent(pis, 1, 260.0)) if i == 1 else p for i, p in enumerate(pis)]
    line = alignment_from_pis(by_tangent)
    ends = tangent_points(line, 1)
    before = 900 - ends["TS"]
    after = np.hypot(*(line.evaluate([ends["ST"]])[0][0] - [E0 + 900, N0]))
    assert max(before, after) == pytest.approx(260.0, abs=1e-6)

    r = radius_by_external(pis, 1, 30.0)
    by_external = [replace(p, radius=r) if i == 1 else p for i, p in enumerate(pis)]
    line = alignment_from_pis(by_external)
    ends = tangent_points(line, 1)
    along = np.linspace(ends["SC"], ends["CS"], 4001)
    assert np.hypot(*(line.evaluate(along)[0] - [E0 + 900, N0]).T).min() == pytest.approx(30.0, abs=1e-4)
    assert external_distance(replace(pis[1], radius=r), np.arctan2(700, 600)) == pytest.approx(30.0, abs=1e-8)

    point = (E0 + 880.0, N0 + 35.0)
    through = [replace(p, radius=radius_through(pis, 1, *point)) if i == 1 else p for i, p in enumerate(pis)]
    assert abs(project_points(alignment_from_pis(through), [point]).offset[0]) < 1e-8


def test_the_largest_radius_fits_and_a_hair_more_does_not() -> None:
    pis = road((60.0, 40.0))
    r = largest_radius(pis, 1)
    alignment_from_pis([replace(p, radius=r - 1e-6) if i == 1 else p for i, p in enumerate(pis)])
    with pytest.raises(InputError) as refused:
        alignment_from_pis([replace(p, radius=r + 0.01) if i == 1 else p for i, p in enumerate(pis)])
    assert refused.value.code == "tangents-overlap"


def test_what_no_radius_gives_is_told() -> None:
    with pytest.raises(InputError, match="No radius at PI 2 gives this point") as refused:
        radius_through(road(), 1, E0 + 900, N0 - 50)  # outside the bend
    assert "between the tangents" in refused.value.sentence
    crowded = [PI(0, 0), PI(100, 0, 40), PI(160, 70, 0, 0, 0), PI(300, 70)]
    crowded[2] = PI(160, 70, 50, 160, 160)
    with pytest.raises(InputError, match="no room for a curve at PI 3"):
        largest_radius(crowded, 2)
