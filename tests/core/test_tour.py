"""docs/tour.md runs as it stands, and what it promises holds."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
from numpy.testing import assert_allclose


def test_the_tour_runs_and_keeps_its_word() -> None:
    text = (Path(__file__).resolve().parents[2] / "docs" / "tour.md").read_text()
    (code,) = re.findall(r"```python\n(.*?)```", text, re.S)
    names: dict[str, Any] = {}
    exec(compile(code, "docs/tour.md", "exec"), names)
    assert names["cut"] > 0 and names["fill"] > 0 and len(names["toes"]) >= 2
    line, again = names["line"], names["again"]
    s = np.linspace(0, line.end_station, 50)
    assert_allclose(again.evaluate(s)[0], line.evaluate(s)[0], rtol=0, atol=1e-6)
