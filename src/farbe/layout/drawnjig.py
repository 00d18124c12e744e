"""A jig as a drawing shows it: its board, kinds of pockets, pins; and a job that takes it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import STRtree
from shapely.geometry import MultiPolygon, Polygon

from farbe.layout.alike import Lies, as_shape, lies_as
from farbe.layout.bedframe import board_on_bed, from_bed
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length, measure
from farbe.layout.outline import outline
from farbe.layout.pockets import by_rows
from farbe.layout.shapewords import shape_in_words
from farbe.model.base import BadInput
from farbe.model.jig import CircleKeepOut, Place, PocketKind
from farbe.model.piece import Circle, Ellipse, Outline, Rectangle, RoundBody, Shape
from farbe.said import Spoken, say, say_count, shipped

#: Circles up to this diameter in mm, where there are larger outlines, are taken for pins.
PIN = 12.0
#: Degrees.
SAME_TURN = 0.05
_PINS = re.compile(r"\b(pins?|stifte?|dowels?)\b", re.IGNORECASE)


class Use(Spoken):
    """What outlines of a drawing are."""

    PIECE = "pockets of this piece"
    OTHER = "pockets of another piece"
    PIN = "pins"
    NOTHING = "nothing"


@dataclass(frozen=True, eq=False)
class DrawnPocket:
    """A closed line of a drawing, in mm, its layer, and how far its block is turned."""

    line: Polygon
    layer: str = ""
    turn: float = 0.0


@dataclass(frozen=True)
class OpenLine:
    """A line that does not close: a place in mm, and how far its ends are apart."""

    x: float
    y: float
    gap: float


@dataclass(frozen=True, eq=False)
class DrawnJig:
    """What a drawing holds: the board's edge, if there is one, and what is drawn on it."""

    board: Polygon | None
    pockets: tuple[DrawnPocket, ...]
    open: tuple[OpenLine, ...] = ()


@dataclass(frozen=True)
class DrawnKind:
    """Outlines of one shape, how each lies, and on which layers they are."""

    shape: Shape
    lies: tuple[Lies, ...]
    layers: tuple[str, ...]

    @property
    def words(self) -> str:
        return say("{count} × {shape}", count=len(self.lies), shape=shape_in_words(self.shape))


def told_apart(lines: Sequence[DrawnPocket], unclosed: tuple[OpenLine, ...] = ()) -> DrawnJig:
    """The board is what all other lines lie in; what is drawn inside a pocket is not cut by itself.

    Parameters
    ----------
    lines : closed lines of a drawing
    unclosed : what does not close

    Raises
    ------
    BadInput
        If there is no closed line.
    """
    if not lines:
        raise BadInput(
            _unclosed_words(unclosed)
            or say("There is no closed line in the drawing; draw pockets as closed lines.")
        )
    order = sorted(lines, key=lambda one: -float(one.line.area))
    first = order[0].line
    board = None
    if len(order) > 1 and all(first.contains(one.line.centroid) for one in order[1:]):
        inside = sum(float(one.line.area) for one in order[1:])
        # A frame of many, or one that is well around its one: else it is a piece with a hole.
        if len(order) > 2 or inside < 0.5 * first.area:
            board, order = first, order[1:]
    tree = STRtree([one.line for one in order])
    kept = []
    for at, one in enumerate(order):
        around = tree.query(one.line.representative_point(), predicate="within").tolist()
        if not any(other < at for other in around):
            kept.append(one)
    known = {id(one) for one in kept}
    # In the order of the drawing, by which pockets are counted.
    return DrawnJig(board, tuple(one for one in lines if id(one) in known), unclosed)


def kinds_of(drawn: DrawnJig, piece: Shape | None = None) -> tuple[DrawnKind, ...]:
    """The different shapes among a drawing's lines, the one with most first.

    Parameters
    ----------
    drawn : what was read
    piece : a shape whose frame is kept where lines are like it; that kind is then the first
    """
    found: list[tuple[Shape, Polygon, list[Lies], dict[str, None]]] = []
    if piece is not None:
        found.append((piece, outline(piece), [], {}))
    for one in drawn.pockets:
        for shape, known, lies, layers in found:
            there = lies_as(one.line, known, one.turn)
            if there is not None:
                lies.append(_rounded(there, shape, one.turn))
                layers[one.layer] = None
                break
        else:
            shape, there = as_shape(one.line, one.turn)
            found.append(
                (shape, outline(shape), [_rounded(there, shape, one.turn)], {one.layer: None})
            )
    made = [DrawnKind(shape, tuple(lies), tuple(layers)) for shape, _, lies, layers in found]
    own, rest = (made[:1], made[1:]) if piece is not None else ([], made)
    rest.sort(key=lambda kind: -len(kind.lies))
    return tuple(kind for kind in (*own, *rest) if kind.lies)


