"""Where the pockets lie, and what shows them on the board."""

from collections.abc import Collection
from enum import StrEnum
from typing import Annotated, Any, Literal, Self

from pydantic import Field, PlainSerializer, field_validator, model_validator

from farbe.model.base import Colour, Coordinate, Length, Margin, Name, Value
from farbe.model.piece import Shape
from farbe.said import Spoken, say, shipped

MAX_POCKETS = 20_000


def _in_order(values: Collection[Any]) -> list[Any]:
    # Pydantic asks for the signature, which of ``sorted`` itself is text to be parsed.
    return sorted(values)


#: Sets are written in order, so that equal jobs are the same file in every process.
IN_ORDER = PlainSerializer(_in_order, return_type=list, when_used="json")
Count = Annotated[int, Field(ge=1, le=1000)]


class Corner(Spoken):
    """A corner of the bed as the operator stands before it."""

    NEAR_LEFT = "near left"
    NEAR_RIGHT = "near right"
    FAR_LEFT = "far left"
    FAR_RIGHT = "far right"


class Datum(Value):
    """From where positions are measured: a corner, moved into the bed by ``x`` and ``y``.

    Both axes run from the corner into the bed.
    """

    corner: Corner = Corner.NEAR_LEFT
    x: Coordinate = 0.0
    y: Coordinate = 0.0


class Board(Value):
    """What lies on the bed and carries the pockets; ``x``, ``y`` is its corner by the datum."""

    x: Coordinate = 0.0
    y: Coordinate = 0.0
    width: Length
    height: Length
    colour: Colour = "#b8a98a"


class RectangleKeepOut(Value):
    """A rectangle where no piece may lie; ``x``, ``y`` is its corner by the datum."""

    kind: Literal["rectangle"] = "rectangle"
    name: Name = shipped("clamp")
    x: Coordinate
    y: Coordinate
    width: Length
    height: Length


class CircleKeepOut(Value):
    """A circle where no piece may lie; ``x``, ``y`` is its middle."""

    kind: Literal["circle"] = "circle"
    name: Name = shipped("pin")
    x: Coordinate
    y: Coordinate
    diameter: Length


KeepOut = Annotated[RectangleKeepOut | CircleKeepOut, Field(discriminator="kind")]


class Pattern(Spoken):
    """How rows lie to each other."""

    SQUARE = "square"
    STAGGERED = "staggered"


class Numbering(Spoken):
    """In which order pockets are counted, from the datum."""

    ROWS = "by rows"
    COLUMNS = "by columns"
    BACK_AND_FORTH = "back and forth"


class Place(Value):
    """A pocket by itself: the middle of its piece in mm from the datum.

    ``turn`` is in degrees, anticlockwise as seen from above, besides how all pieces lie.
    ``kind`` is which of the jig's kinds of pocket it is, from 0.
    """

    x: Coordinate
    y: Coordinate
    turn: Annotated[float, Field(gt=-360, lt=360)] = 0.0
    kind: Annotated[int, Field(ge=0, le=99)] = 0


class PocketKind(Value):
    """What pockets of one kind are for."""

    name: Name
    shape: Shape
    height: Margin = 0.0


