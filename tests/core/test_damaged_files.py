"""Every reader against damaged files: a model or a sentence, in time; never another error, never a hang.

300 files in the short run, 20 000 in the long one; what is read apart costs a process a file and gets fewer of them."""

from __future__ import annotations

import time
import zlib
from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import PI, alignment_from_pis
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.dxf_lines import read_dxf_lines
from ivoryridge.core.exchange.dxf_survey import read_dxf_survey
from ivoryridge.core.exchange.geojson_in import read_geojson
from ivoryridge.core.exchange.grid import read_grid
from ivoryridge.core.exchange.landxml import read_landxml
from ivoryridge.core.exchange.landxml_out import write_landxml
from ivoryridge.core.exchange.las import read_las
from ivoryridge.core.exchange.points_csv import detect_layout, read_points
from ivoryridge.core.terrain.faces import clean_faces
from ivoryridge.core.terrain.triangulate import triangulate
from tests.core.test_readers import cloud, drawing, odd_drawing, tiff
from tests.families.damage import damaged

SLOWEST = 30.0  # s for a file of some kB, on a machine that is busy


def landxml() -> bytes:
    rng = np.random.default_rng(1)
    points = np.column_stack([rng.uniform(0, 90, (20, 2)) + [412_000, 687_000], rng.uniform(40, 60, 20)])
    line = alignment_from_pis([PI(412_000, 687_000), PI(412_400, 687_100, 300, 60, 40), PI(412_700, 687_500)])
    pvis = (PVI(0, 50), PVI(200, 52, 40, 30), PVI(500, 49))
    return write_landxml(
        project="p", surfaces=[("Ground", triangulate(points, [points[:4]])[0])], alignments=[("A", line, {"design": pvis})]
    )


def csv() -> bytes:
    rows = [f"{i};4120{i:02d},25;6870{i:02d},5;{50 + i / 10:.2f};BL{i % 3} ST".replace(".", ",") for i in range(40)]
    return ("Nr;Rechtswert;Hochwert;Höhe;Code\n# taken in May\n" + "\n".join(rows)).encode()


def geojson() -> bytes:
    return (
        b'{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"code":"GRD","level":5.5},"geometry":{"type":"Point",'
        b'"coordinates":[412000,687000]}},{"type":"Feature","properties":{},"geometry":{"type":"MultiPolygon","coordinates":'
        b"[[[[412000,687000,1],[412050,687000,2],[412050,687050,3],[412000,687000,1]]]]}}]}"
    )


def grid() -> bytes:
    return b"ncols 4\nnrows 3\nxllcorner 412000\nyllcorner 687000\ncellsize 10\nNODATA_value -9999\n" + b"1 2 3 -9999\n" * 3


def points(content: bytes, name: str) -> Any:
    return read_points(content, detect_layout(content, name), name)


HERE = [
    (read_landxml, "xml", landxml), (points, "csv", csv), (read_geojson, "geojson", geojson), (read_dxf_survey, "dxf", odd_drawing),
    (read_dxf_lines, "dxf", odd_drawing), (read_dxf_survey, "dxf", drawing),
]  # fmt: skip
APART = [
    (read_grid, "asc", grid), (read_grid, "tif", lambda: tiff(np.arange(12.0).reshape(3, 4))), (read_las, "laz", lambda: cloud(300)[0]),
    (read_las, "las", lambda: cloud(300, suffix=".las")[0]),
]  # fmt: skip


def hurt(read: Any, kind: str, whole: bytes, seed: int) -> bool:
    """One damaged file; True where it was read. Fails on any error that is not a sentence, and on a hang."""
    content = damaged(whole, np.random.default_rng(seed))
    began = time.perf_counter()
    try:
        read(content, f"file.{kind}")
    except FormatError as error:
        assert error.sentence.strip() and "Traceback" not in error.sentence
        return False
    except Exception as error:
        raise AssertionError(f"seed {seed} of {kind}: {error!r}") from error
    finally:
        assert time.perf_counter() - began < SLOWEST, f"seed {seed} of {kind} took too long"
    return True


def family(read: Any, kind: str, make: Any, first: int, count: int) -> None:
    whole = make()
    read(whole, f"file.{kind}")  # undamaged it is read, so that the family starts from something
    start = zlib.crc32(f"{read.__name__} {kind} {len(whole)}".encode()) % 1_000_000 + first
    done = [hurt(read, kind, whole, seed) for seed in range(start, start + count)]
    assert count < 40 or 0 < sum(done) < count  # some lived and some did not, or nothing was put to the test


@pytest.mark.parametrize(("read", "kind", "make"), HERE)
def test_a_damaged_file_is_a_model_or_a_sentence(read: Any, kind: str, make: Any) -> None:
    family(read, kind, make, 0, 48)


@pytest.mark.parametrize(("read", "kind", "make"), APART)
def test_a_damaged_file_read_apart_is_a_model_or_a_sentence(read: Any, kind: str, make: Any) -> None:
    family(read, kind, make, 0, 3)


@pytest.mark.long
@pytest.mark.parametrize(("read", "kind", "make"), HERE)
def test_thousands_of_damaged_files(read: Any, kind: str, make: Any) -> None:
    family(read, kind, make, 1000, 3200)


@pytest.mark.long
@pytest.mark.parametrize(("read", "kind", "make"), APART)
def test_hundreds_of_damaged_files_read_apart(read: Any, kind: str, make: Any) -> None:
    family(read, kind, make, 1000, 200)


@pytest.mark.parametrize("wild", [1e308, np.inf, np.nan, -1e12])
def test_one_wild_corner_costs_no_other_face(wild: float) -> None:
    """The first corner's northing went astray, and with it the origin the others were looked at from."""
    square = np.array([(412_000 + e, 687_000 + n, 50.0) for n in range(4) for e in range(4)])
    faces = triangulate(square)[0].triangles
    kept = np.array([f for f in faces if 5 not in f])
    square[5, 1] = wild
    (on_it,) = np.nonzero((faces == 5).any(axis=1))
    given = np.concatenate([faces[on_it], kept])
    clean, told = clean_faces(square, given, "Ground")
    assert [(f.code, f.params["count"]) for f in told] == [("faces-far", len(on_it))]
    assert not len(clean_faces(square, faces[on_it], "Ground")[0])
    assert {tuple(f) for f in kept} <= {tuple(f) for f in clean}


def test_ragged_rows_that_lack_a_column_are_a_sentence_and_a_mended_number_is_told() -> None:
    """The first was found by the family above: an error of Python."""
    ragged = "Nr;Rechtswert\n" + "\n".join(f"{i};412000,25;BL ST" for i in range(9)) + "\n9;412009,25;687000,5;50,1\n"
    with pytest.raises(FormatError, match="northing"):
        points(ragged.encode(), "ragged.csv")
    content = drawing().replace(b"412000.0", b"412o00.0", 1)
    assert content != drawing()
    assert any(f.code == "dxf-errors" and '"412o00.0"' in f.sentence for f in read_dxf_survey(content)[2])
