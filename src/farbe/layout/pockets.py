"""Positions of the pockets: the one source for artwork, guide, picture and ticket."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from operator import itemgetter
from typing import NamedTuple

from shapely.geometry import Polygon

from farbe.layout.bedframe import axes, board_on_bed, keep_out_on_bed, onto_bed, to_bed
from farbe.layout.faced import Faced
from farbe.layout.outline import mirrored_across, outline, turned_quarter
from farbe.model.face import Turn, Turning
from farbe.model.jig import Jig, Numbering, Pattern
from farbe.model.piece import Circle, Reader, RoundBody, Shape, Unrolled
from farbe.model.printer import Printer


class Pocket(NamedTuple):
    """A place for one piece.

    Number from 1, among all pockets of the board of any kind; grid place from 0; middle in mm
    from the bed's near left corner, x to the right, y away from the operator. ``turn`` is in
    degrees, anticlockwise, besides how all pieces lie.
    """

    number: int
    column: int
    row: int
    x: float
    y: float
    on: bool
    turn: float = 0.0


@dataclass(frozen=True)
class Pitch:
    """Steps of a grid in mm: from column to column, row to row, and the shift of odd rows."""

    across: float
    along: float
    shift: float


def footprint(jig: Jig, shape: Shape) -> tuple[float, float]:
    """Width and height in mm that a piece takes as it lies in its pocket.

    Parameters
    ----------
    jig : the grid of pockets
    shape : of a piece
    """
    across = jig.turned in (90, 270)
    return (shape.height, shape.width) if across else (shape.width, shape.height)


def reaches(jig: Jig, shape: Shape) -> tuple[float, float]:
    """How far in mm pieces reach beyond their prints, to the left and to the right.

    Only bodies on rollers do: their base and what follows the print lie along the rollers.

    Parameters
    ----------
    jig : the grid of pockets
    shape : of a piece
    """
    if not isinstance(shape, RoundBody) or shape.unrolled is not Unrolled.ROLLERS:
        return 0.0, 0.0
    ends = shape.base, max(shape.rest, 0.0)
    # A quarter turn anticlockwise brings the far end to the left.
    return {90: ends[::-1], 270: ends}.get(jig.turned, (0.0, 0.0))


def quarter_turns(job: Faced) -> int:
    """Quarter turns, anticlockwise, from a piece as it is read upright to how it lies.

    What is turned over sideways exchanges left and right, so a turn to the left becomes one to
    the right; over the near edge, the top comes to lie at the bottom.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    return _quarters(job.jig, job.came_up)


def _quarters(jig: Jig, came_up: Turning | None) -> int:
    turns = jig.turned // 90
    if came_up is None:
        return turns
    return (-turns if came_up.turn is Turn.SIDEWAYS else 2 - turns) % 4


def pitch(jig: Jig, shape: Shape) -> Pitch:
    """The grid's steps.

    Staggered circles close up until neighbours of two rows are as far apart as the gap says;
    other staggered shapes lie like bricks.

    Parameters
    ----------
    jig : gaps in mm, pattern, turn
    shape : of the pieces

    Returns
    -------
    Steps in mm.
    """
    width, height = footprint(jig, shape)
    across, along = width + sum(reaches(jig, shape)) + jig.gap_x, height + jig.gap_y
    if jig.pattern is Pattern.SQUARE:
        return Pitch(across, along, 0.0)
    if isinstance(shape, Circle):
        slant = along**2 - (across / 2) ** 2
        # Very wide gaps across leave room for a row between; rows then stay their half apart.
        along = max(math.sqrt(slant) if slant > 0 else 0.0, along / 2)
    return Pitch(across, along, across / 2)


def _row_length(jig: Jig, row: int) -> int:
    shifted = jig.pattern is Pattern.STAGGERED and row % 2 == 1
    return jig.columns - 1 if shifted and jig.short_rows else jig.columns


#: Column, row, and mm from the datum.
GridPlace = tuple[int, int, float, float]


