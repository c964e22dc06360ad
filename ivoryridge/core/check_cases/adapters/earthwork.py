"""Areas and volumes."""

from __future__ import annotations

from typing import Any

from ...earthwork.end_area import average_end_area, curved_volume, prismoidal_volume, pyramid_volume
from ...earthwork.haul_plan import Place, Stretch, haul_plan
from ...geometry.plane import polygon_area
from ...units import CUBIC_YARD_IN_CUBIC_FEET
from .registry import Inputs, adapter, plain


@adapter("area_coords")
def _area_coords(c: Inputs) -> Any:
    return {"area": abs(polygon_area(c["polygon"]))}


@adapter("average_end_area_m")
def _average_end_area_m(c: Inputs) -> Any:
    return {"volume": float(average_end_area(c["stations"], c["areas"]).sum())}


@adapter("average_end_area")
def _average_end_area(c: Inputs) -> Any:
    return {"volume_yd3": float(average_end_area(c["stations"], c["areas"]).sum()) / CUBIC_YARD_IN_CUBIC_FEET}


@adapter("prismoidal")
def _prismoidal(c: Inputs) -> Any:
    return {
        "prismoidal": float(prismoidal_volume(c["L"], c["A1"], c["Am"], c["A2"])),
        "average_end": float(average_end_area([0, c["L"]], [c["A1"], c["A2"]])[0]),
    }


@adapter("pyramid_end")
def _pyramid_end(c: Inputs) -> Any:
    return {
        "pyramid": float(pyramid_volume(c["L"], c["A"])),
        "average_end": float(average_end_area([0, c["L"]], [c["A"], 0.0])[0]),
    }


@adapter("curvature_correction")
def _curvature_correction(c: Inputs) -> Any:
    straight = float(average_end_area([0, c["L"]], [c["A"], c["A"]])[0])
    curved = float(curved_volume(straight, 1 / c["R"], -c["e"]))  # e grows to the outside, left of a right bend
    return {"straight": straight, "curved": curved, "correction": curved - straight}


def _square(a: float, b: float) -> list[list[float]]:
    return [[0, 0], [a, 0], [a, b], [0, b]]


@adapter("frustum_square")
def _frustum_square(c: Inputs) -> Any:
    sides = (c["a1"], (c["a1"] + c["a2"]) / 2, c["a2"])
    areas = [polygon_area(_square(a, a)) for a in sides]
    volume, ends = float(prismoidal_volume(c["h"], *areas)), float(average_end_area([0, c["h"]], [areas[0], areas[2]])[0])
    return {"volume": volume, "average_end_area": ends, "ratio": ends / volume}


@adapter("pit")
def _pit(c: Inputs) -> Any:
    areas = [
        polygon_area(_square(c["bottom_a"] + 2 * c["s"] * z, c["bottom_b"] + 2 * c["s"] * z))
        for z in (0.0, c["depth"] / 2, c["depth"])
    ]
    return {"volume": float(prismoidal_volume(c["depth"], *areas)), "top_area": areas[2]}


@adapter("haul_plan")
def _haul_plan(c: Inputs) -> Any:
    def places(rows: list[Inputs]) -> list[Place]:
        return [Place(r["name"], r["station"], r["cost"], r["limit"]) for r in rows]

    found = haul_plan(
        [Stretch(s["from"], s["to"], s["cut"], s["fill"]) for s in c["stretches"]], places(c["borrow_pits"]), places(c["tips"]),
        compacted_per_bank=c["compacted_per_bank"], free_haul=c["free_haul"], haul_cost=c["haul_cost"],
    )  # fmt: skip
    if found is None:
        return {"feasible": False, **dict.fromkeys(("total_cost", "borrowed", "tipped", "moved"))}
    return {
        "feasible": True, "total_cost": found.cost, "borrowed": found.borrowed, "tipped": found.tipped, "moved": plain(found.moved),
    }  # fmt: skip
