"""Carriageways that are wider in bends: the formula's own values in random lines, on top of what varies otherwise."""

from __future__ import annotations

import itertools
import re
from dataclasses import replace

import numpy as np
import pytest

from ivoryridge.core.corridor.blend import Blend, values_at
from ivoryridge.core.corridor.varied import Adjustment, Stretch
from ivoryridge.core.errors import InputError
from ivoryridge.core.standards.standard import SpeedZones
from ivoryridge.core.standards.widening import VEHICLES, Vehicle, bend_widening, share_along, taper_length, widened_along
from tests.families.lines import random_line

from .test_varied import END, pieces, rural, straight


def test_a_bend_too_tight_for_the_vehicle_is_refused() -> None:
    with pytest.raises(InputError, match=re.escape("11.70 m")):
        bend_widening(Vehicle(2.6, (4.5, 10.8), 1.2, 0.9), 11.0, 30, 2, 6.5)


def test_a_carriageway_widens_in_every_bend_of_random_lines_and_is_what_the_formula_gives_there() -> None:
    """AASHTO, section 3.3.10 (from memory): over transitions in a straight line, without one two thirds before the arc."""
    rng = np.random.default_rng(1411)
    vehicle, over, width, inner = VEHICLES["articulated lorry"], 30.0, 6.6, 0.7
    zones = SpeedZones((-np.inf,), (60.0,))
    checked = 0
    for _ in range(60):
        line = random_line(rng)[1]
        left, right = widened_along(line, vehicle, zones, lanes=2, width=width, inner=inner, over=over)
        assert all(b > a for rows in (left, right) for (a, _), (b, _) in itertools.pairwise(rows))
        whole = line.whole_elements()
        for n, (i, last) in enumerate(whole):
            first, end, k = line.stations[i], line.stations[last + 1], line.k0[i]
            at = 0.5 * (first + end)
            found = straight(list(left), at), straight(list(right), at)
            if line.kind(i) == "Curve":
                full = bend_widening(vehicle, 1 / abs(k), 60.0, 2, width).more
                wanted = (full * (1 - inner), full * inner) if k > 0 else (full * inner, full * (1 - inner))
                assert found == pytest.approx(wanted, abs=1e-9)
                if n and line.kind(whole[n - 1][0]) == "Spiral":
                    begin = line.stations[whole[n - 1][0]]
                    s = begin + 0.3 * (first - begin)
                    share = share_along([s], (begin, first, end, end + 1))[0]
                    assert straight(list(left), s) == pytest.approx(share * wanted[0], abs=1e-9)
                elif (
                    n
                    and line.kind(whole[n - 1][0]) == "Line"
                    and min(first - line.stations[whole[n - 1][0]], end - first) > 2 * over
                ):
                    assert straight(list(left), first) == pytest.approx(2 / 3 * wanted[0], abs=1e-9)
                    assert straight(list(left), first - 2 / 3 * over - 1e-6) == 0.0
                checked += 1
            elif line.kind(i) == "Line":
                assert found == (0.0, 0.0) or end - first < 2 * over
    assert checked > 100


def test_what_is_wider_in_bends_comes_on_top_of_blends_and_other_values_and_keeps_the_limits() -> None:
    lane = rural()
    other = replace(
        lane, right=tuple(replace(p, values={**p.values, "lane_width": 4.5}) if p.id == "carriageway" else p for p in lane.right)
    )
    rows = ((0.0, 0.0), (300.0, 0.6), (END, 0.6))
    more = Adjustment("right", "carriageway", "lane_width", 0.0, END, rows, 7, more=True)
    stays = Adjustment("right", "carriageway", "lane_width", 400.0, 500.0, ((400.0, 4.0),), 8)
    for form in ("linear", "smooth"):
        found, _ = pieces(lane, Stretch(other, 100.0, 300.0, Blend(80.0, form, "inside"), None), stays, more)
        base, _ = pieces(lane, Stretch(other, 100.0, 300.0, Blend(80.0, form, "inside"), None), stays)
        for s in np.arange(5.0, END, 7.3):
            widths = []
            for row in (found, base):
                piece = next(p for p in row if p.station_from <= s <= p.station_to)
                placed = next(p for p in piece.template.right if p.id == "carriageway")
                own = values_at(piece.right, np.array([s])).get("carriageway", {}).get("lane_width")
                widths.append(float(own[0]) if own is not None else placed.value("lane_width"))
            assert widths[0] - widths[1] == pytest.approx(straight(list(rows), s), abs=0.001)
    with pytest.raises(InputError, match=re.escape("63.65 m; it must lie between 2 m and 20 m")):
        pieces(lane, replace(more, rows=((0.0, 60.0),)))


def test_a_taper_is_as_long_as_the_tables_say() -> None:
    """MUTCD, table 6C-4, in metres (from memory): W S / 1.6 at 70 km/h and more, W S^2 / 155 below."""
    assert taper_length(3.5, 85) == pytest.approx(3.5 * 85 / 1.6)
    assert taper_length(3.5, 50) == pytest.approx(3.5 * 2500 / 155)
    assert taper_length(3.0, 70) == pytest.approx(131.25) and taper_length(0.0, 90) == 0
