"""Families of random realistic roads held against second ways to the same numbers; the share that is right is counted."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.corridor.corridor import compute_corridor
from ivoryridge.core.corridor.places import section_stations
from ivoryridge.core.corridor.varied import Piece
from ivoryridge.core.earthwork.end_area import compute_areas, compute_volumes
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.terrain.triangulate import triangulate
from ivoryridge.core.wording import FEET, METRES, US_FEET
from tests.families.lines import random_line
from tests.families.sections import earth, outward, random_rural, side_of, template_of


def random_ground(rng: np.random.Generator, line: Any) -> Any:
    """Rolling country of random relief over a line's surroundings, a point about every 25 m."""
    at = line.evaluate(np.linspace(0, line.end_station, 60))[0]
    low, high = at.min(axis=0) - 120, at.max(axis=0) + 120
    count = int(np.clip(np.prod((high - low) / 25.0), 400, 20_000))
    xy = rng.uniform(low, high, (count, 2))
    relief, wave = rng.uniform(1, 9), rng.uniform(60, 300)
    z = 100 + relief * (np.sin(xy[:, 0] / wave) + np.cos(xy[:, 1] / (0.7 * wave))) + rng.normal(0, 0.15, count)
    return triangulate(np.column_stack([xy, z]))[0]


def random_profile(rng: np.random.Generator, line: Any) -> Any:
    end = line.end_station
    count = int(rng.integers(2, 6))
    s = np.sort(np.concatenate([[0.0, end], rng.uniform(0.1, 0.9, count - 2) * end]))
    z = 100 + rng.uniform(-6, 6, count)
    least = np.diff(s).min() if count > 2 else 0.0
    return [
        PVI.symmetric(a, b, 0.8 * least) if 0 < i < count - 1 else PVI(a, b) for i, (a, b) in enumerate(zip(s, z, strict=True))
    ]


def test_random_sections_are_those_of_a_second_solver() -> None:
    """40 random roads, templates and grounds: toes, formations, whether the ground is met, and cut and fill, at every section and side.
    The second solver is plain Python, one section at a time, written from the words of the parts (tests/families/sections.py)."""
    rng = np.random.default_rng(41)
    right = all_ = met = 0
    wrong: list[tuple[int, int, str]] = []
    for road in range(40):
        _, line = random_line(rng)
        surface = random_ground(rng, line)
        sides = random_rural(rng), random_rural(rng)
        profile = profile_from_pvis(random_profile(rng, line))
        stations = rng.uniform(0, line.end_station, 25)
        made = compute_corridor(line, profile, template_of(*sides), surface, np.sort(stations)).blocks[0]
        for i in range(len(made.station)):
            for (name, sign, columns, _), values in zip(made.sides(), sides, strict=True):
                ground = outward(made.ground.section(i), sign)
                want, formation, meets = side_of(values, float(made.level[i]), ground)
                outline = [k for k in columns.outline("finished") if columns.present[k, i]]
                got = [(float(columns.across[k, i]), float(columns.level[k, i])) for k in outline]
                below = [
                    (float(columns.across[k, i]), float(columns.level[k, i]))
                    for k in columns.outline("formation")
                    if columns.present[k, i]
                ]
                same = len(got) == len(want) and np.allclose(got, want, rtol=0, atol=1e-6)
                same = (
                    same
                    and np.allclose(below, formation, rtol=0, atol=1e-6)
                    and meets == (not any(m[i] for m in columns.unmet.values()))
                )
                all_, right, met = all_ + 1, right + same, met + meets
                if not same:
                    wrong.append((road, i, name))
    assert all_ == 2000 and 0.5 < met / all_ < 1.0  # both kinds occur
    assert right == all_, wrong[:5]


def test_random_areas_are_those_of_a_second_count() -> None:
    """Cut and fill of whole sections between formation and ground, counted by trapezes in plain Python, where the ground is whole."""
    rng = np.random.default_rng(43)
    right = all_ = 0
    for _ in range(15):
        _, line = random_line(rng)
        surface = random_ground(rng, line)
        sides = random_rural(rng), random_rural(rng)
        at = np.sort(rng.uniform(0, line.end_station, 12))
        made = compute_corridor(line, profile_from_pvis(random_profile(rng, line)), template_of(*sides), surface, at)
        areas, block = compute_areas(made), made.blocks[0]
        for i in range(len(at)):
            ground = [(float(o), float(z)) for o, z in block.ground.section(i)]
            if areas.unknown_width[i] > 0 or not np.isfinite(ground).all():
                continue
            halves = [side_of(v, float(block.level[i]), outward(ground, s))[1] for v, s in zip(sides, (-1.0, 1.0), strict=True)]
            if any(np.diff([p[0] for p in h]).min() < 0 for h in halves):
                continue  # a slope that folds back is told as such
            design = [(-u, z) for u, z in reversed(halves[0])] + halves[1][1:]
            cut, fill = earth(design, ground)
            all_ += 1
            right += abs(cut - areas.cut[i]) < 1e-4 * max(1.0, cut) and abs(fill - areas.fill[i]) < 1e-4 * max(1.0, fill)
    assert all_ > 100 and right == all_


def test_random_roads_parted_anywhere_move_the_same_earth() -> None:
    """20 random roads, each parted into blocks at two random stations: totals within rounding of the whole road's."""
    rng = np.random.default_rng(47)
    for _ in range(20):
        _, line = random_line(rng)
        surface, template = random_ground(rng, line), template_of(random_rural(rng), random_rural(rng))
        profile = profile_from_pvis(random_profile(rng, line))
        a, b = np.sort(rng.uniform(0.05, 0.95, 2)) * line.end_station
        stations = np.union1d(section_stations(line, profile, 25.0), [a, b])
        stretches = [Piece(template, -np.inf, a), Piece(template, a, b), Piece(template, b, np.inf)]
        whole, parted = (compute_corridor(line, profile, t, surface, stations) for t in (template, stretches))
        totals = [compute_volumes(c, compute_areas(c)) for c in (whole, parted)]
        assert totals[1].cumulative_cut[-1] == pytest.approx(totals[0].cumulative_cut[-1], rel=1e-9, abs=1e-6)
        assert totals[1].cumulative_fill[-1] == pytest.approx(totals[0].cumulative_fill[-1], rel=1e-9, abs=1e-6)


@pytest.mark.parametrize("units", [METRES, FEET, US_FEET], ids=lambda u: u.name)
def test_random_lines_come_back_from_files_in_any_unit(units: Any) -> None:
    """30 lines and profiles written and read: every place within a thousandth of a millimetre in metres, a hundredth in feet."""
    rng = np.random.default_rng(53)
    for _ in range(30):
        _, line = random_line(rng)
        pvis = tuple(random_profile(rng, line))
        model = read_landxml(write_landxml(project="P", alignments=[("A", line, {"own": pvis})], units=units))
        back = model.alignments[0]
        assert back.alignment is not None and not [f for f in model.findings if f.severity == "fault"]
        s = np.linspace(0, line.end_station, 50)
        gap = np.hypot(*(back.alignment.evaluate(np.minimum(s, back.alignment.end_station))[0] - line.evaluate(s)[0]).T)
        assert gap.max() < (1e-6 if units is METRES else 1e-5)
        for p, q in zip(next(iter(back.profiles.values())), pvis, strict=True):
            assert (p.station, p.elevation, p.half_in) == pytest.approx((q.station, q.elevation, q.half_in), abs=1e-6)
