"""The job: all that is needed to print one order."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field, model_validator

from farbe.model.base import Digest, Margin, Name, Value
from farbe.model.edit import Gains
from farbe.model.jig import Cutting, Guide, Jig
from farbe.model.marks import Marks
from farbe.model.piece import Piece, Reader
from farbe.model.printer import Printer
from farbe.model.receiver import Receiver
from farbe.model.roll import Garment, Roll
from farbe.model.running import Prices, Running
from farbe.model.side import ArtworkFile, Back, Content, Print
from farbe.model.treatment import Holes, Share


class Intent(StrEnum):
    """Rendering intents of the ICC specification."""

    PERCEPTUAL = "perceptual"
    RELATIVE = "relative"
    SATURATION = "saturation"
    ABSOLUTE = "absolute"


class Conversion(Value):
    """How colour becomes ink. Without a profile of its own, the shipped one is used.

    ``intent`` is for photographs, ``flat_intent`` for flat graphics; ``flat`` says in percent how
    far the artwork is the latter, and both conversions are mixed by it. ``gains`` raise or lower
    each process ink before anything else. ``total`` is the largest sum of the process inks in
    percent, ``each`` that of each one.
    """

    intent: Intent = Intent.RELATIVE
    flat_intent: Intent = Intent.RELATIVE
    flat: Share = 0.0
    black_point: bool = True
    profile: Digest | None = None
    total: Annotated[float, Field(ge=100, le=400)] = 400.0
    each: tuple[Share, Share, Share, Share] = (100.0, 100.0, 100.0, 100.0)
    gains: Gains = Gains()


class Job(Print):
    """One order. The stack is in physical order, from the substrate up.

    Several artworks are laid over the pockets in their order. ``bed_turned`` says that the board
    is loaded turned by half a turn, for guide and artwork alike.

    A clear piece may have two readers: one looks at the ink, one through the piece. The job is
    told as one of them sees it; ``opposite`` is what the other one does, in the layers that are
    marked so. ``see_through`` are holes through all layers, which nothing else changes.

    On a ``roll`` every artwork is a piece of its own; what the jig says does not matter then.
    ``garments`` are what transfers are pressed onto.
    """

    name: Name
    piece: Piece
    reader: Reader = Reader.FACE
    printer: Printer
    bleed: Annotated[Margin, Field(le=100)] = 0.0
    jig: Jig
    back: Back | None = None
    opposite: Content | None = None
    see_through: Holes | None = None
    bed_turned: bool = False
    roll: Roll | None = None
    garments: Annotated[tuple[Garment, ...], Field(max_length=200)] = ()
    marks: Marks = Marks()
    guide: Guide = Guide()
    cutting: Cutting = Cutting()
    receiver: Receiver
    conversion: Conversion = Conversion()
    running: Running = Running()
    prices: Prices = Prices()

    @model_validator(mode="after")
    def _belongs_together(self) -> Job:
        if self.back is not None and self.reader is not Reader.FACE:
            raise ValueError("a piece printed on both sides is read from its faces")
        if self.opposite is not None:
            if self.back is not None:
                raise ValueError("a clear piece with two readers is printed on one side")
            if self.reader is Reader.TRANSFER:
                raise ValueError("a transfer has one reader")
        elif any(layer.opposite for layer in self.stack):
            raise ValueError("a layer for a second reader needs one")
        wanted = self.guide.ink
        if wanted is not None and wanted not in {ink.name for ink in self.printer.inks}:
            raise ValueError(f"the printer has no ink named {self.guide.ink} for the guide")
        return self

    @property
    def artwork(self) -> ArtworkFile | None:
        """The first artwork."""
        return self.artworks[0] if self.artworks else None
