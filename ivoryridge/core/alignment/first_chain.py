"""A first chain of bends through measured points, from the straight and round pieces they are cut into."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..geometry.plane import wrap_angle
from .bend_chain import Chain, laid_out
from .pieces import LinePiece, pieces_of_line

Floats = NDArray[np.float64]

__all__ = ["first_chains"]

LEAST_TURN = np.radians(1.2)  # of a bend that is worth a curve
STRAIGHT_POINTS = 3  # on a piece that is a straight between bends, and no start of a transition
ARC_POINTS = 5  # on an arc that may be a bend of its own beside another one
STEP = 0.6  # of the length of the sharper arc beside it; a shorter one may be a step of a transition
ONE_BEND = 1e9  # such a ratio leaves a run one bend
ALIKE = 1.25  # ratio of curvatures up to which two arcs are one that was cut in two
FLATTEST = 1 / 6000.0  # 1/m; a flatter piece is a straight


@dataclass(slots=True)
class _Bend:
    """What lies between two straights, and bends one way: its pieces, and the place and heading of either tangent."""

    pieces: list[LinePiece]
    turn: float  # rad, + right


@dataclass(slots=True)
class _Tangent:
    place: Floats
    heading: float


def first_chains(p: Floats, scatter: float) -> list[Chain]:
    """Chains whose bends are the runs of round pieces of one sense, and whose straights are those between them: with long arcs of
    one run as bends of their own, and as one bend. The better one shows when they are refined."""
    pieces = pieces_of_line(p, scatter)
    found = [_chain_of(p, *_read(p, pieces, step)) for step in (STEP, ONE_BEND)]
    return found if found[0].count != found[1].count or laid_out(found[0])[1] > 1.0 else found[:1]


def _is_straight(piece: LinePiece, at_end: bool) -> bool:
    return abs(piece.curvature) < FLATTEST and (piece.count >= STRAIGHT_POINTS or at_end)


def _read(p: Floats, pieces: list[LinePiece], step: float) -> tuple[list[_Tangent], list[_Bend]]:
    """Tangents and the bends between them, one fewer."""
    straights = [i for i, piece in enumerate(pieces) if _is_straight(piece, i in (0, len(pieces) - 1))]
    if 0 not in straights:
        straights.insert(0, 0)
    if len(pieces) - 1 not in straights:
        straights.append(len(pieces) - 1)
    tangents = [_tangent_of(p, pieces[straights[0]], start=True)]
    bends: list[_Bend] = []
    for a, b in itertools.pairwise(straights):
        between = pieces[a + 1 : b]
        before, after = pieces[a], pieces[b]
        if a == 0 and not _is_straight(before, True):
            between = [before, *between]
        if b == len(pieces) - 1 and not _is_straight(after, True):
            between = [*between, after]
        for run in (part for way in _one_way(between) for part in _by_arcs(way, step)):
            bends.append(_Bend(run, _turn_of(run)))
            sure = next((q for q in reversed(run) if q.count >= ARC_POINTS), run[-1])  # not by the heading of two points
            tangents.append(_Tangent(p[sure.last], sure.heading_out))
        last = _tangent_of(p, after, start=False)
        if between:
            tangents[-1] = last
        else:
            turn = float(wrap_angle(last.heading - tangents[-1].heading))
            if abs(turn) > LEAST_TURN:
                bends.append(_Bend([], turn))
                tangents.append(last)
            elif after.count > before.count:
                tangents[-1] = last
    return _joined(tangents, bends)


def _tangent_of(p: Floats, piece: LinePiece, *, start: bool) -> _Tangent:
    if abs(piece.curvature) >= FLATTEST:
        at, heading = (piece.first, piece.heading_in) if start else (piece.last, piece.heading_out)
        return _Tangent(p[at], heading)
    return _Tangent(p[piece.first : piece.last + 1].mean(axis=0), piece.heading_in)


def _turn_of(run: list[LinePiece]) -> float:
    inner = sum(float(wrap_angle(b.heading_in - a.heading_out)) for a, b in itertools.pairwise(run))
    return inner + sum(piece.heading_out - piece.heading_in for piece in run)


def _one_way(between: list[LinePiece]) -> list[list[LinePiece]]:
    """The pieces between two straights, parted where they begin to bend the other way."""
    runs: list[list[LinePiece]] = []
    for piece in between:
        sense = np.sign(piece.curvature)
        if runs and (sense == 0 or sense == np.sign(sum(q.curvature * q.length for q in runs[-1])) or not _turn_of(runs[-1])):
            runs[-1].append(piece)
        else:
            runs.append([piece])
    return runs


def _by_arcs(run: list[LinePiece], step: float) -> list[list[LinePiece]]:
    """A run parted between arcs that are long enough to be bends of their own, as in a compound curve; the steps by which a
    transition was cut go with the sharper arc beside them."""
    arcs = [i for i, q in enumerate(run) if q.curvature and q.count >= ARC_POINTS and not _is_step(run, i, step)]
    if len(arcs) < 2:
        return [run]
    cuts = [0]
    for i, j in itertools.pairwise(arcs):
        a, b = abs(run[i].curvature), abs(run[j].curvature)
        if max(a, b) > ALIKE * min(a, b):
            cuts.append(i + 1 if b > a else j)
    return [run[a:b] for a, b in zip(cuts, [*cuts[1:], len(run)], strict=True)]


def _is_step(run: list[LinePiece], i: int, step: float) -> bool:
    """Whether an arc is flatter than one beside it and shorter by a ratio: a step of a transition."""
    beside = [run[k] for k in (i - 1, i + 1) if 0 <= k < len(run)]
    return any(abs(q.curvature) > abs(run[i].curvature) and run[i].length < step * q.length for q in beside)


def _joined(tangents: list[_Tangent], bends: list[_Bend]) -> tuple[list[_Tangent], list[_Bend]]:
    """Without bends that turn less than is worth a curve."""
    keep_t, keep_b = [tangents[0]], []
    for bend, after in zip(bends, tangents[1:], strict=True):
        turn = float(wrap_angle(after.heading - keep_t[-1].heading))
        long_way = abs(bend.turn) > np.pi / 2 and np.sign(turn) != np.sign(bend.turn)
        if abs(turn) < LEAST_TURN and not long_way:
            continue
        keep_b.append(bend)
        keep_t.append(after)
    return keep_t, keep_b


def _chain_of(p: Floats, tangents: list[_Tangent], bends: list[_Bend]) -> Chain:
    pis, radius, squares = [], [], []
    way = [np.array([np.sin(t.heading), np.cos(t.heading)]) for t in tangents]
    used = 0
    for i, bend in enumerate(bends):
        a, b = tangents[used], tangents[i + 1]
        cross = way[used][0] * way[i + 1][1] - way[used][1] * way[i + 1][0]
        if abs(cross) < np.sin(LEAST_TURN / 2):
            continue
        d = b.place - a.place
        ahead = float((d[0] * way[i + 1][1] - d[1] * way[i + 1][0]) / cross)
        angle = abs(float(wrap_angle(b.heading - a.heading)))
        full, ramp = _shape_of(bend, angle)
        pis.append(a.place + ahead * way[used])
        radius.append(full)
        squares.append([ramp**2, ramp**2])
        used = i + 1
    first = tangents[0].place + ((p[0] - tangents[0].place) @ way[0]) * way[0]
    last = tangents[used].place + ((p[-1] - tangents[used].place) @ way[used]) * way[used]
    n = len(radius)
    return Chain(
        np.array([first, *pis, last], float), np.array(radius, float), np.array(squares, float).reshape(n, 2), np.zeros((n, 3), bool)
    )  # fmt: skip


def _shape_of(bend: _Bend, angle: float) -> tuple[float, float]:
    """Radius of the sharpest arc that is long enough to be one, and the transitions that the rest of the length leaves."""
    round_ = [q for q in bend.pieces if q.curvature]
    if not round_:
        length = max(sum(q.length for q in bend.pieces), 20.0)
        return length / angle, 0.0
    whole = sum(q.length for q in bend.pieces)
    sharp = sorted(round_, key=lambda q: -abs(q.curvature))
    told = max(0.2 * whole, 1e-6)
    full = next((abs(q.curvature) for q in sharp if q.length >= told), abs(sharp[0].curvature))
    ramp = float(np.clip(whole - angle / full, 0.0, 0.6 * whole))
    return 1 / full, ramp
