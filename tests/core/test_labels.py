"""Texts on a sheet: none covers another, the best free place is taken, what finds none is counted."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely

from ivoryridge.core.sheets.drawing import Drawing, Text, clip_polyline, text_box
from ivoryridge.core.sheets.labels import LabelBook


def sheet() -> tuple[Drawing, LabelBook]:
    d = Drawing(420.0, 297.0, "T")
    return d, LabelBook(d)


def test_the_first_free_place_is_taken_and_a_fixed_text_stays() -> None:
    d, book = sheet()
    book.fixed(Text(100, 100, "Fixed here", 2.5))
    over, beside = Text(101, 100.5, "Wanted", 2.5), Text(150, 100, "Wanted", 2.5)
    assert book.place([over, beside]) and d.texts[-1] is beside
    assert not book.place([over]) and d.left_out == 1
    assert book.place([Text(150, 110, "Next", 2.5)]) and d.left_out == 1


def test_nothing_stands_on_what_is_kept_free_or_over_the_border() -> None:
    d, book = sheet()
    book.keep_free(200, 200, 240, 220)
    for x, y in ((210, 210), (3, 150), (417, 150), (200, 294)):
        assert not book.place([Text(x, y, "no room", 2.5)])
    assert d.texts == [] and d.left_out == 4


@pytest.mark.parametrize("seed", range(4))
def test_random_texts_at_any_turn_never_cover_one_another(seed: int) -> None:
    """300 texts of random size and turn with three candidates each. Shapely is the judge."""
    rng = np.random.default_rng(seed)
    d, book = sheet()
    for i in range(300):
        x, y = rng.uniform(20, 400), rng.uniform(20, 277)
        size, turn = float(rng.choice([1.3, 1.8, 2.5, 3.5])), float(rng.uniform(-90, 90))
        anchor = str(rng.choice(["start", "middle", "end"]))
        words = "".join(rng.choice(list("ABC 123.+"), int(rng.integers(2, 14)))).strip() or "x"
        book.place([Text(x + dx, y, f"{words}{i}", size, anchor=anchor, turn=turn) for dx in (0.0, 14.0, -14.0)])  # type: ignore[arg-type]
    boxes = [shapely.Polygon(text_box(t)) for t in d.texts]
    assert len(boxes) + d.left_out == 300 and len(boxes) > 60
    tree = shapely.STRtree(boxes)
    pairs = tree.query(boxes, predicate="intersects")
    assert all(a == b for a, b in pairs.T)
    paper = shapely.box(10, 10, d.width - 10, d.height - 10)
    assert all(paper.covers(b) for b in boxes)


def test_a_text_is_as_wide_as_it_reads_whatever_its_anchor_and_turn() -> None:
    """Its box turned back lies at the same place; the anchor says which end it hangs on."""
    plain = text_box(Text(50, 60, "Chainage", 2.5, anchor="start"))
    width, height = np.ptp(plain, axis=0)
    assert plain[:, 0].min() == pytest.approx(50, abs=0.2) and height == pytest.approx(2.5, rel=0.6)
    for anchor, share in (("middle", 0.5), ("end", 1.0)):
        box = text_box(Text(50, 60, "Chainage", 2.5, anchor=anchor))  # type: ignore[arg-type]
        assert box[:, 0].min() == pytest.approx(50 - share * width, abs=1e-9)
    for turn in (30.0, -75.0, 180.0):
        turned = text_box(Text(50, 60, "Chainage", 2.5, turn=turn)) - [50, 60]
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        back = turned @ np.array([[c, -s], [s, c]]) + [50, 60]
        assert np.abs(back - plain).max() < 1e-9
    assert np.ptp(text_box(Text(0, 0, "WW", 2.5))[:, 0]) > np.ptp(text_box(Text(0, 0, "ii", 2.5))[:, 0])


def test_lines_are_cut_at_the_window_as_shapely_cuts_them() -> None:
    rng = np.random.default_rng(2)
    window = (0.0, 0.0, 100.0, 60.0)
    box = shapely.box(*window)
    for _ in range(200):
        line = rng.uniform(-60, 160, (int(rng.integers(2, 12)), 2))
        ours = clip_polyline(line, window)
        want = shapely.intersection(shapely.LineString(line), box)
        length = sum(float(np.hypot(*np.diff(p, axis=0).T).sum()) for p in ours)
        whole = sum(shapely.LineString(seg).intersection(box).length for seg in itertools.pairwise(line))
        assert length == pytest.approx(whole, abs=1e-6)
        assert all(box.buffer(1e-6).covers(shapely.LineString(p)) for p in ours if len(p) > 1)
        assert bool(ours) == (whole > 1e-9) or want.length < 1e-6
