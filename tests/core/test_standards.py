"""Standards: tables against their own formulas, and lines and profiles that just keep to, or just miss, each limit.

Values and formulas: AASHTO, A Policy on Geometric Design of Highways and Streets, 2018 (7th ed.); DMRB CD 109, Table 2.10;
both from memory, as the data files say.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import FormatError, InputError
from ivoryridge.core.standards import formulas as f
from ivoryridge.core.standards.checks import DesignFinding, check_levels, check_line
from ivoryridge.core.standards.standard import KMH, SpeedZones, Standard, built_in_standards, standard_from_toml
from ivoryridge.core.units import FOOT

SETS = built_in_standards()
BRITISH, AMERICAN, US = (SETS[n] for n in ("british_metric", "american_metric", "american_us"))


def one_speed(kmh: float) -> SpeedZones:
    return SpeedZones((float("-inf"),), (kmh,))


@pytest.mark.parametrize("us", [False, True])
def test_tables_are_what_their_formulas_give_as_printed(us: bool) -> None:
    """Sight distances up to the next 5, K up to the next whole number, radii to the nearest (three figures above 1000 ft)."""
    unit, speed_unit = (FOOT, KMH["mph"]) if us else (1.0, 1.0)
    for row in (US if us else AMERICAN).rows:
        v, sight = row["speed"] / speed_unit, row["sight"] / unit
        assert f.up_to_five(f.stopping_sight_us(v) if us else f.stopping_sight_metric(v)) == pytest.approx(sight)
        assert f.printed_k(f.crest_k_calculated(sight, us=us)) == pytest.approx(row["crest_k"] / unit)
        assert f.printed_k(f.headlight_k_calculated(sight, us=us)) == pytest.approx(row["sag_k"] / unit)
        radius = (f.least_radius_us if us else f.least_radius_metric)(v, 0.08, row["friction"])
        assert row["radius"] / unit == pytest.approx(radius, abs=0.51 if radius < 1000 else 5.1)
        if "passing_k" in row:
            assert row["passing_k"] / unit == pytest.approx((row["passing_sight"] / unit) ** 2 / (2800 if us else 864), abs=0.51)


def test_british_radii_are_steps_of_the_root_of_two_in_v2_over_r() -> None:
    """CD 109: V^2/R of 5, 7.07, 10, 14.14, 20, 28.28 for the six columns; printed radii are rounded, so 5 % is allowed."""
    for row in BRITISH.rows:
        v2 = row["speed"] ** 2
        for name, step in (("transition_below", 5.0), ("radius_desirable", 14.14), ("radius_one_step", 20.0), ("radius", 28.28)):
            assert v2 / row[name] == pytest.approx(step, rel=0.05)


def test_method_five_meets_its_ends_and_is_smooth_between() -> None:
    """At the least radius friction and crossfall are the greatest; at the point of intersection both branches agree."""
    at = {
        r: f.method_five(80, 70, r, greatest_crossfall=0.08, greatest_friction=0.14) for r in (229.062, 482.2835, 482.2834, 1e9)
    }
    assert at[229.062].crossfall == pytest.approx(0.08, abs=1e-5) and at[229.062].friction == pytest.approx(0.14, abs=1e-5)
    assert at[482.2835].crossfall == pytest.approx(at[482.2834].crossfall, abs=1e-7)
    assert at[1e9].crossfall == pytest.approx(0.0, abs=1e-6)


def test_units_are_turned_into_metres_and_an_office_file_wins_or_is_refused_in_words() -> None:
    row = US.at(60 * KMH["mph"])
    assert row["radius"] == pytest.approx(1200 * 0.3048) and row["crest_k"] == pytest.approx(151 * 0.3048)
    assert US.at(85)["speed"] == pytest.approx(55 * KMH["mph"])  # 85 km/h is 52.8 mph: the next row that is not slower
    with pytest.raises(InputError, match="reach 130 km/h"):
        AMERICAN.at(140)
    text = (
        'name="Ours"\nsource="s"\nstatus="confirmed 2026"\nspeed_unit="km/h"\nlength_unit="m"\nkind="british"\n'
        'lateral_jerk=0.3\nrows=[{speed=60, radius=130, crest_k=17, sag_k=13, sight=90}]\n[clauses]\nradius="Office note 7"\n'
    )
    ours = standard_from_toml(text, "ours")
    assert ours.where("radius") == "Office note 7" and ours.where("sag") == "s"
    for broken in (text.replace("rows=", "rowz="), text.replace('"m"', '"furlong"'), "[[["):
        with pytest.raises(FormatError, match="data file ours cannot be used"):
            standard_from_toml(broken, "ours")


# --- lines ---------------------------------------------------------------------------------------------------
def bend(radius: float, spirals: tuple[float, float] = (0, 0), turn: float = 40.0, leg: float = 900.0) -> list[PI]:
    a = np.radians(turn)
    e, n = 412_000.0, 687_000.0
    return [PI(e, n), PI(e, n + leg, radius, *spirals), PI(e + leg * np.sin(a), n + leg + leg * np.cos(a))]


def line_findings(pis: list[PI], standard: Standard, zones: SpeedZones) -> dict[str, DesignFinding]:
    return {f"{x.finding.code} {x.finding.params['name']}": x for x in check_line(alignment_from_pis(pis), pis, standard, zones)}


LINES: list[tuple[str, list[PI], Standard, float, str, float]] = [
    ("radius-least PI 2", bend(254, (100, 100)), BRITISH, 85, "fault", 255),
    ("radius-desirable PI 2", bend(509, (86.2, 86.2)), BRITISH, 85, "doubt", 510),
    ("radius-least PI 2", bend(228, (45, 45)), AMERICAN, 80, "fault", 229),
    ("radius-least PI 2", bend(365, (60, 60)), US, 60 * 1.609344, "fault", 365.76),
    ("radius-least PI 2", bend(299), SETS["german_rural"], 90, "fault", 300),
    ("transition-missing PI 2, entry", bend(600, (0, 80)), BRITISH, 85, "doubt", 1440),
    ("transition-short PI 2, exit", bend(600, (80, 73)), BRITISH, 85, "doubt", 85**3 / (46.7 * 0.3 * 600)),
    ("transition-long PI 2, entry", bend(600, (121, 80)), BRITISH, 85, "note", float(np.sqrt(24 * 600))),
    ("transition-missing PI 2, exit", bend(300, (45, 0)), AMERICAN, 80, "note", 379),
    ("transition-short PI 2, entry", bend(300, (37, 40)), AMERICAN, 80, "doubt", float(np.sqrt(24 * 0.2 * 300))),
    ("transition-short PI 2, entry", bend(360, (39, 60)), SETS["german_rural"], 90, "doubt", 40.0),  # A = R / 3
    ("transition-long PI 2, exit", bend(330, (60, 331), 70), SETS["german_rural"], 90, "note", 330.0),  # A = R
    ("curve-short PI 2", bend(900, turn=14), AMERICAN, 80, "note", 240),
    ("curve-short PI 2", bend(2000, turn=4), AMERICAN, 50, "note", 180),  # 150 m, and 30 m for the degree under five
    ("line-kink PI 2", bend(0), BRITISH, 60, "fault", 0.2),
    ("pi-in-line PI 2", bend(300, turn=0), BRITISH, 60, "note", 0.2),
]  # fmt: skip


@pytest.mark.parametrize(("name", "pis", "standard", "speed", "severity", "limit"), LINES)
def test_a_line_just_beyond_a_limit_is_found_and_the_way_out_clears_it(
    name: str, pis: list[PI], standard: Standard, speed: float, severity: str, limit: float
) -> None:
    found = line_findings(pis, standard, one_speed(speed))
    assert name in found, list(found)
    x = found[name]
    assert x.finding.severity == severity and x.limit == pytest.approx(limit) and x.about == ("pi", 1)
    assert x.clause and x.why and (x.status.startswith("unverified") or x.status.startswith("common practice"))
    for way in x.ways[:1]:
        mended = [*pis]
        mended[1] = PI(
            pis[1].easting,
            pis[1].northing,
            **{**{k: getattr(pis[1], k) for k in ("radius", "spiral_in", "spiral_out")}, **way.values},
        )
        assert name not in line_findings(mended, standard, one_speed(speed))


def test_a_line_that_keeps_to_all_limits_has_no_findings() -> None:
    assert line_findings(bend(510, (86, 86)), BRITISH, one_speed(85)) == {}
    assert line_findings(bend(400, (50, 50)), AMERICAN, one_speed(80)) == {}


def test_the_fastest_speed_on_a_bend_counts() -> None:
    pis = bend(300, (80, 80))
    zones = SpeedZones((float("-inf"), 700.0, 2000.0), (60.0, 85.0, 120.0))
    assert line_findings(pis, BRITISH, zones)["radius-desirable PI 2"].finding.params["speed"] == 85
    assert "radius-desirable PI 2" not in line_findings(pis, BRITISH, SpeedZones((float("-inf"), 2000.0), (60.0, 120.0)))


def two_bends(r1: float, r2: float, straight: float) -> list[PI]:
    """Two right-hand bends of 30 degrees with so many metres between them."""
    t = np.tan(np.radians(15))
    first, gap = np.array([0.0, 800.0]), (r1 + r2) * t + straight
    second = first + gap * np.array([np.sin(np.pi / 6), np.cos(np.pi / 6)])
    last = second + 900 * np.array([np.sin(np.pi / 3), np.cos(np.pi / 3)])
    return [PI(0, 0), PI(*first, r1), PI(*second, r2), PI(*last)]


def test_neighbouring_bends_of_one_sense() -> None:
    compound = line_findings(two_bends(900, 500, 0.0), AMERICAN, one_speed(60))["compound-ratio PI 2 and PI 3"]
    assert compound.value == pytest.approx(1.8) and compound.ways[0].index == 2 and compound.ways[0].values["radius"] == 600
    assert not any("compound" in k or "broken" in k for k in line_findings(two_bends(750, 500, 0.0), AMERICAN, one_speed(60)))
    assert "broken-back PI 2 and PI 3" in line_findings(two_bends(900, 500, 449), AMERICAN, one_speed(60))
    assert not any("broken" in k for k in line_findings(two_bends(900, 500, 451), AMERICAN, one_speed(60)))


# --- levels --------------------------------------------------------------------------------------------------
def hill(g1: float, g2: float, length: float) -> list[PVI]:
    return [PVI(0, 100), PVI.symmetric(800, 100 + 8 * g1, length), PVI(1600, 100 + 8 * g1 + 8 * g2)]


def level_findings(pvis: list[PVI], standard: Standard, speed: float, **limits: float) -> dict[str, DesignFinding]:
    limits = {"greatest_grade": 0.1, **limits}
    return {
        f"{x.finding.code} {x.finding.params['name']}": x
        for x in check_levels(profile_from_pvis(pvis), pvis, standard, one_speed(speed), **limits)
    }  # type: ignore[arg-type]


LEVELS: list[tuple[str, list[PVI], Standard, float, str, float]] = [
    ("k-least PVI 2", hill(3, -3, 6 * 29.9), BRITISH, 85, "fault", 30),
    ("k-desirable PVI 2", hill(3, -3, 6 * 54.9), BRITISH, 85, "doubt", 55),
    ("k-least PVI 2", hill(-3, 3, 6 * 19.9), BRITISH, 85, "fault", 20),
    ("k-least PVI 2", hill(2, -2, 4 * 25.9), AMERICAN, 80, "fault", 26),
    ("k-least PVI 2", hill(-2, 2, 4 * 135 * 0.3048), US, 60 * 1.609344, "fault", 136 * 0.3048),
    ("k-least PVI 2", hill(3, -3, 0), AMERICAN, 80, "fault", 26),
    ("vertical-short PVI 2", hill(1, 0.5, 47), AMERICAN, 80, "note", 48),
    ("drainage-k PVI 2", hill(2, -2, 4 * 52), AMERICAN, 60, "note", 51),
    ("grade-steep PVI 1 to PVI 2", hill(6.1, 1, 400), BRITISH, 85, "fault", 6),
    ("grade-flat PVI 2 to PVI 3", hill(2, 0.4, 200), BRITISH, 85, "note", 0.5),
]


@pytest.mark.parametrize(("name", "pvis", "standard", "speed", "severity", "limit"), LEVELS)
def test_a_profile_just_beyond_a_limit_is_found_and_the_way_out_clears_it(
    name: str, pvis: list[PVI], standard: Standard, speed: float, severity: str, limit: float
) -> None:
    found = level_findings(pvis, standard, speed)
    assert name in found, list(found)
    x = found[name]
    assert x.finding.severity == severity and x.limit == pytest.approx(limit) and x.about[0] == "pvi"
    for way in x.ways[:1]:
        mended = [*pvis]
        mended[1] = PVI.symmetric(800, pvis[1].elevation, way.values["length"])
        assert name not in level_findings(mended, standard, speed)


def test_the_projects_own_limits_count_where_they_are_stricter() -> None:
    gentle = hill(2, -2, 4 * 60)
    assert level_findings(gentle, BRITISH, 85) == {}
    assert (
        level_findings(gentle, BRITISH, 85, greatest_grade=0.019)["grade-steep PVI 1 to PVI 2"].status
        == "common practice, no source"
    )
    own = level_findings(gentle, BRITISH, 85, least_k=70)["k-least PVI 2"]
    assert own.limit == 70 and "project's own limit" in str(own.why)


def test_the_sharper_half_of_an_unequal_curve_counts() -> None:
    pvis = [PVI(0, 100), PVI(800, 124, 60, 200), PVI(1600, 100)]
    common = (3 * 60 - 3 * 200) / 260  # grade of the common tangent
    assert level_findings(pvis, AMERICAN, 80)["k-least PVI 2"].value == pytest.approx(60 / (3 - common))


def test_findings_do_not_hang_on_where_the_road_lies() -> None:
    pis: Any = bend(254, (100, 100))
    far = [PI(p.easting + 4.5e6, p.northing + 6e6, p.radius, p.spiral_in, p.spiral_out) for p in pis]
    assert line_findings(pis, BRITISH, one_speed(85)).keys() == line_findings(far, BRITISH, one_speed(85)).keys()
