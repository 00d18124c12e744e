"""How artwork lies on its piece."""

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from farbe.model.base import ArtworkKey, Coordinate, Margin, Value
from farbe.said import Spoken

#: Degrees, anticlockwise.
Rotation = Annotated[float, Field(ge=-360, le=360)]
ScalePercent = Annotated[float, Field(gt=0, le=10_000)]


class Fit(StrEnum):
    """Where the artwork's size comes from."""

    ACTUAL = "actual"
    FIT = "fit"
    FILL = "fill"
    INSIDE = "inside"


class Across(Spoken):
    LEFT = "left"
    MIDDLE = "middle"
    RIGHT = "right"


class Along(Spoken):
    BOTTOM = "bottom"
    MIDDLE = "middle"
    TOP = "top"


class Placing(Value):
    """Artwork on a piece, as its reader sees it.

    ``fit``: the artwork's own size, as large as goes into the printable area, or as small as
    covers it. ``margin``: mm kept free inside the piece's edge; nothing prints there. The
    artwork is mirrored and turned (degrees, anticlockwise) first; then its box is aligned in the
    printable area's box and moved by the offset, x right, y up. ``scale`` is a percentage of the
    size that ``fit`` gives.
    """

    fit: Fit = Fit.ACTUAL
    across: Across = Across.MIDDLE
    along: Along = Along.MIDDLE
    offset_x: Coordinate = 0.0
    offset_y: Coordinate = 0.0
    scale: ScalePercent = 100.0
    rotation: Rotation = 0.0
    mirror: bool = False
    margin: Margin = 0.0


class PocketChange(Value):
    """What one pocket prints otherwise than all: another artwork, moved, turned, sized, mirrored.

    ``artwork`` is the key of one of the job's artworks; None leaves it as it comes. Moves and
    turns come on top of the job's placing, ``scale`` multiplies it. ``fit``, ``across``, ``along``
    and ``margin`` take the place of the job's; None leaves them.
    """

    pocket: Annotated[int, Field(ge=1)]
    artwork: ArtworkKey | None = None
    offset_x: Coordinate = 0.0
    offset_y: Coordinate = 0.0
    scale: ScalePercent = 100.0
    rotation: Rotation = 0.0
    mirror: bool = False
    fit: Fit | None = None
    across: Across | None = None
    along: Along | None = None
    margin: Margin | None = None


class Parts(Value):
    """Artwork that is larger than its piece, in parts: each pocket prints another one.

    Attributes
    ----------
    overlap : mm that neighbouring parts share
    first, many : the parts that this job prints, the first from 1; all that follow, if none
    """

    overlap: Margin = 5.0
    first: Annotated[int, Field(ge=1, le=100_000)] = 1
    many: Annotated[int, Field(ge=1, le=100_000)] | None = None
