"""A trial: unsaved values laid over what the rows say, by the same rules by which the act will write them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ivoryridge.core.alignment.horizontal import PI
from ivoryridge.core.errors import InputError

from ..inputs.anchors import AnchoredPVI
from ..inputs.road import RoadInputs, VariedRow, held_end
from ..results.levels import levels_of
from .along import variation_fields
from .crossfall import pinned
from .levels import pvi_fields
from .line import pi_fields

__all__ = ["with_trial"]


def with_trial(inputs: RoadInputs, trial: Mapping[str, Any]) -> RoadInputs:
    """Unsaved values over saved ones.

    ``bend``: {"pi_id", fields of a pinned bend}.
    ``variation``: {"id", other ends or values of what varies}.
    ``pi``: {"index": int, PI fields}, or {"index", "insert": true, ...} for one more; ``pvi``: {"id": int, fields}.

    Raises InputError when what it names is not there.
    """
    if pi := trial.get("pi"):
        inputs = _with_pi(inputs, dict(pi))
    if bend := trial.get("bend"):
        given = dict(bend)
        inputs = replace(inputs, crossfall=pinned(inputs.crossfall, int(given.pop("pi_id")), given))
    if pvi := trial.get("pvi"):
        inputs = _with_pvi(inputs, dict(pvi))
    if varied := trial.get("variation"):
        inputs = _with_variation(inputs, dict(varied))
    return inputs


def _with_variation(inputs: RoadInputs, given: dict[str, Any]) -> RoadInputs:
    pk = given.pop("id")
    index = {pi: i for i, (pi, _) in enumerate(inputs.pi_rows) if pi}

    def changed(r: VariedRow) -> VariedRow:
        fields = variation_fields(inputs, r, given)
        ends: dict[str, Any] = {name: held_end(fields.pop(name), index, pk) for name in ("start", "end") if name in fields}
        return replace(r, **ends, **fields)

    return replace(inputs, varied=tuple(changed(r) if r.id == pk else r for r in inputs.varied))


def _with_pi(inputs: RoadInputs, given: dict[str, Any]) -> RoadInputs:
    i = int(given.pop("index"))
    insert = bool(given.pop("insert", False))
    pis, rows = list(inputs.pis), list(inputs.pi_rows)
    if insert:
        if not 0 <= i <= len(pis):
            raise InputError("not-a-number", what="The position", where_=f"PI {i + 1}", example="2")
        if not {"easting", "northing"} <= set(given):
            raise InputError("not-a-number", what="The place", where_="the new PI", example="412000.00, 687000.00")
        pis.insert(i, PI(**given))
        rows.insert(i, (None, 0))

        def shifted(held: Any) -> Any:  # what hangs on a PI behind the new one stays with it
            return replace(held, pi=held.pi + 1) if held.pi is not None and held.pi >= i else held

        varied = tuple(replace(r, start=shifted(r.start), end=shifted(r.end)) for r in inputs.varied)
        pvis = tuple(shifted(p) for p in inputs.pvis)
        return replace(inputs, pis=tuple(pis), pi_rows=tuple(rows), pvis=pvis, varied=varied)
    if not 0 <= i < len(pis):
        raise InputError("not-a-number", what="The position", where_=f"PI {i + 1}", example="2")
    pis[i] = replace(pis[i], **pi_fields(inputs, i, given))
    return replace(inputs, pis=tuple(pis))


def _with_pvi(inputs: RoadInputs, given: dict[str, Any]) -> RoadInputs:
    pvi_id = given.pop("id")
    if pvi_id < 0 and inputs.levels_follow:  # an edit pins a return, so the trial shows it pinned
        inputs = replace(inputs, pvis=levels_of(inputs).rows)
    index = {pk: i for i, (pk, _) in enumerate(inputs.pi_rows)}

    def moved(p: AnchoredPVI) -> AnchoredPVI:
        fields = pvi_fields(inputs, p, given)
        if "anchor_pi_id" in fields:
            fields["pi_id"] = fields.pop("anchor_pi_id")
            fields["pi"] = index.get(fields["pi_id"])
        return replace(p, **fields)

    return replace(inputs, pvis=tuple(moved(p) if p.id == pvi_id else p for p in inputs.pvis))
