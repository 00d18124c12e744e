"""Where pockets really are, as measured."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Coordinate, Value
from farbe.said import Spoken, say


class Terms(Spoken):
    """What a correction may contain."""

    SHIFT = "shift"
    TURN = "shift and turn"
    SCALE = "shift, turn and scale"
    ALL = "shift, turn, scales and skew"


class Measured(Value):
    """Where a pocket's middle was found, by the datum."""

    pocket: Annotated[int, Field(ge=1)]
    x: Coordinate
    y: Coordinate


class Correction(Value):
    """Measured pockets; what follows from them moves the artwork's run, never the guide.

    ``terms`` None takes as many as the points can bear.
    """

    points: Annotated[tuple[Measured, ...], Field(min_length=1, max_length=1000)]
    terms: Terms | None = None
    on: bool = True

    @model_validator(mode="after")
    def _one_each(self) -> Self:
        if len({point.pocket for point in self.points}) != len(self.points):
            raise ValueError(say("a pocket is measured twice"))
        return self
