"""Sentences, reports, sheets and files in the units a project speaks."""

from __future__ import annotations

import io
import re
from dataclasses import replace
from string import Formatter

import ezdxf
import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.errors import SENTENCES, InputError
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.line_dxf import LineDrawn, write_lines_dxf
from ivoryridge.core.findings import FINDING_SENTENCES, Finding
from ivoryridge.core.report.line import element_report
from ivoryridge.core.report.table import in_spoken_units
from ivoryridge.core.sheets.frame import compute_frames
from ivoryridge.core.sheets.plan_profile import draw_plan_profile
from ivoryridge.core.standards.checks import check_line
from ivoryridge.core.standards.standard import SpeedZones, built_in_standards
from ivoryridge.core.units import FOOT, US_SURVEY_FOOT
from ivoryridge.core.wording import FEET, METRES, UNITS, US_FEET, counting, quantity, say, speaking, spoken

from .test_sheets import road, settings

_OTHER = ("m/s³",)  # said of a formula, which is a metric one
_ABOUT_FILES = {
    "coordinates-large",
    "units-unsaid",
    "units-converted",
    "looks-like-degrees",
    "too-few-metres",
}  # they speak of metres


def filled(text: str) -> dict[str, object]:
    """Something for every place of a sentence."""
    return {name: 1234.5 if spec else "that" for _, name, spec, _ in Formatter().parse(text) if name}


@pytest.mark.parametrize("table", [SENTENCES, FINDING_SENTENCES], ids=["errors", "findings"])
def test_no_sentence_speaks_metres_to_who_reads_feet(table: dict[str, str]) -> None:
    """In metres a quantity reads as ever; in feet no number is followed by a metric unit, and every length is another number."""
    changed = 0
    for code, text in table.items():
        params = filled(text)
        metric = say(text, params)
        with speaking(FEET):
            imperial = say(text, params)
        left = re.findall(r"\d(?:\.\d+)? (?:m|km|km/h|m²|m³|ha)\b(?!/)", imperial)
        assert code in _ABOUT_FILES or not left, (code, imperial)
        changed += imperial != metric
    assert changed > 25


def test_quantities_are_what_the_definitions_of_the_units_say() -> None:
    """International foot 0.3048 m (1959 agreement), US survey foot 1200/3937 m, mile 1609.344 m, cubic yard 27 cubic feet."""
    assert quantity(12.3456, "m", 2) == "12.35 m" and quantity(85, "kmh", 0) == "85 km/h" and spoken() is METRES
    with speaking(FEET):
        assert quantity(0.3048, "m", 4) == "1.0000 ft"
        assert quantity(27 * FOOT**3, "m3", 3) == "1.000 yd³"
        assert quantity(104.60736, "kmh", 2) == "65.00 mph" and quantity(3.218688, "km", 1) == "2.0 mi"
        assert quantity(4046.8564224 / 1e4, "ha", 3) == "1.000 ac" and quantity(30.48, "k", 1) == "100.0"
    with speaking(US_FEET):
        assert quantity(1200.0, "m", 1) == "3937.0 ft"
    assert spoken() is METRES


def test_stations_are_read_as_chainages_with_the_roads_equations_and_a_range_of_one_section_as_a_place() -> None:
    away = Finding("fault", "off-ground", {"start": 770.0, "end": 1180.0})
    assert away.sentence.startswith("From 0+770.00 to 1+180.00 the road lies outside")
    assert Finding("fault", "off-ground", {"start": 770.0, "end": 770.0}).sentence.startswith("At 0+770.00 the road lies outside")
    assert (
        "on the left crosses itself at 0+120.00."
        in Finding("fault", "crosses-itself", {"start": 120.0, "end": 120.0, "side": "left"}).sentence
    )
    thin = {"start": 120.0, "end": 120.0, "at": 120.0, "part": "overlay", "side": "left", "value": 0.02, "what": "planing"}
    assert "thin by up to 0.020 m: the road" in Finding("doubt", "laid-too-thin", thin).sentence
    assert "0.020 m (at 0+125.00): the" in Finding("doubt", "laid-too-thin", {**thin, "end": 150.0, "at": 125.0}).sentence
    with speaking(replace(FEET, group=100)):
        assert away.sentence.startswith("From 25+26.25 to 38+71.39 ")
    with counting(lambda s: s + 100.0 if s > 1000 else s):
        assert away.sentence.startswith("From 0+770.00 to 1+280.00 ")


