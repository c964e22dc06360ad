"""Alignments as IFC 4.3: horizontal and vertical layouts with their curves, by the IFC library.

IFC counts angles from east, counter-clockwise, and radii positive to the left; we count from north, clockwise, + right.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np

from ..alignment.horizontal import HorizontalAlignment
from ..alignment.stationing import counted_at
from ..alignment.vertical import VerticalAlignment
from ..text import clean

__all__ = ["write_ifc"]

_KINDS = {"Line": "LINE", "Curve": "CIRCULARARC", "Spiral": "CLOTHOID"}


def write_ifc(
    *,
    project: str,
    lines: Iterable[tuple[str, HorizontalAlignment, VerticalAlignment | None]],
    equations: Mapping[str, Sequence[tuple[float, float]]] | None = None,
) -> bytes:
    """The text of an IFC 4.3 file in metres and radians: an IfcAlignment for each line, with its profile where there is one, and
    IfcReferents for the chainage at its start and at each of its chainage equations (station and jump, m, by name of the line).

    Lengths and curvatures go over as they are; a profile's parabolas (also unequal halves) as parabolic arcs, circles as circular ones.
    """
    import ifcopenshell
    import ifcopenshell.api.alignment as alignments
    import ifcopenshell.api.context as contexts
    import ifcopenshell.api.unit as units
    import ifcopenshell.guid

    file = ifcopenshell.file(schema="IFC4X3")
    root = file.create_entity("IfcProject", GlobalId=ifcopenshell.guid.new(), Name=clean(project))
    metre = units.add_si_unit(file, unit_type="LENGTHUNIT")
    radian = units.add_si_unit(file, unit_type="PLANEANGLEUNIT")
    units.assign_unit(file, units=[metre, radian])
    model = contexts.add_context(file, context_type="Model")
    contexts.add_context(file, context_type="Model", context_identifier="Axis", target_view="MODEL_VIEW", parent=model)
    assert root is not None
    for name, line, profile in lines:
        name = clean(name)
        made = alignments.create(file, name, include_vertical=profile is not None)
        layout = alignments.get_horizontal_layout(made)
        for i in range(len(line.length)):
            alignments.create_layout_segment(file, layout, _horizontal(file, line, i))
        if profile is not None:
            vertical = alignments.get_vertical_layout(made)
            for i in range(len(profile.z0)):
                alignments.create_layout_segment(file, vertical, _vertical(file, line, profile, i))
        own = (equations or {}).get(name, ())
        start = float(line.start_station)
        alignments.add_stationing_referent(file, f"{start:.3f}", made, 0.0, start)
        for station, jump in own:
            back = float(counted_at(station, own)[0])
            alignments.add_stationing_referent(
                file, f"{back + jump:.3f}", made, station - start, back + jump, incoming_station=back
            )
    return str(file.to_string()).encode()


def _horizontal(file: Any, line: HorizontalAlignment, i: int) -> Any:
    k0, k1 = float(line.k0[i]), float(line.k1[i])
    return file.create_entity(
        "IfcAlignmentHorizontalSegment",
        StartPoint=file.create_entity("IfcCartesianPoint", Coordinates=tuple(map(float, line.start[i]))),
        StartDirection=float(np.pi / 2 - line.azimuth[i]), StartRadiusOfCurvature=-1 / k0 if k0 else 0.0,
        EndRadiusOfCurvature=-1 / k1 if k1 else 0.0, SegmentLength=float(line.length[i]), PredefinedType=_KINDS[line.kind(i)],
    )  # fmt: skip


def _vertical(file: Any, line: HorizontalAlignment, profile: VerticalAlignment, i: int) -> Any:
    start, end = float(profile.station[i]), float(profile.station[i + 1])
    rate, grade, radius = float(profile.rate[i]), float(profile.g0[i]), float(profile.radius[i])
    return file.create_entity(
        "IfcAlignmentVerticalSegment", StartDistAlong=start - line.start_station, HorizontalLength=end - start,
        StartHeight=float(profile.z0[i]), StartGradient=grade, EndGradient=grade + rate * (end - start),
        RadiusOfCurvature=radius or (1 / rate if rate else None),
        PredefinedType="CIRCULARARC" if radius else "PARABOLICARC" if rate else "CONSTANTGRADIENT",
    )  # fmt: skip
