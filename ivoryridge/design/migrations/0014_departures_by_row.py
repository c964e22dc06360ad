"""Accepted departures name PIs and PVIs by id, no longer by number."""

from __future__ import annotations

import re
from typing import Any

from django.db import migrations

OTHER_WAY = {"entry": "exit", "exit": "entry", "ahead": "back", "back": "ahead"}


def by_row(apps: Any, schema: Any) -> None:
    """A PVI whose number cannot be told without computing the line keeps its old key: its finding is open again."""
    Road, RoadPI, RoadPVI = (apps.get_model("design", m) for m in ("Road", "RoadPI", "RoadPVI"))
    for road in Road.objects.exclude(departures={}):
        ids = {"PI": list(RoadPI.objects.filter(road=road, removed=False).order_by("position", "id").values_list("id", flat=True))}
        pvis = list(RoadPVI.objects.filter(road=road, removed=False, candidate=road.candidate))
        rank = {"start": (-1, 0.0), "end": (1, 0.0)}
        if all(p.anchor in ("start", "end", "station") for p in pvis):
            ids["PVI"] = [p.id for p in sorted(pvis, key=lambda p: rank.get(p.anchor) or (0, p.station))]

        def named(m: re.Match[str], ids: dict[str, list[int]] = ids) -> str:
            rows, n = ids.get(m[1], []), int(m[2]) - 1
            return f"{m[1]}#{rows[n]}" if n < len(rows) else m[0]

        out = {}
        for key, kept in road.departures.items():
            key = re.sub(r"\b(PVI|PI) (\d+)", named, key)
            key = re.sub(r"(P\w*I#(\d+))( to | and )(P\w*I#(\d+))", lambda m: m[0] if int(m[2]) < int(m[5]) else m[4] + m[3] + m[1], key)
            if road.mirrored:
                key = re.sub(r"\b(entry|exit|ahead|back)\b", lambda m: OTHER_WAY[m[0]], key)
            out[key] = kept
        Road.objects.filter(pk=road.pk).update(departures=out)


class Migration(migrations.Migration):
    dependencies = [("design", "0013_network")]
    operations = [migrations.RunPython(by_row, migrations.RunPython.noop)]