def _rounded(lies: Lies, shape: Shape, block: float) -> Lies:
    """As places are kept; what is turned about as its block is, is turned exactly so."""
    turn = lies.turn
    if abs((turn - block + 180.0) % 360.0 - 180.0) < SAME_TURN:
        turn = block
    turn = 0.0 if isinstance(shape, Circle) else round(turn % 360.0, 3) % 360.0
    return Lies(round(lies.x, 4), round(lies.y, 4), turn)


def proposed(kinds: Sequence[DrawnKind], piece: Shape | None) -> tuple[Use, ...]:
    """What each kind of outline probably is; the operator says whether it is.

    Parameters
    ----------
    kinds : of a drawing
    piece : what the pockets of the job's piece are drawn like, if that is known
    """
    largest = max((float(outline(kind.shape).area) for kind in kinds), default=0.0)

    def is_pin(kind: DrawnKind) -> bool:
        small = isinstance(kind.shape, Circle) and kind.shape.diameter <= PIN
        named = any(_PINS.search(layer) for layer in kind.layers)
        round_ = isinstance(kind.shape, Circle)
        return round_ and (named or (small and float(outline(kind.shape).area) < largest / 4))

    uses = [Use.PIN if is_pin(kind) and kind.shape != piece else Use.OTHER for kind in kinds]
    own = next((at for at, kind in enumerate(kinds) if kind.shape == piece), None)
    if own is None:
        own = next((at for at, use in enumerate(uses) if use is Use.OTHER), None)
    return tuple(Use.PIECE if at == own else use for at, use in enumerate(uses))


def resized(shape: Shape, by: float) -> Shape:
    """A shape whose edge lies further out by mm, or further in.

    Parameters
    ----------
    shape : of a piece or its pocket
    by : mm; below 0 further in

    Raises
    ------
    BadInput
        If nothing is left.
    """
    if by == 0:
        return shape
    if isinstance(shape, Circle) and shape.diameter + 2 * by > 0:
        return shape.replace(diameter=round(shape.diameter + 2 * by, 4))
    if isinstance(shape, Rectangle) and min(shape.width, shape.height) + 2 * by > 0:
        radius = max(0.0, shape.corner_radius + by) if shape.corner_radius else 0.0
        return shape.replace(
            width=round(shape.width + 2 * by, 4), height=round(shape.height + 2 * by, 4),
            corner_radius=round(radius, 4),
        )  # fmt: skip
    if isinstance(shape, Outline | Ellipse):
        grown = outline(shape, grow=by)
        parts = grown.geoms if isinstance(grown, MultiPolygon) else (grown,)
        whole = max(parts, key=lambda part: part.area)
        if not whole.is_empty:
            ring = np.asarray(whole.exterior.coords)[:-1].round(4).tolist()
            return Outline(rings=(tuple((x, y) for x, y in ring),))
    raise BadInput(
        say("A clearance of {clearance} leaves nothing of a pocket.", clearance=measure(-by))
    )


def pocket_of(piece: Shape, clearance: float) -> Shape | None:
    """What the pocket of a piece is drawn like; None for bodies, which lie on rollers.

    Parameters
    ----------
    piece : the job's
    clearance : mm that pockets are drawn larger on each side

    Raises
    ------
    BadInput
        If a clearance below 0 leaves nothing.
    """
    return None if isinstance(piece, RoundBody) else resized(piece, clearance)


