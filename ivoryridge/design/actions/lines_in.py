"""Bring in the lines of a LandXML file or a drawing, each as a road that keeps its elements as they came."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.course import line_from_elements, told_elements
from ivoryridge.core.alignment.horizontal import HorizontalAlignment
from ivoryridge.core.alignment.vertical import profile_from_pvis
from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.dxf_lines import read_dxf_lines
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.landxml_line import LandXmlAlignment
from ivoryridge.core.findings import Finding
from ivoryridge.core.standards.crossfall import BendPin, pins_along
from ivoryridge.core.text import clean
from ivoryridge.core.units import format_station
from ivoryridge.core.wording import quantity

from ..ledger import Act
from ..models import Project, ReceivedFile, Road, RoadPVI, SheetSet, Surface, Template
from ..refusals import BadValue
from .edit_crossfall import GREATEST_RATE, LEAST_RATE
from .standing import act, rehearsed

__all__ = ["bring_in_lines", "offered_lines"]

_NAME = 120


def offered_lines(content: bytes, name: str) -> tuple[list[dict[str, Any]], list[str]]:
    """The lines in a file, each with ``name``, ``length`` (m) and how many ``straights`` and ``arcs`` (with transitions), and what
    is to be known. Raises FormatError when there is none."""
    lines, findings = _read(content, name)
    out = []
    for a in lines:
        assert a.alignment is not None
        bent = (a.alignment.k0 != 0) | (a.alignment.k1 != 0)
        out.append(
            {
                "name": a.name, "length": float(a.alignment.length.sum()),
                "straights": int((~bent).sum()), "arcs": int(bent.sum()),
            }
        )  # fmt: skip
    return out, [f.sentence for f in findings]


def bring_in_lines(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    chosen: Sequence[int] | None = None,
    received: ReceivedFile | None = None,
) -> tuple[Act, list[Road], list[str]]:
    """Every alignment becomes a road with its first profile; of a drawing those ``chosen``, by their number in what is offered,
    from 0. One that contradicts itself is left out and told; when none can be taken its reason refuses the file. Raises
    FormatError when the file has none, or one does not hang together. ``received`` is the file where it lies on the shelf already.
    One step of undo."""
    lines, findings = _read(content, name)
    if chosen is not None:
        if not chosen or not all(0 <= i < len(lines) for i in chosen):
            raise BadValue("no-line-chosen", f"Choose among the {len(lines)} lines of {name}.", field="chosen")
        lines = [lines[i] for i in sorted(set(chosen))]
    for a in lines:  # all are looked at before anything is kept
        assert a.alignment is not None
        line_from_elements(told_elements(a.alignment), a.alignment.start_station)
        for pvis in a.profiles.values():
            profile_from_pvis(pvis)
    return _kept(project, user, content, name, lines, findings, received)


@rehearsed
def _kept(
    project: Project,
    user: User,
    content: bytes,
    name: str,
    lines: list[LandXmlAlignment],
    findings: list[Finding],
    received: ReceivedFile | None,
) -> tuple[Act, list[Road], list[str]]:
    told: list[str] = []
    with act(project, user, f"Bring in the lines of {name}") as doing:
        received or ReceivedFile.objects.create(
            project=project, name=name, format="DXF" if _is_drawing(name) else "LandXML", sha256=hashlib.sha256(content).hexdigest(),
            content=content, size=len(content), received_by=user,
        )  # fmt: skip
        roads = [_road(doing, project, a, told) for a in lines]
    return doing, roads, told + [f.sentence for f in findings]


def _is_drawing(name: str) -> bool:
    return name.lower().endswith(".dxf")


def _read(content: bytes, name: str) -> tuple[list[LandXmlAlignment], list[Finding]]:
    """The lines that can be taken, in the order they are offered, and what is to be known about the file."""
    if _is_drawing(name):
        drawn, findings = read_dxf_lines(content, name)
        return [LandXmlAlignment(d.layer, d.alignment) for d in drawn], findings
    model = read_landxml(content, name)
    sound = [a for a in model.alignments if a.alignment is not None]
    if not sound:
        refused = next((a.refused for a in model.alignments if a.refused is not None), None)
        raise refused or FormatError("landxml-no-line", name=name)
    return sound, list(model.findings)


def _road(doing: Act, project: Project, a: Any, told: list[str]) -> Road:
    taken = set(Road.present.filter(project=project).values_list("name", flat=True))
    name, number = clean(a.name)[:_NAME] or "Line", 2
    while name in taken:
        name, number = f"{clean(a.name)[: _NAME - 5]} {number}", number + 1
    line = line_from_elements(told_elements(a.alignment), a.alignment.start_station)
    of_bends: list[str] = []
    crossfall = _pinned(a, line, name, of_bends)
    road = Road(
        project=project, name=name, course={"kind": "elements", "elements": told_elements(a.alignment)},
        start_station=a.alignment.start_station, equations=[list(e) for e in a.equations],
        crossfall=crossfall, template=Template.present.filter(project=project).first(),
        surface=Surface.present.filter(project=project).first(),
    )  # fmt: skip
    doing.create(road)
    doing.create(SheetSet(project=project, road=road, name=f"{name} sheets"))
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
    told.append(
        f"{name}: {len(line.length)} elements kept as they came, {quantity(line.length.sum(), 'm', 2)}, {len(profile)} PVIs.{more}"
    )
    told += of_bends
    return road


def _pinned(a: LandXmlAlignment, line: HorizontalAlignment, name: str, told: list[str]) -> dict[str, Any]:
    """The crossfall of the bends as a file has it, pinned; what cannot be is told."""
    rows = [BendPin(abs(t.rate) if t.rate else None, t.begin_runoff, t.full_from, t.full_to, t.end_runoff) for t in a.turnings]
    pins, left = pins_along(line, [r for r in rows if r.rate is None or LEAST_RATE <= r.rate <= GREATEST_RATE])
    steep = [r for r in rows if r.rate is not None and not LEAST_RATE <= r.rate <= GREATEST_RATE]
    if pins:
        told.append(
            f"{name}: the crossfall of {len(pins)} bend{'s' if len(pins) > 1 else ''} is taken from the file, and pinned."
        )
    for r in (*left, *steep):
        at = next((s for s in (r.full_in, r.level_in, r.full_out, r.level_out) if s is not None), None)
        where = f"at {format_station(at)}" if at is not None else "without a place"
        why = (
            "is steeper or flatter than a road is built"
            if r in steep
            else "lies in no bend of the line, or its places are out of order"
        )
        told.append(f"{name}: the superelevation {where} {why}; it is left out.")
    return {"bends": {str(n): {k: v for k, v in asdict(pin).items() if v is not None} for n, pin in pins.items()}} if pins else {}
