"""Where the pockets lie, and what shows them on the board."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from farbe.model.base import Colour, Coordinate, Length, Margin, Name, Value

Count = Annotated[int, Field(ge=1, le=1000)]


class Board(Value):
    """What lies on the bed and carries the pockets; ``x``, ``y`` is its corner by the datum."""

    x: Coordinate = 0.0
    y: Coordinate = 0.0
    width: Length
    height: Length
    colour: Colour = "#b8a98a"


class Jig(Value):
    """A grid of pockets; ``first_x``, ``first_y`` is the first one's corner by the datum."""

    name: Name
    board: Board
    first_x: Coordinate
    first_y: Coordinate
    columns: Count = 1
    rows: Count = 1
    gap_x: Margin = 5.0
    gap_y: Margin = 5.0
    off: frozenset[Annotated[int, Field(ge=1)]] = frozenset()


class Guide(Value):
    """Outlines printed on the board: line width, distance from the piece, the ink's name."""

    line_width: Length = 0.3
    distance: Margin = 0.5
    ink: Name = "Black"
