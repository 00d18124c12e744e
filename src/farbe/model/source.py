"""What a layer's coverage comes from."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from farbe.model.base import Colour, Name, Value
from farbe.model.piece import Ring


class Colours(Value):
    """The artwork's colours, as process inks."""

    kind: Literal["colours"] = "colours"


class ArtworkShape(Value):
    """Wherever the artwork is."""

    kind: Literal["shape"] = "shape"


class OppositeShape(Value):
    """Wherever the artwork of the reader on the other side is."""

    kind: Literal["opposite shape"] = "opposite shape"


class ColourInk(Value):
    """Wherever any colour ink lies, as much as there is of it, solid from ``solid`` percent on."""

    kind: Literal["colour ink"] = "colour ink"
    solid: Annotated[float, Field(gt=0, le=100)] = 20.0


class WholePiece(Value):
    """The whole piece, whatever the artwork."""

    kind: Literal["whole piece"] = "whole piece"


class Surround(Value):
    """The piece around the artwork."""

    kind: Literal["surround"] = "surround"


class PlateNamed(Value):
    """A plate that comes with the artwork, by its name; case does not matter."""

    kind: Literal["plate"] = "plate"
    name: Name


class End(StrEnum):
    LIGHT = "light"
    DARK = "dark"


class Tones(Value):
    """The artwork's light or dark end: nothing at ``start`` and all at ``full`` (CIE L*)."""

    kind: Literal["tones"] = "tones"
    end: End = End.DARK
    start: Annotated[float, Field(ge=0, le=100)] = 60.0
    full: Annotated[float, Field(ge=0, le=100)] = 20.0


class PickedColours(Value):
    """Where the artwork is near one of some colours: ``tolerance`` and soft edge in CIEDE2000."""

    kind: Literal["picked colours"] = "picked colours"
    colours: Annotated[tuple[Colour, ...], Field(min_length=1, max_length=64)]
    tolerance: Annotated[float, Field(ge=0, le=100)] = 8.0
    softness: Annotated[float, Field(ge=0, le=100)] = 4.0


class Region(Value):
    """Drawn closed lines in mm around the piece's middle as it is read, y up; even-odd."""

    kind: Literal["region"] = "region"
    rings: Annotated[tuple[Ring, ...], Field(min_length=1, max_length=500)]


Source = Annotated[
    Colours
    | ArtworkShape
    | OppositeShape
    | ColourInk
    | WholePiece
    | Surround
    | PlateNamed
    | Tones
    | PickedColours
    | Region,
    Field(discriminator="kind"),
]
