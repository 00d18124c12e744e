"""Openings of pockets as they are cut into a board: notches, corner relief, kerf."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
import shapely
from shapely import affinity
from shapely.geometry import MultiPolygon, Point, Polygon, box
from shapely.ops import unary_union

from farbe.layout.bedframe import board_on_bed, keep_out_on_bed
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.near import ALIKE, middles, near
from farbe.layout.otherpockets import as_kind
from farbe.model.jig import CircleKeepOut, Cutting, NotchShape, Side

#: Least material in mm that is left between two openings, or to the board's edge.
WEB = 1.0
#: A notch that is less deep, in mm, lets no finger in.
LEAST_DEPTH = 3.0
#: Corners that turn by less than this, in degrees, are parts of a curve.
CURVE = 25.0
_SEGMENTS = 32


@dataclass(frozen=True, eq=False)
class PocketCut:
    """The opening for one piece, on the bed.

    Attributes
    ----------
    number : of the pocket, as it is shown
    opening : what is cut away, in mm on the bed
    line : along which the cutter goes, half the kerf inside it
    sides : at which it has a notch
    """

    number: int
    opening: Polygon
    line: Polygon
    sides: tuple[Side, ...]


def opening_for(cutting: Cutting, piece: Polygon) -> Polygon:
    """A piece's outline with its clearance, and room for a round tool in its corners.

    Parameters
    ----------
    cutting : clearance and tool in mm
    piece : outline in mm around (0, 0)

    Returns
    -------
    A polygon in mm around (0, 0).
    """
    grown = Polygon(piece.exterior).buffer(cutting.clearance, quad_segs=64, join_style="mitre")
    reliefs = list(_reliefs(grown, cutting.tool / 2)) if cutting.tool else []
    return _whole(unary_union([grown, *reliefs])) if reliefs else grown


def _reliefs(opening: Polygon, radius: float) -> Iterator[Polygon]:
    """Discs that reach into corners which a tool of this radius leaves round.

    Each passes through its corner, with its middle on the line that halves the angle.
    """
    ring = np.asarray(opening.exterior.coords)[:-1]
    ring = ring if opening.exterior.is_ccw else ring[::-1]
    before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    before /= np.linalg.norm(before, axis=1, keepdims=True)
    after /= np.linalg.norm(after, axis=1, keepdims=True)
    turns = np.degrees(np.arctan2(
        before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1)
    ))  # fmt: skip
    for corner, one, two, turn in zip(ring, before, after, turns, strict=True):
        if turn > CURVE:
            inward = two - one
            middle = corner + inward / np.linalg.norm(inward) * radius
            yield Point(middle).buffer(radius, quad_segs=_SEGMENTS)


def notch_at(cutting: Cutting, opening: Polygon, side: Side, depth: float) -> Polygon:
    """A finger notch in the middle of one side of an opening.

    Parameters
    ----------
    cutting : width and shape of notches
    opening : in mm around (0, 0)
    side : of the opening, as the piece lies straight
    depth : mm beyond the opening's edge

    Returns
    -------
    A polygon in mm around (0, 0), which reaches into the opening.
    """
    left, bottom, right, top = opening.bounds
    half, inward = cutting.notch / 2, cutting.notch / 2
    if cutting.notch_shape is NotchShape.SQUARE:
        made: Polygon = box(-inward, -half, depth, half)
    elif depth >= half:
        disc = Point(depth - half, 0).buffer(half, quad_segs=_SEGMENTS)
        made = _whole(unary_union([disc, box(-inward, -half, depth - half, half)]))
    else:
        # A flat arch: the circle through both ends of the notch and its depth.
        radius = (half**2 + depth**2) / (2 * depth)
        arch = Point(depth - radius, 0).buffer(radius, quad_segs=4 * _SEGMENTS)
        made = _whole(
            unary_union(
                [arch.intersection(box(0, -half, depth, half)), box(-inward, -half, 0, half)]
            )
        )
    edge = {Side.RIGHT: right, Side.LEFT: -left, Side.FAR: top, Side.NEAR: -bottom}[side]
    turn = {Side.RIGHT: 0, Side.FAR: 90, Side.LEFT: 180, Side.NEAR: 270}[side]
    return affinity.rotate(affinity.translate(made, edge, 0), turn, origin=(0, 0))


def _whole(shape: Polygon | MultiPolygon) -> Polygon:
    return shape if isinstance(shape, Polygon) else max(shape.geoms, key=lambda part: part.area)


def cut_of(opening: Polygon, kerf: float) -> Polygon:
    """The line along which an opening is cut: half the kerf inside it.

    Parameters
    ----------
    opening : what is cut away
    kerf : mm that the cut takes

    Returns
    -------
    A polygon in mm.
    """
    line = opening.buffer(-kerf / 2, quad_segs=64, join_style="mitre")
    return _whole(line)


def _pieces(job: Faced) -> tuple[LaidPiece, ...]:
    """The pieces of all kinds of the board's pockets."""
    found = list(laid(job))
    for kind in range(len(job.jig.kinds)):
        if kind != job.jig.kind:
            found += laid(as_kind(job, kind))
    return tuple(sorted(found, key=lambda piece: piece.shown))


