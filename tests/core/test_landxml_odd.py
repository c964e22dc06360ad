"""Odd LandXML files as honest programs write them: read right, refused in a sentence, or told; never wrong without a word."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy.integrate import solve_ivp

from ivoryridge.core.alignment.course import line_from_elements, told_elements
from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.sight import sight_along_profile
from ivoryridge.core.alignment.spirals import SPIRAL_SHAPES, spiral_pieces
from ivoryridge.core.alignment.vertical import PVI, circle_differs, profile_from_pvis
from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.landxml import LandXmlAlignment, read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml

E0, N0 = 412_000.0, 687_000.0


def xml(body: str, unit: str = "meter") -> bytes:
    system = "Metric" if unit == "meter" else "Imperial"
    units = f'<Units><{system} linearUnit="{unit}"/></Units>'
    return f'<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2">{units}{body}</LandXML>'.encode()


def line(elements: str, more: str = "", station: str = "100") -> bytes:
    return xml(
        f'<Alignments><Alignment name="A" staStart="{station}"><CoordGeom>{elements}</CoordGeom>{more}</Alignment></Alignments>'
    )


def at(tag: str, e: float, n: float) -> str:
    return f"<{tag}>{N0 + n:.6f} {E0 + e:.6f}</{tag}>"


def straight(e0: float, n0: float, e1: float, n1: float, more: str = "") -> str:
    return f"<Line {more}>{at('Start', e0, n0)}{at('End', e1, n1)}</Line>"


def quarter(radius: float = 100.0, rot: str = "cw", more: str = "", centre: bool = True) -> str:
    """North at the origin, a quarter circle to the right, east at its end."""
    middle = at("Center", radius, 0) if centre else ""
    return f'<Curve rot="{rot}" {more}>{at("Start", 0, 0)}{middle}{at("End", radius, radius)}</Curve>'


def read(content: bytes) -> tuple[LandXmlAlignment, dict[str, Any]]:
    model = read_landxml(content, "odd.xml")
    return model.alignments[0], {f.code: f for f in model.findings}


def refused(content: bytes) -> str:
    found, told = read(content)
    assert found.alignment is None and found.refused is not None and "alignment-refused" in told
    return found.refused.sentence


# --- lines ---------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("elements", "words"),
    [
        (quarter(more='radius="120"'), "radius is given as 120.000 m, its start lies 100.000 m"),
        (quarter(more='length="157.0"'), "length is given as 157.000 m, its points and rot make 157.080 m"),
        (quarter(rot="ccw", more='length="157.080"'), "rot is most likely wrong"),
        (quarter(rot="round"), "has no rot"),
        (quarter().replace(at("End", 100, 100), at("End", 100, 101)), "its end 101.000 m"),
        (quarter(30, centre=False, more='radius="10"'), "too far for a radius of 10.000 m"),
        (straight(0, 0, 0, 50, 'length="51"'), "given as 51.000 m, its ends are 50.000 m apart"),
        (straight(0, 0, 0, 50) + straight(0, 51, 0, 90), "begins 1.000 m away"),
        (f"<Curve rot='cw' radius='9'>{at('Start', 0, 0)}</Curve>", "has no End"),
        ("<Clothoid/>", "'Clothoid'"),
        (
            f'<Spiral length="60" radiusEnd="200" rot="cw">{at("Start", 0, 0)}{at("End", 3, 50)}</Spiral>',
            "its ends are 50.090 m apart, its length and radii make 59.9",
        ),
        (f'<Spiral length="60" radiusEnd="200" rot="cw" spiType="cubic">{at("Start", 0, 0)}{at("End", 3, 59)}</Spiral>',
        "of the type 'cubic'"),
        (f'<Spiral radiusEnd="200" rot="cw">{at("Start", 0, 0)}{at("End", 3, 59)}</Spiral>', "it has no length"),
        (f'<Line><Start>{N0} east</Start>{at("End", 0, 9)}</Line>', "'east'"),
        (f'<Line><Start pntRef="7"/>{at("End", 0, 9)}</Line>', "'7'"),
    ],
)  # fmt: skip
def test_an_element_that_contradicts_itself_is_refused_with_its_number_and_amount(elements: str, words: str) -> None:
    assert words in refused(line(elements))


def test_a_sound_line_beside_a_refused_one_is_read() -> None:
    content = xml(f"<Alignments><Alignment name='A'><CoordGeom>{straight(0, 0, 0, 9)}</CoordGeom></Alignment>"
                  f"<Alignment name='B'><CoordGeom>{quarter(rot='x')}</CoordGeom></Alignment></Alignments>")  # fmt: skip
    model = read_landxml(content)
    assert [a.alignment is None for a in model.alignments] == [False, True]


def test_an_arc_without_a_centre_is_laid_out_by_radius_sense_and_length() -> None:
    short, _ = read(line(quarter(centre=False, more='radius="100"')))
    long, _ = read(line(quarter(centre=False, more=f'radius="100" length="{150 * np.pi:.4f}"')))
    assert short.alignment is not None and long.alignment is not None
    assert_allclose(short.alignment.length, [50 * np.pi], rtol=0, atol=1e-9)
    assert_allclose(long.alignment.length, [150 * np.pi], rtol=0, atol=1e-9)


def test_a_kink_between_elements_is_told_with_element_station_and_amount() -> None:
    found, told = read(line(straight(0, 0, 0, 50) + straight(0, 50, 40, 50)))
    assert found.alignment is not None
    assert told["element-kink"].params["station"] == 150.0 and told["element-kink"].params["value"] == pytest.approx(90.0)
    assert told["element-kink"].severity == "fault" and told["element-kink"].params["number"] == 2


def test_a_row_of_points_is_kept_as_straights() -> None:
    rows = f"<IrregularLine><PntList2D>{N0} {E0} {N0 + 30} {E0} {N0 + 70} {E0 + 30}</PntList2D></IrregularLine>"
    found, told = read(line(rows + straight(30, 70, 30, 90)))
    assert found.alignment is not None and told["line-of-straights"].params["count"] == 2
    assert_allclose(found.alignment.length, [30, 50, 20], rtol=0, atol=1e-6)


def test_points_by_name_stations_in_groups_and_decimal_commas_are_read() -> None:
    points = f"<CgPoints><CgPoint name='P1'>{N0} {E0}</CgPoint></CgPoints>"
    body = f"<Line><Start pntRef='P1'/><End>{N0 + 9},5 {E0}</End></Line>".replace(".0,5", ",5")
    content = xml(
        points + f'<Alignments><Alignment name="A" staStart="1+200.5"><CoordGeom>{body}</CoordGeom></Alignment></Alignments>'
    )
    found, told = read(content)
    assert found.alignment is not None and found.alignment.start_station == 1200.5
    assert_allclose(found.alignment.length, [9.5], rtol=0, atol=1e-9)
    assert told["decimal-commas"].params["count"] == 1


def true_spiral(kind: str, length: float, k0: float, k1: float) -> Any:
    """Second way: its differential equation, by scipy."""
    shape = SPIRAL_SHAPES[kind][0]
    return solve_ivp(
        lambda s, y: [np.cos(y[2]), np.sin(y[2]), k0 + (k1 - k0) * float(shape(s / length))], (0, length), [0, 0, 0], rtol=1e-12,
        atol=1e-12,
        dense_output=True,
    ).sol  # fmt: skip


@pytest.mark.parametrize("kind", list(SPIRAL_SHAPES))
@pytest.mark.parametrize(("length", "k0", "k1"), [(120.0, 0.0, 1 / 300), (60.0, 1 / 150, 0.0), (200.0, -1 / 400, 1 / 250)])
def test_transitions_of_every_kind_follow_their_differential_equation(kind: str, length: float, k0: float, k1: float) -> None:
    true = true_spiral(kind, length, k0, k1)
    rows = spiral_pieces(kind, length, k0, k1).rows([0.0, 0.0], np.pi / 2)  # heading east: ahead is E, right is -N
    made = line_from_elements([[*r[0], *r[1:]] for r in rows])
    s = np.linspace(0, length, 173)
    place = made.evaluate(s)[0]
    assert_allclose(np.stack([place[:, 0], -place[:, 1]]), true(s)[:2], rtol=0, atol=2e-6)


def test_a_bloss_transition_of_a_file_is_read_by_its_own_formula() -> None:
    x, y, angle = true_spiral("bloss", 90.0, 0.0, 1 / 250)(90.0)
    places = at("Start", 0, 0) + at("PI", 0, x - y / np.tan(angle)) + at("End", y, x)
    g = f'<Spiral length="90" radiusEnd="250" rot="cw" spiType="bloss">{places}</Spiral>'
    found, told = read(line(g))
    assert found.alignment is not None and told["spiral-in-pieces"].params["type"] == "bloss"
    assert_allclose(found.alignment.evaluate(found.alignment.end_station)[0][0], [E0 + y, N0 + x], rtol=0, atol=1e-4)
    assert "beside the tangent" in refused(line(g.replace("bloss", "sinusoid")))  # another formula leads elsewhere


# --- profiles ------------------------------------------------------------------------------------------------
def profile(rows: str) -> bytes:
    return line(straight(0, 0, 0, 900), f'<Profile><ProfAlign name="P">{rows}</ProfAlign></Profile>')


def test_a_circular_vertical_curve_is_kept_and_lies_on_its_circle() -> None:
    found, told = read(profile('<PVI>100 50</PVI><CircCurve radius="2000" length="139.9">400 62</CircCurve><PVI>900 52</PVI>'))
    made = profile_from_pvis(found.profiles["P"])
    a, b = np.arctan([0.04, -0.02])
    half = 2000 * np.tan((a - b) / 2)
    centre = np.array([400 - half * np.cos(a), 62 - half * np.sin(a)]) + 2000 * np.array([np.sin(a), -np.cos(a)])
    s = np.linspace(400 - half * np.cos(a), 400 + half * np.cos(b), 101)
    assert_allclose(np.hypot(s - centre[0], made.evaluate(s)[0] - centre[1]), 2000, rtol=0, atol=1e-6)
    assert_allclose(made.evaluate(s)[1], (centre[0] - s) / np.sqrt(2000**2 - (s - centre[0]) ** 2), rtol=0, atol=1e-9)
    assert made.turning_points()[0, 0] == pytest.approx(centre[0], abs=1e-6)
    assert told["circle-length-differs"].params["value"] == pytest.approx(2000 * (np.sin(a) - np.sin(b)))
    parts = made.as_parabolas()
    assert_allclose(parts.evaluate(s)[0], made.evaluate(s)[0], rtol=0, atol=1e-6)
    flat = profile_from_pvis([PVI(100, 50), PVI(400, 62, 60, 60), PVI(900, 52)])
    assert circle_differs(0.04, -0.02, 120.0) == pytest.approx(
        np.abs(profile_from_pvis([PVI(100, 50), PVI.circle(400, 62, 120, a, b), PVI(900, 52)]).evaluate(np.linspace(341, 459, 99))[0]
               - flat.evaluate(np.linspace(341, 459, 99))[0]).max(), rel=0.05)  # fmt: skip
    assert 0 < sight_along_profile(made, [390.0], eye=1.05, target=0.26)[0][0] < 500


def test_circular_and_unsymmetrical_curves_come_back_from_our_own_file() -> None:
    pis = [PI(E0, N0), PI(E0 + 900, N0)]
    pvis = profile_of(PVI(0, 50), PVI.circle(300, 62, 120, *np.arctan([0.04, -0.02])), PVI(600, 56, 40, 70), PVI(900, 59))
    content = write_landxml(
        project="p", surfaces=[], alignments=[("A", alignment_from_pis(pis), {"P": pvis})], date="2026-01-01", time="00:00:00"
    )
    again = read_landxml(content).alignments[0].profiles["P"]
    for a, b in zip(pvis, again, strict=True):
        assert_allclose(
            [a.station, a.elevation, a.half_in, a.half_out], [b.station, b.elevation, b.half_in, b.half_out], rtol=0, atol=1e-9
        )
        assert a.circular == b.circular


def profile_of(*pvis: PVI) -> tuple[PVI, ...]:
    profile_from_pvis(pvis)
    return pvis


def test_ground_profiles_are_offered_and_odd_rows_told() -> None:
    content = line(
        straight(0, 0, 0, 900),
        "<Profile><ProfSurf name='Ground'><PntList2D>100 50.5 300 52 600 49</PntList2D></ProfSurf>"
        "<ProfAlign name='P'><PVI>100 50</PVI><StraightCrest/><PVI>900 60</PVI></ProfAlign></Profile><CrossSects><CrossSect/></CrossSects>",
    )
    found, told = read(content)
    assert found.grounds["Ground"].tolist() == [[100, 50.5], [300, 52], [600, 49]]
    assert told["profile-left-out"].params["what"] == "StraightCrest" and "cross section" in told["left-out"].sentence


@pytest.mark.parametrize(
    "rows", ["<PVI></PVI>", "<PVI>100 50</PVI><ParaCurve>200 51</ParaCurve><PVI>300 50</PVI>", "<PVI>1 2 3</PVI>"]
)
def test_a_profile_that_is_not_complete_is_refused_with_its_line(rows: str) -> None:
    assert "line 1" in refused(profile(rows))


# --- surfaces ------------------------------------------------------------------------------------------------
def surface(faces: str, points: str = "", name: str = "S") -> str:
    corners = "".join(
        f'<P id="{i}">{N0 + n} {E0 + e} {z}</P>'
        for i, (e, n, z) in enumerate([(0, 0, 1), (10, 0, 2), (10, 10, 3), (0, 10, 4), (5, 5, 9)], 1)
    )
    tin = f'<Definition surfType="TIN"><Pnts>{corners}{points}</Pnts><Faces>{faces}</Faces></Definition>'
    return f'<Surfaces><Surface name="{name}">{tin}</Surface></Surfaces>'


def test_faces_given_twice_without_area_and_over_each_other_are_told_and_left_out() -> None:
    faces = ["1 2 3", "1 3 4", "3 1 2", "2 2 3", "1 2 5"]  # the last lies over the first
    model = read_landxml(xml(surface("".join(f"<F>{f}</F>" for f in faces))))
    told = {f.code: f for f in model.findings}
    assert model.surfaces[0].faces.tolist() == [[0, 1, 2], [0, 2, 3]]
    assert told["faces-doubled"].params["count"] == 1 and told["faces-without-area"].params["count"] == 1
    assert told["faces-overlap"].params["area"] == pytest.approx(25.0) and told["faces-overlap"].place is not None


def test_point_ids_given_twice_are_named() -> None:
    points = f'<P id="3">{N0 + 10} {E0 + 10} 3</P><P id="4">{N0} {E0} 7</P>'
    told = {f.code: f for f in read_landxml(xml(surface("<F>1 2 3</F>", points))).findings}
    assert told["ids-repeated"].params["ids"] == "3" and told["ids-twice"].params["ids"] == "4"


def test_lines_without_levels_are_told() -> None:
    body = (
        "<Surfaces><Surface name='S'><SourceData><Breaklines><Breakline><PntList2D>1 2 3 4</PntList2D></Breakline></Breaklines>"
    )
    body += "<DataPoints><PntList3D>1 2 3 4 5 6 7 8 10</PntList3D></DataPoints></SourceData></Surface></Surfaces>"
    told = {f.code: f for f in read_landxml(xml(body)).findings}
    assert "1 breaklines of surface S have no level" in told["without-level"].sentence


def test_every_line_of_the_demo_s_kind_is_read_as_it_was_written() -> None:
    rng = np.random.default_rng(5)
    for _ in range(20):
        turns = np.cumsum(rng.uniform(-0.6, 0.6, 6))
        places = np.cumsum(np.concatenate([[[E0, N0]], 400 * np.stack([np.sin(turns), np.cos(turns)], axis=-1)]), axis=0)
        pis = [PI(*p, *((float(rng.uniform(200, 500)), 40.0, 60.0) if 0 < i < 6 else ())) for i, p in enumerate(places.tolist())]
        try:
            made = alignment_from_pis(pis)
        except ValueError:
            continue
        content = write_landxml(project="p", surfaces=[], alignments=[("A", made, {})], date="", time="")
        found, told = read(content)
        assert found.alignment is not None and not told
        assert_allclose(np.array(told_elements(found.alignment))[:, :4], np.array(told_elements(made))[:, :4], rtol=0, atol=1e-6)
        assert all(b > a for a, b in itertools.pairwise(found.alignment.stations))


def test_a_file_with_nothing_sound_gives_the_reason() -> None:
    with pytest.raises(FormatError, match="gives lengths in 'cubit'"):
        read_landxml(xml("", "cubit"))
