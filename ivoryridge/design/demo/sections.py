"""The demo's pavement structures, its one own part, and its templates, made by the acts that people use."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ..actions.edit_along import add_variation
from ..actions.edit_parts import change_part, create_part, create_structure
from ..actions.edit_template import create_template, set_rows
from ..models import Project, Road, Surface, Template

__all__ = ["make_sections", "vary"]

# material, thickness, plausible least and greatest, step out (m)
STRUCTURES: dict[str, list[tuple[str, float, float, float, float]]] = {
    "Link pavement": [
        ("surfacing", 0.10, 0.04, 0.20, 0.0),
        ("base", 0.18, 0.08, 0.35, 0.10),
        ("subbase", 0.25, 0.15, 0.60, 0.15),
    ],
    "Ferry street": [("surfacing", 0.08, 0.04, 0.20, 0.0), ("base", 0.16, 0.08, 0.35, 0.0), ("subbase", 0.20, 0.15, 0.60, 0.0)],
}
FIELD_WALL: list[dict[str, Any]] = [
    {"do": "describe", "remark": "A drystone wall as the fields of Sheepback have them, on a footing."},
    {"do": "add node", "since": "start", "by": [0.08, 1.2], "name": "face_top"},
    {"do": "add node", "since": "face_top", "by": [0.45, 0.0], "name": "back_top"},
    {"do": "add node", "since": "back_top", "by": [0.08, -1.2], "name": "back_foot"},
    {"do": "add node", "since": "start", "by": [0.0, -0.3], "name": "footing_in"},
    {"do": "add node", "since": "back_foot", "by": [0.0, -0.3], "name": "footing_out"},
    {"do": "promote", "node": 0, "slot": "up", "name": "height", "label": "Height of the wall"},
    {"do": "set slot", "node": 2, "slot": "up", "value": "height"},
    {"do": "add area", "nodes": ["start", "face_top", "back_top", "back_foot", "footing_out", "footing_in"], "material": "stone",
     "name": "wall"},
    {"do": "describe", "end": "back_foot"},
]  # fmt: skip


def _row(part: str | int, id: str = "", **values: Any) -> dict[str, Any]:
    return {"id": id or str(part), "part": part, "values": values}


def make_sections(project: Project, designer: User, ground: Surface) -> None:
    structures: dict[str, str] = {}
    for name, layers in STRUCTURES.items():
        keys = ("material", "thickness", "least", "greatest", "step_out")
        _, row, _ = create_structure(project, designer, name=name, layers=[dict(zip(keys, x, strict=True)) for x in layers])
        structures[name] = str(row.pk)
    _, wall = create_part(project, designer, label="Field wall")
    change_part(wall, designer, revision=wall.revision, steps=FIELD_WALL)
    street = {"lane_width": 3.0, "shoulder_width": 0.0, "structure": structures["Ferry street"]}
    kerbed = [_row("carriageway_layered", "carriageway", **street), _row("kerb"), _row("footway", width=1.8)]
    edge = [_row("verge", width=0.5), _row("topsoiled_slope", "slope")]
    old = _row("overlay", width=2.4) | {"targets": {"existing": {"surface": ground.pk}}}
    lane = [old, _row("saw_cut", width=0.6), _row("verge", width=1.0), _row("topsoiled_slope", "slope")]
    slip = [_row("carriageway_layered", "carriageway", lane_width=3.7, shoulder_width=2.0, structure=structures["Link pavement"]),
            _row("verge"), _row("side_slopes", "slope")]  # fmt: skip
    park = [_row("hard_standing", width=8.0), _row("kerb"), *edge]
    for name, left, right in (
        ("Kerbed with footway", [*kerbed, *edge], [*kerbed, _row(wall.pk, "wall"), *edge]),
        ("Outside of a kerb return", [], [_row("kerb"), _row("footway", width=1.8), *edge]),
        ("Car park", park, park),
        ("Overlay of the lane", lane, lane),
        ("Slip road", [_row("verge", width=1.5), _row("side_slopes", "slope")], slip),
    ):
        _, template = create_template(project, designer, name=name)
        set_rows(template, designer, revision=template.revision, left=left, right=right, what="Lay out the parts")


def vary(link: Road, designer: User) -> None:
    """Link is kerbed with a footway towards the ferry, wider in its second bend, and carried over the stream without earthwork."""
    kerbed = Template.present.get(project=link.project, name="Kerbed with footway")
    blend = {"length": 40.0, "form": "smooth", "lies": "outside"}
    rows: list[dict[str, Any]] = [
        {"kind": "stretch", "station_from": 2100.0, "station_to": None, "template_id": kerbed.pk, "blend_from": blend},
        {"kind": "bare", "station_from": 1684.0, "station_to": 1700.0},
    ]
    wide = {"kind": "adjustment", "side": "right", "part": "carriageway", "parameter": "lane_width", "form": "linear",
            "hold_from": "tangent", "hold_to": "tangent"}  # fmt: skip
    rows += [
        wide | {"station_from": a, "station_to": b, "value": p, "value_to": q}
        for a, b, p, q in ((1402.624, 1492.624, 3.65, 4.05), (1492.624, 1698.185, 4.05, 4.05), (1698.185, 1758.185, 4.05, 3.65))
    ]
    for values in rows:
        add_variation(link, designer, values=values)
