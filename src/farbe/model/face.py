"""Faces: what each reader of a piece sees, and how a second one comes up."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from farbe.model.artwork import ArtworkFile
from farbe.model.base import Name, Value
from farbe.model.correction import Correction
from farbe.model.layer import Layer
from farbe.model.piece import Reader
from farbe.model.placing import Parts, Placing, PocketChange
from farbe.model.printer import LayerKind
from farbe.model.text import Serial, Table, TextBox
from farbe.said import Spoken, say

#: Colour layers for a reader: one that is seen by day, and one for when the piece is lit.
MOST_COLOUR = 2


class Turn(Spoken):
    """How a thing on the bed is turned over, as the operator stands before it.

    Sideways: over its left or right edge, as a page is turned; what was left is right after. Over
    the near edge: what was near is far after.
    """

    SIDEWAYS = "sideways"
    ENDWAYS = "over the near edge"


class Turning(Value):
    """The second face is printed too: each piece is turned in its pocket, or the whole board."""

    kind: Literal["turned over"] = "turned over"
    turn: Turn = Turn.SIDEWAYS
    board: bool = False


class SamePrint(Value):
    """The second face is the same print, read through a clear piece from its other side."""

    kind: Literal["the same print"] = "the same print"


#: How the second face of a piece comes up.
ComesUp = Annotated[Turning | SamePrint, Field(discriminator="kind")]


class Content(Value):
    """Artworks and words, and how they lie."""

    artworks: tuple[ArtworkFile, ...] = ()
    placing: Placing = Placing()
    changes: tuple[PocketChange, ...] = ()
    texts: Annotated[tuple[TextBox, ...], Field(max_length=50)] = ()
    table: Table | None = None
    serial: Serial = Serial()
    artwork_column: Name | None = None
    parts: Parts | None = None

    @model_validator(mode="after")
    def _is_clear(self) -> Self:
        _differ([art.key for art in self.artworks], say("an artwork is there twice"))
        _differ([change.pocket for change in self.changes], say("a pocket is changed twice"))
        if sum(art.quantity is None for art in self.artworks) > 1:
            raise ValueError(say("only one artwork can take the rest of the pockets"))
        return self


class Face(Content):
    """What one reader sees: the content, and the stack that prints it, from the substrate up.

    Where both faces are the same print the first holds the one stack, and its layers name their
    reader.
    """

    reader: Reader = Reader.FACE
    stack: tuple[Layer, ...] = ()
    correction: Correction | None = None

    @model_validator(mode="after")
    def _is_sound(self) -> Self:
        colours = [layer.reader for layer in self.stack if layer.kind is LayerKind.COLOUR]
        if any(colours.count(reader) > MOST_COLOUR for reader in colours):
            raise ValueError(say("each reader of a stack has two colour layers at the most"))
        _differ(
            [layer.name.casefold() for layer in self.stack], say("two layers have the same name")
        )
        return self


def _differ(things: list[str] | list[int], otherwise: str) -> None:
    if len(set(things)) != len(things):
        raise ValueError(otherwise)