@lru_cache(maxsize=4)
def pocket_cuts(job: Faced) -> tuple[PocketCut, ...]:
    """The opening of every pocket of a job's board, by the pockets' numbers.

    A notch that would come within 1 mm of another opening, or of the board's edge, goes to a
    side where there is room; where there is none it is made less deep, or left out.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return tuple(_cutter(job).cuts())


def without_notch(job: Faced) -> tuple[int, ...]:
    """Shown numbers of the pockets that have no room for a finger notch.

    Parameters
    ----------
    job : as one of its faces has it
    """
    pieces = _pieces(job)
    found = zip(pieces, _cutter(job).notches(), strict=True)
    return tuple(piece.shown for piece, notches in found if not notches)


def _cutter(job: Faced) -> _Cutter:
    board = box(*board_on_bed(job.jig.board, job.jig.datum, job.printer)).buffer(-WEB)
    return _Cutter(job.cutting, _pieces(job), board)


#: Notches of an opening: the side of each, and how deep it is in mm.
_Notches = tuple[tuple[Side, float], ...]
#: A pocket's form, what lies around it and with which notches, and where the board's edges are.
_Surroundings = tuple[int, bytes, tuple[float, ...] | None]


class _Cutter:
    """Cuts one pocket after the other; those that lie alike among others are worked out once."""

    def __init__(self, cutting: Cutting, pieces: Sequence[LaidPiece], board: Polygon) -> None:
        self._cutting, self._pieces, self._board = cutting, pieces, board
        forms: dict[tuple[bytes, float], int] = {}
        # Pieces of a kind share their outline, which is looked at once.
        told: dict[int, bytes] = {}
        for piece in pieces:
            if id(piece.straight) not in told:
                told[id(piece.straight)] = piece.straight.wkb
        self._form = [
            forms.setdefault((told[id(piece.straight)], piece.turn), len(forms)) for piece in pieces
        ]
        first = dict(zip(self._form, pieces, strict=True))
        self._straight = {form: opening_for(cutting, one.straight) for form, one in first.items()}
        self._lying = {form: one.around(self._straight[form]) for form, one in first.items()}
        self._turned = first
        self._notches: dict[int, _Notches] = {}
        self._known: dict[_Surroundings, _Notches] = {}
        self._shapes: dict[tuple[int, _Notches], tuple[Polygon, Polygon]] = {}
        depth = cutting.notch_depth or cutting.notch / 2
        #: How far from its opening a pocket is of any matter to another.
        self._reach = 2 * depth + 2 * WEB
        self._middles = middles(pieces)
        half = [max(map(abs, self._lying[form].bounds)) for form in sorted(self._lying)]
        self._half = np.array(half, np.float64)[self._form] if half else np.zeros(0)
        #: Numbers for the notches that pockets have, by which surroundings are compared.
        self._number: dict[_Notches, int] = {(): 0}
        self._made: dict[tuple[int, Side, float], Polygon] = {}
        self._moved: dict[tuple[int, int, int, int], Polygon] = {}

    def notches(self) -> list[_Notches]:
        """Those of every pocket, in the order of the numbers."""
        if not self._cutting.notch or not self._pieces:
            return [() for _ in self._pieces]
        reach = (self._half + self._reach)[:, None] * (-1.0, -1.0, 1.0, 1.0)
        around = near(self._pieces, reach, self._half[:, None] * (-1.0, -1.0, 1.0, 1.0))
        ends = np.searchsorted(around.one, np.arange(len(self._pieces) + 1))
        form = np.array(self._form, np.int64)
        has = np.zeros(len(self._pieces), np.int64)
        for at in range(len(self._pieces)):
            others = around.other[ends[at] : ends[at + 1]]
            way = around.way[ends[at] : ends[at + 1]]
            told = np.column_stack([way, form[others], has[others]])
            found = self._notches_of(at, told[np.lexsort(told.T)])
            self._notches[at] = found
            has[at] = self._number.setdefault(found, len(self._number))
        return [self._notches[at] for at in range(len(self._pieces))]

    def cuts(self) -> Iterator[PocketCut]:
        """Every pocket, in the order of the numbers."""
        for form, piece, notches in zip(self._form, self._pieces, self.notches(), strict=True):
            opening, line = self._shape(form, notches)
            yield PocketCut(
                piece.shown,
                affinity.translate(opening, piece.x, piece.y),
                affinity.translate(line, piece.x, piece.y),
                tuple(side for side, _ in notches),
            )

    def _shape(self, form: int, notches: _Notches) -> tuple[Polygon, Polygon]:
        """Opening and line around (0, 0), as the piece lies."""
        key = form, notches
        if key not in self._shapes:
            straight = self._straight[form]
            parts = [notch_at(self._cutting, straight, side, deep) for side, deep in notches]
            opening = self._turned[form].around(_whole(unary_union([straight, *parts])))
            self._shapes[key] = opening, cut_of(opening, self._cutting.kerf)
        return self._shapes[key]

    def _notches_of(self, at: int, others: npt.NDArray[np.int64]) -> _Notches:
        """Where a pocket gets notches among others: ways, forms and numbers of their notches."""
        x, y = self._middles[at]
        left, bottom, right, top = self._board.bounds
        # Jobs beside each other may share a board that is none of theirs.
        on_board = left <= x <= right and bottom <= y <= top
        most = self._half[at] + self._reach
        edges = tuple(
            round(min(float(v), most), 3) for v in (x - left, right - x, y - bottom, top - y)
        )
        key = self._form[at], others.tobytes(), edges if on_board else None
        if key not in self._known:
            board = affinity.translate(self._board, -x, -y) if on_board else None
            by_number = {number: notches for notches, number in self._number.items()}
            shapes = [
                self._beside(x, y, form, number, by_number[number])
                for x, y, form, number in others.tolist()
            ]
            self._known[key] = self._where_free(self._form[at], board, shapes)
        return self._known[key]

    def _beside(self, x: int, y: int, form: int, number: int, notches: _Notches) -> Polygon:
        """The opening of another pocket, that far away."""
        key = x, y, form, number
        if key not in self._moved:
            opening = self._shape(form, notches)[0]
            self._moved[key] = affinity.translate(opening, x * ALIKE, y * ALIKE)
        return self._moved[key]

    def _notch(self, form: int, side: Side, deep: float) -> Polygon:
        """A notch of a pocket as it lies."""
        key = form, side, deep
        if key not in self._made:
            straight = notch_at(self._cutting, self._straight[form], side, deep)
            self._made[key] = self._turned[form].around(straight)
        return self._made[key]

    def _where_free(self, form: int, board: Polygon | None, others: Sequence[Polygon]) -> _Notches:
        """As many notches as are wanted, where there is room for them."""
        cutting, found = self._cutting, list[tuple[Side, float]]()
        wanted = [side for side in Side if side in cutting.notch_sides]
        rest = [side for side in Side if side not in cutting.notch_sides]
        depth = cutting.notch_depth or cutting.notch / 2
        beside = np.array(others, dtype=object)
        for deep in sorted({depth, max(depth / 2, LEAST_DEPTH), LEAST_DEPTH}, reverse=True):
            for side in (*wanted, *rest):
                taken = side in (one for one, _ in found)
                if len(found) >= len(wanted) or taken or deep > depth:
                    continue
                notch = self._notch(form, side, deep)
                inside = board is None or board.contains(notch)
                if inside and not shapely.dwithin(beside, notch, WEB).any():
                    found.append((side, deep))
            if found and math.isclose(deep, depth):
                # One of full depth is better than two of which one lets no finger in.
                break
        return tuple(found)


def pin_holes(job: Faced) -> tuple[Polygon, ...]:
    """Holes for the pins of a job's board: round keep-outs that lie on it.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    Lines to cut along, in mm on the bed.
    """
    board = box(*board_on_bed(job.jig.board, job.jig.datum, job.printer))
    holes = (
        keep_out_on_bed(zone, job.jig.datum, job.printer)
        for zone in job.jig.keep_outs
        if isinstance(zone, CircleKeepOut)
    )
    return tuple(cut_of(hole, job.cutting.kerf) for hole in holes if board.contains(hole))