class Jig(Value):
    """Pockets on a board: a grid, or ``places`` one by one, which then count alone.

    ``first_x``, ``first_y`` is the corner of the grid's first pocket by the datum.

    In a staggered grid every second row is shifted; with ``short_rows`` it has one pocket less.
    Pieces lie ``turned`` by degrees, anticlockwise. ``first_only`` uses so many pockets, in the
    order of their numbers. ``play`` is how far a piece may lie off in its pocket, in mm.
    ``count_from`` is the number that guide, ticket and cutting file show for the first pocket.

    A board may have pockets of several ``kinds``; a job's pieces lie in those of ``kind``.
    """

    name: Name
    board: Board
    datum: Datum = Datum()
    first_x: Coordinate
    first_y: Coordinate
    columns: Count = 1
    rows: Count = 1
    gap_x: Margin = 5.0
    gap_y: Margin = 5.0
    pattern: Pattern = Pattern.SQUARE
    short_rows: bool = True
    turned: Literal[0, 90, 180, 270] = 0
    numbering: Numbering = Numbering.ROWS
    keep_outs: tuple[KeepOut, ...] = ()
    play: Annotated[float, Field(ge=0, le=20)] = 0.2
    off: Annotated[frozenset[Annotated[int, Field(ge=1)]], IN_ORDER] = frozenset()
    first_only: Annotated[int, Field(ge=1)] | None = None
    count_from: Annotated[int, Field(ge=1)] = 1
    places: Annotated[tuple[Place, ...], Field(max_length=MAX_POCKETS)] = ()
    kinds: Annotated[tuple[PocketKind, ...], Field(max_length=100)] = ()
    kind: Annotated[int, Field(ge=0, le=99)] = 0

    @model_validator(mode="after")
    def _has_an_end(self) -> Self:
        if self.columns * self.rows > MAX_POCKETS:
            raise ValueError(
                say(
                    "{columns} × {rows} pockets are too many; {max_pockets} are the most",
                    columns=self.columns,
                    rows=self.rows,
                    max_pockets=MAX_POCKETS,
                )
            )
        return self

    @model_validator(mode="before")
    @classmethod
    def _says_nothing_of_sides(cls, given: object) -> object:
        # Early files had a place in the jig for the side that was looked at.
        if isinstance(given, dict):
            return {name: value for name, value in given.items() if name != "over"}
        return given

    @field_validator("turned", mode="before")
    @classmethod
    def _in_degrees(cls, value: object) -> object:
        # Early files only knew upright (false) and a quarter turn (true).
        return 90 * value if isinstance(value, bool) else value


class MadeGuide(Value):
    """A guide that was printed or cut: the jig and the piece that it is for, and its code."""

    code: Name
    jig: Jig
    shape: Shape
    bed_turned: bool = False


class GuideStyle(StrEnum):
    """What is printed around a pocket."""

    OUTLINE = "outline"
    TICKS = "ticks"
    KERB = "kerb"


class Side(Spoken):
    """A side of a pocket as the operator stands before the bed."""

    LEFT = "left"
    RIGHT = "right"
    NEAR = "near"
    FAR = "far"


class Guide(Value):
    """The guide as a print.

    ``ink`` is an ink's name; None takes black on a light board and white on a dark one. A kerb
    is printed in varnish, ``kerb_hits`` times, ``kerb_width`` wide, along ``kerb_sides``, open by
    ``finger_gap`` in the middle of each. A draft takes fewer passes.
    """

    style: GuideStyle = GuideStyle.OUTLINE
    line_width: Length = 0.3
    distance: Margin = 0.5
    tick_length: Length = 6.0
    kerb_width: Length = 2.0
    kerb_hits: Annotated[int, Field(ge=1, le=40)] = 8
    kerb_sides: Annotated[frozenset[Side], Field(min_length=1), IN_ORDER] = frozenset(Side)
    finger_gap: Margin = 12.0
    numbers: bool = True
    ink: Name | None = None
    draft: bool = True

    @property
    def hits(self) -> int:
        """Number of times that it is printed, at least 1."""
        return self.kerb_hits if self.style is GuideStyle.KERB else 1


class NotchShape(Spoken):
    """What finger notches look like."""

    ROUND = "round"
    SQUARE = "square"


class Cutting(Value):
    """The guide as a cutting file for sheet material.

    ``clearance`` is how much larger the pocket is than the piece, all around; ``kerf`` the width
    that the cut takes away; ``tool`` the diameter of a tool that leaves corners round, 0 for
    none. ``notch`` is the width of finger notches, 0 for none, ``notch_sides`` where they are as
    the piece lies, if there is room; ``notch_depth`` how far they reach, 0 for half their width.
    """

    clearance: Margin = 0.3
    kerf: Margin = 0.15
    notch: Margin = 18.0
    notch_sides: Annotated[tuple[Side, ...], Field(max_length=4)] = (Side.LEFT, Side.RIGHT)
    notch_depth: Margin = 0.0
    notch_shape: NotchShape = NotchShape.ROUND
    tool: Annotated[Margin, Field(le=20)] = 0.0
