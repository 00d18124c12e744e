"""The thing printed on."""

import math
from enum import StrEnum
from typing import TYPE_CHECKING, Annotated, Literal, Self

from pydantic import Field, model_validator

from farbe.model.base import Colour, Coordinate, Length, Margin, Name, Value
from farbe.model.kinds import Kinds
from farbe.said import Spoken, say, shipped


class ShapeValue(Value):
    """What all shapes have."""

    kind: str

    if TYPE_CHECKING:

        @property
        def width(self) -> float:
            """Of its box, mm."""

        @property
        def height(self) -> float:
            """Of its box, mm."""


SHAPES: Kinds[ShapeValue] = Kinds(ShapeValue, shipped("shape"), needs=("width", "height"))
#: Any registered shape.
Shape = Annotated[ShapeValue, *SHAPES.field()]


@SHAPES.enter
class Rectangle(ShapeValue):
    """A rectangle, its corners round or not."""

    kind: Literal["rectangle"] = "rectangle"
    width: Length
    height: Length
    corner_radius: Margin = 0.0

    @model_validator(mode="after")
    def _corners_fit(self) -> Self:
        if self.corner_radius > min(self.width, self.height) / 2:
            raise ValueError(say("the corner radius is larger than half the shorter side"))
        return self


@SHAPES.enter
class Circle(ShapeValue):
    """A circle."""

    kind: Literal["circle"] = "circle"
    diameter: Length

    @property
    def width(self) -> float:
        """Mm."""
        return self.diameter

    @property
    def height(self) -> float:
        """Mm."""
        return self.diameter


@SHAPES.enter
class Ellipse(ShapeValue):
    """An ellipse."""

    kind: Literal["ellipse"] = "ellipse"
    width: Length
    height: Length


Point = tuple[Coordinate, Coordinate]
Ring = Annotated[tuple[Point, ...], Field(min_length=3, max_length=50_000)]


@SHAPES.enter
class Outline(ShapeValue):
    """Any closed outline: the outer line, then holes, in mm around the middle of its box, y up."""

    kind: Literal["outline"] = "outline"
    rings: Annotated[tuple[Ring, ...], Field(min_length=1, max_length=1000)]

    @model_validator(mode="after")
    def _has_size(self) -> Self:
        if self.width <= 0 or self.height <= 0:
            raise ValueError(say("the outline has no size"))
        return self

    @property
    def width(self) -> float:
        """Mm, of the box around it."""
        across = [x for x, _ in self.rings[0]]
        return max(across) - min(across)

    @property
    def height(self) -> float:
        """Mm, of the box around it."""
        along = [y for _, y in self.rings[0]]
        return max(along) - min(along)


class Unrolled(Spoken):
    """What passes under the heads: the body turning on rollers, or film that is wrapped around."""

    ROLLERS = "on rollers"
    WRAPPED = "wrapped around"


#: Mm by which two diameters are no different.
SAME = 1e-6


