"""What the list of projects says of each: who is in it, what was done last, and a small plan of its roads."""

from __future__ import annotations

from typing import Any, cast

import numpy as np
import shapely
from django.db.models import Count, Q

from ivoryridge.core.alignment.horizontal import sample_stations
from ivoryridge.core.errors import IvoryRidgeError

from ..forms.common import ProjectLine, ProjectSketch
from ..inputs.network import network_of
from ..kept.kinds import tag
from ..models import LedgerEntry, Membership
from ..results.line import line_of

__all__ = ["project_lines", "project_sketch", "sketch_key"]

MOST_DRAWN = 40  # roads in a small plan, the longest ones
FINE = 400  # parts of a plan's width that can still be told apart


def project_lines(user: Any) -> list[ProjectLine]:
    """The projects of a person by name, with their people and the last act."""
    own = (
        Membership.present.filter(user=user, project__removed=False).select_related("project")
        .annotate(
            all=Count("project__roads", filter=Q(project__roads__removed=False)),
            returns=Count("project__roads", filter=Q(project__roads__removed=False, project__roads__course__kind="return")),
        )
        .order_by("project__name", "project_id")
    )  # fmt: skip
    ids = [m.project_id for m in own]
    people: dict[int, list[str]] = {}
    for m in Membership.present.filter(project_id__in=ids).select_related("user").order_by("user__username"):
        people.setdefault(m.project_id, []).append(m.user.get_username())
    return [cast(ProjectLine, {
        "id": m.project_id, "name": m.project.name, "role": m.role, "roads": m.all - m.returns, "people": people[m.project_id],
        "last": _last_act(m.project_id), "length_unit": m.project.length_unit,
    }) for m in own]  # fmt: skip


def _last_act(project: int) -> dict[str, str] | None:
    entry = LedgerEntry.objects.filter(project_id=project, state="done").select_related("user").defer("changes").first()
    return {"label": entry.label, "by": entry.user.get_username(), "at": entry.at.isoformat()} if entry else None


def sketch_key(project: int) -> str:
    network = network_of(project)
    return tag("sketch", 1, tuple(network.road(pk) for pk in sorted(network.own)))


def project_sketch(project: int) -> ProjectSketch:
    """Lines of the roads, m from the south-west corner of them all, and the length of all roads together (m)."""
    network = network_of(project)
    lines: list[tuple[float, Any]] = []
    for pk in sorted(network.own):
        road = network.road(pk)
        if not road.has_line or road.return_of is not None:
            continue
        try:
            line = line_of(road)
        except IvoryRidgeError:  # why is told where the road is
            continue
        lines.append((line.end_station - line.start_station, line.evaluate(sample_stations(line, 100.0, 0.5))[0]))
    total = float(sum(length for length, _ in lines))
    if not lines:
        return {"length": 0.0, "width": 0.0, "height": 0.0, "lines": []}
    drawn = [points for _, points in sorted(lines, key=lambda x: -x[0])[:MOST_DRAWN]]
    low, high = (f(np.concatenate(drawn), axis=0) for f in (np.min, np.max))
    fine = float(max(high - low)) / FINE
    thin = [shapely.get_coordinates(shapely.simplify(shapely.LineString(p - low), fine)) for p in drawn]
    width, height = (float(x) for x in high - low)
    return {"length": total, "width": width, "height": height, "lines": [np.round(p, 1).tolist() for p in thin]}