def test_a_finding_and_its_reason_are_records_and_worded_when_they_are_read() -> None:
    """What is kept by key is found once; who reads it in feet is told feet, and the key of the finding stays."""
    line = alignment_from_pis([PI(0, 0), PI(300, 0, 200.0, 40, 40), PI(500, 300)])
    pis = [PI(0, 0), PI(300, 0, 200.0, 40, 40), PI(500, 300)]
    (found,) = [
        f
        for f in check_line(line, pis, built_in_standards()["british_metric"], SpeedZones((float("-inf"),), (85.0,)))
        if f.finding.code.startswith("radius")
    ]
    metric = found.as_dict()
    with speaking(FEET):
        imperial = found.as_dict()
    assert "200.0 m; at 85 km/h the least is 255 m" in metric["sentence"]
    assert "656.2 ft; at 53 mph the least is 837 ft" in imperial["sentence"]
    assert "least 837 ft" in imperial["why"] and imperial["ways"][0]["label"].endswith(" ft")
    assert metric["key"] == imperial["key"] and metric["ways"][0]["values"] == imperial["ways"][0]["values"]
    error = InputError("pis-coincide", first=1, second=2, distance=0.3048)
    with speaking(FEET):
        assert "(1.000 ft apart)" in error.sentence
    assert "(0.305 m apart)" in error.sentence
    assert Finding("note", "grade-flat", {"name": "PVI 1", "value": 0.1, "limit": 0.5}).sentence.endswith("kerbed road.")


@pytest.mark.parametrize("name", ["ft", "us-ft"])
def test_files_in_feet_bring_the_same_line_back(name: str) -> None:
    units = UNITS[name]
    line = alignment_from_pis([PI(500_000, 6_200_000), PI(500_300, 6_200_100, 250, 60, 40), PI(500_500, 6_200_500)])
    pvis = (PVI(0, 61.25), PVI(200, 64.0, 60, 40), PVI(line.end_station, 58.5))
    written = write_landxml(project="P", alignments=[("A", line, {"own": pvis})], equations={"A": [(150.0, 7.5)]}, units=units)
    assert (b'linearUnit="foot"' if name == "ft" else b'linearUnit="USSurveyFoot"') in written
    back = read_landxml(written).alignments[0]
    assert back.alignment is not None
    got, want = back.alignment.evaluate(back.alignment.stations), line.evaluate(line.stations)
    for a, b in zip(got, want, strict=True):
        assert_allclose(a, b, rtol=0, atol=2e-6)
    assert_allclose([(p.station, p.elevation, p.half_in, p.half_out) for p in next(iter(back.profiles.values()))],
                    [(p.station, p.elevation, p.half_in, p.half_out) for p in pvis], rtol=0, atol=1e-6)  # fmt: skip
    assert_allclose(back.equations, [(150.0, 7.5)], rtol=0, atol=1e-9)
    drawing = ezdxf.read(io.StringIO(write_lines_dxf([LineDrawn("A", line, profile_from_pvis(pvis), str)], units=units)))
    assert drawing.header["$INSUNITS"] == (2 if name == "ft" else 21)
    first = next(iter(drawing.modelspace().query("LWPOLYLINE"))).get_points("xy")[0]
    assert_allclose(np.array(first) * units.metre, [500_000, 6_200_000], rtol=0, atol=1e-5)


def test_reports_and_sheets_in_feet_hold_the_same_numbers_in_feet() -> None:
    line = road().line
    metric = element_report(line)
    with speaking(US_FEET):
        imperial = in_spoken_units(metric)
    lengths = [i for i, c in enumerate(metric.columns) if c.unit == "m"]
    assert lengths and all(imperial.columns[i].unit == "ft" for i in lengths)
    for a, b in zip(metric.rows, imperial.rows, strict=True):
        for i in lengths:
            assert (a[i] is None and b[i] is None) or b[i] == pytest.approx(a[i] / US_SURVEY_FOOT, rel=1e-12)
    frame = compute_frames(line, settings())[0]
    with speaking(FEET):
        sheet = draw_plan_profile(road(), frame, settings(), count=1)
    texts = [t.text for t in sheet.texts]
    (datum,) = [t for t in texts if t.startswith("Datum")]
    assert re.fullmatch(r"Datum -?\d+ ft", datum) and int(datum.split()[1]) % 5 == 0
    start = float(road().profile.evaluate(frame.start)[0][0])
    assert f"{start / FOOT:.2f}" in texts and f"{start:.2f}" not in texts
