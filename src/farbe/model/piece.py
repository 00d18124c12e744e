"""The thing printed on."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field, model_validator

from farbe.model.base import Colour, Length, Margin, Name, Value


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


Shape = Annotated[Rectangle | Circle | Ellipse, Field(discriminator="kind")]


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
