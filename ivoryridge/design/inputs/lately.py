"""The inputs of roads that were shown lately, by the key their picture carried: a trial starts from what its person sees,
without reading the rows again."""

from __future__ import annotations

import threading
from collections import OrderedDict

from .road import RoadInputs

__all__ = ["recall", "remember"]

_MOST = 64
_seen: OrderedDict[tuple[int, str], RoadInputs] = OrderedDict()
_lock = threading.Lock()


def remember(key: str, inputs: RoadInputs) -> None:
    with _lock:
        _seen[(inputs.road_id, key)] = inputs
        _seen.move_to_end((inputs.road_id, key))
        while len(_seen) > _MOST:
            _seen.popitem(last=False)


def recall(road_id: int, key: str | None) -> RoadInputs | None:
    """The inputs behind a picture of this road, if it was shown lately by this process."""
    with _lock:
        return _seen.get((road_id, key)) if key else None
