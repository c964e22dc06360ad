"""Acts on a road's crossfall: the axis it turns about, and what a person pins of a bend instead of the standard's own."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.alignment.crossfall_diagram import AXES
from ivoryridge.core.alignment.horizontal import tangent_points
from ivoryridge.core.wording import quantity

from ..edits.crossfall import pinned
from ..inputs.network import assemble_road
from ..ledger import Act
from ..models import Road, RoadPI
from ..refusals import BadValue, NotThere
from ..results.crossfall import crossfall_of
from ..results.line import line_of
from .standing import act, rehearsed

__all__ = ["pin_bend", "set_crossfall", "unpin_bend"]

LEAST_RATE, GREATEST_RATE = 0.001, 0.15
LEAST_TURN = 0.5  # m between level and full


@rehearsed
def set_crossfall(road: Road, user: User, *, revision: int, values: dict[str, Any]) -> Act:
    """Axis ("centre", "inner", "outer"), share of the runoff on the tangent, and whether the bends turn at all."""
    if values.get("axis", "centre") not in AXES:
        raise BadValue("axis-unknown", "The carriageway turns about its centre, its inner or its outer edge.", field="axis")
    with act(road.project, user, f"Change the crossfall of {road.name}") as doing:
        doing.change(road, revision=revision, crossfall={**road.crossfall, **values})
    return doing


@rehearsed
def pin_bend(road: Road, user: User, pi_id: int, *, revision: int, values: dict[str, float]) -> Act:
    """Pin the full crossfall of a bend (ratio), or places where it is level and full (m after TS and after ST)."""
    number = _number(road, pi_id)
    if not LEAST_RATE <= values.get("rate", LEAST_RATE) <= GREATEST_RATE:
        raise BadValue(
            "crossfall-outside", f"A full crossfall of {100 * values['rate']:.1f} % is outside {100 * LEAST_RATE:.1f} to "
            f"{100 * GREATEST_RATE:.0f} %.",
            field="rate",
        )  # fmt: skip
    with act(road.project, user, f"Pin the crossfall at PI {number} of {road.name}") as doing:
        doing.change(road, revision=revision, crossfall=pinned(road.crossfall, pi_id, values))
        _in_order(road, number)
    return doing


@rehearsed
def unpin_bend(road: Road, user: User, pi_id: int, *, revision: int) -> Act:
    """Give a bend back to the standard."""
    number = _number(road, pi_id)
    bends = {k: v for k, v in road.crossfall.get("bends", {}).items() if k != str(pi_id)}
    with act(road.project, user, f"Unpin the crossfall at PI {number} of {road.name}") as doing:
        doing.change(road, revision=revision, crossfall={**road.crossfall, "bends": bends})
    return doing


def _number(road: Road, pi_id: int) -> int:
    """The number of the PI of a bend; a line without PIs counts its bends from its second one, as they would be."""
    if road.course and tangent_points(line_of(assemble_road(road)), pi_id):
        return pi_id + 1
    for number, row in enumerate(RoadPI.present.filter(road=road), 1):
        if row.pk == pi_id:
            return number
    raise NotThere("no-such-pi", "This PI is no longer there; somebody deleted it. Undo brings it back if it was you.")


def _in_order(road: Road, number: int) -> None:
    turning = crossfall_of(assemble_road(road))
    bend = next((b for b in turning.diagram.bends if b.pi == number - 1), None) if turning else None
    if bend is None:
        return
    for before, after, words in (
        (bend.level_in, bend.full_in, "level before it is full"),
        (bend.full_in, bend.full_out, "full on the way in before it leaves"),
        (bend.full_out, bend.level_out, "full before it is level again"),
    ):
        least = 0.0 if "leaves" in words else LEAST_TURN
        if after - before < least - 1e-6:
            raise BadValue(
                "crossfall-order", f"At PI {number} the carriageway must be {words}: {quantity(before, 'bare', 2)} and "
                f"{quantity(after, 'm', 2)} are out of order"
                + (f", or nearer than {quantity(least, 'm')}." if least else "."), field="level_in",
            )  # fmt: skip
