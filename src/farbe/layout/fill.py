"""As many pockets as fit: grids tried upright, turned, square and staggered."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.layout.figures import sizes
from farbe.layout.pockets import centred_jig, footprint, pitch, pockets, reaches
from farbe.model.base import BadInput
from farbe.model.jig import MAX_POCKETS, Jig, Pattern
from farbe.model.piece import Circle, Shape
from farbe.model.printer import Printer
from farbe.said import say


@dataclass(frozen=True)
class Filled:
    """A grid that fills its board, and how many pockets it has."""

    jig: Jig
    count: int

    @property
    def words(self) -> str:
        turned = say("turned") if self.jig.turned else say("upright")
        return f"{self.jig.pattern.words}, {turned}"


#: Mm that are no room at all, here as in the checks of what lies on the board.
SLACK = 1e-6


def _steps(room: float, first: float, step: float) -> int:
    """How many things of length ``first`` at distances ``step`` fit into ``room``."""
    return 0 if room + SLACK < first else 1 + int((room - first + SLACK) // step)


def filled(jig: Jig, shape: Shape, printer: Printer, margin: float) -> Filled | None:
    """The jig with as many columns and rows as its board holds, in the board's middle.

    Parameters
    ----------
    jig : whose pattern and turn are kept
    shape : of a piece
    printer : whose bed is meant
    margin : mm kept free along the board's edges, for bleed and guide

    Returns
    -------
    None where not one piece fits.
    """
    width, height = footprint(jig, shape)
    step = pitch(jig, shape)
    room_x = jig.board.width - 2 * margin - sum(reaches(jig, shape))
    room_y = jig.board.height - 2 * margin
    columns = min(1000, _steps(room_x, width, step.across))
    rows = min(1000, _steps(room_y, height, step.along))
    if not columns or not rows:
        return None
    rows = min(rows, MAX_POCKETS // columns)
    longest = width + step.shift + (columns - 1) * step.across
    sized = jig.replace(
        columns=columns,
        rows=rows,
        short_rows=longest > room_x + 1e-9,
        off=frozenset(),
        first_only=None,
    )
    made = centred_jig(sized, shape)
    return Filled(made, len(pockets(made, shape, printer)))


def choices(jig: Jig, shape: Shape, printer: Printer, margin: float) -> tuple[Filled, ...]:
    """Every way to fill the board, the one with most pockets first; simpler ones win a tie.

    Parameters
    ----------
    jig : the grid of pockets
    shape : of a piece
    printer : whose bed and inks are meant
    margin : mm kept free
    """
    found = []
    for turned in (False,) if isinstance(shape, Circle) else (False, True):
        for pattern in Pattern:
            made = filled(jig.replace(turned=turned, pattern=pattern), shape, printer, margin)
            if made is not None:
                found.append(made)
    return tuple(sorted(found, key=lambda one: -one.count))


def fullest(jig: Jig, shape: Shape, printer: Printer, margin: float) -> Filled:
    """The way to fill the board with most pockets.

    Parameters
    ----------
    jig : the grid of pockets
    shape : of a piece
    printer : whose bed and inks are meant
    margin : mm kept free

    Raises
    ------
    BadInput
        If not one piece fits on the board.
    """
    found = choices(jig, shape, printer, margin)
    if not found or not found[0].count:
        raise BadInput(
            say(
                "Not one piece of {piece} fits on a board of {board}; take a larger board.",
                piece=sizes(shape.width, shape.height),
                board=sizes(jig.board.width, jig.board.height),
            )
        )
    return found[0]
