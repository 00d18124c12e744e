"""Openings of pockets as they are cut into a board: notches, corner relief, kerf."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from shapely import STRtree, affinity
from shapely.geometry import MultiPolygon, Point, Polygon, box
from shapely.ops import unary_union

from farbe.layout.bedframe import board_on_bed, keep_out_on_bed
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, laid
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
    cutting, pieces = job.cutting, _pieces(job)
    straight: dict[bytes, Polygon] = {}
    own: list[tuple[LaidPiece, Polygon]] = []
    for piece in pieces:
        key = piece.straight.wkb
        if key not in straight:
            straight[key] = opening_for(cutting, piece.straight)
        own.append((piece, straight[key]))
    plain = [_placed(piece, opening) for piece, opening in own]
    if not cutting.notch:
        return tuple(
            PocketCut(piece.shown, opening, cut_of(opening, cutting.kerf), ())
            for piece, opening in zip(pieces, plain, strict=True)
        )
    board = box(*board_on_bed(job.jig.board, job.jig.datum, job.printer)).buffer(-WEB)
    room = _Room(board, plain)
    return tuple(
        _notched(cutting, at, piece, opening, room) for at, (piece, opening) in enumerate(own)
    )


def _placed(piece: LaidPiece, shape: Polygon) -> Polygon:
    return affinity.translate(piece.around(shape), piece.x, piece.y)


class _Room:
    """What is cut already, and where there is room for more."""

    def __init__(self, board: Polygon, openings: Sequence[Polygon]) -> None:
        self._board, self._openings = board, list(openings)
        self._tree = STRtree(openings)
        self._notches: list[list[Polygon]] = [[] for _ in openings]

    def is_free(self, at: int, notch: Polygon) -> bool:
        """Whether a notch of one opening leaves all others alone.

        Parameters
        ----------
        at : the opening's place in the list
        notch : on the bed
        """
        # Jobs beside each other may share a board that is none of theirs.
        on_board = self._board.contains(self._openings[at].centroid)
        if on_board and not self._board.contains(notch):
            return False
        wide = notch.buffer(WEB, quad_segs=8)
        left, bottom, right, top = wide.bounds
        # Notches of neighbours reach further than their openings.
        far = box(left, bottom, right, top).buffer(max(right - left, top - bottom), cap_style=3)
        return not any(
            wide.intersects(other)
            for near in self._tree.query(far).tolist()
            if near != at
            for other in (self._openings[near], *self._notches[near])
        )

    def take(self, at: int, notch: Polygon) -> None:
        """Keep others off a notch.

        Parameters
        ----------
        at : the opening's place in the list
        notch : on the bed
        """
        self._notches[at].append(notch)


def _notched(
    cutting: Cutting, at: int, piece: LaidPiece, opening: Polygon, room: _Room
) -> PocketCut:
    """An opening with as many notches as are wanted, where there is room for them."""
    wanted = [side for side in Side if side in cutting.notch_sides]
    others = [side for side in Side if side not in cutting.notch_sides]
    depth = cutting.notch_depth or cutting.notch / 2
    cut, sides = _placed(piece, opening), list[Side]()
    for deep in (depth, depth / 2, LEAST_DEPTH):
        for side in (*wanted, *others):
            if len(sides) < len(wanted) and side not in sides and deep <= depth:
                notch = _placed(piece, notch_at(cutting, opening, side, deep))
                if room.is_free(at, notch):
                    room.take(at, notch)
                    cut = _whole(unary_union([cut, notch]))
                    sides.append(side)
        if sides and math.isclose(deep, depth):
            # One of full depth is better than two of which one lets no finger in.
            break
    return PocketCut(piece.shown, cut, cut_of(cut, cutting.kerf), tuple(sides))


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
