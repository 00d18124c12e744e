"""The thing printed on."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, model_validator

from farbe.model.base import Colour, Coordinate, Length, Margin, Name, Value


class Rectangle(Value):
    kind: Literal["rectangle"] = "rectangle"
    width: Length
    height: Length
    corner_radius: Margin = 0.0

    @model_validator(mode="after")
    def _corners_fit(self) -> Rectangle:
        if self.corner_radius > min(self.width, self.height) / 2:
            raise ValueError("the corner radius is larger than half the shorter side")
        return self


class Circle(Value):
    kind: Literal["circle"] = "circle"
    diameter: Length

    @property
    def width(self) -> float:
        return self.diameter

    @property
    def height(self) -> float:
        return self.diameter


class Ellipse(Value):
    kind: Literal["ellipse"] = "ellipse"
    width: Length
    height: Length


Point = tuple[Coordinate, Coordinate]
Ring = Annotated[tuple[Point, ...], Field(min_length=3, max_length=50_000)]


class Outline(Value):
    """Any closed outline: the outer line, then holes, in mm around the middle of its box, y up."""

    kind: Literal["outline"] = "outline"
    rings: Annotated[tuple[Ring, ...], Field(min_length=1, max_length=1000)]

    @model_validator(mode="after")
    def _has_size(self) -> Outline:
        if self.width <= 0 or self.height <= 0:
            raise ValueError("the outline has no size")
        return self

    @property
    def width(self) -> float:
        across = [x for x, _ in self.rings[0]]
        return max(across) - min(across)

    @property
    def height(self) -> float:
        along = [y for _, y in self.rings[0]]
        return max(along) - min(along)


Shape = Annotated[Rectangle | Circle | Ellipse | Outline, Field(discriminator="kind")]


class Material(StrEnum):
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
