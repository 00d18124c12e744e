"""What a layer's coverage comes from."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from farbe.model.base import Colour, Name, Value
from farbe.model.kinds import Kinds
from farbe.model.meaning import Meaning
from farbe.model.piece import Ring
from farbe.said import Spoken, shipped


class SourceValue(Value):
    """What all sources have."""

    kind: str


SOURCES: Kinds[SourceValue] = Kinds(SourceValue, shipped("source"))
#: Any registered source.
Source = Annotated[SourceValue, *SOURCES.field()]


@SOURCES.enter
class Colours(SourceValue):
    """The artwork's colours, as process inks."""

    kind: Literal["colours"] = "colours"


@SOURCES.enter
class ArtworkShape(SourceValue):
    """Wherever the artwork is."""

    kind: Literal["shape"] = "shape"


@SOURCES.enter
class OppositeShape(SourceValue):
    """Wherever the artwork of the reader on the other side is."""

    kind: Literal["opposite shape"] = "opposite shape"


@SOURCES.enter
class ColourInk(SourceValue):
    """Wherever any colour ink lies, as much as there is of it, solid from ``solid`` percent on."""

    kind: Literal["colour ink"] = "colour ink"
    solid: Annotated[float, Field(gt=0, le=100)] = 20.0


@SOURCES.enter
class WholePiece(SourceValue):
    """The whole piece, whatever the artwork."""

    kind: Literal["whole piece"] = "whole piece"


@SOURCES.enter
class Surround(SourceValue):
    """The piece around the artwork."""

    kind: Literal["surround"] = "surround"


@SOURCES.enter
class PlateNamed(SourceValue):
    """A plate that comes with the artwork, by its name; case does not matter."""

    kind: Literal["plate"] = "plate"
    name: Name


class Otherwise(Spoken):
    """What a layer covers where an artwork has no plate for it."""

    SHAPE = "its shape"
    NOTHING = "nothing"


@SOURCES.enter
class FilePlate(SourceValue):
    """What of an artwork's own plates is meant for white or varnish, each artwork by itself.

    A plate is taken with the edges that it has in the file, unless it is ``treated``: chokes and
    spreads act on the shape of artworks that bring none.
    """

    kind: Literal["file plate"] = "file plate"
    meaning: Meaning = Meaning.WHITE
    otherwise: Otherwise = Otherwise.SHAPE
    treated: bool = False


@SOURCES.enter
class AsLayer(SourceValue):
    """What another layer lays down, by its name, after all that is done to it."""

    kind: Literal["as layer"] = "as layer"
    name: Name


class End(StrEnum):
    LIGHT = "light"
    DARK = "dark"


@SOURCES.enter
class Tones(SourceValue):
    """The artwork's light or dark end: nothing at ``start`` and all at ``full`` (CIE L*)."""

    kind: Literal["tones"] = "tones"
    end: End = End.DARK
    start: Annotated[float, Field(ge=0, le=100)] = 60.0
    full: Annotated[float, Field(ge=0, le=100)] = 20.0


@SOURCES.enter
class PickedColours(SourceValue):
    """Where the artwork is near one of some colours: ``tolerance`` and soft edge in CIEDE2000."""

    kind: Literal["picked colours"] = "picked colours"
    colours: Annotated[tuple[Colour, ...], Field(min_length=1, max_length=64)]
    tolerance: Annotated[float, Field(ge=0, le=100)] = 8.0
    softness: Annotated[float, Field(ge=0, le=100)] = 4.0


@SOURCES.enter
class Region(SourceValue):
    """Drawn closed lines in mm around the piece's middle as it is read, y up; even-odd."""

    kind: Literal["region"] = "region"
    rings: Annotated[tuple[Ring, ...], Field(min_length=1, max_length=500)]
