"""Layers of a stack, where their coverage comes from and what is done to it."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from farbe.model.base import Margin, Name, Value
from farbe.model.printer import LayerKind


class Source(StrEnum):
    """What a layer's coverage comes from."""

    COLOURS = "colours"
    SHAPE = "shape"
    WHOLE_PIECE = "whole piece"


class Choke(Value):
    """Draw the edge back ``by`` so many mm."""

    kind: Literal["choke"] = "choke"
    by: Margin = 0.1


class Limit(Value):
    """Largest amount, 0 to 100 percent; all coverage is scaled to it."""

    kind: Literal["limit"] = "limit"
    percent: Annotated[float, Field(ge=0, le=100)] = 100.0


Treatment = Annotated[Choke | Limit, Field(discriminator="kind")]


class Layer(Value):
    kind: LayerKind
    name: Name
    source: Source = Source.SHAPE
    treatments: tuple[Treatment, ...] = ()
    hits: Annotated[int, Field(ge=1, le=20)] = 1
    on: bool = True

    @property
    def choke(self) -> float:
        """Sum of the chokes in mm."""
        return sum(t.by for t in self.treatments if isinstance(t, Choke))


COLOUR = Layer(kind=LayerKind.COLOUR, name="Colour", source=Source.COLOURS)
WHITE_UNDER = Layer(kind=LayerKind.WHITE, name="White", treatments=(Choke(by=0.1),))
VARNISH_OVER = Layer(kind=LayerKind.VARNISH, name="Varnish")
