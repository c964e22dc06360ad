"""Bring in the lines of a LandXML file, each as a road that keeps its elements as they came."""

from __future__ import annotations

import hashlib
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.course import line_from_elements, told_elements
from ivoryridge.core.alignment.vertical import profile_from_pvis
from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.text import clean

from ..assemble import assemble_road
from ..ledger import Act, act
from ..models import Project, ReceivedFile, Road, RoadPVI, SheetSet, Surface, Template
from ..results import line_of

__all__ = ["bring_in_lines"]

_NAME = 120


def bring_in_lines(project: Project, user: User, *, content: bytes, name: str) -> tuple[Act, list[Road], list[str]]:
    """Every alignment becomes a road with its first profile. One that contradicts itself is left out and told; when none can be
    taken its reason refuses the file. Raises FormatError when the file has none, or one does not hang together. One step of
    undo."""
    model = read_landxml(content, name)
    sound = [a for a in model.alignments if a.alignment is not None]
    if not sound:
        refused = next((a.refused for a in model.alignments if a.refused is not None), None)
        raise refused or FormatError("landxml-no-line", name=name)
    for a in sound:  # all are looked at before anything is kept
        assert a.alignment is not None
        line_from_elements(told_elements(a.alignment), a.alignment.start_station)
        for pvis in a.profiles.values():
            profile_from_pvis(pvis)
    told: list[str] = []
    with act(project, user, f"Bring in the lines of {name}") as doing:
        ReceivedFile.objects.create(
            project=project, name=name, format="LandXML", sha256=hashlib.sha256(content).hexdigest(), content=content,
            size=len(content), received_by=user,
        )  # fmt: skip
        roads = [_road(doing, project, a, told) for a in sound]
    return doing, roads, told + [f.sentence for f in model.findings]


def _road(doing: Act, project: Project, a: Any, told: list[str]) -> Road:
    taken = set(Road.present.filter(project=project).values_list("name", flat=True))
    name, number = clean(a.name)[:_NAME] or "Line", 2
    while name in taken:
        name, number = f"{clean(a.name)[: _NAME - 5]} {number}", number + 1
    road = Road(
        project=project, name=name, course={"kind": "elements", "elements": told_elements(a.alignment)},
        start_station=a.alignment.start_station, equations=[list(e) for e in a.equations],
        template=Template.present.filter(project=project).first(), surface=Surface.present.filter(project=project).first(),
    )  # fmt: skip
    doing.create(road)
    doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"))
    line = line_of(assemble_road(road))
    profile = next(iter(a.profiles.values()), ())
    for p in profile:
        doing.create(
            RoadPVI(
                road=road, anchor="station", station=p.station, elevation=p.elevation, half_in=p.half_in, half_out=p.half_out,
                circular=p.circular,
            )
        )  # fmt: skip
    more = f" Of its {len(a.profiles)} profiles the first is taken." if len(a.profiles) > 1 else ""
    if a.grounds:
        more += f" Its ground profiles ({', '.join(a.grounds)}) can be brought in under Ground, from the same file."
    told.append(f"{name}: {len(line.length)} elements kept as they came, {line.length.sum():.2f} m, {len(profile)} PVIs.{more}")
    return road
