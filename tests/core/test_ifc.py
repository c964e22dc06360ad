"""IFC 4.3 alignments: valid against the schema, and evaluated by the IFC library to the same points (within 1e-6 m)."""

from __future__ import annotations

from typing import Any

import ifcopenshell
import ifcopenshell.api.alignment as alignments
import ifcopenshell.geom
import ifcopenshell.ifcopenshell_wrapper as wrapper
import ifcopenshell.validate
import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI, profile_from_pvis
from ivoryridge.core.exchange.ifc_alignment import write_ifc

E0, N0 = 412_000.0, 687_000.0
LINE = alignment_from_pis(
    [PI(E0, N0), PI(E0 + 300, N0 + 40, 220, 50, 40), PI(E0 + 520, N0 + 300, 150, 0, 30), PI(E0 + 900, N0 + 330)], 100.0
)
END = LINE.end_station
ROUND = profile_from_pvis([PVI(100, 50), PVI.circle(350, 58, 120, *np.arctan([8 / 250, -9 / 350])), PVI(700, 49), PVI(END, 55)])
PROFILE = profile_from_pvis([PVI(100, 50), PVI(350, 58, 60, 60), PVI(700, 49, 80, 110), PVI(END, 55)])


@pytest.fixture(scope="module")
def made() -> Any:
    content = write_ifc(
        project="Test",
        lines=[("Main", LINE, PROFILE), ("Flat", LINE, None), ("Round", LINE, ROUND)],
        equations={"Main": ((300.0, 12.5),)},
    )
    return ifcopenshell.file.from_string(content.decode())


def test_it_is_valid_against_the_schema(made: Any) -> None:
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(made, log)
    assert log.statements == []
    assert made.schema_identifier == "IFC4X3_ADD2" and [a.Name for a in made.by_type("IfcAlignment")] == ["Main", "Flat", "Round"]


@pytest.mark.parametrize(("index", "profile"), [(0, PROFILE), (2, ROUND)])
def test_the_library_evaluates_it_to_our_places_and_levels(made: Any, index: int, profile: Any) -> None:
    main = made.by_type("IfcAlignment")[index]
    settings = ifcopenshell.geom.settings()
    evaluate = wrapper.function_item_evaluator(settings, wrapper.map_shape(settings, alignments.get_curve(main)))
    along = np.linspace(0.0, float(LINE.length.sum()) - 1e-6, 400)
    theirs = np.array([np.array(evaluate.evaluate(float(s)))[:3, 3] for s in along])
    ours = LINE.evaluate(100 + along)[0]
    assert np.hypot(*(theirs[:, :2] - ours).T).max() < 1e-6
    assert np.abs(theirs[:, 2] - profile.evaluate(100 + along)[0]).max() < 1e-6


def test_the_start_and_every_equation_stand_as_referents_the_library_reads(made: Any) -> None:
    main, flat, _ = made.by_type("IfcAlignment")
    assert alignments.get_alignment_start_station(made, main) == pytest.approx(100.0)
    names = [r.Name for r in made.by_type("IfcReferent")]
    assert names == ["100.000", "312.500", "100.000", "100.000"]
    assert alignments.distance_along_from_station(made, flat, 150.0) == pytest.approx(50.0)
    assert alignments.distance_along_from_station(made, main, 322.5) == pytest.approx(210.0)