def with_drawn(
    job: Faced, drawn: DrawnJig, kinds: Sequence[DrawnKind], uses: Sequence[Use], clearance: float
) -> Faced:
    """The job with its pockets where a drawing has them.

    The board's near left corner stays where it is; without a board in the drawing, its pockets
    lie on the job's from that corner on.

    Parameters
    ----------
    job : as its first face has it
    drawn, kinds : what was read
    uses : what each kind is
    clearance : mm that pockets are drawn larger than the pieces on each side

    Raises
    ------
    BadInput
        If no outline is for the job's piece, or more than one is.
    """
    if sum(use is Use.PIECE for use in uses) != 1:
        raise BadInput(say("Choose one kind of outline for the pockets of this piece."))
    jig, printer = job.jig, job.printer
    corner = board_on_bed(jig.board, jig.datum, printer)[:2]
    left, bottom, right, top = _frame(drawn)

    def by_datum(lies: Lies) -> tuple[float, float]:
        x, y = corner[0] + lies.x - left, corner[1] + lies.y - bottom
        x, y = from_bed(jig.datum, printer, x, y)
        return round(x, 4), round(y, 4)

    board = jig.board
    if drawn.board is not None:
        # Its near left corner stays, whichever corner of it the datum's axes begin at.
        was = board_on_bed(board, jig.datum, printer)
        board = board.replace(width=round(right - left, 3), height=round(top - bottom, 3))
        now = board_on_bed(board, jig.datum, printer)
        zero = from_bed(jig.datum, printer, 0, 0)
        by = from_bed(jig.datum, printer, was[0] - now[0], was[1] - now[1])
        board = board.replace(
            x=round(board.x + by[0] - zero[0], 4), y=round(board.y + by[1] - zero[1], 4)
        )
    pockets = [(kind, use) for kind, use in zip(kinds, uses, strict=True)
               if use in (Use.PIECE, Use.OTHER)]  # fmt: skip
    places = tuple(
        Place(x=at[0], y=at[1], turn=lies.turn, kind=number)
        for number, (kind, _) in enumerate(pockets)
        for lies in kind.lies
        for at in (by_datum(lies),)
    )
    sides = [min(kind.shape.width, kind.shape.height) for kind, _ in pockets]
    places = tuple(places[at] for at in by_rows([(p.x, p.y) for p in places], min(sides) / 2))
    pins = tuple(
        CircleKeepOut(name=shipped("pin"), x=at[0], y=at[1], diameter=kind.shape.width)
        for kind, use in zip(kinds, uses, strict=True)
        if use is Use.PIN
        for at in map(by_datum, kind.lies)
    )
    own = next(number for number, (_, use) in enumerate(pockets) if use is Use.PIECE)
    like_piece = pocket_of(job.piece.shape, clearance)

    def piece_of(kind: DrawnKind) -> Shape:
        # Pockets of the piece as it was stated are for just that.
        return job.piece.shape if kind.shape == like_piece else resized(kind.shape, -clearance)

    named = tuple(
        PocketKind(
            name=job.piece.name if use is Use.PIECE else shape_in_words(kind.shape)[:80],
            shape=piece_of(kind),
            height=job.piece.height if use is Use.PIECE else 0.0,
        )
        for kind, use in pockets
    )
    made = jig.replace(
        board=board, places=places, kind=own if len(named) > 1 else 0,
        kinds=named if len(named) > 1 else (),
        # Clamps stay where they are.
        keep_outs=(*(one for one in jig.keep_outs if one not in pins), *pins), turned=0,
        off=frozenset(), first_only=None,
    )  # fmt: skip
    return job.replace(jig=made, piece=job.piece.replace(shape=named[own].shape))


def _frame(drawn: DrawnJig) -> tuple[float, float, float, float]:
    """Left, bottom, right and top of the board, or of all that is drawn."""
    if drawn.board is not None:
        left, bottom, right, top = drawn.board.bounds
        return left, bottom, right, top
    boxes = np.array([one.line.bounds for one in drawn.pockets])
    return (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())


def _unclosed_words(unclosed: Sequence[OpenLine]) -> str:
    """The first places where lines do not close, in one sentence; empty without any."""
    if not unclosed:
        return ""
    places = "; ".join(
        say(
            "{gap} apart at {x}, {y}",
            gap=measure(one.gap, 2),
            x=bare_length(one.x, 1),
            y=bare_length(one.y, 1),
        )
        for one in unclosed[:5]
    )
    return say_count(
        len(unclosed),
        "{count} line is not closed: its ends are {places}. Close it, or allow a wider gap.",
        "{count} lines are not closed: their ends are {places}. Close them, or allow a wider gap.",
        places=places,
    )


def unclosed_words(drawn: DrawnJig) -> str:
    """What to say of lines that do not close; empty if all do.

    Parameters
    ----------
    drawn : what was read
    """
    return _unclosed_words(drawn.open)
