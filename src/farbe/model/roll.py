"""A length of a roll, and what lies on it."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from farbe.model.base import ArtworkKey, Colour, Coordinate, Length, Margin, Name, Value
from farbe.model.medium import MEDIA, MediumValue
from farbe.said import Spoken, say, shipped


class Packing(Spoken):
    """How artworks are laid on the film."""

    BOXES = "by their rectangles"
    SHAPES = "by their true shapes"
    HAND = "by hand"


class Cut(Spoken):
    """Where the artworks on a film are cut apart."""

    BOXES = "around rectangles"
    SHAPES = "along their shapes"
    PARTS = "around each part"


class FilmPlace(Value):
    """An artwork on the film: its middle in mm from the near left corner of its sheet.

    It is ``turned`` by degrees, anticlockwise. ``sheet`` counts from 0; sheets follow each other.
    ``behind`` is what is printed on the other side of it.
    """

    artwork: ArtworkKey
    behind: ArtworkKey | None = None
    x: Coordinate
    y: Coordinate
    turned: Literal[0, 90, 180, 270] = 0
    sheet: Annotated[int, Field(ge=0, le=1000)] = 0


class SideOffset(Value):
    """How far side B was found to lie off side A, as one looks at B: mm, degrees, percent."""

    x: Annotated[float, Field(ge=-50, le=50)] = 0.0
    y: Annotated[float, Field(ge=-50, le=50)] = 0.0
    rotation: Annotated[float, Field(ge=-5, le=5)] = 0.0
    scale: Annotated[float, Field(ge=-5, le=5)] = 0.0


@MEDIA.enter
class Roll(MediumValue):
    """A film or a fabric from a roll; its length follows from what lies on it.

    Attributes
    ----------
    width : of the film, mm
    side : kept free along both of its sides, for the holders
    lead, trail : kept free before the first and behind the last artwork of a sheet
    gap : least distance between two artworks
    turning : whether artworks may be turned by quarters to save film
    longest : of a sheet; what is more goes onto the next one
    price : of a metre of film
    cut : where artworks are cut apart; along shapes each stays in one piece, with ``beyond`` mm
        around what is printed
    line : of a film with two sides: how far behind each side A its line is printed
    offset : by which the next side B is corrected
    places : what lies where; an artwork's quantity says how often it is wanted
    """

    kind: Literal["roll"] = "roll"
    width: Length = 600.0
    side: Margin = 5.0
    lead: Margin = 15.0
    trail: Margin = 10.0
    gap: Margin = 4.0
    turning: bool = True
    packing: Packing = Packing.BOXES
    longest: Length = 3000.0
    price: Margin = 0.0
    cut: Cut = Cut.BOXES
    beyond: Margin = 1.5
    line: Annotated[float, Field(ge=2, le=100)] = 6.0
    offset: SideOffset = SideOffset()
    places: Annotated[tuple[FilmPlace, ...], Field(max_length=5000)] = ()

    @model_validator(mode="after")
    def _has_room(self) -> Self:
        if self.room <= 0:
            raise ValueError(say("the margins leave nothing of the film's width"))
        if self.longest <= self.lead + self.trail:
            raise ValueError(say("lead and trail leave nothing of the longest sheet"))
        return self

    @property
    def room(self) -> float:
        """Width in mm that may be printed on."""
        return self.width - 2 * self.side


class Garment(Value):
    """Garments of an order that get the same transfer: a colour, a size, and how many."""

    colour: Colour
    name: Name = shipped("cotton")
    size: Annotated[str, Field(max_length=12)] = ""
    count: Annotated[int, Field(ge=1, le=100_000)] = 1
