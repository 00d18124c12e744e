"""Pieces that are printed on both sides."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Self

from pydantic import Field, model_validator

from farbe.model.base import Digest, Length, Name, Value
from farbe.model.correction import Correction
from farbe.model.edit import Crop, Edit
from farbe.model.layer import Layer
from farbe.model.placing import Placing, PocketChange
from farbe.model.printer import LayerKind
from farbe.model.text import Table, TextBox
from farbe.model.treatment import Share


class Turn(StrEnum):
    """How a thing on the bed is turned over, as the operator stands before it.

    Sideways: over its left or right edge, as a page is turned; what was left is right after. Over
    the near edge: what was near is far after.
    """

    SIDEWAYS = "sideways"
    ENDWAYS = "over the near edge"


class Turning(Value):
    """Each piece is turned over in its pocket, or the whole board with the pieces in it."""

    turn: Turn = Turn.SIDEWAYS
    board: bool = False


class PageBox(StrEnum):
    """Which of a PDF page's boxes is the artwork."""

    TRIM = "trim"
    CROP = "crop"
    MEDIA = "media"


class Meaning(StrEnum):
    """What a named plate of an artwork is for."""

    COLOUR = "colour"
    WHITE = "white"
    VARNISH = "varnish"
    INK = "named ink"
    CUT = "cut line"
    IGNORE = "nothing"


class PlateUse(Value):
    """A named plate's meaning; as colour it is printed in these percents of the process inks."""

    name: Name
    meaning: Meaning
    inks: tuple[Share, Share, Share, Share] = (0.0, 0.0, 0.0, 100.0)


class ArtworkFile(Value):
    """A customer's file, known by what is in it, and its actual size in mm.

    ``quantity`` is how many pockets it takes; None takes the rest. ``page`` and ``box`` are of
    a PDF; ``groups`` of an SVG are read as plates, besides those named after an ink.
    ``profile`` is taken instead of the embedded one. ``edits`` are made in their order when the
    file is read.
    """

    digest: Digest
    file_name: Name
    width: Length
    height: Length
    quantity: Annotated[int, Field(ge=0, le=1_000_000)] | None = None
    page: Annotated[int, Field(ge=1, le=100_000)] = 1
    box: PageBox = PageBox.TRIM
    plates: Annotated[tuple[PlateUse, ...], Field(max_length=60)] = ()
    groups: Annotated[tuple[Name, ...], Field(max_length=60)] = ()
    edits: Annotated[tuple[Edit, ...], Field(max_length=30)] = ()
    profile: Digest | None = None

    @property
    def cropped(self) -> tuple[float, float]:
        """Width and height in mm of what crops leave."""
        crops = [edit for edit in self.edits if isinstance(edit, Crop) and edit.on]
        wide = self.width - sum(crop.left + crop.right for crop in crops)
        high = self.height - sum(crop.top + crop.bottom for crop in crops)
        return max(wide, 1e-3), max(high, 1e-3)


class Content(Value):
    """What one reader sees: artworks and words, and how they lie."""

    artworks: tuple[ArtworkFile, ...] = ()
    placing: Placing = Placing()
    changes: tuple[PocketChange, ...] = ()
    texts: Annotated[tuple[TextBox, ...], Field(max_length=50)] = ()
    table: Table | None = None

    @model_validator(mode="after")
    def _is_clear(self) -> Self:
        _differ([art.digest for art in self.artworks], "an artwork is there twice")
        _differ([change.pocket for change in self.changes], "a pocket is changed twice")
        if sum(art.quantity is None for art in self.artworks) > 1:
            raise ValueError("only one artwork can take the rest of the pockets")
        return self


class Print(Content):
    """What is printed on one side of a piece."""

    stack: tuple[Layer, ...]
    correction: Correction | None = None

    @model_validator(mode="after")
    def _is_sound(self) -> Self:
        for opposite in (False, True):
            colours = [
                layer
                for layer in self.stack
                if layer.kind is LayerKind.COLOUR and layer.opposite is opposite
            ]
            if len(colours) > 1:
                raise ValueError("each reader of a stack has one colour layer")
        _differ([layer.name.casefold() for layer in self.stack], "two layers have the same name")
        return self


def _differ(things: list[str] | list[int], otherwise: str) -> None:
    if len(set(things)) != len(things):
        raise ValueError(otherwise)


class Back(Print):
    """The other side of a piece, and how it comes up."""

    turning: Turning = Turning()
