"""The volume from one ground to another, as the page asks for it."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.terrain.surface import read_surface
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Surface
from ivoryridge.design.results.surface import surface_of


def test_two_grounds_of_the_demo_differ_by_what_readings_say_and_both_ways_round(demo: Any, client_of: Any) -> None:
    from django.contrib.auth.models import User
    from django.test import Client

    client = Client()
    client.force_login(User.objects.get(username="checker"))  # looking is enough
    one, other = (Surface.present.get(project=demo, name=n) for n in ("Existing ground", "Ground west"))
    there = client.get(f"/api/surfaces/{one.pk}/volume?to={other.pk}").json()
    back = client.get(f"/api/surfaces/{other.pk}/volume?to={one.pk}").json()
    assert (there["cut"], there["fill"], there["area"]) == pytest.approx((back["fill"], back["cut"], back["area"]), rel=1e-9)
    assert there["net"] == pytest.approx(there["fill"] - there["cut"])
    a, b = (surface_of(assemble_surface(s))[0] for s in (one, other))
    e0, n0, e1, n1 = (f(x, y) for f, x, y in zip((max, max, min, min), a.extent, b.extent, strict=True))
    e, n = np.meshgrid(np.arange(e0, e1, 2.0), np.arange(n0, n1, 2.0))
    apart = np.subtract(*(read_surface(s, np.column_stack([e.ravel(), n.ravel()])).elevation for s in (b, a)))
    assert there["fill"] == pytest.approx(4.0 * np.nansum(np.maximum(apart, 0)), rel=0.02)
    assert there["area"] == pytest.approx(4.0 * np.isfinite(apart).sum(), rel=0.01)


def test_a_ground_of_another_project_or_none_is_refused(project: Any, road: Any, client_of: Any, demo: Any) -> None:
    foreign = Surface.present.filter(project=demo).first()
    own = Surface.present.filter(project=project).first()
    assert foreign and own
    ben = client_of("ben")
    for asked in (f"to={foreign.pk}", "to=999999", "", "to=x"):
        answer = ben.get(f"/api/surfaces/{own.pk}/volume?{asked}")
        assert 400 <= answer.status_code < 500 and answer.json()["message"], asked
    assert ben.get(f"/api/surfaces/{foreign.pk}/volume?to={own.pk}").status_code in (403, 404)
    same = ben.get(f"/api/surfaces/{own.pk}/volume?to={own.pk}").json()
    assert same["cut"] == pytest.approx(0, abs=1e-3) and same["fill"] == pytest.approx(0, abs=1e-3)