@SHAPES.enter
class RoundBody(ShapeValue):
    """A cylinder, or a tapered body, and how its side is printed on.

    Attributes
    ----------
    diameter, end_diameter : at the near and at the far end of the printed zone; the far one only
        of tapered bodies
    zone : height of the printed zone along the axis
    length : of the whole body along the axis; None where nobody said it
    base : from the body's near end to the printed zone
    lift : how high the rollers hold the body's lowest line over the bed
    seam : gap between the print's end and its start around the body; negative where they overlap
    free : kept free around the body, for a handle
    follows : lines of the artwork run around with the rim, so it is bent for a tapered body;
        else the artwork is laid on like a flat label
    """

    kind: Literal["round body"] = "round body"
    diameter: Length
    end_diameter: Length | None = None
    zone: Length
    length: Length | None = None
    base: Margin = 0.0
    lift: Margin = 0.0
    seam: Annotated[float, Field(ge=-100, le=1000)] = 0.0
    free: Margin = 0.0
    unrolled: Unrolled = Unrolled.ROLLERS
    follows: bool = True

    @model_validator(mode="after")
    def _has_room(self) -> Self:
        if self.wrap <= 0:
            raise ValueError(say("seam and handle leave nothing of the circumference"))
        if self.wrap > 1.5 * math.pi * self.mean:
            raise ValueError(say("an overlap of half the circumference is the most"))
        if abs(self.slope) * self.wrap_angle > 1.95 * math.pi:
            raise ValueError(say("the body tapers too much to be printed around"))
        return self

    @property
    def far_diameter(self) -> float:
        """Mm, at the end that is away from the first; what hardly differs is the same."""
        far = self.end_diameter
        return self.diameter if far is None or abs(far - self.diameter) < SAME else far

    @property
    def widest(self) -> float:
        """The larger diameter in mm."""
        return max(self.diameter, self.far_diameter)

    @property
    def head_height(self) -> float:
        """Of the uppermost line of a body on its rollers over the bed, mm."""
        return self.widest + self.lift

    @property
    def rest(self) -> float:
        """What of the body lies beyond the far end of the print, mm; negative if that is beyond."""
        return 0.0 if self.length is None else self.length - self.base - self.zone

    @property
    def whole(self) -> float:
        """Length of the body in mm, as far as it is known."""
        return self.base + self.zone if self.length is None else self.length

    @property
    def mean(self) -> float:
        """Diameter half way up, in mm."""
        return (self.diameter + self.far_diameter) / 2

    @property
    def slant(self) -> float:
        """Height of the zone along the surface, mm."""
        return math.hypot(self.zone, (self.far_diameter - self.diameter) / 2)

    @property
    def slope(self) -> float:
        """Change of the radius by the way along the surface: the sine of the half apex angle."""
        return (self.far_diameter - self.diameter) / 2 / self.slant

    @property
    def circumference(self) -> float:
        """Half way up, mm."""
        return math.pi * self.mean

    @property
    def wrap(self) -> float:
        """Width of the print around the body half way up, mm."""
        return self.circumference - self.seam - self.free

    @property
    def wrap_angle(self) -> float:
        """Radians around the axis that are printed on; over 2 π where the print overlaps."""
        return self.wrap / (self.mean / 2)

    @property
    def width(self) -> float:
        """Of what passes under the heads, mm."""
        if self.unrolled is Unrolled.ROLLERS:
            return self.wrap_angle * self.widest / 2
        return self._developed[0]

    @property
    def height(self) -> float:
        """Of what passes under the heads, mm."""
        return self.slant if self.unrolled is Unrolled.ROLLERS else self._developed[1]

    @property
    def _developed(self) -> tuple[float, float]:
        """Width and height of the printed surface rolled out flat: a part of a ring, if tapered."""
        if self.slope == 0.0:
            return self.wrap, self.slant
        small, large = sorted((self.diameter / 2, self.far_diameter / 2))
        inner, outer = small / abs(self.slope), large / abs(self.slope)
        half = abs(self.slope) * self.wrap_angle / 2
        wide = 2 * outer * (math.sin(half) if half < math.pi / 2 else 1.0)
        lowest = (inner if half < math.pi / 2 else outer) * math.cos(half)
        return wide, outer - lowest


class Material(Spoken):
    OPAQUE = "opaque"
    TRANSLUCENT = "translucent"
    CLEAR = "clear"
    TEXTILE = "textile"


class Surface(Value):
    """What a piece's face is made of, as light sees it."""

    material: Material = Material.OPAQUE
    colour: Colour = "#ffffff"
    name: str = ""


class Piece(Value):
    name: Name
    shape: Shape
    height: Margin = 0.0
    relief: Margin = 0.0
    surface: Surface = Surface()


class Reader(StrEnum):
    """Who looks at the print."""

    FACE = "face"
    THROUGH = "through"
    TRANSFER = "transfer"
