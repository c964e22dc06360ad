"""Random acts on a project, as persons do them: on whatever is there, with values that fit and values that do not."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.design.actions import (
    edit_along,
    edit_course,
    edit_crossfall,
    edit_levels,
    edit_line,
    edit_parts,
    edit_profile,
    edit_project,
    edit_road,
    edit_sheets,
    edit_template,
    join_lines,
    propose_profile,
)
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Part, Road, RoadPI, RoadPVI, SheetSet, Template, Variation
from ivoryridge.design.results.line import line_of
from tests.conftest import beside

Area = tuple[tuple[float, float], tuple[float, float]]


def acts_of(demo: Any, user: User, rng: np.random.Generator, area: Area) -> list[Callable[[], Any]]:
    """Acts with random values on what is there now; some of them are wrong, as typing is. ``area``: least and greatest E and N."""

    def place() -> dict[str, float]:
        return {"easting": float(rng.uniform(*area[0])), "northing": float(rng.uniform(*area[1]))}

    roads = list(Road.present.filter(project=demo))
    if not roads:
        return [lambda: edit_road.create_road(demo, user, name="Anew", pis=[place(), place()])]
    road: Road = rng.choice(roads)
    pis, pvis = list(RoadPI.present.filter(road=road)), list(RoadPVI.present.filter(road=road, candidate=road.candidate))
    others = list(Road.present.filter(project=demo).exclude(pk=road.pk))
    if not assemble_road(road).has_line:
        return [lambda: edit_line.insert_pi(road, user, between=beside(road, len(pis)), values=place())]
    line = line_of(assemble_road(road))
    first, last = line.start_station, line.end_station
    at = float(rng.uniform(first - 20, last + 20))
    by = rng.normal(0, 8, 2)
    seen = {"revision": road.revision}
    out: list[Callable[[], Any]] = [
        lambda: edit_road.change_road(road, user, **seen, values={"start_station": float(rng.integers(0, 500))}),
        lambda: edit_road.change_road(road, user, **seen, values={"fineness": rng.choice([None, 0.05, 0.01])}),
        lambda: edit_road.set_speeds(road, user, **seen, speeds=[[at, float(rng.choice([50, 70, 85]))]]),
        lambda: edit_course.set_equations(road, user, **seen, equations=[[at, float(rng.choice([-30, 0, 45]))]]),
        lambda: edit_course.reverse_road(road, user, **seen),
        lambda: edit_course.create_course(
            demo, user, name="Beside", course={"kind": "offset", "road": road.pk, "offset": float(by[0])}
        ),
        lambda: join_lines.split_road(road, user, **seen, station=at),
        lambda: propose_profile.propose_profile(road, user, overlay=bool(rng.integers(4) == 0)),
        lambda: edit_profile.insert_pvi(road, user, station=at, elevation=float(rng.uniform(40, 60))),
        lambda: edit_levels.raise_pvis(road, user, rise=float(by[1]) / 8),
        lambda: edit_levels.set_fixed_points(
            road, user, **seen, points=[{"station": at, "level": 50.0, "kind": "above", "name": "x"}]
        ),
        lambda: edit_levels.add_candidate(road, user, **seen, name=f"Try {rng.integers(3)}"),
        lambda: edit_levels.choose_candidate(road, user, **seen, candidate=str(rng.choice(["", "1", "2"]))),
        lambda: edit_crossfall.set_crossfall(road, user, **seen, values={"axis": str(rng.choice(["centre", "inner", "outer"]))}),
        lambda: edit_project.set_annotations(
            demo, user, revision=type(demo).objects.get(pk=demo.pk).revision, styles=[{"name": "Mine", "scale": 500}]
        ),
        lambda: edit_road.delete_road(road, user, **seen),
        lambda: edit_sheets.rename(
            SheetSet.present.get(road=road), user, revision=SheetSet.present.get(road=road).revision, name="Set"
        ),
    ]
    if others:
        other = rng.choice(others)
        out += [
            lambda: join_lines.join_roads(road, user, **seen, other=other),
            lambda: edit_course.tie_end(
                road,
                user,
                **seen,
                end=str(rng.choice(["start", "end"])),
                other=other,
                station=None,
                level=str(rng.choice(["", "centre", "edge"])),
            ),
        ]
    if pis:
        pi = rng.choice(pis)
        told = {"revision": pi.revision}
        moved = {"easting": pi.easting + float(by[0]), "northing": pi.northing + float(by[1])}
        out += [
            lambda: edit_line.change_pi(road, user, pi.pk, **told, values=moved),
            lambda: edit_line.change_pi(road, user, pi.pk, **told, values={"radius": float(rng.choice([0, 180, 450, 5000]))}),
            lambda: edit_line.delete_pi(road, user, pi.pk, **told),
            lambda: edit_line.insert_pi(road, user, between=beside(road, int(rng.integers(len(pis) + 1))), values=moved),
            lambda: edit_line.curve_by(road, user, pi.pk, **told, by="largest"),
            lambda: edit_line.hold(
                road, user, pi.pk, **told, what=str(rng.choice(["pi", "straight", "curve"])), held=bool(rng.integers(2))
            ),
            lambda: edit_crossfall.pin_bend(road, user, pi.pk, **seen, values={"rate": 0.04}),
        ]
    if pvis:
        pvi = rng.choice(pvis)
        told_pvi = {"revision": pvi.revision}
        out += [
            lambda: edit_profile.change_pvi(
                road, user, pvi.pk, **told_pvi, values={"elevation": pvi.elevation + float(by[0]) / 9}
            ),
            lambda: edit_profile.change_pvi(
                road, user, pvi.pk, **told_pvi, values={"anchor": str(rng.choice(["station", "place", "tangent"]))}
            ),
            lambda: edit_profile.change_pvi(
                road, user, pvi.pk, **told_pvi, values={"half_in": 40.0, "half_out": float(rng.choice([40, 900]))}
            ),
            lambda: edit_profile.delete_pvi(road, user, pvi.pk, **told_pvi),
        ]
    out += _on_what_varies(road, user, rng, first, last)
    template = Template.present.filter(project=demo).first()
    if template:
        out += _on_sections(demo, user, rng, template)
    return out


def _on_what_varies(road: Road, user: User, rng: np.random.Generator, first: float, last: float) -> list[Callable[[], Any]]:
    """Stretches, adjusted values, changed parts and ranges without earthwork: added, moved, held by something else, split, joined."""
    a, b = np.sort(rng.uniform(first - 5, last + 5, 2))
    ends = {"station_from": float(a), "station_to": float(b)}
    side = str(rng.choice(["left", "right", "both"]))
    template = rng.choice(list(Template.present.filter(project=road.project)) or [None])
    blend = {
        "blend_from": {"length": float(rng.choice([10, 400])), "form": "smooth", "lies": str(rng.choice(["outside", "about"]))}
    }
    value = {"part": str(rng.choice(["verge", "carriageway", "gone"])), "parameter": str(rng.choice(["width", "lane_width"]))}
    rows: list[dict[str, Any]] = [
        {"kind": "stretch", **ends, "template_id": template.pk if template else None, **(blend if rng.integers(2) else {})},
        {"kind": "adjustment", **ends, "side": side, **value, "form": "constant", "value": float(rng.choice([2.5, 3.1, 80]))},
        {"kind": "adjustment", **ends, "side": side, **value, "form": "linear", "value": 2.2, "value_to": 3.3},
        {"kind": "change", **ends, "side": side, "part": "verge", "do": "off"},
        {"kind": "change", **ends, "side": side, "part": "verge", "do": "add", "with": str(rng.choice(["kerb", "footway"]))},
        {"kind": "bare", **ends},
        {"kind": "adjustment", **ends, "side": side, "part": "carriageway", "parameter": "lane_width", "form": "bends",
         "vehicle": str(rng.choice(["rigid lorry", "bus", "tram"])), "inner": float(rng.choice([0.5, 1.0]))},
        {"kind": "adjustment", **ends, "side": side, "part": "slope", "parameter": "ditch_depth", "form": "graded",
         "least": float(rng.choice([0.002, 0.01]))},
        {"kind": "meet", "end": str(rng.choice(["start", "end"])), "over": float(rng.choice([3, 30, 60]))},
        {"kind": "led", **ends, "side": "right", "node": "verge.verge_edge", "takes": "level", "surface": road.surface_id,
         "reach_level": 5.0, "ease": 10.0},
    ]  # fmt: skip
    out: list[Callable[[], Any]] = [lambda: edit_along.add_variation(road, user, values=rng.choice(rows)) for _ in range(3)]
    there = list(Variation.present.filter(road=road))
    if there:
        row = rng.choice(there)
        seen = {"revision": row.revision}
        hold = {str(rng.choice(["hold_from", "hold_to"])): str(rng.choice(["tangent", "place", "station"]))}
        out += [
            lambda: edit_along.change_variation(road, user, row.pk, **seen, values=ends),
            lambda: edit_along.change_variation(road, user, row.pk, **seen, values=hold),
            lambda: edit_along.split_variation(road, user, row.pk, **seen, station=float(rng.uniform(first, last))),
            lambda: edit_along.join_variation(road, user, row.pk, **seen),
            lambda: edit_along.delete_variation(road, user, row.pk, **seen),
        ]
    return out


def _on_sections(demo: Any, user: User, rng: np.random.Generator, template: Template) -> list[Callable[[], Any]]:
    """Values of a template's parts, its rows, own parts and what they are made of, pavement structures."""
    seen = {"revision": template.revision}
    left, right = template.left, template.right
    placed = left[int(rng.integers(len(left)))] if left else {"id": "none"}
    values = {str(rng.choice(["width", "search", "run_out", "crossfall"])): float(rng.choice([0.03, 3.0, 30.0, -1]))}
    new = {"id": "new", "part": str(rng.choice(["kerb", "footway", "topsoiled_slope", "gone"])), "values": {}}
    out: list[Callable[[], Any]] = [
        lambda: edit_template.change_template(template, user, **seen, side="left", part=placed["id"], values=values),
        lambda: edit_template.set_rows(template, user, **seen, left=[*left[:-1], new, *left[-1:]], right=right),
        lambda: edit_template.set_rows(template, user, **seen, left=right, right=left),
        lambda: edit_template.create_template(demo, user, name="Another", like=template.pk),
        lambda: edit_template.delete_template(template, user, **seen),
        lambda: edit_parts.create_part(demo, user, label="Mine", like=str(rng.choice(["verge", "kerb", "v_ditch"]))),
        lambda: edit_parts.own_copy(template, user, **seen, side="left", part=placed["id"]),
        lambda: edit_parts.create_structure(
            demo, user, name="Layers", layers=[{"material": "base", "thickness": 0.2, "least": 0.1, "greatest": 0.3}]
        ),
    ]
    own = list(Part.present.filter(project=demo))
    if own:
        part = own[int(rng.integers(len(own)))]
        told = {"revision": part.revision}
        name = part.data["nodes"][0]["name"] if part.data["nodes"] else "n1"
        steps = [
            {"do": "set slot", "node": 0, "slot": "across", "value": float(rng.choice([0.4, 2.2, -3]))},
            {"do": "add node", "since": name, "by": [1.0, -0.05]},
            {"do": "remove node", "node": name},
            {"do": "set node", "node": 0, "name": "other"},
        ]
        out += [
            lambda: edit_parts.change_part(part, user, **told, steps=[steps[int(rng.integers(4))]]),
            lambda: edit_parts.delete_part(part, user, **told),
        ]
    return out