def _places(jig: Jig, shape: Shape) -> list[GridPlace]:
    """Column, row and middle from the datum, row by row; each from its own column and row."""
    width, height = footprint(jig, shape)
    step = pitch(jig, shape)
    return [
        (
            column,
            row,
            jig.first_x + width / 2 + column * step.across + (row % 2) * step.shift,
            jig.first_y + height / 2 + row * step.along,
        )
        for row in range(jig.rows)
        for column in range(_row_length(jig, row))
    ]


def _numbered(numbering: Numbering, free: list[GridPlace]) -> list[GridPlace]:
    """Places of a grid, told row by row, in the order of their numbers."""
    match numbering:
        case Numbering.ROWS:
            return free
        case Numbering.COLUMNS:
            return sorted(free, key=itemgetter(0, 1))
        case Numbering.BACK_AND_FORTH:
            return sorted(free, key=lambda p: (p[1], -p[0] if p[1] % 2 else p[0]))


@lru_cache(maxsize=16)
def pockets(
    jig: Jig,
    shape: Shape,
    printer: Printer,
    *,
    face_down: bool = False,
    came_up: Turning | None = None,
) -> tuple[Pocket, ...]:
    """All pockets of a grid in the order of their numbers; keep-outs have none.

    Parameters
    ----------
    jig, shape : the grid, and what lies in it
    printer : whose bed it is
    face_down : pieces lie with their reader's side down
    came_up : how they were turned over since

    Returns
    -------
    Numbered from 1; places in mm from the bed's near left corner.
    """
    if jig.places:
        return _one_by_one(jig, printer, came_up)
    free = _places(jig, shape)
    if jig.keep_outs:
        # Keep-outs were there before anything was turned over.
        piece = lying(jig, shape, face_down=face_down, came_up=came_up)
        if came_up is not None:
            piece = _turned_over(piece, came_up.turn)
        zones = [keep_out_on_bed(zone, jig.datum, printer) for zone in jig.keep_outs]
        free = [
            p for p in free if not _kept_out(zones, piece, *to_bed(jig.datum, printer, p[2], p[3]))
        ]
    last, off = jig.first_only or len(free), jig.off
    left, near, across, along = onto_bed(jig.datum, printer)
    from_x, from_y = jig.datum.x, jig.datum.y
    # As to_bed does; of a thousand each call counts.
    result = tuple([
        Pocket._make((
            number, column, row, left + across * (from_x + x), near + along * (from_y + y),
            number <= last and number not in off, 0.0,
        ))
        for number, (column, row, x, y) in enumerate(_numbered(jig.numbering, free), start=1)
    ])  # fmt: skip
    if came_up is None or not came_up.board:
        return result
    over = (_on_turned_board(jig, printer, one.x, one.y, came_up.turn) for one in result)
    return tuple(one._replace(x=x, y=y) for one, (x, y) in zip(result, over, strict=True))


def _one_by_one(jig: Jig, printer: Printer, came_up: Turning | None) -> tuple[Pocket, ...]:
    """Pockets that are told one by one, in their order; keep-outs take none of them."""
    own = [(at, place) for at, place in enumerate(jig.places, 1) if place.kind == jig.kind]
    last = jig.first_only or len(own)
    # On a board that was turned over, what leaned one way leans the other.
    over = came_up is not None and came_up.board
    result = []
    for order, (number, place) in enumerate(own, start=1):
        x, y = to_bed(jig.datum, printer, place.x, place.y)
        if came_up is not None and came_up.board:
            x, y = _on_turned_board(jig, printer, x, y, came_up.turn)
        on = number not in jig.off and order <= last
        turn = (-place.turn if over else place.turn) % 360.0
        result.append(Pocket(number, order - 1, 0, x, y, on, turn))
    return tuple(result)


