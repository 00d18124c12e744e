"""From the datum to the bed's own frame: near left corner, x right, y away."""

from __future__ import annotations

from typing import NamedTuple

from shapely.geometry import Point, Polygon, box

from farbe.model.jig import Board, CircleKeepOut, Corner, Datum, KeepOut
from farbe.model.printer import Printer


def axes(datum: Datum) -> tuple[int, int]:
    """Direction of the datum's x and y axes in the bed's frame, 1 or -1.

    Parameters
    ----------
    datum : the corner that is measured from
    """
    across = -1 if datum.corner in (Corner.NEAR_RIGHT, Corner.FAR_RIGHT) else 1
    along = -1 if datum.corner in (Corner.FAR_LEFT, Corner.FAR_RIGHT) else 1
    return across, along


def to_bed(datum: Datum, printer: Printer, x: float, y: float) -> tuple[float, float]:
    """A place measured from the datum, in the bed's frame.

    Parameters
    ----------
    datum : the corner that is measured from
    printer : whose bed it is
    x, y : mm from the datum, into the bed

    Returns
    -------
    x to the right and y away, in mm from the near left corner.
    """
    way = onto_bed(datum, printer)
    return way.left + way.across * (datum.x + x), way.near + way.along * (datum.y + y)


class OntoBed(NamedTuple):
    """The terms of :func:`to_bed`, for very many places.

    Attributes
    ----------
    left, near : mm from the near left corner to where x and y begin
    across, along : direction of x and y, 1 or -1
    """

    left: float
    near: float
    across: int
    along: int


def onto_bed(datum: Datum, printer: Printer) -> OntoBed:
    """Where the datum's axes begin, and which way they go.

    Parameters
    ----------
    datum : the corner that is measured from
    printer : whose bed it is
    """
    across, along = axes(datum)
    left = 0.0 if across > 0 else printer.bed_width
    near = 0.0 if along > 0 else printer.bed_height
    return OntoBed(left, near, across, along)


def from_bed(datum: Datum, printer: Printer, x: float, y: float) -> tuple[float, float]:
    """A place in the bed's frame, measured from the datum.

    Parameters
    ----------
    datum : the corner that is measured from
    printer : whose bed it is
    x, y : mm from the near left corner, to the right and away

    Returns
    -------
    x and y in mm from the datum, into the bed.
    """
    across, along = axes(datum)
    left = 0.0 if across > 0 else printer.bed_width
    near = 0.0 if along > 0 else printer.bed_height
    return across * (x - left) - datum.x, along * (y - near) - datum.y


def box_on_bed(
    datum: Datum, printer: Printer, x: float, y: float, width: float, height: float
) -> tuple[float, float, float, float]:
    """Left, bottom, right, top in the bed's frame of a box whose corner is by the datum.

    Parameters
    ----------
    datum : the corner that is measured from
    printer : whose bed and inks are meant
    x : mm to the right
    y : mm away
    width, height : mm
    """
    one, two = to_bed(datum, printer, x, y), to_bed(datum, printer, x + width, y + height)
    return min(one[0], two[0]), min(one[1], two[1]), max(one[0], two[0]), max(one[1], two[1])


def board_on_bed(board: Board, datum: Datum, printer: Printer) -> tuple[float, float, float, float]:
    """Left, bottom, right, top of the board in the bed's frame.

    Parameters
    ----------
    board : measured from the datum
    datum : the corner that is measured from
    printer : whose bed and inks are meant
    """
    return box_on_bed(datum, printer, board.x, board.y, board.width, board.height)


def keep_out_polygon(keep_out: KeepOut) -> Polygon:
    """A keep-out zone, measured from the datum.

    Parameters
    ----------
    keep_out : measured from the datum

    Returns
    -------
    A polygon in mm.
    """
    if isinstance(keep_out, CircleKeepOut):
        return Point(keep_out.x, keep_out.y).buffer(keep_out.diameter / 2, quad_segs=64)
    return box(keep_out.x, keep_out.y, keep_out.x + keep_out.width, keep_out.y + keep_out.height)


def keep_out_on_bed(keep_out: KeepOut, datum: Datum, printer: Printer) -> Polygon:
    """A keep-out zone in the bed's frame, in which pieces lie.

    Parameters
    ----------
    keep_out : measured from the datum
    datum, printer : what it is measured from

    Returns
    -------
    A polygon in mm from the near left corner.
    """
    if isinstance(keep_out, CircleKeepOut):
        middle = Point(*to_bed(datum, printer, keep_out.x, keep_out.y))
        return middle.buffer(keep_out.diameter / 2, quad_segs=64)
    return box(*box_on_bed(datum, printer, keep_out.x, keep_out.y, keep_out.width, keep_out.height))
