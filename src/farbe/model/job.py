"""The job: all that is needed to print one order."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field, StringConstraints, model_validator

from farbe.model.base import Length, Margin, Name, Value
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.layer import Layer, Source
from farbe.model.piece import Piece, Reader
from farbe.model.placing import Placing
from farbe.model.printer import LayerKind, Printer
from farbe.model.receiver import Receiver

Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


class Intent(StrEnum):
    """Rendering intents of the ICC specification."""

    PERCEPTUAL = "perceptual"
    RELATIVE = "relative"
    SATURATION = "saturation"
    ABSOLUTE = "absolute"


class Conversion(Value):
    """How colour becomes ink. Without a profile of its own, the shipped one is used."""

    intent: Intent = Intent.RELATIVE
    black_point: bool = True
    profile: Digest | None = None


class ArtworkFile(Value):
    """A customer's file, known by what is in it, and its actual size in mm."""

    digest: Digest
    file_name: Name
    width: Length
    height: Length


class Job(Value):
    """One order. The stack is in physical order, from the substrate up.

    ``bed_turned`` says that the board is loaded turned by half a turn, for guide and artwork
    alike.
    """

    name: Name
    piece: Piece
    reader: Reader = Reader.FACE
    printer: Printer
    artwork: ArtworkFile | None = None
    placing: Placing = Placing()
    bleed: Annotated[Margin, Field(le=100)] = 0.0
    stack: tuple[Layer, ...]
    jig: Jig
    bed_turned: bool = False
    guide: Guide = Guide()
    cutting: Cutting = Cutting()
    receiver: Receiver
    conversion: Conversion = Conversion()

    @model_validator(mode="after")
    def _belongs_together(self) -> Job:
        colours = [layer for layer in self.stack if layer.kind is LayerKind.COLOUR]
        if len(colours) > 1:
            raise ValueError("a stack read from one side has one colour layer")
        for layer in self.stack:
            if (layer.source is Source.COLOURS) != (layer.kind is LayerKind.COLOUR):
                raise ValueError(f"the layer {layer.name} cannot come from {layer.source.value}")
        names = [layer.name.casefold() for layer in self.stack]
        if len(set(names)) != len(names):
            raise ValueError("two layers have the same name")
        wanted = self.guide.ink
        if wanted is not None and wanted not in {ink.name for ink in self.printer.inks}:
            raise ValueError(f"the printer has no ink named {self.guide.ink} for the guide")
        return self
