"""Any row of acts, undone one by one, gives back every stored value; redone, it gives the values again. Refused acts change nothing."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from django.contrib.auth.models import User

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import LedgerEntry, Road
from ivoryridge.design.objects import KINDS
from ivoryridge.design.refusals import Refused
from ivoryridge.design.results.corridor import corridor_of, missing_for_corridor
from ivoryridge.design.results.line import line_of
from ivoryridge.design.results.road import design_road
from tests.families.acts import acts_of

ACTS = 28
AREA = ((411_820.0, 414_000.0), (686_700.0, 687_240.0))


def kept() -> dict[tuple[str, int], dict[str, Any]]:
    """Every value of every row that is there; revisions and the head only ever grow."""
    return {
        (name, row["id"]): {k: v for k, v in row.items() if k not in ("revision", "arrays", "head")}
        for name, model in ((k.model.__name__, k.model) for k in KINDS if hasattr(k.model, "present"))
        for row in model.present.values()
    }


def fresh(row: Any) -> Any:
    return type(row).objects.get(pk=row.pk)


def computed(demo: Any) -> dict[int, Any]:
    """Length and cut of every road: what is derived must come back, too."""
    out = {}
    for road in Road.present.filter(project=demo).select_related("project", "surface", "template"):
        inputs = assemble_road(road)
        if not inputs.has_line:
            continue
        whole = None if missing_for_corridor(inputs) else design_road(inputs).volumes.cut[-1] if corridor_of(inputs) else None
        out[road.pk] = (line_of(inputs).end_station, whole)
    return out


@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_acts_are_undone_and_redone_without_a_trace(demo: Any, seed: int) -> None:
    user, rng = User.objects.get(username="designer"), np.random.default_rng(seed)
    before, figures = kept(), computed(demo)
    done, refused = 0, 0
    for _ in range(400):
        if done == ACTS:
            break
        now, entries = kept(), LedgerEntry.objects.count()
        try:
            rng.choice(acts_of(demo, user, rng, AREA))()
        except (IvoryRidgeError, Refused):
            refused += 1
            assert kept() == now and LedgerEntry.objects.count() == entries
            continue
        done += LedgerEntry.objects.count() - entries
    assert done == ACTS and refused
    after = kept()
    assert after != before
    for _ in range(done):
        undo(fresh(demo), user)
    assert kept() == before
    assert computed(demo) == figures
    for _ in range(done):
        redo(fresh(demo), user)
    assert kept() == after