def lying(
    jig: Jig, shape: Shape, *, face_down: bool = False, came_up: Turning | None = None
) -> Polygon:
    """A piece's outline as it lies in a pocket, seen from above, around (0, 0).

    Parameters
    ----------
    jig : says how pieces are turned
    shape : of the piece
    face_down : it lies with its reader's side down
    came_up : how it was turned over since

    Returns
    -------
    A polygon in mm.
    """
    return _turned(shape, face_down, _quarters(jig, came_up))


@lru_cache(maxsize=64)
def _turned(shape: Shape, face_down: bool, quarters: int) -> Polygon:
    seen = mirrored_across(outline(shape)) if face_down else outline(shape)
    for _ in range(quarters):
        seen = turned_quarter(seen)
    return seen


def _turned_over(piece: Polygon, turn: Turn) -> Polygon:
    """A lying outline after it is turned over about its middle."""
    over = mirrored_across(piece)
    return over if turn is Turn.SIDEWAYS else turned_quarter(turned_quarter(over))


def _on_turned_board(
    jig: Jig, printer: Printer, x: float, y: float, turn: Turn
) -> tuple[float, float]:
    """Where a place of the board comes to lie when the board is turned over in its place."""
    left, bottom, right, top = board_on_bed(jig.board, jig.datum, printer)
    return (left + right - x, y) if turn is Turn.SIDEWAYS else (x, bottom + top - y)


def by_rows(places: Sequence[tuple[float, float]], apart: float) -> list[int]:
    """In which order places are counted by rows, each from the datum on.

    Parameters
    ----------
    places : mm from the datum
    apart : mm by which the next row is further away than the first of a row

    Returns
    -------
    Indices into ``places``.
    """
    rows = list[list[int]]()
    start = -math.inf
    for at in sorted(range(len(places)), key=lambda n: (places[n][1], places[n][0])):
        if not rows or places[at][1] - start > apart:
            rows.append([])
            start = places[at][1]
        rows[-1].append(at)
    return [at for row in rows for at in sorted(row, key=lambda n: places[n][0])]


def piece_on_bed(job: Faced) -> Polygon:
    """The outline of a job's piece as it lies in its pocket.

    A piece that is read through lies with the reader's side down.

    Parameters
    ----------
    job : the job as one of its faces has it

    Returns
    -------
    A polygon in mm.
    """
    return lying(
        job.jig,
        job.piece.shape,
        face_down=job.reader is not Reader.FACE,
        came_up=job.came_up,
    )


def _kept_out(zones: Sequence[Polygon], piece: Polygon, x: float, y: float) -> bool:
    """Whether a piece that lies at a place of the bed reaches into one of its zones."""
    left, bottom, right, top = piece.bounds
    for zone in zones:
        a, b, c, d = zone.bounds
        if left + x < c and a < right + x and bottom + y < d and b < top + y:
            moved = Polygon([(px + x, py + y) for px, py in piece.exterior.coords])
            if moved.intersection(zone).area > 1e-9:
                return True
    return False


def bed_pockets(job: Faced) -> tuple[Pocket, ...]:
    """All pockets of a job's jig.

    Parameters
    ----------
    job : as one of its faces has it
    """
    face_down = job.reader is not Reader.FACE
    return pockets(job.jig, job.piece.shape, job.printer, face_down=face_down, came_up=job.came_up)


def centred_jig(jig: Jig, shape: Shape) -> Jig:
    """The same grid in the middle of its board.

    Parameters
    ----------
    jig : in mm
    shape : of the piece
    """
    places = _places(jig.replace(first_x=jig.board.x, first_y=jig.board.y), shape)
    width, height = footprint(jig, shape)
    left, beyond = reaches(jig, shape)[:: axes(jig.datum)[0]]
    right = max(x for _, _, x, _ in places) + width / 2 + beyond - left
    top = max(y for _, _, _, y in places) + height / 2
    return jig.replace(
        first_x=jig.board.x + (jig.board.x + jig.board.width - right) / 2,
        first_y=jig.board.y + (jig.board.y + jig.board.height - top) / 2,
    )
