"""Lettering that differs from pocket to pocket."""

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, StringConstraints, model_validator

from farbe.model.base import Colour, Coordinate, Digest, Length, Name, Value
from farbe.model.placing import Across, Along, Rotation
from farbe.said import Spoken, say

MAX_ROWS = 20_000
#: What a text calls the number that counts on.
SERIAL = "serial"
TableEntry = Annotated[str, StringConstraints(max_length=500)]


class Table(Value):
    """Rows of a table file, one for each pocket in the order of the numbers."""

    file_name: Name
    columns: Annotated[tuple[Name, ...], Field(min_length=1, max_length=200)]
    rows: Annotated[tuple[tuple[TableEntry, ...], ...], Field(max_length=MAX_ROWS)]

    @model_validator(mode="after")
    def _is_even(self) -> Self:
        if len(set(self.columns)) != len(self.columns):
            raise ValueError(say("two columns of the table have the same name"))
        if any(len(row) != len(self.columns) for row in self.rows):
            raise ValueError(say("a row of the table has not as many fields as there are columns"))
        return self


class TypeFace(StrEnum):
    """The faces that ship, and a font file of the user's own."""

    REGULAR = "regular"
    MEDIUM = "medium"
    BOLD = "bold"
    OWN = "own"


class CodeKind(Spoken):
    """Codes that machines read, by the names of their standards (ISO/IEC 18004, 15417, 15420)."""

    QR = "QR code"
    CODE_128 = "Code 128"
    CODE_39 = "Code 39"
    EAN_13 = "EAN-13"
    EAN_8 = "EAN-8"
    ITF = "Interleaved 2 of 5"


class Serial(Value):
    """Numbers that count on from pocket to pocket, and from load to load."""

    prefix: Annotated[str, StringConstraints(max_length=40)] = ""
    start: Annotated[int, Field(ge=0, le=10**15)] = 1
    step: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = 1
    digits: Annotated[int, Field(ge=1, le=20)] = 4

    def at(self, row: int) -> str:
        """The number of a row.

        Parameters
        ----------
        row : from 0
        """
        return f"{self.prefix}{max(0, self.start + row * self.step):0{self.digits}d}"


class TextFit(StrEnum):
    """What happens to text that is wider than its box."""

    SHRINK = "shrink"
    FILL = "fill"
    KEEP = "keep"


class TextBox(Value):
    """A box of text on the piece, as its reader sees it; (x, y) is its middle, y up.

    ``text`` may name columns of the job's table in braces, ``{name}``; ``{#}`` is the number of
    the pocket, ``{serial}`` counts on. Shown as a ``code``, its modules are as large as the box
    lets them be with a quiet zone around; ``light`` prints its light modules, on a dark piece.
    ``size`` is the height of its capitals in mm, ``leading`` the way from one line to
    the next in such heights. On a curve of ``radius`` mm the middle line of the box is bent: up
    over a circle, or down, if it is less than 0; 0 is straight.

    It is printed in ``colour``, by process inks (#000000 by black alone), or in one ``ink`` of the
    printer by its name: a process ink alone, white, varnish, or a named one.
    """

    text: Annotated[str, StringConstraints(max_length=500)] = "{#}"
    x: Coordinate = 0.0
    y: Coordinate = 0.0
    width: Length
    height: Length
    size: Length = 4.0
    across: Across = Across.MIDDLE
    along: Along = Along.MIDDLE
    fit: TextFit = TextFit.SHRINK
    rotation: Rotation = 0.0
    colour: Colour = "#000000"
    face: TypeFace = TypeFace.MEDIUM
    font: Digest | None = None
    ink: Name | None = None
    leading: Annotated[float, Field(ge=0.8, le=6)] = 1.6
    radius: Coordinate = 0.0
    code: CodeKind | None = None
    light: bool = False
